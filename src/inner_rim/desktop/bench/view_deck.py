"""The drawings and lists of a wheel, one shown at a time, with the tabs that choose it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from inner_rim.desktop.bench.log_view import LogView
from inner_rim.desktop.bench.steps_view import StepsView
from inner_rim.desktop.drawings.finish import FinishView
from inner_rim.desktop.drawings.loupe import LoupeView
from inner_rim.desktop.drawings.plot import PlotView
from inner_rim.desktop.drawings.section import SectionView
from inner_rim.desktop.drawings.sectors import WheelView
from inner_rim.desktop.drawings.side import SideView
from inner_rim.desktop.drawings.trace import TraceView
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.tasks.gauge import GaugeSession
from inner_rim.work.text.looking import DRAWINGS, Drawing
from inner_rim.work.views import SECTOR_STAGES, BenchView

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
    """Shows one drawing or list of the selected wheel.

    Args:
        session: the gauge's readings.
        theme: how it looks.
        whole: every drawing has a tab of its own, as beside the first deck; else some take turns.
    """

    chosen = pyqtSignal(str)
    clicked_part = pyqtSignal(str)
    sector_clicked = pyqtSignal(str, int)
    taken = pyqtSignal(str)

    def __init__(
        self, session: GaugeSession, theme: Theme, whole: bool = False, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._theme, self._whole, self._each = theme, whole, 0
        self._view: BenchView | None = None
        self.drawing: Drawing = "section"
        self.section = SectionView(theme)
        self.loupe = LoupeView(theme)
        self.wheel = WheelView(theme)
        self.side = SideView(theme)
        self.finish = FinishView(theme)
        self.trace = TraceView(session, theme)
        self.plot = PlotView(theme)
        self.choices = LinesView(theme, tr("Choices at this stage"))
        self.steps = StepsView(theme)
        self.log = LogView()
        self.wheel_pages = QStackedWidget()
        self.wheel_pages.addWidget(self.side)
        self.wheel_pages.addWidget(self.wheel)
        self.views = QStackedWidget()
        self._shown: dict[Drawing, tuple[QWidget, Callable[[BenchView], None]]] = {
            "section": (self.section, lambda v: self.section.show_section(v.state, v.section, v.units, v.seats)),
            "loupe": (self.loupe, lambda v: self.loupe.show_seats(v.seats, v.units)),
            "wheel": (self.wheel_pages, self._show_wheel),
            "finish": (self.finish, lambda v: self.finish.show_wheel(v.state, v.units)),
            "trace": (self.trace, lambda v: self.trace.show_wheel(v.state, v.others, v.units)),
            "plot": (self.plot, lambda v: self.plot.show_plot(v.plot())),
            "choices": (self.choices, lambda v: self.choices.show_lines(v.lines())),
            "steps": (self.steps, lambda v: self.steps.show_wheel(v.state, v.units)),
            "log": (self.log, lambda v: self.log.show_log(v.state.log if v.state is not None else (), v.units)),
        }  # fmt: skip
        for widget, _show in self._shown.values():
            self.views.addWidget(widget)
        self.tabs = {name: self._tab(name) for name in DRAWINGS}
        self._grid = QGridLayout()
        self._grid.setSpacing(0)
        self._grid.setColumnStretch(0, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._grid)
        column.addWidget(self.views, 1)
        self.choices.taken.connect(self.taken)
        for view in (self.section, self.loupe):
            view.clicked_part.connect(self.clicked_part)
        self.wheel.sector_clicked.connect(self.sector_clicked)

    def _tab(self, name: Drawing) -> QPushButton:
        words, key = TITLES[name]
        tab = QPushButton(tr(words))
        tab.setToolTip(tr("key {key}").format(key=key) if not self._whole else "")
        tab.setProperty("role", "flat")
        tab.setCheckable(True)
        tab.setChecked(name == self.drawing)
        tab.clicked.connect(lambda _on, n=name: self.chosen.emit(n))
        return tab

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        for view in (
            self.section,
            self.loupe,
            self.wheel,
            self.side,
            self.finish,
            self.trace,
            self.plot,
            self.choices,
            self.steps,
        ):
            view.set_theme(theme)
        self._theme = theme
        self._view = None

    def fit(self, theme: Theme, each: int) -> None:
        """Size the tabs, so many in a row."""
        self.views.setMinimumHeight(theme.px(24))
        for tab in self.tabs.values():
            tight = theme.scale > 1.0  # seven words beside larger fields
            pad, size = (theme.px(2), theme.column(13)) if tight else (5, 14)
            tab.setMinimumHeight(theme.px(24) if theme.large else 0)
            tab.setStyleSheet(f"padding: 0 {pad}px; font-size: {size}px;")
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
        self.drawing, self._view = drawing, view
        there = view.state is not None
        late = view.looking.stage in SECTOR_STAGES  # the finish is behind, the trace is wanted
        hidden = ("loupe" if drawing != "loupe" else "section", "finish" if late else "trace")
        for name, tab in self.tabs.items():
            tab.setVisible(there and (self._whole or name not in hidden))
            tab.setChecked(name == drawing)
        widget, show = self._shown[drawing]
        show(view)
        if self.views.currentWidget() is not widget:
            self.views.setCurrentWidget(widget)

    def _show_wheel(self, view: BenchView) -> None:
        self.side.show_wheel(view.state, view.side, view.units)
        self.wheel.show_wheel(view.state, view.low_left, view.low_right, view.low_side)
        self.wheel_pages.setCurrentWidget(self.wheel if view.by_sector else self.side)
