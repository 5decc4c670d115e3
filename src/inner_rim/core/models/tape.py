"""Rim tape: width by method, verdict on every stocked width, how the bead fits, strips, layers,
length (docs/models.md 2.2).
"""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from inner_rim.core.models.rim import Bed, developed_width_mm
from inner_rim.core.record.job import Rim
from inner_rim.core.record.practice import (
    ELECTRICAL,
    ELECTRICAL_MM,
    ELECTRICAL_THICK_MM,
    REASONS,
    STRIP_LAP_MM,
    TAPE_KIND_LAYERS,
    TAPE_KIND_MM,
    TAPE_KINDS,
    TAPE_TARGETS,
)
from inner_rim.core.record.resolved import Methods, Stock
from inner_rim.core.record.why import NO_WHY, Message, Why
from inner_rim.words import N_

Fit = Literal["loose", "snug", "tight"]
Verdict = Literal["too_narrow", "narrow", "right", "climbs", "too_wide"]
MIN_STRIP_OVERLAP_MM = 10.0
#: Seat with tape less the bead's loop, mm: below is loose, above is tight.
LOOSE_BELOW_MM, TIGHT_ABOVE_MM = -1.0, 1.5
#: Lower bound of the edge gap for each verdict, widest gap first (common practice).
_GAP_BOUNDS: tuple[tuple[float, Verdict], ...] = (
    (0.75, "narrow"),
    (-1.5, "right"),
    (-2.5, "climbs"),
)
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
    fit: Fit = (
        "loose"
        if difference < LOOSE_BELOW_MM
        else "tight"
        if difference > TIGHT_ABOVE_MM
        else "snug"
    )
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
    usable = [
        w
        for w in widths_mm
        if verdict(edge_gap_mm(w, developed_mm)) not in ("too_narrow", "too_wide")
    ]
    return min(usable, key=lambda w: (round(abs(w - target_mm), 6), -w), default=None)


def two_strips(widths_mm: Sequence[float], developed_mm: float) -> float | None:
    """Return the narrowest width of which two strips overlap by 10 mm or more: 2w - L >= 10.

    Neither strip may be wider than the bed. None where no stocked width does it.

    >>> two_strips([25, 30, 35, 45], 62.0)
    45

    Source: docs/models.md 2.2.
    """
    usable = [
        w for w in widths_mm if 2.0 * w - developed_mm >= MIN_STRIP_OVERLAP_MM and w <= developed_mm
    ]
    return min(usable, default=None)


