"""What tries at seating, looks at the molded line, and changes between tries make of the wheel; `fold` reads the rest."""

import msgspec

from inner_rim.core.procedure.achieve import LINE_QUESTIONS
from inner_rim.core.procedure.facts import condition, conditions
from inner_rim.core.procedure.fold_state import Fold
from inner_rim.core.procedure.summary import Done, SeatingLog
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import LAYER, Attempt, Changed, Inspection
from inner_rim.core.record.stages import Stage

#: How a try ends that leaves no air in.
_WITHOUT_AIR = frozenset({"no_pressure", "falls_off"})
#: A peak so little below a pressure counts as that pressure: nobody sets one finer.
LEAST_KPA = 2.5


def take_changed(fold: Fold, entry: Changed) -> None:
    """Something was changed between two tries: the next one has it."""
    seating = fold.seating
    if entry.remedy == "tube_first":  # the beads seat by another way
        seating = SeatingLog(over_limit=seating.over_limit, tries=seating.tries)
    fold.seating = msgspec.structs.replace(seating, changes=(*seating.changes, entry.remedy))
    _bring_about(fold, entry.remedy)


def _bring_about(fold: Fold, remedy: Remedy) -> None:
    """What a remedy makes of the wheel: the next try has it."""
    if remedy == "core_out" and fold.state.valve == "in":
        fold.say(conditions("core=out", "air=flat", "line=unseen"))
    elif remedy == "wet":
        fold.say(conditions("wet=yes"))
    elif remedy == "tube_first":
        fold.changes = msgspec.structs.replace(fold.changes, with_tube=True)
        fold.say(conditions("air=up") if fold.may_have_air else conditions("air=flat"))


def take_attempt(fold: Fold, entry: Attempt) -> None:
    """A try at seating: how it ended decides where the beads are, and which pressure step is next."""
    seating = fold.seating
    if LAYER in entry.changed and LAYER not in seating.changes:
        fold.layers_added += 1
    fold.readings.clear()  # earlier readings no longer apply
    uneven = bool(entry.low_left or entry.low_right)
    up = entry.outcome == "both_up" and not uneven
    outcome = "" if up else ("one_low" if uneven else entry.outcome)
    if outcome == "not_up" and not entry.builds(fold.plan.steps_kpa[0]):
        outcome = "no_pressure"
    step, last_step_tried = _next_step(fold, outcome, entry.target_kpa)
    fold.seating = SeatingLog(
        step=step,
        outcome=outcome,
        low_left=entry.low_left,
        low_right=entry.low_right,
        over_limit=seating.over_limit or entry.over_limit,
        last_step_tried=last_step_tried,
        tries=(*seating.tries, entry),
    )
    core = condition("core=out" if entry.core_out else "core=in")
    if entry.core_out is None:
        core = condition(f"core={fold.state.core}")
    place = seating.step
    done = Done(_attempt_stage(fold), fold.taken().key("air.step"), pressure_step=place)
    wet = conditions("wet=yes") if "wet" in entry.changed else ()
    if up:
        for question in LINE_QUESTIONS:
            fold.answered.pop(question, None)
        seated = entry.peak_kpa if entry.peak_kpa > 0.0 and not entry.over_limit else None
        if fold.state.first == fold.state.last == "seated" and fold.seated_kpa is not None and seated is not None:
            seated = max(seated, fold.seated_kpa)  # the step up to where it settles
        fold.seated_kpa = seated
        high = entry.peak_kpa >= fold.plan.settles_at_kpa(seated or 0.0) - LEAST_KPA
        air = conditions("air=flat", "line=unseen") if core.values == ("out",) else conditions("air=up", "line=even")
        settled = condition("settled=yes" if high and core.values == ("in",) else "settled=no")
        if settled.values == ("no",) and core.values == ("in",):
            fold.seating = msgspec.structs.replace(fold.seating, step=len(fold.plan.steps_kpa))
        fold.say(conditions(*wet, "first=seated", "last=seated", core, settled, *air), done)
        fold.may_have_air = True
        return
    fold.say(conditions(*wet, *_beads_on(fold), core, "air=flat", "line=unseen"), done)
    fold.may_have_air = outcome not in _WITHOUT_AIR


def _attempt_stage(fold: Fold) -> Stage:
    """The stage of a try: where beads are reseated in another stage, that one."""
    last = fold.behind[-1].stage if fold.effects and fold.behind else "seat"
    return last if last in ("insert", "sealant") and "air.step" in fold.state.did else "seat"


def _next_step(fold: Fold, outcome: str, target_kpa: float | None) -> tuple[int, bool]:
    """The pressure step to go on with after a try, and whether the last one was tried too.

    Only where nothing is seen to be wrong, or a spot stays low twice, does the next try go higher.
    """
    last, before = len(fold.plan.steps_kpa) - 1, fold.seating
    place = min(before.step, last)
    if outcome == "":
        return 0, False
    low_again = (
        outcome == before.outcome == "one_low" and bool(before.tries) and before.tries[-1].target_kpa == target_kpa
    )
    if outcome == "not_up" or low_again:
        return (place + 1, False) if place < last else (0 if outcome == "not_up" else last, True)
    return place, False


def take_inspection(fold: Fold, entry: Inspection) -> None:
    """A look at the molded line, or at a wheel that saw more than its limit."""
    uneven = bool(entry.low_left or entry.low_right)
    seating = fold.seating
    if entry.after_over_limit:  # the air is out: the line is looked at again at pressure
        fold.seating = SeatingLog(tries=seating.tries)
        fold.say(conditions(*_beads_on(fold), "air=flat", "line=unseen"))
    fold.seating = msgspec.structs.replace(
        fold.seating,
        low_left=entry.low_left,
        low_right=entry.low_right,
        outcome="one_low" if uneven else ("" if seating.outcome == "one_low" else fold.seating.outcome),
    )
    if uneven:  # any low sector: not seated, whatever the pressure
        fold.say(conditions(*_beads_on(fold), "line=unseen"))
    elif not entry.after_over_limit and fold.state.air == "up" and fold.state.first == "seated":
        fold.say(conditions("line=even"))


def _beads_on(fold: Fold) -> tuple[str, ...]:
    return tuple(
        f"{name}=on" for name, bead in (("first", fold.state.first), ("last", fold.state.last)) if bead == "seated"
    )
