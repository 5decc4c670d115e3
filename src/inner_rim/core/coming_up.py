"""Will it come up? The air a source gives against the air that leaks past an unseated bead (HANDBOOK 2.10)."""

import math
from typing import Literal

import msgspec

from .job import Rim, Tire
from .pressure import KELVIN_AT_ZERO_C, SEA_LEVEL_KPA
from .tape import BeadFit
from .why import Saying, Why

Gap = Literal["snug", "ordinary", "loose"]
Source = Literal["floor_pump", "compressor", "charge"]

#: Gap under an unseated bead, mm (common practice).
GAP_MM: dict[Gap, float] = {"snug": 0.003, "ordinary": 0.02, "loose": 0.1}
CLOSING_PA = 6000.0  # pressure that has pushed the bead out and closed the gap
DISCHARGE = 0.6
AIR_KG_M3 = 1.20
AIR_GAS_J_KG_K = 287.05
KAPPA = 1.4
LITRES_PER_M3 = 1000.0
SHOP_K = KELVIN_AT_ZERO_C + 20.0
#: Narrowest way through the valve, mm2.
VALVE_MM2 = {False: 1.1, True: 6.0}
#: Usual gauge pressure of a source, kPa; a floor pump is held back by its strokes instead.
SOURCE_KPA: dict[Source, float] = {"compressor": 700.0, "charge": 900.0}
STROKE_LITRE, STROKE_S = 0.35, 0.9
SOURCE_WORDS: dict[Source, str] = {
    "floor_pump": "floor pump",
    "compressor": "compressor",
    "charge": "charge bottle",
}


class SourceFlow(msgspec.Struct, frozen=True):
    """What a source gives, in free litres a second, and whether it outruns the leak."""

    source: Source
    core_out: bool
    free_l_s: float
    comes_up: bool


class ComingUp(msgspec.Struct, frozen=True):
    """What it takes to bring the beads up.

    Attributes:
        gap: snug, ordinary or loose.
        needed_l_s: free litres a second that the source must give.
        sources: every source in the shop, core in and out.
        easiest: the least that comes up, None where nothing does.
        why: the trail.
    """

    gap: Gap
    needed_l_s: float
    sources: tuple[SourceFlow, ...]
    easiest: SourceFlow | None
    why: Why


def needed_l_s(gap_mm: float, bead_seat_diameter_mm: float, unseated_beads: int = 2) -> float:
    """Return the free flow that outruns the leak past unseated beads.

    The gap closes as pressure pushes the bead out, so the leak is greatest at a third of the closing
    pressure: Q = Cd * g * pi * BSD * beads * (2/3) * sqrt(2 * pc / (3 * rho)).

    >>> [round(needed_l_s(g, 622.0), 1) for g in (0.003, 0.02, 0.1)]
    [0.3, 1.8, 9.0]

    Source: derived; gaps common practice, no published source.
    """
    area_m2 = gap_mm * math.pi * bead_seat_diameter_mm * unseated_beads * 1e-6
    speed = (2.0 / 3.0) * math.sqrt(2.0 * CLOSING_PA / (3.0 * AIR_KG_M3))
    return DISCHARGE * area_m2 * speed * LITRES_PER_M3


def orifice_l_s(area_mm2: float, source_kpa: float) -> float:
    """Return the free flow through the valve from a source at a gauge pressure into an empty tire.

    Choked above a ratio of 1.89: m = A * p_abs * sqrt(k/(R*T)) * (2/(k+1))^((k+1)/(2*(k-1))); below it the
    subsonic isentropic flow to the ambient pressure.

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
    return float(flow_kg_s / AIR_KG_M3 * LITRES_PER_M3)


def free_flow_l_s(source: Source, core_out: bool) -> float:
    """Return what a source gives through the valve; a floor pump is held back by its strokes."""
    if source == "floor_pump":
        return STROKE_LITRE / STROKE_S
    return orifice_l_s(VALVE_MM2[core_out], SOURCE_KPA[source])


def gap_of(tire: Tire, fit: BeadFit | None) -> Gap:
    """Return the gap to reckon with: from the measured bead fit, else by the tire's marking.

    Source: common practice, no published source.
    """
    if fit is not None:
        return "loose" if fit.fit == "loose" else "snug"
    return "loose" if tire.tubeless_ready is False else "ordinary"


def judge_coming_up(tire: Tire, rim: Rim, fit: BeadFit | None) -> ComingUp:
    """Return which sources outrun the leak of this wheel, both beads unseated."""
    gap = gap_of(tire, fit)
    needed = needed_l_s(GAP_MM[gap], rim.bead_seat_diameter_mm)
    ways: tuple[tuple[Source, bool], ...] = (
        ("floor_pump", False),
        ("floor_pump", True),
        ("compressor", False),
        ("charge", False),
        ("compressor", True),
        ("charge", True),
    )
    flows = [(source, out, free_flow_l_s(source, out)) for source, out in ways]
    sources = tuple(SourceFlow(source, out, flow, flow > needed) for source, out, flow in flows)
    return ComingUp(
        gap=gap,
        needed_l_s=needed,
        sources=sources,
        easiest=next((source for source in sources if source.comes_up), None),
        why=Why(
            formula="needed = 0.6 × gap × π × bead seat diameter × 2 beads × the leak's speed where it is greatest; a source comes up when it gives more",
            figures={"gap": gap, "gap_mm": GAP_MM[gap], "beads": 2, "needed_litres_a_second": needed},
            source="derived; gaps and valve areas common practice, no published source",
            others=tuple(_line(source) for source in sources),
            levers="soapy water, a strap round the tread, another layer of tape, a bead lifted on by hand, one side seated first",
        ),
    )


def _line(flow: SourceFlow) -> Saying:
    core = "core out" if flow.core_out else "core in"
    answer = "comes up" if flow.comes_up else "does not outrun the leak"
    return Saying(
        "{source}, {core}: {litres} l/s, {answer}",
        {"source": SOURCE_WORDS[flow.source], "core": core, "litres": flow.free_l_s, "answer": answer},
    )


def advice(coming: ComingUp) -> Saying:
    """Return in one line what will bring the beads up."""
    easiest = coming.easiest
    if easiest is None:
        return Saying("Nothing in the shop outruns a loose bead: make the gap smaller first")
    core = "core out" if easiest.core_out else "core in"
    return Saying("{source}, {core}, brings it up", {"source": SOURCE_WORDS[easiest.source], "core": core})
