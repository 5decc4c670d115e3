"""The day on paper and for a calendar, read back with other programs' libraries."""

import io
from datetime import UTC, datetime, timedelta

import icalendar
import pypdf

from inner_rim.core.schedule.day import Broken, Day, DayWheel, Mechanic, Pin, Task
from inner_rim.core.schedule.listing import list_schedule
from inner_rim.work.day_papers import day_ics, day_pdf
from inner_rim.work.tasks.day_plan import Planned

START = datetime(2026, 11, 25, 8)


def planned(count, pins=()):
    tasks = (
        Task(
            "Lay 31 mm tape under tension, edges on the shoulders first; overlap two spokes",
            20,
            30,
            stage="tape",
            action="t",
        ),
        Task("Mount the tire, finish at the valve", 15, 12 * 60, stage="mount", action="m"),
        Task("Set the pressure", 5, stage="set", action="s"),
    )
    wheels = tuple(
        DayWheel(f"Ferry crate {n}", tasks, START + timedelta(hours=9), key=f"job/{n}")
        for n in range(count)
    )
    if pins:
        wheels = (DayWheel("Tern", tasks, None, None, pins, "job/tern"), *wheels)
    day = Day(START, wheels, (Mechanic("M Osier"), Mechanic("R Sedge")))
    schedule = list_schedule(day)
    return Planned(
        day, (), schedule, None, False, "", (Broken("pin", "Tern", "Mount"),) if pins else ()
    )


def test_the_day_sheet_has_every_visit_to_a_wheel_by_its_mechanic_and_when_each_is_ready():
    plan = planned(20, (Pin(0, START, 1),))
    pages = [page.extract_text() for page in pypdf.PdfReader(io.BytesIO(day_pdf(plan))).pages]
    text = " ".join(" ".join(pages).split())
    # tape and mount are one visit where the wait between them is short
    assert 42 <= text.count("[ ]") <= len(plan.schedule.placed) == 63
    for n in range(20):
        assert text.count(f"Ferry crate {n} ") >= 3  # two visits, and when it is ready
    assert "The pinned tasks cannot all stay: Tern, Mount: pinned, and was moved" in text
    assert text.count("15 h 50 min late") >= 3 and "due Wed 17:00" in text and "…" not in text
    second = text[text.index("R Sedge") :]
    assert "[ ] now Tern " in second and "Then it waits until " in second


def test_a_day_of_eight_wheels_is_one_page_with_what_to_take():
    take = [f"Tape {width} mm: 2.0 m" for width in range(21, 33)]
    reader = pypdf.PdfReader(io.BytesIO(day_pdf(planned(8), take)))
    assert len(reader.pages) == 1
    text = " ".join(reader.pages[0].extract_text().split())
    assert all(line in text for line in take) and "To take from the shelf" in text


def test_the_calendar_has_every_visit_on_the_shop_s_clock_and_a_new_one_replaces_it():
    plan = planned(2)
    made = datetime(2026, 11, 25, 7, tzinfo=UTC)
    events = icalendar.Calendar.from_ical(day_ics(plan, made)).walk("VEVENT")
    # the wait between tape and mount is short: one visit a wheel today, one tomorrow
    assert len(events) == 4 and len({str(event["uid"]) for event in events}) == 4
    begins = sorted(event.decoded("dtstart") for event in events)
    assert set(begins) == {plan.day.at(one.start) for one in plan.schedule.placed if one.task != 1}
    hands = [event.decoded("dtend") - event.decoded("dtstart") for event in events]
    assert sum(hands, timedelta()) == timedelta(minutes=2 * (20 + 15 + 5))
    assert all(when.tzinfo is None for when in begins)  # the clock on the wall
    assert {str(event["summary"]).partition(":")[0] for event in events} == {
        "Ferry crate 0",
        "Ferry crate 1",
    }
    again = icalendar.Calendar.from_ical(day_ics(planned(2, (Pin(0, START),)), made)).walk("VEVENT")
    assert {str(event["uid"]) for event in events} < {str(event["uid"]) for event in again}
