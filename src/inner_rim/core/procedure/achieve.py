"""What remains to be done from the wheel's current state, planned as a build tool does.

Take the first milestone that does not hold, bring about what its action needs, in order, take the
action, go on. A milestone that is undone on the way is taken again when its turn comes.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Literal

import msgspec

from inner_rim.core.procedure.actions import KINDS, REMEDY_ACTIONS, Action, applies, perform
from inner_rim.core.procedure.goals import Milestone, goals_of
from inner_rim.core.procedure.setup import Setup
from inner_rim.core.procedure.state import TUBE_SEATED, Fact, Facts, WheelState, conditions
from inner_rim.core.record.spoken import Stage

#: More rounds, or deeper needs, than any wheel takes: beyond that it is an endless loop.
MAX_ROUNDS, MAX_DEEP = 250, 12


#: Values of facts that take something back.
_BACKWARD = frozenset(
    {"flat", "unseen", "off", "none", "closed", "open", "no", "out", "bad", "dirty", "laid"}
)
#: Actions after which a milestone that was reached may be open again.
_UNDOING = frozenset(
    code
    for code, kind in KINDS.items()
    if kind.undoes or any(fact.values[0] in _BACKWARD for fact in kind.gives)
)


class NoWay(Exception):
    """The milestones cannot be reached from this state: a bug, or a log that contradicts itself."""


class Todo(msgspec.Struct, frozen=True):
    """An action to take, before it has words.

    Attributes:
        key: its name in the log, its code and from the second time on a number.
        question: code of the question that it is, empty for something to do.
        pressure_step: number of the pressure step from 0, -1 outside of seating; the final look has
            the number after the last.
        up_to: pressure steps that were checked before a tire is inflated in one go, -1 where that
            does not matter.
        inside: what of it changes how this is done.
    """

    stage: Stage
    key: str
    code: str
    question: str = ""
    pressure_step: int = -1
    up_to: int = -1
    inside: Literal["", "sealant", "tube"] = ""


class Counts(dict[str, int]):
    """How often an action of each code was taken so far."""

    def key(self, code: str) -> str:
        """Count one more of a code and return its name in the log."""
        number = self[code] = self.get(code, 0) + 1
        return code if number == 1 else f"{code}.{number}"


def achieve(
    state: WheelState, setup: Setup, taken: Mapping[str, int] | None = None
) -> tuple[Todo, ...]:
    """Return what remains to be done.

    Args:
        taken: how often an action of each code was taken in this run.

    Raises:
        NoWay: no action brings about what is needed.
    """
    return _achieve(state, setup, frozenset((taken or {}).items()))


@lru_cache(maxsize=2048)
def _achieve(
    state: WheelState, setup: Setup, taken: frozenset[tuple[str, int]]
) -> tuple[Todo, ...]:
    planner = _Planner(state, setup, Counts(taken))
    goals, place = goals_of(setup), 0
    for _round in range(MAX_ROUNDS):
        while place < len(goals) and goals[place].reached(planner.state):
            place += 1
        if place == len(goals):
            return tuple(planner.todos)
        planner.undone = False
        planner.reach(goals[place])
        if planner.undone:  # a milestone before this one may be open again
            place = 0
    raise NoWay(f"in circles: {[todo.key for todo in planner.todos]}")


#: Stages in which the wheel is taken apart.
_TAKES_OUT = frozenset({"check_in", "strip"})


class _Planner:
    """Plans by taking actions in a state; collects them."""

    def __init__(self, state: WheelState, setup: Setup, counts: Counts) -> None:
        self.state, self.setup = state, setup
        self.todos: list[Todo] = []
        self._counts, self._asked = counts, dict[str, int]()
        self._deep = 0
        self.undone = False
        self._stage: Stage = "check_in"

    def reach(self, goal: Milestone) -> None:
        self._stage = goal.stage
        if goal.code in _BLOCKS:
            _BLOCKS[goal.code](self)
        else:
            self.take(goal.code, goal.question)

    def take(self, code: str, question: str = "") -> None:
        self.meet(code, KINDS[code].needs)
        self.add(code, question or self._question(code))

    def meet(self, code: str, needs: Facts) -> None:
        """Satisfy an action's needs, in order; one that is undone on the way is satisfied again."""
        self._deep += 1
        for _round in range(MAX_DEEP):
            unmet = next((need for need in needs if not self.state.holds(need)), None)
            if unmet is None:
                self._deep -= 1
                return
            if self._deep > MAX_DEEP:
                break
            self._make(unmet)
        raise NoWay(f"{code} never gets {unmet}; the wheel is {self.state}")

    def add(self, code: str, question: str = "", pressure_step: int = -1) -> None:
        key, state = self._counts.key(code), self.state
        up_to = state.seen if code == "air.inflate" else -1
        inside = "tube" if state.tube == "in" else "sealant" if state.sealant == "in" else ""
        self.todos.append(Todo(self._stage, key, code, question, pressure_step, up_to, inside))  # type: ignore[arg-type]
        self.state = perform(state, key)
        if code in _FILLS and pressure_step >= 0:
            seen = self.setup.steps if code == "air.burst" else pressure_step + 1
            did = self.state.did | ({TUBE_SEATED} if inside == "tube" else set())
            self.state = msgspec.structs.replace(
                self.state, seen=max(self.state.seen, seen), did=did
            )
        self.undone = self.undone or code in _UNDOING

    def _question(self, code: str) -> str:
        """The question that an action is wherever it is taken; a look at the molded line has a name
        for each time.
        """
        if code == "line.look":
            number = self._asked[code] = self._asked.get(code, 0) + 1
            return LINE_QUESTIONS[min(number, len(LINE_QUESTIONS)) - 1]
        return QUESTION_OF.get(code, "")

    def _make(self, need: Fact) -> None:
        way = _WAYS[need.field](self, need.values)
        if way in _BLOCKS:
            _BLOCKS[way](self)
        elif way:
            self.take(way)
        else:
            raise NoWay(f"nothing brings about {need}; the wheel is {self.state}")

    def seat_in_steps(self) -> None:
        """Inflate in steps, or in one burst, looking at each: from the lowest step with a flat
        tire, or on from where it is. What is to be changed is changed first; a spot that cannot go
        higher is let down and wetted.
        """
        setup, lubricates = self.setup, self.setup.lubricant != "none" and self.state.wet == "no"
        self.meet("seat.steps", conditions("valve=in|tube", *_BEADS_ON))
        remedies = [
            remedy
            for remedy in REMEDY_ACTIONS
            if remedy in self.state.wanted and applies(remedy, self.state)
        ]
        if self.state.air == "up" and (remedies or not 0 < self.state.seen < setup.steps):
            self.meet("seat.steps", conditions("air=flat"))
        for remedy in remedies:
            self.take(REMEDY_ACTIONS[remedy])
        if self.state.air == "flat":
            if lubricates and self.state.wet == "no" and self.state.last != "seated":
                self.take("bead.wet")
            if setup.drops:
                self.meet("seat.steps", conditions("core=in"))
            elif setup.core_out and self.state.core == "in" and self.state.valve == "in":
                self.take("core.out")
        # a tube that is filled at once could be pinched
        if setup.burst and not self.state.seen and self.state.tube == "out":
            self.add("air.burst", pressure_step=0)
        else:
            for place in range(self.state.seen, setup.steps):
                self.add("air.step", pressure_step=place)
        if self.state.core == "in":
            self.add("line.look", pressure_step=setup.steps)

    def settle(self) -> None:
        """Inflate to the sealing pressure and check both sides there: from where the beads seated
        as one more pressure step; from flat, in one go up to what was checked before.
        """
        if self.state.air == "flat" or self.state.line != "even":
            self.take("line.look")
        if self.state.seen < self.setup.settles_after:
            self.add("air.step", pressure_step=self.setup.steps)
            self.add("line.look", pressure_step=self.setup.steps)

    def tape(self) -> None:
        """Every strip that is to be laid, then rubbed down and looked at."""
        setup = self.setup
        if self.state.tape == "none" and not self.state.to_lay:  # all of it was taken off
            strips = max(1, setup.strips)
            self.state = msgspec.structs.replace(self.state, to_lay=strips, to_cover=setup.covers)
        if self.state.to_lay:
            if setup.no_tape:
                self.take("tape.find")
            else:
                self._lay()
        if self.state.tape == "laid" and not setup.no_tape:
            if setup.warms and "tape.warm" not in self.state.did:
                self.take("tape.warm")
            if "tape.press" not in self.state.did:
                self.take("tape.press")
        while self.state.to_cover:
            self.take("tape.overlay")
        self.take("tape.look", "tape_laid_badly")

    def _lay(self) -> None:
        self.meet("tape.lay", KINDS["tape.lay"].needs)
        if self.setup.trims and "tape.trim" not in self.state.did:
            self.take("tape.trim")
        while self.state.to_lay:
            self.take("tape.lay")


