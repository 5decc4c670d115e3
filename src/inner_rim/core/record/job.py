"""The job document (`inner-rim/job`, version 1): what is known about the wheels before planning.

These structs are at once the core's data, the file format, the JSON Schema and the stored document.
Bounds and descriptions are in the annotations; unknown keys are refused.
"""

from datetime import date, datetime
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from inner_rim.core.record import sizes
from inner_rim.core.record.errors import InputError
from inner_rim.words import tr

FORMAT = "inner-rim/job"
VERSION = 1
MAX_WHEELS = 200

Text = Annotated[str, Meta(max_length=200)]
Pressure = Annotated[
    float, Meta(ge=1, le=2000, description="gauge pressure", extra={"kind": "kpa"})
]


class JobStruct(
    msgspec.Struct,
    frozen=True,
    kw_only=True,
    forbid_unknown_fields=True,
    omit_defaults=True,
    rename=None,
):
    """Base of every struct in a job: frozen, strict, defaults omitted when written."""


class Well(JobStruct, frozen=True):
    """Measured bed of a rim, from the left flange to the right one."""

    depth_mm: Annotated[float, Meta(ge=0, le=20, description="bead seat to well floor")]
    floor_mm: Annotated[float, Meta(ge=0, le=120, description="flat width of the well floor")]
    left_shoulder_mm: Annotated[float, Meta(ge=0, le=60, description="left bead shelf")]
    right_shoulder_mm: Annotated[float, Meta(ge=0, le=60, description="right bead shelf")]


class Rim(JobStruct, frozen=True):
    """A rim as read and measured at check-in."""

    bead_seat_diameter_mm: Annotated[
        float, Meta(ge=150, le=900, description="bead seat diameter, the second ISO number")
    ]
    internal_width_mm: Annotated[
        float, Meta(ge=10, le=120, description="between the flanges, at the bead seats")
    ]
    name: Text | None = None
    hook: Literal["hooked", "straight_side"] | None = None
    tubeless_ready: bool | None = None
    carbon: bool | None = None
    depth_at_valve_mm: (
        Annotated[float, Meta(ge=2, le=150, description="tape bed to outer face at the valve")]
        | None
    ) = None
    valve_hole_mm: Annotated[float, Meta(ge=5, le=12, description="valve hole diameter")] | None = (
        None
    )
    spokes: Annotated[int, Meta(ge=0, le=144, description="number of spokes")] | None = None
    max_pressure_kpa: Pressure | None = None
    max_pressure_printed: (
        Annotated[bool, Meta(description="false: the rim was looked at and carries no figure")]
        | None
    ) = None
    flange_mm: Annotated[float, Meta(ge=2, le=12, description="bead seat to flange top")] | None = (
        None
    )
    bed: Literal["drilled", "large_holes", "sealed"] | None = None
    seat_circumference_mm: (
        Annotated[float, Meta(ge=450, le=2900, description="measured around the bead seat")] | None
    ) = None
    valve_face: Literal["flat", "curved", "thin"] | None = None
    well: Well | None = None

    def __post_init__(self) -> None:
        if self.well is None:
            return
        flat = self.well.floor_mm + self.well.left_shoulder_mm + self.well.right_shoulder_mm
        if flat > self.internal_width_mm:
            raise ValueError(
                "well: "
                + tr(
                    "shoulders and floor come to {flat:g} mm, more than the internal width of {width:g} mm"
                ).format(flat=flat, width=self.internal_width_mm)
            )


