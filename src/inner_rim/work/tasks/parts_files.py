"""Parts in and out of files: all or nothing, with progress and cancel, while storing goes on."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import Item
from inner_rim.store.errors import StoreError
from inner_rim.words import tr
from inner_rim.work.storage.files import read_whole, write_whole

if TYPE_CHECKING:
    from inner_rim.work.editing.shelf import ShelfBook
    from inner_rim.work.storage.worker import StoreWorker


def export_parts(path: Path, items: tuple[Item, ...]) -> str:
    """Write parts as CSV or, where the name ends so, as JSON; return what was done in a sentence.

    Raises:
        InputError: the file cannot be written.
    """
    from inner_rim.documents.parts_table import to_csv, to_json

    write_whole(path, to_json(items) if path.suffix.lower() == ".json" else to_csv(items))
    return tr("{n} parts written to {file}").format(n=len(items), file=path.name)


def read_parts(path: Path, on_progress: Callable[[int], bool] = lambda done: True) -> list[Item]:
    """Return the parts in a CSV or JSON file.

    Args:
        on_progress: called with the number of rows read; returning False stops it.

    Raises:
        InputError: the file, or a row of it, is not accepted, or reading was stopped; names line
            and column.
    """
    from inner_rim.documents.parts_table import MAX_FILE_BYTES, from_csv, from_json

    data = read_whole(path, MAX_FILE_BYTES)
    return from_json(data) if path.suffix.lower() == ".json" else from_csv(data, on_progress)


class PartsImport:
    """One import: how far it is, and whether it was stopped.

    The file is read and checked in a thread of its own; only one transaction of
    prepared rows, is left to the worker.

    Attributes:
        done, total: parts checked so far, and in all; 0 before the file is read.
        over: nothing more will come.
    """

    def __init__(
        self,
        shelf: ShelfBook,
        worker: StoreWorker | None,
        path: Path,
        now: str,
        on_end: Callable[[], None],
    ) -> None:
        self._shelf, self._worker, self._path = shelf, worker, path
        self._now, self._on_end = now, on_end
        self._stopped = False
        self.done = self.total = 0
        self.over = False
        self.words = ""

    def start(self) -> None:
        """Read the file and store its parts; without a store at once."""
        if self._worker is not None:
            threading.Thread(
                target=self._read, args=(self._worker,), name="parts import", daemon=True
            ).start()
            return
        try:
            items = read_parts(self._path)
        except InputError as fault:
            self._end(fault.sentence)
            return
        self._shelf.keep_many(items)
        self._ended(len(items))

    def stop(self) -> None:
        self._stopped = True

    def _read(self, worker: StoreWorker) -> None:
        """Read and check, in a thread of its own; what comes of it goes through the worker's queue."""
        from inner_rim.store.shelf import prepared

        try:
            items = read_parts(self._path, self._progress)
            rows = [prepared(item) for item in items]
        except (InputError, StoreError) as fault:
            sentence = fault.sentence
            worker.submit(lambda store: sentence, self._ended)
            return
        self.total = len(rows)
        worker.submit(
            lambda store: store.shelf.put_many(rows, self._now, tr("imported"), self._go_on),
            self._ended,
            self._failed,
            words=tr("Parts from {file}").format(file=self._path.name),
        )

    def _progress(self, done: int) -> bool:
        self.done = done  # the view polls it
        return not self._stopped

    def _go_on(self, done: int) -> bool:
        self.done = done
        return not self._stopped

    def _ended(self, result: int | str) -> None:
        if self._stopped and not (isinstance(result, int) and result > 0):
            self._end(tr("Stopped: nothing was imported"))
        elif isinstance(result, str):
            self._end(result)
        else:
            self.done = result
            self._shelf.load()
            self._end(tr("{n} parts imported from {file}").format(n=result, file=self._path.name))

    def _failed(self, fault: StoreError) -> None:
        self._end(fault.sentence)

    def _end(self, words: str) -> None:
        self.words, self.over = words, True
        self._on_end()


class PartsFiles:
    """The shelf in and out of files."""

    def __init__(
        self, shelf: ShelfBook, worker: Callable[[], StoreWorker | None], now: Callable[[], str]
    ) -> None:
        self._shelf, self._worker, self._now = shelf, worker, now

    def take_in(self, path: Path, on_end: Callable[[], None]) -> PartsImport:
        return PartsImport(self._shelf, self._worker(), path, self._now(), on_end)

    def give_out(self, path: Path) -> str:
        """Write the whole shelf into a file; see `export_parts`."""
        return export_parts(path, self._shelf.items)
