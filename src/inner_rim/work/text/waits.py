"""What a wheel waits for and how long, what can be promised, and what is due, in words."""

import math
from collections.abc import Sequence
from datetime import datetime

import msgspec

from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.job import Waits, parse_due
from inner_rim.core.record.log import Promised, standing
from inner_rim.core.record.moments import in_words, local, moment, naive_local
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.hours import Hours
from inner_rim.core.schedule.promise import Promise, PromiseStats
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, planned
from inner_rim.work.text.lines import ListLine, head
from inner_rim.work.text.odds import step_name
from inner_rim.work.text.wheel_words import span_words


def minutes_left(progress: Progress, now: datetime) -> float:
    """Return how long the wait after the last step still is; zero where there is none."""
    if not progress.waiting.until:
        return 0.0
    return max(0.0, (moment(progress.waiting.until) - now).total_seconds() / 60.0)


class RunningWait(msgspec.Struct, frozen=True):
    """A wait that runs: what for, the minute at which it ends, how long it still is, the share of
    it that is over.
    """

    what: str
    ends: str
    left: str
    over: float


def running_wait(progress: Progress, now: datetime) -> RunningWait | None:
    """Return the wait after the last step, in whole minutes; None where there is none."""
    left, after = minutes_left(progress, now), progress.waiting.after
    if left <= 0.0 or after is None:
        return None
    minutes = math.ceil(left)
    return RunningWait(
        step_name(after.key),
        wait_ends(progress, now),
        span_words(minutes),
        max(0.0, 1.0 - minutes / max(after.wait_minutes, minutes)),
    )


def wait_ends(progress: Progress, now: datetime) -> str:
    """When a wait is over by the clock on the wall: glue and air know no opening hours."""
    at = naive_local(moment(progress.waiting.until))
    return in_words(at, "%H:%M" if at.date() == naive_local(now).date() else "%a %H:%M")


def topped_up(state: PlannedWheel) -> bool:
    """Whether a tire that weeps was brought back to its pressure: a reading now is what the next
    compares with.
    """
    step = state.progress.step
    return (
        step is not None
        and step.code in ("hold.top_up", "hold.read")
        and state.plan.log.state.top_ups > 0
    )


def next_reading(progress: Progress, hours: Hours | None) -> datetime | None:
    """Return when to read the gauge again, on the shop's own clock: never while the shop is closed."""
    if not progress.holding.next_reading_at:
        return None
    at = naive_local(moment(progress.holding.next_reading_at))
    return hours.next_open(at) if hours is not None else at


def wanted_until(progress: Progress) -> datetime | None:
    """Return until when nothing can be done at a wheel: a wait, or the reading that will decide;
    None for at once.
    """
    ends = [moment(at) for at in (progress.waiting.until, progress.holding.next_reading_at) if at]
    return naive_local(max(ends)) if ends else None


def expected(waits: Waits | None) -> datetime | None:
    at = (
        parse_due(waits.until)
        if waits is not None and waits.on is not None and waits.until
        else None
    )
    return naive_local(at) if at is not None else None


def waits_of(state: BenchWheel) -> str:
    """Return what a wheel waits for, empty for nothing."""
    return waits_words(state.waits) if isinstance(state, PlannedWheel) else ""


def waits_words(waits: Waits | None) -> str:
    """Return what is waited for, empty for nothing.

    >>> waits_words(Waits("part", "60 mm valve", "2026-12-03"))
    'Waits for a part, expected Thu 03 Dec: 60 mm valve'
    """
    if waits is None or waits.on is None:
        return ""
    words = tr("Waits for the customer") if waits.on == "customer" else tr("Waits for a part")
    at = expected(waits)
    if at is not None:
        words = tr("{waits}, expected {day}").format(waits=words, day=in_words(at, "%a %d %b"))
    return f"{words}: {waits.what}" if waits.what else words


