"""The plan of a wheel: every stage composed from the job and the shop's practice."""

import msgspec

from .checks import Caution, Stop, find_cautions, find_stops
from .coming_up import ComingUp, judge_coming_up
from .insert import InsertPick, pick_insert, with_effects
from .job import Job, Practice, Ride, Shelf, Wheel
from .mounting import MountingPick, pick_mounting
from .practice import (
    PRACTICE_DEFAULTS,
    RIDE_DEFAULTS,
    SHELF_DEFAULTS,
    Assumed,
    filled,
    layered,
    with_stock,
)
from .pressure import PressurePick, pick_pressure
from .rim import ASSUMED_SPOKES, Bed, bed_of
from .sealant import SealantPick, dose_ml, pick_sealant
from .steps import Step, choose, make_steps
from .tape import TapePick, pick_tape
from .tire import ASSUMED_CASING_MM, MountedTire, mount
from .valve import ValvePick, pick_valve
from .weights import Weights, weigh

FORMAT = "inner-rim/plan"
VERSION = 1

#: Stages of the job; injected sealant comes after seating, see `WheelPlan.stages`.
STAGES = ("check_in", "strip", "tape", "valve", "insert", "mount", "sealant", "seat", "hold", "set")

STAGE_WORDS = {
    "check_in": "Check-in",
    "strip": "Strip",
    "tape": "Tape",
    "valve": "Valve",
    "insert": "Insert",
    "mount": "Mount",
    "sealant": "Sealant",
    "seat": "Seat",
    "hold": "Hold",
    "set": "Set",
}


class WheelPlan(msgspec.Struct, frozen=True):
    """Everything decided for one wheel, each part with its trail.

    Attributes:
        name: the wheel's name.
        bed: the rim's bed as it was used.
        tire: the mounted tire.
        tape: the rim tape.
        valve: the valve.
        insert: whether the insert fits, None without one.
        mounting: the slack of the last bead.
        sealant: the dose.
        coming_up: what brings the beads up.
        weights: grams in and out.
        steps: what to do, in order.
        stages: the stages in the order of this wheel.
        pressure: every pressure.
        stops: what halts the job.
        cautions: what is said at each stage.
        assumed: inputs that were not given and what stood in.
    """

    name: str
    bed: Bed
    tire: MountedTire
    tape: TapePick
    valve: ValvePick
    insert: InsertPick | None
    mounting: MountingPick
    sealant: SealantPick
    pressure: PressurePick
    coming_up: ComingUp
    weights: Weights
    steps: tuple[Step, ...]
    stages: tuple[str, ...]
    stops: tuple[Stop, ...]
    cautions: tuple[Caution, ...]
    assumed: tuple[Assumed, ...]


def plan_wheel(
    wheel: Wheel, ride: Ride | None = None, practice: Practice | None = None, shelf: Shelf | None = None
) -> WheelPlan:
    """Return the plan of one wheel; what is not given is assumed and said to be.

    The wheel's own practice goes before the job's.
    """
    ride, ride_gaps = filled(ride, RIDE_DEFAULTS, "ride")
    practice, practice_gaps = filled(layered(wheel.practice, practice), PRACTICE_DEFAULTS, "practice")
    shelf, shelf_gaps = filled(with_stock(shelf), SHELF_DEFAULTS, "shelf")
    bed = bed_of(wheel.rim)
    tire = mount(wheel.tire, wheel.rim, bed, wheel.insert)
    tape = pick_tape(wheel.rim, bed, practice, shelf)
    valve = pick_valve(wheel.rim, bed, tape, practice, shelf, wheel.insert)
    insert = pick_insert(wheel.insert, wheel.rim, tire) if wheel.insert is not None else None
    tape_mm = tape.thickness_mm * tape.layers
    mounting = pick_mounting(wheel.rim, bed, tape_mm, wheel.insert)
    choices = choose(wheel, practice, shelf, mounting)
    sealant = pick_sealant(wheel, tire, practice, shelf)
    pressure = pick_pressure(wheel, tire, ride, practice)
    coming = judge_coming_up(wheel.tire, wheel.rim, tape.bead_fit)
    if insert is not None:
        insert = with_effects(
            insert,
            *_with_and_without(wheel, bed, tape_mm, tire, mounting, sealant, pressure, ride, practice),
        )
    return WheelPlan(
        name=wheel.name,
        bed=bed,
        tire=tire,
        tape=tape,
        valve=valve,
        insert=insert,
        mounting=mounting,
        sealant=sealant,
        pressure=pressure,
        coming_up=coming,
        weights=weigh(wheel, bed, tire, tape, sealant),
        steps=make_steps(wheel, practice, choices, tape, valve, mounting, sealant, pressure, coming),
        stages=choices.stages,
        stops=find_stops(wheel, tire, pressure, practice, insert),
        cautions=find_cautions(wheel, tire, tape, valve, pressure, practice, shelf),
        assumed=(*_wheel_gaps(wheel), *ride_gaps, *practice_gaps, *shelf_gaps),
    )


