"""Plan a job document, from check-in or after its log: for the command line, for scripts, and for
the desktop's export.
"""

from collections.abc import Sequence
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Any, NamedTuple

import msgspec

from inner_rim.core.plan import wheel_plan as plans
from inner_rim.core.plan.wheel_plan import WheelPlan, plan_wheel
from inner_rim.core.procedure.state import Fact
from inner_rim.core.progress.progress import derive
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Job
from inner_rim.core.record.line_entry import read_line
from inner_rim.core.record.log import standing
from inner_rim.core.record.operations import JOB, with_field
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import MAX_BYTES, job_from_bytes, job_from_plain
from inner_rim.core.record.sizes import parse_size
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.record.why import Message
from inner_rim.store.rows import StoredJob
from inner_rim.words import tr
from inner_rim.work.editing.draft import checked_value, empty_document
from inner_rim.work.editing.state import in_wheel
from inner_rim.work.storage.files import read_whole
from inner_rim.work.tasks.exchange import VERSION, WITH_LOG, Imported, read_file, read_plain

_NOT_EXPORTED = frozenset({"wheel", "bed", "setup", "methods", "rider", "log", "behind"})
_AS_IT_IS = frozenset({str, int, float, bool, type(None)})


def read_job(path: Path) -> Job:
    """Return the job in a file.

    Raises:
        InputError: the file cannot be read or is not a job document.
    """
    return job_from_bytes(read_whole(path, MAX_BYTES))


class SaidJob(NamedTuple):
    """A job that was said in one line: its document, and what was not understood."""

    document: JsonObject
    left: str


def said_job(text: str, units: UnitChoice) -> SaidJob:
    """Return the job document that a line says; a rim without a diameter has that of its tire.

    Args:
        units: that figures without one are taken in.

    Raises:
        InputError: nothing of it is understood.
    """
    line = read_line(text, datetime.now())
    if not line.understood:
        raise InputError(tr("nothing understood; say it like 45-622 on 24 hooked, 98 kg"))
    said, seat = {one.path: one.text for one in line.understood}, "rim.bead_seat_diameter_mm"
    with suppress(InputError):
        said.setdefault(seat, f"{parse_size(said.get('tire.size', '')).bead_seat_diameter_mm:g} mm")
    document = empty_document(said.pop("name", "") or tr("Wheel"))
    wheel_id, refused = document["wheels"][0]["wheel_id"], []
    for path, value in said.items():
        target = wheel_id if in_wheel(path) else JOB
        try:
            document = with_field(document, target, path, checked_value(target, path, value, units))
        except InputError:
            refused.append(value)
    return SaidJob(document, " ".join((*refused, line.left)).strip())


def plan_document(document: JsonObject, after: Sequence[JsonObject] = ()) -> JsonObject:
    """Return the plan (`inner-rim/plan`, version 1) of a job document (`inner-rim/job`, version 1).

    Args:
        after: entries of the job's log as `export` writes it, oldest first; the plan says what
            remains after them.

    Raises:
        InputError: a `ValueError` that names the field, its value and what is accepted.
    """
    if not after:
        return plan_of_job(job_from_plain(document))
    return plan_of_job(job_from_plain(document), plans_after_entries(document, after))


def plan_of_job(job: Job, planned: Sequence[plans.WheelPlan] | None = None) -> JsonObject:
    """Return the plan document of a job that has been read."""
    return {
        "format": plans.FORMAT,
        "version": plans.VERSION,
        "title": job.title,
        "wheels": [
            wheel_document(plan) for plan in (plans.plan_job(job) if planned is None else planned)
        ],
    }


def wheel_document(plan: plans.WheelPlan) -> JsonObject:
    """Return one wheel of a plan document; parts that are not planned yet are null."""
    names = zip(plan.__struct_fields__, plan.__struct_encode_fields__, strict=True)
    sections = {key: plain(getattr(plan, name)) for name, key in names if name not in _NOT_EXPORTED}
    order = (
        "name",
        "tire",
        "tape",
        "valve",
        "insert",
        "mounting",
        "sealant",
        "pressure",
        "coming_up",
        "weights",
        "steps",
    )
    return {**{name: sections.pop(name, None) for name in order}, **sections}


def plain(value: Any) -> Any:
    """Return structs as plain data: sentences read, numbers in full: a rounded one may lie above a
    limit.
    """
    kind = type(value)
    if kind in _AS_IT_IS:
        return value
    if kind is Message:
        return value.read(METRIC)
    if kind is Fact:
        return str(value)
    if kind is tuple or kind is list:
        if value and type(value[0]) is str:
            return list(value)
        return [plain(item) for item in value]
    result = dict(value) if kind is dict else _encoded(value)
    for key, item in result.items():  # leaves at once: a plan has a thousand of them
        if type(item) not in _AS_IT_IS:
            result[key] = plain(item)
    return result


def _encoded(value: msgspec.Struct) -> JsonObject:
    fields, keys = value.__struct_fields__, value.__struct_encode_fields__
    return {key: getattr(value, field) for key, field in zip(keys, fields, strict=True)}


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


def plans_after_entries(
    document: JsonObject, entries: Sequence[JsonObject]
) -> tuple[WheelPlan, ...]:
    """Return the plans of a job's wheels after entries of its log, as `export` writes them.

    An entry that names a wheel which the document does not name belongs to the wheels in their
    order.

    Raises:
        InputError: the document or an entry cannot be read; the fault names it.
    """
    named = [
        str(one["wheel_id"])
        for one in document.get("wheels", ())
        if isinstance(one, dict) and one.get("wheel_id")
    ]
    said = dict.fromkeys(
        str(one["wheel_id"]) for one in entries if isinstance(one, dict) and one.get("wheel_id")
    )
    strangers = [wheel_id for wheel_id in said if wheel_id not in named]
    wheels = [
        {"wheel_id": strangers.pop(0), **one}
        if strangers and isinstance(one, dict) and not one.get("wheel_id")
        else one
        for one in document.get("wheels", ())
    ]
    whole = {
        "format": WITH_LOG,
        "version": VERSION,
        "job": {**document, "wheels": wheels},
        "log": list(entries),
    }
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
