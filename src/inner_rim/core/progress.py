"""Where a wheel stands: its stage and next action, derived from plan and log, never stored."""

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta
from typing import Literal

import msgspec

from .checks import Stop
from .inspection import Check, checks_for, finding_stops
from .job import Wheel
from .log import Attempt, Dip, Finding, Inspection, Logged, Override, SignOff, StepEntry
from .plan import WheelPlan
from .steps import WALKED, Step
from .why import Saying

State = Literal["to_do", "working", "trouble", "stopped", "finished"]

STATE_WORDS: dict[State, str] = {
    "to_do": "to do",
    "working": "in work",
    "trouble": "trouble",
    "stopped": "stopped",
    "finished": "handed over",
}


class Progress(msgspec.Struct, frozen=True):
    """Where a wheel stands.

    Attributes:
        stage: the stage that is being worked on; "set" once finished.
        done: stages behind it.
        state: in one word.
        action: the next thing to do, one sentence.
        open_stops: stops that nobody has overridden.
        step_kpa: the seating pressure to climb to next.
        step_number: its place in the ladder, from 1.
        low_left, low_right: sectors that stay low since the last look.
        question: what is asked by hand next, None where nothing is.
        over_limit: the wheel saw more than its limit and was not inspected since.
        handed_over_kpa: the pressure at sign-off.
        step: the step that is to be done, None where the stage has answers of its own.
        last_step: code of the step done last in this stage, for going back; empty at its beginning.
        last_of_stage: `step` is the last that is open in its stage.
        wait_until: ISO 8601, until when to wait after the last step; empty for no wait.
        waiting_for: the step that is waited for.
        dip_factor: calibration of the dipstick by a dip right after dosing.
        stages: the stages in the order of this wheel.
        steps_done: codes of steps that are ticked off and of questions that are answered.
        open_questions: how many questions of this stage have no answer yet.
    """

    stage: str
    done: frozenset[str]
    state: State
    action: Saying
    open_stops: tuple[Stop, ...]
    step_kpa: float
    step_number: int
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    over_limit: bool = False
    handed_over_kpa: float | None = None
    question: Check | None = None
    step: Step | None = None
    last_step: str = ""
    last_of_stage: bool = False
    wait_until: str = ""
    waiting_for: Step | None = None
    dip_factor: float = 1.0
    stages: tuple[str, ...] = ()
    steps_done: frozenset[str] = frozenset()
    open_questions: int = 0


class _Seating(msgspec.Struct):
    """What the attempts so far amount to."""

    misses: int = 0
    seated: bool = False
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    one_low: bool = False
    over_limit: bool = False


class _Story(msgspec.Struct):
    """What the log amounts to, entry by entry."""

    order: tuple[str, ...]
    done: set[str]
    failed: set[str]
    steps: list[str]
    answered: dict[str, bool]
    overridden: set[str]
    seating: _Seating
    signed: SignOff | None = None
    waiting: str = ""
    waiting_since: str = ""
    dip_factor: float = 1.0

    def behind(self, stage: str, other: str) -> bool:
        """Whether `stage` comes after `other` on this bench."""
        order = self.order
        return stage in order and (other not in order or order.index(stage) > order.index(other))


