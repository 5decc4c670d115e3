"""The plan of a wheel: every stage composed from the job and the shop's practice."""

from collections.abc import Collection, Sequence
from typing import Literal

import msgspec

from inner_rim.core.models.inflation import SeatingOdds, circumstances_of, seating_odds
from inner_rim.core.models.insert import InsertPick, pick_insert, with_effects
from inner_rim.core.models.mounting import MountingPick, pick_mounting
from inner_rim.core.models.pressure import PressurePick, pick_pressure
from inner_rim.core.models.rim import Bed, bed_of
from inner_rim.core.models.sealant import SealantPick, dose_ml, pick_sealant, top_up_ml
from inner_rim.core.models.seating_pressure import SeatingChance, seating_chance
from inner_rim.core.models.tape import TapePick, pick_tape
from inner_rim.core.models.tire import MountedTire, mount, width_band_mm
from inner_rim.core.models.valve import ValvePick, pick_valve
from inner_rim.core.plan.resolve import Resolved, resolve
from inner_rim.core.plan.weights import Weights, weigh
from inner_rim.core.procedure.achieve import BrokenRecipe, NoWay, Todo, achieve, check
from inner_rim.core.procedure.actions import KINDS, Action, code_of
from inner_rim.core.procedure.fold import LogReader
from inner_rim.core.procedure.fold_state import LogSummary
from inner_rim.core.procedure.goals import Milestone, goals_of
from inner_rim.core.procedure.sentences import SentenceInputs
from inner_rim.core.procedure.setup import (
    LogChanges,
    Setup,
    adds_layer,
    set_up,
    start_of,
    wheel_today,
)
from inner_rim.core.procedure.state import WheelState, conditions
from inner_rim.core.procedure.stops import Caution, Stop, find_cautions, find_stops
from inner_rim.core.procedure.words import Words
from inner_rim.core.record.job import (
    Arrival,
    Job,
    OldSealant,
    Practice,
    Remedy,
    Ride,
    Shelf,
    Wheel,
    Work,
)
from inner_rim.core.record.log import LAYER, Logged
from inner_rim.core.record.practice import Assumed
from inner_rim.core.record.resolved import USUAL, Learned, Methods, Rider
from inner_rim.core.record.spoken import Stage

FORMAT = "inner-rim/plan"
VERSION = 1


class WheelPlan(msgspec.Struct, frozen=True):
    """Everything decided for one wheel, each part with its trail.

    Attributes:
        wheel: its parts, as its log left them.
        bed: the rim's bed as it was used.
        insert: whether the insert fits, None without one.
        mounting: the slack of the last bead.
        seating_odds: what seats the beads; `coming_up` in the plan document.
        seats: at which pressure they seat, after what was tried.
        minutes_hands, minutes_wait: hands-on time, and waits, of the whole procedure.
        tools: what to lay out before the start.
        bands: 90 % bands of figures whose inputs' error changes what the hands do.
        setup: what decides the procedure.
        behind: what was done in this run, oldest first.
        steps: what remains to be done, in order.
        cautions: the cautions of each stage.
        assumed: inputs that were not entered, and the values used instead.
    """

    name: str
    wheel: Wheel
    bed: Bed
    tire: MountedTire
    tape: TapePick
    valve: ValvePick
    insert: InsertPick | None
    mounting: MountingPick
    sealant: SealantPick
    pressure: PressurePick
    seating_odds: SeatingOdds = msgspec.field(name="coming_up")
    seats: SeatingChance
    weights: Weights
    work: str
    minutes_hands: float
    minutes_wait: float
    tools: tuple[str, ...]
    bands: dict[str, tuple[float, float]]
    setup: Setup
    log: LogSummary
    behind: tuple[Action, ...]
    steps: tuple[Action, ...]
    stages: tuple[Stage, ...]
    stops: tuple[Stop, ...]
    cautions: tuple[Caution, ...]
    assumed: tuple[Assumed, ...]
    methods: Methods
    rider: Rider


