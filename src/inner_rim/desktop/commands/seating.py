"""Commands while the beads are seated: attempts, and low sectors marked one by one."""

from __future__ import annotations

from typing import get_args

import msgspec

from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import Outcome as Seen
from inner_rim.desktop.commands.command import MAIN, Complaint, Context, Outcome
from inner_rim.words import tr
from inner_rim.work.text.questions import LowSpots

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
