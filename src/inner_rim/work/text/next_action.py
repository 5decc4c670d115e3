"""What the step panel says of a wheel's next step."""

from datetime import datetime

import msgspec

from inner_rim.core.models.inflation import SOURCE_WORDS
from inner_rim.core.models.line_verdict import TREND_WORDS, VERDICT_WORDS
from inner_rim.core.models.sealant import left_now_ml
from inner_rim.core.plan.advisor import REMEDY_WORDS
from inner_rim.core.plan.aftercare import overdue
from inner_rim.core.procedure.actions import Asks
from inner_rim.core.procedure.stops import MAKERS, Stop
from inner_rim.core.progress.diagnosis import LEAK_MEANING, LEAK_WORDS
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.job import Remedy, SeatedWith
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.paths import within_wheel
from inner_rim.core.record.spoken import STAGE_WORDS, Stage
from inner_rim.core.record.units import TRADE, show
from inner_rim.words import N_, inside_sentence, tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel
from inner_rim.work.text.odds import seating_words, step_name, suggested, suggestion_words
from inner_rim.work.text.panel import (
    BACK,
    Answer,
    Ask,
    AskName,
    GatheredStep,
    Now,
    PanelContext,
    with_state,
)
from inner_rim.work.text.stage_fields import WORK_WORDS
from inner_rim.work.text.waits import (
    clock,
    minutes_left,
    next_reading,
    promise_given,
    ready_or_why,
    topped_up,
    wait_ends,
    waits_words,
)
from inner_rim.work.text.wheel_words import state_words
from inner_rim.work.text.work_view import step_figure


def now_of(state: BenchWheel | None, around: PanelContext) -> Now:
    if state is None:
        return _lost(around.lost) if around.lost else _empty()
    if not isinstance(state, PlannedWheel):
        return _unfinished(state, around)
    progress = state.progress
    stage = progress.stage
    head = tr(STAGE_WORDS[stage])
    physical = state_words(state.plan.log, around.units)
    quiet = " · ".join(words for words in (waits_words(state.waits), physical) if words)
    action = progress.action.read(around.units)
    if progress.state == "stopped":
        return _stopped(state, around, action)
    if progress.state == "finished":
        return _handed_over(state, around, action)
    cautions = _cautions(state, around, stage)
    if progress.seats_next:
        return with_state(_seat(state, around, head, action, cautions), quiet)
    standing = progress.step is None or bool(progress.holding.readings) or _reads(state)
    if (
        not progress.holding.readings
        and minutes_left(progress, around.time) > 0.0
        and not topped_up(state)
    ):
        standing = False  # first the wait
    if stage == "hold" and (progress.state == "problem" or standing):
        return with_state(_hold(state, around, head, action, cautions), quiet)
    if stage == "set":
        return _setting(state, around, head, action, cautions)
    if stage == "check_in" and state.value("work.rode_before") and state.value("work.kind") is None:
        return _coming_back(state, around)
    if stage == "check_in":
        checking = _checking_in(state, around, head, action, cautions)
        return with_state(checking, ready_or_why(state, around.promise))
    return with_state(_stepping(state, around, head, action, cautions), quiet)


def _reads(state: PlannedWheel) -> bool:
    """Whether a reading is due: at the end of the leak test, and after each top-up."""
    step = state.progress.step
    return step is not None and (step.code == "hold.read" or topped_up(state))


def _empty() -> Now:
    words = tr("Put the first wheel on the bench")
    return Now(tr("Empty bench"), words, [], (Answer("new_wheel", tr("New wheel")),))


def _lost(name: str) -> Now:
    """The wheel in hand is gone: nothing is done at another one until the hand chooses it."""
    words = tr("{name} is off the bench: another window took it. Choose a wheel.").format(name=name)
    return Now(tr("No wheel chosen"), words, [], ())


def _handed_over(state: PlannedWheel, around: PanelContext, action: str) -> Now:
    answers = (
        Answer("print"),
        Answer("archive", tr("Off the bench")),
        Answer("new_visit", tr("New visit")),
        Answer("show_care", tr("Care…")),
        Answer("log_dip", tr("Log dip")),
        Answer("back", tr("Reopen")),
    )
    return Now(tr("Handed over"), action, [], answers, around.asks(state, "dip"))


def _setting(
    state: PlannedWheel, around: PanelContext, head: str, action: str, cautions: list[str]
) -> Now:
    """The last stage: a pressure, a name, perhaps the weight."""
    answers = (Answer("hand_over", tr("Hand over")), BACK)
    return Now(head, action, cautions, answers, around.asks(state, "handed", "weight", "signed"))


