"""Seating: what to change next, what seats the beads."""

from inner_rim.core.models.inflation import GAP_MM, SOURCE_WORDS
from inner_rim.core.plan.advisor import (
    REMEDY_WORDS,
    STEP_MINUTES,
    Suggestion,
    gap_seen,
    judged_gap_mm,
    next_step_odds,
    stands_at_pressure,
)
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.units import UnitChoice
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.lines import ListLine, LogChoice, head
from inner_rim.work.text.odds import odds_words, suggested


def seat_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    """Return which source seats the beads, and what the tries say of the gap."""
    coming = plan.coming_up
    result = [head(tr("What seats the beads"), tr("{gap} bead").format(gap=tr(coming.gap)))]
    for source in coming.sources:
        result.append(
            ListLine(
                tr("{percent:.0f} %").format(percent=100.0 * source.probability),
                tr(SOURCE_WORDS[source.source]),
                note=tr("core out") if source.core_out else tr("core in"),
                chip=tr(source.words),
                tone="calm" if source.words == "likely" else "caution",
                share=source.probability,
            )
        )
    seen = gap_seen(plan, state.progress.seating.tries if state.progress else ())
    if seen.above_mm is not None or seen.below_mm is not None:
        gap = judged_gap_mm(coming, seen)
        result.append(
            ListLine(
                tr("{times:.1f} times the usual").format(times=gap / GAP_MM[coming.gap]),
                tr("Gap"),
                note=tr("under the bead, as the tries on this wheel show it"),
            )
        )
    return result


def suggested_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    """What to change next, best first; taking a line plans it before the next try."""
    chosen = sorted(plan.log.state.wanted | plan.log.state.changed)
    result = [head(tr("What to change next"), tr("most likely for its minutes first; Enter plans it"))]
    result += [
        ListLine(tr(REMEDY_WORDS[remedy]), chip=tr("chosen"), tone="calm", key=LogChoice("change", remedy))
        for remedy in chosen
    ]
    odds, ranked = next_step_odds(plan), suggested(state, plan)
    step = None
    if odds is not None and stands_at_pressure(plan, plan.log.seating.tries):
        step = ListLine(tr("Next pressure step"), note=tr("seats it {odds}").format(odds=odds_words(odds)))
    for suggestion in ranked:
        if suggestion.remedy in chosen:
            continue
        if step is not None and suggestion.probability / suggestion.minutes <= (odds or 0.0) / STEP_MINUTES:
            result.append(step)
            step = None
        result.append(_suggestion_line(suggestion, units))
    return result if step is None else [*result, step]


def _suggestion_line(suggestion: Suggestion, units: UnitChoice) -> ListLine:
    note = tr("{odds}: {reason}").format(odds=odds_words(suggestion.probability), reason=suggestion.why.read(units))
    if suggestion.counted:
        note += tr(" · here it worked {n} of {all} times").format(n=suggestion.worked, all=suggestion.counted)
    return ListLine(
        suggestion.text.read(units),
        note=note,
        chip=tr("tried") if suggestion.tried else "",
        tone="caution" if suggestion.tried else "calm",
        key=LogChoice("change", suggestion.remedy),
    )
