"""Building blocks of a line's phrases, in any language; see `line_entry`."""

import re
from collections.abc import Callable, Iterator
from datetime import date, datetime, time, timedelta

from inner_rim.core.record.units import number

Found = Iterator[tuple[str, str]]
Reader = Callable[[re.Match[str], datetime], Found]
#: A pattern, and what it says.
Rule = tuple[str, Reader]

NUMBER = r"\d{1,4}(?:[.,]\d{1,3})?"
#: No pressure and no mass.
LENGTH = (
    rf"(?P<value>{NUMBER}|\d{{1,2}}/\d{{1,2}})(?![.,/]?\d)(?!\s*(?:bar|psi|kpa|kg|lbs?)\b)"
    r"\s*(?P<unit>mm|in\b|\"|inch(?:es)?)?"
)
#: The narrowest rim that is said, mm inside.
NARROWEST_MM = 8.0
#: A wheel that is promised for a day without a time is wanted when the shop closes (common
#: practice).
NO_TIME = time(17, 0)


def figure(path: str, least: float = 0.0) -> Reader:
    """Return what reads a figure with its unit into a field; one without a unit that is below the
    least is another thing's.
    """

    def read(match: re.Match[str], now: datetime) -> Found:
        unit = {"inch": "in", "inches": "in", '"': "in"}.get(
            match["unit"] or "", match["unit"] or ""
        )
        if not unit and "/" not in match["value"] and number(match["value"]) < least:
            raise ValueError(match["value"])
        yield path, f"{match['value']} {unit}".strip()

    return read


def is_(path: str, text: str) -> Reader:
    """Return what says one value of a field."""
    return lambda match, now: iter(((path, text),))


def count(path: str) -> Reader:
    """Return what reads a whole number into a field."""
    return lambda match, now: iter(((path, match["count"]),))


def leaks_at(place: str) -> Reader:
    """Return a reader for a wheel that comes in because it leaks at a place."""
    return lambda match, now: iter((("work.kind", "repair"), ("work.leak", place)))


def named(path: str) -> Reader:
    """Return what reads a name into a field."""
    return lambda match, now: iter(((path, match["name"].strip()),))


def nearest(month: int, of_month: int, today: date) -> date:
    """Return the day of a month that is nearest to today."""
    last = (28, 31, 30)[0 if month == 2 else 2 if month in (4, 6, 9, 11) else 1]
    days = (date(today.year + by, month, min(max(of_month, 1), last)) for by in (-1, 0, 1))
    return min(days, key=lambda day: abs((day - today).days))


def next_day(weekday: int, today: date) -> date:
    """Return the next day of this name, a week from now where it is today's."""
    return today + timedelta(days=(weekday - today.weekday()) % 7 or 7)
