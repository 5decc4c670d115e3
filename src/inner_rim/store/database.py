"""The database: engine, transactions and faults. Every write is one transaction that counts the
change.
"""

from __future__ import annotations

import atexit
import contextlib
import os
import shutil
import socket
import sqlite3
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, cast

from sqlalchemy import Connection, create_engine, event, update
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, DBAPIError, NoSuchModuleError

from inner_rim.core.record.paths import JsonObject
from inner_rim.store.errors import (
    SENTENCES,
    SQLITE_FAULTS,
    StoreError,
    StoreMisnamed,
    StoreMoved,
    StoreReadOnly,
    StoreReplaced,
    failed,
    translated,
)
from inner_rim.store.tables import STATE
from inner_rim.words import N_, tr

if TYPE_CHECKING:
    from sqlite3 import Connection as SqliteConnection

    from sqlalchemy.pool import QueuePool

BUSY_SECONDS = 3.0
#: How long a server may take to connect, to give a lock, to answer a statement, and to answer at
#: all: then the connection is cut, so that a window never waits for one that is silent.
CONNECT_SECONDS, LOCK_SECONDS, STATEMENT_SECONDS, ANSWER_SECONDS = 5, 4, 6, 8.0
#: How often it is looked whether an answer has come.
LOOK_SECONDS = 0.25
_SERVER: JsonObject = {
    "connect_timeout": CONNECT_SECONDS,
    "options": f"-c statement_timeout={STATEMENT_SECONDS}s -c lock_timeout={LOCK_SECONDS}s",
}
_READING, _WATCH = "inner_rim_reading", "inner_rim_watch"
ACCEPTED_URL = N_("use sqlite:///FILE or postgresql+psycopg://USER@HOST/NAME")

#: Made once: SQLAlchemy works out a statement's cache key once for each object.
_COUNT = update(STATE).values(change=STATE.c.change + 1)


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _files(file: Path) -> tuple[Path, ...]:
    """The data file, its write-ahead log and the index of that."""
    return file, *(file.with_name(f"{file.name}-{end}") for end in ("wal", "shm"))


def _put(partial: Path, target: Path) -> None:
    """Give a written file its name, never over a file that is there."""
    try:
        os.link(partial, target)
    except FileExistsError:
        raise
    except OSError:  # a file system without links, such as a stick's
        if target.exists():
            raise
        partial.rename(target)


def kept_name(file: Path) -> Path:
    """Return the name under which data are kept that were open while another file took its place."""
    stamp = datetime.now().strftime("%Y-%m-%dT%H%M%S")
    return file.with_name(f"{file.stem}-kept-{stamp}{file.suffix}")


