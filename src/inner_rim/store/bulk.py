"""Many jobs and their logs stored at once, for an import."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence

import msgspec
from sqlalchemy import Connection, func, select, text, update

from inner_rim.core.record.log import Correction, Logged
from inner_rim.core.record.plain import JsonObject
from inner_rim.store import rows, search
from inner_rim.store.errors import JobKnown
from inner_rim.store.shelf import Cancelled
from inner_rim.store.statements import (
    NewEntry,
    check_owner,
    entry_row,
    index_row,
    insert_job,
    job_columns,
    known_entry,
    revision_of,
)
from inner_rim.store.tables import JOBS, LOG

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


def _import_document(connection: Connection, job: rows.StoredJob, now: str, *, replace: bool) -> None:
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
    connection.execute(update(JOBS).where(JOBS.c.uid == job.job_id).values(archived=int(job.archived)))


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
                number = item.number if free and not (before and _taken(connection, item.number)) else top + 1
                entry = item.entry
                if isinstance(entry, Correction):
                    entry = msgspec.structs.replace(entry, of=numbers.get(entry.of, entry.of))
                added.append(entry_row(job_id, item.wheel_id, NewEntry(item.uid, item.at, entry)) | {"id": number})
                new[item.uid] = number, job_id
                used.add(number)
            last[job_id], top = number, max(top, number)
            if item.number:
                numbers[item.number] = number
        if added:
            connection.execute(LOG.insert(), added)
            search.add(connection, [index_row(row, documents[row["job_uid"]]) for row in added])
    if connection.dialect.name == "postgresql" and top:
        connection.execute(text("SELECT setval(pg_get_serial_sequence('log', 'id'), (SELECT MAX(id) FROM log))"))
    return int(connection.execute(_LOG_SIZE).one()[0]) - int(before)


def _in_order(jobs: Sequence[rows.StoredJob]) -> Iterator[tuple[str, Logged]]:
    """The entries of all jobs by their numbers, each job's in the order of its log: one without a number follows those
    before it.
    """
    placed = [
        (number, job.job_id, item)
        for job in jobs
        for number, item in zip(itertools.accumulate((item.number for item in job.log), max), job.log, strict=True)
    ]
    for _number, job_id, item in sorted(placed, key=lambda entry: entry[0]):
        yield job_id, item


def _taken(connection: Connection, number: int) -> bool:
    return connection.execute(select(LOG.c.id).where(LOG.c.id == number)).first() is not None
