"""A play: the choices of an apprentice on a training wheel, what each showed and took; and the best
sequence.
"""

from collections import defaultdict
from typing import NamedTuple

import msgspec

from inner_rim.core.training.course import HAND_OVER, PUMP, Choice, Cost, Course, Rules, Seen
from inner_rim.core.training.scenario import FACTS, LOOKS, Fault, Scenario
from inner_rim.words import N_


class Move(NamedTuple):
    """A choice, what it showed, and what it took."""

    choice: Choice
    seen: Seen
    cost: Cost


class Play(msgspec.Struct, frozen=True):
    """A training wheel in the middle of its course; the faults that are left are hidden until the
    debrief.
    """

    scenario: Scenario
    course: Course
    left: frozenset[Fault]
    moves: tuple[Move, ...] = ()

    @property
    def cost(self) -> Cost:
        total = Cost()
        for move in self.moves:
            total = total.plus(move.cost)
        return total

    @property
    def over(self) -> bool:
        return self.course.phase == "done"


def begin(scenario: Scenario) -> Play:
    """Return a play of a scenario that has not begun."""
    return Play(scenario, Rules(scenario).start(), frozenset(scenario.faults))


def choose(play: Play, rules: Rules, choice: Choice) -> Play:
    """Return the play after a choice.

    Raises:
        KeyError: it cannot be chosen now.
    """
    outcome = rules.apply(play.course, play.left, choice)
    move = Move(choice, outcome.seen, outcome.cost)
    return Play(play.scenario, outcome.course, outcome.left, (*play.moves, move))


#: What each choice is called.
CHOICE_WORDS: dict[Choice, str] = {
    Choice("pump"): N_("Pump"),
    Choice("read"): N_("Sealant in; read the gauge in the morning"),
    Choice("temperature"): N_("Read the air's temperature"),
    Choice("soap"): N_("Look for bubbles with soapy water"),
    Choice("spin"): N_("Add sealant and spin"),
    Choice("retape"): N_("Tape the rim again"),
    Choice("hand_over"): N_("Hand over"),
    **{Choice("look", name): look.title for name, look in LOOKS.items()},
    Choice("skip", "limit"): N_("Go on without reading the limits"),
    Choice("skip", "old_sealant"): N_("Go on without a look at the old sealant"),
    Choice("skip", "tape"): N_("Go on without a look at the tape"),
    Choice("skip", "core"): N_("Go on without trying the core"),
    Choice("skip", "valve"): N_("Go on without trying the pump head"),
    Choice("skip", "arrow"): N_("Go on without a look at the arrow"),
    Choice("skip", "insert"): N_("Go on without a look at the insert"),
    Choice("skip", "line"): N_("Go on without following the molded line"),
    Choice("change", "core_out"): N_("Take the core out"),
    Choice("change", "wet"): N_("Wet both beads all around"),
    Choice("change", "lift"): N_("Lift the bead onto the shelf by hand"),
    Choice("change", "strap"): N_("Put a strap around the tread"),
    Choice("change", "bigger_source"): N_("Take the charge bottle"),
    Choice("change", "tube_first"): N_("Seat it with a tube, then open one side"),
    Choice("change", "layer"): N_("Add a layer of tape"),
}
#: What is seen and heard, besides the sights of single faults.
SEEN_WORDS: dict[str, str] = {
    "no_pressure": N_("Air hisses out all around; the gauge does not move."),
    "pressure": N_("Two pops; the pressure builds."),
    "blown": N_(
        "The tire blows off the rim. Nobody was hurt: glasses on, face away, behind the wheel."
    ),
    "holds": N_("It holds."),
    "fell": N_("The pressure has fallen."),
    "well": N_("The wheel does not come back."),
}


def seen_words(move: Move) -> tuple[str, ...]:
    """Return what a move showed, as texts to be translated."""
    kind, name = move.choice
    if kind == "look" and move.seen == ("clear",):
        return (LOOKS[name].clear,)
    if move.seen == ("clear",):
        return (CLEAR_WORDS[kind],)
    if kind == "hand_over":
        return tuple(FACTS[one].truth if one in FACTS else SEEN_WORDS[one] for one in move.seen)
    return tuple(SEEN_WORDS[one] if one in SEEN_WORDS else FACTS[one].seen for one in move.seen)  # type: ignore[index]


