"""The log, read once: what state it has left the wheel in, with what was really used.

Progress, panel, stock, sheet, dates, and schedule read its result; nothing else reads the log of the work.
"""

from collections.abc import Callable, Sequence
from typing import Any, Literal, Protocol

import msgspec

from inner_rim.core.procedure.achieve import LINE_QUESTIONS, QUESTION_OF, Counts, NoWay, Todo
from inner_rim.core.procedure.actions import KINDS, code_of, perform, unseated
from inner_rim.core.procedure.facts import Facts, condition, conditions
from inner_rim.core.procedure.goals import Milestone
from inner_rim.core.procedure.setup import LogChanges
from inner_rim.core.procedure.state import WheelState
from inner_rim.core.procedure.stops import NO_OVERRIDE
from inner_rim.core.procedure.summary import Done, LogSummary, Read, SeatingLog, Since
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import (
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
from inner_rim.core.record.stages import STAGES, Stage

#: The step that a doing-again of the tape begins with where the good tape stays: one more layer over it.
LAYER = "layer"


_ON = conditions("first=on", "last=on", "line=unseen", "settled=no")
#: How a try ends that leaves no air in.
_WITHOUT_AIR = frozenset({"no_pressure", "falls_off"})
#: A peak so little below a pressure counts as that pressure: nobody sets one finer.
LEAST_KPA = 2.5
#: What a question answered no says of the wheel.
_NO_MEANS: dict[str, Facts] = {
    "beads_unseat": conditions(*_ON, "air=flat"),
    "bead_line_uneven": _ON,
    **dict.fromkeys(LINE_QUESTIONS, _ON),
}
_ACTION_OF = {question: code for code, question in QUESTION_OF.items()} | {
    **dict.fromkeys(LINE_QUESTIONS, "line.look"),
    "carbon_damaged": "rim.walls",
    "rim_dented": "rim.walls",
    "valve_core_stuck": "valve.core_check",
    "insert_worn": "insert.look",
    "thorns_left": "tire.thorns",
    "bead_line_uneven": "spin.look",
}
#: The question that an action is, also where an odd log has it as a step.
_QUESTION_BY = {code: question for question, code in reversed(_ACTION_OF.items())}
#: Stages after which air may be in, where they were confirmed whole.
_MAY_LEAVE_AIR = frozenset({"seat", "sealant", "hold", "set"})


class Plan(Protocol):
    """What the fold asks of the procedure: where the work starts, and what remains at a place of the log."""

    @property
    def start(self) -> WheelState: ...

    @property
    def steps_kpa(self) -> tuple[float, ...]: ...

    def settles_at_kpa(self, seated_kpa: float) -> float:
        """The pressure at which the wheel is looked at last, once its beads seated."""

    def remaining(
        self, state: WheelState, changes: LogChanges, taken: dict[str, int], climb_at: int
    ) -> Sequence[Todo]: ...

    def milestones(self, changes: LogChanges) -> Sequence[Milestone]: ...

    def tapes(self, changes: LogChanges) -> bool: ...

    def strips(self, changes: LogChanges, layers_added: int) -> int:
        """How many strips of tape a run lays."""


class _Effect(msgspec.Struct):
    """What one entry, or one action of it, did: its action, or facts without one."""

    done: Done | None
    state: WheelState
    dose: Dose | None = None
    seating: SeatingLog = SeatingLog()
    seated_kpa: float | None = None


class _Fold:
    """The reading of a log, entry by entry."""

    def __init__(self, plan: Plan, in_ml: float, in_name: str) -> None:
        self.plan = plan
        self.start = self.state = plan.start
        self.effects: list[_Effect] = []
        self.when = ""
        self.in_ml, self.in_name = in_ml, in_name
        self.changes = LogChanges()
        self.seating = SeatingLog()
        self.seated_kpa: float | None = None
        self.whole, self.failed, self.overridden = set[str](), set[str](), set[str]()
        self.answered: dict[str, bool] = {}
        self.waiting: tuple[str, ...] = ()
        self.waiting_since = self.leak = ""
        self.readings: list[Read] = []
        self.dip_factor = 1.0
        self.left_ml: float | None = None
        self.topped_up: list[Care] = []
        self.doses_before = 0
        self.layers_added, self.plugs, self.run = 0, 0, 1
        self.weighed_g: dict[str, float] = {}
        self.feedback_kpa: float | None = None
        self.signed: SignOff | None = None
        self.signed_at = ""
        self.since = Since()
        self.may_have_air = False

    def note_since(self, **changes: object) -> None:
        self.since = msgspec.structs.replace(self.since, **changes)

    # -- what is done ----------------------------------------------------------------------------

    @property
    def behind(self) -> list[Done]:
        return [effect.done for effect in self.effects if effect.done is not None]

    def taken(self) -> Counts:
        counts = Counts()
        for done in self.behind:
            counts.key(code_of(done.key))
        return counts

    def remaining(self) -> Sequence[Todo]:
        try:
            return self.plan.remaining(self.state, self.changes, self.taken(), self.seating.step)
        except NoWay:  # the log contradicts itself
            return ()

    def do(self, done: Done) -> None:
        code = code_of(done.key)
        if not done.question and code in _QUESTION_BY:
            done = msgspec.structs.replace(done, question=_QUESTION_BY[code])
        before = self.state
        self.state = perform(self.state, done.key)
        if before.first == "seated" and self.state.first != "seated":
            self._unseated()
        self.plugs += code == "repair.plug"
        if self.state.air == "flat":
            self.may_have_air = False
        self._note(done)

    def confirm(self, done: Done) -> None:
        """Take an action of a stage that was confirmed whole: it changes the wheel only as far as it could be done."""
        kind = KINDS.get(code_of(done.key))
        if kind is None or all(self.state.holds(need) for need in kind.needs):
            self.do(done)
        else:
            self.say((), done)  # it was said to be done, and stays in view

    def say(self, facts: Facts, done: Done | None = None, dose: Dose | None = None) -> None:
        """Take facts as true, whatever action brought them about."""
        if any(fact in conditions("first=on", "last=on") for fact in facts) and "seated" in (
            self.state.first,
            self.state.last,
        ):
            self._unseated()
        state = self.state.after(facts)
        if state.first == "on" and self.state.first == "seated":
            state = unseated(state)
        if condition("air=flat") in facts:
            self.may_have_air = False
        if done is not None:
            state = msgspec.structs.replace(state, did=state.did | {code_of(done.key)})
        self.state = state
        self._note(done, dose)

    def _unseated(self) -> None:
        """The beads have to be reseated: what was found before no longer counts."""
        self.seated_kpa = None

    def _note(self, done: Done | None, dose: Dose | None = None) -> None:
        self.effects.append(_Effect(done, self.state, dose, self.seating, self.seated_kpa))

    @property
    def came_ml(self) -> float:
        """What is left of the sealant that came in: by a dip, else as it was said; none once it was taken out."""
        emptied = any(code_of(done.key) in ("strip.sealant_out", "strip.tube_out") for done in self.behind)
        if emptied or self.state.sealant == "none":
            return 0.0
        return self.in_ml if self.left_ml is None else self.left_ml

    @property
    def doses(self) -> list[Dose]:
        """What went in during this run."""
        return [effect.dose for effect in self.effects if effect.dose is not None]

    @property
    def inside_ml(self) -> float:
        """The sealant inside: what stayed and what went in; after a top-up, what was left then and what was added."""
        if self.state.sealant != "in":
            return 0.0
        then = self.came_ml
        if self.topped_up:
            then = self.topped_up[-1].left_ml + (self.topped_up[-1].dose_ml or 0.0)
        return then + sum(dose.dose_ml for dose in self.doses[self.doses_before :])

    @property
    def inside_name(self) -> str:
        """Its kind: that of what went in last."""
        before, later = self.doses[: self.doses_before], self.doses[self.doses_before :]
        names = [dose.name for dose in before] + [care.name for care in self.topped_up]
        names += [dose.name for dose in later]
        return next(filter(None, reversed(names)), self.in_name if self.came_ml else "")

    @property
    def dosed_ml(self) -> float:
        """Sealant that was used in this run."""
        added = sum(care.dose_ml or 0.0 for care in self.topped_up)
        return sum(dose.dose_ml for dose in self.doses) + added

    def stage_of(self, code: str) -> Stage:
        """The stage that an action without one belongs to: that of what was done last, where it is later than its own."""
        own = _STAGE_OF[code.partition(".")[0]]
        last = next((effect.done.stage for effect in reversed(self.effects) if effect.done), own)
        later: Stage = max(own, last, key=STAGES.index) if code in _ANYWHERE else own
        return later

    def cut(self, place: int) -> None:
        """Take back all that was done from a place on, and the sealant that went in with it."""
        while place > 0 and self.effects[place - 1].done is None and self.effects[place - 1].dose is not None:
            place -= 1
        gone = self.effects[place:]
        dosing = any(_doses(effect) for effect in gone)
        kept = [effect for effect in gone if effect.dose is not None and not dosing]
        self.plugs -= sum(code_of(one.done.key) == "repair.plug" for one in gone if one.done is not None)
        for effect in gone:
            if effect.done is not None and effect.done.question:
                self.answered.pop(effect.done.question, None)
        del self.effects[place:]
        last = self.effects[-1] if self.effects else None
        self.state = last.state if last is not None else self.start
        over = self.seating.over_limit
        self.seating = last.seating if last is not None else SeatingLog()
        self.seating = msgspec.structs.replace(self.seating, over_limit=over, changes=())
        self.seated_kpa = last.seated_kpa if last is not None else None
        self.may_have_air = True  # a slip was taken back: the air may never have been out
        for effect in kept:  # what went in otherwise is still in
            self.say(conditions("sealant=in"), dose=effect.dose)

    def summary(self) -> LogSummary:
        ml = self.inside_ml
        return LogSummary(
            state=self.state,
            behind=tuple(self.behind),
            changes=self.changes,
            seating=self.seating,
            whole=frozenset(self.whole),
            failed=frozenset(self.failed),
            answered=self.answered,
            overridden=frozenset(self.overridden),
            waiting=self.waiting,
            waiting_since=self.waiting_since,
            readings=tuple(self.readings),
            leak=self.leak,
            dip_factor=self.dip_factor,
            left_ml=self.left_ml,
            dosed_ml=self.dosed_ml,
            sealant_ml=ml,
            sealant=self.inside_name if ml else "",
            layers_added=self.layers_added,
            seated_kpa=self.seated_kpa,
            plugs=self.plugs,
            weighed_g=self.weighed_g,
            feedback_kpa=self.feedback_kpa,
            signed=self.signed,
            signed_at=self.signed_at if self.signed is not None else "",
            since=self.since,
            run=self.run,
            may_have_air=self.may_have_air,
        )


def _doses(effect: _Effect) -> bool:
    return effect.done is not None and code_of(effect.done.key) in ("sealant.pour", "sealant.inject")


#: The stage of an action by the first word of its code, and actions that are taken in whatever stage the hand is in.
_STAGE_OF: dict[str, Stage] = {
    "check_in": "check_in",
    "strip": "strip",
    "rim": "strip",
    "repair": "strip",
    "tape": "tape",
    "hole": "tape",
    "valve": "valve",
    "insert": "insert",
    "tire": "mount",
    "bead": "mount",
    "tube": "mount",
    "core": "seat",
    "air": "seat",
    "line": "seat",
    "dry": "seat",
    "sealant": "sealant",
    "dip": "sealant",
    "spin": "hold",
    "hold": "hold",
    "set": "set",
}
_ANYWHERE = frozenset({"line.look", "dry.test", "dry.stay", "tire.arrow_again"})


def fold_log(log: Sequence[Logged], plan: Plan, in_ml: float = 0.0, in_name: str = "") -> LogSummary:
    """Return what a log amounts to.

    A step that is taken back is as if it had not been done, and so is all that was done after it; a stage that is
    confirmed whole is every step of it that remained.

    Args:
        log: entries that count, oldest first.
    """
    fold = _Fold(plan, in_ml, in_name)
    for item in log:
        take = _TAKES.get(type(item.entry))
        if take is not None:
            fold.when = item.at
            take(fold, item.entry)
    _pass_skipped(fold)
    return fold.summary()


def _pass_skipped(fold: _Fold) -> None:
    """Count a step that came into the plan after later work was done as passed: nothing is undone for it."""
    if fold.changes.leak or fold.changes.with_tube:  # these bring new work into what is done
        return
    goals, did = fold.plan.milestones(fold.changes), fold.state.did
    last = max((place for place, goal in enumerate(goals) if goal.code in did), default=0)
    skipped = {goal.code for goal in goals[:last] if goal.once}
    if not skipped <= did:
        fold.state = msgspec.structs.replace(fold.state, did=did | skipped)


# -- entry by entry ------------------------------------------------------------------------------


def _take_step(fold: _Fold, entry: StepEntry) -> None:
    at_once = fold.waiting if fold.waiting_since == fold.when else ()
    waits = entry.outcome == "done" and bool(entry.step)
    fold.waiting, fold.waiting_since = ((*at_once, entry.step) if waits else ()), fold.when
    _OUTCOMES[entry.outcome](fold, entry)


def _done(fold: _Fold, entry: StepEntry) -> None:
    stage = _stage(entry)
    fold.failed.discard(entry.stage)
    if entry.stage == "tape":
        fold.note_since(laid_at=fold.when)
    if entry.step and not entry.step.startswith("air.step"):
        fold.do(Done(stage, entry.step))
    if not entry.step or entry.completes:
        fold.whole.add(entry.stage)
    if not entry.step or (entry.completes and _is_open(fold, entry.stage)):
        for todo in fold.remaining():
            if todo.stage == entry.stage:
                fold.confirm(Done(todo.stage, todo.key, todo.question, todo.climb))
    if not entry.step and entry.stage in _MAY_LEAVE_AIR:
        fold.may_have_air = True


def _is_open(fold: _Fold, stage: str) -> bool:
    """Whether something of a stage remains; asked before it is planned, which takes longer."""
    goals = fold.plan.milestones(fold.changes)
    return any(goal.stage == stage and not goal.reached(fold.state) for goal in goals)


def _stage(entry: StepEntry) -> Stage:
    return next((stage for stage in STAGES if stage == entry.stage), "check_in")


def _failed(fold: _Fold, entry: StepEntry) -> None:
    fold.readings.clear()
    fold.failed.add(entry.stage)
    fold.whole.discard(entry.stage)


def _reopened(fold: _Fold, entry: StepEntry) -> None:
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


def _index(stage: str) -> int:
    return STAGES.index(stage) if stage in STAGES else 0


def _place_of(fold: _Fold, entry: StepEntry) -> int | None:
    """Where what is taken up again was done: that step, or the first of its stage, else of a later one."""
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


def _waited(fold: _Fold, entry: StepEntry) -> None:
    fold.waiting = ()


def _again(fold: _Fold, entry: StepEntry) -> None:
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
    did = frozenset(checked | ({"strip.tire_off"} if off else set()))
    fold.start = fold.state = msgspec.structs.replace(state, did=did, dry_test="open")
    fold.effects.clear()
    fold.whole = {"check_in"} & fold.whole
    fold.failed.clear()
    fold.overridden.clear()
    fold.answered.clear()
    fold.readings.clear()
    fold.seating = SeatingLog(over_limit=fold.seating.over_limit, changes=("layer",) if layer else ())
    fold.seated_kpa = fold.seated_kpa if seated and entry.stage != "tape" else None
    fold.signed, fold.leak, fold.left_ml = None, "", None
    fold.run += 1
    fold.may_have_air = fold.state.air == "up"


def _to_be_taped(fold: _Fold, state: WheelState, layer: bool) -> WheelState:
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
        rim="unseen",
    )


