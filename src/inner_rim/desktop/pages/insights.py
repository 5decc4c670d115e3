"""Insights: what the log says, topic by topic; the wheels behind a mark beside it."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.desktop.widgets.base import Page, PlainLabel
from inner_rim.desktop.widgets.cards import ask_csv, stacked_card
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import NOTE, SMALL, TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.logbook import InsightBook
from inner_rim.work.views import PageViews


class InsightsPage(Page):
    """Topics with their marks at the left, the wheels behind the chosen mark at the right."""

    wheel_wanted = pyqtSignal(str, str)

    def __init__(
        self, book: InsightBook, views: PageViews, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._views, self.book = views, book
        book.changed = self.refresh
        self.marks = LinesView(theme, tr("What the log says"), lead_px=64)
        self.marks.chosen.connect(self._choose)
        self.wheels = LinesView(theme, tr("Wheels behind it"), lead_px=64)
        self.wheels.taken.connect(lambda _key: self._open.setFocus())
        self._title = PlainLabel("")
        self._title.setWordWrap(True)
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
        card = stacked_card(self._title, self.wheels)
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
        self._title.setText(view.title)
        self.turn.setText(view.turn)
        self.turn.setVisible(bool(view.turn))
        self._open.setEnabled(bool(view.wheels))

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
