"""The wheel from the side: both beads in eight sectors counted from the valve, low ones marked."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from inner_rim.core.models.rim import ASSUMED_SPOKES
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel

SECTORS, BUBBLES = 8, 6
SIDES = ("left", "right")


class WheelView(Picture):
    """Two wheels, left and right side, valve at the top; a click turns a sector low or even."""

    sector_clicked = pyqtSignal(str, int)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._state: PlannedWheel | None = None
        self._low: dict[str, frozenset[int]] = {side: frozenset() for side in SIDES}
        self._side: str | None = None
        self._bubbles: frozenset[tuple[str, int]] = frozenset()
        self._shown: object = ()
        self.setMinimumSize(240, 160)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_wheel(
        self,
        state: PlannedWheel | None,
        low_left: frozenset[int],
        low_right: frozenset[int],
        side: str | None,
        bubbles: frozenset[tuple[str, int]] = frozenset(),
    ) -> None:
        """Show a wheel; `bubbles` are (side, sector) where air comes out."""
        shown = (state.key if state else None, low_left, low_right, side, bubbles)
        self._state = state
        if shown == self._shown:
            return
        self._shown = shown
        self._low = {"left": low_left, "right": low_right}
        self._side, self._bubbles = side, bubbles
        low = [f"{tr(side)} {n}" for side in SIDES for n in sorted(self._low[side])]
        self.setAccessibleName(tr("Bead line by sector"))
        words = (
            tr("Low: {sectors}").format(sectors=", ".join(low)) if low else tr("Even all around")
        )
        if bubbles:
            where = ", ".join(f"{tr(side)} {n}" for side, n in sorted(bubbles))
            words = tr("{words}. Bubbles: {where}").format(words=words, where=where)
        self.setAccessibleDescription(words)
        self.update()

    def _circles(self) -> dict[str, tuple[QPointF, float]]:
        width = self.width() / 2.0
        radius = max(
            20.0, min(width / 2.0 - self._theme.px(22), self.height() / 2.0 - self._theme.px(34))
        )
        y = self.height() / 2.0 + self._theme.px(8)
        return {side: (QPointF(width * (i + 0.5), y), radius) for i, side in enumerate(SIDES)}

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for side, (center, radius) in self._circles().items():
            self._paint_side(painter, side, center, radius)

    def _paint_side(self, painter: QPainter, side: str, center: QPointF, radius: float) -> None:
        theme = self._theme
        painter.setFont(theme.font(TEXT, 600 if side == self._side else 400))
        painter.setPen(theme.color("ink" if side == self._side else "muted"))
        words = tr("left side") if side == "left" else tr("right side")
        title = QRectF(center.x() - radius, 0, 2 * radius, theme.px(22))
        painter.drawText(title, Qt.AlignmentFlag.AlignCenter, words)
        rim = radius * 0.72
        spokes = self._spokes()
        painter.setPen(QPen(theme.color("line"), 1.0 if radius > 70 else 0.5))
        for i in range(spokes):
            angle = 2.0 * math.pi * (i + 0.5) / spokes
            painter.drawLine(center, _polar(center, rim, angle))
        for number in range(1, SECTORS + 1):
            self._paint_sector(painter, number, number in self._low[side], center, radius)
        painter.setPen(QPen(theme.color("metal_edge"), max(3.0, radius * 0.05)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(center, rim, rim)
        painter.setPen(QPen(theme.color("accent"), 1.5))
        painter.setBrush(theme.color("accent_soft"))
        for _side, number in (one for one in self._bubbles if one[0] == side):
            for step in range(BUBBLES):
                angle = math.radians((number - 0.75 + 0.5 * step / BUBBLES) * 360.0 / SECTORS)
                painter.drawEllipse(
                    _polar(center, rim * (1.0 + 0.06 * (step % 2)), angle),
                    3.0 + step % 3,
                    3.0 + step % 3,
                )
        painter.setPen(QPen(theme.color("brass"), max(3.0, radius * 0.05)))
        painter.drawLine(_polar(center, rim, 0.0), _polar(center, rim * 0.78, 0.0))

    def _spokes(self) -> int:
        wheel = self._state.wheel if self._state else None
        return (wheel.rim.spokes if wheel and wheel.rim.spokes else None) or ASSUMED_SPOKES

    def _paint_sector(
        self, painter: QPainter, number: int, low: bool, center: QPointF, radius: float
    ) -> None:
        theme = self._theme
        each = 360.0 / SECTORS
        middle = math.radians((number - 0.5) * each)
        thick = radius * (0.1 if low else 0.17)
        pen = QPen(theme.color("stop" if low else "metal_edge"), thick)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        r = radius * (0.83 if low else 0.87)
        box = QRectF(center.x() - r, center.y() - r, 2 * r, 2 * r)
        painter.drawArc(
            box, round((90.0 - (number - 1) * each - 1.5) * 16), round(-(each - 3.0) * 16)
        )
        at = _polar(center, radius * 0.52, middle)
        half = theme.px(24)
        painter.setFont(theme.font(SMALL, 600 if low else 400))
        painter.setPen(theme.color("stop" if low else "muted"))
        painter.drawText(
            QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half),
            Qt.AlignmentFlag.AlignCenter,
            tr("{n} low").format(n=number) if low else str(number),
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for side, (center, radius) in self._circles().items():
            away = event.position() - center
            if math.hypot(away.x(), away.y()) <= radius * 1.1:
                angle = math.degrees(math.atan2(away.x(), -away.y())) % 360.0
                self.sector_clicked.emit(side, int(angle // (360.0 / SECTORS)) + 1)
                return


def _polar(center: QPointF, radius: float, angle: float) -> QPointF:
    """Return a point at an angle from the valve at the top, clockwise."""
    return QPointF(center.x() + radius * math.sin(angle), center.y() - radius * math.cos(angle))
