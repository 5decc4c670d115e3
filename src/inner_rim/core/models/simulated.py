"""A simulated wheel: air in, air past the beads, beads that seat; stepped in time (docs/models.md
2.10).

It drives the simulated gauge, so that seating can be tried without a pump.
"""

import math
from typing import Literal

import msgspec

from inner_rim.core.models.air import SEA_LEVEL_KPA
from inner_rim.core.models.inflation import (
    AIR_GAS_J_KG_K,
    BOTTLE_ML,
    CLOSING_PA,
    DISCHARGE,
    KAPPA,
    SHOP_K,
    SOURCE_KPA,
    STROKE_L_S,
    STROKE_LITER,
    STROKE_S,
    VALVE_MM2,
    Source,
)

PA_PER_KPA = 1000.0
AIR_KG_M3 = SEA_LEVEL_KPA * PA_PER_KPA / (AIR_GAS_J_KG_K * SHOP_K)
TAPE_LEAK_MM2 = 0.02

Fault = Literal["none", "low_sector", "gap", "tape_leak"]


class Bead(msgspec.Struct, frozen=True):
    """A bead: the gauge pressure at which it jumps up, and what the volume gains by it."""

    seats_at_kpa: float
    growth: float = 0.03
    seated: bool = False


class SimulatedWheel(msgspec.Struct, frozen=True):
    """A tire on a source of air at a moment.

    Attributes:
        volume_ml: air volume with both beads down.
        bead_seat_diameter_mm: for the gap's length.
        gap_mm: gap under an unseated bead.
        source, core_out: where the air comes from.
        top_kpa: the source is shut at this gauge pressure.
        beads: both beads.
        leak_mm2: a hole that does not close.
        mass_kg: air in the tire.
        charge_kpa, charge_liter: gauge pressure left in a charge bottle, and its volume.
        time_s: since the first stroke.
    """

    volume_ml: float
    bead_seat_diameter_mm: float
    gap_mm: float
    source: Source
    core_out: bool
    top_kpa: float
    beads: tuple[Bead, Bead]
    leak_mm2: float = 0.0
    mass_kg: float = -1.0
    charge_kpa: float = SOURCE_KPA["charge"]
    charge_liter: float = BOTTLE_ML / 1000.0
    time_s: float = 0.0

    @property
    def volume_now_ml(self) -> float:
        return self.volume_ml * float(math.prod(1.0 + b.growth for b in self.beads if b.seated))

    @property
    def pressure_kpa(self) -> float:
        if self.mass_kg < 0.0:
            return 0.0
        volume_m3 = self.volume_now_ml * 1e-6
        return max(
            0.0, self.mass_kg * AIR_GAS_J_KG_K * SHOP_K / volume_m3 / PA_PER_KPA - SEA_LEVEL_KPA
        )


def orifice_kg_s(area_mm2: float, up_kpa: float, down_kpa: float) -> float:
    """Return the mass flow through an orifice between two absolute pressures; zero against the
    gradient.

    m = Cd * A * p * sqrt(2 k / ((k - 1) R T) * (r^(2/k) - r^((k+1)/k))), choked below r = 0.53.

    Choked above a ratio of 1.89, isentropic below it.

    >>> round(orifice_kg_s(6.0, 801.325, 101.325) / 1.2 * 1000)
    9

    Source: isentropic flow of an ideal gas.
    """
    if up_kpa <= down_kpa or area_mm2 <= 0.0:
        return 0.0
    ratio = down_kpa / up_kpa
    if ratio <= (2.0 / (KAPPA + 1.0)) ** (KAPPA / (KAPPA - 1.0)):
        shape = math.sqrt(KAPPA) * float(
            (2.0 / (KAPPA + 1.0)) ** ((KAPPA + 1.0) / (2.0 * (KAPPA - 1.0)))
        )
    else:
        expansion = ratio ** (2.0 / KAPPA) - ratio ** ((KAPPA + 1.0) / KAPPA)
        shape = math.sqrt(max(0.0, 2.0 * KAPPA / (KAPPA - 1.0) * expansion))
    return area_mm2 * 1e-6 * up_kpa * PA_PER_KPA * shape / math.sqrt(AIR_GAS_J_KG_K * SHOP_K)


