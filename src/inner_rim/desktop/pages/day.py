"""The day: what is with a problem, what wants hands, what waits; and what to take from the shelf."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from inner_rim.desktop.pages.day_timeline import DayTimeline
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.page import Page
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import NOTE, TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.day_papers import DayPapers
from inner_rim.work.page_views import PageViews
from inner_rim.work.storage.paths import documents_folder
from inner_rim.work.tasks.day_plan import DayPlan

CLOCK_MS = 10_000
SCOPES = (("wheel", "This wheel"), ("job", "This bicycle"), ("bench", "Whole bench"))


class DayPage(Page):
    """Two lists: the wheels by the clock, and the pick list."""

    wheel_wanted = pyqtSignal(str)
    print_wanted = pyqtSignal(object)  # a PDF

    def __init__(
        self,
        views: PageViews,
        plan: DayPlan,
        papers: DayPapers,
        theme: Theme,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._views, self._papers = views, papers
        self._scope = "bench"
        self.wheels = LinesView(theme, tr("Wheels by the clock"))
        self.wheels.taken.connect(self.wheel_wanted)
        self.picks = LinesView(theme, tr("What to take from the shelf"))
        self._titles = [PlainLabel(tr("Today")), PlainLabel(tr("To take from the shelf"))]
        self._scopes: dict[str, QPushButton] = {}
        self.papers: dict[str, QPushButton] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 12)
        column.setSpacing(10)
        self.timeline = DayTimeline(plan, theme)
        self.timeline.wheel_wanted.connect(self.wheel_wanted)
        self.timeline.found.connect(self.refresh)
        column.addWidget(self.timeline)
        row = QHBoxLayout()
        row.setSpacing(12)
        column.addLayout(row, 1)
        row.addWidget(self._card(self._titles[0], None, self.wheels), 1)
        buttons = QHBoxLayout()
        for scope, words in SCOPES:
            button = QPushButton(tr(words))
            button.setCheckable(True)
            button.clicked.connect(lambda _on, s=scope: self.show_scope(s))
            buttons.addWidget(button)
            self._scopes[scope] = button
        right = self._card(self._titles[1], buttons, self.picks)
        row.addWidget(right, 1)
        foot = self._make_foot()
        layout = right.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addLayout(foot)
        self._show_bar(False)
        self._clock = QTimer(self)
        self._clock.setInterval(CLOCK_MS)
        self._clock.timeout.connect(self.changed)
        self._clock.start()
        self.set_theme(theme)

    def _make_foot(self) -> QHBoxLayout:
        """The papers of the day; while one is written, how far it is and a button to stop it."""
        self._papers_row = QWidget()
        row_of = QHBoxLayout(self._papers_row)
        row_of.setContentsMargins(0, 0, 0, 0)
        for name, (words, tip, ask) in {
            "cards": (tr("Bench cards…"), tr("The bench card of every wheel, as a PDF"), self._ask_cards),
            "sheet": (tr("Day sheet…"), tr("Who does what when, as a PDF"), self._ask_sheet),
            "calendar": (tr("Calendar…"), tr("The tasks for a calendar (ICS)"), self._ask_calendar),
            "print": (tr("Print…"), tr("Print the day sheet"), self._print),
        }.items():
            button = QPushButton(words)
            button.setToolTip(tip)
            button.clicked.connect(ask)
            row_of.addWidget(button)
            self.papers[name] = button
        self._stop = QPushButton(tr("Stop"))
        self._stop.clicked.connect(self._stop_cards)
        self._bar = QProgressBar()
        self._stopped = False
        foot = QHBoxLayout()
        for widget in (self._papers_row, self._bar, self._stop):
            foot.addWidget(widget)
        return foot

    @staticmethod
    def _card(title: QLabel, buttons: QHBoxLayout | None, lines: LinesView) -> QFrame:
        card = QFrame()
        card.setProperty("role", "card")
        column = QVBoxLayout(card)
        column.setContentsMargins(12, 10, 10, 10)
        column.addWidget(title)
        if buttons is not None:
            column.addLayout(buttons)
        column.addWidget(lines, 1)
        return card

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        self.timeline.set_theme(theme)
        for title in self._titles:
            title.setFont(theme.font(NOTE, 600))
        for button in (*self._scopes.values(), *self.papers.values(), self._stop):
            button.setFixedHeight(theme.px(TARGET_PX))
        for lines in (self.wheels, self.picks):
            lines.delegate.least_px = TARGET_PX + 4
            lines.set_theme(theme)

    # -- papers ------------------------------------------------------------------------------

    def _ask(self, title: str, name: str, kinds: str) -> Path | None:
        found, _ = QFileDialog.getSaveFileName(self, title, str(documents_folder() / name), kinds)
        return Path(found) if found else None

    def _ask_cards(self) -> None:
        path = self._ask(tr("Bench cards"), "bench cards.pdf", "PDF (*.pdf)")
        if path is not None:
            self.write_cards(path)

    def _ask_sheet(self) -> None:
        path = self._ask(tr("Day sheet"), "day sheet.pdf", "PDF (*.pdf)")
        if path is not None:
            self._papers.write_sheet(path, self.timeline.planned)

    def _ask_calendar(self) -> None:
        path = self._ask(tr("Calendar"), "day.ics", "ICS (*.ics)")
        if path is not None:
            self._papers.write_calendar(path, self.timeline.planned)

    def _print(self) -> None:
        self.print_wanted.emit(self._papers.sheet(self.timeline.planned))

    def write_cards(self, path: Path) -> bool:
        """Write the bench card of every wheel into one file, with progress; return whether it was written."""
        self._stopped = False
        self._show_bar(True)
        self._bar.setRange(0, self._papers.count)
        try:
            return self._papers.cards(path, self._on_progress)
        finally:
            self._show_bar(False)

    def _on_progress(self, done: int) -> bool:
        self._bar.setValue(done)
        QApplication.processEvents()  # the stop button is heard between two cards
        return not self._stopped

    def _stop_cards(self) -> None:
        self._stopped = True

    def _show_bar(self, shown: bool) -> None:
        self._bar.setVisible(shown)
        self._stop.setVisible(shown)
        self._papers_row.setVisible(not shown)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Show the day as it is now."""
        super().showEvent(event)
        self.refresh()

    def show_scope(self, scope: str) -> None:
        """Show the pick list of the selected wheel, its bicycle, or the whole bench."""
        self._scope = scope
        self.refresh()

    def refresh(self) -> None:
        """Show wheels and picks as they are now."""
        self.timeline.refresh()
        view = self._views.day(self.timeline.planned, self._scope)
        self.wheels.show_lines(view.wheels)
        self.picks.show_lines(view.picks)
        for scope, button in self._scopes.items():
            button.setChecked(scope == self._scope)
