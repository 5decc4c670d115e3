"""Everything ever done, searched by words, kind and time; a wheel's whole story; what worked in this shop."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

import msgspec
from sqlalchemy import Connection, select, text

from inner_rim.core.log import Attempt

from .rows import Hit, StoredJob, logged, search_words
from .tables import JOBS, LOG

if TYPE_CHECKING:
    from .repository import Repository

MOST_HITS = 200
MOST_ATTEMPTS = 3000


class LogbookStore:
    """The one way to the stored log as a whole; the repository's transactions hold it."""

    def __init__(self, repository: Repository) -> None:
        self._repository = repository

    def index(
        self, connection: Connection, number: int, job_id: int, wheel: int, kind: str, body: str
    ) -> None:
        """Put a new entry's words into the search."""
        document = connection.execute(select(JOBS.c.document).where(JOBS.c.id == job_id)).scalar_one_or_none()
        words = search_words(
            msgspec.json.decode(document) if document else {}, wheel, kind, msgspec.json.decode(body)
        )
        connection.execute(
            text("INSERT INTO log_search (rowid, words) VALUES (:number, :words)"),
            {"number": number, "words": words},
        )

    def search(
        self, words: str, kinds: tuple[str, ...] = (), since: str = "", most: int = MOST_HITS
    ) -> tuple[Hit, ...]:
        """Return the newest entries that hold the beginning of every word typed.

        Args:
            words: in any order; none finds everything.
            kinds: kinds of entries, none for all.
            since: ISO 8601 in UTC; entries before it are left out.
            most: at most so many.
        """
        asked = re.findall(r"[\w.]+", words, re.UNICODE)
        where, values = ["1 = 1"], {"most": most}
        source = "log"
        values_any: dict[str, Any] = dict(values)
        if asked and self._repository.is_sqlite:
            source = "log_search CROSS JOIN log ON log.id = log_search.rowid"  # the index first
            where.append("log_search MATCH :match")
            values_any["match"] = " ".join(f'"{word}"*' for word in asked)
        elif asked:
            source = "log_search JOIN log ON log.id = log_search.rowid"
            for i, word in enumerate(asked):
                where.append(f"LOWER(log_search.words) LIKE :word{i}")
                values_any[f"word{i}"] = f"%{word.lower()}%"
        if kinds:
            where.append("log.kind IN (" + ", ".join(f":kind{i}" for i in range(len(kinds))) + ")")
            values_any |= {f"kind{i}": kind for i, kind in enumerate(kinds)}
        if since:
            where.append("log.at >= :since")
            values_any["since"] = since
        order = "log_search.rowid" if asked else "log.id"
        statement = (
            f"SELECT log.id, log.job_id, log.wheel, log.at, log.body FROM {source} "
            f"WHERE {' AND '.join(where)} ORDER BY {order} DESC LIMIT :most"
        )
        with self._repository.reading() as connection:
            rows = connection.execute(text(statement), values_any).all()
            names = self._names(connection, {row[1] for row in rows})
            found = []
            for row in rows:
                job_id, item = logged(row)
                wheels = names.get(job_id, [])
                name = wheels[item.wheel] if item.wheel < len(wheels) else ""
                found.append(Hit(job_id, name, item))
            return tuple(found)

    @staticmethod
    def _names(connection: Connection, jobs: set[int]) -> dict[int, list[str]]:
        if not jobs:
            return {}
        rows = connection.execute(select(JOBS.c.id, JOBS.c.document).where(JOBS.c.id.in_(jobs)))
        return {
            job_id: [
                str(wheel.get("name") or "") for wheel in msgspec.json.decode(document).get("wheels", ())
            ]
            for job_id, document in rows
        }

    def job(self, job_id: int) -> StoredJob | None:
        """Return a job with its whole log, on the bench or put away; None where there is none."""
        with self._repository.reading() as connection:
            row = connection.execute(
                select(JOBS.c.document, JOBS.c.drafts, JOBS.c.revision, JOBS.c.archived).where(
                    JOBS.c.id == job_id
                )
            ).first()
            if row is None:
                return None
            entries = connection.execute(
                select(LOG.c.id, LOG.c.job_id, LOG.c.wheel, LOG.c.at, LOG.c.body)
                .where(LOG.c.job_id == job_id)
                .order_by(LOG.c.id)
            )
            return StoredJob(
                job_id=job_id,
                document=msgspec.json.decode(row[0]),
                drafts=msgspec.json.decode(row[1]),
                revision=row[2],
                archived=bool(row[3]),
                log=tuple(logged(entry)[1] for entry in entries),
            )

    def attempts(self) -> tuple[Attempt, ...]:
        """Return the shop's last attempts at seating in which something had been changed."""
        reader = msgspec.json.Decoder(Attempt)
        with self._repository.reading() as connection:
            bodies = connection.execute(
                select(LOG.c.body)
                .where(LOG.c.kind == "attempt")
                .order_by(LOG.c.id.desc())
                .limit(MOST_ATTEMPTS)
            ).scalars()
            return tuple(reader.decode(body) for body in bodies if '"changed"' in body)
