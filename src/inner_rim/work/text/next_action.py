"""What the now panel says for a wheel: head, action, cautions and answers."""

import math
from datetime import datetime

import msgspec

from inner_rim.core.models.holding import TREND_WORDS, VERDICT_WORDS
from inner_rim.core.plan.advisor import REMEDY_WORDS
from inner_rim.core.plan.wheel_plan import STAGE_WORDS
from inner_rim.core.progress.diagnosis import LEAK_MEANING, PATH, Facts
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.log import Remedy
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.papers import WAYS
from inner_rim.work.text.wheel_words import end_words, physical_words


class Answer(msgspec.Struct, frozen=True):
    """A button of the panel: words, key, command, whether it is pressed in."""

    words: str
    key: str
    command: str
    checked: bool | None = None


class Around(msgspec.Struct, frozen=True):
    """What the words depend on besides the wheel: the units, the time, and what was changed since the last attempt."""

    units: UnitChoice
    time: datetime
    changed: tuple[Remedy, ...] = ()


class Now(msgspec.Struct, frozen=True):
    """The content of the now panel; `figure`, `reason` and `signature` label entries, empty for none."""

    head: str
    action: str
    cautions: list[str]
    answers: tuple[Answer, ...]
    figure: str = ""
    signature: str = ""
    reason: str = ""


class LowPick(msgspec.Struct, frozen=True):
    """Sectors being marked as low before they are logged."""

    side: str
    left: frozenset[int] = frozenset()
    right: frozenset[int] = frozenset()

    def toggled(self, side: str, sector: int) -> "LowPick":
        """Return the pick with a sector turned over, that side being the one keys go to."""
        changed = getattr(self, side) ^ {sector}
        return msgspec.structs.replace(self, side=side, **{side: changed})


BACK = Answer("Back", "B", "back")


def now_of(state: WheelState | None, around: Around, low: LowPick | None) -> Now:
    """Return what the panel says."""
    if state is None:
        return Now(
            tr("Empty bench"),
            tr("Put the first wheel on the bench"),
            [],
            (Answer(tr("New wheel"), "Ctrl+N", "new_wheel"),),
        )
    progress = state.progress
    if progress is None:
        return _unfinished(state)
    if low is not None:
        return _marking(low)
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
                Answer(tr("Print…"), "X", "papers"),
                Answer(tr("Off bench"), "P", "put_away"),
                Answer(tr("New visit"), "Y", "new_visit"),
                Answer(tr("Care…"), "C", "show_care"),
                Answer(tr("Log dip"), "I", "log_dip"),
                Answer(tr("Reopen"), "B", "back"),
            ),
            figure=tr("Dipstick, R"),
        )
    cautions = _cautions(state, around, stage)
    if stage == "seat" and progress.step is None:
        return with_state(_seat(state, around, head, action, cautions), quiet)
    standing = progress.step is None or progress.step.code == "hold.read" or bool(progress.readings)
    if progress.readings == () and minutes_left(progress, around.time) > 0.0:
        standing = False  # first the wait
    if stage == "hold" and (progress.state == "trouble" or standing):
        return with_state(_hold(state, around, head, action, cautions), quiet)
    if stage == "set":
        return Now(
            head,
            action,
            cautions,
            (Answer(tr("Hand over"), "Enter", "hand_over"), _back()),
            figure=tr("Handed over at"),
            reason=tr("Weight, g, if weighed"),
            signature=tr("Signed by"),
        )
    if stage == "check_in":
        return Now(
            head,
            action,
            cautions,
            (Answer(tr("Check-in done"), "Enter", "finish"), Answer(tr("Enter figures"), "E", "first_field")),
            reason=tr("Weight, g, if weighed"),
        )
    return with_state(_stepping(state, around, head, action, cautions), quiet)


def with_state(now: Now, quiet: str) -> Now:
    """Return what the panel says with the wheel's physical state behind its head."""
    return msgspec.structs.replace(now, head=f"{now.head}   ·   {quiet}" if quiet else now.head)


