"""An empty bench: the first wheel in one line, and once three questions: units, air, tapes. Each
may be left out.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from inner_rim.core.record.units import UNIT_SETS, UnitChoice, set_words
from inner_rim.desktop.bench.line_preview import LinePreview
from inner_rim.desktop.widgets.base import PlainLabel, Scrolling
from inner_rim.desktop.widgets.choices import Choices
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import NOTE, TARGET_PX, Theme
from inner_rim.words import N_, tr

AIR = {
    "floor_pump": N_("floor pump"),
    "compressor": N_("compressor"),
    "charge": N_("charge bottle"),
}
WIDEST_PX = 620


class FirstRun(Scrolling):
    """The questions; every answer applies at once."""

    units_chosen = pyqtSignal(str)
    air_chosen = pyqtSignal(str)
    tapes_typed = pyqtSignal(str)
    line_said = pyqtSignal(str)
    done = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        page = QWidget()
        super().__init__(page, parent)
        page.setMaximumWidth(theme.px(WIDEST_PX))
        column = QVBoxLayout(page)
        column.setContentsMargins(
            theme.column(24), theme.column(16), theme.column(24), theme.column(12)
        )
        self.line = _field(tr("All in one line"), theme)
        self.line.setPlaceholderText(tr("45-622 on 24 hooked, 98 kg"))
        self.units = Choices(
            tr("Units"),
            {name: name for name in map(set_words, UNIT_SETS)},
            theme,
            each=2 if theme.large else 4,
        )
        self.air = Choices(
            tr("Air comes from"), {key: tr(word) for key, word in AIR.items()}, theme, each=len(AIR)
        )
        self.tapes = _field(tr("Tape widths on the shelf"), theme)
        self._unit = PlainLabel("")
        self._questions = self._ask(theme)
        column.addWidget(_title(tr("Say the first wheel as you would across the bench"), theme))
        column.addWidget(self.line)
        column.addWidget(LinePreview(self.line))
        column.addWidget(_note(tr("Tape, valve, sealant and pressures follow, each with its why.")))
        column.addWidget(self._questions)
        column.addStretch(1)
        self.line.entered.connect(self._line_entered)
        self.units.chosen.connect(self.units_chosen)
        self.air.chosen.connect(self.air_chosen)
        self.units.entered.connect(self.air.take_focus)
        self.air.entered.connect(lambda: self.tapes.setFocus(Qt.FocusReason.TabFocusReason))
        self.tapes.entered.connect(self._tapes_entered)
        self.tapes.left.connect(lambda: self.tapes_typed.emit(self.tapes.text()))

    def _ask(self, theme: Theme) -> QWidget:
        """The three questions about the shop, each before its answers, or above them in large text."""
        questions = QWidget()
        grid = QGridLayout(questions)
        grid.setContentsMargins(0, theme.px(18), 0, 0)
        grid.setHorizontalSpacing(theme.px(14))
        grid.setVerticalSpacing(theme.px(12))
        grid.setColumnStretch(1, 1)
        grid.addWidget(_title(tr("Three questions about your shop"), theme), 0, 0, 1, 3)
        for row, (words, widget) in enumerate(
            (
                (tr("Units"), self.units),
                (tr("Air comes from"), self.air),
                (tr("Tapes on the shelf"), self.tapes),
            )
        ):
            label = QLabel(words)
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setBuddy(widget)
            if theme.large:
                grid.addWidget(label, 2 * row + 1, 1)
            else:
                grid.addWidget(label, 2 * row + 2, 0)
            grid.addWidget(widget, 2 * row + 2, 1)
        grid.addWidget(self._unit, 6, 2)
        grid.addWidget(
            _note(tr("Each counts as a roll of 10 m until you count it on the Shelf page.")), 7, 1
        )
        return questions

    def show_answers(self, units: UnitChoice, air: str, usual_air: str, asks: bool = True) -> None:
        """Show the current answers; the questions only where they are asked."""
        self._questions.setVisible(asks)
        self.units.show_value(set_words(units))
        self.air.show_value(air, usual_air)
        symbol = units.unit("mm").symbol
        self._unit.setText(symbol)
        self.tapes.setPlaceholderText(
            tr("such as {some}").format(some="25 27 29" if symbol == "mm" else "1 1.1")
        )

    def _line_entered(self) -> None:
        if self.line.text().strip():
            self.line_said.emit(self.line.text())
        else:
            self.done.emit()

    def _tapes_entered(self) -> None:
        self.tapes_typed.emit(self.tapes.text())
        self.done.emit()


def _title(words: str, theme: Theme) -> PlainLabel:
    title = PlainLabel(words)
    title.setFont(theme.font(NOTE, 600))
    title.setWordWrap(True)
    return title


def _note(words: str) -> PlainLabel:
    note = PlainLabel(words)
    note.setProperty("role", "muted")
    note.setWordWrap(True)
    return note


def _field(name: str, theme: Theme) -> EntryField:
    field = EntryField()
    field.setFixedHeight(theme.px(TARGET_PX))
    field.setAccessibleName(name)
    return field
