"""Parts that a shop knows and keeps: what they are, what is on hand (the shelf).

A part's figures are the same structs as in a job, so that a part put on a wheel is the wheel's
part.
"""

from collections.abc import Iterable, Sequence
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import (
    Insert,
    JobStruct,
    Rim,
    SealantKind,
    Shelf,
    TapeRoll,
    Tire,
    Tube,
    ValveStem,
)
from inner_rim.core.record.operations import Conflict, SetField, apply
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import accepted, as_input_error
from inner_rim.core.record.texts import seen
from inner_rim.core.record.units import ROLL
from inner_rim.words import N_, tr

PartKind = Literal["rim", "tire", "insert", "valve", "tape", "sealant", "tube"]

KINDS: dict[PartKind, type[JobStruct]] = {
    "rim": Rim,
    "tire": Tire,
    "insert": Insert,
    "valve": ValveStem,
    "tape": TapeRoll,
    "sealant": SealantKind,
    "tube": Tube,
}
KIND_WORDS: dict[PartKind, str] = {
    "rim": N_("Rims"),
    "tire": N_("Tires"),
    "insert": N_("Inserts"),
    "valve": N_("Valves"),
    "tape": N_("Tape"),
    "sealant": N_("Sealant"),
    "tube": N_("Tubes"),
}
#: What stock is counted in: a quantity's kind of unit, or pieces.
STOCK_KIND: dict[PartKind, str] = {"tape": ROLL, "sealant": "ml"}
Stock = Annotated[
    float, Meta(ge=0, le=10_000_000, description="on hand: pieces, mm of tape, ml of sealant")
]


class Item(
    msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True
):
    """A part on the shelf.

    Attributes:
        spec: its figures, as the job's struct of that kind has them; its name stands in there.
        stock: on hand, in pieces, mm of tape or ml of sealant.
        low_at: shown as running out at or below this.
        retired: no longer offered, kept for what was made with it.
        item_id: its identity, None before it is stored.
    """

    kind: PartKind
    spec: JsonObject
    stock: Stock = 0.0
    low_at: Stock = 0.0
    retired: bool = False
    item_id: str | None = None

    @property
    def name(self) -> str:
        return str(self.spec.get("name") or "")

    @property
    def haystack(self) -> str:
        """Return the searchable text: name, size and figures."""
        return " ".join(str(value) for value in self.spec.values()).casefold()


def item_from(kind: str, spec: JsonObject, **more: object) -> Item:
    """Return a checked part.

    Raises:
        InputError: no such kind, no name, or a figure that the kind does not accept; names the
            field.
    """
    if kind not in KINDS:
        raise InputError(
            tr("“{kind}” is no kind of part: use {kinds}").format(
                kind=kind[:40], kinds=", ".join(KINDS)
            ),
            "kind",
        )
    plain = {
        name: seen(value).strip() if isinstance(value, str) else value
        for name, value in spec.items()
        if value is not None
    }
    struct = checked(KINDS[kind], plain)
    name = getattr(struct, "name", None)
    if not name or not name.strip():
        raise InputError(tr("missing; a part on the shelf needs a name"), "name")
    try:
        return msgspec.convert({"kind": kind, "spec": plain, **more}, Item)
    except msgspec.ValidationError as fault:
        field = str(fault).partition("`$.")[2].rstrip("`")
        raise InputError(
            tr("{value}: use {what}").format(value=more.get(field), what=accepted(field, Item)),
            field,
        ) from fault


def checked_item(item: Item) -> Item:
    """Return a part whose figures meet the definition of its kind.

    Raises:
        InputError: they do not; names the field.
    """
    return item_from(
        item.kind,
        item.spec,
        stock=item.stock,
        low_at=item.low_at,
        retired=item.retired,
        item_id=item.item_id,
    )


def edited_item(item: Item, operations: Iterable[SetField]) -> tuple[Item, tuple[Conflict, ...]]:
    """Return a part after edits of ``spec.…``, ``low_at`` and ``retired``, and the edits that lost
    against another's.
    """
    plain = {"spec": dict(item.spec), "low_at": item.low_at, "retired": item.retired, "wheels": []}
    joined = apply(plain, {}, operations)
    result = joined.document
    edited = msgspec.structs.replace(
        item,
        spec=result.get("spec") or {},
        low_at=result.get("low_at") or 0.0,
        retired=bool(result.get("retired")),
    )
    return edited, joined.conflicts


def checked(struct: type[JobStruct], plain: JsonObject) -> JobStruct:
    """Return plain data as a struct.

    Raises:
        InputError: names the field, its value and what is accepted.
    """
    try:
        return msgspec.convert(plain, struct)
    except msgspec.ValidationError as fault:
        raise as_input_error(str(fault), plain, struct) from fault


def stocked(items: tuple[Item, ...]) -> tuple[Item, ...]:
    """Return what a plan may take: tapes, valves and sealant in stock."""
    return tuple(
        item
        for item in items
        if item.kind in ("tape", "valve", "sealant") and item.stock > 0.0 and not item.retired
    )


def shelf_of(items: tuple[Item, ...], injector_ml: float | None = None) -> Shelf | None:
    """Return what a plan may choose from: tapes, valves and sealant in stock; None where there is
    none.
    """

    def in_stock(kind: PartKind) -> list[Any]:
        return [
            msgspec.convert(item.spec, KINDS[kind]) for item in stocked(items) if item.kind == kind
        ]

    tapes, valves, sealants = in_stock("tape"), in_stock("valve"), in_stock("sealant")
    if not (tapes or valves or sealants or injector_ml):
        return None
    return Shelf(
        tapes=tapes or None,
        valves=valves or None,
        sealant=sealants[0] if sealants else None,
        injector_ml=injector_ml,
    )


def sealants_of(items: tuple[Item, ...]) -> tuple[SealantKind, ...]:
    """Return every kind of sealant in stock."""
    return tuple(
        msgspec.convert(item.spec, SealantKind) for item in stocked(items) if item.kind == "sealant"
    )


def search(
    items: Sequence[Item],
    text: str,
    kind: str | None = None,
    most: int | None = None,
    haystacks: Sequence[str] | None = None,
) -> list[Item]:
    """Return the parts that match every word typed, those whose name begins with it first; retired
    ones last.

    Args:
        haystacks: the searchable text of each item, where it is known already.

    >>> shelf = (item_from("tape", {"name": "Reed tape 27", "width_mm": 27}),)
    >>> [item.name for item in search(shelf, "27 reed")]
    ['Reed tape 27']
    """
    words = text.casefold().split()
    if haystacks is None:
        haystacks = [item.haystack for item in items]
    result = [
        item
        for item, haystack in zip(items, haystacks, strict=True)
        if (kind is None or item.kind == kind) and all(word in haystack for word in words)
    ]
    start = text.casefold().strip()
    result.sort(
        key=lambda item: (
            item.retired,
            not item.name.casefold().startswith(start),
            item.name.casefold(),
        )
    )
    return result if most is None else result[:most]
