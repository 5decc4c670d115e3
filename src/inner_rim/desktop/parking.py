"""Letters go nowhere after the selection moved by itself, until the hand chooses: by a click, Enter, Esc or an arrow."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

_KEY = Qt.Key
#: Keys by which a hand chooses, and that do nothing else then.
CHOOSING = frozenset({_KEY.Key_Return, _KEY.Key_Enter, _KEY.Key_Up, _KEY.Key_Down, _KEY.Key_Left, _KEY.Key_Right})


class Parking:
    """Takes the keyboard away: a word that is being typed must not go on as commands at another wheel.

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
