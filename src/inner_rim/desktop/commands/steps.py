"""Commands at the selected wheel: steps, questions, stops, waiting, handing over."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Literal, get_args

import msgspec

from inner_rim.core.models.air import at_ride_kpa
from inner_rim.core.plan.wheel_plan import dose_due_ml
from inner_rim.core.procedure.achieve import may_go_before
from inner_rim.core.procedure.actions import Asks
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import LAYER
from inner_rim.core.record.log import Outcome as Seen
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.desktop.commands.command import MAIN, Complaint, Context, Outcome
from inner_rim.words import tr, with_mark
from inner_rim.work.text.panel import not_this_pool
from inner_rim.work.text.questions import LowSpots

#: A valve this near the planned length is that one, rounded.
SAME_VALVE_MM = 0.6
#: A dose below this share of the planned one, or as far above it, is questioned once.
FAR_SHARE = 0.5


def correct_first() -> Complaint:
    return Complaint(tr("Correct the marked field first."))


def _weigh(context: Context, when: Literal["before", "after"]) -> None:
    """Log the weight where one is typed."""
    mass = context.read("weight")
    if mass is not None:
        context.bench.recorder.weigh(mass, when)


def finish_stage(context: Context) -> Outcome:
    """End the stage: check-in, with the weight where one is typed."""
    state = context.planned
    if not state.current:
        raise correct_first()
    if state.stage == "check_in":
        _weigh(context, "before")
    context.bench.recorder.finish_stage(state.stage)
    return MAIN


def choose_work(context: Context, kind: str) -> Outcome:
    """Log what a returning wheel comes in for, with the pressure that the rider kept and how it
    went.
    """
    bench, kept, went = context.bench, context.read("kept"), context.read("went")
    with bench.history.grouped():
        if kept is not None:
            bench.editor.type_into("previous_pressure_kpa", context.typed["kept"].strip())
            bench.editor.type_into("work.kept_said", "yes")
        bench.editor.type_into("work.kind", kind)
        if went:
            bench.recorder.note(went)
    return MAIN


def renew(context: Context, path: str) -> Outcome:
    """Make what is overdue part of the work."""
    context.bench.editor.type_into(path, "yes")
    return MAIN


def promise(context: Context) -> Outcome | None:
    """Promise the time that can be kept: it becomes the job's due time and goes into the log."""
    context.bench.day.promise()
    return MAIN


def finish_whole_stage(context: Context) -> Outcome:
    """Tick off the plain steps up to the next question, try or wait, with the amount that the last
    asks for; a leak test ends here.
    """
    progress = context.planned.progress
    if not progress.together or progress.holding.readings:
        return finish_stage(context)
    return _finished(context, progress.asked, context.bench.recorder.finish_steps)


def finish_step(context: Context) -> Outcome | None:
    """Tick the step off, with the dose or the dipstick reading that it asks for."""
    step = context.planned.progress.step
    if step is None:
        return None
    return _finished(context, (step.asks,) if step.asks else (), context.bench.recorder.finish_step)


def finish_one(context: Context) -> Outcome:
    """Tick one step of the list off by its number, where the others stay."""
    state, place = context.planned, (int(context.value) - 1) % 10
    steps = state.progress.together
    if place >= len(steps):
        raise Complaint(tr("The steps are 1 to {n}.").format(n=len(steps)))
    step, plan = steps[place], state.plan
    if not may_go_before(plan.log.state, plan.setup, step, steps[:place]):
        raise Complaint(tr("First: {step}").format(step=context.now.steps[0].words))
    finish = partial(context.bench.recorder.finish_step, key=step.key)
    return _finished(context, (step.asks,) if step.asks else (), finish)


def point(context: Context, by: int) -> Outcome:
    """Point to the next or the last step of the list: the picture follows."""
    last = len(context.now.steps) - 1
    return context.look(pointed=min(max(context.looking.pointed + by, 0), last))


def point_at(context: Context) -> Outcome:
    """Point to a step with the mouse; what was said of the last answer stays in view."""
    looking = context.looking
    return context.look(pointed=int(context.value), fault=looking.fault, sure=looking.sure)


