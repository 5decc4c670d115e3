"""The store worker: one thread that owns the repository and does everything submitted to it, in
order.

The window never waits for the disk. What cannot be stored for a reason that passes (locked, full,
read-only, a server that is down) stays at the head of the queue, is tried again and reported until
it succeeds. What cannot be stored for a reason that does not pass is kept aside with its cause, and
later tasks go on; no success elsewhere clears it. Nothing ends the thread but closing.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any, Generic, Protocol, TypeVar, cast

import msgspec

from inner_rim.store.errors import (
    SENTENCES,
    StoreDamaged,
    StoreError,
    StoreFailed,
    StoreForeign,
    StoreNewer,
    StoreReadOnly,
    StoreReplaced,
    failed,
)
from inner_rim.words import tr

if TYPE_CHECKING:
    from pathlib import Path

    from inner_rim.store.repository import Repository

T = TypeVar("T")
#: Faults of the data or of the program, not of what was to be stored: that is kept, whoever asked.
_OF_THE_DATA = (StoreFailed, StoreDamaged, StoreForeign, StoreNewer, StoreReplaced)
RETRY_SECONDS = 1.0
LOOK_SECONDS = 0.3


class Store(Protocol):
    """What the worker needs of a repository, besides what its tasks use."""

    @property
    def writes(self) -> int: ...

    @property
    def read_only(self) -> bool: ...

    def change(self) -> int: ...

    def copy_to(self, target: Path) -> None: ...

    def close(self) -> None: ...


class Kept(msgspec.Struct, frozen=True):
    """A task that could not be stored: what it was in words, why not, and its content for an
    export.
    """

    words: str
    fault: StoreError
    content: object
    task: _QueuedTask | None = None


class Listener(Protocol):
    """What the worker tells of faults and changes; called through `run_in_ui`."""

    def on_store_fault(self, fault: StoreError | None) -> None: ...

    def on_kept(self, kept: tuple[Kept, ...]) -> None: ...

    def on_changed_elsewhere(self) -> None: ...

    def on_replaced(self, why: str) -> None: ...

    def on_notice(self, words: str) -> None:
        """The store works, but the user should know something about it; empty takes it away."""
        ...

    def on_failed_read(self, fault: StoreError) -> None: ...


def _nothing() -> None: ...


class _QueuedTask:
    def __init__(
        self,
        work: Callable[[Repository], object],
        done: Callable[[Any], None] | None,
        failed: Callable[[StoreError], None] | None,
        words: str | Callable[[], str],
        content: object,
        epoch: int,
    ) -> None:
        self.work, self.done, self.failed, self.epoch = work, done, failed, epoch
        self._words, self.content = words, content

    @property
    def words(self) -> str:
        return self._words if isinstance(self._words, str) else self._words()


class Reporter:
    """Tells the listener of faults and notices, each once, in the interface's thread.

    Args:
        run_in_ui: brings a callback to the interface's thread.
        log_fault: takes the traceback of an unexpected fault.
    """

    def __init__(
        self,
        listener: Listener,
        run_in_ui: Callable[[Callable[[], None]], None],
        log_fault: Callable[[str], None],
    ) -> None:
        self._listener, self.tell, self._log_fault = listener, run_in_ui, log_fault
        self._fault: StoreError | None = None
        self._logged: set[str] = set()
        self._notice = ""

    def report(self, fault: StoreError | None) -> None:
        before = self._fault
        same = type(fault) is type(before) and (
            fault is None or (before is not None and fault.sentence == before.sentence)
        )
        if not same:
            self._fault = fault
            self.tell(lambda: self._listener.on_store_fault(fault))

    def notice(self, words: str) -> None:
        if words != self._notice:
            self._notice = words
            self.tell(lambda: self._listener.on_notice(words))

    def note(self, fault: StoreError) -> StoreError:
        """Write an unexpected fault to the log file, once for each place it comes from."""
        if isinstance(fault, StoreFailed) and fault.trace not in self._logged:
            self._logged.add(fault.trace)
            self._log_fault(fault.trace)
        return fault


def _thread(run: Callable[[], None]) -> threading.Thread:
    return threading.Thread(target=run, name="store worker", daemon=True)


class StoreWorker:
    """Runs tasks on a repository in a thread of its own.

    Args:
        open_store: makes the repository; called in the thread, again after a fault.
        run_in_ui: hands a callback to the interface's thread.
        listener: told of faults and of changes by others.
        log_fault: takes the traceback of an unexpected fault, for the log file.
        every_look: called in the thread when it opens the store and whenever it has nothing to do;
            returns what the user should know, such as that no backup can be made, else nothing.
        let_paint: called in the thread before each task; returns when the window has painted. Both
            threads share one interpreter, and storing would hold up what was just typed.

    Attributes:
        submitted: how many tasks so far.
    """

    def __init__(
        self,
        open_store: Callable[[], Store],
        run_in_ui: Callable[[Callable[[], None]], None],
        listener: Listener,
        log_fault: Callable[[str], None] = lambda trace: None,
        every_look: Callable[[Store], str] = lambda store: "",
        let_paint: Callable[[], None] = lambda: None,
    ) -> None:
        self._open_store, self._listener, self._every_look = open_store, listener, every_look
        self._let_paint = let_paint
        self._reporter = Reporter(listener, run_in_ui, log_fault)
        self._tasks: queue.Queue[_QueuedTask | None] = queue.Queue()
        self.submitted = 0
        self._waiting = self._unsaved = 0  # all tasks, and those that store something
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._hurry = threading.Event()
        self._seen_change: int | None = None
        self._head: _QueuedTask | None = None
        self._kept: list[Kept] = []
        self._reopen = False
        self._save_to: tuple[Path, bool] | None = None
        self._between: Callable[[], None] = _nothing
        self._replaces = False
        self._epoch = self._epoch_seen = (
            0  # how often the data were restored, and the last time the window heard of
        )
        self._thread = _thread(self._run)

    # -- asked from the interface's thread ------------------------------------------------------

    def start(self) -> None:
        self._thread.start()

    def seen(self, change: int) -> None:
        """Note that the window shows the data as of this change; anything later is news."""
        self._seen_change = change

    def resume(self) -> None:
        """Work again after a `stop`, with what was left undone first."""
        if not self._thread.is_alive():
            self._closing.clear()
            self._thread = _thread(self._run)
            self._thread.start()

    @property
    def waiting(self) -> int:
        """How many tasks are not done yet; those that are kept aside are not counted."""
        with self._lock:
            return self._waiting

    @property
    def unsaved(self) -> int:
        """How many tasks that store something are not done yet."""
        with self._lock:
            return self._unsaved

    @property
    def kept(self) -> tuple[Kept, ...]:
        with self._lock:
            return tuple(self._kept)

    def submit(
        self,
        work: Callable[[Repository], T],
        done: Callable[[T], None] | None = None,
        failed: Callable[[StoreError], None] | None = None,
        *,
        words: str | Callable[[], str] = "",
        content: object = None,
    ) -> None:
        """Ask for `work(repository)`.

        Args:
            work: done in the worker's thread; reads and writes nothing but the repository.
            failed: gets a fault of what was asked, such as a name that is taken; it then answers
                for it.
            words: what is stored by it, for a person, perhaps only known then; empty where nothing
                is, as in a search.
        """
        task = _QueuedTask(work, done, failed, words, content, self._epoch_seen)
        self.submitted += 1
        self._count(task, 1)
        self._tasks.put(task)

    def _count(self, task: _QueuedTask, by: int) -> None:
        with self._lock:
            self._waiting += by
            self._unsaved += by if task.words else 0

    def try_again(self) -> None:
        """Submit what could not be stored again, in its order."""
        with self._lock:
            again, self._kept = self._kept, []
        for kept in again:
            if kept.task is not None:
                kept.task.epoch = self._epoch_seen
                self._count(kept.task, 1)
                self._tasks.put(kept.task)
        self._tell_kept()

    def discard(self) -> None:
        """Drop what could not be stored: it was exported, or the user decided so."""
        with self._lock:
            self._kept = []
        self._tell_kept()

    def stop(self, seconds: float = 10.0) -> bool:
        """Finish what is queued and end the thread; return whether everything was stored."""
        self._closing.set()
        self._hurry.set()
        self._tasks.put(None)
        if self._thread.ident is not None:
            self._thread.join(seconds)
        with self._lock:
            return self._unsaved == 0 and not self._kept

    def reopen(self, between: Callable[[], None], *, replaced: bool = False) -> None:
        """Close the data, do something while nothing is open, and open them again, before the next
        task.

        Args:
            between: done in the worker's thread, such as putting a backup in the place of the file;
                an expected fault of it is said.
            replaced: the data are new ones afterward, and tasks meant for the old ones are kept
                aside.
        """
        self._between, self._replaces = between, replaced
        self._reopen = True
        self._hurry.set()

    def save_open_data(self, target: Path, *, replaced: bool) -> None:
        """Write what is open into a new file before the next task, and open the data again.

        Args:
            target: the data's own path, where the file is gone; else a file beside the one that is
                there now.
            replaced: that one is used from now on; see `reopen`.
        """
        self._save_to = target, replaced
        self._hurry.set()

    # -- in the worker's thread -----------------------------------------------------------------

    def _run(self) -> None:
        store: Store | None = None
        while True:
            try:
                store = self._round(store)
                if store is None:
                    return
            except Exception as fault:  # noqa: BLE001 - the thread outlives every bug
                self._reporter.note(failed(fault))

    def _round(self, store: Store | None) -> Store | None:
        """Do the next thing; return the store, None at the end."""
        if self._save_to is not None and store is not None:
            self._save(store, *self._save_to)
        if self._reopen:
            if store is not None:
                store.close()
            store = None
        if store is None:
            store = self._opened()
            if store is None:
                return None
        task = self._next()
        if task is None:
            if self._closing.is_set() and self._tasks.empty():
                store.close()
                return None
            self._look(store)
        else:
            self._do(store, task)
            if self._head is not None and self._closing.is_set():
                store.close()
                return None
        return store

    def _save(self, store: Store, target: Path, replaced: bool) -> None:
        """Save what is open; a fault is said, and the way out is still there."""
        self._save_to = None
        try:
            store.copy_to(target)
        except StoreError as fault:
            self._reporter.report(self._reporter.note(fault))
            return
        self._reopen, self._replaces = True, replaced

    def _opened(self) -> Store | None:
        while True:
            try:
                self._reopened()
                store = self._open_store()
                self._compare(store, 0)
            except StoreError as fault:
                self._reporter.report(self._reporter.note(fault))
            except Exception as fault:  # noqa: BLE001 - said, logged, and tried again
                self._reporter.report(self._reporter.note(failed(fault)))
            else:
                self._well(store)
                self._look(store)
                return store
            if self._pause():
                return None

    def _reopened(self) -> None:
        if self._reopen:
            between, self._between, self._reopen = self._between, _nothing, False
            between()
            self._seen_change = None
            if self._replaces:
                self._replaces = False
                self._replaced("")
            elif between is not _nothing:
                self._reporter.tell(self._listener.on_changed_elsewhere)

    def _pause(self) -> bool:
        """Wait before the next try; return whether the window closes."""
        self._hurry.wait(RETRY_SECONDS)
        if not self._closing.is_set():
            self._hurry.clear()
        return self._closing.is_set()

    def _next(self) -> _QueuedTask | None:
        if self._head is not None:
            task, self._head = self._head, None
            return task
        try:
            return self._tasks.get(timeout=LOOK_SECONDS)
        except queue.Empty:
            return None

    def _do(self, store: Store, task: _QueuedTask) -> None:
        if task.words and task.epoch != self._epoch:  # it was meant for the old data
            self._failed(task, StoreReplaced(tr(SENTENCES[StoreReplaced])))
            self._count(task, -1)
            return
        written = store.writes
        try:
            if not self._closing.is_set():
                self._let_paint()
            result = task.work(cast("Repository", store))  # its tasks depend on what it holds
            self._compare(store, store.writes - written)
        except Exception as caught:  # noqa: BLE001 - a bug is kept, named and logged like a fault that stays
            fault = self._reporter.note(
                caught if isinstance(caught, StoreError) else failed(caught)
            )
            if isinstance(fault, StoreReplaced):
                self._head, self._reopen = task, True
                self._replaced(fault.sentence)
                return
            if fault.passing:
                self._head = task
                self._reporter.report(fault)
                self._pause()
                # it may be writable by then
                self._reopen = self._reopen or isinstance(fault, StoreReadOnly)
                return
            self._failed(task, fault)
        else:
            self._well(store)
            if task.done is not None:
                self._reporter.tell(partial(task.done, result))
        self._count(task, -1)

    def _failed(self, task: _QueuedTask, fault: StoreError) -> None:
        """Give up a task: keep it if it was to store something, report it if it only asked."""
        if task.failed is not None and not isinstance(fault, _OF_THE_DATA):
            self._reporter.tell(partial(task.failed, fault))
        elif task.words:
            with self._lock:
                self._kept.append(Kept(task.words, fault, task.content, task))
            self._tell_kept()
        elif task.failed is not None:
            self._reporter.tell(partial(task.failed, fault))
        else:
            self._reporter.tell(lambda: self._listener.on_failed_read(fault))

    def _compare(self, store: Store, ours: int) -> None:
        """More changes than our own writes mean that another window wrote too."""
        now = store.change()
        if self._seen_change is not None and now > self._seen_change + ours:
            self._reporter.tell(self._listener.on_changed_elsewhere)
        self._seen_change = now

    def _look(self, store: Store) -> None:
        try:
            self._compare(store, 0)
        except StoreReplaced as fault:
            self._reopen = True
            self._replaced(fault.sentence)
            return
        except StoreError as fault:
            self._reporter.report(fault)
            return
        self._well(store)
        self._reporter.notice(self._every_look(store))

    def _replaced(self, why: str) -> None:
        """The data were replaced: set aside the tasks that were submitted before the window knew."""
        epoch = self._epoch = self._epoch + 1

        def tell() -> None:
            self._epoch_seen = epoch
            self._listener.on_replaced(why)

        self._reporter.tell(tell)

    def _well(self, store: Store) -> None:
        """The store answers; one on a read-only medium says so from the start."""
        self._reporter.report(
            StoreReadOnly(tr(SENTENCES[StoreReadOnly])) if store.read_only else None
        )

    def _tell_kept(self) -> None:
        kept = self.kept
        self._reporter.tell(lambda: self._listener.on_kept(kept))


class CoalescedQuery(Generic[T]):
    """Reads something from the store; asked while an answer is on its way, it asks once again after
    it.

    Without this, three busy benches would each read everything after every change of the others,
    and fall behind for good.

    Args:
        not_read: called with the reason it cannot be read.
    """

    def __init__(
        self,
        read: Callable[[Repository], T],
        arrived: Callable[[T], None],
        not_read: Callable[[StoreError], None],
    ) -> None:
        self._read, self._arrived, self._not_read = read, arrived, not_read
        self._under_way = self._once_more = False

    def ask(self, worker: StoreWorker) -> None:
        if self._under_way:
            self._once_more = True
            return
        self._under_way = True

        def arrived(result: T) -> None:
            self._under_way = False
            self._arrived(result)
            self._again(worker)

        def not_read(fault: StoreError) -> None:
            self._under_way = False
            self._not_read(fault)
            self._again(worker)

        worker.submit(self._read, arrived, not_read)

    def _again(self, worker: StoreWorker) -> None:
        if self._once_more:
            self._once_more = False
            self.ask(worker)
