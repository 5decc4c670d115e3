"""What happens once per turn: what changed is shown, letters go nowhere after a move, a promise is
asked for.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtWidgets import QWidget

from inner_rim.core.schedule.promise import Promise
from inner_rim.work.bench import Bench

if TYPE_CHECKING:
    from inner_rim.work.views import BenchView


class Turns(QObject):
    """Keeps the view that is shown: built again after a change, and shown at the end of a turn.

    Args:
        build: makes the view.
        prepare: runs before a new view is shown; what it changes is shown with it.
        show: shows a view; what that changes is shown in the next pass of the event loop.
    """

    def __init__(
        self,
        build: Callable[[], BenchView],
        prepare: Callable[[BenchView], None],
        show: Callable[[BenchView], None],
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._build, self._prepare, self._show = build, prepare, show
        self._depth, self._dirty, self._unshown = 0, True, False
        self._view: BenchView | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.render)

    @contextlib.contextmanager
    def turn(self) -> Iterator[None]:
        """Everything that changes inside is shown once, at its end."""
        self._depth += 1
        try:
            yield
        finally:
            self._depth -= 1
            self.render()

    def in_turn(self, run: Callable[..., object]) -> Callable[..., None]:
        def ran(*values: object) -> None:
            with self.turn():
                run(*values)

        return ran

    def refresh(self) -> None:
        """Note a change: it is shown at the end of this turn, or in the next pass of the event
        loop.
        """
        self._dirty = True
        if not self._depth:
            self._soon.start()

    def view(self) -> BenchView:
        """Return what is shown, built again only where something has changed since."""
        if self._dirty or self._view is None:
            self._view, self._dirty = self._build(), False
            self._unshown = True
        return self._view

    def render(self) -> None:
        """Show what has changed, unless a turn is still going on."""
        if self._depth or sip.isdeleted(self):
            return
        self._depth += 1
        try:
            view = self.view()
            if self._unshown:
                self._prepare(view)
                view, self._unshown = self.view(), False
                self._soon.stop()
                self._show(view)
        finally:
            self._depth -= 1
        if self._dirty:
            self._soon.start()

    def render_now(self) -> None:
        """Build and show everything again at once."""
        self.refresh()
        self.render()


_KEY = Qt.Key
#: Keys by which a hand chooses, and that do nothing else then.
CHOOSING = frozenset(
    {_KEY.Key_Return, _KEY.Key_Enter, _KEY.Key_Up, _KEY.Key_Down, _KEY.Key_Left, _KEY.Key_Right}
)


class Parking:
    """Takes the keyboard away: a word that is being typed must not go on as commands at another
    wheel.

    Args:
        nowhere: has the focus meanwhile.
        resume: puts the cursor back where the next thing is done.
    """

    def __init__(self, nowhere: QWidget, resume: Callable[[], None]) -> None:
        self._nowhere, self._resume = nowhere, resume
        self.parked = False

    def park(self) -> None:
        self.parked = True
        self._nowhere.setFocus(Qt.FocusReason.OtherFocusReason)

    def unpark(self) -> None:
        """The hand has chosen: letters are commands again."""
        if self.parked:
            self.parked = False
            self._resume()

    def focus_went(self, to: QWidget | None) -> None:
        """The hand took the focus elsewhere, by a click or Tab."""
        if to is not None and to is not self._nowhere:
            self.parked = False


#: A pause of typing.
PAUSE_MS = 700
#: A promise is worked out again after this time, s.
STALE_S = 300


class Promising(QObject):
    """Watches the selected wheel; when its plan changes, asks for a promise after a pause.

    Args:
        run_in_ui: runs a callback in the interface's thread; it outlives the window.
    """

    def __init__(
        self, bench: Bench, run_in_ui: Callable[[Callable[[], None]], None], parent: QObject
    ) -> None:
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

    def _show(self, promised: Mapping[str, Promise]) -> None:
        if not sip.isdeleted(self):
            self._bench.day.estimated(promised)

    def _tell(self, promised: Mapping[str, Promise]) -> None:
        """Called in another thread; a signal of this object would race with its deletion, and
        crash.
        """
        self._run_in_ui(lambda: self._show(promised))