def _stepping(state: WheelState, around: Around, head: str, action: str, cautions: list[str]) -> Now:
    """A stage whose steps are ticked off one by one."""
    progress = state.progress
    assert progress is not None and state.plan is not None
    left = minutes_left(progress, around.time)
    if left > 0.0 and progress.waiting_for is not None:
        return _waiting(progress, around, left)
    step = progress.step
    if step is None:
        return Now(head, action, cautions, (Answer(tr("Done"), "Enter", "finish"), _back()))
    cautions = [caution.read(around.units) for caution in step.cautions]
    mine = [s for s in state.plan.steps if s.stage == step.stage]
    head += tr(", step {n} of {all}").format(n=mine.index(step) + 1, all=len(mine))
    if progress.question is not None:
        return Now(
            head,
            action,
            cautions,
            (Answer(tr("Yes"), "Enter", "answer_yes"), Answer(tr("No"), "N", "answer_no"), _back()),
        )
    more: tuple[Answer, ...] = ()
    if step.stage == "hold":
        more = (Answer(tr("Held"), "D", "stage_done"), Answer(tr("Lost air"), "N", "did_not"))
    elif not progress.last_of_stage and step.stage != "seat":
        more = (Answer(tr("Whole stage"), "D", "stage_done"),)
    return Now(
        head,
        action,
        cautions,
        (Answer(tr("Done"), "Enter", "step_done"), *more, _back()),
        figure={"dip": tr("Dipstick, R"), "dose": tr("Went in, R")}.get(step.asks, ""),
    )


def minutes_left(progress: Progress, now: datetime) -> float:
    """Return how long the wait after the last step still is; nought where there is none."""
    if not progress.wait_until:
        return 0.0
    return max(0.0, (moment(progress.wait_until) - now).total_seconds() / 60.0)


