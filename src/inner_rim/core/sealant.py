"""Sealant: dose from the tire's volume, allowances, injector loads, refresh (HANDBOOK 2.4)."""

import math

import msgspec

from .job import Practice, Shelf, Tire, Wheel
from .practice import DOSE_FACTORS, DUE_AT_DRIED_SHARE, SEALANT_LIFE_DAYS
from .tire import COAT_MM, MM3_PER_ML, MountedTire, dip_mm, inner_surface_mm2, pool_ml
from .units import ML_PER_LITRE
from .why import PRACTICE, Saying, Why

ML_PER_LITRE_TO_TWO_THIRDS = 29.0
ALLOWANCE_NEW_TIRE = 0.10
ALLOWANCE_NO_MARKING = 0.30
ALLOWANCE_INSERT = 0.15
DOSE_STEP_ML = 5.0


class SealantPick(msgspec.Struct, frozen=True):
    """How much sealant, and what to expect of it.

    Attributes:
        dose_ml: what goes in.
        school: label, lean, standard or generous, as it was used.
        lean_ml, standard_ml, generous_ml: the three volume schools, allowances in.
        label_ml: the dose printed on the label, None where unread.
        allowances_ml: name of each allowance and its share of the standard dose in ml.
        loads_ml: fillings of the injector.
        free_ml: what pools once the casing is coated.
        dip_mm: depth of that pool on a dipstick at the bottom.
        check_after_days: half of the sealant's life.
        refresh_after_days: when 60 % has dried.
        why: the trail.
    """

    dose_ml: float
    school: str
    lean_ml: float
    standard_ml: float
    generous_ml: float
    label_ml: float | None
    allowances_ml: dict[str, float]
    loads_ml: tuple[float, ...]
    free_ml: float
    dip_mm: float
    check_after_days: float
    refresh_after_days: float
    why: Why


def base_dose_ml(cavity_litre: float) -> float:
    """Return the standard dose 29 * V^(2/3) in ml for a cavity of V litres.

    Sealant coats an area, and area scales as volume to the two thirds.

    >>> round(base_dose_ml(2.85), 1)
    58.3

    Source: scaling derived; coefficient common practice, no published source.
    """
    return ML_PER_LITRE_TO_TWO_THIRDS * float(cavity_litre ** (2.0 / 3.0))


def round_dose_ml(dose_ml: float) -> float:
    """Return the dose to the nearest 5 ml, never less than 5.

    >>> round_dose_ml(64.1), round_dose_ml(62.5)
    (65.0, 65.0)
    """
    return max(DOSE_STEP_ML, DOSE_STEP_ML * math.floor(dose_ml / DOSE_STEP_ML + 0.5))


def injector_loads_ml(dose_ml: float, injector_ml: float) -> tuple[float, ...]:
    """Return the fillings of an injector: full ones, then the rest.

    >>> injector_loads_ml(130.0, 60.0)
    (60.0, 60.0, 10.0)

    Raises:
        ValueError: the injector holds nothing.
    """
    if injector_ml <= 0.0:
        raise ValueError("injector_ml must be positive")
    full, rest = divmod(dose_ml, injector_ml)
    return (injector_ml,) * int(full) + ((rest,) if rest > 1e-9 else ())


def allowances(tire: Tire, has_insert: bool) -> dict[str, float]:
    """Return the allowances that apply, as fractions of the standard dose.

    Source: common practice, no published source.
    """
    found = {
        "new tire": ALLOWANCE_NEW_TIRE if tire.new else 0.0,
        "no tubeless marking": ALLOWANCE_NO_MARKING if tire.tubeless_ready is False else 0.0,
        "insert": ALLOWANCE_INSERT if has_insert else 0.0,
    }
    return {name: share for name, share in found.items() if share > 0.0}


def coat_ml(mounted: MountedTire, internal_width_mm: float, rim_diameter_mm: float) -> float:
    """Return the film of 0.1 mm on the casing's inner surface, which does not pool."""
    inner = max(1.0, mounted.mounted_width_mm - 2.0 * mounted.casing_mm)
    return COAT_MM * inner_surface_mm2(rim_diameter_mm, inner, internal_width_mm) / MM3_PER_ML


def pool_radii_mm(mounted: MountedTire, rim_diameter_mm: float) -> tuple[float, float]:
    """Return (r, R): inner radius of the section, and axle to its centre."""
    radius = max(0.5, 0.5 * mounted.mounted_width_mm - mounted.casing_mm)
    return radius, 0.5 * rim_diameter_mm + mounted.centre_mm


