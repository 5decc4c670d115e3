"""Curves over an axis, painted: the live trace, earlier pressures by days, levels across."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.drawings.plot import place
from inner_rim.desktop.widgets.picture import Picture
from inner_rim.desktop.widgets.theme import SMALL, Theme
from inner_rim.words import with_mark

LEFT_PX, BOTTOM_PX, TOP_PX, RIGHT_PX = 38, 22, 8, 8
DOT_PX, POP_PX, TICK_PX = 4.0, 7.0, 48


class Curve(msgspec.Struct, frozen=True):
    """Points in their order, joined by a line; `dotted` where each is a reading of its own."""

    points: tuple[tuple[float, float], ...]
    purpose: str = "accent"
    dotted: bool = False


class Across(msgspec.Struct, frozen=True):
    """A level across the plot, with its words."""

    y: float
    words: str
    purpose: str
    width: float = 1.0
    dashed: bool = False


class CurvesView(Picture):
    """Shows curves, levels and pops."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self.curves: tuple[Curve, ...] = ()
        self.levels: tuple[Across, ...] = ()
        self.pops: tuple[tuple[float, float], ...] = ()
        self.x_range, self.y_range = (0.0, 1.0), (0.0, 1.0)
        self.setMinimumSize(120, 60)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_curves(self, curves: Sequence[Curve], x_range: tuple[float, float]) -> None:
        if (tuple(curves), x_range) != (self.curves, self.x_range):
            self.curves, self.x_range = tuple(curves), x_range
            self.update()

    def show_levels(
        self, levels: Sequence[Across], pops: Sequence[tuple[float, float]], y_range: tuple[float, float]
    ) -> None:
        self.levels, self.pops, self.y_range = tuple(levels), tuple(pops), y_range
        self.update()

    def at(self, x: float, y: float) -> QPointF:
        return place(self._field(), self.x_range, self.y_range, x, y)

    def _field(self) -> QRectF:
        px = self._theme.px
        return QRectF(self.rect()).adjusted(px(LEFT_PX), px(TOP_PX), -px(RIGHT_PX), -px(BOTTOM_PX))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        theme, field = self._theme, self._field()
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("card"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_axes(painter)
        painter.setClipRect(field.adjusted(-8.0, -8.0, 8.0, 8.0))
        painter.setFont(theme.font(SMALL))
        for level in self.levels:
            style = Qt.PenStyle.DashLine if level.dashed else Qt.PenStyle.SolidLine
            painter.setPen(QPen(theme.color(level.purpose), level.width, style))
            left = self.at(self.x_range[0], level.y)
            painter.drawLine(left, QPointF(field.right(), left.y()))
            words = QRectF(left.x() + 6.0, left.y() - theme.px(18), field.width(), theme.px(17))
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, level.words)
        for curve in self.curves:
            points = [self.at(x, y) for x, y in curve.points]
            painter.setPen(QPen(theme.color(curve.purpose), 2.0))
            painter.drawPolyline(QPolygonF(points))
            painter.setBrush(theme.color(curve.purpose))
            for point in points if curve.dotted else ():
                painter.drawEllipse(point, DOT_PX, DOT_PX)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("caution"))
        for x, y in self.pops:
            tip = self.at(x, y)
            corners = (QPointF(-POP_PX, -2 * POP_PX), QPointF(POP_PX, -2 * POP_PX))
            painter.drawPolygon(QPolygonF([tip, *(tip + corner for corner in corners)]))

    def _paint_axes(self, painter: QPainter) -> None:
        theme, field = self._theme, self._field()
        painter.setFont(theme.font(SMALL))
        painter.setPen(QPen(theme.color("muted"), 1.0))
        painter.drawLine(field.bottomLeft(), field.bottomRight())
        painter.drawLine(field.bottomLeft(), field.topLeft())
        high, wide = theme.px(16), theme.px(TICK_PX)
        for y in ticks(*self.y_range, max(2, int(field.height() // wide))):
            place = self.at(self.x_range[0], y).y()
            box = QRectF(0.0, place - high / 2.0, field.left() - 5.0, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, with_mark(f"{y:g}"))
        for x in ticks(*self.x_range, max(2, int(field.width() // wide))):
            place = self.at(x, self.y_range[0]).x()
            painter.drawLine(QPointF(place, field.bottom()), QPointF(place, field.bottom() + 4.0))
            box = QRectF(place - wide / 2.0, field.bottom() + 4.0, wide, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, with_mark(f"{x:g}"))


def ticks(low: float, high: float, most: int) -> list[float]:
    """Return at most `most` round values of a range, 1, 2 or 5 times a power of ten apart.

    >>> ticks(0.0, 3.8, 5), ticks(0.0, 13.0, 8)
    ([0.0, 1.0, 2.0, 3.0], [0.0, 2.0, 4.0, 6.0, 8.0, 10.0, 12.0])
    """
    if high <= low:
        return [low]
    unit = 10.0 ** math.floor(math.log10((high - low) / most))
    step = next(unit * times for times in (1, 2, 5, 10) if (high - low) / (unit * times) <= most)
    first = math.ceil(low / step)
    return [round(step * place, 10) for place in range(first, math.floor(high / step + 1e-9) + 1)]
