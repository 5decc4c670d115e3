"""Jobs, log and settings in a database. Every write is one transaction that counts the change."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import msgspec
from sqlalchemy import Connection, CursorResult, create_engine, event, select, text, update
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import DBAPIError

from inner_rim.core.log import AnyEntry, Logged

from . import rows
from .errors import ChangedElsewhere, translated
from .logbook import LogbookStore
from .migrations import migrate
from .shelf import ShelfStore
from .tables import JOBS, LOG, SETTINGS, STATE

BUSY_SECONDS = 3.0
_ENCODER = msgspec.json.Encoder()
_READING = "inner_rim_reading"


class Repository:
    """The one way to the stored jobs.

    Args:
        url: any SQLAlchemy URL; see `sqlite_url` for a local file.
        busy_seconds: how long a write waits for another program.

    Raises:
        StoreError: any expected fault, here and in every method.
    """

    def __init__(self, url: str | URL, busy_seconds: float = BUSY_SECONDS) -> None:
        self.writes = 0  # committed by this repository
        self._url = make_url(url)
        arguments = {"timeout": busy_seconds} if self.is_sqlite else {}
        self._engine = create_engine(self._url, connect_args=arguments)
        if self.is_sqlite:
            event.listen(self._engine, "connect", _prepare_sqlite)
            event.listen(self._engine, "begin", _begin)
        self.shelf = ShelfStore(self)
        self.logbook = LogbookStore(self)
        try:
            with _faults():
                migrate(self._engine, self._file)
        except BaseException:
            self._engine.dispose()
            raise

    @property
    def is_sqlite(self) -> bool:
        """Whether the data lie in an SQLite file, with its own search index."""
        return self._url.get_backend_name() == "sqlite"

    @property
    def _file(self) -> Path | None:
        name = self._url.database
        return Path(name) if self.is_sqlite and name and not name.startswith(("file:", ":")) else None

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    def bench(self) -> rows.BenchState:
        """Return all jobs on the bench with their logs, and the settings."""
        with self.reading() as connection:
            return rows.bench_state(
                connection.execute(text(rows.BENCH_JOBS)),
                connection.execute(text(rows.BENCH_LOG)),
                connection.execute(text(rows.SETTINGS)),
                connection.execute(text(rows.CHANGE)).scalar_one(),
                connection.execute(text(rows.STOCKED)),
            )

    def change(self) -> int:
        """Return the number of the last change, by whichever window."""
        with self.reading() as connection:
            return int(connection.execute(select(STATE.c.change)).scalar_one())

    def recent_documents(self, most: int = 500) -> list[dict[str, Any]]:
        """Return the newest job documents, put away or not, for what was used before."""
        with self.reading() as connection:
            found = connection.execute(select(JOBS.c.document).order_by(JOBS.c.id.desc()).limit(most))
            return [msgspec.json.decode(document) for document in found.scalars()]

    def create(self, document: dict[str, Any], drafts: dict[str, str], now: str) -> int:
        """Store a new job and return its id."""
        with self.writing() as connection:
            done = connection.execute(
                JOBS.insert().values(
                    revision=1, archived=0, created_at=now, **_columns(document, drafts, now)
                )
            )
            return _new_id(done)

    def save(
        self, job_id: int, document: dict[str, Any], drafts: dict[str, str], expected: int, now: str
    ) -> int:
        """Store an edit of a job and return its new revision.

        Raises:
            ChangedElsewhere: the stored revision is not `expected`; nothing was written.
        """
        with self.writing() as connection:
            done = connection.execute(
                update(JOBS)
                .where(JOBS.c.id == job_id, JOBS.c.revision == expected)
                .values(revision=expected + 1, **_columns(document, drafts, now))
            )
            if done.rowcount != 1:
                raise ChangedElsewhere(job_id)
            return expected + 1

    def put_away(self, job_id: int, now: str, away: bool = True) -> None:
        """Take a job off the bench, or back onto it."""
        with self.writing() as connection:
            connection.execute(
                update(JOBS).where(JOBS.c.id == job_id).values(archived=int(away), changed_at=now)
            )

    def append(self, job_id: int, wheel: int, entry: AnyEntry, now: str) -> Logged:
        """Append an entry to a wheel's log and return it as it stands there."""
        body = _ENCODER.encode(entry).decode()
        kind = str(type(entry).__struct_config__.tag)
        with self.writing() as connection:
            done = connection.execute(
                LOG.insert().values(job_id=job_id, wheel=wheel, at=now, kind=kind, body=body)
            )
            number = _new_id(done)
            self.logbook.index(connection, number, job_id, wheel, kind, body)
            return Logged(number=number, at=now, wheel=wheel, entry=entry)

    def set_setting(self, name: str, value: Any) -> None:
        """Store a setting, whatever it was before."""
        encoded = _ENCODER.encode(value).decode()
        with self.writing() as connection:
            done = connection.execute(update(SETTINGS).where(SETTINGS.c.name == name).values(value=encoded))
            if done.rowcount == 0:
                connection.execute(SETTINGS.insert().values(name=name, value=encoded))

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """Give a connection that only reads."""
        with _faults(), self._engine.connect() as connection:
            yield connection.execution_options(**{_READING: True})

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """Give a connection whose changes are one transaction, and one change for every window."""
        with _faults(), self._engine.begin() as connection:
            connection.execute(update(STATE).values(change=STATE.c.change + 1))
            yield connection
        self.writes += 1


def sqlite_url(file: Path) -> URL:
    """Return the URL of a local SQLite file; its folder is made where it is missing."""
    return URL.create("sqlite", database=str(file))


def _new_id(done: CursorResult[Any]) -> int:
    key = done.inserted_primary_key
    assert key is not None  # every insert here is of one row
    return int(key[0])


def _columns(document: dict[str, Any], drafts: dict[str, str], now: str) -> dict[str, Any]:
    return {
        "document": _ENCODER.encode(document).decode(),
        "drafts": _ENCODER.encode(drafts).decode(),
        "title": document.get("title"),
        "customer": document.get("customer"),
        "bike": document.get("bike"),
        "due": document.get("due"),
        "changed_at": now,
    }


@contextmanager
def _faults() -> Iterator[None]:
    """Turn the driver's expected faults into ours; bugs pass as they are."""
    try:
        yield
    except (DBAPIError, sqlite3.Error) as fault:
        ours = translated(fault)
        if ours is None:
            raise
        raise ours from fault


def _prepare_sqlite(connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # we say BEGIN ourselves, so that the schema is transactional too
    cursor = connection.cursor()
    try:
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.execute("PRAGMA journal_mode = WAL")
        cursor.execute("PRAGMA synchronous = FULL")
    finally:
        cursor.close()


def _begin(connection: Connection) -> None:
    reading = connection.get_execution_options().get(_READING, False)
    connection.exec_driver_sql("BEGIN" if reading else "BEGIN IMMEDIATE")
