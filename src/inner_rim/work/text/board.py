"""The day as a board, as plain data: a row per wheel or mechanic, its bars, and the sentence at the
row's end.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime, timedelta

import msgspec

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.spoken import STAGE_WORDS
from inner_rim.core.schedule.day import Day, Placed, Schedule, Task, lateness, pinned
from inner_rim.core.schedule.listing import Help
from inner_rim.core.schedule.promise import Promise
from inner_rim.words import tr
from inner_rim.work.text.schedule_words import help_words, span

#: Hours that are shown from now on at least, and at most.
MIN_HOURS, MAX_HOURS = 3, 14 * 24
#: How long after the last work a due time is still shown, minutes.
NEAR_MIN = 12 * 60
#: Steps shorter than this, minutes, are shown with those beside them, unless a longer wait is
#: between them.
MIN_SHOWN_MIN, SHORT_WAIT_MIN = 5, 30
#: How many actions of a mechanic are listed.
NEXT_SAID = 3
NO_PROMISES: Mapping[str, Promise] = {}
NO_HELPS: Mapping[int, tuple[Help, ...]] = {}


class Bar(msgspec.Struct, frozen=True):
    """A stretch on a row: work on a wheel, or its wait.

    Attributes:
        wheel, task, mechanic: places in the day.
    """

    row: int
    start: int
    end: int
    words: str
    stage: str
    name: str
    key: str
    wheel: int
    task: int
    mechanic: int
    wait: bool = False
    late: bool = False
    pinned: bool = False


class RowHelp(msgspec.Struct, frozen=True):
    """What would help a wheel that is late: a button."""

    words: str
    wheel: int
    help: Help


class BoardRow(msgspec.Struct, frozen=True):
    """A row of the board.

    Attributes:
        reason: a quieter line: what the wheel waits for, or what can be promised.
    """

    name: str
    key: str = ""
    sentence: str = ""
    reason: str = ""
    late: bool = False
    helps: tuple[RowHelp, ...] = ()
    due: int | None = None
    done: int | None = None
    progress: Progress | None = None


class NextUp(msgspec.Struct, frozen=True):
    """An action of a mechanic: when, what, at which wheel, and until when the wheel waits after it."""

    at: str
    words: str
    name: str
    key: str
    until: str = ""


class MechanicNext(msgspec.Struct, frozen=True):
    """A mechanic and what is next."""

    name: str
    actions: tuple[NextUp, ...]


class Unplanned(msgspec.Struct, frozen=True):
    """A wheel on the bench that is not planned, and why."""

    name: str
    key: str
    reason: str
    stopped: bool = False
    progress: Progress | None = None


class BoardData(msgspec.Struct, frozen=True):
    """A day to be painted; all times in minutes after its start.

    Attributes:
        rows: top to bottom.
        bars: hands and waits.
        end: the last minute that is shown.
        hands: what each mechanic does next.
        words: what to say of the whole day.
        by_wheel: each row is a wheel's; else a mechanic's.
    """

    start: datetime
    rows: tuple[BoardRow, ...]
    bars: tuple[Bar, ...]
    closed: tuple[tuple[int, int], ...]
    end: int
    hands: tuple[MechanicNext, ...] = ()
    words: tuple[str, ...] = ()
    by_wheel: bool = True


def board_of(
    day: Day,
    schedule: Schedule,
    by_wheel: bool = True,
    words: tuple[str, ...] = (),
    said: Mapping[str, Promise] = NO_PROMISES,
    helps: Mapping[int, tuple[Help, ...]] = NO_HELPS,
    standing: Sequence[tuple[Progress | None, str, bool]] = (),
    unplanned: Sequence[Unplanned] = (),
) -> BoardData:
    """Return a schedule as a board.

    Args:
        by_wheel: a row for each wheel, with its waits; else one for each mechanic.
        helps: what would help wheels that are late, as far as it is known.
        standing: for each wheel in the day's order: its stage, why it waits, whether its time was
            promised.
    """
    known = (*standing, *((None, "", False),) * (len(day.wheels) - len(standing)))
    first = {one.wheel: one.start for one in reversed(schedule.placed)}
    order = sorted(range(len(day.wheels)), key=lambda w: (first.get(w, schedule.done[w]), w))
    places = {w: row for row, w in enumerate(order)}
    if by_wheel:
        rows = [_row(day, schedule, w, said, helps, known[w]) for w in order] + [
            BoardRow(one.name, one.key, one.reason, late=one.stopped, progress=one.progress)
            for one in unplanned
        ]
    else:
        rows = [BoardRow(one.name) for one in day.mechanics]
    bars = _bars(day, schedule, by_wheel, places)
    dues = [row.due for row in rows if row.due is not None]
    end = _end(day, bars, dues)
    return BoardData(
        start=day.start,
        rows=tuple(rows),
        bars=tuple(bars),
        closed=_closed(day, end),
        end=end,
        hands=hands_of(day, schedule),
        words=words,
        by_wheel=by_wheel,
    )


def _row(
    day: Day,
    schedule: Schedule,
    w: int,
    said: Mapping[str, Promise],
    helps: Mapping[int, tuple[Help, ...]],
    standing: tuple[Progress | None, str, bool],
) -> BoardRow:
    """A wheel's row: whether it is ready in time, why it waits, what would help."""
    wheel, done, (progress, waits, promised) = day.wheels[w], schedule.done[w], standing
    late, ready = lateness(day, w, done), clock(day.at(done), day.start)
    more: list[str] = []
    if wheel.due is None:
        words = tr("ready {at}").format(at=ready)
    elif late:
        words = tr("misses {due}, ready {at}").format(due=clock(wheel.due, day.start), at=ready)
    else:
        words = tr("ready {at}, promised {due}") if promised else tr("ready {at}, due {due}")
        words = words.format(at=ready, due=clock(wheel.due, day.start))
        more.append(tr("{span} to spare").format(span=span(day.minute(wheel.due) - done)))
    promise = said.get(wheel.key)
    if promise is not None:
        more.append(tr("9 in 10 by {at}").format(at=clock(promise.sure, day.start)))
    return BoardRow(
        wheel.name,
        wheel.key,
        words,
        waits or ("" if late else "; ".join(more)),
        bool(late),
        tuple(RowHelp(_upper(help_words(day, one)), w, one) for one in helps.get(w, ()))
        if late
        else (),
        day.minute(wheel.due) if wheel.due is not None else None,
        done,
        progress,
    )


