"""Open the data: the local file or the shop's database, a first look at it, and its daily copy."""

from __future__ import annotations

import contextlib
import json
import os
import time
from collections.abc import Callable
from datetime import UTC, date, datetime
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from inner_rim.store.snapshot import snapshot
from inner_rim.words import tr
from inner_rim.work.storage.files import folder_typed

if TYPE_CHECKING:
    from inner_rim.store.repository import Repository
    from inner_rim.store.rows import BenchState
    from inner_rim.work.storage.worker import Store

BACKUP_RETRY_SECONDS = 60.0


class Source(NamedTuple):
    """Where a window gets its data.

    Attributes:
        first: a first look, None where there is none without the repository.
        every_look: called whenever there is time; returns what the user should know.
        file: the local file, None on a server and for the demo.
        backups: makes the daily backup, None where there is none.
    """

    first: BenchState | None
    open_store: Callable[[], Repository]
    every_look: Callable[[Store], str] = lambda store: ""
    file: Path | None = None
    backups: DailyBackup | None = None


def own_source(file: Path, url: str | None) -> Source:
    """Return the user's own data: the local file, or the shop's database where a URL names it."""
    if url is not None:
        return Source(None, opener(file, url))
    backups = DailyBackup(file)
    return Source(first_look(file), opener(file), backups, file, backups)


def first_look(file: Path) -> BenchState | None:
    """Return the bench of a local file at once, or None where it needs the repository."""
    return snapshot(file)


def own_look(file: Path) -> tuple[object, object] | None:
    """Return (theme, scale) of a bench's settings, None where there are none: all that is needed
    for the first paint.
    """
    try:
        result = json.loads(file.read_bytes())
    except (OSError, ValueError, RecursionError):
        return None
    return (result.get("theme"), result.get("scale", 1.0)) if isinstance(result, dict) else None


def opener(file: Path, url: str | None = None) -> Callable[[], Repository]:
    """Return what opens the repository; called in the worker's thread.

    Args:
        url: a SQLAlchemy URL to use in its place.
    """

    def open_repository() -> Repository:
        if url is None:
            return open_file(file)
        from inner_rim.store.repository import Repository

        return Repository(url)

    return open_repository


def open_file(file: Path) -> Repository:
    """Open a local database, made where there is none.

    Raises:
        StoreError: it cannot be opened, is not ours, or is not sound.
    """
    from inner_rim.store import backup
    from inner_rim.store.database import reading_url, sqlite_url
    from inner_rim.store.errors import StoreForeign, StoreUnreachable
    from inner_rim.store.repository import Repository

    try:
        if not file.exists():
            _make(file)
        if file.stat().st_size == 0:
            raise StoreForeign(
                tr(
                    "The data file {file} is empty: it holds no data of this program. It was left as it is."
                ).format(file=file.name)
            )
        only_read = not (os.access(file, os.W_OK) and os.access(file.parent, os.W_OK))
        if only_read and not os.access(file, os.R_OK):
            raise PermissionError(13, os.strerror(13))
        readable = reading_url(file) if only_read else None
    except OSError as fault:
        raise StoreUnreachable(
            tr("The data folder {folder} cannot be used: {why}. Your work is kept here.").format(
                folder=file.parent, why=fault.strerror
            )
        ) from fault
    if readable is not None:
        return Repository(readable, read_only=True)
    return Repository(
        sqlite_url(file), before_migrating=lambda: backup.back_up(file, datetime.now(UTC))
    )


def _make(file: Path) -> None:
    """Make an empty database under another name, then rename it; if another process was faster, its
    file stays.
    """
    from inner_rim.store.database import sqlite_url
    from inner_rim.store.repository import Repository

    if not file.parent.exists():
        file.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        file.parent.chmod(0o700)
    fresh = file.with_name(f".{file.name}.{os.getpid()}-{time.monotonic_ns()}.new")
    try:
        os.close(os.open(fresh, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
        Repository(sqlite_url(fresh)).close()
        with contextlib.suppress(FileExistsError):
            os.link(fresh, file)
    finally:
        for ending in ("", "-wal", "-shm"):
            with contextlib.suppress(OSError):
                fresh.with_name(fresh.name + ending).unlink()


class DailyBackup:
    """Makes the day's copies of a local database in the worker's thread, when there is time for it.

    Attributes:
        newest: when the newest copy was made, beside the data and in the user's own folder; None
            where there is none.
    """

    def __init__(
        self, file: Path, clock: Callable[[], datetime] = lambda: datetime.now(UTC)
    ) -> None:
        self._file, self._clock = file, clock
        self._folder: Path | None = None
        self._beside_on: date | None = None
        self._done_on: date | None = None
        self._again_at = 0.0
        self._words = ""
        self.newest: tuple[datetime | None, datetime | None] = (None, None)

    def use_folder(self, folder: str) -> None:
        """Make copies in a folder of the user's own as well; none where it is empty.

        Raises:
            InputError: it is no folder: nothing changes.
        """
        self._folder = folder_typed(folder) if folder else None
        self._done_on, self._again_at = None, 0.0

    def __call__(self, store: Store) -> str:
        """Make the copy where it is due, of data that are sound; return why it cannot be made, else
        nothing.
        """
        now = self._clock()
        if store.read_only or self._done_on == now.date() or time.monotonic() < self._again_at:
            return self._words
        from inner_rim.store import backup
        from inner_rim.store.errors import StoreDamaged, StoreError

        folder = self._folder
        try:
            if self._beside_on != now.date():  # only the drive is waited for all day
                backup.check(self._file)  # damage that no row shows: an index that leaves out jobs
                backup.daily(self._file, now)
                self._beside_on = now.date()
            if folder is not None:
                backup.daily(self._file, now, folder)
            if folder == self._folder:  # else another one was chosen meanwhile
                self._done_on, self._words = now.date(), ""
        except StoreDamaged:
            self._again_at = time.monotonic() + BACKUP_RETRY_SECONDS
            self._words = tr(
                "The data file is damaged, and jobs may be missing. Restore a backup: inner-rim restore FILE"
            )
        except StoreError as fault:
            self._again_at = time.monotonic() + BACKUP_RETRY_SECONDS
            self._words = tr("No backup: {why}").format(why=fault.sentence)
        self.newest = (
            backup.newest(backup.backups(self._file)),
            backup.newest(backup.backups(self._file, folder)) if folder is not None else None,
        )
        return self._words
