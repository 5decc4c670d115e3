"""Copies of a local database: daily and before migrations, kept for 7 days and 4 weeks; and
restoring.

They are made in the folder `backup` beside the database, and daily in a folder of the user's own as
well. Several benches may use the same one, so a copy there is named after the computer and the
place of the data too.

A copy is taken with VACUUM INTO (https://sqlite.org/lang_vacuum.html), so it is whole while the
program runs and rebuilt from what can be read; it is kept only where SQLite finds it sound.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import platform
import re
import shutil
import sqlite3
from datetime import UTC, date, datetime
from pathlib import Path
from typing import NamedTuple

from inner_rim.store.errors import (
    SENTENCES,
    SQLITE_FAULTS,
    StoreDamaged,
    StoreForeign,
    StoreReadOnly,
    StoreUnreachable,
    translated,
)
from inner_rim.words import tr

FOLDER = "backup"
DAYS_KEPT, WEEKS_KEPT = 7, 4
_STAMP = "%Y-%m-%dT%H%M%S"
#: A time stamp, then a running number.
_NAME = re.compile(r"-(\d{4}-\d\d-\d\dT\d{6})(?:-\d+)?(?:\.(?P<place>\d+))?\.sqlite$")


class Backup(NamedTuple):
    """A copy of the data, when it was made (UTC) by the clock of then, and its place in the order
    made.
    """

    file: Path
    made_at: datetime
    place: int = 0


def backups(file: Path, folder: Path | None = None) -> list[Backup]:
    """Return the copies of a database in the order made, whatever the clock said.

    Args:
        folder: where to look; the one beside the database if not given.
    """
    label = _label(file, folder)
    with contextlib.suppress(OSError):
        return [copy for name, copy in _copies(folder or file.parent / FOLDER) if name == label]
    return []


def _is_folder(folder: Path) -> bool:
    """Whether it is there, and may be looked at."""
    with contextlib.suppress(OSError, ValueError):
        return folder.is_dir()
    return False


def _label(file: Path, folder: Path | None) -> str:
    """What the names of a database's copies begin with: in a folder of the user's own, nobody
    else's begin so.
    """
    if folder is None:
        return file.stem
    computer = re.sub(r"\W+", "", platform.node()) or "computer"
    place = hashlib.sha256(str(file.absolute()).encode(errors="surrogateescape")).hexdigest()[:6]
    return f"{file.stem}-{computer}-{place}"


def _copies(folder: Path) -> list[tuple[str, Backup]]:
    """Return every copy in a folder with what its name begins with, in the order made.

    Raises:
        OSError: the folder cannot be read.
    """
    result = []
    for path in folder.iterdir():
        match = _NAME.search(path.name)
        if match:
            with contextlib.suppress(ValueError):
                made = datetime.strptime(match[1], _STAMP).replace(tzinfo=UTC)
                result.append(
                    (path.name[: match.start()], Backup(path, made, int(match["place"] or 0)))
                )
    return sorted(result, key=lambda one: (one[1].place, one[1].made_at, one[1].file.name))


def newest(copies: list[Backup]) -> datetime | None:
    """Return when the newest copy was made, None where there is none."""
    return copies[-1].made_at if copies else None


def newest_in(folder: Path, file: Path) -> Path:
    """Return the newest copy of a database in a folder; where it has none there, the newest of the
    only other one.

    Raises:
        StoreForeign: there is none, or there are copies of several databases.
        StoreUnreachable: the folder cannot be read.
    """
    try:
        copies = _copies(folder)
    except OSError as fault:
        raise StoreUnreachable(
            tr("The folder {folder} cannot be read: {why}.").format(
                folder=folder, why=fault.strerror
            )
        ) from fault
    if not copies:
        raise StoreForeign(tr("{folder} holds no backup.").format(folder=folder))
    own = [copy for name, copy in copies if name in (_label(file, folder), _label(file, None))]
    if not own and len({name for name, _copy in copies}) > 1:
        raise StoreForeign(
            tr("{folder} holds backups of several benches: name the file, such as {file}.").format(
                folder=folder, file=copies[-1][1].file.name
            )
        )
    return (own or [copy for _name, copy in copies])[-1].file


def back_up(file: Path, now: datetime, folder: Path | None = None) -> Path:
    """Copy a database into a folder, and delete copies there that are too old.

    Args:
        folder: the user's own, which is never created: a missing drive's mount point would be
            filled; if not given, the one beside the database.

    Raises:
        StoreReadOnly: the folder is not there, cannot be made or written.
        StoreDamaged: the database is not sound; no copy is kept.
    """
    label, own = _label(file, folder), folder
    if folder is None:
        folder = file.parent / FOLDER
        try:
            folder.mkdir(mode=0o700, exist_ok=True)
        except OSError as fault:
            raise StoreReadOnly(
                tr("The backup folder {folder} cannot be made: {why}.").format(
                    folder=folder, why=fault.strerror
                )
            ) from fault
    elif not _is_folder(folder):
        raise StoreReadOnly(
            tr(
                "The backup folder {folder} is not there. Plug it in, or choose another one in Setup."
            ).format(folder=folder)
        )
    stamp = now.astimezone(UTC).strftime(_STAMP)
    place = max((backup.place for backup in backups(file, own)), default=0) + 1
    while os.path.lexists(target := folder / f"{label}-{stamp}.{place:06d}.sqlite"):
        place += 1
    copy(file, target)
    _drop_old_copies(file, own)
    return target


def daily(file: Path, now: datetime, folder: Path | None = None) -> Path | None:
    """Make the day's copy where there is none yet; return it, or None.

    Raises:
        StoreError: see `back_up`.
    """
    if any(backup.made_at.date() == now.astimezone(UTC).date() for backup in backups(file, folder)):
        return None
    return back_up(file, now, folder)


def kept(made: list[date]) -> set[int]:
    """Return which of the copies made on these days, in the order made, are kept: by place in the
    list.

    The last made of each of the last 7 days that have one, and of each of the last 4 calendar
    weeks: last by order, so that the copy just made is kept where the clock was set back.

    >>> sorted(kept([date(2026, 11, 1), date(2026, 11, 2), date(2026, 11, 2)]))
    [0, 2]
    """
    days: dict[date, int] = {}
    weeks: dict[tuple[int, int], int] = {}
    for place in reversed(range(len(made))):
        day = made[place]
        days.setdefault(day, place)
        weeks.setdefault(day.isocalendar()[:2], place)
    return {*list(days.values())[:DAYS_KEPT], *list(weeks.values())[:WEEKS_KEPT]}


def _drop_old_copies(file: Path, folder: Path | None) -> None:
    result = backups(file, folder)
    keep = kept([backup.made_at.date() for backup in result])
    for place, backup in enumerate(result):
        if place not in keep:
            with contextlib.suppress(OSError):
                backup.file.unlink()


def copy(file: Path, target: Path) -> None:
    """Copy a database whole, also while it is written to; `target` is there complete or not at all.

    Raises:
        StoreError: it cannot be read, is not sound, or the copy cannot be written.
    """
    if _is_data(target, file):
        raise StoreForeign(
            tr("{file} is the data file itself; choose another name.").format(file=target)
        )
    if target.exists() and not target.is_file():
        raise StoreForeign(tr("{file} is no file; choose the name of a file.").format(file=target))
    partial = target.with_name(f".{target.name}.{os.getpid()}.partial")
    try:
        handle = os.open(partial, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600)
        os.close(handle)
        _copy_pages(file, partial)
        check(partial)
        partial.replace(target)
    except OSError as fault:
        raise StoreReadOnly(
            tr("{file} cannot be written: {why}.").format(file=target, why=fault.strerror)
        ) from fault
    finally:
        for litter in (partial, partial.with_name(partial.name + "-journal")):
            with contextlib.suppress(OSError):
                litter.unlink()


def _copy_pages(file: Path, partial: Path) -> None:
    try:
        source = sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True, timeout=5.0)
        try:
            source.execute("VACUUM INTO ?", (str(partial),))
        finally:
            source.close()
    except SQLITE_FAULTS as fault:
        raise translated(fault) or StoreDamaged(tr(SENTENCES[StoreDamaged])) from fault


def check(file: Path) -> None:
    """Check that a file is a sound database of this program.

    Raises:
        StoreDamaged: SQLite finds it unsound.
        StoreForeign: it is no database of this program.
        StoreUnreachable: it cannot be read.
    """
    if file.exists() and not file.is_file():  # reading a pipe would block
        raise StoreForeign(tr("{file} is no file; choose the name of a file.").format(file=file))
    try:
        with contextlib.closing(
            sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True)
        ) as connection:
            sound = connection.execute("PRAGMA quick_check").fetchall()
            tables = {
                name
                for (name,) in connection.execute(
                    "SELECT name FROM sqlite_master WHERE type = 'table'"
                )
            }
    except SQLITE_FAULTS as fault:
        raise translated(fault) or StoreUnreachable(tr(SENTENCES[StoreUnreachable])) from fault
    if sound != [("ok",)]:
        raise StoreDamaged(tr(SENTENCES[StoreDamaged]))
    if not {"migrations", "jobs", "log", "state"} <= tables:
        raise StoreForeign(tr(SENTENCES[StoreForeign]))


def restore(backup: Path, file: Path, now: datetime) -> Path | None:
    """Restore a copy; return where the old data are kept, None where there were none.

    Windows may have the data open: their next write is refused, and they read the restored data.
    The data are whole at every moment: SQLite overwrites them in one transaction
    (https://sqlite.org/backup.html); only a file that it does not take for a database is replaced.

    Raises:
        StoreError: the copy is not sound, or is the data file, or a file cannot be written; the
            data are then as they were.
    """
    if _is_data(backup, file):
        raise StoreForeign(tr("{file} is the data file, not a backup of it.").format(file=backup))
    check(backup)
    fresh = file.with_name(f".{file.name}.{os.getpid()}.restored")
    try:
        file.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        copy(backup, fresh)
        _set_generation(fresh)
        if not file.exists():
            fresh.replace(file)
            return None
        aside = _free_name(file, now)
        try:
            _keep_before(file, aside)
            _overwrite(fresh, file)
        except (StoreDamaged, StoreForeign):
            _replace(fresh, file, aside)
        return aside
    except OSError as fault:
        raise StoreReadOnly(
            tr("{file} cannot be written: {why}.").format(file=file, why=fault.strerror)
        ) from fault
    finally:
        fresh.unlink(missing_ok=True)


def _set_generation(file: Path) -> None:
    """Mark data as replaced: `database` compares the mark at every write."""
    with contextlib.closing(sqlite3.connect(file)) as connection:
        connection.execute(f"PRAGMA user_version = {int.from_bytes(os.urandom(4)) >> 1 | 1}")


def _keep_before(file: Path, aside: Path) -> None:
    """Copy the data as they are, damaged or not, and stop every window from writing to them."""
    try:
        with contextlib.closing(
            sqlite3.connect(file, timeout=5.0, isolation_level=None)
        ) as connection:
            connection.execute("BEGIN IMMEDIATE")
            for ending in ("", "-wal"):
                part = file.with_name(file.name + ending)
                if part.exists() and part.stat().st_size:
                    shutil.copyfile(part, aside.with_name(aside.name + ending))
            connection.execute(f"PRAGMA user_version = {int.from_bytes(os.urandom(4)) >> 1 | 1}")
            connection.execute("COMMIT")
    except SQLITE_FAULTS as fault:
        raise translated(fault) or StoreDamaged(tr(SENTENCES[StoreDamaged])) from fault


def _overwrite(fresh: Path, file: Path) -> None:
    try:
        with (
            contextlib.closing(sqlite3.connect(fresh)) as source,
            contextlib.closing(sqlite3.connect(file, timeout=5.0)) as target,
        ):
            source.backup(target)
    except SQLITE_FAULTS as fault:
        raise translated(fault) or StoreDamaged(tr(SENTENCES[StoreDamaged])) from fault


def _replace(fresh: Path, file: Path, aside: Path) -> None:
    """Replace a file that is no longer a database; a file of that name exists at every moment."""
    aside.unlink(missing_ok=True)
    log = file.with_name(f"{file.name}-wal")
    if log.exists() and log.stat().st_size:
        log.replace(aside.with_name(f"{aside.name}-wal"))
    # they do not belong to the restored data, and would be applied to them
    for ending in ("-wal", "-shm"):
        file.with_name(file.name + ending).unlink(missing_ok=True)
    os.link(file, aside)
    fresh.replace(file)


def _is_data(path: Path, file: Path) -> bool:
    """Whether a path is the data file or one of the files beside it, under whatever name."""
    for ending in ("", "-wal", "-shm", "-journal"):
        with contextlib.suppress(OSError):
            if path.samefile(file.with_name(file.name + ending)):
                return True
    return False


def set_aside(file: Path, now: datetime) -> Path | None:
    """Move a database out of the way under another name beside it; return where it went.

    Raises:
        StoreReadOnly: it cannot be moved.
    """
    if not file.exists():
        return None
    aside = _free_name(file, now)
    try:
        for ending in ("-wal", "-shm"):
            part = file.with_name(file.name + ending)
            if part.exists():
                part.replace(aside.with_name(aside.name + ending))
        file.replace(aside)
    except OSError as fault:
        raise StoreReadOnly(
            tr("{file} cannot be moved: {why}.").format(file=file, why=fault.strerror)
        ) from fault
    return aside


def _free_name(file: Path, now: datetime) -> Path:
    stamp = now.astimezone(UTC).strftime(_STAMP)
    number = 1
    while (
        aside := file.with_name(f"{file.name}.old-{stamp}{f'-{number}' if number > 1 else ''}")
    ).exists():
        number += 1
    return aside
