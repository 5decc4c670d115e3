"""How a tape fits a rim: its edge gap, the verdict on a width, which of a stock to take, how the bead sits on it
(docs/models.md 2.2).
"""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from inner_rim.core.record.job import Rim
from inner_rim.words import N_

Fit = Literal["loose", "snug", "tight"]
Verdict = Literal["too_narrow", "narrow", "right", "climbs", "too_wide"]
MIN_STRIP_OVERLAP_MM = 10.0
#: Seat with tape less the bead's loop, mm: below is loose, above is tight.
LOOSE_BELOW_MM, TIGHT_ABOVE_MM = -1.0, 1.5
#: Lower bound of the edge gap for each verdict, widest gap first (common practice).
_GAP_BOUNDS: tuple[tuple[float, Verdict], ...] = ((0.75, "narrow"), (-1.5, "right"), (-2.5, "climbs"))
_TOO_NARROW_ABOVE_MM = 2.0
VERDICT_WORDS: dict[Verdict, str] = {
    "too_narrow": N_("too narrow"),
    "narrow": N_("narrow"),
    "right": N_("fits"),
    "climbs": N_("climbs"),
    "too_wide": N_("too wide"),
}
VERDICT_MEANING: dict[Verdict, str] = {
    "too_narrow": N_("the bead does not pin the edge"),
    "narrow": N_("works while it is pressed under the bead"),
    "right": "",
    "climbs": N_("it climbs the wall: press it down"),
    "too_wide": N_("it meets the bead or the hook"),
}


class BeadFit(msgspec.Struct, frozen=True):
    """How a bead sits, from a tape laid around the seat.

    Attributes:
        fit: loose, snug or tight, with the layers that are planned.
        difference_mm: seat with tape less the bead's nominal loop.
        layers_to_snug: layers in all that make a loose bead snug.
    """

    fit: Fit
    difference_mm: float
    layers_to_snug: int


def bead_fit(rim: Rim, layers: int, thickness_mm: float) -> BeadFit | None:
    """Return how the bead sits, or None where the seat was not measured.

    Each layer of thickness t adds 2*pi*t to the seat's circumference; the bead's loop is pi*BSD.

    >>> from inner_rim.core.record.job import Rim
    >>> bead_fit(Rim(622.0, 24.0, seat_circumference_mm=1952.0), 1, 0.1).fit
    'loose'

    Source: derived; bounds common practice, no published source.
    """
    if rim.seat_circumference_mm is None:
        return None
    loop = math.pi * rim.bead_seat_diameter_mm
    layer = 2.0 * math.pi * thickness_mm
    bare = rim.seat_circumference_mm - loop
    difference = bare + layers * layer
    fit: Fit = "loose" if difference < LOOSE_BELOW_MM else "tight" if difference > TIGHT_ABOVE_MM else "snug"
    needed = math.ceil((LOOSE_BELOW_MM - bare) / layer - 1e-9) if layer > 0.0 else layers
    return BeadFit(fit, difference, max(layers, needed, 1))


def edge_gap_mm(width_mm: float, developed_mm: float) -> float:
    """Return the bare shelf at each edge g = (L - w) / 2; negative where the tape climbs.

    >>> edge_gap_mm(27.0, 28.0)
    0.5

    Source: derived.
    """
    return 0.5 * (developed_mm - width_mm)


def verdict(gap_mm: float) -> Verdict:
    """Return how a tape with this edge gap fits.

    Bounds of g: > 2.0, > 0.75, >= -1.5, >= -2.5 mm.

    >>> [verdict(g) for g in (2.1, 1.0, 0.0, -2.0, -3.0)]
    ['too_narrow', 'narrow', 'right', 'climbs', 'too_wide']

    Source: common practice, no published source.
    """
    if gap_mm > _TOO_NARROW_ABOVE_MM:
        return "too_narrow"
    if gap_mm > _GAP_BOUNDS[0][0]:
        return "narrow"
    return next((word for bound, word in _GAP_BOUNDS[1:] if gap_mm >= bound), "too_wide")


def nearest(widths_mm: Sequence[float], target_mm: float, developed_mm: float) -> float | None:
    """Return the stocked width nearest the target among those not rejected; ties go wider.

    min |w - target| among widths that are not rejected.

    >>> nearest([21, 23, 25, 27], 26.0, 26.9)
    27

    Source: docs/models.md 2.2.
    """
    usable = [w for w in widths_mm if verdict(edge_gap_mm(w, developed_mm)) not in ("too_narrow", "too_wide")]
    return min(usable, key=lambda w: (round(abs(w - target_mm), 6), -w), default=None)


def two_strips(widths_mm: Sequence[float], developed_mm: float) -> float | None:
    """Return the narrowest width of which two strips overlap by 10 mm or more: 2w - L >= 10.

    Neither strip may be wider than the bed. None where no stocked width does it.

    >>> two_strips([25, 30, 35, 45], 62.0)
    45

    Source: docs/models.md 2.2.
    """
    usable = [w for w in widths_mm if 2.0 * w - developed_mm >= MIN_STRIP_OVERLAP_MM and w <= developed_mm]
    return min(usable, default=None)


def choose(widths_mm: Sequence[float], target_mm: float, developed_mm: float) -> tuple[float | None, int, float | None]:
    """Return (width, strips, trim) in mm: one strip, else a wider roll trimmed down, else two strips.

    Trimming comes before two strips where a roll is wide enough: one seam less. It goes to the target, but never
    into a worse verdict than the bed's own width.

    >>> choose([21, 25, 27], 26.0, 27.0), choose([45], 26.0, 27.0), choose([25, 30, 36], 60.0, 62.0)
    ((27, 1, None), (45, 1, 26.0), (36, 2, None))

    Source: docs/models.md 2.2.
    """
    width = nearest(widths_mm, target_mm, developed_mm)
    if width is not None:
        return width, 1, None
    wider = [w for w in widths_mm if w > developed_mm]
    if wider:
        trim = min(target_mm, developed_mm)
        right = verdict(edge_gap_mm(trim, developed_mm)) == "right"
        return min(wider), 1, trim if right else developed_mm
    width = two_strips(widths_mm, developed_mm)
    return (width, 2, None) if width is not None else (None, 1, None)
