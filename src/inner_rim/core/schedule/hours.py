"""Opening hours: when hands work. All times are the shop's own clock, without a zone."""

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from typing import Annotated

import msgspec
from msgspec import Meta

#: Minutes of a day.
DAY_MIN = 24 * 60
#: No shop is closed for longer; after it, it counts as open, so that a schedule always ends.
MOST_DAYS_CLOSED = 400

Minute = Annotated[int, Meta(ge=0, le=DAY_MIN)]


class Opening(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """From when to when hands work on a day, in minutes after midnight."""

    opens: Minute
    closes: Minute


class Hours(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """When hands work.

    Attributes:
        week: Monday to Sunday; None for a day that is closed.
        days_off: days on which nobody works.
    """

    week: tuple[
        Opening | None, Opening | None, Opening | None, Opening | None, Opening | None, Opening | None,
        Opening | None,
    ] = (*(Opening(480, 1050),) * 5, Opening(540, 780), None)  # fmt: skip
    days_off: tuple[date, ...] = ()

    def opening(self, day: date) -> tuple[datetime, datetime] | None:
        """Return when a day opens and closes, None where it is closed all day."""
        found = self.week[day.weekday()]
        if found is None or found.closes <= found.opens or day in self.days_off:
            return None
        midnight = datetime.combine(day, time.min)
        return midnight + timedelta(minutes=found.opens), midnight + timedelta(minutes=found.closes)

    def openings(self, start: datetime) -> Iterator[tuple[datetime, datetime]]:
        """Return the stretches in which hands work from a moment on, the first one cut where it has begun."""
        closed = 0
        day = start.date()
        while True:
            found = self.opening(day)
            if found is None and closed >= MOST_DAYS_CLOSED:
                midnight = datetime.combine(day, time.min)
                found = midnight, midnight + timedelta(days=1)
            if found is not None and found[1] > start:
                closed = 0
                yield max(found[0], start), found[1]
            closed += 1
            day += timedelta(days=1)

    def is_open(self, at: datetime) -> bool:
        """Whether hands work at a moment.

        >>> Hours().is_open(datetime(2026, 11, 25, 9)), Hours().is_open(datetime(2026, 11, 25, 18))
        (True, False)
        """
        found = self.opening(at.date())
        return found is not None and found[0] <= at < found[1]

    def next_open(self, at: datetime) -> datetime:
        """Return the first moment from then on at which hands work.

        >>> Hours().next_open(datetime(2026, 11, 28, 20)).isoformat()
        '2026-11-30T08:00:00'
        """
        return next(self.openings(at))[0]

    def forward(self, at: datetime, minutes: float) -> datetime:
        """Return the moment at which so many minutes of work, begun then, are done.

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
        """Return the moment from which so many minutes of work lie before another.

        >>> Hours().back(datetime(2026, 11, 26, 8, 30), 60.0).isoformat()
        '2026-11-25T17:00:00'
        """
        left = timedelta(minutes=minutes)
        day, closed = at.date(), 0
        while closed <= MOST_DAYS_CLOSED:
            found = self.opening(day)
            closed = closed + 1 if found is None else 0
            if found is not None and found[0] < at:
                closes = min(found[1], at)
                if closes - found[0] >= left:
                    return closes - left
                left -= closes - found[0]
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
