"""The demo: job files and logs of an invented repair shed, shipped with the program.

Times in the logs are hours of work before the last moment at which the shed was open, due dates
hours of work after; a start of the demo makes them real. Nobody works there at night.
"""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from inner_rim.core.record.log import AnyEntry, Logged, Promised
from inner_rim.core.record.moments import local, naive_local
from inner_rim.core.record.parts import Item, item_from, stocked
from inner_rim.core.record.paths import JsonObject, id_from
from inner_rim.core.schedule.hours import Hours
from inner_rim.store.rows import BenchState, StoredJob
from inner_rim.work.storage.source import Source, opener

if TYPE_CHECKING:
    from inner_rim.store.repository import Repository

#: The practice of the invented shop.
SETTINGS: JsonObject = {
    "practice.tape_width": "contour",
    "practice.dose": "standard",
    "practice.sealant_route": "inject",
    "practice.lubricant": "soap",
    "practice.climate": "cool_damp",
    "shelf.injector_ml": 60.0,
    "hours": {"week": [{"opens": 480, "closes": 1050}] * 7},
}
#: The shed is open every day, all year.
HOURS = msgspec.convert(SETTINGS["hours"], Hours)
#: Entries of the bench are numbered after those of the past.
FIRST_NUMBER = 10000
FOLDER = Path(__file__).parents[2] / "demo"


class DemoEntry(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A log entry of the demo; the due time of a promise stands in hours of work after now."""

    hours_ago: float
    entry: AnyEntry
    wheel: int = 0


class DemoLog(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    due_in_hours: float | None = None
    log: tuple[DemoEntry, ...] = ()


class DemoJob(msgspec.Struct, frozen=True):
    """A job of the demo: the job file as it is shipped, when it is due, and its log."""

    job: JsonObject
    due_in_hours: float | None
    log: tuple[DemoEntry, ...]


def demo_jobs() -> tuple[DemoJob, ...]:
    reader = msgspec.json.Decoder(DemoLog)
    result = []
    for path in sorted(FOLDER.glob("*.json")):
        story = reader.decode((FOLDER / "logs" / path.name).read_bytes())
        result.append(
            DemoJob(msgspec.json.decode(path.read_bytes()), story.due_in_hours, story.log)
        )
    return tuple(result)


def demo_bench(now: datetime) -> BenchState:
    number = FIRST_NUMBER
    jobs = []
    for place, demo in enumerate(demo_jobs(), 1):
        job_id = id_from("demo job", place)
        wheels = [id_from(job_id, i) for i in range(len(demo.job["wheels"]))]
        log = []
        for item in sorted(demo.log, key=lambda item: -item.hours_ago):
            number += 1
            at = worked(now, -item.hours_ago).isoformat(timespec="seconds")
            uid = id_from("demo entry", number)
            entry = item.entry
            if isinstance(entry, Promised):
                due = naive_local(worked(now, float(entry.due))).replace(minute=0)
                entry = Promised(due=due.isoformat(timespec="minutes"))
            log.append(
                Logged(number=number, at=at, wheel_id=wheels[item.wheel], entry=entry, uid=uid)
            )
        document = _dated(demo, now)
        document["wheels"] = [
            {**wheel, "wheel_id": wheel_id}
            for wheel, wheel_id in zip(document["wheels"], wheels, strict=True)
        ]
        jobs.append(StoredJob(job_id, document, {}, 1, False, tuple(log)))
    return BenchState(tuple(jobs), dict(SETTINGS), 0, stocked(demo_shelf()))


def demo_shelf() -> tuple[Item, ...]:
    """Return the demo's parts, with the identities they are stored under."""
    result = msgspec.json.decode((FOLDER / "shop" / "shelf.json").read_bytes())
    return tuple(
        item_from(row.pop("kind"), row.pop("spec"), item_id=id_from("demo part", number), **row)
        for number, row in enumerate(result, 1)
    )


def _dated(demo: DemoJob, now: datetime) -> JsonObject:
    if demo.due_in_hours is None:
        return dict(demo.job)
    due = local(worked(now, demo.due_in_hours)).replace(minute=0)
    return {**demo.job, "due": due.strftime("%Y-%m-%dT%H:%M")}


def worked(now: datetime, hours: float) -> datetime:
    """Return the moment this many working hours before or after now, in the zone of `now`."""
    here = naive_local(now)
    there = HOURS.forward(here, 60.0 * hours) if hours >= 0.0 else HOURS.back(here, -60.0 * hours)
    return there.astimezone(UTC)  # a clock without a zone is this machine's


def demo_opener(file: Path, state: BenchState) -> "Callable[[], Repository]":
    def open_demo() -> "Repository":
        fresh = not file.exists()
        repository = opener(file)()
        if fresh:
            now = datetime.now(UTC)
            moment = now.isoformat(timespec="seconds")
            repository.import_all((*past_jobs(now), *state.jobs), demo_shelf(), SETTINGS, moment)
        return repository

    return open_demo


def demo_source(file: Path, now: datetime) -> Source:
    state = demo_bench(now)
    return Source(state, demo_opener(file, state))


#: The day that the file's calendar takes for today.
TODAY = datetime(2026, 1, 1)
#: Fields of a job that hold a day.
_DAYS = {"work": "tape_laid", "sealant": "in_since"}


class PastEntry(msgspec.Struct, frozen=True, array_like=True):
    """A log entry: when, on the shop's own clock of the file's calendar, of which wheel of the job,
    and what.
    """

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
            at = (
                datetime.fromisoformat(_moved(item.at, later))
                .astimezone(UTC)
                .isoformat(timespec="seconds")
            )
            wheel_id, uid = job.job["wheels"][item.wheel]["wheel_id"], id_from("demo past", number)
            log.append(Logged(number=number, at=at, wheel_id=wheel_id, entry=entry, uid=uid))
        wheels = [_dated_demo_past(wheel, later) for wheel in job.job["wheels"]]
        result.append(StoredJob(job_id, {**job.job, "wheels": wheels}, {}, 1, True, tuple(log)))
    return result


def _moved(at: str, later: timedelta, timespec: str = "seconds") -> str:
    return (datetime.fromisoformat(at) + later).isoformat(timespec=timespec)


def _dated_demo_past(wheel: JsonObject, later: timedelta) -> JsonObject:
    """The wheel with the days of its tape and sealant moved."""
    moved = {
        part: {**wheel[part], field: _moved(wheel[part][field], later)[:10]}
        for part, field in _DAYS.items()
        if (wheel.get(part) or {}).get(field)
    }
    return {**wheel, **moved}
