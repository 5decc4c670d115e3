"""How long a wheel still waits, and until when, in words."""

import math
from datetime import datetime

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.moments import in_words, local, moment, naive_local
from inner_rim.core.schedule.hours import Hours
from inner_rim.words import tr


def minutes_left(progress: Progress, now: datetime) -> float:
    """Return how long the wait after the last step still is; nought where there is none."""
    if not progress.waiting.until:
        return 0.0
    return max(0.0, (moment(progress.waiting.until) - now).total_seconds() / 60.0)


def next_reading(progress: Progress, hours: Hours | None) -> datetime | None:
    """Return when to read a standing wheel again, on the shop's own clock: never while the shop is closed."""
    if not progress.holding.next_reading_at:
        return None
    at = naive_local(moment(progress.holding.next_reading_at))
    return hours.next_open(at) if hours is not None else at


def wait_text(progress: Progress, minutes: float) -> str:
    """Return until when to wait, by the clock on the wall, and how long that is."""
    until = local(moment(progress.waiting.until))
    span = (
        tr("{hours:.0f} h {minutes:.0f} min").format(hours=minutes // 60, minutes=minutes % 60)
        if minutes >= 60.0
        else tr("{minutes:.0f} min").format(minutes=math.ceil(minutes))
    )
    return tr("until {clock} · {span} left").format(clock=in_words(until, "%H:%M"), span=span)
