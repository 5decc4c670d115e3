"""Mounting: the slack of a bead that does not stretch, and where it comes from (docs/models.md
2.5).

A bead is a loop of fixed length. While its last section is lifted over the flange, the rest lies at
some radius; what is left over is the slack. Most of it comes from the well.
"""

import math
from functools import lru_cache
from typing import Literal

import msgspec

from inner_rim.core.models.rim import Bed, flange_mm
from inner_rim.core.record.job import Insert, Rim, Tire
from inner_rim.core.record.why import NO_WHY, Message, Why
from inner_rim.words import N_

Grade = Literal["by_hand", "technique", "levers", "will_not_go", "unknown"]

LIFTED_MM = 80.0
VALVE_BASE_MM = 8.0
#: What an insert's leg may take of the well where it was not entered, and how far an assumed well
#: may be off, mm.
UNREAD_LEG_MM = (0.0, 3.0)
ASSUMED_DEPTH_BAND_MM = 1.0
#: Depth of a well that was not measured, up to an internal width, mm (common practice).
ASSUMED_DEPTHS_MM = ((21.0, 3.0), (30.0, 3.5), (math.inf, 4.5))
#: By how much a bead's own loop is shorter than the seat's circumference, for a narrow tubeless-ready
#: tire and for others, and how far it scatters, mm (common practice, no published source).
NARROW_TIRE_MM, NARROW_SHORTER_MM, SHORTER_MM, LOOP_BAND_MM = 35.0, 3.0, 1.0, 4.0
#: Of a caliper in a well, and of a measured seat's radius.
MEASURED_DEPTH_BAND_MM, MEASURED_SEAT_BAND_MM = 0.2, 0.25
#: Least slack in mm for each grade (common practice).
GRADES: tuple[tuple[float, Grade], ...] = ((8.0, "by_hand"), (3.0, "technique"), (0.0, "levers"))
GRADE_WORDS: dict[Grade, str] = {
    "by_hand": N_("by hand"),
    "technique": N_("by hand with technique"),
    "levers": N_("levers, small bites"),
    "will_not_go": N_("will not go"),
    "unknown": N_("measure the well"),
}
ADVICE: dict[Grade, str] = {
    "by_hand": N_("Thumbs only. Start opposite the valve, finish at the valve."),
    "technique": N_(
        "Work the slack around with both hands, bead down in the well all the way; then push the last section over."
    ),
    "levers": N_(
        "Bead in the well all around, wet it; two levers in small bites, shallow, never into the tape."
    ),
    "unknown": N_(
        "Not known how tight: bead in the well all around, start opposite the valve; measure the well to know."
    ),
    "will_not_go": N_(
        "It will not go like this: bead not in the well, too much tape or insert, or the wrong diameter."
    ),
}
#: The same where the last section goes on away from the valve.
ADVICE_ELSEWHERE: dict[Grade, str] = {
    **ADVICE,
    "by_hand": N_("Thumbs only. Start at the valve, finish away from it, where the slack is."),
}


class MountingPick(msgspec.Struct, frozen=True):
    """How the last section of the last bead goes on.

    Attributes:
        slack_mm: with the rest of the bead in the well, finishing at the valve.
        slack_off_well_mm: with the bead on its seat: why it must be in the well.
        band_mm: (low, high) of the slack, nine times out of ten.
        grade: what the slack means for the hands; `unknown` where the well or a leg was not read
            and the band has several grades.
        finish_at_valve_gain_mm: slack gained against finishing opposite, where the valve's base
            holds the bead up.
        usable_well_mm: depth that is left for the bead.
        last_side: the side with the narrower shoulder, which goes on last and is broken first; None
            where equal.
        why: the trail.
    """

    slack_mm: float
    slack_off_well_mm: float
    band_mm: tuple[float, float]
    grade: Grade
    finish_at_valve_gain_mm: float
    usable_well_mm: float
    last_side: Literal["left", "right"] | None
    why: Why