class Tire(JobStruct, frozen=True):
    """A tire as read at check-in."""

    size: Annotated[
        str, Meta(min_length=1, max_length=60, description="45-622, 700x45C, 27.5x2.4, 26 x 1 3/8")
    ]
    name: Text | None = None
    tubeless_ready: bool | None = None
    straight_side_approved: bool | None = None
    max_pressure_kpa: Pressure | None = None
    min_pressure_kpa: Pressure | None = None
    measuring_rim_mm: Annotated[float, Meta(ge=5, le=120)] | None = None
    measured_width_mm: Annotated[float, Meta(ge=10, le=150)] | None = None
    measured_on_rim_mm: Annotated[float, Meta(ge=5, le=120)] | None = None
    casing_mm: Annotated[float, Meta(ge=0.3, le=5, description="casing thickness")] | None = None
    new: bool | None = None
    directional: bool | None = None
    label_dose_ml: Annotated[float, Meta(ge=5, le=1000)] | None = None
    mass_g: Annotated[float, Meta(ge=50, le=5000)] | None = None
    plugs: Annotated[int, Meta(ge=0, le=50, description="plugs in the tread")] | None = None

    def __post_init__(self) -> None:
        try:
            size = sizes.parse_size(self.size)
        except InputError as fault:
            raise ValueError(f"size: {fault.sentence}") from fault
        low, high = self.min_pressure_kpa, self.max_pressure_kpa
        if low is not None and high is not None and low > high:
            raise ValueError(
                "min_pressure_kpa: "
                + tr("{low:g} kPa is above the tire's max pressure of {high:g} kPa").format(
                    low=low, high=high
                )
            )
        if self.measuring_rim_mm is not None and self.measuring_rim_mm >= size.width_mm:
            raise ValueError(
                "measuring_rim_mm: "
                + tr("{rim:g} mm is not less than the tire's nominal width of {width:g} mm").format(
                    rim=self.measuring_rim_mm, width=size.width_mm
                )
            )
        if (self.measured_width_mm is None) != (self.measured_on_rim_mm is None):
            raise ValueError(
                "measured_width_mm: "
                + tr("needs measured_on_rim_mm too, the rim it was measured on")
            )
        if (
            self.measured_width_mm is not None
            and self.measured_on_rim_mm is not None
            and self.measured_on_rim_mm >= self.measured_width_mm
        ):
            raise ValueError(
                "measured_on_rim_mm: "
                + tr("{rim:g} mm is not less than the measured width of {width:g} mm").format(
                    rim=self.measured_on_rim_mm, width=self.measured_width_mm
                )
            )

    @property
    def parsed_size(self) -> sizes.TireSize:
        return sizes.parse_size(self.size)


class Insert(JobStruct, frozen=True):
    """A foam or other insert that rides in the tire."""

    name: Text | None = None
    bead_seat_diameter_mm: Annotated[float, Meta(ge=150, le=900)] | None = None
    rim_min_mm: Annotated[float, Meta(ge=5, le=120)] | None = None
    rim_max_mm: Annotated[float, Meta(ge=5, le=120)] | None = None
    tire_min_mm: Annotated[float, Meta(ge=10, le=150)] | None = None
    tire_max_mm: Annotated[float, Meta(ge=10, le=150)] | None = None
    height_mm: Annotated[float, Meta(ge=1, le=120)] | None = None
    volume_ml: Annotated[float, Meta(ge=0, le=20000)] | None = None
    leg_mm: Annotated[float, Meta(ge=0, le=20)] | None = None
    ported: bool | None = None
    joined: bool | None = None
    mass_g: Annotated[float, Meta(ge=0, le=2000)] | None = None
    tires_used: Annotated[int, Meta(ge=0, le=100)] | None = None


Remedy = Literal[
    "core_out", "wet", "lift", "strap", "bigger_source", "layer", "tube_first", "push_spot", "lower_side", "warm",
    "straighten",
]  # fmt: skip
SeatedWith = Literal[Remedy, "floor_pump", "compressor", "charge"]


