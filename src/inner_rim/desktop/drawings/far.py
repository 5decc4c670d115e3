"""The far view: pressure, next action and limit over the whole window, to be read from three meters."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.text.far import Far

#: Shares of the height: figure, action, limit; what stands below them.
FIGURE, ACTION, LIMIT = 0.42, 0.36, 0.16
#: Letters of the action are so high at most and at least, px: 15 mm and up on a usual screen (common practice, a
#: two-hundredth of the distance).
MOST_PX, LEAST_PX = 110, 44
MARGIN_PX = 28


class FarView(QWidget):
    """Lies over the page; nothing else is shown."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self._theme = theme
        self._far = Far("", "", "")
        self.setAutoFillBackground(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.place()

    def place(self) -> None:
        """Cover the whole window."""
        parent = self.parentWidget()
        if parent is not None:
            self.setGeometry(parent.rect())

    def set_theme(self, theme: Theme) -> None:
        """Paint in another theme."""
        self._theme = theme
        self.update()

    def show_far(self, far: Far) -> None:
        """Show other words."""
        if far == self._far:
            return
        self._far = far
        self.setAccessibleName(tr("Far view"))
        said = (far.figure, far.action, far.limit, far.alarm)
        self.setAccessibleDescription(". ".join(words for words in said if words))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint what there is of the three, each as large as it goes."""
        theme, far = self._theme, self._far
        painter = QPainter(self)
        ground, ink = {
            "over": ("stop", "card"),
            "near": ("caution", "card"),
        }.get(far.tone, ("ground", "ink"))
        painter.fillRect(self.rect(), theme.color(ground))
        painter.setPen(theme.color(ink))
        wide, high = self.width() - 2.0 * MARGIN_PX, float(self.height())
        top = 0.5 * MARGIN_PX
        figure = FIGURE if far.figure else 0.0  # without a gauge the action has its room
        if figure:
            box = QRectF(MARGIN_PX, top, wide, figure * high)
            painter.setFont(self._fitted(far.figure, box, 0.9 * box.height(), 60, 600))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, far.figure)
        box = QRectF(MARGIN_PX, top + figure * high, wide, (FIGURE + ACTION - figure) * high)
        words = far.alarm or far.action
        painter.setFont(self._fitted(words, box, MOST_PX, LEAST_PX, 600))
        flags = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
        painter.drawText(box, flags, words)
        box = QRectF(MARGIN_PX, top + (FIGURE + ACTION) * high, wide, LIMIT * high)
        if ground == "ground":
            painter.setPen(theme.color("stop"))
        painter.setFont(self._fitted(far.limit, box, 72, 28, 600))
        painter.drawText(box, flags, far.limit)

    def _fitted(self, text: str, box: QRectF, pixels: float, least: float, weight: int) -> QFont:
        """The largest font in which a text fits into a box, its words broken into rows."""
        flags = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
        while True:
            font = QFont(self._theme.font(pixels / self._theme.scale, weight))
            metrics = QFontMetricsF(font)
            room = metrics.boundingRect(box, flags, text)
            longest = max((metrics.horizontalAdvance(word) for word in text.split()), default=0.0)
            fits = room.height() <= box.height() and longest <= box.width()
            if fits or pixels <= least:
                return font
            pixels -= max(1.0, 0.05 * pixels)
