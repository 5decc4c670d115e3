"""Copies of a local database: daily and before migrations, kept for 7 days and 4 weeks; and the way back.

A copy is taken with VACUUM INTO (https://sqlite.org/lang_vacuum.html), so it is whole while the program runs
and rebuilt from what can be read; it is kept only where SQLite finds it sound.
"""

from __future__ import annotations

import contextlib
import os
import re
import sqlite3
from datetime import UTC, date, datetime
from pathlib import Path
from typing import NamedTuple

from inner_rim.store.errors import (
    SENTENCES,
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
_NAME = re.compile(r"-(\d{4}-\d\d-\d\dT\d{6})(?:-(?P<n>\d+))?\.sqlite$")


class Backup(NamedTuple):
    """A copy of the data and when it was made (UTC)."""

    file: Path
    made_at: datetime


def backups(file: Path) -> list[Backup]:
    """Return the copies of a database, oldest first."""
    found = []
    folder = file.parent / FOLDER
    with contextlib.suppress(OSError):
        for path in folder.iterdir():
            match = _NAME.search(path.name)
            if match and path.name.startswith(f"{file.stem}-"):
                with contextlib.suppress(ValueError):
                    made = datetime.strptime(match[1], _STAMP).replace(tzinfo=UTC)
                    found.append(Backup(path, made))
    return sorted(found, key=lambda backup: (backup.made_at, backup.file.name))


def back_up(file: Path, now: datetime) -> Path:
    """Copy a database into the folder `backup` beside it, and let go of copies that are too old.

    Raises:
        StoreReadOnly: the folder cannot be made or written.
        StoreDamaged: the database is not sound; no copy is kept.
    """
    folder = file.parent / FOLDER
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
    except OSError as fault:
        raise StoreReadOnly(
            tr("The backup folder {folder} cannot be made: {why}.").format(folder=folder, why=fault.strerror)
        ) from fault
    stamp = now.astimezone(UTC).strftime(_STAMP)
    target = folder / f"{file.stem}-{stamp}.sqlite"
    number = 1
    while target.exists():
        number += 1
        target = folder / f"{file.stem}-{stamp}-{number}.sqlite"
    copy(file, target)
    _let_go(file)
    return target


def daily(file: Path, now: datetime) -> Path | None:
    """Make the day's copy where there is none yet; return it, or None.

    Raises:
        StoreError: see `back_up`.
    """
    if any(backup.made_at.date() == now.astimezone(UTC).date() for backup in backups(file)):
        return None
    return back_up(file, now)


def kept(made: list[date]) -> set[int]:
    """Return which of the copies made on these days, oldest first, are kept: by place in the list.

    The newest of each of the last 7 days that have one, and of each of the last 4 calendar weeks.

    >>> sorted(kept([date(2026, 11, 1), date(2026, 11, 2), date(2026, 11, 2)]))
    [0, 2]
    """
    by_day = {day: place for place, day in enumerate(made)}
    by_week = {day.isocalendar()[:2]: place for place, day in enumerate(made)}
    days = sorted(by_day)[-DAYS_KEPT:]
    weeks = sorted(by_week)[-WEEKS_KEPT:]
    return {by_day[day] for day in days} | {by_week[week] for week in weeks}


def _let_go(file: Path) -> None:
    found = backups(file)
    keep = kept([backup.made_at.date() for backup in found])
    for place, backup in enumerate(found):
        if place not in keep:
            with contextlib.suppress(OSError):
                backup.file.unlink()


def copy(file: Path, target: Path) -> None:
    """Copy a database whole, also while it is written to; `target` is there complete or not at all.

    Raises:
        StoreError: it cannot be read, is not sound, or the copy cannot be written.
    """
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
    except sqlite3.Error as fault:
        raise translated(fault) or StoreDamaged(tr(SENTENCES[StoreDamaged])) from fault


def check(file: Path) -> None:
    """Check that a file is a sound database of this program.

    Raises:
        StoreDamaged: SQLite finds it unsound.
        StoreForeign: it is no database of this program.
        StoreUnreachable: it cannot be read.
    """
    try:
        with contextlib.closing(
            sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True)
        ) as connection:
            sound = connection.execute("PRAGMA quick_check").fetchall()
            tables = {
                name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            }
    except sqlite3.Error as fault:
        raise translated(fault) or StoreUnreachable(tr(SENTENCES[StoreUnreachable])) from fault
    if sound != [("ok",)]:
        raise StoreDamaged(tr(SENTENCES[StoreDamaged]))
    if not {"migrations", "jobs", "log", "state"} <= tables:
        raise StoreForeign(tr(SENTENCES[StoreForeign]))


def restore(backup: Path, file: Path, now: datetime) -> Path | None:
    """Put a copy in the place of the data; return where the old file was set aside, None where there was none.

    Nobody may have the data open; the old file stays beside the new one.

    Raises:
        StoreError: the copy is not sound, or the files cannot be moved; the data are then as they were.
    """
    check(backup)
    fresh = file.with_name(f"{file.name}.restored")
    fresh.unlink(missing_ok=True)
    try:
        file.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        copy(backup, fresh)
        aside = set_aside(file, now)
        fresh.replace(file)
    except OSError as fault:
        raise StoreReadOnly(
            tr("{file} cannot be written: {why}.").format(file=file, why=fault.strerror)
        ) from fault
    return aside


def set_aside(file: Path, now: datetime) -> Path | None:
    """Move a database out of the way under another name beside it; return where it went.

    Raises:
        StoreReadOnly: it cannot be moved.
    """
    if not file.exists():
        return None
    stamp = now.astimezone(UTC).strftime(_STAMP)
    number = 1
    while (aside := file.with_name(f"{file.name}.old-{stamp}{f'-{number}' if number > 1 else ''}")).exists():
        number += 1
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