def _upper(words: str) -> str:
    return words[:1].upper() + words[1:]


def clock(at: datetime, now: datetime) -> str:
    """Return a time, with its day where that is not today.

    >>> clock(datetime(2026, 11, 25, 9), datetime(2026, 11, 25, 8)), clock(datetime(2026, 11, 26, 9), datetime(2026, 11, 25))
    ('09:00', 'Thu 09:00')
    """
    far = at - now > timedelta(days=6)
    return in_words(
        at, "%H:%M" if at.date() == now.date() else "%a %d %b %H:%M" if far else "%a %H:%M"
    )


def _bars(day: Day, schedule: Schedule, by_wheel: bool, places: Mapping[int, int]) -> list[Bar]:
    result: list[Bar] = []
    pins = pinned(day)
    for one in schedule.placed:
        wheel = day.wheels[one.wheel]
        task = wheel.tasks[one.task]
        bar = Bar(
            row=places[one.wheel] if by_wheel else one.mechanic,
            start=one.start,
            end=one.end,
            words=task.words if by_wheel else f"{wheel.name}: {task.words}",
            stage=stage_words(task),
            name=wheel.name,
            key=wheel.key,
            wheel=one.wheel,
            task=one.task,
            mechanic=one.mechanic,
            late=bool(lateness(day, one.wheel, schedule.done[one.wheel])),
            pinned=(one.wheel, one.task) in pins,
        )
        result.append(bar)
        if by_wheel and task.wait_minutes:
            until = one.end + task.wait_minutes
            result.append(
                msgspec.structs.replace(bar, start=one.end, end=until, words=tr("waits"), wait=True)
            )
    return result


def stage_words(task: Task) -> str:
    return tr(STAGE_WORDS[task.stage]) if task.stage in STAGE_WORDS else task.words


