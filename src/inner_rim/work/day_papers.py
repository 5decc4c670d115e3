"""The papers of the day: the bench cards of all wheels, the day sheet, the calendar."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path

from inner_rim.core.record.moments import in_words
from inner_rim.documents.calendar_file import Appointment, appointments_ics
from inner_rim.documents.printed_page import DayPaper, PaperAction, day_page_pdf
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.shelf import in_scope, pick_list_of
from inner_rim.work.storage.files import write_saying
from inner_rim.work.tasks.day_plan import Planned
from inner_rim.work.text.board import hands_of, visit_words, visits_of
from inner_rim.work.text.schedule_words import late_sentences, pin_words, ready_words
from inner_rim.work.text.shelf_lines import pick_lines
from inner_rim.work.text.waits import promise_words


class DayPapers:
    """Writes the papers of the day; each says what became of it."""

    def __init__(self, bench: Bench) -> None:
        self._bench = bench

    @property
    def count(self) -> int:
        return len(self._bench.wheels)

    def cards(self) -> Callable[[Callable[[int], bool]], bytes | None]:
        """Return a function that makes the bench cards of all wheels as they are now, in any
        thread.

        It takes a progress callback, called with the number done, which stops it by returning
        False; it then returns None.
        """
        from inner_rim.work.tasks.export import cards_pdf

        wheels, units = tuple(self._bench.wheels), self._bench.units
        return lambda on_progress: cards_pdf(wheels, units, on_progress)

    def keep(self, path: Path, data: bytes | None) -> bool:
        return write_saying(path, lambda: data, self._bench.say)

    def sheet(self, planned: Planned) -> bytes:
        bench = self._bench
        picks = pick_lines(
            pick_list_of(in_scope(bench.wheels, None, "bench"), bench.shelf.items), bench.units
        )
        take = [
            f"{one.lead} {one.title}: {one.right} {one.chip}".strip()
            for one in picks
            if one.tone != "head"
        ]
        return day_pdf(planned, take)

    def write_sheet(self, path: Path, planned: Planned) -> bool:
        return write_saying(path, lambda: self.sheet(planned), self._bench.say)

    def write_calendar(self, path: Path, planned: Planned) -> bool:
        """Write the day's tasks as a calendar file; return whether it was written."""
        return write_saying(path, lambda: day_ics(planned, self._bench.time), self._bench.say)


def day_paper(planned: Planned, take: Sequence[str] = ()) -> DayPaper:
    """Return the day as it is printed: each mechanic's actions, when each wheel is ready, what to
    take.
    """
    day, result = planned.day, planned.found
    helps = result.helps if result is not None else {}
    promised = result.promises or {} if result is not None else {}
    ready = []
    for w, wheel in enumerate(day.wheels):
        said = promise_words(promised.get(wheel.key))
        due = (
            tr("due {at}").format(at=in_words(wheel.due, "%a %H:%M"))
            if wheel.due is not None
            else ""
        )
        words = ready_words(day, w, planned.schedule.done[w])
        ready.append((wheel.name, "; ".join(part for part in (words, due, said) if part)))
    return DayPaper(
        title=in_words(day.start, "%A %d %B %Y"),
        made=tr("Day sheet, planned at {clock}").format(clock=in_words(day.start, "%H:%M")),
        notes=(
            *pin_words(planned.day, planned.faults),
            *late_sentences(day, planned.schedule, helps),
        ),
        hands=tuple(
            (
                hands.name,
                tuple(
                    PaperAction(one.at, one.name, one.words, _then(one.until))
                    for one in hands.actions
                ),
            )
            for hands in hands_of(day, planned.schedule, most=None)
        ),
        ready=tuple(ready),
        take=tuple(take),
    )


def _then(until: str) -> str:
    return tr("Then it waits until {at}.").format(at=until) if until else ""


def day_pdf(planned: Planned, take: Sequence[str] = ()) -> bytes:
    return day_page_pdf(day_paper(planned, take))


def day_ics(planned: Planned, made_at: datetime) -> bytes:
    """Return the day's visits to wheels as appointments on the shop's own clock."""
    day = planned.day
    result = []
    for m, mechanic in enumerate(day.mechanics):
        for visit in visits_of(day, planned.schedule, m):
            first, minutes = visit[0], sum(one.end - one.start for one in visit)
            wheel = day.wheels[first.wheel]
            key = f"{wheel.key}/{wheel.tasks[first.task].action or first.task}".replace("/", ".")
            note = tr("{name}, {minutes} min").format(name=mechanic.name, minutes=minutes)
            words = f"{wheel.name}: {visit_words(day, visit)}"
            result.append(
                Appointment(key, day.at(first.start), day.at(first.start + minutes), words, note)
            )
    return appointments_ics(result, made_at)