_OUTCOMES: dict[str, Callable[[_Fold, StepEntry], None]] = {
    "done": _done,
    "failed": _failed,
    "reopened": _reopened,
    "waited": _waited,
    "again": _again,
}


def _take_finding(fold: _Fold, entry: Finding) -> None:
    fold.overridden.discard(entry.check)
    fold.waiting = ()
    code = _ACTION_OF.get(entry.check)
    if code is None:
        return
    rechecked = entry.sound and (code == "line.look" or fold.answered.get(entry.check) is False)
    fold.answered[entry.check] = entry.sound
    if entry.sound:
        _seen(fold, code, entry.check, rechecked)
    elif entry.check in _NO_MEANS:
        fold.say(_NO_MEANS[entry.check])


def _seen(fold: _Fold, code: str, question: str, rechecked: bool) -> None:
    """A question is answered yes, or its stop is passed; after an earlier no, what the check found was fixed.

    A molded line that is even says that both beads are seated, with air in.
    """
    if rechecked:
        needs = tuple(need for need in KINDS[code].needs if len(need.values) == 1)
        fold.say(needs)
    fold.do(Done(fold.stage_of(code), fold.taken().key(code), question))


def _take_changed(fold: _Fold, entry: Changed) -> None:
    seating = fold.seating
    if entry.remedy == "tube_first":  # the beads seat by another way
        seating = SeatingLog(over_limit=seating.over_limit, tries=seating.tries)
    fold.seating = msgspec.structs.replace(seating, changes=(*seating.changes, entry.remedy))
    _bring_about(fold, entry.remedy)


