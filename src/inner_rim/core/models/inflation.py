"""Will it seat? The air a source gives against the air that leaks past an unseated bead
(docs/models.md 2.10).
"""

import math
from bisect import bisect_right
from collections.abc import Collection, Sequence
from typing import Literal, NamedTuple

import msgspec

from inner_rim.core.models.air import KELVIN_AT_ZERO_C, SEA_LEVEL_KPA
from inner_rim.core.models.tape import BeadFit
from inner_rim.core.record.job import Tire, Wheel
from inner_rim.core.record.resolved import USUAL, Learned, Methods
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.core.record.why import Message, Value, Why, listed
from inner_rim.words import N_

Gap = Literal["snug", "ordinary", "loose"]
Source = Literal["floor_pump", "compressor", "charge"]

#: Median gap under an unseated, dry bead, mm, and the spread of its logarithm (common practice).
GAP_MM: dict[Gap, float] = {"snug": 0.002, "ordinary": 0.008, "loose": 0.06}
GAP_SPREAD = 0.9
#: What each circumstance leaves of the gap (common practice).
FACTORS = {
    "wetted": 0.5,
    "sealant inside": 0.7,
    "insert": 0.15,
    "ridden before": 0.5,
    "new and folded": 1.3,
    "extra layer": 0.6,
    "lifted by hand": 0.5,
    "strap": 0.5,
}
LIKELY_FROM, PERHAPS_FROM = 0.75, 0.35
Likelihood = Literal["likely", "perhaps", "unlikely"]
CLOSING_PA = 6000.0  # pressure that has pushed the bead out and closed the gap
DISCHARGE = 0.6
AIR_KG_M3 = 1.20
AIR_GAS_J_KG_K = 287.05
KAPPA = 1.4
LITERS_PER_M3 = 1000.0
SHOP_K = KELVIN_AT_ZERO_C + 20.0
#: Narrowest way through the valve, mm2.
VALVE_MM2 = {False: 1.1, True: 6.0}
#: Usual gauge pressure of a source, kPa; a floor pump is held back by its strokes instead.
SOURCE_KPA: dict[Source, float] = {"compressor": 700.0, "charge": 900.0}
STROKE_LITER, STROKE_S = 0.35, 0.9
#: Flow while a floor pump's stroke lasts, with the core in and out, l/s (common practice).
STROKE_L_S = {False: 0.4, True: 1.1}
BOTTLE_ML, BOTTLE_KPA = 1200.0, 900.0
SOURCE_WORDS: dict[Source, str] = {
    "floor_pump": N_("floor pump"),
    "compressor": N_("compressor"),
    "charge": N_("charge bottle"),
}


class SourceFlow(msgspec.Struct, frozen=True):
    """What a source gives.

    Attributes:
        source, core_out: which, and how.
        free_l_s: free liters a second.
        comes_up: it is likely to seat the beads.
        probability: share of the gaps of such wheels that it outruns.
        words: likely, perhaps or unlikely.
        own: it is what the shop uses first.
    """

    source: Source
    core_out: bool
    free_l_s: float
    comes_up: bool
    probability: float
    words: Likelihood
    own: bool = False


class SeatingOdds(msgspec.Struct, frozen=True):
    """What it takes to seat the beads.

    Attributes:
        gap: snug, ordinary or loose.
        gap_mm: median gap of such wheels, with everything that narrows or widens it.
        needed_l_s: free liters a second that outrun the median gap.
        spread: of the gap's logarithm, the usual one or as learned.
        sources: every source in the shop, core in and out; the shop's own first.
        easiest: the least that is likely to seat the beads, None where nothing is.
        why: the trail.
    """

    gap: Gap
    gap_mm: float
    needed_l_s: float
    spread: float
    sources: tuple[SourceFlow, ...]
    easiest: SourceFlow | None
    why: Why


