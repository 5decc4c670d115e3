"""What a wheel takes from the shelf: as its stages end, as a list before the start, and back when a stage reopens."""

from collections.abc import Iterable

import msgspec

from inner_rim.core.plan.picking import Need, PickLine, needs_of, pick_list
from inner_rim.core.record.parts import Item, PartKind
from inner_rim.core.record.plain import JsonObject
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, planned

#: Parts that a check-in teaches the shelf.
LEARNED: tuple[PartKind, ...] = ("rim", "tire", "insert")


class ShelfChange(msgspec.Struct, frozen=True):
    """What a change of a wheel takes from the shelf.

    Attributes:
        back: the stages whose parts go back.
        learned: parts that the shelf learns from a check-in.
    """

    needs: tuple[Need, ...] = ()
    back: tuple[str, ...] = ()
    learned: tuple[tuple[PartKind, JsonObject], ...] = ()


def taken(before: BenchWheel, after: BenchWheel) -> ShelfChange:
    """Return what a change of a wheel takes from the shelf."""
    if not isinstance(before, PlannedWheel) or not isinstance(after, PlannedWheel):
        return ShelfChange()
    then, now = before.plan.log, after.plan.log
    same_run = then.run == now.run
    ended = after.progress.done - before.progress.done
    opened = before.progress.done - after.progress.done if same_run else frozenset()
    needs = [need for need in needs_of_wheel(after) if need.stage in ended and need.kind != "sealant"]
    slip = same_run and now.dosed_ml < then.dosed_ml  # what was poured before it stays used
    needs += _poured(after, now.dosed_ml - (then.dosed_ml if same_run and not slip else 0.0))
    back = {*opened, *(["sealant"] if slip else [])}
    run = now.run
    mark = f".{run}" if run > 1 else ""  # done again: what was used before stays used
    return ShelfChange(
        tuple(msgspec.structs.replace(need, stage=need.stage + mark) for need in needs),
        tuple(sorted(stage + mark for stage in back)),
        _learned(after) if "check_in" in ended else (),
    )


def _learned(after: BenchWheel) -> tuple[tuple[PartKind, JsonObject], ...]:
    parts = ((kind, after.value(kind)) for kind in LEARNED)
    return tuple((kind, part) for kind, part in parts if isinstance(part, dict))


def _poured(after: PlannedWheel, poured: float) -> list[Need]:
    wanted = [need for need in needs_of_wheel(after) if need.kind == "sealant"]
    return [msgspec.structs.replace(need, amount=poured) for need in wanted if poured > 0.0]


def needs_of_wheel(state: PlannedWheel) -> tuple[Need, ...]:
    return needs_of(state.wheel, state.plan, state.sealant_name)


def pick_list_of(states: Iterable[BenchWheel], items: tuple[Item, ...]) -> tuple[PickLine, ...]:
    return pick_list([(s.name, needs_of_wheel(s), s.progress.done) for s in planned(states)], items)


def in_scope(wheels: Iterable[BenchWheel], here: BenchWheel | None, scope: str) -> list[PlannedWheel]:
    """Return the wheels that are worked on: the selected one, its bicycle's ("job"), or all ("bench")."""
    return [
        state
        for state in planned(wheels)
        if state.progress.state != "finished"
        and (
            scope == "bench"
            or (here is not None and (state.key[0] == here.key[0] if scope == "job" else state.key == here.key))
        )
    ]
