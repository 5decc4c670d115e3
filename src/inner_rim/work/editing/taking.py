"""What a wheel takes from the shelf: as its stages end, as a list before the start, and back when a stage reopens."""

from collections.abc import Iterable, Sequence

import msgspec

from inner_rim.core.plan.picking import Need, PickLine, needs_of, pick_list
from inner_rim.core.procedure.replay import LAYER, since_again
from inner_rim.core.record.log import Attempt, Dose, Logged, StepEntry, standing
from inner_rim.core.record.parts import Item, PartKind
from inner_rim.core.record.plain import JsonObject
from inner_rim.work.editing.state import WheelState

#: Parts that a check-in teaches the shelf.
LEARNED: tuple[PartKind, ...] = ("rim", "tire", "insert")


def runs(log: Sequence[Logged]) -> int:
    """Return which run of the procedure a log is in: 1, and one more for each doing-again."""
    return 1 + sum(isinstance(item.entry, StepEntry) and item.entry.outcome == "again" for item in log)


def _taken_out_again(before: WheelState, after: WheelState, pending: Sequence[Logged]) -> bool:
    """Whether a dose was logged and then taken back as a slip."""
    if before.progress is None or after.progress is None:
        return False
    old, new = before.progress.physical, after.progress.physical
    reopened = any(isinstance(item.entry, StepEntry) and item.entry.outcome == "reopened" for item in pending)
    return reopened and old is not None and new is not None and new.sealant_ml < old.sealant_ml


def _poured_ml(log: Sequence[Logged]) -> float:
    return sum(item.entry.dose_ml for item in log if isinstance(item.entry, Dose))


Learned = list[tuple[PartKind, JsonObject]]


def taken(
    before: WheelState, after: WheelState, pending: Sequence[Logged]
) -> tuple[list[Need], tuple[str, ...], Learned]:
    """Return what entries take from the shelf, the stages whose parts go back, and the parts that are learned."""
    if before.progress is None or after.progress is None or after.plan is None or after.wheel is None:
        return [], (), []
    log = standing([*before.whole_log, *pending])
    news = [item for item in log if item.uid not in {one.uid for one in before.log}]
    run = runs(log)
    same_run = run == runs(before.log)
    ended = after.progress.done - before.progress.done
    opened = before.progress.done - after.progress.done if same_run else frozenset()
    needs = [need for need in needs_of_wheel(after) if need.stage in ended and need.kind != "sealant"]
    needs += _poured(after, _poured_ml(news)) + _layered(before, after, news)
    slip = same_run and _taken_out_again(before, after, pending)
    stays = _poured_ml(log[since_again(log) :])
    if same_run and stays < _poured_ml(before.log[since_again(before.log) :]):
        slip = True  # a dose is taken back by itself: the others stay used
        needs += _poured(after, stays)
    back = {*opened, *(["sealant"] if slip else [])}
    mark = f".{run}" if run > 1 else ""  # done again: what was used before stays used
    needs = [msgspec.structs.replace(need, stage=need.stage + mark) for need in needs]
    return (
        needs,
        tuple(sorted(stage + mark for stage in back)),
        _learned(after) if "check_in" in ended else [],
    )


def _learned(after: WheelState) -> Learned:
    """The parts of a wheel that the shelf learns of."""
    parts = ((kind, after.value(kind)) for kind in LEARNED)
    return [(kind, part) for kind, part in parts if isinstance(part, dict)]


def _poured(after: WheelState, poured: float) -> list[Need]:
    """What really went in, of the sealant that this wheel takes."""
    wanted = [need for need in needs_of_wheel(after) if need.kind == "sealant"]
    return [msgspec.structs.replace(need, amount=poured) for need in wanted if poured > 0.0]


def _layered(before: WheelState, after: WheelState, news: Sequence[Logged]) -> list[Need]:
    """The tape of a layer that was added as a remedy."""
    if before.plan is None or after.plan is None or before.progress is None:
        return []
    if "tape" not in before.progress.done:
        return []
    added = any(isinstance(item.entry, Attempt) and LAYER in item.entry.changed for item in news)
    if not added or after.plan.tape.width_mm is None:
        return []
    more = after.plan.tape.length_mm - before.plan.tape.length_mm
    return [Need("tape", "tape", more, figure_mm=after.plan.tape.width_mm)] if more > 0.0 else []


def needs_of_wheel(state: WheelState) -> tuple[Need, ...]:
    """Return what a wheel takes from the shelf."""
    if state.plan is None or state.wheel is None:
        return ()
    sealant = state.ride_job.shelf.sealant if state.ride_job and state.ride_job.shelf else None
    name = sealant.name if sealant is not None and sealant.name is not None else ""
    return needs_of(state.wheel, state.plan, name)


def pick_list_of(states: Iterable[WheelState], items: tuple[Item, ...]) -> tuple[PickLine, ...]:
    """Return what to take for wheels, stage by stage, without what is done."""
    return pick_list(
        [(s.name, needs_of_wheel(s), s.progress.done if s.progress else frozenset()) for s in states], items
    )


def in_scope(wheels: Iterable[WheelState], here: WheelState | None, scope: str) -> list[WheelState]:
    """Return the wheels that are worked on: the selected one, its bicycle's ("job"), or all ("bench")."""
    return [
        state
        for state in wheels
        if state.progress is not None
        and state.progress.state != "finished"
        and (
            scope == "bench"
            or (here is not None and (state.job is here.job if scope == "job" else state.key == here.key))
        )
    ]
