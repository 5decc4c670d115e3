"""The protocol of measuring tools: one line of text per reading, a number with or without its unit.

Accepted lines, in ASCII, ended by CR, LF or both (documented in docs/devices.md)::

    12.31            a number alone, in the tool's own unit
    12,31 mm         with its unit: mm or in for a caliper; kPa, bar or psi for a gauge
    D=12.31mm        after a short word
"""

import math
import re
from typing import Literal

from inner_rim.core.record.units import UNITS

ToolKind = Literal["caliper", "gauge"]

#: Quantity of a tool, the units it may name, and its range (canonical).
QUANTITY: dict[ToolKind, str] = {"caliper": "mm", "gauge": "kpa"}
SPELLINGS: dict[str, dict[str, str]] = {
    "mm": {"mm": "mm", "in": "in", "inch": "in", '"': "in"},
    "kpa": {"kpa": "kpa", "bar": "bar", "psi": "psi", "psig": "psi", "lbf/in2": "psi"},
}
RANGE: dict[ToolKind, tuple[float, float]] = {"caliper": (0.0, 1000.0), "gauge": (-5.0, 5000.0)}
LONGEST_LINE = 80
_LINE = re.compile(r"^\s*(?:[A-Za-z]{1,8}\s*[:=]?\s*)?([-+]?\d{1,6}(?:[.,]\d{1,6})?)\s*([A-Za-z/\"0-9]{0,8})\s*$")


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
