"""Pressures: the limit, the seating steps, the starting pressure and settling (docs/models.md 2.7).

Every pressure is gauge unless its name says `abs`. No pressure in a result lies above the limit.
"""

import math
from typing import Literal

import msgspec

from inner_rim.core.models.tire import MountedTire
from inner_rim.core.record.job import Practice, Ride, Rim, Tire, Wheel
from inner_rim.core.record.practice import DROP, LOAD_SHARES, seating_ladder_kpa
from inner_rim.core.record.why import PRACTICE, Message, Why

LimitFrom = Literal["tire", "rim", "straight_side", "unmarked", "unread"]
LimitPart = Literal["tire", "rim"]

STRAIGHT_SIDE_LIMIT_KPA = 500.0  # ISO 5775-2
UNMARKED_LIMIT_KPA = 300.0  # a tire without tubeless mark, from memory
#: Cautious caps for what was not read (from memory): tire by nominal width, rim by internal width.
TIRE_CAP_KPA_MM, TIRE_CAP_MOST_KPA = 13_000.0, 400.0
RIM_CAP_NARROW_KPA, RIM_CAP_WIDE_KPA, RIM_NARROW_UP_TO_MM = 500.0, 350.0, 25.0
RIM_NO_FIGURE_KPA, RIM_NO_FIGURE_UP_TO_MM = 700.0, 19.0
#: Least riding pressure where no minimum is printed, from a nominal width in mm upward (common practice).
FLOORS_KPA: tuple[tuple[float, float], ...] = ((90.0, 35.0), (50.0, 80.0), (35.0, 120.0), (0.0, 250.0))
SETTLE_FACTOR, SETTLE_STEP = 1.3, 3
#: Nobody sets a pressure finer than this: below 200 kPa, and from there up.
HAND_STEP_KPA, HAND_STEP_HIGH_KPA, HIGH_FROM_KPA = 5.0, 10.0, 200.0
#: Half width of the 90 % band of a start, as a share: from nominal sizes, and with a caliper width and a scale.
BAND_NOMINAL, BAND_MEASURED = 0.13, 0.04
NEAR_END_SHARE = 0.10
SUN_C = 40.0
INSERT_FACTOR = 0.9
STANDARD_GRAVITY_M_S2 = 9.80665
SEA_LEVEL_KPA = 101.325
KELVIN_AT_ZERO_C = 273.15
KPA_PER_MPA = 1000.0

LIMIT_WORDS: dict[LimitFrom, str] = {
    "tire": "printed on the tire",
    "rim": "printed on the rim",
    "straight_side": "ISO 5775-2, hookless rim",
    "unmarked": "a tire without tubeless mark",
    "unread": "not read: a cautious cap",
}


class Limit(msgspec.Struct, frozen=True):
    """The pressure that nothing may pass, and the part that sets it."""

    limit_kpa: float
    limit_from: LimitFrom
    limit_part: LimitPart | None = None


def limit_words(found: "Limit | PressurePick") -> str:
    """Return where a limit comes from, in words; of a part that was not read, which one."""
    if found.limit_from == "unread" and found.limit_part is not None:
        return UNREAD_WORDS[found.limit_part]
    return LIMIT_WORDS[found.limit_from]


UNREAD_WORDS: dict[LimitPart, str] = {
    "tire": "tire not read: a cautious cap",
    "rim": "rim not read: a cautious cap",
}


class PressurePick(msgspec.Struct, frozen=True):
    """All pressures of a wheel; none is above `limit_kpa`.

    Attributes:
        limit_kpa: lowest of what is printed and what the rim's form allows; the cautious cap where
            nothing was read.
        limit_from: what sets it; `unread` is the cautious cap of `limit_part`.
        limit_part: the part whose figure is missing, None where the limit was read.
        seating_kpa: pressures to climb through; nothing is set later that is above the last of them.
        settle_kpa: held until sealed.
        minimum_kpa: printed on the tire; None where unread or above the limit.
        start_kpa: first riding pressure.
        clamped: "minimum", "floor" or "limit" where the start was moved into the range.
        near: "minimum" or "limit" where the start is within 10 % of that end.
        gauge_step_kpa, shop_ambient_kpa: of the shop's gauge and air, for what is read.
        band_kpa: 90 % band of the start, inside the range.
        by_school: start by each school, None where it cannot be told.
        school: the school that was used.
        set_here_kpa: what to set in the shop so that it is right on the ride, cut at the limit.
        ride_kpa: pressure on the ride that is wanted.
        at_ride_kpa: what `set_here_kpa` is on the ride.
        hot_kpa: what the settled wheel comes to at 40 °C in the sun.
        load_n: load on this wheel.
        drop_share: deflection as a share of the mounted width.
        conflict: the tire's printed minimum lies above the limit.
        why: trail of the starting pressure.
        why_limit: trail of the limit.
        why_seating: trail of the steps.
        why_settle: trail of settling.
    """

    limit_kpa: float
    limit_from: LimitFrom
    limit_part: LimitPart | None
    seating_kpa: tuple[float, ...]
    settle_kpa: float
    minimum_kpa: float | None
    start_kpa: float
    clamped: Literal["minimum", "floor", "limit"] | None
    near: Literal["minimum", "limit"] | None
    gauge_step_kpa: float
    shop_ambient_kpa: float
    band_kpa: tuple[float, float]
    by_school: dict[str, float | None]
    school: str
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


