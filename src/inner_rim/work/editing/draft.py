"""A job while it is being filled in: what is accepted, and what is typed but not accepted yet.

A draft never changes; each edit gives a new one. What a keystroke means is a list of operations
(`core.operations`), the same here and in the store.
"""

import re
from functools import lru_cache

import msgspec

from inner_rim.core.record.errors import InputError, SizeAmbiguous
from inner_rim.core.record.job import FORMAT, VERSION, Job, parse_due
from inner_rim.core.record.operations import (
    JOB,
    AddWheel,
    Drafts,
    FieldKey,
    Operation,
    SetDraft,
    SetField,
    as_typed,
    node_of,
    value_at,
    with_field,
)
from inner_rim.core.record.paths import JsonObject, new_id
from inner_rim.core.record.reading import as_plain, job_from_plain
from inner_rim.core.record.sizes import parse_size
from inner_rim.core.record.units import UnitChoice
from inner_rim.words import tr
from inner_rim.work.editing.fields import field, value_of

#: What a wheel needs before anything can be planned.
NEEDED = ("rim.bead_seat_diameter_mm", "rim.internal_width_mm", "tire.size")
_WELL_KEYS = ("depth_mm", "floor_mm", "left_shoulder_mm", "right_shoulder_mm")
_MEASURED_KEYS = ("measured_width_mm", "measured_on_rim_mm")
OTHER_END = {"front": "rear", "rear": "front"}


class JobDraft(msgspec.Struct, frozen=True):
    """A document, perhaps incomplete, and what is typed but not accepted, by `FieldKey`."""

    document: JsonObject
    drafts: Drafts = {}


class DraftReading(msgspec.Struct, frozen=True):
    """What a draft says of one wheel.

    Attributes:
        job: the job with this wheel alone; None where something needed is missing or at odds.
        problems: a sentence by path for every text that is not accepted.
        missing: paths of needed fields that are empty.
    """

    job: Job | None
    problems: dict[str, str]
    missing: tuple[str, ...]


def empty_document(name: str) -> JsonObject:
    return {
        "format": FORMAT,
        "version": VERSION,
        "wheels": [{"name": name, "rim": {}, "tire": {}, "wheel_id": new_id()}],
    }


def typed(draft: JobDraft, target: str, path: str, text: str, units: UnitChoice) -> list[Operation]:
    """Return what typing `text` into a field means.

    What is not accepted is kept as a draft with the units it was typed in; the value accepted last
    stays in the document. Drafts that had waited for this edit are tried again, each in its own
    units.
    """
    typed_now = as_typed(text, units)
    text = typed_now.text
    key = FieldKey(target, path)
    before = draft.drafts.get(key)
    document, change = _tried(draft.document, target, path, text, units)
    if change is None:
        return [] if typed_now == before else [SetDraft(target, path, typed_now, before)]
    result: list[Operation] = [change] if change.value != change.base else []
    if before is not None:
        result.append(SetDraft(target, path, None, before))
    for waiting, kept in draft.drafts.items():
        if waiting == key or node_of(document, waiting.target) is None:
            continue
        document, settled = _tried(document, *waiting, kept.text, kept.units)
        if settled is not None:
            result += [settled] if settled.value != settled.base else []
            result.append(SetDraft(*waiting, None, kept))
    return result


def _tried(
    document: JsonObject, target: str, path: str, text: str, units: UnitChoice
) -> tuple[JsonObject, SetField | None]:
    node = node_of(document, target)
    if node is None:
        return document, None
    stored = value_at(node, path)
    try:
        value = checked_value(target, path, text, units)
    except InputError:
        return document, None
    if value is None and _is_needed(target, path) and stored is not None:
        return document, None
    edited = with_field(document, target, path, value)
    if fault_of(edited, _place(edited, target)) is not None:
        return document, None
    return edited, SetField(target, path, value, stored)


#: Fields that hold a day, perhaps with a time.
DAY_FIELDS = ("due", "waits.until")


def checked_value(target: str, path: str, text: str, units: UnitChoice) -> object:
    """Return the document's value of what was typed into a field.

    Raises:
        InputError: not understood, out of bounds, no size, no day.
    """
    value = value_of(field(path if target == JOB else f"wheels[0].{path}"), text, units)
    if path == "tire.size" and value is not None:
        parse_size(value)
    if path in DAY_FIELDS and value is not None and parse_due(str(value)) is None:
        raise InputError(
            tr("“{typed}”: type a day and time, such as Thu 16:00").format(typed=str(value)[:40])
        )
    return value


def problem(draft: JobDraft, key: FieldKey) -> str:
    target, path = key
    kept = draft.drafts[key]
    try:
        value = checked_value(target, path, kept.text, kept.units)
    except InputError as fault:
        return fault.sentence
    if value is None and _is_needed(target, path):
        return tr("needed for the plan; the last value still counts")
    edited = with_field(draft.document, target, path, value)
    odds = fault_of(edited, _place(edited, target))
    return odds.sentence if odds else tr("not accepted yet")


