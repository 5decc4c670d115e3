"""Insert: whether it fits, and what it changes."""

from inner_rim.core.models.insert import VERDICT_WORDS as INSERT_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.lines import Line, Tone, head

_INSERT_TONES: dict[str, Tone] = {"fits": "calm", "remarks": "caution", "does_not_fit": "stop"}


EFFECT_WORDS = {"air_ml": "Air", "slack_mm": "Slack", "dose_ml": "Dose", "start_kpa": "Start"}


def insert_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    insert = plan.insert
    if insert is None:
        return [
            head(tr("No insert")),
            Line(tr("Type the name of one at the left to see what it changes"), tone="muted"),
        ]
    tone = _INSERT_TONES[insert.verdict]
    found = [
        head(tr("Does it fit?")),
        Line(tr(INSERT_WORDS[insert.verdict]), chip=tr(insert.verdict.replace("_", " ")), tone=tone),
    ]
    found += [Line(reason.read(units), tone="muted") for reason in insert.reasons]
    found.append(head(tr("What it changes"), tr("without it → with it")))
    for name, (before, after) in insert.effects.items():
        kind = name.rpartition("_")[2]
        found.append(
            Line(
                f"{show(before, kind, units)}  →  {show(after, kind, units)}",
                tr(EFFECT_WORDS[name]),
            )
        )
    return found
