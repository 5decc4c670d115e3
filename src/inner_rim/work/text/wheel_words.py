"""The wheel's physical state in one line, and what a procedure takes in time and tools."""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import date, datetime, timedelta
from typing import TYPE_CHECKING

from inner_rim.core.procedure.setup import HARD_KPA, WORK_WORDS
from inner_rim.core.progress.diagnosis import ENDS, Facts
from inner_rim.core.record.job import parse_due
from inner_rim.core.record.moments import after, in_words, naive_local
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel

if TYPE_CHECKING:
    from inner_rim.core.plan.wheel_plan import WheelPlan
    from inner_rim.core.procedure.fold_state import LogSummary
    from inner_rim.core.record.job import Wheel
    from inner_rim.core.record.parts import Item

MINUTES_PER_HOUR = 60.0


def state_words(log: LogSummary, units: UnitChoice) -> str:
    """Return a wheel's state in words, such as ``core out · both beads seated · 65 ml in``."""
    state = log.state
    if log.doubtful:
        return tr("The log contradicts itself: planned as the wheel came in")
    parts = [_beads(state.first, state.last)]
    if state.valve == "in":
        parts.insert(0, tr("core out") if state.core == "out" else tr("core in"))
    if state.tube == "in":
        parts.append(tr("tube in"))
    if state.insert == "on":
        parts.append(tr("insert on"))
    if state.sealant == "in":
        parts.append(
            tr("{dose} in").format(dose=show(log.sealant_ml, "ml", units))
            if log.sealant_ml
            else tr("sealant in")
        )
    parts.append(tr("at pressure") if state.air == "up" else tr("no air"))
    if state.to_lay and log.changes.again == "layer":
        parts.append(tr("one more layer to lay"))
    elif log.layers_added == 1:
        parts.append(tr("one layer of tape added"))
    elif log.layers_added:
        parts.append(tr("{n} layers of tape added").format(n=log.layers_added))
    return " · ".join(parts)


def _beads(first: str, last: str) -> str:
    if (first, last) == ("seated", "seated"):
        return tr("both beads seated")
    if (first, last) == ("off", "off"):
        return tr("tire off")
    if last == "off":
        return tr("one bead on") if first == "on" else tr("one bead seated, one off")
    if last == "partial":
        return tr("last section open")
    return tr("both beads on, not seated")


def span_words(minutes: float) -> str:
    """Return a span of time in words.

    >>> span_words(35.0), span_words(130.0)
    ('35 min', '2 h 10 min')
    """
    whole = math.ceil(minutes)
    if whole < MINUTES_PER_HOUR:
        return tr("{minutes} min").format(minutes=whole)
    hours, rest = divmod(whole, 60)
    return (
        tr("{hours} h {minutes} min").format(hours=hours, minutes=rest)
        if rest
        else tr("{hours} h").format(hours=hours)
    )


def time_words(plan: WheelPlan) -> str:
    return tr("{work}: {hands} hands-on, {wait} of waiting").format(
        work=tr(WORK_WORDS[plan.setup.kind]),
        hands=span_words(plan.minutes_hands),
        wait=span_words(plan.minutes_wait),
    )


def head_lines(state: PlannedWheel) -> tuple[str, ...]:
    """Return what a wheel's procedure takes: time, when to start, what to lay out."""
    time = time_words(state.plan)
    due = state.job.draft.document.get("due")
    when = parse_due(due) if isinstance(due, str) else None
    if when is not None:
        when = naive_local(when)
        time += tr(" · start by {start} to be ready at {due}").format(
            start=in_words(start_by(state.plan, when), "%a %d %b %H:%M"),
            due=in_words(when, "%a %d %b %H:%M"),
        )
    return time, tr("Lay out: {tools}").format(tools=tool_words(state.plan.tools))


def start_by(plan: WheelPlan, due: datetime) -> datetime:
    return after(due, -timedelta(minutes=plan.minutes_hands + plan.minutes_wait))


def facts_of(state: BenchWheel, items: Iterable[Item]) -> Facts:
    """Return what a diagnosis can know of a wheel: how hard it is, its plugs, a tube that fits."""
    if not isinstance(state, PlannedWheel):
        return Facts(tube=tr("one that fits"))
    wheel, plan = state.wheel, state.plan
    seat, width = wheel.rim.bead_seat_diameter_mm, wheel.tire.parsed_size.width_mm
    plugs = (wheel.tire.plugs or 0) + plan.log.plugs
    fits = [
        item
        for item in items
        if item.kind == "tube"
        and item.stock > 0.0
        and item.spec.get("bead_seat_diameter_mm") == seat
        and float(item.spec.get("width_min_mm", 0.0))
        <= width
        <= float(item.spec.get("width_max_mm", 999.0))
    ]
    return Facts(
        hard=plan.pressure.start_kpa > HARD_KPA,
        plugs=plugs,
        tube=tube_words(wheel),
        on_shelf=fits[0].name if fits else "",
    )


def tube_words(wheel: Wheel) -> str:
    return tr("{width:g} mm wide, {seat:g}").format(
        width=wheel.tire.parsed_size.width_mm, seat=wheel.rim.bead_seat_diameter_mm
    )


def end_words(code: str, facts: Facts) -> str:
    """Return where a diagnosis has led, with the tube that fits."""
    tube = facts.tube + (
        tr(", on the shelf: {name}").format(name=facts.on_shelf) if facts.on_shelf else ""
    )
    return tr(ENDS[code]).replace("{tube}", tube)


def kept_tape(plan: WheelPlan) -> str:
    """Return why no tape is laid, in a few words; empty where it is."""
    if plan.setup.sealed:
        return tr("none needed")
    if plan.setup.lays_tape:
        return ""
    work = plan.wheel.work
    said = [tr("stays")]
    if work is not None and work.tape_laid:
        said.append(in_words(date.fromisoformat(work.tape_laid[:10]), "%b %Y"))
    if work is not None and work.tape_changes:
        said.append(tr("{n} tires on this tape").format(n=work.tape_changes))
    return " · ".join(said)


def kept_valve(plan: WheelPlan) -> str:
    setup = plan.setup
    if setup.does == "back_to_tube":
        return tr("comes out")
    return tr("stays") if setup.keeps_valve or not setup.tire_goes_on else ""


def tool_words(tools: Iterable[str]) -> str:
    return ", ".join(tr(tool) for tool in tools)
