"""The ring: a wheel's progress as an arc for each stage. The sign of this program."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.spoken import STAGES, Stage
from inner_rim.desktop.widgets.theme import Theme

GAP_DEGREES = 8.0
STATE_COLORS = {"problem": "stop", "stopped": "stop", "finished": "accent"}


@lru_cache(maxsize=256)
def _picture(
    looks: tuple[str, ...], state: str, size: float, ratio: float, theme: Theme
) -> QPixmap:
    picture = QPixmap(round(size * ratio), round(size * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(theme.color("ground", 0))
    painter = QPainter(picture)
    _paint(painter, QRectF(0.0, 0.0, size, size), looks, state, theme)
    painter.end()
    return picture


def paint_ring(
    painter: QPainter, box: QRectF, progress: Progress | None, theme: Theme, ratio: float = 0.0
) -> None:
    """Paint the ring into a square; problem, stop and finish show a sign in the middle too.

    Args:
        ratio: device pixels per pixel, where the picture is cached; 0 for a ring painted once.
    """
    stages = progress.stages if progress is not None else STAGES
    looks, state = (
        tuple(_purpose(stage, progress) for stage in stages),
        progress.state if progress else "",
    )
    if ratio:
        painter.drawPixmap(box.topLeft(), _picture(looks, state, box.width(), ratio, theme))
    else:
        painter.save()
        _paint(painter, box, looks, state, theme)
        painter.restore()


def _paint(
    painter: QPainter, box: QRectF, looks: tuple[str, ...], state: str, theme: Theme
) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    width = box.width() * 0.15
    inner = box.adjusted(width / 2, width / 2, -width / 2, -width / 2)
    each = 360.0 / len(looks)
    for i, purpose in enumerate(looks):
        # to come: thin
        pen = QPen(theme.color(purpose), width * (0.4 if purpose == "edge" else 1.0))
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        start = 90.0 - i * each - GAP_DEGREES / 2
        painter.drawArc(inner, round(start * 16), round(-(each - GAP_DEGREES) * 16))
    _sign(painter, box, state, theme)


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
    center, r = box.center(), box.width() * 0.13

    def at(x: float, y: float) -> QPointF:
        return QPointF(center.x() + x * r, center.y() + y * r)

    if state == "finished":
        painter.drawPolyline(QPolygonF([at(-1, 0), at(-0.25, 0.8), at(1.1, -0.9)]))
    elif state == "problem":
        painter.drawLine(at(0, -1.2), at(0, 0.3))
        painter.drawPoint(at(0, 1.2))
    else:
        painter.drawRect(QRectF(at(-0.9, -0.9), at(0.9, 0.9)))