_BEADS_ON = conditions("first=on|seated", "last=on|seated")
_FILLS = frozenset({"air.step", "air.burst"})
_BLOCKS: dict[str, Callable[[_Planner], None]] = {
    "seat.steps": _Planner.seat_in_steps,
    "settle": _Planner.settle,
    "tape": _Planner.tape,
}

LINE_QUESTIONS = ("bead_line_low", "bead_line_low_again", "bead_line_low_last")
#: Actions that are questions wherever they are taken.
QUESTION_OF = {
    "rim.look": "spoke_end_through",
    "tape.keep_look": "tape_damaged",
    "tape.look": "tape_laid_badly",
    "tire.look": "tire_unsound",
    "tire.arrow": "arrow_not_confirmed",
    "tire.arrow_again": "arrow_not_confirmed_insert",
    "dry.test": "dry_test_leaks",
    "dry.stay": "beads_unseat",
    "sealant.look": "sealant_low",
    "repair.bead_look": "bead_leaks_on",
}


# -- what brings a fact about: the name of an action or a block, empty where nothing does ------------


def _air(planner: _Planner, wanted: tuple[str, ...]) -> str:
    state = planner.state
    if "flat" in wanted:
        return "strip.deflate" if planner._stage in _TAKES_OUT else "air.deflate"
    return "air.inflate" if state.seated and state.tube == "out" else "seat.steps"


