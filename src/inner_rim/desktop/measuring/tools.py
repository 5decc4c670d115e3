"""The caliper and the gauge of a window, each made when first used."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

from inner_rim.work.bench import Bench

if TYPE_CHECKING:
    from inner_rim.desktop.measuring.caliper import Caliper, LengthField
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
            from inner_rim.desktop.measuring.caliper import Caliper
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
            tool.on_progress = self._gauge.on_progress
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
            self._gauge.tool.on_progress = lambda: None
            self._gauge.sound.ring("none", heard=False)
            self._gauge.tool.off()
        if self._caliper is not None:
            self._caliper.tool.off()
