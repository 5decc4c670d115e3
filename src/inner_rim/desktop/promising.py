"""Works out, in a pause of typing, when the wheel being checked in can be promised."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6 import sip
from PyQt6.QtCore import QObject, QTimer

from inner_rim.core.schedule.promised import Promise
from inner_rim.work.bench import Bench

#: A pause of typing.
PAUSE_MS = 700
#: A promise is worked out again after this time, s.
STALE_S = 300


class Promising(QObject):
    """Watches the selected wheel; when its plan changes, asks for a promise after a pause.

    Args:
        run_in_ui: runs a callback in the interface's thread; it outlives the window.
    """

    def __init__(self, bench: Bench, run_in_ui: Callable[[Callable[[], None]], None], parent: QObject) -> None:
        super().__init__(parent)
        self._bench, self._run_in_ui = bench, run_in_ui
        self._asked: tuple[object, ...] = ()
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self._ask)

    def look(self) -> None:
        state = self._bench.planned
        if state is None or state.stage != "check_in":
            return
        # a changed plan, work on the bench, or five minutes: the time that can be kept changes
        asked = (state.plan, self._bench.logged, int(self._bench.time.timestamp()) // STALE_S)
        if asked != self._asked:
            self._asked = asked
            self._pause.start()

    def _ask(self) -> None:
        self._bench.day.plan.estimate(self._tell)

    def _show(self, result: Mapping[str, Promise]) -> None:
        if not sip.isdeleted(self):
            self._bench.day.estimated(result)

    def _tell(self, result: Mapping[str, Promise]) -> None:
        """Called in another thread; a signal of this object would race with its deletion, and crash."""
        self._run_in_ui(lambda: self._show(result))