def _last(planner: _Planner, wanted: tuple[str, ...]) -> str:
    state = planner.state
    if "off" in wanted:
        if state.last == "seated":
            return "bead.open_one" if planner.setup.one_bead else "strip.break_beads"
        return "bead.off_one" if planner.setup.one_bead else "strip.open_one"
    if state.last == "seated":  # only to be opened
        return "bead.open_one" if planner.setup.one_bead else "strip.break_beads"
    if "partial" in wanted and "on" not in wanted:
        return "bead.partial" if state.last == "off" else "bead.off_one"
    if state.last == "partial":
        return "bead.close" if state.sealant == "in" else "bead.off_one"
    if state.last == "off":
        return "bead.refit" if state.first == "seated" and state.valve == "in" else "bead.second"
    return "seat.steps"


def _first(planner: _Planner, wanted: tuple[str, ...]) -> str:
    if "off" in wanted:
        return "strip.break_beads" if planner.state.first == "seated" else "strip.tire_off"
    return "bead.first" if planner.state.first == "off" else "seat.steps"


def _bed(planner: _Planner, wanted: tuple[str, ...]) -> str:
    if "dirty" in wanted:
        return "strip.rim_strip_off"
    return "rim.clean" if "wet" in wanted else "rim.dry"


def _tape(planner: _Planner, wanted: tuple[str, ...]) -> str:
    tape = planner.state.tape
    if tape == "bad":
        return "strip.tape_off"
    return "tape.keep_look" if tape == "old" else "tape"