def _coming_back(state: PlannedWheel, around: PanelContext) -> Now:
    """A wheel that was here before is first asked what it comes in for: that decides everything
    else.
    """
    answers = [
        Answer(f"work_{kind}", tr(words), enter=False, number=number)
        for number, (kind, words) in enumerate(WORK_WORDS.items(), 1)
    ]
    return Now(
        tr("Check-in · back again"),
        tr("What does {name} come in for?").format(name=state.name),
        [],
        tuple(answers),
        around.asks(state, "kept", "went"),
        more=returning_summary(state, around),
    )


def returning_summary(state: PlannedWheel, around: PanelContext) -> tuple[str, ...]:
    """Return what is known of a wheel that comes back, in one glance: last handed over, leak, tape,
    sealant, plugs, notes.
    """
    units, wheel = around.units, state.wheel
    said: list[str] = []
    if wheel.previous_pressure_kpa is not None:
        said.append(tr("Last at {kpa}").format(kpa=show(wheel.previous_pressure_kpa, "kpa", units)))
    work, old = wheel.work, wheel.sealant
    if work is not None and work.leaked:
        said.append(tr("leaked {where}").format(where=inside_sentence(tr(LEAK_WORDS[work.leaked]))))
    if work is not None and work.tape_laid:
        day = in_words(datetime.fromisoformat(work.tape_laid), "%d %b %Y")
        said.append(tr("taped {day}").format(day=day))
    if work is not None and work.tape_changes:
        said.append(tr("{n} tires on this tape").format(n=work.tape_changes))
    if old is not None and old.in_ml:
        since = old.in_since or ""
        left = left_now_ml(
            old.in_ml, since, state.plan.sealant.refresh_after_days, around.time.date()
        )
        said.append(tr("about {left} of sealant left").format(left=show(left, "ml", units)))
    if wheel.arrival is not None and wheel.arrival.valve_mm:
        said.append(tr("{length} valve").format(length=show(wheel.arrival.valve_mm, TRADE, units)))
    if wheel.arrival is not None and wheel.arrival.weighed_g:
        said.append(tr("weighed {mass}").format(mass=show(wheel.arrival.weighed_g, "g", units)))
    if work is not None and work.seated_with:
        said.append(
            tr("seated with: {words}").format(words=", ".join(map(_seated_words, work.seated_with)))
        )
    if work is not None and work.insert_later:
        said.append(tr("its insert still to go in"))
    if wheel.tire.plugs:
        said.append(
            tr("1 plug") if wheel.tire.plugs == 1 else tr("{n} plugs").format(n=wheel.tire.plugs)
        )
    note = str(state.value("notes") or "")
    return (*((" · ".join(said),) if said else ()), *((note,) if note else ()))


def _seated_words(what: SeatedWith) -> str:
    words = {str(code): text for code, text in (*REMEDY_WORDS.items(), *SOURCE_WORDS.items())}
    return inside_sentence(tr(words[what]))


def _checking_in(
    state: PlannedWheel, around: PanelContext, head: str, action: str, cautions: list[str]
) -> Now:
    """The first stage: fields, perhaps the weight, and the time that can be promised where it is
    known.
    """
    past = overdue(state.wheel, state.plan, around.time.date())
    if past:  # these come first; what every wheel is told gives way
        told = [words for words in cautions if words != tr(MAKERS)]
        cautions = [*(one.words.read(around.units) for one in past), *told]
    answers = [Answer("finish", tr("Check-in done")), Answer("first_field", tr("Enter figures"))]
    answers += [Answer(f"renew_{one.what}") for one in past]
    given = promise_given(state)
    if around.promise is not None and given is None:
        answers.append(Answer("promise", tr("Promise {at}").format(at=clock(around.promise.sure))))
    elif around.promise is not None and given is not None and given < around.promise.sure:
        answers.append(
            Answer("promise", tr("Promise {at} instead").format(at=clock(around.promise.sure)))
        )
    return Now(head, action, cautions, tuple(answers), around.asks(state, "weight"))


