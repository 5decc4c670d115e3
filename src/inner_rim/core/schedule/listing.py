"""The immediate schedule: tasks are placed one by one, each as early as possible, by a few rules;
the best one wins.
"""

import math
from bisect import bisect_right, insort
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from functools import partial
from random import Random
from typing import Literal

import msgspec

from inner_rim.core.schedule.day import (
    Day,
    Pin,
    Placed,
    Schedule,
    Task,
    cost_of,
    done_times,
    fits_somewhere,
    lateness,
    pinned,
)
from inner_rim.core.schedule.hours import Hours

Span = tuple[int, int]
#: What a rule looks at: (wheel, when it is free, hands-on and wait minutes left, due minute or
#: None).
Rule = Callable[[int, int, int, int | None], float]
FAR = 10_000_000
SEED = 7
NEVER_HELD: Mapping[tuple[int, int], int] = {}


class Timetable:
    """What is taken: by each mechanic, and of each resource."""

    def __init__(self, day: Day) -> None:
        self._day = day
        self._busy: list[list[Span]] = [[] for _ in day.mechanics]
        self._used: dict[str, list[Span]] = {}
        same: dict[Hours, tuple[list[Span], Iterator[tuple[datetime, datetime]]]] = {}
        self._open = []
        for m in range(len(day.mechanics)):
            hours = day.hours_of(m)
            if hours not in same:
                same[hours] = ([], hours.openings(day.start))
            self._open.append(same[hours])

    def take(self, task: Task, mechanic: int, start: int) -> None:
        span = (start, start + task.minutes)
        insort(self._busy[mechanic], span)
        if task.resource:
            insort(self._used.setdefault(task.resource, []), span)

    def earliest(self, task: Task, free: int) -> tuple[int, int]:
        """Return (start, mechanic) of a task as early as it goes; the first of mechanics who could
        begin at once.
        """
        return min((self._start(task, m, free), m) for m in range(len(self._busy)))

    def _start(self, task: Task, mechanic: int, free: int) -> int:
        long = not fits_somewhere(self._day.hours_of(mechanic), task)
        used = self._used.get(task.resource, []) if task.resource else []
        at = free
        while True:
            moved = at
            at = self._into_hours(1 if long else task.minutes, mechanic, at)
            at = _past(self._busy[mechanic], at, task.minutes)
            if used:
                at = _past(used, at, task.minutes)
            if at == moved:
                return at

    def _into_hours(self, minutes: int, mechanic: int, at: int) -> int:
        """Return the first minute from `at` on from which `minutes` fit into opening hours."""
        stretches, more = self._open[mechanic]
        place = max(0, bisect_right(stretches, (at, FAR)) - 1)
        while True:
            if place == len(stretches):
                result = next(more)
                stretches.append((self._day.minute(result[0]), self._day.minute(result[1])))
            opens, closes = stretches[place]
            if max(at, opens) + minutes <= closes:
                return max(at, opens)
            place += 1


def _past(spans: Sequence[Span], at: int, minutes: int) -> int:
    """Return the first minute from `at` on at which `minutes` are free of these spans, which are in
    order.
    """
    place = max(0, bisect_right(spans, (at, FAR)) - 1)
    for low, high in spans[place:]:
        if at + minutes <= low:
            return at
        if high > at:
            at = high
    return at


#: Rules in the order in which ties between their schedules are decided.
RULES: dict[str, Rule] = {
    "due": lambda wheel, free, left, due: due if due is not None else FAR + free,
    "slack": lambda wheel, free, left, due: due - left - free if due is not None else FAR + free,
    "free": lambda wheel, free, left, due: free,
    "long": lambda wheel, free, left, due: -left,
    "short": lambda wheel, free, left, due: left,
}


#: How many tasks are placed at most, over all the rules that are tried, so that the answer comes
#: within a frame.
MAX_PLACED, MIN_RULES = 600, 2