def _insert(planner: _Planner, wanted: tuple[str, ...]) -> str:
    if "on" in wanted:
        return "insert.on"
    return "strip.insert_out" if planner.setup.keeps_insert else "strip.old_insert_out"


def _valve(planner: _Planner, wanted: tuple[str, ...]) -> str:
    if planner.state.valve == "tube":
        return _tube(planner, wanted)
    return "strip.valve_out" if "none" in wanted else "valve.fit"


def _tube(planner: _Planner, wanted: tuple[str, ...]) -> str:
    if "in" in wanted and planner.state.tube == "out":
        return "tube.in"
    return "strip.tube_out" if planner._stage in _TAKES_OUT else "tube.out"


def _always(code: str) -> Callable[[_Planner, tuple[str, ...]], str]:
    return lambda planner, wanted: code


_WAYS: dict[str, Callable[[_Planner, tuple[str, ...]], str]] = {
    "air": _air,
    "core": lambda planner, wanted: "core.in" if "in" in wanted else "core.out",
    "first": _first,
    "last": _last,
    "bed": _bed,
    "rim": _always("rim.look"),
    "tape": _tape,
    "to_lay": _always("tape"),
    "to_cover": _always("tape"),
    "hole": _always("hole.open"),
    "valve": _valve,
    "insert": _insert,
    "tire": lambda planner, wanted: "tire.look" if "sound" in wanted else "tire.wipe",
    "arrow": _always("tire.arrow"),
    "arrow_again": _always("tire.arrow_again"),
    "tube": _tube,
    "line": _always("line.look"),
    "sealant": lambda planner, wanted: "strip.sealant_out" if "none" in wanted else "sealant.pour",
    "ports": _always(""),
    "has_insert": _always(""),
    "clear": _always("valve.top"),
    "stays": _always("dry.stay"),
    "injectable": _always("dry.stay"),
}


def may_go_before(state: WheelState, setup: Setup, step: Action, others: Sequence[Action]) -> bool:
    """Whether a step can be done before others that come first, and they all still remain then: not
    before what it needs, nor before one that counts as passed once later work is done.
    """
    if not others:
        return True
    passed = {goal.code for goal in goals_of(setup) if goal.once and not goal.unless}
    passed.add(step.code)  # of two strips the first one comes first
    if any(one.code in passed for one in others) or not all(map(state.holds, step.needs)):
        return False
    try:
        left = {todo.code for todo in achieve(perform(state, step.key), setup)}
    except NoWay:
        return False
    return left.issuperset(one.code for one in others)


class BrokenRecipe(Exception):
    """A procedure that breaks a physical rule: a bug of this program, never a wrong step on screen."""


def check(actions: Iterable[Action], start: WheelState, limit_kpa: float) -> WheelState:
    """Return the state a procedure ends in.

    Args:
        limit_kpa: no action may set more.

    Raises:
        BrokenRecipe: an action's needs do not hold, it sets more than the limit, or a question is
            asked twice.
    """
    state, asked = start, set()
    for item in actions:
        unmet = [condition for condition in item.needs if not state.holds(condition)]
        if unmet:
            raise BrokenRecipe(
                f"{item.key or item.code} needs {', '.join(map(str, unmet))}; the wheel is {state}"
            )
        if item.pressure_kpa > limit_kpa:
            raise BrokenRecipe(f"{item.key} sets {item.pressure_kpa:g} kPa above {limit_kpa:g}")
        if item.question in asked:
            raise BrokenRecipe(f"{item.key} asks {item.question} again")
        asked |= {item.question} if item.question else set()
        state = perform(state, item.key)
    return state