class Picks(msgspec.Struct, frozen=True):
    """What is picked for a wheel, before its procedure.

    Attributes:
        wheel: as its log left it.
        dry: mounting without the insert, where the tire is seated before it goes in.
        ported: the valve that was picked has side ports.
        learned: what the shop's log has taught.
    """

    wheel: Wheel
    resolved: Resolved
    bed: Bed
    tire: MountedTire
    tape: TapePick
    valve: ValvePick
    mounting: MountingPick
    dry: MountingPick
    sealant: SealantPick
    pressure: PressurePick
    ported: bool
    learned: Learned = USUAL

    def setup(self, changes: LogChanges) -> Setup:
        return set_up(
            self.wheel,
            self.resolved.methods,
            self.resolved.stock,
            self.mounting.grade,
            self.pressure,
            self.tape,
            self.ported,
            changes,
        )

    # -- what the fold of the log asks -------------------------------------------------------------

    @property
    def start(self) -> WheelState:
        return start_of(self.setup(LogChanges()))

    @property
    def steps_kpa(self) -> tuple[float, ...]:
        return self.pressure.seating_kpa

    def settles_at_kpa(self, seated_kpa: float) -> float:
        """Return the pressure at which the wheel is checked last, once its beads seated."""
        rider, methods = self.resolved.rider, self.resolved.methods
        return pick_pressure(self.wheel, self.tire, rider, methods, seated_kpa).settled_kpa

    def seen_at(self, pressure_kpa: float) -> int:
        """Return how many pressure steps were checked in a tire that stood at a pressure."""
        return self.pressure.seen_at(pressure_kpa)

    def remaining(
        self, state: WheelState, changes: LogChanges, taken: dict[str, int]
    ) -> tuple[Todo, ...]:
        return achieve(state, self.setup(changes), taken)

    def milestones(self, changes: LogChanges) -> tuple[Milestone, ...]:
        return goals_of(self.setup(changes))

    def tapes(self, changes: LogChanges) -> bool:
        return self.setup(changes).lays_tape

    def ridden_steps(self, changes: LogChanges) -> int:
        """Return how many pressure steps count as checked because the wheel was ridden as it is."""
        return self.setup(changes).ridden_steps

    def strips(self, changes: LogChanges, layers_added: int) -> int:
        """Return how many strips of tape a run lays."""
        layers = 1 if changes.again == "layer" else self.tape.layers + layers_added
        return self.tape.strips * layers

    def covers(self, changes: LogChanges) -> int:
        return self.setup(changes).covers


def pick_parts(
    wheel: Wheel,
    ride: Ride | None,
    practice: Practice | None,
    shelf: Shelf | None,
    seated_kpa: float | None = None,
    learned: Learned = USUAL,
) -> Picks:
    """Return what is picked for a wheel; see `plan_wheel`."""
    wheel = wheel_today(wheel)
    resolved = resolve(wheel, ride, practice, shelf)
    methods, stock = resolved.methods, resolved.stock
    bed = bed_of(wheel.rim)
    tire = mount(wheel.tire, wheel.rim, bed, wheel.insert)
    tape = pick_tape(wheel.rim, bed, methods, stock, adds_layer(wheel))
    fitted = wheel.work.valve_mm if wheel.work is not None else None
    valve = pick_valve(wheel.rim, bed, tape, methods, stock, wheel.insert, fitted)
    tape_mm = 0.0 if wheel.rim.bed == "sealed" else tape.thickness_mm * tape.layers
    mounting = pick_mounting(wheel.rim, wheel.tire, bed, tape_mm, wheel.insert)
    return Picks(
        wheel=wheel,
        resolved=resolved,
        bed=bed,
        tire=tire,
        tape=tape,
        valve=valve,
        mounting=mounting,
        dry=mounting
        if wheel.insert is None
        else pick_mounting(wheel.rim, wheel.tire, bed, tape_mm, None),
        sealant=pick_sealant(wheel, tire, methods, stock, learned),
        pressure=pick_pressure(wheel, tire, resolved.rider, methods, seated_kpa, learned=learned),
        learned=learned,
        ported=valve.stem is not None
        and any(stem.name == valve.stem and stem.ported for stem in stock.valves),
    )


def plan_wheel(
    wheel: Wheel,
    ride: Ride | None = None,
    practice: Practice | None = None,
    shelf: Shelf | None = None,
    log: Sequence[Logged] = (),
    learned: Learned = USUAL,
) -> WheelPlan:
    """Return the plan of one wheel from where its log has left it; what is not given is assumed and
    said to be.

    The wheel's own practice goes before the job's.

    Args:
        log: the wheel's entries that count, oldest first.
        learned: what the shop's log has taught of its figures.
    """
    return WheelPlanner(wheel, ride, practice, shelf, learned).plan(log)


