"""What a wheel still needs, as tasks of the day: its procedure's actions that are open, joined where nothing is waited for."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence

from inner_rim.core.procedure.actions import Action
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.schedule.day import Task

#: What only one wheel can use at a time, and at which stages: beads seat with the compressor's air, a
#: wheel is taped in the truing stand (common practice, no published source).
COMPRESSOR = "compressor"
RESOURCES = {COMPRESSOR: frozenset({"seat"}), "truing stand": frozenset({"tape"})}
#: The shortest task, minutes: finding the tools takes that long.
LEAST_MIN = 1


def tasks_of(
    actions: Iterable[Action], *, resources: Collection[str] = (), units: UnitChoice = METRIC
) -> tuple[Task, ...]:
    """Return the tasks of a wheel: runs of open actions; a wait, or another resource, ends one.

    Args:
        resources: those of `RESOURCES` that it needs for itself.
    """
    result: list[Task] = []
    run: list[Action] = []

    def close(wait: float = 0.0) -> None:
        if run:
            result.append(_task(run, wait, resources, units))
            run.clear()

    for action in actions:
        if run and _resource(run[0], resources) != _resource(action, resources):
            close()
        run.append(action)
        if action.wait_minutes > 0.0:
            close(action.wait_minutes)
    close()
    return tuple(result)


def _resource(action: Action, resources: Collection[str]) -> str:
    return next((name for name in resources if action.stage in RESOURCES.get(name, ())), "")


def _task(run: Sequence[Action], wait: float, resources: Collection[str], units: UnitChoice) -> Task:
    minutes = max(LEAST_MIN, round(sum(action.minutes for action in run)))
    first = run[0]
    return Task(first.text.read(units), minutes, round(wait), _resource(first, resources), first.stage, first.key)
