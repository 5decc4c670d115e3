"""Fills every gap of a job once: methods, stock, rider; and says what was assumed."""

import msgspec

from inner_rim.core.models.rim import ASSUMED_SPOKES, spokes_of
from inner_rim.core.models.tape import overlap_length_mm
from inner_rim.core.models.tire import ASSUMED_CASING_MM
from inner_rim.core.record.job import Practice, Ride, SealantKind, Shelf, Wheel
from inner_rim.core.record.practice import (
    PRACTICE_DEFAULTS,
    RIDE_DEFAULTS,
    SHELF_DEFAULTS,
    Assumed,
    filled,
    layered,
    with_stock,
)
from inner_rim.core.record.resolved import Methods, Rider, Stock
from inner_rim.words import N_


class Resolved(msgspec.Struct, frozen=True):
    """The inputs of a plan besides the wheel, without gaps, and what was assumed for them and the
    wheel.
    """

    methods: Methods
    stock: Stock
    rider: Rider
    assumed: tuple[Assumed, ...]


def resolve(
    wheel: Wheel,
    ride: Ride | None = None,
    practice: Practice | None = None,
    shelf: Shelf | None = None,
) -> Resolved:
    """Return the inputs for a wheel; its own practice goes before the job's.

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> result = resolve(Wheel(rim=rim, tire=Tire(size="45-622"), name="Tern"), practice=Practice(dose="lean"))
    >>> result.methods.dose, result.methods.climate, result.rider.total_mass_kg
    ('lean', 'temperate', 90.0)
    """
    said = layered(wheel.practice, practice)
    given, practice_gaps = filled(said, PRACTICE_DEFAULTS, "practice")
    methods = _methods(given, wheel, said)
    stocked, shelf_gaps = filled(with_stock(shelf), SHELF_DEFAULTS, "shelf")
    riding, ride_gaps = filled(ride, RIDE_DEFAULTS, "ride")
    return Resolved(
        methods,
        _stock(stocked),
        _rider(riding, methods),
        (*wheel_gaps(wheel), *ride_gaps, *practice_gaps, *shelf_gaps),
    )


def _methods(given: Practice, wheel: Wheel, said: Practice | None) -> Methods:
    known = msgspec.structs.asdict(given)
    if said is None or said.core_out is None:  # by default a burst needs the core out
        known["core_out"] = given.seating == "burst"
    if (said is None or said.start_pressure is None) and _rode_at(wheel) is not None:
        known["start_pressure"] = "previous"  # what the rider kept
    known["layers"] = given.layers if given.layers is not None else 0
    known["sealant"] = given.sealant if given.sealant is not None else ""
    if given.overlap_mm is None and given.tape_start is not None:
        known["overlap_mm"] = overlap_length_mm(
            given.tape_start, wheel.rim.bead_seat_diameter_mm, spokes_of(wheel.rim)
        )
    return Methods(**known)


def _rode_at(wheel: Wheel) -> float | None:
    """The pressure at which a wheel that comes back was ridden, None for one that does not, or
    where it is not known.
    """
    back = wheel.work is not None and wheel.work.rode_before is True
    return wheel.previous_pressure_kpa if back else None


def _stock(shelf: Shelf) -> Stock:
    return Stock(
        tape_widths_mm=tuple(sorted(set(shelf.tape_widths_mm or ()))),
        tape_thickness_mm=shelf.tape_thickness_mm if shelf.tape_thickness_mm is not None else 0.0,
        roll_length_mm=shelf.roll_length_mm if shelf.roll_length_mm is not None else 0.0,
        valve_lengths_mm=tuple(shelf.valve_lengths_mm or ()),
        injector_ml=shelf.injector_ml if shelf.injector_ml is not None else 0.0,
        tapes=tuple(shelf.tapes or ()),
        valves=tuple(shelf.valves or ()),
        sealant=shelf.sealant if shelf.sealant is not None else SealantKind(),
    )


def _rider(ride: Ride, methods: Methods) -> Rider:
    known = msgspec.structs.asdict(ride)
    if ride.altitude_m is None:
        known["altitude_m"] = methods.shop_altitude_m
    if ride.temperature_c is None:
        known["temperature_c"] = methods.shop_temperature_c
    return Rider(**known)


def wheel_gaps(wheel: Wheel) -> tuple[Assumed, ...]:
    """Return what was not entered of a wheel, and the value used instead."""
    rim, tire = wheel.rim, wheel.tire
    gaps: list[tuple[bool, str, float | str, str]] = [
        (
            rim.well is None,
            "rim.well",
            "usual",
            N_("45° slopes, depth 3.5 mm, floor 0.3 of the width, equal shoulders"),
        ),
        (
            bool(tire.parsed_size.assumed),
            "tire.size",
            tire.parsed_size.iso,
            tire.parsed_size.assumed,
        ),
        (
            rim.hook is None,
            "rim.hook",
            "unread",
            N_("the hookless limit counts until it is entered"),
        ),
        (rim.spokes is None, "rim.spokes", ASSUMED_SPOKES, N_("for the overlap of the tape")),
        (rim.max_pressure_kpa is None, "rim.max_pressure_kpa", "unread", ""),
        (tire.max_pressure_kpa is None, "tire.max_pressure_kpa", "unread", ""),
        (tire.casing_mm is None, "tire.casing_mm", ASSUMED_CASING_MM, N_("usual casing")),
        (
            tire.measured_width_mm is None,
            "tire.measured_width_mm",
            "nominal",
            N_("width on the measuring rim from the table"),
        ),
        (tire.new is None, "tire.new", "no", N_("no allowance for a new tire")),
        (
            tire.tubeless_ready is None,
            "tire.tubeless_ready",
            "unread",
            N_("no allowance for a missing marking"),
        ),
        (
            rim.tubeless_ready is None,
            "rim.tubeless_ready",
            "unread",
            N_("without it nothing keeps a bead on its seat when it is flat"),
        ),
        (wheel.load_n is None, "load_n", "share", N_("total mass times the share of this wheel")),
        (wheel.position is None, "position", "rear", N_("the larger share of the load")),
    ]
    return tuple(Assumed(field, value, reason) for missing, field, value, reason in gaps if missing)