def limit(tire: Tire, rim: Rim, nominal_width_mm: float) -> Limit:
    """Return the lowest limit over the parts and where it comes from.

    Each part has its printed maximum or, where that was not read, its own cautious cap, so that reading a figure
    only replaces that part's own cap: tire 13000 / W kPa, at most 400; rim 500 up to 25 mm of internal width,
    350 above, and where it was looked at and carries no figure 700 up to 19 mm. A rim that is hookless, or whose
    hook was not read, takes 500; a tire without tubeless mark 300.

    Source: ISO 5775-2 for the hookless rim; caps from memory.
    """
    width = rim.internal_width_mm
    rim_cap = RIM_CAP_NARROW_KPA if width <= RIM_NARROW_UP_TO_MM else RIM_CAP_WIDE_KPA
    if rim.max_pressure_printed is False and width <= RIM_NO_FIGURE_UP_TO_MM:
        rim_cap = RIM_NO_FIGURE_KPA
    found: list[Limit] = [
        Limit(tire.max_pressure_kpa, "tire")
        if tire.max_pressure_kpa is not None
        else Limit(min(TIRE_CAP_MOST_KPA, TIRE_CAP_KPA_MM / nominal_width_mm), "unread", "tire"),
        Limit(rim.max_pressure_kpa, "rim")
        if rim.max_pressure_kpa is not None
        else Limit(rim_cap, "unread", "rim"),
    ]
    if rim.hook != "hooked":
        found.append(Limit(STRAIGHT_SIDE_LIMIT_KPA, "straight_side"))
    if tire.tubeless_ready is False:
        found.append(Limit(UNMARKED_LIMIT_KPA, "unmarked"))
    return min(found, key=lambda one: one.limit_kpa)


def floor_kpa(nominal_width_mm: float) -> float:
    """Return the least riding pressure where no minimum is printed.

    >>> floor_kpa(100.0), floor_kpa(45.0), floor_kpa(25.0)
    (35.0, 120.0, 250.0)

    Source: common practice, no published source.
    """
    return next(floor for at_least, floor in FLOORS_KPA if nominal_width_mm >= at_least)


def hand_step_kpa(pressure_kpa: float, gauge_step_kpa: float) -> float:
    """Return the step a hand sets a pressure to: the gauge's, at least 5 kPa, from 200 kPa up at least 10.

    Source: common practice, no published source.
    """
    return max(gauge_step_kpa, HAND_STEP_KPA if pressure_kpa < HIGH_FROM_KPA else HAND_STEP_HIGH_KPA)


def seating_steps_kpa(nominal_width_mm: float, limit_kpa: float) -> tuple[float, ...]:
    """Return the seating steps cut at the limit; the limit alone where even the first is above it.

    >>> seating_steps_kpa(45.0, 340.0)
    (150.0, 220.0, 300.0)

    Source: common practice, no published source.
    """
    return tuple(p for p in seating_ladder_kpa(nominal_width_mm) if p <= limit_kpa) or (limit_kpa,)


def wheel_load_n(ride: Ride, position: str | None) -> float:
    """Return the load on a wheel: total mass * share * g; an unknown wheel gets the larger share.

    `ride` is complete.

    Source: shares common practice, no published source.
    """
    front, rear = LOAD_SHARES[ride.position or "flat_bar"]
    share = {"front": front, "rear": rear}.get(position or "", max(front, rear))
    return (ride.total_mass_kg or 0.0) * share * STANDARD_GRAVITY_M_S2