def _stepping(
    state: PlannedWheel, around: PanelContext, head: str, action: str, cautions: list[str]
) -> Now:
    progress = state.progress
    left = minutes_left(progress, around.time)
    if left > 0.0 and progress.waiting.after is not None:
        return _waiting(progress, around)
    step = progress.step
    if step is None:
        return Now(head, action, cautions, (Answer("finish", tr("Done")), BACK))
    cautions = [caution.read(around.units) for caution in step.cautions]
    mine = [s for s in (*state.plan.behind, *state.plan.steps) if s.stage == step.stage]
    head = tr("{stage} · step {n} of {all}").format(
        stage=head, n=mine.index(step) + 1, all=len(mine)
    )
    if progress.question is not None:
        answers = [Answer("answer_yes", tr("Yes"), enter=False), Answer("answer_no", tr("No"))]
        if progress.question.code == "dry_test_leaks":
            answers.append(Answer("weeps", tr("Only the side walls weep"), number=3))
        return Now(head, action, cautions, (*answers, BACK))
    if step.code == "repair.find":
        return Now(head, action, cautions, (Answer("show_leaks", tr("Where it bubbles…")), BACK))
    more = (Answer("did_not", tr("Lost air")),) if step.stage == "hold" else ()
    behind = state.plan.behind
    asked = around.asks(state, *_with_kind(step.asks))
    if behind and behind[-1].code == "sealant.inject" and state.plan.setup.insert == "none":
        # the dose has just gone in
        more, asked = ((Answer("log_dip", tr("Dip to calibrate")),), around.asks(state, "dip"))
    several = len(progress.together) > 1
    if several and around.pace == "stage":
        return _together(state, around, more, asked)
    if several and step.stage != "hold":
        more = (Answer("stage_done", tr("Done to next question")),)
    return Now(head, action, cautions, (Answer("step_done", tr("Done")), *more, BACK), asked)


def _with_kind(*asked: Asks) -> tuple[AskName, ...]:
    """What is asked with steps; a dose with its kind."""
    names: list[AskName] = [one for one in asked if one]
    return ("dose", "kind") if names == ["dose"] else tuple(names)


def _together(
    state: PlannedWheel, around: PanelContext, more: tuple[Answer, ...], asked: tuple[Ask, ...]
) -> Now:
    """Plain steps that one answer confirms, with the amount that the last of them asks for: every
    one is said whole.
    """
    progress, units = state.progress, around.units
    steps = progress.together
    return Now(
        tr(STAGE_WORDS[steps[0].stage]),
        "",
        [],
        (Answer("stage_done", tr("All {n} done").format(n=len(steps))), *more, BACK),
        around.asks(state, *_with_kind(*progress.asked)) or asked,
        steps=tuple(
            GatheredStep(
                sentence_of(step.text.read(units)),
                step_figure(step, state.plan, units),
                tuple(caution.read(units) for caution in step.cautions),
            )
            for step in steps
        ),
    )


def sentence_of(words: str) -> str:
    """Return words that end like a sentence.

    >>> sentence_of("Let the air out"), sentence_of("How much went in?")
    ('Let the air out.', 'How much went in?')
    """
    return words if words.endswith(("?", ".", "!")) else words + "."


def _waiting(progress: Progress, around: PanelContext) -> Now:
    after = progress.waiting.after
    assert after is not None
    lost = (Answer("did_not", tr("Lost air")),) if progress.stage == "hold" else ()
    others = (Answer("what_now", tr("Next wheel"), enter=False),) if around.others else ()
    then = step_name(progress.step.key) if progress.step else progress.action.read(around.units)
    return Now(
        tr("{stage} · waiting").format(stage=tr(STAGE_WORDS[after.stage])),
        tr("Wait until {clock}").format(clock=wait_ends(progress, around.time)),
        [],
        (*others, Answer("go_on", tr("Skip the wait (logged)"), enter=False), *lost, BACK),
        more=(
            tr("After: {step}").format(step=step_name(after.key)),
            tr("Then: {step}").format(step=then),
        ),
    )


def _cautions(state: PlannedWheel, around: PanelContext, stage: Stage) -> list[str]:
    return [c.message.read(around.units) for c in state.plan.cautions if c.stage == stage]


#: What a plan needs, in the order of the fields.
_NEED_WORDS = {
    "tire.size": N_("Type the tire size, such as 45-622"),
    "rim.internal_width_mm": N_("Type the rim's inside width"),
    "rim.bead_seat_diameter_mm": N_("Type the rim's bead seat diameter, such as 622"),
}


#: Fields of names: text typed there is never a figure, whatever the plan is missing.
_NAME_WORDS = {
    "name": N_("Type the wheel's name, or press Enter to go on"),
    "rim.name": N_("Type the rim's name, or press Enter to go on"),
    "tire.name": N_("Type the tire's name, or press Enter to go on"),
}


