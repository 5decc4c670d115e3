"""A wheel comes back: what a new job on it starts from (docs/job.md 1.5)."""

from collections.abc import Callable, Sequence

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.replay import Physical
from inner_rim.core.procedure.setup import NEW_TIRE
from inner_rim.core.record.log import Care, Dose, Feedback, Logged, SignOff, StepEntry
from inner_rim.core.record.moments import local, moment
from inner_rim.core.record.plain import JsonObject


def coming_back(wheel: JsonObject, plan: WheelPlan, physical: Physical, log: Sequence[Logged]) -> JsonObject:
    """Return the wheel of a new job: its parts, the age of its tape, its sealant, the insert's life, what worked.

    Args:
        wheel: as plain data, of the job that was finished last; it keeps its identity.
        plan: of that job.
        physical: the state it was handed over in.
        log: of that job, oldest first.
    """
    found = {name: dict(value) if isinstance(value, dict) else value for name, value in wheel.items()}
    found["work"] = _work(found.get("work") or {}, plan, log)
    found["tire"] = {**found["tire"], "new": False}
    sealant = _sealant(physical, log)
    if sealant:
        found["sealant"] = sealant
    else:
        found.pop("sealant", None)
    if isinstance(found.get("insert"), dict) and plan.setup.kind in NEW_TIRE:
        found["insert"]["tires_used"] = found["insert"].get("tires_used", 0) + 1
    worked = _pressure(log)
    if worked:
        found["previous_pressure_kpa"] = worked
        found["previous_width_mm"] = round(plan.tire.mounted_width_mm, 1)
    return found


def _work(before: JsonObject, plan: WheelPlan, log: Sequence[Logged]) -> JsonObject:
    """The work of the new visit, with the tape's age; its kind is asked when the wheel is checked in."""
    setup = plan.setup
    work: JsonObject = {"rode_before": True}
    if setup.sealed:
        return work
    changes = 0 if setup.lays_tape else before.get("tape_changes", 0)
    work["tape_changes"] = changes + (1 if setup.kind in NEW_TIRE and not setup.lays_tape else 0)
    laid = _day(log, _laid_tape) if setup.lays_tape else before.get("tape_laid")
    return {**work, "tape_laid": laid} if laid else work


def _sealant(physical: Physical, log: Sequence[Logged]) -> JsonObject:
    """What is in the tire: how much, of which kind, since when; what is not known is left out."""
    known = {
        "in_ml": physical.sealant_ml,
        "name": physical.sealant,
        "in_since": _day(log, lambda entry: isinstance(entry, Dose)),
    }
    return {name: value for name, value in known.items() if value}


def _laid_tape(entry: object) -> bool:
    taped = isinstance(entry, StepEntry) and entry.stage == "tape" and entry.outcome == "done"
    return taped or (isinstance(entry, Care) and entry.what == "retaped")


def _day(log: Sequence[Logged], wanted: Callable[[object], bool]) -> str | None:
    """The local day of the last entry of a kind."""
    at = next((item.at for item in reversed(log) if wanted(item.entry)), None)
    return local(moment(at)).date().isoformat() if at is not None else None


def _pressure(log: Sequence[Logged]) -> float | None:
    """The pressure that worked: where the last test ride put it, else what was handed over."""
    for item in reversed(log):
        if isinstance(item.entry, Feedback):
            return item.entry.next_kpa or None
        if isinstance(item.entry, SignOff):
            return item.entry.ride_kpa or item.entry.pressure_kpa or None
    return None