class WheelPlanner:
    """Plans one wheel as its log grows: its parts are picked once, and each entry is read once."""

    def __init__(
        self,
        wheel: Wheel,
        ride: Ride | None = None,
        practice: Practice | None = None,
        shelf: Shelf | None = None,
        learned: Learned = USUAL,
    ) -> None:
        self._from = ride, practice, shelf
        self._picks = pick_parts(wheel, *self._from, None, learned)
        self._reader = reader_of(self._picks)
        self._picked: tuple[Wheel, float | None, Picks] = self._picks.wheel, None, self._picks
        self._planned: tuple[list[Logged], WheelPlan] | None = None

    def plan(self, log: Sequence[Logged]) -> WheelPlan:
        """Return the plan after a log; see `plan_wheel`."""
        if self._planned is not None and self._planned[0] == list(log):
            return self._planned[1]
        picks, summary = self._picks, self._reader.summary(log)
        made = as_behaved(picks.wheel, picks.resolved.methods.layers, picks.tape, summary)
        if self._picked[:2] != (made, summary.seated_kpa):
            again = pick_parts(made, *self._from, summary.seated_kpa, picks.learned)
            self._picked = made, summary.seated_kpa, again
        plan = _planned(self._picked[2], summary)
        self._planned = list(log), plan
        return plan


def reader_of(picks: Picks) -> LogReader:
    """Return what reads the log of a wheel."""
    return LogReader(picks, picks.wheel.sealant or OldSealant())


#: Remedies that hold for every try after them; what a hand did to a bead holds until the air is out
#: again.
_LASTING: frozenset[Remedy] = frozenset({"wet", "strap", "bigger_source", "warm", "straighten"})


def remedies_in_force(summary: LogSummary) -> frozenset[Remedy]:
    """Return the remedies that the next try has."""
    tries, state = summary.seating.tries, summary.state
    in_force = set(state.changed) | {
        one for item in tries for one in item.changed if one in _LASTING
    }
    if tries and tries[-1].core_out:
        in_force.add("core_out")
    if tries and state.seen and not state.seated:  # the climb goes on
        in_force |= set(tries[-1].changed)
    return frozenset(in_force)


def as_behaved(wheel: Wheel, layers: int, tape: TapePick, summary: LogSummary) -> Wheel:
    """Return the wheel as its log left it: taped again, with layers that were added, with the core
    out.

    Args:
        layers: of tape that the methods ask for, 0 where the kind of tape decides.
    """
    changes: dict[str, object] = {}
    if summary.layers_added:
        changes["layers"] = (layers or tape.layers) + summary.layers_added
    in_force = remedies_in_force(summary)
    if "core_out" in in_force:
        changes["core_out"] = True
    if "bigger_source" in in_force:
        changes["air_source"] = "charge"
    if changes:
        own = msgspec.structs.replace(wheel.practice or Practice(), **changes)
        wheel = msgspec.structs.replace(wheel, practice=own)
    if summary.changes.again:
        kept = True if summary.changes.again == LAYER else None  # a layer goes over good tape
        work = msgspec.structs.replace(
            wheel.work or Work(), kind="retape", keep_tape=kept, insert_later=None
        )
        arrival = wheel.arrival or Arrival()
        if arrival.taped is False:  # it came in without
            arrival = msgspec.structs.replace(arrival, taped=True)
        if wheel.insert is not None and not wheel.insert.ported:  # the valve that is in decides
            valve: Literal["plain", "ported"] = (
                "ported" if summary.state.ports == "yes" else "plain"
            )
            arrival = msgspec.structs.replace(arrival, valve=valve)
        wheel = msgspec.structs.replace(wheel, work=work, arrival=arrival)
    return wheel


