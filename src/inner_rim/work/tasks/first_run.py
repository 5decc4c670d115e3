"""The first run: three questions that make the first plan fit the shop. Each may be left out."""

from __future__ import annotations

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import Item, item_from
from inner_rim.core.record.units import TRADE, UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.bench_port import BenchPort
from inner_rim.work.editing.fields import field, value_of

#: Stock and reorder level of a width that was named, until it is counted: a shop
#: roll, and what a wheel takes (common practice, no published source), mm.
ROLL_MM, LOW_AT_MM = 10_000.0, 2_500.0


def tapes_of(text: str, units: UnitChoice) -> list[Item]:
    """Return a roll of each width in a text such as ``25 27 29``.

    Raises:
        InputError: not widths of tape.
    """
    widths = value_of(field("shelf.tape_widths_mm"), text, units)
    return [
        item_from(
            "tape",
            {"name": tr("Tape {width}").format(width=show(width, TRADE, units)), "width_mm": width},
            stock=ROLL_MM,
            low_at=LOW_AT_MM,
        )
        for width in (widths if isinstance(widths, list) else [])
    ]


def put_tapes(desk: BenchPort, text: str) -> str:
    """Put a roll of each width on the shelf that is not there yet; return what was wrong with the
    text, else nothing.
    """
    try:
        tapes = tapes_of(text, desk.units)
    except InputError as fault:
        return fault.sentence
    there = {item.spec.get("width_mm") for item in desk.shelf.items if item.kind == "tape"}
    for item in tapes:
        if item.spec["width_mm"] not in there:
            desk.shelf.add(item)
    return ""


def is_first(desk: BenchPort, asked: bool) -> bool:
    """Whether the questions are shown: nothing was planned here, and they were not left behind."""
    return not asked and desk.current is None and not desk.wheels
