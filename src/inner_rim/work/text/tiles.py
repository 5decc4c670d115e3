"""A wheel in the list: its name, next action, and state in words; and the words under its name."""

import re
from collections import Counter
from collections.abc import Sequence
from datetime import datetime

import msgspec

from inner_rim.core.progress.progress import STATE_WORDS, Progress, State
from inner_rim.core.record.job import parse_due
from inner_rim.core.record.moments import in_words, naive_local
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.core.schedule.hours import Hours
from inner_rim.words import inside_sentence, tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, WheelKey
from inner_rim.work.text.stage_fields import WORK_WORDS
from inner_rim.work.text.waits import minutes_left, next_reading, wait_text


class Tile(msgspec.Struct, frozen=True):
    """A wheel as the list shows it; `bad` where a problem or a stop is open, `short` its name where
    there is little room: without its end where the bench has no other wheel of that bicycle.
    """

    key: WheelKey
    name: str
    action: str
    last: str
    bad: bool
    progress: Progress | None
    short: str = ""


def shortened(tiles: Sequence[Tile]) -> tuple[Tile, ...]:
    heads = Counter(tile.name.partition(" · ")[0] for tile in tiles)
    result = []
    for tile in tiles:
        head, _, end = tile.name.partition(" · ")
        short = f"{head}\n{end}" if end and heads[head] > 1 else head or tile.name
        result.append(tile if short == tile.short else msgspec.structs.replace(tile, short=short))
    return tuple(result)


def tile_of(
    state: BenchWheel,
    units: UnitChoice,
    now: datetime,
    begins: datetime | None = None,
    hours: Hours | None = None,
) -> Tile:
    """Return a wheel's tile.

    Args:
        begins: when the day's plan wants hands on it, None where it does not.
    """
    progress = state.progress if isinstance(state, PlannedWheel) else None
    return Tile(
        key=state.key,
        name=state.name,
        action=_action(state, units),
        last=due_text(progress, now, begins, hours),
        bad=progress is not None and progress.state in ("problem", "stopped"),
        progress=progress,
    )


def _action(state: BenchWheel, units: UnitChoice) -> str:
    """What a wheel wants next; one that is back for another visit says so."""
    if not isinstance(state, PlannedWheel):
        return tr("Type rim and tire")
    if state.value("work.rode_before") and not state.log:
        return tr("Back again: check it in")
    return first_clause(state.progress.action.read(units))


def first_clause(sentence: str) -> str:
    """Return the first clause of a sentence, and one more behind a single word; the panel has the
    whole.

    >>> first_clause("Spin it past a fixed point: no hop, no wobble?"), first_clause("Pump to 2.2 bar. Stop.")
    ('Spin it past a fixed point', 'Pump to 2.2 bar')
    >>> first_clause("Old tape good? No cut.")
    'Old tape good'
    """
    first = re.split(r"[:;?!.](?=\s|$)", sentence, maxsplit=1)[0]
    if " " in first:
        return first
    rest = re.split(r"[:;?!.,](?=\s|$)", sentence[len(first) + 1 :], maxsplit=1)[0]
    return sentence[: len(first) + 1 + len(rest)] if rest.strip() else first


def due_text(
    progress: Progress | None,
    now: datetime,
    begins: datetime | None = None,
    hours: Hours | None = None,
) -> str:
    """Return the last line of a tile: until when it waits, when work goes on, or its state in a
    word.
    """
    if progress is None:
        return tr(STATE_WORDS["to_do"])
    left = minutes_left(progress, now)
    if left > 0.0 and progress.state == "working":
        return wait_text(progress, left)
    at = next_reading(progress, hours) if progress.state == "working" else None
    if at is not None and at > naive_local(now):
        return tr("read it {clock}").format(clock=in_words(at, "%a %H:%M"))
    if begins is not None and progress.state in ("to_do", "working"):
        return begins_text(progress.state, begins, naive_local(now))
    return tr(STATE_WORDS[progress.state])


def begins_text(state: State, begins: datetime, now: datetime) -> str:
    """Return when to start with a wheel, or to go on.

    >>> begins_text("working", datetime(2026, 11, 25, 9, 40), datetime(2026, 11, 25, 8))
    'go on at 09:40'
    """
    if begins <= now:
        return tr("start now") if state == "to_do" else tr("go on now")
    at = in_words(begins, "%H:%M" if begins.date() == now.date() else "%a %H:%M")
    return (tr("start at {at}") if state == "to_do" else tr("go on at {at}")).format(at=at)


def summary_text(state: BenchWheel, units: UnitChoice, short: bool = False) -> str:
    """Return the line beside a wheel's name: size and rim, when it is due; else mass, work and
    customer too.
    """
    if not isinstance(state, PlannedWheel):
        return tr("A new wheel: its rim, tire and rider")
    wheel, job = state.wheel, state.ride_job
    parts = [
        tr("{size} on {width} {hook} rim")
        .format(
            size=wheel.tire.parsed_size.iso,
            width=show(wheel.rim.internal_width_mm, "mm", units),
            hook=spoken(
                {"hooked": "hooked", "straight_side": "hookless"}.get(wheel.rim.hook or "", "")
            ),
        )
        .replace("  ", " ")
    ]
    if not short and job.ride is not None and job.ride.total_mass_kg is not None:
        parts.append(show(job.ride.total_mass_kg, "kg", units))
    kind = wheel.work.kind if wheel.work is not None else None
    if not short and kind is not None and kind != "convert":
        parts.append(inside_sentence(tr(WORK_WORDS[kind])))
    if not short and job.customer:
        parts.append(job.customer)
    due = parse_due(job.due) if job.due else None
    if due is not None:
        parts.append(tr("due {when}").format(when=_when(due)))
    return "  ·  ".join(parts)


def _when(due: datetime) -> str:
    return in_words(due, "%a %d %b %H:%M" if due.hour or due.minute else "%a %d %b")
