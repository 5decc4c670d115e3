"""Aftercare: when the sealant is due, an insert or the tape is old, from the log alone
(docs/models.md 2.4).
"""

import math
from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import Literal, NamedTuple

import msgspec

from inner_rim.core.models.insert import TIRES_PER_INSERT
from inner_rim.core.models.sealant import dip_band_ml, pool_from_dip_ml, pool_radii_mm
from inner_rim.core.plan.wheel_plan import WheelPlan, inside_ml, pooled_ml
from inner_rim.core.procedure.setup import TAPE_CHANGES
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.moments import after, day_after, in_words, moment
from inner_rim.core.record.why import Message
from inner_rim.words import N_

#: Age at which a tape is inspected, days (common practice, no published source).
TAPE_DAYS = 730

#: Spread of the logarithm of the drying rate around the climate's, and the grid it is worked out
#: on.
RATE_SPREAD, GRID_REACH, GRID_STEPS = 0.35, 1.4, 40


class DueCare(msgspec.Struct, frozen=True):
    """A task of aftercare: its code, the day, what it is."""

    code: str
    day: date
    words: Message


class DipSeen(NamedTuple):
    """A dip: days after the dose, free sealant in ml, and its standard error in ml."""

    days: float
    free_ml: float
    error_ml: float


def fitted_life_days(free_at_start_ml: float, dips: Sequence[DipSeen], usual_days: float) -> float:
    """Return the sealant's life from dips, shrunk toward the climate's.

    Posterior mean of the logarithm of the drying rate: prior normal around the climate's rate with
    a spread of 0.35, each dip normal around what linear drying leaves. A dip too early to tell
    leaves the climate's life.

    >>> round(fitted_life_days(50.0, [], 180.0))
    180

    Raises:
        ValueError: no free sealant to begin with.

    Source: docs/models.md 2.4; Bayes' rule on a grid.
    """
    if free_at_start_ml <= 0.0:
        raise ValueError("a rate needs sealant to begin with")
    total = mean = 0.0
    for step in range(-GRID_STEPS, GRID_STEPS + 1):
        log_rate = GRID_REACH * step / GRID_STEPS
        rate = math.exp(log_rate) / usual_days
        fit = -0.5 * (log_rate / RATE_SPREAD) ** 2
        for dip in dips:
            left = free_at_start_ml * max(0.0, 1.0 - rate * dip.days)
            fit -= 0.5 * ((dip.free_ml - left) / max(dip.error_ml, 0.1)) ** 2
        weight = math.exp(max(fit, -700.0))
        total += weight
        mean += weight * log_rate
    return usual_days / math.exp(mean / total)


def due_care(wheel: Wheel, plan: WheelPlan) -> tuple[DueCare, ...]:
    """Return what is due on a wheel that was handed over, soonest first; nothing before that."""
    since = plan.log.since
    if not since.handed_over_at:
        return ()
    if plan.setup.does == "back_to_tube":
        return ()
    taped = _taped_on(wheel, plan)
    result = [*_sealant_dates(wheel, plan), *_tape_dates(wheel, plan, taped)]
    insert = plan.wheel.insert
    if insert is not None:
        before = insert.tires_used if insert.tires_used is not None else 0
        used = before + since.tires
        if used >= TIRES_PER_INSERT:
            words = Message("Insert: used with {tires} tires, inspect it", {"tires": used})
            result.append(DueCare("insert", taped, words))
    return tuple(sorted(result, key=lambda care: care.day))


class Overdue(msgspec.Struct, frozen=True):
    """What stays in a wheel although its date is past, and what is said of it."""

    what: Literal["sealant", "tape"]
    words: Message


def overdue(wheel: Wheel, plan: WheelPlan, today: date) -> tuple[Overdue, ...]:
    """Return what stays in a wheel although its date is past: work to offer at check-in.

    Source: docs/job.md 1.3 and 1.5, common practice.
    """
    setup, since = plan.setup, plan.log.since
    result = []
    if setup.does == "repair" and not setup.opens and setup.arrival.sealant and since.sealant_at:
        due = after(moment(since.sealant_at), timedelta(days=life_days(wheel, plan))).date()
        if due <= today:
            words = N_("The sealant was due on {day}: offer to refresh it, or leave it.")
            result.append(Overdue("sealant", Message(words, {"day": in_words(due, "%d %b %Y")})))
    if setup.sealed or setup.lays_tape or not setup.arrival.taped or setup.does == "back_to_tube":
        return tuple(result)
    laid = wheel.work.tape_laid if wheel.work is not None else None
    tires = (wheel.work.tape_changes or 0) if wheel.work is not None else 0
    most = TAPE_CHANGES.get(setup.arrival.tape_kind or plan.tape.material)
    if laid and day_after(date.fromisoformat(laid[:10]), TAPE_DAYS) <= today:
        day = in_words(date.fromisoformat(laid[:10]), "%d %b %Y")
        words = N_("Tape laid {day}, over two years ago: offer new tape, or look at it closely.")
        result.append(Overdue("tape", Message(words, {"day": day})))
    elif most is not None and tires >= most:
        words = N_("{tires} tire changes on this tape: offer new tape, or look at it closely.")
        result.append(Overdue("tape", Message(words, {"tires": tires})))
    return tuple(result)