def shortest_loop_mm(flange_radius_mm: float, well_radius_mm: float, lifted_mm: float) -> float:
    """Return the shortest loop around a circle and a section lifted onto the flange.

    Lmin = 2*b*rf + 2*sqrt(rf^2 - rw^2) + rw*(2*pi - 2*b - 2*acos(rw/rf)), b = lifted / (2*rf).

    >>> round(math.pi * 622 - shortest_loop_mm(317.0, 311.0, 0.0), 1)
    -1.6
    >>> round(math.pi * 622 - shortest_loop_mm(317.0, 307.0, 0.0), 1)
    21.8

    Raises:
        ValueError: the rest of the bead would lie outside the flange.

    Source: derived from geometry (convex hull of two arcs).
    """
    rf, rw = flange_radius_mm, well_radius_mm
    if rw > rf:
        raise ValueError("the well's radius must not exceed the flange's")
    half = min(math.pi, 0.5 * lifted_mm / rf)
    free = max(0.0, 2.0 * math.pi - 2.0 * half - 2.0 * math.acos(rw / rf))
    return 2.0 * half * rf + 2.0 * math.sqrt(rf * rf - rw * rw) + rw * free


@lru_cache(maxsize=256)
def hull_length_mm(
    well_radius_mm: float, bumps: tuple[tuple[float, float, float], ...], steps: int = 1440
) -> float:
    """Return the length of the loop pulled tight around a circle and arcs that stand out of it.

    Cauchy: the perimeter of a convex body is the integral of its support function. An arc of radius
    r about the angle c, half as wide as b, supports r * cos(max(0, |phi - c| - b)).

    Args:
        well_radius_mm: the circle.
        bumps: (radius mm, middle rad, half-width rad) of each arc.
        steps: directions that are summed; 1440 keep the error below 0.001 mm.

    >>> round(hull_length_mm(300.0, ()), 1)
    1885.0

    Source: derived from geometry (Cauchy's formula).
    """
    turn = 2.0 * math.pi
    total = 0.0
    for k in range(steps):
        phi = turn * k / steps
        best = well_radius_mm
        for radius, middle, half in bumps:
            away = abs((phi - middle + math.pi) % turn - math.pi) - half
            reach = radius * math.cos(away) if away > 0.0 else radius
            if reach > best:
                best = reach
        total += best
    return total * turn / steps


def held_up_mm(held_radius_mm: float, well_radius_mm: float, width_mm: float) -> float:
    """Return the length a bead loses where something as wide as `width_mm` holds it up out of the
    well.

    Length = loop over the arc of half width b / 2, less the loop in the well.

    >>> round(held_up_mm(311.0, 307.0, 12.0), 2)
    1.01

    Source: derived from geometry.
    """
    rs, rw = held_radius_mm, min(well_radius_mm, held_radius_mm)
    half = 0.5 * width_mm / rs
    arc = half + math.acos(rw / rs)
    return 2.0 * half * rs + 2.0 * math.sqrt(rs * rs - rw * rw) - 2.0 * rw * arc


def grade(slack_mm: float) -> Grade:
    """Return what a slack means for the hands, for a last section of 80 mm.

    > 8 mm by hand, 3 to 8 with technique, 0 to 3 levers, < 0 will not go.

    >>> [grade(s) for s in (9.0, 5.0, 1.0, -1.0)]
    ['by_hand', 'technique', 'levers', 'will_not_go']

    Source: common practice, no published source.
    """
    if slack_mm > GRADES[0][0]:
        return "by_hand"
    return next((word for least, word in GRADES[1:] if slack_mm >= least), "will_not_go")


def well_depth_mm(bed: Bed) -> float:
    """Return the depth of the well in mm; one that was not measured by the width of the rim.

    3.0 up to 21 mm of internal width, 3.5 up to 30, 4.5 above.

    >>> from inner_rim.core.models.rim import Bed
    >>> well_depth_mm(Bed(19.0, 3.5, 5.7, 3.2, 3.2, False))
    3.0

    Source: common practice, no published source.
    """
    if bed.measured:
        return bed.depth_mm
    return next(depth for width, depth in ASSUMED_DEPTHS_MM if bed.internal_width_mm <= width)


def bead_loop_mm(rim: Rim, tire: Tire) -> float:
    """Return the length of the bead's own loop, mm: a little less than around the seat.

    pi * D - 3 for a tubeless-ready tire under 35 mm, pi * D - 1 for others.

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> round(bead_loop_mm(Rim(622.0, 24.0), Tire(size="28-622", tubeless_ready=True)), 1)
    1951.1

    Source: common practice, no published source.
    """
    narrow = tire.tubeless_ready and tire.parsed_size.width_mm < NARROW_TIRE_MM
    return math.pi * rim.bead_seat_diameter_mm - (NARROW_SHORTER_MM if narrow else SHORTER_MM)


