"""CSV from and for spreadsheets: text, delimiter, and cells that no spreadsheet runs as a formula."""

import re

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.reading import check_size
from inner_rim.words import tr

DELIMITERS = ",;\t"

#: A spreadsheet runs a cell that begins with =, +, -, @, a tab or a return; it is written after an apostrophe (OWASP,
#: CSV injection).
_AT_START = r"(?:^|(?<=[;,\t\r\n]))"
_UNGUARDED = re.compile(_AT_START + r"(?=['=+\-@\t\r])")
_GUARDED = re.compile(_AT_START + r"'(?=['=+\-@\t\r])")


def csv_text(data: bytes, most_bytes: int) -> tuple[str, str]:
    """Return the text of a CSV file and the delimiter of its first line.

    Raises:
        InputError: too large, not UTF-8, or no text.
    """
    check_size(data, most_bytes)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        line = data[: fault.start].count(b"\n") + 1
        raise InputError(tr("line {line} is not UTF-8; save the table as UTF-8").format(line=line)) from fault
    if "\x00" in text:
        raise InputError(tr("the file is not text: save it as CSV in UTF-8"))
    first = text.partition("\n")[0]
    return text, max(DELIMITERS, key=first.count)


def safe_cell(text: str) -> str:
    """Return a cell's text so that no spreadsheet runs it, or any part of it that one takes for a cell.

    A table with commas may be opened by a program that expects semicolons.

    >>> safe_cell("=1+1"), safe_cell("27 mm")
    ("'=1+1", '27 mm')
    """
    return _UNGUARDED.sub("'", text)


def bare_cell(text: str) -> str:
    """Return a cell's text without the apostrophe that `safe_cell` put before it."""
    return _GUARDED.sub("", text)