def wait_text(progress: Progress, minutes: float) -> str:
    """Return until when to wait, by the shop's clock, and how long that is."""
    until = local(moment(progress.waiting.until))
    span = (
        tr("{hours:.0f} h {minutes:.0f} min").format(hours=minutes // 60, minutes=minutes % 60)
        if minutes >= 60.0
        else tr("{minutes:.0f} min").format(minutes=math.ceil(minutes))
    )
    return tr("until {clock} · {span} left").format(clock=in_words(until, "%H:%M"), span=span)


def promise_words(promise: Promise | None) -> str:
    if promise is None:
        return ""
    sure, early = clock(promise.sure), clock(promise.early)
    if sure == early:
        return tr("{sure}, nine times in ten").format(sure=sure)
    return tr("{sure}, nine in ten; {early} at the earliest").format(sure=sure, early=early)


def ready_text(promise: Promise | None, due: str | None, several: bool = False) -> str:
    """Return when a job can be ready, after a due time that is too early for it."""
    if promise is None:
        return ""
    ready = tr("all wheels ready {when}") if several else tr("ready {when}")
    ready = ready.format(when=promise_words(promise))
    at = parse_due(due) if due else None
    if at is not None and naive_local(at) < promise.sure:
        return tr("due {at} is too early: {ready}").format(at=clock(naive_local(at)), ready=ready)
    return ready


def ready_or_why(state: BenchWheel, promise: Promise | None) -> str:
    """Return when a wheel's job can be ready, after what it waits for: no promise holds before that
    arrives.
    """
    document = state.job.draft.document
    ready = ready_text(promise, document.get("due"), len(document["wheels"]) > 1)
    return " · ".join(words for words in (waits_of(state), ready) if words)


def promise_given(state: BenchWheel) -> datetime | None:
    """Return the time promised for a wheel's job, where it still is what the job is due at; None
    for none.
    """
    due = state.value("due")
    given = [item.entry.due for item in standing(state.job.log) if isinstance(item.entry, Promised)]
    at = parse_due(str(due)) if due and given and given[-1] == due else None
    return naive_local(at) if at is not None else None


def clock(at: datetime) -> str:
    return in_words(at, "%a %H:%M")


def record_text(record: PromiseStats) -> str:
    """Return how promises were kept; empty where none was given."""
    if not record.given:
        return ""
    return tr("Promises kept: {kept} of {given}").format(kept=record.kept, given=record.given)


def why_waits(state: PlannedWheel, units: UnitChoice, now: datetime, hours: Hours) -> str:
    progress, here = state.progress, naive_local(now)
    if words := waits_words(state.waits):
        return words
    if progress.state == "problem":
        return tr("Needs a look: {what}").format(what=progress.action.read(units))
    if progress.stage == "hold" and state.plan.setup.weeping:
        return tr("Weeps: pumped up and spun until it holds, up to three days")
    if progress.waiting.until and progress.waiting.after is not None:
        at = naive_local(moment(progress.waiting.until))
        if at > here:
            step = step_name(progress.waiting.after.key)
            return tr("{step}: waits until {at}").format(
                step=step, at=_clock(hours.next_open(at), here)
            )
    reading = next_reading(progress, hours)
    if reading is not None and reading > here:
        return tr("Leak test: read it again {at}").format(at=_clock(reading, here))
    return ""


def why_not_planned(state: BenchWheel, units: UnitChoice) -> tuple[str, bool]:
    if not isinstance(state, PlannedWheel):
        return tr("Not planned: figures are missing"), False
    if words := waits_words(state.waits):
        return words, False
    if state.progress.open_stops:
        return tr("STOP: {why}").format(why=state.progress.open_stops[0].message.read(units)), True
    return tr("Not planned: figures are missing"), False


def _clock(at: datetime, now: datetime) -> str:
    return in_words(at, "%H:%M" if at.date() == now.date() else "%a %H:%M")


def care_of_all(wheels: Sequence[BenchWheel], units: UnitChoice, now: datetime) -> list[ListLine]:
    """Return what is due on wheels that were handed over, soonest first; what is past says so."""
    today = now.date()
    dues = [
        (care.day, state, care)
        for state in planned(wheels)
        for care in due_care(state.wheel, state.plan)
    ]
    dues.sort(key=lambda due: due[0])
    result = [head(tr("Aftercare"), tr("wheels that were handed over"))] if dues else []
    for day, state, care in dues:
        late = day <= today
        result.append(
            ListLine(
                state.name,
                in_words(day, "%d %b %Y"),
                note=care.words.read(units),
                chip=tr("due") if late else "",
                tone="caution" if late else "calm",
                key=state.key,
            )
        )
    return result