class Database:
    """A database and its transactions.

    Args:
        url: a SQLAlchemy URL of a file in SQLite or of a PostgreSQL server; see `sqlite_url`.
        busy_seconds: how long a write waits for another program.

    Attributes:
        writes: transactions committed here.

    Raises:
        StoreMisnamed: the URL cannot be used.
    """

    def __init__(
        self, url: str | URL, busy_seconds: float = BUSY_SECONDS, *, read_only: bool = False
    ) -> None:
        self.writes = 0
        self.url = _checked(url)
        self.read_only = read_only
        self._generation: int | None = None
        self._places: dict[Path, tuple[int, int] | None] = {}
        self._saved = False
        arguments: JsonObject = {"timeout": busy_seconds} if self.is_sqlite else _SERVER
        try:
            self.engine = create_engine(self.url, connect_args=arguments)
        except (ArgumentError, NoSuchModuleError, ImportError) as fault:
            raise StoreMisnamed(_misnamed(self.url)) from fault
        if self.is_sqlite:
            event.listen(self.engine, "connect", _prepare_reading if read_only else _prepare_sqlite)
            event.listen(self.engine, "begin", _begin)
        else:
            event.listen(self.engine, "before_cursor_execute", _asked)
            event.listen(self.engine, "after_cursor_execute", _answered)

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
        """Close it; where its file was taken away, what was open is written first: back to its
        place, or beside the file that is there now.
        """
        moved = self._moved()
        if moved is not None and self._held and self.file is not None and not self._saved:
            with contextlib.suppress(StoreError):
                self.copy_to(kept_name(self.file) if moved.there else self.file)
        self.engine.dispose()

    @property
    def _held(self) -> bool:
        """Whether a connection is open that still has the data."""
        return cast("QueuePool", self.engine.pool).checkedin() > 0

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """Give a connection that only reads.

        Raises:
            StoreError: any expected fault.
        """
        self._check_place()
        with faults(), self.engine.connect() as connection, _watched(connection):
            reading = connection.execution_options(**{_READING: True})
            self._check_generation(reading)
            yield reading

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """Give a connection whose changes are one transaction, and one change for every window.

        Counting the change comes first: on a server its row is the lock that puts writers in
        sequence, as BEGIN IMMEDIATE does in SQLite.

        Raises:
            StoreError: any expected fault; nothing was written.
        """
        if self.read_only:
            raise StoreReadOnly(tr(SENTENCES[StoreReadOnly]))
        self._check_place()
        with (
            faults(),
            self.engine.connect() as connection,
            _watched(connection) as watch,
            connection.begin(),
        ):
            self._check_generation(connection)
            connection.execute(_COUNT)
            yield connection
            self._check_place()  # else nothing of it is stored
            watch.asked()  # the commit is asked of the server like a statement
        self.writes += 1

    def _check_place(self) -> None:
        """Refuse to go on where the file at the path is not the one that is open.

        Raises:
            StoreMoved: it was moved, deleted or replaced.
        """
        moved = self._moved()
        if moved is not None:
            raise moved
        if self.file is not None and not self.read_only:
            self._places = {place: _identity(place) for place in _files(self.file)}

    def _moved(self) -> StoreMoved | None:
        """What happened to the file that is open, None where it is at its place."""
        if self.file is None or self.read_only or self._places.get(self.file) is None:
            return None
        now = _identity(self.file)
        return None if now == self._places[self.file] else StoreMoved(there=now is not None)

    def copy_to(self, target: Path) -> None:
        """Write what is open into a new file, whole or not at all, wherever the open one has gone.

        Its log, where it still lies at its place, goes away: it would be read into the next file
        there.

        Raises:
            StoreError: it cannot be written, or a file of that name is there.
        """
        partial = target.with_name(f".inner-rim-{os.urandom(8).hex()}.partial")
        try:
            target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            os.close(os.open(partial, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
            with faults():
                held = self.engine.raw_connection()
                try:
                    with contextlib.closing(sqlite3.connect(partial)) as copy:
                        cast("SqliteConnection", held.driver_connection).backup(copy)
                finally:
                    held.close()
            if target == self.file:
                self._drop_log()
            _put(partial, target)
            self._drop_log()
            self._saved = True
        except OSError as fault:
            raise StoreReadOnly(tr(SENTENCES[StoreReadOnly])) from fault
        finally:
            with contextlib.suppress(OSError):
                partial.unlink(missing_ok=True)

    def _drop_log(self) -> None:
        """Take away the log of what is open where it still lies at its place."""
        for place, identity in self._places.items():
            if place != self.file and identity is not None and _identity(place) == identity:
                place.unlink()
        self._places = {place: self._places[place] for place in self._places if place == self.file}

    def _check_generation(self, connection: Connection) -> None:
        """Refuse to go on where the data were restored from a backup since they were opened."""
        if not self.is_sqlite:
            return
        now = int(connection.exec_driver_sql("PRAGMA user_version").scalar_one())
        if self._generation is None:
            self._generation = now
        elif now != self._generation:
            raise StoreReplaced(tr(SENTENCES[StoreReplaced]))


def sqlite_url(file: Path) -> URL:
    return URL.create("sqlite", database=str(file))


def reading_url(file: Path) -> URL:
    """Return the URL of a local SQLite file that cannot be written, nor anything beside it.

    Where a program has it open, its write-ahead log is read through the file that program shares. A
    log that a crash left behind can only be read where it can be written
    (https://sqlite.org/wal.html#readonly): a copy of both is read, in a folder that goes with this
    process. Else the file is all there is.

    Raises:
        StoreError: the copy cannot be made or read.
    """
    shared = URL.create("sqlite", database=f"file:{file}", query={"mode": "ro", "uri": "true"})
    log = file.with_name(f"{file.name}-wal")
    if not log.exists() or log.stat().st_size == 0:
        return shared.update_query_dict({"immutable": "1"})
    with contextlib.suppress(sqlite3.Error), contextlib.closing(_opened(shared)) as connection:
        connection.execute("SELECT COUNT(*) FROM sqlite_master")
        return shared
    folder = Path(tempfile.mkdtemp(prefix="inner-rim-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    for part in (file, log):
        shutil.copyfile(part, folder / part.name)
    return sqlite_url(folder / file.name)


def _opened(url: URL) -> SqliteConnection:
    return sqlite3.connect(f"{url.database}?mode=ro", uri=True)


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
    """Name the URL without its password, nor what follows “?”, which may hold one; other text may
    be anything, and is not repeated.
    """
    shown = f"“{url.set(query={}).render_as_string()}”" if url is not None else tr("the text given")
    return tr("INNER_RIM_DATABASE: {shown} names no database that can be used: {accepted}.").format(
        shown=shown, accepted=tr(ACCEPTED_URL)
    )


@contextmanager
def faults() -> Iterator[None]:
    """Turn the driver's expected faults into ours; what remains is a bug, and passes as one."""
    try:
        yield
    except (DBAPIError, *SQLITE_FAULTS) as fault:
        ours = translated(fault)
        if ours is None:
            raise failed(fault) from fault
        raise ours from fault


class _Watch:
    """Cuts a server's connection that has not answered for too long: what waits for it then goes on
    with a fault.
    """

    def __init__(self, number: int | None) -> None:
        self._number = number
        self._since: float | None = None
        self._over = threading.Event()
        if number is not None:
            threading.Thread(target=self._run, name="server watch", daemon=True).start()

    def asked(self) -> None:
        self._since = time.monotonic()

    def answered(self) -> None:
        """Its answer is here: the program may take its time."""
        self._since = None

    def end(self) -> None:
        self._over.set()

    def _run(self) -> None:
        while not self._over.wait(LOOK_SECONDS):
            since = self._since
            if (
                since is not None
                and time.monotonic() - since > ANSWER_SECONDS
                and self._number is not None
            ):
                with (
                    contextlib.suppress(OSError),
                    socket.socket(fileno=os.dup(self._number)) as line,
                ):
                    line.shutdown(socket.SHUT_RDWR)
                return


@contextmanager
def _watched(connection: Connection) -> Iterator[_Watch]:
    number = getattr(connection.connection.driver_connection, "fileno", None)
    watch = connection.info[_WATCH] = _Watch(number() if number is not None else None)
    try:
        yield watch
    finally:
        watch.end()


def _asked(connection: Connection, *_about: object) -> None:
    watch = connection.info.get(_WATCH)
    if watch is not None:
        watch.asked()


def _answered(connection: Connection, *_about: object) -> None:
    watch = connection.info.get(_WATCH)
    if watch is not None:
        watch.answered()


def _as_text(stored: bytes) -> str:
    """Stored text; bytes that are no UTF-8 stand as surrogates, which no reader accepts: one row is
    unreadable, not all.
    """
    return stored.decode("utf-8", "surrogateescape")


def _prepare_sqlite(connection: SqliteConnection, record: object) -> None:
    _prepare_reading(connection, record)
    cursor = connection.cursor()
    try:
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.execute("PRAGMA journal_mode = WAL")
        cursor.execute("PRAGMA synchronous = FULL")
    finally:
        cursor.close()


def _prepare_reading(connection: SqliteConnection, _record: object) -> None:
    connection.isolation_level = (
        None  # we say BEGIN ourselves, so that the schema is transactional too
    )
    connection.text_factory = _as_text


def _begin(connection: Connection) -> None:
    reading = connection.get_execution_options().get(_READING, False)
    connection.exec_driver_sql("BEGIN" if reading else "BEGIN IMMEDIATE")
