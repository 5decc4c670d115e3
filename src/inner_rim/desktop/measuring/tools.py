"""The tools of a window, each made when first used; the caliper."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QObject

from inner_rim.core.record.units import show
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.tasks.tools import READINGS_WANTED, Averager, Taken, Tool

if TYPE_CHECKING:
    from inner_rim.desktop.measuring.gauge import Gauge


class Tools:
    """The measuring tools.

    Args:
        run_in_ui: brings a callback from a reader's thread to the interface's.
    """

    def __init__(
        self,
        bench: Bench,
        run_in_ui: Callable[[Callable[[], None]], None],
        focused: Callable[[], LengthField | None],
        made: Callable[[Gauge], None],
        parent: QObject,
    ) -> None:
        self._bench, self._run_in_ui, self._focused = bench, run_in_ui, focused
        self._made, self._parent = made, parent
        self._caliper: Caliper | None = None
        self._gauge: Gauge | None = None

    @property
    def caliper(self) -> Caliper:
        if self._caliper is None:
            from inner_rim.work.tasks.tools import Tool

            tool = Tool("caliper", self._run_in_ui)
            self._caliper = Caliper(tool, self._bench, self._focused, self._parent)
        return self._caliper

    @property
    def gauge(self) -> Gauge:
        if self._gauge is None:
            from inner_rim.desktop.measuring.gauge import Gauge
            from inner_rim.work.tasks.tools import Tool

            tool = Tool("gauge", self._run_in_ui)
            self._gauge = Gauge(tool, self._bench, self._parent)
            self._made(self._gauge)
        return self._gauge

    @property
    def gauge_live(self) -> bool:
        return self._gauge is not None and self._gauge.tool.live

    @property
    def sounding(self) -> bool:
        return self._gauge is not None and self._gauge.sound.sounding

    def silence(self) -> None:
        if self._gauge is not None:
            self._gauge.sound.silence()

    def disconnect(self) -> None:
        if self._gauge is not None:
            self._gauge.tool.changed.clear()
            self._gauge.sound.ring("none", heard=False)
            self._gauge.tool.off()
        if self._caliper is not None:
            self._caliper.tool.off()


SIMULATED_MM = (24.02, 23.97, 24.04, 18.1, 18.25, 18.2, 3.4, 3.5, 3.45, 7.2, 8.1, 7.3)


class LengthField(Protocol):
    @property
    def path(self) -> str: ...

    @property
    def kind(self) -> str | None: ...

    def put_measured(self, value: float) -> None: ...


class Caliper(QObject):
    """Brings the caliper's readings into the focused length field of the bench page."""

    def __init__(
        self,
        tool: Tool,
        bench: Bench,
        focused: Callable[[], LengthField | None],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.tool, self._bench, self._focused = tool, bench, focused
        self._averager = Averager()
        self._last: tuple[LengthField, Taken] | None = None
        tool.heard.connect(lambda value, at: self.take(value))

    def begin_simulator(self) -> None:
        from inner_rim.work.tasks.tools import spoken_values

        self.tool.simulate(spoken_values(SIMULATED_MM, 1.5, "mm"))

    def take(self, value_mm: float) -> None:
        row = self._focused()
        shown = show(value_mm, "mm", self._bench.units)
        if row is None or row.kind != "mm":
            self._say(tr("Caliper {shown}: go into a length field first").format(shown=shown))
            return
        taken = self._averager.add(row.path, value_mm)
        if taken is None:
            left = READINGS_WANTED - len(self._averager.waiting)
            self._say(tr("Caliper {shown}, {n} more").format(shown=shown, n=left))
        elif taken.questioned:
            self._last = (row, taken)
            self._say(
                tr(
                    "Readings differ by {spread}: measure again, or press Ctrl+M to take the mean, {mean}"
                ).format(
                    spread=show(taken.spread, "mm", self._bench.units),
                    mean=show(taken.mean, "mm", self._bench.units),
                )
            )
        else:
            self._put(row, taken)

    def take_questioned(self) -> None:
        """Take the mean of readings that differ, because the mechanic said so."""
        if self._last is not None:
            self._put(*self._last)

    def _put(self, row: LengthField, taken: Taken) -> None:
        self._last = None
        row.put_measured(taken.mean)
        self._say(
            tr("Caliper: mean of {n} readings, spread {spread}").format(
                n=len(taken.values), spread=show(taken.spread, "mm", self._bench.units)
            )
        )

    def _say(self, words: str) -> None:
        self._bench.say(words)
