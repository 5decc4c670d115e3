"""Evidence from a wheel's visits for the figures that are learned, from plans after their logs."""

import itertools
import math
from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import NamedTuple

import msgspec

from inner_rim.core.learning.effects import KEPT_ERROR, Between, Key, Seen
from inner_rim.core.models.inflation import SOURCE_WORDS, Bottle, max_leak_l_s
from inner_rim.core.models.sealant import dip_band_ml, pool_from_dip_ml, pool_radii_mm
from inner_rim.core.models.seating_pressure import SeatingChance, seating_chance
from inner_rim.core.plan.advisor import GAP_LEFT
from inner_rim.core.plan.wheel_plan import WheelPlan, pooled_ml
from inner_rim.core.record.job import Ride, Wheel
from inner_rim.core.record.log import Attempt, Logged
from inner_rim.core.record.moments import moment
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.words import N_

#: Days after which a dip tells something of drying, and the shares that must be used and left for
#: it.
MIN_DAYS, MIN_USED, MAX_USED = 3.0, 0.05, 0.95


#: The farthest that a kept pressure may be from what was proposed, as a logarithm.
MAX_OFF = math.log(2.0)


class Visit(msgspec.Struct, frozen=True):
    """One job of one wheel.

    Attributes:
        plan: after its log.
        log: its entries that count, oldest first.
    """

    key: Key
    name: str
    wheel: Wheel
    ride: Ride | None
    customer: str
    plan: WheelPlan
    log: tuple[Logged, ...]

    @property
    def attempts(self) -> tuple[Attempt, ...]:
        """The tries without a tube: what a tube seats says nothing of the gap."""
        return tuple(
            item.entry
            for item in self.log
            if isinstance(item.entry, Attempt) and not item.entry.tube
        )


def gap_evidence(visits: Sequence[Visit]) -> Iterator[Between]:
    """Yield what the tries at a wheel say of its gap, one term a wheel: above the largest that a
    source failed to outrun, below the smallest that one did, remedies counted. Pressure that builds
    has outrun it, whether the beads seated or not.

    ln(greatest leak of the source / leak of the usual gap of such wheels), what was changed leaving
    its share of the leak.
    """
    for visit in visits:
        plan, volume = visit.plan, max(0.1, visit.plan.tire.air_volume_ml / ML_PER_LITER)
        bottle, left = Bottle(plan.methods.bottle_ml, plan.methods.bottle_kpa), 1.0
        low, high = -math.inf, math.inf
        for one in visit.attempts:
            for remedy in one.changed:
                left *= GAP_LEFT.get(remedy, 1.0)
            if one.source not in SOURCE_WORDS or one.core_out is None:
                continue
            most = max_leak_l_s(volume, one.source, one.core_out, bottle)
            threshold = math.log(max(1e-6, most) / (max(1e-6, plan.seating_odds.needed_l_s) * left))
            if one.builds(plan.pressure.seating_kpa[0]):
                high = min(high, threshold)
            else:
                low = max(low, threshold)
        if low < high and (low, high) != (-math.inf, math.inf):
            yield Between(low, high, gap_groups(visit.wheel), visit.key)


def seat_evidence(visits: Sequence[Visit]) -> Iterator[Between]:
    """Yield what the first climb of each wheel says of the pressure at which its beads seat: two
    pops of a live gauge are exact readings; else it lies between the highest try that did not seat
    them and the lowest that did.

    low, high = ln(pressure / median of such wheels), what was changed counted in the median.
    """
    for visit in visits:
        low, high = -math.inf, math.inf
        exact: tuple[float, ...] = ()
        changed: set[str] = set()
        for one in visit.attempts:
            changed |= set(one.changed)
            if not one.builds(visit.plan.pressure.seating_kpa[0]) or one.peak_kpa <= 0.0:
                continue
            median = _usual_seat(visit, changed).median_kpa
            at = math.log(one.peak_kpa / median)
            if one.outcome == "both_up":
                high = at
                exact = tuple(
                    math.log(pop.pressure_kpa / median)
                    for pop in one.pops
                    if pop.pressure_kpa > 0.0
                )
                break
            low = max(low, at)
        groups = gap_groups(visit.wheel)
        if len(exact) == 2:
            yield from (Between(at, at, groups, visit.key) for at in exact)
        elif low < high and (low, high) != (-math.inf, math.inf):
            yield Between(low, high, groups, visit.key, 2)


def _usual_seat(visit: Visit, changed: set[str]) -> SeatingChance:
    plan = visit.plan
    return seating_chance(
        visit.wheel, plan.methods, plan.tire.nominal_width_mm, plan.tape.layers, changed
    )


