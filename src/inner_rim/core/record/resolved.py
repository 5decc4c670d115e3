"""Methods, stock and rider as the models take them: every gap filled, once, by `core.plan.resolve`."""

from typing import Literal

import msgspec

from inner_rim.core.record.job import SealantKind, TapeRoll, ValveStem


class Methods(msgspec.Struct, frozen=True):
    """The methods that hold for a wheel: its own, else its job's, else the shop's, else the usual ones.

    Attributes are those of `job.Practice`; `layers` is 0 where the kind of tape decides, `sealant` is empty for
    the usual kind. `core_out` holds while the beads come up.
    """

    tape_width: str
    tape_start: str
    tape_kind: str
    layers: int
    overlap_mm: float
    dose: str
    sealant_route: str
    sealant: str
    lubricant: str
    start_pressure: str
    pump_head: str
    air_source: Literal["floor_pump", "compressor", "charge"]
    core_out: bool
    climate: str
    insert_order: Literal["insert_first", "bead_first", "seat_first"]
    finish: str
    press_home: str
    hole: str
    seating: str
    settle: str
    bottle_ml: float
    bottle_kpa: float
    gauge_step_kpa: float
    shop_temperature_c: float
    shop_altitude_m: float


class Stock(msgspec.Struct, frozen=True):
    """What there is to take.

    Attributes are those of `job.Shelf`; `tape_thickness_mm` is 0 where the kind of tape decides, and a sealant
    of which nothing is known says so field by field.
    """

    tape_widths_mm: tuple[float, ...]
    tape_thickness_mm: float
    roll_length_mm: float
    valve_lengths_mm: tuple[float, ...]
    injector_ml: float
    tapes: tuple[TapeRoll, ...]
    valves: tuple[ValveStem, ...]
    sealant: SealantKind


class Rider(msgspec.Struct, frozen=True):
    """Who rides where, and in what air; the air is the shop's where nothing else is known."""

    use: str
    total_mass_kg: float
    position: str
    altitude_m: float
    temperature_c: float
