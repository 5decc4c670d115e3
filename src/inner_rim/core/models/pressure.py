"""Pressures: everything together, and the starting pressure (docs/models.md 2.7).

Every pressure is gauge unless its name says `abs`. No pressure in a result lies above the limit.
"""

import math
from typing import Literal

import msgspec

from inner_rim.core.models.air import at_ride_kpa, ride_air, set_here_kpa, shop_ambient_kpa
from inner_rim.core.models.limit import (
    LimitFrom,
    LimitPart,
    hand_step_kpa,
    limit,
    rounded_within,
    seating_steps_kpa,
    settle_kpa,
    settle_method,
    why_limit,
    why_seating,
    why_settle,
)
from inner_rim.core.models.tire import MountedTire
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.practice import DROP, LOAD_SHARES
from inner_rim.core.record.resolved import USUAL, Learned, Methods, Rider
from inner_rim.core.record.why import Message, Why
from inner_rim.words import N_

#: Least riding pressure where no minimum is printed: of a width, and how it falls with it (common
#: practice).
FLOOR_KPA, FLOOR_AT_MM, FLOOR_POWER = 120.0, 40.0, 1.3
#: Half width of the 90 % band of a start, as a share: from nominal sizes, and with a caliper width
#: and a scale.
BAND_NOMINAL, BAND_MEASURED = 0.13, 0.04
NEAR_END_SHARE = 0.10
SUN_C = 60.0
INSERT_FACTOR = 0.9
STANDARD_GRAVITY_M_S2 = 9.80665
KPA_PER_MPA = 1000.0


class PressurePick(
    msgspec.Struct, frozen=True, rename={"method": "school", "by_method": "by_school"}
):
    """All pressures of a wheel; none is above `limit_kpa`.

    Attributes:
        limit_kpa: lowest of what is printed and what the rim's form allows; the safe limit where
            nothing was read.
        limit_from: what sets it; `unread` is the safe limit of `limit_part`.
        limit_part: the part whose figure is missing, None where the limit was read.
        seating_kpa: pressure steps; nothing is set later that is above the last of them.
        settle_kpa: sealing pressure, held until sealed.
        seated_kpa: at which both beads seated, None before that.
        settle_method: that gave it; `seating` in place of `printed` where nothing is printed.
        minimum_kpa: printed on the tire; None where not entered or above the limit.
        start_kpa: first riding pressure.
        clamped: "minimum", "floor" or "limit" where the start was moved into the range.
        near: "minimum" or "limit" where the start is within 10 % of that end.
        gauge_step_kpa, shop_ambient_kpa: of the shop's gauge and air, for what is read.
        band_kpa: 90 % band of the start, inside the range.
        by_method: start by each method, None where its figures were not entered.
        method: the method that was used.
        set_here_kpa: what to set in the shop so that it is right on the ride, cut at the limit, and
            at the floor.
        ride_kpa: pressure on the ride that is wanted.
        at_ride_kpa: what `set_here_kpa` is on the ride.
        hot_kpa: what the settled wheel comes to at 60 °C: a dark tire parked in the sun.
        load_n: load on this wheel.
        drop_share: deflection as a share of the mounted width.
        conflict: the tire's printed minimum lies above the limit.
        why: trail of the starting pressure.
        why_limit: trail of the limit.
        why_seating: trail of the steps.
        why_settle: trail of the sealing pressure.
    """

    limit_kpa: float
    limit_from: LimitFrom
    limit_part: LimitPart | None
    seating_kpa: tuple[float, ...]
    settle_kpa: float
    seated_kpa: float | None
    settle_method: str
    minimum_kpa: float | None
    start_kpa: float
    clamped: Literal["minimum", "floor", "limit"] | None
    near: Literal["minimum", "limit"] | None
    gauge_step_kpa: float
    shop_ambient_kpa: float
    band_kpa: tuple[float, float]
    by_method: dict[str, float | None]
    method: str
    set_here_kpa: float
    ride_kpa: float
    at_ride_kpa: float
    hot_kpa: float
    load_n: float
    drop_share: float
    conflict: bool
    why: Why
    why_limit: Why
    why_seating: Why
    why_settle: Why

    @property
    def lets_down_there(self) -> bool:
        """Whether the floor keeps more in here than is wanted on the ride: the rest is set at the
        place.
        """
        return self.at_ride_kpa > self.ride_kpa + hand_step_kpa(self.ride_kpa, self.gauge_step_kpa)

    @property
    def settled_kpa(self) -> float:
        """The pressure up to which the beads are checked: the sealing pressure, or the one set here
        if that is higher.
        """
        return max(self.settle_kpa, self.set_here_kpa)

    def steps_below(self, pressure_kpa: float) -> int:
        """Return how many pressure steps lie so far below a pressure that it is a step of its own
        after them.
        """
        return sum(
            step < pressure_kpa - hand_step_kpa(step, 0.0) - 1e-9 for step in self.seating_kpa
        )

    def seen_at(self, pressure_kpa: float) -> int:
        """Return how many pressure steps were checked in a tire that stood at a pressure."""
        return sum(
            step <= pressure_kpa + hand_step_kpa(step, 0.0) + 1e-9 for step in self.seating_kpa
        )

    def step_kpa(self, place: int) -> float:
        """Return a pressure step by its place; the one after the last is the sealing pressure."""
        return self.seating_kpa[place] if place < len(self.seating_kpa) else self.settled_kpa


