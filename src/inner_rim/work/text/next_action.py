"""What the now panel says for a wheel: head, action, cautions and answers."""

import math
from collections.abc import Iterable
from datetime import datetime

import msgspec

from inner_rim.core.models.holding import TREND_WORDS, VERDICT_WORDS
from inner_rim.core.plan.advisor import REMEDY_WORDS
from inner_rim.core.progress.diagnosis import LEAK_MEANING, PATH, Facts
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.log import Remedy
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.stages import STAGE_WORDS, Stage
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.core.schedule.promised import Promise
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.looking import Looking, LowPick
from inner_rim.work.text.papers import PRINTED, WAYS
from inner_rim.work.text.promise_words import clock, ready_text
from inner_rim.work.text.wheel_words import end_words, physical_words


class Answer(msgspec.Struct, frozen=True):
    """A button of the panel: the command it gives, its words where they are not the command's own title,
    whether it is pressed in. The first answer is the main one: Enter gives it.
    """

    command: str
    words: str = ""
    checked: bool | None = None


class Around(msgspec.Struct, frozen=True):
    """What the words depend on besides the wheel.

    Attributes:
        units: what figures are shown in.
        time: the time now.
        changed: what was changed since the last attempt.
        promise: when the wheel can be promised, None while it is not known.
    """

    units: UnitChoice
    time: datetime
    changed: tuple[Remedy, ...] = ()
    promise: Promise | None = None


class Now(msgspec.Struct, frozen=True):
    """The content of the now panel; `figure`, `reason` and `signature` label entries, empty for none."""

    head: str
    action: str
    cautions: list[str]
    answers: tuple[Answer, ...]
    figure: str = ""
    signature: str = ""
    reason: str = ""


BACK = Answer("back")


def now_of(state: WheelState | None, around: Around) -> Now:
    """Return what the panel says of a wheel's next step."""
    if state is None:
        return Now(
            tr("Empty bench"),
            tr("Put the first wheel on the bench"),
            [],
            (Answer("new_wheel", tr("New wheel")),),
        )
    progress = state.progress
    if progress is None:
        return _unfinished(state)
    stage = progress.stage
    head = tr("Now · {stage}").format(stage=tr(STAGE_WORDS[stage]))
    quiet = physical_words(progress.physical, around.units) if progress.physical is not None else ""
    action = progress.action.read(around.units)
    if progress.state == "stopped":
        return _stopped(state, action)
    if progress.state == "finished":
        return Now(
            tr("Handed over"),
            action,
            [],
            (
                Answer("print"),
                Answer("archive", tr("Off the bench")),
                Answer("new_visit", tr("New visit")),
                Answer("show_care", tr("Care…")),
                Answer("log_dip", tr("Log dip")),
                Answer("back", tr("Reopen")),
            ),
            figure=tr("Dipstick, R"),
        )
    cautions = _cautions(state, around, stage)
    if stage == "seat" and progress.step is None:
        return with_state(_seat(state, around, head, action, cautions), quiet)
    standing = progress.step is None or progress.step.code == "hold.read" or bool(progress.holding.readings)
    if progress.holding.readings == () and minutes_left(progress, around.time) > 0.0:
        standing = False  # first the wait
    if stage == "hold" and (progress.state == "problem" or standing):
        return with_state(_hold(state, around, head, action, cautions), quiet)
    if stage == "set":
        return Now(
            head,
            action,
            cautions,
            (Answer("hand_over", tr("Hand over")), BACK),
            figure=tr("Handed over at"),
            reason=tr("Weight, g, if weighed"),
            signature=tr("Signed by"),
        )
    if stage == "check_in":
        offered = (
            (Answer("promise", tr("Promise {at}").format(at=clock(around.promise.sure))),)
            if around.promise
            else ()
        )
        checking = Now(
            head,
            action,
            cautions,
            (Answer("finish", tr("Check-in done")), Answer("first_field", tr("Enter figures")), *offered),
            reason=tr("Weight, g, if weighed"),
        )
        return with_state(checking, ready_text(around.promise, state.job.draft.document.get("due")))
    return with_state(_stepping(state, around, head, action, cautions), quiet)


