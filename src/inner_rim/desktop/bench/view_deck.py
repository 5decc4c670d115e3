"""The drawings and lists of a wheel, one shown at a time, with the tabs that choose it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from inner_rim.desktop.drawings.section import SectionView
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.tasks.gauge import GaugeSession
from inner_rim.work.text.looking import DRAWINGS, Drawing
from inner_rim.work.views import SECTOR_STAGES, BenchView

if TYPE_CHECKING:
    from inner_rim.desktop.bench.log_view import LogView
    from inner_rim.desktop.bench.steps_view import StepsView
    from inner_rim.desktop.drawings.finish import FinishView
    from inner_rim.desktop.drawings.loupe import LoupeView
    from inner_rim.desktop.drawings.plot import PlotView
    from inner_rim.desktop.drawings.sectors import WheelView
    from inner_rim.desktop.drawings.side import SideView
    from inner_rim.desktop.drawings.trace import TraceView
    from inner_rim.desktop.widgets.lines_view import LinesView

#: What the tabs say, and the key of each.
TITLES: dict[Drawing, tuple[str, str]] = {
    "section": ("Section", "S"),
    "loupe": ("Loupe", "Z"),
    "wheel": ("Wheel", "W"),
    "finish": ("Finish", "F"),
    "trace": ("Trace", "V"),
    "plot": ("Plot", "K"),
    "choices": ("Choices", "C"),
    "steps": ("Steps", "T"),
    "log": ("Log", "G"),
}
#: Tabs that take turns in one place: the loupe belongs to the section; the finish is early, the trace late.
PLACES: tuple[tuple[Drawing, ...], ...] = (
    ("section", "loupe"),
    ("wheel",),
    ("finish", "trace"),
    ("plot",),
    ("choices",),
    ("steps",),
    ("log",),
)


class ViewDeck(QWidget):
    """Shows one drawing or list of the selected wheel; each is made when it is first looked at.

    Args:
        session: the gauge's readings.
        theme: how it looks.
        whole: every drawing has a tab of its own, as beside the first deck; else some take turns.
    """

    chosen = pyqtSignal(str)
    clicked_part = pyqtSignal(str)
    sector_clicked = pyqtSignal(str, int)
    taken = pyqtSignal(str)
    simulator_wanted = pyqtSignal(str)
    connect_wanted = pyqtSignal()
    off_wanted = pyqtSignal()

    def __init__(
        self, session: GaugeSession, theme: Theme, whole: bool = False, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._theme, self._whole, self._each = session, theme, whole, 0
        self._running = False
        self.drawing: Drawing = "section"
        self.views = QStackedWidget()
        self.section = SectionView(theme)
        self.section.clicked_part.connect(self.clicked_part)
        self.views.addWidget(self.section)
        self._shown: dict[Drawing, Callable[[BenchView], QWidget]] = {
            "section": self._show_section,
            "loupe": self._show_loupe,
            "wheel": self._show_wheel,
            "finish": self._show_finish,
            "trace": self._show_trace,
            "plot": self._show_plot,
            "choices": self._show_choices,
            "steps": self._show_steps,
            "log": self._show_log,
        }
        self.tabs = {name: _tab(name, named=not whole) for name in DRAWINGS}
        for name, tab in self.tabs.items():
            tab.setChecked(name == self.drawing)
            tab.clicked.connect(lambda _on, n=name: self.chosen.emit(n))
        self._grid = QGridLayout()
        self._grid.setSpacing(0)
        self._grid.setColumnStretch(0, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._grid)
        column.addWidget(self.views, 1)

    # -- made when first looked at ---------------------------------------------------------------

    @cached_property
    def loupe(self) -> LoupeView:
        """Both bead seats, close up."""
        from inner_rim.desktop.drawings.loupe import LoupeView

        made = LoupeView(self._theme)
        made.clicked_part.connect(self.clicked_part)
        self.views.addWidget(made)
        return made

    @cached_property
    def wheel_pages(self) -> QStackedWidget:
        """The wheel from the side, or sector by sector."""
        made = QStackedWidget()
        made.addWidget(self.side)
        made.addWidget(self.wheel)
        self.views.addWidget(made)
        return made

    @cached_property
    def wheel(self) -> WheelView:
        """The wheel sector by sector."""
        from inner_rim.desktop.drawings.sectors import WheelView

        made = WheelView(self._theme)
        made.sector_clicked.connect(self.sector_clicked)
        return made

    @cached_property
    def side(self) -> SideView:
        """The wheel from the side."""
        from inner_rim.desktop.drawings.side import SideView

        return SideView(self._theme)

    @cached_property
    def finish(self) -> FinishView:
        """Where the bead goes over last."""
        from inner_rim.desktop.drawings.finish import FinishView

        made = FinishView(self._theme)
        self.views.addWidget(made)
        return made

    @cached_property
    def trace(self) -> TraceView:
        """The gauge's trace, live."""
        from inner_rim.desktop.drawings.trace import TraceView

        made = TraceView(self._session, self._theme)
        made.simulator_wanted.connect(self.simulator_wanted)
        made.connect_wanted.connect(self.connect_wanted)
        made.off_wanted.connect(self.off_wanted)
        self.views.addWidget(made)
        if self._running:
            made.run(True)
        return made

    @cached_property
    def plot(self) -> PlotView:
        """The hold, and the pressures of visits."""
        from inner_rim.desktop.drawings.plot import PlotView

        made = PlotView(self._theme)
        self.views.addWidget(made)
        return made

    @cached_property
    def choices(self) -> LinesView:
        """What there is to choose from."""
        from inner_rim.desktop.widgets.lines_view import LinesView

        made = LinesView(self._theme, tr("Choices at this stage"))
        made.taken.connect(self.taken)
        self.views.addWidget(made)
        return made

    @cached_property
    def steps(self) -> StepsView:
        """The steps of the wheel."""
        from inner_rim.desktop.bench.steps_view import StepsView

        made = StepsView(self._theme)
        self.views.addWidget(made)
        return made

    @cached_property
    def log(self) -> LogView:
        """The log of the wheel."""
        from inner_rim.desktop.bench.log_view import LogView

        made = LogView()
        self.views.addWidget(made)
        return made

    # -- showing ---------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        self._theme = theme
        for name in ("section", "loupe", "wheel", "side", "finish", "trace", "plot", "choices", "steps"):
            view = self.__dict__.get(name)  # those that were made
            if view is not None:
                view.set_theme(theme)

    def run_trace(self, live: bool) -> None:
        """Draw the trace again and again while readings come."""
        self._running = live
        if "trace" in self.__dict__:
            self.trace.run(live)

    def fit(self, theme: Theme, each: int) -> None:
        """Size the tabs, so many in a row."""
        self.views.setMinimumHeight(theme.px(24))
        for tab in self.tabs.values():
            tight = theme.scale > 1.0  # seven words beside larger fields
            pad, size = (theme.px(2), theme.column(13)) if tight else (5, 14)
            tab.setMinimumHeight(theme.px(24) if theme.large else 0)
            tab.setStyleSheet(f"padding: 0 {pad}px; font-size: {size}px; min-height: {theme.target - 6}px;")
        if each != self._each:
            self._each = each
            places = tuple((name,) for name in DRAWINGS) if self._whole else PLACES
            for i, names in enumerate(places):
                for name in names:
                    self._grid.addWidget(self.tabs[name], i // each, 1 + i % each)

    @property
    def places(self) -> int:
        """How many tabs stand beside each other where there is room."""
        return len(DRAWINGS) if self._whole else len(PLACES)

    def show_view(self, view: BenchView, drawing: Drawing) -> None:
        """Show a wheel in one of the drawings; the others wait until they are looked at."""
        self.drawing = drawing
        there = view.state is not None
        late = view.looking.stage in SECTOR_STAGES  # the finish is behind, the trace is wanted
        hidden = ("loupe" if drawing != "loupe" else "section", "finish" if late else "trace")
        for name, tab in self.tabs.items():
            tab.setVisible(there and (self._whole or name not in hidden))
            tab.setChecked(name == drawing)
        widget = self._shown[drawing](view)
        if self.views.currentWidget() is not widget:
            self.views.setCurrentWidget(widget)

    def _show_section(self, view: BenchView) -> QWidget:
        self.section.show_section(view.state, view.section, view.units, view.seats)
        return self.section

    def _show_loupe(self, view: BenchView) -> QWidget:
        self.loupe.show_seats(view.seats, view.units)
        return self.loupe

    def _show_wheel(self, view: BenchView) -> QWidget:
        self.side.show_wheel(view.state, view.side, view.units)
        self.wheel.show_wheel(view.state, view.low_left, view.low_right, view.low_side)
        self.wheel_pages.setCurrentWidget(self.wheel if view.by_sector else self.side)
        return self.wheel_pages

    def _show_finish(self, view: BenchView) -> QWidget:
        self.finish.show_wheel(view.state, view.units)
        return self.finish

    def _show_trace(self, view: BenchView) -> QWidget:
        self.trace.show_wheel(view.state, view.others, view.units)
        return self.trace

    def _show_plot(self, view: BenchView) -> QWidget:
        self.plot.show_plot(view.plot())
        return self.plot

    def _show_choices(self, view: BenchView) -> QWidget:
        self.choices.show_lines(view.lines())
        return self.choices

    def _show_steps(self, view: BenchView) -> QWidget:
        self.steps.show_wheel(view.state, view.units)
        return self.steps

    def _show_log(self, view: BenchView) -> QWidget:
        self.log.show_log(view.state.whole_log if view.state is not None else (), view.units)
        return self.log


def _tab(name: Drawing, named: bool) -> QPushButton:
    """The tab of a drawing; its key is named where it has one."""
    words, key = TITLES[name]
    tab = QPushButton(tr(words))
    tab.setToolTip(tr("key {key}").format(key=key) if named else "")
    tab.setProperty("role", "flat")
    tab.setCheckable(True)
    return tab
