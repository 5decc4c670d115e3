"""Jobs, log and settings in a database, with the shelf and the logbook beside them; many jobs at
once.
"""

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TypeVar

import msgspec
from sqlalchemy import URL, Connection, bindparam, func, select, text, update

from inner_rim.core.plan.picking import Booking
from inner_rim.core.record.log import Correction, Logged
from inner_rim.core.record.operations import (
    Conflict,
    Drafts,
    Operation,
    SetField,
    apply,
    node_of,
    value_at,
)
from inner_rim.core.record.parts import Item
from inner_rim.core.record.paths import JsonObject
from inner_rim.store import rows, search
from inner_rim.store.codec import lost_drafts, read_document, read_drafts
from inner_rim.store.database import BUSY_SECONDS, Database
from inner_rim.store.errors import JobKnown, StoreRefused
from inner_rim.store.logbook import LogbookStore
from inner_rim.store.migrations import migrate
from inner_rim.store.shelf import Cancelled, ShelfStore, prepared, put_items
from inner_rim.store.statements import (
    NewEntry,
    check_owner,
    entry_row,
    has_log,
    index_row,
    insert_job,
    job_columns,
    known_entry,
    revision_of,
    store_setting,
)
from inner_rim.store.tables import EDITS, JOBS, LOG, STATE
from inner_rim.words import tr

NO_BOOKING = Booking()
#: Statements that every keystroke needs, made once: SQLAlchemy works out a cache key once per
#: statement object.
_CHANGE = select(STATE.c.change)
_THIS_JOB = JOBS.c.uid == bindparam("job_id")
_JOB = select(JOBS.c.document, JOBS.c.drafts, JOBS.c.revision).where(_THIS_JOB)
_COLUMNS = ("document", "drafts", "title", "customer", "bike", "due", "changed_at")
_EDIT = (
    update(JOBS)
    .where(_THIS_JOB)
    .values({name: bindparam(f"new_{name}") for name in ("revision", *_COLUMNS)})
)
_KNOWN_EDIT = select(EDITS.c.refused).where(EDITS.c.uid == bindparam("edit"))
_OLD_EDITS = EDITS.delete().where(EDITS.c.id <= bindparam("oldest"))
#: How many edits are remembered: more than all benches make while one waits for an answer.
EDITS_KEPT = 2000
T = TypeVar("T")


class EditResult(msgspec.Struct, frozen=True):
    """A job after edits: what is stored now, and the edits that conflict with someone else's."""

    document: JsonObject
    drafts: Drafts
    revision: int
    conflicts: tuple[Conflict, ...]