CLEAR_WORDS: dict[str, str] = {
    "temperature": N_("The shop is as warm as when it was pumped up: that does not explain it."),
    "soap": N_("No bubbles anywhere."),
}


#: (faults that are left, share) of everything that is possible, in a fixed order.
Belief = tuple[tuple[frozenset[Fault], float], ...]


class Value(NamedTuple):
    """The least expected minutes from here on, and the choice that gives them."""

    minutes: float
    choice: Choice


def belief_of(scenario: Scenario) -> Belief:
    """Return what is possible before anything is seen."""
    return _merged(scenario.hypotheses)


class Solver:
    """Finds the best choice of a scenario for any belief; what was solved is kept."""

    def __init__(self, scenario: Scenario) -> None:
        self.rules = Rules(scenario)
        self._solved: dict[tuple[Course, Belief], Value] = {}

    def allowed(self, course: Course, belief: Belief) -> tuple[Choice, ...]:
        result = self.rules.choices(course)
        if course.phase in ("looks", "line"):
            return result[:1] if LOOKS[result[0].name].safety else result
        if course.phase == "test" and course.reading == "fell":
            return tuple(one for one in result if one != HAND_OVER) or result
        if course.phase == "test" and course.reading == "holds":
            return (HAND_OVER,)
        return result

    def after(
        self, course: Course, belief: Belief, choice: Choice
    ) -> dict[tuple[Course, Seen], tuple[float, Belief]]:
        """Return, by what may be seen, the expected minutes of the choice and the belief after it,
        not scaled.
        """
        split: dict[tuple[Course, Seen], list[tuple[frozenset[Fault], float]]] = defaultdict(list)
        minutes: dict[tuple[Course, Seen], float] = defaultdict(float)
        for left, share in belief:
            outcome = self.rules.apply(course, left, choice)
            key = (outcome.course, outcome.seen)
            split[key].append((outcome.left, share))
            minutes[key] += share * outcome.cost.minutes
        return {key: (minutes[key], _merged(tuple(some))) for key, some in split.items()}

    def value(self, course: Course, belief: Belief) -> Value:
        """Return the best choice, and the least expected minutes from here on."""
        if course.phase == "done":
            return Value(0.0, HAND_OVER)
        key = (course, belief)
        known = self._solved.get(key)
        if known is None:
            known = min(
                (
                    Value(self.cost_of(course, belief, choice), choice)
                    for choice in self._worth(course, belief)
                ),
                key=lambda value: value.minutes,
            )
            self._solved[key] = known
        return known

    def _worth(self, course: Course, belief: Belief) -> tuple[Choice, ...]:
        """The allowed choices except those that show nothing and change nothing, which would loop."""
        if course.phase == "seat" and all(
            self.rules.builds(left, course.used) for left, _share in belief
        ):
            return (PUMP,)  # no change helps any more
        result = []
        for choice in self.allowed(course, belief):
            after = self.after(course, belief, choice)
            if (
                list(after) == [(course, next(iter(after))[1])]
                and next(iter(after.values()))[1] == belief
            ):
                continue
            if choice.kind in ("spin", "retape") and len(after) == 1:
                ((there, _seen), (_minutes, then)) = next(iter(after.items()))
                if then == belief and there.reading == course.reading:
                    continue
            result.append(choice)
        return tuple(result) or (HAND_OVER,)

    def cost_of(self, course: Course, belief: Belief, choice: Choice) -> float:
        """Return the expected minutes of a choice and of the best choices after it."""
        total = sum(share for _left, share in belief)
        result = 0.0
        for (there, _seen), (minutes, then) in self.after(course, belief, choice).items():
            share = sum(one for _left, one in then)
            result += minutes + share * self.value(there, _scaled(then)).minutes
        return result / total


def _merged(some: tuple[tuple[frozenset[Fault], float], ...]) -> Belief:
    """Merge equal combinations, in a fixed order, so that equal beliefs compare equal."""
    shares: dict[frozenset[Fault], float] = defaultdict(float)
    for left, share in some:
        shares[left] += share
    return tuple(sorted(shares.items(), key=lambda item: sorted(item[0])))


def _scaled(belief: Belief) -> Belief:
    total = sum(share for _left, share in belief)
    return tuple((left, round(share / total, 12)) for left, share in belief)
