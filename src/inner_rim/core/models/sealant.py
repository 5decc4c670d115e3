"""Sealant: dose from the tire's volume, allowances, injector loads, refresh (docs/models.md 2.4)."""

import math
from datetime import date

import msgspec

from inner_rim.core.models.tire import (
    COAT_MM,
    MM3_PER_ML,
    MountedTire,
    dip_mm,
    inner_surface_mm2,
    pool_ml,
)
from inner_rim.core.record.job import Tire, Wheel
from inner_rim.core.record.practice import DOSE_FACTORS, SEALANT_LIFE_DAYS
from inner_rim.core.record.resolved import USUAL, Learned, Methods, Stock
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.core.record.why import NO_WHY, Message, Why
from inner_rim.words import N_

ML_PER_ROOT_LITER = 36.0
#: A dose so near a whole number of fillings becomes that many.
WHOLE_FILLINGS_SHARE = 0.15
ALLOWANCE_NEW_TIRE = 0.10
ALLOWANCE_NO_MARKING = 0.30
ALLOWANCE_INSERT = 0.15
DOSE_STEP_ML = 5.0
DIP_ERROR_MM = 1.0


class SealantPick(msgspec.Struct, frozen=True, rename={"method": "school"}):
    """How much sealant, and what to expect of it.

    Attributes:
        dose_ml: what goes in.
        method: label, lean, standard or generous, as it was used.
        lean_ml, standard_ml, generous_ml: the three volume methods, allowances in.
        label_ml: the dose printed on the label, None where not entered.
        allowances_ml: name of each allowance and its share of the standard dose in ml.
        loads_ml: fillings of the injector.
        free_ml: what pools once the casing is coated.
        dip_mm: depth of that pool on a dipstick at the bottom.
        refresh_after_days: the end of it.
        why: the trail.
    """

    dose_ml: float
    method: str
    lean_ml: float
    standard_ml: float
    generous_ml: float
    label_ml: float | None
    allowances_ml: dict[str, float]
    loads_ml: tuple[float, ...]
    free_ml: float
    dip_mm: float
    refresh_after_days: float
    why: Why


def base_dose_ml(cavity_liter: float) -> float:
    """Return the standard dose 36 * sqrt(V) in ml for a cavity of V liters.

    The trade's figures from 28 to 127 mm rise with about the square root of the volume; a law by
    area overdoses fat tires.

    >>> round(base_dose_ml(2.85), 1)
    60.8

    Source: common practice, no published source.
    """
    return ML_PER_ROOT_LITER * math.sqrt(cavity_liter)


def round_dose_ml(dose_ml: float) -> float:
    """Return the dose to the nearest 5 ml, never less than 5.

    >>> round_dose_ml(64.1), round_dose_ml(62.5)
    (65.0, 65.0)

    Source: common practice, no published source.
    """
    return max(DOSE_STEP_ML, DOSE_STEP_ML * math.floor(dose_ml / DOSE_STEP_ML + 0.5))


def left_now_ml(in_ml: float, since: str, life_days: float, today: date) -> float:
    """Return the sealant that is left, as forecast: it dries linearly over its life.

    >>> left_now_ml(60.0, "2026-06-01", 180.0, date(2026, 8, 30)), left_now_ml(60.0, "", 180.0, date(2026, 8, 30))
    (30.0, 60.0)

    Source: docs/models.md 2.4 (linear drying); a day that is not known counts as today.
    """
    if not since:
        return in_ml
    days = (today - date.fromisoformat(since[:10])).days
    return in_ml * min(1.0, max(0.0, 1.0 - days / max(1.0, life_days)))


def top_up_ml(dose_ml: float, left_ml: float) -> float:
    """Return what to add to what is left in the tire, ml, to 5 ml.

    dose - left, at least 0.

    >>> top_up_ml(60.0, 22.0), top_up_ml(60.0, 80.0)
    (40.0, 0.0)

    Source: common practice, no published source.
    """
    return round_dose_ml(dose_ml - left_ml) if left_ml < dose_ml else 0.0


