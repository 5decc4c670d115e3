"""What a stored row means, and the plain SQL that both readers of the bench share."""

from typing import Any

import msgspec

from inner_rim.core.log import AnyEntry, Logged
from inner_rim.core.parts import Item

BENCH_JOBS = "SELECT id, document, drafts, revision, archived FROM jobs WHERE archived = 0 ORDER BY id"
BENCH_LOG = (
    "SELECT log.id, log.job_id, log.wheel, log.at, log.body FROM log "
    "JOIN jobs ON jobs.id = log.job_id WHERE jobs.archived = 0 ORDER BY log.id"
)
SETTINGS = "SELECT name, value FROM settings"
STOCKED = (
    "SELECT id, kind, spec, stock, low_at, retired FROM parts "
    "WHERE kind IN ('tape', 'valve', 'sealant') AND stock > 0 AND retired = 0 ORDER BY name"
)
CHANGE = "SELECT change FROM state"

_ENTRY_READER = msgspec.json.Decoder(AnyEntry)


class StoredJob(msgspec.Struct, frozen=True):
    """A job as it is stored: the document (perhaps not complete yet), what is typed but not
    accepted yet, the revision, and the log.
    """

    job_id: int
    document: dict[str, Any]
    drafts: dict[str, str]
    revision: int
    archived: bool = False
    log: tuple[Logged, ...] = ()


class BenchState(msgspec.Struct, frozen=True):
    """All that the bench shows: its jobs, the settings, the number of the last change, and what a plan may take."""

    jobs: tuple[StoredJob, ...]
    settings: dict[str, Any]
    change: int
    stocked: tuple[Item, ...] = ()


def logged(row: Any) -> tuple[int, Logged]:
    """Return (job id, entry) of a log row."""
    number, job_id, wheel, at, body = row
    return job_id, Logged(number=number, at=at, wheel=wheel, entry=_ENTRY_READER.decode(body))


def item_of(row: Any) -> Item:
    """Return the part of a row."""
    item_id, kind, spec, stock, low_at, retired = row
    return Item(
        kind=kind,
        spec=msgspec.json.decode(spec),
        stock=stock,
        low_at=low_at,
        retired=bool(retired),
        item_id=item_id,
    )


def bench_state(
    job_rows: Any, log_rows: Any, setting_rows: Any, change: int, stocked_rows: Any = ()
) -> BenchState:
    """Return the bench from its rows."""
    entries: dict[int, list[Logged]] = {}
    for row in log_rows:
        job_id, entry = logged(row)
        entries.setdefault(job_id, []).append(entry)
    jobs = tuple(
        StoredJob(
            job_id=job_id,
            document=msgspec.json.decode(document),
            drafts=msgspec.json.decode(drafts),
            revision=revision,
            archived=bool(archived),
            log=tuple(entries.get(job_id, ())),
        )
        for job_id, document, drafts, revision, archived in job_rows
    )
    settings = {name: msgspec.json.decode(value) for name, value in setting_rows}
    return BenchState(jobs, settings, change, tuple(item_of(row) for row in stocked_rows))


#: What a person calls an entry of a kind, for the search.
KIND_WORDS = {
    "attempt": "seating attempt try",
    "inspection": "inspection looked over",
    "finding": "inspection finding",
    "reading": "reading hold gauge",
    "leak": "leak bubbles hold",
    "feedback": "test ride feedback",
    "care": "looked after care",
    "dip": "dipstick dip sealant",
    "dose": "sealant dose",
    "sign_off": "signed handed over",
    "override": "stop passed override",
    "step": "step done",
}


class Hit(msgspec.Struct, frozen=True):
    """An entry that a search found: its job, the wheel's name, and the entry."""

    job_id: int
    name: str
    item: Logged


def search_words(document: dict[str, Any], wheel: int, kind: str, body: Any) -> str:
    """Return what a search of the log looks through for one entry: its own words, its wheel's names and sizes."""
    wheels = document.get("wheels") or [{}]
    one = wheels[wheel] if wheel < len(wheels) else {}
    words = [KIND_WORDS.get(kind, kind), *_leaf_words(body)]
    words += [str(document.get(key) or "") for key in ("title", "customer", "bike")]
    words.append(str(one.get("name") or ""))
    for part in ("rim", "tire", "insert"):
        figures = one.get(part) or {}
        words += [str(figures.get(key) or "") for key in ("name", "size", "bead_seat_diameter_mm")]
    return " ".join(word.replace("_", " ") for word in words if word)


def _leaf_words(body: Any) -> list[str]:
    if isinstance(body, dict):
        return [word for key, value in body.items() if key != "trace" for word in _leaf_words(value)]
    if isinstance(body, list):
        return [word for value in body for word in _leaf_words(value)]
    return [str(body)] if isinstance(body, str) else []
