"""Training: wheels to practice on at the left, the debrief in the middle, an apprentice's progress
at the right.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from inner_rim.core.training.play import Play
from inner_rim.desktop.drawings.plot import PlotView
from inner_rim.desktop.widgets.base import Page, PlainLabel
from inner_rim.desktop.widgets.cards import ask_csv, stacked_card
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import NOTE, TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.training_book import TrainingBook

#: Height of the plot at 100 % text, px.
PLOT_PX = 190


class TrainingPage(Page):
    """Choose a wheel and start it; it opens in a window of its own."""

    start_wanted = pyqtSignal(object)

    def __init__(self, book: TrainingBook, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.book = book
        self.who = EntryField()
        self.who.setPlaceholderText(tr("Apprentice's name"))
        self.who.setAccessibleName(tr("Apprentice's name"))
        self.who.textEdited.connect(self._named)
        self.who.entered.connect(lambda: self.wheels.setFocus())
        self.wheels = LinesView(theme, tr("Training wheels"), lead_px=0)
        self.wheels.taken.connect(self._start)
        self.debrief = LinesView(theme, tr("Debrief"), lead_px=28)
        self.skills = LinesView(theme, tr("Progress by kind of fault"), lead_px=0)
        self.plot = PlotView(theme)
        self.start = QPushButton(tr("Start this wheel"))
        self.start.setProperty("role", "main")
        self.start.clicked.connect(lambda: self._start(self.wheels.chosen_key))
        self.chance = QPushButton(tr("Random wheel"))
        self.chance.setToolTip(tr("A wheel made by chance, with what you should practice"))
        self.chance.clicked.connect(lambda: self._wanted(None))
        self.export = QPushButton(tr("Export…"))
        self.export.setToolTip(tr("Save all results as CSV"))
        self.export.clicked.connect(self._ask_export)
        self._hint = PlainLabel("")
        self._hint.setWordWrap(True)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 12)
        row.setSpacing(12)
        row.addWidget(stacked_card(self.who, self.wheels, self.start, self.chance), 3)
        row.addWidget(stacked_card(self._hint, self.debrief), 4)
        row.addWidget(stacked_card(self.plot, self.skills, self.export), 3)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        for lines in (self.wheels, self.debrief, self.skills):
            lines.delegate.min_px = TARGET_PX - 8
            lines.set_theme(theme)
        for widget in (self.who, self.start, self.chance, self.export):
            widget.setFixedHeight(theme.px(TARGET_PX))
        self._hint.setFont(theme.font(NOTE))
        self.plot.setFixedHeight(theme.px(PLOT_PX))
        self.plot.set_theme(theme)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        self.wheels.show_lines(self.book.scenario_lines())
        if self.wheels.chosen_key is None:
            self.wheels.choose_first()
        self.debrief.show_lines(self.book.debrief_lines())
        self.skills.show_lines(self.book.skill_lines())
        self.plot.show_plot(self.book.plot())
        self._hint.setText(
            ""
            if self.book.said is not None
            else tr(
                "A training wheel opens on a bench of its own. Work as always. F2 looks where the hand is, F3 pumps or "
                "reads the gauge, F4 reads the thermometer. Nothing of it is stored in the shop's data. The debrief "
                "comes here."
            )
        )
        self._hint.setVisible(self.book.said is None)

    def finish(self, play: Play) -> None:
        self.setCursor(Qt.CursorShape.WaitCursor)
        try:
            self.book.finish(play)
        finally:
            self.unsetCursor()
        self.refresh()

    def _named(self, text: str) -> None:
        self.book.who = text.strip()[:80]
        self.refresh()

    def _start(self, key: object) -> None:
        if isinstance(key, str):
            self._wanted(key)

    def _wanted(self, key: str | None) -> None:
        self.start_wanted.emit(self.book.named(key) if key is not None else self.book.random())

    def _ask_export(self) -> None:
        path = ask_csv(self, "training.csv")
        if path is not None:
            self.book.write(path)
