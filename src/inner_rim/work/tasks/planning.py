"""Plan a job document: for the command line, for scripts, and for the desktop's export."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from inner_rim.core.plan import wheel_plan as plans
from inner_rim.core.procedure.facts import Fact
from inner_rim.core.record.job import Job
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.reading import MAX_BYTES, job_from_bytes, job_from_plain
from inner_rim.core.record.units import METRIC
from inner_rim.core.record.why import Message
from inner_rim.work.storage.files import read_whole

if TYPE_CHECKING:
    import msgspec

_NOT_EXPORTED = frozenset({"wheel", "bed", "setup", "methods", "rider", "log", "behind"})
_AS_IT_IS = frozenset({str, int, float, bool, type(None)})


def read_job(path: Path) -> Job:
    """Return the job in a file.

    Raises:
        InputError: the file cannot be read or is not a job document.
    """
    return job_from_bytes(read_whole(path, MAX_BYTES))


def plan_document(document: JsonObject, after: Sequence[JsonObject] = ()) -> JsonObject:
    """Return the plan (`inner-rim/plan`, version 1) of a job document (`inner-rim/job`, version 1).

    Args:
        after: entries of the job's log as `export` writes it, oldest first; the plan says what remains after them.

    Raises:
        InputError: a `ValueError` that names the field, its value and what is accepted.
    """
    if not after:
        return plan_of_job(job_from_plain(document))
    from inner_rim.work.tasks.remaining import plans_after_entries

    return plan_of_job(job_from_plain(document), plans_after_entries(document, after))


def plan_of_job(job: Job, planned: Sequence[plans.WheelPlan] | None = None) -> JsonObject:
    """Return the plan document of a job that has been read."""
    return {
        "format": plans.FORMAT,
        "version": plans.VERSION,
        "title": job.title,
        "wheels": [wheel_document(plan) for plan in (plans.plan_job(job) if planned is None else planned)],
    }


def wheel_document(plan: plans.WheelPlan) -> JsonObject:
    """Return one wheel of a plan document; parts that are not planned yet are null."""
    sections = {name: plain(getattr(plan, name)) for name in plan.__struct_fields__ if name not in _NOT_EXPORTED}
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
    """Return structs as plain data: sentences read, numbers in full: a rounded one may lie above a limit."""
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
