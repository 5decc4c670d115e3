"""The state of reading a log: what was done, what it left, and what was really used."""

from collections.abc import Sequence
from typing import Protocol

import msgspec

from inner_rim.core.procedure.achieve import LINE_QUESTIONS, QUESTION_OF, Counts, NoWay, Todo
from inner_rim.core.procedure.actions import KINDS, code_of, perform
from inner_rim.core.procedure.goals import Milestone
from inner_rim.core.procedure.setup import LogChanges
from inner_rim.core.procedure.state import Facts, WheelState, after_moving, condition, conditions
from inner_rim.core.record.job import OldSealant
from inner_rim.core.record.log import Attempt, Care, Dose, SignOff
from inner_rim.core.record.moments import moment
from inner_rim.core.record.spoken import STAGES, Stage

#: A reading of a leak test: ISO 8601, kPa, °C.
Read = tuple[str, float, float | None]


class Done(msgspec.Struct, frozen=True):
    """An action that is behind: its stage and name, and the question that it was."""

    stage: Stage
    key: str
    question: str = ""
    pressure_step: int = -1


class Since(msgspec.Struct, frozen=True):
    """The dates that aftercare is counted from; times in ISO 8601, empty where nothing is known.

    Attributes:
        dosed_at: when sealant went in last, in this job or after it.
        sealant_at: when the clock of what is inside began: new sealant starts it, a top-up moves it
            by its share, whatever else is done leaves it.
        dips: (when, mm) since it was dosed, but for those that calibrate.
        pressures: (when, kPa, word of the ride, empty for handed over) of every pressure it was
            handed over or ridden at.
        worked_kpa: the pressure that worked: where the last ride put it, else what was handed over.
        promised: the time that was promised last.
    """

    dosed_at: str = ""
    sealant_at: str = ""
    laid_at: str = ""
    tires: int = 0
    dips: tuple[tuple[str, float], ...] = ()
    handed_over_at: str = ""
    pressures: tuple[tuple[str, float, str], ...] = ()
    worked_kpa: float | None = None
    promised: str = ""


class SeatingLog(msgspec.Struct, frozen=True):
    """The state of seating.

    Attributes:
        outcome: of the last try that left the beads unseated, empty where there is none.
        over_limit: the wheel saw more than its limit and was not inspected since.
        tries: since the beads were last on and not seated.
    """

    outcome: str = ""
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    over_limit: bool = False
    tries: tuple[Attempt, ...] = ()


class LogSummary(msgspec.Struct, frozen=True):
    """The summary of a log.

    Attributes:
        behind: what was done in this run, oldest first.
        whole: stages that were confirmed whole.
        failed: stages that failed and were not done since.
        answered: answers by question.
        overridden: codes of stops that a named person passed.
        waiting, waiting_since: actions that were done last, at once, after which a wait may run,
            and since when, ISO 8601.
        leak: where air was seen to come out last.
        dip_factor: calibration of the dipstick.
        left_ml: sealant that was left by a dip before this job's went in; None without one.
        dosed_ml: sealant that went in, in this run.
        sealant_ml, sealant: what is in, and of which kind, empty where it was not said.
        layers_added: of tape, as a remedy.
        seated_kpa: the pressure that seated both beads; None before that.
        weighed_g: the whole wheel, before and after the work, as far as it was weighed.
        feedback_kpa: where the last test ride puts the pressure.
        signed, signed_at: the sign-off, and when, ISO 8601; None and empty before it.
        may_have_air: air may be in, whatever the state says: a try failed, a stage was confirmed
            whole.
        ridden: the leak test was ended by a ride.
        doubtful: its entries contradict each other, so that the wheel is planned as it came in.
    """

    state: WheelState
    behind: tuple[Done, ...] = ()
    changes: LogChanges = LogChanges()
    seating: SeatingLog = SeatingLog()
    whole: frozenset[str] = frozenset()
    failed: frozenset[str] = frozenset()
    answered: dict[str, bool] = {}
    overridden: frozenset[str] = frozenset()
    waiting: tuple[str, ...] = ()
    waiting_since: str = ""
    readings: tuple[Read, ...] = ()
    pumped_at: str = ""
    leak: str = ""
    dip_factor: float = 1.0
    left_ml: float | None = None
    dosed_ml: float = 0.0
    sealant_ml: float = 0.0
    sealant: str = ""
    layers_added: int = 0
    seated_kpa: float | None = None
    plugs: int = 0
    weighed_g: dict[str, float] = {}
    feedback_kpa: float | None = None
    signed: SignOff | None = None
    signed_at: str = ""
    since: Since = Since()
    run: int = 1
    may_have_air: bool = False
    ridden: bool = False
    doubtful: bool = False

    @property
    def ride_kpa(self) -> float | None:
        """The pressure it was handed over at, as it is on the ride; older entries have only what
        was set.
        """
        if self.signed is None:
            return None
        return (
            self.signed.ride_kpa if self.signed.ride_kpa is not None else self.signed.pressure_kpa
        )

    @property
    def taken(self) -> dict[str, int]:
        """How often an action of each code was taken in this run."""
        counts: dict[str, int] = {}
        for done in self.behind:
            code = code_of(done.key)
            counts[code] = counts.get(code, 0) + 1
        return counts


