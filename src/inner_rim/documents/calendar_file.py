"""Dates of a wheel as a calendar file (RFC 5545, by icalendar)."""

from collections.abc import Iterable
from datetime import date, datetime, timedelta

import msgspec


class DueDate(msgspec.Struct, frozen=True):
    """A day on which something is due: a key that stays the same, the day, what it is, and more about it."""

    key: str
    day: date
    words: str
    note: str = ""


def to_ics(dates: Iterable[DueDate], made_at: datetime) -> bytes:
    """Return days as a calendar file; a newer file with the same keys replaces the older one's days.

    Args:
        dates: the days.
        made_at: with a time zone; stands as DTSTAMP and, in minutes, as SEQUENCE.
    """
    from icalendar import Alarm, Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Inner Rim//wheel dates//EN")
    calendar.add("version", "2.0")
    for due in dates:
        event = Event()
        event.add("uid", f"{due.key}@inner-rim")
        event.add("dtstamp", made_at)
        event.add("dtstart", due.day)
        event.add("dtend", due.day + timedelta(days=1))
        event.add("summary", due.words)
        if due.note:
            event.add("description", due.note)
        event.add("transp", "TRANSPARENT")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", due.words)
        alarm.add("trigger", timedelta(hours=9))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
