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


class Appointment(msgspec.Struct, frozen=True):
    """Something with a time: a key that stays the same, from when to when without a zone, what it is, and more about it."""

    key: str
    begins: datetime
    ends: datetime
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


def appointments_ics(found: Iterable[Appointment], made_at: datetime) -> bytes:
    """Return appointments as a calendar file, in floating time (RFC 5545, 3.3.5): the clock on the wall, wherever it is read.

    Args:
        found: the appointments; a newer file with the same keys replaces the older one's.
        made_at: with a time zone; stands as DTSTAMP.
    """
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Inner Rim//day//EN")
    calendar.add("version", "2.0")
    for one in found:
        event = Event()
        event.add("uid", f"{one.key}@inner-rim")
        event.add("dtstamp", made_at)
        event.add("dtstart", one.begins)
        event.add("dtend", one.ends)
        event.add("summary", one.words)
        if one.note:
            event.add("description", one.note)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
