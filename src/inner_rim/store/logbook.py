"""The whole log, searched by words, kind and time; a wheel's history; what worked in this shop."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from sqlalchemy import Connection, select, text
from sqlalchemy.exc import DBAPIError

from inner_rim.core.record.log import Logged, SignOff, Unreadable, gone
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.texts import seen
from inner_rim.store import search
from inner_rim.store.codec import (
    UnreadableRow,
    check_name,
    read_document,
    read_logged,
    unreadable_row,
)
from inner_rim.store.database import Database, faults
from inner_rim.store.rows import (
    PART_COLUMNS,
    Hit,
    StoredJob,
    StoredVisit,
    item_of,
    kept_drafts,
    stored_job,
    unread_drafts,
)
from inner_rim.store.tables import JOBS, LOG

if TYPE_CHECKING:
    from collections.abc import Callable

MAX_HITS = 200
MAX_ENTRIES = 20_000
_ENTRY = (LOG.c.id, LOG.c.uid, LOG.c.wheel_id, LOG.c.at, LOG.c.body)


class LogbookStore:
    def __init__(self, database: Database) -> None:
        self._database = database

    def search(
        self, words: str, kinds: tuple[str, ...] = (), since: str = "", most: int = MAX_HITS
    ) -> tuple[Hit, ...]:
        """Return the newest entries that hold the beginning of every word typed.

        Args:
            words: in any order; none finds everything.
            since: ISO 8601 in UTC; entries before it are left out.
        """
        asked = search.asked_words(words)
        if not asked and words.strip():
            return ()  # punctuation only: no entry has it as a word
        try:
            with self._database.reading() as connection:
                return self._search(connection, asked, kinds, since, most)
        except Exception as fault:
            cause = fault.__cause__
            if not (asked and isinstance(cause, DBAPIError) and search.is_lost(cause)):
                raise
        self.rebuild_index()
        with self._database.reading() as connection:
            return self._search(connection, asked, kinds, since, most)

    def rebuild_index(self) -> None:
        with self._database.writing() as connection:
            before = search.rebuild(connection)
        with faults():
            search.discard(self._database, before)

    def _search(
        self,
        connection: Connection,
        asked: list[str],
        kinds: tuple[str, ...],
        since: str,
        most: int,
    ) -> tuple[Hit, ...]:
        where = ["1 = 1"]
        values: JsonObject = {"most": most}
        source, order = "log", "log.id"
        if asked:
            index = search.index_name(connection)
            order = f"{index}.rowid"
            if self._database.is_sqlite:
                source = f"{index} CROSS JOIN log ON log.id = {index}.rowid"  # the index first
                where.append(f"{index} MATCH :match")
                values["match"] = " ".join(f'"{word}"*' for word in asked)
            else:
                source = f"{index} JOIN log ON log.id = {index}.rowid"
                for i, word in enumerate(asked):
                    where.append(f"position(:word{i} IN lower({index}.words)) > 0")
                    values[f"word{i}"] = word.lower()
        if kinds:
            where.append("log.kind IN (" + ", ".join(f":kind{i}" for i in range(len(kinds))) + ")")
            values |= {f"kind{i}": kind for i, kind in enumerate(kinds)}
        if since:
            where.append("log.at >= :since")
            values["since"] = since
        statement = (
            f"SELECT log.job_uid, log.id, log.uid, log.wheel_id, log.at, log.body FROM {source} "
            f"WHERE {' AND '.join(where)} ORDER BY {order} DESC LIMIT :most"
        )
        rows = connection.execute(text(statement), values).all()
        names = self._names(connection, {row[0] for row in rows})
        return tuple(Hit(row[0], names(row[0], row[3]), read_logged(*row[1:])) for row in rows)

    @staticmethod
    def _names(connection: Connection, jobs: set[str]) -> Callable[[str, str], str]:
        documents: JsonObject = {}
        if jobs:
            rows = connection.execute(
                select(JOBS.c.uid, JOBS.c.document).where(JOBS.c.uid.in_(jobs))
            )
            for job_id, document in rows:
                try:
                    documents[job_id] = msgspec.json.decode(document)
                except (ValueError, RecursionError):
                    continue
        return lambda job_id, wheel_id: str(
            search.wheel_of(documents.get(job_id), wheel_id).get("name") or ""
        )

    def job(self, job_id: str) -> StoredJob | UnreadableRow | None:
        """Return a job with its whole log, on the bench or off it; None where there is none."""
        with self._database.reading() as connection:
            row = connection.execute(
                select(
                    JOBS.c.uid, JOBS.c.document, JOBS.c.drafts, JOBS.c.revision, JOBS.c.archived
                ).where(JOBS.c.uid == job_id)
            ).first()
            if row is None:
                return None
            entries = connection.execute(
                select(*_ENTRY).where(LOG.c.job_uid == job_id).order_by(LOG.c.id)
            )
            return stored_job(row, [read_logged(*entry) for entry in entries])

    def job_ids(self) -> list[str]:
        """Return the identities of all jobs, oldest first."""
        with self._database.reading() as connection:
            return list(connection.execute(select(JOBS.c.uid).order_by(JOBS.c.id)).scalars())

    def place_of_code(self, code: str) -> tuple[str, str] | None:
        """Return (job, wheel) of a code on papers: the newest job on the wheel with that identity;
        None where there is none.
        """
        with self._database.reading() as connection:
            wanted = code.lower()
            rows = connection.execute(
                select(JOBS.c.uid, JOBS.c.document)
                .where(JOBS.c.document.icontains(wanted, autoescape=True))
                .order_by(JOBS.c.id.desc())
            )
            for job_id, document in rows:
                for wheel in search.wheels_of(document):
                    if str(wheel.get("wheel_id")).lower() == wanted:
                        return job_id, wheel["wheel_id"]
        return None

    def handed_over(self, name: str, but_not: str) -> tuple[str, str] | None:
        """Return (job, wheel) of the newest wheel of a name that was handed over; None where there
        is none.
        """
        wanted = seen(name).casefold()
        with self._database.reading() as connection:
            rows = connection.execute(
                select(JOBS.c.uid, JOBS.c.document)
                .where(JOBS.c.document.icontains(name, autoescape=True))
                .order_by(JOBS.c.id.desc())
            ).all()
            signed = select(LOG.c.id).where(
                LOG.c.kind == "sign_off", LOG.c.uid.not_in(_gone(connection))
            )
            for job_id, body in rows:
                try:
                    wheels = read_document(body)["wheels"]
                except (ValueError, RecursionError):
                    continue
                for wheel in wheels:
                    same = (
                        seen(str(wheel.get("name", ""))).casefold() == wanted
                        and wheel["wheel_id"] != but_not
                    )
                    here = (LOG.c.job_uid == job_id) & (LOG.c.wheel_id == wheel["wheel_id"])
                    if same and connection.execute(signed.where(here).limit(1)).first() is not None:
                        return job_id, str(wheel["wheel_id"])
        return None

    def visits(self, wheel_id: str) -> tuple[StoredVisit, ...]:
        """Return how often a wheel was handed over, in whichever job, oldest first."""
        result = []
        with self._database.reading() as connection:
            rows = connection.execute(
                select(LOG.c.at, LOG.c.body)
                .where(
                    LOG.c.wheel_id == wheel_id,
                    LOG.c.kind == "sign_off",
                    LOG.c.uid.not_in(_gone(connection)),
                )
                .order_by(LOG.c.id)
            )
            for at, body in rows:
                try:
                    entry = msgspec.json.decode(body, type=SignOff)
                except (ValueError, RecursionError):
                    continue  # it is in the wheel's log as unreadable
                result.append(StoredVisit(at, entry.by, entry.pressure_kpa))
        return tuple(result)

    def logs(self, kinds: tuple[str, ...]) -> dict[str, tuple[Logged, ...]]:
        """Return the newest entries of some kinds by wheel, oldest first; what cannot be read is
        left out.
        """
        result: dict[str, list[Logged]] = {}
        with self._database.reading() as connection:
            rows = connection.execute(
                select(*_ENTRY)
                .where(LOG.c.kind.in_(kinds), LOG.c.uid.not_in(_gone(connection)))
                .order_by(LOG.c.id.desc())
                .limit(MAX_ENTRIES)
            )
            for row in rows:
                item = read_logged(*row)
                if not isinstance(item.entry, Unreadable):
                    result.setdefault(item.wheel_id, []).append(item)
        return {wheel: tuple(reversed(items)) for wheel, items in result.items()}

    def unreadable(self) -> tuple[UnreadableRow, ...]:
        """Return every job, part and setting that cannot be read; entries are in their wheel's log."""
        result: list[UnreadableRow] = []
        with self._database.reading() as connection:
            jobs = select(
                JOBS.c.uid, JOBS.c.document, JOBS.c.drafts, JOBS.c.revision, JOBS.c.archived
            )
            parts = text(f"SELECT {PART_COLUMNS} FROM parts")
            rows = connection.execute(jobs).all()
            stored = [stored_job(row) for row in rows]
            result += unread_drafts(zip(rows, stored, strict=True))
            items = [item_of(row) for row in connection.execute(parts)]
            result += [row for row in (*stored, *items) if isinstance(row, UnreadableRow)]
            for name, value in connection.execute(text("SELECT name, value FROM settings")):
                try:
                    check_name(name)
                    result += kept_drafts({name: msgspec.json.decode(value)})
                except (ValueError, RecursionError) as fault:
                    result.append(unreadable_row("settings", name, value, fault))
        return tuple(result)


def _gone(connection: Connection) -> list[str]:
    """The identities of all entries that were taken back: they do not count."""
    rows = connection.execute(select(*_ENTRY).where(LOG.c.kind == "taken_back").order_by(LOG.c.id))
    return sorted(gone(read_logged(*row) for row in rows))