def derive(wheel: Wheel, plan: WheelPlan, log: Iterable[Logged]) -> Progress:
    """Return where the wheel stands after these entries, oldest first."""
    story = _Story(
        order=plan.stages,
        done=set() if wheel.insert is not None else {"insert"},
        failed=set(),
        steps=[],
        answered={},
        overridden=set(),
        seating=_Seating(),
    )
    waits = {step.code: step.wait_minutes for step in plan.steps if step.wait_minutes > 0.0}
    for item in log:
        entry = item.entry
        if isinstance(entry, StepEntry):
            _take_step(entry, story, wheel, plan)
            story.waiting = entry.step if entry.outcome == "done" and entry.step in waits else ""
            story.waiting_since = item.at
        elif isinstance(entry, Attempt):
            _take_attempt(entry, story.seating)
        elif isinstance(entry, Inspection):
            _take_inspection(entry, story.seating)
        elif isinstance(entry, Finding):
            story.answered[entry.check] = entry.sound
            story.overridden.discard(entry.check)
            story.waiting = ""
        elif isinstance(entry, Override):
            story.overridden.add(entry.code)
        elif isinstance(entry, Dip) and entry.calibrates:
            story.dip_factor = entry.factor
        elif isinstance(entry, SignOff):
            story.signed = entry
    if story.seating.seated and not story.seating.over_limit:
        story.done.add("seat")
    if story.signed is not None:
        story.done.add("set")
    return _progress(wheel, plan, story)


def _take_step(entry: StepEntry, story: _Story, wheel: Wheel, plan: WheelPlan) -> None:
    if entry.outcome == "done":
        if entry.step:
            story.steps.append(entry.step)
        if not entry.step or entry.completes:
            story.done.add(entry.stage)
        story.failed.discard(entry.stage)
    elif entry.outcome == "failed":
        story.failed.add(entry.stage)
        story.done.discard(entry.stage)
    elif entry.outcome == "reopened":
        _reopen(entry, story, wheel, plan)


def _reopen(entry: StepEntry, story: _Story, wheel: Wheel, plan: WheelPlan) -> None:
    """What is taken up again is looked at again, and all that stands on it."""
    stage = entry.stage
    later = {name for name in story.order if story.behind(name, stage)}
    story.done -= (later | {stage}) - ({"insert"} if wheel.insert is None else set())
    story.failed.clear()
    story.signed = None  # whatever was signed stood on this
    codes = [step.code for step in plan.steps if step.stage in later or step.stage == stage]
    if entry.step in codes:
        codes = codes[codes.index(entry.step) :]
    story.steps = [code for code in story.steps if code not in codes]
    for check in checks_for(wheel):
        if check.stage in later or (check.stage == stage and (not entry.step or check.code in codes)):
            story.answered.pop(check.code, None)
    if stage == "seat" or "seat" in later:
        story.seating = _Seating(over_limit=story.seating.over_limit)


def _take_attempt(entry: Attempt, seating: _Seating) -> None:
    seating.over_limit = seating.over_limit or entry.over_limit
    uneven = bool(entry.low_left or entry.low_right)
    seating.seated = entry.outcome == "both_up" and not uneven
    seating.one_low = entry.outcome == "one_low" or uneven
    seating.low_left, seating.low_right = entry.low_left, entry.low_right
    seating.misses = seating.misses + 1 if entry.outcome == "not_up" else 0


def _take_inspection(entry: Inspection, seating: _Seating) -> None:
    if entry.after_over_limit:
        seating.over_limit = False
    uneven = bool(entry.low_left or entry.low_right)
    seating.low_left, seating.low_right = entry.low_left, entry.low_right
    if uneven:  # any low sector: not seated, whatever the pressure
        seating.seated = False
    seating.one_low = uneven