def _unfinished(state: BenchWheel, around: PanelContext) -> Now:
    missing = state.reading.missing
    if missing and around.cursor in _NAME_WORDS:
        action = tr(_NAME_WORDS[around.cursor])
    elif missing:
        lacks = {within_wheel(path) for path in missing}
        action = tr(next(words for path, words in _NEED_WORDS.items() if path in lacks))
    else:
        action = next(iter(state.reading.problems.values()), "")
    return Now(tr("Check-in"), action, [], (Answer("go_to_missing", tr("Go to the field")),))


def _stopped(state: PlannedWheel, around: PanelContext, action: str) -> Now:
    stops = state.progress.open_stops
    stop = stops[0]
    head = tr("STOP · {n} reasons").format(n=len(stops)) if len(stops) > 1 else tr("STOP")
    go = _clearing(state, stop)
    if stop.code == "dry_test_leaks":  # each place has its own remedy
        go = (
            Answer("weeps", tr("Only the side walls: go on"), enter=False, number=1),
            Answer("one_more_layer", tr("A bead: add a layer of tape"), number=2),
            Answer("tape_again", tr("Spoke holes: tape it again"), number=3),
            Answer("fixed", tr("The valve: fixed and rechecked"), number=4),
        )
    elif stop.remedy == "layer":  # the tape is good: it stays
        go = (Answer("one_more_layer", tr("Add a layer of tape"), enter=False), *go)
    elif stop.remedy == "tape":
        go = (*go, Answer("tape_again", tr("Tape it again")))
    if stop.overridable:
        return Now(
            head,
            action,
            [
                tr(
                    "To override, enter a reason and your name, then click Override. Both stay in the log."
                )
            ],
            (*go, Answer("override", tr("Override"))),
            around.asks(state, "reason", "by"),
        )
    return Now(head, action, [tr("No override. Fit other parts, or correct the entry.")], go)


def _clearing(state: PlannedWheel, stop: Stop) -> tuple[Answer, ...]:
    match stop.clears:
        case "field":
            return (Answer("go_to_stop", tr("Go to the field")),)
        case "shelf":
            return (Answer("go_shelf", tr("Put tape on the shelf")),)
        case "reading":
            return (Answer("hold_again", tr("Pumped up: read it again"), enter=False),)
        case "fixed":
            return (Answer("fixed", tr("Fixed and rechecked"), enter=False),)
        case "seating":  # a bead that is off its seat takes air to come back
            return _seat_again(state, stop)


def _seat_again(state: PlannedWheel, stop: Stop) -> tuple[Answer, ...]:
    """What is done about a bead that was seen off its seat, by number; it is seated again from the
    lowest step then.
    """
    crooked = stop.code == "bead_line_uneven" and state.plan.log.state.insert == "on"
    usual: Remedy = "wet" if stop.remedy == "layer" else "push_spot"
    ways: tuple[Remedy, ...] = ("straighten", usual) if crooked else (usual,)
    return tuple(
        Answer(f"change_{one}", tr(REMEDY_WORDS[one]), enter=False, number=n)
        for n, one in enumerate(ways, 1)
    )


def _seat(
    state: PlannedWheel, around: PanelContext, head: str, action: str, cautions: list[str]
) -> Now:
    progress, plan = state.progress, state.plan
    if progress.seating.over_limit:
        return Now(
            tr("Above the limit"),
            action,
            [tr("Inspect the wheel before you go on.")],
            (Answer("inspected", tr("Inspected: all good"), enter=False), BACK),
        )
    head = tr("{stage} · pressure {n} of {all}").format(
        stage=head,
        n=progress.seating.step_number,
        all=max(progress.seating.step_number, len(plan.pressure.seating_kpa)),
    )
    more = seating_words(state)
    if progress.seating.changes:
        changed = ", ".join(tr(REMEDY_WORDS[remedy]) for remedy in progress.seating.changes)
        more = (tr("Changed: {words}").format(words=changed), *more)
    tried = next((step for step in plan.steps if step.pressure_step), None)
    if tried is not None:
        cautions = [caution.read(around.units) for caution in tried.cautions]
    if around.held:
        action = tr("Pressure held. Even on both sides, all the way around?")
    seen = (
        Answer("both_up", tr("Seated"), enter=False),
        Answer("one_low", tr("Low spot…")),
        Answer("did_not", tr("Not yet")),
    )
    if progress.seating.stuck:
        return _seat_problem(
            state, Now(head, action, [], seen, around.asks(state, "pressure"), more)
        )
    return Now(
        head,
        action,
        cautions,
        (
            *seen,
            Answer("no_pressure", tr("No pressure")),
            Answer("falls_off", tr("Comes off")),
            Answer("hisses", tr("Hisses")),
            BACK,
        ),
        around.asks(state, "pressure"),
        more,
    )


