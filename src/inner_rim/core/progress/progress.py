"""Where a wheel stands: its stage and next action, derived from plan and log, never stored."""

from collections.abc import Callable, Iterable
from datetime import timedelta
from typing import Literal

import msgspec

from inner_rim.core.models.holding import HoldReading, HoldReport, hold_report
from inner_rim.core.models.inflation import SOURCE_WORDS
from inner_rim.core.plan.advisor import suggestions
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import Action
from inner_rim.core.procedure.questions import QUESTIONS, Question, finding_stops
from inner_rim.core.procedure.replay import Physical, replay
from inner_rim.core.procedure.stops import Stop
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.log import (
    Attempt,
    Dip,
    Feedback,
    Finding,
    Inspection,
    Leak,
    Logged,
    Override,
    Reading,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.moments import after, moment
from inner_rim.core.record.why import Message

#: Stages that have answers of their own; the steps of the others are ticked off one by one.
NOT_WALKED = frozenset({"check_in", "set"})

State = Literal["to_do", "working", "problem", "stopped", "finished"]

STATE_WORDS: dict[State, str] = {
    "to_do": "to do",
    "working": "in progress",
    "problem": "problem",
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
        handed_over_kpa: the pressure at sign-off, as set in the shop.
        ride_kpa: what it was then on the ride.
        step: the step that is to be done, None where the stage has answers of its own.
        last_step: code of the step done last in this stage, for going back; empty at its beginning.
        last_of_stage: `step` is the last that is open in its stage.
        wait_until: ISO 8601, until when to wait after the last step; empty for no wait.
        waiting_for: the step that is waited for.
        dip_factor: calibration of the dipstick by a dip right after dosing.
        stages: the stages in the order of this wheel.
        steps_done: codes of steps that are ticked off and of questions that are answered.
        open_questions: how many questions of this stage have no answer yet.
        readings: what the gauge said since the wheel stands: (ISO 8601, kPa, °C).
        hold: what these readings say, None before the second.
        next_reading_at: ISO 8601, when the next reading will decide; empty where it has or cannot be told.
        leak: where air was seen to come out last.
        tries: the attempts at seating since the stage began.
        feedback_kpa: where the last test ride puts the pressure, None before one.
        physical: what state the wheel is in.
    """

    stage: str
    done: frozenset[str]
    state: State
    action: Message
    open_stops: tuple[Stop, ...]
    step_kpa: float
    step_number: int
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    over_limit: bool = False
    handed_over_kpa: float | None = None
    ride_kpa: float | None = None
    question: Question | None = None
    step: Action | None = None
    last_step: str = ""
    last_of_stage: bool = False
    wait_until: str = ""
    waiting_for: Action | None = None
    dip_factor: float = 1.0
    stages: tuple[str, ...] = ()
    steps_done: frozenset[str] = frozenset()
    open_questions: int = 0
    readings: tuple[tuple[str, float, float | None], ...] = ()
    hold: HoldReport | None = None
    next_reading_at: str = ""
    leak: str = ""
    tries: tuple[Attempt, ...] = ()
    feedback_kpa: float | None = None
    physical: Physical | None = None


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
    readings: list[tuple[str, float, float | None]] = []
    tries: list[Attempt] = []
    leak: str = ""
    feedback_kpa: float | None = None

    def behind(self, stage: str, other: str) -> bool:
        """Whether `stage` comes after `other` on this bench."""
        order = self.order
        return stage in order and (other not in order or order.index(stage) > order.index(other))


def derive(wheel: Wheel, plan: WheelPlan, log: Iterable[Logged]) -> Progress:
    """Return where the wheel stands after these entries, oldest first."""
    story = _Story(
        order=plan.stages,
        done=set(),
        failed=set(),
        steps=[],
        answered={},
        overridden=set(),
        seating=_Seating(),
    )
    log = list(log)
    waits = {step.key: step.wait_minutes for step in plan.steps if step.wait_minutes > 0.0}
    for item in log:
        entry = item.entry
        if isinstance(entry, StepEntry):
            _take_step(entry, story, plan)
            story.waiting = entry.step if entry.outcome == "done" and entry.step in waits else ""
            story.waiting_since = item.at
        elif isinstance(entry, Attempt):
            _take_attempt(entry, story.seating)
            story.tries.append(entry)
            story.readings.clear()  # whatever stood before does not stand now
        elif isinstance(entry, Reading):
            story.readings.append((item.at, entry.pressure_kpa, entry.temperature_c))
        elif isinstance(entry, Leak):
            story.leak = entry.place
        elif isinstance(entry, Feedback):
            story.feedback_kpa = entry.next_kpa
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
    for stage in plan.stages:
        if _all_done(plan, stage, story):
            story.done.add(stage)
    if story.signed is not None:
        story.done.add("set")
    sealant = wheel.sealant
    in_ml, in_name = (sealant.in_ml or 0.0, sealant.name or "") if sealant is not None else (0.0, "")
    return _progress(plan, story, replay(plan.setup, plan.steps, log, in_ml, in_name))


def _all_done(plan: WheelPlan, stage: str, story: _Story) -> bool:
    """Whether every step of a stage is done; a hold ends only with what the gauge says."""
    if stage in NOT_WALKED or stage == "hold":
        return False
    seated = story.seating.seated and not story.seating.over_limit
    if stage == "seat" and seated and any(story.behind(later, stage) for later in story.done):
        return True
    steps = [step for step in plan.steps if step.stage == stage]
    first = next((place for place, step in enumerate(steps) if step.climb), len(steps))
    if seated and first < len(steps):  # whatever comes before the climb is behind beads that are up
        steps = steps[first:]
    return bool(steps) and all(seated if step.climb else _is_done(step, story) for step in steps)


def _is_done(step: Action, story: _Story) -> bool:
    """Whether a step is done, or where it is a question, answered."""
    return step.key in story.steps or (bool(step.question) and story.answered.get(step.question) is not None)


def _take_step(entry: StepEntry, story: _Story, plan: WheelPlan) -> None:
    if entry.outcome == "done":
        if entry.step:
            story.steps.append(entry.step)
        if not entry.step or entry.completes:
            story.done.add(entry.stage)
        story.failed.discard(entry.stage)
    elif entry.outcome == "failed":
        story.readings.clear()
        story.failed.add(entry.stage)
        story.done.discard(entry.stage)
    elif entry.outcome == "reopened":
        _reopen(entry, story, plan)
    elif entry.outcome == "again":
        _begin_again(story)


def _begin_again(story: _Story) -> None:
    """The wheel goes through its procedure once more, as what it is now."""
    story.done = {"check_in"}
    story.failed.clear()
    story.steps.clear()
    story.answered.clear()
    story.overridden.clear()
    story.seating = _Seating(over_limit=story.seating.over_limit)
    story.readings.clear()
    story.tries.clear()
    story.signed, story.leak = None, ""


def _reopen(entry: StepEntry, story: _Story, plan: WheelPlan) -> None:
    """What is taken up again is looked at again, and all that stands on it."""
    stage = entry.stage
    later = {name for name in story.order if story.behind(name, stage)}
    story.done -= later | {stage}
    story.failed.clear()
    story.signed = None  # whatever was signed stood on this
    again = [step for step in plan.steps if step.stage in later or step.stage == stage]
    keys = [step.key for step in again]
    if entry.step in keys:
        again = again[keys.index(entry.step) :]
    story.steps = [key for key in story.steps if key not in {step.key for step in again}]
    for step in again:
        story.answered.pop(step.question, None)
    if stage == "hold" or "hold" in later:
        story.readings.clear()
        story.leak = ""
    if any(step.climb for step in again):  # a step after the climb leaves the beads where they are
        story.tries.clear()
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


def _progress(plan: WheelPlan, story: _Story, physical: Physical) -> Progress:
    steps, seating, signed = plan.pressure.seating_kpa, story.seating, story.signed
    place = seating.misses % len(steps)
    counted = _counted(story.readings)
    hold = _hold(plan, counted)
    stops = (*plan.stops, *finding_stops(plan.steps, story.answered), *_low_stops(plan, story))
    open_stops = tuple(stop for stop in stops if not (stop.overridable and stop.code in story.overridden))
    stage = next((name for name in plan.stages if name not in story.done), "set")
    trouble = stage in story.failed or (
        stage == "seat" and (seating.one_low or seating.over_limit or (seating.misses > 0 and place == 0))
    )
    state: State = "working" if story.done else "to_do"
    if signed is not None and stage == "set":
        state = "finished"
    elif open_stops:
        state = "stopped"
    elif trouble:
        state = "problem"
    todo = _open_steps(plan, stage, story) if state in ("working", "to_do") else []
    step = todo[0] if todo else None
    question = QUESTIONS.get(step.question) if step is not None else None
    waiting = next((s for s in plan.steps if s.key == story.waiting), None)
    return Progress(
        stage=stage,
        done=frozenset(story.done),
        state=state,
        action=step.text
        if step
        else _action(plan, stage, state, seating, steps[place], open_stops, signed, story.tries),
        open_stops=open_stops,
        step_kpa=steps[place],
        step_number=place + 1,
        low_left=seating.low_left,
        low_right=seating.low_right,
        over_limit=seating.over_limit,
        handed_over_kpa=signed.pressure_kpa if signed else None,
        ride_kpa=(signed.ride_kpa if signed.ride_kpa is not None else signed.pressure_kpa)
        if signed
        else None,
        question=question,
        step=step,
        last_step=_last_step(plan, stage, story),
        last_of_stage=len(todo) == 1
        and (seating.seated or not any(s.climb for s in plan.steps if s.stage == stage)),
        wait_until=_after(story.waiting_since, waiting.wait_minutes) if waiting else "",
        waiting_for=waiting,
        dip_factor=story.dip_factor,
        stages=plan.stages,
        steps_done=frozenset(step.key for step in plan.steps if _is_done(step, story)),
        open_questions=sum(1 for s in todo if s.question),
        readings=tuple(story.readings),
        hold=hold,
        next_reading_at=_after(counted[0][0], 60.0 * hold.decides_at_h)
        if hold is not None and hold.decides_at_h is not None
        else "",
        leak=story.leak,
        tries=tuple(story.tries),
        feedback_kpa=story.feedback_kpa,
        physical=physical,
    )


_Read = tuple[str, float, float | None]


def _counted(readings: list[_Read]) -> list[_Read]:
    """The readings that can be compared: those before the clock was set back do not count."""
    times = [moment(at) for at, _kpa, _c in readings]
    return readings[max((i for i in range(1, len(times)) if times[i] < times[i - 1]), default=0) :]


def _hold(plan: WheelPlan, readings: list[_Read]) -> HoldReport | None:
    """What the readings say of the wheel's air."""
    times = [moment(at) for at, _kpa, _c in readings]
    counted = [
        HoldReading((time - times[0]).total_seconds() / 3600.0, kpa, c)
        for time, (_at, kpa, c) in zip(times, readings, strict=True)
    ]
    try:
        return hold_report(
            counted,
            max(1.0, plan.tire.air_volume_ml),
            step_kpa=plan.pressure.gauge_step_kpa,
            ambient_kpa=plan.pressure.shop_ambient_kpa,
        )
    except ValueError:  # fewer than two moments, or nothing left in it
        return None


def _low_stops(plan: WheelPlan, story: _Story) -> tuple[Stop, ...]:
    """A wheel that is below the tire's printed minimum after the hold does not go on."""
    minimum = plan.pressure.minimum_kpa
    if "hold" not in story.done or minimum is None or not story.readings or story.signed is not None:
        return ()
    last = story.readings[-1][1]
    if last >= minimum:
        return ()
    return (
        Stop(
            "below_minimum",
            Message(
                "Below the tire's minimum after the hold: {pressure_kpa}, at least {minimum_kpa}. Pump up and read again.",
                {"pressure_kpa": last, "minimum_kpa": minimum},
            ),
            "tire.min_pressure_kpa",
        ),
    )


def _open_steps(plan: WheelPlan, stage: str, story: _Story) -> list[Action]:
    """The steps of a stage that are neither done nor answered; at seating those before or after the climb."""
    if stage in NOT_WALKED:
        return []
    steps = [step for step in plan.steps if step.stage == stage]
    climb = [place for place, step in enumerate(steps) if step.climb]
    if climb:
        steps = steps[climb[-1] + 1 :] if story.seating.seated else steps[: climb[0]]
        if story.seating.over_limit or story.seating.one_low or story.seating.misses:
            steps = []
    return [step for step in steps if not _is_done(step, story)]


def _last_step(plan: WheelPlan, stage: str, story: _Story) -> str:
    """The last step of the stage that is done; questions count where they are answered."""
    behind = [step.key for step in plan.steps if step.stage == stage and _is_done(step, story)]
    return behind[-1] if behind else ""


def _after(at: str, minutes: float) -> str:
    return after(moment(at), timedelta(minutes=minutes)).isoformat(timespec="seconds")


def _action(
    plan: WheelPlan,
    stage: str,
    state: State,
    seating: _Seating,
    step_kpa: float,
    open_stops: tuple[Stop, ...],
    signed: SignOff | None,
    tries: list[Attempt],
) -> Message:
    if state == "finished" and signed is not None:
        return Message("Handed over at {pressure_kpa}", {"pressure_kpa": signed.pressure_kpa})
    if open_stops:
        return open_stops[0].message
    if stage == "seat":
        return _seat_action(plan, seating, step_kpa, tries)
    if stage not in _STAGE_ACTIONS:
        return Message("Every step of this stage is done: go on")
    return _STAGE_ACTIONS[stage](plan, state)


def _seat_action(plan: WheelPlan, seating: _Seating, step_kpa: float, tries: list[Attempt]) -> Message:
    if seating.over_limit:
        return Message("Went above the limit. Let the air out, look at tape, rim and casing")
    if tries and (seating.one_low or seating.misses):
        last = tries[-1]
        source = last.source if last.source in SOURCE_WORDS else None
        best = suggestions(plan, tries, source, last.core_out, last.lubricant not in ("", "none"))
        if best and (seating.one_low or seating.misses % len(plan.pressure.seating_kpa) == 0):
            return Message("{change}; climb to {step_kpa}", {"change": best[0].text, "step_kpa": step_kpa})
    return Message("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": step_kpa})


def _hold_action(plan: WheelPlan, state: State) -> Message:
    if state == "problem":
        return Message("Lost air: soapy water on valve, nipples, beads and side walls. Where does it bubble?")
    return Message("Read the gauge: has it held {settle_kpa}?", {"settle_kpa": plan.pressure.settle_kpa})


_STAGE_ACTIONS: dict[str, Callable[[WheelPlan, State], Message]] = {
    "check_in": lambda plan, state: Message("Read rim, tire and rider; then start"),
    "hold": _hold_action,
    "set": lambda plan, state: Message(
        "Set {set_here_kpa} here", {"set_here_kpa": plan.pressure.set_here_kpa}
    ),
}
