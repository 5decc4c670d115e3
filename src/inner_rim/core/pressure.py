"""Pressures: the limit, the seating steps, the starting pressure and settling (HANDBOOK 2.7).

Every pressure is gauge unless its name says `abs`. No pressure in a result lies above the limit.
"""

import math
from typing import Literal

import msgspec

from .job import Practice, Ride, Rim, Tire, Wheel
from .practice import DROP, LOAD_SHARES, seating_ladder_kpa
from .tire import MountedTire
from .why import PRACTICE, Saying, Why

LimitFrom = Literal["tire", "rim", "straight_side", "unread"]

STRAIGHT_SIDE_LIMIT_KPA = 500.0  # ISO 5775-2
UNREAD_CAPS_KPA: tuple[tuple[float, float], ...] = ((40.0, 200.0), (0.0, 400.0))
SETTLE_FACTOR = 1.3
INSERT_FACTOR = 0.9
STANDARD_GRAVITY_M_S2 = 9.80665
SEA_LEVEL_KPA = 101.325
KELVIN_AT_ZERO_C = 273.15
KPA_PER_MPA = 1000.0

LIMIT_WORDS: dict[LimitFrom, str] = {
    "tire": "printed on the tire",
    "rim": "printed on the rim",
    "straight_side": "ISO 5775-2, straight-side rim",
    "unread": "unread: a cautious cap",
}


class Limit(msgspec.Struct, frozen=True):
    """The pressure that nothing may pass, and the part that sets it."""

    limit_kpa: float
    limit_from: LimitFrom