def filled_ml(dose_ml: float, injector_ml: float, least_ml: float, most_ml: float) -> float:
    """Return the dose as a hand would draw it up: a whole number of fillings where it is within 15
    % of one.

    >>> filled_ml(65.0, 60.0, 40.0, 95.0), filled_ml(95.0, 60.0, 60.0, 140.0)
    (60.0, 95.0)

    Source: common practice, no published source.
    """
    whole = max(1, round(dose_ml / injector_ml)) * injector_ml
    near = abs(whole - dose_ml) <= WHOLE_FILLINGS_SHARE * dose_ml
    return whole if near and least_ml <= whole <= most_ml else dose_ml


def injector_loads_ml(dose_ml: float, injector_ml: float) -> tuple[float, ...]:
    """Return the fillings of an injector: whole ones where the dose is that, else about equal ones
    to 5 ml.

    n = ceil(dose / filling), equal loads.

    No filling is smaller than a third of what the injector holds, but for a dose that itself is.

    >>> injector_loads_ml(120.0, 60.0), injector_loads_ml(95.0, 60.0), injector_loads_ml(40.0, 60.0)
    ((60.0, 60.0), (50.0, 45.0), (40.0,))

    Raises:
        ValueError: the injector holds nothing.

    Source: common practice, no published source.
    """
    if injector_ml <= 0.0:
        raise ValueError("injector_ml must be positive")
    count = max(1, math.ceil(dose_ml / injector_ml - 1e-9))
    loads, rest = [], dose_ml
    for left in range(count, 0, -1):
        load = min(injector_ml, DOSE_STEP_ML * math.ceil(rest / left / DOSE_STEP_ML - 1e-9))
        loads.append(load if left > 1 else rest)
        rest -= loads[-1]
    return tuple(loads)


def allowances(tire: Tire, has_insert: bool) -> dict[str, float]:
    """Return the allowances that apply, as fractions of the standard dose.

    Shares of the standard dose in ml.

    Shares: + 0.10 new, + 0.30 no marking, + 0.15 insert.

    >>> from inner_rim.core.record.job import Tire
    >>> allowances(Tire(size="45-622", new=True), has_insert=True)
    {'new tire': 0.1, 'insert': 0.15}

    Source: common practice, no published source.
    """
    result = {
        "new tire": ALLOWANCE_NEW_TIRE if tire.new else 0.0,
        "no tubeless marking": ALLOWANCE_NO_MARKING if tire.tubeless_ready is False else 0.0,
        "insert": ALLOWANCE_INSERT if has_insert else 0.0,
    }
    return {name: share for name, share in result.items() if share > 0.0}


def coat_ml(mounted: MountedTire, rim_diameter_mm: float) -> float:
    """Return the film of 0.1 mm on the casing's inner surface, which does not pool.

    V = 0.1 mm * inner surface.

    >>> round(coat_ml(mounted, 622.0), 1)
    24.2

    Source: common practice for the film; area derived.
    """
    inner = max(0.5, 0.5 * mounted.mounted_width_mm - mounted.casing_mm)
    return COAT_MM * inner_surface_mm2(rim_diameter_mm, inner, mounted.center_mm) / MM3_PER_ML


def pool_radii_mm(mounted: MountedTire, rim_diameter_mm: float) -> tuple[float, float]:
    """Return (r, R): inner radius of the section, and axle to its center.

    r = D / 2 - casing, R = bead seat radius + center.

    >>> [round(radius, 1) for radius in pool_radii_mm(mounted, 622.0)]
    [21.5, 330.2]

    Source: derived.
    """
    radius = max(0.5, 0.5 * mounted.mounted_width_mm - mounted.casing_mm)
    return radius, 0.5 * rim_diameter_mm + mounted.center_mm


