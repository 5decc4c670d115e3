"""Tasks that a person has pinned, stored by what they are, and found again in the current day."""

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta

import msgspec

from inner_rim.core.schedule.day import Day, Mechanic, Pin, Task

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
    kept: Iterable[KeptPin], wheel: str, tasks: Sequence[Task], mechanics: Sequence[Mechanic], start: datetime
) -> tuple[Pin, ...]:
    """Return a wheel's pins in the day as it is now.

    Where the time has just passed and the task is not begun, it is wanted now; after half an hour the pin holds no more.

    >>> at = datetime(2026, 11, 25, 9)
    >>> kept = [KeptPin("a", "tape.lay", at, "R Sedge")]
    >>> pins_of(kept, "a", [Task("Tape", 20, action="tape.lay")], [Mechanic("M Osier"), Mechanic("R Sedge")], at)
    (Pin(task=0, at=datetime.datetime(2026, 11, 25, 9, 0), mechanic=1),)
    """
    names = [one.name for one in mechanics]
    places = {task.action: place for place, task in enumerate(tasks) if task.action}
    return tuple(
        Pin(places[pin.action], max(pin.at, start), names.index(pin.mechanic) if pin.mechanic in names else 0)
        for pin in kept
        if pin.wheel == wheel and pin.action in places and pin.at >= start - STILL
    )


def with_pin(day: Day, wheel: int, task: int, at: datetime, mechanic: int) -> Day:
    """Return the day with a task pinned; it has one place, so that an older pin of it goes."""
    wheels = list(day.wheels)
    others = tuple(pin for pin in wheels[wheel].pins if pin.task != task)
    wheels[wheel] = msgspec.structs.replace(wheels[wheel], pins=(*others, Pin(task, at, mechanic)))
    return msgspec.structs.replace(day, wheels=tuple(wheels))
