"""Collects garbage in pauses, not between a key and its paint."""

from __future__ import annotations

import gc
import time

from PyQt6.QtCore import QObject, QTimer

from inner_rim.desktop.widgets.discard import any_going
from inner_rim.work.bench import Bench

#: How often to check for a pause, ms, and how long without a change counts as one, s.
EVERY_MS, PAUSE_S = 1000, 0.3
#: New objects that make a collection worthwhile (Python's own threshold), and that force one even without a pause.
WORTH, MOST_NEW = 700, 50_000
#: Collections of new objects between two collections of everything made since the start.
NEW_BEFORE_ALL = 20
_PYTHONS = gc.get_threshold()


class GcScheduler(QObject):
    """Takes the collector over from Python, which would run it at every 700th object, for 2 to 3 ms now and then.

    Objects made at start-up stay and are never scanned again.

    Args:
        bench: while it changes there is no pause.
    """

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self._changed = 0.0
        gc.freeze()
        gc.set_threshold(MOST_NEW, *_PYTHONS[1:])
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

    def _tidy(self) -> None:
        new, _, looks = gc.get_count()
        if new >= WORTH and time.monotonic() - self._changed >= PAUSE_S and not any_going():
            gc.collect(1 if looks < NEW_BEFORE_ALL else 2)