class Work(JobStruct, frozen=True):
    """What a wheel comes in for, and what of it stays (docs/job.md 1.1)."""

    kind: (
        Literal["convert", "tire_change", "retape", "refresh", "insert", "repair", "back_to_tube"]
        | None
    ) = None
    keep_tape: bool | None = None
    keep_valve: bool | None = None
    keep_insert: bool | None = None
    tape_changes: (
        Annotated[int, Meta(ge=0, le=100, description="tire changes since it was laid")] | None
    ) = None
    tape_laid: Annotated[str, Meta(max_length=40, description="ISO 8601 date")] | None = None
    rode_before: bool | None = None
    kept_said: Annotated[
        bool | None, Meta(description="the rider was asked what pressure was kept")
    ] = None
    folded: bool | None = None
    leak: Literal["tread", "side_wall", "weeps", "bead", "valve", "nipple", "unknown"] | None = None
    leak_side: Literal["left", "right"] | None = None
    side_wall: Annotated[
        Literal["cut", "weeps"] | None,
        Meta(description="what is wrong with a side wall that leaks"),
    ] = None
    new_sealant: Annotated[
        bool | None, Meta(description="what is inside is wiped out, and new sealant goes in")
    ] = None
    new_tape: Annotated[
        bool | None, Meta(description="new tape is laid, whatever else the work is")
    ] = None
    patch_cut: Annotated[
        bool | None, Meta(description="a cut side wall is patched, as the manufacturer allows")
    ] = None
    insert_later: Annotated[
        bool | None, Meta(description="the tire is ridden without its insert first")
    ] = None
    valve_mm: (
        Annotated[float, Meta(ge=5, le=150, description="length of the valve that was fitted")]
        | None
    ) = None
    seated_with: (
        Annotated[
            list[SeatedWith], Meta(max_length=12, description="what brought the beads up last time")
        ]
        | None
    ) = None
    leaked: Annotated[
        Literal["tread", "side_wall", "cut", "weeps", "bead", "valve", "nipple", "vent"] | None,
        Meta(description="where air came out at the visit before"),
    ] = None

    def __post_init__(self) -> None:
        _check_day(self.tape_laid, "tape_laid")


class Arrival(JobStruct, frozen=True):
    """How a wheel comes in; what is left out is as usual for its kind of work (docs/job.md 1.1).

    Attributes:
        seated: both beads, or the one that is on.
        valve: for tubeless tires; ported where it has holes at the side, for an insert.
        weighed_g: the whole wheel, when it was weighed last.
    """

    tube: bool | None = None
    taped: bool | None = None
    tire: Literal["on", "one_bead_off", "off"] | None = None
    seated: bool | None = None
    air: bool | None = None
    insert: bool | None = None
    sealant: Literal["none", "liquid", "dried", "unknown"] | None = None
    valve: Literal["none", "plain", "ported"] | None = None
    tape_kind: Literal["polyester", "cloth", "film", "overlay"] | None = None
    valve_mm: Annotated[float, Meta(ge=5, le=150, description="length of the valve")] | None = None
    weighed_g: (
        Annotated[float, Meta(ge=100, le=30000, description="weight of the wheel")] | None
    ) = None


class Waits(JobStruct, frozen=True):
    """What a wheel waits for before work on it goes on.

    Attributes:
        on: an answer of the customer, or a part that is to come.
        until: the day it is expected; nothing is planned before.
    """

    on: Literal["customer", "part"] | None = None
    what: Text | None = None
    until: (
        Annotated[str, Meta(max_length=40, description="ISO 8601 date or date and time")] | None
    ) = None

    def __post_init__(self) -> None:
        _check_day(self.until, "until")


class OldSealant(JobStruct, frozen=True):
    """The sealant that is in the tire: what kind, how much, since when."""

    name: Text | None = None
    in_ml: Annotated[float, Meta(ge=0, le=2000, description="sealant in the tire")] | None = None
    in_since: Annotated[str, Meta(max_length=40, description="ISO 8601 date")] | None = None

    def __post_init__(self) -> None:
        _check_day(self.in_since, "in_since")


