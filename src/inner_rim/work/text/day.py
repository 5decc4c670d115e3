"""Of the day: why wheels wait, why some are not planned, what aftercare is due."""

from collections.abc import Sequence
from datetime import datetime

from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.record.moments import in_words, moment, naive_local
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.hours import Hours
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, planned
from inner_rim.work.text.lines import ListLine, head
from inner_rim.work.text.step_names import step_name
from inner_rim.work.text.waits import next_reading, waits_words


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
            return tr("{step}: waits until {at}").format(step=step, at=_clock(hours.next_open(at), here))
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
    dues = [(care.day, state, care) for state in planned(wheels) for care in due_care(state.wheel, state.plan)]
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
