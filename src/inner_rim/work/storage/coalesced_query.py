"""Read the same thing from the store repeatedly, with at most one question under way."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Generic, TypeVar

if TYPE_CHECKING:
    from inner_rim.store.errors import StoreError
    from inner_rim.store.repository import Repository
    from inner_rim.work.storage.worker import StoreWorker

T = TypeVar("T")


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
