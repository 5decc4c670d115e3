"""The plan of a wheel: every stage composed from the job and the shop's practice."""

import msgspec

from inner_rim.core.models.inflation import ComingUp, circumstances_of, judge_coming_up
from inner_rim.core.models.insert import InsertPick, pick_insert, with_effects
from inner_rim.core.models.mounting import MountingPick, pick_mounting
from inner_rim.core.models.pressure import PressurePick, pick_pressure
from inner_rim.core.models.rim import ASSUMED_SPOKES, Bed, bed_of
from inner_rim.core.models.sealant import SealantPick, dose_ml, pick_sealant
from inner_rim.core.models.tape import TapePick, pick_tape
from inner_rim.core.models.tire import ASSUMED_CASING_MM, MountedTire, mount, width_band_mm
from inner_rim.core.models.valve import ValvePick, pick_valve
from inner_rim.core.plan.weights import Weights, weigh
from inner_rim.core.procedure.actions import Action
from inner_rim.core.procedure.recipes import procedure, stages_of
from inner_rim.core.procedure.setup import Setup, set_up
from inner_rim.core.procedure.stops import Caution, Stop, find_cautions, find_stops
from inner_rim.core.procedure.words import Words
from inner_rim.core.record.job import Job, Practice, Ride, Shelf, Wheel
from inner_rim.core.record.practice import (
    PRACTICE_DEFAULTS,
    RIDE_DEFAULTS,
    SHELF_DEFAULTS,
    Assumed,
    filled,
    layered,
    with_stock,
)

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
        work: the kind of work.
        minutes_hands, minutes_wait: hands-on time, and waits, of the whole procedure.
        tools: what to lay out before the start.
        bands: 90 % bands of figures whose inputs' error changes what the hands do.
        setup: what decides the procedure.
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
    work: str
    minutes_hands: float
    minutes_wait: float
    tools: tuple[str, ...]
    bands: dict[str, tuple[float, float]]
    setup: Setup
    steps: tuple[Action, ...]
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
    tape_mm = 0.0 if wheel.rim.bed == "sealed" else tape.thickness_mm * tape.layers
    mounting = pick_mounting(wheel.rim, bed, tape_mm, wheel.insert)
    sealant = pick_sealant(wheel, tire, practice, shelf)
    pressure = pick_pressure(wheel, tire, ride, practice)
    dry = mounting if wheel.insert is None else pick_mounting(wheel.rim, bed, tape_mm, None)
    setup = set_up(wheel, practice, shelf, mounting.grade, pressure.start_kpa)
    steps = procedure(setup, Words(wheel, practice, setup, tape, valve, mounting, sealant, pressure, dry))
    coming = judge_coming_up(
        wheel,
        tape.bead_fit,
        practice,
        tire.air_volume_ml,
        circumstances_of(
            wheel, practice, poured=setup.route == "pour" and not setup.tight, layers=tape.layers
        ),
    )
    if insert is not None:
        insert = with_effects(
            insert,
            *_with_and_without(
                wheel,
                bed,
                tape_mm,
                tire,
                mounting,
                sealant,
                pressure,
                ride,
                practice,
                _injector(practice, shelf),
            ),
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
        weights=weigh(wheel, setup, bed, tire, tape, sealant),
        work=setup.kind,
        minutes_hands=sum(step.minutes for step in steps),
        minutes_wait=sum(step.wait_minutes for step in steps),
        tools=tuple(dict.fromkeys(tool for step in steps for tool in step.tools)),
        bands={
            "mounted_width_mm": width_band_mm(wheel.tire, tire),
            "slack_mm": mounting.band_mm,
            "developed_width_mm": tape.developed_band_mm,
            "start_kpa": pressure.band_kpa,
        },
        setup=setup,
        steps=steps,
        stages=stages_of(steps),
        stops=find_stops(wheel, tire, pressure, practice, insert, tape, setup),
        cautions=find_cautions(wheel, tire, tape, valve, pressure, practice, shelf, setup),
        assumed=(*_wheel_gaps(wheel), *ride_gaps, *practice_gaps, *shelf_gaps),
    )


def _injector(practice: Practice, shelf: Shelf) -> float | None:
    return shelf.injector_ml if practice.sealant_route == "inject" else None


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
    injector_ml: float | None,
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

    bare_dose = dose_ml(wheel.tire, bare_tire, False, practice, injector_ml)
    return (
        figures(bare_tire, bare_mounting, bare_dose, bare_pressure),
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
        (bool(tire.parsed_size.assumed), "tire.size", tire.parsed_size.iso, tire.parsed_size.assumed),
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
