"""The day: what waits, what is due, in the order of the clock."""

from collections.abc import Mapping, Sequence
from datetime import datetime

from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.record.job import parse_due
from inner_rim.core.record.moments import in_words, moment, naive_local
from inner_rim.core.record.stages import STAGE_WORDS
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.hours import Hours
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelKey, WheelState
from inner_rim.work.text.lines import Line, Tone, head


def day_lines(
    wheels: Sequence[WheelState],
    units: UnitChoice,
    now: datetime,
    hours: Hours,
    begins: Mapping[WheelKey, datetime] | None = None,
) -> tuple[Line, ...]:
    """Return every wheel in progress: problems, what can be done now, what waits until when, what is due."""
    open_wheels = [one for one in wheels if one.progress is None or one.progress.state != "finished"]
    problems = [one for one in open_wheels if one.progress and one.progress.state in BAD]
    others = [one for one in open_wheels if one not in problems]
    waiting = sorted(
        ((at, one) for one in others if (at := _until(one, now)) is not None), key=lambda w: w[0]
    )
    waits = [one for _at, one in waiting]
    begins = begins or {}
    ready = sorted(
        (one for one in others if one not in waits),
        key=lambda one: (begins.get(one.key, datetime.max), _due(one) or datetime.max),
    )
    found: list[Line] = []
    if problems:
        found += [
            head(tr("Problems")),
            *(_line(units, one, tr(BAD[_state(one)]), "stop") for one in problems),
        ]
    if ready:
        found += [
            head(
                tr("Ready to work on"),
                tr("in the order of the schedule") if begins else tr("by when they are due"),
            ),
            *(_line(units, one, _begins_words(begins.get(one.key), now), "calm") for one in ready),
        ]
    if waiting:
        found.append(head(tr("Waiting"), tr("in the order of the clock")))
        found += [
            _line(units, one, _until_words(naive_local(at), naive_local(now), hours), "caution")
            for at, one in waiting
        ]
    return (*(found or [head(tr("The bench is empty"))]), *care_of_all(wheels, units, now))


def _begins_words(begins: datetime | None, now: datetime) -> str:
    """When hands are wanted on a wheel, by the schedule."""
    if begins is None:
        return ""
    here = naive_local(now)
    if begins <= here:
        return tr("now")
    return tr("at {clock}").format(
        clock=in_words(begins, "%H:%M" if begins.date() == here.date() else "%a %H:%M")
    )


def _until_words(at: datetime, now: datetime, hours: Hours) -> str:
    """Until when a wheel waits, by the shop's hours: what is ready at night is ready when the shop opens."""
    there = hours.next_open(at)
    words = in_words(there, "%H:%M" if there.date() == now.date() else "%a %H:%M")
    return (
        tr("until {clock}").format(clock=words)
        if there == at
        else tr("when you open, {clock}").format(clock=words)
    )


#: States that ask for help, and the words on their chips.
BAD = {"problem": "problem", "stopped": "stop"}


def _state(state: WheelState) -> str:
    return state.progress.state if state.progress is not None else ""


def _until(state: WheelState, now: datetime) -> datetime | None:
    """Until when a wheel waits, None where it does not."""
    progress = state.progress
    wait = (progress.waiting.until or progress.holding.next_reading_at) if progress is not None else ""
    until = moment(wait) if wait else None
    return until if until is not None and until > now else None


def care_of_all(wheels: Sequence[WheelState], units: UnitChoice, now: datetime) -> list[Line]:
    """Return what is due on wheels that were handed over, soonest first; what is past says so."""
    today = now.date()
    dues = [
        (care.day, state, care)
        for state in wheels
        if state.wheel is not None and state.plan is not None
        for care in due_care(state.wheel, state.plan)
    ]
    dues.sort(key=lambda due: due[0])
    found = [head(tr("Aftercare"), tr("wheels that were handed over"))] if dues else []
    for day, state, care in dues:
        late = day <= today
        found.append(
            Line(
                state.name,
                in_words(day, "%d %b %Y"),
                note=care.words.read(units),
                chip=tr("due") if late else "",
                tone="caution" if late else "calm",
                key="/".join(state.key),
            )
        )
    return found


def _due(state: WheelState) -> datetime | None:
    text = state.job.draft.document.get("due")
    found = parse_due(text) if isinstance(text, str) else None
    return naive_local(found) if found is not None else None


def _line(units: UnitChoice, state: WheelState, chip: str, tone: Tone) -> Line:
    progress = state.progress
    due = _due(state)
    action = progress.action.read(units) if progress else tr("Type rim and tire")
    stage = tr(STAGE_WORDS[progress.stage]) if progress else tr("Check-in")
    return Line(
        state.name,
        stage,
        note=action,
        right=in_words(due, "%a %H:%M") if due is not None else "",
        chip=chip,
        tone=tone,
        key="/".join(state.key),
    )
