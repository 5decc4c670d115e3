"""Curves over an axis, painted: the live trace, earlier pressures by days, levels across."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import msgspec
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.drawings.plot import place
from inner_rim.desktop.widgets.picture import Picture
from inner_rim.desktop.widgets.theme import SMALL, Theme
from inner_rim.words import with_mark

LEFT_PX, BOTTOM_PX, TOP_PX, RIGHT_PX = 38, 22, 8, 8
DOT_PX, POP_PX, TICK_PX = 4.0, 7.0, 48
#: More points than this are drawn in a thin line: a wide one takes a painter long.
MOST_WIDE = 200

Point = tuple[float, float]
#: From the place up to which a curve was drawn: its points from there on, and the next place.
Grown = Callable[[int], tuple[Sequence[Point], int]]


class Curve(msgspec.Struct, frozen=True):
    """Points in their order, joined by a line; `dotted` where each is a reading of its own."""

    points: tuple[tuple[float, float], ...]
    purpose: str = "accent"
    dotted: bool = False


class Across(msgspec.Struct, frozen=True):
    y: float
    words: str
    purpose: str
    width: float = 1.0
    dashed: bool = False


class CurvesView(Picture):
    """Shows curves, levels and pops; a curve that grows is drawn on where it ended, never over the whole again."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self.curves: tuple[Curve, ...] = ()
        self.levels: tuple[Across, ...] = ()
        self.pops: tuple[tuple[float, float], ...] = ()
        self.x_range, self.y_range = (0.0, 1.0), (0.0, 1.0)
        self.live: Grown | None = None
        self._sheet, self._drawn = QPixmap(), 0
        self._sheet_of: tuple[object, ...] = ()
        self.setMinimumSize(120, 60)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._begin_again()

    def _begin_again(self) -> None:
        self._sheet_of = ()
        self.update()

    def show_curves(self, curves: Sequence[Curve], x_range: tuple[float, float]) -> None:
        if (tuple(curves), x_range, self.live) != (self.curves, self.x_range, None):
            self.curves, self.x_range, self.live = tuple(curves), x_range, None
            self._begin_again()

    def show_live(self, points: Grown, count: int, x_range: tuple[float, float]) -> None:
        """Show a curve that grows.

        Args:
            count: how many points there are.
        """
        if self.live is None or x_range != self.x_range or count < self._drawn:
            self._sheet_of = ()
        self.curves, self.x_range, self.live = (), x_range, points
        self.update()

    def show_levels(self, levels: Sequence[Across], pops: Sequence[Point], y_range: tuple[float, float]) -> None:
        if (tuple(levels), y_range) != (self.levels, self.y_range):
            self._sheet_of = ()
        self.levels, self.pops, self.y_range = tuple(levels), tuple(pops), y_range
        self.update()

    def at(self, x: float, y: float) -> QPointF:
        return place(self._field(), self.x_range, self.y_range, x, y)

    def _field(self) -> QRectF:
        px = self._theme.px
        return QRectF(self.rect()).adjusted(px(LEFT_PX), px(TOP_PX), -px(RIGHT_PX), -px(BOTTOM_PX))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        sheet_of = (self.size(), self.devicePixelRatioF())
        if self._sheet_of != sheet_of:
            self._sheet, self._sheet_of, self._drawn = self._fresh_sheet(), sheet_of, 0
        if self.live is not None:
            points, self._drawn = self.live(self._drawn)
            self._draw_on(points)
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("caution"))
        for x, y in self.pops:
            tip = self.at(x, y)
            corners = (QPointF(-POP_PX, -2 * POP_PX), QPointF(POP_PX, -2 * POP_PX))
            painter.drawPolygon(QPolygonF([tip, *(tip + corner for corner in corners)]))

    def _fresh_sheet(self) -> QPixmap:
        """Axes, levels, and the curves that do not grow."""
        theme, field = self._theme, self._field()
        sheet = QPixmap(self.size() * self.devicePixelRatioF())
        sheet.setDevicePixelRatio(self.devicePixelRatioF())
        sheet.fill(theme.color("card"))
        painter = self._painter_on(sheet)
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
        painter.end()
        return sheet

    def _draw_on(self, points: Sequence[Point]) -> None:
        if not points:
            return
        painter = self._painter_on(self._sheet)
        painter.setClipRect(self._field().adjusted(-8.0, -8.0, 8.0, 8.0))
        painter.setPen(QPen(self._theme.color("accent"), 2.0 if len(points) < MOST_WIDE else 1.0))
        painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in points]))
        painter.end()

    def _painter_on(self, sheet: QPixmap) -> QPainter:
        painter = QPainter(sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        return painter

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
