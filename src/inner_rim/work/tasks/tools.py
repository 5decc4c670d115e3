"""Measuring tools at the bench: connected, read, and their faults in words."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

import msgspec

from inner_rim.devices.reader import ToolKind
from inner_rim.words import N_, tr
from inner_rim.work.editing.event import Event

if TYPE_CHECKING:
    from inner_rim.devices.reader import LineReader
    from inner_rim.devices.simulator import Simulator, Word

READINGS_WANTED = 3
#: Readings passed on at once; of more that came meanwhile the newest are kept.
MAX_AT_ONCE = 200
MAX_SPREAD_MM = 0.3
FAULT_WORDS = {
    "unplugged": N_(
        "The {tool} was pulled out: plug it in and connect again. What was read is kept."
    ),
    "garbage": N_(
        "The {tool} says “{detail}”, which is not a reading: check plug, unit and baud rate."
    ),
    "silent": N_("The {tool} says nothing: is it switched on?"),
    "none": N_("The {tool} reads again."),
}


class Taken(msgspec.Struct, frozen=True):
    """Readings of the same thing: their mean, and whether they differ too much to be believed."""

    values: tuple[float, ...]
    mean: float
    spread: float

    @property
    def questioned(self) -> bool:
        """Whether the spread is larger than a steady hand makes it (0.3 mm, common practice)."""
        return self.spread > MAX_SPREAD_MM


class Averager:
    """Collects readings of one thing, three by three."""

    def __init__(self) -> None:
        self._values: list[float] = []
        self._target: object = None

    def add(self, target: object, value_mm: float) -> Taken | None:
        """Take a reading of `target`; return the result with the third, None before. Another target
        starts afresh.
        """
        if target != self._target:
            self._target, self._values = target, []
        self._values.append(value_mm)
        if len(self._values) < READINGS_WANTED:
            return None
        values, self._values = tuple(self._values), []
        return Taken(values, sum(values) / len(values), max(values) - min(values))

    @property
    def waiting(self) -> tuple[float, ...]:
        return tuple(self._values)


class Tool:
    """One tool of the shop.

    Args:
        run_in_ui: brings a callback from the reader's thread to the interface's.

    Attributes:
        heard: who is told each reading and when it was taken.
        changed: who is told that the state changed.
    """

    def __init__(self, kind: ToolKind, run_in_ui: Callable[[Callable[[], None]], None]) -> None:
        self.kind, self._run_in_ui = kind, run_in_ui
        self.heard = Event[[float, float]]()
        self.changed = Event[[]]()
        self.words = tr("not connected")
        self.fault = "none"
        self.live = False
        self._lock = threading.Lock()
        self._batch: deque[tuple[float, float]] = deque(maxlen=MAX_AT_ONCE)
        self._reader: LineReader | None = None
        self._simulator: Simulator | None = None

    def connect(self, port: str, silent_seconds: float | None = None) -> bool:
        """Listen to the tool at a serial port; return whether it could be opened."""
        from inner_rim.devices.reader import LineReader, PortLost, open_serial

        self.off()
        try:
            line = open_serial(port)
        except PortLost as fault:
            self._say(tr("{port} cannot be opened: {why}").format(port=port, why=str(fault)[:120]))
            return False
        self._reader = LineReader(line, self.kind, self._reading, self._wrong, silent_seconds)
        self.live = True
        self._reader.start()
        self._say(tr("listening to {port}").format(port=port))
        return True

    def simulate(self, words: Iterable[Word], silent_seconds: float | None = None) -> bool:
        from inner_rim.devices.simulator import Simulator

        self.off()
        simulator = Simulator(words)
        if not self.connect(simulator.port, silent_seconds):
            simulator.stop()
            return False
        self._simulator = simulator
        simulator.start()
        self._say(tr("simulator: these readings are simulated"))
        return True

    def off(self) -> None:
        if self._reader is not None:
            self._reader.stop()
            self._reader = None
        if self._simulator is not None:
            self._simulator.stop()
            self._simulator = None
        self.fault, self.live = "none", False
        self._say(tr("not connected"))

    def _reading(self, value: float, at: float) -> None:
        """Pass a reading on; a stream at full speed is passed on in batches, the newest of it kept."""
        with self._lock:
            first = not self._batch
            self._batch.append((value, at))
        if first:
            self._run_in_ui(self._pass_on)

    def _pass_on(self) -> None:
        with self._lock:
            batch = list(self._batch)
            self._batch.clear()
        for value, at in batch:
            self.heard.emit(value, at)

    def _wrong(self, fault: str, detail: str) -> None:
        self._run_in_ui(lambda: self._fault(fault, detail))

    def _fault(self, fault: str, detail: str) -> None:
        if self._reader is None:
            return  # it was switched off in the meantime
        self.fault = fault
        self.live = fault != "unplugged"
        self._say(tr(FAULT_WORDS[fault]).format(tool=tr(self.kind), detail=detail))

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()


def spoken_values(values: Iterable[float], every_s: float, unit: str) -> Iterable[Word]:
    """Return the lines of a simulated tool: values over and over, at a fixed interval."""
    from itertools import cycle

    from inner_rim.devices.simulator import spoken

    return spoken(cycle(values), every_s, unit)