def gap_groups(wheel: Wheel) -> dict[str, str]:
    """Return the groups of a gap: shop, rim, tire, and pair; a part without a name has none."""
    rim, tire = wheel.rim.name or "", wheel.tire.name or ""
    named = {"rim": rim, "tire": tire, "pair": f"{rim} · {tire}" if rim and tire else ""}
    return {"shop": "", **{kind: key for kind, key in named.items() if key}}


def kept_evidence(visits: Sequence[Visit]) -> Iterator[Seen]:
    """Yield the logarithm of kept over proposed pressure of each wheel that came back; its visits
    are in their order.

    What was proposed is what the load asked for at the visit before (the method `drop`). A pressure
    that was only carried over from that visit says nothing of the rider, and one beyond a factor of
    two is a slip of the hand or of the unit.
    """
    for before, after in itertools.pairwise(visits):
        kept, proposed = after.wheel.previous_pressure_kpa, before.plan.pressure.by_method["drop"]
        said = after.wheel.work is not None and after.wheel.work.kept_said
        signed = before.plan.log.signed is not None
        if kept and proposed and said and signed and abs(math.log(kept / proposed)) <= MAX_OFF:
            yield Seen(math.log(kept / proposed), KEPT_ERROR, kept_groups(before), after.key)


class Ridden(NamedTuple):
    """A wheel after it was handed over: that visit, the days until it was back or until now, and
    the visit that it came back for, None where it has not.
    """

    visit: Visit
    days: float
    back: Visit | None


def ridden(visits: Sequence[Visit], now: datetime) -> Iterator[Ridden]:
    """Yield how a wheel rode after each visit; its visits are in their order."""
    for place, visit in enumerate(visits):
        if visit.plan.log.signed is None:
            continue
        after = next((one for one in visits[place + 1 :] if one.log), None)
        end = moment(after.log[0].at) if after is not None else now
        days = (end - moment(visit.plan.log.signed_at)).total_seconds() / 86400.0
        yield Ridden(visit, max(0.0, days), after)


#: A kind of tape, just laid and kept from an earlier visit.
TAPE_SORTS = {
    "polyester": (N_("polyester tape, new"), N_("polyester tape, kept")),
    "cloth": (N_("cloth tape, new"), N_("cloth tape, kept")),
    "film": (N_("film tape, new"), N_("film tape, kept")),
    "overlay": (N_("overlay tape, new"), N_("overlay tape, kept")),
}


def sorts_of(visit: Visit) -> Iterator[str]:
    """Yield what may make a wheel fail: its kind of tape and how old it was, plugs, a tire without
    a marking.
    """
    if not visit.plan.setup.sealed:
        laid = visit.wheel.work.tape_laid if visit.wheel.work is not None else None
        old = laid is not None and not visit.plan.setup.lays_tape
        yield TAPE_SORTS[visit.plan.tape.material][old]
    if (visit.wheel.tire.plugs or 0) + visit.plan.log.plugs:
        yield N_("plugged tire")
    if not visit.wheel.tire.tubeless_ready:
        yield N_("tire without a marking")


def kept_groups(visit: Visit) -> dict[str, str]:
    """Return the groups of a pressure: shop, rider, ground."""
    ground = visit.ride.use if visit.ride is not None and visit.ride.use is not None else ""
    named = {"rider": visit.customer, "ground": ground}
    return {"shop": "", **{kind: key for kind, key in named.items() if key}}


def drying_evidence(visits: Sequence[Visit]) -> Iterator[Between]:
    """Yield the logarithm of the rate of drying over the climate's of each telling dip; one that
    finds next to nothing is a bound.

    ln(share used / days * the climate's days), from ln(0.95 / days * the climate's days) up where
    it is dry.
    """
    for visit in visits:
        plan, since = visit.plan, visit.plan.log.since
        pool = pooled_ml(plan)
        if not since.dosed_at or pool <= 0.0:
            continue
        radii, factor = (
            pool_radii_mm(plan.tire, visit.wheel.rim.bead_seat_diameter_mm),
            plan.log.dip_factor,
        )
        groups, climate_days = drying_groups(visit), plan.sealant.refresh_after_days
        for at, depth in since.dips:
            days = (moment(at) - moment(since.dosed_at)).total_seconds() / 86400.0
            used = 1.0 - pool_from_dip_ml(depth, *radii, factor) / pool
            if days < MIN_DAYS or used < MIN_USED:
                continue
            low, high = dip_band_ml(depth, *radii, factor)
            error = max(0.05, 0.5 * (high - low) / pool / used)
            rate = math.log(min(used, MAX_USED) / days * climate_days)
            most = math.inf if used > MAX_USED else rate
            yield Between(rate, most, groups, visit.key, error=error)


def drying_groups(visit: Visit) -> dict[str, str]:
    """Return the groups of a dip: shop, and product where it was named."""
    product = visit.plan.log.sealant
    return {"shop": "", **({"product": product} if product else {})}
