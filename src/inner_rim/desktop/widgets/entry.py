"""A line to type into, as every page uses it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLineEdit

_UNDO = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)


class Entry(QLineEdit):
    """A line to type into: Enter goes on, Esc goes back to the bench, undo is the plan's."""

    entered = pyqtSignal()
    left = pyqtSignal()
    came = pyqtSignal()

    def event(self, event: QEvent | None) -> bool:
        """Leave undo and redo to the window."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and any(event.matches(key) for key in _UNDO)
        ):
            event.ignore()
            return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Pass on what belongs to the window."""
        if event is None:
            return
        plain_return = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not (
            event.modifiers() & Qt.KeyboardModifier.ControlModifier
        )
        if plain_return:
            super().keyPressEvent(event)
            self.entered.emit()
            event.accept()
        elif (
            any(event.matches(key) for key in _UNDO)
            or event.key() == Qt.Key.Key_Escape
            or (
                event.modifiers() & Qt.KeyboardModifier.ControlModifier
                and event.key()
                in (
                    Qt.Key.Key_Left,
                    Qt.Key.Key_Right,
                    Qt.Key.Key_Up,
                    Qt.Key.Key_Down,
                    Qt.Key.Key_Return,
                    Qt.Key.Key_U,
                    Qt.Key.Key_E,
                    Qt.Key.Key_1,
                    Qt.Key.Key_2,
                    Qt.Key.Key_3,
                    Qt.Key.Key_4,
                    Qt.Key.Key_5,
                    Qt.Key.Key_K,
                    Qt.Key.Key_M,
                    Qt.Key.Key_J,
                )
            )
        ):
            event.ignore()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Select all, so that typing replaces."""
        super().focusInEvent(event)
        if event is not None and event.reason() != Qt.FocusReason.MouseFocusReason:
            self.selectAll()
        self.came.emit()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Tell that the hand has left."""
        super().focusOutEvent(event)
        self.left.emit()
