"""The day's schedule: of the wheels on the bench, and of a day document."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from pathlib import Path

import msgspec

from inner_rim.core.procedure.actions import KINDS, Kind
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import parse_due
from inner_rim.core.record.log import Attempt, Logged, StepEntry
from inner_rim.core.record.moments import moment, naive_local
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import as_input_error, plain_from_bytes
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.schedule.day import (
    COMPRESSOR,
    Day,
    DayWheel,
    KeptPin,
    Mechanic,
    Schedule,
    lateness,
    pins_of,
    tasks_of,
)
from inner_rim.core.schedule.hours import Hours
from inner_rim.core.schedule.promise import MAX_SHARE, MIN_SHARE, Pace, learn_paces, promises
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, key_text, planned
from inner_rim.work.storage.files import read_whole
from inner_rim.work.text.waits import expected, wanted_until

MAX_FILE_BYTES = 2_000_000
#: How long the command line looks for a better schedule, about seconds.
EFFORT = 5.0
#: Of a day: the calendar has room for a year of work after it.
FIRST_YEAR, LAST_YEAR = 2000, 2200


def day_of(
    wheels: Sequence[BenchWheel],
    now: datetime,
    hours: Hours,
    mechanics: tuple[Mechanic, ...] = (Mechanic("mechanic"),),
    units: UnitChoice = METRIC,
    resources: Sequence[str] = (COMPRESSOR,),
    kept: Sequence[KeptPin] = (),
) -> tuple[Day, tuple[PlannedWheel, ...]]:
    """Return the day of the wheels that are in progress, and those wheels in the day's order.

    A wheel with a stop is left out: nothing can be done until that is changed; and one that waits
    for a customer or a part nobody knows how long. One with a problem has at least its open actions
    to come, as somebody will see to it.

    Args:
        kept: tasks that stay where they were put.
    """
    start = naive_local(now).replace(second=0, microsecond=0)
    known = tuple(
        state
        for state in planned(wheels)
        if state.progress.state in ("to_do", "working", "problem")
        and not (
            state.waits is not None and state.waits.on is not None and expected(state.waits) is None
        )
    )
    result = []
    for state in known:
        wheel = _wheel(state, start, units, resources)
        pins = pins_of(kept, wheel.key, wheel.tasks, mechanics, start)
        result.append(msgspec.structs.replace(wheel, pins=pins) if pins else wheel)
    return Day(start, tuple(result), mechanics, hours), known


def _wheel(
    state: PlannedWheel, start: datetime, units: UnitChoice, resources: Sequence[str]
) -> DayWheel:
    plan, progress = state.plan, state.progress
    needed = [
        name for name in resources if name != COMPRESSOR or plan.methods.air_source == COMPRESSOR
    ]
    tasks = tasks_of(plan.steps, resources=needed, units=units)
    ends = [at for at in (wanted_until(progress), expected(state.waits)) if at is not None]
    ready = max(ends, default=None)
    due_text = state.job.draft.document.get("due")
    due = parse_due(due_text) if isinstance(due_text, str) else None
    return DayWheel(
        state.name[:200] or "wheel",
        tasks,
        naive_local(due).replace(second=0, microsecond=0) if due is not None else None,
        _up(ready) if ready is not None and ready > start else None,
        key=key_text(state.key),
    )


def _up(at: datetime) -> datetime:
    whole = at.replace(second=0, microsecond=0)
    return whole if whole == at else whole + timedelta(minutes=1)


def hands(names: Sequence[str], own: Mapping[str, Hours], shop: Hours) -> tuple[Mechanic, ...]:
    """Return mechanics by their names; one mechanic where nobody is named.

    Args:
        own: hours of those who do not work the shop's; the shop's days off are theirs too.
    """
    result = []
    for name in names:
        hours = own.get(name)
        if hours is not None:
            week = hours.week if any(hours.week) else shop.week  # only days off were said
            off = tuple(sorted({*hours.days_off, *shop.days_off}))
            hours = msgspec.structs.replace(hours, week=week, days_off=off)
        result.append(Mechanic(name, hours))
    return tuple(result) or (Mechanic(tr("mechanic")),)


def paces(logs: Iterable[Sequence[Logged]]) -> dict[str, Pace]:
    """Return how long each stage takes in this shop, from its logs, a wheel each."""
    ratios: dict[str, list[float]] = {}
    seated: list[bool] = []
    for log in logs:
        for stage, minutes, usual in ticks(log):
            ratios.setdefault(stage, []).append(minutes / usual)
        seated += [
            item.entry.outcome == "both_up" for item in log if isinstance(item.entry, Attempt)
        ]
    return learn_paces(ratios, seated)


def ticks(log: Sequence[Logged]) -> Iterator[tuple[str, float, float]]:
    """Yield (stage, minutes it took, built-in minutes) of the actions of a wheel.

    The minutes between two ticks count for the action that was ticked last; not after a wait, and
    neither what took so long that something else was done in between, nor ticks given in a row.
    """
    for before, after in itertools.pairwise(log):
        kind, last = _kind(after), _kind(before)
        if kind is None or last is None or last.wait_minutes > 0.0 or kind.minutes <= 0.0:
            continue
        minutes = (moment(after.at) - moment(before.at)).total_seconds() / 60.0
        if MIN_SHARE <= minutes / kind.minutes <= MAX_SHARE:
            assert isinstance(after.entry, StepEntry)
            yield after.entry.stage, minutes, kind.minutes


def _kind(item: Logged) -> Kind | None:
    """The kind of action that was ticked off, None for another entry; a second one has its number
    behind its code.
    """
    if not isinstance(item.entry, StepEntry) or item.entry.outcome != "done":
        return None
    return KINDS.get(re.sub(r"\.\d+$", "", item.entry.step))


def day_schema() -> JsonObject:
    return msgspec.json.schema(Day)


def read_day(path: Path) -> Day:
    """Return a day document.

    Raises:
        InputError: the file is none; names field, value and what is accepted.
    """
    plain = plain_from_bytes(read_whole(path, MAX_FILE_BYTES), MAX_FILE_BYTES)
    try:
        day = msgspec.convert(plain, Day)
    except msgspec.ValidationError as fault:
        raise as_input_error(str(fault), plain, Day) from fault
    _check_times(day)
    return day


def _check_times(day: Day) -> None:
    if not FIRST_YEAR <= day.start.year <= LAST_YEAR:
        words = tr("{at}: use a time from {first} to {last}")
        raise InputError(
            words.format(at=day.start.isoformat(), first=FIRST_YEAR, last=LAST_YEAR), "start"
        )
    for i, wheel in enumerate(day.wheels):
        times = [(f"wheels[{i}].due", wheel.due), (f"wheels[{i}].ready", wheel.ready)]
        for n, pin in enumerate(wheel.pins):
            path = f"wheels[{i}].pins[{n}]"
            times.append((f"{path}.at", pin.at))
            _check_place(f"{path}.task", pin.task, len(wheel.tasks))
            _check_place(f"{path}.mechanic", pin.mechanic, len(day.mechanics))
        for path, at in (("start", day.start), *times):
            if at is not None and at.tzinfo is not None:
                raise InputError(
                    tr("{at}: use the shop's clock, without a zone").format(at=at.isoformat()), path
                )
            if at is not None and abs((at - day.start).days) > 366:
                raise InputError(
                    tr("{at}: use a time within a year of the start").format(at=at.isoformat()),
                    path,
                )


def _check_place(path: str, place: int, count: int) -> None:
    if place >= count:
        if not count:
            raise InputError(
                tr("{place}: use no pin, as nothing is left to do").format(place=place), path
            )
        words = tr("{place}: use a place below {count}, counted from 0")
        raise InputError(words.format(place=place, count=count), path)


def schedule_document(day: Day, schedule: Schedule) -> JsonObject:
    """Return a schedule as plain data: every task with its time, each wheel's end, and how good it
    is.
    """
    gap = schedule.gap
    said = promises(day, schedule)
    return {
        "format": "inner-rim/schedule",
        "version": 1,
        "tasks": [
            {
                "wheel": day.wheels[one.wheel].name,
                "task": one.task,
                "words": day.wheels[one.wheel].tasks[one.task].words,
                "mechanic": day.mechanics[one.mechanic].name,
                "start": day.at(one.start).isoformat(timespec="minutes"),
                "end": day.at(one.end).isoformat(timespec="minutes"),
            }
            for one in schedule.placed
        ],
        "wheels": [
            {
                "wheel": wheel.name,
                "ready": day.at(done).isoformat(timespec="minutes"),
                "due": wheel.due.isoformat(timespec="minutes") if wheel.due is not None else None,
                "late_minutes": lateness(day, w, done),
                "promise": said[w].sure.isoformat(timespec="minutes"),
                "as_early_as": said[w].early.isoformat(timespec="minutes"),
            }
            for w, (wheel, done) in enumerate(zip(day.wheels, schedule.done, strict=True))
        ],
        "at_most_from_best_percent": round(100.0 * gap, 1) if gap is not None else None,
    }
