"""The log, read once: what state it has left the wheel in, with what was really used.

Progress, panel, stock, sheet, dates, and schedule read its result; nothing else reads the log of
the work.
"""

from collections.abc import Callable, Sequence
from typing import Any, Literal

import msgspec

from inner_rim.core.models.limit import hand_step_kpa
from inner_rim.core.procedure.achieve import LINE_QUESTIONS
from inner_rim.core.procedure.actions import KINDS, REMEDY_ACTIONS, applies, code_of
from inner_rim.core.procedure.fold_state import ACTION_OF, Done, Fold, LogSummary, Plan, SeatingLog
from inner_rim.core.procedure.questions import QUESTIONS
from inner_rim.core.procedure.setup import LogChanges
from inner_rim.core.procedure.state import TUBE_SEATED, Facts, WheelState, conditions
from inner_rim.core.record.job import OldSealant, Remedy
from inner_rim.core.record.log import (
    LAYER,
    Attempt,
    Care,
    Changed,
    Dip,
    Dose,
    Feedback,
    Finding,
    Inspection,
    Leak,
    Logged,
    Override,
    Promised,
    Reading,
    SignOff,
    StepEntry,
    Weight,
)
from inner_rim.core.record.spoken import STAGES, Stage

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
        fold.state = msgspec.structs.replace(
            fold.state, wanted=frozenset(), stays="unseen", did=did
        )
    elif entry.remedy in REMEDY_ACTIONS and applies(entry.remedy, fold.state):
        fold.state = msgspec.structs.replace(fold.state, wanted=fold.state.wanted | {entry.remedy})
    fold.say(())


def take_attempt(fold: Fold, entry: Attempt) -> None:
    """A try at seating: how it ended decides where the beads are, and which pressures were checked."""
    before, state = fold.seating, fold.state
    if LAYER in entry.changed and LAYER not in state.changed:
        fold.layers_added += 1
    fold.readings.clear()  # earlier readings no longer apply
    fold.pumped_at = fold.when
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
        facts += [
            "first=seated",
            "last=seated",
            "air=up",
            "line=even" if core == "in" else "line=unseen",
        ]
    else:
        air = "air=flat" if outcome in _WITHOUT_AIR else "air=up"
        facts += [*_beads_on(fold), air, "line=unseen"]
        if state.seated:  # a bead came off: what was checked before says nothing
            seen = 0
    last = before.tries[-1] if before.tries else None
    again = before.outcome == "one_low" and last is not None and last.target_kpa == entry.target_kpa
    pushes = (
        outcome == "one_low" and not again and "push_spot" not in state.changed.union(entry.changed)
    )
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
        outcome="one_low"
        if uneven
        else ("" if seating.outcome == "one_low" else fold.seating.outcome),
    )
    if uneven:  # any low sector: not seated, whatever the pressure
        fold.say(conditions(*_beads_on(fold), "line=unseen"))
    elif not entry.after_over_limit and fold.state.air == "up" and fold.state.first == "seated":
        fold.say(conditions("line=even"))


def _beads_on(fold: Fold) -> tuple[str, ...]:
    return tuple(
        f"{name}=on"
        for name, bead in (("first", fold.state.first), ("last", fold.state.last))
        if bead == "seated"
    )


_ON = conditions("first=on", "last=on", "line=unseen")
#: What a question answered no says of the wheel.
_NO_MEANS: dict[str, Facts] = {
    "beads_unseat": conditions(*_ON, "air=flat"),
    "bead_line_uneven": _ON,
    **dict.fromkeys(LINE_QUESTIONS, _ON),
}
#: What the answer no changes of the work, where it is no stop.
_NO_TAKES: dict[str, dict[str, bool]] = {
    "sealant_low": {"tops_up": True},
    "bead_leaks_on": {"bead_leaks_on": True},
}
#: Looks that say whether both beads are seated.
_SEATED_LOOKS = frozenset({"line.look", "spin.look", "dry.stay"})
#: Steps that bring it back to its pressure: what was read before does not compare with what is read
#: after.
_PUMPS_UP = frozenset({"hold.shake", "hold.top_up"})
#: Stages after which air may be in, where they were confirmed whole.
_MAY_LEAVE_AIR = frozenset({"seat", "sealant", "hold", "set"})


class LogReader:
    """Reads a wheel's log as it grows: each entry once."""

    def __init__(self, plan: Plan, came: OldSealant = OldSealant()) -> None:  # noqa: B008 - immutable
        self._from = plan, came
        self._fold = Fold(*self._from)
        self._read: list[Logged] = []

    def summary(self, log: Sequence[Logged]) -> LogSummary:
        """Return what a log amounts to; see `fold_log`."""
        read, count = self._read, len(self._read)
        if len(log) < count or not all(map(_same, read, log)):
            self._fold, read, count = Fold(*self._from), [], 0
        self._read = []  # until all of it is read
        for item in log[count:]:
            take = _TAKES.get(type(item.entry))
            if take is not None:
                self._fold.when = item.at
                take(self._fold, item.entry)
        self._read = list(log)
        return self._fold.summary(_with_skipped(self._fold))


