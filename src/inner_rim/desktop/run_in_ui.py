"""Runs callbacks of other threads in the interface's thread, in their order, through one queue."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication

#: After everything else in the queue: Qt asks for painting at -1.
AFTER_PAINT = -100
#: Longest wait for it, s: a window may be hidden or busy.
PAINT_SECONDS = 0.05


class UiRunner(QObject):
    """Brings callbacks from the store worker and the tools to the interface's thread."""

    def __init__(self) -> None:
        super().__init__()
        self._event = QEvent.Type(QEvent.registerEventType())

    def __call__(self, callback: Callable[[], None]) -> None:
        QApplication.postEvent(self, _Call(self._event, callback))

    def let_paint(self) -> None:
        """Return when the interface's thread has nothing left to handle or to paint; for other threads."""
        painted = threading.Event()
        with contextlib.suppress(RuntimeError):  # the window is gone, and with it what there was to paint
            QApplication.postEvent(self, _Call(self._event, painted.set), AFTER_PAINT)
            painted.wait(PAINT_SECONDS)

    def customEvent(self, event: QEvent | None) -> None:
        if isinstance(event, _Call):
            event.callback()


class _Call(QEvent):
    def __init__(self, kind: QEvent.Type, callback: Callable[[], None]) -> None:
        super().__init__(kind)
        self.callback = callback