def drop_pressure_kpa(load_n: float, drop_share: float, width_mm: float, outer_radius_mm: float) -> float:
    """Return the pressure at which a tire drops by a share of its width under a load.

    The tire stands on an ellipse: N = pi * p * delta * sqrt(R * r), p in MPa, r = D / 2.

    >>> round(drop_pressure_kpa(444.8, 0.15, 37.0, 345.4))
    319

    Source: Hertz-like contact, derived; checked against F. Berto's published 15 % drop chart.
    """
    drop_mm = drop_share * width_mm
    contact = math.pi * drop_mm * math.sqrt(outer_radius_mm * 0.5 * width_mm)
    return KPA_PER_MPA * load_n / contact


def ambient_kpa(altitude_m: float) -> float:
    """Return the standard atmosphere's pressure p = 101.325 * (1 - 2.25577e-5 * h)^5.25588.

    >>> round(ambient_kpa(1500.0), 2)
    84.56

    Source: ISO 2533.
    """
    return SEA_LEVEL_KPA * float((1.0 - 2.25577e-5 * altitude_m) ** 5.25588)


def set_here_kpa(
    ride_kpa: float, ride_c: float, ride_ambient_kpa: float, here_c: float, here_ambient_kpa: float
) -> float:
    """Return the gauge pressure to set here so that it is `ride_kpa` on the ride.

    Absolute pressure goes with kelvin at constant volume.

    >>> round(set_here_kpa(190.0, 8.0, 101.325, 20.0, 101.325), 1)
    202.4

    Source: ideal gas law.
    """
    warmth = (here_c + KELVIN_AT_ZERO_C) / (ride_c + KELVIN_AT_ZERO_C)
    return (ride_kpa + ride_ambient_kpa) * warmth - here_ambient_kpa


def rounded_within(value: float, step: float, low: float, high: float) -> float:
    """Return `value` to the nearest gauge step, but inside [low, high], the upper bound ruling.

    >>> rounded_within(339.7, 5.0, 0.0, 338.0), rounded_within(101.0, 5.0, 102.0, 340.0)
    (335.0, 105.0)
    """
    inside = min(max(value, low), high)
    nearest = step * math.floor(inside / step + 0.5)
    if nearest > high:
        nearest = step * math.floor(high / step)
    if nearest < low:
        nearest = step * math.ceil(low / step)
    return nearest if low <= nearest <= high else min(max(inside, low), high)