def _end(day: Day, bars: Sequence[Bar], dues: Sequence[int]) -> int:
    """The last minute that is shown: the last bar's end or due time, within bounds, with some room
    after it.
    """
    opens = day.minute(day.hours.next_open(day.start))
    last = max((bar.end for bar in bars if not bar.wait), default=0)
    near = max((due for due in dues if due <= last + NEAR_MIN), default=0)
    return min(max(max(last, near) + 20, opens + 60 * MIN_HOURS), 60 * MAX_HOURS)


def _closed(day: Day, end: int) -> tuple[tuple[int, int], ...]:
    result, at = [], 0
    for opens, closes in day.hours.openings(day.start):
        low, high = day.minute(opens), day.minute(closes)
        if low > at and at < end:
            result.append((at, min(low, end)))
        at = high
        if at >= end:
            break
    return tuple(result)


def visits_of(day: Day, schedule: Schedule, mechanic: int) -> list[list[Placed]]:
    """Return a mechanic's tasks by visits to a wheel: what is done in one go, with the steps of a
    minute or two that follow soon after it.
    """
    visits: list[list[Placed]] = []
    mine = sorted(
        (one for one in schedule.placed if one.mechanic == mechanic), key=lambda one: one.start
    )
    for one in mine:
        own = next((visit for visit in reversed(visits) if visit[0].wheel == one.wheel), None)
        soon = own is not None and one.start - own[-1].end <= SHORT_WAIT_MIN
        if own is not None and soon and (own is visits[-1] or one.end - one.start < MIN_SHOWN_MIN):
            own.append(one)
        else:
            visits.append([one])
    return visits


def visit_words(day: Day, visit: Sequence[Placed]) -> str:
    stages = [stage_words(day.wheels[one.wheel].tasks[one.task]) for one in visit]
    return (
        stages[0]
        if stages[0] == stages[-1]
        else tr("{first} to {last}").format(first=stages[0], last=stages[-1])
    )


def hands_of(
    day: Day, schedule: Schedule, most: int | None = NEXT_SAID
) -> tuple[MechanicNext, ...]:
    """Return what each mechanic does next, a visit to a wheel an action."""
    result = []
    for m, mechanic in enumerate(day.mechanics):
        actions = []
        for visit in visits_of(day, schedule, m)[:most]:
            first, last = visit[0], visit[-1]
            wheel = day.wheels[first.wheel]
            at = tr("now") if first.start <= 0 else clock(day.at(first.start), day.start)
            wait = wheel.tasks[last.task].wait_minutes
            until = clock(day.hours.next_open(day.at(last.end + wait)), day.start) if wait else ""
            actions.append(NextUp(at, visit_words(day, visit), wheel.name, wheel.key, until))
        result.append(MechanicNext(mechanic.name, tuple(actions)))
    return tuple(result)


#: Minutes between two ticks; the first that has room is taken.
TICKS_MIN = (5, 10, 15, 30, 60, 120, 240, 480)


class Axis(msgspec.Struct, frozen=True):
    """The minutes of a board on a line of pixels; closed hours are folded to a narrow strip.

    Attributes:
        knots: (minute, px), from now on.
        per_min: pixels per open minute.
    """

    knots: tuple[tuple[float, float], ...]
    per_min: float

    @property
    def length(self) -> float:
        """Where the last minute is, px."""
        return self.knots[-1][1]

    def x(self, minute: float) -> float:
        return _between(self.knots, minute)

    def minute(self, x: float) -> float:
        return _between(tuple((px, minute) for minute, px in self.knots), x)


def axis_of(board: BoardData, wide_px: float, fold_px: float, zoom_min: int | None = None) -> Axis:
    """Return the axis of a board.

    Args:
        fold_px: width of closed hours.
        zoom_min: open minutes that have room; None for all.
    """
    edges = sorted({0, board.end, *(at for pair in board.closed for at in pair)})
    spans = [
        (a, b, any(low <= a < high for low, high in board.closed))
        for a, b in itertools.pairwise(edges)
    ]
    folded = fold_px * sum(shut for _a, _b, shut in spans)
    opened = max(1, sum(b - a for a, b, shut in spans if not shut))
    per_min = (wide_px - folded) / opened if zoom_min is None else wide_px / zoom_min
    per_min = max(per_min, 0.05)
    px, knots = 0.0, [(0.0, 0.0)]
    for begins, ends, shut in spans:
        px += fold_px if shut else per_min * (ends - begins)
        knots.append((float(ends), px))
    return Axis(tuple(knots), per_min)


