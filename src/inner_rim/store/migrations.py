"""Schema changes: named steps with their own frozen schema, each in one transaction with its record.

A step never refers to today's tables: what it makes is what it made when it was written. The registry is
`STEPS`; this module is light (no SQLAlchemy until `migrate`), because the first look at the data asks it
whether a file is up to date.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any

from inner_rim.core.record.plain import JsonObject
from inner_rim.words import tr

if TYPE_CHECKING:
    from sqlalchemy import Connection

    from inner_rim.store.database import Database
    from inner_rim.store.rows import Row

#: Marks a SQLite file as one of ours (PRAGMA application_id): "InRm".
APPLICATION_ID = 0x496E526D
_LOCK = 7_265_331  # of first starts at once on a server; any number that stays the same


class _Schema:
    """Runs a step's statements in the words of the database at hand."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self.is_sqlite = connection.dialect.name == "sqlite"

    def run(self, *statements: str) -> None:
        """Run statements; `{serial}` stands for a number that counts by itself."""
        serial = "INTEGER PRIMARY KEY" if self.is_sqlite else "BIGSERIAL PRIMARY KEY"
        for statement in statements:
            self._connection.exec_driver_sql(statement.replace("{serial}", serial))

    def rows(self, statement: str) -> list[Row]:
        """Return the rows of a query."""
        return [tuple(row) for row in self._connection.exec_driver_sql(statement)]

    def put(self, table: str, rows: list[JsonObject]) -> None:
        """Insert rows into a table."""
        from sqlalchemy import text

        if rows:
            names = ", ".join(rows[0])
            values = ", ".join(f":{name}" for name in rows[0])
            self._connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({values})"), rows)

    def change(self, statement: str, **values: object) -> None:
        """Run a statement with named values."""
        from sqlalchemy import text

        self._connection.execute(text(statement), values)

    def guard_log(self) -> None:
        """Let the database itself refuse to change the log."""
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


def _jobs_log_settings(schema: _Schema) -> None:
    schema.run(
        "CREATE TABLE state (id INTEGER PRIMARY KEY, change INTEGER NOT NULL)",
        "INSERT INTO state (id, change) VALUES (1, 0)",
        "CREATE TABLE jobs (id {serial}, document TEXT NOT NULL, drafts TEXT NOT NULL, "
        "revision INTEGER NOT NULL, archived INTEGER NOT NULL, title TEXT, customer TEXT, bike TEXT, due TEXT, "
        "created_at TEXT NOT NULL, changed_at TEXT NOT NULL)",
        "CREATE INDEX jobs_archived ON jobs (archived)",
        "CREATE INDEX jobs_due ON jobs (due)",
        "CREATE INDEX jobs_customer ON jobs (customer)",
        "CREATE TABLE log (id {serial}, job_id INTEGER NOT NULL, wheel INTEGER NOT NULL, at TEXT NOT NULL, "
        "kind TEXT NOT NULL, body TEXT NOT NULL)",
        "CREATE INDEX log_job ON log (job_id, id)",
        "CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL)",
    )
    if schema.is_sqlite:
        schema.run(
            *(
                f"CREATE TRIGGER log_no_{action.lower()} BEFORE {action} ON log "
                "BEGIN SELECT RAISE(ABORT, 'log entries are never changed'); END"
                for action in ("UPDATE", "DELETE")
            )
        )


def _shelf(schema: _Schema) -> None:
    schema.run(
        "CREATE TABLE parts (id {serial}, kind TEXT NOT NULL, name TEXT NOT NULL, spec TEXT NOT NULL, "
        "stock DOUBLE PRECISION NOT NULL, low_at DOUBLE PRECISION NOT NULL, retired INTEGER NOT NULL, "
        "changed_at TEXT NOT NULL, UNIQUE (kind, name))",
        "CREATE TABLE movements (id {serial}, part_id INTEGER NOT NULL, at TEXT NOT NULL, "
        "amount DOUBLE PRECISION NOT NULL, reason TEXT NOT NULL, job_id INTEGER, wheel INTEGER, stage TEXT)",
        "CREATE INDEX movements_job ON movements (job_id, wheel)",
        "CREATE INDEX parts_stock ON parts (kind, stock)",
    )


def _search(schema: _Schema) -> None:
    """The words of every entry; filled by the step after, which makes the index anew."""
    schema.run("CREATE INDEX log_kind ON log (kind, id)")


