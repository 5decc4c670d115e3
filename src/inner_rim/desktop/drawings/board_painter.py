"""The day's board: where everything is, and its painting."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

import msgspec
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF

from inner_rim.core.record.moments import in_words
from inner_rim.desktop.drawings.ring import paint_ring
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.work.text.board import Bar, BoardData, BoardRow, Group, axis_of, grouped, ticks_of

#: At 100 % text: the column of names, the ticks, a bar, a line of the sentence, the column at the
#: row's end.
NAMES_PX, HEAD_PX, BAR_PX, LINE_PX, SIDE_PX = 168, 26, 30, 20, 330
#: Around a row's parts; a bar's least width; closed hours; what is beside a bar's words; room for
#: those of the last bar.
PAD_PX, MIN_BAR_PX, FOLD_PX, INNER_PX, TAIL_PX = 6, 5.0, 18, 10.0, 70
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
        self,
        theme: Theme,
        day: BoardData,
        width: int,
        zoom: int | None,
        helps: Sequence[Sequence[int]],
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
        hands = [
            [bar for bar in day.bars if bar.row == row and not bar.wait]
            for row in range(len(day.rows))
        ]
        self.groups = [
            group
            for bars in hands
            for group in grouped(
                bars, self.axis, lambda words: theme.width_of(words, SMALL), inner, day.by_wheel
            )
        ]
        self.tops = [float(theme.px(HEAD_PX))]
        for row in range(len(day.rows)):
            self.tops.append(self.tops[-1] + self._row_px(row))

    # -- time ------------------------------------------------------------------------------------

    @property
    def max_shifted(self) -> float:
        return max(0.0, self.axis.length - self.room_px)

    def x(self, minute: float) -> float:
        return self.left + self.axis.x(minute) - self.shifted

    def line(self, row: int) -> tuple[float, float]:
        return self.tops[min(row, len(self.tops) - 1)] + PAD_PX, float(self._theme.px(BAR_PX))

    def box(self, bar: Bar) -> QRectF:
        top, high = self.line(bar.row)
        left, right = self.x(bar.start), self.x(bar.end)
        return QRectF(left, top, max(MIN_BAR_PX, right - left), high)

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
            return QRectF(
                self._width - self._theme.px(SIDE_PX) + 10.0, top, self._side_room(), high
            )
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
        below = (
            self._words_px(row) + len(lines) * (self._theme.px(HELP_PX) + 4) + (4 if lines else 0)
        )
        name = self._name_px(self.day.rows[row])
        if self.wide:
            return max(self._theme.px(BAR_PX), name, below) + 2 * PAD_PX
        return max(self._theme.px(BAR_PX) + 2 + below, name) + 2 * PAD_PX


#: Room between two ticks, px at 100 % text.
TICK_PX = 72


class BoardPainter:
    """Paints bars, waits, promises and the words beside them.

    Args:
        top: where the part of the board that is in view begins, px.
    """

    def __init__(
        self, painter: QPainter, places: BoardLayout, day: BoardData, theme: Theme, top: int
    ) -> None:
        self._painter, self._places, self._day, self._theme, self._top = (
            painter,
            places,
            day,
            theme,
            float(top),
        )

    def paint(self, size: QSize, chosen: Bar | None) -> None:
        """Paint the board; the group of the bar that is chosen has a thick outline."""
        day, theme, painter, places = self._day, self._theme, self._painter, self._places
        painter.fillRect(QRectF(0.0, 0.0, size.width(), size.height()), theme.color("card"))
        bottom = places.tops[-1]
        painter.save()
        painter.setClipRect(QRectF(places.left, 0.0, places.room_px + 8.0, float(size.height())))
        for begins, ends in day.closed:
            left = places.x(begins)
            painter.fillRect(
                QRectF(left, 0.0, places.x(ends) - left, bottom), theme.color("ground")
            )
        ticks = ticks_of(day, places.axis, theme.px(TICK_PX))
        for minute, _words in ticks:
            painter.fillRect(QRectF(places.x(minute), 0.0, 1.0, bottom), theme.color("line"))
        for bar in day.bars:
            if bar.wait:
                self._paint_wait(bar)
        for group in places.groups:
            self._paint_group(group, chosen in group.bars)
        for place, row in enumerate(day.rows):
            if row.due is not None and row.done is not None:
                self._paint_due(place, row.due, row.done)
        if places.shifted <= 0.5:
            painter.setPen(QPen(theme.color("stop"), 2.0))
            painter.drawLine(QPointF(places.x(0), 0.0), QPointF(places.x(0), bottom))
        painter.restore()
        for place, row in enumerate(day.rows):
            self._paint_row(place, row, float(size.width()))
        self._paint_ticks(ticks, float(size.width()))

    def _paint_ticks(self, ticks: tuple[tuple[int, str], ...], width: float) -> None:
        theme, painter, top, head = (
            self._theme,
            self._painter,
            self._top,
            float(self._theme.px(HEAD_PX)),
        )
        painter.fillRect(QRectF(0.0, top, width, head - 2.0), theme.color("card"))
        painter.setFont(theme.font(SMALL))
        painter.setPen(theme.color("muted"))
        right = self._places.left + self._places.room_px + 8.0
        for minute, words in ticks:
            wide = theme.width_of(words, SMALL)
            x = max(self._places.x(minute) - wide / 2.0, self._places.left - 4.0)
            if self._places.x(minute) >= self._places.left - 1.0 and x + wide <= max(
                right, self._places.left + wide
            ):
                painter.drawText(
                    QRectF(x, top, wide + 4.0, head - 4.0), Qt.AlignmentFlag.AlignVCenter, words
                )

    def _paint_row(self, place: int, row: BoardRow, width: float) -> None:
        theme, painter = self._theme, self._painter
        painter.fillRect(QRectF(0.0, self._places.tops[place], width, 1.0), theme.color("line"))
        top, high = self._places.line(place)
        left = 4.0
        if row.key:
            side = min(high - 6.0, float(theme.px(RING_PX)))
            paint_ring(
                painter, QRectF(left, top + (high - side) / 2.0, side, side), row.progress, theme
            )
            left += side + 6.0
        room, line = self._places.name_room(row), float(theme.px(LINE_PX))
        lines, end = self._places.name_lines(row), row.name.partition(PART)[2]
        painter.setFont(theme.font(TEXT, 600))
        painter.setPen(theme.color("stop" if row.late else "ink"))
        y = self._say(QRectF(left, top + (0.0 if len(lines) > 1 else 4.0), room, line), lines)
        if end:
            painter.setFont(theme.font(SMALL))
            self._say(QRectF(left, y, room, line), [end])
        painter.setPen(theme.color("stop" if row.late else "ink"))
        box = self._places.side(place) if self._day.by_wheel else QRectF()
        if not self._places.wide:  # no time label runs through the words
            painter.fillRect(box.adjusted(-2.0, 0.0, 8.0, 0.0), theme.color("card"))
        box.setHeight(line)
        if row.sentence:
            painter.setFont(theme.font(SMALL, 600))
            box.moveTop(self._say(box, self._places.wrapped(row.sentence, 600)))
        if row.reason:
            painter.setFont(theme.font(SMALL))
            painter.setPen(theme.color("muted" if row.sentence else "stop" if row.late else "ink"))
            self._say(box, self._places.wrapped(row.reason, 400))

    def _say(self, line: QRectF, words: list[str]) -> float:
        """Paint lines below each other; return where the next one would begin."""
        for one in words:
            self._painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, one)
            line = line.translated(0.0, line.height())
        return line.top()

    def _paint_wait(self, bar: Bar) -> None:
        painter = self._painter
        painter.setPen(QPen(self._theme.color("edge"), 1.0))
        painter.setBrush(QBrush(self._theme.color("edge"), Qt.BrushStyle.BDiagPattern))
        painter.drawRect(self._places.box(bar).adjusted(0, 8, 0, -8))

    def _paint_group(self, group: Group, chosen: bool) -> None:
        theme, painter, box, first = (
            self._theme,
            self._painter,
            self._places.group_box(group),
            group.bars[0],
        )
        fill = theme.color("stop_soft" if first.late else "accent_soft")
        for bar in group.bars:
            painter.fillRect(self._places.box(bar).intersected(box), fill)
        painter.setPen(QPen(theme.color("ink"), 3.0 if chosen else 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        left = box.left() + 4.0
        if any(bar.pinned for bar in group.bars):  # a head and a needle, at the upper edge
            painter.setBrush(theme.color("ink"))
            painter.setPen(QPen(theme.color("ink"), 1.5))
            painter.drawLine(
                QPointF(left + 3.0, box.top() + 4.0), QPointF(left + 3.0, box.bottom() - 3.0)
            )
            painter.drawEllipse(QPointF(left + 3.0, box.top() + 4.0), 3.0, 3.0)
            left += 10.0
        painter.setFont(theme.font(SMALL))
        wide = theme.width_of(group.words, SMALL)
        left = left if group.inside else box.right() + 4.0
        if not group.inside or len(group.bars) > 1:  # on its own background, over the hatching
            plate = QRectF(left - 2.0, box.top() + 5.0, wide + 4.0, box.height() - 10.0)
            painter.fillRect(plate, theme.color("card"))
        painter.setPen(theme.color("stop" if first.late else "ink"))
        room = QRectF(left, box.top(), wide + 4.0, box.height())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, group.words)

    def _paint_due(self, row: int, minute: int, done: int) -> None:
        """A flag where the wheel is promised, and the margin from when it is ready; filled where it
        will be late.
        """
        theme, painter, late = self._theme, self._painter, done > minute
        top, high = self._places.line(row)
        x = self._places.x(minute)
        color = theme.color("stop" if late else "accent")
        painter.setPen(QPen(color, 1.5, Qt.PenStyle.DotLine))
        ready = self._places.x(min(done, self._day.end))
        painter.drawLine(
            QPointF(min(x, ready), top + high + 1.0), QPointF(max(x, ready), top + high + 1.0)
        )
        painter.setPen(QPen(color, 2.0))
        painter.drawLine(QPointF(x, top - 2), QPointF(x, top + high + 3))
        painter.setBrush(color if late else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(
            QPolygonF([QPointF(x, top - 2), QPointF(x + 11, top + 3), QPointF(x, top + 8)])
        )

    def paint_dragged(self, bar: Bar, minute: int, mechanic: int, width: float) -> None:
        """Paint where a bar is dragged to, and that time above it."""
        theme, painter = self._theme, self._painter
        row = bar.row if self._day.by_wheel else mechanic
        there = msgspec.structs.replace(
            bar, row=row, start=minute, end=minute + bar.end - bar.start
        )
        box = self._places.box(there)
        painter.setPen(QPen(theme.color("accent"), 2.0, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        words = in_words(self._day.start + timedelta(minutes=minute), "%a %H:%M")
        painter.setFont(theme.font(SMALL, 600))
        wide = painter.fontMetrics().horizontalAdvance(words) + 8
        plate = QRectF(
            min(box.left(), width - wide - 2.0), self._top, wide, theme.px(HEAD_PX) - 4.0
        )
        painter.fillRect(plate, theme.color("accent"))
        painter.setPen(theme.color("card"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)
