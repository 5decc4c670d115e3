"""The board on the day page: the plan at once, a better one when it is found, and who does what
next.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from functools import partial

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollBar,
    QVBoxLayout,
    QWidget,
)

from inner_rim.desktop.drawings.board import BoardView
from inner_rim.desktop.widgets.base import PlainLabel, Scrolling
from inner_rim.desktop.widgets.theme import NOTE, TARGET_PX, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import key_from
from inner_rim.work.tasks.day_plan import DayPlan, Planned, SearchResult
from inner_rim.work.text.board import NEXT_SAID, BoardData, MechanicNext, NextUp
from inner_rim.work.views import PageViews

#: Mechanics whose next actions are shown; digits open them.
MAX_HANDS, NEXT_PX = 3, 54


class DayBoard(QFrame):
    """The board with its buttons, and the next actions of each mechanic."""

    wheel_wanted = pyqtSignal(object)
    help_wanted = pyqtSignal(object)
    found = pyqtSignal()
    _found = pyqtSignal(object)

    def __init__(
        self, plan: DayPlan, views: PageViews, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._plan, self._views, self._theme = plan, views, theme
        self.planned = plan.now()
        self.by_wheel = True
        self.setProperty("role", "card")
        self.view = BoardView(theme)
        self.view.opened.connect(lambda key: self.wheel_wanted.emit(key_from(key)))
        self.view.helped.connect(self.help_wanted)
        self.view.moved.connect(self._move)
        self.view.unpin.connect(self._unpin)
        self.view.picked.connect(self._picked)
        self.view.zoomed.connect(self._follow)
        self._area = Scrolling(self.view)
        bar = self._area.verticalScrollBar()
        assert bar is not None
        bar.valueChanged.connect(self.view.update)
        self._later = QScrollBar(Qt.Orientation.Horizontal)
        self._later.setAccessibleName(tr("Later"))
        self._later.valueChanged.connect(lambda value: self.view.shift(float(value)))
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self.buttons = self._make_buttons()
        self._refused = ""
        self._said: tuple[str, ...] = ()
        self.head = QHBoxLayout()
        for button in self.buttons.values():
            self.head.addWidget(button)
        self.head.addWidget(self.words, 1)
        self._next = QGridLayout()
        self._next.setHorizontalSpacing(8)
        self._next.setVerticalSpacing(6)
        self._names: list[PlainLabel] = []
        self.next_up: list[QPushButton] = []
        self._keys: list[str] = []
        self._hands: tuple[MechanicNext, ...] = ()
        self._next_shown: tuple[object, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 8)
        column.addLayout(self.head)
        column.addWidget(self._area, 1)
        column.addWidget(self._later)
        column.addLayout(self._next)
        self._found.connect(self._take)
        self.set_theme(theme)

    def _make_buttons(self) -> dict[str, QPushButton]:
        """What is shown in rows, how much time, and the pin of the bar that is chosen."""
        buttons = {
            "wheels": QPushButton(tr("By wheel")),
            "mechanics": QPushButton(tr("By mechanic")),
            "closer": QPushButton(tr("Less time  +")),
            "farther": QPushButton(tr("More time  −")),
            "pin": QPushButton(tr("Pin here")),
        }
        for name in ("wheels", "mechanics"):
            buttons[name].setCheckable(True)
            buttons[name].clicked.connect(lambda _on, n=name: self.show_rows(n == "wheels"))
        for name, by in (("closer", -1), ("farther", 1)):
            buttons[name].clicked.connect(lambda _on, by=by: self.view.zoom(by))
        buttons["pin"].clicked.connect(self.view.turn_pin)
        buttons["pin"].setToolTip(
            tr(
                "Space. Drag a bar, or move it with Shift and the arrow keys; it stays where you put it."
            )
        )
        return buttons

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.view.set_theme(theme)
        for button in self.buttons.values():
            button.setFixedHeight(theme.px(TARGET_PX))
            button.setMinimumWidth(theme.px(TARGET_PX))
        self._show_next(self._hands)

    def show_rows(self, by_wheel: bool) -> None:
        self.by_wheel = by_wheel
        self.refresh()

    def open_next(self, number: int) -> bool:
        if not 1 <= number <= len(self._keys):
            return False
        self.wheel_wanted.emit(key_from(self._keys[number - 1]))
        return True

    def _open(self, number: int, _on: bool = False) -> None:
        self.open_next(number)

    # -- mouse and keys -----------------------------------------------------------------------------------

    def _move(self, wheel: int, task: int, minute: int, mechanic: int) -> None:
        """Pin a task at a minute with a mechanic; where that cannot be, say why."""
        planned = self.planned
        self._refused = self._plan.pin(planned, wheel, task, planned.day.at(minute), mechanic)
        self.found.emit()  # the page shows it

    def _unpin(self, wheel: int, task: int) -> None:
        self._refused = ""
        self._plan.unpin(self.planned, wheel, task)
        self.found.emit()

    def _picked(self) -> None:
        self._refused = ""  # it was about another bar
        self._show_pin()

    def _follow(self) -> None:
        places = self.view.places
        beyond = round(places.max_shifted)
        self._later.setRange(0, beyond)
        self._later.setPageStep(round(places.room_px))
        self._later.setSingleStep(60)
        self._later.setValue(round(places.shifted))
        self._later.setVisible(beyond > 0)

    # -- showing ---------------------------------------------------------------------------------

    def _show_pin(self) -> None:
        bar = self.view.chosen
        self.buttons["pin"].setVisible(bar is not None)
        self.buttons["pin"].setText(
            tr("Unpin") if bar is not None and bar.pinned else tr("Pin here")
        )
        chosen = (self.view.said(bar), tr("Shift+arrow keys move it")) if bar is not None else ()
        said = (self._refused, *chosen, *self._said)
        self.words.setText(
            " ".join(part if part[-1] in ".?!" else f"{part}." for part in said if part)
        )

    def refresh(self) -> None:
        """Show the plan as it is now; where the tasks changed, look for a better one."""
        planned = self._plan.now()
        self._plan.improve(planned, self._tell)
        self._show(msgspec.structs.replace(planned, looking=self._plan.looking))

    def _tell(self, search: SearchResult) -> None:
        with suppress(RuntimeError):  # the page is gone
            self._found.emit(search)

    def _take(self, search: SearchResult) -> None:
        if self._plan.take(search) and self.isVisible():
            self.found.emit()

    def watch(self, seen: bool) -> None:
        """Go on looking for a better plan while the page is in view; stop when it is not."""
        self._plan.watched = seen

    def _show(self, planned: Planned) -> None:
        self.planned = planned
        shown: BoardData = self._views.board(planned, self.by_wheel)
        self.view.show_day(shown)
        self._said = shown.words
        self._show_pin()
        self._show_next(shown.hands)
        for name in ("wheels", "mechanics"):
            self.buttons[name].setChecked(self.by_wheel == (name == "wheels"))

    def _show_next(self, hands: tuple[MechanicNext, ...]) -> None:
        """Each mechanic's next actions, as buttons with their numbers; only as many as stay
        readable.
        """
        self._hands, room = hands, self.width()
        if (hands, room, self._theme) == self._next_shown:
            return
        self._next_shown = hands, room, self._theme
        for button in self.next_up:
            button.hide()
            button.deleteLater()
        for label in self._names:
            label.hide()
            label.deleteLater()
        self.next_up, self._names, self._keys = [], [], []
        theme, several = self._theme, len(hands) > 1
        names = [
            tr("{name}, next").format(name=one.name) if several else tr("Next") for one in hands
        ]
        room -= 40 + round(max((theme.width_of(name, TEXT, 600) for name in names), default=0.0))
        columns = self._fitting(hands[:MAX_HANDS], room)
        for place in range(NEXT_SAID):  # an empty column takes no room
            self._next.setColumnStretch(1 + place, int(place < columns))
        for row, one in enumerate(hands[:MAX_HANDS]):
            label = PlainLabel(names[row])
            label.setFont(theme.font(TEXT, 600))
            self._names.append(label)
            self._next.addWidget(label, row, 0)
            for place, action in enumerate(one.actions[:columns]):
                number = len(self.next_up) + 1
                button = QPushButton(_lines(number, action).replace("&", "&&"))
                high = theme.px(NEXT_PX)
                look = f"text-align: left; min-height: {high}px; max-height: {high}px;"
                button.setStyleSheet(f"{look} {theme.type_style(NOTE)}")
                button.clicked.connect(partial(self._open, number))
                self._next.addWidget(button, row, 1 + place)
                self.next_up.append(button)
                self._keys.append(action.key)

    def _fitting(self, hands: Sequence[MechanicNext], room: float) -> int:
        """As many columns of next actions as all rows have room for."""
        for columns in range(NEXT_SAID, 1, -1):
            shown = [action for one in hands for action in one.actions[:columns]]
            if max(map(self._wide, shown), default=0.0) + 40 <= room / columns:
                return columns
        return 1

    def _wide(self, action: NextUp) -> float:
        return max(self._theme.width_of(line, NOTE) for line in _lines(9, action).split("\n"))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._show_next(self._hands)


def _lines(number: int, action: NextUp) -> str:
    return f"{number}   {action.at}   {action.words}\n{action.name}"
