"""The keeper: one thread that owns the repository and does everything asked of it, in order.

The window never waits for the disk. What cannot be stored for a passing reason (locked, full,
read-only) stays in the queue, is tried again, and is reported until it succeeds.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from functools import partial
from typing import Any, Protocol, TypeVar

from inner_rim.store.errors import StoreError

T = TypeVar("T")
RETRY_SECONDS = 1.0
LOOK_SECONDS = 1.0


class Store(Protocol):
    """What the keeper needs of a repository, besides what its orders use."""

    writes: int

    def change(self) -> int:
        """Return the number of the last change, by whichever window."""
        ...

    def close(self) -> None:
        """Let go of the database."""
        ...


class Listener(Protocol):
    """Who hears from the keeper; called through `deliver`."""

    def on_store_trouble(self, fault: StoreError | None) -> None:
        """Storing does not work (None: it works again)."""
        ...

    def on_changed_elsewhere(self) -> None:
        """Another window wrote to the same data."""
        ...

    def on_bug(self, fault: BaseException) -> None:
        """Something unexpected happened in the keeper's thread."""
        ...


class _Order:
    def __init__(
        self,
        work: Callable[[Any], Any],
        done: Callable[[Any], None] | None,
        failed: Callable[[StoreError], None] | None,
    ) -> None:
        self.work, self.done, self.failed = work, done, failed


class Keeper:
    """Runs orders on a repository in a thread of its own.

    Args:
        open_store: makes the repository; called in the thread, again after a passing fault.
        deliver: hands a callback to the interface's thread.
        listener: hears of troubles and of changes by others.
    """

    def __init__(
        self,
        open_store: Callable[[], Store],
        deliver: Callable[[Callable[[], None]], None],
        listener: Listener,
    ) -> None:
        self._open_store, self._deliver, self._listener = open_store, deliver, listener
        self._orders: queue.Queue[_Order | None] = queue.Queue()
        self._waiting = 0
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._seen_change: int | None = None
        self._trouble: StoreError | None = None
        self._held: _Order | None = None
        self._thread = self._new_thread()

    def _new_thread(self) -> threading.Thread:
        return threading.Thread(target=self._run, name="keeper", daemon=True)

    def start(self) -> None:
        """Begin to work."""
        self._thread.start()

    def seen(self, change: int) -> None:
        """What the window shows is the data as of this change; whatever came after is news to it."""
        self._seen_change = change

    def resume(self) -> None:
        """Work again after a `stop`, with what was left undone first."""
        if not self._thread.is_alive():
            self._closing.clear()
            self._thread = self._new_thread()
            self._thread.start()

    @property
    def waiting(self) -> int:
        """How many orders are not done yet."""
        with self._lock:
            return self._waiting

    def order(
        self,
        work: Callable[[Any], T],
        done: Callable[[T], None] | None = None,
        failed: Callable[[StoreError], None] | None = None,
    ) -> None:
        """Ask for `work(repository)`; `done` gets its result, `failed` a fault that will not pass."""
        with self._lock:
            self._waiting += 1
        self._orders.put(_Order(work, done, failed))

    def stop(self, seconds: float = 10.0) -> bool:
        """Finish what is queued and end the thread; return whether all was done in time."""
        self._closing.set()
        self._orders.put(None)
        self._thread.join(seconds)
        return self.waiting == 0

    def _run(self) -> None:
        store: Store | None = None
        try:
            while True:
                if store is None:
                    store = self._opened()
                    if store is None:  # closing while the store cannot be opened
                        return
                order = self._next()
                if order is None and self._closing.is_set():
                    return
                if order is None:
                    self._look(store)
                else:
                    self._obey(store, order)
                if self._held is not None:
                    return
        except Exception as fault:  # noqa: BLE001 - the thread's last words go to the crash dialog
            self._tell(partial(self._listener.on_bug, fault))
        finally:
            if store is not None:
                store.close()

    def _opened(self) -> Store | None:
        while True:
            try:
                store = self._open_store()
                self._compare(store, 0)
            except StoreError as fault:
                self._report(fault)
                if self._closing.wait(RETRY_SECONDS):
                    return None
                continue
            self._report(None)
            return store

    def _next(self) -> _Order | None:
        if self._held is not None:
            order, self._held = self._held, None
            return order
        try:
            return self._orders.get(timeout=LOOK_SECONDS)
        except queue.Empty:
            return None

    def _obey(self, store: Store, order: _Order) -> None:
        while True:
            written = store.writes
            try:
                result = order.work(store)
                self._compare(store, store.writes - written)
            except StoreError as fault:
                if fault.passing:
                    self._report(fault)
                    if not self._closing.wait(RETRY_SECONDS):
                        continue
                    self._held = order  # closing: it stays counted as not done
                    return
                if order.failed is not None:
                    self._tell(partial(order.failed, fault))
                else:
                    self._report(fault)
            else:
                self._report(None)
                if order.done is not None:
                    self._tell(partial(order.done, result))
            break
        with self._lock:
            self._waiting -= 1

    def _compare(self, store: Store, ours: int) -> None:
        """More changes than our own writes mean that another window wrote too."""
        now = store.change()
        if self._seen_change is not None and now > self._seen_change + ours:
            self._tell(self._listener.on_changed_elsewhere)
        self._seen_change = now

    def _look(self, store: Store) -> None:
        try:
            self._compare(store, 0)
        except StoreError as fault:
            self._report(fault)
        else:
            self._report(None)

    def _report(self, fault: StoreError | None) -> None:
        if type(fault) is not type(self._trouble):
            self._trouble = fault
            self._tell(lambda: self._listener.on_store_trouble(fault))

    def _tell(self, callback: Callable[[], None]) -> None:
        self._deliver(callback)
