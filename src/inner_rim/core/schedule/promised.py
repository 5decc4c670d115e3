"""What is promised to a customer, and how the shop has kept it."""

from collections.abc import Iterable, Sequence
from datetime import datetime

import msgspec

from inner_rim.core.record.job import parse_due
from inner_rim.core.record.log import Logged, Promised, SignOff
from inner_rim.core.record.moments import moment, naive_local


class Promise(msgspec.Struct, frozen=True):
    """When a wheel can be promised, and when it may be ready at the earliest."""

    sure: datetime
    early: datetime


class PromiseStats(msgspec.Struct, frozen=True):
    """How many promises were kept, of those whose time has come."""

    kept: int = 0
    given: int = 0


def promise_stats(logs: Iterable[Sequence[Logged]], now: datetime) -> PromiseStats:
    """Return how promises were kept.

    A promise is kept where the wheel was handed over by then. Of several for one visit the first one counts; one whose
    time has not come does not count yet.
    """
    kept = given = 0
    for log in logs:
        due: datetime | None = None
        for item in log:
            if isinstance(item.entry, Promised) and due is None:
                due = _clock(item.entry.due)
            elif isinstance(item.entry, SignOff) and due is not None:
                kept += naive_local(moment(item.at)) <= due
                given += 1
                due = None
        given += due is not None and due < now
    return PromiseStats(kept, given)


def _clock(text: str) -> datetime | None:
    due = parse_due(text)
    return naive_local(due) if due is not None else None