def _between(knots: Sequence[tuple[float, float]], at: float) -> float:
    place = min(max(1, sum(knot[0] <= at for knot in knots)), len(knots) - 1)
    (x0, y0), (x1, y1) = knots[place - 1], knots[place]
    return y0 + (y1 - y0) * (at - x0) / (x1 - x0) if x1 > x0 else y0


def ticks_of(board: BoardData, axis: Axis, apart_px: float) -> tuple[tuple[int, str], ...]:
    """Return (minute, words): when the shop opens, with the day, and full times in between where
    there is room.
    """
    result = {ends: "%a %H:%M" for _begins, ends in board.closed if ends < board.end}
    if not any(begins == 0 for begins, _ends in board.closed):
        result[0] = "%H:%M"
    step = next((one for one in TICKS_MIN if one * axis.per_min >= apart_px), TICKS_MIN[-1])
    midnight = board.start.replace(hour=0, minute=0)
    before = int((board.start - midnight).total_seconds() // 60)
    for minute in range(-(before % step) + step, board.end + 1, step):
        shut = any(begins < minute <= ends for begins, ends in board.closed)
        room = all(abs(axis.x(minute) - axis.x(other)) >= apart_px for other in result)
        if room and not shut:
            result[minute] = "%H:%M"
    return tuple(
        (minute, in_words(board.start + timedelta(minutes=minute), form))
        for minute, form in sorted(result.items())
    )


class Group(msgspec.Struct, frozen=True):
    """Bars of a row that are shown as one, with what it says and where: inside, or on its right
    side.
    """

    bars: tuple[Bar, ...]
    words: str
    inside: bool

    @property
    def start(self) -> int:
        return self.bars[0].start

    @property
    def end(self) -> int:
        return max(bar.end for bar in self.bars)


def grouped(
    bars: Sequence[Bar], axis: Axis, wide: Callable[[str], float], inner_px: float, by_wheel: bool
) -> list[Group]:
    """Return the bars of one row, joined until each can say what it is.

    A bar says it inside, or beside it where nothing else is; where neither has room, it is joined
    with the next one. Steps of a few minutes never stand alone while the wheel has more to do soon.

    Args:
        inner_px: what a bar takes besides its words.
    """
    result: list[Group] = []
    rest = sorted(bars, key=lambda bar: bar.start)
    while rest:
        count = 1
        while True:
            mine = tuple(rest[:count])
            end = max(bar.end for bar in mine)
            after = rest[count] if count < len(rest) else None
            room = axis.x(end) - axis.x(mine[0].start) - inner_px
            beside = (
                (axis.x(after.start) if after is not None else math.inf) - axis.x(end) - inner_px
            )
            words = _sayings(mine, by_wheel)
            soon = (
                after is not None
                and after.start - end <= SHORT_WAIT_MIN
                and after.wheel == mine[-1].wheel
            )
            small = end - mine[0].start < MIN_SHOWN_MIN
            said = next((one for one in words if wide(one) <= max(room, beside)), "")
            if after is None or (said and not (small and soon)):
                result.append(Group(mine, said, bool(said) and wide(said) <= room))
                break
            count += 1
        rest = rest[count:]
    return result


def _sayings(bars: Sequence[Bar], by_wheel: bool) -> list[str]:
    """What a group may say, longest first."""
    stages = list(dict.fromkeys(bar.stage for bar in bars))
    work = (
        stages[0]
        if len(stages) == 1
        else tr("{first} to {last}").format(first=stages[0], last=stages[-1])
    )
    if by_wheel:
        return [work, tr("{n} steps").format(n=len(bars))] if len(stages) > 1 else [work]
    names = list(dict.fromkeys(bar.name for bar in bars))
    if len(names) == 1:
        return [f"{names[0]}: {work}", names[0]]
    return [
        tr("{name} and {n} more").format(name=names[0], n=len(names) - 1),
        tr("{n} wheels").format(n=len(names)),
    ]
