"""Moments and days: ISO 8601 text in UTC to a person's own clock, at any year a calendar has."""

from datetime import UTC, date, datetime, timedelta

from inner_rim.words import N_, tr

# fmt: off
DAYS = (N_("Monday"), N_("Tuesday"), N_("Wednesday"), N_("Thursday"), N_("Friday"), N_("Saturday"), N_("Sunday"))
SHORT_DAYS = (N_("Mon"), N_("Tue"), N_("Wed"), N_("Thu"), N_("Fri"), N_("Sat"), N_("Sun"))
_MONTHS = (
    N_("January"), N_("February"), N_("March"), N_("April"), N_("May"), N_("June"), N_("July"), N_("August"),
    N_("September"), N_("October"), N_("November"), N_("December"),
)
_SHORT_MONTHS = (
    N_("Jan"), N_("Feb"), N_("Mar"), N_("Apr"), N_("May"), N_("Jun"), N_("Jul"), N_("Aug"), N_("Sep"), N_("Oct"), N_("Nov"),
    N_("Dec"),
)
#: Patterns that a language may write in another order.
PATTERNS = (
    N_("%d %b"), N_("%d %b %y"), N_("%d %b %Y"), N_("%d %b %H:%M"), N_("%d %b %Y %H:%M"), N_("%a %d %b"),
    N_("%a %d %b %Y"), N_("%a %d %b %H:%M"), N_("%A %d %B %Y"),
)
# fmt: on


def moment(text: str) -> datetime:
    """Return a stored moment, aware of its zone; one without a zone is in UTC.

    >>> moment("2026-11-24T10:00:00").isoformat()
    '2026-11-24T10:00:00+00:00'

    Raises:
        ValueError: not ISO 8601.
    """
    result = datetime.fromisoformat(text)
    return result if result.tzinfo is not None else result.replace(tzinfo=UTC)


def local(when: datetime) -> datetime:
    """Return a moment by the clock of this machine; at the ends of the calendar, where the zone
    cannot be applied, as it is.

    >>> local(datetime(1, 1, 1, tzinfo=UTC)).year in (0, 1)
    True
    """
    try:
        return when.astimezone()
    except (OverflowError, ValueError, OSError):
        return when


def naive_local(when: datetime) -> datetime:
    """Return a moment by the clock of this machine without its zone; one without a zone is local
    already.

    >>> naive_local(datetime(2026, 11, 26, 16)).isoformat()
    '2026-11-26T16:00:00'
    """
    return local(when).replace(tzinfo=None) if when.tzinfo is not None else when


def after(when: datetime, step: timedelta) -> datetime:
    """Return a moment later or earlier than another, the calendar's last or first where it would
    lie beyond.

    >>> after(datetime(9999, 12, 30), timedelta(days=5)).year
    9999
    """
    try:
        return when + step
    except OverflowError:
        end = datetime.max if step > timedelta(0) else datetime.min
        return end.replace(tzinfo=when.tzinfo)


def day_after(day: date, days: int) -> date:
    """Return the day this many days later, at most the calendar's last."""
    try:
        return day + timedelta(days=days)
    except OverflowError:
        return date.max


def in_words(when: date, pattern: str) -> str:
    """Return a moment in words; where the platform cannot, as ISO 8601.

    Args:
        pattern: for `strftime`, one of `PATTERNS` or a day and a clock.

    >>> in_words(datetime(2026, 11, 26, 16), "%d %b %H:%M")
    '26 Nov 16:00'
    """
    try:
        names = {
            "%A": DAYS[when.weekday()],
            "%a": SHORT_DAYS[when.weekday()],
            "%B": _MONTHS[when.month - 1],
            "%b": _SHORT_MONTHS[when.month - 1],
        }
        pattern = tr(pattern)
        for code, name in names.items():
            if code in pattern:
                pattern = pattern.replace(code, tr(name))
        return when.strftime(pattern)
    except (ValueError, OverflowError):
        return when.isoformat()
