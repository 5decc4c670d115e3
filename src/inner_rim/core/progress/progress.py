"""Where a wheel stands: its stage and next action, derived from plan and log, never stored."""

from collections.abc import Callable, Iterable, Mapping
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
from inner_rim.core.progress.story import NOT_WALKED, Read, SeatingStory, Story, is_done, tell
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.log import Attempt, Logged, SignOff
from inner_rim.core.record.moments import after, moment
from inner_rim.core.record.stages import Stage
from inner_rim.core.record.why import Message

State = Literal["to_do", "working", "problem", "stopped", "finished"]

STATE_WORDS: dict[State, str] = {
    "to_do": "to do",
    "working": "in progress",
    "problem": "problem",
    "stopped": "stopped",
    "finished": "handed over",
}


class Seating(msgspec.Struct, frozen=True):
    """How the climb goes.

    Attributes:
        step_kpa: the pressure to climb to next.
        step_number: its place in the ladder, from 1.
        low_left, low_right: sectors that stay low since the last look.
        over_limit: the wheel saw more than its limit and was not inspected since.
        tries: the attempts since the stage began.
    """

    step_kpa: float
    step_number: int
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    over_limit: bool = False
    tries: tuple[Attempt, ...] = ()


class Holding(msgspec.Struct, frozen=True):
    """What the readings of a standing wheel say.

    Attributes:
        readings: since the wheel stands: (ISO 8601, kPa, °C).
        report: what they say, None before the second.
        next_reading_at: ISO 8601, when the next reading will decide; empty where it has or nothing is known.
        leak: where air was seen to come out last.
    """

    readings: tuple[Read, ...] = ()
    report: HoldReport | None = None
    next_reading_at: str = ""
    leak: str = ""


class Waiting(msgspec.Struct, frozen=True):
    """What is waited for.

    Attributes:
        until: ISO 8601, empty for no wait.
        after: the step after which the wait is.
    """

    until: str = ""
    after: Action | None = None


class Progress(msgspec.Struct, frozen=True):
    """Where a wheel stands.

    Attributes:
        stage: the stage that is being worked on; "set" once finished.
        done: stages behind it.
        state: in one word.
        action: the next thing to do, one sentence.
        open_stops: stops that nobody has overridden.
        seating: how the climb goes.
        holding: what the readings of a standing wheel say.
        waiting: what is waited for.
        question: what is asked by hand next, None where nothing is.
        handed_over_kpa: the pressure at sign-off, as set in the shop.
        ride_kpa: what it was then on the ride.
        step: the step that is to be done, None where the stage has answers of its own.
        last_step: code of the step done last in this stage, for going back; empty at its beginning.
        last_of_stage: `step` is the last that is open in its stage.
        dip_factor: calibration of the dipstick by a dip right after dosing.
        stages: the stages in the order of this wheel.
        steps_done: codes of steps that are ticked off and of questions that are answered.
        open_questions: how many questions of this stage have no answer yet.
        feedback_kpa: where the last test ride puts the pressure, None before one.
        physical: what state the wheel is in.
    """

    stage: Stage
    done: frozenset[str]
    state: State
    action: Message
    open_stops: tuple[Stop, ...]
    seating: Seating
    holding: Holding
    waiting: Waiting
    handed_over_kpa: float | None = None
    ride_kpa: float | None = None
    question: Question | None = None
    step: Action | None = None
    last_step: str = ""
    last_of_stage: bool = False
    dip_factor: float = 1.0
    stages: tuple[Stage, ...] = ()
    steps_done: frozenset[str] = frozenset()
    open_questions: int = 0
    feedback_kpa: float | None = None
    physical: Physical | None = None


def derive(
    wheel: Wheel,
    plan: WheelPlan,
    log: Iterable[Logged],
    shop: Mapping[str, tuple[int, int]] | None = None,
) -> Progress:
    """Return where the wheel stands after these entries, oldest first.

    Args:
        wheel: as it is planned.
        plan: of it.
        log: its entries.
        shop: (worked, tried) of each remedy in this shop.
    """
    entries = list(log)
    sealant = wheel.sealant
    in_ml = sealant.in_ml if sealant is not None and sealant.in_ml is not None else 0.0
    in_name = sealant.name if sealant is not None and sealant.name is not None else ""
    return _progress(
        wheel, plan, shop, tell(plan, entries), replay(plan.setup, plan.steps, entries, in_ml, in_name)
    )


def _progress(
    wheel: Wheel,
    plan: WheelPlan,
    shop: Mapping[str, tuple[int, int]] | None,
    story: Story,
    physical: Physical,
) -> Progress:
    stage: Stage = next((name for name in plan.stages if name not in story.done), "set")
    found = (*plan.stops, *finding_stops(plan.steps, story.answered), *_low_stops(plan, story))
    stops = tuple(stop for stop in found if not (stop.overridable and stop.code in story.overridden))
    state = _state(plan, story, stage, bool(stops))
    todo = _open_steps(plan, stage, story) if state in ("working", "to_do") else []
    step = todo[0] if todo else None
    seating, signed = _seating(plan, story), story.signed
    return Progress(
        stage=stage,
        done=frozenset(story.done),
        state=state,
        action=step.text if step is not None else _action(plan, stage, state, story, seating, stops, shop),
        open_stops=stops,
        seating=seating,
        holding=_holding(wheel, plan, story),
        waiting=_waiting(plan, story),
        handed_over_kpa=signed.pressure_kpa if signed is not None else None,
        ride_kpa=_ride_kpa(signed),
        question=QUESTIONS.get(step.question) if step is not None else None,
        step=step,
        last_step=_last_step(plan, stage, story),
        last_of_stage=len(todo) == 1 and (story.seating.seated or not _climbs(plan, stage)),
        dip_factor=story.dip_factor,
        stages=plan.stages,
        steps_done=frozenset(step.key for step in plan.steps if is_done(step, story)),
        open_questions=sum(1 for one in todo if one.question),
        feedback_kpa=story.feedback_kpa,
        physical=physical,
    )