def _bring_about(fold: _Fold, remedy: Remedy) -> None:
    """What a remedy makes of the wheel: the next try has it."""
    if remedy == "core_out" and fold.state.valve == "in":
        fold.say(conditions("core=out", "air=flat", "line=unseen"))
    elif remedy == "wet":
        fold.say(conditions("wet=yes"))
    elif remedy == "tube_first":
        fold.changes = msgspec.structs.replace(fold.changes, with_tube=True)
        fold.say(conditions("air=up") if fold.may_have_air else conditions("air=flat"))


def _take_attempt(fold: _Fold, entry: Attempt) -> None:
    seating = fold.seating
    if LAYER in entry.changed and LAYER not in seating.changes:
        fold.layers_added += 1
    fold.readings.clear()  # earlier readings no longer apply
    uneven = bool(entry.low_left or entry.low_right)
    up = entry.outcome == "both_up" and not uneven
    outcome = "" if up else ("one_low" if uneven else entry.outcome)
    if outcome == "not_up" and not entry.builds(fold.plan.steps_kpa[0]):
        outcome = "no_pressure"
    step, climbed = _next_step(fold, outcome, entry.target_kpa)
    fold.seating = SeatingLog(
        step=step,
        outcome=outcome,
        low_left=entry.low_left,
        low_right=entry.low_right,
        over_limit=seating.over_limit or entry.over_limit,
        climbed=climbed,
        tries=(*seating.tries, entry),
    )
    core = condition("core=out" if entry.core_out else "core=in")
    if entry.core_out is None:
        core = condition(f"core={fold.state.core}")
    place = seating.step
    done = Done(_attempt_stage(fold), fold.taken().key("air.step"), climb=place)
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


