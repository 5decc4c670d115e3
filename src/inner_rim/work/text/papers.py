"""What a wheel can be written out as, and the code that its papers carry; light, for the way to the first paint."""

import re

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


def code_of(text: str) -> tuple[str, ...] | None:
    """Return what a scanned code names, None where it is no code: a wheel's identity alone, or the number of
    a job and the wheel's place in it, as papers had it before wheels had identities.

    >>> code_of("INNER-RIM/12/1"), code_of("inner-rim/7F3C-01"), code_of("Sandpiper")
    (('12', '1'), ('7F3C-01',), None)
    """
    prefix, *parts = text.strip()[:100].split("/")
    if prefix.upper() != QR_PREFIX:
        return None
    if len(parts) == 1 and is_id(parts[0]):
        return (parts[0],)
    old = len(parts) == 2 and all(re.fullmatch("[0-9]{1,9}", part) for part in parts)
    return tuple(parts) if old else None
