"""A job document from bytes or plain data, strictly, each fault as one sentence.

The sentence names the field, the value and what is accepted; never a traceback.
"""

from __future__ import annotations

import difflib
import math
import numbers
import re
from collections.abc import Iterator
from functools import cache
from typing import Any

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import FORMAT, VERSION, Job
from inner_rim.core.record.texts import is_clean
from inner_rim.words import tr

MAX_BYTES = 4_000_000
MAX_DEPTH = 40

_INNER_FIELD = r"(?s)^(?P<field>[a-z_]+): (?P<sentence>.*)$"
_UNKNOWN = r"(?s)unknown field `(?P<field>.*)`"
_MISSING = r"missing required field `(?P<field>.*)`"


def as_plain(value: object) -> Any:
    """Return a value as it is when it has been stored and read again.

    >>> as_plain((1, 2.0))
    [1, 2.0]
    """
    return msgspec.json.decode(msgspec.json.encode(value))


def job_from_bytes(data: bytes) -> Job:
    """Return the job in a UTF-8 JSON document.

    Raises:
        InputError: empty, too large, wrong encoding, not JSON, nested too deep, or not a job.
    """
    return job_from_plain(plain_from_bytes(data))


def check_size(data: bytes, max_bytes: int) -> None:
    """Refuse a file that is too large to be a job.

    Raises:
        InputError: it is.
    """
    if len(data) > max_bytes:
        words = tr("the file has {size} bytes: at most {most}")
        raise InputError(words.format(size=len(data), most=max_bytes))


def plain_from_bytes(data: bytes, max_bytes: int = MAX_BYTES, max_depth: int = MAX_DEPTH) -> Any:
    """Return the plain data of a UTF-8 JSON document of acceptable size and depth.

    Raises:
        InputError: see `job_from_bytes`.
    """
    if not data.strip():
        raise InputError(tr("the file is empty: it needs a job document in JSON"))
    check_size(data, max_bytes)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        raise InputError(
            tr("byte {at} is not UTF-8: save the file as UTF-8").format(at=fault.start)
        ) from fault
    if _is_deeper(text, max_depth):
        raise InputError(
            tr("nested deeper than {most} levels; a job needs 5").format(most=MAX_DEPTH)
        )
    try:
        return msgspec.json.decode(text)
    except (msgspec.DecodeError, RecursionError) as fault:
        _find_odd_number(text)
        raise InputError(tr("not JSON: {fault}").format(fault=_one_line(str(fault)))) from fault


def _find_odd_number(text: str) -> None:
    """Name the field where a document fails only for a NaN or an infinity, which JSON does not
    know.
    """
    import json  # the lenient reader; only where the strict one gave up

    try:
        plain = json.loads(text)
    except ValueError:
        return
    _refuse_odd(plain)


def _refuse_odd(plain: object) -> None:
    """Refuse numbers that are not finite and text that cannot be stored: one rule, whatever reads
    the document.

    Raises:
        InputError: with the path.
    """
    if not _is_odd(plain, 0):
        return
    for path, value in _leaves(plain):
        if isinstance(value, float) and not math.isfinite(value):
            raise InputError(tr("{value}: use a finite number").format(value=value), path)
        if isinstance(value, str) and not is_clean(value):
            raise InputError(tr("the text holds half a character or NUL: type it again"), path)


def job_from_plain(plain: object) -> Job:
    """Return the job in plain data (dicts, lists, numbers, text).

    Raises:
        InputError: not a job document; its `path` names the field.
    """
    if not isinstance(plain, dict):
        raise InputError(
            tr("not a job document: it needs a JSON object with format “{format}”").format(
                format=FORMAT
            )
        )
    _check_header(plain)
    _refuse_odd(plain)
    try:
        return msgspec.convert(plain, Job)
    except msgspec.ValidationError:
        plain = _natural(plain)  # numbers of other real types, such as NumPy's; only if needed
    try:
        return msgspec.convert(plain, Job)
    except msgspec.ValidationError as fault:
        raise as_input_error(str(fault), plain) from fault


