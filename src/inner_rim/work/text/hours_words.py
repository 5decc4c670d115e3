"""Opening hours as a person types and reads them, a day a line."""

import re

from inner_rim.core.record.errors import InputError
from inner_rim.core.schedule.hours import DAY_MIN, Opening
from inner_rim.words import tr

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_TIME = r"(\d{1,2})(?:[:.](\d{2}))?"
_SPAN = re.compile(rf"\s*{_TIME}\s*(?:-|–|to)\s*{_TIME}\s*")


def opening_text(found: Opening | None) -> str:
    """Return hours as they stand in their field; empty for a day that is closed.

    >>> opening_text(Opening(480, 1050)), opening_text(None)
    ('8:00-17:30', '')
    """
    if found is None:
        return ""
    return "-".join(f"{minute // 60}:{minute % 60:02d}" for minute in (found.opens, found.closes))


def opening_of(text: str) -> Opening | None:
    """Return the hours that were typed; None for a day that is closed.

    >>> opening_of("8-17.30"), opening_of("closed")
    (Opening(opens=480, closes=1050), None)

    Raises:
        InputError: not understood.
    """
    plain = text.strip().lower()
    if plain in ("", "-", "–", "closed"):
        return None
    match = _SPAN.fullmatch(plain)
    if match is not None:
        opens, closes = (60 * int(match[i]) + int(match[i + 1] or 0) for i in (1, 3))
        if opens < closes <= DAY_MIN and int(match[2] or 0) < 60 and int(match[4] or 0) < 60:
            return Opening(opens, closes)
    raise InputError(
        tr("“{typed}”; accepted are hours such as 8:00-17:30, or nothing for closed").format(
            typed=text.strip()[:20]
        )
    )
