"""Shop setup and shelf as one file, to take to another bench; `inner-rim import` reads it too."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from inner_rim.core.record.plain import JsonObject
from inner_rim.store.rows import BenchState
from inner_rim.words import tr
from inner_rim.work.editing.history import Set
from inner_rim.work.storage.files import write_saying

if TYPE_CHECKING:
    from inner_rim.store.errors import StoreError
    from inner_rim.store.repository import Repository
    from inner_rim.work.editing.settings import Settings
    from inner_rim.work.editing.shelf import ShelfBook
    from inner_rim.work.editing.sync import Sync

NAME = "inner-rim-setup.json"


def export_setup(settings: Settings, shelf: ShelfBook, path: Path, say: Callable[[str], None]) -> bool:
    """Write the shop's setup and shelf, and say so; return whether it was written."""
    from inner_rim.work.tasks.exchange import work_file

    return write_saying(path, lambda: work_file([], shelf.items, settings.shop, []), say)


def import_setup(sync: Sync, shelf: ShelfBook, path: Path, say: Callable[[str], None]) -> None:
    """Take in whatever `import` reads, all or nothing, and say what came of it; settings are one step to take back."""

    def take_in(store: Repository) -> tuple[str, JsonObject, BenchState | None]:
        from inner_rim.core.record.errors import InputError
        from inner_rim.work.tasks.exchange import import_files

        before = store.bench().settings  # here, where no other window's change comes between
        try:
            return import_files(store, [path]), before, store.bench()
        except InputError as fault:
            return fault.sentence, before, None

    def taken(result: tuple[str, JsonObject, BenchState | None]) -> None:
        words, before, state = result
        if state is not None:
            after = state.settings
            with sync.history.grouped():
                for name in sorted({*before, *after}):
                    if before.get(name) != after.get(name):
                        sync.history.push(Set(name, before.get(name), after.get(name)))
            sync.adopt(state)
            shelf.load()
        say(words)

    def refused(fault: StoreError) -> None:
        say(fault.sentence)

    if sync.worker is not None:
        sync.worker.submit(take_in, taken, refused, words=tr("Import from {file}").format(file=path.name))
