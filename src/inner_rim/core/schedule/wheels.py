"""What a wheel still needs, as tasks of the day: its procedure's actions that are open, joined where nothing is waited for."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from inner_rim.core.procedure.actions import Action
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.schedule.day import Task

#: Of what there is one in most shops: an action at these stages with this source of air needs it for itself.
COMPRESSOR = "compressor"
AIR_STAGES = frozenset({"seat"})
#: No task is shorter, minutes: hands find their tools.
LEAST_MIN = 1


def tasks_of(
    actions: Iterable[Action], done: frozenset[str], *, compressor: bool, units: UnitChoice = METRIC
) -> tuple[Task, ...]:
    """Return the tasks of a wheel: runs of open actions; a wait, or another resource, ends one.

    Args:
        actions: of its procedure, in order.
        done: keys of those that are behind.
        compressor: whether its beads come up with the compressor.
        units: what figures in the words are shown in.
    """
    found: list[Task] = []
    run: list[Action] = []

    def close(wait: float = 0.0) -> None:
        if run:
            found.append(_task(run, wait, compressor, units))
            run.clear()

    for action in actions:
        if action.key in done:
            continue
        if run and _resource(run[0], compressor) != _resource(action, compressor):
            close()
        run.append(action)
        if action.wait_minutes > 0.0:
            close(action.wait_minutes)
    close()
    return tuple(found)


def _resource(action: Action, compressor: bool) -> str:
    return COMPRESSOR if compressor and action.stage in AIR_STAGES else ""


def _task(run: Sequence[Action], wait: float, compressor: bool, units: UnitChoice) -> Task:
    minutes = max(LEAST_MIN, round(sum(action.minutes for action in run)))
    first = run[0]
    return Task(first.text.read(units), minutes, round(wait), _resource(first, compressor), first.stage)
