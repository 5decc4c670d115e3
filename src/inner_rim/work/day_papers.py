"""The papers of the day: the bench cards of all wheels, the day sheet, the calendar."""

from collections.abc import Callable
from pathlib import Path

from inner_rim.work.bench import Bench
from inner_rim.work.editing.stock_use import in_scope, pick_list_of
from inner_rim.work.storage.files import write_saying
from inner_rim.work.tasks.day_plan import Planned
from inner_rim.work.text.shelf_lines import pick_lines


class DayPapers:
    """Writes the papers of the day; each says what became of it."""

    def __init__(self, bench: Bench) -> None:
        self._bench = bench

    @property
    def count(self) -> int:
        return len(self._bench.wheels)

    def cards(self) -> Callable[[Callable[[int], bool]], bytes | None]:
        """Return a function that makes the bench cards of all wheels as they are now, in any thread.

        It takes a progress callback, called with the number done, which stops it by returning False; it then returns
        None.
        """
        from inner_rim.work.tasks.export import cards_pdf

        wheels, units = tuple(self._bench.wheels), self._bench.units
        return lambda on_progress: cards_pdf(wheels, units, on_progress)

    def keep(self, path: Path, data: bytes | None) -> bool:
        return write_saying(path, lambda: data, self._bench.say)

    def sheet(self, planned: Planned) -> bytes:
        from inner_rim.work.tasks.day_export import day_pdf

        bench = self._bench
        picks = pick_lines(pick_list_of(in_scope(bench.wheels, None, "bench"), bench.shelf.items), bench.units)
        take = [f"{one.lead} {one.title}: {one.right} {one.chip}".strip() for one in picks if one.tone != "head"]
        return day_pdf(planned, take)

    def write_sheet(self, path: Path, planned: Planned) -> bool:
        return write_saying(path, lambda: self.sheet(planned), self._bench.say)

    def write_calendar(self, path: Path, planned: Planned) -> bool:
        """Write the day's tasks as a calendar file; return whether it was written."""
        from inner_rim.work.tasks.day_export import day_ics

        return write_saying(path, lambda: day_ics(planned, self._bench.time), self._bench.say)