def _state(plan: WheelPlan, story: Story, stage: Stage, stopped: bool) -> State:
    """How a wheel does, in one word."""
    if story.signed is not None and stage == "set":
        return "finished"
    if stopped:
        return "stopped"
    if stage in story.failed or (stage == "seat" and _seat_problem(plan, story)):
        return "problem"
    return "working" if story.done else "to_do"


def _seat_problem(plan: WheelPlan, story: Story) -> bool:
    """Whether the beads are uneven, the limit was passed, or the whole ladder did not bring them up."""
    seating = story.seating
    climbed = seating.misses > 0 and seating.misses % len(plan.pressure.seating_kpa) == 0
    return seating.one_low or seating.over_limit or seating.no_pressure or climbed


def _seating(plan: WheelPlan, story: Story) -> Seating:
    steps, seating = plan.pressure.seating_kpa, story.seating
    place = seating.misses % len(steps)
    return Seating(
        steps[place], place + 1, seating.low_left, seating.low_right, seating.over_limit, tuple(story.tries)
    )


def _holding(wheel: Wheel, plan: WheelPlan, story: Story) -> Holding:
    counted = _counted(story.readings)
    report = _hold(plan, counted, wheel.tire.new is True)
    decides = report.decides_at_h if report is not None else None
    at = _after(counted[0][0], 60.0 * decides) if decides is not None else ""
    return Holding(tuple(story.readings), report, at, story.leak)


def _waiting(plan: WheelPlan, story: Story) -> Waiting:
    after_step = next((step for step in plan.steps if step.key == story.waiting), None)
    if after_step is None:
        return Waiting()
    return Waiting(_after(story.waiting_since, after_step.wait_minutes), after_step)


def _ride_kpa(signed: SignOff | None) -> float | None:
    """What a wheel was handed over at, as it is on the ride; older entries have only what was set."""
    if signed is None:
        return None
    return signed.ride_kpa if signed.ride_kpa is not None else signed.pressure_kpa


def _climbs(plan: WheelPlan, stage: Stage) -> bool:
    return any(step.climb for step in plan.steps if step.stage == stage)


def _counted(readings: list[Read]) -> list[Read]:
    """The readings that can be compared: those before the clock was set back do not count."""
    times = [moment(at) for at, _kpa, _c in readings]
    return readings[max((i for i in range(1, len(times)) if times[i] < times[i - 1]), default=0) :]


def _hold(plan: WheelPlan, readings: list[Read], new_tire: bool) -> HoldReport | None:
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
            new_tire=new_tire,
        )
    except ValueError:  # fewer than two moments, or nothing left in it
        return None


def _low_stops(plan: WheelPlan, story: Story) -> tuple[Stop, ...]:
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


def _open_steps(plan: WheelPlan, stage: Stage, story: Story) -> list[Action]:
    """The steps of a stage that are neither done nor answered; at seating those before or after the climb."""
    if stage in NOT_WALKED:
        return []
    steps = [step for step in plan.steps if step.stage == stage]
    climb = [place for place, step in enumerate(steps) if step.climb]
    if climb:
        steps = steps[climb[-1] + 1 :] if story.seating.seated else steps[: climb[0]]
        seating = story.seating
        if seating.over_limit or seating.one_low or seating.no_pressure or seating.misses:
            steps = []
    return [step for step in steps if not is_done(step, story)]


def _last_step(plan: WheelPlan, stage: Stage, story: Story) -> str:
    """The last step of the stage that is done; questions count where they are answered."""
    behind = [step.key for step in plan.steps if step.stage == stage and is_done(step, story)]
    return behind[-1] if behind else ""


def _after(at: str, minutes: float) -> str:
    return after(moment(at), timedelta(minutes=minutes)).isoformat(timespec="seconds")


def _action(
    plan: WheelPlan,
    stage: Stage,
    state: State,
    story: Story,
    seating: Seating,
    stops: tuple[Stop, ...],
    shop: Mapping[str, tuple[int, int]] | None,
) -> Message:
    if state == "finished" and story.signed is not None:
        return Message("Handed over at {pressure_kpa}", {"pressure_kpa": story.signed.pressure_kpa})
    if stops:
        return stops[0].message
    if stage == "seat":
        return _seat_action(plan, story.seating, seating, shop)
    if stage not in _STAGE_ACTIONS:
        return Message("Every step of this stage is done: go on")
    return _STAGE_ACTIONS[stage](plan, state)


def _seat_action(
    plan: WheelPlan, story: SeatingStory, seating: Seating, shop: Mapping[str, tuple[int, int]] | None
) -> Message:
    if story.over_limit:
        return Message("Went above the limit. Let the air out, inspect tape, rim and casing")
    if seating.tries and (story.one_low or story.no_pressure or story.misses):
        last = seating.tries[-1]
        source = last.source if last.source in SOURCE_WORDS else None
        wet = last.lubricant not in ("", "none")
        best = suggestions(plan, seating.tries, source, last.core_out, wet, shop)
        if best and story.no_pressure:
            return Message("No pressure builds. {change}, then try again", {"change": best[0].text})
        if best and _seat_problem_now(plan, story):
            return Message(
                "{change}; climb to {step_kpa}", {"change": best[0].text, "step_kpa": seating.step_kpa}
            )
    return Message("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": seating.step_kpa})


def _seat_problem_now(plan: WheelPlan, story: SeatingStory) -> bool:
    return story.one_low or story.misses % len(plan.pressure.seating_kpa) == 0


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