def dip_table(
    tube_radius_mm: float, ring_radius_mm: float, rows: int = 60
) -> tuple[tuple[float, float], ...]:
    """Return (depth mm, pool ml) rows for a dipstick, from zero to half the tube's height.

    Rows of (d, V(d)), see `tire.pool_ml`.

    >>> [(round(d, 1), round(v, 1)) for d, v in dip_table(20.0, 330.0, rows=4)][:3]
    [(5.0, 6.3), (10.0, 24.4), (15.0, 52.8)]

    Source: derived from geometry (see `tire.pool_ml`).
    """
    step = tube_radius_mm / rows
    return tuple(
        (k * step, pool_ml(k * step, tube_radius_mm, ring_radius_mm)) for k in range(1, rows + 1)
    )


def calibration(dip_mm_read: float, dip_mm_computed: float) -> float:
    """Return how much deeper the pool stands by the model than on the dipstick: the tread is not
    quite round.

    factor = d_model / d_read, depths in mm.

    Read right after dosing, when the volume is known. A dipstick depth times this factor goes into
    `pool_ml`. Kept within a factor of two: beyond that the reading is wrong, not the tire.

    >>> calibration(10.0, 11.0)
    1.1

    Raises:
        ValueError: a depth that is not positive, or a factor beyond two.

    Source: derived.
    """
    if dip_mm_read <= 0.0 or dip_mm_computed <= 0.0:
        raise ValueError("a dip that calibrates must be deeper than nothing")
    factor = dip_mm_computed / dip_mm_read
    if not 0.5 <= factor <= 2.0:
        raise ValueError("the dip is more than a factor of two off")
    return factor


def pool_from_dip_ml(
    dip_mm_read: float, tube_radius_mm: float, ring_radius_mm: float, factor: float = 1.0
) -> float:
    """Return the free sealant in ml for a dipstick depth, with this wheel's calibration.

    V(factor * d).

    >>> round(pool_from_dip_ml(10.0, 20.0, 330.0), 1)
    24.4

    Source: derived from geometry (see `tire.pool_ml`).
    """
    return pool_ml(dip_mm_read * factor, tube_radius_mm, ring_radius_mm)


def dip_band_ml(
    dip_mm_read: float, tube_radius_mm: float, ring_radius_mm: float, factor: float = 1.0
) -> tuple[float, float]:
    """Return (least, most) free sealant in ml for a dipstick depth that is off by 1 mm either way.

    V(factor * (d ± 1 mm)).

    >>> [round(v, 1) for v in dip_band_ml(10.0, 20.0, 330.0)]
    [19.9, 29.3]

    Source: derived from geometry; the error of a dipstick is common practice.
    """
    low, high = max(0.0, dip_mm_read - DIP_ERROR_MM), dip_mm_read + DIP_ERROR_MM
    return (
        pool_from_dip_ml(low, tube_radius_mm, ring_radius_mm, factor) if low > 0.0 else 0.0,
        pool_from_dip_ml(high, tube_radius_mm, ring_radius_mm, factor),
    )


def dose_ml(
    tire: Tire,
    mounted: MountedTire,
    has_insert: bool,
    methods: Methods,
    injector_ml: float | None = None,
) -> float:
    """Return the dose in ml alone, as `pick_sealant` has it.

    dose = 36 * s * sqrt(V), plus allowances.

    >>> dose_ml(tire, mounted, False, methods)
    65.0

    Source: see `base_dose_ml`.
    """
    base = base_dose_ml(mounted.cavity_ml / ML_PER_LITER)
    return _doses(tire, base, allowances(tire, has_insert), methods, injector_ml)[2]