def _attempt_stage(fold: _Fold) -> Stage:
    """The stage of a try: where beads are reseated in another stage, that one."""
    last = fold.behind[-1].stage if fold.effects and fold.behind else "seat"
    return last if last in ("insert", "sealant") and "air.step" in fold.state.did else "seat"


def _next_step(fold: _Fold, outcome: str, target_kpa: float | None) -> tuple[int, bool]:
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


def _take_inspection(fold: _Fold, entry: Inspection) -> None:
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


def _beads_on(fold: _Fold) -> tuple[str, ...]:
    return tuple(
        f"{name}=on" for name, bead in (("first", fold.state.first), ("last", fold.state.last)) if bead == "seated"
    )


def _take_dose(fold: _Fold, entry: Dose) -> None:
    fold.say(conditions("sealant=in"), dose=entry)
    fold.note_since(dosed_at=fold.when, dips=())


def _take_dip(fold: _Fold, entry: Dip) -> None:
    if not entry.calibrates:
        fold.note_since(dips=(*fold.since.dips, (fold.when, entry.depth_mm)))
    if entry.calibrates:
        fold.dip_factor = entry.factor
    elif not any(effect.dose is not None for effect in fold.effects):
        fold.left_ml = entry.free_ml


def _take_leak(fold: _Fold, entry: Leak) -> None:
    fold.leak = entry.place
    todo = fold.remaining()
    if todo and todo[0].code == "repair.find":
        fold.do(Done("strip", "repair.find"))
    if entry.place == "none":
        return
    taped = fold.plan.tapes(fold.changes)
    fold.changes = msgspec.structs.replace(fold.changes, leak=entry.place)
    if fold.plan.tapes(fold.changes) and not taped:
        fold.state = _to_be_taped(fold, fold.state, layer=False)
        fold.say(())


