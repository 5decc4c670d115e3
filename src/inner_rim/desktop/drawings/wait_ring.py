"""A wait as a ring that fills, with the minute at which it ends."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import FIGURE, NOTE, TITLE, Theme
from inner_rim.words import tr
from inner_rim.work.text.waits import RunningWait

#: The ring's share of the room, its thickness as a share of it.
SHARE, THICK = 0.8, 0.07


class WaitRing(Picture):
    """What is waited for, how much of it is over, and when it ends by the clock on the wall."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._wait: RunningWait | None = None
        self.setMinimumSize(180, 120)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_wait(self, wait: RunningWait | None) -> None:
        if wait == self._wait:
            return
        self._wait = wait
        if wait is not None:
            words = tr("{what}: until {clock}, {left} left")
            self.setAccessibleName(tr("Waiting"))
            self.setAccessibleDescription(
                words.format(what=wait.what, clock=wait.ends, left=wait.left)
            )
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._wait is None:
            return
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color("card"))
        size = SHARE * min(self.width(), self.height())
        box = QRectF(0.0, 0.0, size, size)
        box.moveCenter(QRectF(self.rect()).center())
        for purpose, width, share in (("edge", 0.4, 1.0), ("accent", 1.0, self._wait.over)):
            pen = QPen(theme.color(purpose), width * THICK * size)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
            painter.setPen(pen)
            painter.drawArc(box, 90 * 16, round(-share * 360 * 16))
        line = theme.px(FIGURE) * 1.2
        inside = box.adjusted(0.14 * size, 0.0, -0.14 * size, 0.0)
        for words, pixels, weight, purpose, top, high in (
            (self._wait.what, NOTE, 400, "ink", -1.3 * line, line),
            (self._wait.ends, FIGURE, 600, "ink", -0.5 * line, line),
            (tr("{left} left").format(left=self._wait.left), TITLE, 400, "muted", 0.5 * line, line),
        ):
            painter.setFont(theme.font(pixels, weight))
            painter.setPen(theme.color(purpose))
            row = QRectF(inside.left(), box.center().y() + top, inside.width(), high)
            flags = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
            painter.drawText(row, flags, words)
