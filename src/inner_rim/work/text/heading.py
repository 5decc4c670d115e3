"""The words under a wheel's name."""

from datetime import datetime

from inner_rim.core.record.job import parse_due
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import inside_sentence, tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel
from inner_rim.work.text.stage_fields import WORK_WORDS


def summary_text(state: BenchWheel, units: UnitChoice, short: bool = False) -> str:
    """Return the line beside a wheel's name: size and rim, when it is due; else mass, work and customer too."""
    if not isinstance(state, PlannedWheel):
        return tr("A new wheel: its rim, tire and rider")
    wheel, job = state.wheel, state.ride_job
    parts = [
        tr("{size} on {width} {hook} rim")
        .format(
            size=wheel.tire.parsed_size.iso,
            width=show(wheel.rim.internal_width_mm, "mm", units),
            hook=spoken({"hooked": "hooked", "straight_side": "hookless"}.get(wheel.rim.hook or "", "")),
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
