"""The drawing: rim, tape, valve, tire and sealant of one wheel as named outlines in mm.

Origin in the wheel's middle plane at the bead seats; x to the right, y up toward the hub, as at the
bottom of a standing wheel: valve up, tread down, so that the pool lies where it really does.
"""

import itertools
import math
from functools import lru_cache

import msgspec

from inner_rim.core.models.mounting import insert_leg_mm
from inner_rim.core.models.rim import Bed, flange_mm
from inner_rim.core.models.tape import edge_gap_mm
from inner_rim.core.models.valve import NUT_AND_RING_MM
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.job import Insert, Wheel

Point = tuple[float, float]

WALL_MM = 1.6
BED_MM = 1.4
HOOK_MM = 1.0
ASSUMED_DEPTH_AT_VALVE_MM = 18.0
VALVE_BODY_MM = 6.0
VALVE_BASE_MM = (8.0, 2.6)
NUT_WIDTH_MM = 11.0
BEAD_RADIUS_MM = 2.2
TREAD_MM = 1.6
TREAD_HALF_ANGLE = 0.95
#: A curve is drawn in steps of at most this angle: they lie within 1/800 of its radius, a quarter
#: of a pixel on a large screen.
ARC_STEP, NEAR_POINTS = 0.1, 10
ASSUMED_INSERT_SHARE = 0.45

#: Outlines inside others, which do not widen the drawing.
_INSIDE = frozenset({"air", "pool", "rim_cavity", "bead_left", "bead_right"})


class Dimension(msgspec.Struct, frozen=True):
    """A dimension line between two points and the length it states."""

    name: str
    start: Point
    end: Point
    length_mm: float


class Section(msgspec.Struct, frozen=True):
    """Named outlines, paths, points to label, and dimension lines.

    Attributes:
        outlines: closed polygons: rim, rim_cavity, air, casing, tread, bead_left, bead_right, pool,
            insert, valve_base, valve_stem, valve_nut.
        paths: open lines: tape (one, or tape_left and tape_right for two strips).
        assumed: names of parts drawn from assumed figures.
    """

    outlines: dict[str, tuple[Point, ...]]
    paths: dict[str, tuple[Point, ...]]
    anchors: dict[str, Point]
    dimensions: tuple[Dimension, ...]
    assumed: tuple[str, ...]

    def bounds(self) -> tuple[float, float, float, float]:
        """Return (x_min, y_min, x_max, y_max) of all outlines."""
        outer = [
            point
            for name, outline in self.outlines.items()
            if name not in _INSIDE
            for point in outline
        ]
        xs, ys = [x for x, _ in outer], [y for _, y in outer]
        return min(xs), min(ys), max(xs), max(ys)


def draw_section(wheel: Wheel, plan: WheelPlan) -> Section:
    bed = plan.bed
    depth_at_valve = wheel.rim.depth_at_valve_mm or ASSUMED_DEPTH_AT_VALVE_MM
    face = bed.depth_mm + depth_at_valve
    flange = flange_mm(wheel.rim)
    outlines = _tire(plan)
    outlines |= _pool(plan)
    outlines |= _rim(bed, flange, face, wheel.rim.hook != "straight_side")
    outlines |= _beads(bed)
    outlines |= _valve(plan, bed, face)
    if plan.wheel.insert is not None:
        outlines |= _insert(plan.wheel.insert, bed, plan)
    half, width = 0.5 * bed.internal_width_mm, 0.5 * plan.tire.mounted_width_mm
    bottom = -plan.tire.section_height_mm
    dimensions = [
        Dimension("internal_width", (-half, -flange), (half, -flange), 2.0 * half),
        Dimension("mounted_width", (-width, bottom), (width, bottom), 2.0 * width),
        Dimension("section_height", (width, 0.0), (width, bottom), plan.tire.section_height_mm),
    ]
    if plan.valve.standing_out_mm is not None:
        low = face + NUT_AND_RING_MM
        top = low + plan.valve.standing_out_mm
        dimensions.append(
            Dimension("standing_out", (0.0, low), (0.0, top), plan.valve.standing_out_mm)
        )
    return Section(
        outlines=outlines,
        paths=_tape(plan, bed),
        anchors={
            "valve": (-0.5 * VALVE_BODY_MM, 0.5 * (bed.depth_mm + face)),
            "tape": (-0.5 * bed.internal_width_mm + 0.5 * bed.left_shoulder_mm, 0.0),
            "sealant": (
                -0.4 * width,
                bottom + 0.5 * max(2.0, plan.sealant.dip_mm) + plan.tire.casing_mm,
            ),
            "rim": (-half, 0.4 * face),
            "tire": (-width, -plan.tire.center_mm),
        },
        dimensions=tuple(dimensions),
        assumed=tuple(
            name
            for name, missing in (
                ("bed", not bed.measured),
                ("depth", wheel.rim.depth_at_valve_mm is None),
            )
            if missing
        ),
    )