def floor_kpa(nominal_width_mm: float) -> float:
    """Return the least riding pressure where no minimum is printed.

    120 * (40 / W)^1.3.

    >>> [round(floor_kpa(width)) for width in (28.0, 33.0, 50.0, 100.0)]
    [191, 154, 90, 36]

    Source: common practice, no published source.
    """
    return FLOOR_KPA * math.pow(FLOOR_AT_MM / nominal_width_mm, FLOOR_POWER)


def wheel_load_n(rider: Rider, position: str | None) -> float:
    """Return the load on a wheel: total mass * share * g; an unknown wheel gets the larger share.

    >>> round(wheel_load_n(rider, "front"), 1)
    353.0

    Source: shares common practice, no published source.
    """
    front, rear = LOAD_SHARES[rider.position]
    share = {"front": front, "rear": rear}.get(position or "", max(front, rear))
    return rider.total_mass_kg * share * STANDARD_GRAVITY_M_S2


def drop_pressure_kpa(
    load_n: float, drop_share: float, width_mm: float, outer_radius_mm: float
) -> float:
    """Return the pressure at which a tire drops by a share of its width under a load.

    The tire stands on an ellipse: N = pi * p * delta * sqrt(R * r), p in MPa, r = D / 2.

    >>> round(drop_pressure_kpa(444.8, 0.15, 37.0, 345.4))
    319

    Source: Hertz-like contact, derived; checked against F. Berto's published 15 % drop chart.
    """
    drop_mm = drop_share * width_mm
    contact = math.pi * drop_mm * math.sqrt(outer_radius_mm * 0.5 * width_mm)
    return KPA_PER_MPA * load_n / contact


def _raw_starts(
    wheel: Wheel,
    mounted: MountedTire,
    load: float,
    drop: float,
    floor: float,
    ceiling: float,
    learned: Learned,
) -> dict[str, float | None]:
    printed = wheel.tire.min_pressure_kpa is not None and wheel.tire.max_pressure_kpa is not None
    return {
        "drop": _drop_start_kpa(wheel, mounted, load, drop) * learned.start.factor,
        "previous": _carried_kpa(wheel, mounted),
        "range": 0.5 * (floor + ceiling) if printed else None,
    }


def _up_to(most_kpa: float, ladder: tuple[float, ...]) -> tuple[float, ...]:
    """The steps up to a pressure; what a hand can hardly tell from the last one takes its place."""
    if most_kpa <= ladder[-1]:
        return ladder
    near = most_kpa <= ladder[-1] + hand_step_kpa(ladder[-1], 0.0)
    return (*(ladder[:-1] if near else ladder), most_kpa)


def _within(value: float | None, floor: float, ceiling: float) -> float | None:
    return None if value is None else min(max(value, floor), ceiling)


def _hot_kpa(settled_kpa: float, methods: Methods) -> float:
    ambient = shop_ambient_kpa(methods)
    return set_here_kpa(settled_kpa, methods.shop_temperature_c, ambient, SUN_C, ambient)


