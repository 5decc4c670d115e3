"""What the log says, read for the page that shows it; the store answers when it can."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from inner_rim.core.record.resolved import LEARNED_FIGURES
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.storage.files import write_saying
from inner_rim.work.text.insight_lines import Mark, Topic

if TYPE_CHECKING:
    from inner_rim.core.learning.evidence import Visit


class InsightBook:
    """The topics as they were read last, and the mark that is open.

    Attributes:
        topics: what the log says; None before it was read.
        opened: (topic, place of the mark) that is open.
        changed: called after every answer.
    """

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self.changed: Callable[[], None] = lambda: None
        self.topics: tuple[Topic, ...] | None = None
        self.opened: tuple[str, int] = ("", 0)
        self._names: dict[WheelKey, str] = {}

    def read(self) -> None:
        bench = self._bench
        worker = bench.worker
        if worker is None:
            return

        def count(result: dict[str, list[Visit]]) -> None:
            worker.submit(lambda store: topics_from(result, bench.time), lambda topics: self.adopt(result, topics))

        bench.shop_methods.read_visits(worker, count)

    def adopt(self, visits: dict[str, list[Visit]], topics: tuple[Topic, ...]) -> None:
        self._names = {visit.key: visit.name for one in visits.values() for visit in one}
        self.topics = topics
        self.changed()

    def name_of(self, key: WheelKey) -> str:
        return self._names.get(key) or tr("Wheel")

    def open(self, code: str, place: int) -> None:
        self.opened = (code, place)
        self.changed()

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

    def turn(self) -> None:
        """Let the learned figure that is open count, or leave it aside."""
        counts = self._bench.shop_methods.turn_learning([self.opened[0]])
        self._bench.say(tr("Used in plans") if counts else tr("Not used: plans use the usual figure"))
        self.changed()

    def write(self, path: Path) -> None:
        from inner_rim.work.tasks.insights import insights_csv

        write_saying(path, lambda: insights_csv(self.topics or (), self.name_of), self._bench.say)


def topics_from(visits: dict[str, list[Visit]], now: datetime) -> tuple[Topic, ...]:
    """Return what the visits say; NumPy is imported here, so never on the window's thread."""
    from inner_rim.work.tasks.insights import topics_of
    from inner_rim.work.tasks.learning import ShopLearning

    return topics_of(visits, ShopLearning(visits), now)
