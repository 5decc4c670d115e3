"""The Actions list, everything that applies now, in groups, with its key; and the twelve keys that
matter.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QGridLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from inner_rim.desktop.commands.command import GROUPS, Command
from inner_rim.desktop.commands.table import KEYS_THAT_MATTER, shown_key
from inner_rim.desktop.widgets.base import PlainLabel
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import NOTE, TEXT, Theme
from inner_rim.words import tr


def matching(
    commands: Sequence[Command], titles: Callable[[Command], str], text: str
) -> list[Command]:
    """Return the commands whose title holds every word of a text, group by group; those that begin
    with it first.
    """
    words, begin = text.casefold().split(), text.strip().casefold()
    result = [
        command
        for command in commands
        if (begin or command.listed != "typed")
        and all(word in titles(command).casefold() for word in words)
    ]
    if begin:
        result.sort(key=lambda command: not titles(command).casefold().startswith(begin))
    return sorted(result, key=lambda command: GROUPS.index(command.group))


class ActionsList(QWidget):
    """Groups over a line to type into; Enter takes the marked one, arrows mark another.

    Args:
        commands: in the order in which they are shown within their group.
        sure: Enter may run the first one unseen; else none is marked before a letter or an arrow.
    """

    chosen = pyqtSignal(str)

    def __init__(
        self,
        commands: Sequence[Command],
        titles: Callable[[Command], str],
        theme: Theme,
        sure: bool = True,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._commands, self._titles, self._theme, self._sure = commands, titles, theme, sure
        self.setAccessibleName(tr("Actions"))
        self.search = EntryField()
        self.search.setPlaceholderText(tr("Type a few letters"))
        self.search.setAccessibleName(tr("Find an action"))
        self.search.setFixedHeight(theme.target)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Actions that apply now"))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setWordWrap(True)
        self.list.setFont(theme.font(TEXT))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.list, 1)
        column.addWidget(self.search)
        self.search.textEdited.connect(self._fill)
        self.search.entered.connect(self._take)
        self.search.installEventFilter(self)
        self.setFocusProxy(self.search)
        self.list.itemClicked.connect(lambda _item: self._take())
        self._fill("")

    def _fill(self, text: str) -> None:
        self.list.clear()
        group = ""
        for command in matching(self._commands, self._titles, text):
            if command.group != group:
                group = command.group
                self._head(tr(group))
            key = shown_key(command.id)
            item = QListWidgetItem(f"{self._titles(command)}{f'   ·   {key}' if key else ''}")
            item.setSizeHint(QSize(0, self._theme.target))
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            self.list.addItem(item)
        self.list.setCurrentRow(self._next(-1, 1) if text or self._sure else -1)

    def _head(self, words: str) -> None:
        head = QListWidgetItem(words)
        head.setFlags(Qt.ItemFlag.NoItemFlags)
        head.setFont(self._theme.font(TEXT, 600))
        head.setForeground(self._theme.color("muted"))
        self.list.addItem(head)

    def _next(self, row: int, by: int) -> int:
        rows = self.list.count()
        for away in range(1, rows + 1):
            at = (row + by * away) % rows
            item = self.list.item(at)
            if item is not None and item.data(Qt.ItemDataRole.UserRole):
                return at
        return -1

    def _take(self) -> None:
        item = self.list.currentItem()
        command = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if command:
            self.chosen.emit(str(command))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if by and not event.modifiers():
                here = self.list.currentRow()
                self.list.setCurrentRow(self._next(here if here >= 0 or by > 0 else 0, by))
                return True
        return super().eventFilter(watched, event)


class KeyList(QWidget):
    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(tr("Keys"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        grid = QGridLayout(self)
        grid.setHorizontalSpacing(theme.px(18))
        grid.setVerticalSpacing(theme.px(4))
        for row, (key, words) in enumerate(KEYS_THAT_MATTER):
            name, what = PlainLabel(key), PlainLabel(tr(words))
            name.setFont(theme.font(NOTE, 600))
            what.setFont(theme.font(NOTE))
            what.setWordWrap(True)
            grid.addWidget(name, row, 0)
            grid.addWidget(what, row, 1)
            what.setMinimumHeight(what.fontMetrics().height() + 4)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(KEYS_THAT_MATTER), 1)
