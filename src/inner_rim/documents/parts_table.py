"""Parts as a table (CSV, RFC 4180) and as JSON; read back strictly, every fault with its line and
column.
"""

from __future__ import annotations

import csv
import difflib
import io
from collections.abc import Callable, Iterable
from functools import cache
from typing import Any

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import KINDS, Item, item_from
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import plain_type, type_at
from inner_rim.core.record.units import MM_PER_METRE, number
from inner_rim.documents.csv_text import bare_cell, csv_text, safe_cell
from inner_rim.words import tr

#: Units of stock by the suffix of their column: how many canonical ones each is.
AMOUNTS = {"pieces": 1.0, "m": MM_PER_METRE, "ml": 1.0}
STOCKED = tuple(f"{name}_{unit}" for name in ("stock", "low_at") for unit in AMOUNTS)
FIRST = ("kind", "name", *STOCKED, "retired")
#: Columns of older tables, still read: tape in mm.
BEFORE = ("stock", "low_at")
MAX_FAULTS = 20
MAX_FILE_BYTES = 20_000_000
_YES = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}


class TableFaults(InputError):
    """Rows that are not accepted; then nothing of the table is.

    Attributes:
        faults: one sentence for each, with line and column; at most `MAX_FAULTS`.
    """

    def __init__(self, faults: list[str], more: int = 0) -> None:
        words = "; ".join(faults[:2])
        rest = len(faults) + more - min(2, len(faults))
        if rest > 0:
            words += tr("; and {n} more").format(n=rest)
        super().__init__(tr("Nothing was imported. {faults}").format(faults=words))
        self.faults = faults


@cache
def columns() -> tuple[str, ...]:
    """Return the table's columns: what every part has, then the figures of all kinds."""
    from msgspec import inspect

    result: dict[str, None] = dict.fromkeys(FIRST)
    for struct in KINDS.values():
        for item in getattr(inspect.type_info(struct), "fields", ()):
            node = plain_type(item.type)
            if isinstance(node, inspect.StructType):
                result |= dict.fromkeys(f"{item.encode_name}.{f.encode_name}" for f in node.fields)
            else:
                result[item.encode_name] = None
    return tuple(result)


