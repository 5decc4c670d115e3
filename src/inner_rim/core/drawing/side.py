"""The wheel from the side: where the tape starts and is doubled, the spokes, the last section, and the pool.

Angles are in degrees clockwise from the valve; lengths from the axle.
"""

import msgspec

from inner_rim.core.models.rim import ASSUMED_SPOKES
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.job import Wheel

MOST_SPOKES = 72


class Side(msgspec.Struct, frozen=True):
    """What the side view shows.

    Attributes:
        seat_mm: radius of the bead seats.
        outer_mm: radius of the tread.
        inner_mm: radius of the tread's inner face, where the pool lies.
        spokes_deg: where the spokes end; none at the valve.
        tape_start_deg, tape_cut_deg: between them the tape is doubled.
        pool_level_mm: level of the free sealant below the axle, None for no pool; valve at the top.
    """

    seat_mm: float
    outer_mm: float
    inner_mm: float
    spokes_deg: tuple[float, ...]
    tape_start_deg: float
    tape_cut_deg: float
    pool_level_mm: float | None


def draw_side(wheel: Wheel, plan: WheelPlan) -> Side:
    """Return the side view of a wheel; the pool lies below a level plane, its depth above the lowest inner point."""
    spokes = min(wheel.rim.spokes or ASSUMED_SPOKES, MOST_SPOKES)
    outer = plan.tire.outer_radius_mm
    inner = outer - plan.tire.casing_mm
    depth = plan.sealant.dip_mm
    return Side(
        seat_mm=0.5 * wheel.rim.bead_seat_diameter_mm,
        outer_mm=outer,
        inner_mm=inner,
        spokes_deg=tuple(360.0 * (i + 0.5) / spokes for i in range(spokes)),
        tape_start_deg=plan.tape.start_deg,
        tape_cut_deg=plan.tape.cut_deg,
        pool_level_mm=inner - depth if depth > 0.0 else None,
    )
