"""What painted views have in common."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLabel, QWidget


class Picture(QLabel):
    """A painted view. To a screen reader it is an image: its name says what it is, its description what it shows.

    A label with a pixmap has that role, which Qt's Python bindings give no other way to set.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setPixmap(QPixmap(1, 1))

    def sizeHint(self) -> QSize:
        return QSize()

    def minimumSizeHint(self) -> QSize:
        return QSize()
