"""What tries at seating, looks at the molded line, and changes between tries make of the wheel; `fold` reads the rest."""

import msgspec

from inner_rim.core.models.hand import hand_step_kpa
from inner_rim.core.procedure.achieve import LINE_QUESTIONS
from inner_rim.core.procedure.actions import REMEDY_ACTIONS, applies
from inner_rim.core.procedure.facts import conditions
from inner_rim.core.procedure.fold_state import Fold
from inner_rim.core.procedure.state import TUBE_SEATED
from inner_rim.core.procedure.summary import Done, SeatingLog
from inner_rim.core.record.log import LAYER, Attempt, Changed, Inspection
from inner_rim.core.record.stages import Stage

#: How a try ends that leaves no air in.
_WITHOUT_AIR = frozenset({"no_pressure", "falls_off"})
#: Answers that say a bead is low; seating again answers them.
LOW_ANSWERS = (*LINE_QUESTIONS, "bead_line_uneven", "beads_unseat")


def take_changed(fold: Fold, entry: Changed) -> None:
    """Something is to be changed before the next try: what that takes is planned."""
    for question in LOW_ANSWERS:
        fold.answered.pop(question, None)
    if entry.remedy == "tube_first":  # the beads seat by another way
        fold.seating = SeatingLog(over_limit=fold.seating.over_limit, tries=fold.seating.tries)
        fold.changes = msgspec.structs.replace(fold.changes, with_tube=True, drops=False)
        did = fold.state.did - {TUBE_SEATED, "tube.out"}
        fold.state = msgspec.structs.replace(fold.state, wanted=frozenset(), stays="unseen", did=did)
    elif entry.remedy in REMEDY_ACTIONS and applies(entry.remedy, fold.state):
        fold.state = msgspec.structs.replace(fold.state, wanted=fold.state.wanted | {entry.remedy})
    fold.say(())


def take_attempt(fold: Fold, entry: Attempt) -> None:
    """A try at seating: how it ended decides where the beads are, and which pressures were checked."""
    before, state = fold.seating, fold.state
    if LAYER in entry.changed and LAYER not in state.changed:
        fold.layers_added += 1
    fold.readings.clear()  # earlier readings no longer apply
    uneven = bool(entry.low_left or entry.low_right)
    up = entry.outcome == "both_up" and not uneven
    outcome = "" if up else ("one_low" if uneven else entry.outcome)
    if outcome == "not_up" and not entry.builds(fold.plan.steps_kpa[0]):
        outcome = "no_pressure"
    fold.seating = SeatingLog(
        outcome=outcome,
        low_left=entry.low_left,
        low_right=entry.low_right,
        over_limit=before.over_limit or entry.over_limit,
        tries=(*before.tries, entry),
    )
    core = state.core if entry.core_out is None else "out" if entry.core_out else "in"
    done = Done(_attempt_stage(fold), fold.taken().key("air.step"), pressure_step=state.seen)
    facts = [f"core={core}", "valve_at=any", *(["wet=yes"] if "wet" in entry.changed else [])]
    seen = fold.plan.seen_at(entry.peak_kpa) if outcome not in _WITHOUT_AIR else 0
    if outcome == "hisses":  # more air would only lift the tape further
        seen = 0
    if up:
        seen = _seated(fold, entry, max(state.seen, seen))
        facts += ["first=seated", "last=seated", "air=up", "line=even" if core == "in" else "line=unseen"]
    else:
        air = "air=flat" if outcome in _WITHOUT_AIR else "air=up"
        facts += [*_beads_on(fold), air, "line=unseen"]
        if state.seated:  # a bead came off: what was checked before says nothing
            seen = 0
    last = before.tries[-1] if before.tries else None
    again = before.outcome == "one_low" and last is not None and last.target_kpa == entry.target_kpa
    pushes = outcome == "one_low" and not again and "push_spot" not in state.changed.union(entry.changed)
    did = state.did | ({TUBE_SEATED} if up and state.tube == "in" else set())
    fold.state = msgspec.structs.replace(state, changed=frozenset(), wanted=frozenset(), did=did)
    fold.say(conditions(*facts, f"seen={seen}"), done)
    if pushes:  # pushed in and wetted before it goes any higher
        fold.state = msgspec.structs.replace(fold.state, wanted=frozenset({"push_spot"}))
        fold.effects[-1].state = fold.state
    fold.may_have_air = outcome not in _WITHOUT_AIR


def _seated(fold: Fold, entry: Attempt, seen: int) -> int:
    """Note at which pressure both beads seated; return how many pressure steps were checked."""
    for question in LOW_ANSWERS:
        fold.answered.pop(question, None)
    seated = entry.peak_kpa if entry.peak_kpa > 0.0 and not entry.over_limit else None
    if fold.state.seated and fold.seated_kpa is not None and seated is not None:
        seated = max(seated, fold.seated_kpa)  # the step up to where it settles
    fold.seated_kpa = seated
    settles = fold.plan.settles_at_kpa(seated or 0.0)
    high = entry.peak_kpa >= settles - hand_step_kpa(entry.peak_kpa, 0.0)
    return len(fold.plan.steps_kpa) + 1 if high else seen


def _attempt_stage(fold: Fold) -> Stage:
    """The stage of a try: where beads are reseated in another stage, that one."""
    last = fold.behind[-1].stage if fold.effects and fold.behind else "seat"
    return last if last in ("insert", "sealant") and "air.step" in fold.state.did else "seat"


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
