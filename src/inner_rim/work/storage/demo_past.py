"""The demo's past: wheels that the invented shed did in eight months, off the bench, for its logbook and insights.

`tools/demo_past.py` makes the file from simulated wheels; a start of the demo moves its calendar up to today.
"""

from datetime import UTC, datetime, timedelta

import msgspec

from inner_rim.core.record.ids import id_from
from inner_rim.core.record.log import AnyEntry, Logged, Promised
from inner_rim.core.record.plain import JsonObject
from inner_rim.store.rows import StoredJob
from inner_rim.work.storage.demo import FOLDER

#: The day that the file's calendar takes for today.
TODAY = datetime(2026, 1, 1)
#: Fields of a job that hold a day.
_DAYS = {"work": "tape_laid", "sealant": "in_since"}


class PastEntry(msgspec.Struct, frozen=True, array_like=True):
    """A log entry: when, on the shop's own clock of the file's calendar, of which wheel of the job, and what."""

    at: str
    wheel: int
    entry: AnyEntry


class PastJob(msgspec.Struct, frozen=True):
    """A job of the past, its wheels with their identities, and its log in order."""

    job: JsonObject
    log: tuple[PastEntry, ...]


def past_jobs(now: datetime) -> list[StoredJob]:
    """Return the jobs as of `now`, the oldest first, their entries numbered through."""
    past = msgspec.json.decode((FOLDER / "shop" / "past.json").read_bytes(), type=list[PastJob])
    later = timedelta(days=(now.astimezone().replace(tzinfo=None) - TODAY).days)
    result, number = [], 0
    for job in past:
        job_id, log = id_from("demo past job", number), []
        for item in job.log:
            number += 1
            entry = item.entry
            if isinstance(entry, Promised):
                entry = Promised(due=_moved(entry.due, later, "minutes"))
            at = datetime.fromisoformat(_moved(item.at, later)).astimezone(UTC).isoformat(timespec="seconds")
            wheel_id, uid = job.job["wheels"][item.wheel]["wheel_id"], id_from("demo past", number)
            log.append(Logged(number=number, at=at, wheel_id=wheel_id, entry=entry, uid=uid))
        wheels = [_dated(wheel, later) for wheel in job.job["wheels"]]
        result.append(StoredJob(job_id, {**job.job, "wheels": wheels}, {}, 1, True, tuple(log)))
    return result


def _moved(at: str, later: timedelta, timespec: str = "seconds") -> str:
    return (datetime.fromisoformat(at) + later).isoformat(timespec=timespec)


def _dated(wheel: JsonObject, later: timedelta) -> JsonObject:
    """The wheel with the days of its tape and sealant moved."""
    moved = {
        part: {**wheel[part], field: _moved(wheel[part][field], later)[:10]}
        for part, field in _DAYS.items()
        if (wheel.get(part) or {}).get(field)
    }
    return {**wheel, **moved}
