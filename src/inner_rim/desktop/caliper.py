"""The caliper: three readings of the field that has the focus become its value."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from inner_rim.core.units import show
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.tools import READINGS_WANTED, Averager, Taken, Tool

from .inputs import FieldRow, InputsPanel

STAND_IN_MM = (24.02, 23.97, 24.04, 18.1, 18.25, 18.2, 3.4, 3.5, 3.45, 7.2, 8.1, 7.3)


class Caliper(QObject):
    """Brings the caliper's readings into the focused length field of the bench page."""

    def __init__(self, tool: Tool, bench: Bench, inputs: InputsPanel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.tool, self._bench, self._inputs = tool, bench, inputs
        self._averager = Averager()
        self._last: tuple[FieldRow, Taken] | None = None
        tool.heard = lambda said, at: self.take(said.value)

    def begin_stand_in(self) -> None:
        """Listen to made-up readings."""
        from inner_rim.work.tools import spoken_values

        self.tool.stand_in(spoken_values(STAND_IN_MM, 1.5, "mm"))

    def take(self, value_mm: float) -> None:
        """Take a reading into the focused field."""
        row = self._inputs.focused_row()
        shown = show(value_mm, "mm", self._bench.units)
        if row is None or row.kind != "mm":
            self._say(tr("Caliper {shown}: go into a length field first").format(shown=shown))
            return
        taken = self._averager.add(row.line.path, value_mm)
        if taken is None:
            left = READINGS_WANTED - len(self._averager.waiting)
            self._say(tr("Caliper {shown}, {n} more").format(shown=shown, n=left))
        elif taken.questioned:
            self._last = (row, taken)
            self._say(
                tr(
                    "Readings differ by {spread}: measure again, or Ctrl+M takes the mean {mean} all the same"
                ).format(
                    spread=show(taken.spread, "mm", self._bench.units),
                    mean=show(taken.mean, "mm", self._bench.units),
                )
            )
        else:
            self._put(row, taken)

    def take_questioned(self) -> None:
        """Take the mean of readings that differ, because the hand says so."""
        if self._last is not None:
            self._put(*self._last)

    def _put(self, row: FieldRow, taken: Taken) -> None:
        self._last = None
        row.put_measured(taken.mean)
        self._say(
            tr("Caliper: mean of {n} readings, spread {spread}").format(
                n=len(taken.values), spread=show(taken.spread, "mm", self._bench.units)
            )
        )

    def _say(self, words: str) -> None:
        self._bench.say(words)