def needed_l_s(gap_mm: float, bead_seat_diameter_mm: float, unseated_beads: int = 2) -> float:
    """Return the free flow that outruns the leak past unseated beads.

    The gap closes as pressure pushes the bead out, so the leak is greatest at a third of the
    closing pressure: Q = Cd * g * pi * BSD * beads * (2/3) * sqrt(2 * pc / (3 * rho)).

    >>> [round(needed_l_s(g, 622.0), 1) for g in (0.002, 0.008, 0.06)]
    [0.2, 0.7, 5.4]

    Source: derived; gaps common practice, no published source.
    """
    area_m2 = gap_mm * math.pi * bead_seat_diameter_mm * unseated_beads * 1e-6
    speed = (2.0 / 3.0) * math.sqrt(2.0 * CLOSING_PA / (3.0 * AIR_KG_M3))
    return DISCHARGE * area_m2 * speed * LITERS_PER_M3


def orifice_l_s(area_mm2: float, source_kpa: float) -> float:
    """Return the free flow through the valve from a source at a gauge pressure into an empty tire.

    Choked above a ratio of 1.89: m = A * p_abs * sqrt(k/(R*T)) * (2/(k+1))^((k+1)/(2*(k-1))); below
    it the subsonic isentropic flow to the ambient pressure.

    >>> round(orifice_l_s(1.1, 700.0), 1), round(orifice_l_s(6.0, 700.0))
    (1.7, 9)

    Source: isentropic flow of an ideal gas.
    """
    p = (source_kpa + SEA_LEVEL_KPA) * 1000.0
    area = area_mm2 * 1e-6
    ratio = SEA_LEVEL_KPA * 1000.0 / p
    if ratio <= (2.0 / (KAPPA + 1.0)) ** (KAPPA / (KAPPA - 1.0)):
        shape = math.sqrt(KAPPA) * (2.0 / (KAPPA + 1.0)) ** ((KAPPA + 1.0) / (2.0 * (KAPPA - 1.0)))
    else:
        expansion = ratio ** (2.0 / KAPPA) - ratio ** ((KAPPA + 1.0) / KAPPA)
        shape = math.sqrt(max(0.0, 2.0 * KAPPA / (KAPPA - 1.0) * expansion))
    flow_kg_s = area * p * shape / math.sqrt(AIR_GAS_J_KG_K * SHOP_K)
    return float(flow_kg_s / AIR_KG_M3 * LITERS_PER_M3)


class Bottle(NamedTuple):
    """A charge bottle: its volume and the gauge pressure it is charged to."""

    ml: float = BOTTLE_ML
    kpa: float = BOTTLE_KPA


def free_flow_l_s(source: Source, core_out: bool, bottle: Bottle = Bottle()) -> float:  # noqa: B008 - immutable
    """Return what a source gives through the valve; a floor pump is held back by its strokes.

    Q = stroke / time of a stroke, or the flow through the valve.

    >>> round(free_flow_l_s("floor_pump", False), 2), round(free_flow_l_s("compressor", True), 1)
    (0.39, 9.5)

    Source: see `orifice_l_s`; strokes common practice.
    """
    if source == "floor_pump":
        return STROKE_LITER / STROKE_S
    return orifice_l_s(
        VALVE_MM2[core_out], bottle.kpa if source == "charge" else SOURCE_KPA[source]
    )


def gap_of(tire: Tire, fit: BeadFit | None) -> Gap:
    """Return the gap to plan with: from the measured bead fit, else by the tire's marking.

    Gaps by name; their medians in mm are `GAP_MM`.

    >>> from inner_rim.core.record.job import Tire
    >>> gap_of(Tire(size="45-622"), None), gap_of(Tire(size="45-622", tubeless_ready=False), None)
    ('ordinary', 'loose')

    Source: common practice, no published source.
    """
    if fit is not None:
        return "loose" if fit.fit == "loose" else "snug"
    return "loose" if tire.tubeless_ready is False else "ordinary"