class PressurePick(msgspec.Struct, frozen=True):
    """All pressures of a wheel; none is above `limit_kpa`.

    Attributes:
        limit_kpa: lowest of what is printed and what the rim's form allows; the cautious cap where
            nothing was read.
        limit_from: what sets it.
        seating_kpa: pressures to climb through.
        settle_kpa: held until sealed.
        minimum_kpa: printed on the tire; None where unread or above the limit.
        start_kpa: first riding pressure.
        clamped: "minimum" or "limit" where the start was moved into the range.
        by_school: start by each school, None where it cannot be told.
        school: the school that was used.
        set_here_kpa: what to set in the shop so that it is right on the ride.
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
    seating_kpa: tuple[float, ...]
    settle_kpa: float
    minimum_kpa: float | None
    start_kpa: float
    clamped: Literal["minimum", "limit"] | None
    by_school: dict[str, float | None]
    school: str
    set_here_kpa: float
    load_n: float
    drop_share: float
    conflict: bool
    why: Why
    why_limit: Why
    why_seating: Why
    why_settle: Why


def limit(tire: Tire, rim: Rim, nominal_width_mm: float) -> Limit:
    """Return the lowest limit and where it comes from.

    Lowest of the tire's and the rim's printed maximum and 500 kPa on a straight-side rim. Where
    neither was read, a cautious cap of 200 kPa (tires of 40 mm and more) or 400 kPa stands in. A rim
    whose hook was not read counts as straight-side here: unknown is treated as low.

    Source: ISO 5775-2 for the straight-side rim; cap common practice, no published source.
    """
    printed: list[tuple[float, LimitFrom]] = []
    if tire.max_pressure_kpa is not None:
        printed.append((tire.max_pressure_kpa, "tire"))
    if rim.max_pressure_kpa is not None:
        printed.append((rim.max_pressure_kpa, "rim"))
    if not printed:
        cap = next(cap for at_least, cap in UNREAD_CAPS_KPA if nominal_width_mm >= at_least)
        return Limit(cap, "unread")
    if rim.hook != "hooked":
        printed.append((STRAIGHT_SIDE_LIMIT_KPA, "straight_side"))
    return Limit(*min(printed, key=lambda entry: entry[0]))


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

    Source: HANDBOOK's drop model (see `drop_pressure_kpa`), limits by `limit`.
    """
    top = limit(wheel.tire, wheel.rim, mounted.nominal_width_mm)
    ceiling = top.limit_kpa
    step = practice.gauge_step_kpa or 1.0
    minimum = wheel.tire.min_pressure_kpa
    conflict = minimum is not None and minimum > ceiling
    floor = 0.0 if minimum is None else min(minimum, ceiling)
    load = wheel.load_n if wheel.load_n is not None else wheel_load_n(ride, wheel.position)
    drop = DROP[ride.use or "mixed"]
    raw = {
        "drop": _drop_start_kpa(wheel, mounted, load, drop),
        "previous": _carried_kpa(wheel, mounted),
        "range": 0.5 * (floor + ceiling) if minimum is not None and top.limit_from != "unread" else None,
    }
    by_school = {
        name: None if value is None else rounded_within(value, step, floor, ceiling)
        for name, value in raw.items()
    }
    school = practice.start_pressure or "drop"
    if raw[school] is None:
        school = "drop"
    wanted = raw[school] or 0.0
    start = by_school[school] or 0.0
    clamped: Literal["minimum", "limit"] | None = None
    if wanted > ceiling:
        clamped = "limit"
    elif wanted < floor:
        clamped = "minimum"
    settle = rounded_within(SETTLE_FACTOR * start, step, start, ceiling)
    here = _set_here(start, ride, practice, step, ceiling)
    seating = seating_steps_kpa(mounted.nominal_width_mm, ceiling)
    return PressurePick(
        limit_kpa=ceiling,
        limit_from=top.limit_from,
        seating_kpa=seating,
        settle_kpa=settle,
        minimum_kpa=None if conflict else minimum,
        start_kpa=start,
        clamped=clamped,
        by_school=by_school,
        school=school,
        set_here_kpa=here,
        load_n=load,
        drop_share=drop,
        conflict=conflict,
        why=_why_start(wheel, mounted, load, drop, raw, by_school, start, school),
        why_limit=_why_limit(wheel, top),
        why_seating=_why_seating(mounted, seating, ceiling),
        why_settle=Why(
            formula="settle = 1.3 × start, at most the limit; held until the hold test passes",
            figures={"start_kpa": start, "limit_kpa": ceiling, "settle_kpa": settle},
            source=PRACTICE,
            levers="the starting pressure and the limit",
        ),
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


def _set_here(start: float, ride: Ride, practice: Practice, step: float, ceiling: float) -> float:
    here_c = practice.shop_temperature_c if practice.shop_temperature_c is not None else 20.0
    here_m = practice.shop_altitude_m or 0.0
    ride_c = ride.temperature_c if ride.temperature_c is not None else here_c
    ride_m = ride.altitude_m if ride.altitude_m is not None else here_m
    value = set_here_kpa(start, ride_c, ambient_kpa(ride_m), here_c, ambient_kpa(here_m))
    return rounded_within(value, step, 0.0, ceiling)


def _why_start(
    wheel: Wheel,
    mounted: MountedTire,
    load_n: float,
    drop: float,
    raw: dict[str, float | None],
    by_school: dict[str, float | None],
    start: float,
    school: str,
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
            Saying("school {school}: {start_kpa}", {"school": name, "start_kpa": value})
            if value is not None
            else Saying("school {school}: cannot be told, its figures were not read", {"school": name})
            for name, value in by_school.items()
        ),
        levers="a scale under each wheel, the ground, the pressure that worked before",
    )


def _why_limit(wheel: Wheel, top: Limit) -> Why:
    def read(value: float | None) -> float | str:
        return "not read" if value is None else value

    figures: dict[str, float | int | str] = {
        "printed_on_the_tire_kpa": read(wheel.tire.max_pressure_kpa),
        "printed_on_the_rim_kpa": read(wheel.rim.max_pressure_kpa),
        "hook": wheel.rim.hook or "not read",
        "straight_side_limit_kpa": "does not apply"
        if wheel.rim.hook == "hooked"
        else STRAIGHT_SIDE_LIMIT_KPA,
        "limit_kpa": top.limit_kpa,
        "set_by": LIMIT_WORDS[top.limit_from],
    }
    return Why(
        formula="limit = lowest of the tire's printed maximum, the rim's printed maximum, and the standard's limit on a straight-side rim",
        figures=figures,
        source="ISO 5775-2 for straight-side rims; the parts' makers; cap for unread limits is common practice",
        levers="read what is printed on both parts; a limit that is not known is treated as low",
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
            Saying("{step_kpa} is left out: above the limit", {"step_kpa": p}) for p in ladder if p > ceiling
        ),
        levers="a wider or narrower tire, the limit",
    )
