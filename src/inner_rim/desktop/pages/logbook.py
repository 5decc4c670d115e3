"""The logbook: everything ever done, searched as you type; a wheel's whole story beside it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.desktop.drawings.plot import PlotView
from inner_rim.desktop.widgets.base import Page, PlainLabel
from inner_rim.desktop.widgets.cards import ask_csv, stacked_card
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import NOTE, SMALL, TARGET_PX, Theme
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.logbook import InsightBook, Logbook
from inner_rim.work.storage.files import documents_folder
from inner_rim.work.text.papers import code_of
from inner_rim.work.text.shelf_lines import KINDS
from inner_rim.work.views import PageViews

PATIENCE_MS = 60
#: Height of the plot of a finding or of the months.
PLOT_PX = 220
SPANS = {"all": N_("All time"), "30": N_("30 days"), "365": N_("A year")}


class LogbookPage(Page):
    """Search at the left, the story of the wheel that is chosen at the right."""

    wheel_wanted = pyqtSignal(str, str)

    def __init__(
        self, book: Logbook, views: PageViews, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._views = views
        self.book = book
        book.changed.connect(self._show)
        self._kind, self._span = "all", "all"
        self._entry = 0
        self._shown: tuple[str, str, int] | None = None
        self.search = EntryField()
        self.search.setPlaceholderText(tr("Find anything, or scan a code"))
        self.search.setAccessibleName(tr("Find in the logbook"))
        self.search.textEdited.connect(lambda _text: self._patience.start())
        self.search.entered.connect(self._to_hits)
        self.search.installEventFilter(self)
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE_MS)
        self._patience.timeout.connect(self.look_up)
        self.hits = LinesView(theme, tr("Entries found"), lead_px=64)
        self.hits.chosen.connect(self._choose)
        self.hits.taken.connect(lambda _key: self._open.setFocus())
        self.story = LinesView(theme, tr("Wheel history"), lead_px=96)
        self.story.chosen.connect(self._choose_entry)
        self._title = PlainLabel(tr("Wheel history"))
        self._open = QPushButton(tr("Put on the bench"))
        self._open.clicked.connect(self._to_bench)
        self._export = QPushButton(tr("Export…"))
        self._export.setToolTip(tr("Save results as CSV"))
        self._export.clicked.connect(self._ask_export)
        self.correction = EntryField()
        self.correction.setPlaceholderText(tr("Correct the entry that is chosen: type, Enter"))
        self.correction.setAccessibleName(tr("Correction"))
        self.correction.entered.connect(self._correct)
        self._filters: dict[str, QPushButton] = {}
        self._spans: dict[str, QPushButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 12)
        row.setSpacing(12)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right(), 1)
        self.set_theme(theme)

    def _left(self) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.search)
        for options, kept, choose in (
            ({name: words for name, (words, _k) in KINDS.items()}, self._filters, self.show_kind),
            (SPANS, self._spans, self.show_span),
        ):
            line = QHBoxLayout()
            line.setSpacing(4)
            for name, words in options.items():
                button = QPushButton(tr(words))
                button.setCheckable(True)
                button.clicked.connect(lambda _on, n=name, c=choose: c(n))
                line.addWidget(button)
                kept[name] = button
            column.addLayout(line)
        card = QFrame()
        card.setProperty("role", "card")
        inside = QVBoxLayout(card)
        inside.setContentsMargins(6, 6, 6, 6)
        inside.addWidget(self.hits)
        column.addWidget(card, 1)
        return left

    def _right(self) -> QWidget:
        card = QFrame()
        card.setProperty("role", "card")
        column = QVBoxLayout(card)
        column.setContentsMargins(12, 8, 10, 10)
        top = QHBoxLayout()
        top.addWidget(self._title, 1)
        top.addWidget(self._open)
        top.addWidget(self._export)
        column.addLayout(top)
        column.addWidget(self.story, 1)
        column.addWidget(self.correction)
        return card

    def set_theme(self, theme: Theme) -> None:
        self._title.setFont(theme.font(NOTE, 600))
        for lines in (self.hits, self.story):
            lines.delegate.min_px = 40
            lines.set_theme(theme)
        for button in (*self._filters.values(), *self._spans.values(), self._open, self._export):
            button.setFixedHeight(theme.px(TARGET_PX))
            button.setStyleSheet(f"padding: 0 6px; font-size: {theme.type_px(SMALL)}px;")
        for entry in (self.search, self.correction):
            entry.setFixedHeight(theme.px(TARGET_PX))

    def changed(self) -> None:
        if self.isVisible():
            self._patience.start()

    def focus_search(self) -> None:
        self.search.setFocus()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.look_up()

    def show_kind(self, kind: str) -> None:
        self._kind = kind
        self.look_up()

    def show_span(self, span: str) -> None:
        self._span = span
        self.look_up()

    def look_up(self) -> None:
        days = None if self._span == "all" else int(self._span)
        for name, button in self._filters.items():
            button.setChecked(name == self._kind)
        for name, button in self._spans.items():
            button.setChecked(name == self._span)
        self.book.find(self.search.text(), KINDS[self._kind][1], days)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Let the arrows move through the results while the search is typed into."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if by and not event.modifiers():
                self.hits.step(by)
                return True
        return super().eventFilter(watched, event)

    def _to_hits(self) -> None:
        """Enter in the search: search at once, and go to the results."""
        if self._patience.isActive() or code_of(self.search.text()):
            self._patience.stop()
            self.look_up()
        self.hits.setFocus()

    def _choose(self, key: tuple[str, str, int]) -> None:
        self._entry, self._shown = 0, key
        self.book.open(*key[:2])

    def _choose_entry(self, number: int) -> None:
        self._entry = number

    def _correct(self) -> None:
        text = self.correction.text().strip()
        if text and self.book.correct(self._entry, text):
            self.correction.clear()

    def _ask_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Export"), str(documents_folder() / "logbook.csv"), "CSV (*.csv)"
        )
        if name:
            self.export_file(Path(name))

    def export_file(self, path: Path) -> None:
        self.book.write(path)

    def _to_bench(self) -> None:
        if self.book.opened is not None:
            self.wheel_wanted.emit(*self.book.opened)

    def _show(self) -> None:
        view = self._views.logbook(self.book)
        self.hits.show_lines(view.hits)
        if self.hits.chosen_key != self._shown or self._shown is None:
            self.hits.choose_first()  # its story opens at once
        self.story.show_lines(view.story)
        self._title.setText(view.title)
        self._open.setEnabled(view.opened)


class InsightsPage(Page):
    """Topics with their marks at the left, the wheels behind the chosen mark at the right."""

    wheel_wanted = pyqtSignal(str, str)

    def __init__(
        self, book: InsightBook, views: PageViews, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._views, self.book = views, book
        book.changed.connect(self.refresh)
        self.marks = LinesView(theme, tr("What the log says"), lead_px=64)
        self.marks.chosen.connect(self._choose)
        self.wheels = LinesView(theme, tr("Wheels behind it"), lead_px=64)
        self.wheels.taken.connect(lambda _key: self._open.setFocus())
        self._title = PlainLabel("")
        self._title.setWordWrap(True)
        self.plot = PlotView(theme)
        self.plot.setFixedHeight(theme.px(PLOT_PX))
        self.turn = QPushButton("")
        self.turn.clicked.connect(book.turn)
        self._open = QPushButton(tr("Put on the bench"))
        self._open.clicked.connect(lambda: self._to_bench(self.wheels.chosen_key))
        self._export = QPushButton(tr("Export…"))
        self._export.setToolTip(tr("Save everything here as CSV"))
        self._export.clicked.connect(self._ask_export)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 12)
        row.setSpacing(12)
        row.addWidget(stacked_card(self.marks), 3)
        row.addWidget(self._right(), 2)
        self.set_theme(theme)

    def _right(self) -> QWidget:
        card = stacked_card(self._title, self.plot, self.wheels)
        buttons = QHBoxLayout()
        buttons.addWidget(self.turn)
        buttons.addStretch(1)
        buttons.addWidget(self._open)
        buttons.addWidget(self._export)
        column = card.layout()
        assert isinstance(column, QVBoxLayout)
        column.addLayout(buttons)
        return card

    def set_theme(self, theme: Theme) -> None:
        self._title.setFont(theme.font(NOTE, 600))
        self.plot.set_theme(theme)
        self.plot.setFixedHeight(theme.px(PLOT_PX))
        for lines in (self.marks, self.wheels):
            lines.delegate.min_px = TARGET_PX
            lines.set_theme(theme)
        for button in (self.turn, self._open, self._export):
            button.setFixedHeight(theme.px(TARGET_PX))
            button.setStyleSheet(f"padding: 0 6px; font-size: {theme.type_px(SMALL)}px;")

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.book.read()
        self.refresh()

    def refresh(self) -> None:
        view = self._views.insights(self.book)
        self.marks.show_lines(view.marks)
        self.wheels.show_lines(view.wheels)
        self.plot.setVisible(view.plot is not None)
        if view.plot is not None:
            self.plot.show_plot(view.plot)
        self._title.setText(view.title)
        self.turn.setText(view.turn)
        self.turn.setVisible(bool(view.turn))
        self._open.setEnabled(bool(view.wheels))
        if self.book.topics and self.book.mark is None:
            self.marks.choose_first()  # its wheels open at once

    def _choose(self, key: tuple[str, int]) -> None:
        self.book.open(*key)
        self.wheels.choose_first()

    def _to_bench(self, key: WheelKey | None) -> None:
        if key is not None:
            self.wheel_wanted.emit(*key)

    def _ask_export(self) -> None:
        path = ask_csv(self, "insights.csv")
        if path is not None:
            self.book.write(path)
