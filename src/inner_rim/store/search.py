"""The search index of the log: in SQLite an FTS5 table, elsewhere a plain one; it can always be
rebuilt.

The index follows from the log. Where it is lost or a page of it damaged, a new one is made from the
log under another name: the damaged one is left alone where it cannot be dropped.
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable

import msgspec
from sqlalchemy import Connection, select, text
from sqlalchemy.exc import DBAPIError

from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.texts import cleaned
from inner_rim.store.database import Database
from inner_rim.store.errors import sqlite_code
from inner_rim.store.tables import JOBS, LOG

_NAME = "log_search"
_BATCH = 2000

#: Words by which a person searches for a kind of entry, in English and German: benches of a shop
#: may differ.
KIND_WORDS = {
    "attempt": "seating attempt try setzen versuch",
    "inspection": "inspection looked over geprüft",
    "finding": "inspection finding befund",
    "reading": "reading hold gauge ablesung dicht manometer",
    "leak": "leak bubbles hold leck undicht blasen",
    "feedback": "test ride feedback probefahrt",
    "care": "aftercare care pflege",
    "dip": "dipstick dip sealant peilung dichtmilch",
    "dose": "sealant dose dichtmilch menge",
    "sign_off": "signed handed over übergeben unterschrift",
    "promise": "promised due zugesagt fällig",
    "override": "stop passed override stopp aufgehoben",
    "step": "step done schritt erledigt",
}
_WORD = re.compile(r"[\w.]+")
MAX_WORDS = 20


def index_name(connection: Connection) -> str:
    result = connection.execute(
        text("SELECT value FROM settings WHERE name = 'search.table'")
    ).scalar_one_or_none()
    name = _plain(result) if result is not None else None
    return name if isinstance(name, str) and re.fullmatch(r"log_search(_\d+)?", name) else _NAME


class IndexLost(Exception):
    """The index is missing or damaged: the transaction is rolled back, the index rebuilt, the work
    done again.

    Within the transaction that met the damage, SQLite makes no new table any more.
    """


def add(connection: Connection, rows: list[JsonObject]) -> None:
    """Put entries' words into the index: the number of each, and its words.

    Raises:
        IndexLost: it is missing or damaged.
    """
    _sound(lambda: _insert(connection, index_name(connection), rows))


def follow_job(connection: Connection, job_uid: str) -> None:
    """Index a job's entries again: its names have changed.

    Raises:
        IndexLost: the index is missing or damaged.
    """

    def index_again() -> None:
        name = index_name(connection)
        rows = _rows(connection, job_uid)
        for row in rows:
            connection.execute(
                text(f"DELETE FROM {name} WHERE rowid = :number"), {"number": row["number"]}
            )
        _insert(connection, name, rows)

    _sound(index_again)


def _sound(change: Callable[[], None]) -> None:
    try:
        change()
    except DBAPIError as fault:
        if is_lost(fault):
            raise IndexLost from fault
        raise


def is_lost(fault: DBAPIError) -> bool:
    """Whether a fault can mean that the index is missing or damaged."""
    code = sqlite_code(fault)
    if code is not None:
        return code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_ERROR)
    return getattr(fault.orig, "sqlstate", None) in ("42P01", "XX001", "XX002")


def rebuild(connection: Connection) -> str:
    """Rebuild the index from the log; return the name of the one before it, for `discard` after the
    commit.
    """
    old = index_name(connection)
    name = _fresh_name(connection)
    if connection.dialect.name == "sqlite":
        connection.exec_driver_sql(
            f"CREATE VIRTUAL TABLE {name} USING fts5(words, tokenize = 'unicode61 remove_diacritics 2')"
        )
    else:
        connection.exec_driver_sql(
            f"CREATE TABLE {name} (rowid BIGINT PRIMARY KEY, words TEXT NOT NULL)"
        )
    _insert(connection, name, _rows(connection))
    connection.execute(text("DELETE FROM settings WHERE name = 'search.table'"))
    connection.execute(
        text("INSERT INTO settings (name, value) VALUES ('search.table', :value)"),
        {"value": f'"{name}"'},
    )
    return old if old != name else ""


def discard(database: Database, name: str) -> None:
    """Drop an index that is out of use; one that is too damaged for that is removed from the
    schema.

    Its pages are then unused until the file is rebuilt, as each backup is
    (https://sqlite.org/pragma.html#pragma_writable_schema). Each in a transaction of its own:
    SQLite changes no schema in one that has met a damaged virtual table.
    """
    if not name:
        return
    try:
        with database.engine.begin() as connection:
            connection.exec_driver_sql(f"DROP TABLE IF EXISTS {name}")
            return
    except DBAPIError as fault:
        if not is_lost(fault) or not database.is_sqlite:
            raise
    with database.engine.begin() as connection:
        connection.exec_driver_sql("PRAGMA writable_schema = ON")
        connection.execute(
            text("DELETE FROM sqlite_master WHERE name = :name OR tbl_name GLOB :parts"),
            {"name": name, "parts": f"{name}_[a-z]*"},
        )
        connection.exec_driver_sql("PRAGMA writable_schema = OFF")


def _fresh_name(connection: Connection) -> str:
    if connection.dialect.name == "sqlite":
        result = connection.exec_driver_sql(
            "SELECT name FROM sqlite_master WHERE name LIKE 'log_search%'"
        )
    else:
        result = connection.exec_driver_sql(
            "SELECT tablename FROM pg_tables WHERE schemaname = current_schema() AND left(tablename, 10) = 'log_search'"
        )
    taken = set(result.scalars())
    number = 1
    while any(
        name == f"{_NAME}_{number}" or name.startswith(f"{_NAME}_{number}_") for name in taken
    ):
        number += 1
    return f"{_NAME}_{number}"


def _insert(connection: Connection, name: str, rows: list[JsonObject]) -> None:
    for start in range(0, len(rows), _BATCH):
        connection.execute(
            text(f"INSERT INTO {name} (rowid, words) VALUES (:number, :words)"),
            rows[start : start + _BATCH],
        )


def _rows(connection: Connection, job_uid: str | None = None) -> list[JsonObject]:
    jobs = select(JOBS.c.uid, JOBS.c.document)
    entries = select(LOG.c.id, LOG.c.job_uid, LOG.c.wheel_id, LOG.c.kind, LOG.c.body).order_by(
        LOG.c.id
    )
    if job_uid is not None:
        jobs, entries = jobs.where(JOBS.c.uid == job_uid), entries.where(LOG.c.job_uid == job_uid)
    documents = {uid: _plain(document) for uid, document in connection.execute(jobs)}
    return [
        {"number": number, "words": words_of(documents.get(uid), wheel_id, kind, body)}
        for number, uid, wheel_id, kind, body in connection.execute(entries)
    ]


def words_of(document: object, wheel_id: str, kind: str, body: str) -> str:
    """Return the searchable text of one entry: its own words, its wheel's names and sizes."""
    document = document if isinstance(document, dict) else {}
    words = [KIND_WORDS.get(kind, kind), *_leaf_words(_plain(body))]
    words += [str(document.get(key) or "") for key in ("title", "customer", "bike")]
    one = wheel_of(document, wheel_id)
    words.append(str(one.get("name") or ""))
    for part in ("rim", "tire", "insert"):
        figures = one.get(part)
        if isinstance(figures, dict):
            words += [
                str(figures.get(key) or "") for key in ("name", "size", "bead_seat_diameter_mm")
            ]
    return cleaned(" ".join(word.replace("_", " ") for word in words if word))


def names_in(document: object) -> str:
    """Return the searchable text of a job and its wheels; when it changes, the entries are indexed
    again.
    """
    wheels = document.get("wheels") or () if isinstance(document, dict) else ()
    return "\0".join(words_of(document, str(wheel.get("wheel_id")), "", "null") for wheel in wheels)


def plain_document(body: str | None) -> JsonObject:
    result = _plain(body) if body is not None else None
    return result if isinstance(result, dict) else {}


def wheels_of(body: str) -> list[JsonObject]:
    wheels = plain_document(body).get("wheels")
    return (
        [wheel for wheel in wheels if isinstance(wheel, dict)] if isinstance(wheels, list) else []
    )


def wheel_of(document: object, wheel_id: str) -> JsonObject:
    wheels = document.get("wheels") if isinstance(document, dict) else None
    for wheel in wheels if isinstance(wheels, list) else ():
        if isinstance(wheel, dict) and wheel.get("wheel_id") == wheel_id:
            return wheel
    return {}


def asked_words(typed: str) -> list[str]:
    return _WORD.findall(typed)[:MAX_WORDS]


def _leaf_words(body: object) -> list[str]:
    if isinstance(body, dict):
        return [
            word for key, value in body.items() if key != "trace" for word in _leaf_words(value)
        ]
    if isinstance(body, list):
        return [word for value in body for word in _leaf_words(value)]
    return [str(body)] if isinstance(body, str) else []


def _plain(body: str) -> object:
    try:
        return msgspec.json.decode(body)
    except (ValueError, TypeError, RecursionError):
        return None
