"""Numbers as people type them: ASCII digits, a comma or a point, nothing Python alone would accept."""

import math
import re

#: Longest text that can be a number; longer ones are refused before they are looked at.
LONGEST = 40
_NUMBER = re.compile(r"[-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d{1,3})?", re.ASCII)
_WHOLE = re.compile(r"\d{1,9}", re.ASCII)


def number(text: str) -> float:
    """Return a finite number.

    >>> number(" 2,5 "), number("1e3")
    (2.5, 1000.0)

    Raises:
        ValueError: not a number, or too large for one; ``1_0``, ``²`` and ``nan`` are none.
    """
    plain = text.strip() if len(text) <= 4 * LONGEST else ""
    if len(plain) > LONGEST or _NUMBER.fullmatch(plain) is None:
        raise ValueError(text[:LONGEST])
    value = float(plain.replace(",", "."))
    if not math.isfinite(value):
        raise ValueError(text[:LONGEST])
    return value


def whole(text: str, least: int, most: int) -> int | None:
    """Return a whole number within bounds, None where the text is none.

    >>> whole("12", 1, 200), whole("²", 1, 200), whole("900", 1, 200)
    (12, None, None)
    """
    plain = text.strip() if len(text) <= LONGEST else ""
    value = int(plain) if _WHOLE.fullmatch(plain) else None
    return value if value is not None and least <= value <= most else None
