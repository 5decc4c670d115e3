"""What the work view shows around the step: its figure, its pictures, the stage's steps, the
stage's figures.
"""

from datetime import datetime
from typing import Literal

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan, dose_due_ml
from inner_rim.core.procedure.actions import Action
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import CUT, TRADE, UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.odds import seating_figure, step_name
from inner_rim.work.text.pick_rows import row_at
from inner_rim.work.text.questions import Picture
from inner_rim.work.text.waits import minutes_left, topped_up
from inner_rim.work.text.wheel_words import span_words

StepState = Literal["done", "now", "with", "next"]


class StepLine(msgspec.Struct, frozen=True):
    """A step of the stage in a few words; `with` is one that the same answer confirms."""

    words: str
    state: StepState


class StageFigure(msgspec.Struct, frozen=True):
    title: str
    value: str


# -- the figure that a step is about ---------------------------------------------------------------


def target_of(state: PlannedWheel | None, units: UnitChoice, now: datetime) -> str:
    """Return the figure that the step is about: a pressure, an amount, a width and a length, the
    minutes of a wait; empty for none.
    """
    if state is None:
        return ""
    plan, progress = state.plan, state.progress
    if progress.state in ("stopped", "finished"):
        return ""
    if progress.seats_next:
        return (
            ""
            if progress.seating.over_limit or progress.seating.stuck
            else show(progress.seating.step_kpa, "kpa", units)
        )
    if progress.stage == "set":
        return show(plan.pressure.set_here_kpa, "kpa", units)
    if progress.stage == "hold" and progress.holding.report is not None:
        return ""  # the verdict is the figure
    if topped_up(state) and not progress.holding.readings:
        return ""  # first a reading, then the wait
    if (left := minutes_left(progress, now)) > 0.0:
        return span_words(left)
    if progress.step is None or len(progress.together) > 1:
        return ""  # each has its own
    return step_figure(progress.step, plan, units)


def step_figure(step: Action, plan: WheelPlan, units: UnitChoice) -> str:
    """Return the figure that one step is about, empty for none."""
    code = step.code
    if step.asks == "dose":
        due = dose_due_ml(plan)
        return show(due, "ml", units) if due is not None else ""
    if code in ("tape.lay", "tape.trim") and plan.tape.width_mm is not None:
        width = show(plan.tape.trim_to_mm or plan.tape.width_mm, TRADE, units)
        length = show(plan.tape.strip_lengths_mm[0], CUT, units)
        return width if code == "tape.trim" else f"{width} × {length}"
    if code == "tape.overlay" and (over := plan.tape.overlay) is not None:
        return f"{show(over.width_mm, TRADE, units)} × {show(over.length_mm, CUT, units)}"
    if code == "valve.fit" and plan.valve.length_mm is not None and not plan.setup.keeps_valve:
        return show(plan.valve.length_mm, TRADE, units)
    return show(step.pressure_kpa, "kpa", units) if step.pressure_kpa else ""


# -- the picture that a step needs -----------------------------------------------------------------

_STAGE_PICTURES: dict[str, tuple[Picture, ...]] = {"hold": ("plot",), "set": ("plot",)}


def pictured_step(state: PlannedWheel, pointed: int = 0) -> Action | None:
    """Return the step whose act is drawn: of several that are confirmed together the one that is
    pointed to, while seating the next pressure; None where none is to be done.
    """
    progress = state.progress
    if progress.seats_next:
        if progress.seating.over_limit or progress.seating.stuck:
            return None
        tries = (step for step in state.plan.steps if step.pressure_step)
        return next((step for step in tries if step.code != "line.look"), None)
    if 0 < pointed < len(progress.together):
        return progress.together[pointed]
    return progress.step


