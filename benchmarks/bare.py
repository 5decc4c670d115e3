"""A bare PyQt6 form beside which the bench is measured: twelve fields, ten labels, a painted view."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QFormLayout, QHBoxLayout, QLabel, QLineEdit, QWidget

FIELDS, LABELS = 12, 10


class View(QWidget):
    """A view of 500x500 that draws six filled outlines."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(500, 500)
        self.turn = 0

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.palette().text().color(), 1.0))
        painter.setBrush(self.palette().mid())
        for ring in range(6):  # filled outlines, as a cross-section has them
            radius = 40.0 * ring + 10.0 + self.turn % 5
            turns = (math.tau * n / 60 for n in range(60))
            outline = (
                QPointF(250.0 + radius * math.cos(t), 250.0 + radius * math.sin(t)) for t in turns
            )
            painter.drawPolygon(QPolygonF(outline))


class Form(QWidget):
    """Every letter and every Enter changes the labels and the view, and nothing is worked out."""

    def __init__(self) -> None:
        super().__init__()
        self.resize(1280, 800)
        row, column = QHBoxLayout(self), QFormLayout()
        self.fields = [QLineEdit() for _ in range(FIELDS)]
        self.labels = [QLabel("0") for _ in range(LABELS)]
        for field in self.fields:
            column.addRow("Field", field)
            field.textEdited.connect(self._changed)
            field.returnPressed.connect(self._next)
        for label in self.labels:
            column.addRow("Figure", label)
        row.addLayout(column)
        self.view = View()
        row.addWidget(self.view)

    def _changed(self) -> None:
        self.view.turn += 1
        for place, label in enumerate(self.labels):
            label.setText(f"{self.view.turn + place} mm")
        self.view.update()

    def _next(self) -> None:
        self._changed()
        place = next((i for i, field in enumerate(self.fields) if field.hasFocus()), 0)
        self.fields[(place + 1) % FIELDS].setFocus()