def max_leak_l_s(volume_liter: float, source: Source, core_out: bool, bottle: Bottle) -> float:
    """Return the greatest leak past unseated beads that a source still outruns, free liters a
    second.

    A compressor's flow is steady: it outruns any leak below it. A floor pump gives strokes, a
    bottle blows down: flow * share, the share by what a stroke, or the bottle, adds to this tire
    (see `outrun`).

    Args:
        volume_liter: of the tire.
        source, core_out: where the air comes from.
        bottle: of the shop.

    >>> round(max_leak_l_s(3.0, "compressor", False, Bottle()), 2), round(max_leak_l_s(3.0, "floor_pump", True, Bottle()), 2)
    (1.73, 0.7)

    Source: docs/models.md 2.10, derived; strokes common practice, no published source.
    """
    if source == "compressor":
        return orifice_l_s(VALVE_MM2[core_out], SOURCE_KPA["compressor"])
    needed_kpa_l = CLOSING_PA / 1000.0 * volume_liter
    if source == "floor_pump":
        rise = SEA_LEVEL_KPA * STROKE_LITER / needed_kpa_l
        return STROKE_L_S[core_out] * pump_share(rise, core_out)
    excess = bottle.kpa * bottle.ml / ML_PER_LITER / needed_kpa_l
    ratio = (bottle.kpa + SEA_LEVEL_KPA) / SEA_LEVEL_KPA
    return orifice_l_s(VALVE_MM2[core_out], bottle.kpa) * bottle_share(excess, ratio)


def probability(most_l_s: float, median_leak_l_s: float, spread: float = GAP_SPREAD) -> float:
    """Return the share of a log-normal distribution of gaps that a source outruns.

    P = Phi(ln(beaten / median) / spread).

    >>> round(probability(1.0, 1.0), 2), round(probability(0.72, 0.36), 2)
    (0.5, 0.78)

    Source: normal distribution of the gap's logarithm, spread 0.9 (common practice).
    """
    if most_l_s <= 0.0:
        return 0.0
    return 0.5 * (1.0 + math.erf(math.log(most_l_s / median_leak_l_s) / (spread * math.sqrt(2.0))))


def in_words(share: float) -> Likelihood:
    """Return a probability in words: likely from 75 %, perhaps from 35 %.

    share >= 0.75 likely, >= 0.35 perhaps.

    >>> in_words(0.8), in_words(0.5), in_words(0.2)
    ('likely', 'perhaps', 'unlikely')

    Source: common practice, no published source.
    """
    return "likely" if share >= LIKELY_FROM else "perhaps" if share >= PERHAPS_FROM else "unlikely"


class Circumstances(msgspec.Struct, frozen=True):
    """What narrows or widens the gap of one wheel; names are those of `FACTORS`."""

    names: tuple[str, ...] = ()
    beads: int = 2

    @property
    def factor(self) -> float:
        return math.prod(FACTORS[name] for name in self.names)


def circumstances_of(
    wheel: Wheel, methods: Methods, *, poured: bool, layers: int, changed: Collection[str] = ()
) -> Circumstances:
    """Return the circumstances of a wheel as it is planned.

    Args:
        wheel: its parts.
        methods: that hold for it.
        poured: sealant is in before the beads seat.
        layers: of tape.
        changed: remedies since the last try: what was changed is what the next one has.

    >>> circumstances_of(wheel, methods, poured=False, layers=1).names
    ('wetted',)

    Source: docs/models.md 2.10.
    """
    work = wheel.work
    wanted = (
        ("wetted", methods.lubricant != "none" or "wet" in changed),
        ("lifted by hand", "lift" in changed),
        ("strap", "strap" in changed),
        ("sealant inside", poured),
        ("insert", wheel.insert is not None),
        ("ridden before", bool(work is not None and work.rode_before) or wheel.tire.new is False),
        ("new and folded", bool(work is not None and work.folded and wheel.tire.new)),
    )
    names = tuple(name for name, holds in wanted if holds)
    return Circumstances(names + ("extra layer",) * max(0, layers - 1))


WAYS: tuple[tuple[Source, bool], ...] = (
    ("floor_pump", False),
    ("floor_pump", True),
    ("compressor", False),
    ("charge", False),
    ("compressor", True),
    ("charge", True),
)


