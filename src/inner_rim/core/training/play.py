"""A play: the choices of an apprentice on a training wheel, what each showed, and what it took."""

from typing import NamedTuple

import msgspec

from inner_rim.core.training.course import Cost, Course, Rules, Seen
from inner_rim.core.training.faults import FACTS, LOOKS, Fault
from inner_rim.core.training.scenario import Scenario
from inner_rim.words import N_


class Move(NamedTuple):
    """A choice, what it showed, and what it took."""

    choice: str
    seen: Seen
    cost: Cost


class Play(msgspec.Struct, frozen=True):
    """A training wheel in the middle of its course; the faults that are left are hidden until the debrief."""

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


def choose(play: Play, rules: Rules, choice: str) -> Play:
    """Return the play after a choice.

    Raises:
        KeyError: it cannot be chosen now.
    """
    outcome = rules.apply(play.course, play.left, choice)
    move = Move(choice, outcome.seen, outcome.cost)
    return Play(play.scenario, outcome.course, outcome.left, (*play.moves, move))


#: What each choice is called.
CHOICE_WORDS: dict[str, str] = {
    "pump": N_("Pump"),
    "read": N_("Sealant in; read the gauge in the morning"),
    "temperature": N_("Read the air's temperature"),
    "soap": N_("Look for bubbles with soapy water"),
    "spin": N_("Add sealant and spin"),
    "retape": N_("Tape the rim again"),
    "hand_over": N_("Hand over"),
    **{f"look:{name}": look.title for name, look in LOOKS.items()},
    "skip:limit": N_("Go on without reading the limits"),
    "skip:old_sealant": N_("Go on without a look at the old sealant"),
    "skip:tape": N_("Go on without a look at the tape"),
    "skip:core": N_("Go on without trying the core"),
    "skip:valve": N_("Go on without trying the pump head"),
    "skip:arrow": N_("Go on without a look at the arrow"),
    "skip:insert": N_("Go on without a look at the insert"),
    "skip:line": N_("Go on without following the molded line"),
    "change:core_out": N_("Take the core out"),
    "change:wet": N_("Wet both beads all around"),
    "change:lift": N_("Lift the bead onto the shelf by hand"),
    "change:strap": N_("Put a strap around the tread"),
    "change:bigger_source": N_("Take the charge bottle"),
    "change:tube_first": N_("Seat it with a tube, then open one side"),
    "change:layer": N_("Add a layer of tape"),
}
#: What is seen and heard, besides the sights of single faults.
SEEN_WORDS: dict[str, str] = {
    "no_pressure": N_("Air hisses out all around; the gauge does not move."),
    "pressure": N_("Two pops; the pressure builds."),
    "blown": N_("The tire blows off the rim. Nobody was hurt: glasses on, face away, behind the wheel."),
    "holds": N_("It holds."),
    "fell": N_("The pressure has fallen."),
    "well": N_("The wheel does not come back."),
}


def seen_words(move: Move) -> tuple[str, ...]:
    """Return what a move showed, as texts to be translated."""
    kind, _, name = move.choice.partition(":")
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
