"""Recovery from a damaged or foreign data file: restore a backup, or set the file aside."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from inner_rim.core.record.moments import in_words, local
from inner_rim.store.errors import StoreDamaged, StoreError, StoreForeign, StoreMoved
from inner_rim.words import tr

if TYPE_CHECKING:
    from inner_rim.core.record.parts import Item
    from inner_rim.core.record.paths import JsonObject
    from inner_rim.work.storage.worker import Kept


def damage(faults: Iterable[StoreError | None]) -> StoreError | None:
    """Return the first fault that a backup would help against, None where there is none."""
    return next((fault for fault in faults if isinstance(fault, StoreDamaged | StoreForeign)), None)


def moved(fault: object) -> StoreMoved | None:
    """Return the fault of a data file that is not at its place any more, None for another."""
    return fault if isinstance(fault, StoreMoved) else None


def kept_name(file: Path) -> Path:
    from inner_rim.store.database import kept_name

    return kept_name(file)


def newest_backup(file: Path) -> tuple[Path, str] | None:
    from inner_rim.store.backup import backups

    result = backups(file)
    if not result:
        return None
    return result[-1].file, in_words(local(result[-1].made_at), "%d %b %Y %H:%M")


def restoring(backup: Path, file: Path) -> Callable[[], None]:
    """Return what puts a backup in the place of the data, for the worker to do while nothing is
    open.
    """

    def restore() -> None:
        from inner_rim.store.backup import restore

        restore(backup, file, datetime.now(UTC))

    return restore


def setting_aside(file: Path) -> Callable[[], None]:
    """Return what moves the data file out of the way, for the worker to do while nothing is open."""

    def aside() -> None:
        from inner_rim.store.backup import set_aside

        set_aside(file, datetime.now(UTC))

    return aside


def restore_file(backup: Path, file: Path) -> str:
    """Put a backup, or the newest one in a folder, in the place of the data; return what was done.

    Raises:
        StoreError: the backup is not sound, or a file cannot be written.
    """
    from inner_rim.store.backup import newest_in, restore

    backup = newest_in(backup, file) if backup.is_dir() else backup
    aside = restore(backup, file, datetime.now(UTC))
    kept = tr(" The data before it are in {file}.").format(file=aside) if aside is not None else ""
    return tr("Restored from {backup}.").format(backup=backup) + kept


def work_of(
    jobs: list[JsonObject], items: Iterable[Item], settings: JsonObject, kept: Iterable[Kept]
) -> bytes:
    """Return everything a window holds as a file that `import` reads.

    Args:
        jobs: the jobs on the bench, and what is not stored of others.
    """
    from inner_rim.work.tasks.exchange import work_file

    aside: list[JsonObject] = [
        {"what": one.words, "why": one.fault.sentence, "content": one.content} for one in kept
    ]
    return work_file(jobs, items, settings, aside)
