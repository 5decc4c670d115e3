"""How long a wheel still waits, and until when, in words."""

import math
from datetime import datetime

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.job import Waits, parse_due
from inner_rim.core.record.moments import in_words, local, moment, naive_local
from inner_rim.core.schedule.hours import Hours
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel


def minutes_left(progress: Progress, now: datetime) -> float:
    """Return how long the wait after the last step still is; zero where there is none."""
    if not progress.waiting.until:
        return 0.0
    return max(0.0, (moment(progress.waiting.until) - now).total_seconds() / 60.0)


def topped_up(state: PlannedWheel) -> bool:
    """Whether a tire that weeps was brought back to its pressure: a reading now is what the next compares with."""
    step = state.progress.step
    return step is not None and step.code in ("hold.top_up", "hold.read") and state.plan.log.state.top_ups > 0


def next_reading(progress: Progress, hours: Hours | None) -> datetime | None:
    """Return when to read the gauge again, on the shop's own clock: never while the shop is closed."""
    if not progress.holding.next_reading_at:
        return None
    at = naive_local(moment(progress.holding.next_reading_at))
    return hours.next_open(at) if hours is not None else at


def wanted_until(progress: Progress) -> datetime | None:
    """Return until when nothing can be done at a wheel: a wait, or the reading that will decide; None for at once."""
    ends = [moment(at) for at in (progress.waiting.until, progress.holding.next_reading_at) if at]
    return naive_local(max(ends)) if ends else None


def expected(waits: Waits | None) -> datetime | None:
    at = parse_due(waits.until) if waits is not None and waits.on is not None and waits.until else None
    return naive_local(at) if at is not None else None


def waits_of(state: BenchWheel) -> str:
    """Return what a wheel waits for, empty for nothing."""
    return waits_words(state.waits) if isinstance(state, PlannedWheel) else ""


def waits_words(waits: Waits | None) -> str:
    """Return what is waited for, empty for nothing.

    >>> waits_words(Waits("part", "60 mm valve", "2026-12-03"))
    'Waits for a part, expected Thu 03 Dec: 60 mm valve'
    """
    if waits is None or waits.on is None:
        return ""
    words = tr("Waits for the customer") if waits.on == "customer" else tr("Waits for a part")
    at = expected(waits)
    if at is not None:
        words = tr("{waits}, expected {day}").format(waits=words, day=in_words(at, "%a %d %b"))
    return f"{words}: {waits.what}" if waits.what else words


def wait_text(progress: Progress, minutes: float) -> str:
    """Return until when to wait, by the shop's clock, and how long that is."""
    until = local(moment(progress.waiting.until))
    span = (
        tr("{hours:.0f} h {minutes:.0f} min").format(hours=minutes // 60, minutes=minutes % 60)
        if minutes >= 60.0
        else tr("{minutes:.0f} min").format(minutes=math.ceil(minutes))
    )
    return tr("until {clock} · {span} left").format(clock=in_words(until, "%H:%M"), span=span)