def pick_pressure(wheel: Wheel, mounted: MountedTire, ride: Ride, practice: Practice) -> PressurePick:
    """Return every pressure of a wheel; `ride` and `practice` are complete.

    Source: docs/models.md 2.7: drop model (see `drop_pressure_kpa`), limits by `limit`, ladder and settling common
    practice.
    """
    top = limit(wheel.tire, wheel.rim, mounted.nominal_width_mm)
    ceiling = top.limit_kpa
    gauge = practice.gauge_step_kpa or 1.0
    minimum = wheel.tire.min_pressure_kpa
    conflict = minimum is not None and minimum > ceiling
    floor = min(minimum if minimum is not None else floor_kpa(mounted.nominal_width_mm), ceiling)
    load = wheel.load_n if wheel.load_n is not None else wheel_load_n(ride, wheel.position)
    drop = DROP[ride.use or "mixed"]
    printed = minimum is not None and wheel.tire.max_pressure_kpa is not None
    raw = {
        "drop": _drop_start_kpa(wheel, mounted, load, drop),
        "previous": _carried_kpa(wheel, mounted),
        "range": 0.5 * (floor + ceiling) if printed else None,
    }
    by_school = {
        name: None if value is None else min(max(value, floor), ceiling) for name, value in raw.items()
    }
    school = practice.start_pressure or "drop"
    if raw[school] is None:
        school = "drop"
    wanted = raw[school] or 0.0
    start = rounded_within(wanted, hand_step_kpa(wanted, gauge), floor, ceiling)
    here = _set_here(start, ride, practice, gauge, ceiling)
    ladder = seating_steps_kpa(mounted.nominal_width_mm, ceiling)
    settle = _settle(practice, ladder, start, top, wheel, gauge)
    most = max(settle, start, here)
    seating = ladder if most <= ladder[-1] else (*ladder, most)
    return PressurePick(
        limit_kpa=ceiling,
        limit_from=top.limit_from,
        limit_part=top.limit_part,
        seating_kpa=seating,
        settle_kpa=settle,
        minimum_kpa=None if conflict else minimum,
        start_kpa=start,
        clamped=_clamped(wanted, floor, ceiling, minimum),
        near=_near(start, floor, ceiling),
        gauge_step_kpa=gauge,
        shop_ambient_kpa=_shop_air(practice),
        band_kpa=_band(wheel, wanted, floor, ceiling),
        by_school=by_school,
        school=school,
        set_here_kpa=here,
        ride_kpa=start,
        at_ride_kpa=at_ride_kpa(here, ride, practice),
        hot_kpa=set_here_kpa(settle, _shop_c(practice), _shop_air(practice), SUN_C, _shop_air(practice)),
        load_n=load,
        drop_share=drop,
        conflict=conflict,
        why=_why_start(
            wheel, mounted, load, drop, raw, by_school, start, school, _band(wheel, wanted, floor, ceiling)
        ),
        why_limit=_why_limit(wheel, top, mounted.nominal_width_mm),
        why_seating=_why_seating(mounted, seating, ceiling),
        why_settle=_why_settle(practice, seating, start, settle, ceiling),
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


def _band(wheel: Wheel, wanted: float, floor: float, ceiling: float) -> tuple[float, float]:
    """The 90 % band of a start: narrow where width and load were measured."""
    measured = wheel.tire.measured_width_mm is not None and wheel.load_n is not None
    share = BAND_MEASURED if measured else BAND_NOMINAL
    low, high = (min(max(wanted * factor, floor), ceiling) for factor in (1.0 - share, 1.0 + share))
    return low, high


def _settle(
    practice: Practice, ladder: tuple[float, ...], start: float, top: Limit, wheel: Wheel, gauge: float
) -> float:
    """The pressure until a wheel is sealed, by the shop's method; never above the limit.

    seating: the third step, or the last of fewer, or the start if that is higher; low: 1.3 times the start, not
    below the second step; printed: the lowest printed maximum.
    """
    third = ladder[min(SETTLE_STEP, len(ladder)) - 1]
    method = practice.settle or "seating"
    if method == "low":
        second = ladder[min(2, len(ladder)) - 1]
        low = max(SETTLE_FACTOR * start, second)
        return rounded_within(low, hand_step_kpa(low, gauge), min(start, top.limit_kpa), top.limit_kpa)
    if method == "printed" and top.limit_from in ("tire", "rim"):
        return top.limit_kpa
    return min(max(third, start), top.limit_kpa)


def _shop_c(practice: Practice) -> float:
    return practice.shop_temperature_c if practice.shop_temperature_c is not None else 20.0


def _shop_air(practice: Practice) -> float:
    return ambient_kpa(practice.shop_altitude_m or 0.0)


def _ride_air(ride: Ride, practice: Practice) -> tuple[float, float]:
    """Temperature in °C and ambient pressure in kPa on the ride; the shop's where they are not known."""
    ride_c = ride.temperature_c if ride.temperature_c is not None else _shop_c(practice)
    ride_m = ride.altitude_m if ride.altitude_m is not None else practice.shop_altitude_m or 0.0
    return ride_c, ambient_kpa(ride_m)


def at_ride_kpa(here_kpa: float, ride: Ride, practice: Practice) -> float:
    """Return what a pressure set in the shop is on the ride; `ride` and `practice` are complete.

    Source: ideal gas law (see `set_here_kpa`).
    """
    ride_c, ride_air = _ride_air(ride, practice)
    return max(0.0, set_here_kpa(here_kpa, _shop_c(practice), _shop_air(practice), ride_c, ride_air))


def _why_settle(
    practice: Practice, seating: tuple[float, ...], start: float, settle: float, ceiling: float
) -> Why:
    return Why(
        formula=(
            "seating: stay at the step where the lines came even until it holds (in the plan the third), or at the "
            "start if that is higher; low: 1.3 × start, not below the second step; printed: the lowest printed "
            "maximum; never above the limit"
        ),
        figures={
            "method": practice.settle or "seating",
            "start_kpa": start,
            "last_step_kpa": seating[-1],
            "limit_kpa": ceiling,
            "settle_kpa": settle,
        },
        source=PRACTICE,
        levers="the method, the starting pressure and the limit",
    )


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


#: What a test ride's word moves the pressure by, as a share (common practice, no published source).
RIDE_STEPS = {"right": 0.0, "harsh": -0.07, "rim_struck": 0.10, "burped": 0.08, "squirmed": 0.07}
RIDE_WORDS = {
    "right": "right",
    "harsh": "harsh",
    "rim_struck": "the rim was struck",
    "burped": "it burped",
    "squirmed": "it squirmed",
}


def moved_kpa(now_kpa: float, said: str, pressure: PressurePick, gauge_step_kpa: float) -> float:
    """Return where a test ride's word moves a pressure: by a share, at least one gauge step, inside minimum and limit.

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


def _set_here(start: float, ride: Ride, practice: Practice, gauge: float, ceiling: float) -> float:
    ride_c, ride_air = _ride_air(ride, practice)
    if (ride_c, ride_air) == (_shop_c(practice), _shop_air(practice)):
        return start
    value = set_here_kpa(start, ride_c, ride_air, _shop_c(practice), _shop_air(practice))
    return rounded_within(value, hand_step_kpa(value, gauge), 0.0, ceiling)


def _why_start(
    wheel: Wheel,
    mounted: MountedTire,
    load_n: float,
    drop: float,
    raw: dict[str, float | None],
    by_school: dict[str, float | None],
    start: float,
    school: str,
    band: tuple[float, float],
) -> Why:
    figures: dict[str, float | int | str] = {
        "school": school,
        "load_n": load_n,
        "drop_percent": 100.0 * drop,
        "mounted_width_mm": mounted.mounted_width_mm,
        "outer_radius_mm": mounted.outer_radius_mm,
        "deflection_mm": drop * mounted.mounted_width_mm,
        "before_limits_kpa": raw[school] or 0.0,
        "start_kpa": start,
        "nine_times_in_ten_from_kpa": band[0],
        "nine_times_in_ten_to_kpa": band[1],
    }
    if wheel.insert is not None:
        figures["insert_percent"] = 100.0 * (INSERT_FACTOR - 1.0)
    return Why(
        formula=(
            "load = π × pressure × deflection × √(outer radius × width / 2), solved for the pressure at the "
            "deflection for this ground; an insert takes 10 % off; then kept between minimum and limit"
        ),
        figures=figures,
        source="derived; within 5 % of F. Berto's published 15 % drop chart from 23 to 37 mm",
        others=tuple(
            Message("school {school}: {start_kpa}", {"school": name, "start_kpa": value})
            if value is not None
            else Message("school {school}: cannot be told, its figures were not read", {"school": name})
            for name, value in by_school.items()
        ),
        levers="a scale under each wheel, the ground, the pressure that worked before",
    )


def _why_limit(wheel: Wheel, top: Limit, nominal_width_mm: float) -> Why:
    def read(value: float | None) -> float | str:
        return "not read" if value is None else value

    tire_cap = min(TIRE_CAP_MOST_KPA, TIRE_CAP_KPA_MM / nominal_width_mm)
    figures: dict[str, float | int | str] = {
        "printed_on_the_tire_kpa": read(wheel.tire.max_pressure_kpa),
        "cap_of_an_unread_tire_kpa": tire_cap,
        "printed_on_the_rim_kpa": read(wheel.rim.max_pressure_kpa),
        "hook": wheel.rim.hook or "not read",
        "hookless_limit_kpa": "does not apply" if wheel.rim.hook == "hooked" else STRAIGHT_SIDE_LIMIT_KPA,
        "limit_kpa": top.limit_kpa,
        "set_by": limit_words(top),
    }
    return Why(
        formula=(
            "limit = lowest over the parts: the printed maximum of tire and rim, each with its own cautious cap until "
            "it is read, the standard's limit on a hookless rim, and 300 kPa for a tire without tubeless mark"
        ),
        figures=figures,
        source="ISO 5775-2 for hookless rims; the parts' manufacturers; caps from memory",
        levers="read what is printed on both parts; a rim without a figure has one in its maker's data sheet",
    )


def _why_seating(mounted: MountedTire, seating: tuple[float, ...], ceiling: float) -> Why:
    ladder = seating_ladder_kpa(mounted.nominal_width_mm)
    figures: dict[str, float | int | str] = {"nominal_width_mm": mounted.nominal_width_mm}
    figures |= {f"step_{i}_kpa": p for i, p in enumerate(seating, 1)}
    figures["limit_kpa"] = ceiling
    return Why(
        formula="steps by the tire's width, cut at the limit: climb, stop, look at both sides, go on",
        figures=figures,
        source=PRACTICE,
        others=tuple(
            Message("{step_kpa} is left out: above the limit", {"step_kpa": p}) for p in ladder if p > ceiling
        ),
        levers="a wider or narrower tire, the limit",
    )