def seating_odds(
    wheel: Wheel,
    fit: BeadFit | None,
    methods: Methods,
    air_ml: float,
    circumstances: Circumstances,
    learned: Learned = USUAL,
) -> SeatingOdds:
    """Return how likely each source seats the beads of this wheel.

    P = Phi(ln(beaten gap / median gap) / spread), by source.

    >>> plan.seating_odds.sources[0].words
    'perhaps'

    Source: docs/models.md 2.10.
    """
    gap = gap_of(wheel.tire, fit)
    gap_mm = GAP_MM[gap] * circumstances.factor * learned.gap.factor
    spread = learned.gap_spread if learned.gap_spread is not None else GAP_SPREAD
    needed = needed_l_s(gap_mm, wheel.rim.bead_seat_diameter_mm, circumstances.beads)
    volume = max(0.1, air_ml / ML_PER_LITER)
    bottle = Bottle(methods.bottle_ml, methods.bottle_kpa)
    own = (methods.air_source, methods.core_out)
    result = []
    for source, out in WAYS:
        share = probability(max_leak_l_s(volume, source, out, bottle), needed, spread)
        words = in_words(share)
        flow = free_flow_l_s(source, out, bottle)
        result.append(
            SourceFlow(source, out, flow, words == "likely", share, words, (source, out) == own)
        )
    easiest = next((one for one in result if one.words == "likely"), None)
    result.sort(key=lambda one: not one.own)
    return SeatingOdds(
        gap=gap,
        gap_mm=gap_mm,
        needed_l_s=needed,
        spread=spread,
        sources=tuple(result),
        easiest=easiest,
        why=Why(
            formula=(
                N_(
                    "the gap of such wheels is log-normal; median by fit, times what narrows it; leak = 0.6 × gap × π × bead seat "
                    "diameter × beads × the leak's speed where it is greatest; a source stepped in time from flat outruns a share of the gaps"
                )
            ),
            figures={
                "gap": gap,
                "gap_mm": gap_mm,
                "circumstances": listed([Message(name) for name in circumstances.names])
                if circumstances.names
                else N_("dry, nothing else"),
                "beads": circumstances.beads,
                "needed_liters_a_second": needed,
            },
            source=N_(
                "derived; gaps, factors and valve areas common practice, no published source"
            ),
            others=(*learned.gap.said("gap"), *(_line(source) for source in result)),
            what_changes_it=N_(
                "soapy water, the core out, a strap around the tread, another layer of tape, a bead lifted on by hand, one side seated first"
            ),
        ),
    )


def _line(flow: SourceFlow) -> Message:
    share = f"{100.0 * flow.probability:.0f} %"
    return Message(
        "{answer} ({percent} of such wheels)", {"answer": _answer(flow), "percent": share}
    )


def _answer(flow: SourceFlow) -> Message:
    core = "core out" if flow.core_out else "core in"
    said: dict[str, Value | Message] = {
        "source": SOURCE_WORDS[flow.source],
        "core": core,
        "answer": flow.words,
    }
    return Message("{source}, {core}: {answer}", said)


def _own(coming: SeatingOdds) -> SourceFlow:
    return next((one for one in coming.sources if one.own), coming.sources[0])


def own_source(coming: SeatingOdds) -> Message:
    """Return how likely the shop's own source is, in a few words (a probability has no unit).

    >>> own_source(plan.seating_odds).read()
    'floor pump, core in: perhaps'

    Source: see `probability`.
    """
    return _answer(_own(coming))


def advice(coming: SeatingOdds) -> Message:
    """Return in one line how likely the shop's own source is (no unit), and what else is likely
    where it is not.

    >>> advice(plan.seating_odds).read()
    'floor pump, core in: perhaps; floor pump, core out: likely'

    Source: see `probability`.
    """
    own, better = _own(coming), coming.easiest
    said: dict[str, Value | Message] = {"own": _answer(own)}
    if own.words == "likely":
        return _answer(own)
    if better is None:
        return Message("{own}; make the gap smaller first", said)
    said |= {
        "other": SOURCE_WORDS[better.source],
        "other_core": "core out" if better.core_out else "core in",
    }
    return Message("{own}; {other}, {other_core}: likely", said)


