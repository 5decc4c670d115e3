"""The layout of the day's board: rows, bars, sentences, buttons; worked out once for a day and a width."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
from PyQt6.QtCore import QRectF

from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.work.text.board import Bar, BoardData, BoardRow
from inner_rim.work.text.board_axis import Group, axis_of, grouped

#: At 100 % text: the column of names, the ticks, a bar, a line of the sentence, the column at the row's end.
NAMES_PX, HEAD_PX, BAR_PX, LINE_PX, SIDE_PX = 168, 26, 30, 20, 330
#: Around a row's parts; a bar's least width; closed hours; what is beside a bar's words; room for those of the last bar.
PAD_PX, LEAST_BAR_PX, FOLD_PX, INNER_PX, TAIL_PX = 6, 5.0, 18, 10.0, 70
#: The sentence is at the end of the row from this width on, else under its bars.
WIDE_PX = 1080
#: A button that helps, the gap between two, and a wheel's ring.
HELP_PX, HELP_GAP_PX, RING_PX = 40, 6, 22
#: Separates a wheel's name and its end of the bicycle.
PART = " · "


class BoardLayout:
    """Places on a board.

    Args:
        zoom: open minutes in view; None for all that is planned.
        helps: widths of the buttons of each row, px.

    Attributes:
        groups: bars as they are shown.
        tops: of the rows, and where the last one ends.
        shifted: how much of the axis lies before what is in view, px.
    """

    def __init__(
        self, theme: Theme, day: BoardData, width: int, zoom: int | None, helps: Sequence[Sequence[int]]
    ) -> None:
        self._theme, self.day, self._width, self._helps = theme, day, width, helps
        self.shifted = 0.0
        self.wide = day.by_wheel and width >= theme.px(WIDE_PX)
        self.left = float(theme.px(NAMES_PX))
        side = theme.px(SIDE_PX) if self.wide else 12
        self.room_px = max(60.0, width - self.left - side)
        tail = theme.px(TAIL_PX) if zoom is None else 0
        self.axis = axis_of(day, max(60.0, self.room_px - tail), theme.px(FOLD_PX), zoom)
        inner = INNER_PX + theme.px(BAR_PX - 8)
        hands = [[bar for bar in day.bars if bar.row == row and not bar.wait] for row in range(len(day.rows))]
        self.groups = [
            group
            for bars in hands
            for group in grouped(bars, self.axis, lambda words: theme.width_of(words, SMALL), inner, day.by_wheel)
        ]
        self.tops = [float(theme.px(HEAD_PX))]
        for row in range(len(day.rows)):
            self.tops.append(self.tops[-1] + self._row_px(row))

    # -- time ------------------------------------------------------------------------------------

    @property
    def most_shifted(self) -> float:
        return max(0.0, self.axis.length - self.room_px)

    def x(self, minute: float) -> float:
        return self.left + self.axis.x(minute) - self.shifted

    def line(self, row: int) -> tuple[float, float]:
        return self.tops[min(row, len(self.tops) - 1)] + PAD_PX, float(self._theme.px(BAR_PX))

    def box(self, bar: Bar) -> QRectF:
        top, high = self.line(bar.row)
        left, right = self.x(bar.start), self.x(bar.end)
        return QRectF(left, top, max(LEAST_BAR_PX, right - left), high)

    def group_box(self, group: Group) -> QRectF:
        return self.box(msgspec.structs.replace(group.bars[0], end=group.end))

    # -- rows ------------------------------------------------------------------------------------

    def row_at(self, y: float) -> int:
        """Return the row at a height; the first or the last one beyond them."""
        return min(sum(top <= y for top in self.tops[1:]), len(self.day.rows) - 1)

    def name_room(self, row: BoardRow) -> float:
        return self.left - (self._theme.px(RING_PX) + 6 if row.key else 0) - 12.0

    def name_lines(self, row: BoardRow) -> list[str]:
        return self._theme.wrapped(row.name.partition(PART)[0], self.name_room(row), TEXT, 600)

    def wrapped(self, words: str, weight: int) -> list[str]:
        """Return words in lines at the row's end, or under its bars."""
        return self._theme.wrapped(words, self._side_room(), SMALL, weight, most=4)

    def side(self, row: int) -> QRectF:
        top, high = self.tops[row] + PAD_PX, self.tops[row + 1] - self.tops[row] - 2 * PAD_PX
        if self.wide:
            return QRectF(self._width - self._theme.px(SIDE_PX) + 10.0, top, self._side_room(), high)
        bars = self._theme.px(BAR_PX) + 2
        return QRectF(self.left, top + bars, self._side_room(), high - bars)

    def help_boxes(self, row: int) -> list[QRectF]:
        box, high = self.side(row), float(self._theme.px(HELP_PX))
        top = box.top() + self._words_px(row) + 4.0
        return [
            QRectF(box.left() + x, top + line * (high + 4.0), wide, high)
            for (x, line), wide in zip(self._help_places(row), self._helps[row], strict=True)
        ]

    def _side_room(self) -> float:
        return self._theme.px(SIDE_PX) - 14.0 if self.wide else self._width - self.left - 8.0

    def _help_places(self, row: int) -> list[tuple[float, int]]:
        """(x, line) of each button: beside each other while there is room."""
        result: list[tuple[float, int]] = []
        x, line = 0.0, 0
        for wide in self._helps[row]:
            if x and x + wide > self._side_room():
                x, line = 0.0, line + 1
            result.append((x, line))
            x += wide + HELP_GAP_PX
        return result

    def _words_px(self, row: int) -> int:
        said = self.day.rows[row]
        lines = len(self.wrapped(said.sentence, 600)) + len(self.wrapped(said.reason, 400))
        return lines * self._theme.px(LINE_PX)

    def _name_px(self, row: BoardRow) -> int:
        lines = len(self.name_lines(row))
        return (lines + (PART in row.name)) * self._theme.px(LINE_PX) + (0 if lines > 1 else 4)

    def _row_px(self, row: int) -> float:
        lines = {line for _x, line in self._help_places(row)}
        below = self._words_px(row) + len(lines) * (self._theme.px(HELP_PX) + 4) + (4 if lines else 0)
        name = self._name_px(self.day.rows[row])
        if self.wide:
            return max(self._theme.px(BAR_PX), name, below) + 2 * PAD_PX
        return max(self._theme.px(BAR_PX) + 2 + below, name) + 2 * PAD_PX
