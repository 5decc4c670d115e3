"""Where a wheel stands: its stage and next action, derived from plan and log, never stored."""

import math
from collections.abc import Callable, Sequence
from datetime import datetime, timedelta
from typing import Literal

import msgspec

from inner_rim.core.models.holding import HoldReading, HoldReport, counted_from, hold_report
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import Action, Asks
from inner_rim.core.procedure.fold_state import Read
from inner_rim.core.procedure.questions import QUESTIONS, StepQuestion, finding_stops
from inner_rim.core.procedure.stops import Bounds, Stop
from inner_rim.core.record.job import Remedy, Wheel
from inner_rim.core.record.log import Attempt, Outcome
from inner_rim.core.record.moments import after, moment
from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.why import Message
from inner_rim.words import N_

#: Stages that have answers of their own; the steps of the others are ticked off one by one.
NOT_WALKED = frozenset({"check_in", "set"})

State = Literal["to_do", "working", "problem", "stopped", "finished"]

STATE_WORDS: dict[State, str] = {
    "to_do": N_("to do"),
    "working": N_("in progress"),
    "problem": N_("problem"),
    "stopped": N_("stopped"),
    "finished": N_("handed over"),
}


class SeatingProgress(msgspec.Struct, frozen=True):
    """The state of seating.

    Attributes:
        step_kpa: the next pressure step.
        step_number: its number, from 1.
        low_left, low_right: sectors that stay low since the last look.
        over_limit: the wheel saw more than its limit and was not inspected since.
        tries: the attempts since the stage began.
        outcome: of the last one where it left the beads unseated, else empty.
        changes: what was changed since then.
        stuck: something has to be changed before another try.
    """

    step_kpa: float
    step_number: int
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    over_limit: bool = False
    tries: tuple[Attempt, ...] = ()
    outcome: Outcome | Literal[""] = ""
    changes: tuple[Remedy, ...] = ()
    stuck: bool = False


class Holding(msgspec.Struct, frozen=True):
    """What the readings of a leak test say.

    Attributes:
        readings: of this leak test: (ISO 8601, kPa, °C).
        counted: how many of them, the latest, can be compared: the clock was not set back, nor the
            tire pumped up.
        report: what these say, None before the second.
        next_reading_at: ISO 8601, when the next reading will decide; empty where it has or nothing
            is known.
        leak: where air was seen to come out last.
    """

    readings: tuple[Read, ...] = ()
    counted: int = 0
    report: HoldReport | None = None
    next_reading_at: str = ""
    leak: str = ""


class Waiting(msgspec.Struct, frozen=True):
    until: str = ""
    after: Action | None = None


class Progress(msgspec.Struct, frozen=True):
    """Where a wheel stands.

    Attributes:
        stage: the stage that is being worked on; "set" once finished.
        done: stages behind it.
        action: the next thing to do, one sentence.
        open_stops: stops that nobody has overridden.
        question: what is asked by hand next, None where nothing is.
        step: the step that is to be done, None where the stage has answers of its own.
        last_step: the step done last, for going back; None at the beginning.
        steps_done: names of the steps that are behind.
        seats_next: the next thing to do is a try at seating.
        together: the steps that one answer can confirm: plain ones, up to a question, a try, a
            wait, or an amount.
    """

    stage: Stage
    done: frozenset[str]
    state: State
    action: Message
    open_stops: tuple[Stop, ...]
    seating: SeatingProgress
    holding: Holding
    waiting: Waiting
    question: StepQuestion | None = None
    step: Action | None = None
    last_step: Action | None = None
    stages: tuple[Stage, ...] = ()
    steps_done: frozenset[str] = frozenset()
    seats_next: bool = False
    together: tuple[Action, ...] = ()

    @property
    def asked(self) -> tuple[Asks, ...]:
        """What is written down with the steps that one answer confirms: an amount of the last."""
        return tuple(step.asks for step in self.together if step.asks)


def derive(wheel: Wheel, plan: WheelPlan) -> Progress:
    log = plan.log
    left = _stages_left(plan)
    stage: Stage = next((name for name in plan.stages if name in left), "set")
    if stage != "check_in" and plan.steps and plan.steps[0].stage in left:
        stage = plan.steps[0].stage
    if stage == "set" and "hold" in left:
        stage = "hold"
    if log.seating.over_limit:
        stage = _seat_stage(plan)
    done = frozenset(name for name in plan.stages if name not in left and name != stage)
    result = (*plan.stops, *finding_stops(log.answered), *_low_stops(plan, done))
    stops = tuple(stop for stop in result if not (stop.overridable and stop.code in log.overridden))
    seats_next = log.seating.over_limit or _seats_next(plan, stage)
    state = _state(plan, stage, bool(stops), seats_next, bool(done))
    failed = state not in ("working", "to_do") and not (
        state == "problem" and stage not in log.failed
    )
    todo = [] if failed or seats_next else _open_steps(plan, stage)
    step = todo[0] if todo else None
    seating = _seating(plan)
    return Progress(
        stage=stage,
        done=done,
        state=state,
        action=step.text
        if step is not None
        else _action(plan, stage, state, seats_next, seating, stops),
        open_stops=stops,
        seating=seating,
        holding=_holding(wheel, plan),
        waiting=_waiting(plan),
        question=QUESTIONS.get(step.question) if step is not None else None,
        step=step,
        last_step=plan.behind[-1] if plan.behind else None,
        stages=plan.stages,
        steps_done=frozenset(item.key for item in plan.behind),
        seats_next=seats_next,
        together=_together(plan, step),
    )