def usable_well_mm(bed: Bed, tape_mm: float, occupied_mm: float = 0.0) -> float:
    """Return the depth that tape and what lies in the well leave for the bead; negative is above
    the seat.

    depth - tape - what lies in the well.

    >>> from inner_rim.core.models.rim import Bed
    >>> round(usable_well_mm(Bed(24.0, 3.5, 7.2, 4.9, 4.9, False), 0.2), 3)
    3.3

    Source: derived.
    """
    return well_depth_mm(bed) - tape_mm - occupied_mm


def finish_slack_mm(
    rim: Rim,
    loop_mm: float,
    well_mm: float,
    finish_rad: float = 0.0,
    *,
    lifted_mm: float = LIFTED_MM,
    valve_base: bool = True,
) -> float:
    """Return the slack with the last section at an angle from the valve, the rest in the well.

    slack = loop - shortest loop over flange and well.

    Args:
        rim: for bead seat diameter and flange.
        loop_mm: of the bead.
        well_mm: usable depth of the well.
        finish_rad: where the last section is, 0 at the valve.
        lifted_mm: its length.
        valve_base: whether the valve's base holds the bead at the seat.

    >>> from inner_rim.core.record.job import Rim
    >>> round(finish_slack_mm(Rim(622.0, 24.0), math.pi * 622.0, 3.3), 1)
    15.4

    Source: derived from geometry (see `hull_length_mm`).
    """
    seat = seat_radius_mm(rim)
    flange = seat + flange_mm(rim)
    well = min(seat - well_mm, flange)
    bumps = [(flange, finish_rad, 0.5 * lifted_mm / flange)]
    if valve_base:
        bumps.append((max(seat, well), 0.0, 0.5 * VALVE_BASE_MM / seat))
    return loop_mm - hull_length_mm(well, tuple(bumps))


def insert_leg_mm(insert: Insert | None) -> float:
    """Return what an insert's leg takes of the well; the middle of what it may where it was not
    entered.

    >>> insert_leg_mm(None)
    0.0

    Source: common practice, no published source.
    """
    if insert is None:
        return 0.0
    return insert.leg_mm if insert.leg_mm is not None else 0.5 * sum(UNREAD_LEG_MM)


def seat_radius_mm(rim: Rim) -> float:
    """Return the radius of the bead seats: measured around the seat, else the nominal one.

    r = circumference / (2 * pi), or D / 2.

    >>> from inner_rim.core.record.job import Rim
    >>> seat_radius_mm(Rim(622.0, 24.0))
    311.0

    Source: derived.
    """
    if rim.seat_circumference_mm is not None:
        return rim.seat_circumference_mm / (2.0 * math.pi)
    return 0.5 * rim.bead_seat_diameter_mm


def slack_at_mm(rim: Rim, loop_mm: float, usable_well_mm: float, seat_off_mm: float = 0.0) -> float:
    """Return the slack of a bead with so much of the well left for it (see `shortest_loop_mm`).

    slack = loop - shortest loop.

    Args:
        rim: for bead seat diameter and flange.
        loop_mm: of the bead.
        usable_well_mm: what is left of the well.
        seat_off_mm: by how much the seat's radius is larger than it was measured.

    >>> from inner_rim.core.record.job import Rim
    >>> round(slack_at_mm(Rim(622.0, 24.0), math.pi * 622.0, 3.3), 1)
    15.4

    Source: derived from geometry (convex hull of two arcs).
    """
    seat = seat_radius_mm(rim) + seat_off_mm
    flange = seat + flange_mm(rim)
    well = min(seat - usable_well_mm, flange)
    return loop_mm - shortest_loop_mm(flange, well, LIFTED_MM)