def _same(one: Logged, other: Logged) -> bool:
    return one is other or (one.uid == other.uid != "") or one == other


def fold_log(
    log: Sequence[Logged],
    plan: Plan,
    came: OldSealant = OldSealant(),  # noqa: B008 - immutable
) -> LogSummary:
    """Return what a log amounts to.

    A step that is taken back is as if it had not been done, and so is all that was done after it; a
    stage that is confirmed whole is every step of it that remained.

    Args:
        log: entries that count, oldest first.
    """
    return LogReader(plan, came).summary(log)


def _with_skipped(fold: Fold) -> WheelState:
    """The state, where a step that came into the plan after later work was done counts as passed:
    nothing is undone for it.
    """
    if fold.changes.leak or fold.changes.with_tube:  # these bring new work into what is done
        return fold.state
    goals, did = fold.plan.milestones(fold.changes), fold.state.did
    here = did - fold.start.did  # a tire that came in off was not taken off in this run
    first: dict[str, int] = {}  # beads that are wetted twice say nothing of what is in between
    for place, goal in enumerate(goals):
        first.setdefault(goal.code, place)
    last = max((first[code] for code in here & first.keys()), default=0)
    skipped = {goal.code for goal in goals[:last] if goal.once and not goal.unless}
    return fold.state if skipped <= did else msgspec.structs.replace(fold.state, did=did | skipped)


# -- entry by entry ------------------------------------------------------------------------------


def _take_step(fold: Fold, entry: StepEntry) -> None:
    at_once = fold.waiting if fold.waiting_since == fold.when else ()
    waits = entry.outcome == "done" and bool(entry.step)
    fold.waiting, fold.waiting_since = ((*at_once, entry.step) if waits else ()), fold.when
    _OUTCOMES[entry.outcome](fold, entry)


def _done(fold: Fold, entry: StepEntry) -> None:
    stage = _stage(entry)
    fold.failed.discard(entry.stage)
    if entry.stage == "tape":
        fold.note_since(laid_at=fold.when)
    if entry.step and not entry.step.startswith("air.step"):
        fold.do(Done(stage, entry.step))
    if code_of(entry.step) in _PUMPS_UP:
        fold.readings.clear()
        fold.pumped_at = fold.when
    if not entry.step or entry.completes:
        fold.whole.add(entry.stage)
    if not entry.step or (entry.completes and _is_open(fold, entry.stage)):
        for todo in fold.remaining():
            if todo.stage == entry.stage:
                fold.confirm(Done(todo.stage, todo.key, todo.question, todo.pressure_step))
    if not entry.step and entry.stage in _MAY_LEAVE_AIR:
        fold.may_have_air = True


def _is_open(fold: Fold, stage: str) -> bool:
    """Whether something of a stage remains; asked before it is planned, which takes longer."""
    goals = fold.plan.milestones(fold.changes)
    return any(goal.stage == stage and not goal.reached(fold.state) for goal in goals)


def _stage(entry: StepEntry) -> Stage:
    return next((stage for stage in STAGES if stage == entry.stage), "check_in")


def _failed(fold: Fold, entry: StepEntry) -> None:
    fold.readings.clear()
    fold.failed.add(entry.stage)
    fold.whole.discard(entry.stage)
    if entry.stage == "hold":
        fold.changes = msgspec.structs.replace(fold.changes, lost_air=True)


def _reopened(fold: Fold, entry: StepEntry) -> None:
    place = _place_of(fold, entry)
    fold.failed.clear()
    fold.signed = None  # a signature covers the work it followed
    later = STAGES.index(_stage(entry))
    fold.whole = {stage for stage in fold.whole if _index(stage) < later}
    if place is not None:
        fold.cut(place)
    if entry.stage == "hold" or later < STAGES.index("hold"):
        fold.readings.clear()
        fold.leak = ""
        fold.ridden = False


def _index(stage: str) -> int:
    return STAGES.index(stage) if stage in STAGES else 0


def _place_of(fold: Fold, entry: StepEntry) -> int | None:
    """Where what is taken up again was done: that step, or the first of its stage, else of a later
    one.
    """
    effects = fold.effects
    if entry.step:
        for place in range(len(effects) - 1, -1, -1):
            done = effects[place].done
            if done is not None and done.key == entry.step:
                return place
        return None  # it was not done
    for same in (True, False):
        for place, effect in enumerate(effects):
            done = effect.done
            if done is None:
                continue
            mine, theirs = _index(entry.stage), STAGES.index(done.stage)
            if (same and done.stage == entry.stage) or (not same and theirs > mine):
                return place
    return None


