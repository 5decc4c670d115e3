"""A line to type into, as every page uses it, and its suggestions."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QPoint, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem

from inner_rim.desktop.widgets.base import discard
from inner_rim.words import tr

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
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and _for_window(event)
        ):
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
        """On arrival by Tab, Enter or a command select all, so that typing replaces; never on
        coming back.
        """
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


#: Suggestions in view at once; the list scrolls to the others.
MAX_IN_VIEW = 8


class SuggestingEntry(EntryField):
    """Suggests while it is typed into: Down marks a suggestion, Enter or a click takes it, Esc
    closes the list.

    The list is a child of the window, not a popup: a popup would take the focus, give it back in
    the middle of a word, and keep the window's shortcuts from working.
    """

    taken = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._offered: list[str] = []
        self._list: QListWidget | None = None  # made when there is first something to suggest

    def suggest(self, names: Sequence[str]) -> None:
        """Offer these, in view while the field is typed into."""
        if list(names) == self._offered and self.suggesting == bool(names):
            return
        self._offered = list(names)
        if names and self.hasFocus() and self.isModified():
            self._show()
        else:
            self.close_list()

    @property
    def suggesting(self) -> bool:
        return self._list is not None and self._list.isVisible()

    def _show(self) -> None:
        window = self.window()
        assert window is not None
        if self._list is None or self._list.parentWidget() is not window:
            self._list = QListWidget(window)
            self._list.setObjectName("completions")
            self._list.setAccessibleName(tr("Suggestions"))
            self._list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            self._list.itemClicked.connect(lambda item: self._take(item.text()))
        shown = self._list
        shown.setFont(self.font())
        shown.clear()
        row = max(self.height(), self.fontMetrics().height() + 8)  # tall enough for a glove
        for name in self._offered:
            item = QListWidgetItem(name)
            item.setSizeHint(QSize(0, row))
            shown.addItem(item)
        shown.setCurrentRow(-1)
        frame = 2 * shown.frameWidth()
        high = min(len(self._offered), MAX_IN_VIEW) * row + frame + 2
        at = self.mapTo(window, QPoint(0, self.height()))
        longest = max(shown.fontMetrics().horizontalAdvance(name) for name in self._offered)
        wide = max(self.width(), longest + frame + 32)
        shown.setGeometry(at.x(), at.y(), min(wide, window.width() - at.x() - 8), high)
        shown.show()
        shown.raise_()

    def close_list(self) -> None:
        if self._list is not None:
            self._list.hide()

    def drop_list(self) -> None:
        if self._list is not None:
            discard(self._list)
            self._list = None

    def _take(self, name: str) -> None:
        self.close_list()
        self.taken.emit(name)

    def event(self, event: QEvent | None) -> bool:
        """Esc closes an open list, and nothing else."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and event.key() == Qt.Key.Key_Escape
            and self.suggesting
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Move in the open list, take what is marked, or type on."""
        if event is None:
            return
        if self.suggesting and self._list is not None and not event.modifiers():
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            row, rows = self._list.currentRow(), self._list.count()
            if step:  # up from the first: back to what was typed
                self._list.setCurrentRow(max(-1, min(row + step, rows - 1)))
                return
            if event.key() == Qt.Key.Key_Escape:
                self.close_list()
                return
            item = self._list.currentItem() if row >= 0 else None
            if item is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(item.text())
                return
        super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if event is None or event.reason() not in FOR_A_MOMENT:
            self.close_list()