def _planned(picks: Picks, summary: LogSummary) -> WheelPlan:
    wheel, resolved, pressure = picks.wheel, picks.resolved, picks.pressure
    methods, tape, mounting = resolved.methods, picks.tape, picks.mounting
    setup = picks.setup(summary.changes)
    if setup.stays_seated:
        rider = resolved.rider
        pressure = pick_pressure(wheel, picks.tire, rider, methods, stays_seated=True)
        picks = msgspec.structs.replace(picks, pressure=pressure)
    try:
        behind, steps = _procedure(picks, setup, summary)
    except (NoWay, BrokenRecipe):  # an impossible log: the wheel is planned as it came in
        if not summary.behind and summary.run == 1:
            raise
        summary = _from_the_start(picks, summary)
        behind, steps = _procedure(picks, setup, summary)
    poured = (setup.route == "pour" or setup.inject_when == "first") and not setup.tight
    changed = frozenset() if summary.state.seated else remedies_in_force(summary)
    around = circumstances_of(wheel, methods, poured=poured, layers=tape.layers, changed=changed)
    tape_mm = 0.0 if wheel.rim.bed == "sealed" else tape.thickness_mm * tape.layers
    insert = _insert(
        wheel,
        picks.bed,
        tape_mm,
        InsertEffects(picks.tire, mounting, picks.sealant.dose_ml, pressure),
        resolved,
    )
    return WheelPlan(
        name=wheel.name,
        wheel=wheel,
        bed=picks.bed,
        tire=picks.tire,
        tape=tape,
        valve=picks.valve,
        insert=insert,
        mounting=mounting,
        sealant=picks.sealant,
        pressure=pressure,
        seating_odds=seating_odds(
            wheel, tape.bead_fit, methods, picks.tire.air_volume_ml, around, picks.learned
        ),
        seats=_seats(picks, summary, changed),
        weights=weigh(wheel, setup, picks.bed, picks.tire, tape, picks.sealant),
        work=setup.kind,
        minutes_hands=sum(step.minutes for step in steps),
        minutes_wait=sum(step.wait_minutes for step in steps),
        tools=tuple(dict.fromkeys(tool for step in steps for tool in step.tools)),
        bands={
            "mounted_width_mm": width_band_mm(wheel.tire, picks.tire),
            "slack_mm": mounting.band_mm,
            "developed_width_mm": tape.developed_band_mm,
            "start_kpa": pressure.band_kpa,
        },
        setup=setup,
        log=summary,
        behind=behind,
        steps=steps,
        stages=_stages(behind, steps, setup),
        stops=find_stops(wheel, picks.tire, pressure, methods, insert, tape, setup),
        cautions=find_cautions(wheel, picks.tire, tape, picks.valve, pressure, methods, setup),
        assumed=resolved.assumed,
        methods=methods,
        rider=resolved.rider,
    )


def _seats(picks: Picks, summary: LogSummary, changed: Collection[Remedy]) -> SeatingChance:
    """At which pressure the beads seat as they are now: above every pressure that did not seat
    them, what was changed since counted in.
    """

    def chance(remedies: Collection[Remedy]) -> SeatingChance:
        width, layers = picks.tire.nominal_width_mm, picks.tape.layers
        return seating_chance(
            picks.wheel, picks.resolved.methods, width, layers, remedies, picks.learned
        )

    result, above, had = chance(changed), 0.0, set[Remedy]()
    for item in summary.seating.tries:
        had |= set(item.changed)
        if item.outcome == "both_up":
            above = 0.0
        elif item.builds(picks.pressure.seating_kpa[0]):
            above = max(above, item.peak_kpa / chance(had).median_kpa)
    beads = (
        1
        if "seated" in (summary.state.first, summary.state.last) and not summary.state.seated
        else 2
    )
    return msgspec.structs.replace(result, beads=beads, above_kpa=above * result.median_kpa)


def _from_the_start(picks: Picks, summary: LogSummary) -> LogSummary:
    """The summary of an impossible log: nothing is taken as done, and air and sealant may be in."""
    state = start_of(picks.setup(summary.changes))
    if state.first != "off" and state.last != "off":
        state = state.after(conditions("air=up"))
    if summary.sealant_ml:
        state = state.after(conditions("sealant=in"))
    return msgspec.structs.replace(summary, state=state, behind=(), seated_kpa=None, doubtful=True)


