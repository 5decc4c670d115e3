"""The day: what waits, what is due, in the order of the clock."""

from collections.abc import Sequence
from datetime import datetime

from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.wheel_plan import STAGE_WORDS
from inner_rim.core.record.job import parse_due
from inner_rim.core.record.moments import in_words, local, moment, naive_local
from inner_rim.core.record.units import UnitChoice
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.lines import Line, Tone, head


def day_lines(wheels: Sequence[WheelState], units: UnitChoice, now: datetime) -> tuple[Line, ...]:
    """Return every wheel in work: what is in trouble, what waits until when, what can be done now, what is due."""
    trouble, ready, waiting = [], [], []
    for state in wheels:
        progress = state.progress
        if progress is not None and progress.state == "finished":
            continue
        wait = (progress.waiting.until or progress.holding.next_reading_at) if progress is not None else ""
        until = moment(wait) if wait else None
        if progress is not None and progress.state in ("problem", "stopped"):
            trouble.append(
                _line(units, state, tr("problem") if progress.state == "problem" else tr("stop"), "stop")
            )
        elif until is not None and until > now:
            waiting.append((until, state))
        else:
            ready.append(state)
    found: list[Line] = []
    if trouble:
        found += [head(tr("In trouble")), *trouble]
    ready.sort(key=lambda state: _due(state) or datetime.max)
    if ready:
        found += [
            head(tr("Hands wanted now"), tr("by when they are due")),
            *(_line(units, s, "", "calm") for s in ready),
        ]
    if waiting:
        waiting.sort(key=lambda entry: entry[0])
        found.append(head(tr("Waiting"), tr("in the order of the clock")))
        found += [
            _line(units, state, tr("until {clock}").format(clock=in_words(local(until), "%H:%M")), "caution")
            for until, state in waiting
        ]
    return (*(found or [head(tr("The bench is empty"))]), *care_of_all(wheels, units, now))


def care_of_all(wheels: Sequence[WheelState], units: UnitChoice, now: datetime) -> list[Line]:
    """Return what is due on wheels that were handed over, soonest first; what is past says so."""
    today = now.date()
    dues = [
        (care.day, state, care)
        for state in wheels
        if state.wheel is not None and state.plan is not None
        for care in due_care(state.wheel, state.plan, state.log)
    ]
    dues.sort(key=lambda due: due[0])
    found = [head(tr("To look after"), tr("wheels that were handed over"))] if dues else []
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
