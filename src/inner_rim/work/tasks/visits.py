"""The visits of a wheel over all its jobs, and a new visit."""

from __future__ import annotations

from collections.abc import Callable

from inner_rim.core.progress.visit import coming_back
from inner_rim.core.record.job import FORMAT, VERSION
from inner_rim.core.record.paths import new_id
from inner_rim.store.rows import StoredVisit
from inner_rim.words import tr
from inner_rim.work.editing.bench_port import BenchPort
from inner_rim.work.editing.history import Moved
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.editing.sync import Sync

#: What a new job on a wheel takes over from its last one, besides the wheel.
_TAKEN_OVER = ("title", "customer", "bike", "ride", "practice", "shelf")


class Visits:
    """What is known of wheels from all their jobs."""

    def __init__(self, bench: BenchPort, sync: Sync, changed: Callable[[], None]) -> None:
        self._bench, self._sync, self._changed = bench, sync, changed
        self._known: dict[str, tuple[StoredVisit, ...]] = {}
        self._asked: set[tuple[str, str]] = set()

    def of(self, wheel_id: str) -> tuple[StoredVisit, ...]:
        """Return a wheel's visits as far as they are known, oldest first; asks for them."""
        return self._known.get(wheel_id, ())

    def load(self, wheel_id: str) -> None:
        worker = self._sync.worker

        def arrived(result: tuple[StoredVisit, ...]) -> None:
            if self._known.get(wheel_id) != result:
                self._known[wheel_id] = result
                self._changed()

        if worker is not None:
            worker.submit(lambda store: store.logbook.visits(wheel_id), arrived)

    def look_for(self, state: BenchWheel) -> None:
        worker = self._sync.worker
        if worker is None or state.whole_log or (state.wheel_id, state.name) in self._asked:
            return
        self._asked.add((state.wheel_id, state.name))
        name, wheel_id = state.name, state.wheel_id

        def arrived(result: tuple[str, str] | None) -> None:
            if result is not None:
                self._bench.say(
                    tr(
                        "“{name}” was here before: find it in the logbook (Ctrl+K), put it on the bench, and press Ctrl+R for a new visit."
                    ).format(name=name)
                )

        worker.submit(lambda store: store.logbook.handed_over(name, wheel_id), arrived)

    def begin(self) -> None:
        """Put the selected wheel, which was handed over, back on the bench in a job of its own."""
        state = self._bench.planned
        if state is None:
            return
        if state.progress.state != "finished":
            self._bench.say(tr("The wheel is still in progress; hand it over first."))
            return
        document = state.job.draft.document
        wheel = coming_back(document["wheels"][state.index], state.plan)
        fresh = {name: document[name] for name in _TAKEN_OVER if document.get(name) is not None}
        job = self._sync.create(
            new_id(), {"format": FORMAT, "version": VERSION, **fresh, "wheels": [wheel]}
        )
        self._sync.history.push(Moved(job.job_id, state.name, True, state.key))
        mine = [one for one in self._bench.wheels if one.job.job_id == state.job.job_id]
        if all(one.standing == "finished" for one in mine):
            self._sync.history.push(Moved(state.job.job_id, state.name, False, state.key))
            # what is finished makes room for the new visit
            self._sync.archive(self._sync.job(state.job.job_id))
        self._bench.selected = (job.job_id, state.wheel_id)
        self._bench.refresh(job)
        self._bench.say(tr("{name} is back").format(name=state.name))