def choose(
    widths_mm: Sequence[float], target_mm: float, developed_mm: float
) -> tuple[float | None, int, float | None]:
    """Return (width, strips, trim) in mm: one strip, else a wider roll trimmed down, else two
    strips.

    Trimming comes before two strips where a roll is wide enough: one seam less. It goes to the
    target, but never into a worse verdict than the bed's own width.

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


PITCHES_PAST_VALVE = 2
#: Overlap past the valve on each side, at least and at most, mm (common practice).
MIN_PAST_MM, MAX_PAST_MM = 50.0, 150.0
#: How far an assumed bed may be off in developed width, mm.
ASSUMED_BED_BAND_MM = 2.0
#: A caliper's, in a rim well.
MEASURED_BED_BAND_MM = 0.2
MAX_PROPOSED_LAYERS = 4
#: Widths whose edge gap is larger are not listed among the others, mm.
MAX_GAP_LISTED_MM = 4.0
CM_MM = 10.0


class TapeOption(msgspec.Struct, frozen=True):
    """One stocked width and how it would fit; a positive gap leaves shelf bare."""

    width_mm: float
    verdict: Verdict
    edge_gap_mm: float


class Overlay(msgspec.Struct, frozen=True):
    """The soft electrical tape over the rim tape.

    Attributes:
        strips: side by side, from flange to flange.
        width_mm: of the roll.
        length_mm: of each strip to cut, a hand's figure: up to the next cm.
    """

    strips: int
    width_mm: float
    length_mm: float


def strips_over(developed_mm: float, width_mm: float) -> int:
    """Return how many strips of a width w cover a bed of developed width L, lapping by 3 mm (no unit).

    n = ceil((L - 3) / (w - 3))

    >>> strips_over(28.0, 19.0), strips_over(16.0, 19.0), strips_over(90.0, 19.0)
    (2, 1, 6)

    Source: derived; the lap is common practice.
    """
    return max(1, math.ceil((developed_mm - STRIP_LAP_MM) / (width_mm - STRIP_LAP_MM)))


class TapePick(msgspec.Struct, frozen=True, rename={"method": "school", "by_method": "by_school"}):
    """The tape for this rim.

    Attributes:
        method: the method whose target was used.
        width_mm: width of each strip as it comes off the roll; None where nothing in stock will do.
        strips: 1, or 2 side by side.
        layers: turns around the rim.
        length_mm: total length to cut.
        developed_width_mm: path from flange to flange along the bed.
        target_mm: width that the method asks for.
        edge_gap_mm: bare shelf at each edge, negative where the tape climbs.
        strip_overlap_mm: overlap of two strips in the middle, None with one.
        trim_to_mm: width to trim a wide roll to, None where it goes on as it is.
        overlap_mm: doubled length.
        start: where the tape starts.
        start_deg, cut_deg: where it starts and is cut, clockwise from the valve; between them it is
            doubled.
        thickness_mm: of one layer.
        material: kind of tape.
        wheels_on_roll: whole wheels of this kind that a full roll tapes.
        bed_measured: False where the bed's profile was assumed.
        options: every stocked width with its verdict.
        by_method: what each method would pick from this stock.
        bead_fit: how the bead sits, None where the seat was not measured.
        layers_for_fit: the layers were raised because the measured seat is loose.
        developed_band_mm: 90 % band of the developed width; ± 2 mm where the well was not measured,
            else ± 0.2.
        strip_lengths_mm: length of each strip to cut, a hand's figure: up to the next cm.
        overlay: the strips over it, None for another kind of tape.
        to_buy: what to get where nothing in stock covers the bed.
        why: the trail.
    """

    method: str
    width_mm: float | None
    strips: int
    layers: int
    length_mm: float
    developed_width_mm: float
    target_mm: float
    edge_gap_mm: float | None
    strip_overlap_mm: float | None
    trim_to_mm: float | None
    overlap_mm: float
    start: str
    start_deg: float
    cut_deg: float
    thickness_mm: float
    material: str
    wheels_on_roll: int
    bed_measured: bool
    options: tuple[TapeOption, ...]
    by_method: dict[str, float | None]
    bead_fit: BeadFit | None
    layers_for_fit: bool
    developed_band_mm: tuple[float, float]
    strip_lengths_mm: tuple[float, ...]
    overlay: Overlay | None
    to_buy: Message
    why: Why


def overlap_length_mm(start: str, bead_seat_diameter_mm: float, spokes: int) -> float:
    """Return the doubled length: two spoke spacings past the valve, at least 50 and at most 150 mm,
    once where the tape starts at the hole, else on each side of the joint.

    min(max(2 * pi * D / n, 50), 150), once or twice.

    >>> round(overlap_length_mm("past_valve", 622.0, 32), 1), overlap_length_mm("at_valve", 622.0, 16)
    (244.3, 150.0)

    Source: common practice, no published source.
    """
    pitch = math.pi * bead_seat_diameter_mm / max(spokes, 1)
    past = min(max(PITCHES_PAST_VALVE * pitch, MIN_PAST_MM), MAX_PAST_MM)
    return past if start == "at_valve" else 2.0 * past


def up_to_cm(length_mm: float) -> float:
    """Return a length up to the next cm, as a hand cuts it.

    10 * ceil(length / 10).

    >>> up_to_cm(2176.3), up_to_cm(2180.0)
    (2180.0, 2180.0)

    Source: common practice, no published source.
    """
    return CM_MM * math.ceil(length_mm / CM_MM - 1e-9)


def overlap_deg(start: str, overlap_mm: float, bead_seat_diameter_mm: float) -> tuple[float, float]:
    """Return (start, cut) of the doubled part in degrees, clockwise from the valve: from the hole
    on, as long to either side of it, or opposite it.

    360 * overlap / (pi * D) degrees.

    >>> [round(angle, 3) for angle in overlap_deg("past_valve", 0.1 * math.pi * 622, 622.0)]
    [-18.0, 18.0]

    Source: common practice, no published source.
    """
    length = 360.0 * overlap_mm / (math.pi * bead_seat_diameter_mm)
    begin = {"at_valve": 0.0, "past_valve": -0.5 * length, "opposite": 180.0 - 0.5 * length}[start]
    return begin, begin + length


class TapeLayout(msgspec.Struct, frozen=True):
    """What is laid: the roll's figures, the layers, and how long a turn is."""

    material: str
    thickness_mm: float
    layers: int
    layers_for_fit: bool
    turn_mm: float
    roll_mm: float