def _procedure(
    picks: Picks, setup: Setup, summary: LogSummary
) -> tuple[tuple[Action, ...], tuple[Action, ...]]:
    """What is done and what remains, in words: a caution is said once."""
    stock, pressure = picks.resolved.stock, picks.pressure
    words = Words(
        SentenceInputs(
            picks.wheel,
            picks.resolved.methods,
            setup,
            picks.tape,
            picks.valve,
            picks.mounting,
            picks.sealant,
            pressure,
            picks.dry,
            soap_unknown=stock.sealant.dislikes_soap is None,
            soap_weakens=stock.sealant.dislikes_soap is True,
            left_ml=summary.left_ml,
            ridden=summary.ridden,
        )
    )
    behind = tuple(
        words.dress(Todo(done.stage, done.key, code, done.question, done.pressure_step))
        for done in summary.behind
        if (code := code_of(done.key)) in KINDS
    )
    todos = achieve(summary.state, setup, summary.taken)
    steps = tuple(words.dress(todo) for todo in todos)
    check(steps, summary.state, pressure.limit_kpa)
    return behind, steps


def _stages(
    behind: tuple[Action, ...], steps: tuple[Action, ...], setup: Setup
) -> tuple[Stage, ...]:
    """The stages in the order of this wheel: those of the run from its start, and of what else was
    done or remains.
    """
    known: list[Stage] = ["check_in", *(item.stage for item in (*behind, *steps))]
    order = [todo.stage for todo in achieve(start_of(setup), setup)]
    wanted = dict.fromkeys(stage for stage in order if stage in known)
    return tuple(dict.fromkeys([*wanted, *known]))


def dose_due_ml(plan: WheelPlan) -> float | None:
    """Return the sealant that is to go in: the dose, less what is left where the tire is topped up;
    None where nobody dipped, and there is no sum.
    """
    if plan.setup.does not in ("refresh", "repair") or plan.setup.opens:
        return plan.sealant.dose_ml
    left = plan.log.left_ml
    return None if left is None else top_up_ml(plan.sealant.dose_ml, left)


def inside_ml(plan: WheelPlan) -> float:
    """Return the sealant inside: what the log says went in, before that what is planned."""
    return plan.log.sealant_ml or plan.sealant.dose_ml


def pooled_ml(plan: WheelPlan) -> float:
    """Return what of the sealant inside pools at the bottom, ml: all but what coats the tire."""
    coat = plan.sealant.dose_ml - plan.sealant.free_ml
    return max(0.0, inside_ml(plan) - coat)


class InsertEffects(msgspec.Struct, frozen=True):
    tire: MountedTire
    mounting: MountingPick
    dose_ml: float
    pressure: PressurePick

    def figures(self) -> dict[str, float]:
        return {
            "air_ml": self.tire.air_volume_ml,
            "slack_mm": self.mounting.slack_mm,
            "dose_ml": self.dose_ml,
            "start_kpa": self.pressure.start_kpa,
        }


def _insert(
    wheel: Wheel, bed: Bed, tape_mm: float, having: InsertEffects, resolved: Resolved
) -> InsertPick | None:
    """Return whether the insert fits and what it changes, None without one."""
    if wheel.insert is None:
        return None
    methods = resolved.methods
    bare = msgspec.structs.replace(wheel, insert=None)
    tire = mount(wheel.tire, wheel.rim, bed)
    injector = resolved.stock.injector_ml if methods.sealant_route == "inject" else None
    without = InsertEffects(
        tire,
        pick_mounting(wheel.rim, wheel.tire, bed, tape_mm, None),
        dose_ml(wheel.tire, tire, False, methods, injector),
        pick_pressure(bare, tire, resolved.rider, methods),
    )
    pick = pick_insert(wheel.insert, wheel.rim, having.tire)
    return with_effects(pick, without.figures(), having.figures())


def plan_job(job: Job) -> tuple[WheelPlan, ...]:
    return tuple(plan_wheel(wheel, job.ride, job.practice, job.shelf) for wheel in job.wheels)


#: Methods that a hand-over names, as no other entry of the log shows them.
NAMED = ("tape_kind", "tape_start", "layers", "insert_order", "seating", "dose")
OF_TAPE = frozenset({"tape_kind", "tape_start", "layers"})


def named_ways(plan: WheelPlan) -> dict[str, str]:
    """Return the ways of a wheel's work that its hand-over names, by their question (no unit)."""
    ways = {name: str(getattr(plan.methods, name)) for name in NAMED}
    ways["layers"] = str(plan.tape.layers)
    asked = set(NAMED) - (set() if plan.setup.lays_tape else OF_TAPE)
    asked -= set() if plan.wheel.insert is not None else {"insert_order"}
    return {name: way for name, way in ways.items() if name in asked}
