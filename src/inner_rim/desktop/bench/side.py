"""The panel beside the step: its picture, the stage's steps and figures, or what was opened there."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from inner_rim.desktop.bench.picks import PicksColumn, WhyPanel
from inner_rim.desktop.bench.view_deck import ViewDeck
from inner_rim.desktop.widgets.base import Picture, PlainLabel, show_if
from inner_rim.desktop.widgets.theme import NOTE, TEXT, Theme
from inner_rim.words import N_, tr
from inner_rim.work.tasks.gauge import GaugeSession
from inner_rim.work.text.questions import Drawer
from inner_rim.work.text.work_view import StageFigure, StepLine, StepState
from inner_rim.work.views import BenchView

if TYPE_CHECKING:
    from inner_rim.desktop.bench.steps_view import LogView, StepsView
    from inner_rim.desktop.widgets.lines_view import LinesView

TITLES: dict[Drawer, str] = {
    "entries": N_("Entries"),
    "plan": N_("Plan"),
    "choices": N_("Options"),
    "steps": N_("All steps"),
    "log": N_("Log"),
    "actions": N_("Actions"),
    "keys": N_("Keys"),
}
SIGNS: dict[StepState, str] = {"done": "✓", "now": "▸", "with": "▹", "next": "·"}
#: What is below the picture: the plan at check-in, the stage's steps later, nothing in the far
#: view.
Below = Literal["plan", "stage", "none"]
ROW_PX, COLUMN_PX = 24, 170


class StageList(Picture):
    """The steps of the stage, ticked, current and to come, with the stage's figures below; painted
    in one widget.
    """

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._steps: tuple[StepLine, ...] = ()
        self._figures: tuple[StageFigure, ...] = ()
        self.setAccessibleName(tr("Steps of this stage"))

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._size()

    def show_stage(self, steps: tuple[StepLine, ...], figures: tuple[StageFigure, ...]) -> None:
        if (steps, figures) == (self._steps, self._figures):
            return
        self._steps, self._figures = steps, figures
        self.setAccessibleDescription("; ".join(f"{SIGNS[one.state]} {one.words}" for one in steps))
        self._size()

    @property
    def _columns(self) -> int:
        """Long stages take two columns."""
        return 2 if len(self._steps) > 5 and self.width() >= self._theme.px(2 * COLUMN_PX) else 1

    @property
    def _rows(self) -> int:
        return -(-len(self._steps) // self._columns)

    def _size(self) -> None:
        figures = -(-len(self._figures) // 2)
        self.setFixedHeight(self._theme.px(ROW_PX) * (self._rows + figures) + self._theme.px(10))
        self.update()

    def resizeEvent(self, event: object) -> None:
        self._size()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        theme, high = self._theme, self._theme.px(ROW_PX)
        painter = QPainter(self)
        wide = self.width() / self._columns
        for place, one in enumerate(self._steps):
            box = QRectF(place // self._rows * wide, place % self._rows * high, wide - 8.0, high)
            now = one.state in ("now", "with")
            text = f"{SIGNS[one.state]}  {one.words}"
            painter.setFont(theme.fitted(text, box.width(), TEXT, 600 if now else 400))
            painter.setPen(
                theme.color("ink" if now else "accent" if one.state == "done" else "muted")
            )
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        top = self._rows * high + theme.px(6)
        half = self.width() / 2
        for place, figure in enumerate(self._figures):
            box = QRectF(place % 2 * half, top + place // 2 * high, half - 8.0, high)
            painter.setFont(theme.font(TEXT))
            painter.setPen(theme.color("muted"))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, figure.title)
            left = painter.fontMetrics().horizontalAdvance(figure.title) + theme.px(10)
            box = box.adjusted(left, 0, 0, 0)
            painter.setFont(theme.fitted(figure.value, box.width(), NOTE, 600))
            painter.setPen(theme.color("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, figure.value)


class SidePanel(QWidget):
    """The picture with the lists below it, or a drawer with a way to close it."""

    closed = pyqtSignal()
    taken = pyqtSignal(object)

    def __init__(self, session: GaugeSession, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.deck = ViewDeck(session, theme)
        self.stage = StageList(theme)
        self.picks = PicksColumn(theme)
        self.why = WhyPanel(theme)
        self.why.closed.connect(self.closed)
        self._view: BenchView | None = None
        seen = QWidget()
        column = QVBoxLayout(seen)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(theme.px(4))
        column.addWidget(self.deck, 4)
        column.addWidget(self.picks, 6)
        column.addWidget(self.stage)
        self._title = PlainLabel("")
        close = self._close = QPushButton(tr("Close  Esc"))
        close.setProperty("role", "flat")
        close.clicked.connect(self.closed)
        self._head = QWidget()
        head = QHBoxLayout(self._head)
        head.setContentsMargins(0, 0, 0, 0)
        head.addWidget(self._title, 1)
        head.addWidget(close)
        self.slot = QStackedWidget()
        self._pages = QStackedWidget()
        for page in (seen, self.slot, self.why):
            self._pages.addWidget(page)
        around = QVBoxLayout(self)
        around.setContentsMargins(theme.px(8), theme.px(4), theme.px(10), theme.px(4))
        around.setSpacing(0)
        around.addWidget(self._head)
        around.addWidget(self._pages)
        self.set_theme(theme)

    # -- made when first looked at ---------------------------------------------------------------

    @cached_property
    def choices(self) -> LinesView:
        from inner_rim.desktop.widgets.lines_view import LinesView

        made = LinesView(self._theme, tr("Options at this stage"))
        made.taken.connect(self.taken)
        self.slot.addWidget(made)
        return made

    @cached_property
    def steps(self) -> StepsView:
        from inner_rim.desktop.bench.steps_view import StepsView

        made = StepsView(self._theme)
        self.slot.addWidget(made)
        return made

    @cached_property
    def log(self) -> LogView:
        from inner_rim.desktop.bench.steps_view import LogView

        made = LogView()
        self.slot.addWidget(made)
        return made

    # -- showing ---------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._title.setFont(theme.font(NOTE, 600))
        self._close.setFixedHeight(theme.target)
        for view in (self.deck, self.stage, self.picks, self.why):
            view.set_theme(theme)
        for name in ("choices", "steps"):
            if name in self.__dict__:
                self.__dict__[name].set_theme(theme)

    def put(self, widget: QWidget) -> None:
        """Show another panel's widget in the drawer: the fields, the actions."""
        if self.slot.indexOf(widget) < 0:
            self.slot.addWidget(widget)
        self.slot.setCurrentWidget(widget)
        widget.show()

    def show_view(self, view: BenchView, below: Below) -> None:
        """Show what is looked at: the drawer that is open, else the picture and what is below it."""
        looking = view.looking
        self._view = view
        self.picks.show_rows(view.picks, view.stale)
        if view.why is not None:
            show_if(self._head, False)
            row, assumed, page = view.why
            self.why.show_why(row, page, view.units, assumed)
            self._pages.setCurrentWidget(self.why)
            return
        plan = looking.drawer == "plan"
        show_if(self._head, bool(looking.drawer and not plan) or looking.picture is not None)
        self._title.setText(tr(TITLES[looking.drawer]) if looking.drawer in TITLES else "")
        if not looking.drawer or plan:
            show_if(self.deck, not plan)
            if not plan:
                self.deck.show_view(view)
            show_if(self.picks, plan or below == "plan")
            show_if(self.stage, not plan and below == "stage")
            self.stage.show_stage(view.steps, view.figures)
            self._pages.setCurrentIndex(0)
            return
        if looking.drawer == "choices":
            self.choices.show_lines(view.lines())
            self.slot.setCurrentWidget(self.choices)
        elif looking.drawer == "steps":
            self.steps.show_wheel(view.planned, view.units)
            self.slot.setCurrentWidget(self.steps)
        elif looking.drawer == "log":
            self.log.show_log(view.state.whole_log if view.state is not None else (), view.units)
            self.slot.setCurrentWidget(self.log)
        self._pages.setCurrentIndex(1)