class Repository:
    """Access to the stored jobs.

    Args:
        busy_seconds: how long a write waits for another program.
        before_migrating: makes a copy before data are brought to this version.

    Raises:
        StoreError: any expected fault, here and in every method.
    """

    def __init__(
        self,
        url: str | URL,
        busy_seconds: float = BUSY_SECONDS,
        *,
        before_migrating: Callable[[], object] = lambda: None,
        read_only: bool = False,
    ) -> None:
        self.database = Database(url, busy_seconds, read_only=read_only)
        self.shelf = ShelfStore(self.database)
        self.logbook = LogbookStore(self.database)
        try:
            if not read_only:
                migrate(self.database, before_migrating)
        except BaseException:
            self.database.close()
            raise

    @property
    def writes(self) -> int:
        return self.database.writes

    @property
    def read_only(self) -> bool:
        return self.database.read_only

    def copy_to(self, target: Path) -> None:
        """Write what is open into a new file; see `Database.copy_to`."""
        self.database.copy_to(target)

    def close(self) -> None:
        self.database.close()

    def bench(self) -> rows.BenchState:
        with self.database.reading() as connection:
            return rows.bench_state(
                connection.execute(text(rows.BENCH_JOBS)),
                connection.execute(text(rows.BENCH_LOG)),
                connection.execute(text(rows.SETTINGS)),
                connection.execute(text(rows.CHANGE)).scalar_one(),
                connection.execute(text(rows.STOCKED)),
            )

    def change(self) -> int:
        with self.database.reading() as connection:
            return int(connection.execute(_CHANGE).scalar_one())

    def recent_documents(self, most: int = 500) -> list[JsonObject]:
        """Return the newest job documents, on the bench or off it, for the parts used before."""
        with self.database.reading() as connection:
            result = connection.execute(
                select(JOBS.c.document).order_by(JOBS.c.id.desc()).limit(most)
            )
            documents = []
            for body in result.scalars():
                try:
                    documents.append(read_document(body))
                except (ValueError, RecursionError):
                    continue  # unreadable: nothing to offer
            return documents

    def _with_index(self, work: Callable[[], T]) -> T:
        """Do a write that also changes the search index; if the index is lost, rebuild it and do
        the write again.
        """
        try:
            return work()
        except search.IndexLost:
            self.logbook.rebuild_index()
            return work()

    # -- jobs ----------------------------------------------------------------------------------

    def create(self, job_id: str, document: JsonObject, now: str) -> None:
        """Store a new job; a retry stores nothing twice."""
        with self.database.writing() as connection:
            if revision_of(connection, job_id) is None:
                insert_job(connection, job_id, document, {}, now)

    def edit(
        self, job_id: str, operations: Sequence[Operation], now: str, uid: str = ""
    ) -> EditResult:
        """Apply edits to a job in one transaction and return what is stored then.

        Edits of the same identity are a retry after their answer was lost: they are applied once,
        whatever was stored after them.

        Raises:
            StoreRefused: there is no such job, or a value does not meet its definition.
        """
        return self._with_index(lambda: self._edit(job_id, operations, now, uid))

    def _edit(self, job_id: str, operations: Sequence[Operation], now: str, uid: str) -> EditResult:
        with self.database.writing() as connection:
            row = connection.execute(_JOB, {"job_id": job_id}).first()
            if row is None:
                raise StoreRefused(tr("This job is no longer in the data."))
            try:
                old, old_drafts = read_document(row[0]), read_drafts(row[1])
            except ValueError as fault:
                raise StoreRefused(
                    tr("The stored job cannot be read, so it is not changed; it is kept as it is.")
                ) from fault
            before = (
                connection.execute(_KNOWN_EDIT, {"edit": uid}).scalar_one_or_none() if uid else None
            )
            if before is not None:
                return EditResult(old, old_drafts, row[2], _refused_before(before, operations, old))
            lost = lost_drafts(job_id, row[1])
            if lost is not None:
                store_setting(connection, f"{rows.KEPT_DRAFTS}{job_id}.{row[2]}", lost.body)
            joined = apply(
                old, old_drafts, operations, lambda wheel: has_log(connection, job_id, wheel)
            )
            revision = row[2]
            if joined.document != old or joined.drafts != old_drafts:
                revision += 1
                new = {"revision": revision, **job_columns(joined.document, joined.drafts, now)}
                connection.execute(
                    _EDIT,
                    {"job_id": job_id, **{f"new_{name}": value for name, value in new.items()}},
                )
                if search.names_in(joined.document) != search.names_in(old):
                    search.follow_job(connection, job_id)
            if uid:
                _remember_edit(connection, uid, operations, joined.conflicts)
            return EditResult(joined.document, joined.drafts, revision, joined.conflicts)

    def archive(self, job_id: str, now: str, *, archived: bool = True) -> None:
        with self.database.writing() as connection:
            connection.execute(
                update(JOBS)
                .where(JOBS.c.uid == job_id)
                .values(archived=int(archived), changed_at=now)
            )

    def import_all(
        self,
        jobs: Sequence[rows.StoredJob],
        items: Sequence[Item],
        settings: Mapping[str, object],
        now: str,
        on_progress: Callable[[int], bool] = lambda done: True,
        *,
        replace: bool = False,
    ) -> int | None:
        """Store jobs with their logs, parts and settings: all or nothing.

        A job that is replaced gets the document of the file; its log is only added to. The entries
        of a job stay in the order they have here, and keep their numbers where these are free;
        corrections follow the entries they correct.

        Args:
            on_progress: called with the number of jobs done; returning False rolls all of it back.

        Returns:
            How many entries are new; None where `on_progress` stopped it.

        Raises:
            JobKnown: one of them is in the data already, and `replace` is off.
            StoreRefused: an entry belongs to another job in the data.
        """

        def work() -> int | None:
            return self._import_all(jobs, items, settings, now, on_progress, replace=replace)

        return self._with_index(work)

    def _import_all(
        self,
        jobs: Sequence[rows.StoredJob],
        items: Sequence[Item],
        settings: Mapping[str, object],
        now: str,
        on_progress: Callable[[int], bool],
        *,
        replace: bool,
    ) -> int | None:
        try:
            with self.database.writing() as connection:
                entries = import_jobs(connection, jobs, now, on_progress, replace=replace)
                put_items(connection, [prepared(item) for item in items], now, tr("imported"))
                for name, value in settings.items():
                    store_setting(connection, name, value)
        except Cancelled:
            return None
        return entries

    # -- the log -------------------------------------------------------------------------------

    def append(
        self, job_id: str, wheel_id: str, entries: Sequence[NewEntry], booking: Booking = NO_BOOKING
    ) -> tuple[Logged, ...]:
        """Append entries to a wheel's log, with all that follows from them, in one transaction.

        An entry of the same identity is a retry: it is stored once.

        Raises:
            StoreRefused: an entry could not be read back; nothing was stored.
        """

        def work() -> tuple[Logged, ...]:
            return self._append_all(job_id, wheel_id, entries, booking)

        return self._with_index(work)

    def _append_all(
        self, job_id: str, wheel_id: str, entries: Sequence[NewEntry], booking: Booking
    ) -> tuple[Logged, ...]:
        with self.database.writing() as connection:
            result = tuple(self._append(connection, job_id, wheel_id, entry) for entry in entries)
            self.shelf.book(connection, booking, entries[0].at, job_id, wheel_id)
            return result

    def _append(self, connection: Connection, job_id: str, wheel_id: str, new: NewEntry) -> Logged:
        row, known = entry_row(job_id, wheel_id, new), known_entry(connection, new.uid)
        if known is not None:
            check_owner(new.uid, known[1], job_id)
            return Logged(
                number=known[0], at=new.at, wheel_id=wheel_id, entry=new.entry, uid=new.uid
            )
        done = connection.execute(LOG.insert().values(**row))
        key = done.inserted_primary_key
        assert key is not None  # one row
        number = int(key[0])
        stored = connection.execute(
            select(JOBS.c.document).where(JOBS.c.uid == job_id)
        ).scalar_one_or_none()
        search.add(connection, [index_row(row | {"id": number}, search.plain_document(stored))])
        return Logged(number=number, at=new.at, wheel_id=wheel_id, entry=new.entry, uid=new.uid)

    # -- settings ------------------------------------------------------------------------------

    def set_setting(self, name: str, value: object) -> None:
        """Store one setting; None takes it away."""
        with self.database.writing() as connection:
            store_setting(connection, name, value)


