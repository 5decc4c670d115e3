"""Draws the wheel as it is, and what the hand does to it, for the pictures of acts."""

import itertools
import math
from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import Literal

from inner_rim.core.drawing.scene import (
    BADGE_RADIUS,
    LABEL,
    WIDE,
    Align,
    Badge,
    Caption,
    Path,
    Scene,
    arc,
    polar,
)
from inner_rim.core.drawing.section import BEAD_RADIUS_MM, Point, Section, draw_section
from inner_rim.core.models.rim import ASSUMED_SPOKES, flange_mm
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import Action
from inner_rim.core.procedure.state import WheelState
from inner_rim.core.record.why import Message

#: How large a tire is drawn at least and at most, as the rim's share of the wheel's radius.
RIM_SHARE = (0.68, 0.8)
#: The rim from the side, as a share of the wheel's radius.
RIM_WIDE = 0.075
#: More spokes than any wheel has are not drawn.
MAX_SPOKES = 72
#: Middle and radius of a large wheel, and of a small one in the upper right corner.
MIDDLE, LARGE = (280.0, 270.0), 205.0
CORNER, SMALL = (444.0, 124.0), 84.0

BeadAt = Literal["shelf", "well", "over"]


def _bezier(a: Point, b: Point, c: Point, d: Point, count: int = 16) -> list[Point]:
    """Return points of a cubic Bézier curve from a to d."""
    points = []
    for i in range(count + 1):
        t = i / count
        u = 1.0 - t
        w = (u**3, 3 * u * u * t, 3 * u * t * t, t**3)
        points.append(
            tuple(sum(k * p[axis] for k, p in zip(w, (a, b, c, d), strict=True)) for axis in (0, 1))
        )
    return points  # type: ignore[return-value]


def other(side: str) -> str:
    return "right" if side == "left" else "left"


def mirrored(side: str, x: float) -> float:
    """Return where a thing goes that is away from the side in work."""
    return WIDE - x if side == "right" else x


