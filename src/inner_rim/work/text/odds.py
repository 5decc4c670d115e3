"""Odds as a mechanic says them, and what they say of the next try."""

from inner_rim.core.plan.advisor import STEP_MINUTES, Suggestion, next_step_odds, stands_at_pressure, suggestions
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import REMEDY_ACTIONS
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.step_names import step_name

#: What is said of a probability, each up to the figure before it.
_WORDS = (
    (0.07, N_("hardly ever")),
    (0.15, N_("in one of ten cases")),
    (0.22, N_("in one of five cases")),
    (0.29, N_("in one of four cases")),
    (0.41, N_("in one of three cases")),
    (0.58, N_("in one of two cases")),
    (0.70, N_("in two of three cases")),
    (0.77, N_("in three of four cases")),
    (0.85, N_("in four of five cases")),
    (0.95, N_("in nine of ten cases")),
    (1.01, N_("nearly always")),
)


def odds_words(probability: float) -> str:
    """Return a probability as a mechanic says it.

    >>> odds_words(0.5), odds_words(0.66)
    ('in one of two cases', 'in two of three cases')
    """
    return tr(next(words for most, words in _WORDS if probability < most))


def suggested(state: PlannedWheel) -> tuple[Suggestion, ...]:
    """Return what to change before the next try at a wheel, best first."""
    plan = state.plan
    seating, wheel, methods = plan.log.seating, plan.log.state, plan.methods
    core_out = wheel.core == "out" or methods.core_out
    wet = wheel.wet == "yes" and bool(seating.tries)
    return suggestions(plan, seating.tries, methods.air_source, core_out, wet, state.shop_counts)


def seating_figure(plan: WheelPlan, units: UnitChoice) -> str:
    """Return by which step the beads are likely seated, before the climb; else how likely they are by the last."""
    ladder = plan.pressure.seating_kpa
    by = plan.seats.likely_by(ladder)
    if by is not None:
        return tr("likely by {kpa}").format(kpa=show(by, "kpa", units))
    percent = 100.0 * plan.seats.by(ladder[-1])
    return tr("{percent:.0f} % by {kpa}").format(kpa=show(ladder[-1], "kpa", units), percent=percent)


def seating_words(state: PlannedWheel) -> tuple[str, ...]:
    """Return how likely the next step seats a tire that stands at pressure, and how likely the best change does."""
    plan = state.plan
    log = plan.log
    best, odds = next(iter(suggested(state)), None), next_step_odds(plan)
    if not stands_at_pressure(plan, log.seating.tries) or log.state.changed or best is None or odds is None:
        return ()
    said = {"odds": odds_words(odds), "change": change_name(best.remedy), "others": odds_words(best.probability)}
    if best.probability / best.minutes > odds / STEP_MINUTES:
        return (tr("{change} first: {others}. Next step seats it: {odds}.").format(**said),)
    return (tr("Next step seats it: {odds}. {change}: {others}.").format(**said),)


def change_name(remedy: Remedy) -> str:
    """Return what is changed in two or three words."""
    if remedy in REMEDY_ACTIONS:
        return step_name(REMEDY_ACTIONS[remedy])
    return tr(_OF_THEIR_OWN[remedy])


#: Changes that are work of their own.
_OF_THEIR_OWN: dict[str, str] = {"layer": N_("Layer of tape"), "tube_first": N_("Seat with a tube")}


def suggestion_words(one: Suggestion) -> str:
    return tr("{change}: {percent:.0f} %").format(change=change_name(one.remedy), percent=100.0 * one.probability)
