"""What a wheel takes from the shelf, stage by stage, and the list of what to take for several
wheels.
"""

import math
from collections.abc import Iterable, Set

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.setup import NEW_TIRE
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.parts import Item, PartKind
from inner_rim.core.record.practice import ELECTRICAL
from inner_rim.core.record.spoken import Stage


class Need(msgspec.Struct, frozen=True):
    """Something one stage of a wheel takes.

    Attributes:
        amount: pieces, mm of tape or ml of sealant.
        figure_mm: width of a tape or length of a valve, 0 where the name tells it.
        material: of a tape, where only that will do.
    """

    kind: PartKind
    stage: Stage
    amount: float
    name: str = ""
    figure_mm: float = 0.0
    material: str = ""


class Use(msgspec.Struct, frozen=True):
    """What a stage of a wheel takes of one part."""

    item_id: str
    amount: float


class Booking(msgspec.Struct, frozen=True):
    """What follows from log entries for the shelf: parts taken by stages, parts given back, parts
    learned.

    Attributes:
        uses: (stage, use) of what is taken.
        learned: parts that a check-in has taught; one that is known by its name is left alone.
        uid: identity of the booking, so that a retry is booked once.
    """

    uses: tuple[tuple[str, Use], ...] = ()
    back: tuple[str, ...] = ()
    learned: tuple[Item, ...] = ()
    uid: str = ""


class PickLine(msgspec.Struct, frozen=True):
    """A line of the pick list: what, how much for which wheels, and whether the shelf has it.

    Attributes:
        figure_mm: width of a tape or length of a valve, 0 for none.
        material: of a tape, where only that will do.
        bottles: bottles of sealant to fetch, 0 where it is no sealant or the bottle is not known.
    """

    kind: PartKind
    name: str
    figure_mm: float
    amount: float
    on_hand: float | None
    bottles: int
    wheels: tuple[str, ...]
    material: str = ""

    @property
    def short(self) -> float:
        return max(0.0, self.amount - (self.on_hand or 0.0))


def needs_of(wheel: Wheel, plan: WheelPlan, sealant: str = "") -> tuple[Need, ...]:
    """Return what a wheel takes, stage by stage; `sealant` is the name of the shop's."""
    result = []
    tape, setup = plan.tape, plan.setup
    if tape.width_mm is not None and setup.lays_tape:
        result.append(Need("tape", "tape", tape.length_mm, figure_mm=tape.width_mm))
    if tape.overlay is not None and setup.lays_tape and setup.covers:
        length = tape.overlay.strips * tape.overlay.length_mm
        width = tape.overlay.width_mm
        result.append(Need("tape", "tape", length, figure_mm=width, material=ELECTRICAL))
    if plan.valve.length_mm is not None and setup.tire_goes_on and not setup.keeps_valve:
        result.append(
            Need("valve", "valve", 1.0, name=plan.valve.stem or "", figure_mm=plan.valve.length_mm)
        )
    if wheel.insert is not None and setup.tire_goes_on and not setup.keeps_insert:
        result.append(Need("insert", "insert", 1.0, name=wheel.insert.name or ""))
    if wheel.tire.new and wheel.tire.name and setup.kind in NEW_TIRE:
        result.append(Need("tire", "mount", 1.0, name=wheel.tire.name))
    if setup.takes_sealant:
        result.append(Need("sealant", "sealant", plan.sealant.dose_ml, name=sealant))
    else:
        result.append(Need("tube", "mount", 1.0, figure_mm=wheel.rim.bead_seat_diameter_mm))
    return tuple(result)


def item_for(need: Need, items: Iterable[Item]) -> Item | None:
    """Return the part on the shelf that serves a need, what is in stock first; None where there is
    none.
    """
    fitting = [
        item
        for item in items
        if item.kind == need.kind and not item.retired and _serves(item, need)
    ]
    return max(fitting, key=lambda item: item.stock, default=None)


def _serves(item: Item, need: Need) -> bool:
    if need.name:
        return item.name.casefold() == need.name.casefold()
    figures = {"tape": "width_mm", "valve": "length_mm", "tube": "bead_seat_diameter_mm"}
    if need.kind == "tape" and (item.spec.get("material") == ELECTRICAL) != bool(need.material):
        return False
    figure = figures.get(need.kind)
    if figure is None:
        return need.kind == "sealant"
    return float(item.spec.get(figure, 0.0)) == need.figure_mm


#: A line of the pick list: kind, name, figure, material.
_PickKey = tuple[PartKind, str, float, str]


def pick_list(
    wheels: Iterable[tuple[str, tuple[Need, ...], Set[str]]], items: tuple[Item, ...]
) -> tuple[PickLine, ...]:
    """Return what to take for wheels, shortages first.

    Args:
        wheels: (name, needs, stages that are done) of each; what a done stage took is not taken
            again.
    """
    amounts: dict[_PickKey, float] = {}
    names: dict[_PickKey, list[str]] = {}
    result: dict[_PickKey, Item | None] = {}
    for wheel, needs, done in wheels:
        for need in needs:
            if need.stage in done:
                continue
            item = item_for(need, items)
            key = (need.kind, item.name if item else need.name, need.figure_mm, need.material)
            amounts[key] = amounts.get(key, 0.0) + need.amount
            names.setdefault(key, []).append(wheel)
            result[key] = item
    lines = [
        PickLine(
            kind=key[0],
            name=key[1],
            figure_mm=key[2],
            amount=amount,
            on_hand=item.stock if (item := result[key]) else None,
            bottles=_bottles(result[key], amount),
            wheels=tuple(names[key]),
            material=key[3],
        )
        for key, amount in amounts.items()
    ]
    return tuple(sorted(lines, key=lambda line: (line.short <= 0.0, line.kind, line.name)))


def _bottles(item: Item | None, amount_ml: float) -> int:
    bottle = item.spec.get("bottle_ml") if item is not None and item.kind == "sealant" else None
    return math.ceil(amount_ml / bottle) if bottle else 0
