"""Schema changes: named steps with their own frozen schema, each in one transaction with its
record.

A step never refers to today's tables: it makes what it made when it was written. The registry is
`STEPS`; this module is light (no SQLAlchemy until `migrate`), because the first look at the data
asks it whether a file is up to date.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from inner_rim.core.record.paths import JsonObject
from inner_rim.words import tr

if TYPE_CHECKING:
    from sqlalchemy import Connection

    from inner_rim.store.database import Database
    from inner_rim.store.rows import Row

#: Marks a SQLite file as one of ours (PRAGMA application_id): "InRm".
APPLICATION_ID = 0x496E526D
_LOCK = 7_265_331  # for first starts at the same time on a server; any constant number


class _Schema:
    """Runs a step's statements in the dialect of the database at hand."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self.is_sqlite = connection.dialect.name == "sqlite"

    def run(self, *statements: str) -> None:
        """Run statements; `{serial}` stands for an auto-incrementing number."""
        serial = "INTEGER PRIMARY KEY" if self.is_sqlite else "BIGSERIAL PRIMARY KEY"
        for statement in statements:
            self._connection.exec_driver_sql(statement.replace("{serial}", serial))

    def rows(self, statement: str) -> list[Row]:
        return [tuple(row) for row in self._connection.exec_driver_sql(statement)]

    def put(self, table: str, rows: list[JsonObject]) -> None:
        from sqlalchemy import text

        if rows:
            names = ", ".join(rows[0])
            values = ", ".join(f":{name}" for name in rows[0])
            self._connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({values})"), rows)

    def change(self, statement: str, **values: object) -> None:
        from sqlalchemy import text

        self._connection.execute(text(statement), values)

    def guard_log(self) -> None:
        """Make the database itself refuse changes to the log."""
        if self.is_sqlite:
            self.run(
                *(
                    f"CREATE TRIGGER log_no_{action.lower()} BEFORE {action} ON log "
                    "BEGIN SELECT RAISE(ABORT, 'log entries are never changed'); END"
                    for action in ("UPDATE", "DELETE")
                ),
                "CREATE TRIGGER log_no_replace BEFORE INSERT ON log "
                "WHEN EXISTS (SELECT 1 FROM log WHERE id = NEW.id OR uid = NEW.uid) "
                "BEGIN SELECT RAISE(ABORT, 'log entries are never changed'); END",
            )
            return
        self.run(
            "CREATE OR REPLACE FUNCTION log_entries_stay() RETURNS trigger LANGUAGE plpgsql AS "
            "$$ BEGIN RAISE EXCEPTION 'log entries are never changed'; END $$",
            "CREATE TRIGGER log_no_change BEFORE UPDATE OR DELETE ON log "
            "FOR EACH ROW EXECUTE FUNCTION log_entries_stay()",
            "CREATE TRIGGER log_no_truncate BEFORE TRUNCATE ON log "
            "FOR EACH STATEMENT EXECUTE FUNCTION log_entries_stay()",
        )


