"""Parts in and out of files: all or nothing, with progress and cancel."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from inner_rim.core.errors import InputError
from inner_rim.core.parts import Item
from inner_rim.store.errors import StoreError
from inner_rim.words import tr

from .files import read_whole, write_whole
from .shelf import ShelfBook


def export_parts(path: Path, items: tuple[Item, ...]) -> str:
    """Write parts as CSV or, where the name ends so, as JSON; return what was done in a sentence.

    Raises:
        InputError: the file cannot be written.
    """
    from inner_rim.documents.parts_table import to_csv, to_json

    write_whole(path, to_json(items) if path.suffix.lower() == ".json" else to_csv(items))
    return tr("{n} parts written to {file}").format(n=len(items), file=path.name)


def read_parts(path: Path) -> list[Item]:
    """Return the parts in a CSV or JSON file.

    Raises:
        InputError: the file, or a row of it, is not accepted; the sentence names line and column.
    """
    from inner_rim.documents.parts_table import from_csv, from_json

    data = read_whole(path)
    return from_json(data) if path.suffix.lower() == ".json" else from_csv(data)


class PartsImport:
    """One import: how far it is, and whether it was stopped.

    Attributes:
        done, total: parts stored so far, and in all; 0 before the file is read.
        over: nothing more will come.
        words: how it ended, in a sentence.
    """

    def __init__(self, shelf: ShelfBook, path: Path, told: Callable[[], None]) -> None:
        self._shelf, self._path, self._told = shelf, path, told
        self._stopped = False
        self.done = self.total = 0
        self.over = False
        self.words = ""

    def start(self) -> None:
        """Read the file and store its parts, in the keeper's thread; without a keeper at once."""
        keeper = self._shelf.keeper
        if keeper is not None:
            keeper.order(self._work, self._ended, self._failed)
            return
        try:
            items = read_parts(self._path)
        except InputError as fault:
            self._end(fault.sentence)
            return
        self._shelf.keep_many(items)
        self._ended(len(items))

    def stop(self) -> None:
        """Take all of it back."""
        self._stopped = True

    def _work(self, store: Any) -> int | str:
        """Return how many parts were stored, or why none was."""
        try:
            items = read_parts(self._path)
        except InputError as fault:
            return fault.sentence
        self.total = len(items)
        stored: int = store.shelf.put_many(items, self._shelf.now(), tr("imported"), self._progress)
        return stored

    def _progress(self, done: int) -> bool:
        self.done = done  # the view looks at it by its own clock
        return not self._stopped

    def _ended(self, result: int | str) -> None:
        if isinstance(result, str):
            self._end(result)
        elif self._stopped and result == 0:
            self._end(tr("Stopped: nothing was imported"))
        else:
            self.done = result
            self._shelf.load()
            self._end(tr("{n} parts imported from {file}").format(n=result, file=self._path.name))

    def _failed(self, fault: StoreError) -> None:
        self._end(fault.sentence)

    def _end(self, words: str) -> None:
        self.words, self.over = words, True
        self._told()
