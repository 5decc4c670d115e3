"""The database: engine, transactions and faults. Every write is one transaction that counts the change."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Connection, create_engine, event, update
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, DBAPIError, NoSuchModuleError

from inner_rim.core.record.plain import JsonObject
from inner_rim.store.errors import SENTENCES, StoreMisnamed, StoreReadOnly, failed, translated
from inner_rim.store.tables import STATE
from inner_rim.words import tr

if TYPE_CHECKING:
    from sqlite3 import Connection as SqliteConnection

BUSY_SECONDS = 3.0
CONNECT_SECONDS = 5
_READING = "inner_rim_reading"
ACCEPTED_URL = "accepted is sqlite:///FILE or postgresql+psycopg://USER@HOST/NAME"

#: Made once: SQLAlchemy works out a statement's cache key once for each object.
_COUNT = update(STATE).values(change=STATE.c.change + 1)


class Database:
    """A database and its transactions.

    Args:
        url: a SQLAlchemy URL of a file in SQLite or of a PostgreSQL server; see `sqlite_url`.
        busy_seconds: how long a write waits for another program.
        read_only: nothing will be written; every write is refused with a sentence.

    Attributes:
        writes: transactions committed here.
        url: where it is.
        read_only: as given.

    Raises:
        StoreMisnamed: the URL cannot be used.
    """

    def __init__(
        self, url: str | URL, busy_seconds: float = BUSY_SECONDS, *, read_only: bool = False
    ) -> None:
        self.writes = 0
        self.url = _checked(url)
        self.read_only = read_only
        arguments: JsonObject = (
            {"timeout": busy_seconds} if self.is_sqlite else {"connect_timeout": CONNECT_SECONDS}
        )
        try:
            self.engine = create_engine(self.url, connect_args=arguments)
        except (ArgumentError, NoSuchModuleError, ImportError) as fault:
            raise StoreMisnamed(_misnamed(self.url)) from fault
        if self.is_sqlite:
            event.listen(self.engine, "connect", _only_read if read_only else _prepare_sqlite)
            event.listen(self.engine, "begin", _begin)

    @property
    def is_sqlite(self) -> bool:
        """Whether the data are in an SQLite file, with its own search index."""
        return self.url.get_backend_name() == "sqlite"

    @property
    def file(self) -> Path | None:
        """The file of a local database; None on a server."""
        name = self.url.database
        if not self.is_sqlite or not name:
            return None
        return Path(name.removeprefix("file:")) if name.startswith("file:") else Path(name)

    def close(self) -> None:
        """Let go of the database."""
        self.engine.dispose()

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """Give a connection that only reads.

        Raises:
            StoreError: any expected fault.
        """
        with faults(), self.engine.connect() as connection:
            yield connection.execution_options(**{_READING: True})

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """Give a connection whose changes are one transaction, and one change for every window.

        Counting the change comes first: on a server its row is the lock that puts writers in sequence, as
        BEGIN IMMEDIATE does in SQLite.

        Raises:
            StoreError: any expected fault; nothing was written.
        """
        if self.read_only:
            raise StoreReadOnly(tr(SENTENCES[StoreReadOnly]))
        with faults(), self.engine.begin() as connection:
            connection.execute(_COUNT)
            yield connection
        self.writes += 1


def sqlite_url(file: Path, *, read_only: bool = False) -> URL:
    """Return the URL of a local SQLite file.

    Args:
        file: the file.
        read_only: open it without writing anything beside it, as on a read-only medium.
    """
    if read_only:
        return URL.create(
            "sqlite", database=f"file:{file}", query={"mode": "ro", "immutable": "1", "uri": "true"}
        )
    return URL.create("sqlite", database=str(file))


def _checked(url: str | URL) -> URL:
    try:
        made = make_url(url)
    except (ArgumentError, ValueError) as fault:
        raise StoreMisnamed(_misnamed(None)) from fault
    if made.get_backend_name() == "sqlite":
        if not made.database or made.database == ":memory:":
            raise StoreMisnamed(_misnamed(made))
    elif made.get_backend_name() != "postgresql":
        raise StoreMisnamed(_misnamed(made))
    return made


def _misnamed(url: URL | None) -> str:
    """Name the URL without its password; text that is no URL at all may be anything, and is not repeated."""
    shown = f"“{url.render_as_string(hide_password=True)}”" if url is not None else tr("the text given")
    return tr("INNER_RIM_DATABASE: {shown} names no database that can be used; {accepted}.").format(
        shown=shown, accepted=tr(ACCEPTED_URL)
    )


@contextmanager
def faults() -> Iterator[None]:
    """Turn the driver's expected faults into ours; what remains is a bug, and passes as one."""
    try:
        yield
    except (DBAPIError, sqlite3.Error) as fault:
        ours = translated(fault)
        if ours is None:
            raise failed(fault) from fault
        raise ours from fault


def _prepare_sqlite(connection: SqliteConnection, _record: object) -> None:
    connection.isolation_level = None  # we say BEGIN ourselves, so that the schema is transactional too
    cursor = connection.cursor()
    try:
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.execute("PRAGMA journal_mode = WAL")
        cursor.execute("PRAGMA synchronous = FULL")
    finally:
        cursor.close()


def _only_read(connection: SqliteConnection, _record: object) -> None:
    connection.isolation_level = None


def _begin(connection: Connection) -> None:
    reading = connection.get_execution_options().get(_READING, False)
    connection.exec_driver_sql("BEGIN" if reading else "BEGIN IMMEDIATE")