def _first(schema: _Schema) -> None:
    schema.run(
        "CREATE TABLE state (id INTEGER PRIMARY KEY, change INTEGER NOT NULL)",
        "INSERT INTO state (id, change) VALUES (1, 0)",
        "CREATE TABLE jobs (id {serial}, uid TEXT NOT NULL UNIQUE, document TEXT NOT NULL, drafts TEXT NOT NULL, "
        "revision INTEGER NOT NULL, archived INTEGER NOT NULL, title TEXT, customer TEXT, bike TEXT, due TEXT, "
        "created_at TEXT NOT NULL, changed_at TEXT NOT NULL)",
        "CREATE INDEX jobs_archived ON jobs (archived)",
        "CREATE INDEX jobs_due ON jobs (due)",
        "CREATE INDEX jobs_customer ON jobs (customer)",
        "CREATE TABLE log (id {serial}, uid TEXT NOT NULL UNIQUE, job_uid TEXT NOT NULL, wheel_id TEXT NOT NULL, "
        "at TEXT NOT NULL, kind TEXT NOT NULL, body TEXT NOT NULL)",
        "CREATE INDEX log_job ON log (job_uid, id)",
        "CREATE INDEX log_wheel ON log (wheel_id, id)",
        "CREATE INDEX log_kind ON log (kind, id)",
        "CREATE TABLE edits (id {serial}, uid TEXT NOT NULL UNIQUE, refused TEXT NOT NULL)",
        "CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL)",
        "CREATE TABLE parts (id {serial}, uid TEXT NOT NULL UNIQUE, kind TEXT NOT NULL, name TEXT NOT NULL, "
        "spec TEXT NOT NULL, low_at DOUBLE PRECISION NOT NULL, retired INTEGER NOT NULL, "
        "changed_at TEXT NOT NULL, UNIQUE (kind, name))",
        "CREATE TABLE movements (id {serial}, uid TEXT NOT NULL UNIQUE, part_uid TEXT NOT NULL, at TEXT NOT NULL, "
        "amount DOUBLE PRECISION NOT NULL, reason TEXT NOT NULL, job_uid TEXT, wheel_id TEXT, stage TEXT)",
        "CREATE INDEX movements_part ON movements (part_uid, amount)",
        "CREATE INDEX movements_wheel ON movements (job_uid, wheel_id)",
    )
    schema.guard_log()
    if schema.is_sqlite:
        schema.run(f"PRAGMA application_id = {APPLICATION_ID}")


#: Every step once, in order.
STEPS: tuple[tuple[str, Callable[[_Schema], None]], ...] = (("0001 first release", _first),)


def step_names() -> list[str]:
    return [name for name, _step in STEPS]


def migrate(database: Database, before_changing: Callable[[], object] = lambda: None) -> list[str]:
    """Bring a database up to this program's version and return the names of the steps taken.

    Args:
        before_changing: makes a copy; called before a database that has data is changed.

    Raises:
        StoreNewer: it has steps that this program does not know.
        StoreForeign: it is another program's database.
    """
    from inner_rim.store.database import faults
    from inner_rim.store.errors import SENTENCES, StoreForeign, StoreNewer
    from inner_rim.store.search import discard, rebuild

    with faults():
        applied, tables = _applied(database)
    known = step_names()
    unknown = [name for name in applied if name not in known]
    if unknown:
        raise StoreNewer(
            tr(
                "The data were written by a newer version of this program ({step}). Update the program; nothing was changed."
            ).format(step=unknown[-1])
        )
    if tables and not applied:
        raise StoreForeign(tr(SENTENCES[StoreForeign]))
    pending = [entry for entry in STEPS if entry[0] not in applied]
    if pending and applied:
        before_changing()
    if not pending:
        return []
    done = []
    with faults(), database.engine.begin() as connection:
        schema = _Schema(connection)
        # two first starts at once: the second waits, then finds the work done
        if not schema.is_sqlite:
            schema.run("SET LOCAL statement_timeout = 0", "SET LOCAL lock_timeout = 0")
            schema.run(f"SELECT pg_advisory_xact_lock({_LOCK})")
        schema.run(
            "CREATE TABLE IF NOT EXISTS migrations (name TEXT PRIMARY KEY, place INTEGER NOT NULL, "
            "applied_at TEXT NOT NULL)"
        )
        have = {name for (name,) in schema.rows("SELECT name FROM migrations")}
        for place, (name, step) in enumerate(STEPS):
            if name in have:
                continue
            step(schema)
            schema.put("migrations", [{"name": name, "place": place, "applied_at": _now()}])
            done.append(name)
        before = rebuild(connection) if done else ""
    with faults():
        discard(database, before)
    return done


def _applied(database: Database) -> tuple[list[str], bool]:
    from sqlalchemy import inspect, text

    with database.engine.connect() as connection:
        tables = inspect(connection).get_table_names()
        if "migrations" not in tables:
            return [], bool(tables)
        names = connection.execute(text("SELECT name FROM migrations ORDER BY place")).scalars()
        return list(names), True


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="microseconds")