def to_csv(items: Iterable[Item]) -> bytes:
    """Return parts as CSV in UTF-8 with a byte order mark, which spreadsheets need."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, quoting=csv.QUOTE_ALL)
    writer.writerow(columns())
    for item in items:
        unit = amount_unit(item.kind)
        flat = {
            **_flat(item.spec),
            "kind": item.kind,
            f"stock_{unit}": item.stock / AMOUNTS[unit],
            f"low_at_{unit}": item.low_at / AMOUNTS[unit],
            "retired": item.retired,
        }
        writer.writerow([_cell(flat.get(name)) for name in columns()])
    return text.getvalue().encode("utf-8-sig")


def amount_unit(kind: str) -> str:
    """Return what stock of a kind is written in.

    >>> amount_unit("tape"), amount_unit("sealant"), amount_unit("valve")
    ('m', 'ml', 'pieces')
    """
    return {"tape": "m", "sealant": "ml"}.get(kind, "pieces")


def _flat(spec: JsonObject) -> JsonObject:
    flat: JsonObject = {}
    for name, value in spec.items():
        if isinstance(value, dict):
            flat |= {f"{name}.{inner}": v for inner, v in value.items()}
        else:
            flat[name] = value
    return flat


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return f"{value:.12g}"
    return safe_cell(str(value))


def from_csv(data: bytes, on_progress: Callable[[int], bool] = lambda done: True) -> list[Item]:
    """Return the parts of a table; a comma, a semicolon or a tab may divide it.

    Args:
        on_progress: called with the number of parts read, every hundred; False stops it.

    Raises:
        InputError: too large, not UTF-8, or no head with `kind` and `name`.
        TableFaults: rows that are not accepted.
    """
    rows, delimiter = _rows(data)
    try:
        names = [name.strip() for name in next(rows)]
    except StopIteration:
        raise InputError(tr("the table is empty; its first line names the columns")) from None
    except csv.Error as fault:
        raise InputError(tr("line 1: {fault}").format(fault=fault)) from fault
    if "kind" not in names or "name" not in names:
        raise InputError(
            tr(
                "line 1: the columns “kind” and “name” are missing. Divide cells by comma, semicolon or tab."
            )
        )
    unknown = [name for name in names if name and name not in (*columns(), *BEFORE)]
    if unknown:
        near = difflib.get_close_matches(unknown[0][:40], columns(), 1, 0.5)
        meant = tr("Did you mean {name}?").format(name=near[0]) + " " if near else ""
        raise InputError(
            tr("line 1: unknown column “{name}”. {meant}An export shows the format.").format(
                name=unknown[0][:40], meant=meant
            )
        )
    return _checked(rows, names, on_progress, decimal_comma=delimiter != ",")


def _rows(data: bytes) -> tuple[Any, str]:
    text, delimiter = csv_text(data, MAX_FILE_BYTES)
    return csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True), delimiter


def _checked(
    rows: Any, names: list[str], on_progress: Callable[[int], bool], *, decimal_comma: bool
) -> list[Item]:
    result: list[Item] = []
    faults: list[str] = []
    more = 0
    seen: dict[tuple[str, str], int] = {}
    while True:
        try:
            cells = next(rows)
        except StopIteration:
            break
        except csv.Error as fault:
            raise TableFaults(
                [*faults, tr("line {line}: {fault}").format(line=rows.line_num, fault=fault)]
            ) from fault
        if not any(cell.strip() for cell in cells):
            continue
        if len(result) % 100 == 99 and not on_progress(len(result)):
            raise InputError(tr("Stopped: nothing was imported"))
        try:
            item = _item(cells, names, decimal_comma=decimal_comma)
            twin = seen.setdefault((item.kind, item.name), rows.line_num)
            if twin != rows.line_num:
                raise InputError(
                    tr("“{name}” is already in line {twin}").format(name=item.name, twin=twin),
                    "name",
                )
            result.append(item)
        except InputError as fault:
            if len(faults) < MAX_FAULTS:
                faults.append(
                    tr("line {line}, column {column}: {sentence}").format(
                        line=rows.line_num, column=fault.path or "kind", sentence=fault.sentence
                    )
                )
            else:
                more += 1
    if faults:
        raise TableFaults(faults, more)
    return result


def _item(cells: list[str], names: list[str], *, decimal_comma: bool) -> Item:
    if len(cells) > len(names):
        raise InputError(
            tr("{n} cells under {names} columns").format(n=len(cells), names=len(names)), names[-1]
        )
    texts = {
        name: cell.strip()
        for name, cell in zip(names, cells, strict=False)
        if name and cell.strip()
    }
    kind = texts.pop("kind", "")
    struct = next((result for name, result in KINDS.items() if name == kind), None)
    if struct is None:
        raise InputError(
            tr("“{kind}” is no kind of part: use {kinds}").format(
                kind=kind[:40], kinds=", ".join(KINDS)
            ),
            "kind",
        )
    more = {
        name: _value(type_at(name, Item), text, name, decimal_comma)
        for name in (*BEFORE, "retired")
        if (text := texts.pop(name, ""))
    }
    for column in STOCKED:
        if text := texts.pop(column, ""):
            name, _, unit = column.rpartition("_")
            if unit != amount_unit(kind):
                right = f"{name}_{amount_unit(kind)}"
                raise InputError(
                    tr("a {kind} is counted in {right}").format(kind=kind, right=right), column
                )
            more[name] = (
                float(_value(type_at(name, Item), text, column, decimal_comma)) * AMOUNTS[unit]  # type: ignore[arg-type]
            )
    spec: JsonObject = {}
    for name, text in texts.items():
        node = type_at(name, struct)
        if node is None:
            raise InputError(
                tr("“{text}”; a {kind} has no such figure").format(text=text[:40], kind=kind), name
            )
        outer, _, inner = name.partition(".")
        value = _value(node, text, name, decimal_comma)
        if inner:
            spec.setdefault(outer, {})[inner] = value
        else:
            spec[name] = value
    return item_from(kind, spec, **more)


def _value(node: object, text: str, name: str, decimal_comma: bool) -> object:
    from msgspec import inspect

    plain = plain_type(node)
    if isinstance(plain, inspect.BoolType):
        if text.lower() not in _YES:
            raise InputError(tr("“{text}”: use yes or no").format(text=text[:40]), name)
        return _YES[text.lower()]
    if isinstance(plain, inspect.FloatType | inspect.IntType):
        try:
            if "," in text and not decimal_comma:
                raise ValueError(text)
            figure = number(text)
        except ValueError:
            raise InputError(tr("“{text}” is not a number").format(text=text[:40]), name) from None
        return (
            int(figure) if isinstance(plain, inspect.IntType) and figure == int(figure) else figure
        )
    return bare_cell(text)


def to_json(items: Iterable[Item]) -> bytes:
    """Return parts as JSON: a list of objects with `kind`, `spec`, `stock`, `low_at`, `retired`."""
    plain = []
    for item in items:
        row = msgspec.to_builtins(item)
        row.pop("item_id", None)
        plain.append(row)
    return msgspec.json.format(msgspec.json.encode(plain), indent=1)


def from_json(data: bytes) -> list[Item]:
    """Return the parts of a JSON list.

    Raises:
        InputError: not a JSON list of objects.
        TableFaults: parts that are not accepted.
    """
    try:
        rows = msgspec.json.decode(data, type=list[JsonObject])
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as fault:
        raise InputError(
            tr("not a JSON list of parts: {fault}").format(fault=str(fault)[:80])
        ) from fault
    result, faults = [], []
    seen: dict[tuple[str, str], int] = {}
    for line, row in enumerate(rows, 1):
        more = {name: row[name] for name in ("stock", "low_at", "retired") if name in row}
        spec = row.get("spec")
        try:
            item = item_from(str(row.get("kind")), spec if isinstance(spec, dict) else {}, **more)
            twin = seen.setdefault((item.kind, item.name), line)
            if twin != line:
                raise InputError(
                    tr("“{name}” is already part {twin}").format(name=item.name, twin=twin), "name"
                )
            result.append(item)
        except InputError as fault:
            faults.append(
                tr("part {n}, {field}: {sentence}").format(
                    n=line, field=fault.path, sentence=fault.sentence
                )
            )
    if faults:
        raise TableFaults(faults[:MAX_FAULTS], max(0, len(faults) - MAX_FAULTS))
    return result
