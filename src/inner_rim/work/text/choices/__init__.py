"""The options at a stage, side by side, each with its reason: lines for the Options view, one file per stage."""

from inner_rim.core.record.stages import Stage
from inner_rim.core.record.units import UnitChoice
from inner_rim.store.rows import StoredVisit
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.choices.check_in import compatibility_lines, visit_lines
from inner_rim.work.text.choices.hold import hold_lines
from inner_rim.work.text.choices.insert import insert_lines
from inner_rim.work.text.choices.mount import mount_lines
from inner_rim.work.text.choices.sealant import sealant_lines
from inner_rim.work.text.choices.seat import seat_lines, suggested_lines
from inner_rim.work.text.choices.set_ import set_lines
from inner_rim.work.text.choices.tape import tape_lines
from inner_rim.work.text.choices.valve import valve_lines
from inner_rim.work.text.lines import ListLine, head


def choices_of(
    state: BenchWheel,
    stage: Stage,
    units: UnitChoice,
    visits: tuple[StoredVisit, ...] = (),
    others: tuple[BenchWheel, ...] = (),
) -> tuple[ListLine, ...]:
    """Return the options at a stage of this wheel.

    Args:
        visits: of this wheel, in all its jobs.
        others: the other wheels of its bicycle.
    """
    plan = state.plan
    if plan is None:
        return (head(tr("Type rim and tire first")),)
    progress = state.progress
    if stage == "seat" or (progress is not None and progress.seats_next and stage == progress.stage):
        return (*suggested_lines(state, plan, units), *seat_lines(state, plan, units))
    if stage == "check_in":
        return (*visit_lines(visits, units), *compatibility_lines(state, plan, units))
    plans = {one.wheel_id: one.plan for one in (state, *others) if one.plan is not None}
    if stage == "mount":
        return tuple(mount_lines(plan, units, tuple(plans.values())))
    if stage == "set":
        return tuple(set_lines(state, plan, units, plans))
    made = _BY_STAGE.get(stage)
    return tuple(made(state, plan, units)) if made else tuple(compatibility_lines(state, plan, units))


_BY_STAGE = {
    "tape": tape_lines,
    "valve": valve_lines,
    "insert": insert_lines,
    "sealant": sealant_lines,
    "hold": hold_lines,
}
