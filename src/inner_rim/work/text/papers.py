"""What a wheel can be written out as, and the code that its papers carry; light, for the way to the first paint."""

from inner_rim.core.record.ids import is_id

QR_PREFIX = "INNER-RIM"
#: What a wheel can be written out as: ending of the file, words, and what makes it.
WAYS: dict[str, tuple[str, str]] = {
    "card": (".pdf", "Bench card (PDF)"),
    "sheet": (".pdf", "Customer sheet (PDF)"),
    "label": (".pdf", "Wheel label (PDF)"),
    "calendar": (".ics", "Days for the calendar (ICS)"),
    "job": (".json", "Job and log (JSON)"),
    "log": (".csv", "Log (CSV)"),
}

#: What of it goes straight to a printer.
PRINTED = ("card", "sheet", "label")


def code_of(text: str) -> str | None:
    """Return the wheel that a scanned code names by its identity, None where it is no code.

    >>> code_of("inner-rim/7F3C-01"), code_of("Sandpiper")
    ('7F3C-01', None)
    """
    prefix, _slash, code = text.strip()[:100].partition("/")
    return code if prefix.upper() == QR_PREFIX and is_id(code) else None
