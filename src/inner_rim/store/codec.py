"""The codec of the store: what is written was decoded back first; what cannot be read is kept.

A job is stored while it is typed, so its definition here is the job document with every field
optional; each field that is present still meets its bounds.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

import msgspec

from inner_rim.core.record.job import Job, JobStruct, Wheel
from inner_rim.core.record.log import AnyEntry, Logged, Unreadable
from inner_rim.core.record.operations import Drafts, FieldKey, UnacceptedText
from inner_rim.core.record.parts import Item, checked_item
from inner_rim.core.record.paths import JsonObject, is_id
from inner_rim.core.record.texts import cleaned, is_clean, with_bytes_shown
from inner_rim.core.record.units import is_known
from inner_rim.store.errors import StoreRefused
from inner_rim.words import tr

_ENTRY_READER = msgspec.json.Decoder(AnyEntry)
_DRAFT_READER = msgspec.json.Decoder(UnacceptedText)
_ENCODER = msgspec.json.Encoder()


class Refused(ValueError):
    """Something stored or to be stored does not meet its definition; names the field."""


def encoded_entry(entry: AnyEntry | Unreadable) -> str:
    """Return an entry as it is stored.

    Raises:
        StoreRefused: it could not be read back.
    """
    body = _encoded(entry)
    try:
        _ENTRY_READER.decode(body)
    except msgspec.MsgspecError as fault:
        raise _refusal(fault) from fault
    return body


def encoded_document(document: object) -> str:
    """Return a job's document as it is stored.

    Raises:
        StoreRefused: a field does not meet its definition.
    """
    body = _encoded(document)
    try:
        read_document(body)
    except ValueError as fault:
        raise _refusal(fault) from fault
    return body


def plain_drafts(drafts: Drafts) -> JsonObject:
    """Return drafts as plain data: the target, a colon and the path name the field."""
    return {f"{key.target}:{key.path}": msgspec.to_builtins(typed) for key, typed in drafts.items()}


def encoded_drafts(drafts: Drafts) -> str:
    """Return drafts as they are stored.

    Raises:
        StoreRefused: they could not be read back.
    """
    body = _encoded(plain_drafts(drafts))
    why = _sorted_drafts(body)[1]
    if why:
        raise _refusal(Refused(why))
    return body


def encoded_item(item: Item) -> str:
    """Return a part's figures as they are stored.

    Raises:
        StoreRefused: they do not meet the definition of their kind.
    """
    body = _encoded(item.spec)
    try:
        checked_item(item)
    except ValueError as fault:
        raise _refusal(fault) from fault
    return body


def encoded_value(value: object) -> str:
    """Return a setting as it is stored.

    Raises:
        StoreRefused: it holds what JSON cannot.
    """
    body = _encoded(value)
    if msgspec.json.decode(body) != value:
        raise StoreRefused(
            tr("The setting cannot be stored: {value}").format(value=str(value)[:60])
        )
    return body


def read_document(body: str) -> JsonObject:
    """Return a stored document as plain data.

    Raises:
        ValueError: it is no job document; says where.
    """
    partial_reader().decode(body)
    result: JsonObject = msgspec.json.decode(body)
    if not result.get("wheels"):
        raise Refused(tr("a job without wheels"))
    ids = [wheel.get("wheel_id") for wheel in result["wheels"]]
    if None in ids or len(set(ids)) != len(ids):
        raise Refused(tr("a wheel without an identity of its own"))
    return result


def read_drafts(body: str) -> Drafts:
    return _sorted_drafts(body)[0]


def lost_drafts(job_id: str, body: str) -> UnreadableRow | None:
    """Return stored drafts, some of which cannot be read, as a row that is kept; None where all can
    be.
    """
    why = _sorted_drafts(body)[1]
    return unreadable_row("drafts", job_id, body, why) if why else None


def checked_drafts(plain: object) -> Drafts:
    """Return drafts from plain data.

    Raises:
        Refused: one of them is for no field, or in no unit, that there is.
    """
    good, why = _sorted_drafts(_encoded(plain))
    if why:
        raise Refused(why)
    return good


def _sorted_drafts(body: str) -> tuple[Drafts, str]:
    """The drafts that can be read, and what is wrong with the first that cannot be."""
    good: Drafts = {}
    why = ""
    try:
        plain = msgspec.json.decode(body, type=dict[str, msgspec.Raw])
    except (ValueError, RecursionError) as fault:
        return good, str(fault)
    for key, value in plain.items():
        try:
            typed = _DRAFT_READER.decode(value)
        except (ValueError, RecursionError) as fault:
            why = why or f"{key}: {fault}"
            continue
        target, colon, path = key.partition(":")
        if not colon or path not in _fields(Wheel if target else Job):
            why = why or tr("{key}: there is no such field").format(key=key)
        elif not is_known(typed.units):
            why = why or tr("{key}: there is no such unit").format(key=key)
        else:
            good[FieldKey(target, path)] = typed
    return good, why


@cache
def _fields(struct: type[JobStruct]) -> frozenset[str]:
    result: set[str] = set()
    for name, hint in get_type_hints(struct, include_extras=True).items():
        inner = _part_in(hint)
        if inner is None:
            result.add(name)
        elif not _is_list(hint):
            result |= {f"{name}.{path}" for path in _fields(inner)}
    return frozenset(result)


def _is_list(hint: object) -> bool:
    return get_origin(hint) is list or any(_is_list(arg) for arg in get_args(hint))


def _part_in(hint: object) -> type[JobStruct] | None:
    if isinstance(hint, type) and issubclass(hint, JobStruct):
        return hint
    return next((part for arg in get_args(hint) if (part := _part_in(arg)) is not None), None)


def encoded_unread(entry: Unreadable) -> str:
    """Return an entry that could not be read where it comes from, byte for byte.

    Raises:
        StoreRefused: it holds half a character or NUL.
    """
    _encoded(entry.body)
    return entry.body


def check_key(key: object) -> None:
    """Refuse a stored identity that is damaged.

    Raises:
        Refused: it is none.
    """
    if not is_id(key):
        raise Refused(tr("a damaged identity"))


def check_name(name: object) -> None:
    """Refuse the name of a setting that is damaged.

    Raises:
        Refused: it is no text that can be stored.
    """
    if not isinstance(name, str) or not is_clean(name):
        raise Refused(tr("a damaged name"))


def read_logged(number: int, uid: str, wheel_id: str, at: str, body: str) -> Logged:
    """Return a stored entry; one that cannot be read is an `Unreadable`, and nothing else suffers."""
    from inner_rim.core.record.moments import moment

    entry: AnyEntry | Unreadable
    try:
        check_key(uid)
        check_key(wheel_id)
        moment(at)
        entry = _ENTRY_READER.decode(body)
    except (ValueError, RecursionError) as fault:
        entry = Unreadable(with_bytes_shown(body), str(fault)[:200])
        at = at if _is_moment(at) else "1970-01-01T00:00:00+00:00"
    return Logged(number=number, at=at, wheel_id=cleaned(wheel_id), entry=entry, uid=cleaned(uid))


def _is_moment(at: str) -> bool:
    from inner_rim.core.record.moments import moment

    try:
        moment(at)
    except ValueError:
        return False
    return True


def _encoded(value: object) -> str:
    for path, text in _texts(value):
        if not is_clean(text):
            raise StoreRefused(
                tr(
                    "{field}: the text holds half a character or NUL, which cannot be stored"
                ).format(field=path or tr("the text"))
            )
    try:
        return _ENCODER.encode(value).decode()
    except (msgspec.MsgspecError, TypeError, ValueError, RecursionError) as fault:
        raise _refusal(fault) from fault


def _texts(value: object, path: str = "") -> Iterator[tuple[str, str]]:
    if isinstance(value, str):
        yield path, value
    elif isinstance(value, dict):
        for name, inner in value.items():
            yield path, str(name)
            yield from _texts(inner, f"{path}.{name}" if path else str(name))
    elif isinstance(value, list | tuple):
        for inner in value:
            yield from _texts(inner, path)
    elif isinstance(value, msgspec.Struct):
        for name in value.__struct_fields__:
            yield from _texts(getattr(value, name), name)


def _refusal(fault: Exception) -> StoreRefused:
    return StoreRefused(
        tr("This cannot be stored: {what}").format(what=" ".join(str(fault).split())[:200])
    )


@cache
def partial_reader() -> msgspec.json.Decoder[object]:
    return msgspec.json.Decoder(_partial_struct(Job))


@cache
def _partial_struct(struct: type[JobStruct]) -> type:
    hints = get_type_hints(struct, include_extras=True)
    required = ("format", "version", "wheels")
    fields: list[tuple[str, object] | tuple[str, object, None]] = [
        (name, _partial(hint)) if name in required else (name, _partial(hint) | None, None)
        for name, hint in hints.items()
        if not name.startswith("_")
    ]
    return msgspec.defstruct(
        f"Partial{struct.__name__}", fields, kw_only=True, forbid_unknown_fields=True
    )


def _partial(hint: object) -> Any:
    origin = get_origin(hint)
    if isinstance(hint, type) and issubclass(hint, JobStruct):
        return _partial_struct(hint)
    if origin is Annotated:
        inner, *notes = get_args(hint)
        return Annotated[(_partial(inner), *notes)]
    if origin in (Union, UnionType):
        return Union[tuple(_partial(arg) for arg in get_args(hint))]  # noqa: UP007 - made at run time
    if origin is list:
        return list[_partial(get_args(hint)[0])]  # type: ignore[misc]
    return hint


#: Tables that may hold a row which cannot be read.
UnreadableTable = Literal["jobs", "drafts", "parts", "settings"]


class UnreadableRow(msgspec.Struct, frozen=True):
    """A stored job, its drafts, a part or a setting that cannot be read: kept byte for byte, shown,
    and exported.
    """

    table: UnreadableTable
    key: str
    body: str
    why: str


def unreadable_row(table: UnreadableTable, key: object, body: object, why: object) -> UnreadableRow:
    """Return a row that cannot be read; bytes that are no text are written out, and stay in the
    data as they are.
    """
    return UnreadableRow(
        table,
        with_bytes_shown(str(key)),
        with_bytes_shown(str(body)),
        with_bytes_shown(str(why)[:200]),
    )
