"""The list of actions: everything that applies now, with its key, filtered as you type."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from inner_rim.desktop.commands.command import Command
from inner_rim.desktop.commands.table import shown_key
from inner_rim.desktop.widgets.entry import Entry
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr

WIDTH, MOST_HEIGHT = 560, 560


def matching(commands: Sequence[Command], titles: Callable[[Command], str], text: str) -> list[Command]:
    """Return the commands whose title holds every word of a text; those that begin with it come first."""
    words = text.casefold().split()
    found = [c for c in commands if all(word in titles(c).casefold() for word in words)]
    return sorted(found, key=lambda c: not titles(c).casefold().startswith(text.strip().casefold()))


class ActionsList(QFrame):
    """A line to type into over a list; Enter takes the first, arrows another, Esc closes.

    Args:
        commands: in the order in which they are shown.
        titles: what each is called now.
        theme: how it looks.
        parent: the window.
        sure: Enter may give the first one unseen; else none is marked before a letter or an arrow.
    """

    chosen = pyqtSignal(str)

    def __init__(
        self,
        commands: Sequence[Command],
        titles: Callable[[Command], str],
        theme: Theme,
        parent: QWidget,
        sure: bool = True,
    ) -> None:
        super().__init__(parent)
        self._commands, self._titles, self._theme, self._sure = commands, titles, theme, sure
        self.setProperty("role", "card")
        self.setAccessibleName(tr("Actions"))
        self.search = Entry()
        self.search.setPlaceholderText(tr("Actions: type a few letters"))
        self.search.setAccessibleName(tr("Find an action"))
        self.search.setFixedHeight(theme.px(TARGET_PX))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Actions that apply now"))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setWordWrap(True)
        self.list.setFont(theme.font(15))
        column = QVBoxLayout(self)
        column.setContentsMargins(theme.px(12), theme.px(12), theme.px(12), theme.px(12))
        column.addWidget(self.search)
        column.addWidget(self.list)
        self.search.textEdited.connect(self._fill)
        self.search.entered.connect(self._take)
        self.search.installEventFilter(self)
        self.setFocusProxy(self.search)
        self.list.itemClicked.connect(lambda _item: self._take())
        self._fill("")

    def _fill(self, text: str) -> None:
        self.list.clear()
        for command in matching(self._commands, self._titles, text):
            key = shown_key(command.id)
            item = QListWidgetItem(f"{self._titles(command)}{f'   ·   {key}' if key else ''}")
            item.setSizeHint(QSize(0, self._theme.px(TARGET_PX - 6)))
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            self.list.addItem(item)
        self.list.setCurrentRow(0 if text or self._sure else -1)

    def _take(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.chosen.emit(str(item.data(Qt.ItemDataRole.UserRole)))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Let the arrows move in the list while the line is typed into."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if by and not event.modifiers():
                rows = max(self.list.count(), 1)
                self.list.setCurrentRow((self.list.currentRow() + by) % rows)
                return True
        return super().eventFilter(watched, event)

    def place(self) -> None:
        """Stand under the header, in the middle."""
        parent = self.parentWidget()
        if parent is not None:
            width = min(self._theme.px(WIDTH), parent.width() - 40)
            height = min(self._theme.px(MOST_HEIGHT), parent.height() - 90)
            self.setGeometry((parent.width() - width) // 2, self._theme.px(60), width, height)
            self.raise_()