def _option(width_mm: float, developed_mm: float) -> TapeOption:
    gap = edge_gap_mm(width_mm, developed_mm)
    return TapeOption(width_mm, verdict(gap), gap)


def pick_tape(
    rim: Rim, bed: Bed, methods: Methods, stock: Stock, one_more: bool = False
) -> TapePick:
    """Return the tape for a rim; lengths and widths in mm.

    Length to cut: strips × (layers × pi × (D − 2 × depth) + overlap), D the bead seat diameter.

    Args:
        rim, bed: the rim and its bed, measured or assumed.
        methods, stock: of the width, the start, the overlap, the layers; widths and rolls.
        one_more: the layers are there but for the last, which is cut and laid.

    >>> pick_tape(rim, bed, methods, stock).width_mm
    27.0

    Source: docs/models.md 2.2; bounds and methods common practice, no published source.
    """
    developed = developed_width_mm(bed)
    widths = stock.tape_widths_mm
    targets = {name: rule(bed.internal_width_mm, developed) for name, rule in TAPE_TARGETS.items()}
    width, strips, trim = choose(widths, targets[methods.tape_width], developed)
    lay = _lay(rim, bed, methods, stock, width)
    strip_mm = (1 if one_more else lay.layers) * lay.turn_mm + methods.overlap_mm
    laid = width if trim is None else trim
    reach = MEASURED_BED_BAND_MM if bed.measured else ASSUMED_BED_BAND_MM
    begin, cut = overlap_deg(methods.tape_start, methods.overlap_mm, rim.bead_seat_diameter_mm)
    pick = TapePick(
        method=methods.tape_width,
        width_mm=width,
        strips=strips,
        layers=lay.layers,
        length_mm=strips * strip_mm,
        developed_width_mm=developed,
        target_mm=targets[methods.tape_width],
        edge_gap_mm=_gap(laid, developed, strips),
        strip_overlap_mm=2.0 * width - developed if strips == 2 and width is not None else None,
        trim_to_mm=trim,
        overlap_mm=methods.overlap_mm,
        start=methods.tape_start,
        start_deg=begin,
        cut_deg=cut,
        thickness_mm=lay.thickness_mm,
        material=lay.material,
        wheels_on_roll=int(lay.roll_mm // (strips * strip_mm)),
        bed_measured=bed.measured,
        options=tuple(_option(each, developed) for each in widths),
        by_method={name: nearest(widths, wanted, developed) for name, wanted in targets.items()},
        bead_fit=bead_fit(rim, lay.layers, lay.thickness_mm),
        layers_for_fit=lay.layers_for_fit,
        developed_band_mm=(max(1.0, developed - reach), developed + reach),
        strip_lengths_mm=(up_to_cm(strip_mm),) * strips,
        overlay=_overlay(stock, developed, up_to_cm(lay.turn_mm + methods.overlap_mm))
        if lay.material == "overlay"
        else None,
        to_buy=_to_buy(developed),
        why=NO_WHY,
    )
    return msgspec.structs.replace(pick, why=_why(pick, bed, lay.turn_mm))


def _lay(rim: Rim, bed: Bed, methods: Methods, stock: Stock, width_mm: float | None) -> TapeLayout:
    """What is laid of a width: as its roll says, else as the shelf and the kind of tape say."""
    roll = next(
        (one for one in stock.tapes if one.width_mm == width_mm and one.material != ELECTRICAL),
        None,
    )
    material = (
        roll.material if roll is not None and roll.material is not None else methods.tape_kind
    )
    if methods.tape_kind == "overlay":  # whatever is under it
        material = "overlay"
    thickness = roll.thickness_mm if roll is not None else None
    if thickness is None:
        thickness = (
            stock.tape_thickness_mm if stock.tape_thickness_mm > 0.0 else TAPE_KIND_MM[material]
        )
    thickness += ELECTRICAL_THICK_MM if material == "overlay" else 0.0
    layers, for_fit = _layers(rim, methods, material, thickness)
    turn = math.pi * (rim.bead_seat_diameter_mm - 2.0 * bed.depth_mm)
    length = roll.roll_length_mm if roll is not None else None
    return TapeLayout(
        material,
        thickness,
        layers,
        for_fit,
        turn,
        length if length is not None else stock.roll_length_mm,
    )


def _overlay(stock: Stock, developed_mm: float, length_mm: float) -> Overlay:
    """The strips of an overlay, off the electrical tape that is in stock, else of the usual width."""
    rolls = [one.width_mm for one in stock.tapes if one.material == ELECTRICAL]
    width = rolls[0] if rolls else ELECTRICAL_MM
    return Overlay(strips_over(developed_mm, width), width, length_mm)


def _gap(laid_mm: float | None, developed_mm: float, strips: int) -> float | None:
    """The bare shelf at each edge; two strips lie against their own walls."""
    if strips == 2:
        return 0.0
    return edge_gap_mm(laid_mm, developed_mm) if laid_mm is not None else None


def _why(pick: TapePick, bed: Bed, turn_mm: float) -> Why:
    return Why(
        formula=(
            N_(
                "developed width = shoulders + floor + slopes; target by method; the stocked width nearest "
                "the target that the bed does not reject, ties go wider; edge gap = (developed − tape) / 2; "
                "length = layers × π × (bead seat diameter − 2 × well depth) + overlap"
            )
        ),
        figures={
            "school": pick.method,
            "internal_width_mm": bed.internal_width_mm,
            "well_depth_mm": bed.depth_mm,
            "well_floor_mm": bed.floor_mm,
            "profile": "measured" if bed.measured else N_("assumed: 45° slopes, equal shoulders"),
            "developed_width_mm": pick.developed_width_mm,
            "developed_from_mm": pick.developed_band_mm[0],
            "developed_to_mm": pick.developed_band_mm[1],
            "target_mm": pick.target_mm,
            "one_turn_mm": turn_mm,
            "overlap_mm": pick.overlap_mm,
            "length_mm": pick.length_mm,
            "material": pick.material,
            "thickness_mm": pick.thickness_mm,
        },
        source=N_(
            "developed width derived from geometry; bounds and methods common practice, no published source"
        ),
        others=(
            *_other_widths(pick),
            *_other_methods(pick),
            Message(TAPE_KINDS[pick.material]),
            Message(REASONS[pick.start]),
        ),
        what_changes_it=(
            N_(
                "a measured well, another method, another width in stock, a second layer for a loose tire"
            )
        ),
    )


def _other_widths(pick: TapePick) -> list[Message]:
    return [
        Message(
            "{width_trade}: {verdict}",
            {"width_trade": option.width_mm, "verdict": VERDICT_WORDS[option.verdict]},
        )
        for option in pick.options
        if abs(option.edge_gap_mm) < MAX_GAP_LISTED_MM
    ]


def _other_methods(pick: TapePick) -> list[Message]:
    return [
        Message(
            "{method}: {pick_mm} ({reason})",
            {"method": name, "pick_mm": width, "reason": REASONS[name]},
        )
        if width is not None
        else Message("{method}: nothing in stock", {"method": name})
        for name, width in pick.by_method.items()
    ]


def _layers(rim: Rim, methods: Methods, material: str, thickness_mm: float) -> tuple[int, bool]:
    """The layers: the shop's, else the kind's; more where a measured seat is loose with those, and
    whether so.
    """
    if methods.layers:
        return methods.layers, False
    usual = TAPE_KIND_LAYERS.get(material, 1)
    fit = bead_fit(rim, usual, thickness_mm)
    if fit is None or fit.fit != "loose":
        return usual, False
    wanted = min(fit.layers_to_snug, MAX_PROPOSED_LAYERS)
    return wanted, wanted > usual


def _to_buy(developed_mm: float) -> Message:
    """What to get: one strip, or two that overlap by 10 mm or more."""
    half = math.ceil(0.5 * (developed_mm + MIN_STRIP_OVERLAP_MM))
    return Message(
        "tape about {need_mm} wide, or two strips of {half_mm} or wider",
        {"need_mm": float(round(developed_mm)), "half_mm": float(half)},
    )