def _progress(wheel: Wheel, plan: WheelPlan, story: _Story) -> Progress:
    steps, seating, signed = plan.pressure.seating_kpa, story.seating, story.signed
    place = seating.misses % len(steps)
    stops = (*plan.stops, *finding_stops(wheel, story.answered))
    open_stops = tuple(stop for stop in stops if not (stop.overridable and stop.code in story.overridden))
    stage = next((name for name in plan.stages if name not in story.done), "set")
    trouble = stage in story.failed or (
        stage == "seat" and (seating.one_low or seating.over_limit or (seating.misses > 0 and place == 0))
    )
    state: State = "working" if story.done - {"insert"} else "to_do"
    if signed is not None and stage == "set":
        state = "finished"
    elif open_stops:
        state = "stopped"
    elif trouble:
        state = "trouble"
    todo = _open_steps(plan, stage, story) if state in ("working", "to_do") else []
    step = todo[0] if todo else None
    question = next((c for c in checks_for(wheel) if step is not None and c.code == step.check), None)
    waiting = next((s for s in plan.steps if s.code == story.waiting), None)
    return Progress(
        stage=stage,
        done=frozenset(story.done),
        state=state,
        action=step.text if step else _action(plan, stage, state, seating, steps[place], open_stops, signed),
        open_stops=open_stops,
        step_kpa=steps[place],
        step_number=place + 1,
        low_left=seating.low_left,
        low_right=seating.low_right,
        over_limit=seating.over_limit,
        handed_over_kpa=signed.pressure_kpa if signed else None,
        question=question,
        step=step,
        last_step=_last_step(plan, stage, story),
        last_of_stage=len(todo) == 1,
        wait_until=_after(story.waiting_since, waiting.wait_minutes) if waiting else "",
        waiting_for=waiting,
        dip_factor=story.dip_factor,
        stages=plan.stages,
        steps_done=frozenset(story.steps) | frozenset(story.answered),
        open_questions=sum(1 for s in todo if s.check),
    )


def _open_steps(plan: WheelPlan, stage: str, story: _Story) -> list[Step]:
    """The steps of a stage that are neither done nor, where they are questions, answered."""
    if stage not in WALKED:
        return []
    return [
        step
        for step in plan.steps
        if step.stage == stage and step.code not in story.steps and step.check not in story.answered
    ]


def _last_step(plan: WheelPlan, stage: str, story: _Story) -> str:
    """The last step of the stage that is done; questions count where they are answered."""
    behind = [
        step.code
        for step in plan.steps
        if step.stage == stage and (step.code in story.steps or step.check in story.answered)
    ]
    return behind[-1] if behind else ""


def _after(at: str, minutes: float) -> str:
    return (datetime.fromisoformat(at) + timedelta(minutes=minutes)).isoformat(timespec="seconds")


def _action(
    plan: WheelPlan,
    stage: str,
    state: State,
    seating: _Seating,
    step_kpa: float,
    open_stops: tuple[Stop, ...],
    signed: SignOff | None,
) -> Saying:
    if state == "finished" and signed is not None:
        return Saying("Handed over at {pressure_kpa}", {"pressure_kpa": signed.pressure_kpa})
    if open_stops:
        return open_stops[0].message
    if stage == "seat":
        return _seat_action(plan, seating, step_kpa)
    if stage not in _STAGE_ACTIONS:
        return Saying("Every step of this stage is done: go on")
    return _STAGE_ACTIONS[stage](plan, state)


def _seat_action(plan: WheelPlan, seating: _Seating, step_kpa: float) -> Saying:
    if seating.over_limit:
        return Saying("Went above the limit. Let the air out, look at tape, rim and casing")
    if seating.one_low:
        return Saying(
            "Let the air out, push the low spot in, wet it, climb to {step_kpa}", {"step_kpa": step_kpa}
        )
    if seating.misses and seating.misses % len(plan.pressure.seating_kpa) == 0:
        return Saying(
            "Let the air out. Core out, beads wet, onto the shelf by hand; climb to {step_kpa}",
            {"step_kpa": step_kpa},
        )
    return Saying("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": step_kpa})


def _hold_action(plan: WheelPlan, state: State) -> Saying:
    if state == "trouble":
        return Saying("Lost air: soapy water on valve, nipples and beads, find it")
    return Saying("Read the gauge: has it held {settle_kpa}?", {"settle_kpa": plan.pressure.settle_kpa})


_STAGE_ACTIONS: dict[str, Callable[[WheelPlan, State], Saying]] = {
    "check_in": lambda plan, state: Saying("Read rim, tire and rider; then start"),
    "hold": _hold_action,
    "set": lambda plan, state: Saying(
        "Set {set_here_kpa} here", {"set_here_kpa": plan.pressure.set_here_kpa}
    ),
}