def wait_text(progress: Progress, minutes: float) -> str:
    """Return until when to wait, by the clock on the wall, and how long that is."""
    until = local(moment(progress.wait_until))
    span = (
        tr("{hours:.0f} h {minutes:.0f} min").format(hours=minutes // 60, minutes=minutes % 60)
        if minutes >= 60.0
        else tr("{minutes:.0f} min").format(minutes=math.ceil(minutes))
    )
    return tr("until {clock} · {span} left").format(clock=in_words(until, "%H:%M"), span=span)


def _waiting(progress: Progress, around: Around, left: float) -> Now:
    assert progress.waiting_for is not None
    done = progress.waiting_for.text.read(around.units)
    lost = (Answer(tr("Lost air"), "N", "did_not"),) if progress.stage == "hold" else ()
    then = progress.step.text.read(around.units) if progress.step else progress.action.read(around.units)
    return Now(
        tr("Waiting after: {step}").format(step=done),
        tr("Wait {until}").format(until=wait_text(progress, left)),
        [tr("Then: {step}").format(step=then)],
        (Answer(tr("Go on before it is over"), "Enter", "go_on"), *lost, _back()),
    )


def fleet_of(state: WheelState) -> Now:
    """Return what the panel says while it asks for the size of a fleet."""
    return Now(
        tr("Same again"),
        tr("How many more wheels like {name}?").format(name=state.name),
        [tr("Each is a wheel of its own in this job, with its own log.")],
        (Answer(tr("Make them"), "Enter", "make_fleet"), Answer(tr("Cancel"), "Esc", "leave")),
        figure=tr("How many"),
    )


def guide_of(code: str, facts: Facts) -> Now:
    """Return what the panel says at a place of the guide for trouble: a question, or where it led."""
    question = PATH.get(code)
    leave = Answer(tr("Leave"), "Esc", "leave")
    if question is None:
        return Now(
            tr("Diagnosis"),
            end_words(code, facts),
            [],
            (Answer(tr("Write it down"), "Enter", "guide_log"), leave),
        )
    return Now(
        tr("Diagnosis"),
        tr(question.words),
        [],
        (Answer(tr("Yes"), "Enter", "guide_yes"), Answer(tr("No"), "N", "guide_no"), leave),
    )


def papers_of(state: WheelState) -> Now:
    """Return what the panel says while a paper is chosen."""
    return Now(
        tr("Papers"),
        tr("What shall be written for {name}?").format(name=state.name),
        [tr("PDF opens in any reader, the days in any calendar; press the number.")],
        (
            *(
                Answer(tr(words.partition(" (")[0]), str(i), f"paper_{way}")
                for i, (way, (_ending, words)) in enumerate(WAYS.items(), 1)
            ),
            Answer(tr("Cancel"), "Esc", "leave"),
        ),
    )


def _back() -> Answer:
    return msgspec.structs.replace(BACK, words=tr(BACK.words))


def _cautions(state: WheelState, around: Around, stage: str) -> list[str]:
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
    return Now(tr("Now · Check-in"), action, [], (Answer(tr("Go to the field"), "Enter", "go_to_missing"),))


#: Findings whose remedy is the tape.
LEADS_TO_TAPE = frozenset({"tape_damaged", "dry_test_leaks", "beads_unseat"})


def _stopped(state: WheelState, action: str) -> Now:
    assert state.progress is not None
    stops = state.progress.open_stops
    head = tr("STOP · {n} reasons").format(n=len(stops)) if len(stops) > 1 else tr("STOP")
    go = Answer(tr("Go to the field"), "Enter", "go_to_stop")
    if not stops[0].field:  # found by hand, so it is fixed by hand
        go = Answer(tr("Fixed and rechecked"), "Enter", "mended")
    again = (Answer(tr("Tape it again"), "", "tape_again"),) if stops[0].code in LEADS_TO_TAPE else ()
    if stops[0].overridable:
        return Now(
            head,
            action,
            [tr("To override, enter a reason and your name, then press O. Both stay in the log.")],
            (go, *again, Answer(tr("Override"), "O", "override")),
            reason=tr("Reason"),
            signature=tr("Name"),
        )
    return Now(head, action, [tr("This stop cannot be overridden: change the parts or the figures.")], (go,))


def _seat(state: WheelState, around: Around, head: str, action: str, cautions: list[str]) -> Now:
    progress, plan = state.progress, state.plan
    assert progress is not None and plan is not None
    if progress.over_limit:
        return Now(
            tr("Above the limit"),
            action,
            [tr("The wheel goes on only after it was looked over.")],
            (Answer(tr("Looked over, sound"), "Enter", "looked_over"), _back()),
        )
    head += tr(", step {n} of {all}").format(n=progress.step_number, all=len(plan.pressure.seating_kpa))
    changed = around.changed
    if changed:
        words = ", ".join(tr(REMEDY_WORDS[remedy]) for remedy in changed)
        cautions = [tr("Changed: {words}.").format(words=words), *cautions]
    return Now(
        head,
        action,
        cautions,
        (
            Answer(tr("Both sides up"), "Enter", "both_up"),
            Answer(tr("One side low…"), "L", "one_low"),
            Answer(tr("Did not come up"), "N", "did_not"),
            _back(),
        ),
        figure=tr("Reached, R"),
    )


def _marking(low: LowPick) -> Now:
    marked = [f"{tr(side)} {n}" for side in ("left", "right") for n in sorted(getattr(low, side))]
    return Now(
        tr("Where is it low? Sectors count from the valve, clockwise as you look at that side"),
        tr("Low: {sectors}").format(sectors=", ".join(marked))
        if marked
        else tr("Press 1 to 8, or hit the sector"),
        [],
        (
            Answer(tr("Log it"), "Enter", "log_low"),
            Answer(tr("Left side"), "L", "side_left", low.side == "left"),
            Answer(tr("Right side"), "R", "side_right", low.side == "right"),
            Answer(tr("Cancel"), "Esc", "leave"),
        ),
    )


def _hold(state: WheelState, around: Around, head: str, action: str, cautions: list[str]) -> Now:
    progress = state.progress
    assert progress is not None
    if progress.state == "trouble":
        if progress.leak:
            cautions = [tr(LEAK_MEANING[progress.leak])]
        if progress.leak in ("nipple", "vent"):
            return Now(
                head,
                tr("Air is under the tape: tape this rim again"),
                cautions,
                (
                    Answer(tr("Tape it again"), "Enter", "tape_again"),
                    Answer(tr("Fixed, hold again"), "", "hold_again"),
                    _back(),
                ),
            )
        return Now(
            head,
            action,
            cautions,
            (
                Answer(tr("Fixed, hold again"), "Enter", "hold_again"),
                Answer(tr("Where it bubbles…"), "C", "show_leaks"),
                _back(),
            ),
        )
    said = hold_words(progress, around)
    holds = progress.hold is not None and progress.hold.verdict == "holds"
    if said:
        cautions = said
        if holds:
            action = tr("It holds: set the pressure and hand over")
    read = Answer(tr("Log the reading"), "Enter", "read_gauge")
    held = Answer(tr("Held"), "D", "stage_done")
    if holds:
        held = msgspec.structs.replace(held, key="Enter")
        read = msgspec.structs.replace(read, key="")
    answers = (held, read) if holds else (read, held)
    return Now(
        head,
        action,
        cautions,
        (*answers, Answer(tr("Lost air"), "N", "did_not"), _back()),
        figure=tr("Gauge, R"),
        reason=tr("Air, {unit}").format(unit=around.units.unit("c").symbol),
    )


def hold_words(progress: Progress, around: Around) -> list[str]:
    """Return what the readings of a wheel that stands say so far, and when the next one will decide."""
    readings = progress.readings
    if not readings:
        return []
    last = show(readings[-1][1], "kpa", around.units)
    report = progress.hold
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
    if progress.next_reading_at:
        at = local(moment(progress.next_reading_at))
        found.append(tr("The next reading decides at {clock}.").format(clock=in_words(at, "%a %H:%M")))
    elif report.trend != "unknown":
        found.append(tr("The leak is {trend}.").format(trend=tr(TREND_WORDS[report.trend])))
    return found
