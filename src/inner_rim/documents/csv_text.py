"""CSV from and for spreadsheets: text, delimiter, cells that no spreadsheet runs as a formula;
tables of readings.
"""

import csv
import io
import json
import math
import re

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.reading import check_size
from inner_rim.words import tr

DELIMITERS = ",;\t"

#: A spreadsheet runs a cell that begins with =, +, -, @, a tab or a return; it is written after an
#: apostrophe (OWASP, CSV injection).
_AT_START = r"(?:^|(?<=[;,\t\r\n]))"
_UNGUARDED = re.compile(_AT_START + r"(?=['=+\-@\t\r])")
#: Within JSON whose numbers all stand after a space.
_UNGUARDED_IN_TEXT = re.compile(r"(?<=[;,])['=+\-@]")
_GUARDED = re.compile(_AT_START + r"'(?=['=+\-@\t\r])")


def csv_text(data: bytes, max_bytes: int) -> tuple[str, str]:
    """Return the text of a CSV file and the delimiter of its first line.

    Raises:
        InputError: too large, not UTF-8, or no text.
    """
    check_size(data, max_bytes)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        line = data[: fault.start].count(b"\n") + 1
        raise InputError(
            tr("line {line} is not UTF-8; save the table as UTF-8").format(line=line)
        ) from fault
    if "\x00" in text:
        raise InputError(tr("the file is not text: save it as CSV in UTF-8"))
    first = text.partition("\n")[0]
    return text, max(DELIMITERS, key=first.count)


def safe_cell(text: str) -> str:
    """Return a cell's text so that no spreadsheet runs it, or any part of it that one takes for a
    cell.

    A table with commas may be opened by a program that expects semicolons.

    >>> safe_cell("=1+1"), safe_cell("27 mm")
    ("'=1+1", '27 mm')
    """
    return _UNGUARDED.sub("'", text)


def json_cell(body: str) -> str:
    """Return JSON as a cell: no spreadsheet runs any part of it, and it reads back as it was.

    A space goes after each comma and colon, and what could begin a formula within a text is
    escaped.

    >>> json_cell('{"kpa":[0.5,-1.2],"note":"a;=1+1"}')
    '{"kpa": [0.5, -1.2], "note": "a;\\\\u003d1+1"}'
    """
    try:
        plain = json.loads(body)
    except (ValueError, RecursionError):
        return safe_cell(body)
    text = json.dumps(plain, ensure_ascii=False)
    return _UNGUARDED_IN_TEXT.sub(lambda match: f"\\u{ord(match[0]):04x}", text)


def bare_cell(text: str) -> str:
    """Return a cell's text without the apostrophe that `safe_cell` put before it."""
    return _GUARDED.sub("", text)


MAX_FILE_BYTES = 50_000_000
#: Tables of this many characters or more are read by NumPy first.
QUICK_FROM = 100_000


def read_columns(
    data: bytes,
    bounds: dict[str, tuple[float, float]],
    rising: str,
    *,
    strictly: bool,
    optional: frozenset[str] = frozenset(),
) -> dict[str, list[float]]:
    """Return the columns that are named in `bounds`; others are skipped.

    Args:
        data: CSV in UTF-8, its first line naming the columns, divided by comma, semicolon or tab.
        bounds: least and greatest value accepted in each column.
        optional: columns in which a cell may be empty, and which may be missing: not a number
            there.

    Raises:
        InputError: not such a table; the sentence names line, column, value and what is accepted.
    """
    text, delimiter = csv_text(data, MAX_FILE_BYTES)
    quick = _quick_columns(text, delimiter, bounds, rising, strictly=strictly)
    if quick is not None:
        return quick
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    wanted = ",".join(bounds)
    try:
        names = [name.strip() for name in next(rows)]
        missing = next(
            (name for name in bounds if name not in names and name not in optional), None
        )
        if missing:
            raise InputError(
                tr("line 1: no column “{name}”. The table needs {wanted}.").format(
                    name=missing, wanted=wanted
                )
            )
        places = {name: names.index(name) if name in names else len(names) for name in bounds}
        result: dict[str, list[float]] = {name: [] for name in bounds}
        for cells in rows:
            if any(cell.strip() for cell in cells):
                for name, place in places.items():
                    cell = cells[place] if place < len(cells) else ""
                    if name in optional and not cell.strip():
                        result[name].append(math.nan)
                        continue
                    result[name].append(
                        _number(cell, rows.line_num, name, bounds[name], delimiter != ",")
                    )
                _check_rising(result[rising], rows.line_num, rising, strictly)
    except StopIteration:
        raise InputError(
            tr("the table is empty: it needs the columns {wanted}").format(wanted=wanted)
        ) from None
    except csv.Error as fault:
        raise InputError(
            tr("line {line}: {fault}").format(line=rows.line_num, fault=fault)
        ) from fault
    if not result[rising]:
        raise InputError(tr("the table has no rows: put one reading in each line"))
    return result


def _quick_columns(
    text: str,
    delimiter: str,
    bounds: dict[str, tuple[float, float]],
    rising: str,
    *,
    strictly: bool,
) -> dict[str, list[float]] | None:
    """Return the columns of a large well-formed table; None where the strict reader has to look at
    it.
    """
    head, _, body = text.partition("\n")
    names = [name.strip() for name in head.split(delimiter)]
    if len(body) < QUICK_FROM or delimiter != "," or '"' in body or not set(bounds) <= set(names):
        return None
    import numpy as np

    columns = [names.index(name) for name in bounds]
    try:
        table = np.loadtxt(
            io.StringIO(body), delimiter=",", usecols=columns, comments=None, ndmin=2
        )
    except ValueError:
        return None
    low, high = np.array(list(bounds.values())).T
    steps = np.diff(table[:, list(bounds).index(rising)])
    in_order = bool((steps > 0.0).all() if strictly else (steps >= 0.0).all())
    if not (len(table) and in_order and ((table >= low) & (table <= high)).all()):
        return None
    return {name: table[:, place].tolist() for place, name in enumerate(bounds)}


def _number(
    cell: str, line: int, name: str, bounds: tuple[float, float], decimal_comma: bool
) -> float:
    text = cell.strip()
    low, high = bounds
    accepted = tr("use a number from {low:g} to {high:g}").format(low=low, high=high)
    try:
        value = (
            math.nan if "_" in text else float(text.replace(",", ".") if decimal_comma else text)
        )
    except ValueError:
        value = math.nan
    if not (math.isfinite(value) and low <= value <= high):
        raise InputError(
            tr("line {line}, column {name}: “{text}”: {accepted}").format(
                line=line, name=name, text=text[:40], accepted=accepted
            )
        )
    return value


def _check_rising(values: list[float], line: int, name: str, strictly: bool) -> None:
    if len(values) > 1 and (values[-1] < values[-2] or (strictly and values[-1] == values[-2])):
        raise InputError(
            tr(
                "line {line}, column {name}: {value:g} after {before:g}; each time must be later than the one before"
            ).format(line=line, name=name, value=values[-1], before=values[-2])
        )
