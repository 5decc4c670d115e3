"""The tour of the demo: a bar over the page that says what to look at, and two buttons."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import NOTE, Theme
from inner_rim.words import tr
from inner_rim.work.text.tour import STOPS, TourStop


class Tour(QFrame):
    """Goes from stop to stop; it can be left at any of them."""

    arrived = pyqtSignal(object)
    left = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("role", "card")
        self.setAccessibleName(tr("Tour"))
        self._at = -1
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self.words.setFont(theme.font(NOTE))
        self.next, leave = QPushButton(""), QPushButton(tr("End tour   Esc"))
        self.next.setProperty("role", "main")
        leave.setProperty("role", "flat")
        row = QHBoxLayout(self)
        row.setContentsMargins(theme.px(16), theme.px(6), theme.px(10), theme.px(6))
        row.addWidget(self.words, 1)
        for button in (self.next, leave):
            button.setFixedHeight(theme.target)
            row.addWidget(button)
        self.next.clicked.connect(self.go_on)
        leave.clicked.connect(self.left)
        self.leave = leave

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if not event.isAutoRepeat():
                (self.leave if self.leave.hasFocus() else self.next).click()
        else:
            super().keyPressEvent(event)

    def go_on(self) -> None:
        """Go to the next stop, or leave after the last."""
        self._at += 1
        if self._at >= len(STOPS):
            self.left.emit()
            return
        stop: TourStop = STOPS[self._at]
        self.words.setText(tr("{n} of {all} · {words}").format(n=self._at + 1, all=len(STOPS), words=tr(stop.words)))
        last = self._at + 1 == len(STOPS)
        self.next.setText(tr("Done   Enter") if last else tr("Next   Enter"))
        self.arrived.emit(stop)
        self.next.setFocus(Qt.FocusReason.OtherFocusReason)
