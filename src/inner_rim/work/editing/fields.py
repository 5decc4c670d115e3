"""The fields of a job that a person fills in: where they are in the document, their types, how they
are read and shown.
"""

import re
from collections.abc import Callable
from functools import cache
from typing import Any, Literal

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Job, TapeRoll, ValveStem, parse_due
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.paths import name_of
from inner_rim.core.record.reading import accepted, plain_type, type_at
from inner_rim.core.record.texts import is_clean
from inner_rim.core.record.units import TRADE, UnitChoice, entry_text, kind_of, number, parse, show
from inner_rim.words import tr, with_mark

#: Fields of a wheel or a shop that the trade gives in mm wherever it works.
_TRADE_FIELDS = ("valve_mm", "valve_hole_mm", "tape_widths_mm", "valve_lengths_mm")
_ROUNDED_SHARE = 1e-3
#: The longest list that is shown in full as a usual value.
MAX_LISTED = 3
FieldType = Literal["number", "whole", "text", "choice", "yes_no", "list"]


class Field(msgspec.Struct, frozen=True):
    """One field: its path in the document, type, unit kind, bounds and choices."""

    path: str
    type: FieldType
    kind: str | None = None
    low: float | None = None
    high: float | None = None
    choices: tuple[str, ...] = ()
    longest: int | None = None


def field(path: str, root: type = Job) -> Field:
    """Return the field at a path such as ``wheels[2].rim.internal_width_mm`` of a struct.

    Raises:
        KeyError: the document has no such field.
    """
    return msgspec.structs.replace(_field(re.sub(r"\[\d+\]", "[0]", path), root), path=path)


@cache
def _field(path: str, root: type) -> Field:
    from msgspec import inspect  # not on the way to the first paint

    node = plain_type(type_at(path, root))
    name = name_of(path)
    kind = (
        TRADE
        if (root in (TapeRoll, ValveStem) and name != "roll_length_mm") or name in _TRADE_FIELDS
        else kind_of(name)
    )
    if isinstance(node, inspect.FloatType):
        low = node.ge if node.ge is not None else node.gt
        return Field(path, "number", kind, low, node.le)
    if isinstance(node, inspect.IntType):
        return Field(path, "whole", None, node.ge, node.le)
    if isinstance(node, inspect.LiteralType):
        return Field(path, "choice", choices=tuple(str(v) for v in node.values))
    if isinstance(node, inspect.BoolType):
        return Field(path, "yes_no", choices=("yes", "no"))
    if isinstance(node, inspect.StrType):
        return Field(path, "text", longest=node.max_length)
    if isinstance(node, inspect.ListType):
        item = plain_type(node.item_type)
        return Field(path, "list", kind, item.ge, item.le, longest=node.max_length)
    raise KeyError(path)


def fields_of(struct: type) -> tuple[Field, ...]:
    """Return the single fields of a struct, in its order; those of a struct within it by their
    path.
    """
    from msgspec import inspect

    result: list[Field] = []
    for item in getattr(inspect.type_info(struct), "fields", ()):
        node = plain_type(item.type)
        if isinstance(node, inspect.StructType):
            result += [
                field(f"{item.encode_name}.{inner.path}", struct) for inner in fields_of(node.cls)
            ]
        else:
            result.append(field(item.encode_name, struct))
    return tuple(result)


def value_of(spec: Field, text: str, choice: UnitChoice) -> object:
    """Return the document's value of what was typed; None for an emptied field.

    Raises:
        InputError: not understood or out of bounds.
    """
    if not is_clean(text):
        raise InputError(tr("the text holds half a character or NUL; delete it and type it again"))
    plain = text.strip()
    if not plain:
        return None
    return _READ[spec.type](spec, plain, choice)


def _text(spec: Field, text: str, choice: UnitChoice) -> str:
    if spec.longest and len(text) > spec.longest:
        raise InputError(
            tr("{length} characters: at most {most}").format(length=len(text), most=spec.longest)
        )
    return text


def _one_of(spec: Field, text: str, choice: UnitChoice) -> str:
    if text not in spec.choices:
        raise InputError(
            tr("“{typed}”: type {what}").format(typed=text[:40], what=accepted(spec.path))
        )
    return text


def _yes_no(spec: Field, text: str, choice: UnitChoice) -> bool:
    if text not in spec.choices:
        raise InputError(tr("“{typed}”: type yes or no").format(typed=text[:40]))
    return text == "yes"


