"""Cards of lines, and rows that wrap."""

from pathlib import Path

from PyQt6.QtCore import QRect, QSize
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QLayout,
    QLayoutItem,
    QVBoxLayout,
    QWidget,
)

from inner_rim.desktop.widgets.base import PlainLabel
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.storage.files import documents_folder


def titled_grid(card: QFrame, title: str, theme: Theme, columns: int) -> QGridLayout:
    """Make a frame a card with a title in its first row; return its grid."""
    card.setProperty("role", "card")
    grid = QGridLayout(card)
    grid.setContentsMargins(theme.px(12), theme.px(6), theme.px(12), theme.px(8))
    grid.addWidget(_title(title, theme), 0, 0, 1, columns)
    return grid


def titled_column(card: QFrame, title: str, theme: Theme) -> QVBoxLayout:
    """Make a frame a card with a title on top; return its column."""
    card.setProperty("role", "card")
    column = QVBoxLayout(card)
    column.setContentsMargins(theme.px(12), theme.px(6), theme.px(12), theme.px(8))
    column.setSpacing(theme.px(4))
    column.addWidget(_title(title, theme))
    return column


def _title(words: str, theme: Theme) -> PlainLabel:
    label = PlainLabel(words)
    label.setFont(theme.font(TEXT, 600))
    label.setWordWrap(True)
    return label


def small_note(theme: Theme, words: str = "") -> PlainLabel:
    note = PlainLabel(words)
    note.setWordWrap(True)
    note.setProperty("role", "muted")
    note.setFont(theme.font(SMALL))
    return note


def stacked_card(*inside: QWidget) -> QFrame:
    """Return a card of widgets below each other; lists take the room that is left."""
    card = QFrame()
    card.setProperty("role", "card")
    column = QVBoxLayout(card)
    column.setContentsMargins(12, 8, 10, 10)
    for widget in inside:
        column.addWidget(widget, int(isinstance(widget, LinesView)))
    return card


def ask_csv(parent: QWidget, name: str) -> Path | None:
    """Ask where a CSV file goes; None where the user cancels."""
    chosen, _ = QFileDialog.getSaveFileName(
        parent, tr("Export"), str(documents_folder() / name), "CSV (*.csv)"
    )
    return Path(chosen) if chosen else None


class Flow(QLayout):
    """Widgets beside each other, in as many rows as they need."""

    def __init__(self, gap: int) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap = gap
        self._heights: dict[int, int] = {}  # by width, until something changes
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if width not in self._heights:
            self._heights[width] = self._lay(QRect(0, 0, width, 0), move=False)
        return self._heights[width]

    def invalidate(self) -> None:
        self._heights.clear()
        super().invalidate()

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._lay(rect, move=True)

    def _lay(self, rect: QRect, *, move: bool) -> int:
        x, y, high = rect.x(), rect.y(), 0
        for item in self._items:
            if item.isEmpty():  # a hidden widget
                continue
            size = item.sizeHint()
            if x > rect.x() and x + size.width() > rect.right() + 1:
                x, y, high = rect.x(), y + high + self._gap, 0
            if move:
                item.setGeometry(QRect(x, y, min(size.width(), rect.width()), size.height()))
            x += size.width() + self._gap
            high = max(high, size.height())
        return y + high - rect.y()
