"""Listens to a tool on a serial line in a thread of its own; readings and faults go to whoever
asked.

A port is anything with `read(size) -> bytes` that returns within a fraction of a second, and
`close()`.
"""

from __future__ import annotations

import math
import re
import threading
import time
from collections.abc import Callable
from typing import Literal, Protocol

from inner_rim.core.record.units import UNITS

Fault = Literal["unplugged", "garbage", "silent", "none"]

BAUD = 9600
READ_SECONDS = 0.1
SILENT_SECONDS = 3.0
MAX_GARBAGE = 5
CHUNK = 256


class Port(Protocol):
    def read(self, size: int) -> bytes: ...

    def close(self) -> None: ...


class PortLost(OSError):
    """The line is gone: unplugged, or never there."""


def open_serial(name: str, baud: int = BAUD) -> Port:
    """Open a serial port by its name.

    Raises:
        PortLost: there is no such port, or another program holds it.
    """
    import serial  # not on the way to the first paint

    try:
        port: Port = serial.Serial(name, baudrate=baud, timeout=READ_SECONDS, exclusive=True)
    except (serial.SerialException, OSError, ValueError) as fault:
        raise PortLost(str(fault)) from fault
    return port


class LineReader:
    """Reads lines until it is stopped.

    Args:
        wrong: called once when a fault begins, and with `none` when readings come again.
        silent_seconds: after this long without a reading a live gauge counts as silent; None where
            silence is usual.
    """

    def __init__(
        self,
        port: Port,
        tool: ToolKind,
        heard: Callable[[float, float], None],
        wrong: Callable[[Fault, str], None],
        silent_seconds: float | None = None,
        own_unit: str | None = None,
    ) -> None:
        self._port, self._tool, self._heard, self._wrong = port, tool, heard, wrong
        self._silent_seconds, self._own_unit = silent_seconds, own_unit
        self._stop = threading.Event()
        self._fault: Fault = "none"
        self._garbage = 0
        self._skipping = True  # until the start of a line was seen: half a line is no reading
        self._thread = threading.Thread(target=self._run, name=f"{tool} reader", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        self._thread.join(2.0)

    def _run(self) -> None:
        rest = b""
        last = time.monotonic()
        try:
            while not self._stop.is_set():
                try:
                    data = self._port.read(CHUNK)
                except (
                    OSError,
                    TypeError,
                    ValueError,
                ) as fault:  # pyserial, where the line closes under it
                    self._report("unplugged", str(fault))
                    return
                now = time.monotonic()
                if data:
                    rest = self._lines(rest + data, now)
                    last = now
                elif not rest and self._skipping:
                    self._skipping = (
                        False  # nothing was being sent when we started: the next byte begins a line
                    )
                elif self._silent_seconds is not None and now - last > self._silent_seconds:
                    self._report("silent", "")
        finally:
            self._port.close()

    def _lines(self, data: bytes, now: float) -> bytes:
        *whole, rest = data.replace(b"\r", b"\n").split(b"\n")
        if whole and self._skipping:
            self._skipping, whole = False, whole[1:]
        for line in whole:
            if line.strip():
                self._line(line, now)
        if len(rest) > LONGEST_LINE:  # a line without an end
            self._count_garbage(rest[:LONGEST_LINE])
            self._skipping = True  # the rest of it is half a line
            return b""
        return rest

    def _line(self, line: bytes, now: float) -> None:
        try:
            value = read_line(line.decode("ascii"), self._tool, self._own_unit)
        except (Garbage, UnicodeDecodeError):
            self._count_garbage(line)
            return
        self._garbage = 0
        self._report("none", "")
        self._heard(value, now)

    def _count_garbage(self, line: bytes) -> None:
        self._garbage += 1
        if self._garbage >= MAX_GARBAGE:
            self._report("garbage", line[:LONGEST_LINE].decode("ascii", "replace"))

    def _report(self, fault: Fault, detail: str) -> None:
        if fault != self._fault:
            self._fault = fault
            self._wrong(fault, detail)


ToolKind = Literal["caliper", "gauge"]

#: Quantity of a tool, the units it may name, and its range (canonical).
QUANTITY: dict[ToolKind, str] = {"caliper": "mm", "gauge": "kpa"}
SPELLINGS: dict[str, dict[str, str]] = {
    "mm": {"mm": "mm", "in": "in", "inch": "in", '"': "in"},
    "kpa": {"kpa": "kpa", "bar": "bar", "psi": "psi", "psig": "psi", "lbf/in2": "psi"},
}
RANGE: dict[ToolKind, tuple[float, float]] = {"caliper": (0.0, 1000.0), "gauge": (-5.0, 5000.0)}
LONGEST_LINE = 80
_LINE = re.compile(
    r"^\s*(?:[A-Za-z]{1,8}\s*[:=]?\s*)?([-+]?\d{1,6}(?:[.,]\d{1,6})?)\s*([A-Za-z/\"0-9]{0,8})\s*$"
)


class Garbage(ValueError): ...


def read_line(line: str, tool: ToolKind, own_unit: str | None = None) -> float:
    """Return the reading in a line, mm or kPa.

    Args:
        own_unit: unit of a number that names none; the canonical one where None.

    >>> read_line("D= 1.250 in", "caliper"), round(read_line("33 psi", "gauge"), 1)
    (31.75, 227.5)

    Raises:
        Garbage: not a number, another quantity's unit, or beyond what the tool can read.
    """
    match = _LINE.match(line) if len(line) <= LONGEST_LINE else None
    if match is None:
        raise Garbage(line[:LONGEST_LINE])
    quantity = QUANTITY[tool]
    named = match[2].lower()
    unit = SPELLINGS[quantity].get(named) if named else ""
    if unit is None:
        raise Garbage(line)
    value = float(match[1].replace(",", ".")) * UNITS[quantity][unit or own_unit or quantity].factor
    low, high = RANGE[tool]
    if not (math.isfinite(value) and low <= value <= high):
        raise Garbage(line)
    return value