def _identities(schema: _Schema) -> None:
    """Jobs, wheels, parts and entries get identities; stock becomes the sum of its movements;
    drafts get the units they were typed in; settings stand one by one.
    """
    from inner_rim.core.record.ids import id_from

    settings = {name: _json(value) for name, value in schema.rows("SELECT name, value FROM settings")}
    units = settings.get("units")
    jobs: dict[int, str] = {}
    places: dict[tuple[int, int], str] = {}
    documents: dict[int, tuple[str, str]] = {}
    for number, document, drafts, created in schema.rows(
        "SELECT id, document, drafts, created_at FROM jobs ORDER BY id"
    ):
        uid = jobs[number] = id_from("job", number, created)
        documents[number] = _with_ids(number, uid, document, drafts, units, places)
    log = schema.rows("SELECT id, job_id, wheel, at, kind, body FROM log ORDER BY id")
    parts = schema.rows(
        "SELECT id, kind, name, spec, stock, low_at, retired, changed_at FROM parts ORDER BY id"
    )
    moves = schema.rows(
        "SELECT id, part_id, at, amount, reason, job_id, wheel, stage FROM movements ORDER BY id"
    )
    schema.run("ALTER TABLE jobs ADD COLUMN uid TEXT")
    for number, (document, drafts) in documents.items():
        schema.change(
            "UPDATE jobs SET uid = :uid, document = :document, drafts = :drafts WHERE id = :id",
            uid=jobs[number],
            document=document,
            drafts=drafts,
            id=number,
        )
    schema.run("CREATE UNIQUE INDEX jobs_uid ON jobs (uid)")

    def wheel_of(number: int | None, place: int | None) -> str | None:
        if number is None or place is None:
            return None
        return places.setdefault((number, place), id_from(jobs.get(number, number), place))

    _log_anew(schema, log, jobs, wheel_of)
    _stock_anew(schema, parts, moves, jobs, wheel_of)
    schema.run(
        "CREATE TABLE old_codes (job_number INTEGER NOT NULL, place INTEGER NOT NULL, job_uid TEXT NOT NULL, "
        "wheel_id TEXT NOT NULL, PRIMARY KEY (job_number, place))"
    )
    schema.put(
        "old_codes",
        [
            {"job_number": number, "place": place, "job_uid": jobs.get(number, ""), "wheel_id": wheel_id}
            for (number, place), wheel_id in places.items()
        ],
    )
    _settings_one_by_one(schema, settings)
    if schema.is_sqlite:
        schema.run(f"PRAGMA application_id = {APPLICATION_ID}")


def _with_ids(
    number: int, uid: str, document: str, drafts: str, units: object, places: dict[tuple[int, int], str]
) -> tuple[str, str]:
    """Return document and drafts with identities; what cannot be read stays byte for byte."""
    from inner_rim.core.record.ids import id_from

    plain = _json(document)
    wheels = plain.get("wheels") if isinstance(plain, dict) else None
    if not isinstance(wheels, list) or not all(isinstance(wheel, dict) for wheel in wheels):
        return document, drafts
    for place, wheel in enumerate(wheels):
        wheel["wheel_id"] = places[(number, place)] = id_from(uid, place)
    typed = {}
    old = _json(drafts)
    for path, text in old.items() if isinstance(old, dict) else ():
        head, _, rest = path.partition("].")
        found = re.fullmatch(r"wheels\[(\d{1,4})", head) if rest else None
        target = places.get((number, int(found[1])), "") if found else ""
        if isinstance(text, str) and (target or found is None):
            typed[f"{target}:{rest or path}"] = {"text": text, **({"units": units} if units else {})}
    return (
        json.dumps(plain, ensure_ascii=False, separators=(",", ":")),
        json.dumps(typed, ensure_ascii=False, separators=(",", ":")),
    )


_WheelOf = Callable[[int | None, int | None], str | None]


def _log_anew(schema: _Schema, log: list[Row], jobs: dict[int, str], wheel_of: _WheelOf) -> None:
    from inner_rim.core.record.ids import id_from

    schema.run(
        "DROP TABLE log",
        "CREATE TABLE log (id {serial}, uid TEXT NOT NULL UNIQUE, job_uid TEXT NOT NULL, wheel_id TEXT NOT NULL, "
        "at TEXT NOT NULL, kind TEXT NOT NULL, body TEXT NOT NULL)",
        "CREATE INDEX log_job ON log (job_uid, id)",
        "CREATE INDEX log_wheel ON log (wheel_id, id)",
        "CREATE INDEX log_kind ON log (kind, id)",
    )
    schema.put(
        "log",
        [
            {
                "id": number,
                "uid": id_from("entry", jobs.get(job, job), number, at),
                "job_uid": jobs.get(job, str(job)),
                "wheel_id": wheel_of(job, wheel),
                "at": at,
                "kind": kind,
                "body": body,
            }
            for number, job, wheel, at, kind, body in log
        ],
    )
    if not schema.is_sqlite:
        schema.run(
            "SELECT setval(pg_get_serial_sequence('log', 'id'), (SELECT COALESCE(MAX(id), 1) FROM log))"
        )
    schema.guard_log()