def with_state(now: Now, quiet: str) -> Now:
    """Return what the panel says with the wheel's physical state behind its head."""
    return msgspec.structs.replace(now, head=f"{now.head}   ·   {quiet}" if quiet else now.head)


def _stepping(state: WheelState, around: Around, head: str, action: str, cautions: list[str]) -> Now:
    """A stage whose steps are ticked off one by one."""
    progress = state.progress
    assert progress is not None and state.plan is not None
    left = minutes_left(progress, around.time)
    if left > 0.0 and progress.waiting.after is not None:
        return _waiting(progress, around, left)
    step = progress.step
    if step is None:
        return Now(head, action, cautions, (Answer("finish", tr("Done")), BACK))
    cautions = [caution.read(around.units) for caution in step.cautions]
    mine = [s for s in state.plan.steps if s.stage == step.stage]
    head += tr(", step {n} of {all}").format(n=mine.index(step) + 1, all=len(mine))
    if progress.question is not None:
        return Now(
            head,
            action,
            cautions,
            (Answer("answer_yes", tr("Yes")), Answer("answer_no", tr("No")), BACK),
        )
    more: tuple[Answer, ...] = ()
    if step.stage == "hold":
        more = (Answer("stage_done", tr("Held")), Answer("did_not", tr("Lost air")))
    elif not progress.last_of_stage and step.stage != "seat":
        more = (Answer("stage_done", tr("Whole stage")),)
    return Now(
        head,
        action,
        cautions,
        (Answer("step_done", tr("Done")), *more, BACK),
        figure={"dip": tr("Dipstick, R"), "dose": tr("Went in, R")}.get(step.asks, ""),
    )


def minutes_left(progress: Progress, now: datetime) -> float:
    """Return how long the wait after the last step still is; nought where there is none."""
    if not progress.waiting.until:
        return 0.0
    return max(0.0, (moment(progress.waiting.until) - now).total_seconds() / 60.0)


