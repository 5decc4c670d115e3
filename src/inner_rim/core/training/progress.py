"""An apprentice's progress: results by kind of fault, what is forgotten, what to practice next."""

from collections.abc import Iterable, Sequence
from datetime import datetime

import msgspec

from inner_rim.core.training.debrief import Debrief
from inner_rim.core.training.faults import FAULTS, Fault

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
        who, at, said.scenario, said.caught, said.late, said.minutes, said.best_min, said.lost_min, said.over_limit
    )


def skills(results: Iterable[Result], now: datetime) -> tuple[Skill, ...]:
    """Return the skill for each kind of fault, the weakest first.

    share = (1 + sum of w over caught) / (2 + sum of w over all), w = 0.5^(days since / 60): a Beta mean whose evidence
    fades, so that what was not met for long counts as unknown again.
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
    result = (Skill(fault, (1.0 + caught[fault]) / (2.0 + met[fault]), count[fault]) for fault in FAULTS)
    return tuple(sorted(result, key=lambda skill: (skill.share, FAULTS.index(skill.fault))))


def practice_next(results: Sequence[Result], now: datetime) -> tuple[Fault, ...]:
    """Return the faults to practice next, the weakest first."""
    return tuple(skill.fault for skill in skills(results, now) if skill.share < 0.75)
