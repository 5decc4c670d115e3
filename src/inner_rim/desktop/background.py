"""What runs beside the window: callbacks of other threads in its own, and garbage collected in
pauses.
"""

from __future__ import annotations

import contextlib
import gc
import threading
import time
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QTimer
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.widgets.base import any_going
from inner_rim.work.bench import Bench

#: How often to check for a pause, ms, and how long without a change counts as one, s.
EVERY_MS, PAUSE_S = 1000, 0.3
#: New objects that make a collection worthwhile (Python's own threshold), and that force one even
#: without a pause.
WORTH, MAX_NEW = 700, 50_000
#: Collections of new objects between two collections of everything made since the start.
NEW_BEFORE_ALL = 20
_PYTHONS = gc.get_threshold()


class GcScheduler(QObject):
    """Takes the collector over from Python, which would run it at every 700th object, for 2 to 3 ms
    now and then.

    Objects made at start-up stay and are never scanned again.

    Args:
        bench: while it changes there is no pause.
    """

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self._changed = time.monotonic()
        gc.freeze()
        gc.set_threshold(MAX_NEW, *_PYTHONS[1:])
        gc.enable()
        bench.subscribe(self._busy)
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY_MS)
        self._timer.timeout.connect(self._tidy)
        self._timer.start()

    def end(self) -> None:
        self._timer.stop()
        gc.set_threshold(*_PYTHONS)

    def _busy(self) -> None:
        self._changed = time.monotonic()

    def rested_s(self) -> float:
        """Return how long nothing has changed."""
        return time.monotonic() - self._changed

    def _tidy(self) -> None:
        new, _, looks = gc.get_count()
        if new >= WORTH and self.rested_s() >= PAUSE_S and not any_going():
            gc.collect(1 if looks < NEW_BEFORE_ALL else 2)


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
        """Return when the interface's thread has nothing left to handle or to paint; for other
        threads.
        """
        painted = threading.Event()
        # the window is gone, and with it what there was to paint
        with contextlib.suppress(RuntimeError):
            QApplication.postEvent(self, _Call(self._event, painted.set), AFTER_PAINT)
            painted.wait(PAINT_SECONDS)

    def customEvent(self, event: QEvent | None) -> None:
        if isinstance(event, _Call):
            event.callback()


class _Call(QEvent):
    def __init__(self, kind: QEvent.Type, callback: Callable[[], None]) -> None:
        super().__init__(kind)
        self.callback = callback
