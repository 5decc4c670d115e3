"""The close-up: both bead seats, as lenses beside the cross-section or large in a view of their
own.
"""

from __future__ import annotations

import itertools
import math
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QImage,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import QWidget

from inner_rim.core.drawing.loupe import SeatLoupe
from inner_rim.core.drawing.section import Point
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr


@lru_cache(maxsize=512)
def polygon(points: tuple[Point, ...]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points])


def to_mm(painter: QPainter, origin: QPointF, scale: float) -> None:
    """Let a painter draw in mm about a point, y upwards."""
    painter.translate(origin)
    painter.scale(scale, -scale)


#: How many times larger than the cross-section beside it.
TIMES = 4.0
#: Painted from back to front: outline, fill.
_LAYERS = (
    ("air", "air"),
    ("insert", "foam"),
    ("casing", "rubber"),
    ("rim", "metal"),
    ("rim_cavity", "card"),
    ("bead", "rubber"),
)
#: Radius of what a lens shows in a view of its own, mm.
REACH_MM = 5.2
NEAR_PX = 7.0
MIN_TAPE_PX = 1.6
_TRANSPARENT = QImage.Format.Format_ARGB32_Premultiplied


class Lens:
    """A round piece of the cross-section, magnified."""

    def __init__(self, box: QRectF, seat: SeatLoupe, scale: float) -> None:
        self.box, self.seat, self.scale = box, seat, scale

    def at(self, point: Point) -> QPointF:
        x, y = self.seat.middle
        middle = self.box.center()
        return QPointF(
            middle.x() + (point[0] - x) * self.scale, middle.y() - (point[1] - y) * self.scale
        )

    def polygon(self, points: tuple[Point, ...]) -> QPolygonF:
        return QPolygonF([self.at(point) for point in points])

    def paint(self, painter: QPainter, theme: Theme) -> None:
        """Paint it on a card: metal, bead, every layer of tape at its thickness, and where the edge
        may be.
        """
        painter.save()
        # a round clip costs more than to cover the corners afterwards
        painter.setClipRect(self.box)
        painter.fillRect(self.box, theme.color("card"))
        painter.save()
        to_mm(painter, self.at((0.0, 0.0)), self.scale)
        edge = theme.outline("metal_edge")
        for name, fill in _LAYERS:
            outline = self.seat.outlines.get(name)
            if outline:
                painter.setPen(edge if name != "air" else Qt.PenStyle.NoPen)
                painter.setBrush(theme.color(fill))
                painter.drawPolygon(polygon(outline))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        thick = max(MIN_TAPE_PX, self.seat.thickness_mm * self.scale - 0.6)
        for i, layer in enumerate(self.seat.layers):
            away = QPointF(
                0.0, max(0.0, MIN_TAPE_PX + 0.8 - self.seat.thickness_mm * self.scale) * i
            )
            # edged, so that layers are told apart
            for color, wide in (("rubber", thick + 1.0), ("tape", thick)):
                painter.setPen(QPen(theme.color(color), wide, cap=Qt.PenCapStyle.FlatCap))
                painter.drawPolyline(self.polygon(layer).translated(away))
        if self.seat.band:
            painter.setPen(QPen(theme.color("caution"), 2.0, Qt.PenStyle.DashLine))
            painter.drawPolyline(self.polygon(self.seat.band).translated(0.0, 3.0))
        self._paint_gap(painter, theme)
        painter.restore()
        device = painter.device()
        size, sharp = (
            round(self.box.width()),
            device.devicePixelRatioF() if device is not None else 1.0,
        )
        frame = _frame(size, sharp, theme.color("card").rgb(), theme.color("ink").rgb())
        painter.drawImage(self.box.topLeft() - QPointF(1.0, 1.0), frame)

    def picture(self, sharp: float, theme: Theme) -> QImage:
        """Return it as a picture, a pixel larger on every side."""
        side = self.box.width() + 2.0
        image = QImage(round(side * sharp), round(side * sharp), _TRANSPARENT)
        image.setDevicePixelRatio(sharp)
        image.fill(0)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(QPointF(1.0, 1.0) - self.box.topLeft())
        self.paint(painter, theme)
        painter.end()
        return image

    def _paint_gap(self, painter: QPainter, theme: Theme) -> None:
        gap = self.seat.gap
        if gap is None or gap.length_mm * self.scale < 3.0:
            return
        start, end = self.at(gap.start), self.at(gap.end)
        away = (
            QPointF(0.0, 7.0) if self.seat.gap_mm and self.seat.gap_mm > 0.0 else QPointF(0.0, 0.0)
        )
        painter.setPen(QPen(theme.color("ink"), 1.5))
        painter.drawLine(start + away, end + away)
        for point in (start, end):
            painter.drawLine(point + away - QPointF(0, 3), point + away + QPointF(0, 3))

    def field_at(self, position: QPointF) -> str | None:
        middle = self.box.center()
        if (
            math.hypot(position.x() - middle.x(), position.y() - middle.y())
            > 0.5 * self.box.width()
        ):
            return None
        for layer in self.seat.layers:
            points = [self.at(point) for point in layer]
            if (
                min(math.hypot(p.x() - position.x(), p.y() - position.y()) for p in _dense(points))
                < NEAR_PX
            ):
                return "practice.tape_width"

        def inside(name: str) -> bool:
            outline = self.seat.outlines.get(name)
            return bool(outline) and self.polygon(outline or ()).containsPoint(
                position, Qt.FillRule.OddEvenFill
            )

        if inside("bead") or inside("casing"):
            return "tire.size"
        if inside("rim"):
            return "rim.hook" if position.y() > self.at((0.0, 0.0)).y() else "rim.well.depth_mm"
        return "insert.name" if inside("insert") else "tire.size"


