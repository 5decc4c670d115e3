"""The day as a timeline, as plain data: rows, bars, waits, closed hours, due times."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from datetime import datetime, timedelta

import msgspec

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.stages import STAGE_WORDS
from inner_rim.core.schedule.advice import Help
from inner_rim.core.schedule.day import Day, Schedule, lateness, pinned
from inner_rim.core.schedule.promised import Promise
from inner_rim.words import tr
from inner_rim.work.text.promise_words import promise_words
from inner_rim.work.text.schedule_words import late_sentences
from inner_rim.work.text.tiles import first_clause

#: Hours that are shown from now on at least, and at most.
LEAST_HOURS, MOST_HOURS = 3, 50
#: So much of the room of a minute with hands one takes in closed hours, and one in which nobody is wanted; hands have so
#: many minutes of full room around them; ticks lie so far apart, as a share of the axis.
CLOSED_SHARE, IDLE_SHARE, AROUND_MIN, TICK_SHARE = 0.05, 0.2, 12, 0.07
NO_PROMISES: Mapping[str, Promise] = {}
NO_HELPS: Mapping[int, tuple[Help, ...]] = {}


class Bar(msgspec.Struct, frozen=True):
    """A stretch on a row: hands on a wheel, or its wait.

    Attributes:
        row: which one.
        start, end: minutes.
        words: what is done.
        shorter: the same in fewer and fewer words, for a short bar.
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
    shorter: tuple[str, ...]
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
        axis: knots of the axis as (minute, share of its length), the last one where it ends.
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
    axis: tuple[tuple[int, float], ...]
    words: tuple[str, ...]
    by_wheel: bool = False

    @property
    def end(self) -> int:
        """The last minute that is shown."""
        return self.axis[-1][0]

    def share(self, minute: float) -> float:
        """Return where a minute lies on the axis, 0 to 1."""
        return _between(self.axis, minute)

    def minute(self, share: float) -> float:
        """Return the minute at a place of the axis."""
        return _between(tuple((place, float(minute)) for minute, place in self.axis), share)


def _between(knots: Sequence[tuple[float, float]], at: float) -> float:
    """The value on a line through knots, which goes on beyond them."""
    place = min(max(1, sum(knot[0] <= at for knot in knots)), len(knots) - 1)
    (x0, y0), (x1, y1) = knots[place - 1], knots[place]
    return y0 + (y1 - y0) * (at - x0) / (x1 - x0) if x1 > x0 else y0


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
    late = {w for w, done in enumerate(schedule.done) if lateness(day, w, done)}
    stands = (*progress, *(None,) * (len(day.wheels) - len(progress)))
    bars = _bars(day, schedule, by_wheel, late, stands)
    rows = tuple(one.name for one in (day.wheels if by_wheel else day.mechanics))
    notes = (
        tuple(promise_words(said.get(wheel.key)) for wheel in day.wheels) if by_wheel else ("",) * len(rows)
    )
    end = _end(day, bars)
    closed = _closed(day, end)
    axis = _axis(bars, closed, end)
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
        closed=closed,
        dues=dues,
        ticks=_ticks(day, axis, closed),
        axis=axis,
        words=(gap, *late_sentences(day, schedule, helps)),
        by_wheel=by_wheel,
    )


def _bars(
    day: Day, schedule: Schedule, by_wheel: bool, late: Collection[int], stands: Sequence[Progress | None]
) -> list[Bar]:
    """The hands of a schedule, and the waits where each row is a wheel's."""
    found: list[Bar] = []
    pins = pinned(day)
    for one in schedule.placed:
        wheel = day.wheels[one.wheel]
        task = wheel.tasks[one.task]
        stage = tr(STAGE_WORDS.get(task.stage, ""))
        shorter = (first_clause(task.words),) if by_wheel else (f"{wheel.name}: {stage}", wheel.name)
        bar = Bar(
            row=one.wheel if by_wheel else one.mechanic,
            start=one.start,
            end=one.end,
            words=task.words if by_wheel else f"{wheel.name}: {task.words}",
            shorter=(*shorter, stage),
            key=wheel.key,
            wheel=one.wheel,
            task=one.task,
            mechanic=one.mechanic,
            late=one.wheel in late,
            pinned=(one.wheel, one.task) in pins,
            progress=stands[one.wheel],
        )
        found.append(bar)
        if by_wheel and task.wait_minutes:
            until = one.end + task.wait_minutes
            found.append(
                msgspec.structs.replace(
                    bar, start=one.end, end=until, words=tr("waits"), shorter=(), wait=True
                )
            )
    return found


def _end(day: Day, bars: Sequence[Bar]) -> int:
    """The last minute that is shown: the last bar's end, within bounds, with some room after it."""
    opens = day.minute(day.hours.next_open(day.start))
    last = max((bar.end for bar in bars), default=0)
    return min(max(last + 20, opens + 60 * LEAST_HOURS), 60 * MOST_HOURS)


def _closed(day: Day, end: int) -> tuple[tuple[int, int], ...]:
    found, at = [], 0
    for opens, closes in day.hours.openings(day.start):
        low, high = day.minute(opens), day.minute(closes)
        if low > at and at < end:
            found.append((at, min(low, end)))
        at = high
        if at >= end:
            break
    return tuple(found)


def _axis(bars: Sequence[Bar], closed: Sequence[tuple[int, int]], end: int) -> tuple[tuple[int, float], ...]:
    """The knots of the axis as (minute, share of its length): hours without hands are drawn close together."""
    hands = sorted((bar.start - AROUND_MIN, bar.end + AROUND_MIN) for bar in bars if not bar.wait)
    knots = sorted({0, end, *(max(0, min(at, end)) for span in (*hands, *closed) for at in span)})
    length, found = 0.0, [(0, 0.0)]
    for begins, ends in itertools.pairwise(knots):
        middle = 0.5 * (begins + ends)
        if any(low <= middle < high for low, high in closed):
            share = CLOSED_SHARE
        elif any(low <= middle < high for low, high in hands):
            share = 1.0
        else:
            share = IDLE_SHARE
        length += share * (ends - begins)
        found.append((ends, length))
    return tuple((minute, place / length) for minute, place in found)


def _ticks(
    day: Day, axis: tuple[tuple[int, float], ...], closed: Sequence[tuple[int, int]]
) -> tuple[tuple[int, str], ...]:
    """When the shop opens, with the day, and as many hours in between as there is room for."""
    end = axis[-1][0]
    found = {ends: "%a %H:%M" for _begins, ends in closed if ends < end} or {0: "%a %H:%M"}
    first = day.start.replace(minute=0) + timedelta(hours=1)
    for minute in (day.minute(first + timedelta(hours=i)) for i in range(end // 60 + 1)):
        shut = any(begins < minute <= ends for begins, ends in closed)
        room = all(abs(_between(axis, minute) - _between(axis, other)) >= TICK_SHARE for other in found)
        if minute <= end and room and not shut:
            found[minute] = "%H:%M"
    return tuple((minute, in_words(day.at(minute), form)) for minute, form in sorted(found.items()))