_STOCK_SCHEMA = (
    "DROP TABLE movements",
    "DROP TABLE parts",
    "CREATE TABLE parts (id {serial}, uid TEXT NOT NULL UNIQUE, kind TEXT NOT NULL, name TEXT NOT NULL, "
    "spec TEXT NOT NULL, low_at DOUBLE PRECISION NOT NULL, retired INTEGER NOT NULL, "
    "changed_at TEXT NOT NULL, UNIQUE (kind, name))",
    "CREATE TABLE movements (id {serial}, uid TEXT NOT NULL UNIQUE, part_uid TEXT NOT NULL, at TEXT NOT NULL, "
    "amount DOUBLE PRECISION NOT NULL, reason TEXT NOT NULL, job_uid TEXT, wheel_id TEXT, stage TEXT)",
    "CREATE INDEX movements_part ON movements (part_uid, amount)",
    "CREATE INDEX movements_wheel ON movements (job_uid, wheel_id)",
)


def _stock_anew(
    schema: _Schema,
    parts: list[Row],
    moves: list[Row],
    jobs: dict[int, str],
    wheel_of: _WheelOf,
) -> None:
    """Every level becomes the sum of its movements; what the movements do not explain is carried over as one."""
    from inner_rim.core.record.ids import id_from

    schema.run(*_STOCK_SCHEMA)
    uids = {number: id_from("part", kind, name) for number, kind, name, *_ in parts}
    found = [
        {
            "uid": id_from("movement", uids.get(part, part), number, at),
            "part_uid": uids.get(part, str(part)),
            "at": at,
            "amount": amount,
            "reason": reason,
            "job_uid": jobs.get(job, str(job)) if job is not None else None,
            "wheel_id": wheel_of(job, wheel),
            "stage": stage,
        }
        for number, part, at, amount, reason, job, wheel, stage in moves
    ]
    for number, _kind, _name, _spec, stock, _low, _retired, changed in parts:
        rest = stock - sum(move["amount"] for move in found if move["part_uid"] == uids[number])
        if abs(rest) > 1e-9:
            found.append(
                {
                    "uid": id_from("carried over", uids[number]),
                    "part_uid": uids[number],
                    "at": changed,
                    "amount": rest,
                    "reason": "carried over",
                    "job_uid": None,
                    "wheel_id": None,
                    "stage": None,
                }
            )
    schema.put(
        "parts",
        [
            {
                "uid": uids[number],
                "kind": kind,
                "name": name,
                "spec": spec,
                "low_at": low_at,
                "retired": retired,
                "changed_at": changed,
            }
            for number, kind, name, spec, _stock, low_at, retired, changed in parts
        ],
    )
    schema.put("movements", found)


def _settings_one_by_one(schema: _Schema, settings: JsonObject) -> None:
    practice = settings.get("practice")
    single = (
        {f"practice.{name}": value for name, value in practice.items()} if isinstance(practice, dict) else {}
    )
    if "injector_ml" in settings:
        single["shelf.injector_ml"] = settings["injector_ml"]
    if isinstance(practice, dict):
        schema.run("DELETE FROM settings WHERE name = 'practice'")
    schema.run("DELETE FROM settings WHERE name = 'injector_ml'")
    schema.put(
        "settings",
        [
            {"name": name, "value": json.dumps(value)}
            for name, value in single.items()
            if value is not None and name not in settings
        ],
    )


def _json(text: str) -> Any:
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return None


def _batches(schema: _Schema) -> None:
    """Edits that were stored, so that one whose answer was lost is not stored again over what came after it."""
    schema.run("CREATE TABLE edits (id {serial}, uid TEXT NOT NULL UNIQUE, refused TEXT NOT NULL)")


#: Every step once, in order.
STEPS: tuple[tuple[str, Callable[[_Schema], None]], ...] = (
    ("0001 jobs, log and settings", _jobs_log_settings),
    ("0002 shelf", _shelf),
    ("0003 search of the log", _search),
    ("0004 identities", _identities),
    ("0005 edits", _batches),
)


def step_names() -> list[str]:
    """Return the names of the steps, in order."""
    return [name for name, _step in STEPS]


def migrate(database: Database, before_changing: Callable[[], object] = lambda: None) -> list[str]:
    """Bring a database up to this program's version and return the names of the steps taken.

    Args:
        database: it.
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
        if not schema.is_sqlite:  # two first starts at once: the second waits, then finds the work done
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
    """Return the steps that a database has, and whether it has any table at all."""
    from sqlalchemy import inspect, text

    with database.engine.connect() as connection:
        tables = inspect(connection).get_table_names()
        if "migrations" not in tables:
            return [], bool(tables)
        names = connection.execute(text("SELECT name FROM migrations ORDER BY place")).scalars()
        return list(names), True


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="microseconds")
