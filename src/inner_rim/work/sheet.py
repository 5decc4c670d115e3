"""A job while it is being filled in: what is accepted, and what is typed but not accepted yet.

A sheet never changes; each edit gives a new one, so undo is keeping the old.
"""

import copy
import re
from typing import Any

import msgspec

from inner_rim.core.errors import InputError, SizeAmbiguous
from inner_rim.core.job import FORMAT, VERSION, Job, parse_due
from inner_rim.core.reading import job_from_plain
from inner_rim.core.sizes import parse_size
from inner_rim.core.units import METRIC, UnitChoice
from inner_rim.words import tr

from .fields import field, value_of

#: What a wheel needs before anything can be planned.
NEEDED = ("rim.bead_seat_diameter_mm", "rim.internal_width_mm", "tire.size")
_WELL_KEYS = ("depth_mm", "floor_mm", "left_shoulder_mm", "right_shoulder_mm")
_MEASURED_KEYS = ("measured_width_mm", "measured_on_rim_mm")


class Sheet(msgspec.Struct, frozen=True):
    """A document, perhaps incomplete, and the drafts: text by path that is not accepted yet."""

    document: dict[str, Any]
    drafts: dict[str, str] = {}


class Reading(msgspec.Struct, frozen=True):
    """What a sheet says of one wheel.

    Attributes:
        job: the job with this wheel alone; None where something needed is missing or at odds.
        problems: a sentence by path for every draft that is not accepted.
        missing: paths of needed fields that are empty.
    """

    job: Job | None
    problems: dict[str, str]
    missing: tuple[str, ...]


def empty_sheet(name: str) -> Sheet:
    """Return a sheet with one wheel of which nothing is known."""
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "wheels": [{"name": name, "rim": {}, "tire": {}}],
    }
    return Sheet(document)


def edit(sheet: Sheet, path: str, text: str, choice: UnitChoice = METRIC) -> Sheet:
    """Return the sheet after typing `text` into the field at `path`.

    What is not accepted becomes a draft; the value accepted last stays in the document. Drafts that
    had waited for this edit are tried again.
    """
    drafts = {p: t for p, t in sheet.drafts.items() if p != path}
    edited, accepted = _try(sheet.document, path, text, choice)
    if not accepted:
        return Sheet(sheet.document, {**drafts, path: text})
    for waiting, typed in list(drafts.items()):
        edited, settled = _try(edited, waiting, typed, choice)
        if settled:
            del drafts[waiting]
    return Sheet(edited, drafts)


OTHER_END = {"front": "rear", "rear": "front"}


def alike(sheet: Sheet, wheel: int, taken: set[str]) -> tuple[Sheet, int]:
    """Return the sheet with a wheel alike added, and its place: same parts, the other end of the bicycle.

    Its load and what it was ridden at before are its own, and not copied.

    Args:
        sheet: the job.
        wheel: the wheel to copy.
        taken: names that are in use.
    """
    document = copy.deepcopy(sheet.document)
    twin = copy.deepcopy(document["wheels"][wheel])
    for own in ("load_n", "previous_pressure_kpa", "previous_width_mm"):
        twin.pop(own, None)
    here = twin.get("position")
    there = OTHER_END.get(here or "")
    name = str(twin.get("name", ""))
    if there and all(w.get("position") != there for w in document["wheels"]):
        twin["position"] = there
        name = name.replace(str(here), there)
    twin["name"] = _free_name(name, taken)
    document["wheels"].append(twin)
    return Sheet(document, sheet.drafts), len(document["wheels"]) - 1


def _free_name(name: str, taken: set[str]) -> str:
    if name not in taken:
        return name
    stem = re.sub(r" \(\d+\)$", "", name)
    return next(free for n in range(2, 100000) if (free := f"{stem} ({n})") not in taken)


def put(sheet: Sheet, path: str, value: Any) -> Sheet:
    """Return the sheet with a whole part put in, such as a rim used before; its drafts go."""
    document = copy.deepcopy(sheet.document)
    _set(document, path, copy.deepcopy(value))
    drafts = {p: t for p, t in sheet.drafts.items() if not p.startswith(path + ".")}
    return Sheet(document, drafts)


def _try(document: dict[str, Any], path: str, text: str, choice: UnitChoice) -> tuple[dict[str, Any], bool]:
    try:
        value = _checked_value(path, text, choice)
    except InputError:
        return document, False
    if value is None and _is_needed(path) and get(document, path) is not None:
        return document, False
    edited = copy.deepcopy(document)
    _set(edited, path, value)
    return (edited, True) if fault_of(edited, _wheel_of(path)) is None else (document, False)


def _checked_value(path: str, text: str, choice: UnitChoice) -> Any:
    value = value_of(field(path), text, choice)
    if path.endswith(".tire.size") and value is not None:
        parse_size(value)
    if path == "due" and value is not None and parse_due(value) is None:
        raise InputError(
            tr("“{typed}”; accepted is an ISO 8601 date or date and time, such as 2026-11-26T16:00").format(
                typed=value
            )
        )
    return value