def _remember_edit(
    connection: Connection, uid: str, operations: Sequence[Operation], conflicts: Sequence[Conflict]
) -> None:
    refused = [[operations.index(one.operation), one.reason] for one in conflicts]
    done = connection.execute(
        EDITS.insert().values(uid=uid, refused=msgspec.json.encode(refused).decode())
    )
    key = done.inserted_primary_key
    assert key is not None  # one row
    connection.execute(_OLD_EDITS, {"oldest": int(key[0]) - EDITS_KEPT})


def _refused_before(
    body: str, operations: Sequence[Operation], document: JsonObject
) -> tuple[Conflict, ...]:
    result = []
    for place, reason in msgspec.json.decode(body, type=list[tuple[int, str]]):
        operation = operations[place]
        node = node_of(document, operation.target) if isinstance(operation, SetField) else None
        stored = value_at(node, operation.path) if isinstance(operation, SetField) else None
        result.append(Conflict(operation, stored, reason))
    return tuple(result)


#: How many entries an import stores in one statement.
_AT_ONCE = 500
_LOG_SIZE = select(func.count(), func.coalesce(func.max(LOG.c.id), 0)).select_from(LOG)


def import_jobs(
    connection: Connection,
    jobs: Sequence[rows.StoredJob],
    now: str,
    on_progress: Callable[[int], bool],
    *,
    replace: bool,
) -> int:
    """Store jobs with their logs and return how many entries are new; see `Repository.import_all`.

    Raises:
        Cancelled: `on_progress` returned False.
        JobKnown: one of them is in the data already, and `replace` is off.
        StoreRefused: an entry belongs to another job in the data.
    """
    for done, job in enumerate(jobs):
        if not on_progress(done):
            raise Cancelled
        _import_document(connection, job, now, replace=replace)
    entries = _import_log(connection, jobs)
    for job in jobs if replace else ():
        search.follow_job(connection, job.job_id)
    return entries


