"""A wheel comes back: what a new job on it starts from (docs/job.md 1.5)."""

from inner_rim.core.models.inflation import SOURCE_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.fold_state import LogSummary
from inner_rim.core.procedure.setup import NEW_TIRE
from inner_rim.core.record.moments import local, moment
from inner_rim.core.record.paths import JsonObject


def coming_back(wheel: JsonObject, plan: WheelPlan) -> JsonObject:
    """Return the wheel of a new job: its parts, the age of its tape, its sealant, the insert's
    life, what worked.

    Args:
        wheel: as plain data, of the job that was finished last; it keeps its identity.
    """
    log = plan.log
    result = {
        name: dict(value) if isinstance(value, dict) else value for name, value in wheel.items()
    }
    result.pop("waits", None)
    result["work"] = _work(result.get("work") or {}, plan)
    result["tire"] = {**result["tire"], "new": False}
    plugs = result["tire"].get("plugs", 0) + log.plugs
    if plugs:
        result["tire"]["plugs"] = plugs
    state = log.state
    valve = (
        (wheel.get("arrival") or {}).get("valve_mm")
        if plan.setup.keeps_valve
        else plan.valve.length_mm
    )
    result["arrival"] = {"tube": state.tube == "in", "insert": state.insert == "on"}
    if state.valve == "in" and valve:
        result["arrival"]["valve_mm"] = valve
    if state.valve != "tube":
        result["arrival"]["valve"] = _valve(plan) if state.valve == "in" else "none"
    if log.weighed_g:
        result["arrival"]["weighed_g"] = log.weighed_g.get("after") or log.weighed_g["before"]
    if state.tape != "not_needed":
        result["arrival"]["taped"] = taped = state.tape in ("laid", "sound", "old")
        kind = plan.tape.material if plan.setup.lays_tape else plan.setup.arrival.tape_kind
        if taped and kind:
            result["arrival"]["tape_kind"] = kind
    sealant = _sealant(log)
    if sealant:
        result["sealant"] = sealant
    else:
        result.pop("sealant", None)
    ridden_on = state.insert == "on" and plan.setup.kind in NEW_TIRE
    if isinstance(result.get("insert"), dict) and ridden_on:
        result["insert"]["tires_used"] = result["insert"].get("tires_used", 0) + 1
    if log.layers_added:  # what the fit needed, it needs again
        result["practice"] = {**(result.get("practice") or {}), "layers": plan.tape.layers}
    worked = log.since.worked_kpa
    if worked:
        result["previous_pressure_kpa"] = worked
        result["previous_width_mm"] = round(plan.tire.mounted_width_mm, 1)
    return result


def _work(before: JsonObject, plan: WheelPlan) -> JsonObject:
    """The work of the new visit, with the tape's age, where the wheel leaked, and what seated its
    beads.

    Its kind is asked when the wheel is checked in.
    """
    setup = plan.setup
    work: JsonObject = {"rode_before": True}
    leaked = plan.log.leak if plan.log.leak not in ("", "none") else before.get("leak")
    if leaked and leaked != "unknown":
        work["leaked"] = leaked
    if before.get("insert_later") and plan.log.state.insert == "off":  # it still is to go in
        work["insert_later"] = True
    if setup.does != "back_to_tube" and (
        seated := _seated_with(plan.log) or before.get("seated_with")
    ):
        work["seated_with"] = seated
    if setup.sealed:
        return work
    changes = 0 if setup.lays_tape else before.get("tape_changes", 0)
    work["tape_changes"] = changes + (1 if setup.kind in NEW_TIRE and not setup.lays_tape else 0)
    laid = _day(plan.log.since.laid_at) if setup.lays_tape else before.get("tape_laid")
    return {**work, "tape_laid": laid} if laid else work


def _valve(plan: WheelPlan) -> str:
    """The kind of the valve that is in: the one that stayed, or the one that this work needed."""
    setup = plan.setup
    if setup.keeps_valve or not setup.tire_goes_on:
        return setup.arrival.valve if setup.arrival.valve != "none" else "plain"
    return "ported" if setup.ports and setup.insert in ("unported", "unread") else "plain"


def _seated_with(log: LogSummary) -> list[str]:
    """The source of the try that seated the beads, and all that had been changed until then."""
    tries = log.seating.tries
    if not tries or log.seated_kpa is None:
        return []
    changed = [remedy for one in tries for remedy in one.changed if remedy != "bigger_source"]
    changed += ["tube_first"] if any(one.tube for one in tries) else []
    core = ["core_out"] if any(one.core_out for one in tries) else []
    source = [tries[-1].source] if tries[-1].source in SOURCE_WORDS else []
    return list(dict.fromkeys([*source, *core, *changed]))


def _sealant(log: LogSummary) -> JsonObject:
    """What is in the tire: how much, of which kind, since when; what is not known is left out."""
    known = {"in_ml": log.sealant_ml, "name": log.sealant, "in_since": _day(log.since.sealant_at)}
    return {name: value for name, value in known.items() if value}


def _day(at: str) -> str | None:
    return local(moment(at)).date().isoformat() if at else None