#: As many changes are offered beside the step; the others are in the options.
MAX_CHANGES = 3


def _seat_problem(state: PlannedWheel, now: Now) -> Now:
    """What to change after a try that failed, by its number; what it takes is planned before the
    next try.
    """
    assert state.progress is not None and state.plan is not None
    outcome = state.progress.seating.outcome
    if outcome == "falls_off":
        answers: tuple[Answer, ...] = (Answer("one_more_layer", enter=False), now.answers[0])
    elif outcome == "hisses":
        answers = (Answer("tape_again", enter=False), now.answers[0])
    else:
        best = suggested(state)[:MAX_CHANGES]
        changes = [
            Answer(f"change_{one.remedy}", suggestion_words(one), enter=False, number=number)
            for number, one in enumerate(best, 1)
        ]
        answers = (*changes, *now.answers)
    return msgspec.structs.replace(now, answers=(*answers, BACK))


def _hold(
    state: PlannedWheel, around: PanelContext, head: str, action: str, cautions: list[str]
) -> Now:
    progress = state.progress
    if progress.state == "problem":
        if progress.holding.leak:
            cautions = [tr(LEAK_MEANING[progress.holding.leak])]
        if progress.holding.leak in ("nipple", "vent"):
            return Now(
                head,
                tr("Air is under the tape: tape this rim again"),
                cautions,
                (
                    Answer("tape_again", tr("Tape it again")),
                    Answer("hold_again", tr("Fixed: test again")),
                    BACK,
                ),
            )
        return Now(
            head,
            action,
            cautions,
            (
                Answer("hold_again", tr("Fixed: test again")),
                Answer("show_leaks", tr("Where it bubbles…")),
                BACK,
            ),
        )
    said = hold_words(progress, around)
    verdict = progress.holding.report.verdict if progress.holding.report is not None else ""
    holds, step = verdict == "holds", progress.step
    readings = progress.holding.readings
    rests = not verdict and minutes_left(progress, around.time) > 0.0
    tops_up = (
        bool(readings) and step is not None and step.code == "hold.top_up" and not (holds or rests)
    )
    if topped_up(state) and not readings:
        action = tr("Read the gauge now: the next reading is compared with this one")
    elif rests:
        action = tr("Leave it until {clock}, then read the gauge").format(
            clock=wait_ends(progress, around.time)
        )
    elif step is not None and tops_up:
        action = step.text.read(around.units)
    if said:
        cautions = []
        if holds:
            action = tr("It holds: set the pressure and hand over")
    read = Answer("read_gauge", tr("Log the reading"))
    # never without a reading
    held = (Answer("stage_done", tr("Passed")),) if readings and verdict != "leaks" else ()
    more = (Answer("step_done", tr("Topped up"), enter=False),) if tops_up else ()
    answers = (*held, read) if holds else (read, *more, *held)
    return Now(
        head,
        action,
        cautions,
        (*answers, Answer("did_not", tr("Lost air")), BACK),
        around.asks(state, "reading", "air"),
        tuple(said),
    )


def hold_words(progress: Progress, around: PanelContext) -> list[str]:
    readings = progress.holding.readings
    if not readings:
        return []
    last = show(readings[-1][1], "kpa", around.units)
    report, counted = progress.holding.report, progress.holding.counted
    if counted < len(readings) and readings[-counted][1] > readings[-counted - 1][1]:
        before = [tr("The pressure rose: readings before that do not count.")]
    else:
        before = []
    if report is None:
        return [
            *before,
            tr("First reading {last}. A second one, later, says how fast it loses.").format(
                last=last
            ),
        ]
    if report.too_early:
        result = [tr("Too early to tell. Spin it.")]
    else:
        result = [
            tr("{loss:.1f} % a day ({low:.1f} to {high:.1f}): {verdict}.").format(
                loss=report.loss_percent_per_day,
                low=report.low_percent_per_day,
                high=report.high_percent_per_day,
                verdict=tr(VERDICT_WORDS[report.verdict]),
            )
        ]
    if at := next_reading(progress, around.hours):
        result.append(
            tr("Read again {clock}: that should decide it.").format(clock=in_words(at, "%a %H:%M"))
        )
    elif report.trend != "unknown":
        result.append(tr("The leak is {trend}.").format(trend=tr(TREND_WORDS[report.trend])))
    return [*before, *result]
