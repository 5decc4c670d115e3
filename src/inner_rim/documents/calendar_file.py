"""Dates of a wheel as a calendar file (RFC 5545, by icalendar)."""

from collections.abc import Iterable
from datetime import date, datetime, timedelta
from typing import TYPE_CHECKING

import msgspec

if TYPE_CHECKING:
    from icalendar import Calendar, Event


class DueDate(msgspec.Struct, frozen=True):
    """A day on which something is due: a key that stays the same, the day, what it is, and more
    about it.
    """

    key: str
    day: date
    words: str
    note: str = ""


class Appointment(msgspec.Struct, frozen=True):
    """Something with a time: a key that stays the same, from when to when without a zone, what it
    is, and more about it.
    """

    key: str
    begins: datetime
    ends: datetime
    words: str
    note: str = ""


def to_ics(dates: Iterable[DueDate], made_at: datetime) -> bytes:
    """Return days as a calendar file; a newer file with the same keys replaces the older one's
    days.

    Args:
        made_at: with a time zone; becomes DTSTAMP.
    """
    from icalendar import Alarm

    calendar = _calendar("wheel dates")
    for due in dates:
        event = _event(
            due.key, due.words, due.note, made_at, (due.day, due.day + timedelta(days=1))
        )
        event.add("transp", "TRANSPARENT")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", due.words)
        alarm.add("trigger", timedelta(hours=9))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def appointments_ics(appointments: Iterable[Appointment], made_at: datetime) -> bytes:
    """Return appointments as a calendar file, in floating time (RFC 5545, 3.3.5): local time
    wherever it is read.

    Args:
        appointments: the appointments; a newer file with the same keys replaces the older one's.
        made_at: with a time zone; becomes DTSTAMP.
    """
    calendar = _calendar("day")
    for one in appointments:
        calendar.add_component(
            _event(one.key, one.words, one.note, made_at, (one.begins, one.ends))
        )
    return bytes(calendar.to_ical())


def _calendar(what: str) -> "Calendar":
    from icalendar import Calendar

    calendar = Calendar()
    calendar.add("prodid", f"-//Inner Rim//{what}//EN")
    calendar.add("version", "2.0")
    return calendar


def _event(key: str, words: str, note: str, made_at: datetime, span: tuple[date, date]) -> "Event":
    """An event from its beginning to its end, days or times."""
    from icalendar import Event

    event = Event()
    event.add("uid", f"{key}@inner-rim")
    event.add("dtstamp", made_at)
    event.add("dtstart", span[0])
    event.add("dtend", span[1])
    event.add("summary", words)
    if note:
        event.add("description", note)
    return event
