"""The debrief: the truth, each choice against the best one for what was known then; and what is
kept of it.
"""

from collections.abc import Iterable, Sequence
from datetime import datetime

import msgspec

from inner_rim.core.training.course import PUMP, Choice
from inner_rim.core.training.play import (
    CHOICE_WORDS,
    Belief,
    Play,
    Solver,
    begin,
    belief_of,
    choose,
    seen_words,
)
from inner_rim.core.training.scenario import FACTS, FAULTS, Fault, Scenario
from inner_rim.words import N_

#: A choice that costs no more than this against the best one counts as good, minutes.
GOOD_MIN = 0.5
#: Choices after which a policy is stopped: none needs this many.
MAX_CHOICES = 60


class ChoiceJudged(msgspec.Struct, frozen=True):
    """A choice of the timeline.

    Attributes:
        suspects: what was still possible before it, and how likely, the likeliest first.
        best: the choice with the least expected minutes for what was known then.
        lost_min: expected minutes that it costs against that one.
        told: what it showed.
    """

    choice: Choice
    words: str
    suspects: tuple[tuple[Fault, float], ...]
    best: Choice
    best_words: str
    lost_min: float
    minutes: float
    tape_mm: float
    sealant_ml: float
    told: tuple[str, ...]


class Debrief(msgspec.Struct, frozen=True):
    """The debrief of a play.

    Attributes:
        truth: what was wrong.
        caught, late: faults that were fixed in time, and those that showed later.
        skipped: looks that were not taken.
        over_limit: the wheel went above its limit.
        best_min: what the best sequence takes on this wheel.
        lesson: one sentence to take along.
    """

    scenario: str
    truth: tuple[Fault, ...]
    timeline: tuple[ChoiceJudged, ...]
    minutes: float
    tape_mm: float
    sealant_ml: float
    best_min: float
    lost_min: float
    caught: tuple[Fault, ...]
    late: tuple[Fault, ...]
    skipped: tuple[str, ...]
    over_limit: bool
    lesson: str
    finished: bool


WELL_DONE = N_("Nothing was lost: every look was taken when it could still tell something.")


def debrief(play: Play, solver: Solver | None = None) -> Debrief:
    solver = solver or Solver(play.scenario)
    timeline = tuple(_timeline(play, solver))
    late = tuple(sorted(_late(play)))
    caught = tuple(
        fault
        for fault in sorted(play.scenario.faults)
        if fault not in late and fault not in play.left
    )
    worst = max(timeline, key=lambda choice: choice.lost_min, default=None)
    cost = play.cost
    return Debrief(
        scenario=play.scenario.id,
        truth=tuple(sorted(play.scenario.faults)),
        timeline=timeline,
        minutes=cost.minutes,
        tape_mm=cost.tape_mm,
        sealant_ml=cost.sealant_ml,
        best_min=best_play(play.scenario, solver).cost.minutes,
        lost_min=sum(choice.lost_min for choice in timeline),
        caught=caught,
        late=late,
        skipped=tuple(move.choice.name for move in play.moves if move.choice.kind == "skip"),
        over_limit=play.course.end == "blown",
        lesson=_lesson(play, late, worst),
        finished=play.over,
    )


def best_play(scenario: Scenario, solver: Solver) -> Play:
    """Return the play of the best sequence on this wheel."""
    play, belief = begin(scenario), belief_of(scenario)
    while not play.over and len(play.moves) < MAX_CHOICES:
        choice = solver.value(play.course, belief).choice
        play, belief = _onward(play, belief, solver, choice)
    return play


def _onward(play: Play, belief: Belief, solver: Solver, choice: Choice) -> tuple[Play, Belief]:
    after = choose(play, solver.rules, choice)
    sights = solver.after(play.course, belief, choice)
    then = sights.get((after.course, after.moves[-1].seen))
    if then is None:  # outside the suspects, which a scenario's check rules out
        return after, belief
    total = sum(share for _left, share in then[1])
    return after, tuple((left, round(share / total, 12)) for left, share in then[1])


def _timeline(play: Play, solver: Solver) -> list[ChoiceJudged]:
    result = []
    now, belief = begin(play.scenario), belief_of(play.scenario)
    for move in play.moves:
        best = solver.value(now.course, belief)
        lost = max(0.0, solver.cost_of(now.course, belief, move.choice) - best.minutes)
        result.append(
            ChoiceJudged(
                choice=move.choice,
                words=CHOICE_WORDS[move.choice],
                suspects=_suspects(belief),
                best=best.choice,
                best_words=CHOICE_WORDS[best.choice],
                lost_min=lost,
                minutes=move.cost.minutes,
                tape_mm=move.cost.tape_mm,
                sealant_ml=move.cost.sealant_ml,
                told=seen_words(move),
            )
        )
        now, belief = _onward(now, belief, solver, move.choice)
    return result


