"""Commands at the selected wheel: steps, questions, stops, waiting, handing over."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from inner_rim.core.models.air import at_ride_kpa
from inner_rim.core.plan.wheel_plan import WheelPlan, dose_due_ml
from inner_rim.core.procedure.actions import Asks
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.log import (
    LAYER,
    LEAST_G,
    LONGEST_NAME,
    MOST_DIP_MM,
    MOST_DOSE_ML,
    MOST_G,
    MOST_KPA,
    MOST_WORDS,
)
from inner_rim.core.record.numbers import whole
from inner_rim.core.record.units import TRADE, UnitChoice, parse, show
from inner_rim.desktop.commands.command import MAIN, Context, Outcome
from inner_rim.words import tr, with_mark
from inner_rim.work.text.stage_fields import WORK_WORDS

LEAST_DOSE_ML = 0.1
Entry = Literal["figure", "reason"]
ENTRIES: tuple[Entry, ...] = ("figure", "reason")
#: A field and what is typed into it.
Edit = tuple[str, str]
#: Possible layers of tape and lengths of valves; a length this near the planned one is that one, rounded.
MOST_LAYERS, VALVE_MM, SAME_VALVE_MM = 6, (5.0, 150.0), 0.6
#: A dose below this share of the planned one, or as far above it, is questioned once.
FAR_SHARE = 0.5
#: Coldest and hottest air around a wheel.
LEAST_C, MOST_C = -40.0, 60.0


def _figure(text: str, kind: str, low: float, high: float, context: Context) -> float | None:
    """Return what was typed in canonical units, None where it is not a figure within the bounds."""
    try:
        value = parse(text.strip(), kind, context.bench.units)
    except InputError:
        return None
    return value if low <= value <= high else None


def pressure_typed(context: Context) -> float | None:
    """Return the pressure in the panel's entry in kPa, None where it is none."""
    return _figure(context.typed.figure, "kpa", 0.0, MOST_KPA, context)


def no_pressure(context: Context) -> Outcome:
    return context.complain(tr("Type a pressure, such as 2.3, 33 psi or 2,3 bar"), "figure")


def correct_first(context: Context) -> Outcome:
    return context.complain(tr("Correct the marked field first."))


def _weigh(context: Context, when: Literal["before", "after"]) -> Outcome | None:
    """Log the weight where one is typed; return the complaint where it cannot be one."""
    text = context.typed.reason
    if not text.strip():
        return None
    mass = _figure(text, "g", LEAST_G, MOST_G, context)
    if mass is None:
        return context.complain(
            tr("“{typed}” cannot be a wheel's weight; type it in grams, or leave it empty").format(
                typed=text.strip()[:20]
            ),
            "reason",
        )
    context.bench.recorder.weigh(mass, when)
    return None


def finish_stage(context: Context) -> Outcome | None:
    """End the stage: check-in, with the weight where one is typed."""
    state = context.state
    if state is None or state.progress is None:
        return None
    if not state.current:
        return correct_first(context)
    if state.progress.stage == "check_in":
        fault = _weigh(context, "before")
        if fault is not None:
            return fault
    context.bench.recorder.finish_stage(state.progress.stage)
    return Outcome(focus="main", clear=("reason",))


def choose_work(context: Context, kind: str) -> Outcome:
    """Log what a returning wheel comes in for, with the pressure that the rider kept and how it went."""
    bench, kept, went = context.bench, context.typed.figure.strip(), context.typed.reason.strip()
    if kept and _figure(kept, "kpa", 0.0, MOST_KPA, context) is None:
        return no_pressure(context)
    with bench.history.grouped():
        if kept:
            bench.editor.type_into("previous_pressure_kpa", kept)
            bench.editor.type_into("work.kept_said", "yes")
        bench.editor.type_into("work.kind", kind)
        if went:
            bench.recorder.note(went[:MOST_WORDS])
    return Outcome(focus="main", clear=("figure", "reason"))


def work_by_number(context: Context) -> Outcome | None:
    kinds, number = list(WORK_WORDS), context.digit or 0
    return choose_work(context, kinds[number - 1]) if 1 <= number <= len(kinds) else None


def promise(context: Context) -> Outcome | None:
    """Promise the time that can be kept: it becomes the job's due time and goes into the log."""
    context.bench.day.promise()
    return MAIN


def finish_whole_stage(context: Context) -> Outcome | None:
    """Tick off the plain steps up to the next question, try or wait, with the amount that the last asks for; a leak test
    ends here.
    """
    state = context.state
    if state is None or state.progress is None:
        return None
    together = state.progress.together
    if not together or state.progress.holding.readings:
        return finish_stage(context)
    return _finished(context, state.progress.asked, context.bench.recorder.finish_steps)


def finish_step(context: Context) -> Outcome | None:
    """Tick the step off, with the dose or the dipstick reading that it asks for."""
    state = context.state
    if state is None or state.progress is None or state.progress.step is None:
        return None
    asks = state.progress.step.asks
    return _finished(context, (asks,) if asks else (), context.bench.recorder.finish_step)