class Practice(JobStruct, frozen=True):
    """The methods this shop uses (docs/job.md part 3)."""

    tape_width: Literal["match", "plus_two", "wide", "contour"] | None = None
    tape_start: Literal["at_valve", "past_valve", "opposite"] | None = None
    tape_kind: Literal["polyester", "cloth", "film", "overlay"] | None = None
    layers: Annotated[int, Meta(ge=1, le=6)] | None = None
    overlap_mm: Annotated[float, Meta(ge=0, le=600)] | None = None
    dose: Literal["label", "lean", "standard", "generous"] | None = None
    sealant_route: Literal["pour", "inject"] | None = None
    sealant: (
        Annotated[str, Meta(max_length=200, description="name of the sealant that is used")] | None
    ) = None
    lubricant: Literal["none", "soap", "fluid", "wax", "sealant"] | None = None
    start_pressure: Literal["drop", "previous", "range"] | None = None
    pump_head: Literal["push_on", "screw_on"] | None = None
    air_source: Literal["floor_pump", "compressor", "charge"] | None = None
    core_out: bool | None = None
    climate: Literal["hot_dry", "temperate", "cool_damp"] | None = None
    insert_order: Literal["insert_first", "bead_first", "seat_first"] | None = None
    finish: Literal["valve", "elsewhere"] | None = None
    press_home: Literal["hand", "warmth", "tube"] | None = None
    hole: Literal["pushed", "warmed", "cut"] | None = None
    seating: Literal["steps", "burst"] | None = None
    settle: Literal["seating", "low", "printed"] | None = None
    bed_cleaning: Literal["solvent", "abrasive"] | None = None
    hole_seal: Literal["base", "putty", "washer"] | None = None
    inject_when: Literal["tested", "seated", "first"] | None = None
    core_in: Literal["plain", "finger"] | None = None
    rest_flat: Literal["always", "if_it_leaks"] | None = None
    bottle_ml: (
        Annotated[float, Meta(ge=100, le=20000, description="volume of the charge bottle")] | None
    ) = None
    bottle_kpa: (
        Annotated[float, Meta(ge=100, le=1600, description="pressure it is charged to")] | None
    ) = None
    gauge_step_kpa: (
        Annotated[float, Meta(ge=0.05, le=50, description="finest step of the gauge")] | None
    ) = None
    shop_temperature_c: Annotated[float, Meta(ge=-20, le=45)] | None = None
    shop_altitude_m: Annotated[float, Meta(ge=-430, le=6000)] | None = None


class Wheel(JobStruct, frozen=True):
    """One wheel: its rim, its tire and what is asked of it."""

    rim: Rim
    tire: Tire
    name: Annotated[str, Meta(min_length=1, max_length=200)]
    position: Literal["front", "rear", "other"] | None = None
    load_n: Annotated[float, Meta(ge=10, le=5000, description="load under this wheel")] | None = (
        None
    )
    previous_pressure_kpa: Pressure | None = None
    previous_width_mm: (
        Annotated[float, Meta(ge=10, le=150, description="mounted width of the tire it worked on")]
        | None
    ) = None
    insert: Insert | None = None
    work: Work | None = None
    arrival: Arrival | None = None
    sealant: OldSealant | None = None
    waits: Waits | None = None
    practice: Practice | None = None
    notes: (
        Annotated[str, Meta(max_length=2000, description="what else is worth knowing")] | None
    ) = None
    wheel_id: (
        Annotated[
            str,
            Meta(
                min_length=1,
                max_length=64,
                pattern="^[0-9A-Za-z-]+$",
                description="identity of the wheel, the same in every job",
            ),
        ]
        | None
    ) = None


class Ride(JobStruct, frozen=True):
    """The rider, the ride and its air."""

    use: Literal["pavement", "mixed", "trail", "soft"] | None = None
    total_mass_kg: (
        Annotated[float, Meta(ge=10, le=500, description="rider, bicycle and load")] | None
    ) = None
    position: Literal["drop_bar", "flat_bar", "upright", "front_load"] | None = None
    altitude_m: Annotated[float, Meta(ge=-430, le=6000)] | None = None
    temperature_c: Annotated[float, Meta(ge=-40, le=55)] | None = None


Stock = Annotated[list[Annotated[float, Meta(ge=5, le=150)]], Meta(max_length=100)]


class TapeRoll(JobStruct, frozen=True):
    """A rim tape as it comes: width, thickness, length of a roll, material."""

    width_mm: Annotated[float, Meta(ge=5, le=150, description="width of the tape")]
    name: Text | None = None
    thickness_mm: Annotated[float, Meta(ge=0.02, le=1)] | None = None
    roll_length_mm: Annotated[float, Meta(ge=1000, le=200000)] | None = None
    material: Literal["polyester", "cloth", "film", "overlay", "electrical"] | None = None