def _stuck(plan: WheelPlan) -> bool:
    """Whether something has to be changed before another try: a spot stays low, no step is left, or
    no pressure builds.
    """
    seating, state = plan.log.seating, plan.log.state
    if state.seated or state.wanted or state.changed or seating.outcome == "":
        return False
    return seating.outcome != "not_up" or not 0 < state.seen < len(plan.pressure.seating_kpa)


def _seats_next(plan: WheelPlan, stage: Stage) -> bool:
    """Whether the next thing to do is a try at seating, or to choose what to change before it."""
    first = next(iter(plan.steps), None)
    if first is None or first.stage != stage:
        return False
    return first.pressure_step or (_stuck(plan) and any(step.pressure_step for step in plan.steps))


def _stages_left(plan: WheelPlan) -> set[str]:
    """Stages in which something remains; a leak test ends only with a reading, the last stage with
    a signature.
    """
    left: set[str] = {step.stage for step in plan.steps}
    if plan.log.signed is not None:
        left.discard("set")
    else:
        left.add("set")
    if "hold" in plan.stages and "hold" not in plan.log.whole:
        left.add("hold")
    return left


def _seat_stage(plan: WheelPlan) -> Stage:
    return next((step.stage for step in reversed(plan.behind) if step.pressure_step), "seat")


def _state(plan: WheelPlan, stage: Stage, stopped: bool, seats_next: bool, begun: bool) -> State:
    if plan.log.signed is not None and stage == "set":
        return "finished"
    if stopped:
        return "stopped"
    if stage in plan.log.failed or plan.log.seating.over_limit:
        return "problem"
    if (seats_next and _stuck(plan)) or plan.log.state.wanted:
        return "problem"
    return "working" if begun else "to_do"


def _seating(plan: WheelPlan) -> SeatingProgress:
    seating, ladder = plan.log.seating, plan.pressure.seating_kpa
    steps = (
        step.pressure_kpa for step in plan.steps if step.pressure_step and step.code != "line.look"
    )
    step_kpa = next(steps, ladder[0])
    return SeatingProgress(
        step_kpa,
        1 + sum(kpa < step_kpa for kpa in ladder),
        seating.low_left,
        seating.low_right,
        seating.over_limit,
        seating.tries,
        seating.outcome,  # type: ignore[arg-type]
        tuple(sorted(plan.log.state.changed)),
        _stuck(plan),
    )


def _holding(wheel: Wheel, plan: WheelPlan) -> Holding:
    readings = plan.log.readings
    counted, pumped_at = _counted(readings, plan)
    report = _hold(plan, counted, pumped_at, wheel.tire.new is True)
    decides = report.decides_at_h if report is not None else None
    at = _after(counted[0][0], 60.0 * decides) if decides is not None else ""
    return Holding(readings, len(counted), report, at, plan.log.leak)


def _waiting(plan: WheelPlan) -> Waiting:
    waits = [
        step for step in plan.behind if step.key in plan.log.waiting and step.wait_minutes > 0.0
    ]
    if not waits:
        return Waiting()
    return Waiting(
        _after(plan.log.waiting_since, sum(step.wait_minutes for step in waits)), waits[-1]
    )


def _counted(readings: Sequence[Read], plan: WheelPlan) -> tuple[Sequence[Read], str]:
    """The readings that can be compared, none from before the clock was set back or the tire pumped
    up; and when that was: as logged, or as the first of them shows.
    """
    times = [moment(at) for at, _kpa, _c in readings]
    readings = readings[
        max((i for i in range(1, len(times)) if times[i] < times[i - 1]), default=0) :
    ]
    pressure = plan.pressure
    start = counted_from(
        _by_hours(readings, plan.log.pumped_at),
        step_kpa=pressure.gauge_step_kpa,
        ambient_kpa=pressure.shop_ambient_kpa,
    )
    return readings[start:], readings[start][0] if start else plan.log.pumped_at


def _by_hours(readings: Sequence[Read], pumped_at: str) -> list[HoldReading]:
    """The readings by hours since the first, and since the tire was pumped up."""
    times = [moment(at) for at, _kpa, _c in readings]
    pumped = moment(pumped_at) if pumped_at else None

    def hours(since: datetime, time: datetime) -> float:
        return (time - since).total_seconds() / 3600.0

    return [
        HoldReading(
            hours(times[0], time),
            kpa,
            c,
            max(0.0, hours(pumped, time)) if pumped is not None else math.inf,
        )
        for time, (_at, kpa, c) in zip(times, readings, strict=True)
    ]