#: Strokes after which pumping is given up.
MAX_STROKES = 40
#: What a stroke adds without a leak, as a multiple of the closing pressure.
STROKE_RISES = (0.03, 0.06, 0.1, 0.15, 0.2, 0.3, 0.45, 0.7, 1.0, 1.5, 2.2, 3.5, 6.0, 12.0, 30.0)
#: Air in a bottle above the ambient pressure, as a multiple of what brings the tire to the closing
#: pressure.
EXCESSES = (1.0, 1.1, 1.25, 1.5, 2.0, 3.0, 4.5, 7.0, 11.0, 18.0, 35.0, 80.0, 250.0, 1000.0)
#: Absolute pressure in the bottle over the ambient pressure.
PRESSURE_RATIOS = (1.5, 2.0, 3.0, 5.0, 10.0, 20.0)
#: Core in, core out.
PUMP_SHARES = (
    (
        0.227,
        0.713,
        0.859,
        0.916,
        0.938,
        0.956,
        0.964,
        0.969,
        0.971,
        0.972,
        0.973,
        0.974,
        0.978,
        0.988,
        0.997,
    ),
    (
        0.083,
        0.260,
        0.313,
        0.334,
        0.343,
        0.352,
        0.360,
        0.375,
        0.404,
        0.502,
        0.695,
        0.855,
        0.942,
        0.983,
        0.997,
    ),
)
#: By ratio.
BOTTLE_SHARES = (
    (
        0.000,
        0.089,
        0.193,
        0.316,
        0.463,
        0.606,
        0.703,
        0.780,
        0.836,
        0.881,
        0.922,
        0.954,
        0.978,
        0.991,
    ),
    (
        0.000,
        0.089,
        0.194,
        0.317,
        0.465,
        0.608,
        0.705,
        0.781,
        0.837,
        0.881,
        0.922,
        0.954,
        0.978,
        0.991,
    ),
    (
        0.000,
        0.084,
        0.183,
        0.300,
        0.440,
        0.577,
        0.672,
        0.750,
        0.810,
        0.860,
        0.907,
        0.945,
        0.973,
        0.989,
    ),
    (
        0.000,
        0.076,
        0.165,
        0.272,
        0.402,
        0.536,
        0.636,
        0.721,
        0.788,
        0.843,
        0.896,
        0.938,
        0.970,
        0.988,
    ),
    (
        0.000,
        0.067,
        0.147,
        0.245,
        0.368,
        0.504,
        0.610,
        0.700,
        0.772,
        0.831,
        0.888,
        0.933,
        0.967,
        0.987,
    ),
    (
        0.000,
        0.062,
        0.136,
        0.228,
        0.350,
        0.488,
        0.597,
        0.691,
        0.764,
        0.825,
        0.884,
        0.931,
        0.966,
        0.986,
    ),
)


def pump_share(rise: float, core_out: bool) -> float:
    """Return the greatest leak that a floor pump outruns, as a share of its flow during a stroke
    (no unit).

    share = the greatest lambda for which du/dt = rise * (q(t) - lambda * 2.6 * (1 - u) * sqrt(u))
    passes u = 1.

    Args:
        rise: what a stroke adds without a leak, over the closing pressure.
        core_out: of the valve.

    >>> round(pump_share(1.97, True), 2), pump_share(0.001, False)
    (0.64, 0.227)

    Source: `tools/outrun_table.py`; strokes common practice, no published source.
    """
    return _between(STROKE_RISES, PUMP_SHARES[core_out], rise)


def bottle_share(excess: float, ratio: float) -> float:
    """Return the greatest leak that a bottle outruns while it blows down, as a share of its first
    flow (no unit).

    share = as `pump_share`, with q(t) the flow of what is left in the bottle; 0 where it cannot
    fill the tire.

    Args:
        excess: its air above the ambient pressure, over what brings the tire to the closing
            pressure.
        ratio: of its absolute pressure to the ambient one.

    >>> round(bottle_share(60.0, 9.9), 2), bottle_share(0.9, 9.9)
    (0.92, 0.0)

    Source: `tools/outrun_table.py`; isentropic flow of an ideal gas.
    """
    if excess <= EXCESSES[0] or ratio <= 1.0:
        return 0.0
    by_ratio = [_between(EXCESSES, row, excess) for row in BOTTLE_SHARES]
    return _between(PRESSURE_RATIOS, by_ratio, ratio)


def _between(points: Sequence[float], values: Sequence[float], at: float) -> float:
    """Interpolate over the logarithm of the points; beyond the ends the end's own value."""
    place = bisect_right(points, at)
    if place == 0:
        return values[0]
    if place == len(points):
        return values[-1]
    low, high = math.log(points[place - 1]), math.log(points[place])
    share = (math.log(at) - low) / (high - low)
    return values[place - 1] + share * (values[place] - values[place - 1])