def dip_table(
    tube_radius_mm: float, ring_radius_mm: float, rows: int = 60
) -> tuple[tuple[float, float], ...]:
    """Return (depth mm, pool ml) rows for a dipstick, from nothing to half the tube's height.

    Source: derived from geometry (see `tire.pool_ml`).
    """
    step = tube_radius_mm / rows
    return tuple((k * step, pool_ml(k * step, tube_radius_mm, ring_radius_mm)) for k in range(1, rows + 1))


def calibration(dip_mm_read: float, dip_mm_computed: float) -> float:
    """Return how much deeper the pool stands by the model than on the dipstick: the tread is not quite round.

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

    Source: derived from geometry (see `tire.pool_ml`).
    """
    return pool_ml(dip_mm_read * factor, tube_radius_mm, ring_radius_mm)


def dose_ml(tire: Tire, mounted: MountedTire, has_insert: bool, practice: Practice) -> float:
    """Return the dose in ml alone, as `pick_sealant` has it; `practice` is complete.

    Source: see `base_dose_ml`.
    """
    base = base_dose_ml(mounted.cavity_ml / ML_PER_LITRE)
    return _doses(tire, base, allowances(tire, has_insert), practice)[2]


def _doses(
    tire: Tire, base: float, extra: dict[str, float], practice: Practice
) -> tuple[dict[str, float], str, float]:
    """Return the dose of every school, the school that is used, and its dose."""
    doses = {name: round_dose_ml(base * (s + sum(extra.values()))) for name, s in DOSE_FACTORS.items()}
    school = practice.dose or "standard"
    if school == "label" and tire.label_dose_ml is None:
        school = "standard"
    dose = tire.label_dose_ml if school == "label" and tire.label_dose_ml else doses[school]
    return doses, school, dose


def pick_sealant(wheel: Wheel, mounted: MountedTire, practice: Practice, shelf: Shelf) -> SealantPick:
    """Return the dose for a wheel; `practice` and `shelf` are complete."""
    tire, rim = wheel.tire, wheel.rim
    base = base_dose_ml(mounted.cavity_ml / ML_PER_LITRE)
    extra = allowances(tire, wheel.insert is not None)
    doses, school, dose = _doses(tire, base, extra, practice)
    coat = coat_ml(mounted, rim.internal_width_mm, rim.bead_seat_diameter_mm)
    free = max(0.0, dose - coat)
    radius, ring = pool_radii_mm(mounted, rim.bead_seat_diameter_mm)
    own_life = shelf.sealant.life_days if shelf.sealant is not None else None
    life = own_life or SEALANT_LIFE_DAYS[practice.climate or "temperate"]
    figures: dict[str, float | int | str] = {
        "school": school,
        "cavity_litre": mounted.cavity_ml / ML_PER_LITRE,
        "standard_dose_before_allowances_ml": base,
    }
    figures |= {f"{name.replace(' ', '_')}_ml": share * base for name, share in extra.items()}
    figures |= {"dose_ml": dose, "coat_ml": coat, "pool_ml": free}
    return SealantPick(
        dose_ml=dose,
        school=school,
        lean_ml=doses["lean"],
        standard_ml=doses["standard"],
        generous_ml=doses["generous"],
        label_ml=tire.label_dose_ml,
        allowances_ml={name: share * base for name, share in extra.items()},
        loads_ml=injector_loads_ml(dose, shelf.injector_ml or dose),
        free_ml=free,
        dip_mm=dip_mm(round(free, 3), radius, ring),
        check_after_days=0.5 * life,
        refresh_after_days=DUE_AT_DRIED_SHARE * life,
        why=Why(
            formula=(
                "dose = 29 ml × school × (cavity in litres)^(2/3), plus allowances as shares of the standard dose, "
                "to the nearest 5 ml; a film of 0.1 mm stays on the casing, the rest pools"
            ),
            figures=figures,
            source=f"scaling derived; coefficient and allowances {PRACTICE}",
            others=(
                Saying("lean {lean_ml}", {"lean_ml": doses["lean"]}),
                Saying("standard {standard_ml}", {"standard_ml": doses["standard"]}),
                Saying("generous {generous_ml}", {"generous_ml": doses["generous"]}),
                Saying("label {label_ml}", {"label_ml": tire.label_dose_ml})
                if tire.label_dose_ml is not None
                else Saying("no dose read from the label"),
            ),
            levers="another school, a dose printed on the label, a new or unmarked tire, an insert",
        ),
    )