def _hold(
    plan: WheelPlan, readings: Sequence[Read], pumped_at: str, new_tire: bool
) -> HoldReport | None:
    try:
        return hold_report(
            _by_hours(readings, pumped_at),
            max(1.0, plan.tire.air_volume_ml),
            step_kpa=plan.pressure.gauge_step_kpa,
            ambient_kpa=plan.pressure.shop_ambient_kpa,
            new_tire=new_tire,
        )
    except ValueError:  # fewer than two moments, or nothing left in it
        return None


def _low_stops(plan: WheelPlan, done: frozenset[str]) -> tuple[Stop, ...]:
    """A wheel below the tire's printed minimum after the leak test does not go on."""
    minimum, log = plan.pressure.minimum_kpa, plan.log
    if "hold" not in done or minimum is None or not log.readings or log.signed is not None:
        return ()
    last = log.readings[-1][1]
    if last >= minimum:
        return ()
    return (
        Stop(
            "below_minimum",
            Message(
                "Below the tire's min pressure of {minimum_kpa} after the leak test: {pressure_kpa}. Pump up and read again.",
                {"pressure_kpa": last, "minimum_kpa": minimum},
            ),
            "hold",
            bounds=Bounds(minimum),
            clears="reading",
        ),
    )


def _open_steps(plan: WheelPlan, stage: Stage) -> list[Action]:
    """The steps of a stage that are to be done before something else is."""
    if stage in NOT_WALKED:
        return []
    result = []
    for step in plan.steps:
        if step.stage != stage or step.pressure_step:
            break
        result.append(step)
    return result


#: Lying flat on one side is followed by the other: both are confirmed at once where the wait is
#: short.
_SHORT_WAIT = frozenset({"hold.flat_left"})


def _together(plan: WheelPlan, step: Action | None) -> tuple[Action, ...]:
    result: list[Action] = []
    if step is None or step.question:
        return ()
    for item in plan.steps:
        if (
            item.question
            or item.pressure_step
            or item.code == "hold.read"
            or item.stage in NOT_WALKED
        ):
            break
        result.append(item)
        short = item.code in _SHORT_WAIT and not plan.setup.weeping
        if item.asks or (item.wait_minutes > 0.0 and not short):
            break
    return tuple(result)


def _after(at: str, minutes: float) -> str:
    return after(moment(at), timedelta(minutes=minutes)).isoformat(timespec="seconds")


def _action(
    plan: WheelPlan,
    stage: Stage,
    state: State,
    seats_next: bool,
    seating: SeatingProgress,
    stops: tuple[Stop, ...],
) -> Message:
    if state == "finished" and plan.log.signed is not None:
        return Message(
            "Handed over at {pressure_kpa}", {"pressure_kpa": plan.log.signed.pressure_kpa}
        )
    if stops:
        return stops[0].message
    if seats_next:
        return _seat_action(seating)
    if stage not in _STAGE_ACTIONS:
        return Message("Every step of this stage is done: go on")
    return _STAGE_ACTIONS[stage](plan, state)


def _seat_action(seating: SeatingProgress) -> Message:
    if seating.over_limit:
        return Message("Went above the limit. Let the air out, inspect tape, rim and casing")
    if seating.outcome == "falls_off" and seating.stuck:
        return Message("The beads fall off their seats without air: add a layer of tape")
    if seating.outcome == "hisses" and seating.stuck:
        return Message("Air goes under the tape: let it out and tape the rim again")
    if not seating.stuck or not seating.tries:
        return Message("Pump to {step_kpa}. Stop. Check both sides", {"step_kpa": seating.step_kpa})
    if seating.outcome == "no_pressure":
        return Message("No pressure builds. Change something, then pump again")
    reached = {"pressure_kpa": seating.tries[-1].peak_kpa}
    if seating.outcome == "one_low":
        return Message(
            "A spot is still low at {pressure_kpa}. Change something, then pump again", reached
        )
    return Message("Not seated at {pressure_kpa}. Change something, then pump again", reached)


def _hold_action(plan: WheelPlan, state: State) -> Message:
    if state == "problem":
        return Message(
            "Lost air: soapy water on valve, nipples, beads and side walls. Where does it bubble?"
        )
    return Message(
        "Read the gauge: has it held {settle_kpa}?", {"settle_kpa": plan.pressure.settle_kpa}
    )


_STAGE_ACTIONS: dict[str, Callable[[WheelPlan, State], Message]] = {
    "check_in": lambda plan, state: Message("Fill in what you know, then start"),
    "hold": _hold_action,
    "set": lambda plan, state: Message(
        "Set {set_here_kpa} here", {"set_here_kpa": plan.pressure.set_here_kpa}
    ),
}