def _natural(plain: object) -> object:
    """Return plain data with numbers of any real type as Python's own."""
    if isinstance(plain, dict):
        return {key: _natural(value) for key, value in plain.items()}
    if isinstance(plain, list | tuple):
        return [_natural(value) for value in plain]
    if isinstance(plain, int | float | str):
        return plain
    if isinstance(plain, numbers.Integral):
        return int(plain)
    if isinstance(plain, numbers.Real):
        return float(plain)
    return bool(plain) if type(plain).__name__ in ("bool", "bool_") else plain


def _check_header(plain: dict[object, object]) -> None:
    if plain.get("format") != FORMAT:
        raise InputError(
            tr("{value}: use “{format}”").format(value=_shown(plain.get("format")), format=FORMAT),
            "format",
        )
    version = plain.get("version")
    if version != VERSION or isinstance(version, bool):
        raise InputError(
            tr("{value}: use {version}").format(value=_shown(version), version=VERSION), "version"
        )


def _is_odd(plain: object, depth: int) -> bool:
    """Whether anything in here is too deep, not finite, or not text; the path is worked out only
    then.
    """
    if type(plain) is float:
        return not math.isfinite(plain)
    if type(plain) is str:
        return not is_clean(plain)
    if isinstance(plain, dict):
        plain = plain.values()
    elif not isinstance(plain, list | tuple):
        return False
    return depth >= MAX_DEPTH or any(_is_odd(value, depth + 1) for value in plain)


def _leaves(plain: object, path: str = "", depth: int = 0) -> Iterator[tuple[str, object]]:
    if depth > MAX_DEPTH:
        raise InputError(
            tr("nested deeper than {most} levels; a job needs 5").format(most=MAX_DEPTH)
        )
    if isinstance(plain, dict):
        for key, value in plain.items():
            yield from _leaves(value, f"{path}.{key}" if path else str(key), depth + 1)
    elif isinstance(plain, list | tuple):
        for i, value in enumerate(plain):
            yield from _leaves(value, f"{path}[{i}]", depth + 1)
    else:
        yield path, plain


def as_input_error(text: str, plain: object, root: type = Job) -> InputError:
    """Return msgspec's complaint about plain data of a struct as a sentence that names the field."""
    what, at, path = text.rpartition(" - at `")
    what, path = (what, path.rstrip("`")) if at and path.startswith("$") else (text, "$")
    bare = path.removeprefix("$").removeprefix(".")
    if unknown := re.search(_UNKNOWN, what):
        name, keys = unknown["field"][:60], _keys_at(bare, root)
        near = difflib.get_close_matches(name, keys, 1, 0.5)
        words = (
            tr("unknown key. Did you mean {name}?").format(name=near[0])
            if near
            else tr("unknown key: use {keys}").format(keys=", ".join(keys))
        )
        return InputError(words, _joined(bare, name))
    if missing := re.search(_MISSING, what):
        field = _joined(bare, missing["field"])
        return InputError(tr("missing: add {what}").format(what=accepted(field, root)), field)
    if inner := re.match(_INNER_FIELD, what):
        return InputError(inner["sentence"], _joined(bare, inner["field"]))
    value = _value_at(plain, bare)
    return InputError(
        tr("{value}: use {what}").format(value=_shown(value), what=accepted(bare, root) or what),
        bare,
    )


def _joined(path: str, field: str) -> str:
    return f"{path}.{field}" if path else field


def _tokens(path: str) -> list[str]:
    return re.findall(r"[^.\[\]]+", path)


def _value_at(plain: Any, path: str) -> Any:
    for token in _tokens(path):
        try:
            plain = plain[int(token)] if isinstance(plain, list | tuple) else plain[token]
        except (KeyError, IndexError, ValueError, TypeError):
            return None
    return plain


