"""The mounted tire: width, height, volume, and the pool of liquid in it (docs/models.md 2.1, 2.4).

The inflated casing is a circular arc of fixed length S that stands on the two bead seats, a chord
of the rim's internal width A.
"""

import math
from collections.abc import Callable
from functools import lru_cache

import msgspec

from inner_rim.core.models.rim import Bed
from inner_rim.core.record.job import Insert, Rim, Tire
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.core.record.why import NO_WHY, Message, Why
from inner_rim.core.tables import table
from inner_rim.words import N_

ASSUMED_CASING_MM = 1.2
MAX_SECANTS = 10
COAT_MM = 0.1
MM3_PER_ML = 1000.0


class MountedTire(msgspec.Struct, frozen=True):
    """The tire as mounted on this rim.

    Attributes:
        bead_seat_diameter_mm: the tire's own, from its size.
        mounted_width_mm: diameter of the casing's arc.
        section_height_mm: bead seats to tread.
        outer_radius_mm: axle to tread.
        air_volume_ml: what air has left, insert taken off.
        cavity_ml: the whole cavity with the rim well, no insert.
        width_ratio: caliper width, or else nominal width, over internal width.
        nominal_width_mm: the first number of the ISO size.
        casing_mm: casing thickness that was used.
        center_mm: center of the section's circle, outward from the bead seats.
        why: the trail.
    """

    bead_seat_diameter_mm: float
    mounted_width_mm: float
    section_height_mm: float
    outer_radius_mm: float
    air_volume_ml: float
    cavity_ml: float
    width_ratio: float
    nominal_width_mm: float
    casing_mm: float
    center_mm: float
    why: Why


def measuring_rim_mm(nominal_width_mm: float) -> float:
    """Return the internal width of the rim on which a tire of this nominal width is measured.

    Between two rows of the table: A0 = line through them.

    Between two rows of the table it is interpolated.

    >>> measuring_rim_mm(44.0), measuring_rim_mm(48.5)
    (23.0, 24.0)

    Source: from memory, after the table in ISO 5775-1 (tables/measuring_rims.toml).
    """
    rows = table("measuring_rims")["rows"]
    low = max((row for row in rows if row[0] <= nominal_width_mm), key=lambda row: row[0])
    high = min(
        (row for row in rows if row[0] > nominal_width_mm), key=lambda row: row[0], default=None
    )
    if high is None:
        return float(low[1])
    return float(low[1] + (high[1] - low[1]) * (nominal_width_mm - low[0]) / (high[0] - low[0]))


def casing_arc_mm(width_mm: float, rim_mm: float) -> float:
    """Return the arc length S = W0 * (pi - asin(A0 / W0)) of a casing of width W0 on a rim A0.

    >>> round(casing_arc_mm(45.0, 21.0), 2)
    119.52

    Raises:
        ValueError: the rim is wider than the tire.

    Source: derived from geometry.
    """
    return width_mm * (math.pi - math.asin(rim_mm / width_mm))


@lru_cache(maxsize=4096)
def mounted_width_mm(arc_mm: float, internal_width_mm: float) -> float:
    """Return D that solves D * (pi - asin(A / D)) = S, the casing's width on a rim of width A.

    A casing too short for a half circle has no such D; A itself is then returned.

    >>> round(mounted_width_mm(casing_arc_mm(45.0, 23.0), 24.0), 2)
    45.37

    Source: derived from geometry.
    """
    rim = internal_width_mm
    if arc_mm <= 0.5 * math.pi * rim:
        return rim
    return root(
        lambda width: width * (math.pi - math.asin(min(1.0, rim / width))) - arc_mm,
        rim,
        2.0 * arc_mm / math.pi,
    )


def section_center_mm(diameter_mm: float, chord_mm: float) -> float:
    """Return the distance of a circle's center from its chord, 0 where the chord is too long.

    sqrt(D^2 / 4 - c^2 / 4).

    >>> section_center_mm(50.0, 30.0)
    20.0

    Source: derived.
    """
    return math.sqrt(max(0.0, 0.25 * (diameter_mm**2 - chord_mm**2)))