def candidates(text: str, rim_mm: object = None) -> tuple[str, ...]:
    """Return the ISO sizes that an ambiguous size name may mean, the rim's own diameter first.

    Args:
        rim_mm: bead seat diameter of the rim, None where it is not known.

    >>> candidates("650x40", 571.0)
    ('40-571', '40-584', '40-590')
    """
    try:
        parse_size(text)
    except SizeAmbiguous as fault:
        return tuple(sorted(fault.candidates, key=lambda size: not fits_rim(size, rim_mm)))
    except InputError:
        pass
    return ()


def fits_rim(size: str, rim_mm: object) -> bool:
    """Whether an ISO size is made for a rim of this bead seat diameter."""
    return isinstance(rim_mm, int | float) and parse_size(size).bead_seat_diameter_mm == rim_mm


def duplicate_wheel(draft: JobDraft, wheel_id: str, taken: set[str]) -> AddWheel:
    """Return the operation that adds a wheel with the same parts, at the other end of the bicycle.

    Its identity, its load and what it was ridden at before are its own, and not copied.
    """
    twin = dict(node_of(draft.document, wheel_id) or {})
    for own in ("load_n", "previous_pressure_kpa", "previous_width_mm"):
        twin.pop(own, None)
    twin["wheel_id"] = new_id()
    here = twin.get("position")
    there = OTHER_END.get(here or "")
    name = str(twin.get("name", ""))
    if there and all(w.get("position") != there for w in draft.document["wheels"]):
        twin["position"] = there
        name = _renamed(name, str(here), there)
    twin["name"] = _free_name(name, taken)
    return AddWheel(as_plain(twin))


def _renamed(name: str, here: str, there: str) -> str:
    """Swap front and rear in a name, only as its last whole word: “Waterfront, front” is
    “Waterfront, rear”.

    >>> _renamed("Waterfront, front", "front", "rear")
    'Waterfront, rear'
    """
    result = list(re.finditer(rf"\b{here}\b", name, re.IGNORECASE))
    if not result:
        return name
    last = result[-1]
    word = there.capitalize() if last[0][0].isupper() else there
    return name[: last.start()] + word + name[last.end() :]


def _free_name(name: str, taken: set[str]) -> str:
    if name not in taken:
        return name
    stem = re.sub(r" \(\d+\)$", "", name)[:180]
    return next(free for n in range(2, 100000) if (free := f"{stem} ({n})") not in taken)


def read(draft: JobDraft, wheel: int) -> DraftReading:
    mine = f"wheels[{wheel}]"
    wheel_id = str(draft.document["wheels"][wheel].get("wheel_id"))
    missing = tuple(f"{mine}.{p}" for p in NEEDED if get(draft.document, f"{mine}.{p}") is None)
    problems = {}
    for key in draft.drafts:
        if key.target == JOB:
            problems[key.path] = problem(draft, key)
        elif key.target == wheel_id:
            problems[f"{mine}.{key.path}"] = problem(draft, key)
    if missing:
        return DraftReading(None, problems, missing)
    result = _decoded(wheel_document(draft.document, wheel))
    if isinstance(result, InputError):
        path = result.path.replace("wheels[0]", mine)
        return DraftReading(None, {**problems, path: result.sentence}, ())
    return DraftReading(result, problems, ())


def _decoded(plain: JsonObject) -> Job | InputError:
    try:
        return job_from_plain(plain)
    except InputError as fault:
        return fault


def wheel_document(document: JsonObject, wheel: int) -> JsonObject:
    """Return a document with one wheel alone; parts begun but not complete are left out."""
    mine = dict(document["wheels"][wheel])
    rim, tire = dict(mine.get("rim") or {}), dict(mine.get("tire") or {})
    well = rim.get("well")
    if isinstance(well, dict) and any(well.get(key) is None for key in _WELL_KEYS):
        del rim["well"]
    if any(tire.get(key) is None for key in _MEASURED_KEYS):
        for key in _MEASURED_KEYS:
            tire.pop(key, None)
    if not mine.get("insert"):
        mine.pop("insert", None)
    return {**document, "wheels": [{**mine, "rim": rim, "tire": tire}]}


def fault_of(document: JsonObject, wheel: int) -> InputError | None:
    if any(get(document, f"wheels[{wheel}].{p}") is None for p in NEEDED):
        return None
    result = _decoded(wheel_document(document, wheel))
    return result if isinstance(result, InputError) else None


def get(document: object, path: str) -> object:
    """Return the value at a path such as ``wheels[0].rim.spokes``, None where there is none."""
    for token in _tokens(path):
        if isinstance(document, list):
            index = int(token)
            document = document[index] if index < len(document) else None
        elif isinstance(document, dict):
            document = document.get(token)
        else:
            return None
    return document


@lru_cache(maxsize=4096)
def _tokens(path: str) -> tuple[str, ...]:
    return tuple(re.findall(r"[^.\[\]]+", path))


def _place(document: JsonObject, target: str) -> int:
    places = (i for i, wheel in enumerate(document["wheels"]) if wheel.get("wheel_id") == target)
    return next(places, 0)


def _is_needed(target: str, path: str) -> bool:
    return target != JOB and path in (*NEEDED, "name")
