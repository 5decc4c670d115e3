"""Single statements on jobs, log and settings, in the transaction of whoever calls them."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec
from sqlalchemy import Connection, bindparam, func, select, update

from inner_rim.core.record.log import AnyEntry, Unreadable
from inner_rim.core.record.operations import Drafts
from inner_rim.core.record.paths import JsonObject
from inner_rim.store import search
from inner_rim.store.codec import (
    encoded_document,
    encoded_drafts,
    encoded_entry,
    encoded_unread,
    encoded_value,
)
from inner_rim.store.errors import StoreRefused
from inner_rim.store.tables import JOBS, LOG, SETTINGS
from inner_rim.words import tr

#: Made once: SQLAlchemy works out a cache key once per statement object.
_KNOWN_ENTRY = select(LOG.c.id, LOG.c.job_uid).where(LOG.c.uid == bindparam("entry"))


class NewEntry(msgspec.Struct, frozen=True):
    """An entry to be appended: its identity, when, and what happened."""

    uid: str
    at: str
    entry: AnyEntry | Unreadable


def entry_row(job_id: str, wheel_id: str, new: NewEntry) -> JsonObject:
    if isinstance(new.entry, Unreadable):
        kind, body = "unreadable", encoded_unread(new.entry)
    else:
        kind, body = str(type(new.entry).__struct_config__.tag), encoded_entry(new.entry)
    return {
        "uid": new.uid,
        "job_uid": job_id,
        "wheel_id": wheel_id,
        "at": new.at,
        "kind": kind,
        "body": body,
    }


def index_row(row: JsonObject, document: Mapping[str, object]) -> JsonObject:
    """What the search index keeps of a stored entry."""
    words = search.words_of(document, row["wheel_id"], row["kind"], row["body"])
    return {"number": row["id"], "words": words}


def known_entry(connection: Connection, uid: str) -> tuple[int, str] | None:
    result = connection.execute(_KNOWN_ENTRY, {"entry": uid}).first()
    return (result[0], result[1]) if result is not None else None


def check_owner(uid: str, owner: str, job_id: str) -> None:
    if owner != job_id:
        raise StoreRefused(
            tr("Log entry {uid} belongs to another job in the data; nothing was stored.").format(
                uid=uid
            )
        )


def store_setting(connection: Connection, name: str, value: object) -> None:
    encoded = encoded_value(value)
    if value is None:
        connection.execute(SETTINGS.delete().where(SETTINGS.c.name == name))
        return
    done = connection.execute(update(SETTINGS).where(SETTINGS.c.name == name).values(value=encoded))
    if done.rowcount == 0:
        connection.execute(SETTINGS.insert().values(name=name, value=encoded))


def insert_job(
    connection: Connection, job_id: str, document: JsonObject, drafts: Drafts, now: str
) -> None:
    connection.execute(
        JOBS.insert().values(
            uid=job_id, revision=1, archived=0, created_at=now, **job_columns(document, drafts, now)
        )
    )


def revision_of(connection: Connection, job_id: str) -> int | None:
    return connection.execute(
        select(JOBS.c.revision).where(JOBS.c.uid == job_id)
    ).scalar_one_or_none()


def has_log(connection: Connection, job_id: str, wheel_id: str) -> bool:
    counted = select(func.count()).where(LOG.c.job_uid == job_id, LOG.c.wheel_id == wheel_id)
    return bool(connection.execute(counted).scalar_one())


def job_columns(document: JsonObject, drafts: Drafts, now: str) -> JsonObject:
    return {
        "document": encoded_document(document),
        "drafts": encoded_drafts(drafts),
        "title": document.get("title"),
        "customer": document.get("customer"),
        "bike": document.get("bike"),
        "due": document.get("due"),
        "changed_at": now,
    }
