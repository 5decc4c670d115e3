"""The day: the board, and beside it, when asked for, what to take from the shelf and the papers."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from inner_rim.desktop.pages.day_board import DayBoard
from inner_rim.desktop.widgets.base import Page, PlainLabel
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import NOTE, TARGET_PX, Theme
from inner_rim.words import N_, tr
from inner_rim.work.day_papers import DayPapers
from inner_rim.work.storage.files import documents_folder
from inner_rim.work.tasks.day_plan import DayPlan
from inner_rim.work.views import PageViews

CLOCK_MS = 10_000
SCOPES = (("wheel", N_("This wheel")), ("job", N_("This bicycle")), ("bench", N_("Whole bench")))


class DayPage(Page):
    """The board of the day; the pick list opens beside it."""

    wheel_wanted = pyqtSignal(object)
    help_wanted = pyqtSignal(object)
    print_wanted = pyqtSignal(object)  # a PDF
    _progress = pyqtSignal(int)
    _made = pyqtSignal(object, object)

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
        self.picks = LinesView(theme, tr("What to take from the shelf"))
        self.picks.taken.connect(self.wheel_wanted)
        self._title = PlainLabel(tr("To take from the shelf"))
        self._scopes: dict[str, QPushButton] = {}
        self.papers: dict[str, QPushButton] = {}
        self._stopped = threading.Event()
        self._made.connect(self._keep_cards)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 12)
        row.setSpacing(12)
        self.board = DayBoard(plan, views, theme)
        self.board.wheel_wanted.connect(self.wheel_wanted)
        self.board.help_wanted.connect(self.help_wanted)
        self.board.found.connect(self.refresh)
        self.drawer_button = QPushButton(tr("Shelf and papers"))
        self.drawer_button.setCheckable(True)
        self.drawer_button.clicked.connect(self.show_drawer)
        self.board.head.addWidget(self.drawer_button)
        row.addWidget(self.board, 3)
        buttons = QHBoxLayout()
        for scope, words in SCOPES:
            button = QPushButton(tr(words))
            button.setCheckable(True)
            button.clicked.connect(lambda _on, s=scope: self.show_scope(s))
            buttons.addWidget(button)
            self._scopes[scope] = button
        self.drawer = self._card(self._title, buttons, self.picks)
        row.addWidget(self.drawer, 2)
        layout = self.drawer.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addLayout(self._make_foot())
        self.drawer.hide()
        self._show_bar(False)
        self._clock = QTimer(self)
        self._clock.setInterval(CLOCK_MS)
        self._clock.timeout.connect(self.changed)
        self._clock.start()
        self.set_theme(theme)

    def _make_foot(self) -> QVBoxLayout:
        """The papers of the day; while one is written, how far it is and a button to stop it."""
        self._papers_row = QWidget()
        grid = QGridLayout(self._papers_row)
        grid.setContentsMargins(0, 0, 0, 0)
        papers = {
            "cards": (
                tr("Bench cards…"),
                tr("The bench card of every wheel, as a PDF"),
                self._ask_cards,
            ),
            "sheet": (tr("Day sheet…"), tr("Who does what when, as a PDF"), self._ask_sheet),
            "calendar": (tr("Calendar…"), tr("The tasks for a calendar (ICS)"), self._ask_calendar),
            "print": (tr("Print…"), tr("Print the day sheet"), self._print),
        }
        for place, (name, (words, tip, ask)) in enumerate(papers.items()):
            button = QPushButton(words)
            button.setToolTip(tip)
            button.clicked.connect(ask)
            grid.addWidget(button, place // 2, place % 2)
            self.papers[name] = button
        self._stop = QPushButton(tr("Stop"))
        self._stop.clicked.connect(self._stopped.set)
        self._bar = QProgressBar()
        self._progress.connect(self._bar.setValue)
        foot = QVBoxLayout()
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
        self.board.set_theme(theme)
        self._title.setFont(theme.font(NOTE, 600))
        for button in (
            *self._scopes.values(),
            *self.papers.values(),
            self._stop,
            self.drawer_button,
        ):
            button.setFixedHeight(theme.px(TARGET_PX))
        self.picks.delegate.min_px = TARGET_PX + 4
        self.picks.set_theme(theme)

    # -- papers ------------------------------------------------------------------------------

    def _ask(self, title: str, name: str, kinds: str) -> Path | None:
        result, _ = QFileDialog.getSaveFileName(self, title, str(documents_folder() / name), kinds)
        return Path(result) if result else None

    def _ask_cards(self) -> None:
        path = self._ask(tr("Bench cards"), "bench cards.pdf", "PDF (*.pdf)")
        if path is not None:
            self.write_cards(path)

    def _ask_sheet(self) -> None:
        path = self._ask(tr("Day sheet"), "day sheet.pdf", "PDF (*.pdf)")
        if path is not None:
            self._papers.write_sheet(path, self.board.planned)

    def _ask_calendar(self) -> None:
        path = self._ask(tr("Calendar"), "day.ics", "ICS (*.ics)")
        if path is not None:
            self._papers.write_calendar(path, self.board.planned)

    def _print(self) -> None:
        self.print_wanted.emit(self._papers.sheet(self.board.planned))

    def write_cards(self, path: Path) -> None:
        """Write the bench card of every wheel into one file, in a thread of its own."""
        self._stopped.clear()
        self._bar.setRange(0, self._papers.count)
        self._show_bar(True)
        threading.Thread(
            target=self._make_cards, args=(path, self._papers.cards()), daemon=True
        ).start()

    def _make_cards(
        self, path: Path, make: Callable[[Callable[[int], bool]], bytes | None]
    ) -> None:
        def on_progress(done: int) -> bool:
            self._progress.emit(done)
            return not self._stopped.is_set()

        with contextlib.suppress(RuntimeError):  # the window was closed meanwhile
            self._made.emit(path, make(on_progress))

    def _keep_cards(self, path: Path, data: bytes | None) -> None:
        self._show_bar(False)
        self._papers.keep(path, data)

    def _show_bar(self, shown: bool) -> None:
        self._bar.setVisible(shown)
        self._stop.setVisible(shown)
        self._papers_row.setVisible(not shown)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.board.watch(True)
        self.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.board.watch(False)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """A digit opens the wheel of a next action; Escape closes the drawer."""
        if event is None:
            return
        digit = event.text()
        if digit.isdecimal() and self.board.open_next(int(digit)):
            return
        if event.key() == Qt.Key.Key_Escape and self.drawer.isVisible():
            self.show_drawer(False)
            return
        super().keyPressEvent(event)

    def show_drawer(self, on: bool) -> None:
        """Open what to take from the shelf and the papers, or close it."""
        self.drawer.setVisible(on)
        self.drawer_button.setChecked(on)
        self.refresh()

    def show_scope(self, scope: str) -> None:
        """Show the pick list of the selected wheel, its bicycle, or the whole bench."""
        self._scope = scope
        self.refresh()

    def refresh(self) -> None:
        self.board.refresh()
        if not self.drawer.isHidden():
            self.picks.show_lines(self._views.shelf_of_day(self._scope))
        for scope, button in self._scopes.items():
            button.setChecked(scope == self._scope)
