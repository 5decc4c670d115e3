"""The timeline on the day page: scheduled at once, improved beside the work, with how good it is."""

from __future__ import annotations

import threading
from contextlib import suppress
from datetime import datetime

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.schedule.day import Day, Schedule
from inner_rim.core.schedule.listing import list_schedule
from inner_rim.core.schedule.promise import Promise, promises
from inner_rim.desktop.drawings.timeline import HEAD_PX, ROW_PX, TimelineView
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.tasks.scheduling import day_of, hands, paces
from inner_rim.work.text.schedule_words import gap_words
from inner_rim.work.text.timeline import changes, timeline_of

#: How long it is improved, about seconds; the most rows that have their full height.
EFFORT, MOST_ROWS = 3.0, 6
_EPOCH = datetime(2000, 1, 1)


class DayTimeline(QFrame):
    """A card with the timeline, what is late and what would help."""

    wheel_wanted = pyqtSignal(str)
    _found = pyqtSignal(int, object, object)

    def __init__(self, bench: Bench, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench, self._theme = bench, theme
        self._number = 0
        self._wanted: Day | None = None
        self._order: list[tuple[int, int]] = []
        self._solved: Schedule | None = None
        self._said: dict[str, datetime] = {}
        self._promises: dict[str, Promise] = {}
        self._busy = False
        self.by_wheel = False
        self.setProperty("role", "card")
        self.view = TimelineView(theme)
        self.view.opened.connect(self.wheel_wanted)
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self._buttons = {
            "mechanics": QPushButton(tr("By mechanic")),
            "wheels": QPushButton(tr("By wheel")),
            "stop": QPushButton(tr("Stop")),
        }
        for name in ("mechanics", "wheels"):
            self._buttons[name].setCheckable(True)
            self._buttons[name].clicked.connect(lambda _on, n=name: self.show_rows(n == "wheels"))
        self._buttons["stop"].clicked.connect(self.stop)
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

    def refresh(self) -> None:
        """Schedule the wheels as they are now; where something else is to be done than before, improve it anew."""
        bench = self._bench
        day, _known = day_of(
            bench.wheels, bench.time, bench.settings.hours, hands(bench.settings.mechanics), bench.units
        )
        wanted = msgspec.structs.replace(day, start=_EPOCH)
        if wanted != self._wanted:
            self._wanted, self._order, self._solved = wanted, [], None
            self._promises = {}
            self._number += 1
            self._improve(day, self._number)
        schedule = list_schedule(day, order=self._order or None)
        self._show(day, schedule)

    def _improve(self, day: Day, number: int) -> None:
        """Look for a better schedule in a thread; the window goes on meanwhile."""
        self._busy = True

        pace = paces(self._bench.wheels)

        def go_on(schedule: Schedule) -> bool:
            self._tell(number, schedule, None)
            return self._busy and number == self._number

        def work() -> None:
            from inner_rim.core.schedule.solver import improve

            best = improve(day, effort=EFFORT, on_progress=go_on)
            said = zip((wheel.key for wheel in day.wheels), promises(day, best, pace), strict=True)
            self._tell(number, best, dict(said))

        threading.Thread(target=work, name="schedule", daemon=True).start()

    def _tell(self, number: int, schedule: Schedule, said: dict[str, Promise] | None) -> None:
        with suppress(RuntimeError):  # the page is gone
            self._found.emit(number, schedule, said)

    def _take(self, number: int, schedule: Schedule, said: dict[str, Promise] | None) -> None:
        if number != self._number:
            return
        self._order = [(one.wheel, one.task) for one in schedule.placed]
        self._solved = schedule
        if said is not None:  # the last of it
            self._promises, self._busy = said, False
        if self.isVisible():
            self.refresh()

    def stop(self) -> None:
        """Leave it at the best that was found."""
        self._busy = False
        self.refresh()

    def _show(self, day: Day, schedule: Schedule) -> None:
        solved = self._solved
        gap = gap_words(solved) if solved is not None else tr("Placed at once")
        if self._busy:
            gap = tr("{words}; looking for a better one").format(words=gap)
        shown = timeline_of(day, schedule, self.by_wheel, gap, self._promises)
        self.view.show_day(shown)
        changed = changes(day, schedule, self._said)
        if not self._busy:
            self._said = {w.key: day.at(done) for w, done in zip(day.wheels, schedule.done, strict=True)}
        self.words.setText(
            " ".join(part for part in (changed, shown.words[0] + ".", *shown.words[1:]) if part)
        )
        rows = min(MOST_ROWS, max(1, len(shown.rows)))
        self.view.setFixedHeight(self._theme.px(HEAD_PX) + rows * self._theme.px(ROW_PX) + 6)
        for name, button in self._buttons.items():
            if name == "stop":
                button.setVisible(self._busy)
            else:
                button.setChecked(self.by_wheel == (name == "wheels"))
