"""Rows of the store as structs, and the plain SQL that both readers of the bench share."""

from collections.abc import Iterable, Sequence
from typing import Any

import msgspec

from inner_rim.core.record.log import Logged
from inner_rim.core.record.operations import Drafts
from inner_rim.core.record.parts import Item, checked_item
from inner_rim.core.record.paths import JsonObject
from inner_rim.store.codec import (
    UnreadableRow,
    check_key,
    check_name,
    lost_drafts,
    read_document,
    read_drafts,
    read_logged,
    unreadable_row,
)
from inner_rim.words import tr

BENCH_JOBS = (
    "SELECT uid, document, drafts, revision, archived FROM jobs WHERE archived = 0 ORDER BY id"
)
BENCH_LOG = (
    "SELECT log.job_uid, log.id, log.uid, log.wheel_id, log.at, log.body FROM log "
    "JOIN jobs ON jobs.uid = log.job_uid WHERE jobs.archived = 0 ORDER BY log.id"
)
SETTINGS = "SELECT name, value FROM settings"
LEVEL = "(SELECT COALESCE(SUM(amount), 0.0) FROM movements WHERE part_uid = parts.uid)"
PART_COLUMNS = f"uid, kind, spec, {LEVEL} AS stock, low_at, retired"
STOCKED = (
    f"SELECT {PART_COLUMNS} FROM parts "
    f"WHERE kind IN ('tape', 'valve', 'sealant') AND retired = 0 AND {LEVEL} > 0 ORDER BY name"
)
CHANGE = "SELECT change FROM state"


#: A row of a query; its types are those of the columns asked for.
Row = Sequence[Any]
#: Where drafts that could not be read are kept once the job was edited again: then the job's id.
KEPT_DRAFTS = "unreadable.drafts."


class StoredJob(msgspec.Struct, frozen=True):
    """A job as it is stored.

    Attributes:
        document: perhaps not complete yet.
        drafts: what is typed but not accepted yet.
    """

    job_id: str
    document: JsonObject
    drafts: Drafts
    revision: int
    archived: bool = False
    log: tuple[Logged, ...] = ()


class BenchState(msgspec.Struct, frozen=True):
    """All that the bench shows.

    Attributes:
        settings: the shop's settings by name.
        change: number of the last change.
        unreadable: rows that cannot be read; everything else is there.
    """

    jobs: tuple[StoredJob, ...]
    settings: JsonObject
    change: int
    stocked: tuple[Item, ...] = ()
    unreadable: tuple[UnreadableRow, ...] = ()


class StoredVisit(msgspec.Struct, frozen=True):
    """A wheel handed over: when, by whom, at what pressure."""

    at: str
    by: str
    pressure_kpa: float


class Hit(msgspec.Struct, frozen=True):
    """An entry that a search found: its job, the wheel's name, and the entry."""

    job_id: str
    name: str
    item: Logged


def stored_job(row: Row, log: Iterable[Logged] = ()) -> StoredJob | UnreadableRow:
    uid, document, drafts, revision, archived = row
    try:
        check_key(uid)
        return StoredJob(
            uid, read_document(document), read_drafts(drafts), revision, bool(archived), tuple(log)
        )
    except (ValueError, TypeError, RecursionError) as fault:
        return unreadable_row("jobs", uid, document, fault)


def kept_drafts(settings: JsonObject) -> list[UnreadableRow]:
    return [
        unreadable_row(
            "drafts", name.removeprefix(KEPT_DRAFTS), body, tr("kept when the job was edited")
        )
        for name, body in settings.items()
        if name.startswith(KEPT_DRAFTS)
    ]


def unread_drafts(rows: Iterable[tuple[Row, StoredJob | UnreadableRow]]) -> list[UnreadableRow]:
    result = (lost_drafts(row[0], row[2]) for row, job in rows if isinstance(job, StoredJob))
    return [lost for lost in result if lost is not None]


def item_of(row: Row) -> Item | UnreadableRow:
    uid, kind, spec, stock, low_at, retired = row
    try:
        check_key(uid)
        item = Item(
            kind=kind,
            spec=msgspec.json.decode(spec),
            stock=max(0.0, round(float(stock), 6)),
            low_at=low_at,
            retired=bool(retired),
            item_id=uid,
        )
        return checked_item(item)
    except (ValueError, TypeError, RecursionError) as fault:
        return unreadable_row("parts", uid, spec, fault)


def bench_state(
    job_rows: Iterable[Row],
    log_rows: Iterable[Row],
    setting_rows: Iterable[Row],
    change: int,
    stocked_rows: Iterable[Row] = (),
) -> BenchState:
    entries: dict[str, list[Logged]] = {}
    for job_id, *row in log_rows:
        entries.setdefault(job_id, []).append(read_logged(*row))
    unreadable: list[UnreadableRow] = []
    job_rows = list(job_rows)
    jobs = [stored_job(row, entries.get(row[0], ())) for row in job_rows]
    unreadable += unread_drafts(zip(job_rows, jobs, strict=True))
    parts = [item_of(row) for row in stocked_rows]
    settings: JsonObject = {}
    for name, value in setting_rows:
        try:
            check_name(name)
            settings[name] = msgspec.json.decode(value)
        except (ValueError, TypeError, RecursionError) as fault:
            unreadable.append(unreadable_row("settings", name, value, fault))
    unreadable += kept_drafts(settings)
    unreadable += [row for row in (*jobs, *parts) if isinstance(row, UnreadableRow)]
    return BenchState(
        tuple(job for job in jobs if isinstance(job, StoredJob)),
        settings,
        change,
        tuple(item for item in parts if isinstance(item, Item)),
        tuple(unreadable),
    )