ACTION_OF = {question: code for code, question in QUESTION_OF.items()} | {
    **dict.fromkeys(LINE_QUESTIONS, "line.look"),
    "carbon_damaged": "rim.walls",
    "rim_dented": "rim.walls",
    "valve_core_stuck": "valve.core_check",
    "insert_worn": "insert.look",
    "thorns_left": "tire.thorns",
    "bead_line_uneven": "spin.look",
    "tape_edges_damaged": "tape.keep_look",
    "tire_unsound_else": "tire.look",
}
#: The question that an action is, also where an odd log has it as a step.
QUESTION_BY = {code: question for question, code in reversed(ACTION_OF.items())}


class Plan(Protocol):
    """What reading a log needs of the procedure: where the work starts, and what remains at a place
    of the log.
    """

    @property
    def start(self) -> WheelState: ...

    @property
    def steps_kpa(self) -> tuple[float, ...]: ...

    def settles_at_kpa(self, seated_kpa: float) -> float:
        """Return the pressure at which the wheel is checked last, once its beads seated."""

    def seen_at(self, pressure_kpa: float) -> int:
        """Return how many pressure steps were checked in a tire that stood at a pressure."""

    def remaining(
        self, state: WheelState, changes: LogChanges, taken: dict[str, int]
    ) -> Sequence[Todo]: ...

    def milestones(self, changes: LogChanges) -> Sequence[Milestone]: ...

    def tapes(self, changes: LogChanges) -> bool: ...

    def ridden_steps(self, changes: LogChanges) -> int:
        """How many pressure steps count as checked because the wheel was ridden as it is."""

    def strips(self, changes: LogChanges, layers_added: int) -> int:
        """How many strips of tape a run lays."""

    def covers(self, changes: LogChanges) -> int:
        """How many strips of electrical tape go over it."""


class Effect(msgspec.Struct):
    """The effect of one entry, or of one of its actions: an action, or facts without one."""

    done: Done | None
    state: WheelState
    dose: Dose | None = None
    seating: SeatingLog = SeatingLog()
    seated_kpa: float | None = None


