"""When the wheel that is being checked in can be promised, worked out in a pause of typing."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

from inner_rim.work.bench import Bench

#: A pause of typing.
PAUSE_MS = 700


class Promising(QObject):
    """Looks at the selected wheel; where its plan is another one, asks for a promise after a pause.

    Args:
        bench: the bench.
        run_in_ui: does something in the window's thread.
        parent: the window.
    """

    def __init__(
        self, bench: Bench, run_in_ui: Callable[[Callable[[], None]], None], parent: QObject
    ) -> None:
        super().__init__(parent)
        self._bench, self._run_in_ui = bench, run_in_ui
        self._plan: object = None
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self._ask)

    def look(self) -> None:
        """The bench has changed, or another wheel is looked at."""
        state = self._bench.current
        checking = state is not None and state.progress is not None and state.progress.stage == "check_in"
        if state is not None and checking and state.plan is not self._plan:
            self._plan = state.plan
            self._pause.start()

    def _ask(self) -> None:
        bench = self._bench
        bench.day_plan.estimate(lambda found: self._run_in_ui(lambda: bench.estimated(found)))
