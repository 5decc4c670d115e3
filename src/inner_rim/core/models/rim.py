"""The rim's bed: profile, developed width and well, measured or assumed (docs/models.md 2.2)."""

import math

import msgspec

from inner_rim.core.record.job import Rim

ASSUMED_DEPTH_MM = 3.5
ASSUMED_FLOOR_SHARE = 0.3
MIN_ASSUMED_SHOULDER_MM = 1.0
FLANGE_MM = {"hooked": 6.0, "straight_side": 5.5}
ASSUMED_SPOKES = 32


#: Fewer spokes than this were not counted.
MIN_SPOKES = 8


def spokes_of(rim: Rim) -> int:
    """Return the number of spokes, the usual one where they were not counted.

    The count has no unit; their spacing in mm is pi * D / n.

    >>> from inner_rim.core.record.job import Rim
    >>> spokes_of(Rim(622.0, 24.0)), spokes_of(Rim(622.0, 24.0, spokes=28))
    (32, 28)

    Source: common practice, no published source.
    """
    return rim.spokes if rim.spokes is not None and rim.spokes >= MIN_SPOKES else ASSUMED_SPOKES


class Bed(msgspec.Struct, frozen=True):
    """The profile between the flanges, from left to right: shoulder, slope, floor, slope, shoulder.

    Attributes:
        internal_width_mm: between the flanges.
        depth_mm: bead seat to well floor.
        floor_mm: flat width of the floor.
        left_shoulder_mm: left bead shelf.
        right_shoulder_mm: right bead shelf.
        measured: False where the profile was assumed from the internal width.
    """

    internal_width_mm: float
    depth_mm: float
    floor_mm: float
    left_shoulder_mm: float
    right_shoulder_mm: float
    measured: bool

    @property
    def slope_run_mm(self) -> float:
        flat = self.floor_mm + self.left_shoulder_mm + self.right_shoulder_mm
        return max(0.0, 0.5 * (self.internal_width_mm - flat))

    @property
    def well_area_mm2(self) -> float:
        """Area of the well's trapezoid below the bead seats."""
        return self.depth_mm * (self.floor_mm + self.slope_run_mm)

    @property
    def well_centroid_mm(self) -> float:
        """Depth of the trapezoid's centroid below the bead seats."""
        top = self.floor_mm + 2.0 * self.slope_run_mm
        if top + self.floor_mm <= 0.0:
            return 0.0
        return self.depth_mm * (top + 2.0 * self.floor_mm) / (3.0 * (top + self.floor_mm))

    def outline(self) -> list[tuple[float, float]]:
        """Return the profile's corner points (x, height) in mm, x from the center, well below zero."""
        half = 0.5 * self.internal_width_mm
        left = -half + self.left_shoulder_mm
        right = half - self.right_shoulder_mm
        run = self.slope_run_mm
        return [
            (-half, 0.0),
            (left, 0.0),
            (left + run, -self.depth_mm),
            (right - run, -self.depth_mm),
            (right, 0.0),
            (half, 0.0),
        ]


def bed_of(rim: Rim) -> Bed:
    """Return the measured bed, or the usual one for the internal width A.

    Assumed: 45° slopes, depth 3.5 mm, floor 0.3*A, equal shoulders; on a rim too narrow for that
    the depth gives way so that 1 mm of shoulder stays.

    >>> from inner_rim.core.record.job import Rim
    >>> bed = bed_of(Rim(622.0, 24.0))
    >>> bed.depth_mm, round(bed.floor_mm, 1), bed.measured
    (3.5, 7.2, False)

    Source: common practice, no published source.
    """
    width = rim.internal_width_mm
    if rim.well is not None:
        well = rim.well
        return Bed(
            width, well.depth_mm, well.floor_mm, well.left_shoulder_mm, well.right_shoulder_mm, True
        )
    floor = ASSUMED_FLOOR_SHARE * width
    depth = min(ASSUMED_DEPTH_MM, 0.5 * (width - floor) - MIN_ASSUMED_SHOULDER_MM)
    shoulder = 0.5 * (width - floor) - depth
    return Bed(width, depth, floor, shoulder, shoulder, False)


def developed_width_mm(bed: Bed) -> float:
    """Return the width of tape that lies flat in the bed from flange to flange.

    L = shoulders + floor + sum of sqrt(run^2 + depth^2) over the two slopes.

    >>> round(developed_width_mm(bed_of(Rim(bead_seat_diameter_mm=622, internal_width_mm=24))), 2)
    26.9

    Source: derived from geometry.
    """
    slope = math.hypot(bed.slope_run_mm, bed.depth_mm)
    return bed.left_shoulder_mm + bed.right_shoulder_mm + bed.floor_mm + 2.0 * slope


def flange_mm(rim: Rim) -> float:
    """Return the flange height: measured, or the usual one (a hook that was not entered counts as
    hooked here).

    6 mm hooked, 5.5 mm hookless, where it was not measured.

    >>> from inner_rim.core.record.job import Rim
    >>> flange_mm(Rim(622.0, 24.0)), flange_mm(Rim(622.0, 24.0, flange_mm=5.0))
    (6.0, 5.0)

    Source: common practice, no published source.
    """
    if rim.flange_mm is not None:
        return rim.flange_mm
    return FLANGE_MM[rim.hook or "hooked"]