def paint_pair(painter: QPainter, lenses: tuple[Lens, ...], theme: Theme) -> None:
    """Paint both lenses; seats that mirror each other are painted once."""
    if len(lenses) != 2 or not lenses[0].seat.even:
        for lens in lenses:
            lens.paint(painter, theme)
        return
    (left, right), device = lenses, painter.device()
    picture = left.picture(device.devicePixelRatioF() if device is not None else 1.0, theme)
    painter.drawImage(left.box.topLeft() - QPointF(1.0, 1.0), picture)
    wide = picture.deviceIndependentSize().width()  # not quite the box's: whole device pixels
    painter.drawImage(
        QPointF(right.box.right() + 1.0 - wide, right.box.top() - 1.0),
        picture.mirrored(True, False),
    )


@lru_cache(maxsize=8)
def _frame(size: int, sharp: float, card: int, ink: int) -> QImage:
    """Return the rim of a lens with what covers its corners, a pixel larger on every side."""
    image = QImage(round((size + 2) * sharp), round((size + 2) * sharp), _TRANSPARENT)
    image.setDevicePixelRatio(sharp)
    image.fill(0)
    box = QRectF(1.0, 1.0, size, size)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    corners = QPainterPath()
    corners.addRect(box.adjusted(-1.0, -1.0, 1.0, 1.0))
    corners.addEllipse(box)
    painter.fillPath(corners, QColor(card))
    painter.setPen(QPen(QColor(ink), 1.5))
    painter.drawEllipse(box)
    painter.end()
    return image


def _dense(points: list[QPointF]) -> list[QPointF]:
    """Return points along a line, close enough to each other to measure a distance from."""
    result = list(points)
    for start, end in itertools.pairwise(points):
        result += [start + (end - start) * (i / 24.0) for i in range(1, 24)]
    return result


def gap_words(seat: SeatLoupe, units: UnitChoice) -> str:
    """Return how the tape's edge lies at the wall, in a few words."""
    if not seat.layers:
        return tr("no tape")
    if seat.gap_mm is None:
        return tr("against the wall")
    gap = show(abs(seat.gap_mm), "mm", units)
    if abs(seat.gap_mm) < 0.05:
        return tr("up to the wall")
    return (
        tr("{gap} bare").format(gap=gap)
        if seat.gap_mm > 0.0
        else tr("climbs {gap}").format(gap=gap)
    )


def wall_words(seat: SeatLoupe) -> str:
    if seat.hooked is None:
        return tr("hook not entered, drawn hooked")
    return tr("hooked wall") if seat.hooked else tr("hookless wall")


class LoupeView(Picture):
    """Both bead seats, as large as there is room."""

    clicked_part = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._seats: tuple[SeatLoupe, ...] = ()
        self._units = UnitChoice()
        self.setMinimumSize(180, 60)
        self.setAccessibleName(tr("Close-up of both bead seats"))

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_seats(self, seats: tuple[SeatLoupe, ...], units: UnitChoice) -> None:
        """Show both seats; none where there is nothing to draw yet."""
        if seats == self._seats and units == self._units:
            return
        self._seats, self._units = seats, units
        self.setAccessibleDescription(
            "; ".join(
                f"{tr(seat.side)}: {gap_words(seat, units)}, {wall_words(seat)}" for seat in seats
            )
        )
        self.update()

    def lenses(self) -> tuple[Lens, ...]:
        if not self._seats:
            return ()
        row = self._theme.px(20)
        room = QRectF(self.rect()).adjusted(4.0, row + 4.0, -4.0, -2.4 * row)
        size = float(int(max(24.0, min(0.5 * room.width() - 4.0, room.height()))))
        top = float(int(room.center().y() - 0.5 * size))
        boxes = (
            QRectF(float(int(room.center().x())) - size - 4.0, top, size, size),
            QRectF(float(int(room.center().x())) + 4.0, top, size, size),
        )
        return tuple(
            Lens(box, seat, 0.5 * size / REACH_MM)
            for box, seat in zip(boxes, self._seats, strict=True)
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint both lenses with the words above and below them."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, row = self._theme, self._theme.px(20)
        lenses = self.lenses()
        paint_pair(painter, lenses, theme)
        for lens in lenses:
            seat, box = lens.seat, lens.box
            wide = QRectF(box.left(), box.top() - row - 2, box.width(), row)
            painter.setFont(theme.font(SMALL))
            painter.setPen(theme.color("muted"))
            painter.drawText(wide, Qt.AlignmentFlag.AlignCenter, tr(seat.side))
            below = QRectF(box.left(), box.bottom() + 2, box.width(), row)
            painter.setFont(theme.fitted(gap_words(seat, self._units), box.width(), TEXT, 600))
            painter.setPen(theme.color("ink"))
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, gap_words(seat, self._units))
            hooked = "" if seat.hooked else wall_words(seat)  # the usual case goes without saying
            words = tr("dashed: rim well not measured") if seat.band else hooked
            painter.setFont(theme.font(SMALL))
            painter.setPen(theme.color("caution" if seat.band else "muted"))
            painter.drawText(below.translated(0, row), Qt.AlignmentFlag.AlignCenter, words)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        field = next(
            (result for lens in self.lenses() if (result := lens.field_at(event.position()))), None
        )
        if field is not None:
            self.clicked_part.emit(field)
