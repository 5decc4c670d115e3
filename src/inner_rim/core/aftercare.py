"""Looking after a wheel: when the sealant is due, an insert or the tape is old, from the log alone (HANDBOOK 1.11, 2.4)."""

from collections.abc import Iterable
from datetime import date, datetime, timedelta

import msgspec

from .insert import TIRES_PER_INSERT
from .job import Wheel
from .log import Care, Dip, Dose, Logged, SignOff
from .moments import after, day_after, moment
from .plan import WheelPlan
from .practice import DUE_AT_DRIED_SHARE
from .why import Saying

#: Age at which a tape is looked at, and how many tire changes it stands (common practice, no published source).
TAPE_DAYS, TAPE_TIRES = 730, 3


class DueCare(msgspec.Struct, frozen=True):
    """Something to look after: its code, the day, what it is."""

    code: str
    day: date
    words: Saying


def dried_share(days: float, life_days: float) -> float:
    """Return the share of the sealant's liquid that has dried: linear over its life, at most all of it.

    >>> dried_share(90.0, 180.0)
    0.5

    Source: common practice, no published source; a label's life wins.
    """
    return min(1.0, max(0.0, days / life_days))


def fitted_life_days(free_at_start_ml: float, free_now_ml: float, days: float, usual_days: float) -> float:
    """Return the life that a dipstick reading says: what dried in so many days goes on at that rate.

    Kept between a quarter and four times the usual life: beyond that the reading is doubtful.

    >>> fitted_life_days(50.0, 30.0, 60.0, 180.0)
    150.0

    Raises:
        ValueError: no free sealant to begin with, or no time.

    Source: HANDBOOK 2.4, linear drying.
    """
    if free_at_start_ml <= 0.0 or days <= 0.0:
        raise ValueError("a rate needs sealant to begin with, and time")
    share = (free_at_start_ml - free_now_ml) / free_at_start_ml
    least, most = 0.25 * usual_days, 4.0 * usual_days
    return most if share <= days / most else max(least, days / share)


def due_care(wheel: Wheel, plan: WheelPlan, log: Iterable[Logged]) -> tuple[DueCare, ...]:
    """Return what is due on a wheel that was handed over, soonest first; nothing before that."""
    dosed: datetime | None = None
    taped: datetime | None = None
    tires = 0
    dip: tuple[datetime, float] | None = None
    signed = False
    for item in log:
        at, entry = moment(item.at), item.entry
        if isinstance(entry, Dose) or (isinstance(entry, Care) and entry.what == "refilled"):
            dosed, dip = at, None
        elif isinstance(entry, Dip) and not entry.calibrates:
            dip = (at, entry.free_ml)
        elif isinstance(entry, Care) and entry.what == "retaped":
            taped, tires = at, 0
        elif isinstance(entry, Care) and entry.what == "tire_changed":
            tires += 1
        elif isinstance(entry, SignOff):
            signed = True
            taped, dosed = taped or at, dosed or at
    if not signed or dosed is None or taped is None:
        return ()
    found = [*_sealant_dates(plan, dosed, dip), _tape_date(taped, tires)]
    used = (wheel.insert.tires_used or 0) + tires if wheel.insert is not None else 0
    if used >= TIRES_PER_INSERT:
        found.append(
            DueCare(
                "insert", taped.date(), Saying("Insert: used with {tires} tires, look at it", {"tires": used})
            )
        )
    return tuple(sorted(found, key=lambda care: care.day))


def _sealant_dates(plan: WheelPlan, dosed: datetime, dip: tuple[datetime, float] | None) -> list[DueCare]:
    usual = plan.sealant.refresh_after_days / DUE_AT_DRIED_SHARE
    life = usual
    if (
        dip is not None
        and (days := (dip[0] - dosed).total_seconds() / 86400.0) >= 1.0
        and plan.sealant.free_ml > 0.0
    ):
        life = fitted_life_days(plan.sealant.free_ml, dip[1], days, usual)
    refresh = after(dosed, timedelta(days=DUE_AT_DRIED_SHARE * life))
    check = after(dosed, timedelta(days=0.5 * life))
    dose = {"dose_ml": plan.sealant.dose_ml}
    found = [DueCare("refresh", refresh.date(), Saying("Refresh the sealant: {dose_ml}", dose))]
    if dip is None:
        found.append(DueCare("check", check.date(), Saying("Look into the tire: how much sealant is left?")))
    return found


def _tape_date(taped: datetime, tires: int) -> DueCare:
    if tires >= TAPE_TIRES:
        return DueCare(
            "tape", taped.date(), Saying("Tape: {tires} tire changes, look at it", {"tires": tires})
        )
    return DueCare("tape", day_after(taped.date(), TAPE_DAYS), Saying("Tape: two years old, look at it"))
