"""Edits of one job on their way to the store: those of one burst of typing go there in one transaction."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec

from inner_rim.core.record.ids import new_id
from inner_rim.core.record.operations import Operation, SetDraft, SetField, merged
from inner_rim.core.record.plain import JsonObject
from inner_rim.words import tr

if TYPE_CHECKING:
    from inner_rim.store.repository import EditResult, Repository
    from inner_rim.work.storage.worker import StoreWorker

#: Seconds without an edit that make a pause in typing, and the longest that an edit waits for one.
REST_S, MOST_S = 0.025, 0.1
#: How often it is looked whether anything else was asked of the store meanwhile, s.
LOOK_S = 0.01


class EditBatch:
    """Collects edits until storing them begins.

    Storing takes a thread of its own, but both threads share one interpreter: it would hold up the paint of the
    next letter, so it begins in a pause of typing.

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

    def grows(self, worker: StoreWorker, job_id: str, number: int, operations: Sequence[Operation], now: str) -> bool:
        """Add one more edit and return True if that keeps the order of what was submitted."""
        with self._lock:
            if self._begun or worker is not self._worker or job_id != self._job_id or not self._is_last:
                return False
            self.add(number, operations, now)
            return True

    @property
    def _is_last(self) -> bool:
        return self._worker.submitted == self._place

    def store(self, repository: Repository) -> EditResult:
        while self._patient and not self._begun and self._is_last:
            now = time.monotonic()
            wait = min(self._last + REST_S, self._first + MOST_S) - now
            if wait <= 0.0:
                break
            time.sleep(min(wait, LOOK_S))
        with self._lock:
            self._begun = True
        return repository.edit(self._job_id, self._operations, self._now, self._uid)
