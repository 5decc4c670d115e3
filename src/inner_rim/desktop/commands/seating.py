"""Commands while the beads are seated: attempts, and low sectors marked one by one."""

from __future__ import annotations

from typing import get_args

from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import Outcome as Seen
from inner_rim.desktop.commands.command import MAIN, Context, Outcome
from inner_rim.desktop.commands.steps import no_pressure, pressure_typed
from inner_rim.words import tr
from inner_rim.work.text.view_selection import LowPick

#: Sectors of a side, counted from the valve.
SECTORS = range(1, 9)
REMEDIES: tuple[Remedy, ...] = get_args(Remedy)
#: The command of a remedy is this and its name.
CHANGE = "change_"


def _attempt(context: Context, seen: Seen, low: LowPick | None = None) -> Outcome:
    kpa = pressure_typed(context)
    if kpa is None:
        return no_pressure(context)
    left = tuple(sorted(low.left)) if low is not None else ()
    right = tuple(sorted(low.right)) if low is not None else ()
    context.bench.recorder.attempt(seen, kpa, left, right)
    return context.look("main", asking="", low=None) if low is not None else MAIN


def both_up(context: Context) -> Outcome:
    return _attempt(context, "both_up")


def did_not(context: Context) -> Outcome | None:
    """The beads did not seat, or the wheel lost air during the leak test."""
    state = context.state
    if state is None or state.progress is None:
        return None
    if state.progress.stage == "hold":
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
    return context.look("main", asking="low", low=LowPick("left"), picture=None, drawer="", why=None)


def turn_to(context: Context, side: str) -> Outcome | None:
    low = context.looking.low
    return context.look(low=LowPick(side, low.left, low.right)) if low is not None else None


def mark(context: Context) -> Outcome | None:
    """Toggle the sector whose digit was pressed."""
    low = context.looking.low
    if low is None:
        return None
    if context.digit is None or context.digit not in SECTORS:
        return context.complain(tr("The sectors are 1 to 8, counted from the valve."))
    return context.look(low=low.toggled(low.side, context.digit))


def hit_sector(context: Context) -> Outcome | None:
    """Toggle the sector that was clicked, given as (side, number), where a bead may be marked low now."""
    side, number = context.value
    low = context.looking.low
    if low is None:
        if not context.offers("one_low"):
            return None
        low = LowPick(side)
    return context.look(asking="low", low=low.toggled(side, number))


def log_low(context: Context) -> Outcome | None:
    low = context.looking.low
    if low is None:
        return None
    if not low.left and not low.right:
        return context.complain(tr("Mark at least one sector, or cancel."))
    return _attempt(context, "one_low", low)


def change(context: Context, remedy: Remedy) -> Outcome:
    """Plan what is to be changed before the next try."""
    context.bench.recorder.change(remedy)
    return MAIN


def change_by_number(context: Context) -> Outcome | None:
    """Plan the change whose number was pressed."""
    offered = [answer.command for answer in context.now.answers if answer.command.startswith(CHANGE)]
    number = context.digit or 0
    if not 1 <= number <= len(offered):
        return context.complain(tr("Press one of the numbers shown."))
    remedy: Remedy = next(one for one in REMEDIES if CHANGE + one == offered[number - 1])
    return change(context, remedy)


def changes_offered(context: Context) -> bool:
    return any(answer.command.startswith(CHANGE) for answer in context.now.answers)


def inspected(context: Context) -> Outcome:
    context.bench.recorder.inspect_after_over_limit()
    return Outcome()


def type_pressure(context: Context) -> Outcome:
    return Outcome(focus="figure")