def _waited(fold: Fold, entry: StepEntry) -> None:
    fold.waiting = ()


def _again(fold: Fold, entry: StepEntry) -> None:
    """The wheel goes through its procedure again, from its present state."""
    state = fold.state
    layer = entry.step == LAYER
    if layer:
        fold.layers_added += 1
    again: Literal["tape", "layer"] = "layer" if layer else "tape"
    if entry.stage == "tape":
        fold.changes = LogChanges(again=again, with_tube=fold.changes.with_tube and not layer)
    seated = state.first == "seated"
    if fold.may_have_air and state.first != "off":
        state = state.after(conditions("air=up"))
    fold.in_ml, fold.in_name = fold.inside_ml, fold.inside_name or fold.in_name
    fold.topped_up, fold.doses_before = [], 0
    off = state.first == "off" and state.last == "off"
    checked = {one for one in state.did if one.startswith("check_in.")}
    if entry.stage == "tape":
        state = _to_be_taped(fold, state, layer)
    kept = {one for one in ("rim.walls", "valve.core_check") if one in state.did}
    if "valve.fit" in state.did:  # a core that is minutes old
        kept.add("valve.core_check")
    did = frozenset(checked | kept | ({"strip.tire_off"} if off else set()))
    stays: Literal["unseen", "yes"] = "yes" if state.stays == "yes" else "unseen"
    nothing: frozenset[Remedy] = frozenset()
    fold.start = fold.state = msgspec.structs.replace(
        state, did=did, stays=stays, wanted=nothing, changed=nothing
    )
    fold.effects.clear()
    fold.whole = {"check_in"} & fold.whole
    fold.failed.clear()
    fold.overridden.clear()
    fold.answered.clear()
    fold.readings.clear()
    fold.seating = SeatingLog(over_limit=fold.seating.over_limit)
    if layer:
        fold.start = fold.state = msgspec.structs.replace(fold.state, changed=frozenset({"layer"}))
    fold.seated_kpa = fold.seated_kpa if seated and entry.stage != "tape" else None
    fold.signed, fold.leak, fold.left_ml, fold.ridden = None, "", None, False
    fold.run += 1
    fold.may_have_air = fold.state.air == "up"


def _to_be_taped(fold: Fold, state: WheelState, layer: bool) -> WheelState:
    """The state of a rim that is to be taped again, or gets one more layer over its tape."""
    if state.tape == "not_needed":
        return state
    taped = state.tape in ("old", "sound", "laid", "bad")
    strips = fold.plan.strips(fold.changes, fold.layers_added)
    return msgspec.structs.replace(
        state,
        tape=("old" if layer else "bad") if taped else "none",
        bed="taped" if taped else state.bed,
        to_lay=strips,
        to_cover=fold.plan.covers(fold.changes),
    )


def _ridden(fold: Fold, entry: StepEntry) -> None:
    """The leak test ends without a last reading: the wheel is ridden until it is tight."""
    _done(fold, entry)
    fold.ridden = True


_OUTCOMES: dict[str, Callable[[Fold, StepEntry], None]] = {
    "done": _done,
    "failed": _failed,
    "reopened": _reopened,
    "waited": _waited,
    "again": _again,
    "ridden": _ridden,
}


def _take_finding(fold: Fold, entry: Finding) -> None:
    fold.overridden.discard(entry.check)
    fold.waiting = ()
    code = ACTION_OF.get(entry.check)
    if code is None:
        return
    rechecked = entry.sound and (code == "line.look" or fold.answered.get(entry.check) is False)
    fold.answered[entry.check] = entry.sound
    takes = _NO_TAKES.get(entry.check)
    if entry.sound or takes:
        _seen(fold, code, entry.check, rechecked)
    if entry.sound:
        return
    if takes:
        fold.changes = msgspec.structs.replace(fold.changes, **takes)
    elif entry.check in _NO_MEANS:
        fold.say(_NO_MEANS[entry.check])
    elif entry.check == "insert_worn" and fold.state.insert == "on":  # then its tape is in sight
        fold.changes = msgspec.structs.replace(fold.changes, insert_out=True)
        fold.say(conditions("tape=old") if fold.state.tape == "sound" else ())


def _seen(fold: Fold, code: str, question: str, rechecked: bool) -> None:
    """A question is answered yes, or its stop is passed; after an earlier no, what the check found
    was fixed.

    A molded line that is even says that both beads are seated, with air in.
    """
    if rechecked:
        needs = tuple(need for need in KINDS[code].needs if len(need.values) == 1)
        # they were on their seats all the time
        still = code in _SEATED_LOOKS and not fold.state.seen
        fold.say((*needs, *(conditions(f"seen={fold.seen_before}") if still else ())))
    fold.do(Done(fold.stage_of(code), fold.taken().key(code), question))


