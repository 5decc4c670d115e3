"""The wheel from the side: where the tape starts and is doubled, the spokes, the last section, and the pool.

Angles are in degrees clockwise from the valve; lengths from the axle.
"""

import math

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
        finish_deg: where the last bead goes on.
        pool_level_mm: level of the free sealant below the axle, None for no pool; valve at the top.
        pool_half_deg: half the angle that the pool takes at the bottom.
    """

    seat_mm: float
    outer_mm: float
    inner_mm: float
    spokes_deg: tuple[float, ...]
    tape_start_deg: float
    tape_cut_deg: float
    finish_deg: float
    pool_level_mm: float | None
    pool_half_deg: float


def draw_side(wheel: Wheel, plan: WheelPlan) -> Side:
    """Return the side view of a wheel.

    The pool lies below a level plane: at depth d over the lowest inner point it reaches acos((Ri - d) / Ri)
    to each side.

    Source: derived from geometry.
    """
    spokes = min(wheel.rim.spokes or ASSUMED_SPOKES, MOST_SPOKES)
    outer = plan.tire.outer_radius_mm
    inner = outer - plan.tire.casing_mm
    depth = plan.sealant.dip_mm
    half = math.degrees(math.acos(max(-1.0, (inner - depth) / inner))) if depth > 0.0 else 0.0
    return Side(
        seat_mm=0.5 * wheel.rim.bead_seat_diameter_mm,
        outer_mm=outer,
        inner_mm=inner,
        spokes_deg=tuple(360.0 * (i + 0.5) / spokes for i in range(spokes)),
        tape_start_deg=plan.tape.start_deg,
        tape_cut_deg=plan.tape.cut_deg,
        finish_deg=0.0,
        pool_level_mm=inner - depth if depth > 0.0 else None,
        pool_half_deg=half,
    )