def leak_kg_s(wheel: SimulatedWheel) -> float:
    """Return what leaks past unseated beads, a gap that closes with pressure, and through a hole
    that does not.

    a(p) = g * pi * BSD * unseated * (1 - p / pc); Q = Cd * a * sqrt(2 * p / rho).

    Source: docs/models.md 2.10, derived; gaps common practice, no published source.
    """
    p = wheel.pressure_kpa * PA_PER_KPA
    unseated = sum(not bead.seated for bead in wheel.beads)
    open_mm2 = (
        wheel.gap_mm
        * math.pi
        * wheel.bead_seat_diameter_mm
        * unseated
        * max(0.0, 1.0 - p / CLOSING_PA)
    )
    past_beads = DISCHARGE * open_mm2 * 1e-6 * math.sqrt(2.0 * p / AIR_KG_M3) * AIR_KG_M3
    hole = orifice_kg_s(
        DISCHARGE * wheel.leak_mm2, wheel.pressure_kpa + SEA_LEVEL_KPA, SEA_LEVEL_KPA
    )
    return past_beads + hole


def inflow_kg_s(wheel: SimulatedWheel) -> float:
    """Return the source's flow now; zero once it is shut.

    Source: isentropic orifice flow; a floor pump gives its strokes (common practice).
    """
    here = wheel.pressure_kpa
    if here >= wheel.top_kpa:
        return 0.0
    if wheel.source == "floor_pump":
        flow = STROKE_L_S[wheel.core_out]
        in_stroke = (wheel.time_s % STROKE_S) < STROKE_LITER / flow
        return flow * 1e-3 * AIR_KG_M3 if in_stroke else 0.0
    supply = wheel.charge_kpa if wheel.source == "charge" else SOURCE_KPA["compressor"]
    return orifice_kg_s(VALVE_MM2[wheel.core_out], supply + SEA_LEVEL_KPA, here + SEA_LEVEL_KPA)


def stepped(wheel: SimulatedWheel, dt_s: float) -> SimulatedWheel:
    """Return the wheel a moment later (explicit Euler, in parts so short that none moves the
    pressure far).

    dm = (inflow - leak) * dt; p = m * R * T / V - ambient. While a leak closes with pressure, a
    part changes the pressure by a fiftieth of the closing pressure at most.

    Source: mass balance of an ideal gas at constant temperature.
    """
    left = dt_s
    while left > 1e-12:
        part = min(left, _part_s(wheel)) if wheel.pressure_kpa * PA_PER_KPA < CLOSING_PA else left
        wheel = _moved(wheel, part)
        left -= part
    return wheel


def _part_s(wheel: SimulatedWheel) -> float:
    """How long the pressure takes for a fiftieth of the closing pressure at the flows of now."""
    per_kg = AIR_GAS_J_KG_K * SHOP_K / (wheel.volume_now_ml * 1e-6)
    fastest = max(inflow_kg_s(wheel), leak_kg_s(wheel), 1e-9) * per_kg
    return max(0.02 * CLOSING_PA / fastest, 1e-5)


def _moved(wheel: SimulatedWheel, dt_s: float) -> SimulatedWheel:
    mass = wheel.mass_kg if wheel.mass_kg >= 0.0 else AIR_KG_M3 * wheel.volume_ml * 1e-6
    flow = inflow_kg_s(wheel)
    charge = wheel.charge_kpa
    if wheel.source == "charge":
        charge = max(
            0.0,
            charge
            - flow * dt_s * AIR_GAS_J_KG_K * SHOP_K / (wheel.charge_liter * 1e-3) / PA_PER_KPA,
        )
    least = AIR_KG_M3 * wheel.volume_now_ml * 1e-6
    mass = max(least, mass + (flow - leak_kg_s(wheel)) * dt_s)
    moved = msgspec.structs.replace(
        wheel, mass_kg=mass, charge_kpa=charge, time_s=wheel.time_s + dt_s
    )
    pressure = moved.pressure_kpa
    for i, bead in enumerate(moved.beads):
        if not bead.seated and pressure >= bead.seats_at_kpa:
            beads = list(moved.beads)
            beads[i] = msgspec.structs.replace(bead, seated=True)
            return msgspec.structs.replace(moved, beads=(beads[0], beads[1]))  # one pop at a time
    return moved
