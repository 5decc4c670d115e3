"""What the step panel says while something is asked besides the wheel's next step: a paper, the guide, low sectors, a fleet."""

from collections.abc import Mapping

import msgspec

from inner_rim.core.plan.aftercare import sealant_left_ml
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.diagnosis import PATH, Facts
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.units import show
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.next_action import now_of
from inner_rim.work.text.panel import Answer, Now, PanelContext
from inner_rim.work.text.papers import PRINTED, WAYS
from inner_rim.work.text.undo_words import raised_of
from inner_rim.work.text.view_selection import LowPick, ViewSelection
from inner_rim.work.text.wheel_words import end_words


def shown(state: BenchWheel | None, around: PanelContext, looking: ViewSelection, facts: Facts | None) -> Now:
    """Return what the panel says: what is asked besides the wheel's next step, else that step.

    Args:
        looking: what is asked, and what was wrong with the last command.
        facts: what troubleshooting knows of this wheel, needed while it is open.
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
    elif looking.asking == "raise" and looking.raised is not None:
        said = raised_of(looking.raised, around.units)
    elif looking.asking == "top_up" and state.plan is not None and state.wheel is not None:
        said = top_up_of(state.wheel, state.plan, around)
    elif looking.asking == "fleet":
        said = fleet_of(state)
    else:
        said = now_of(state, around)
    return msgspec.structs.replace(said, cautions=[looking.fault]) if looking.fault else said


def fleet_of(state: BenchWheel) -> Now:
    return Now(
        tr("Duplicate"),
        tr("How many more wheels like {name}?").format(name=state.name),
        [tr("Each is a wheel of its own in this job, with its own log.")],
        (Answer("make_fleet", tr("Make them"), enter=False), Answer("leave", tr("Cancel"))),
        figure=tr("How many"),
    )


def top_up_of(wheel: Wheel, plan: WheelPlan, around: PanelContext) -> Now:
    """Return what the panel says while it asks for the sealant that was added."""
    more: tuple[str, ...] = ()
    if plan.log.signed is not None:
        left = show(sealant_left_ml(wheel, plan, around.time), "ml", around.units)
        more = (tr("About {left} left before it, as forecast.").format(left=left),)
    return Now(
        tr("Sealant added"),
        tr("How much went in?"),
        [],
        (Answer("top_up_done", tr("Log it")), Answer("leave", tr("Cancel"))),
        figure=tr("Amount in"),
        reason=tr("Kind"),
        more=more,
    )


def guide_of(code: str, facts: Facts) -> Now:
    """Return what the panel says in troubleshooting: a question, or the diagnosis."""
    question = PATH.get(code)
    leave = Answer("leave", tr("Leave"))
    if question is None:
        return Now(tr("Diagnosis"), end_words(code, facts), [], (Answer("guide_log", tr("Log it")), leave))
    return Now(
        tr("Diagnosis"),
        tr(question.words),
        [],
        (Answer("guide_yes", tr("Yes"), enter=False), Answer("guide_no", tr("No")), leave),
    )


def print_of(state: BenchWheel) -> Now:
    """Return what the panel says while the user chooses what to write out."""
    return Now(
        tr("Print & export"),
        tr("What do you want to write out for {name}?").format(name=state.name),
        [tr("Press the number.")],
        (
            *_by_number("write", {way: words for way, (_ending, words) in WAYS.items()}),
            Answer("ask_printer", f"{len(WAYS) + 1}  " + tr("To a printer")),
            Answer("leave", tr("Cancel")),
        ),
    )


def _by_number(command: str, ways: Mapping[str, str]) -> list[Answer]:
    return [Answer(f"{command}_{way}", f"{number}  {tr(words)}") for number, (way, words) in enumerate(ways.items(), 1)]


def printer_of(state: BenchWheel) -> Now:
    """Return what the panel says while the user chooses what goes to a printer."""
    return Now(
        tr("Print"),
        tr("What do you want to print for {name}?").format(name=state.name),
        [tr("The label is made for a roll of 62 by 29 mm. Press the number.")],
        (*_by_number("print", PRINTED), Answer("leave", tr("Cancel"))),
    )


def marking_of(low: LowPick) -> Now:
    marked = [f"{tr(side)} {n}" for side in ("left", "right") for n in sorted(getattr(low, side))]
    return Now(
        tr("Where is it low? Sectors count from the valve, clockwise as you look at that side"),
        tr("Low: {sectors}").format(sectors=", ".join(marked)) if marked else tr("Press 1 to 8, or click the sector"),
        [],
        (
            Answer("log_low", tr("Log it")),
            Answer("side_left", tr("Left side"), low.side == "left"),
            Answer("side_right", tr("Right side"), low.side == "right"),
            Answer("leave", tr("Cancel")),
        ),
    )
