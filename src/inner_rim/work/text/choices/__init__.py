"""The options at a stage, side by side, each with its reason: lines for the Options view."""

from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.units import UnitChoice
from inner_rim.store.rows import StoredVisit
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, planned
from inner_rim.work.text.choices.air import (
    hold_lines,
    sealant_lines,
    seat_lines,
    set_lines,
    suggested_lines,
)
from inner_rim.work.text.choices.parts import (
    compatibility_lines,
    insert_lines,
    mount_lines,
    strip_lines,
    tape_lines,
    valve_lines,
    visit_lines,
)
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
    if not isinstance(state, PlannedWheel):
        return (head(tr("Type rim and tire first")),)
    if stage == "seat" or (state.progress.seats_next and stage == state.progress.stage):
        return (*suggested_lines(state, units), *seat_lines(state, units))
    if stage == "check_in":
        return (*visit_lines(visits, units), *compatibility_lines(state, units))
    plans = {one.wheel_id: one.plan for one in planned((state, *others))}
    if stage == "mount":
        return tuple(mount_lines(state.plan, units, tuple(plans.values())))
    if stage == "set":
        return tuple(set_lines(state, units, plans))
    return tuple(_BY_STAGE.get(stage, compatibility_lines)(state, units))


_BY_STAGE = {
    "strip": strip_lines,
    "tape": tape_lines,
    "valve": valve_lines,
    "insert": insert_lines,
    "sealant": sealant_lines,
    "hold": hold_lines,
}