def _doses(
    tire: Tire,
    base: float,
    extra: dict[str, float],
    methods: Methods,
    injector_ml: float | None = None,
) -> tuple[dict[str, float], str, float]:
    """Return the dose of every method, the method that is used, and its dose; the lean one has no
    allowances.
    """
    more = {"lean": 0.0, "standard": sum(extra.values()), "generous": sum(extra.values())}
    doses = {name: round_dose_ml(base * (s + more[name])) for name, s in DOSE_FACTORS.items()}
    method = methods.dose
    if method == "label" and tire.label_dose_ml is None:
        method = "standard"
    if method == "label" and tire.label_dose_ml is not None:
        return doses, method, tire.label_dose_ml
    dose = doses[method]
    if injector_ml is not None:
        dose = filled_ml(dose, injector_ml, doses["lean"], doses["generous"])
    return doses, method, dose


def pick_sealant(
    wheel: Wheel, mounted: MountedTire, methods: Methods, stock: Stock, learned: Learned = USUAL
) -> SealantPick:
    """Return the dose for a wheel.

    dose = 36 * s * sqrt(V) in ml; life = usual life / learned rate of drying.

    >>> pick_sealant(wheel, mounted, methods, stock).loads_ml
    (60.0,)

    Source: docs/models.md 2.4.
    """
    tire, rim = wheel.tire, wheel.rim
    base = base_dose_ml(mounted.cavity_ml / ML_PER_LITER)
    extra = allowances(tire, wheel.insert is not None)
    injector = stock.injector_ml if methods.sealant_route == "inject" else None
    doses, method, dose = _doses(tire, base, extra, methods, injector)
    coat = coat_ml(mounted, rim.bead_seat_diameter_mm)
    free = max(0.0, dose - coat)
    radius, ring = pool_radii_mm(mounted, rim.bead_seat_diameter_mm)
    own_life = stock.sealant.life_days
    usual = own_life if own_life is not None else SEALANT_LIFE_DAYS[methods.climate]
    life = usual / learned.drying.factor
    pick = SealantPick(
        dose_ml=dose,
        method=method,
        lean_ml=doses["lean"],
        standard_ml=doses["standard"],
        generous_ml=doses["generous"],
        label_ml=tire.label_dose_ml,
        allowances_ml={name: share * base for name, share in extra.items()},
        loads_ml=injector_loads_ml(dose, stock.injector_ml or dose),
        free_ml=free,
        dip_mm=dip_mm(round(free, 3), radius, ring),
        refresh_after_days=life,
        why=NO_WHY,
    )
    return msgspec.structs.replace(
        pick, why=_why(pick, mounted.cavity_ml / ML_PER_LITER, coat, learned)
    )


def _why(pick: SealantPick, cavity_l: float, coat: float, learned: Learned) -> Why:
    figures: dict[str, float | int | str] = {
        "school": pick.method,
        "cavity_liter": cavity_l,
        "standard_dose_before_allowances_ml": base_dose_ml(cavity_l),
    }
    figures |= {f"{name.replace(' ', '_')}_ml": dose for name, dose in pick.allowances_ml.items()}
    figures |= {"dose_ml": pick.dose_ml, "coat_ml": coat, "pool_ml": pick.free_ml}
    return Why(
        formula=(
            N_(
                "dose = 36 ml × method × √(cavity in liters), plus allowances as shares of the standard dose (none on lean), "
                "to the nearest 5 ml, or to whole injector fillings within 15 %; a film of 0.1 mm stays on the casing, the rest pools"
            )
        ),
        figures=figures,
        source=N_(
            "square-root law, coefficient and allowances common practice, no published source"
        ),
        others=(
            Message("lean {lean_ml}", {"lean_ml": pick.lean_ml}),
            Message("standard {standard_ml}", {"standard_ml": pick.standard_ml}),
            Message("generous {generous_ml}", {"generous_ml": pick.generous_ml}),
            Message("label {label_ml}", {"label_ml": pick.label_ml})
            if pick.label_ml is not None
            else Message("no dose read from the label"),
            *learned.drying.said(N_("rate of drying")),
        ),
        what_changes_it=N_(
            "another method, a dose printed on the label, a new or unmarked tire, an insert"
        ),
    )
