"""Steps that one answer confirms together: each said whole, with its number, its figure, and its
cautions.
"""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent
from PyQt6.QtWidgets import QGridLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from inner_rim.desktop.widgets.base import PlainLabel, show_if
from inner_rim.desktop.widgets.theme import LISTED, NOTE, TITLE, Theme
from inner_rim.work.text.panel import GatheredStep

#: Room for a number, px.
NUMBER_PX = 26


class StepRow(QPushButton):
    """One step. A click confirms it alone, and the others stay."""

    entered = pyqtSignal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setProperty("role", "row")
        self.setProperty("enter", False)  # Enter confirms them all
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self._number, self._words, self._figure = PlainLabel(), PlainLabel(), PlainLabel()
        self._cautions = PlainLabel()
        for label in (self._number, self._words, self._figure, self._cautions):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._words.setWordWrap(True)
        self._cautions.setWordWrap(True)
        self._grid = QGridLayout(self)
        self._grid.addWidget(self._number, 0, 0, Qt.AlignmentFlag.AlignTop)
        self._grid.addWidget(self._words, 0, 1)
        # beside the words it would take their width
        self._grid.addWidget(self._figure, 1, 1)
        self._grid.addWidget(self._cautions, 2, 1)
        self._grid.setColumnStretch(1, 1)

    def dress(self, theme: Theme, size: int) -> None:
        self._grid.setContentsMargins(theme.px(8), theme.px(4), theme.px(6), theme.px(4))
        self._grid.setHorizontalSpacing(theme.px(10))
        self._grid.setVerticalSpacing(theme.px(2))
        self._grid.setColumnMinimumWidth(0, theme.px(NUMBER_PX))
        self._grid.setRowMinimumHeight(0, theme.target - theme.px(8))  # to be hit with a wet glove
        self.setStyleSheet("min-height: 0; padding: 0;")
        self._number.setStyleSheet(theme.type_style(size, 400, "muted"))
        self._words.setStyleSheet(theme.type_style(size, 600 if self.isChecked() else 400))
        self._figure.setStyleSheet(theme.type_style(size, 600, "accent"))
        self._cautions.setStyleSheet(theme.type_style(NOTE, 400, "caution"))

    def show_step(self, number: int, step: GatheredStep) -> None:
        self._number.setText(str(number))
        self._words.setText(step.words)
        self._figure.setText(step.figure)
        self._cautions.setText("\n".join(f"!\u2002{words}" for words in step.cautions))
        show_if(self._figure, bool(step.figure))
        show_if(self._cautions, bool(step.cautions))
        self.setAccessibleName(f"{number}  {step.words}")
        self.setAccessibleDescription(" ".join((step.figure, *step.cautions)).strip())
        self.updateGeometry()

    def nextCheckState(self) -> None:
        """What is pointed to is set from outside; a click does not turn it."""

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._grid.totalHeightForWidth(width)

    def sizeHint(self) -> QSize:
        return QSize(self._grid.totalSizeHint().width(), self.heightForWidth(max(1, self.width())))

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self.heightForWidth(max(1, self.width())))

    def enterEvent(self, event: QEnterEvent | None) -> None:
        super().enterEvent(event)
        self.entered.emit()


class StepRows(QWidget):
    """The rows, numbered from 1; the one that is pointed to is marked."""

    chosen = pyqtSignal(int)
    pointed = pyqtSignal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme, self._size = theme, LISTED
        self.steps: tuple[GatheredStep, ...] = ()
        self._at = 0
        self.rows: list[StepRow] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._dress()

    def _dress(self) -> None:
        for place, row in enumerate(self.rows[: len(self.steps)]):
            row.setChecked(place == self._at)
            row.dress(self._theme, self._size)

    def show_steps(self, steps: tuple[GatheredStep, ...], at: int) -> None:
        if (steps, at) == (self.steps, self._at):
            return
        if steps != self.steps:
            self.steps = steps
            while len(self.rows) < len(steps):
                self._add_row()
            for place, row in enumerate(self.rows):
                if place < len(steps):
                    row.show_step(place + 1, steps[place])
                show_if(row, place < len(steps))
        self._at = at
        self._dress()

    def _add_row(self) -> None:
        place, row = len(self.rows), StepRow(self._theme)
        row.clicked.connect(lambda: self.chosen.emit(place))
        row.entered.connect(lambda: self.pointed.emit(place))
        self.rows.append(row)
        self._column.addWidget(row)

    def fit(self, wide: int, high: int) -> None:
        """Set the words as large as they fit into a height, in one of two sizes; beyond that the
        panel scrolls.
        """
        for size in (TITLE, LISTED):
            self._size = size
            self._dress()
            if sum(row.heightForWidth(wide) for row in self.rows[: len(self.steps)]) <= high:
                return

    @property
    def row_in_view(self) -> QWidget | None:
        return self.rows[self._at] if self._at < len(self.steps) else None