def _with_and_without(
    wheel: Wheel,
    bed: Bed,
    tape_mm: float,
    tire: MountedTire,
    mounting: MountingPick,
    sealant: SealantPick,
    pressure: PressurePick,
    ride: Ride,
    practice: Practice,
) -> tuple[dict[str, float], dict[str, float]]:
    """Return what the insert acts on, without it and with it."""
    bare = msgspec.structs.replace(wheel, insert=None)
    bare_tire = mount(wheel.tire, wheel.rim, bed)
    bare_mounting = pick_mounting(wheel.rim, bed, tape_mm, None)
    bare_pressure = pick_pressure(bare, bare_tire, ride, practice)

    def figures(t: MountedTire, m: MountingPick, dose: float, p: PressurePick) -> dict[str, float]:
        return {
            "air_ml": t.air_volume_ml,
            "slack_mm": m.slack_mm,
            "dose_ml": dose,
            "start_kpa": p.start_kpa,
        }

    return (
        figures(bare_tire, bare_mounting, dose_ml(wheel.tire, bare_tire, False, practice), bare_pressure),
        figures(tire, mounting, sealant.dose_ml, pressure),
    )


def plan_job(job: Job) -> tuple[WheelPlan, ...]:
    """Return the plans of all wheels of a job."""
    return tuple(plan_wheel(wheel, job.ride, job.practice, job.shelf) for wheel in job.wheels)


def _wheel_gaps(wheel: Wheel) -> tuple[Assumed, ...]:
    rim, tire = wheel.rim, wheel.tire
    gaps: list[tuple[bool, str, float | str, str]] = [
        (
            rim.well is None,
            "rim.well",
            "usual",
            "45° slopes, depth 3.5 mm, floor 0.3 of the width, equal shoulders",
        ),
        (rim.hook is None, "rim.hook", "unread", "the straight-side limit counts until it is read"),
        (rim.spokes is None, "rim.spokes", ASSUMED_SPOKES, "for the overlap of the tape"),
        (rim.max_pressure_kpa is None, "rim.max_pressure_kpa", "unread", ""),
        (tire.max_pressure_kpa is None, "tire.max_pressure_kpa", "unread", ""),
        (tire.casing_mm is None, "tire.casing_mm", ASSUMED_CASING_MM, "usual casing"),
        (
            tire.measured_width_mm is None,
            "tire.measured_width_mm",
            "nominal",
            "width on the measuring rim from the table",
        ),
        (tire.new is None, "tire.new", "no", "no allowance for a new tire"),
        (tire.tubeless_ready is None, "tire.tubeless_ready", "unread", "no allowance for a missing marking"),
        (wheel.load_n is None, "load_n", "share", "total mass times the share of this wheel"),
        (wheel.position is None, "position", "rear", "the larger share of the load"),
    ]
    return tuple(Assumed(field, value, reason) for missing, field, value, reason in gaps if missing)