def _arc(center_y: float, radius: float, start: float, end: float, count: int = 0) -> list[Point]:
    """Return points of an arc about (0, center_y); angles from straight down, positive to the
    right.

    Without a count they are an odd number, so that the middle of the arc is one of them.
    """
    count = count or 2 * math.ceil(0.5 * (end - start) / ARC_STEP)
    return [(radius * x, center_y - radius * y) for x, y in _directions(start, end, count)]


@lru_cache(maxsize=32)
def _directions(start: float, end: float, count: int) -> tuple[Point, ...]:
    """Return sine and cosine of angles from `start` to `end`: most arcs of a section share theirs
    with another.
    """
    step = (end - start) / count
    angles = [start + i * step for i in range(count + 1)]
    return tuple(zip(map(math.sin, angles), map(math.cos, angles), strict=True))


def _bead_angle(plan: WheelPlan) -> float:
    """Angle from straight down at which the casing's arc ends on the bead seat."""
    half = 0.5 * plan.bed.internal_width_mm
    return math.pi - math.asin(min(1.0, half / (0.5 * plan.tire.mounted_width_mm)))


def _tire(plan: WheelPlan) -> dict[str, tuple[Point, ...]]:
    """The air in the tire, its casing and its tread."""
    end, radius, center = _bead_angle(plan), 0.5 * plan.tire.mounted_width_mm, -plan.tire.center_mm
    inside = _arc(center, max(0.5, radius - plan.tire.casing_mm), -end, end)
    bed, half = [(x, -height) for x, height in plan.bed.outline()], TREAD_HALF_ANGLE
    ground, back = _arc(center, radius + TREAD_MM, -half, half), _arc(center, radius, -half, half)
    return {
        "air": (*inside, *reversed(bed)),
        "casing": (*_arc(center, radius, -end, end), *reversed(inside)),
        "tread": (*ground, *reversed(back)),
    }


def casing_at_seat(plan: WheelPlan, side: str, reach_mm: float) -> dict[str, tuple[Point, ...]]:
    """Return casing and air near a bead seat alone, in few points, for a closer look.

    Args:
        reach_mm: how far from the seat they reach.
    """
    end, radius, center = _bead_angle(plan), 0.5 * plan.tire.mounted_width_mm, -plan.tire.center_mm
    inner = max(0.5, radius - plan.tire.casing_mm)
    begin = end - min(end, 2.0 * reach_mm / inner)
    outside, inside = (
        _arc(center, radius, begin, end, NEAR_POINTS),
        _arc(center, inner, end, begin, NEAR_POINTS),
    )
    wall = 0.5 * plan.bed.internal_width_mm
    air = [
        *inside,
        (wall - 2.0 * reach_mm, inside[-1][1]),
        (wall - 2.0 * reach_mm, plan.bed.depth_mm),
        (wall, 0.0),
    ]
    sign = -1.0 if side == "left" else 1.0
    return {
        "air": tuple((sign * x, y) for x, y in air),
        "casing": tuple((sign * x, y) for x, y in (*outside, *inside)),
    }


def _pool(plan: WheelPlan) -> dict[str, tuple[Point, ...]]:
    depth = plan.sealant.dip_mm
    if depth <= 0.0:
        return {}
    inner = max(0.5, 0.5 * plan.tire.mounted_width_mm - plan.tire.casing_mm)
    half = math.acos(max(-1.0, min(1.0, (inner - depth) / inner)))
    return {"pool": tuple(_arc(-plan.tire.center_mm, inner, -half, half))}


def _rim(bed: Bed, flange: float, face: float, hooked: bool) -> dict[str, tuple[Point, ...]]:
    half = 0.5 * bed.internal_width_mm
    outer = half + WALL_MM
    crown = max(5.0, 0.32 * outer)
    hook = HOOK_MM if hooked else 0.0
    bed_line = [(x, -height) for x, height in bed.outline()]
    right = [
        (half, -flange + 2.2),
        (half - hook, -flange + 1.2),
        (half - hook, -flange),
        (outer, -flange),
    ]
    left = [(-x, y) for x, y in reversed(right)]
    back = [(outer, 1.5), (crown, face), (-crown, face), (-outer, 1.5)]
    outlines: dict[str, tuple[Point, ...]] = {"rim": (*bed_line, *right, *back, *left)}
    roof = face - WALL_MM
    if roof > bed.depth_mm + BED_MM + 1.0:
        run = 0.5 * bed.floor_mm + 1.0
        shelf = max(run, half - 0.5 * min(bed.left_shoulder_mm, bed.right_shoulder_mm))
        low = bed.depth_mm + BED_MM
        outlines["rim_cavity"] = (
            (-shelf, BED_MM + 0.8),
            (-run, low),
            (run, low),
            (shelf, BED_MM + 0.8),
            (max(1.0, crown - WALL_MM), roof),
            (-max(1.0, crown - WALL_MM), roof),
        )
    return outlines


