"""The log as a table: CSV that a spreadsheet opens, with every entry as JSON in its last column."""

import csv
import io
from collections.abc import Iterable

import msgspec

from inner_rim.core.record.log import Logged, Unreadable
from inner_rim.core.record.units import UnitChoice
from inner_rim.documents.csv_text import safe_cell
from inner_rim.store.rows import Hit
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.log_words import entry_text


def log_csv(states: Iterable[BenchWheel], units: UnitChoice) -> bytes:
    """Return the log of wheels as CSV: wheel, number, time, kind, words, and the entry as JSON."""
    return _table([(state.name, item) for state in states for item in state.whole_log], units)


def hits_csv(hits: Iterable[Hit], units: UnitChoice) -> bytes:
    """Return entries that a search found as CSV, in their order."""
    return _table([(hit.name, hit.item) for hit in hits], units)


def _table(rows: Iterable[tuple[str, Logged]], units: UnitChoice) -> bytes:
    text = io.StringIO(newline="")
    writer = csv.writer(text, quoting=csv.QUOTE_ALL)
    writer.writerow(("wheel", "number", "at", "kind", "words", "entry"))
    for name, item in rows:
        entry = item.entry
        known = not isinstance(entry, Unreadable)
        kind = type(entry).__struct_config__.tag if known else "unreadable"
        body = entry.body if isinstance(entry, Unreadable) else msgspec.json.encode(entry).decode()
        row = (name, item.number, item.at, kind, entry_text(entry, units), body)
        writer.writerow([safe_cell(str(cell)) for cell in row])
    return text.getvalue().encode("utf-8-sig")