def pictures_of(state: PlannedWheel | None, live: bool, pointed: int = 0) -> tuple[Picture, ...]:
    """Return the pictures that the step needs: its act; the live gauge for what air does, where one
    is connected; the readings of a leak test.

    Args:
        pointed: place of the step that is pointed to, where several are confirmed together.
    """
    if state is None:
        return ("section",)
    progress, step = state.progress, pictured_step(state, pointed)
    if live and (
        progress.seats_next or (step is not None and step.code.startswith(("air.", "core.")))
    ):
        return ("trace",)
    if progress.stage == "hold" and progress.holding.readings:
        return ("plot",)
    if step is not None and progress.stage != "check_in":
        return ("act",)
    if progress.seats_next:
        return ("sectors",)
    return _STAGE_PICTURES.get(progress.stage, ("section",))


#: As many done steps are listed one by one; of more, the last ones.
MOST_DONE, LAST_DONE = 5, 2

# -- the steps of the stage ------------------------------------------------------------------------


def stage_steps(state: PlannedWheel, units: UnitChoice) -> tuple[StepLine, ...]:
    """Return the steps of the stage in work, in their order: done, now, to come."""
    plan, progress = state.plan, state.progress
    if progress.seats_next:
        return _seating_lines(plan, progress, units)
    if len(progress.together) > 1:
        return ()  # they stand in the middle
    if progress.stage == "hold" and progress.holding.readings:
        return _readings(progress, units)
    together = {step.key for step in progress.together}
    lines = []
    for step in (*plan.behind, *plan.steps):
        if step.stage == progress.stage or step.key in together:
            lines.append(StepLine(step_name(step.key), _state(step, progress, together)))
    return _folded(lines)


def _folded(lines: list[StepLine]) -> tuple[StepLine, ...]:
    """A stage with much behind it: what is long done in one line."""
    done = sum(line.state == "done" for line in lines)
    if done <= MOST_DONE:
        return tuple(lines)
    before = done - LAST_DONE
    return StepLine(tr("{n} done").format(n=before), "done"), *lines[before:]


def _state(step: Action, progress: Progress, together: set[str]) -> StepState:
    if step.key in progress.steps_done:
        return "done"
    if progress.step is not None and step.key == progress.step.key:
        return "now"
    return "with" if step.key in together else "next"


def _readings(progress: Progress, units: UnitChoice) -> tuple[StepLine, ...]:
    """The readings of the leak test, beside their graph."""
    lines = []
    for at, kpa, air in progress.holding.readings:
        when = in_words(local(moment(at)), "%a %H:%M")
        words = f"{when}  {show(kpa, 'kpa', units)}"
        lines.append(
            StepLine(words if air is None else f"{words}, {show(air, 'c', units)}", "done")
        )
    return (*lines, StepLine(step_name("hold.read"), "now"))


def _seating_lines(plan: WheelPlan, progress: Progress, units: UnitChoice) -> tuple[StepLine, ...]:
    number = progress.seating.step_number
    steps = list(plan.pressure.seating_kpa)
    if number > len(steps):
        steps.append(progress.seating.step_kpa)
    states: dict[bool, StepState] = {True: "done", False: "next"}
    return tuple(
        StepLine(show(kpa, "kpa", units), "now" if place == number else states[place < number])
        for place, kpa in enumerate(steps, 1)
    )


# -- the figures of the stage ----------------------------------------------------------------------

#: The picks that matter at a stage, by their place in the plan; what the stage's picture says is
#: not said twice.
_TIRE, _TAPE, _VALVE, _INSERT, _MOUNTING, _SEALANT, _LIMIT, _SEAT, _SEALING, _RIDING = range(10)
_FIGURES: dict[str, tuple[int, ...]] = {
    "insert": (_INSERT, _MOUNTING),
    "mount": (_MOUNTING,),
    "sealant": (_SEALANT,),
    "hold": (_SEALING,),
    "set": (_RIDING, _SEALANT),
}


def stage_figures(plan: WheelPlan, stage: str, units: UnitChoice) -> tuple[StageFigure, ...]:
    """Return the two or three figures of the plan that matter at a stage."""
    seats = (StageFigure(tr("Seated"), seating_figure(plan, units)),) if stage == "seat" else ()
    picks = (row_at(place, plan, units) for place in _FIGURES.get(stage, ()))
    return (*seats, *(StageFigure(pick.title, pick.value) for pick in picks))
