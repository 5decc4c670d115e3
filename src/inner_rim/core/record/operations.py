"""Edits of a job as operations: what one bench sets, and how the edits of several benches are
joined.

An operation names its target by identity, never by position, and carries the value that it
replaces, so that an edit made without knowledge of another one is noticed field by field. Values
are canonical (mm, ml, kPa); what is only typed is a `UnacceptedText` with the units in force when
it was typed.
"""

from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple

import msgspec

from inner_rim.core.record.paths import JsonObject, parts_of
from inner_rim.core.record.texts import cleaned
from inner_rim.core.record.units import UnitChoice

#: The target of an operation on the job itself.
JOB = ""
#: Longest text that is kept of a field.
MAX_TYPED = 2000
#: Objects of a document that stay when they are empty.
_KEPT_EMPTY = frozenset({"rim", "tire"})


class FieldKey(NamedTuple):
    """A field of a job: the wheel's identity, or `JOB`, and the path within it."""

    target: str
    path: str


class UnacceptedText(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Text in a field that is not accepted yet, and the units in force when it was typed."""

    text: str
    units: UnitChoice = UnitChoice()


def as_typed(text: str, units: UnitChoice) -> UnacceptedText:
    """Return what is kept of a typed text: no control characters, and no more than a field takes."""
    return UnacceptedText(cleaned(text)[:MAX_TYPED], units)


#: What is typed and not accepted, by field.
Drafts = dict[FieldKey, UnacceptedText]


class SetField(msgspec.Struct, frozen=True, tag="set"):
    """Set one field.

    Attributes:
        path: the field, such as ``rim.internal_width_mm``.
        value: canonical; None empties the field.
    """

    target: str
    path: str
    value: object = None
    base: object = None


class SetDraft(msgspec.Struct, frozen=True, tag="draft"):
    """Keep what is typed into a field and not accepted; None takes it away."""

    target: str
    path: str
    value: UnacceptedText | None = None
    base: UnacceptedText | None = None


class AddWheel(msgspec.Struct, frozen=True, tag="add"):
    """Add a wheel, which has an identity of its own, at the end of the job."""

    wheel: JsonObject


class RemoveWheel(msgspec.Struct, frozen=True, tag="remove"):
    """Take a wheel out of the job again; refused once it has a log or was changed since."""

    wheel_id: str
    base: JsonObject


Operation = SetField | SetDraft | AddWheel | RemoveWheel


class Conflict(msgspec.Struct, frozen=True):
    """An operation that was not applied because another bench was faster.

    Attributes:
        operation: it, whole: its value is not lost.
        stored: the value that stays.
        reason: `changed`, the field has another value; `gone`, the wheel is not in the job any
            more; `logged`, the wheel has a log; `last`, it is the job's last wheel.
    """

    operation: Operation
    stored: object
    reason: str


class Joined(msgspec.Struct, frozen=True):
    """A document with operations applied, and those that were not."""

    document: JsonObject
    drafts: Drafts
    conflicts: tuple[Conflict, ...]


def apply(
    document: JsonObject,
    drafts: Mapping[FieldKey, UnacceptedText],
    operations: Iterable[Operation],
    has_log: Callable[[str], bool] = lambda wheel_id: False,
) -> Joined:
    """Return a document after operations, each applied where what it replaces still stands.

    Nothing that is passed in is changed. A field, or what is typed into it, is set where the stored
    value is the one that the operation saw, or is the wanted one already (the operation was applied
    before and its answer lost); otherwise the stored value stands and the operation is returned as
    a conflict.
    """
    kept = dict(drafts)
    conflicts: list[Conflict] = []
    for operation in operations:
        if isinstance(operation, SetField):
            document, conflict = _set(document, operation)
        elif isinstance(operation, SetDraft):
            conflict = _set_draft(kept, operation)
        elif isinstance(operation, AddWheel):
            document, conflict = _add(document, operation), None
        else:
            document, conflict = _remove(document, operation, has_log)
            if conflict is None:
                kept = {
                    key: typed for key, typed in kept.items() if key.target != operation.wheel_id
                }
        if conflict is not None:
            conflicts.append(conflict)
    return Joined(document, kept, tuple(conflicts))


def _set(document: JsonObject, operation: SetField) -> tuple[JsonObject, Conflict | None]:
    node = node_of(document, operation.target)
    if node is None:
        return document, Conflict(operation, None, "gone")
    stored = value_at(node, operation.path)
    if stored == operation.value:
        return document, None
    if stored != operation.base:
        return document, Conflict(operation, stored, "changed")
    return with_field(document, operation.target, operation.path, operation.value), None


def _set_draft(drafts: Drafts, operation: SetDraft) -> Conflict | None:
    """Set or take away what is typed, where that is what the operation saw; text of someone else's
    is never taken away.
    """
    key = FieldKey(operation.target, operation.path)
    stored = drafts.get(key)
    if stored == operation.value:
        return None
    if stored != operation.base:
        return Conflict(operation, stored, "changed") if operation.value is not None else None
    if operation.value is None:
        del drafts[key]
    else:
        drafts[key] = operation.value
    return None


def _add(document: JsonObject, operation: AddWheel) -> JsonObject:
    if node_of(document, str(operation.wheel.get("wheel_id"))) is not None:
        return document  # applied before
    return {**document, "wheels": [*document["wheels"], operation.wheel]}


def _remove(
    document: JsonObject, operation: RemoveWheel, has_log: Callable[[str], bool]
) -> tuple[JsonObject, Conflict | None]:
    node = node_of(document, operation.wheel_id)
    if node is None:
        return document, None
    if has_log(operation.wheel_id):
        return document, Conflict(operation, node, "logged")
    if node != operation.base:
        return document, Conflict(operation, node, "changed")
    left = [wheel for wheel in document["wheels"] if wheel is not node]
    if not left:
        return document, Conflict(operation, node, "last")
    return {**document, "wheels": left}, None


def merged(operations: Iterable[Operation]) -> tuple[Operation, ...]:
    """Return operations in their order, those on one field as one: from the first base to the last
    value.

    >>> merged([SetField("", "bike", "T", None), SetField("", "bike", "Te", "T")])
    (SetField(target='', path='bike', value='Te', base=None),)
    """
    result: list[Operation] = []
    fields: dict[tuple[type, str, str], SetField | SetDraft] = {}

    def close() -> None:
        result.extend(one for one in fields.values() if one.value != one.base)
        fields.clear()

    for operation in operations:
        if isinstance(operation, SetField | SetDraft):
            key = (type(operation), operation.target, operation.path)
            first = fields.get(key, operation)
            fields[key] = msgspec.structs.replace(operation, base=first.base)
        else:  # a wheel that comes or goes: what is set before it stays before it
            close()
            result.append(operation)
    close()
    return tuple(result)


def inverse(operation: Operation) -> Operation:
    """Return the operation that takes one back.

    >>> inverse(SetField("", "bike", "Tern", None))
    SetField(target='', path='bike', value=None, base='Tern')
    """
    if isinstance(operation, SetField | SetDraft):
        return msgspec.structs.replace(operation, value=operation.base, base=operation.value)
    if isinstance(operation, AddWheel):
        return RemoveWheel(str(operation.wheel["wheel_id"]), operation.wheel)
    return AddWheel(operation.base)


def node_of(document: JsonObject, target: str) -> JsonObject | None:
    """Return the job itself or one of its wheels, None where there is no such wheel."""
    if target == JOB:
        return document
    return next((wheel for wheel in document["wheels"] if wheel.get("wheel_id") == target), None)


def value_at(node: object, path: str) -> object:
    """Return the value at a dotted path, None where there is none."""
    for name in parts_of(path):
        node = node.get(name) if isinstance(node, dict) else None
    return node


def with_field(document: JsonObject, target: str, path: str, value: object) -> JsonObject:
    """Return the document with one field set; what it shares with the old one is not copied.

    Raises:
        KeyError: there is no such wheel.
    """
    if target == JOB:
        return _with_value(document, parts_of(path), value)
    if node_of(document, target) is None:
        raise KeyError(target)
    wheels = [
        _with_value(wheel, parts_of(path), value) if wheel.get("wheel_id") == target else wheel
        for wheel in document["wheels"]
    ]
    return {**document, "wheels": wheels}


def _with_value(node: JsonObject, path: list[str], value: object) -> JsonObject:
    first, rest = path[0], path[1:]
    if rest:
        inner = node.get(first)
        value = _with_value(inner if isinstance(inner, dict) else {}, rest, value)
        if not value and first not in _KEPT_EMPTY:
            value = None
    if value is None:
        return {name: kept for name, kept in node.items() if name != first}
    return {**node, first: value}


def leaves(node: JsonObject, prefix: str = "") -> JsonObject:
    """Return every single value of an object by its path; a list counts as one value.

    >>> leaves({"rim": {"spokes": 32, "well": {"depth_mm": 4.0}}})
    {'rim.spokes': 32, 'rim.well.depth_mm': 4.0}
    """
    result: JsonObject = {}
    for name, value in node.items():
        path = f"{prefix}{name}"
        if isinstance(value, dict):
            result |= leaves(value, f"{path}.")
        else:
            result[path] = value
    return result


def set_part(
    node: JsonObject, target: str, part: str, value: Mapping[str, object]
) -> list[Operation]:
    """Return the operations that put a whole part, such as a rim used before, in the place of
    another.
    """
    old = leaves({part: node.get(part) or {}})
    new = leaves({part: dict(value)})
    return [
        SetField(target, path, new.get(path), old.get(path))
        for path in (*old, *(p for p in new if p not in old))
        if new.get(path) != old.get(path)
    ]
