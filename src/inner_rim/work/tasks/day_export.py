"""The day as it is planned, on paper and for a calendar."""

from __future__ import annotations

from datetime import datetime

from inner_rim.core.record.moments import in_words
from inner_rim.core.schedule.day import Placed
from inner_rim.documents.calendar_file import Appointment, appointments_ics
from inner_rim.documents.printed_page import Row, Sheet, to_pdf
from inner_rim.words import tr
from inner_rim.work.tasks.day_plan import Planned
from inner_rim.work.tasks.export import pages_of
from inner_rim.work.text.promise_words import promise_words
from inner_rim.work.text.schedule_words import gap_words, late_sentences, pin_words, ready_words

#: So many lines a warning takes.
LINES_A_WARNING = 3


def day_sheets(planned: Planned) -> list[Sheet]:
    """Return the day as pages: for each mechanic what is to be done when, with a box to tick; then when each wheel is ready."""
    day, found = planned.day, planned.found
    title = in_words(day.start, "%A %d %B %Y")
    made = tr("Day sheet, planned at {clock}").format(clock=in_words(day.start, "%H:%M"))
    warnings = (
        *pin_words(planned.faults),
        *late_sentences(day, planned.schedule, found.helps if found else {}),
    )
    rows = tuple(Row(tr("Note"), words, True) for words in warnings)
    pages = []
    for mechanic, one in enumerate(day.mechanics):
        lines = [
            _task_line(planned, placed) for placed in planned.schedule.placed if placed.mechanic == mechanic
        ]
        for part in pages_of(lines or [tr("Nothing to do")], LINES_A_WARNING * len(rows)):
            pages.append(Sheet(title, f"{one.name} · {made}", rows, ((one.name, tuple(part)),)))
            rows = ()
    promised = found.promises or {} if found is not None else {}
    ready = []
    for w, wheel in enumerate(day.wheels):
        said = promise_words(promised.get(wheel.key))
        due = tr("due {at}").format(at=in_words(wheel.due, "%a %H:%M")) if wheel.due is not None else ""
        words = ready_words(day, w, planned.schedule.done[w])
        ready.append(f"{wheel.name}: " + "; ".join(part for part in (words, said, due) if part))
    gap = gap_words(planned.schedule) if found is not None else ""
    pages += [Sheet(title, made, (), ((tr("Ready"), tuple(part)),), gap) for part in pages_of(ready)]
    return pages


def day_pdf(planned: Planned) -> bytes:
    """Return the day as a PDF; see `day_sheets`."""
    return to_pdf(day_sheets(planned)) or b""


def day_ics(planned: Planned, made_at: datetime) -> bytes:
    """Return the day's tasks as appointments on the shop's own clock.

    Args:
        planned: the day.
        made_at: with a time zone.
    """
    day = planned.day
    found = []
    for one in planned.schedule.placed:
        wheel = day.wheels[one.wheel]
        task = wheel.tasks[one.task]
        key = f"{wheel.key}/{task.action or one.task}".replace("/", ".")
        note = tr("{name}, {minutes} min").format(name=day.mechanics[one.mechanic].name, minutes=task.minutes)
        words = f"{wheel.name}: {task.words}"
        found.append(Appointment(key, day.at(one.start), day.at(one.end), words, note))
    return appointments_ics(found, made_at)


def _task_line(planned: Planned, placed: Placed) -> str:
    day = planned.day
    wheel = day.wheels[placed.wheel]
    begins, ends = (day.at(minute) for minute in (placed.start, placed.end))
    form = "%H:%M" if begins.date() == day.start.date() else "%a %H:%M"
    task = wheel.tasks[placed.task]
    line = f"[   ]  {in_words(begins, form)}–{in_words(ends, '%H:%M')}  {wheel.name}: {task.words}"
    if not task.wait_minutes:
        return line
    again = in_words(day.at(placed.end + task.wait_minutes), "%a %H:%M")
    return tr("{line} Then it waits until {at}.").format(line=line.rstrip(".") + ".", at=again)
