"""Mounting: the slack of the last bead, by what lies in the well."""

from collections.abc import Sequence

from inner_rim.core.models.mounting import ADVICE, GRADE_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.text.lines import ListLine, head


def mount_lines(plan: WheelPlan, units: UnitChoice, plans: Sequence[WheelPlan]) -> list[ListLine]:
    """Return the slack by what lies in the well, and the weights; `plans` are those of the whole bicycle."""
    return [*_slack(plan, units), *_weights(plan, plans)]


def _slack(plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    mounting = plan.mounting
    side = mounting.last_side
    return [
        head(tr("Slack of the last bead"), tr(ADVICE[mounting.grade])),
        ListLine(
            show(mounting.slack_mm, "mm", units),
            tr("In the well"),
            chip=tr(GRADE_WORDS[mounting.grade]),
            tone="stop" if mounting.grade == "will_not_go" else "calm",
        ),
        ListLine(
            show(mounting.slack_off_well_mm, "mm", units), tr("On the shelf"), note=tr("why it must lie in the well")
        ),
        ListLine(
            show(mounting.slack_mm - mounting.finish_at_valve_gain_mm, "mm", units),
            tr("Opposite"),
            note=tr("finishing opposite the valve: its base holds the bead up"),
        ),
        head(tr("Which side")),
        ListLine(
            tr("Shoulders are equal: either side last")
            if side is None
            else tr("The {side} shoulder is narrower: that side goes on last and is broken first").format(side=tr(side))
        ),
    ]


def _weights(plan: WheelPlan, plans: Sequence[WheelPlan]) -> list[ListLine]:
    result = [head(tr("Weights"))]
    result += [ListLine(f"{grams:+.0f} g", tr(name)) for name, grams in plan.weights.parts_g.items()]
    change = plan.weights.added_g - plan.weights.removed_g
    result.append(ListLine(f"{change:+.0f} g", tr("In all"), note=tr("against a tube of the usual weight")))
    weighed = {"before": tr("Weighed before"), "after": tr("Weighed after")}
    result += [ListLine(f"{grams:.0f} g", weighed[when]) for when, grams in plan.log.weighed_g.items()]
    if len(plans) > 1:
        whole = sum(one.weights.added_g - one.weights.removed_g for one in plans)
        result.append(ListLine(f"{whole:+.0f} g", tr("Bicycle"), note=tr("{n} wheels").format(n=len(plans))))
    return result
