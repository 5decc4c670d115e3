"""A line to type into, as every page uses it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLineEdit

#: What an entry does itself with Ctrl; every other key with Ctrl, and Esc, belongs to the window.
_OWN = (
    QKeySequence.StandardKey.Copy,
    QKeySequence.StandardKey.Cut,
    QKeySequence.StandardKey.Paste,
    QKeySequence.StandardKey.SelectAll,
    QKeySequence.StandardKey.DeleteStartOfWord,
    QKeySequence.StandardKey.DeleteEndOfWord,
    QKeySequence.StandardKey.MoveToStartOfDocument,
    QKeySequence.StandardKey.MoveToEndOfDocument,
    QKeySequence.StandardKey.SelectNextWord,
    QKeySequence.StandardKey.SelectPreviousWord,
)

#: Another window or a list of suggestions has the focus for a moment: the field was not left.
FOR_A_MOMENT = (Qt.FocusReason.ActiveWindowFocusReason, Qt.FocusReason.PopupFocusReason)


def _for_window(event: QKeyEvent) -> bool:
    control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
    if event.key() == Qt.Key.Key_Escape:
        return True
    return control and not any(event.matches(key) for key in _OWN)


class EntryField(QLineEdit):
    """A line to type into: Enter goes on, Esc goes back to the bench, undo is the program's."""

    entered = pyqtSignal()
    left = pyqtSignal()
    came = pyqtSignal()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and _for_window(event):
            event.ignore()
            return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if _for_window(event):
            event.ignore()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
            self.entered.emit()
            event.accept()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """On arrival by Tab, Enter or a command select all, so that typing replaces; never on coming back."""
        super().focusInEvent(event)
        if event is None or event.reason() in FOR_A_MOMENT:
            return
        if event.reason() != Qt.FocusReason.MouseFocusReason:
            self.selectAll()
        self.came.emit()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if event is not None and event.reason() in FOR_A_MOMENT:
            return
        self.home(False)
        self.left.emit()
