"""Methods, stock and rider as the models take them: every gap filled, once, by `core.plan.resolve`."""

import math
from typing import Literal

import msgspec

from inner_rim.core.record.job import SealantKind, TapeRoll, ValveStem
from inner_rim.core.record.why import Message, Value

Z_90 = 1.645
#: A factor nearer to 1 than this is not mentioned.
MIN_SAID = 0.02


class Methods(msgspec.Struct, frozen=True):
    """The methods that hold for a wheel: its own, else its job's, else the shop's, else the usual
    ones.

    Attributes are those of `job.Practice`; `layers` is 0 where the kind of tape decides, `sealant`
    is empty for the usual kind. `core_out` holds while the beads seat.
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
    bed_cleaning: str
    hole_seal: str
    inject_when: Literal["tested", "seated", "first"]
    core_in: str
    rest_flat: str
    bottle_ml: float
    bottle_kpa: float
    gauge_step_kpa: float
    shop_temperature_c: float
    shop_altitude_m: float


class Stock(msgspec.Struct, frozen=True):
    """What there is to take.

    Attributes are those of `job.Shelf`; `tape_thickness_mm` is 0 where the kind of tape decides,
    and a sealant of which nothing is known says so field by field.
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


class LearnedFigure(msgspec.Struct, frozen=True):
    """What a shop's log has taught of one figure: the logarithm of its factor over the usual one,
    with its spread.

    Attributes:
        spread: its standard deviation.
        count: what it was learned from: visits, tries or dips.
    """

    log: float = 0.0
    spread: float = 0.0
    count: int = 0

    @property
    def factor(self) -> float:
        return math.exp(self.log)

    @property
    def band(self) -> tuple[float, float]:
        return math.exp(self.log - Z_90 * self.spread), math.exp(self.log + Z_90 * self.spread)

    def said(self, what: str) -> tuple[Message, ...]:
        """Return how far something moved and from how many, for its trail; nothing where it is as
        usual.
        """
        if not self.count or abs(self.factor - 1.0) < MIN_SAID:
            return ()
        low, high = self.band
        values: dict[str, Value | Message] = {
            "what": Message(what),
            "times": f"{self.factor:.2f}",
            "low": f"{low:.2f}",
            "high": f"{high:.2f}",
            "count": self.count,
        }
        return (
            Message(
                "{what}: {times} times the usual ({low} to {high}), learned from {count} here",
                values,
            ),
        )


class Learned(msgspec.Struct, frozen=True):
    """What the shop's log has taught of one wheel's figures; nothing, as it stands (docs/models.md
    2.11).

    Attributes:
        start: what riders keep over what their load asks for, from visits.
        gap: the median gap under a dry bead, from tries.
        gap_spread: spread of the logarithm of a single gap; None for the usual one.
        drying: the rate at which sealant dries, from dips.
        seat: the median pressure at which a bead seats, from tries and pops.
        seat_spread: spread of the logarithm of a single one; None for the usual one.
    """

    start: LearnedFigure = LearnedFigure()
    gap: LearnedFigure = LearnedFigure()
    gap_spread: float | None = None
    drying: LearnedFigure = LearnedFigure()
    seat: LearnedFigure = LearnedFigure()
    seat_spread: float | None = None


USUAL = Learned()
#: The figures that are learned, by their names.
LEARNED_FIGURES = ("gap", "seat", "start", "drying")
