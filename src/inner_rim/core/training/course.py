"""A training wheel as a course of choices: what can be chosen now, what each choice shows, and what
it costs.

One description serves all: a play on the bench, a list of actions on the command line, and the
search for the best sequence. What a choice shows depends only on the faults that are left, so the
same play always answers the same.
"""

from collections.abc import Callable
from functools import cached_property
from typing import Literal, NamedTuple, cast

import msgspec

from inner_rim.core.models.inflation import GAP_MM, Bottle, Source, max_leak_l_s, needed_l_s
from inner_rim.core.models.rim import bed_of
from inner_rim.core.models.tire import mount
from inner_rim.core.plan.advisor import GAP_LEFT, MINUTES
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.core.training.scenario import (
    BEFORE_AIR,
    DOSE_ML,
    FACTS,
    LEAKS,
    LOOKS,
    TAPE_LEAKS,
    TURN_MM,
    Fault,
    Scenario,
)

Phase = Literal["looks", "seat", "line", "test", "done"]
#: Remedies that change the gap or the air, in the order in which a textbook lists them.
REMEDIES: tuple[Remedy, ...] = (
    "core_out",
    "wet",
    "lift",
    "strap",
    "bigger_source",
    "tube_first",
    "layer",
)
#: Minutes of waiting count a tenth: other wheels are worked on meanwhile (common practice, no
#: published source).
WAIT_SHARE = 0.1
PUMP_MIN, PUSH_MIN, READ_MIN, TEMPERATURE_MIN, SOAP_MIN = 1.0, 2.0, 1.0, 0.5, 3.0
OVERNIGHT_MIN, AGAIN_MIN, WEEP_WAIT_MIN, WEEP_MIN, RETAPE_MIN = 720.0, 60.0, 180.0, 5.0, 40.0
WEEP_ML = 15.0
#: A wheel that blows off its rim ends the play; what that costs is counted as this.
BLOWN_MIN = 60.0
#: The plainest answers; a sight names the faults that it shows.
Seen = tuple[str, ...]


#: What kind of thing is chosen; a look, a skip and a change are of something.
ChoiceKind = Literal[
    "look", "skip", "change", "pump", "read", "temperature", "soap", "spin", "retape", "hand_over"
]  # fmt: skip


class Choice(NamedTuple):
    """A choice of a course, written as ``look:tape`` or ``pump`` where it is typed.

    >>> str(Choice("look", "tape")), choice_from("pump")
    ('look:tape', Choice(kind='pump', name=''))
    """

    kind: ChoiceKind
    name: str = ""

    def __str__(self) -> str:
        return f"{self.kind}:{self.name}" if self.name else self.kind


def choice_from(text: str) -> Choice:
    """Return the choice that a text names; it need not be possible."""
    kind, _, name = text.partition(":")
    return Choice(cast(ChoiceKind, kind), name)


PUMP, HAND_OVER = Choice("pump"), Choice("hand_over")


class Course(msgspec.Struct, frozen=True):
    """The visible state of a play.

    Attributes:
        place: how many looks before the first air are behind.
        used: remedies that hold, and looks at the leak test that were taken.
        reading: what the last reading of the leak test said.
        end: how it ended.
    """

    phase: Phase = "looks"
    place: int = 0
    used: frozenset[str] = frozenset()
    reading: Literal["", "holds", "fell"] = ""
    end: Literal["", "handed_over", "blown"] = ""


class Cost(NamedTuple):
    """What a choice takes: minutes (waiting counts a tenth), tape in mm, sealant in ml."""

    minutes: float = 0.0
    tape_mm: float = 0.0
    sealant_ml: float = 0.0

    def plus(self, other: "Cost") -> "Cost":
        return Cost(*(mine + theirs for mine, theirs in zip(self, other, strict=True)))


class ChoiceResult(NamedTuple):
    """The result of a choice: the course after it, the faults that are left, what is seen, what it
    takes.
    """

    course: Course
    left: frozenset[Fault]
    seen: Seen
    cost: Cost


