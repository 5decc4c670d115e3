"""What would help a wheel that will be late: each remedy is scheduled, and named only where it does help."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Literal

import msgspec

from inner_rim.core.schedule.day import Day, Pin, Schedule, lateness
from inner_rim.core.schedule.listing import list_schedule, placed_in_order, searched, wheel_by_wheel

#: How much longer someone might stay today, minutes; and what a promise is rounded up to.
STAYS, PROMISE_MIN = (20, 40, 60, 120), 10
#: How many late wheels get advice; tries for each remedy that is solved again.
MOST_LATE, TRIES = 6, 60


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


def helps(day: Day, schedule: Schedule, go_on: Callable[[], bool] = lambda: True) -> dict[int, tuple[Help, ...]]:
    """Return what would help the wheels that are the latest, by wheel; asks before each whether it is still wanted."""
    return {w: help_for(day, schedule, w) for w in latest(day, schedule) if go_on()}


def latest(day: Day, schedule: Schedule) -> list[int]:
    """Return the wheels that will be late, the latest first; no more than a person reads."""
    late = {w: lateness(day, w, done) for w, done in enumerate(schedule.done)}
    return sorted((w for w in late if late[w]), key=lambda w: -late[w])[:MOST_LATE]


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
            if not lateness(day, wheel, tried.done[wheel]) and _late(day, tried, except_wheel=wheel) <= others_late:
                pins = tuple(
                    Pin(one.task, day.at(one.start), one.mechanic) for one in tried.placed if one.wheel == wheel
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
    return whole + timedelta(minutes=-(-(at - whole) // timedelta(minutes=PROMISE_MIN)) * PROMISE_MIN)


def longer(day: Day, minutes: int) -> Day:
    """Return the day with the shop open this much longer today; mechanics with hours of their own keep them."""
    return msgspec.structs.replace(day, hours=day.hours.longer(day.start.date(), minutes))


def _late(day: Day, schedule: Schedule, except_wheel: int) -> int:
    return sum(lateness(day, w, done) for w, done in enumerate(schedule.done) if w != except_wheel)