def _shown(value: object) -> str:
    if value is None:
        return tr("nothing")
    if isinstance(value, dict | list | tuple):
        return tr("a list") if not isinstance(value, dict) else tr("an object")
    text = msgspec.json.encode(value).decode() if isinstance(value, bool) else str(value)
    text = _one_line(text)
    return tr("“{words}”").format(words=text) if isinstance(value, str) else text


def _one_line(text: str) -> str:
    flat = " ".join(text.split())
    return flat if len(flat) <= 60 else flat[:57] + "…"


def _is_deeper(text: str, most: int) -> bool:
    """Whether brackets outside strings are nested deeper than that; in linear time."""
    bare = text.replace("\\\\", "").replace('\\"', "")  # without escaped characters in strings
    depth = 0
    for part in bare.split('"')[::2]:
        for sign in part:
            if sign in "[{":
                depth += 1
                if depth > most:
                    return True
            elif sign in "]}":
                depth -= 1
    return False


def type_at(path: str, root: type = Job) -> object:
    """Return msgspec's type description of the field at `path`, or None where there is none."""
    from msgspec import inspect

    node: object = _type_of(root)
    for token in _tokens(path):
        node = plain_type(node)
        if isinstance(node, inspect.ListType | inspect.VarTupleType):
            node = node.item_type
        elif isinstance(node, inspect.StructType):
            node = next((f.type for f in node.fields if f.encode_name == token), None)
        else:
            return None
    return node


@cache
def _type_of(root: type) -> object:
    from msgspec import inspect

    return inspect.type_info(root)


def plain_type(node: object) -> Any:
    """Return a type description without its metadata and without None."""
    from msgspec import inspect

    while True:
        if isinstance(node, inspect.Metadata):
            node = node.type
        elif isinstance(node, inspect.UnionType):
            node = next(t for t in node.types if not isinstance(t, inspect.NoneType))
        else:
            return node


def accepted(path: str, root: type = Job) -> str:
    """Return in words what the field at `path` accepts.

    >>> accepted("wheels[0].rim.internal_width_mm")
    'a number from 10 to 120 (between the flanges, at the bead seats)'
    """
    from msgspec import inspect

    raw = type_at(path, root)
    node = plain_type(raw)
    note = _description(raw)
    if isinstance(node, inspect.FloatType | inspect.IntType):
        word = tr("a whole number") if isinstance(node, inspect.IntType) else tr("a number")
        text = _range(word, node)
    elif isinstance(node, inspect.LiteralType):
        text = tr("one of {values}").format(values=", ".join(map(str, node.values)))
    elif isinstance(node, inspect.BoolType):
        text = tr("true or false")
    elif isinstance(node, inspect.StrType):
        text = tr("text of at most {most} characters").format(most=node.max_length or MAX_BYTES)
    elif isinstance(node, inspect.ListType):
        text = tr("a list of {least} to {most} entries").format(
            least=node.min_length or 0, most=node.max_length
        )
    elif isinstance(node, inspect.StructType):
        text = tr("an object with {keys}").format(keys=", ".join(_keys_at(path, root)))
    else:
        text = ""
    return f"{text} ({note})" if note and text else text


def _range(word: str, node: Any) -> str:
    low = node.ge if node.ge is not None else node.gt
    over = tr("above") if node.ge is None else tr("from")
    return tr("{number} {over} {low:g} to {high:g}").format(
        number=word, over=over, low=low, high=node.le
    )


def _description(node: object) -> str:
    from msgspec import inspect

    while isinstance(node, inspect.Metadata | inspect.UnionType):
        if isinstance(node, inspect.Metadata):
            result = (node.extra_json_schema or {}).get("description", "")
            if result:
                return str(result)
            node = node.type
        else:
            node = node.types[0]
    return ""


def _keys_at(path: str, root: type) -> list[str]:
    node = plain_type(type_at(path, root))
    return [f.encode_name for f in getattr(node, "fields", ())]
