"""The best sequence: the choices with the least expected minutes for what could be known (docs/models.md 2.12).

A belief is what is still possible: every combination of faults that agrees with all that was seen, with its share.
V(belief) = min over choices of sum over sights of share * (minutes + V(belief after the sight)), from the end
backward; beliefs that are alike are solved once. Exact, as a scenario has few suspects. A look that safety asks for is
taken whatever the odds, and no wheel is handed over that is known to lose air.
"""

from collections import defaultdict
from typing import NamedTuple

from inner_rim.core.training.course import Course, Rules, Seen
from inner_rim.core.training.faults import LOOKS, Fault
from inner_rim.core.training.scenario import Scenario

#: (faults that are left, share) of everything that is possible, in a fixed order.
Belief = tuple[tuple[frozenset[Fault], float], ...]


class Value(NamedTuple):
    """The least expected minutes from here on, and the choice that gives them."""

    minutes: float
    choice: str


def belief_of(scenario: Scenario) -> Belief:
    """Return what is possible before anything is seen."""
    return _merged(scenario.hypotheses)


class Solver:
    """Finds the best choice of a scenario for any belief; what was solved is kept."""

    def __init__(self, scenario: Scenario) -> None:
        self.rules = Rules(scenario)
        self._solved: dict[tuple[Course, Belief], Value] = {}

    def allowed(self, course: Course, belief: Belief) -> tuple[str, ...]:
        result = self.rules.choices(course)
        if course.phase in ("looks", "line"):
            name = result[0].partition(":")[2]
            return result[:1] if LOOKS[name].safety else result
        if course.phase == "test" and course.reading == "fell":
            return tuple(one for one in result if one != "hand_over") or result
        if course.phase == "test" and course.reading == "holds":
            return ("hand_over",)
        return result

    def after(self, course: Course, belief: Belief, choice: str) -> dict[tuple[Course, Seen], tuple[float, Belief]]:
        """Return, by what may be seen, the expected minutes of the choice and the belief after it, not scaled."""
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
            return Value(0.0, "")
        key = (course, belief)
        known = self._solved.get(key)
        if known is None:
            known = min(
                (Value(self.cost_of(course, belief, choice), choice) for choice in self._worth(course, belief)),
                key=lambda value: value.minutes,
            )
            self._solved[key] = known
        return known

    def _worth(self, course: Course, belief: Belief) -> tuple[str, ...]:
        """The allowed choices except those that show nothing and change nothing, which would loop."""
        if course.phase == "seat" and all(self.rules.builds(left, course.used) for left, _share in belief):
            return ("pump",)  # no change helps any more
        result = []
        for choice in self.allowed(course, belief):
            after = self.after(course, belief, choice)
            if list(after) == [(course, next(iter(after))[1])] and next(iter(after.values()))[1] == belief:
                continue
            if choice in ("spin", "retape") and len(after) == 1:
                ((there, _seen), (_minutes, then)) = next(iter(after.items()))
                if then == belief and there.reading == course.reading:
                    continue
            result.append(choice)
        return tuple(result) or ("hand_over",)

    def cost_of(self, course: Course, belief: Belief, choice: str) -> float:
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
