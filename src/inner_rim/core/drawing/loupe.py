"""Both bead seats, close up: the tape's edge and layers, the bead, the wall with or without a hook,
and the gap.

Coordinates as in `section`: mm, x to the right from the wheel's middle plane, y up toward the hub
from the bead seats; the left seat is the mirror of the right one where the bed is.
"""

import math
from typing import Literal

import msgspec

from inner_rim.core.drawing.section import Dimension, Point, Section, along_bed, casing_at_seat
from inner_rim.core.plan.wheel_plan import WheelPlan

Side = Literal["left", "right"]
#: The middle of the view: inward from the wall, and up the wall from the seat.
INWARD_MM, UP_MM = 1.4, 1.6
#: The outlines taken from the section, and the radius of the view.
SEEN = ("rim", "rim_cavity", "insert")
REACH_MM = 6.0


class SeatLoupe(msgspec.Struct, frozen=True):
    """One bead seat.

    Attributes:
        outlines: closed polygons: those of the section within the view, and the bead.
        layers: the tape, a line for each layer from the edge inward, the lowest first.
        gap: from the wall to the tape's edge along the bed, None where there is no tape; below zero
            the tape climbs the wall.
        gap_mm: its length with its sign.
        band: where the edge may be, as a line along bed and wall; empty where the well was
            measured.
        even: the other seat is the mirror image of this one.
    """

    side: Side
    middle: Point
    outlines: dict[str, tuple[Point, ...]]
    layers: tuple[tuple[Point, ...], ...]
    thickness_mm: float
    gap: Dimension | None
    gap_mm: float | None
    band: tuple[Point, ...]
    hooked: bool | None
    even: bool = False


def draw_loupe(
    section: Section, plan: WheelPlan, hooked: bool | None
) -> tuple[SeatLoupe, SeatLoupe]:
    """Return the left and the right bead seat.

    The gap is g = (L - w) / 2 on either side; where the well was assumed, L and with it g have a
    band.
    """
    left = _seat(section, plan, hooked, "left")
    return left, _mirrored(left) if left.even else _seat(section, plan, hooked, "right")


def _mirrored(left: SeatLoupe) -> SeatLoupe:
    def across(points: tuple[Point, ...]) -> tuple[Point, ...]:
        return tuple((-x, y) for x, y in points)

    gap = left.gap
    if gap is not None:
        start, end = across((gap.start, gap.end))
        gap = Dimension(gap.name, start, end, gap.length_mm)
    return msgspec.structs.replace(
        left,
        side="right",
        middle=(-left.middle[0], left.middle[1]),
        outlines={name: across(outline) for name, outline in left.outlines.items()},
        layers=tuple(across(layer) for layer in left.layers),
        gap=gap,
        band=across(left.band),
    )


def _seat(section: Section, plan: WheelPlan, hooked: bool | None, side: Side) -> SeatLoupe:
    sign = -1.0 if side == "left" else 1.0
    half = 0.5 * plan.bed.internal_width_mm
    tape = plan.tape
    outlines = casing_at_seat(plan, side, REACH_MM)
    seen = {
        name: _beyond(
            _beyond(section.outlines[name], 0, sign, half - INWARD_MM - REACH_MM),
            1,
            -1.0,
            UP_MM - REACH_MM,
        )
        for name in SEEN
        if section.outlines.get(name)
    }
    outlines |= {name: outline for name, outline in seen.items() if outline}
    outlines["bead"] = section.outlines[f"bead_{side}"]
    gap = tape.edge_gap_mm
    laid = None if tape.width_mm is None else 0.0 if tape.strips == 2 else gap
    layers: tuple[tuple[Point, ...], ...] = ()
    band: tuple[Point, ...] = ()
    if laid is not None:
        reach = min(tape.trim_to_mm or tape.width_mm or 0.0, 2.0 * REACH_MM)
        layers = tuple(
            _lifted(along_bed(plan.bed, side, laid, laid + reach), (i + 0.5) * tape.thickness_mm)
            for i in range(tape.layers)
        )
        if not tape.bed_measured and tape.strips == 1:
            low, high = (
                0.5 * (width - tape.developed_width_mm) for width in tape.developed_band_mm
            )
            band = along_bed(plan.bed, side, laid + low, laid + high)
    edge = layers[0][0] if layers else None
    return SeatLoupe(
        side=side,
        middle=(sign * (half - INWARD_MM), -UP_MM),
        outlines=outlines,
        layers=layers,
        thickness_mm=tape.thickness_mm,
        gap=Dimension("gap", (sign * half, 0.0), edge, abs(gap))
        if edge is not None and gap is not None and tape.strips == 1
        else None,
        gap_mm=gap if tape.strips == 1 else None,
        band=band,
        hooked=hooked,
        even=plan.bed.left_shoulder_mm == plan.bed.right_shoulder_mm,
    )


def _beyond(outline: tuple[Point, ...], axis: int, sign: float, least: float) -> tuple[Point, ...]:
    """Clip an outline to sign * (x or y) >= least; the rest lies outside the view.

    One edge of Sutherland and Hodgman (Communications of the ACM 17, 1974).

    >>> _beyond(((0.0, 0.0), (4.0, 0.0), (4.0, 2.0), (0.0, 2.0)), 0, 1.0, 3.0)
    ((3.0, 0.0), (4.0, 0.0), (4.0, 2.0), (3.0, 2.0))
    """
    result: list[Point] = []
    for before, point in zip((outline[-1:] + outline)[:-1], outline, strict=True):
        near, far = sign * before[axis] - least, sign * point[axis] - least
        if near * far < 0.0:
            share = near / (near - far)
            result.append(
                (
                    before[0] + share * (point[0] - before[0]),
                    before[1] + share * (point[1] - before[1]),
                )
            )
        if far >= 0.0:
            result.append(point)
    return tuple(result)


def _lifted(line: tuple[Point, ...], by_mm: float) -> tuple[Point, ...]:
    """Return a line moved off the bed, toward the tire, and off the wall where it climbs."""
    result: list[Point] = []
    for i, (x, y) in enumerate(line):
        before, after = line[max(0, i - 1)], line[min(len(line) - 1, i + 1)]
        run, rise = after[0] - before[0], after[1] - before[1]
        length = math.hypot(run, rise) or 1.0
        nx, ny = rise / length, -run / length
        if ny > 0.0 or (ny == 0.0 and nx * x > 0.0):  # away from the metal
            nx, ny = -nx, -ny
        result.append((x + by_mm * nx, y + by_mm * ny))
    return tuple(result)
