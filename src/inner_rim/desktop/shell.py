"""The empty window: painted at once, filled as soon as the rest is loaded."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from inner_rim.desktop.widgets.theme import NOTE, Theme


class Shell(QWidget):
    """The top-level window: background and name first, the bench a moment later.

    Attributes:
        may_close: asked before the window closes; False keeps it open.
    """

    first_painted = pyqtSignal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._painted = False
        self._filled = False
        self.may_close: Callable[[], bool] = lambda: True
        self.setWindowTitle("Inner Rim")
        self.setMinimumSize(960, 600)
        self.resize(1280, 800)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the background and the name until the content covers them."""
        if not self._filled:
            painter = QPainter(self)
            painter.fillRect(self.rect(), self._theme.color("ground"))
            painter.setPen(self._theme.color("ink"))
            painter.setFont(self._theme.font(NOTE, 600))
            painter.drawText(self._theme.px(18), self._theme.px(33), "Inner Rim")
        if not self._painted:
            self._painted = True
            QTimer.singleShot(0, self.first_painted.emit)

    def fill(self, content: QWidget) -> None:
        self._filled = True
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(content)
        content.show()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.may_close():
            event.ignore()
