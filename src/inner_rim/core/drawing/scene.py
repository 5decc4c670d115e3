"""What the picture of an act consists of: paths, captions and numbered marks on a canvas of fixed size.

Canvas units are pixels at 100 %; x to the right, y down. A wheel is seen from the side, angles in
degrees clockwise from the top; a cross-section has the hub below, as with the valve at the top.
Colors are named by their purpose in a theme.
"""

import math
from typing import Literal

import msgspec

from inner_rim.core.drawing.section import Point
from inner_rim.core.record.why import Message

WIDE, HIGH = 560.0, 520.0
BADGE_RADIUS = 17.0
#: Sizes of type: a note, a caption, a figure.
NOTE, LABEL, FIGURE = 18, 20, 32
#: Of each side, as they are counted when a bead is low.
SECTORS = 8
#: The steps of an arc, degrees.
ARC_DEG = 4.0

Align = Literal[-1, 0, 1]


class Path(msgspec.Struct, frozen=True):
    """A filled or open line of points."""

    points: tuple[Point, ...]
    fill: str = ""
    edge: str = ""
    width: float = 2.0
    closed: bool = True
    dashed: bool = False


class Caption(msgspec.Struct, frozen=True):
    """Words at a point: the middle of their box, of its left edge (-1) or of its right edge (1).

    Attributes:
        wide: they are wrapped to this width; 0 keeps them on one line.
    """

    words: Message
    at: Point
    size: int = LABEL
    color: str = "ink"
    align: Align = 0
    wide: float = 0.0


class Badge(msgspec.Struct, frozen=True):
    """The number of what comes first, second and so on, in a circle."""

    number: int
    at: Point
    color: str = "accent"


class Scene(msgspec.Struct, frozen=True):
    """One picture, painted in this order."""

    paths: tuple[Path, ...]
    badges: tuple[Badge, ...]
    captions: tuple[Caption, ...]


def polar(center: Point, radius: float, deg: float) -> Point:
    """Return the point at an angle from the top, clockwise.

    >>> [round(v, 6) for v in polar((10.0, 10.0), 5.0, 90.0)]
    [15.0, 10.0]
    """
    angle = math.radians(deg)
    return center[0] + radius * math.sin(angle), center[1] - radius * math.cos(angle)


def arc(center: Point, radius: float, start_deg: float, end_deg: float) -> tuple[Point, ...]:
    """Return points of an arc; an end below the start goes counterclockwise."""
    count = max(2, math.ceil(abs(end_deg - start_deg) / ARC_DEG))
    step = (end_deg - start_deg) / count
    return tuple(polar(center, radius, start_deg + i * step) for i in range(count + 1))


def sector_deg(number: int) -> float:
    """Return where a sector begins: they count from the valve, clockwise as you look at that side."""
    return 360.0 / SECTORS * (number - 1)