def _finished(
    context: Context, asked: Sequence[Asks], finish: Callable[[float | None, str | None], None]
) -> Outcome:
    """Tick steps off with what is written down with them: all of it is read before any is taken."""
    said = {one: context.read(one) for one in asked if one}
    dose, kind = said.get("dose"), context.read("kind") if "dose" in said else None
    if dose is not None:
        _question_dose(context, dose)
    plan, editor = context.planned.plan, context.bench.editor
    with context.bench.history.grouped():
        if said.get("dip") is not None:
            _take_dip(context)
        if "layers" in said and said["layers"] != plan.tape.layers:
            editor.type_into("practice.layers", str(said["layers"]))
        length, planned = said.get("valve"), plan.valve.length_mm
        if length is not None and (planned is None or abs(length - planned) >= SAME_VALVE_MM):
            editor.type_into("work.valve_mm", context.typed["valve"].strip())
        finish(dose, kind)
    return MAIN


def _question_dose(context: Context, dose: float) -> None:
    """A slip of the finger, or intended: the same answer again logs it."""
    planned, units = dose_due_ml(context.planned.plan), context.bench.units
    typed = context.typed["dose"]
    if planned is None:
        return
    if FAR_SHARE * planned <= dose <= planned / FAR_SHARE or context.looking.sure == typed:
        return
    words = tr("{typed} is far from the {planned} planned. The same answer again logs it.")
    fault = Complaint(
        words.format(typed=show(dose, "ml", units), planned=show(planned, "ml", units)), "main"
    )
    fault.outcome = Outcome({**fault.outcome.look, "sure": typed}, "main")
    raise fault


def top_up(context: Context) -> Outcome:
    context.bench.recorder.top_up(context.read("added"), context.read("kind"))
    return context.ask(None)


def _take_dip(context: Context) -> None:
    try:
        context.bench.recorder.dip(context.read("dip"))
    except ValueError:  # it cannot calibrate this tire
        raise Complaint(not_this_pool(context.typed["dip"]).sentence, "dip") from None


def log_dip(context: Context) -> Outcome:
    """Log a dipstick reading of a wheel that was handed over: it moves the date of its sealant."""
    if context.read("dip") is None:
        return Outcome(focus="dip")
    _take_dip(context)
    return MAIN


def end_wait(context: Context) -> Outcome:
    """Go on before a wait is over; the log says so."""
    context.bench.recorder.end_wait()
    return MAIN


def back(context: Context) -> Outcome:
    context.bench.recorder.back()
    return MAIN


def tape_again(context: Context) -> Outcome:
    """Start over with the tape: what was used stays used."""
    context.bench.recorder.again("tape")
    return MAIN


def one_more_layer(context: Context) -> Outcome:
    context.bench.recorder.again("tape", LAYER)
    return MAIN


def answer(context: Context, sound: bool) -> Outcome:
    context.bench.recorder.answer(sound)
    return MAIN


def weeps(context: Context) -> Outcome:
    """Air comes out through the side walls alone: sealant is what they need."""
    context.bench.recorder.found_leak("weeps")
    return MAIN


def fixed(context: Context) -> Outcome:
    context.bench.recorder.fixed(context.planned.progress.open_stops[0].code)
    return MAIN


def override(context: Context) -> Outcome:
    """Pass a stop, with a reason and a name."""
    reason, by = context.read("reason"), context.read("by")
    context.bench.recorder.override(context.planned.progress.open_stops[0].code, by, reason)
    return MAIN


def read_gauge(context: Context) -> Outcome:
    """Log a reading of the wheel under test, with the air's temperature where one is typed."""
    kpa = context.read("reading")
    words = tr(
        "{typed} is above the limit of {limit}: let air out, look the wheel over, then read again."
    )
    _not_above_limit(context, kpa, words)
    context.bench.recorder.read_gauge(kpa, context.read("air"))
    return MAIN


def _not_above_limit(context: Context, kpa: float, words: str) -> None:
    limit_kpa = context.planned.plan.pressure.limit_kpa
    if kpa > limit_kpa:
        typed, limit = _told_apart(kpa, limit_kpa, context.bench.units)
        raise Complaint(words.format(typed=typed, limit=limit))


def _told_apart(kpa: float, limit_kpa: float, units: UnitChoice) -> tuple[str, str]:
    """Both pressures as text; in kPa where they would look alike in the shop's unit."""
    said, limit = show(kpa, "kpa", units), show(limit_kpa, "kpa", units)
    return (
        (said, limit)
        if said != limit
        else (with_mark(f"{kpa:.2f} kPa"), with_mark(f"{limit_kpa:.2f} kPa"))
    )


