"""Riding pressure: methods, the bicycle, test rides, aftercare."""

from collections.abc import Mapping

from inner_rim.core.models.feedback import RIDE_WORDS, moved_kpa
from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.log import CareWord
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.choices.methods import method_lines
from inner_rim.work.text.lines import ListLine, LogChoice, head

CLAMPED_WORDS = {
    "limit": N_("at the limit"),
    "minimum": N_("raised to the tire's minimum"),
    "floor": N_("raised to the usual minimum"),
}


METHOD_WORDS = {"drop": N_("drop"), "previous": N_("worked before"), "range": N_("printed range")}


def set_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice, plans: Mapping[str, WheelPlan]) -> list[ListLine]:
    """Return the riding pressure by method, what a test ride may say, and the history."""
    pressure = plan.pressure
    result = [
        head(
            tr("Riding pressure by method"),
            tr("load {load} on this wheel").format(load=show(pressure.load_n, "n", units)),
        )
    ]
    result += method_lines(
        "practice.start_pressure", METHOD_WORDS, pressure.by_method, pressure.method, "kpa", units, tr("unknown")
    )
    result += _bicycle(state.wheel_id, plans, units)
    result += [*_ridden(state, plan, units), *care_lines(state, plan, units)]
    if pressure.clamped:
        words = tr(CLAMPED_WORDS[pressure.clamped])
        result.append(ListLine(words, tr("Clamped"), tone="caution", chip=tr("clamped")))
    result.append(
        ListLine(
            show(pressure.set_here_kpa, "kpa", units),
            tr("Set here"),
            note=tr("that is {ride} on the ride").format(ride=show(pressure.at_ride_kpa, "kpa", units)),
        )
    )
    return result


def _bicycle(mine: str, plans: Mapping[str, WheelPlan], units: UnitChoice) -> list[ListLine]:
    """The riding pressure and the load of each wheel of the bicycle."""
    if len(plans) < 2:
        return []
    result = [head(tr("The bicycle"), tr("riding pressure and load of each wheel"))]
    for wheel_id, plan in plans.items():
        result.append(
            ListLine(
                plan.name,
                show(plan.pressure.start_kpa, "kpa", units),
                note=tr("load {load} · never above {limit}").format(
                    load=show(plan.pressure.load_n, "n", units), limit=show(plan.pressure.limit_kpa, "kpa", units)
                ),
                chip=tr("this one") if wheel_id == mine else "",
            )
        )
    return result


def _ridden(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    """What a test ride may say, and where it would put the pressure; the history of the wheel."""
    progress = state.progress
    if progress is None:
        return []
    now = progress.feedback_kpa or progress.ride_kpa or plan.pressure.start_kpa
    step = plan.pressure.gauge_step_kpa
    result = [head(tr("After a test ride"), tr("ridden at {now}; Enter logs it").format(now=show(now, "kpa", units)))]
    for said, words in RIDE_WORDS.items():
        then = moved_kpa(now, said, plan.pressure, step)
        result.append(
            ListLine(
                tr(words),
                note=tr("stays") if then == now else tr("then {then}").format(then=show(then, "kpa", units)),
                key=LogChoice("ride", said),
            )
        )
    past = pressure_history(plan)
    if past:
        result.append(head(tr("What this wheel was ridden at")))
        result += [
            ListLine(show(kpa, "kpa", units), in_words(local(moment(at)), "%d %b"), note=tr(words))
            for at, kpa, words in past
        ]
    return result


CARE_WORDS: dict[CareWord, str] = {
    "refilled": N_("Sealant topped up…"),
    "retaped": N_("Retaped"),
    "tire_changed": N_("Another tire"),
    "insert_changed": N_("Another insert"),
    "checked": N_("Inspected: all good"),
}


def care_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    assert state.wheel is not None
    due = due_care(state.wheel, plan)
    result = [head(tr("Aftercare"), tr("Enter logs it; the dates follow"))]
    result += [ListLine(care.words.read(units), in_words(care.day, "%d %b %Y")) for care in due]
    result += [ListLine(tr(words), key=LogChoice("care", what)) for what, words in CARE_WORDS.items()]
    return result


def pressure_history(plan: WheelPlan) -> list[tuple[str, float, str]]:
    """Return (when, kPa, why) of every pressure a wheel was handed over or ridden at, newest first."""
    words = {"": N_("handed over"), **RIDE_WORDS}
    return [(at, kpa, words[said]) for at, kpa, said in reversed(plan.log.since.pressures)]
