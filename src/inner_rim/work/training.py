"""A training wheel on a bench of its own: actions there become choices, and the hidden truth
answers.

The bench is a real one with the real procedure and limits, in memory only: nothing of it reaches
stock, log, learning or schedule of the shop. The truth is seen through looks and the pump; nothing
else in the program knows it.
"""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

import msgspec

from inner_rim.core.models.air import SEA_LEVEL_KPA
from inner_rim.core.procedure.actions import code_of
from inner_rim.core.record.job import FORMAT, VERSION
from inner_rim.core.record.log import (
    Attempt,
    Care,
    Changed,
    Dose,
    Finding,
    Leak,
    Logged,
    Reading,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.moments import naive_local
from inner_rim.core.record.paths import new_id
from inner_rim.core.record.units import show
from inner_rim.core.training.course import (
    AGAIN_MIN,
    HAND_OVER,
    PUMP,
    REMEDIES,
    Choice,
    ChoiceKind,
    Cost,
    Rules,
)
from inner_rim.core.training.play import Move, Play, begin, choose, seen_words
from inner_rim.core.training.scenario import FACTS, LEAKS, LOOKS, Fault, Scenario, Spot
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.event import Event
from inner_rim.work.text.waits import minutes_left, wanted_until

#: The look that each question of the procedure is.
_LOOK_OF_QUESTION = {
    "tape_laid_badly": "tape",
    "tape_damaged": "tape",
    "valve_core_stuck": "core",
    "arrow_not_confirmed": "arrow",
    "arrow_not_confirmed_insert": "arrow",
    "insert_worn": "insert",
    "bead_line_low": "line",
    "bead_line_low_again": "line",
    "bead_line_low_last": "line",
    "bead_line_uneven": "line",
}
#: What the training shop has on its shelf.
_SHELF = {
    "tape_widths_mm": [21.0, 23.0, 25.0, 27.0, 29.0, 31.0, 35.0, 45.0],
    "valve_lengths_mm": [35.0, 44.0, 60.0, 80.0],
    "injector_ml": 60.0,
}
WARM_C, COLD_C = 20.0, 8.0
#: What is left overnight of the pressure where air leaks, and what the gauge shows where none
#: builds, kPa.
LEAKED_SHARE, NOTHING_KPA = 0.8, 2.0
#: Share of a wait that passes at each tick, and its least, minutes.
TICK_SHARE, TICK_MIN = 0.2, 1.0


class Sight(msgspec.Struct, frozen=True):
    """What a look or the pump shows: words, where a bead is low, where it bubbles, and the pressure
    at the gauge.
    """

    words: str
    low: Spot | None = None
    bubbles: frozenset[tuple[str, int]] = frozenset()
    kpa: float | None = None


class Clock:
    """The clock of a training bench: it moves only with work and waits."""

    def __init__(self) -> None:
        self._now = datetime.now(UTC)

    def __call__(self) -> datetime:
        return self._now

    def advance(self, minutes: float) -> None:
        self._now += timedelta(minutes=minutes)


class Training:
    """One training wheel from start to debrief.

    Attributes:
        over: with the play once the wheel is handed over, or the tire has blown off.
    """

    def __init__(self, scenario: Scenario) -> None:
        self.over = Event[[Play]]()
        self.clock = Clock()
        self.bench = Bench(clock=self.clock)
        self.bench.settings.set_own(asked=True)
        self._rules, self._play = Rules(scenario), begin(scenario)
        self._looked: dict[str, tuple[Fault, ...]] = {}
        self._ignored: set[str] = set()  # looks that showed a fault and were answered yes anyway
        self._read_entries, self._pumped, self._ended = 0, False, False
        self._held_since = self.clock()
        wheel = {**msgspec.to_builtins(scenario.wheel), "wheel_id": new_id()}
        document = {
            "format": FORMAT,
            "version": VERSION,
            "title": scenario.title,
            "wheels": [wheel],
            "shelf": _SHELF,
        }
        job = self.bench.sync.create(new_id(), document)
        self.bench.selected = (job.job_id, wheel["wheel_id"])
        self.bench.refresh(job)
        self.bench.subscribe(self._follow)

    @property
    def title(self) -> str:
        return self._play.scenario.title

    @property
    def story(self) -> str:
        return self._play.scenario.story

    def give_up(self) -> None:
        """End the play: the debrief is wanted now."""
        self._end()

    # -- asking the wheel ------------------------------------------------------------------------

    def look(self) -> Sight:
        """Look where the hand is; return what is seen, in words."""
        if self._play.course.phase == "test" and self._play.course.reading:
            return self._soap()
        name = self._look_here()
        if not name:
            return Sight(tr("There is nothing to look at in this step."))
        seen = tuple(fault for fault in sorted(self._play.left) if FACTS[fault].look == name)
        self._looked[name] = seen
        self.clock.advance(LOOKS[name].minutes)
        words = " ".join(tr(FACTS[fault].seen) for fault in seen) or tr(LOOKS[name].clear)
        if "unread_limit" in seen:
            self.bench.editor.type_into(
                "rim.max_pressure_kpa", f"{self._play.scenario.true_limit_kpa:g} kPa"
            )
        spot = self._play.scenario.spot if "low_spot" in seen else None
        if spot is not None:
            side = tr("left") if spot.side == "left" else tr("right")
            words += " " + tr("On the {side}, sector {n}.").format(side=side, n=spot.sector)
        return Sight(words, low=spot)

    def _soap(self) -> Sight:
        sight = self._take("soap", tr("You have looked for bubbles already."))
        seen = self._play.moves[-1].seen
        spot = self._play.scenario.spot
        bubbles = {(spot.side, spot.sector)} if "nipple" in seen else set()
        if "porous" in seen:
            bubbles |= {(spot.side, sector) for sector in range(1, 9)}
        return msgspec.structs.replace(sight, bubbles=frozenset(bubbles))

    def temperature(self) -> Sight:
        cold = "cold_night" in self._play.left and self._play.course.phase == "test"
        air = COLD_C if cold else WARM_C
        if self._play.course.phase == "test" and self._play.course.reading:
            self._take("temperature", "")
        return Sight(
            tr("The air in the shop is at {air}.").format(air=show(air, "c", self.bench.units))
        )

    def pump(self, typed_kpa: float | None = None) -> Sight:
        """Pump to the pressure that is typed, or to that of the step; at the leak test the gauge is
        read.
        """
        state = self.bench.planned
        if state is None:
            return Sight(tr("Nothing to pump."))
        if state.progress.stage == "hold" and not state.progress.seats_next:
            return self._gauge(state.plan.pressure.settle_kpa)
        if not state.progress.seats_next:
            return Sight(tr("There is nothing to pump in this step."))
        target = typed_kpa if typed_kpa is not None else state.progress.seating.step_kpa
        self.clock.advance(1.0)
        if target > self._limit_kpa(state.plan.pressure.limit_kpa):
            return self._blow_off()
        return self._pump_to(target)

    def _pump_to(self, target_kpa: float) -> Sight:
        self._pass_looks(len(self._rules.looks))
        if self._play.course.phase != "seat":
            self._pumped = True
            return Sight(tr("The pressure builds."), kpa=target_kpa)
        self._take_changes()
        seated = self._seated_at(target_kpa)
        if seated < 2 and "unread_limit" not in self._play.left and self._builds():
            self._pumped = True
            words = (
                tr("One pop; the pressure builds.")
                if seated
                else tr("The pressure builds. No pop so far.")
            )
            return Sight(words, kpa=target_kpa)
        self._choose(PUMP)
        self._pumped = True
        move = self._play.moves[-1]
        words = " ".join(tr(text) for text in seen_words(move))
        if self._play.over:
            self._end()
            return Sight(words)
        return Sight(words, kpa=NOTHING_KPA if "no_pressure" in move.seen else target_kpa)

    def _builds(self) -> bool:
        return self._rules.builds(self._play.left, self._play.course.used)

    def _seated_at(self, pressure_kpa: float) -> int:
        """How many beads seat up to a pressure; by the last step both do (docs/models.md 2.14)."""
        state = self.bench.planned
        if state is None or not pressure_kpa:
            return 2
        plan = state.plan
        chance = msgspec.structs.replace(plan.seats, above_kpa=0.0)
        rng = random.Random(self._play.scenario.id)  # the same wheel in every play
        return sum(
            bead <= pressure_kpa for bead in chance.drawn(rng, plan.pressure.seating_kpa[-1])
        )

    def _gauge(self, settle_kpa: float) -> Sight:
        """Read the gauge: the first time in the morning, then an hour later each time."""
        state = self.bench.current
        if state is not None and any(isinstance(item.entry, Reading) for item in state.log):
            self.clock.advance(AGAIN_MIN)
        hours = (self.clock() - self._held_since).total_seconds() / 3600.0
        kpa = settle_kpa * (LEAKED_SHARE ** (hours / 12.0) if self._play.left & LEAKS else 1.0)
        if "cold_night" in self._play.left:
            kpa = (kpa + SEA_LEVEL_KPA) * (COLD_C + 273.15) / (WARM_C + 273.15) - SEA_LEVEL_KPA
        kpa = round(kpa, 1)
        return Sight(
            tr("The gauge shows {kpa}.").format(kpa=show(kpa, "kpa", self.bench.units)), kpa=kpa
        )

    def _limit_kpa(self, shown_kpa: float) -> float:
        hidden = "unread_limit" in self._play.left
        return min(shown_kpa, self._play.scenario.true_limit_kpa) if hidden else shown_kpa

    def _blow_off(self) -> Sight:
        course = msgspec.structs.replace(self._play.course, phase="done", end="blown")
        move = Move(PUMP, ("blown",), Cost(60.0))
        self._play = Play(self._play.scenario, course, self._play.left, (*self._play.moves, move))
        self._end()
        return Sight(
            tr(
                "{blown} What protects: the lowest limit, small steps, glasses, and your face away."
            ).format(blown=" ".join(tr(text) for text in seen_words(move)))
        )

    # -- time ------------------------------------------------------------------------------------

    def tick(self) -> None:
        """Let the clock run through a wait."""
        state = self.bench.planned
        if state is None or self._ended:
            return
        left = minutes_left(state.progress, self.clock())
        until = wanted_until(state.progress)
        if until is not None:
            left = max(left, (until - naive_local(self.clock())).total_seconds() / 60.0)
        if left > 0.0:
            self.clock.advance(max(TICK_MIN, TICK_SHARE * left))
            self.bench.refresh()

    # -- what is done on the bench ---------------------------------------------------------------

    def _follow(self) -> None:
        state = self.bench.current
        log = state.whole_log if state is not None else []
        new, self._read_entries = log[self._read_entries :], len(log)
        if state is None or state.stage != "hold":
            self._held_since = self.clock()
        for item in new:
            if not self._ended:
                self._take_entry(item)

    def _take_entry(self, item: Logged) -> None:
        entry = item.entry
        if isinstance(entry, Finding):
            self._answered(_LOOK_OF_QUESTION.get(entry.check, ""), entry.sound)
        elif isinstance(entry, StepEntry) and entry.outcome == "done":
            self._step_done(code_of(entry.step) if entry.step else "", entry.stage)
        elif isinstance(entry, StepEntry) and entry.stage == "tape" and self._play.course.reading:
            self._choose(Choice("retape"))
        elif isinstance(entry, Attempt):
            self._tried(entry)
        elif (
            isinstance(entry, Reading)
            and self._play.course.phase == "test"
            and not self._play.course.reading
        ):
            self._choose(Choice("read"))
        elif isinstance(entry, Leak):
            self._choose(Choice("soap"))
        elif isinstance(entry, Dose | Care) and self._play.course.reading == "fell":
            self._choose(Choice("spin"))
        elif isinstance(entry, SignOff):
            self._hand_over()

    def _answered(self, name: str, sound: bool) -> None:
        if name == "line":
            if self._play.course.phase == "line":
                self._choose(Choice("look" if self._heeded(name, sound) else "skip", "line"))
        elif name in self._rules.looks:
            if not sound:
                self._looked.setdefault(name, ())
            self._ignored = {name} if sound and self._looked.get(name) else set()
            self._pass_looks(self._rules.looks.index(name) + 1)

    def _heeded(self, name: str, sound: bool) -> bool:
        """Whether a look was taken, and its answer agrees with what it showed."""
        return (name in self._looked and (not sound or not self._looked[name])) or not sound

    def _step_done(self, code: str, stage: str) -> None:
        for place, name in enumerate(self._rules.looks):
            steps = LOOKS[name].steps
            if code in steps or (not code and any(step.startswith(f"{stage}.") for step in steps)):
                self._pass_looks(place + 1)
        if code.startswith("sealant.") and self._play.course.phase == "line":
            self._choose(Choice("skip", "line"))

    def _pass_looks(self, until: int) -> None:
        """Settle everything before a place of the course: taken where someone looked, else skipped."""
        while self._play.course.phase == "looks" and self._play.course.place < until:
            name = self._rules.looks[self._play.course.place]
            taken = name in self._looked and name not in self._ignored
            self._choose(Choice("look" if taken else "skip", name))

    def _tried(self, entry: Attempt) -> None:
        if not self._pumped:
            self._pump_to(entry.target_kpa or entry.peak_kpa)
        self._pumped = False
        if entry.outcome == "both_up" and self._play.course.phase == "seat":
            self._choose(PUMP)
        if entry.outcome == "one_low" and self._play.course.phase == "line":
            self._choose(Choice("look", "line"))

    def _take_changes(self) -> None:
        """Return what was changed on the wheel or its air since the last try."""
        state = self.bench.planned
        assert state is not None
        log = state.plan.log
        changed = {one for attempt in log.seating.tries for one in attempt.changed} | set(
            log.state.changed
        )
        changed |= {item.entry.remedy for item in state.log if isinstance(item.entry, Changed)}
        if log.state.core == "out" or state.plan.methods.core_out:
            changed.add("core_out")
        if log.state.wet == "yes":
            changed.add("wet")
        for remedy in REMEDIES:
            if remedy in changed and remedy not in self._play.course.used:
                self._choose(Choice("change", remedy))

    def _hand_over(self) -> None:
        self._pass_looks(len(self._rules.looks))
        if self._play.course.phase == "seat":
            self._pump_to(0.0)
        if self._play.course.phase == "line":
            self._choose(Choice("skip", "line"))
        if self._play.course.phase == "test" and not self._play.course.reading:
            self._choose(Choice("read"))
        self._choose(HAND_OVER)
        self._end()

    def _take(self, choice: ChoiceKind, otherwise: str) -> Sight:
        if not self._choose(Choice(choice)):
            return Sight(otherwise)
        move = self._play.moves[-1]
        self.clock.advance(move.cost.minutes)
        return Sight(" ".join(tr(text) for text in seen_words(move)))

    def _choose(self, choice: Choice) -> bool:
        if choice not in self._rules.choices(self._play.course):
            return False
        self._play = choose(self._play, self._rules, choice)
        return True

    def _end(self) -> None:
        if not self._ended:
            self._ended = True
            self.over.emit(self._play)

    def _look_here(self) -> str:
        """Return the look that the current step is, empty where it is none."""
        state = self.bench.planned
        if state is None:
            return ""
        progress = state.progress
        code = progress.step.code if progress.step is not None else ""
        if progress.seats_next or code in LOOKS["line"].steps:
            return "line" if self._play.course.phase in ("line", "test") else ""
        here = [name for name in self._rules.looks if code in LOOKS[name].steps]
        return here[0] if here else ("limit" if progress.stage == "check_in" else "")