def _finished(context: Context, asked: Sequence[Asks], finish: Callable[[float | None, str | None], None]) -> Outcome:
    """Tick steps off with what is written down with them, in the order of the entries."""
    dose, kind = None, None
    if "dose" in asked:
        said = _dose_typed(context)
        if isinstance(said, Outcome):
            return said
        dose, kind = said
        planned = dose_due_ml(context.state.plan) if context.state is not None and context.state.plan else dose
        far = not FAR_SHARE * planned <= dose <= planned / FAR_SHARE
        if far and context.looking.sure != context.typed.figure:  # a slip of the finger, or intended
            units = context.bench.units
            words = tr("{typed} is far from the {planned} planned. The same answer again logs it.").format(
                typed=show(dose, "ml", units), planned=show(planned, "ml", units)
            )
            return Outcome({"fault": words, "sure": context.typed.figure}, "main")
    edits: list[Edit] = []
    for asks, entry in zip(asked, ENTRIES, strict=False):  # all are looked at before any is taken
        read = _READ[asks](context, entry) if asks in _READ else None
        if isinstance(read, Outcome):
            return read
        edits += [read] if read is not None else []
    with context.bench.history.grouped():
        if asked == ("dip",) and (fault := _take_dip(context)) is not None:
            return fault
        for path, text in edits:
            context.bench.editor.type_into(path, text)
        finish(dose, kind)
    return Outcome(focus="main", clear=("reason",) if asked else ())


def _dose_typed(context: Context) -> tuple[float, str] | Outcome:
    """Return the amount and the kind that were typed, or the complaint where they cannot be."""
    dose = _figure(context.typed.figure, "ml", LEAST_DOSE_ML, MOST_DOSE_ML, context)
    if dose is None:
        return context.complain(
            tr("“{typed}” cannot be a dose; type how much went in, such as 60").format(
                typed=context.typed.figure.strip()[:20]
            ),
            "figure",
        )
    kind = context.typed.reason.strip()
    return _long_name(context, kind) if len(kind) > LONGEST_NAME else (dose, kind)


def top_up(context: Context) -> Outcome:
    """Log sealant that was added to what is in the tire."""
    said = _dose_typed(context)
    if isinstance(said, Outcome):
        return said
    context.bench.recorder.top_up(*said)
    return context.look("main", asking="")


def _read_layers(context: Context, entry: Entry) -> Edit | Outcome | None:
    """Return the layers of tape that go on as this wheel's own; nothing where they are the planned ones."""
    typed = getattr(context.typed, entry).strip()
    layers, plan = whole(typed, 1, MOST_LAYERS), context.state.plan if context.state is not None else None
    if layers is None:
        words = tr("“{typed}” cannot be layers of tape; type 1 to {most}")
        return context.complain(words.format(typed=typed[:20], most=MOST_LAYERS), entry)
    planned = plan.tape.layers if plan is not None else 0
    return ("practice.layers", str(layers)) if layers != planned else None


def _read_valve(context: Context, entry: Entry) -> Edit | Outcome | None:
    """Return the valve that was fitted; nothing where it is the planned one, or nothing is typed."""
    typed = getattr(context.typed, entry).strip()
    length, plan = _figure(typed, TRADE, *VALVE_MM, context), context.state.plan if context.state else None
    if typed and length is None:
        words = tr("“{typed}” cannot be a valve's length; type it in mm, such as 44")
        return context.complain(words.format(typed=typed[:20]), entry)
    planned = plan.valve.length_mm if plan is not None else None
    if length is None or (planned is not None and abs(length - planned) < SAME_VALVE_MM):
        return None
    return "work.valve_mm", typed


def _take_dip(context: Context) -> Outcome | None:
    """Log the depth that was typed; nothing typed is no dip. Return the complaint where it cannot be one."""
    text = context.typed.figure
    if not text.strip():
        return None
    depth = _figure(text, "mm", 0.0, MOST_DIP_MM, context)
    if depth is not None:
        try:
            context.bench.recorder.dip(depth)
            return None
        except ValueError:  # it cannot calibrate this tire
            pass
    return context.complain(
        tr("“{typed}” cannot be this pool's depth; type the depth in mm, or leave it empty").format(
            typed=text.strip()[:20]
        ),
        "figure",
    )


#: What a step asks for that becomes a field of the wheel.
_READ: dict[str, Callable[[Context, Entry], Edit | Outcome | None]] = {"layers": _read_layers, "valve": _read_valve}


def log_dip(context: Context) -> Outcome:
    """Log a dipstick reading of a wheel that was handed over: it moves the date of its sealant."""
    if not context.typed.figure.strip():
        return Outcome(focus="figure")
    return _take_dip(context) or Outcome(focus="main", clear=("figure",))


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


