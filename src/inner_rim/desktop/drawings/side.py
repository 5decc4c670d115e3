"""The wheel from the side before it is seated: tape start and overlap, spokes, finish point, pool."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from inner_rim.core.drawing.section import Side
from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.units import CUT, UnitChoice, show
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SMALL, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel


class SideView(Picture):
    """One wheel, valve at the top, to scale along the rim."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._state: PlannedWheel | None = None
        self._units = UnitChoice()
        self.side: Side | None = None
        self.setMinimumSize(240, 160)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_wheel(self, state: PlannedWheel | None, side: Side | None, units: UnitChoice) -> None:
        if side is not None and side is self.side and units == self._units:
            self._state = state
            return
        self._state, self._units = state, units
        self.side = side
        if side is not None and state is not None:
            tape = state.plan.tape
            self.setAccessibleName(tr("Wheel from the side"))
            self.setAccessibleDescription(
                tr("Tape starts at {start:.0f} degrees from the valve, cut at {cut:.0f}").format(
                    start=tape.start_deg, cut=tape.cut_deg
                )
            )
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        side, state = self.side, self._state
        if side is None or state is None:
            return
        theme = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        radius = max(
            40.0, min(self.width() / 2.0 - theme.px(30), self.height() / 2.0 - theme.px(44))
        )
        center = QPointF(self.width() / 2.0, self.height() / 2.0 - theme.px(8))
        scale = radius / side.outer_mm
        self._paint_tire(painter, side, center, scale)
        self._paint_pool(painter, side, center, scale)
        seat = side.seat_mm * scale
        painter.setPen(QPen(theme.color("edge"), 1.0))
        for angle in side.spokes_deg:
            painter.drawLine(_polar(center, seat * 0.07, angle), _polar(center, seat * 0.93, angle))
        painter.setPen(QPen(theme.color("metal"), max(4.0, 0.06 * seat)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(center, 0.95 * seat, 0.95 * seat)
        painter.setPen(QPen(theme.color("metal_edge"), 1.0))
        for share in (0.92, 0.98):
            painter.drawEllipse(center, share * seat, share * seat)
        painter.setPen(QPen(theme.color("brass"), max(4.0, 0.04 * seat)))
        painter.drawLine(_polar(center, 0.94 * seat, 0.0), _polar(center, 0.8 * seat, 0.0))
        self._paint_tape(painter, side, center, seat)
        self._paint_words(painter, side, center, seat)

    def _paint_tire(self, painter: QPainter, side: Side, center: QPointF, scale: float) -> None:
        middle = 0.5 * (side.outer_mm + side.seat_mm) * scale
        painter.setPen(QPen(self._theme.color("air"), (side.outer_mm - side.seat_mm) * scale))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(center, middle, middle)
        painter.setPen(QPen(self._theme.color("metal_edge"), max(2.5, 3.0 * scale)))
        painter.drawEllipse(center, side.outer_mm * scale, side.outer_mm * scale)

    def _paint_pool(self, painter: QPainter, side: Side, center: QPointF, scale: float) -> None:
        if side.pool_level_mm is None:
            return
        inner = side.inner_mm * scale
        pool = QPainterPath()
        pool.addEllipse(center, inner, inner)
        below = QPainterPath()
        below.addRect(
            QRectF(
                center.x() - inner, center.y() + side.pool_level_mm * scale, 2 * inner, 2 * inner
            )
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("liquid"))
        painter.drawPath(pool.intersected(below))

    def _paint_tape(self, painter: QPainter, side: Side, center: QPointF, seat: float) -> None:
        theme = self._theme
        box = QRectF(center.x() - seat, center.y() - seat, 2 * seat, 2 * seat)
        pen = QPen(theme.color("tape"), max(2.0, 0.016 * seat))
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        painter.drawEllipse(box)
        pen.setWidthF(max(6.0, 0.05 * seat))
        painter.setPen(pen)
        span = side.tape_cut_deg - side.tape_start_deg
        painter.drawArc(box, round((90.0 - side.tape_start_deg) * 16), round(-span * 16))
        painter.setPen(QPen(theme.color("ink"), 1.5))
        for angle in (side.tape_start_deg, side.tape_cut_deg):
            painter.drawLine(_polar(center, 0.9 * seat, angle), _polar(center, 1.06 * seat, angle))

    def _paint_words(self, painter: QPainter, side: Side, center: QPointF, seat: float) -> None:
        assert self._state is not None
        theme, plan = self._theme, self._state.plan
        for angle, words in ((side.tape_start_deg, tr("start")), (side.tape_cut_deg, tr("cut"))):
            at = _polar(center, 0.78 * seat, angle)
            painter.setFont(theme.font(SMALL, 600))
            painter.setPen(theme.color("ink"))
            box = QRectF(at.x() - theme.px(30), at.y() - theme.px(10), theme.px(60), theme.px(20))
            painter.fillRect(box.adjusted(theme.px(8), 1, -theme.px(8), -1), theme.color("card"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        rows = (
            (
                tr("Tape {length}").format(length=show(plan.tape.length_mm, CUT, self._units)),
                16,
                "ink",
                600,
            ),
            (
                tr("double over {overlap}").format(
                    overlap=show(plan.tape.overlap_mm, CUT, self._units)
                ),
                13,
                "muted",
                400,
            ),
            (tr("last section at the valve"), 13, "muted", 400),
        )
        wide = 1.2 * seat
        top = center.y() - theme.px(30)
        for text, pixels, purpose, weight in rows:
            box = QRectF(center.x() - wide / 2, top, wide, theme.px(22))
            painter.setFont(theme.fitted(text, wide, pixels, weight))
            width = painter.fontMetrics().horizontalAdvance(text) + theme.px(10)
            painter.fillRect(
                QRectF(center.x() - width / 2, top, width, theme.px(22)), theme.color("card")
            )
            painter.setPen(theme.color(purpose))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
            top += theme.px(22)
        foot = QRectF(0, self.height() - theme.px(22), self.width(), theme.px(20))
        text = tr("Joint: {reason}").format(reason=tr(REASONS[plan.tape.start]))
        painter.setFont(theme.fitted(text, foot.width() - 8, SMALL))
        painter.setPen(theme.color("muted"))
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, text)


def _polar(center: QPointF, radius: float, degrees: float) -> QPointF:
    angle = math.radians(degrees)
    return QPointF(center.x() + radius * math.sin(angle), center.y() - radius * math.cos(angle))
