"""The books: the search over everything ever done with the story that is open, and what the log
says.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from inner_rim.core.record.job import Practice
from inner_rim.core.record.log import Correction
from inner_rim.core.record.resolved import LEARNED_FIGURES
from inner_rim.store.codec import UnreadableRow
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.event import Event
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.storage.files import write_saying
from inner_rim.work.tasks.findings import Value, methods_in_use
from inner_rim.work.text.log_words import entry_text
from inner_rim.work.text.papers import code_of
from inner_rim.work.text.shelf_lines import Mark, Topic

if TYPE_CHECKING:
    from inner_rim.core.learning.evidence import Visit


class Logbook:
    """What the search found and which wheel is open; the store answers when it can.

    Attributes:
        hits: what was found last.
        opened: (job, wheel) of the story, by their identities.
        story: that job with its whole log.
        unreadable: stored rows that cannot be read, listed where everything is asked for.
        asked: what the hits answer: words, kind and span in one text, empty for everything, None
            before the first answer.
        changed: called after every answer.
    """

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self.changed = Event[[]]()
        self.hits: tuple[Hit, ...] = ()
        self.opened: WheelKey | None = None
        self.story: StoredJob | None = None
        self.name = ""
        self.asked: str | None = None
        self.unreadable: tuple[UnreadableRow, ...] = ()
        self._asked = 0

    def find(self, words: str, kinds: tuple[str, ...], days: int | None) -> None:
        """Ask for entries of some kinds and of the last days, or of all; a wheel's scanned code
        opens its story.
        """
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
                self.changed.emit()

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
            self.changed.emit()

    def _in_memory(self, words: str, kinds: tuple[str, ...], since: str) -> tuple[Hit, ...]:
        """Search the bench alone, where nothing is stored."""
        asked = words.casefold().split()
        result = []
        for state in self._bench.wheels:
            for item in state.whole_log:
                text = f"{state.name} {entry_text(item.entry, self._bench.units)}".casefold()
                kind = str(getattr(type(item.entry).__struct_config__, "tag", ""))
                if (
                    all(word in text for word in asked)
                    and (not kinds or kind in kinds)
                    and item.at >= since
                ):
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
                self._bench.say(
                    tr("This job cannot be read ({why}); it is kept as it is.").format(why=job.why)
                )
            elif job is None:
                self._missing()
            else:
                names = {
                    wheel.get("wheel_id"): wheel.get("name") for wheel in job.document["wheels"]
                }
                self.opened, self.story = (job_id, wheel_id), job
                self.name = str(names.get(wheel_id) or "")
                self.changed.emit()

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
        """Append a correction of an entry to its wheel's log, 0 for none; return whether that could
        be done.
        """
        if self.opened is None or not number:
            self._bench.say(
                tr("Choose the entry to correct first; an entry itself is never changed")
            )
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
        from inner_rim.work.tasks.export import hits_csv

        write_saying(path, lambda: hits_csv(self.hits, self._bench.units), self._bench.say)


class InsightBook:
    """The topics as they were read last, and the mark that is open.

    Attributes:
        topics: what the log says; None before it was read.
        opened: (topic, place of the mark) that is open.
        changed: called after every answer.
    """

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self.changed = Event[[]]()
        self.topics: tuple[Topic, ...] | None = None
        self.opened: tuple[str, int] = ("", 0)
        self._names: dict[WheelKey, str] = {}

    def read(self) -> None:
        bench = self._bench
        worker, practice = bench.worker, bench.shop_methods.shop.practice
        if worker is None:
            return

        def count(result: dict[str, list[Visit]]) -> None:
            worker.submit(
                lambda store: topics_from(result, bench.time, practice),
                lambda topics: self.adopt(result, topics),
            )

        bench.shop_methods.read_visits(worker, count)

    def adopt(self, visits: dict[str, list[Visit]], topics: tuple[Topic, ...]) -> None:
        self._names = {visit.key: visit.name for one in visits.values() for visit in one}
        self.topics = topics
        self.changed.emit()

    def name_of(self, key: WheelKey) -> str:
        return self._names.get(key) or tr("Wheel")

    def open(self, code: str, place: int) -> None:
        self.opened = (code, place)
        self.changed.emit()

    @property
    def mark(self) -> Mark | None:
        topic, place = self.topic, self.opened[1]
        return topic.marks[place] if topic is not None and place < len(topic.marks) else None

    @property
    def topic(self) -> Topic | None:
        return next((topic for topic in self.topics or () if topic.code == self.opened[0]), None)

    @property
    def unused_figures(self) -> frozenset[str]:
        return self._bench.shop_methods.unused_figures

    @property
    def counts(self) -> bool | None:
        """Whether the learned figure that is open counts; None where another mark is open."""
        code = self.opened[0]
        return code not in self.unused_figures if code in LEARNED_FIGURES else None

    @property
    def in_use(self) -> dict[str, Value]:
        return methods_in_use(self._bench.shop_methods.shop.practice)

    def turn(self) -> None:
        """Make the way that is open the shop's method; let the learned figure that is open count,
        or leave it aside.
        """
        mark = self.mark
        if mark is not None and mark.sets is not None:
            field, way = mark.sets
            self._bench.shop_methods.set(f"practice.{field}", way)
            self._bench.say(tr("Now the shop's method: {name}").format(name=mark.name))
            self.changed.emit()
            return
        counts = self._bench.shop_methods.turn_learning([self.opened[0]])
        self._bench.say(
            tr("Used in plans") if counts else tr("Not used: plans use the usual figure")
        )
        self.changed.emit()

    def write(self, path: Path) -> None:
        from inner_rim.work.tasks.insights import insights_csv

        write_saying(path, lambda: insights_csv(self.topics or (), self.name_of), self._bench.say)


def topics_from(
    visits: dict[str, list[Visit]], now: datetime, practice: Practice | None
) -> tuple[Topic, ...]:
    """Return what the visits say; NumPy is imported here, so never on the window's thread."""
    from inner_rim.work.tasks.insights import topics_of
    from inner_rim.work.tasks.learning import ShopLearning

    return topics_of(visits, ShopLearning(visits), now, practice)
