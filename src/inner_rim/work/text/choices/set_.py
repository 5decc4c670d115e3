"""Setting the pressure: methods, the bicycle, test rides, aftercare."""

from inner_rim.core.models.feedback import RIDE_WORDS, moved_kpa
from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.log import CareWord
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.choices.methods import method_lines
from inner_rim.work.text.lines import Line, head

CLAMPED_WORDS = {
    "limit": tr("held at the limit"),
    "minimum": tr("raised to the tire's minimum"),
    "floor": tr("raised to the usual minimum"),
}


METHOD_WORDS = {"drop": "drop", "previous": "worked before", "range": "printed range"}


def set_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """Return the starting pressure by method, what a test ride may say, and the history."""
    pressure = plan.pressure
    found = [
        head(
            tr("Starting pressure by method"),
            tr("load {load} on this wheel").format(load=show(pressure.load_n, "n", units)),
        )
    ]
    found += method_lines(
        "practice.start_pressure",
        METHOD_WORDS,
        pressure.by_method,
        pressure.method,
        "kpa",
        units,
        tr("unknown"),
    )
    found += _bicycle(state, units)
    found += [*_ridden(state, plan, units), *care_lines(state, plan, units)]
    if pressure.clamped:
        words = CLAMPED_WORDS[pressure.clamped]
        found.append(Line(words, tr("Clamped"), tone="caution", chip=tr("clamped")))
    found.append(
        Line(
            show(pressure.set_here_kpa, "kpa", units),
            tr("Set here"),
            note=tr("that is {ride} on the ride").format(ride=show(pressure.at_ride_kpa, "kpa", units)),
        )
    )
    return found


def _bicycle(state: WheelState, units: UnitChoice) -> list[Line]:
    """Front and rear side by side: start, load, and what to set here, of every wheel of the job."""
    order = [str(wheel.get("wheel_id")) for wheel in state.job.draft.document["wheels"]]
    known = state.job.last_plans
    plans = [(wheel_id, known[wheel_id]) for wheel_id in order if wheel_id in known]
    if len(plans) < 2:
        return []
    found = [head(tr("The bicycle"), tr("start and load of each wheel"))]
    for wheel_id, last in plans:
        plan = last.plan
        found.append(
            Line(
                plan.name,
                show(plan.pressure.start_kpa, "kpa", units),
                note=tr("load {load} · never above {limit}").format(
                    load=show(plan.pressure.load_n, "n", units),
                    limit=show(plan.pressure.limit_kpa, "kpa", units),
                ),
                chip=tr("this one") if wheel_id == state.wheel_id else "",
            )
        )
    return found


def _ridden(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """What a test ride may say, and where it would put the pressure; the history of the wheel."""
    progress = state.progress
    if progress is None:
        return []
    now = progress.feedback_kpa or progress.ride_kpa or plan.pressure.start_kpa
    step = plan.pressure.gauge_step_kpa
    found = [
        head(
            tr("After a test ride"),
            tr("ridden at {now}; Enter logs it").format(now=show(now, "kpa", units)),
        )
    ]
    for said, words in RIDE_WORDS.items():
        then = moved_kpa(now, said, plan.pressure, step)
        found.append(
            Line(
                tr(words),
                note=tr("stays") if then == now else tr("then {then}").format(then=show(then, "kpa", units)),
                key=f"ride={said}",
            )
        )
    past = pressure_history(plan)
    if past:
        found.append(head(tr("What this wheel was ridden at")))
        found += [
            Line(show(kpa, "kpa", units), in_words(local(moment(at)), "%d %b"), note=tr(words))
            for at, kpa, words in past
        ]
    return found


CARE_WORDS: dict[CareWord, str] = {
    "refilled": "Sealant topped up…",
    "retaped": "Retaped",
    "tire_changed": "Another tire",
    "insert_changed": "Another insert",
    "checked": "Inspected, all well",
}


def care_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    assert state.wheel is not None
    due = due_care(state.wheel, plan)
    found = [head(tr("Aftercare"), tr("Enter logs it; the dates follow"))]
    found += [Line(care.words.read(units), f"{care.day:%d %b %Y}") for care in due]
    found += [Line(tr(words), key=f"care={what}") for what, words in CARE_WORDS.items()]
    return found


def pressure_history(plan: WheelPlan) -> list[tuple[str, float, str]]:
    """Return (when, kPa, why) of every pressure a wheel was handed over or ridden at, newest first."""
    words = {"": "handed over", **RIDE_WORDS}
    return [(at, kpa, words[said]) for at, kpa, said in reversed(plan.log.since.pressures)]