def fixed(context: Context) -> Outcome | None:
    state = context.state
    if state is None or state.progress is None or not state.progress.open_stops:
        return None
    context.bench.recorder.fixed(state.progress.open_stops[0].code)
    return MAIN


def _long_name(context: Context, name: str) -> Outcome:
    return context.complain(
        tr("The name has {n} characters: at most {most}.").format(n=len(name), most=LONGEST_NAME), "signature"
    )


def override(context: Context) -> Outcome | None:
    """Pass a stop, with a reason and a name."""
    state = context.state
    by, reason = context.typed.signature.strip(), context.typed.reason.strip()
    if state is None or state.progress is None or not state.progress.open_stops:
        return None
    if not by or not reason:
        return context.complain(tr("To override, enter a reason and your name."), "signature" if reason else "reason")
    if len(reason) > MOST_WORDS:
        return context.complain(
            tr("The reason has {n} characters: at most {most}.").format(n=len(reason), most=MOST_WORDS), "reason"
        )
    if len(by) > LONGEST_NAME:
        return _long_name(context, by)
    context.bench.recorder.override(state.progress.open_stops[0].code, by, reason)
    return Outcome(focus="main", clear=("reason",))


def read_gauge(context: Context) -> Outcome:
    """Log a reading of the wheel under test, with the air's temperature where one is typed."""
    kpa = pressure_typed(context)
    if kpa is None:
        return no_pressure(context)
    words = tr("{typed} is above the limit of {limit}: let air out, look the wheel over, then read again.")
    fault = _above_limit(context, kpa, words)
    if fault is not None:
        return fault
    temperature = None
    if context.typed.reason.strip():
        temperature = _figure(context.typed.reason, "c", LEAST_C, MOST_C, context)
        if temperature is None:
            return context.complain(tr("Type the air temperature, such as 18 or 64 f, or leave it empty"), "reason")
    context.bench.recorder.read_gauge(kpa, temperature)
    return MAIN


def _above_limit(context: Context, kpa: float, words: str) -> Outcome | None:
    """Return the complaint about a pressure above the limit, None where it is not."""
    plan, units = context.state.plan if context.state is not None else None, context.bench.units
    if plan is None or kpa <= plan.pressure.limit_kpa:
        return None
    typed, limit = _told_apart(kpa, plan.pressure.limit_kpa, units)
    return context.complain(words.format(typed=typed, limit=limit))


def _told_apart(kpa: float, limit_kpa: float, units: UnitChoice) -> tuple[str, str]:
    """Both pressures as text; in kPa where they would look alike in the shop's unit."""
    said, limit = show(kpa, "kpa", units), show(limit_kpa, "kpa", units)
    return (said, limit) if said != limit else (with_mark(f"{kpa:.2f} kPa"), with_mark(f"{limit_kpa:.2f} kPa"))


def _above_on_the_ride(context: Context, plan: WheelPlan, kpa: float) -> Outcome | None:
    """Return the complaint about a pressure that passes the limit where it is ridden, None where it does not."""
    ride_kpa, limit_kpa, units = (
        at_ride_kpa(kpa, plan.rider, plan.methods),
        plan.pressure.limit_kpa,
        context.bench.units,
    )
    if ride_kpa <= limit_kpa + 0.05:
        return None
    ride, limit = _told_apart(ride_kpa, limit_kpa, units)
    words = tr("{typed} here is {ride} on the ride, above the limit of {limit}: let air out, then hand over.")
    return context.complain(words.format(typed=show(kpa, "kpa", units), ride=ride, limit=limit))


def hold_again(context: Context) -> Outcome:
    """The leak is fixed: the leak test begins again."""
    context.bench.recorder.reopen_stage("hold")
    return Outcome()


def hand_over(context: Context) -> Outcome | None:
    """Hand the wheel over at a pressure, with a signature, and the weight where one is typed."""
    state, by, kpa = context.state, context.typed.signature.strip(), pressure_typed(context)
    if kpa is None:
        return no_pressure(context)
    if state is None or state.plan is None:
        return None
    words = tr("{typed} is above the limit of {limit}: let air out, then hand over.")
    fault = _above_limit(context, kpa, words) or _above_on_the_ride(context, state.plan, kpa)
    if fault is not None:
        return fault
    if not by:
        return context.complain(tr("Who signs? Type your name."), "signature")
    if len(by) > LONGEST_NAME:
        return _long_name(context, by)
    if not state.current:
        return correct_first(context)
    fault = _weigh(context, "after")
    if fault is not None:
        return fault
    context.bench.settings.set_own(signed_by=by)
    context.bench.recorder.hand_over(by, kpa)
    return Outcome(focus="main", clear=("reason",))


def new_visit(context: Context) -> Outcome:
    """A wheel that was handed over is back: begin a new job on it."""
    context.bench.visits.begin()
    return MAIN


def archive(context: Context) -> Outcome:
    """Take a finished wheel's job off the bench; it stays in the data."""
    context.bench.archive()
    return Outcome()
