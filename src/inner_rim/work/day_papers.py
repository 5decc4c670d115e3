"""The papers of the day: the bench cards of all wheels, the day sheet, the calendar."""

from collections.abc import Callable
from pathlib import Path

from inner_rim.core.record.errors import InputError
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.storage.files import write_whole
from inner_rim.work.tasks.day_plan import Planned


class DayPapers:
    """Writes the papers of the day; each says what became of it."""

    def __init__(self, bench: Bench) -> None:
        self._bench = bench

    @property
    def count(self) -> int:
        """How many wheels there are cards for."""
        return len(self._bench.wheels)

    def cards(self, path: Path, on_progress: Callable[[int], bool]) -> bool:
        """Write the bench card of every wheel into one file; return whether it was written.

        Args:
            path: the file.
            on_progress: hears how many are done; False stops it.
        """
        from inner_rim.work.tasks.export import cards_pdf

        return self._write(path, lambda: cards_pdf(self._bench.wheels, self._bench.units, on_progress))

    def sheet(self, planned: Planned) -> bytes:
        """Return the day sheet as a PDF."""
        from inner_rim.work.tasks.day_export import day_pdf

        return day_pdf(planned)

    def write_sheet(self, path: Path, planned: Planned) -> bool:
        """Write the day sheet; return whether it was written."""
        return self._write(path, lambda: self.sheet(planned))

    def write_calendar(self, path: Path, planned: Planned) -> bool:
        """Write the day's tasks as a calendar file; return whether it was written."""
        from inner_rim.work.tasks.day_export import day_ics

        return self._write(path, lambda: day_ics(planned, self._bench.time))

    def _write(self, path: Path, make: Callable[[], bytes | None]) -> bool:
        try:
            data = make()
            if data is None:
                self._bench.say(tr("Stopped: nothing was written"))
                return False
            write_whole(path, data)
        except InputError as fault:
            self._bench.say(fault.sentence)
            return False
        self._bench.say(tr("Written: {file}").format(file=path.name))
        return True