def pick_pressure(
    wheel: Wheel,
    mounted: MountedTire,
    rider: Rider,
    methods: Methods,
    seated_kpa: float | None = None,
    stays_seated: bool = False,
    learned: Learned = USUAL,
) -> PressurePick:
    """Return every pressure of a wheel, in kPa: start = pressure at the drop, between floor and
    limit (docs/models.md 2.7).

    Args:
        wheel, mounted, rider, methods: what is known.
        seated_kpa: at which both beads seated, None before that; it becomes the sealing pressure.
        stays_seated: the beads stay where they are: it goes back to its riding pressure, and no
            higher.

    >>> pick_pressure(wheel, mounted, rider, methods).limit_kpa
    288.8888888888889

    Source: see `drop_pressure_kpa`, `limit`; ladder and settling common practice.
    """
    top = limit(wheel.tire, wheel.rim, mounted.nominal_width_mm)
    ceiling, gauge = top.limit_kpa, methods.gauge_step_kpa
    minimum = wheel.tire.min_pressure_kpa
    conflict = minimum is not None and minimum > ceiling
    floor = min(minimum if minimum is not None else floor_kpa(mounted.nominal_width_mm), ceiling)
    load = wheel.load_n if wheel.load_n is not None else wheel_load_n(rider, wheel.position)
    drop = DROP[rider.use]
    raw = _raw_starts(wheel, mounted, load, drop, floor, ceiling, learned)
    by_method = {name: _within(value, floor, ceiling) for name, value in raw.items()}
    method = methods.start_pressure if raw[methods.start_pressure] is not None else "drop"
    wanted = raw[method] or 0.0
    clamped = min(max(wanted, floor), ceiling)
    start = rounded_within(clamped, hand_step_kpa(clamped, gauge), floor, ceiling)
    band = _band(wheel, start, floor, ceiling)
    here = _set_here(start, rider, methods, gauge, floor, ceiling)
    ladder = seating_steps_kpa(mounted.nominal_width_mm, ceiling)
    printed = printed_kpa(wheel)
    seating = _up_to(max(settle_kpa(methods, ladder, start, ceiling, printed), start, here), ladder)
    settle = (
        start if stays_seated else settle_kpa(methods, ladder, start, ceiling, printed, seated_kpa)
    )
    return PressurePick(
        limit_kpa=ceiling,
        limit_from=top.limit_from,
        limit_part=top.limit_part,
        seating_kpa=seating,
        settle_kpa=settle,
        seated_kpa=seated_kpa,
        settle_method=settle_method(methods, printed),
        minimum_kpa=None if conflict else minimum,
        start_kpa=start,
        clamped=_clamped(wanted, floor, ceiling, minimum),
        near=_near(start, floor, ceiling),
        gauge_step_kpa=gauge,
        shop_ambient_kpa=shop_ambient_kpa(methods),
        band_kpa=band,
        by_method=by_method,
        method=method,
        set_here_kpa=here,
        ride_kpa=start,
        at_ride_kpa=at_ride_kpa(here, rider, methods),
        hot_kpa=_hot_kpa(settle, methods),
        load_n=load,
        drop_share=drop,
        conflict=conflict,
        why=_why_start(wheel, mounted, load, drop, raw, by_method, start, method, band, learned),
        why_limit=why_limit(wheel, top, mounted.nominal_width_mm),
        why_seating=why_seating(mounted.nominal_width_mm, seating, ceiling),
        why_settle=why_settle(methods, seating, start, settle, ceiling, printed, seated_kpa),
    )


def _clamped(
    wanted: float, floor: float, ceiling: float, minimum: float | None
) -> Literal["minimum", "floor", "limit"] | None:
    if wanted > ceiling:
        return "limit"
    if wanted < floor:
        return "minimum" if minimum is not None else "floor"
    return None


def _near(start: float, floor: float, ceiling: float) -> Literal["minimum", "limit"] | None:
    if start > (1.0 - NEAR_END_SHARE) * ceiling:
        return "limit"
    return "minimum" if start < (1.0 + NEAR_END_SHARE) * floor else None


def printed_kpa(wheel: Wheel) -> float | None:
    """Return the lowest maximum that is printed on tire or rim, kPa, None where nothing is.

    min(tire, rim).

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> printed_kpa(Wheel(rim=Rim(622.0, 24.0), tire=Tire(size="45-622", max_pressure_kpa=340.0), name="Tern"))
    340.0

    Source: the parts' manufacturers.
    """
    result = [p for p in (wheel.tire.max_pressure_kpa, wheel.rim.max_pressure_kpa) if p is not None]
    return min(result, default=None)


def _band(wheel: Wheel, start: float, floor: float, ceiling: float) -> tuple[float, float]:
    """The 90 % band around a start, narrow where width and load were measured; never above the
    limit, and below the floor only where floor and limit leave it no width.
    """
    measured = wheel.tire.measured_width_mm is not None and wheel.load_n is not None
    share = BAND_MEASURED if measured else BAND_NOMINAL
    high = min(start * (1.0 + share), ceiling)
    low = max(start * (1.0 - share), min(floor, start))
    return (low if low < high else start * (1.0 - share)), high