def _take_dose(fold: Fold, entry: Dose) -> None:
    fold.note_dosed(fold.before_ml, entry.dose_ml)
    fold.say(conditions("sealant=in"), dose=entry)


def _take_dip(fold: Fold, entry: Dip) -> None:
    if not entry.calibrates:
        fold.note_since(dips=(*fold.since.dips, (fold.when, entry.depth_mm)))
    if entry.calibrates:
        fold.dip_factor = entry.factor
    elif not any(effect.dose is not None for effect in fold.effects):
        fold.left_ml = entry.free_ml


def _take_leak(fold: Fold, entry: Leak) -> None:
    fold.leak = entry.place
    todo = fold.remaining()
    if todo and todo[0].code == "repair.find":
        fold.do(Done("strip", "repair.find"))
    if entry.place == "none":
        return
    dry = "dry_test_leaks"  # sealant is what a casing that weeps needs
    next_to_do = bool(todo) and todo[0].code == ACTION_OF[dry]
    if entry.place == "weeps" and (next_to_do or fold.answered.get(dry) is False):
        fold.waiting = ()
        _seen(fold, ACTION_OF[dry], dry, rechecked=fold.answered.get(dry) is False)
        fold.answered[dry] = True
    taped = fold.plan.tapes(fold.changes)
    fold.changes = msgspec.structs.replace(
        fold.changes, leak=entry.place, leak_side=entry.side or fold.changes.leak_side
    )
    if fold.plan.tapes(fold.changes) and not taped:
        fold.state = _to_be_taped(fold, fold.state, layer=False)
        fold.say(())
    # a leak that opens no bead: they are where they were ridden
    ridden = fold.plan.ridden_steps(fold.changes)
    if fold.state.seated and not fold.state.seen and ridden:
        fold.say(conditions(f"seen={ridden}"))


def _take_reading(fold: Fold, entry: Reading) -> None:
    fold.readings.append((fold.when, entry.pressure_kpa, entry.temperature_c))


def _take_override(fold: Fold, entry: Override) -> None:
    fold.overridden.add(entry.code)
    code = ACTION_OF.get(entry.code)
    if (
        code is None
        or not QUESTIONS[entry.code].overridable
        or fold.answered.get(entry.code) is not False
    ):
        return
    # they stay off their seats, and are seated once the sealant is in
    if entry.code == "beads_unseat":
        fold.changes = msgspec.structs.replace(fold.changes, drops=True)
        fold.say(
            conditions("stays=passed"),
            Done(fold.stage_of(code), fold.taken().key(code), entry.code),
        )
    else:
        _seen(fold, code, entry.code, rechecked=True)


def _take_feedback(fold: Fold, entry: Feedback) -> None:
    fold.feedback_kpa = entry.next_kpa
    ridden = (fold.when, entry.pressure_kpa, entry.said)
    fold.note_since(worked_kpa=entry.next_kpa or None, pressures=(*fold.since.pressures, ridden))


def _take_sign_off(fold: Fold, entry: SignOff) -> None:
    fold.signed, fold.signed_at = entry, fold.when
    fold.note_since(
        handed_over_at=fold.since.handed_over_at or fold.when,
        worked_kpa=entry.ride_kpa or entry.pressure_kpa or None,
        pressures=(*fold.since.pressures, (fold.when, entry.pressure_kpa, "")),
    )


def _take_care(fold: Fold, entry: Care) -> None:
    if entry.what == "refilled":
        left = entry.left_ml if entry.dose_ml is not None else 0.0
        fold.note_dosed(left, entry.dose_ml or 0.0)
        if entry.dose_ml is not None:
            fold.topped_up.append(entry)
            fold.doses_before = len(fold.doses)
            fold.state = fold.state.after(conditions("sealant=in"))
            fold.readings.clear()  # the air went out for it
    elif entry.what == "retaped":
        fold.note_since(laid_at=fold.when, tires=0)
    elif entry.what == "tire_changed":
        fold.note_since(tires=fold.since.tires + 1)


def _take_weight(fold: Fold, entry: Weight) -> None:
    fold.weighed_g[entry.when] = entry.mass_g


def _take_promised(fold: Fold, entry: Promised) -> None:
    fold.note_since(promised=entry.due)


_TAKES: dict[type, Callable[[Fold, Any], None]] = {
    StepEntry: _take_step,
    Attempt: take_attempt,
    Changed: take_changed,
    Inspection: take_inspection,
    Finding: _take_finding,
    Reading: _take_reading,
    Leak: _take_leak,
    Care: _take_care,
    Promised: _take_promised,
    Feedback: _take_feedback,
    Override: _take_override,
    Dose: _take_dose,
    Dip: _take_dip,
    SignOff: _take_sign_off,
    Weight: _take_weight,
}