def cavity_ml(
    bead_seat_diameter_mm: float, inner_radius_mm: float, center_mm: float, bed: Bed
) -> float:
    """Return the volume of the tire's cavity and the rim well.

    The part above the bead seats of a circle of radius r, concentric with the casing, turned about
    the axle (Pappus); and the well's trapezoid likewise. With h the center's height and c =
    sqrt(r^2 - h^2): area = r^2 * (pi - acos(h / r)) + h * c, its moment about the center 2/3 * c^3.

    Args:
        bead_seat_diameter_mm: BSD.
        inner_radius_mm: half the mounted width less the casing.
        center_mm: height of the casing's center above the seats.
        bed: the rim's bed.

    >>> from inner_rim.core.models.rim import Bed
    >>> round(cavity_ml(622.0, 21.0, 19.0, Bed(24.0, 3.5, 7.2, 4.9, 4.9, False)))
    2899

    Source: derived from geometry (theorem of Pappus and Guldinus).
    """
    seat, radius = 0.5 * bead_seat_diameter_mm, inner_radius_mm
    height = min(center_mm, radius)
    half_chord = math.sqrt(max(0.0, radius**2 - height**2))
    area = radius**2 * (math.pi - math.acos(height / radius)) + height * half_chord
    moment = 2.0 / 3.0 * half_chord**3
    tire = 2.0 * math.pi * (area * (seat + center_mm) + moment)
    well = 2.0 * math.pi * (seat - bed.well_centroid_mm) * bed.well_area_mm2
    return (tire + well) / MM3_PER_ML


def inner_surface_mm2(
    bead_seat_diameter_mm: float, inner_radius_mm: float, center_mm: float
) -> float:
    """Return the casing's inner surface: the arc of `cavity_ml` above the seats turned about the
    axle (Pappus).

    A = arc * 2 * pi * radius of its centroid.

    >>> round(inner_surface_mm2(622.0, 21.0, 19.0))
    237630

    Source: derived from geometry (theorem of Pappus and Guldinus).
    """
    radius = inner_radius_mm
    half_arc = math.pi - math.acos(min(center_mm, radius) / radius)
    arc = 2.0 * radius * half_arc
    moment = 2.0 * radius**2 * math.sin(half_arc)  # of the arc about the circle's center
    return 2.0 * math.pi * (arc * (0.5 * bead_seat_diameter_mm + center_mm) + moment)


def mount(tire: Tire, rim: Rim, bed: Bed, insert: Insert | None = None) -> MountedTire:
    """Return the tire as mounted on the rim, computed on the rim's bead seat diameter.

    D * (pi - asin(A / D)) = arc.

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> from inner_rim.core.models.rim import bed_of
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> tire = Tire(size="45-622")
    >>> round(mount(tire, rim, bed_of(rim)).mounted_width_mm, 1)
    45.4

    Source: docs/models.md 2.1.
    """
    size = tire.parsed_size
    width, measured_on = _measured(tire, size.width_mm)
    arc = casing_arc_mm(width, measured_on)
    internal = rim.internal_width_mm
    mounted = mounted_width_mm(arc, internal)
    center = section_center_mm(mounted, internal)
    height = 0.5 * mounted + center
    casing = tire.casing_mm if tire.casing_mm is not None else ASSUMED_CASING_MM
    cavity = cavity_ml(rim.bead_seat_diameter_mm, max(0.5, 0.5 * mounted - casing), center, bed)
    ratio = (tire.measured_width_mm or size.width_mm) / internal
    taken = insert.volume_ml if insert is not None and insert.volume_ml is not None else 0.0
    result = MountedTire(
        bead_seat_diameter_mm=size.bead_seat_diameter_mm,
        mounted_width_mm=mounted,
        section_height_mm=height,
        outer_radius_mm=0.5 * rim.bead_seat_diameter_mm + height,
        air_volume_ml=max(0.0, cavity - taken),
        cavity_ml=cavity,
        width_ratio=ratio,
        nominal_width_mm=size.width_mm,
        casing_mm=casing,
        center_mm=center,
        why=NO_WHY,
    )
    return msgspec.structs.replace(result, why=_why(result, tire, arc, internal))


