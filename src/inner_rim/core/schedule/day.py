"""The day as data: wheels with their tasks, hands, hours, resources; and a schedule with what it
costs.

Times are whole minutes after `Day.start` on the shop's own clock. A task is consecutive hands-on
work without a wait in between; the wait after it runs day and night.
"""

import itertools
from collections.abc import Collection, Iterable, Sequence
from datetime import datetime, timedelta
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from inner_rim.core.procedure.actions import Action
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.schedule.hours import Hours

FORMAT: Literal["inner-rim/day"] = "inner-rim/day"
VERSION: Literal[1] = 1
#: What a minute late costs against a minute of completion; beyond a day of lateness it counts
#: twice.
LATE_WEIGHT, VERY_LATE_MIN = 50, 24 * 60
#: Cost in minutes of a task that starts at another time than in the plan before.
MOVED_MIN = 3
#: How many wheels at most are compared with the best possible schedule; for more, a good one is
#: looked for.
MAX_SOLVED = 60

Minutes = Annotated[int, Meta(ge=0, le=100_000, description="whole minutes")]
Name = Annotated[str, Meta(min_length=1, max_length=200, description="a name")]


class _DayStruct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Base of the document's structs: read strictly, defaults omitted."""


class Task(_DayStruct, frozen=True):
    """Hands-on work without a wait in between.

    Attributes:
        wait_minutes: after it, before the wheel's next task; runs day and night.
    """

    words: Annotated[str, Meta(max_length=500)]
    minutes: Annotated[int, Meta(ge=1, le=1440, description="whole minutes of hands-on work")]
    wait_minutes: Minutes = 0
    resource: Annotated[str, Meta(max_length=80)] = ""
    stage: str = ""
    action: str = ""


class Pin(_DayStruct, frozen=True):
    """A task that stays where a person put it: its place among the wheel's tasks, when, and with
    whom.
    """

    task: Annotated[int, Meta(ge=0, le=200)]
    at: datetime
    mechanic: Annotated[int, Meta(ge=0, le=100)] = 0


class DayWheel(_DayStruct, frozen=True):
    """A wheel in the day.

    Attributes:
        tasks: what is still to be done, in order.
        due: when it is wanted, None for no time.
        ready: not before, as where something is drying now; None for at once.
        pins: tasks that stay where they were put.
    """

    name: Name
    tasks: Annotated[tuple[Task, ...], Meta(max_length=200)]
    due: datetime | None = None
    ready: datetime | None = None
    pins: tuple[Pin, ...] = ()
    key: str = ""


class Mechanic(_DayStruct, frozen=True):
    """A mechanic; without hours of their own the shop's apply."""

    name: Name
    hours: Hours | None = None


