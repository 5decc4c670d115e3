"""Schema changes: named steps, each in one transaction with its record, a copy of the file first."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import msgspec
from sqlalchemy import Connection, Engine, inspect, select, text

from inner_rim.words import tr

from .errors import StoreNewer
from .rows import search_words
from .tables import JOBS, LOG, METADATA, MIGRATIONS, MOVEMENTS, PARTS, SETTINGS, STATE
from .versions import STEP_NAMES

KEPT_COPIES = 10


def _jobs_log_settings(connection: Connection) -> None:
    METADATA.create_all(connection, tables=[STATE, JOBS, LOG, SETTINGS])
    connection.execute(STATE.insert().values(id=1, change=0))
    for name, column in (("jobs_archived", "archived"), ("jobs_due", "due"), ("jobs_customer", "customer")):
        connection.execute(text(f"CREATE INDEX {name} ON jobs ({column})"))
    connection.execute(text("CREATE INDEX log_job ON log (job_id, id)"))
    if connection.dialect.name == "sqlite":
        for action in ("UPDATE", "DELETE"):
            connection.execute(
                text(
                    f"CREATE TRIGGER log_no_{action.lower()} BEFORE {action} ON log "
                    "BEGIN SELECT RAISE(ABORT, 'log entries are never changed'); END"
                )
            )


def _shelf(connection: Connection) -> None:
    METADATA.create_all(connection, tables=[PARTS, MOVEMENTS])
    connection.execute(text("CREATE INDEX movements_job ON movements (job_id, wheel)"))
    connection.execute(text("CREATE INDEX parts_stock ON parts (kind, stock)"))


def _search(connection: Connection) -> None:
    """Words of every entry, in an index of their own; elsewhere than in SQLite a plain table that is scanned."""
    if connection.dialect.name == "sqlite":
        connection.execute(
            text(
                "CREATE VIRTUAL TABLE log_search USING fts5(words, tokenize = 'unicode61 remove_diacritics 2')"
            )
        )
    else:
        connection.execute(text("CREATE TABLE log_search (rowid BIGINT PRIMARY KEY, words TEXT NOT NULL)"))
    documents = {
        job_id: msgspec.json.decode(document)
        for job_id, document in connection.execute(select(JOBS.c.id, JOBS.c.document))
    }
    rows = connection.execute(select(LOG.c.id, LOG.c.job_id, LOG.c.wheel, LOG.c.kind, LOG.c.body)).all()
    for number, job_id, wheel, kind, body in rows:
        words = search_words(documents.get(job_id, {}), wheel, kind, msgspec.json.decode(body))
        connection.execute(
            text("INSERT INTO log_search (rowid, words) VALUES (:number, :words)"),
            {"number": number, "words": words},
        )
    connection.execute(text("CREATE INDEX log_kind ON log (kind, id)"))


STEPS: tuple[Callable[[Connection], None], ...] = (_jobs_log_settings, _shelf, _search)


def migrate(engine: Engine, file: Path | None) -> list[str]:
    """Bring the database up to this program's version and return the names of the steps taken.

    Args:
        engine: the database.
        file: its file, copied before anything is changed; None where it is not a local file.

    Raises:
        StoreNewer: the database has steps that this program does not know.
    """
    applied = _applied(engine)
    unknown = [name for name in applied if name not in STEP_NAMES]
    if unknown:
        raise StoreNewer(
            tr(
                "The data file was made by a newer version of this program ({step}). Update the program; nothing was changed."
            ).format(step=unknown[-1])
        )
    pending = [
        (place, name, step)
        for place, (name, step) in enumerate(zip(STEP_NAMES, STEPS, strict=True))
        if name not in applied
    ]
    if pending and applied and file is not None:
        copy_aside(file)
    for place, name, step in pending:
        with engine.begin() as connection:
            MIGRATIONS.create(connection, checkfirst=True)
            if connection.execute(select(MIGRATIONS.c.name).where(MIGRATIONS.c.name == name)).first():
                continue  # a second window was faster
            step(connection)
            connection.execute(MIGRATIONS.insert().values(name=name, place=place, applied_at=_now()))
    return [name for _, name, _ in pending]


def _applied(engine: Engine) -> list[str]:
    with engine.connect() as connection:
        if not inspect(connection).has_table("migrations"):
            return []
        return list(connection.execute(select(MIGRATIONS.c.name).order_by(MIGRATIONS.c.place)).scalars())


def copy_aside(file: Path) -> Path:
    """Copy a SQLite database, with what its log still holds, into the folder `backup` beside it."""
    folder = file.parent / "backup"
    folder.mkdir(exist_ok=True)
    target = folder / f"{file.stem}-{_now().replace(':', '')}{file.suffix}"
    partial = target.with_suffix(".partial")
    source = sqlite3.connect(file)
    copy = sqlite3.connect(partial)
    try:
        source.backup(copy)
    finally:
        copy.close()
        source.close()
    shutil.move(partial, target)
    for old in sorted(folder.glob(f"{file.stem}-*{file.suffix}"))[:-KEPT_COPIES]:
        old.unlink()
    return target


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="microseconds")