class Rules:
    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self.looks = tuple(
            name for name in BEFORE_AIR if name != "insert" or scenario.wheel.insert is not None
        )

    @cached_property
    def _volume_liter(self) -> float:
        rim = self.scenario.wheel.rim
        return mount(self.scenario.wheel.tire, rim, bed_of(rim)).air_volume_ml / ML_PER_LITER

    def builds(self, left: frozenset[Fault], used: frozenset[str]) -> bool:
        """Whether the source outruns the leak past the beads as they are (docs/models.md 2.10)."""
        gap = GAP_MM["loose" if "loose_gap" in left else "ordinary"]
        for remedy in used:
            gap *= GAP_LEFT.get(remedy, 1.0)  # type: ignore[call-overload]
        source: Source = "charge" if "bigger_source" in used else self.scenario.source
        most = max_leak_l_s(self._volume_liter, source, "core_out" in used, Bottle())
        return most >= needed_l_s(gap, self.scenario.wheel.rim.bead_seat_diameter_mm)

    def start(self) -> Course:
        return Course() if self.looks else Course("seat")

    def choices(self, course: Course) -> tuple[Choice, ...]:
        """Return what can be chosen now, the most usual first."""
        if course.phase == "looks":
            return Choice("look", self.looks[course.place]), Choice(
                "skip", self.looks[course.place]
            )
        if course.phase == "seat":
            return (PUMP, *(Choice("change", one) for one in REMEDIES if one not in course.used))
        if course.phase == "line":
            return Choice("look", "line"), Choice("skip", "line")
        if course.phase == "test":
            looks = (
                one
                for one in (Choice("temperature"), Choice("soap"))
                if one.kind not in course.used
            )
            return (
                (*looks, Choice("spin"), Choice("retape"), HAND_OVER)
                if course.reading
                else (Choice("read"),)
            )
        return ()

    def apply(self, course: Course, left: frozenset[Fault], choice: Choice) -> ChoiceResult:
        """Return the result of a choice.

        Raises:
            KeyError: it cannot be chosen now.
        """
        if choice not in self.choices(course):
            raise KeyError(choice)
        return _APPLY[choice.kind](self, course, left, choice.name)

    # -- one kind of choice each -----------------------------------------------------------------

    def _look(self, course: Course, left: frozenset[Fault], name: str) -> ChoiceResult:
        look = LOOKS[name]
        seen = tuple(fault for fault in sorted(left) if FACTS[fault].look == name)
        cost = Cost(look.minutes)
        for fault in seen:
            facts = FACTS[fault]
            cost = cost.plus(Cost(facts.fix_min, facts.fix_mm, facts.fix_ml))
        return ChoiceResult(
            self._past(course, name), left - frozenset(seen), seen or ("clear",), cost
        )

    def _skip(self, course: Course, left: frozenset[Fault], name: str) -> ChoiceResult:
        return ChoiceResult(self._past(course, name), left, (), Cost())

    def _past(self, course: Course, name: str) -> Course:
        if name == "line":
            return msgspec.structs.replace(course, phase="test")
        place = course.place + 1
        phase: Phase = "seat" if place == len(self.looks) else "looks"
        return msgspec.structs.replace(course, place=place, phase=phase)

    def _change(self, course: Course, left: frozenset[Fault], name: str) -> ChoiceResult:
        minutes: float = MINUTES[name]  # type: ignore[index]
        tape = TURN_MM if name == "layer" else 0.0
        used = course.used | {name}
        return ChoiceResult(
            msgspec.structs.replace(course, used=used), left, (), Cost(minutes, tape)
        )

    def _pump(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        cost, seen = Cost(PUMP_MIN), cast(Seen, ())
        for fault in ("worn_insert", "short_valve", "dried_core"):
            if fault in left:  # it stops the work here, and is fixed the long way
                facts = FACTS[fault]
                cost = cost.plus(Cost(facts.late_min, facts.late_mm, facts.late_ml))
                left, seen = left - {fault}, (*seen, fault)
        if not self.builds(left, course.used):
            return ChoiceResult(course, left, (*seen, "no_pressure"), cost)
        if "unread_limit" in left:
            facts = FACTS["unread_limit"]
            blown = msgspec.structs.replace(course, phase="done", end="blown")
            return ChoiceResult(
                blown,
                left,
                (*seen, "blown"),
                cost.plus(Cost(BLOWN_MIN, facts.late_mm, facts.late_ml)),
            )
        return ChoiceResult(
            msgspec.structs.replace(course, phase="line"), left, (*seen, "pressure"), cost
        )

    def _read(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        fell = bool(left & LEAKS) or "cold_night" in left
        cost = Cost(READ_MIN + WAIT_SHARE * OVERNIGHT_MIN, 0.0, DOSE_ML)
        after = msgspec.structs.replace(course, reading="fell" if fell else "holds")
        return ChoiceResult(after, left, ("fell" if fell else "holds",), cost)

    def _temperature(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        cold = "cold_night" in left
        explained = cold and not left & LEAKS
        used = course.used | {"temperature"}
        reading = "holds" if explained else course.reading
        after = msgspec.structs.replace(course, used=used, reading=reading)
        return ChoiceResult(
            after,
            left - {"cold_night"},
            ("cold_night",) if explained else ("clear",),
            Cost(TEMPERATURE_MIN),
        )

    def _soap(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        seen = (("nipple",) if left & TAPE_LEAKS else ()) + (
            ("porous",) if "porous" in left else ()
        )
        after = msgspec.structs.replace(course, used=course.used | {"soap"})
        return ChoiceResult(after, left, seen or ("clear",), Cost(SOAP_MIN))

    def _spin(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        return self._again(
            course, left - {"porous"}, Cost(WEEP_MIN + WAIT_SHARE * WEEP_WAIT_MIN, 0.0, WEEP_ML)
        )

    def _retape(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        return self._again(
            course, left - TAPE_LEAKS, Cost(RETAPE_MIN + WAIT_SHARE * AGAIN_MIN, TURN_MM, DOSE_ML)
        )

    def _again(self, course: Course, left: frozenset[Fault], cost: Cost) -> ChoiceResult:
        """Another reading after a remedy; by then the shop is warm."""
        left = left - {"cold_night"}
        fell = bool(left & LEAKS)
        after = msgspec.structs.replace(
            course, used=course.used - {"soap", "temperature"}, reading="fell" if fell else "holds"
        )
        return ChoiceResult(after, left, ("fell" if fell else "holds",), cost.plus(Cost(READ_MIN)))

    def _hand_over(self, course: Course, left: frozenset[Fault], _name: str) -> ChoiceResult:
        cost = Cost()
        for fault in left:
            facts = FACTS[fault]
            cost = cost.plus(Cost(facts.late_min, facts.late_mm, facts.late_ml))
        seen = tuple(sorted(fault for fault in left if FACTS[fault].late_min)) or ("well",)
        return ChoiceResult(
            msgspec.structs.replace(course, phase="done", end="handed_over"), left, seen, cost
        )


_APPLY: dict[ChoiceKind, Callable[[Rules, Course, frozenset[Fault], str], ChoiceResult]] = {
    "look": Rules._look,
    "skip": Rules._skip,
    "change": Rules._change,
    "pump": Rules._pump,
    "read": Rules._read,
    "temperature": Rules._temperature,
    "soap": Rules._soap,
    "spin": Rules._spin,
    "retape": Rules._retape,
    "hand_over": Rules._hand_over,
}