def _why(result: MountedTire, tire: Tire, arc: float, internal: float) -> Why:
    width, measured_on = _measured(tire, result.nominal_width_mm)
    mounted = result.mounted_width_mm
    gain = (mounted_width_mm(arc, internal + 0.5) - mounted_width_mm(arc, internal - 0.5)) / 1.0
    figures: dict[str, float | int | str] = {
        "tire_width_mm": width,
        "measured_on_rim_mm": measured_on,
        "casing_arc_mm": arc,
        "internal_width_mm": internal,
        "mounted_width_mm": mounted,
        "nine_times_in_ten_from_mm": (1.0 - _width_share(tire)) * mounted,
        "nine_times_in_ten_to_mm": (1.0 + _width_share(tire)) * mounted,
        "section_height_mm": result.section_height_mm,
        "casing_mm": result.casing_mm,
        "cavity_liter": result.cavity_ml / ML_PER_LITER,
        "width_gain_per_mm_of_rim": gain,
        "width_ratio": result.width_ratio,
    }
    return Why(
        formula=(
            N_(
                "The casing is an arc of fixed length standing on the bead seats: "
                "arc = W0 × (π − asin(A0 / W0)); the mounted width D solves D × (π − asin(A / D)) = arc. "
                "Volume: a circle concentric with the casing, turned about the axle, plus the rim well."
            )
        ),
        figures=figures,
        source=N_("derived from geometry; measuring rim from memory after the table in ISO 5775-1"),
        others=(
            Message(
                "Trade rule of 0.4 mm of tire for a mm of rim: {rule_mm}",
                {"rule_mm": width + 0.4 * (internal - measured_on)},
            ),
        ),
        what_changes_it=N_(
            "a caliper width measured on a known rim overrides the nominal one; a wider rim widens the tire"
        ),
    )


#: Half width of the 90 % band of a mounted width, as a share: from the nominal size, and from a
#: caliper's.
WIDTH_BAND_NOMINAL, WIDTH_BAND_MEASURED = 0.04, 0.01


def width_band_mm(tire: Tire, mounted: MountedTire) -> tuple[float, float]:
    """Return the 90 % band of the mounted width: ± 4 % from the nominal size, ± 1 % from a caliper
    width.

    D * (1 ± share).

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> from inner_rim.core.models.rim import bed_of
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> tire = Tire(size="45-622")
    >>> mounted = mount(tire, rim, bed_of(rim))
    >>> [round(w, 1) for w in width_band_mm(tire, mounted)]
    [43.6, 47.2]

    Source: common practice, no published source.
    """
    share = _width_share(tire)
    return (1.0 - share) * mounted.mounted_width_mm, (1.0 + share) * mounted.mounted_width_mm


def _width_share(tire: Tire) -> float:
    return WIDTH_BAND_MEASURED if tire.measured_width_mm is not None else WIDTH_BAND_NOMINAL


def _measured(tire: Tire, nominal_mm: float) -> tuple[float, float]:
    if tire.measured_width_mm is not None and tire.measured_on_rim_mm is not None:
        return tire.measured_width_mm, tire.measured_on_rim_mm
    if tire.measuring_rim_mm is not None:
        return nominal_mm, tire.measuring_rim_mm
    return nominal_mm, measuring_rim_mm(nominal_mm)


