"""What opens over the window: the list of keys or of actions, and the tour."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

import msgspec
from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from inner_rim.desktop.bench.page import BenchPage
from inner_rim.desktop.commands.command import GROUPS, Command, Context
from inner_rim.desktop.commands.table import COMMANDS, KEYS_THAT_MATTER, shown_key
from inner_rim.desktop.widgets.base import PlainLabel, discard
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import NOTE, TEXT, Theme
from inner_rim.words import N_, tr
from inner_rim.work.text.panel import Answer
from inner_rim.work.text.questions import Drawer
from inner_rim.work.views import Views

#: Width of a list beside another page than the bench, px.
BESIDE_PX = 420

ListName = Literal["keys", "actions"]


class CommandLists:
    """Opens and closes the lists; what had the focus before has it again after.

    Args:
        beside: the row of the pages, which takes a list at its end.
        run: carries out the command that was chosen.
        show: shows the view that was changed here.
    """

    def __init__(
        self,
        page: BenchPage,
        beside: QHBoxLayout,
        views: Views,
        run: Callable[[str], object],
        show: Callable[[], None],
    ) -> None:
        self._page, self._beside, self._views, self._run, self._show = (
            page,
            beside,
            views,
            run,
            show,
        )
        self.shown: KeyList | ActionsList | None = None
        self._name: ListName | None = None
        self._focus: QWidget | None = None  # what had it before
        self._cursor = 0
        self._drawer: Drawer = ""  # what was open before

    def toggle(self, name: ListName, context: Context, theme: Theme) -> None:
        if self.close() == name:
            return
        focus = self._focus = QApplication.focusWidget()
        self._cursor = focus.cursorPosition() if isinstance(focus, QLineEdit) else 0
        drawer = self._views.looking.drawer
        self._drawer = drawer if drawer not in ("actions", "keys") else ""
        self._name, self.shown = (
            name,
            self._key_list(theme) if name == "keys" else self._actions(context, theme),
        )
        theme.dress(self.shown)
        if context.window.page_shown == "bench":
            self._views.change({"drawer": name, "why": None})
            self._page.side.put(self.shown)
            self._show()
        else:
            room = self._page.window()
            self.shown.setFixedWidth(
                min(theme.px(BESIDE_PX), room.width() // 2 if room is not None else BESIDE_PX)
            )
            self._beside.addWidget(self.shown)
        # only for a moment: the field keeps its cursor
        self.shown.setFocus(Qt.FocusReason.PopupFocusReason)

    def close(self) -> ListName | None:
        """Close the list; return the name of the one that was open."""
        there, self.shown = self.shown, None
        name, self._name = self._name, None
        if there is None:
            return None
        if self._views.looking.drawer in ("actions", "keys"):
            self._views.change({"drawer": self._drawer})
            self._show()  # the field of a drawer is in view again and can take the cursor
        self._page.side.slot.removeWidget(there)
        self._beside.removeWidget(there)
        discard(there)
        focus, self._focus = self._focus, None
        if focus is not None and not sip.isdeleted(focus):  # typing goes on where it was
            focus.setFocus(Qt.FocusReason.PopupFocusReason)
            if isinstance(focus, QLineEdit):  # hidden in the drawer, it may have lost its place
                focus.setCursorPosition(self._cursor)
        return name

    def _key_list(self, theme: Theme) -> KeyList:
        return KeyList(theme)

    def _actions(self, context: Context, theme: Theme) -> ActionsList:
        answers, on_bench = context.now.answers, context.window.page_shown == "bench"
        listed = [
            one
            for one in COMMANDS
            if one.listed and one.applies(context) and (on_bench or one.scope == "anywhere")
        ]
        listed.sort(key=lambda one: _rank(one, answers))
        sure = bool(answers) and answers[0].enter and on_bench
        result = ActionsList(listed, lambda one: _title(one, answers), theme, sure)
        result.chosen.connect(self._take)
        return result

    def _take(self, command: str) -> None:
        self.close()
        self._page.now.focus_main()
        self._run(command)


def _rank(command: Command, answers: tuple[Answer, ...]) -> int:
    """Return the rank of a command in the list of actions: the panel's answers first, then Back,
    then the rest.
    """
    places = [answer.command for answer in answers]
    if command.id not in places:
        return len(places) + 1
    return len(places) if command.id == "back" else places.index(command.id)


def _title(command: Command, answers: tuple[Answer, ...]) -> str:
    """Return what a command is called now: as the panel words it, else its title."""
    words = next((answer.words for answer in answers if answer.command == command.id), "")
    return words or tr(command.title)


class TourStop(msgspec.Struct, frozen=True):
    """A stop of the tour.

    Attributes:
        wheel: the beginning of the name of the wheel that is selected, empty for none.
        drawer: what is opened beside the step.
    """

    page: str
    wheel: str
    words: str
    drawer: Drawer = ""


STOPS = (
    TourStop("bench", "Dune", N_("Type what you know of a wheel. The plan grows beside it; a number opens its why.")),
    TourStop("bench", "Warden", N_("Then one step fills the screen. Enter confirms it; Y and N answer questions.")),
    TourStop("bench", "Sandpiper 2 · front", N_("Pump, stop, look. The lowest limit is always in view, with its origin.")),
    TourStop("bench", "Ferry", N_("Everything else opens beside the step, such as the log. Esc closes it."), "log"),
    TourStop("day", "", N_("The day: who does what when, and which promise is in danger. Ctrl+1 goes back.")),
)  # fmt: skip


class Tour(QFrame):
    """Goes from stop to stop; it can be left at any of them."""

    arrived = pyqtSignal(object)
    left = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("role", "card")
        self.setAccessibleName(tr("Tour"))
        self._at = -1
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self.words.setFont(theme.font(NOTE))
        self.next, leave = QPushButton(""), QPushButton(tr("End tour   Esc"))
        self.next.setProperty("role", "main")
        leave.setProperty("role", "flat")
        row = QHBoxLayout(self)
        row.setContentsMargins(theme.px(16), theme.px(6), theme.px(10), theme.px(6))
        row.addWidget(self.words, 1)
        for button in (self.next, leave):
            button.setFixedHeight(theme.target)
            row.addWidget(button)
        self.next.clicked.connect(self.go_on)
        leave.clicked.connect(self.left)
        self.leave = leave

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if not event.isAutoRepeat():
                (self.leave if self.leave.hasFocus() else self.next).click()
        else:
            super().keyPressEvent(event)

    def go_on(self) -> None:
        """Go to the next stop, or leave after the last."""
        self._at += 1
        if self._at >= len(STOPS):
            self.left.emit()
            return
        stop: TourStop = STOPS[self._at]
        self.words.setText(
            tr("{n} of {all} · {words}").format(
                n=self._at + 1, all=len(STOPS), words=tr(stop.words)
            )
        )
        last = self._at + 1 == len(STOPS)
        self.next.setText(tr("Done   Enter") if last else tr("Next   Enter"))
        self.arrived.emit(stop)
        self.next.setFocus(Qt.FocusReason.OtherFocusReason)


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