class Day(_DayStruct, frozen=True):
    """The input of a schedule.

    Attributes:
        hours: when the shop is open.
    """

    start: datetime
    wheels: Annotated[tuple[DayWheel, ...], Meta(max_length=200)]
    mechanics: Annotated[tuple[Mechanic, ...], Meta(min_length=1, max_length=20)] = (
        Mechanic("mechanic"),
    )
    hours: Hours = Hours()
    format: Literal["inner-rim/day"] = FORMAT
    version: Literal[1] = VERSION

    def minute(self, at: datetime) -> int:
        """Return a time as minutes after the start, rounded up."""
        return -int(-(at - self.start).total_seconds() // 60)

    def at(self, minute: int) -> datetime:
        return self.start + timedelta(minutes=minute)

    def hours_of(self, mechanic: int) -> Hours:
        own = self.mechanics[mechanic].hours
        return own if own is not None else self.hours


class Placed(_DayStruct, frozen=True):
    """A task in its place: the wheel, which of its tasks, the mechanic, from when to when."""

    wheel: int
    task: int
    mechanic: int
    start: int
    end: int


def pinned(day: Day) -> dict[tuple[int, int], Placed]:
    """Return the tasks that stay where they were put, by (wheel, task); a mechanic who is not there
    is the last one.
    """
    result = {}
    for w, wheel in enumerate(day.wheels):
        for pin in wheel.pins:
            if pin.task < len(wheel.tasks):
                start, mechanic = day.minute(pin.at), min(pin.mechanic, len(day.mechanics) - 1)
                end = start + wheel.tasks[pin.task].minutes
                result[w, pin.task] = Placed(w, pin.task, mechanic, start, end)
    return result


class Schedule(_DayStruct, frozen=True):
    """Who does what when.

    Attributes:
        placed: every task, in the order of time.
        done: when each wheel is ready, its last wait included.
        bound: no schedule costs less; None where that is not known.
    """

    placed: tuple[Placed, ...]
    done: tuple[int, ...]
    cost: int
    bound: int | None = None

    @property
    def gap(self) -> float | None:
        """An upper bound on how much more it costs than the best schedule, as a share; None where
        unknown.
        """
        if self.bound is None:
            return None
        return (self.cost - self.bound) / self.cost if self.cost > 0 else 0.0


def lateness(day: Day, wheel: int, done: int) -> int:
    """Return by how many minutes a wheel is late, 0 where it is not or has no time."""
    due = day.wheels[wheel].due
    return max(0, done - day.minute(due)) if due is not None else 0


def cost_of(
    day: Day, placed: tuple[Placed, ...], done: tuple[int, ...], before: Schedule | None = None
) -> int:
    """Return what a schedule costs, in minutes.

    cost = 50 * (late + late beyond a day) + completion, summed over wheels, + 3 for each task
    moved.

    Args:
        before: the plan before, whose starts are kept where that costs nothing.
    """
    late = [lateness(day, wheel, at) for wheel, at in enumerate(done)]
    total = sum(LATE_WEIGHT * (one + max(0, one - VERY_LATE_MIN)) for one in late) + sum(done)
    return total + MOVED_MIN * tasks_moved(day, placed, before)


def tasks_moved(day: Day, placed: tuple[Placed, ...], before: Schedule | None) -> int:
    """Return how many tasks start at another minute than in the plan before."""
    if before is None:
        return 0
    stood = {(one.wheel, one.task): one.start for one in before.placed}
    return sum(stood.get((one.wheel, one.task), one.start) != one.start for one in placed)


def rebase(day: Day, schedule: Schedule, to: Day) -> Schedule | None:
    """Return the part of a schedule that still applies later, None where there is none.

    A task is identified by its wheel's key and the number of tasks after it, as finished tasks go
    from the front.
    """
    now = {wheel.key or wheel.name: (w, len(wheel.tasks)) for w, wheel in enumerate(to.wheels)}
    passed = to.minute(day.start)
    left = []
    for one in schedule.placed:
        wheel = day.wheels[one.wheel]
        w, count = now.get(wheel.key or wheel.name, (0, 0))
        task = count - (len(wheel.tasks) - one.task)
        if task >= 0 and one.start + passed >= 0 and one.mechanic < len(to.mechanics):
            left.append(Placed(w, task, one.mechanic, one.start + passed, one.end + passed))
    return Schedule(tuple(left), (), 0) if left else None


def done_times(day: Day, placed: tuple[Placed, ...]) -> tuple[int, ...]:
    """Return when each wheel is ready: its last task and the wait after it; at once where nothing
    is left.
    """
    result = [
        max(0, day.minute(wheel.ready)) if wheel.ready is not None else 0 for wheel in day.wheels
    ]
    for one in placed:
        result[one.wheel] = max(
            result[one.wheel], one.end + day.wheels[one.wheel].tasks[one.task].wait_minutes
        )
    return tuple(result)


class Broken(msgspec.Struct, frozen=True):
    """A rule that a schedule breaks, and where: the wheel and its task, or the mechanic or resource
    that is taken twice.

    Attributes:
        at: minute, where it tells something.
    """

    rule: Literal["placed", "begins", "whole", "hours", "pin", "one_at_a_time"]
    name: str
    task: str = ""
    at: int = 0


def faults(day: Day, schedule: Schedule) -> list[Broken]:
    """Return the rules that a schedule breaks; none for one that can be carried out.

    No mechanic is in two places, no hands work in closed hours unless somebody put them there, a
    wheel's tasks follow each other with their waits, a resource is used by one at a time, nothing
    begins before it is ready, pinned tasks stay.
    """
    result: list[Broken] = []
    pins = pinned(day)
    where = {(one.wheel, one.task): one for one in schedule.placed}
    for w, wheel in enumerate(day.wheels):
        free = max(0, day.minute(wheel.ready)) if wheel.ready is not None else 0
        for t, task in enumerate(wheel.tasks):
            one = where.get((w, t))
            if one is None:
                result.append(Broken("placed", wheel.name, task.words))
                continue
            pin = pins.get((w, t))
            if one.start < free and (t or pin is None):
                result.append(Broken("begins", wheel.name, task.words, one.start))
            if one.end - one.start != task.minutes:
                result.append(Broken("whole", wheel.name, task.words))
            hours = day.hours_of(one.mechanic)
            worked = hours.between(day.at(one.start), day.at(one.end))
            if pin is None and worked != task.minutes and fits_somewhere(hours, task):
                result.append(Broken("hours", wheel.name, task.words, one.start))
            if pin is not None and one != pin:
                result.append(Broken("pin", wheel.name, task.words))
            free = one.end + task.wait_minutes
    for m, mechanic in enumerate(day.mechanics):
        result += _overlaps(mechanic.name, [one for one in schedule.placed if one.mechanic == m])
    shared: dict[str, list[Placed]] = {}
    for one in schedule.placed:
        resource = day.wheels[one.wheel].tasks[one.task].resource
        if resource:
            shared.setdefault(resource, []).append(one)
    return result + [fault for name, row in shared.items() for fault in _overlaps(name, row)]


def fits_somewhere(hours: Hours, task: Task) -> bool:
    """Whether a task fits into the opening hours of any day; one that does not may run over."""
    return hours.longest_min() >= task.minutes


def _overlaps(name: str, row: list[Placed]) -> list[Broken]:
    ordered = sorted(row, key=lambda one: one.start)
    return [
        Broken("one_at_a_time", name, at=b.start)
        for a, b in itertools.pairwise(ordered)
        if b.start < a.end
    ]


#: How long after its time a pin still holds.
STILL = timedelta(minutes=30)


class KeptPin(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A task that stays where it was put.

    Attributes:
        action: key of the task's first action; the pin is over when that is done.
        at: when, on the shop's own clock.
        mechanic: by name; if no one has that name any more, the first one.
    """

    wheel: str
    action: str
    at: datetime
    mechanic: str = ""


def pins_of(
    kept: Iterable[KeptPin],
    wheel: str,
    tasks: Sequence[Task],
    mechanics: Sequence[Mechanic],
    start: datetime,
) -> tuple[Pin, ...]:
    """Return a wheel's pins in the day as it is now.

    Where the time has just passed and the task is not begun, it is wanted now; after half an hour
    the pin holds no more.

    >>> at = datetime(2026, 11, 25, 9)
    >>> kept = [KeptPin("a", "tape.lay", at, "R Sedge")]
    >>> pins_of(kept, "a", [Task("Tape", 20, action="tape.lay")], [Mechanic("M Osier"), Mechanic("R Sedge")], at)
    (Pin(task=0, at=datetime.datetime(2026, 11, 25, 9, 0), mechanic=1),)
    """
    names = [one.name for one in mechanics]
    places = {task.action: place for place, task in enumerate(tasks) if task.action}
    return tuple(
        Pin(
            places[pin.action],
            max(pin.at, start),
            names.index(pin.mechanic) if pin.mechanic in names else 0,
        )
        for pin in kept
        if pin.wheel == wheel and pin.action in places and pin.at >= start - STILL
    )


def with_pin(day: Day, wheel: int, task: int, at: datetime, mechanic: int) -> Day:
    """Return the day with a task pinned; it has one place, so that an older pin of it goes."""
    wheels = list(day.wheels)
    others = tuple(pin for pin in wheels[wheel].pins if pin.task != task)
    wheels[wheel] = msgspec.structs.replace(wheels[wheel], pins=(*others, Pin(task, at, mechanic)))
    return msgspec.structs.replace(day, wheels=tuple(wheels))


#: What only one wheel can use at a time, and at which stages: beads seat with the compressor's air,
#: a wheel is taped in the truing stand (common practice, no published source).
COMPRESSOR = "compressor"
RESOURCES = {COMPRESSOR: frozenset({"seat"}), "truing stand": frozenset({"tape"})}
#: The shortest task, minutes: finding the tools takes that long.
MIN_MIN = 1


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


def _task(
    run: Sequence[Action], wait: float, resources: Collection[str], units: UnitChoice
) -> Task:
    minutes = max(MIN_MIN, round(sum(action.minutes for action in run)))
    first = run[0]
    return Task(
        first.text.read(units),
        minutes,
        round(wait),
        _resource(first, resources),
        first.stage,
        first.key,
    )
