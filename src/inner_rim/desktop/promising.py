"""Works out, in a pause of typing, when the wheel being checked in can be promised."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from inner_rim.core.schedule.promised import Promise
from inner_rim.work.bench import Bench

#: A pause of typing.
PAUSE_MS = 700
#: A promise is worked out again after this time, s.
STALE_S = 300


class Promising(QObject):
    """Watches the selected wheel; when its plan changes, asks for a promise after a pause."""

    _found = pyqtSignal(object)

    def __init__(self, bench: Bench, parent: QObject) -> None:
        super().__init__(parent)
        self._bench = bench
        self._found.connect(self._show)
        self._asked: tuple[object, ...] = ()
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self._ask)

    def look(self) -> None:
        state = self._bench.current
        checking = state is not None and state.progress is not None and state.progress.stage == "check_in"
        if state is None or not checking:
            return
        # a changed plan, work on the bench, or five minutes: the time that can be kept changes
        asked = (state.plan, self._bench.logged, int(self._bench.time.timestamp()) // STALE_S)
        if asked != self._asked:
            self._asked = asked
            self._pause.start()

    def _ask(self) -> None:
        self._bench.day.plan.estimate(self._tell)

    def _show(self, result: Mapping[str, Promise]) -> None:
        self._bench.day.estimated(result)

    def _tell(self, result: Mapping[str, Promise]) -> None:
        with suppress(RuntimeError):  # the window is gone
            self._found.emit(result)
