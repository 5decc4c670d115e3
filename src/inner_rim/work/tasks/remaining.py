"""What remains to be done at the wheels of a job after a log."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan, plan_wheel
from inner_rim.core.progress.progress import derive
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Job
from inner_rim.core.record.log import standing
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.reading import job_from_plain
from inner_rim.store.rows import StoredJob
from inner_rim.words import tr
from inner_rim.work.tasks.exchange import VERSION, WITH_LOG, Imported, read_file, read_plain


def read_log(path: Path) -> StoredJob:
    """Return the job with its log in a file, as `export` writes it.

    Raises:
        InputError: the file holds no such job, or several.
    """
    result = Imported()
    read_file(path, result)
    if len(result.jobs) != 1:
        raise InputError(tr("use one job with its log, as `export` writes it"))
    return result.jobs[0]


def plans_after_entries(document: JsonObject, entries: Sequence[JsonObject]) -> tuple[WheelPlan, ...]:
    """Return the plans of a job's wheels after entries of its log, as `export` writes them.

    An entry that names a wheel which the document does not name belongs to the wheels in their order.

    Raises:
        InputError: the document or an entry cannot be read; the fault names it.
    """
    named = [
        str(one["wheel_id"]) for one in document.get("wheels", ()) if isinstance(one, dict) and one.get("wheel_id")
    ]
    said = dict.fromkeys(str(one["wheel_id"]) for one in entries if isinstance(one, dict) and one.get("wheel_id"))
    strangers = [wheel_id for wheel_id in said if wheel_id not in named]
    wheels = [
        {"wheel_id": strangers.pop(0), **one}
        if strangers and isinstance(one, dict) and not one.get("wheel_id")
        else one
        for one in document.get("wheels", ())
    ]
    whole = {"format": WITH_LOG, "version": VERSION, "job": {**document, "wheels": wheels}, "log": list(entries)}
    result = Imported()
    read_plain(whole, result)
    return plans_after(job_from_plain(whole["job"]), result.jobs[0])


def plans_after(job: Job, logged: StoredJob) -> tuple[WheelPlan, ...]:
    """Return the plans of a job's wheels, each with the steps that remain after its log.

    A wheel of the job is the one of its identity in the log, else the one in its place.
    """
    places = [str(wheel["wheel_id"]) for wheel in logged.document["wheels"]]
    result = []
    for place, wheel in enumerate(job.wheels):
        wheel_id = wheel.wheel_id or (places[place] if place < len(places) else "")
        log = standing([item for item in logged.log if item.wheel_id == wheel_id])
        plan = plan_wheel(wheel, job.ride, job.practice, job.shelf, log)
        result.append(msgspec.structs.replace(plan, stops=derive(plan.wheel, plan).open_stops))
    return tuple(result)