def _beads(bed: Bed) -> dict[str, tuple[Point, ...]]:
    radius = min(BEAD_RADIUS_MM, 0.2 * bed.internal_width_mm)
    x = 0.5 * bed.internal_width_mm - radius - 0.3
    ring = _arc(-radius - 0.2, radius, 0.0, 2.0 * math.pi, 36)
    return {
        "bead_left": tuple((px - x, py) for px, py in ring),
        "bead_right": tuple((px + x, py) for px, py in ring),
    }


def _insert(insert: Insert, bed: Bed, plan: WheelPlan) -> dict[str, tuple[Point, ...]]:
    """The insert lies on the bed with its leg in the well; drawn as tall as it is."""
    height = insert.height_mm
    if height is None:
        height = ASSUMED_INSERT_SHARE * plan.tire.section_height_mm
    half = 0.4 * bed.internal_width_mm
    leg = min(insert_leg_mm(insert), bed.depth_mm)
    foot = max(0.5, 0.4 * bed.floor_mm)
    low = -height
    return {
        "insert": (
            (-foot, leg), (foot, leg), (foot, 0.0), (half, -0.25 * height), (half, 0.7 * low),
            (0.6 * half, low), (-0.6 * half, low), (-half, 0.7 * low), (-half, -0.25 * height), (-foot, 0.0),
        )
    }  # fmt: skip


def _box(half_width: float, low: float, high: float) -> tuple[Point, ...]:
    return ((-half_width, low), (half_width, low), (half_width, high), (-half_width, high))


def _valve(plan: WheelPlan, bed: Bed, face: float) -> dict[str, tuple[Point, ...]]:
    length = plan.valve.length_mm or plan.valve.needed_mm
    if length is None:
        return {}
    base_width, base_height = VALVE_BASE_MM
    low = bed.depth_mm
    return {
        "valve_stem": _box(
            0.5 * VALVE_BODY_MM, low, max(face + NUT_AND_RING_MM + 2.0, low + length)
        ),
        "valve_base": _box(0.5 * base_width, low - base_height, low),
        "valve_nut": _box(0.5 * NUT_WIDTH_MM, face, face + NUT_AND_RING_MM),
    }


def _tape(plan: WheelPlan, bed: Bed) -> dict[str, tuple[Point, ...]]:
    tape = plan.tape
    if tape.width_mm is None:
        return {}
    line = [(x, -height) for x, height in bed.outline()]
    if tape.strips == 2:
        width = tape.width_mm
        left = _clipped(line, 0.0, width)
        right = [(-x, y) for x, y in _clipped([(-x, y) for x, y in reversed(line)], 0.0, width)]
        return {"tape_left": tuple(left), "tape_right": tuple(right)}
    gap = edge_gap_mm(tape.trim_to_mm or tape.width_mm, tape.developed_width_mm)
    if gap >= 0.0:
        return {"tape": tuple(_clipped(line, gap, tape.developed_width_mm - gap))}
    half = 0.5 * bed.internal_width_mm
    return {"tape": ((-half, gap), *line, (half, gap))}


def along_bed(bed: Bed, side: str, start_mm: float, end_mm: float) -> tuple[Point, ...]:
    """Return the line along the bed between two distances from a flange; below zero it climbs the
    wall.

    >>> from inner_rim.core.models.rim import bed_of
    >>> from inner_rim.core.record.job import Rim
    >>> along_bed(bed_of(Rim(622.0, 24.0)), "right", -1.0, 2.0)
    ((12.0, -1.0), (12.0, 0.0), (10.0, 0.0))
    """
    line = [(x, -height) for x, height in bed.outline()]
    if side == "right":
        line = [(x, y) for x, y in reversed(line)]
    wall = line[0][0]
    climbing = [(wall, min(start_mm, 0.0))] if start_mm < 0.0 else []
    if start_mm < 0.0 and end_mm <= 0.0:
        return ((wall, start_mm), (wall, end_mm))
    return (*climbing, *_clipped(line, max(0.0, start_mm), max(0.0, end_mm)))


def _clipped(line: list[Point], start: float, end: float) -> list[Point]:
    """Return the part of a polyline between two distances along it."""
    result: list[Point] = []
    walked = 0.0
    for (x0, y0), (x1, y1) in itertools.pairwise(line):
        piece = math.hypot(x1 - x0, y1 - y0)
        low, high = max(start, walked), min(end, walked + piece)
        if piece > 0.0 and high > low:
            for at in (low, high):
                t = (at - walked) / piece
                point = (x0 + t * (x1 - x0), y0 + t * (y1 - y0))
                if not result or math.dist(result[-1], point) > 1e-9:
                    result.append(point)
        walked += piece
    return result