def _take_reading(fold: _Fold, entry: Reading) -> None:
    fold.readings.append((fold.when, entry.pressure_kpa, entry.temperature_c))


def _take_override(fold: _Fold, entry: Override) -> None:
    fold.overridden.add(entry.code)
    code = _ACTION_OF.get(entry.code)
    if code is not None and entry.code not in NO_OVERRIDE and fold.answered.get(entry.code) is False:
        _seen(fold, code, entry.code, rechecked=True)


def _take_feedback(fold: _Fold, entry: Feedback) -> None:
    fold.feedback_kpa = entry.next_kpa
    ridden = (fold.when, entry.pressure_kpa, entry.said)
    fold.note_since(worked_kpa=entry.next_kpa or None, pressures=(*fold.since.pressures, ridden))


def _take_sign_off(fold: _Fold, entry: SignOff) -> None:
    fold.signed, fold.signed_at = entry, fold.when
    fold.note_since(
        handed_over_at=fold.since.handed_over_at or fold.when,
        worked_kpa=entry.ride_kpa or entry.pressure_kpa or None,
        pressures=(*fold.since.pressures, (fold.when, entry.pressure_kpa, "")),
    )


def _take_care(fold: _Fold, entry: Care) -> None:
    if entry.what == "refilled":
        if entry.dose_ml is not None:
            fold.topped_up.append(entry)
            fold.doses_before = len(fold.doses)
            fold.state = fold.state.after(conditions("sealant=in"))
        fold.note_since(dosed_at=fold.when, dips=())
    elif entry.what == "retaped":
        fold.note_since(laid_at=fold.when, tires=0)
    elif entry.what == "tire_changed":
        fold.note_since(tires=fold.since.tires + 1)


def _take_weight(fold: _Fold, entry: Weight) -> None:
    fold.weighed_g[entry.when] = entry.mass_g


def _take_promised(fold: _Fold, entry: Promised) -> None:
    fold.note_since(promised=entry.due)


_TAKES: dict[type, Callable[[_Fold, Any], None]] = {
    StepEntry: _take_step,
    Attempt: _take_attempt,
    Changed: _take_changed,
    Inspection: _take_inspection,
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
