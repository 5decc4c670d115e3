"""The logbook's search over everything ever done, and the story of one wheel that is open."""

from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

from inner_rim.core.record.log import Correction
from inner_rim.store.codec import UnreadableRow
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.storage.files import write_saying
from inner_rim.work.text.log_words import entry_text
from inner_rim.work.text.papers import code_of


class Logbook:
    """What the search found and which wheel is open; the store answers when it can.

    Attributes:
        hits: what was found last.
        opened: (job, wheel) of the story, by their identities.
        story: that job with its whole log.
        unreadable: stored rows that cannot be read, listed where everything is asked for.
        asked: what the hits answer: words, kind and span in one text, empty for everything, None before the first answer.
        changed: called after every answer.
    """

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self.changed: Callable[[], None] = lambda: None
        self.hits: tuple[Hit, ...] = ()
        self.opened: WheelKey | None = None
        self.story: StoredJob | None = None
        self.name = ""
        self.asked: str | None = None
        self.unreadable: tuple[UnreadableRow, ...] = ()
        self._asked = 0

    def find(self, words: str, kinds: tuple[str, ...], days: int | None) -> None:
        """Ask for entries of some kinds and of the last days, or of all; a wheel's scanned code opens its story."""
        code = code_of(words)
        if code is not None:
            self.open_code(code)
            return
        self._asked += 1
        asked = self._asked
        since = ""
        if days is not None:
            since = (self._bench.time - timedelta(days=days)).isoformat(timespec="seconds")

        def arrived(hits: tuple[Hit, ...]) -> None:
            if asked == self._asked:  # not an older question's answer
                self.hits, self.asked = hits, f"{words.strip()}{''.join(kinds)}{since}"
                self.changed()

        worker = self._bench.worker
        if worker is None:
            arrived(self._in_memory(words, kinds, since))
            return
        worker.submit(lambda store: store.logbook.search(words, kinds, since), arrived)
        if not words.strip() and not kinds and self._bench.sync.unreadable:
            worker.submit(lambda store: store.logbook.unreadable(), self._found_unreadable)

    def _found_unreadable(self, rows: tuple[UnreadableRow, ...]) -> None:
        if rows != self.unreadable:
            self.unreadable = rows
            self.changed()

    def _in_memory(self, words: str, kinds: tuple[str, ...], since: str) -> tuple[Hit, ...]:
        """Search the bench alone, where nothing is stored."""
        asked = words.casefold().split()
        result = []
        for state in self._bench.wheels:
            for item in state.whole_log:
                text = f"{state.name} {entry_text(item.entry, self._bench.units)}".casefold()
                kind = str(getattr(type(item.entry).__struct_config__, "tag", ""))
                if all(word in text for word in asked) and (not kinds or kind in kinds) and item.at >= since:
                    result.append(Hit(state.job.job_id, state.name, item))
        return tuple(sorted(result, key=lambda hit: hit.item.at, reverse=True))

    def open_code(self, code: str) -> None:
        worker = self._bench.worker
        if worker is not None:
            worker.submit(
                lambda store: store.logbook.place_of_code(code),
                lambda result: self.open(*result) if result is not None else self._missing(),
            )
            return
        state = next((s for s in self._bench.wheels if s.wheel_id.lower() == code.lower()), None)
        if state is not None:
            self.open(*state.key)
        else:
            self._missing()

    def _missing(self) -> None:
        self._bench.say(tr("There is no such wheel in these data"))

    def open(self, job_id: str, wheel_id: str) -> None:
        def arrived(job: StoredJob | UnreadableRow | None) -> None:
            if isinstance(job, UnreadableRow):
                self._bench.say(tr("This job cannot be read ({why}); it is kept as it is.").format(why=job.why))
            elif job is None:
                self._missing()
            else:
                names = {wheel.get("wheel_id"): wheel.get("name") for wheel in job.document["wheels"]}
                self.opened, self.story = (job_id, wheel_id), job
                self.name = str(names.get(wheel_id) or "")
                self.changed()

        worker = self._bench.worker
        if worker is not None:
            worker.submit(lambda store: store.logbook.job(job_id), arrived)
            return
        job = next((job for job in self._bench.jobs if job.job_id == job_id), None)
        if job is None:
            arrived(None)
        else:
            arrived(StoredJob(job_id, job.draft.document, {}, job.revision, False, tuple(job.log)))

    def correct(self, number: int, text: str) -> bool:
        """Append a correction of an entry to its wheel's log, 0 for none; return whether that could be done."""
        if self.opened is None or not number:
            self._bench.say(tr("Choose the entry to correct first; an entry itself is never changed"))
            return False
        state = self._bench.wheel(self.opened)
        if state is None:
            self._bench.say(tr("Put the wheel onto the bench first"))
            return False
        self._bench.select(state.key)
        self._bench.recorder.record(Correction(of=number, text=text))
        self.open(*state.key)
        return True

    def write(self, path: Path) -> None:
        from inner_rim.work.tasks.log_table import hits_csv

        write_saying(path, lambda: hits_csv(self.hits, self._bench.units), self._bench.say)