class Sketch:
    """Collects one picture of one wheel.

    Args:
        state: the wheel as it is before the step.
    """

    def __init__(self, plan: WheelPlan, state: WheelState, step: Action) -> None:
        self.plan, self.state, self.step = plan, state, step
        self._paths: list[Path] = []
        self._badges: list[Badge] = []
        self._captions: list[Caption] = []

    def scene(self) -> Scene:
        return Scene(tuple(self._paths), tuple(self._badges), tuple(self._captions))

    # -- what the wheel is -----------------------------------------------------------------------

    @property
    def spokes(self) -> int:
        return min(self.plan.wheel.rim.spokes or ASSUMED_SPOKES, MAX_SPOKES)

    @property
    def side(self) -> Literal["left", "right"]:
        """The side that is opened: where it leaks, else where the shoulder is narrow."""
        setup = self.plan.setup
        leaks = setup.leak_side if setup.does == "repair" and setup.leak == "bead" else ""
        return "right" if (leaks or self.plan.mounting.last_side) == "right" else "left"

    @property
    def side_matters(self) -> bool:
        return bool(self.plan.mounting.last_side or self.plan.setup.leak_side)

    @property
    def leaks_somewhere(self) -> bool:
        """Whether the side that leaks is opened, and nobody said which it is."""
        return self.plan.setup.opens_bead and not self.plan.setup.leak_side

    @property
    def low(self) -> dict[str, tuple[int, ...]]:
        """The sectors that stayed low at the last look, by side."""
        seating = self.plan.log.seating
        return {"left": seating.low_left, "right": seating.low_right}

    @property
    def sealant(self) -> bool:
        return self.state.sealant == "in"

    @property
    def taped(self) -> bool:
        return self.state.tape != "none" and not self.plan.setup.sealed

    @property
    def rim_share(self) -> float:
        share = 0.5 * self.plan.wheel.rim.bead_seat_diameter_mm / self.plan.tire.outer_radius_mm
        return min(RIM_SHARE[1], max(RIM_SHARE[0], share))

    # -- strokes ---------------------------------------------------------------------------------

    def path(
        self, points: Iterable[Point], fill: str = "", edge: str = "", width: float = 2.0
    ) -> None:
        self._paths.append(Path(tuple(points), fill, edge, width))

    def line(
        self, points: Iterable[Point], color: str = "ink", width: float = 2.0, dashed: bool = False
    ) -> None:
        self._paths.append(Path(tuple(points), "", color, width, closed=False, dashed=dashed))

    def circle(
        self, center: Point, radius: float, fill: str = "", edge: str = "", width: float = 2.0
    ) -> None:
        self.path(arc(center, radius, 0.0, 360.0)[:-1], fill, edge, width)

    def box(
        self, left: float, top: float, right: float, bottom: float, fill: str, edge: str = "ink"
    ) -> None:
        self.path(((left, top), (right, top), (right, bottom), (left, bottom)), fill, edge)

    def arrow(self, *points: Point, color: str = "accent", width: float = 6.0) -> None:
        """An arrow along points, its head at the last one, on a halo."""
        (x0, y0), (x1, y1) = points[-2:]
        length = math.hypot(x1 - x0, y1 - y0) or 1.0
        dx, dy = (x1 - x0) / length, (y1 - y0) / length
        head = 3.0 * width
        neck = (x1 - 0.8 * head * dx, y1 - 0.8 * head * dy)
        tips = [
            (x1 - head * dx + turn * 0.55 * head * dy, y1 - head * dy - turn * 0.55 * head * dx)
            for turn in (1.0, -1.0)
        ]
        self.line((*points[:-1], neck), "card", width + 4.0)
        self.line((*points[:-1], neck), color, width)
        self.path((tips[0], (x1, y1), tips[1]), color)

    def turn(
        self, center: Point, radius: float, start: float, end: float, color: str = "accent"
    ) -> None:
        """An arrow around a center."""
        self.arrow(*arc(center, radius, start, end), color=color)

    def badge(self, number: int, at: Point, color: str = "accent") -> None:
        self._badges.append(Badge(number, at, color))

    def say(
        self,
        words: Message,
        at: Point,
        color: str = "ink",
        size: int = LABEL,
        align: Align = 0,
        wide: float = 0.0,
    ) -> None:
        self._captions.append(Caption(words, at, size, color, align, wide))

    def step_mark(
        self, number: int, at: Point, words: Message, color: str = "accent", wide: float = 0.0
    ) -> None:
        """A number with its words right of it."""
        self.badge(number, at, color)
        self.say(words, (at[0] + BADGE_RADIUS + 8.0, at[1]), color, align=-1, wide=wide)

    def cross(self, center: Point, size: float) -> None:
        for turn in (1.0, -1.0):
            self.line(
                (
                    (center[0] - size, center[1] - turn * size),
                    (center[0] + size, center[1] + turn * size),
                ),
                "stop",
                5.0,
            )

    # -- the wheel from the side -----------------------------------------------------------------

    def wheel(
        self,
        center: Point,
        radius: float,
        valve: float | None = 0.0,
        tire: str = "rubber",
        pool: bool | None = None,
    ) -> float:
        """Draw the wheel as it is; return the rim's radius.

        Args:
            valve: its angle; None draws none.
            tire: the tire's color, empty where it is off.
            pool: sealant lies below; None where there is some.
        """
        rim = radius * self.rim_share
        if tire:
            self.ring(center, rim, radius, tire)
        if self.sealant if pool is None else pool:
            self.pool(center, radius)
        self.circle(center, rim - 0.5 * RIM_WIDE * radius, "", "metal", RIM_WIDE * radius)
        for edge in (rim, rim - RIM_WIDE * radius):
            self.circle(center, edge, "", "metal_edge", 1.2)
        for i in range(self.spokes):
            deg = 360.0 * (i + 0.5) / self.spokes
            self.line(
                (polar(center, 0.07 * radius, deg), polar(center, rim - RIM_WIDE * radius, deg)),
                "line",
                1.0,
            )
        self.circle(center, 0.06 * radius, "metal", "metal_edge")
        if valve is not None and self.state.valve != "none":
            self.valve(center, rim, radius, valve)
        return rim

    def ring(self, center: Point, inner: float, outer: float, color: str) -> None:
        self.circle(center, 0.5 * (inner + outer), "", color, outer - inner)
        self.circle(center, outer, "", "metal_edge", 1.2)

    def sector(
        self,
        center: Point,
        inner: float,
        outer: float,
        start: float,
        end: float,
        color: str,
        edge: str = "metal_edge",
    ) -> None:
        """A piece of a ring."""
        self.path(
            (*arc(center, outer, start, end), *reversed(arc(center, inner, start, end))),
            color,
            edge,
            1.2,
        )

    def pool(self, center: Point, radius: float) -> None:
        """The sealant at the bottom of the tire, whatever the wheel's angle."""
        half = math.degrees(math.acos(0.5 * (1.0 + self.rim_share) - 0.02))
        self.path(
            arc(center, radius - 5.0, 180.0 - half, 180.0 + half), "liquid", "metal_edge", 1.2
        )

    def valve(
        self, center: Point, rim: float, radius: float, deg: float, dashed: bool = False
    ) -> None:
        top, low = rim - RIM_WIDE * radius, rim - RIM_WIDE * radius - max(22.0, 0.14 * radius)
        wide = max(8.0, 0.05 * radius)
        points = (polar(center, top, deg), polar(center, low, deg))
        if dashed:
            self.line(points, "muted", 2.0, dashed=True)
            return
        self.line(points, "ink", wide + 3.0)
        self.line(points, "brass", wide)

    # -- the cross-section -----------------------------------------------------------------------

    @cached_property
    def section(self) -> Section:
        return draw_section(self.plan.wheel, self.plan)

    def with_tire(
        self, x: float = 225.0, wide: float = 290.0, bottom: float = 462.0, high: float = 380.0
    ) -> tuple[Point, float]:
        """Return where the bead seats' middle lies, and the scale, so that tire and rim fit above
        `bottom`.
        """
        tire, deep = self.plan.tire, self._rim_deep
        across = max(tire.mounted_width_mm, self.plan.bed.internal_width_mm + 8.0)
        scale = min(wide / across, high / (tire.section_height_mm + deep))
        return (x, bottom - scale * deep), scale

    @property
    def _rim_deep(self) -> float:
        return max(y for _x, y in self.section.outlines["rim"])

    def rim_fit(self, wide: float, high: float) -> float:
        """Return canvas units per mm, so that the rim alone fits."""
        return min(9.0, wide / (self.plan.bed.internal_width_mm + 6.0), high / self._rim_deep)

    def placed(self, center: Point, scale: float, points: Iterable[Point]) -> tuple[Point, ...]:
        """Return points in mm on the canvas; the bead seats' middle is the center."""
        return tuple((center[0] + scale * x, center[1] + scale * y) for x, y in points)

    def rim_section(self, center: Point, scale: float, tape: bool | None = None) -> None:
        """Draw rim, and tape where it is on, thicker than it is."""
        for name, fill in (("rim", "metal"), ("rim_cavity", "card")):
            if outline := self.section.outlines.get(name):
                self.path(self.placed(center, scale, outline), fill, "metal_edge", 1.5)
        if self.taped if tape is None else tape:
            self.tape_section(center, scale)

    def tape_section(self, center: Point, scale: float) -> None:
        lines = list(self.section.paths.values()) or [
            tuple((x, -y) for x, y in self.plan.bed.outline())
        ]
        for i, line in enumerate(lines):
            self.line(self.placed((center[0], center[1] - 2.5 - 3.0 * i), scale, line), "tape", 5.0)

    def bead_at(self, side: str, where: BeadAt) -> Point:
        """Return the middle of a bead, mm."""
        bed, sign = self.plan.bed, -1.0 if side == "left" else 1.0
        half = 0.5 * bed.internal_width_mm
        if where == "well":
            return sign * max(
                0.0, 0.5 * bed.floor_mm - BEAD_RADIUS_MM
            ), bed.depth_mm - BEAD_RADIUS_MM
        if where == "over":
            return sign * (half + 6.0), -flange_mm(self.plan.wheel.rim) - 7.0
        return sign * (half - BEAD_RADIUS_MM - 0.4), -BEAD_RADIUS_MM - 0.2

    def tire_section(
        self, center: Point, scale: float, left: BeadAt = "shelf", right: BeadAt = "shelf"
    ) -> None:
        """Draw the tire with its beads where they are; casing and tread thick enough to see."""
        tire, thick = self.plan.tire, max(9.0, self.plan.tire.casing_mm * scale)
        half, high, middle = 0.5 * tire.mounted_width_mm, tire.section_height_mm, tire.center_mm
        halves = []
        for sign, where in ((-1.0, left), (1.0, right)):
            bead = self.bead_at("left" if sign < 0.0 else "right", where)
            crown = [
                (sign * half * math.sin(t), -middle - (high - middle) * math.cos(t))
                for t in (math.pi * i / 40.0 for i in range(21))
            ]
            out = 0.75 * half if where != "over" else half
            wall = _bezier(
                (sign * half, -middle),
                (sign * half, -0.35 * middle),
                (sign * out, bead[1] - 5.0),
                bead,
            )
            halves.append(self.placed(center, scale, [*crown, *wall[1:]]))
        whole = (*reversed(halves[0]), *halves[1][1:])
        self.line(whole, "metal_edge", thick + 2.5)
        self.line(whole, "rubber", thick)
        tread = list(itertools.chain(reversed(halves[0][:11]), halves[1][1:11]))
        self.line(tread, "rubber", thick + 8.0)
        for side, where in (("left", left), ("right", right)):
            at = self.placed(center, scale, [self.bead_at(side, where)])[0]
            self.circle(at, max(9.0, BEAD_RADIUS_MM * scale), "rubber", "metal_edge", 1.5)

    def insert_section(self, center: Point, scale: float) -> None:
        if outline := self.section.outlines.get("insert"):
            self.path(self.placed(center, scale, outline), "foam", "ink", 1.5)

    # -- things ----------------------------------------------------------------------------------

    def lens(self, center: Point, radius: float, color: str = "ink") -> None:
        self.circle(center, radius, "card", color, 3.0)

    def cloth(self, center: Point) -> None:
        x, y = center
        self.path(
            ((x - 30, y - 16), (x - 6, y - 24), (x + 28, y - 14), (x + 22, y + 16), (x - 4, y + 22), (x - 26, y + 12)),
            "accent_soft", "accent", 2.5,
        )  # fmt: skip

    def clock(self, center: Point, radius: float, share: float) -> None:
        """A clock face with a part of an hour filled."""
        self.circle(center, radius, "card", "ink", 3.0)
        if share > 0.0:
            self.path((center, *arc(center, radius - 4.0, 0.0, 360.0 * min(1.0, share))), "accent")

    def gauge(self, center: Point, radius: float, share: float) -> None:
        """A dial whose needle stands at a share of its range."""
        self.circle(center, radius, "card", "ink", 3.0)
        for i in range(13):
            deg = -130.0 + i * 260.0 / 12.0
            self.line(
                (polar(center, radius - 10.0, deg), polar(center, radius - 4.0, deg)), "ink", 2.0
            )
        self.line(
            (center, polar(center, radius - 14.0, -130.0 + 260.0 * min(1.0, share))), "accent", 5.0
        )
        self.circle(center, 6.0, "accent")

    def waves(self, at: Point, deg: float, count: int = 3) -> None:
        """Warm air, or air that leaves, in a direction."""
        for i in range(count):
            offset = 16.0 * (i - 0.5 * (count - 1))
            start = polar(at, offset, deg + 90.0)
            points = [
                polar(polar(start, 6.0 * j, deg), 4.0 * math.sin(j * 1.1), deg + 90.0)
                for j in range(9)
            ]
            self.line(points, "accent", 3.0)

    def bubbles(self, at: Point) -> None:
        for dx, dy, r in ((0.0, 0.0, 9.0), (14.0, 4.0, 7.0), (4.0, -13.0, 6.0), (-10.0, 9.0, 6.0)):
            self.circle((at[0] + dx, at[1] + dy), r, "card", "accent", 2.0)

    def lever(self, tip: Point, end: Point) -> None:
        self.line((tip, end), "ink", 12.0)
        self.line((tip, end), "caution_soft", 8.0)

    def solid(self, points: Sequence[Point], fill: str) -> None:
        self.path(points, fill, "ink", 2.0)

    # -- parts of several pictures ---------------------------------------------------------------

    def beside(self, at: Point, scale: float, side: str, away: float, y: float) -> Point:
        """Return a point beside the tire of a section, on a side."""
        sign = -1.0 if side == "left" else 1.0
        half = 0.5 * max(self.plan.tire.mounted_width_mm, self.plan.bed.internal_width_mm + 8.0)
        return at[0] + sign * (half * scale + away), at[1] + y

    def corner_wheel(self, number: int, words: Message, side: str = "left") -> None:
        """A small wheel: where it begins, and both ways from there."""
        corner = (mirrored(side, CORNER[0]), CORNER[1])
        self.wheel(corner, SMALL, pool=False)
        for end in (118.0, -118.0):
            self.turn(corner, SMALL + 13.0, 14.0 if end > 0.0 else -14.0, end)
        self.badge(number, (corner[0], corner[1] - SMALL - 2.0))
        self.say(words, (corner[0], corner[1] + SMALL + 32.0), "accent")