def wait_text(progress: Progress, minutes: float) -> str:
    """Return until when to wait, by the clock on the wall, and how long that is."""
    until = local(moment(progress.waiting.until))
    span = (
        tr("{hours:.0f} h {minutes:.0f} min").format(hours=minutes // 60, minutes=minutes % 60)
        if minutes >= 60.0
        else tr("{minutes:.0f} min").format(minutes=math.ceil(minutes))
    )
    return tr("until {clock} · {span} left").format(clock=in_words(until, "%H:%M"), span=span)


def _waiting(progress: Progress, around: Around, left: float) -> Now:
    assert progress.waiting.after is not None
    done = progress.waiting.after.text.read(around.units)
    lost = (Answer("did_not", tr("Lost air")),) if progress.stage == "hold" else ()
    then = progress.step.text.read(around.units) if progress.step else progress.action.read(around.units)
    return Now(
        tr("Waiting after: {step}").format(step=done),
        tr("Wait {until}").format(until=wait_text(progress, left)),
        [tr("Then: {step}").format(step=then)],
        (Answer("go_on", tr("Go on before it is over")), *lost, BACK),
    )


def fleet_of(state: WheelState) -> Now:
    """Return what the panel says while it asks for the size of a fleet."""
    return Now(
        tr("Duplicate"),
        tr("How many more wheels like {name}?").format(name=state.name),
        [tr("Each is a wheel of its own in this job, with its own log.")],
        (Answer("make_fleet", tr("Make them")), Answer("leave", tr("Cancel"))),
        figure=tr("How many"),
    )


def guide_of(code: str, facts: Facts) -> Now:
    """Return what the panel says at a place of the problem guide: a question, or where it led."""
    question = PATH.get(code)
    leave = Answer("leave", tr("Leave"))
    if question is None:
        return Now(
            tr("Diagnosis"),
            end_words(code, facts),
            [],
            (Answer("guide_log", tr("Log it")), leave),
        )
    return Now(
        tr("Diagnosis"),
        tr(question.words),
        [],
        (Answer("guide_yes", tr("Yes")), Answer("guide_no", tr("No")), leave),
    )


def print_of(state: WheelState) -> Now:
    """Return what the panel says while the user chooses what to write out."""
    return Now(
        tr("Print & export"),
        tr("What do you want to write out for {name}?").format(name=state.name),
        [tr("PDF opens in any reader, ICS in any calendar. Press the number.")],
        (
            *_by_number("write", WAYS),
            Answer("ask_printer", tr("To a printer")),
            Answer("leave", tr("Cancel")),
        ),
    )


def _by_number(command: str, ways: Iterable[str]) -> list[Answer]:
    """An answer for each paper, with the number that takes it."""
    return [
        Answer(f"{command}_{way}", f"{number}  {tr(WAYS[way][1].partition(' (')[0])}")
        for number, way in enumerate(ways, 1)
    ]


def printer_of(state: WheelState) -> Now:
    """Return what the panel says while the user chooses what goes to a printer."""
    return Now(
        tr("Print"),
        tr("What do you want to print for {name}?").format(name=state.name),
        [tr("The label is made for a roll of 62 by 29 mm. Press the number.")],
        (
            *_by_number("print", PRINTED),
            Answer("leave", tr("Cancel")),
        ),
    )


def shown(state: WheelState | None, around: Around, looking: Looking, facts: Facts | None) -> Now:
    """Return what the panel says: what is asked besides the wheel's next step, else that step.

    Args:
        state: the selected wheel.
        around: units, time, and what was changed since the last attempt.
        looking: what is asked, and what was wrong with the last command.
        facts: what the problem guide knows of this wheel, needed while it is open.
    """
    if state is None or not looking.asking:
        said = now_of(state, around)
    elif looking.asking == "low" and looking.low is not None and state.progress is not None:
        said = marking_of(looking.low)
    elif looking.asking == "print":
        said = print_of(state)
    elif looking.asking == "printer":
        said = printer_of(state)
    elif looking.asking == "guide" and facts is not None:
        said = guide_of(looking.guide, facts)
    elif looking.asking == "fleet":
        said = fleet_of(state)
    else:
        said = now_of(state, around)
    return msgspec.structs.replace(said, cautions=[looking.fault]) if looking.fault else said


def _cautions(state: WheelState, around: Around, stage: Stage) -> list[str]:
    if state.plan is None:
        return []
    return [c.message.read(around.units) for c in state.plan.cautions if c.stage == stage]


_NEED_WORDS = {
    "rim.bead_seat_diameter_mm": "Type the rim's bead seat diameter, such as 622",
    "rim.internal_width_mm": "Type the rim's internal width",
    "tire.size": "Type the tire's size, such as 45-622",
}


def _unfinished(state: WheelState) -> Now:
    missing = state.reading.missing
    if missing:
        action = tr(_NEED_WORDS[missing[0].partition(".")[2]])
    else:
        action = next(iter(state.reading.problems.values()), "")
    return Now(tr("Now · Check-in"), action, [], (Answer("go_to_missing", tr("Go to the field")),))


#: Findings whose remedy is the tape.
LEADS_TO_TAPE = frozenset({"tape_damaged", "dry_test_leaks", "beads_unseat"})


def _stopped(state: WheelState, action: str) -> Now:
    assert state.progress is not None
    stops = state.progress.open_stops
    head = tr("STOP · {n} reasons").format(n=len(stops)) if len(stops) > 1 else tr("STOP")
    go = Answer("go_to_stop", tr("Go to the field"))
    if not stops[0].field:  # found by hand, so it is fixed by hand
        go = Answer("fixed", tr("Fixed and rechecked"))
    again = (Answer("tape_again", tr("Tape it again")),) if stops[0].code in LEADS_TO_TAPE else ()
    if stops[0].overridable:
        return Now(
            head,
            action,
            [tr("To override, enter a reason and your name, then press O. Both stay in the log.")],
            (go, *again, Answer("override", tr("Override"))),
            reason=tr("Reason"),
            signature=tr("Name"),
        )
    return Now(head, action, [tr("This stop cannot be overridden: change the parts or the figures.")], (go,))


def _seat(state: WheelState, around: Around, head: str, action: str, cautions: list[str]) -> Now:
    progress, plan = state.progress, state.plan
    assert progress is not None and plan is not None
    if progress.seating.over_limit:
        return Now(
            tr("Above the limit"),
            action,
            [tr("Inspect the wheel before you go on.")],
            (Answer("inspected", tr("Inspected and sound")), BACK),
        )
    head += tr(", step {n} of {all}").format(
        n=progress.seating.step_number, all=len(plan.pressure.seating_kpa)
    )
    changed = around.changed
    if changed:
        words = ", ".join(tr(REMEDY_WORDS[remedy]) for remedy in changed)
        cautions = [tr("Changed: {words}.").format(words=words), *cautions]
    return Now(
        head,
        action,
        cautions,
        (
            Answer("both_up", tr("Both sides up")),
            Answer("one_low", tr("One side low…")),
            Answer("did_not", tr("Did not come up")),
            BACK,
        ),
        figure=tr("Reached, R"),
    )


def marking_of(low: LowPick) -> Now:
    """Return what the panel says while low sectors are marked."""
    marked = [f"{tr(side)} {n}" for side in ("left", "right") for n in sorted(getattr(low, side))]
    return Now(
        tr("Where is it low? Sectors count from the valve, clockwise as you look at that side"),
        tr("Low: {sectors}").format(sectors=", ".join(marked))
        if marked
        else tr("Press 1 to 8, or hit the sector"),
        [],
        (
            Answer("log_low", tr("Log it")),
            Answer("side_left", tr("Left side"), low.side == "left"),
            Answer("side_right", tr("Right side"), low.side == "right"),
            Answer("leave", tr("Cancel")),
        ),
    )


def _hold(state: WheelState, around: Around, head: str, action: str, cautions: list[str]) -> Now:
    progress = state.progress
    assert progress is not None
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
                    Answer("hold_again", tr("Fixed, hold again")),
                    BACK,
                ),
            )
        return Now(
            head,
            action,
            cautions,
            (
                Answer("hold_again", tr("Fixed, hold again")),
                Answer("show_leaks", tr("Where it bubbles…")),
                BACK,
            ),
        )
    said = hold_words(progress, around)
    holds = progress.holding.report is not None and progress.holding.report.verdict == "holds"
    if said:
        cautions = said
        if holds:
            action = tr("It holds: set the pressure and hand over")
    read = Answer("read_gauge", tr("Log the reading"))
    held = Answer("stage_done", tr("Held"))
    answers = (held, read) if holds else (read, held)
    return Now(
        head,
        action,
        cautions,
        (*answers, Answer("did_not", tr("Lost air")), BACK),
        figure=tr("Gauge, R"),
        reason=tr("Air, {unit}").format(unit=around.units.unit("c").symbol),
    )


def hold_words(progress: Progress, around: Around) -> list[str]:
    """Return what the readings of a wheel that stands say so far, and when the next one will decide."""
    readings = progress.holding.readings
    if not readings:
        return []
    last = show(readings[-1][1], "kpa", around.units)
    report = progress.holding.report
    if report is None:
        return [tr("First reading {last}. A second one, later, says how fast it loses.").format(last=last)]
    found = [
        tr("{loss:.1f} % a day ({low:.1f} to {high:.1f}): {verdict}.").format(
            loss=report.loss_percent_per_day,
            low=report.low_percent_per_day,
            high=report.high_percent_per_day,
            verdict=tr(VERDICT_WORDS[report.verdict]),
        )
    ]
    if progress.holding.next_reading_at:
        at = local(moment(progress.holding.next_reading_at))
        found.append(tr("The next reading decides at {clock}.").format(clock=in_words(at, "%a %H:%M")))
    elif report.trend != "unknown":
        found.append(tr("The leak is {trend}.").format(trend=tr(TREND_WORDS[report.trend])))
    return found
