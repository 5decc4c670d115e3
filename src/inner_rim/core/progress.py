"""Where a wheel stands: its stage and next action, derived from plan and log, never stored."""

from collections.abc import Callable, Iterable
from typing import Literal

import msgspec

from .checks import Stop
from .inspection import Check, checks_for, finding_stops, next_check
from .job import Wheel
from .log import AnyEntry, Attempt, Finding, Inspection, Override, SignOff, StepEntry
from .plan import STAGES, WheelPlan
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


class _Seating(msgspec.Struct):
    """What the attempts so far amount to."""

    misses: int = 0
    seated: bool = False
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    one_low: bool = False
    over_limit: bool = False


def derive(wheel: Wheel, plan: WheelPlan, entries: Iterable[AnyEntry]) -> Progress:
    """Return where the wheel stands after these entries, oldest first."""
    done: set[str] = set() if wheel.insert is not None else {"insert"}
    seating = _Seating()
    overridden: set[str] = set()
    answered: dict[str, bool] = {}
    failed: set[str] = set()
    signed: SignOff | None = None
    for entry in entries:
        if isinstance(entry, StepEntry):
            _take_step(entry, done, failed)
            if entry.outcome == "reopened":
                _forget_answers(wheel, entry.stage, answered)
                signed = None  # whatever was signed stood on this
            if entry.outcome == "reopened" and not _behind(entry.stage, "seat"):
                seating = _Seating(over_limit=seating.over_limit)
        elif isinstance(entry, Attempt):
            _take_attempt(entry, seating)
        elif isinstance(entry, Inspection):
            _take_inspection(entry, seating)
        elif isinstance(entry, Finding):
            answered[entry.check] = entry.sound
            overridden.discard(entry.check)
        elif isinstance(entry, Override):
            overridden.add(entry.code)
        elif isinstance(entry, SignOff):
            signed = entry
    if seating.seated and not seating.over_limit:
        done.add("seat")
    if signed is not None:
        done.add("set")
    return _progress(wheel, plan, done, failed, seating, overridden, signed, answered)


def _forget_answers(wheel: Wheel, stage: str, answered: dict[str, bool]) -> None:
    """A stage that is taken up again is looked at again, and all that stands on it."""
    for check in checks_for(wheel):
        if check.stage == stage or _behind(check.stage, stage):
            answered.pop(check.code, None)


def _behind(stage: str, other: str) -> bool:
    """Whether `stage` comes after `other` on the bench."""
    return stage in STAGES and STAGES.index(stage) > STAGES.index(other)


def _take_step(entry: StepEntry, done: set[str], failed: set[str]) -> None:
    if entry.outcome == "done":
        done.add(entry.stage)
        failed.discard(entry.stage)
    elif entry.outcome == "failed":
        failed.add(entry.stage)
        done.discard(entry.stage)
    else:  # taken up again: all later work stands on it
        done -= {stage for stage in STAGES if stage == entry.stage or _behind(stage, entry.stage)} - {
            "insert"
        }
        failed.clear()


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


def _progress(
    wheel: Wheel,
    plan: WheelPlan,
    done: set[str],
    failed: set[str],
    seating: _Seating,
    overridden: set[str],
    signed: SignOff | None,
    answered: dict[str, bool],
) -> Progress:
    steps = plan.pressure.seating_kpa
    place = seating.misses % len(steps)
    stops = (*plan.stops, *finding_stops(wheel, answered))
    open_stops = tuple(stop for stop in stops if not (stop.overridable and stop.code in overridden))
    stage = next((name for name in STAGES if name not in done), "set")
    trouble = stage in failed or (
        stage == "seat" and (seating.one_low or seating.over_limit or (seating.misses > 0 and place == 0))
    )
    state: State = "working" if done - {"insert"} else "to_do"
    if signed is not None and stage == "set":
        state = "finished"
    elif open_stops:
        state = "stopped"
    elif trouble:
        state = "trouble"
    question = next_check(wheel, stage, answered) if state in ("working", "to_do") else None
    action = _action(plan, stage, state, seating, steps[place], open_stops, signed)
    return Progress(
        stage=stage,
        done=frozenset(done),
        state=state,
        action=Saying(question.question) if question else action,
        open_stops=open_stops,
        step_kpa=steps[place],
        step_number=place + 1,
        low_left=seating.low_left,
        low_right=seating.low_right,
        over_limit=seating.over_limit,
        handed_over_kpa=signed.pressure_kpa if signed else None,
        question=question,
    )


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


def _tape_action(plan: WheelPlan, state: State) -> Saying:
    tape = plan.tape
    if tape.width_mm is None:
        return Saying("Find tape {developed_mm} wide", {"developed_mm": tape.developed_width_mm})
    if tape.strips == 2:
        return Saying(
            "Two strips of {width_mm}, each against its wall, {length_mm} in all",
            {"width_mm": tape.width_mm, "length_mm": tape.length_mm},
        )
    if tape.trim_to_mm is not None:
        return Saying(
            "Trim {width_mm} to {trim_mm}, cut {length_mm}",
            {"width_mm": tape.width_mm, "trim_mm": tape.trim_to_mm, "length_mm": tape.length_mm},
        )
    if tape.layers > 1:
        return Saying(
            "Lay {layers} layers of {width_mm}, cut {length_mm}",
            {"layers": tape.layers, "width_mm": tape.width_mm, "length_mm": tape.length_mm},
        )
    return Saying(
        "Lay {width_mm} tape, cut {length_mm}", {"width_mm": tape.width_mm, "length_mm": tape.length_mm}
    )


def _valve_action(plan: WheelPlan, state: State) -> Saying:
    valve = plan.valve
    if valve.needed_mm is None:
        return Saying("Measure the rim's depth at the valve")
    if valve.length_mm is None:
        return Saying("Find a valve of {needed_mm} or more", {"needed_mm": valve.needed_mm})
    return Saying("Fit the {length_mm} valve, finger tight", {"length_mm": valve.length_mm})


def _hold_action(plan: WheelPlan, state: State) -> Saying:
    if state == "trouble":
        return Saying("Lost air: soapy water on valve, nipples and beads, find it")
    return Saying(
        "Hold at {settle_kpa} overnight, spin and lay flat", {"settle_kpa": plan.pressure.settle_kpa}
    )


_STAGE_ACTIONS: dict[str, Callable[[WheelPlan, State], Saying]] = {
    "check_in": lambda plan, state: Saying("Read rim, tire and rider; then start"),
    "strip": lambda plan, state: Saying("Strip, clean, look for proud spokes and dents"),
    "tape": _tape_action,
    "valve": _valve_action,
    "insert": lambda plan, state: Saying("Put the insert in"),
    "mount": lambda plan, state: Saying("Arrow right? Beads in the well, finish at the valve"),
    "sealant": lambda plan, state: Saying("Shake, put in {dose_ml}", {"dose_ml": plan.sealant.dose_ml}),
    "hold": _hold_action,
    "set": lambda plan, state: Saying(
        "Set {set_here_kpa} here", {"set_here_kpa": plan.pressure.set_here_kpa}
    ),
}