def _list(spec: Field, text: str, choice: UnitChoice) -> list[float]:
    parts = [part for part in _list_parts(text) if part]
    if spec.longest is not None and len(parts) > spec.longest:
        raise InputError(tr("{n} numbers: at most {most}").format(n=len(parts), most=spec.longest))
    return sorted({_number(spec, part, choice) for part in parts})


def _whole(spec: Field, text: str, choice: UnitChoice) -> int:
    value = _number(spec, text, choice)
    if value != int(value):
        raise InputError(tr("“{typed}”: type a whole number").format(typed=text[:40]))
    return int(value)


def _list_parts(text: str) -> list[str]:
    """Split `19, 21.5 25;27` into its numbers; a comma with no space after it is a decimal comma
    only where no other separator is used.
    """
    if re.search(r"[;\s]", text):
        return [part.strip(",") for part in re.split(r"[;\s]+", text)]
    return text.split(",")


#: What a wheel of a bicycle carries, N: a bare number beyond it was read in another unit (common
#: practice).
MIN_LOAD_N, MAX_LOAD_N = 100.0, 2500.0


def _asked_of_load(text: str, value: float, choice: UnitChoice) -> None:
    """Ask about a load without a unit that no wheel carries.

    Raises:
        InputError: it must be typed with its unit.
    """
    if MIN_LOAD_N <= value <= MAX_LOAD_N or re.search(r"[a-zA-Z]", text):
        return
    typed = text.strip()[:20]
    other = (
        tr("{typed} N").format(typed=typed) if value > MAX_LOAD_N else tr("a whole wheel's load")
    )
    raise InputError(
        tr("{load} on one wheel? If you mean it, type “{load}”; else {other}").format(
            load=show(value, "n", choice), other=other
        )
    )


def _number(spec: Field, text: str, choice: UnitChoice) -> float:
    value = parse(text, spec.kind, choice) if spec.kind else _bare_number(text)
    if spec.kind == "n":
        _asked_of_load(text, value, choice)
    low = spec.low if spec.low is not None else value
    high = spec.high if spec.high is not None else value
    slack = _ROUNDED_SHARE * abs(value)  # a bound shown in other units is a rounded one
    value = low if low - slack <= value < low else high if high < value <= high + slack else value
    if not low <= value <= high:
        raise InputError(
            tr("{value} is out of range: type {low} to {high}").format(
                value=_shown(value, spec, choice),
                low=_shown(low, spec, choice),
                high=_shown(high, spec, choice),
            )
        )
    return value


def _bare_number(text: str) -> float:
    try:
        return number(text)
    except ValueError:
        raise InputError(tr("“{typed}” is not a number").format(typed=text[:40])) from None


def _shown(value: float, spec: Field, choice: UnitChoice) -> str:
    return show(value, spec.kind, choice) if spec.kind else with_mark(f"{value:g}")


_READ: dict[str, Callable[[Field, str, UnitChoice], object]] = {
    "text": _text,
    "choice": _one_of,
    "yes_no": _yes_no,
    "list": _list,
    "whole": _whole,
    "number": _number,
}


def text_of(spec: Field, value: Any, choice: UnitChoice) -> str:
    if value is None:
        return ""
    if spec.type == "yes_no":
        return "yes" if value else "no"
    if spec.type == "list":
        return " ".join(
            entry_text(item, spec.kind, choice) if spec.kind else with_mark(f"{item:g}")
            for item in value
        )
    if spec.type == "number" and spec.kind:
        return entry_text(value, spec.kind, choice)
    if spec.path in ("due", "wheels[0].waits.until") and (due := parse_due(str(value))) is not None:
        return in_words(due, "%a %d %b %H:%M" if due.hour or due.minute else "%a %d %b")
    return with_mark(f"{value:g}") if isinstance(value, float) else str(value)


def usual_text_of(spec: Field, value: Any, choice: UnitChoice) -> str:
    """Return what holds where a field says nothing; a long list by its ends, so that it has room in
    the field.

    >>> spec = field("shelf.tape_widths_mm")
    >>> usual_text_of(spec, [27.0, 21.0], UnitChoice()), usual_text_of(spec, [21.0, 23.0, 25.0, 45.0], UnitChoice())
    ('27 21', '21 to 45')
    """
    if spec.type != "list" or value is None or len(value) <= MAX_LISTED:
        return text_of(spec, value, choice)
    low, high = (text_of(spec, [end], choice) for end in (min(value), max(value)))
    return tr("{low} to {high}").format(low=low, high=high)
