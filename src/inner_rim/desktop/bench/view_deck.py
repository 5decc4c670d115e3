"""The pictures of a wheel: one or two in view, each made when first shown."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from inner_rim.desktop.drawings.section import SectionView
from inner_rim.desktop.widgets.base import show_if
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.work.tasks.gauge import GaugeSession
from inner_rim.work.text.questions import Picture
from inner_rim.work.views import BenchView

if TYPE_CHECKING:
    from inner_rim.desktop.drawings.act import ActView
    from inner_rim.desktop.drawings.finish import FinishView
    from inner_rim.desktop.drawings.loupe import LoupeView
    from inner_rim.desktop.drawings.plot import PlotView
    from inner_rim.desktop.drawings.sectors import WheelView
    from inner_rim.desktop.drawings.trace import TraceView
    from inner_rim.desktop.drawings.wait_ring import WaitRing


class ViewDeck(QWidget):
    """Shows pictures of the selected wheel below each other."""

    commanded = pyqtSignal(str, object)

    def __init__(self, session: GaugeSession, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._theme = session, theme
        self._running = False
        self.pictures: tuple[Picture, ...] = ()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._shown: dict[Picture, Callable[[BenchView], QWidget]] = {
            "act": self._show_act,
            "section": self._show_section,
            "loupe": self._show_loupe,
            "sectors": self._show_sectors,
            "finish": self._show_finish,
            "trace": self._show_trace,
            "plot": self._show_plot,
            "wait": self._show_wait,
        }

    def _go_to_field(self, path: str) -> None:
        self.commanded.emit("go_to_field", path)

    def _added(self, view: QWidget) -> None:
        self._column.addWidget(view, 1)

    # -- made when first looked at ---------------------------------------------------------------

    @cached_property
    def act(self) -> ActView:
        from inner_rim.desktop.drawings.act import ActView

        made = ActView(self._theme)
        self._added(made)
        return made

    @cached_property
    def section(self) -> SectionView:
        made = SectionView(self._theme)
        made.clicked_part.connect(self._go_to_field)
        self._added(made)
        return made

    @cached_property
    def loupe(self) -> LoupeView:
        """Both bead seats, close up."""
        from inner_rim.desktop.drawings.loupe import LoupeView

        made = LoupeView(self._theme)
        made.clicked_part.connect(self._go_to_field)
        self._added(made)
        return made

    @cached_property
    def wheel(self) -> WheelView:
        from inner_rim.desktop.drawings.sectors import WheelView

        made = WheelView(self._theme)
        made.sector_clicked.connect(
            lambda side, number: self.commanded.emit("hit_sector", (side, number))
        )
        self._added(made)
        return made

    @cached_property
    def finish(self) -> FinishView:
        from inner_rim.desktop.drawings.finish import FinishView

        made = FinishView(self._theme)
        self._added(made)
        return made

    @cached_property
    def trace(self) -> TraceView:
        from inner_rim.desktop.drawings.trace import TraceView

        made = TraceView(self._session, self._theme)
        made.commanded.connect(self.commanded)
        self._added(made)
        if self._running:
            made.run(True)
        return made

    @cached_property
    def plot(self) -> PlotView:
        """The leak test, and the pressures of visits."""
        from inner_rim.desktop.drawings.plot import PlotView

        made = PlotView(self._theme)
        self._added(made)
        return made

    @cached_property
    def waiting(self) -> WaitRing:
        from inner_rim.desktop.drawings.wait_ring import WaitRing

        made = WaitRing(self._theme)
        self._added(made)
        return made

    # -- showing ---------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        for name in ("act", "section", "loupe", "wheel", "finish", "trace", "plot", "waiting"):
            view = self.__dict__.get(name)  # those that exist
            if view is not None:
                view.set_theme(theme)

    def run_trace(self, live: bool) -> None:
        self._running = live
        if "trace" in self.__dict__:
            self.trace.run(live)

    def show_view(self, view: BenchView) -> None:
        """Show a wheel in the pictures in view; the others wait until they are shown."""
        shown = [self._shown[name](view) for name in view.pictures]
        if view.pictures != self.pictures:
            self.pictures = view.pictures
            for at in range(self._column.count()):
                item = self._column.itemAt(at)
                widget = item.widget() if item is not None else None
                if widget is not None:
                    show_if(widget, widget in shown)

    def _show_act(self, view: BenchView) -> QWidget:
        self.act.show_scene(view.act, view.units)
        return self.act

    def _show_section(self, view: BenchView) -> QWidget:
        alone = "loupe" not in view.pictures
        lenses = view.seats if alone else ()
        self.section.show_section(view.planned, view.section, view.units, lenses, labels=alone)
        return self.section

    def _show_loupe(self, view: BenchView) -> QWidget:
        self.loupe.show_seats(view.seats, view.units)
        return self.loupe

    def _show_sectors(self, view: BenchView) -> QWidget:
        self.wheel.show_wheel(
            view.planned, view.low_left, view.low_right, view.low_side, view.looking.bubbles
        )
        return self.wheel

    def _show_finish(self, view: BenchView) -> QWidget:
        self.finish.show_wheel(view.planned, view.units)
        return self.finish

    def _show_trace(self, view: BenchView) -> QWidget:
        self.trace.show_wheel(view.planned, view.others, view.units)
        return self.trace

    def _show_plot(self, view: BenchView) -> QWidget:
        self.plot.show_plot(view.plot())
        return self.plot

    def _show_wait(self, view: BenchView) -> QWidget:
        self.waiting.show_wait(view.wait)
        return self.waiting