def problem(sheet: Sheet, path: str, choice: UnitChoice = METRIC) -> str:
    """Return why the draft at `path` is not accepted, in one sentence."""
    text = sheet.drafts[path]
    try:
        value = _checked_value(path, text, choice)
    except InputError as fault:
        return fault.sentence
    if value is None and _is_needed(path):
        return tr("needed for the plan; the last value still counts")
    edited = copy.deepcopy(sheet.document)
    _set(edited, path, value)
    odds = fault_of(edited, _wheel_of(path))
    return odds.sentence if odds else tr("not accepted yet")


def candidates(text: str) -> tuple[str, ...]:
    """Return the ISO sizes that an ambiguous size name may stand for."""
    try:
        parse_size(text)
    except SizeAmbiguous as fault:
        return fault.candidates
    except InputError:
        pass
    return ()


def read(sheet: Sheet, wheel: int, choice: UnitChoice = METRIC) -> Reading:
    """Return what the sheet says of one wheel."""
    mine = f"wheels[{wheel}]"
    missing = tuple(f"{mine}.{p}" for p in NEEDED if get(sheet.document, f"{mine}.{p}") is None)
    problems = {
        path: problem(sheet, path, choice)
        for path in sheet.drafts
        if path.startswith(mine + ".") or not path.startswith("wheels[")
    }
    if missing:
        return Reading(None, problems, missing)
    try:
        return Reading(job_from_plain(wheel_document(sheet.document, wheel)), problems, ())
    except InputError as fault:
        path = fault.path.replace("wheels[0]", mine)
        return Reading(None, {**problems, path: fault.sentence}, ())


def wheel_document(document: dict[str, Any], wheel: int) -> dict[str, Any]:
    """Return a document with one wheel alone; parts begun but not complete are left out."""
    mine = dict(document["wheels"][wheel])
    rim, tire = dict(mine.get("rim", {})), dict(mine.get("tire", {}))
    well = rim.get("well")
    if isinstance(well, dict) and any(well.get(key) is None for key in _WELL_KEYS):
        del rim["well"]
    if any(tire.get(key) is None for key in _MEASURED_KEYS):
        for key in _MEASURED_KEYS:
            tire.pop(key, None)
    if not mine.get("insert"):
        mine.pop("insert", None)
    return {**document, "wheels": [{**mine, "rim": rim, "tire": tire}]}


def fault_of(document: dict[str, Any], wheel: int) -> InputError | None:
    """Return what is at odds in a wheel that has all it needs, or None."""
    if any(get(document, f"wheels[{wheel}].{p}") is None for p in NEEDED):
        return None
    try:
        job_from_plain(wheel_document(document, wheel))
    except InputError as fault:
        return fault
    return None


def get(document: Any, path: str) -> Any:
    """Return the value at a path, None where there is none."""
    for token in _tokens(path):
        if isinstance(document, list):
            index = int(token)
            document = document[index] if index < len(document) else None
        elif isinstance(document, dict):
            document = document.get(token)
        else:
            return None
    return document


def _set(document: Any, path: str, value: Any) -> None:
    *way, last = _tokens(path)
    for token in way:
        document = document[int(token)] if isinstance(document, list) else _child(document, token)
    if value is None:
        document.pop(last, None)
    else:
        document[last] = value


def _child(document: dict[str, Any], key: str) -> Any:
    if document.get(key) is None:
        document[key] = {}
    return document[key]


def _tokens(path: str) -> list[str]:
    return re.findall(r"[^.\[\]]+", path)


def _wheel_of(path: str) -> int:
    match = re.match(r"wheels\[(\d+)\]", path)
    return int(match[1]) if match else 0


def _is_needed(path: str) -> bool:
    return path.endswith((*NEEDED, "].name")) and path.startswith("wheels[")


def leaves(document: Any, path: str = "") -> dict[str, Any]:
    """Return every single value of a document by its path; lists of numbers count as one value."""
    if isinstance(document, dict):
        return {
            p: v
            for key, value in document.items()
            for p, v in leaves(value, f"{path}.{key}" if path else key).items()
        }
    if isinstance(document, list) and any(isinstance(item, dict) for item in document):
        return {p: v for i, item in enumerate(document) for p, v in leaves(item, f"{path}[{i}]").items()}
    return {path: document}


def merged(base: Sheet, mine: Sheet, theirs: Sheet) -> tuple[Sheet, tuple[str, ...]]:
    """Join two edits of the same sheet, field by field.

    A field that only one side changed takes that side's value. Where both changed it, theirs (it is
    stored already) stands and mine is kept as a draft beside it.

    Returns:
        The joined sheet, and the paths where mine was set aside.
    """
    old, ours, other = leaves(base.document), leaves(mine.document), leaves(theirs.document)
    document = copy.deepcopy(theirs.document)
    drafts = {**theirs.drafts, **{p: t for p, t in mine.drafts.items() if base.drafts.get(p) != t}}
    aside = []
    for path in sorted(set(ours) | set(old)):
        if ours.get(path) == old.get(path) or ours.get(path) == other.get(path):
            continue
        if other.get(path) == old.get(path) and _fits(document, path):
            _set(document, path, ours.get(path))
        else:
            aside.append(path)
            drafts[path] = str(ours.get(path, ""))
    return Sheet(document, drafts), tuple(aside)


def _fits(document: dict[str, Any], path: str) -> bool:
    match = re.match(r"wheels\[(\d+)\]", path)
    return match is None or int(match[1]) < len(document["wheels"])