class ValveStem(JobStruct, frozen=True):
    """A valve: length over all, base, and the hole it is made for."""

    length_mm: Annotated[float, Meta(ge=5, le=150, description="length of the valve")]
    name: Text | None = None
    base: Literal["flat", "round", "rectangular"] | None = None
    base_mm: (
        Annotated[float, Meta(ge=2, le=30, description="width of the base across the well")] | None
    ) = None
    hole_mm: Annotated[float, Meta(ge=5, le=12, description="hole it is made for")] | None = None
    ported: bool | None = None


class SealantKind(JobStruct, frozen=True):
    """A sealant: bottle, life, and what it dislikes."""

    name: Text | None = None
    bottle_ml: Annotated[float, Meta(ge=10, le=20000)] | None = None
    life_days: Annotated[float, Meta(ge=10, le=1500, description="life on the label")] | None = None
    clogs_valve: bool | None = None
    dislikes_soap: bool | None = None


class Tube(JobStruct, frozen=True):
    """A tube: what comes out, and what the customer carries."""

    bead_seat_diameter_mm: Annotated[float, Meta(ge=150, le=900)]
    name: Text | None = None
    width_min_mm: Annotated[float, Meta(ge=10, le=150)] | None = None
    width_max_mm: Annotated[float, Meta(ge=10, le=150)] | None = None
    mass_g: Annotated[float, Meta(ge=10, le=2000)] | None = None


class Shelf(JobStruct, frozen=True):
    """The stock: tapes, valves, sealant, the injector."""

    tape_widths_mm: Stock | None = None
    tape_thickness_mm: Annotated[float, Meta(ge=0.02, le=1)] | None = None
    roll_length_mm: Annotated[float, Meta(ge=1000, le=200000)] | None = None
    valve_lengths_mm: Stock | None = None
    injector_ml: Annotated[float, Meta(ge=5, le=1000)] | None = None
    tapes: Annotated[list[TapeRoll], Meta(max_length=100)] | None = None
    valves: Annotated[list[ValveStem], Meta(max_length=100)] | None = None
    sealant: SealantKind | None = None


class Job(JobStruct, frozen=True, omit_defaults=False):
    """A job document: one customer's wheels and what is to be done with them."""

    format: Literal["inner-rim/job"]
    version: Literal[1]
    wheels: Annotated[list[Wheel], Meta(min_length=1, max_length=MAX_WHEELS)]
    title: Text | None = None
    customer: Text | None = None
    bike: Text | None = None
    due: (
        Annotated[str, Meta(max_length=40, description="ISO 8601 date or date and time")] | None
    ) = None
    ride: Ride | None = None
    practice: Practice | None = None
    shelf: Shelf | None = None

    def __post_init__(self) -> None:
        known = [wheel.wheel_id for wheel in self.wheels if wheel.wheel_id is not None]
        if len(set(known)) != len(known):
            raise ValueError(
                "wheels: " + tr("two wheels have the same wheel_id: give each its own")
            )
        if self.due is not None and parse_due(self.due) is None:
            raise ValueError(
                "due: "
                + tr("“{typed}”: type a day and time, such as 2026-11-26T16:00").format(
                    typed=self.due
                )
            )


def _check_day(text: str | None, field: str) -> None:
    if text is not None and parse_due(text) is None:
        raise ValueError(
            f"{field}: " + tr("“{typed}”: type a date, such as 2026-11-26").format(typed=text)
        )


def parse_due(text: str) -> datetime | None:
    """Return an ISO 8601 date or date and time as a datetime, or None where it is neither.

    >>> parse_due("2026-11-26").isoformat(), parse_due("soon")
    ('2026-11-26T00:00:00', None)
    """
    try:
        return datetime.fromisoformat(text)
    except ValueError:
        pass
    try:
        return datetime.combine(date.fromisoformat(text), datetime.min.time())
    except ValueError:
        return None


def schema() -> dict[str, object]:
    """Return the JSON Schema of a job document."""
    return dict(msgspec.json.schema(Job))