def _dip_seen(
    wheel: Wheel, plan: WheelPlan, dosed: datetime, at: datetime, depth_mm: float
) -> DipSeen:
    """A dip as the drying rate sees it; its depth is off by about 1 mm."""
    radii = pool_radii_mm(plan.tire, wheel.rim.bead_seat_diameter_mm)
    factor = plan.log.dip_factor
    low, high = dip_band_ml(depth_mm, *radii, factor)
    days = (at - dosed).total_seconds() / 86400.0
    return DipSeen(days, pool_from_dip_ml(depth_mm, *radii, factor), max(0.5, 0.5 * (high - low)))


def _dosed(plan: WheelPlan) -> datetime:
    """When sealant went in last: in this job, else as it was said at check-in; as far as is known,
    when the wheel was handed over.
    """
    since = plan.log.since
    return moment(since.dosed_at or since.sealant_at or since.handed_over_at)


def _telling_dips(wheel: Wheel, plan: WheelPlan) -> list[DipSeen]:
    """The dips that are old enough to tell how fast the sealant dries."""
    dips = (
        _dip_seen(wheel, plan, _dosed(plan), moment(at), depth) for at, depth in plan.log.since.dips
    )
    return [dip for dip in dips if dip.days >= 1.0]


def life_days(wheel: Wheel, plan: WheelPlan) -> float:
    """Return the days from the last dose until the sealant is to be refreshed, by its dips where
    there are any.
    """
    life, pool, dips = plan.sealant.refresh_after_days, pooled_ml(plan), _telling_dips(wheel, plan)
    return fitted_life_days(pool, dips, life) if dips and pool > 0.0 else life


def sealant_left_ml(wheel: Wheel, plan: WheelPlan, now: datetime) -> float:
    """Return the sealant that is left in a wheel that was handed over, as forecast, ml.

    inside * (1 - days since the last dose / its life).

    Source: docs/models.md 2.4 (linear drying).
    """
    days = (now - _dosed(plan)).total_seconds() / 86400.0
    return inside_ml(plan) * min(1.0, max(0.0, 1.0 - days / max(1.0, life_days(wheel, plan))))


def _sealant_dates(wheel: Wheel, plan: WheelPlan) -> list[DueCare]:
    """Check at half of the sealant's life, refresh at its end."""
    since, life, dips = plan.log.since, life_days(wheel, plan), _telling_dips(wheel, plan)
    dosed = moment(since.sealant_at or since.handed_over_at)
    refresh, check = after(dosed, timedelta(days=life)), after(dosed, timedelta(days=0.5 * life))
    dose = {"dose_ml": plan.sealant.dose_ml}
    result = [DueCare("refresh", refresh.date(), Message("Refresh the sealant: {dose_ml}", dose))]
    if not dips:
        result.append(
            DueCare("check", check.date(), Message("Look into the tire: how much sealant is left?"))
        )
    return result


def _taped_on(wheel: Wheel, plan: WheelPlan) -> date:
    """The day a tape was laid: in this job; else as it was entered at check-in; else, as far as is
    known, this visit.
    """
    laid = wheel.work.tape_laid if wheel.work is not None else None
    if not plan.log.since.laid_at and laid:
        return date.fromisoformat(laid[:10])
    return moment(plan.log.since.laid_at or plan.log.since.handed_over_at).date()


def _tape_dates(wheel: Wheel, plan: WheelPlan, laid: date) -> list[DueCare]:
    """Inspect the tape after two years, and after as many tires as its kind lasts (docs/job.md
    1.5).
    """
    if plan.setup.sealed:
        return []
    kept = wheel.work.tape_changes if wheel.work is not None and not plan.setup.lays_tape else None
    kind = plan.tape.material
    if not plan.setup.lays_tape and plan.setup.arrival.tape_kind:
        kind = plan.setup.arrival.tape_kind
    tires, most = plan.log.since.tires + (kept or 0), TAPE_CHANGES.get(kind)
    if most is not None and tires >= most:
        words = Message("Tape: {tires} tire changes, inspect it", {"tires": tires})
        if most == 1:
            words = Message("Film tape: lay new tape, a tire was changed on it")
        return [DueCare("tape", laid, words)]
    return [DueCare("tape", day_after(laid, TAPE_DAYS), Message("Tape: two years old, inspect it"))]
