"""Maps the minutes of a board to pixels, and joins bars so that they can be read."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from datetime import timedelta

import msgspec

from inner_rim.core.record.moments import in_words
from inner_rim.words import tr
from inner_rim.work.text.board import MIN_SHOWN_MIN, SHORT_WAIT_MIN, Bar, BoardData

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