def _not_above_on_the_ride(context: Context, kpa: float) -> None:
    """A pressure must not pass the limit where it is ridden."""
    plan, units = context.planned.plan, context.bench.units
    ride_kpa, limit_kpa = at_ride_kpa(kpa, plan.rider, plan.methods), plan.pressure.limit_kpa
    if ride_kpa > limit_kpa + 0.05:
        ride, limit = _told_apart(ride_kpa, limit_kpa, units)
        words = tr(
            "{typed} here is {ride} on the ride, above the limit of {limit}: let air out, then hand over."
        )
        raise Complaint(words.format(typed=show(kpa, "kpa", units), ride=ride, limit=limit))


def hold_again(context: Context) -> Outcome:
    """The leak is fixed: the leak test begins again."""
    context.bench.recorder.reopen_stage("hold")
    return Outcome()


def hand_over(context: Context) -> Outcome:
    """Hand the wheel over at a pressure, with a signature, and the weight where one is typed."""
    kpa = context.read("handed")
    _not_above_limit(
        context, kpa, tr("{typed} is above the limit of {limit}: let air out, then hand over.")
    )
    _not_above_on_the_ride(context, kpa)
    by = context.read("signed")
    if not context.planned.current:
        raise correct_first()
    _weigh(context, "after")
    context.bench.settings.set_own(signed_by=by)
    context.bench.recorder.hand_over(by, kpa)
    return MAIN


def new_visit(context: Context) -> Outcome:
    """A wheel that was handed over is back: begin a new job on it."""
    context.bench.visits.begin()
    return MAIN


def archive(context: Context) -> Outcome:
    """Take a finished wheel's job off the bench; it stays in the data."""
    context.bench.archive()
    return Outcome()


#: Sectors of a side, counted from the valve.
SECTORS = range(1, 9)
REMEDIES: tuple[Remedy, ...] = get_args(Remedy)


def _attempt(context: Context, seen: Seen) -> Outcome:
    context.bench.recorder.attempt(seen, context.read("pressure"))
    return MAIN


def both_up(context: Context) -> Outcome:
    return _attempt(context, "both_up")


def did_not(context: Context) -> Outcome:
    """The beads did not seat, or the wheel lost air during the leak test."""
    if context.planned.stage == "hold":
        context.bench.recorder.lost_air()
        return Outcome()
    return _attempt(context, "not_up")


def no_pressure_builds(context: Context) -> Outcome:
    """Air escapes faster than it comes in."""
    return _attempt(context, "no_pressure")


def falls_off(context: Context) -> Outcome:
    """Even at pressure, but off the seat once the air is out."""
    return _attempt(context, "falls_off")


def hisses(context: Context) -> Outcome:
    """Air comes out at spoke holes or nipples."""
    return _attempt(context, "hisses")


def one_low(context: Context) -> Outcome:
    return _mark(context, LowSpots(kpa=context.read("pressure")))


def _mark(context: Context, low: LowSpots) -> Outcome:
    return context.look("main", question=low, picture=None, drawer="", why=None)


def turn_to(context: Context, side: str) -> Outcome | None:
    low = context.looking.low
    return (
        context.look(question=msgspec.structs.replace(low, side=side)) if low is not None else None
    )


def mark(context: Context) -> Outcome | None:
    low = context.looking.low
    if low is None:
        return None
    if context.digit is None or context.digit not in SECTORS:
        raise Complaint(tr("The sectors are 1 to 8, counted from the valve."))
    return context.look(question=low.toggled(low.side, context.digit))


def hit_sector(context: Context) -> Outcome | None:
    """Toggle the sector that was clicked, given as (side, number), where a bead may be marked low
    now.
    """
    side, number = context.value
    low = context.looking.low
    if low is None:
        if not context.offers("one_low"):
            return None
        low = LowSpots(side, kpa=context.read("pressure"))
    return context.look(question=low.toggled(side, number))


def log_low(context: Context) -> Outcome | None:
    low = context.looking.low
    if low is None:
        return None
    if not low.left and not low.right:
        raise Complaint(tr("Mark at least one sector, or cancel."))
    context.bench.recorder.attempt(
        "one_low", low.kpa, tuple(sorted(low.left)), tuple(sorted(low.right))
    )
    return context.ask(None)


def change(context: Context, remedy: Remedy) -> Outcome:
    context.bench.recorder.change(remedy)
    return MAIN


def inspected(context: Context) -> Outcome:
    context.bench.recorder.inspect_after_over_limit()
    return Outcome()


def type_figure(context: Context) -> Outcome:
    """Put the cursor into the first entry."""
    return Outcome(focus=context.now.asks[0].name)
