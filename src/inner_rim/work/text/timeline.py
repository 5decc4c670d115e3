"""The day as a timeline, as plain data: rows, bars, waits, closed hours, due times."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

import msgspec

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.moments import in_words
from inner_rim.core.schedule.advice import Help, latest
from inner_rim.core.schedule.day import Day, Schedule, lateness, pinned
from inner_rim.core.schedule.promise import Promise
from inner_rim.words import tr
from inner_rim.work.text.schedule_words import span

#: Hours that are shown, from now on.
SHOWN_HOURS = 26
NO_PROMISES: Mapping[str, Promise] = {}
NO_HELPS: Mapping[int, tuple[Help, ...]] = {}


class Bar(msgspec.Struct, frozen=True):
    """A stretch on a row: hands on a wheel, or its wait.

    Attributes:
        row: which one.
        start, end: minutes.
        words: what is done.
        key: the wheel's.
        wheel, task, mechanic: places in the day.
        wait: it is a wait.
        late: the wheel will be late.
        pinned: a person put it there.
        progress: where the wheel stands, None where it is not known.
    """

    row: int
    start: int
    end: int
    words: str
    key: str
    wheel: int
    task: int
    mechanic: int
    wait: bool = False
    late: bool = False
    pinned: bool = False
    progress: Progress | None = None


class Timeline(msgspec.Struct, frozen=True):
    """A day to be painted; all times in minutes after its start.

    Attributes:
        start: the time now.
        rows: what each row is called.
        notes: a second, quieter line of each row: what can be promised; empty for none.
        bars: hands and waits.
        closed: when nobody works.
        dues: (row, minute, late).
        ticks: (minute, words).
        end: the last minute that is shown.
        words: how good the schedule is, and what is late with what would help.
        by_wheel: each row is a wheel's; else a mechanic's.
    """

    start: datetime
    rows: tuple[str, ...]
    notes: tuple[str, ...]
    bars: tuple[Bar, ...]
    closed: tuple[tuple[int, int], ...]
    dues: tuple[tuple[int, int, bool], ...]
    ticks: tuple[tuple[int, str], ...]
    end: int
    words: tuple[str, ...]
    by_wheel: bool = False


def timeline_of(
    day: Day,
    schedule: Schedule,
    by_wheel: bool,
    gap: str,
    said: Mapping[str, Promise] = NO_PROMISES,
    helps: Mapping[int, tuple[Help, ...]] = NO_HELPS,
    progress: Sequence[Progress | None] = (),
) -> Timeline:
    """Return a schedule as a timeline.

    Args:
        day, schedule: what is shown.
        by_wheel: a row for each wheel, with its waits; else one for each mechanic.
        gap: how good it is, in words.
        said: what can be promised, by a wheel's key.
        helps: what would help wheels that are late, as far as it is known.
        progress: where each wheel stands, in the day's order.
    """
    end = 60 * SHOWN_HOURS
    late = {w for w, done in enumerate(schedule.done) if lateness(day, w, done)}
    rows = tuple(wheel.name for wheel in day.wheels) if by_wheel else tuple(one.name for one in day.mechanics)
    bars: list[Bar] = []
    pins = pinned(day)
    shown = (*progress, *(None,) * (len(day.wheels) - len(progress)))
    for one in schedule.placed:
        wheel = day.wheels[one.wheel]
        task = wheel.tasks[one.task]
        words = task.words if by_wheel else f"{wheel.name}: {task.words}"
        row = one.wheel if by_wheel else one.mechanic
        place = (wheel.key, one.wheel, one.task, one.mechanic)
        held = (one.wheel, one.task) in pins
        bars.append(
            Bar(
                row,
                one.start,
                one.end,
                words,
                *place,
                late=one.wheel in late,
                pinned=held,
                progress=shown[one.wheel],
            )
        )
        if by_wheel and task.wait_minutes:
            bars.append(Bar(row, one.end, one.end + task.wait_minutes, tr("waits"), *place, wait=True))
    notes = (
        tuple(promise_words(said.get(wheel.key)) for wheel in day.wheels) if by_wheel else ("",) * len(rows)
    )
    dues = tuple(
        (w, day.minute(wheel.due), w in late)
        for w, wheel in enumerate(day.wheels)
        if by_wheel and wheel.due is not None and 0 <= day.minute(wheel.due) <= end
    )
    return Timeline(
        start=day.start,
        rows=rows,
        notes=notes,
        bars=tuple(bar for bar in bars if bar.start < end),
        closed=_closed(day, end),
        dues=dues,
        ticks=_ticks(day, end),
        end=end,
        words=(gap, *late_sentences(day, schedule, helps)),
        by_wheel=by_wheel,
    )


def promise_words(promise: Promise | None) -> str:
    """Return what can be promised, in a few words."""
    if promise is None:
        return ""
    sure, early = (in_words(at, "%a %H:%M") for at in (promise.sure, promise.early))
    if sure == early:
        return tr("{sure}, nine times in ten").format(sure=sure)
    return tr("{sure}, nine in ten; {early} at the earliest").format(sure=sure, early=early)


def late_sentences(day: Day, schedule: Schedule, helps: Mapping[int, tuple[Help, ...]]) -> tuple[str, ...]:
    """Return what will be late and what would help, a sentence a wheel, the latest first."""
    found = []
    for w in latest(day, schedule):
        name, late = day.wheels[w].name, span(lateness(day, w, schedule.done[w]))
        words = ", ".join(help_words(day, one) for one in helps.get(w, ()))
        if words:
            found.append(tr("{name} will be {span} late: {helps}.").format(name=name, span=late, helps=words))
        else:
            found.append(tr("{name} will be {span} late.").format(name=name, span=late))
    return tuple(found)


def pin_words(faults: Sequence[str]) -> tuple[str, ...]:
    """Return that the pinned tasks cannot all stay where they are, with one reason; nothing where they can."""
    if not faults:
        return ()
    return (tr("The pinned tasks cannot all stay: {what}").format(what=faults[0]),)


def help_words(day: Day, one: Help) -> str:
    """Return a remedy in a few words."""
    if one.kind == "before" and one.other is not None:
        return tr("start it before {other}").format(other=day.wheels[one.other].name)
    if one.kind == "stay":
        return tr("stay {minutes} min longer").format(minutes=one.minutes)
    return tr("promise {at} instead").format(at=in_words(one.at or day.start, "%a %H:%M"))


def changes(day: Day, schedule: Schedule, before: dict[str, datetime]) -> str:
    """Return in a sentence which wheels will be ready at another time than was said before; empty where none."""
    found = []
    for wheel, done in zip(day.wheels, schedule.done, strict=True):
        was = before.get(wheel.key)
        now = day.at(done)
        if was is not None and abs(now - was) > timedelta(minutes=10):
            at = in_words(now, "%a %H:%M")
            word = tr("later") if now > was else tr("earlier")
            found.append(tr("{name} {word}, {at}").format(name=wheel.name, word=word, at=at))
    return tr("Changed: {what}.").format(what="; ".join(found[:3])) if found else ""


def _closed(day: Day, end: int) -> tuple[tuple[int, int], ...]:
    found, at = [], 0
    for opens, closes in day.hours.openings(day.start):
        low, high = day.minute(opens), day.minute(closes)
        if low > at:
            found.append((at, min(low, end)))
        at = high
        if at >= end:
            break
    return tuple(found)


def _ticks(day: Day, end: int) -> tuple[tuple[int, str], ...]:
    first = day.start.replace(minute=0) + timedelta(hours=1)
    hours = [first + timedelta(hours=i) for i in range(SHOWN_HOURS + 1)]
    return tuple(
        (day.minute(at), in_words(at, "%a %H:%M" if at.hour == 0 else "%H:%M"))
        for at in hours
        if at.hour % 3 == 0 and day.minute(at) <= end
    )
