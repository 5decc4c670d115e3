"""Synchronization with the store: what is sent, what it confirms, what other benches have done
meanwhile.

Nothing here runs in the store's thread but pure work on the repository; results come back through
the worker's one queue, in order, so that a look at the data that arrives holds just what was
confirmed before it.
"""

from __future__ import annotations

import threading
import time
from collections import Counter
from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

import msgspec

from inner_rim.core.record.log import Logged
from inner_rim.core.record.operations import (
    Conflict,
    FieldKey,
    Operation,
    SetDraft,
    SetField,
    merged,
)
from inner_rim.core.record.paths import JsonObject, name_of, new_id
from inner_rim.core.record.why import label, value_text
from inner_rim.store.codec import UnreadableRow
from inner_rim.store.errors import StoreError, failed
from inner_rim.store.rows import BenchState, StoredJob
from inner_rim.words import N_, tr
from inner_rim.work.editing.event import Event
from inner_rim.work.editing.history import History
from inner_rim.work.editing.state import JobState
from inner_rim.work.storage.worker import CoalescedQuery, Kept, StoreWorker

if TYPE_CHECKING:
    from inner_rim.core.plan.picking import Booking
    from inner_rim.store.repository import EditResult, Repository
    from inner_rim.work.storage.worker import StoreWorker


#: Seconds without an edit that make a pause in typing, and the longest that an edit waits for one.
REST_S, MAX_S = 0.025, 0.1
#: How often it is looked whether anything else was asked of the store meanwhile, s.
LOOK_S = 0.01


class EditBatch:
    """Collects edits until storing them begins.

    Storing takes a thread of its own, but both threads share one interpreter: it would hold up the
    paint of the next letter, so it begins in a pause of typing.

    Args:
        worker: stores it; it is about to be submitted there.
        patient: wait for a pause in typing; else it is stored as soon as the worker comes to it.

    Attributes:
        content: what is stored by it, for an export.
    """

    def __init__(self, worker: StoreWorker, job_id: str, title: str, *, patient: bool) -> None:
        self._worker, self._job_id, self._title, self._patient = worker, job_id, title, patient
        self._operations: list[Operation] = []
        self._fields: set[str] = set()
        self._lock = threading.Lock()
        self._begun = False
        self._first = self._last = 0.0
        self._now = ""
        self._uid = new_id()
        self._place = worker.submitted + 1
        self.numbers: list[int] = []
        self.content: JsonObject = {"job_id": job_id, "operations": []}

    @property
    def words(self) -> str:
        fields = ", ".join(sorted(self._fields))
        return tr("{name}: {fields}").format(name=self._title, fields=fields or tr("a wheel"))

    def add(self, number: int, operations: Sequence[Operation], now: str) -> None:
        self._last = time.monotonic()
        self._first = self._first or self._last
        self.numbers.append(number)
        self._now = now
        self._operations = [*merged([*self._operations, *operations])]
        self._fields |= {one.path for one in operations if isinstance(one, SetField | SetDraft)}
        self.content["operations"] = msgspec.to_builtins(self._operations)

    def grows(
        self,
        worker: StoreWorker,
        job_id: str,
        number: int,
        operations: Sequence[Operation],
        now: str,
    ) -> bool:
        """Add one more edit and return True if that keeps the order of what was submitted."""
        with self._lock:
            if (
                self._begun
                or worker is not self._worker
                or job_id != self._job_id
                or not self._is_last
            ):
                return False
            self.add(number, operations, now)
            return True

    @property
    def _is_last(self) -> bool:
        return self._worker.submitted == self._place

    def store(self, repository: Repository) -> EditResult:
        while self._patient and not self._begun and self._is_last:
            now = time.monotonic()
            wait = min(self._last + REST_S, self._first + MAX_S) - now
            if wait <= 0.0:
                break
            time.sleep(min(wait, LOOK_S))
        with self._lock:
            self._begun = True
        return repository.edit(self._job_id, self._operations, self._now, self._uid)


