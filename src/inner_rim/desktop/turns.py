"""Shows what has changed once per turn, whoever changed what."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import QObject, QTimer

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
        """Note a change: it is shown at the end of this turn, or in the next pass of the event loop."""
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
