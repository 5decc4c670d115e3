"""The timeline on the day page: the plan at once, the better one when it is found, with how good it is."""

from __future__ import annotations

from contextlib import suppress

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.desktop.drawings.timeline import HEAD_PX, ROW_PX, TimelineView
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.tasks.day_plan import DayPlan, Found, Planned
from inner_rim.work.text.promise_words import record_text
from inner_rim.work.text.schedule_words import gap_words, pin_words
from inner_rim.work.text.timeline import timeline_of

#: The most rows that have their full height.
MOST_ROWS = 6


class DayTimeline(QFrame):
    """A card with the timeline, what is late and what would help."""

    wheel_wanted = pyqtSignal(str)
    found = pyqtSignal()
    _found = pyqtSignal(object)

    def __init__(self, plan: DayPlan, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._plan, self._theme = plan, theme
        self.planned = plan.now()
        self.by_wheel = False
        self.setProperty("role", "card")
        self.view = TimelineView(theme)
        self.view.opened.connect(self.wheel_wanted)
        self.view.moved.connect(self._move)
        self.view.let_go.connect(self._let_go)
        self.view.picked.connect(self._picked)
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self._buttons = {
            "mechanics": QPushButton(tr("By mechanic")),
            "wheels": QPushButton(tr("By wheel")),
            "pin": QPushButton(tr("Pin here")),
            "stop": QPushButton(tr("Stop")),
        }
        for name in ("mechanics", "wheels"):
            self._buttons[name].setCheckable(True)
            self._buttons[name].clicked.connect(lambda _on, n=name: self.show_rows(n == "wheels"))
        self._buttons["pin"].clicked.connect(self.view.turn_pin)
        self._buttons["pin"].setToolTip(
            tr("P. Drag a bar, or move it with Shift and the arrow keys; it stays where you put it.")
        )
        self._buttons["stop"].clicked.connect(self.stop)
        self._refused = ""
        self._said: tuple[str, ...] = ()
        row = QHBoxLayout()
        for button in self._buttons.values():
            row.addWidget(button)
        row.addWidget(self.words, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 6)
        column.addLayout(row)
        column.addWidget(self.view)
        self._found.connect(self._take)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme."""
        self._theme = theme
        self.view.set_theme(theme)
        for button in self._buttons.values():
            button.setFixedHeight(theme.px(TARGET_PX))

    def show_rows(self, by_wheel: bool) -> None:
        """Show a row for each wheel, or for each mechanic."""
        self.by_wheel = by_wheel
        self.refresh()

    def _move(self, wheel: int, task: int, minute: int, mechanic: int) -> None:
        """Pin a task at a minute with a mechanic; where that cannot be, say why."""
        planned = self.planned
        self._refused = self._plan.pin(planned, wheel, task, planned.day.at(minute), mechanic)
        self.found.emit()  # the page shows it

    def _let_go(self, wheel: int, task: int) -> None:
        self._refused = ""
        self._plan.unpin(self.planned, wheel, task)
        self.found.emit()

    def _picked(self) -> None:
        self._refused = ""  # it was about another bar
        self._show_pin()

    def _show_pin(self) -> None:
        bar = self.view.chosen
        self._buttons["pin"].setVisible(bar is not None)
        self._buttons["pin"].setText(tr("Unpin") if bar is not None and bar.pinned else tr("Pin here"))
        chosen = (self.view.said(bar), tr("Shift+arrow keys move it")) if bar is not None else ()
        said = (self._refused, *chosen, *self._said)
        self.words.setText(" ".join(part if part[-1] in ".?!" else f"{part}." for part in said if part))

    def refresh(self) -> None:
        """Show the plan as it is now; where something else is to be done than before, look for a better one."""
        planned = self._plan.now()
        self._plan.improve(planned, self._tell)
        self._show(msgspec.structs.replace(planned, looking=self._plan.looking))

    def _tell(self, found: Found) -> None:
        with suppress(RuntimeError):  # the page is gone
            self._found.emit(found)

    def _take(self, found: Found) -> None:
        if self._plan.take(found) and self.isVisible():
            self.found.emit()

    def stop(self) -> None:
        """Leave it at the best that was found."""
        self._plan.stop()
        self.refresh()

    def _show(self, planned: Planned) -> None:
        self.planned = planned
        found = planned.found
        gap = gap_words(found.schedule) if found is not None else tr("Placed at once")
        if planned.looking:
            gap = tr("{words}; looking for a better one").format(words=gap)
        promises, helps = (found.promises or {}, found.helps) if found is not None else ({}, {})
        progress = [state.progress for state in planned.wheels]
        shown = timeline_of(planned.day, planned.schedule, self.by_wheel, gap, promises, helps, progress)
        self.view.show_day(shown)
        self._said = (
            *pin_words(planned.faults),
            planned.changed,
            *shown.words,
            record_text(self._plan.record),
        )
        self._show_pin()
        rows = min(MOST_ROWS, max(1, len(shown.rows)))
        self.view.setFixedHeight(self._theme.px(HEAD_PX) + rows * self._theme.px(ROW_PX) + 6)
        for name, button in self._buttons.items():
            if name == "stop":
                button.setVisible(planned.looking)
            elif name != "pin":
                button.setChecked(self.by_wheel == (name == "wheels"))