class Sync:
    """The jobs on the bench and their way to the store.

    Attributes:
        worker: stores; None keeps everything in memory only.
        patient: storing waits for a pause in typing, so that it does not hold it up.
        history: what this bench did, to be taken back.
        fault: why storing does not work for now.
        kept: what could not be stored, for a reason that stays.
        notice: what should be known about the data, empty for nothing.
        unreadable: stored rows that cannot be read.
        unopened: jobs that can be read and not be planned, by their identity: kept as they are, and
            exported.
        elsewhere: another window has stored something.
        before_replacing: keeps what is on screen in a file, before restored data take its place.
        log_fault: takes the traceback of an unexpected fault.
    """

    def __init__(
        self,
        now: Callable[[], str],
        changed: Callable[[JobState | None], None],
        say: Callable[[str], None],
        adopted: Callable[[BenchState], None],
    ) -> None:
        self._now, self._changed, self.say, self._adopted = now, changed, say, adopted
        self.worker: StoreWorker | None = None
        self.patient = False
        self.jobs: list[JobState] = []
        self.history = History()
        self.fault: StoreError | None = None
        self.kept: tuple[Kept, ...] = ()
        self.notice = ""
        self.unreadable: tuple[UnreadableRow, ...] = ()
        self.elsewhere = Event[[]]()
        self.before_replacing: Callable[[], str] = lambda: ""
        self.unopened: dict[str, JobState] = {}
        self.log_fault: Callable[[str], None] = lambda trace: None
        self._loaded = False
        self._number = 0
        self._edits: EditBatch | None = None
        self._archiving: Counter[str] = Counter()
        self._away: dict[str, JobState] = {}  # taken off the bench by this window
        self._returning: Counter[str] = Counter()
        self._asking = CoalescedQuery(lambda store: store.bench(), self.adopt, self.on_failed_read)

    # -- what the store says ---------------------------------------------------------------------

    def adopt(self, state: BenchState) -> None:
        """Take the stored bench over: what is newer there, with what is not stored yet on top."""
        known = {job.job_id: job for job in self.jobs}
        titles: list[str] = []
        for stored in state.jobs:
            job = known.pop(stored.job_id, None)
            if self._archiving[stored.job_id]:
                continue
            aside = self.unopened.get(stored.job_id)
            if aside is not None and aside.revision == stored.revision:
                continue
            self.unopened.pop(stored.job_id, None)  # changed since: it is tried again
            if job is None:
                self.jobs.append(JobState(stored))
            elif self._take_over(job, stored) and self._loaded:
                titles.append(job.title)
        for job in known.values():  # taken off the bench elsewhere
            if not job.pending and not job.creating and not self._returning[job.job_id]:
                self.jobs.remove(job)
        there = {stored.job_id for stored in state.jobs}
        self.unopened = {job_id: job for job_id, job in self.unopened.items() if job_id in there}
        self.unreadable = state.unreadable
        self._loaded = True
        if titles:
            self.say(tr("Changed in another window: {names}").format(names=", ".join(titles)))
        self._adopted(state)
        self._changed(None)

    @staticmethod
    def _take_over(job: JobState, stored: StoredJob) -> bool:
        newer = stored.revision > job.revision
        job.confirm(stored.document, stored.drafts, stored.revision)
        return job.take_log(stored.log) or newer

    def keep_unopened(self, job: JobState, fault: Exception) -> None:
        """Keep a job that cannot be opened as it is stored, and open the others."""
        self.jobs.remove(job)
        self.unopened[job.job_id] = job
        self.log_fault(failed(fault).trace)

    def on_replaced(self, why: str) -> None:
        """The data were replaced: show the new ones, and write what this window had not stored to a
        file.

        Args:
            why: said; empty where this window asked for it, and has kept its work.
        """
        unsaved = self.worker is not None and (self.worker.unsaved or self.worker.kept)
        words = f"{why} {self.before_replacing()}" if why and unsaved else why
        self.jobs.clear()
        self._away.clear()
        self._archiving.clear()
        self._returning.clear()
        self.unopened.clear()
        self._edits = None
        self.history.clear()
        self.on_changed_elsewhere()
        if words:
            self.say(words)

    def reload(self) -> None:
        if self.worker is not None:
            self._asking.ask(self.worker)

    def on_store_fault(self, fault: StoreError | None) -> None:
        before, self.fault = self.fault, fault
        if before is not None and fault is None and not self.kept and before.passing:
            self.say(tr("Stored again: nothing was lost."))
        self._changed(None)

    def on_kept(self, kept: tuple[Kept, ...]) -> None:
        self.kept = kept
        self._changed(None)

    def discard_unsaved(self) -> None:
        """Show what is stored in place of what could not be stored; that was exported, or is not
        wanted.
        """
        if self.worker is None:
            return
        self.worker.discard()
        self._archiving.clear()
        for job in self.jobs:
            job.discard_unsaved()
        self.reload()

    def on_notice(self, words: str) -> None:
        """Show a notice about the data; an empty one takes it away."""
        self.notice = words
        self._changed(None)

    def on_failed_read(self, fault: StoreError) -> None:
        """A question to the store failed; nothing is lost by that."""
        self.say(fault.sentence)

    def on_changed_elsewhere(self) -> None:
        self.reload()
        self.elsewhere.emit()

    # -- what goes there -------------------------------------------------------------------------

    def create(self, job_id: str, document: JsonObject) -> JobState:
        job = JobState(StoredJob(job_id, document, {}, 0), creating=self.worker is not None)
        self.jobs.append(job)
        if self.worker is not None:
            now = self._now()

            def created(_done: None) -> None:
                job.creating = False

            self.worker.submit(
                lambda store: store.create(job_id, document, now),
                created,
                words=tr("New job: {name}").format(name=job.title),
                content={"job_id": job_id, "job": document},
            )
        return job

    def job(self, job_id: str) -> JobState:
        """Return the live state of a job on the bench.

        Raises:
            KeyError: it is not on the bench.
        """
        for job in self.jobs:
            if job.job_id == job_id:
                return job
        raise KeyError(job_id)

    def edit(self, job: JobState, operations: Sequence[Operation]) -> None:
        """Apply edits to a job at once, and send them to the store."""
        self._number += 1
        number, job_id, now = self._number, job.job_id, self._now()
        job.expect(number, operations)
        for operation in operations:
            if isinstance(operation, SetField | SetDraft):
                job.drop_conflict(FieldKey(operation.target, operation.path))
        if self.worker is None:
            job.confirm(job.draft.document, job.draft.drafts, job.revision + 1, [number])
            return
        if self._edits is not None and self._edits.grows(
            self.worker, job_id, number, operations, now
        ):
            return
        edits = self._edits = EditBatch(self.worker, job_id, job.title, patient=self.patient)
        edits.add(number, operations, now)
        self.worker.submit(
            edits.store,
            partial(self._edited, job, edits),
            words=lambda: edits.words,
            content=edits.content,
        )

    def _edited(self, job: JobState, edits: EditBatch, edited: EditResult) -> None:
        shown = job.draft
        job.confirm(edited.document, edited.drafts, edited.revision, edits.numbers)
        if edited.conflicts:
            self._keep_conflicts(job, edited.conflicts)
        if edited.conflicts or job.draft != shown:  # else what is on screen is what is stored
            self._changed(job)

    def _keep_conflicts(self, job: JobState, conflicts: Sequence[Conflict]) -> None:
        """Keep edits that conflict with another window's: shown beside the field, one key away."""
        fields = []
        for conflict in conflicts:
            operation = conflict.operation
            if isinstance(operation, SetField | SetDraft) and conflict.reason == "changed":
                job.keep_conflict(FieldKey(operation.target, operation.path), conflict)
                fields.append(label(name_of(operation.path)))
            elif isinstance(operation, SetField):
                self.say(
                    tr(
                        "{name}: the wheel was removed in another window; {field} = {value} has no place."
                    ).format(
                        name=job.title,
                        field=label(name_of(operation.path)),
                        value=_shown(operation),
                    )
                )
            else:
                self.say(tr(REFUSALS[conflict.reason]))
        if fields:
            self.say(
                tr(
                    "Another window changed {fields} at the same time. Its value was kept; yours is beside the field."
                ).format(fields=", ".join(fields))
            )

    def append(
        self, job: JobState, entries: Sequence[Logged], booking: Booking, done: Callable[[], None]
    ) -> None:
        """Store entries that the job's log shows already, with what they take from the shelf."""
        if self.worker is None:
            return
        job_id, wheel_id = job.job_id, entries[0].wheel_id

        def work(store: Repository) -> tuple[Logged, ...]:
            from inner_rim.store.statements import NewEntry

            new = [NewEntry(item.uid, item.at, item.entry) for item in entries]
            return store.append(job_id, wheel_id, new, booking)

        def stored(result: tuple[Logged, ...]) -> None:
            job.take_entries(result)
            done()

        self.worker.submit(
            work,
            stored,
            words=tr("{name}: log entry").format(name=job.title),
            content={"job_id": job_id, "log": [msgspec.to_builtins(item) for item in entries]},
        )

    def archive(self, job: JobState) -> None:
        """Take a job off the bench; it stays in the data."""
        self.jobs.remove(job)
        self._away[job.job_id] = job
        if self.worker is None:
            return
        now, job_id = self._now(), job.job_id

        def done(_done: None) -> None:
            self._archiving[job_id] -= 1

        self._archiving[job_id] += 1
        self.worker.submit(
            lambda store: store.archive(job_id, now),
            done,
            words=tr("{name}: taken off the bench").format(name=job.title),
            content={"job_id": job_id, "archived": True},
        )

    def take_out(self, job_id: str, arrived: Callable[[], None]) -> None:
        known = self._away.pop(job_id, None)
        if known is not None:  # at once, as it was; the store says what has changed since
            self.jobs.append(known)
            self._changed(None)
            arrived()
        if self.worker is None:
            return
        self._returning[job_id] += 1
        now = self._now()

        def work(store: Repository) -> BenchState:
            store.archive(job_id, now, archived=False)
            return store.bench()

        def adopt(state: BenchState) -> None:
            self._returning[job_id] -= 1
            self.adopt(state)
            if known is None:
                arrived()

        self.worker.submit(
            work,
            adopt,
            words=tr("Put back onto the bench"),
            content={"job_id": job_id, "archived": False},
        )


def _shown(operation: SetField) -> str:
    value = operation.value
    return value_text(operation.path, value) if isinstance(value, float | int | str) else str(value)


REFUSALS = {
    "logged": N_("The wheel has log entries, so it is not removed. Take it off the bench instead."),
    "changed": N_("The wheel was changed in another window since, so it is not removed."),
    "last": N_("It is the only wheel of its job. Take it off the bench instead."),
    "gone": N_("The wheel was removed in another window."),
}
