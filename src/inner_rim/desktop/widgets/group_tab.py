"""A button for a group of fields, marked where something in it is missing or not accepted."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QPushButton, QWidget

from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr

#: What a mark says, by its sign.
MARKS = {"": "", "•": "something is missing", "!": "a field is not accepted"}


class GroupTab(QPushButton):
    """Its mark stands in its margin: it is as wide with it as without, so that nothing moves while typing.

    Attributes:
        mark: one of `MARKS`.
    """

    def __init__(self, words: str, theme: Theme, pad_px: int, parent: QWidget | None = None) -> None:
        super().__init__(words, parent)
        self.mark = ""
        self._theme, self._pad = theme, pad_px
        self.setCheckable(True)

    def show_mark(self, mark: str) -> None:
        """Show another mark."""
        if mark == self.mark:
            return
        self.mark = mark
        said = tr(MARKS[mark])
        self.setAccessibleName(f"{self.text()}: {said}" if said else self.text())
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the mark over the button's upper right corner."""
        super().paintEvent(event)
        if not self.mark:
            return
        painter = QPainter(self)
        painter.setFont(self._theme.font(15, 700))
        painter.setPen(self._theme.color("stop" if self.mark == "!" else "caution"))
        corner = QRectF(self.width() - self._pad - 1.0, 0.0, self._pad, 0.62 * self.height())
        painter.drawText(corner, Qt.AlignmentFlag.AlignCenter, self.mark)
