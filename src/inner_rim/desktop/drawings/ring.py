"""The ring: a wheel's progress as an arc for each stage. The sign of this program."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.stages import STAGES, Stage
from inner_rim.desktop.widgets.theme import Theme

GAP_DEGREES = 8.0
STATE_COLORS = {"problem": "stop", "stopped": "stop", "finished": "accent"}


def paint_ring(painter: QPainter, box: QRectF, progress: Progress | None, theme: Theme) -> None:
    """Paint the ring into a square; problem, stop and finish show a sign in the middle too."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    width = box.width() * 0.15
    inner = box.adjusted(width / 2, width / 2, -width / 2, -width / 2)
    stages = progress.stages if progress is not None else STAGES
    each = 360.0 / len(stages)
    for i, stage in enumerate(stages):
        purpose = _purpose(stage, progress)
        pen = QPen(theme.color(purpose), width * (0.4 if purpose == "edge" else 1.0))  # to come: thin
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        start = 90.0 - i * each - GAP_DEGREES / 2
        painter.drawArc(inner, round(start * 16), round(-(each - GAP_DEGREES) * 16))
    if progress is not None:
        _sign(painter, box, progress.state, theme)
    painter.restore()


def _purpose(stage: Stage, progress: Progress | None) -> str:
    if progress is None:
        return "edge"
    if stage == progress.stage and progress.state != "finished":
        return STATE_COLORS.get(progress.state, "ink")
    return "accent" if stage in progress.done else "edge"


def _sign(painter: QPainter, box: QRectF, state: str, theme: Theme) -> None:
    if state not in STATE_COLORS:
        return
    pen = QPen(theme.color(STATE_COLORS[state]), box.width() * 0.07)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(pen)
    centre, r = box.center(), box.width() * 0.13

    def at(x: float, y: float) -> QPointF:
        return QPointF(centre.x() + x * r, centre.y() + y * r)

    if state == "finished":
        painter.drawPolyline(QPolygonF([at(-1, 0), at(-0.25, 0.8), at(1.1, -0.9)]))
    elif state == "problem":
        painter.drawLine(at(0, -1.2), at(0, 0.3))
        painter.drawPoint(at(0, 1.2))
    else:
        painter.drawRect(QRectF(at(-0.9, -0.9), at(0.9, 0.9)))