def _suspects(belief: Belief) -> tuple[tuple[Fault, float], ...]:
    total = sum(share for _left, share in belief)
    odds: dict[Fault, float] = {}
    for left, share in belief:
        for fault in left:
            odds[fault] = odds.get(fault, 0.0) + share / total
    return tuple(sorted(odds.items(), key=lambda item: (-item[1], item[0])))


def _late(play: Play) -> set[Fault]:
    """Faults that showed where they cost more than where they could have been seen."""
    late: set[Fault] = {fault for fault in play.left if play.over and FACTS[fault].late_min}
    for move in play.moves:
        if move.choice == PUMP:
            late |= {fault for fault in move.seen if fault in FACTS}
        if move.choice.kind == "retape":
            late |= {
                fault for fault in play.scenario.faults if fault in ("tape_narrow", "tape_lifted")
            } - play.left
    return late


def _lesson(play: Play, late: tuple[Fault, ...], worst: ChoiceJudged | None) -> str:
    if late:
        return FACTS[max(late, key=lambda fault: FACTS[fault].late_min)].lesson
    if worst is not None and worst.lost_min > GOOD_MIN:
        return LESSONS.get(worst.choice.kind, WELL_DONE)
    return WELL_DONE


LESSONS: dict[str, str] = {
    "pump": FACTS["loose_gap"].lesson,
    "change": N_(
        "Take the change that helps most for the minute it takes, not the next one on the list."
    ),
    "temperature": FACTS["cold_night"].lesson,
    "soap": N_("Soapy water takes three minutes and says where; a remedy without it is a guess."),
    "spin": FACTS["porous"].lesson,
    "retape": FACTS["nipple"].lesson,
    "look": N_("A look pays where something is likely, or where it is dangerous."),
    "skip": N_("The minute that a look takes is the cheapest minute of the job."),
    "hand_over": N_("A wheel that loses air is not handed over."),
}


#: Days after which half of what was learned is forgotten (common practice, no published source).
HALF_LIFE_DAYS = 60.0


class Result(msgspec.Struct, frozen=True):
    """A training wheel that was finished.

    Attributes:
        lost_min: expected minutes lost against the best sequence.
    """

    who: str
    at: datetime
    scenario: str
    caught: tuple[Fault, ...]
    late: tuple[Fault, ...]
    minutes: float
    best_min: float
    lost_min: float
    over_limit: bool


class Skill(msgspec.Struct, frozen=True):
    """How an apprentice does with a kind of fault.

    Attributes:
        share: expected share that is caught in time, with what was forgotten.
        seen: how often it was met.
    """

    fault: Fault
    share: float
    seen: int


def result_of(who: str, at: datetime, said: Debrief) -> Result:
    return Result(
        who,
        at,
        said.scenario,
        said.caught,
        said.late,
        said.minutes,
        said.best_min,
        said.lost_min,
        said.over_limit,
    )


def skills(results: Iterable[Result], now: datetime) -> tuple[Skill, ...]:
    """Return the skill for each kind of fault, the weakest first.

    share = (1 + sum of w over caught) / (2 + sum of w over all), w = 0.5^(days since / 60): a Beta
    mean whose evidence fades, so that what was not met for long counts as unknown again.
    """
    caught: dict[Fault, float] = dict.fromkeys(FAULTS, 0.0)
    met: dict[Fault, float] = dict.fromkeys(FAULTS, 0.0)
    count: dict[Fault, int] = dict.fromkeys(FAULTS, 0)
    for one in results:
        weight = 0.5 ** (max(0.0, (now - one.at).total_seconds()) / 86400.0 / HALF_LIFE_DAYS)
        for fault in (*one.caught, *one.late):
            caught[fault] += weight * (fault in one.caught)
            met[fault] += weight
            count[fault] += 1
    result = (
        Skill(fault, (1.0 + caught[fault]) / (2.0 + met[fault]), count[fault]) for fault in FAULTS
    )
    return tuple(sorted(result, key=lambda skill: (skill.share, FAULTS.index(skill.fault))))


def practice_next(results: Sequence[Result], now: datetime) -> tuple[Fault, ...]:
    """Return the faults to practice next, the weakest first."""
    return tuple(skill.fault for skill in skills(results, now) if skill.share < 0.75)