class Fold:
    """The reading of a log, entry by entry."""

    def __init__(self, plan: Plan, came: OldSealant) -> None:
        self.plan = plan
        self.start = self.state = plan.start
        self.effects: list[Effect] = []
        self.when = ""
        self.in_ml, self.in_name = came.in_ml or 0.0, came.name or ""
        self.changes = LogChanges()
        self.seating = SeatingLog()
        self.seated_kpa: float | None = None
        self.seen_before = 0
        self.whole, self.failed, self.overridden = set[str](), set[str](), set[str]()
        self.answered: dict[str, bool] = {}
        self.waiting: tuple[str, ...] = ()
        self.waiting_since = self.leak = ""
        self.readings: list[Read] = []
        self.pumped_at = ""
        self.dip_factor = 1.0
        self.left_ml: float | None = None
        self.topped_up: list[Care] = []
        self.doses_before = 0
        self.layers_added, self.plugs, self.run = 0, 0, 1
        self.weighed_g: dict[str, float] = {}
        self.feedback_kpa: float | None = None
        self.signed: SignOff | None = None
        self.signed_at = ""
        self.since = Since(sealant_at=came.in_since or "")
        self.may_have_air = self.ridden = False

    def note_since(self, **changes: object) -> None:
        self.since = msgspec.structs.replace(self.since, **changes)

    def note_dosed(self, before_ml: float | None, added_ml: float) -> None:
        """Note that sealant went in, and move the clock of what is inside.

        clock = began + share * (now - began), share = added / (before + added); what was inside and
        is not known counts as as much again.

        Args:
            before_ml: what was inside; 0 where there was none, None where nobody knows.
        """
        began, now = self.since.sealant_at, moment(self.when)
        share = 0.5
        if before_ml is not None:
            share = added_ml / (before_ml + added_ml) if before_ml > 0.0 else 1.0
        if began and share < 1.0:
            now = moment(began) + share * (now - moment(began))
        self.note_since(dosed_at=self.when, sealant_at=now.isoformat(), dips=())

    @property
    def before_ml(self) -> float | None:
        """What is inside as far as it is known, before more goes in."""
        if self.state.sealant == "none":
            return 0.0
        return self.inside_ml or None

    # -- what is done ----------------------------------------------------------------------------

    @property
    def behind(self) -> list[Done]:
        return [effect.done for effect in self.effects if effect.done is not None]

    def taken(self) -> Counts:
        counts = Counts()
        for done in self.behind:
            counts.key(code_of(done.key))
        return counts

    def remaining(self) -> Sequence[Todo]:
        try:
            return self.plan.remaining(self.state, self.changes, self.taken())
        except NoWay:  # the log contradicts itself
            return ()

    def do(self, done: Done) -> None:
        code = code_of(done.key)
        if not done.question and code in QUESTION_BY:
            done = msgspec.structs.replace(done, question=QUESTION_BY[code])
        self._go_on_from(perform(self.state, done.key))
        if done.pressure_step >= 0 and code != "line.look":  # of a stage that was confirmed whole
            self.state = msgspec.structs.replace(
                self.state, seen=max(self.state.seen, done.pressure_step + 1)
            )
        self.plugs += code == "repair.plug"
        if self.state.air == "flat":
            self.may_have_air = False
        self._note(done)

    def confirm(self, done: Done) -> None:
        """Take an action of a stage that was confirmed whole: it changes the wheel only as far as
        it could be done.
        """
        kind = KINDS.get(code_of(done.key))
        if kind is None or all(self.state.holds(need) for need in kind.needs):
            self.do(done)
        else:
            self.say((), done)  # it was said to be done, and stays in view

    def say(self, facts: Facts, done: Done | None = None, dose: Dose | None = None) -> None:
        """Take facts as true, whatever action brought them about."""
        if condition("air=flat") in facts:
            self.may_have_air = False
        self._go_on_from(after_moving(self.state, self.state.after(facts)))
        if done is not None:
            self.state = msgspec.structs.replace(
                self.state, did=self.state.did | {code_of(done.key)}
            )
        self._note(done, dose)

    def _go_on_from(self, state: WheelState) -> None:
        """Take the wheel as it is now; beads that came off their seats are seated again, wherever
        they seated before.
        """
        if self.state.seated and not state.seated:
            self.seated_kpa, self.seen_before = None, self.state.seen
        self.state = state

    def _note(self, done: Done | None, dose: Dose | None = None) -> None:
        self.effects.append(Effect(done, self.state, dose, self.seating, self.seated_kpa))

    @property
    def came_ml(self) -> float:
        """What is left of the sealant that came in: by a dip, else as it was said; none once it was
        taken out.
        """
        emptied = any(
            code_of(done.key) in ("strip.sealant_out", "strip.tube_out") for done in self.behind
        )
        if emptied or self.state.sealant == "none":
            return 0.0
        return self.in_ml if self.left_ml is None else self.left_ml

    @property
    def doses(self) -> list[Dose]:
        return [effect.dose for effect in self.effects if effect.dose is not None]

    @property
    def inside_ml(self) -> float:
        """The sealant inside: what stayed and what went in; after a top-up, what was left then and
        what was added.
        """
        if self.state.sealant != "in":
            return 0.0
        then = self.came_ml
        if self.topped_up:
            then = self.topped_up[-1].left_ml + (self.topped_up[-1].dose_ml or 0.0)
        return then + sum(dose.dose_ml for dose in self.doses[self.doses_before :])

    @property
    def inside_name(self) -> str:
        """Its kind: that of what went in last."""
        before, later = self.doses[: self.doses_before], self.doses[self.doses_before :]
        names = [dose.name for dose in before] + [care.name for care in self.topped_up]
        names += [dose.name for dose in later]
        return next(filter(None, reversed(names)), self.in_name if self.came_ml else "")

    @property
    def dosed_ml(self) -> float:
        """Sealant that was used in this run."""
        added = sum(care.dose_ml or 0.0 for care in self.topped_up)
        return sum(dose.dose_ml for dose in self.doses) + added

    def stage_of(self, code: str) -> Stage:
        """The stage that an action without one belongs to: that of what was done last, where it is
        later than its own.
        """
        own = _STAGE_OF[code.partition(".")[0]]
        last = next((effect.done.stage for effect in reversed(self.effects) if effect.done), own)
        later: Stage = max(own, last, key=STAGES.index) if code in _ANYWHERE else own
        return later

    def cut(self, place: int) -> None:
        """Take back all that was done from a place on, and the sealant that went in with it."""
        while (
            place > 0
            and self.effects[place - 1].done is None
            and self.effects[place - 1].dose is not None
        ):
            place -= 1
        gone = self.effects[place:]
        dosing = any(_doses(effect) for effect in gone)
        kept = [effect for effect in gone if effect.dose is not None and not dosing]
        self.plugs -= sum(
            code_of(one.done.key) == "repair.plug" for one in gone if one.done is not None
        )
        for effect in gone:
            if effect.done is not None and effect.done.question:
                self.answered.pop(effect.done.question, None)
        del self.effects[place:]
        last = self.effects[-1] if self.effects else None
        self.state = last.state if last is not None else self.start
        over = self.seating.over_limit
        self.seating = last.seating if last is not None else SeatingLog()
        self.seating = msgspec.structs.replace(self.seating, over_limit=over)
        self.seated_kpa = last.seated_kpa if last is not None else None
        self.may_have_air = True  # a slip was taken back: the air may never have been out
        for effect in kept:  # what went in otherwise is still in
            self.say(conditions("sealant=in"), dose=effect.dose)

    def summary(self, state: WheelState) -> LogSummary:
        """Return what was read, with the wheel in a state."""
        ml = self.inside_ml
        return LogSummary(
            state=state,
            behind=tuple(self.behind),
            changes=self.changes,
            seating=self.seating,
            whole=frozenset(self.whole),
            failed=frozenset(self.failed),
            answered=dict(self.answered),
            overridden=frozenset(self.overridden),
            waiting=self.waiting,
            waiting_since=self.waiting_since,
            readings=tuple(self.readings),
            pumped_at=self.pumped_at,
            leak=self.leak,
            dip_factor=self.dip_factor,
            left_ml=self.left_ml,
            dosed_ml=self.dosed_ml,
            sealant_ml=ml,
            sealant=self.inside_name if ml else "",
            layers_added=self.layers_added,
            seated_kpa=self.seated_kpa,
            plugs=self.plugs,
            weighed_g=dict(self.weighed_g),
            feedback_kpa=self.feedback_kpa,
            signed=self.signed,
            signed_at=self.signed_at if self.signed is not None else "",
            since=self.since,
            run=self.run,
            may_have_air=self.may_have_air,
            ridden=self.ridden,
        )


def _doses(effect: Effect) -> bool:
    return effect.done is not None and code_of(effect.done.key) in (
        "sealant.pour",
        "sealant.inject",
    )


#: The stage of an action by the first word of its code, and actions that are taken in whatever
#: stage the hand is in.
_STAGE_OF: dict[str, Stage] = {
    "check_in": "check_in",
    "strip": "strip",
    "rim": "strip",
    "repair": "strip",
    "tape": "tape",
    "hole": "tape",
    "valve": "valve",
    "insert": "insert",
    "tire": "mount",
    "bead": "mount",
    "tube": "mount",
    "core": "seat",
    "air": "seat",
    "line": "seat",
    "dry": "seat",
    "sealant": "sealant",
    "dip": "sealant",
    "spin": "hold",
    "hold": "hold",
    "set": "set",
}
_ANYWHERE = frozenset({"line.look", "dry.test", "dry.stay", "tire.arrow_again"})
