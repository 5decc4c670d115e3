"""The day on paper and for a calendar, read back with other programs' libraries."""

import io
from datetime import UTC, datetime, timedelta

import icalendar
import pypdf

from inner_rim.core.schedule.day import Day, Mechanic, Pin, Task, Wheel
from inner_rim.core.schedule.listing import list_schedule
from inner_rim.work.tasks.day_export import day_ics, day_pdf
from inner_rim.work.tasks.day_plan import Planned

START = datetime(2026, 11, 25, 8)


def planned(count, pins=()):
    tasks = (
        Task(
            "Lay 31 mm tape under tension, edges on the shoulders first; overlap two spokes",
            20,
            30,
            action="t",
        ),
        Task("Mount the tire, finish at the valve", 15, 12 * 60, action="m"),
        Task("Set the pressure", 5, action="s"),
    )
    wheels = tuple(
        Wheel(f"Ferry crate {n}", tasks, START + timedelta(hours=9), key=f"job/{n}") for n in range(count)
    )
    if pins:
        wheels = (Wheel("Tern", tasks, None, None, pins, "job/tern"), *wheels)
    day = Day(START, wheels, (Mechanic("M Osier"), Mechanic("R Sedge")))
    schedule = list_schedule(day)
    return Planned(day, (), schedule, None, False, "", ("Tern, Mount: pinned",) if pins else ())


def test_the_day_sheet_has_every_task_once_by_its_mechanic_and_when_each_wheel_is_ready():
    plan = planned(20, (Pin(0, START, 1),))
    pages = [page.extract_text() for page in pypdf.PdfReader(io.BytesIO(day_pdf(plan))).pages]
    text = " ".join(" ".join(pages).split())
    assert text.count("[ ]") == len(plan.schedule.placed) == 63
    for n in range(20):
        assert text.count(f"Ferry crate {n}: ") >= 4  # three tasks, and when it is ready
    assert "The pinned tasks cannot all stay: Tern, Mount: pinned" in text
    assert text.count("15 h 50 min late") >= 3 and "due Wed 17:00" in text and "…" not in text
    own = [page for page in pages if "R Sedge ·" in page]
    assert own and "08:00–08:20 Tern: Lay 31 mm tape" in " ".join(own[0].split())
    assert "Then it waits until Wed 08:50." in " ".join(own[0].split())


def test_the_calendar_has_every_task_on_the_shop_s_clock_and_a_new_one_replaces_it():
    plan = planned(2)
    made = datetime(2026, 11, 25, 7, tzinfo=UTC)
    events = icalendar.Calendar.from_ical(day_ics(plan, made)).walk("VEVENT")
    assert len(events) == 6 and len({str(event["uid"]) for event in events}) == 6
    begins = sorted(event.decoded("dtstart") for event in events)
    assert begins == sorted(plan.day.at(one.start) for one in plan.schedule.placed)
    assert all(when.tzinfo is None for when in begins)  # the clock on the wall
    assert {str(event["summary"]).partition(":")[0] for event in events} == {"Ferry crate 0", "Ferry crate 1"}
    again = icalendar.Calendar.from_ical(day_ics(planned(2, (Pin(0, START),)), made)).walk("VEVENT")
    assert {str(event["uid"]) for event in events} < {str(event["uid"]) for event in again}
