"""The list of keys or of actions: beside the step on the bench, at the right of any other page."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Literal

from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLineEdit, QWidget

from inner_rim.desktop.bench.page import BenchPage
from inner_rim.desktop.commands.command import Command, Context
from inner_rim.desktop.commands.table import COMMANDS
from inner_rim.desktop.widgets.discard import discard
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.text.panel import Answer
from inner_rim.work.text.view_selection import Drawer
from inner_rim.work.views import Views

if TYPE_CHECKING:
    from inner_rim.desktop.commands.actions_list import ActionsList
    from inner_rim.desktop.commands.key_list import KeyList

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
        self, page: BenchPage, beside: QHBoxLayout, views: Views, run: Callable[[str], object], show: Callable[[], None]
    ) -> None:
        self._page, self._beside, self._views, self._run, self._show = page, beside, views, run, show
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
        self._name, self.shown = name, self._key_list(theme) if name == "keys" else self._actions(context, theme)
        if context.window.page_shown == "bench":
            self._views.change({"drawer": name, "why": None})
            self._page.side.put(self.shown)
            self._show()
        else:
            room = self._page.window()
            self.shown.setFixedWidth(min(theme.px(BESIDE_PX), room.width() // 2 if room is not None else BESIDE_PX))
            self._beside.addWidget(self.shown)
        self.shown.setFocus(Qt.FocusReason.PopupFocusReason)  # only for a moment: the field keeps its cursor

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
        from inner_rim.desktop.commands.key_list import KeyList

        return KeyList(theme)

    def _actions(self, context: Context, theme: Theme) -> ActionsList:
        from inner_rim.desktop.commands.actions_list import ActionsList

        answers, on_bench = context.now.answers, context.window.page_shown == "bench"
        listed = [
            one for one in COMMANDS if one.listed and one.applies(context) and (on_bench or one.scope == "anywhere")
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
    """Return the rank of a command in the list of actions: the panel's answers first, then Back, then the rest."""
    places = [answer.command for answer in answers]
    if command.id not in places:
        return len(places) + 1
    return len(places) if command.id == "back" else places.index(command.id)


def _title(command: Command, answers: tuple[Answer, ...]) -> str:
    """Return what a command is called now: as the panel words it, else its title."""
    words = next((answer.words for answer in answers if answer.command == command.id), "")
    return words or tr(command.title)