def _import_document(
    connection: Connection, job: rows.StoredJob, now: str, *, replace: bool
) -> None:
    if revision_of(connection, job.job_id) is None:
        insert_job(connection, job.job_id, job.document, job.drafts, now)
    elif not replace:
        raise JobKnown(str(job.document.get("title") or job.document["wheels"][0].get("name")))
    else:
        connection.execute(
            update(JOBS)
            .where(JOBS.c.uid == job.job_id)
            .values(revision=JOBS.c.revision + 1, **job_columns(job.document, job.drafts, now))
        )
    connection.execute(
        update(JOBS).where(JOBS.c.uid == job.job_id).values(archived=int(job.archived))
    )


def _import_log(connection: Connection, jobs: Sequence[rows.StoredJob]) -> int:
    """Append the entries of all jobs, each log in its order, and return how many are new."""
    documents = {job.job_id: job.document for job in jobs}
    before, top = connection.execute(_LOG_SIZE).one()
    numbers: dict[int, int] = {}
    last: dict[str, int] = {}
    new: dict[str, tuple[int, str]] = {}
    used: set[int] = set()
    ordered = list(_in_order(jobs))
    for start in range(0, len(ordered), _AT_ONCE):
        added: list[JsonObject] = []
        for job_id, item in ordered[start : start + _AT_ONCE]:
            known = new.get(item.uid) or (known_entry(connection, item.uid) if before else None)
            if known is not None:
                number, owner = known
                check_owner(item.uid, owner, job_id)
            else:
                free = item.number > last.get(job_id, 0) and item.number not in used
                number = (
                    item.number
                    if free and not (before and _taken(connection, item.number))
                    else top + 1
                )
                entry = item.entry
                if isinstance(entry, Correction):
                    entry = msgspec.structs.replace(entry, of=numbers.get(entry.of, entry.of))
                added.append(
                    entry_row(job_id, item.wheel_id, NewEntry(item.uid, item.at, entry))
                    | {"id": number}
                )
                new[item.uid] = number, job_id
                used.add(number)
            last[job_id], top = number, max(top, number)
            if item.number:
                numbers[item.number] = number
        if added:
            connection.execute(LOG.insert(), added)
            search.add(connection, [index_row(row, documents[row["job_uid"]]) for row in added])
    if connection.dialect.name == "postgresql" and top:
        connection.execute(
            text("SELECT setval(pg_get_serial_sequence('log', 'id'), (SELECT MAX(id) FROM log))")
        )
    return int(connection.execute(_LOG_SIZE).one()[0]) - int(before)


def _in_order(jobs: Sequence[rows.StoredJob]) -> Iterator[tuple[str, Logged]]:
    """The entries of all jobs by their numbers, each job's in the order of its log: one without a
    number follows those before it.
    """
    placed = [
        (number, job.job_id, item)
        for job in jobs
        for number, item in zip(
            itertools.accumulate((item.number for item in job.log), max), job.log, strict=True
        )
    ]
    for _number, job_id, item in sorted(placed, key=lambda entry: entry[0]):
        yield job_id, item


def _taken(connection: Connection, number: int) -> bool:
    return connection.execute(select(LOG.c.id).where(LOG.c.id == number)).first() is not None