def pick_mounting(
    rim: Rim, tire: Tire, bed: Bed, tape_mm: float, insert: Insert | None
) -> MountingPick:
    """Return how the last bead goes on, with `tape_mm` of tape in the well.

    slack = loop - shortest loop, graded.

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> from inner_rim.core.models.rim import bed_of
    >>> rim = Rim(622.0, 24.0)
    >>> pick_mounting(rim, Tire(size="45-622"), bed_of(rim), 0.1, None).grade
    'by_hand'

    Source: docs/models.md 2.5.
    """
    seat = seat_radius_mm(rim)
    flange = seat + flange_mm(rim)
    usable = usable_well_mm(bed, tape_mm, insert_leg_mm(insert))
    well = min(seat - usable, flange)
    loop = bead_loop_mm(rim, tire)
    slack = slack_at_mm(rim, loop, usable)
    band = _band(rim, loop, bed, tape_mm, insert)
    off_well = slack_at_mm(rim, loop, -tape_mm)
    gain = held_up_mm(seat, well, VALVE_BASE_MM) if well < seat else 0.0
    known = bed.measured and (insert is None or insert.leg_mm is not None)
    word = grade(slack) if known or grade(band[0]) == grade(band[1]) else "unknown"
    pick = MountingPick(
        slack_mm=slack,
        slack_off_well_mm=off_well,
        band_mm=band,
        grade=word,
        finish_at_valve_gain_mm=gain,
        usable_well_mm=usable,
        last_side=_last_side(bed),
        why=NO_WHY,
    )
    return msgspec.structs.replace(pick, why=_why(pick, rim, loop, bed, tape_mm, insert))


def _why(
    pick: MountingPick, rim: Rim, loop_mm: float, bed: Bed, tape_mm: float, insert: Insert | None
) -> Why:
    figures: dict[str, float | int | str] = {
        "bead_loop_mm": loop_mm,
        "seat": "measured" if rim.seat_circumference_mm is not None else "nominal",
        "well_depth_mm": well_depth_mm(bed),
        "well": "measured" if bed.measured else N_("assumed, ± 1 mm"),
        "tape_in_the_well_mm": tape_mm,
        "insert_in_the_well_mm": insert_leg_mm(insert),
        "usable_well_mm": pick.usable_well_mm,
        "flange_radius_mm": seat_radius_mm(rim) + flange_mm(rim),
        "last_section_mm": LIFTED_MM,
        "slack_mm": pick.slack_mm,
        "slack_at_least_mm": pick.band_mm[0],
        "slack_at_most_mm": pick.band_mm[1],
        "slack_on_the_shelf_mm": pick.slack_off_well_mm,
        "gained_by_finishing_at_the_valve_mm": pick.finish_at_valve_gain_mm,
    }
    return Why(
        formula=(
            N_(
                "slack = bead loop − shortest loop around the last section lifted over the flange and the rest in the well; "
                "a bead does not stretch"
            )
        ),
        figures=figures,
        source=N_("derived from geometry; grades common practice, no published source"),
        others=(
            Message(
                "Bead on the shelf, not in the well: {slack_mm}",
                {"slack_mm": pick.slack_off_well_mm},
            ),
            Message(
                "Finishing opposite the valve: {slack_mm}",
                {"slack_mm": pick.slack_mm - pick.finish_at_valve_gain_mm},
            ),
            Message(ADVICE[pick.grade]),
        ),
        what_changes_it=N_(
            "a deeper well, fewer layers of tape, no insert leg or other bead in the well, finishing at the valve"
        ),
    )


def _band(
    rim: Rim, loop_mm: float, bed: Bed, tape_mm: float, insert: Insert | None
) -> tuple[float, float]:
    """The slack nine times in ten: the bead's loop, the depth of the well, a leg that was not
    entered, a measured seat, each way's reach added in squares.
    """
    usable = usable_well_mm(bed, tape_mm, insert_leg_mm(insert))
    reach = MEASURED_DEPTH_BAND_MM if bed.measured else ASSUMED_DEPTH_BAND_MM
    off = MEASURED_SEAT_BAND_MM if rim.seat_circumference_mm is not None else 0.0
    leg = 0.5 * UNREAD_LEG_MM[1] if insert is not None and insert.leg_mm is None else 0.0
    middle = slack_at_mm(rim, loop_mm, usable)
    ends = []
    for way in (-1.0, 1.0):
        parts = (
            slack_at_mm(rim, loop_mm, usable + way * reach) - middle,
            slack_at_mm(rim, loop_mm, usable + way * leg) - middle,
            slack_at_mm(rim, loop_mm, usable, -way * off) - middle,
            LOOP_BAND_MM,
        )
        ends.append(middle + way * math.hypot(*parts))
    return ends[0], ends[1]


def _last_side(bed: Bed) -> Literal["left", "right"] | None:
    if abs(bed.left_shoulder_mm - bed.right_shoulder_mm) < 0.3:
        return None
    return "left" if bed.left_shoulder_mm < bed.right_shoulder_mm else "right"