def pool_ml(depth_mm: float, tube_radius_mm: float, ring_radius_mm: float) -> float:
    """Return the liquid below a level plane at `depth_mm` over the lowest point of a torus.

    At the angle phi from the bottom the section circle (radius r, about radius R) is wet to the
    depth t = (R + r) - ((R + r) - d) / cos(phi); V is the integral over phi of the wet segment's
    area times its centroid radius.

    Args:
        depth_mm: d, dipstick reading at the bottom.
        tube_radius_mm: r, inner radius of the section.
        ring_radius_mm: R, axle to the section's center.

    >>> round(pool_ml(10.0, 20.0, 330.0), 1)
    24.4

    Source: derived from geometry.
    """
    r, outer = tube_radius_mm, ring_radius_mm + tube_radius_mm
    depth = min(max(depth_mm, 0.0), 2.0 * r)
    if depth <= 0.0:
        return 0.0
    plane = outer - depth

    def wet(phi: float) -> float:
        t = min(max(outer - plane / math.cos(phi), 0.0), 2.0 * r)
        chord2 = max(0.0, 2.0 * r * t - t * t)
        area = r * r * math.acos((r - t) / r) - (r - t) * math.sqrt(chord2)
        return area * ring_radius_mm + 2.0 / 3.0 * chord2 * math.sqrt(chord2)

    return integrate_even(wet, math.acos(plane / outer)) / MM3_PER_ML


@lru_cache(maxsize=1024)
def dip_mm(free_ml: float, tube_radius_mm: float, ring_radius_mm: float) -> float:
    """Return the depth at which `free_ml` of liquid stands: the inverse of `pool_ml`.

    V(d) = free ml, solved for d by secants.

    >>> round(dip_mm(pool_ml(10.0, 20.0, 330.0), 20.0, 330.0), 3)
    10.0

    Source: derived.
    """
    if free_ml <= 0.0:
        return 0.0
    wanted = math.sqrt(free_ml)  # the pool grows about as depth squared: its root is nearly a line
    before, depth = 0.0, 0.5 * tube_radius_mm
    at_before = 0.0
    for _ in range(MAX_SECANTS):
        at = math.sqrt(pool_ml(depth, tube_radius_mm, ring_radius_mm))
        if abs(at - wanted) < 1e-10 * wanted:
            return depth
        if at == at_before:
            break
        before, at_before, depth = (
            depth,
            at,
            depth + (wanted - at) * (depth - before) / (at - at_before),
        )
        if not 0.0 < depth < 2.0 * tube_radius_mm:
            break
    return root(
        lambda depth: math.sqrt(pool_ml(depth, tube_radius_mm, ring_radius_mm)) - wanted,
        0.0,
        2.0 * tube_radius_mm,
    )


_STEPS = 80
_RELATIVE = 1e-13


def root(rising: Callable[[float], float], low: float, high: float) -> float:
    """Return x in [low, high] where the rising function crosses zero; an end where it does not.

    x = (a f(b) - b f(a)) / (f(b) - f(a)) in the bracket [a, b].

    False position with halved ends (the Illinois rule): the bracket is always kept, and a smooth
    function takes about eight evaluations.

    >>> round(root(lambda x: x * x - 2.0, 0.0, 2.0), 9)
    1.414213562

    Source: Dowell and Jarratt, BIT 11 (1971), 168.
    """
    f_low, f_high = rising(low), rising(high)
    if f_low >= 0.0:
        return low
    if f_high <= 0.0:
        return high
    side = 0
    middle = low
    for _ in range(_STEPS):
        middle = (low * f_high - high * f_low) / (f_high - f_low)
        value = rising(middle)
        if value == 0.0 or high - low <= _RELATIVE * abs(high):
            break
        if value < 0.0:
            if low == middle:
                break
            low, f_low = middle, value
            if side < 0:
                f_high *= 0.5
            side = -1
        else:
            if high == middle:
                break
            high, f_high = middle, value
            if side > 0:
                f_low *= 0.5
            side = 1
    return middle


def integrate_even(f: Callable[[float], float], half_range: float, nodes: int = 12) -> float:
    """Return the integral of an even function over [-half_range, half_range], zero at both ends.

    The substitution x = half_range * sin(t) makes the integrand smooth and periodic, so that the
    trapezoid rule converges faster than any power of the number of nodes.

    >>> abs(integrate_even(lambda x: (1 - x * x) ** 1.5, 1.0) - 3 * math.pi / 8) < 1e-12
    True

    Source: Simpson, derived.
    """
    step = 0.5 * math.pi / nodes
    total = 0.5 * f(0.0)
    for k in range(1, nodes):
        total += f(half_range * math.sin(k * step)) * math.cos(k * step)
    return 2.0 * half_range * step * total
