"""The plan of a wheel: every stage composed from the job and the shop's practice."""

import msgspec

from inner_rim.core.models.inflation import ComingUp, circumstances_of, judge_coming_up
from inner_rim.core.models.insert import InsertPick, pick_insert, with_effects
from inner_rim.core.models.mounting import MountingPick, pick_mounting
from inner_rim.core.models.pressure import PressurePick, pick_pressure
from inner_rim.core.models.rim import Bed, bed_of
from inner_rim.core.models.sealant import SealantPick, dose_ml, pick_sealant
from inner_rim.core.models.tape import TapePick, pick_tape
from inner_rim.core.models.tire import MountedTire, mount, width_band_mm
from inner_rim.core.models.valve import ValvePick, pick_valve
from inner_rim.core.plan.resolve import Resolved, resolve
from inner_rim.core.plan.weights import Weights, weigh
from inner_rim.core.procedure.actions import Action
from inner_rim.core.procedure.recipes import procedure, stages_of
from inner_rim.core.procedure.setup import Setup, adds_layer, set_up
from inner_rim.core.procedure.stops import Caution, Stop, find_cautions, find_stops
from inner_rim.core.procedure.words import Words
from inner_rim.core.record.job import Job, Practice, Ride, Shelf, Wheel
from inner_rim.core.record.practice import Assumed
from inner_rim.core.record.resolved import Methods, Rider
from inner_rim.core.record.stages import Stage

FORMAT = "inner-rim/plan"
VERSION = 1


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
        methods: the methods that it was made with.
        rider: who rides where, as it was taken.
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
    stages: tuple[Stage, ...]
    stops: tuple[Stop, ...]
    cautions: tuple[Caution, ...]
    assumed: tuple[Assumed, ...]
    methods: Methods
    rider: Rider


def plan_wheel(
    wheel: Wheel,
    ride: Ride | None = None,
    practice: Practice | None = None,
    shelf: Shelf | None = None,
    seated_kpa: float | None = None,
) -> WheelPlan:
    """Return the plan of one wheel; what is not given is assumed and said to be.

    The wheel's own practice goes before the job's.

    Args:
        wheel, ride, practice, shelf: what is known.
        seated_kpa: at which both beads came up, None before that.
    """
    resolved = resolve(wheel, ride, practice, shelf)
    methods, stock = resolved.methods, resolved.stock
    bed = bed_of(wheel.rim)
    tire = mount(wheel.tire, wheel.rim, bed, wheel.insert)
    tape = pick_tape(wheel.rim, bed, methods, stock, adds_layer(wheel))
    valve = pick_valve(wheel.rim, bed, tape, methods, stock, wheel.insert)
    tape_mm = 0.0 if wheel.rim.bed == "sealed" else tape.thickness_mm * tape.layers
    mounting = pick_mounting(wheel.rim, bed, tape_mm, wheel.insert)
    sealant = pick_sealant(wheel, tire, methods, stock)
    pressure = pick_pressure(wheel, tire, resolved.rider, methods, seated_kpa)
    insert = _insert(wheel, bed, tape_mm, Effects(tire, mounting, sealant.dose_ml, pressure), resolved)
    dry = mounting if wheel.insert is None else pick_mounting(wheel.rim, bed, tape_mm, None)
    ported = any(stem.name == valve.stem and stem.ported for stem in stock.valves) and valve.stem is not None
    setup = set_up(wheel, methods, stock, mounting.grade, pressure.start_kpa, ported)
    steps = procedure(setup, Words(wheel, methods, setup, tape, valve, mounting, sealant, pressure, dry))
    poured = setup.route == "pour" and not setup.tight
    around = circumstances_of(wheel, methods, poured=poured, layers=tape.layers)
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
        coming_up=judge_coming_up(wheel, tape.bead_fit, methods, tire.air_volume_ml, around),
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
        stops=find_stops(wheel, tire, pressure, methods, insert, tape, setup),
        cautions=find_cautions(wheel, tire, tape, valve, pressure, methods, setup),
        assumed=resolved.assumed,
        methods=methods,
        rider=resolved.rider,
    )


class Effects(msgspec.Struct, frozen=True):
    """What an insert acts on."""

    tire: MountedTire
    mounting: MountingPick
    dose_ml: float
    pressure: PressurePick

    def figures(self) -> dict[str, float]:
        """Return the figures that are compared without and with it."""
        return {
            "air_ml": self.tire.air_volume_ml,
            "slack_mm": self.mounting.slack_mm,
            "dose_ml": self.dose_ml,
            "start_kpa": self.pressure.start_kpa,
        }


def _insert(wheel: Wheel, bed: Bed, tape_mm: float, having: Effects, resolved: Resolved) -> InsertPick | None:
    """Return whether the insert fits and what it changes, None without one."""
    if wheel.insert is None:
        return None
    methods = resolved.methods
    bare = msgspec.structs.replace(wheel, insert=None)
    tire = mount(wheel.tire, wheel.rim, bed)
    injector = resolved.stock.injector_ml if methods.sealant_route == "inject" else None
    without = Effects(
        tire,
        pick_mounting(wheel.rim, bed, tape_mm, None),
        dose_ml(wheel.tire, tire, False, methods, injector),
        pick_pressure(bare, tire, resolved.rider, methods),
    )
    pick = pick_insert(wheel.insert, wheel.rim, having.tire)
    return with_effects(pick, without.figures(), having.figures())


def plan_job(job: Job) -> tuple[WheelPlan, ...]:
    """Return the plans of all wheels of a job."""
    return tuple(plan_wheel(wheel, job.ride, job.practice, job.shelf) for wheel in job.wheels)