def list_schedule(
    day: Day, before: Schedule | None = None, order: Sequence[tuple[int, int]] | None = None
) -> Schedule:
    """Return a schedule at once: the best of a few rules.

    Args:
        before: the plan before, which is kept where that costs nothing.
        order: (wheel, task) in an order to try too, such as that of the plan before.
    """
    kept = [[(one.wheel, one.task) for one in before.placed]] if before is not None else []
    kept += [list(order)] if order is not None else []
    rules = [partial(_by_rule, day, rule) for rule in RULES.values()]
    whole = [partial(wheel_by_wheel, day, wheels) for wheels in _rankings(day)]
    # The more there is to place, the fewer rules are tried, the best ones of large days first.
    tasks = max(1, sum(len(wheel.tasks) for wheel in day.wheels))
    wanted = max(MIN_RULES, MAX_PLACED // tasks - len(kept))
    made = [*rules, *whole] if wanted >= len(rules) + len(whole) else [*whole, *rules][:wanted]
    orders = [*(make() for make in made), *kept]
    result = [placed_in_order(day, one, before) for one in orders]
    return min(result, key=lambda schedule: schedule.cost)


def wheel_by_wheel(day: Day, wheels: Sequence[int]) -> list[tuple[int, int]]:
    """Return the order in which each wheel's tasks are all placed before those of the next; later
    ones fill its waits.
    """
    return [(w, t) for w in wheels for t in range(len(day.wheels[w].tasks))]


def _rankings(day: Day) -> list[list[int]]:
    """Wheels by when they are due, and by how much time is left for them."""
    due = [day.minute(wheel.due) if wheel.due is not None else FAR for wheel in day.wheels]
    left = [sum(task.minutes + task.wait_minutes for task in wheel.tasks) for wheel in day.wheels]
    places = range(len(day.wheels))
    return [
        sorted(places, key=lambda w: (due[w], w)),
        sorted(places, key=lambda w: (due[w] - left[w], w)),
    ]


def searched(
    day: Day,
    first: Schedule,
    tries: int,
    before: Schedule | None = None,
    go_on: Callable[[], bool] = lambda: True,
    seed: int = SEED,
) -> Schedule:
    """Return a better schedule where moving whole wheels, then single tasks, gives one; the same
    for the same day.

    Args:
        go_on: asked before each try; False stops it.
    """
    rng = Random(seed)
    best = _wheels_moved(day, first, tries // 3, before, go_on, rng)
    return _tasks_moved(day, best, tries - tries // 3, before, go_on, rng)


def _wheels_moved(
    day: Day,
    first: Schedule,
    tries: int,
    before: Schedule | None,
    go_on: Callable[[], bool],
    rng: Random,
) -> Schedule:
    """Wheels in an order, all of each placed before the next: one at a time takes another place."""
    best = first
    begins = {one.wheel: one.start for one in reversed(first.placed)}
    wheels = sorted(
        (w for w, wheel in enumerate(day.wheels) if wheel.tasks),
        key=lambda w: (begins.get(w, 0), w),
    )
    starts = [wheels, *([w for w in ranking if day.wheels[w].tasks] for ranking in _rankings(day))]
    current = min(
        (placed_in_order(day, wheel_by_wheel(day, one), before).cost, i)
        for i, one in enumerate(starts)
    )
    wheels, cost = list(starts[current[1]]), current[0]
    for _ in range(tries if len(wheels) > 1 else 0):
        if not go_on():
            break
        order = list(wheels)
        moved = order.pop(rng.randrange(len(order)))
        order.insert(rng.randrange(len(order) + 1), moved)
        result = placed_in_order(day, wheel_by_wheel(day, order), before)
        if result.cost <= cost:
            wheels, cost = order, result.cost
        if result.cost < best.cost:
            best = result
    return best


#: Most places that a task is moved; and how much worse, as a share, a schedule may be to be taken
#: at first.
FARTHEST, WORSE_SHARE = 12, 0.02


def _tasks_moved(
    day: Day,
    first: Schedule,
    tries: int,
    before: Schedule | None,
    go_on: Callable[[], bool],
    rng: Random,
) -> Schedule:
    """Simulated annealing over the order of tasks: a task, or the rest of a wheel from a task on,
    takes another place.
    """
    best = first
    order, cost = [(one.wheel, one.task) for one in first.placed], first.cost
    for number in range(tries if len(order) > 1 else 0):
        if not go_on():
            break
        place = rng.randrange(len(order))
        wheel, task = order[place]
        moving = [one for one in order if one[0] == wheel and one[1] >= task]
        if rng.random() < 0.5:
            moving = moving[:1]
        rest = [one for one in order if one not in moving]
        there = min(len(rest), max(0, place + rng.randint(-FARTHEST, FARTHEST)))
        apart = rng.randint(1, 3)
        for step, one in enumerate(moving):
            rest.insert(min(len(rest), there + step * apart), one)
        result = placed_in_order(day, rest, before)
        heat = WORSE_SHARE * cost * (1.0 - number / tries)
        worse = result.cost - cost
        if worse <= 0 or (heat > 0.0 and rng.random() < math.exp(-worse / heat)):
            order, cost = [(one.wheel, one.task) for one in result.placed], result.cost
        if result.cost < best.cost:
            best = result
    return best


def placed_in_order(
    day: Day,
    order: Sequence[tuple[int, int]],
    before: Schedule | None = None,
    not_before: Mapping[tuple[int, int], int] = NEVER_HELD,
) -> Schedule:
    """Return the schedule in which tasks are placed in an order, each as early as it goes; pinned
    ones where they are.

    Args:
        order: (wheel, task); those that are not named come last.
        before: the plan before, which is kept where that costs nothing.
    """
    board = Timetable(day)
    there = pinned(day)
    placed = list(there.values())
    for one in placed:
        board.take(day.wheels[one.wheel].tasks[one.task], one.mechanic, one.start)
    free = [
        max(0, day.minute(wheel.ready)) if wheel.ready is not None else 0 for wheel in day.wheels
    ]
    wanted = [0] * len(day.wheels)
    rest = {w: len(wheel.tasks) for w, wheel in enumerate(day.wheels)}
    known = list(dict.fromkeys((w, t) for w, t in order if w < len(day.wheels) and t < rest[w]))
    seen = set(known)
    known += [
        (w, t)
        for w, wheel in enumerate(day.wheels)
        for t in range(len(wheel.tasks))
        if (w, t) not in seen
    ]
    for w, _t in known:  # a wheel's own tasks keep their order whatever is asked
        t = wanted[w]
        wanted[w] += 1
        task = day.wheels[w].tasks[t]
        result = there.get((w, t))
        if result is None:
            start, mechanic = board.earliest(task, max(free[w], not_before.get((w, t), 0)))
            board.take(task, mechanic, start)
            result = Placed(w, t, mechanic, start, start + task.minutes)
            placed.append(result)
        free[w] = result.end + task.wait_minutes
    ordered = tuple(sorted(placed, key=lambda one: (one.start, one.mechanic, one.wheel)))
    done = done_times(day, ordered)
    return Schedule(ordered, done, cost_of(day, ordered, done, before))


def _by_rule(day: Day, rule: Rule) -> list[tuple[int, int]]:
    """The order in which a rule takes tasks: of the wheels that are free about then, the one it
    wants most. Hands are not looked at yet.
    """
    wheels = day.wheels
    free = [max(0, day.minute(wheel.ready)) if wheel.ready is not None else 0 for wheel in wheels]
    left = [sum(task.minutes + task.wait_minutes for task in wheel.tasks) for wheel in wheels]
    due = [day.minute(wheel.due) if wheel.due is not None else None for wheel in wheels]
    place = [0] * len(wheels)
    result = []
    now = 0.0
    open_wheels = {w for w, wheel in enumerate(wheels) if wheel.tasks}
    while open_wheels:
        now = max(now, min(free[w] for w in open_wheels))
        soon = [w for w in open_wheels if free[w] <= now + SOON_MIN]
        w = min(soon, key=lambda one: (rule(one, free[one], left[one], due[one]), one))
        task = wheels[w].tasks[place[w]]
        result.append((w, place[w]))
        begins = max(free[w], int(now))
        free[w] = begins + task.minutes + task.wait_minutes
        now += task.minutes / len(day.mechanics)  # all hands are busy
        left[w] -= task.minutes + task.wait_minutes
        place[w] += 1
        if place[w] == len(wheels[w].tasks):
            open_wheels.remove(w)
    return result


#: Tasks that may begin this soon after the first one compete with it, minutes.
SOON_MIN = 10


#: How much longer someone might stay today, minutes; and what a promise is rounded up to.
STAYS, PROMISE_MIN = (20, 40, 60, 120), 10
#: How many late wheels get advice; tries for each remedy that is solved again.
MAX_LATE, TRIES = 6, 60


class Help(msgspec.Struct, frozen=True):
    """A remedy.

    Attributes:
        kind: begin with the wheel before another; stay longer today; promise another time.
        minutes: how much longer.
        at: the time to promise.
        pins: where the wheel's tasks go, where it goes before another.
    """

    kind: Literal["before", "stay", "promise"]
    minutes: int = 0
    other: int | None = None
    at: datetime | None = None
    pins: tuple[Pin, ...] = ()


def helps(
    day: Day, schedule: Schedule, go_on: Callable[[], bool] = lambda: True
) -> dict[int, tuple[Help, ...]]:
    """Return what would help the wheels that are the latest, by wheel; asks before each whether it
    is still wanted.
    """
    return {w: help_for(day, schedule, w) for w in latest(day, schedule) if go_on()}


def latest(day: Day, schedule: Schedule) -> list[int]:
    """Return the wheels that will be late, the latest first; no more than a person reads."""
    late = {w: lateness(day, w, done) for w, done in enumerate(schedule.done)}
    return sorted((w for w in late if late[w]), key=lambda w: -late[w])[:MAX_LATE]


def help_for(day: Day, schedule: Schedule, wheel: int) -> tuple[Help, ...]:
    """Return what would help a wheel that is late, the least change first."""
    result: list[Help] = []
    order = list(dict.fromkeys(one.wheel for one in schedule.placed))
    if wheel in order:
        others_late = _late(day, schedule, except_wheel=wheel)
        for place in range(order.index(wheel) - 1, -1, -1):
            moved = [w for w in order if w != wheel]
            moved.insert(place, wheel)
            tried = placed_in_order(day, wheel_by_wheel(day, moved))
            if (
                not lateness(day, wheel, tried.done[wheel])
                and _late(day, tried, except_wheel=wheel) <= others_late
            ):
                pins = tuple(
                    Pin(one.task, day.at(one.start), one.mechanic)
                    for one in tried.placed
                    if one.wheel == wheel
                )
                result.append(Help("before", other=order[place], pins=pins))
                break
    for minutes in STAYS:
        open_longer = longer(day, minutes)
        if open_longer == day:
            break
        tried = searched(open_longer, list_schedule(open_longer), TRIES)
        if not lateness(day, wheel, tried.done[wheel]):
            result.append(Help("stay", minutes=minutes))
            break
    result.append(Help("promise", at=day.hours.next_open(round_up(day.at(schedule.done[wheel])))))
    return tuple(result)


def round_up(at: datetime) -> datetime:
    """Return the next ten minutes of the clock.

    >>> round_up(datetime(2026, 11, 25, 8, 4)).isoformat()
    '2026-11-25T08:10:00'
    """
    whole = at.replace(minute=0, second=0, microsecond=0)
    return whole + timedelta(
        minutes=-(-(at - whole) // timedelta(minutes=PROMISE_MIN)) * PROMISE_MIN
    )


def longer(day: Day, minutes: int) -> Day:
    """Return the day with the shop open this much longer today; mechanics with hours of their own
    keep them.
    """
    return msgspec.structs.replace(day, hours=day.hours.longer(day.start.date(), minutes))


def _late(day: Day, schedule: Schedule, except_wheel: int) -> int:
    return sum(lateness(day, w, done) for w, done in enumerate(schedule.done) if w != except_wheel)
