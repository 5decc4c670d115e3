"""Outlines in mm as Qt wants them, made once, and the painter set to mm."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPolygonF

from inner_rim.core.drawing.section import Point


@lru_cache(maxsize=512)
def polygon(points: tuple[Point, ...]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points])


def to_mm(painter: QPainter, origin: QPointF, scale: float) -> None:
    """Let a painter draw in mm about a point, y upwards."""
    painter.translate(origin)
    painter.scale(scale, -scale)
