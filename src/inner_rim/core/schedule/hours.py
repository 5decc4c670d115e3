"""Opening hours: when mechanics work. All times are the shop's own clock, without a zone."""

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from functools import lru_cache
from typing import Annotated

import msgspec
from msgspec import Meta

#: Minutes of a day.
DAY_MIN = 24 * 60
#: No shop is closed for longer; after that it counts as open, so that a schedule always ends.
MAX_DAYS_CLOSED = 400

Minute = Annotated[int, Meta(ge=0, le=DAY_MIN)]


class Opening(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """From when to when mechanics work on a day, in minutes after midnight."""

    opens: Minute
    closes: Minute


#: When a day is open: not at all, once, or several times, as with a lunch break.
DayHours = Opening | tuple[Opening, ...] | None


class SpecialDay(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A date with hours of its own."""

    day: date
    hours: tuple[Opening, ...]


class Hours(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """When mechanics work.

    Attributes:
        week: Monday to Sunday.
        special: dates with hours of their own.
    """

    week: tuple[DayHours, DayHours, DayHours, DayHours, DayHours, DayHours, DayHours] = (
        *(Opening(480, 1050),) * 5,
        Opening(540, 780),
        None,
    )
    days_off: tuple[date, ...] = ()
    special: tuple[SpecialDay, ...] = ()

    def spans(self, day: date) -> tuple[Opening, ...]:
        """Return when a day is open, in order, without overlaps.

        >>> Hours((None,) * 6 + ((Opening(780, 1020), Opening(480, 720)),)).spans(date(2026, 11, 29))
        (Opening(opens=480, closes=720), Opening(opens=780, closes=1020))
        """
        special = next((one.hours for one in self.special if one.day == day), None)
        if special is None and day in self.days_off:
            return ()
        return joined(self.week[day.weekday()] if special is None else special)

    def openings(self, start: datetime) -> Iterator[tuple[datetime, datetime]]:
        """Return the open stretches from a moment on, the first one cut where it has begun."""
        closed = 0
        day = start.date()
        while True:
            spans = self.spans(day)
            if not spans and closed >= MAX_DAYS_CLOSED:
                spans = (Opening(0, DAY_MIN),)
            for opens, closes in (_times(day, span) for span in spans):
                if closes > start:
                    closed = 0
                    yield max(opens, start), closes
            closed += 1
            day += timedelta(days=1)

    def is_open(self, at: datetime) -> bool:
        """Whether the shop is open at a moment.

        >>> Hours().is_open(datetime(2026, 11, 25, 9)), Hours().is_open(datetime(2026, 11, 25, 18))
        (True, False)
        """
        times = (_times(at.date(), span) for span in self.spans(at.date()))
        return any(opens <= at < closes for opens, closes in times)

    def next_open(self, at: datetime) -> datetime:
        """Return the first open moment from then on.

        >>> Hours().next_open(datetime(2026, 11, 28, 20)).isoformat()
        '2026-11-30T08:00:00'
        """
        return next(self.openings(at))[0]

    def forward(self, at: datetime, minutes: float) -> datetime:
        """Return the moment at which this many minutes of work, begun then, are done.

        >>> Hours().forward(datetime(2026, 11, 25, 17), 60.0).isoformat()
        '2026-11-26T08:30:00'
        """
        left = timedelta(minutes=minutes)
        for opens, closes in self.openings(at):
            if closes - opens >= left:
                return opens + left
            left -= closes - opens
        raise AssertionError("openings never end")

    def back(self, at: datetime, minutes: float) -> datetime:
        """Return the moment that lies this many minutes of work before another.

        >>> Hours().back(datetime(2026, 11, 26, 8, 30), 60.0).isoformat()
        '2026-11-25T17:00:00'
        """
        left = timedelta(minutes=minutes)
        day, closed = at.date(), 0
        while closed <= MAX_DAYS_CLOSED:
            spans = self.spans(day)
            closed = 0 if spans else closed + 1
            for opens, closes in (_times(day, span) for span in reversed(spans)):
                worked = min(closes, at) - opens
                if worked >= left:
                    return min(closes, at) - left
                left -= max(worked, timedelta(0))
            day -= timedelta(days=1)
        return at - timedelta(minutes=minutes)  # a shop that never opens

    def between(self, start: datetime, end: datetime) -> float:
        """Return how many minutes of work lie between two moments.

        >>> Hours().between(datetime(2026, 11, 25, 17), datetime(2026, 11, 26, 9))
        90.0
        """
        total = timedelta(0)
        for opens, closes in self.openings(start):
            if opens >= end:
                break
            total += min(closes, end) - opens
        return total.total_seconds() / 60.0

    def longest_min(self) -> int:
        """Return the minutes of the longest stretch of the week without a break."""
        return _longest_min(self.week)

    def longer(self, day: date, minutes: int) -> "Hours":
        """Return the hours with a day open this much longer, up to midnight; a day that is closed
        stays closed.

        >>> Hours().longer(date(2026, 11, 25), 20).spans(date(2026, 11, 25))
        (Opening(opens=480, closes=1070),)
        """
        spans = self.spans(day)
        if not spans:
            return self
        last = Opening(spans[-1].opens, min(DAY_MIN, spans[-1].closes + minutes))
        others = tuple(one for one in self.special if one.day != day)
        return msgspec.structs.replace(
            self, special=(*others, SpecialDay(day, (*spans[:-1], last)))
        )


def joined(day: DayHours) -> tuple[Opening, ...]:
    """Return the stretches of a day in order; those that touch or overlap are one.

    >>> joined((Opening(600, 720), Opening(480, 600)))
    (Opening(opens=480, closes=720),)
    """
    spans = (day,) if isinstance(day, Opening) else day or ()
    result: list[Opening] = []
    for span in sorted((one for one in spans if one.opens < one.closes), key=lambda one: one.opens):
        if result and span.opens <= result[-1].closes:
            result[-1] = Opening(result[-1].opens, max(result[-1].closes, span.closes))
        else:
            result.append(span)
    return tuple(result)


def _times(day: date, span: Opening) -> tuple[datetime, datetime]:
    midnight = datetime.combine(day, time.min)
    return midnight + timedelta(minutes=span.opens), midnight + timedelta(minutes=span.closes)


@lru_cache(maxsize=64)
def _longest_min(week: tuple[DayHours, ...]) -> int:
    return max((span.closes - span.opens for day in week for span in joined(day)), default=0)