def carried_kpa(previous_kpa: float, previous_width_mm: float, width_mm: float) -> float:
    """Return the pressure of equal casing tension on another width: p * W is constant.

    >>> carried_kpa(600.0, 25.0, 40.0)
    375.0

    Source: derived (hoop tension of a tube).
    """
    return previous_kpa * previous_width_mm / width_mm


def _drop_start_kpa(wheel: Wheel, mounted: MountedTire, load_n: float, drop: float) -> float:
    pressure = drop_pressure_kpa(load_n, drop, mounted.mounted_width_mm, mounted.outer_radius_mm)
    return pressure * (INSERT_FACTOR if wheel.insert is not None else 1.0)


def _carried_kpa(wheel: Wheel, mounted: MountedTire) -> float | None:
    if wheel.previous_pressure_kpa is None:
        return None
    width = wheel.previous_width_mm or mounted.mounted_width_mm
    return carried_kpa(wheel.previous_pressure_kpa, width, mounted.mounted_width_mm)


def _set_here(
    start: float, rider: Rider, methods: Methods, gauge: float, floor: float, ceiling: float
) -> float:
    """What to set in the shop: never below the floor, nor so high that the limit is passed there or
    on the ride.
    """
    ride_c, ambient = ride_air(rider)
    if (ride_c, ambient) == (methods.shop_temperature_c, shop_ambient_kpa(methods)):
        return start
    here_c, here_ambient = methods.shop_temperature_c, shop_ambient_kpa(methods)
    value = set_here_kpa(start, ride_c, ambient, here_c, here_ambient)
    # the ride obeys the limit too
    ride_most = set_here_kpa(ceiling, ride_c, ambient, here_c, here_ambient)
    most = max(0.0, min(ceiling, ride_most))
    return rounded_within(value, hand_step_kpa(value, gauge), min(floor, most), most)


def _why_start(
    wheel: Wheel,
    mounted: MountedTire,
    load_n: float,
    drop: float,
    raw: dict[str, float | None],
    by_method: dict[str, float | None],
    start: float,
    method: str,
    band: tuple[float, float],
    learned: Learned,
) -> Why:
    figures: dict[str, float | int | str] = {
        "school": method,
        "load_n": load_n,
        "drop_percent": 100.0 * drop,
        "mounted_width_mm": mounted.mounted_width_mm,
        "outer_radius_mm": mounted.outer_radius_mm,
        "deflection_mm": drop * mounted.mounted_width_mm,
        "before_limits_kpa": raw[method] or 0.0,
        "start_kpa": start,
        "nine_times_in_ten_from_kpa": band[0],
        "nine_times_in_ten_to_kpa": band[1],
    }
    if wheel.insert is not None:
        figures["insert_percent"] = 100.0 * (INSERT_FACTOR - 1.0)
    return Why(
        formula=(
            N_(
                "load = π × pressure × deflection × √(outer radius × width / 2), solved for the pressure at the "
                "deflection for this ground; an insert takes 10 % off; then kept between minimum and limit"
            )
        ),
        figures=figures,
        source=N_("derived; within 5 % of F. Berto's published 15 % drop chart from 23 to 37 mm"),
        others=(
            *learned.start.said(N_("pressure that riders keep")),
            *(
                Message("{method}: {start_kpa}", {"method": name, "start_kpa": value})
                if value is not None
                else Message("{method}: unknown, its figures were not entered", {"method": name})
                for name, value in by_method.items()
            ),
        ),
        what_changes_it=N_("a scale under each wheel, the ground, the pressure that worked before"),
    )


#: What a test ride's word moves the pressure by, as a share (common practice, no published source).
RIDE_STEPS = {"right": 0.0, "harsh": -0.07, "rim_struck": 0.10, "burped": 0.08, "squirmed": 0.07}
RIDE_WORDS = {
    "right": N_("right"),
    "harsh": N_("harsh"),
    "rim_struck": N_("rim struck"),
    "burped": N_("it burped"),
    "squirmed": N_("it squirmed"),
}


def moved_kpa(now_kpa: float, said: str, pressure: PressurePick, gauge_step_kpa: float) -> float:
    """Return where a test ride's word moves a pressure: by a share, at least one gauge step, inside
    minimum and limit.

    p_next = p * (1 + share), share by the word.

    Raises:
        KeyError: no such word.

    Source: common practice, no published source.
    """
    share = RIDE_STEPS[said]
    step = share * now_kpa
    if share and abs(step) < gauge_step_kpa:
        step = math.copysign(gauge_step_kpa, share)
    floor = min(pressure.minimum_kpa or 0.0, pressure.limit_kpa)
    return rounded_within(now_kpa + step, gauge_step_kpa, floor, pressure.limit_kpa)
