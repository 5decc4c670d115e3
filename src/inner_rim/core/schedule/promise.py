"""A time that can be promised: the schedule simulated many times with scattered minutes, and the
time kept nine times in ten.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from random import Random

import msgspec

from inner_rim.core.record.job import parse_due
from inner_rim.core.record.log import Logged, Promised, SignOff
from inner_rim.core.record.moments import moment, naive_local
from inner_rim.core.schedule.day import Day, Schedule, pinned
from inner_rim.core.schedule.listing import SEED, placed_in_order, round_up


class Promise(msgspec.Struct, frozen=True):
    """When a wheel can be promised, and when it may be ready at the earliest."""

    sure: datetime
    early: datetime


class PromiseStats(msgspec.Struct, frozen=True):
    """How many promises were kept, of those whose time has come."""

    kept: int = 0
    given: int = 0


def promise_stats(logs: Iterable[Sequence[Logged]], now: datetime) -> PromiseStats:
    """Return how promises were kept.

    A promise is kept where the wheel was handed over by then. Of several for one visit the first
    one counts; one whose time has not come does not count yet.
    """
    kept = given = 0
    for log in logs:
        due: datetime | None = None
        for item in log:
            if isinstance(item.entry, Promised) and due is None:
                due = _clock(item.entry.due)
            elif isinstance(item.entry, SignOff) and due is not None:
                kept += naive_local(moment(item.at)) <= due
                given += 1
                due = None
        given += due is not None and due < now
    return PromiseStats(kept, given)


def _clock(text: str) -> datetime | None:
    due = parse_due(text)
    return naive_local(due) if due is not None else None


#: Share of the times that a promise is kept, and of those that it is beaten by "as early as".
SURE, EARLY = 0.9, 0.1
#: The prior of a stage's minutes: the built-in minutes, this spread of their logarithm (common
#: practice, no published source), and how many wheels it counts for.
SPREAD, WORTH = 0.35, 8.0
RUNS = 200
#: Spread of the logarithm of what a whole day is slower or faster, and how often seating has to be
#: done again, worth `WORTH` wheels (common practice, no published source).
DAY_SPREAD, AGAIN = 0.15, 0.15
#: No task takes a smaller or larger share of its minutes than this.
MIN_SHARE, MAX_SHARE = 0.2, 5.0
#: And no stage is repeated more often than this.
MAX_TIMES = 4


class Pace(msgspec.Struct, frozen=True):
    """How a stage's minutes scatter about the built-in ones: mean and spread of the logarithm of
    their ratio, and how often it is done again.
    """

    mean: float = 0.0
    spread: float = SPREAD
    again: float = 0.0


#: The usual pace of each stage that has one of its own.
USUAL_PACE = {"seat": Pace(again=AGAIN)}


def learn_paces(
    ratios: Mapping[str, Sequence[float]], seated: Sequence[bool] = ()
) -> dict[str, Pace]:
    """Return the pace of each stage from ratios of the minutes it took to the built-in ones.

    mean = sum(ln r) / (n + 8); spread^2 = (8 * 0.35^2 + sum((ln r - mean)^2)) / (n + 8);
    again = (8 * 0.15 + failed tries) / (n + 8).

    Args:
        ratios: by stage, positive; waits and interruptions are not in them.
        seated: of each try at seating, whether both beads seated.

    >>> learn_paces({"tape": [2.0] * 8})["tape"].mean == 0.5 * math.log(2.0)
    True

    Source: shrinkage of mean and variance toward a prior worth eight wheels; derived.
    """
    result = {}
    for stage, seen in ratios.items():
        logs = [math.log(ratio) for ratio in seen]
        mean = sum(logs) / (len(logs) + WORTH)
        square = WORTH * SPREAD**2 + sum((one - mean) ** 2 for one in logs)
        result[stage] = Pace(mean, math.sqrt(square / (len(logs) + WORTH)))
    if seated:
        again = (WORTH * AGAIN + seated.count(False)) / (WORTH + len(seated))
        result["seat"] = msgspec.structs.replace(result.get("seat", Pace()), again=again)
    return result


def simulate_day(
    day: Day, order: Sequence[tuple[int, int]], pace: Mapping[str, Pace], rng: Random
) -> tuple[int, ...]:
    """Return when each wheel is ready in one simulated day: the same order, scattered minutes.

    Every task of a day is slower or faster by a share of its own and one that all share; a stage
    that fails is done again. A pinned task begins no earlier than its time; later, where what comes
    before it takes longer.
    """
    usual, today = Pace(), rng.gauss(0.0, DAY_SPREAD)
    held = {place: one.start for place, one in pinned(day).items()}
    wheels = []
    for wheel in day.wheels:
        tasks = []
        for task in wheel.tasks:
            of_stage = pace.get(task.stage, USUAL_PACE.get(task.stage, usual))
            share = math.exp(rng.gauss(today + of_stage.mean, of_stage.spread))
            times = 1
            while times < MAX_TIMES and rng.random() < of_stage.again:
                times += 1
            minutes = round(task.minutes * times * min(max(share, MIN_SHARE), MAX_SHARE))
            tasks.append(msgspec.structs.replace(task, minutes=min(max(1, minutes), 1440)))
        wheels.append(msgspec.structs.replace(wheel, tasks=tuple(tasks), pins=()))
    played_day = msgspec.structs.replace(day, wheels=tuple(wheels))
    return placed_in_order(played_day, order, not_before=held).done


def promises(
    day: Day,
    schedule: Schedule,
    pace: Mapping[str, Pace] | None = None,
    runs: int = RUNS,
    together: Sequence[Sequence[int]] | None = None,
) -> tuple[Promise, ...]:
    """Return for each wheel the time that is kept nine times in ten, and that of one time in ten.

    The time is rounded up to the next ten minutes at which the shop is open: a wheel is picked up
    there.

    Args:
        pace: how minutes scatter, by stage; the usual spread where it says nothing.
        runs: how often the day is simulated.
        together: wheels of which all are promised for one time, by their places in the day; each
            alone where it is None.
    """
    rng = Random(SEED)
    order = [(one.wheel, one.task) for one in schedule.placed]
    ends = [simulate_day(day, order, pace or {}, rng) for _ in range(runs)]
    result = []
    for group in together if together is not None else [(w,) for w in range(len(day.wheels))]:
        done = sorted(max(end[w] for w in group) for end in ends)

        def at(place: float, done: list[int] = done) -> datetime:
            return day.hours.next_open(
                round_up(day.at(done[max(0, min(len(done), math.ceil(place)) - 1)]))
            )

        # a standard error later than nine in ten: a few runs may flatter a wheel
        sure = SURE * runs + math.sqrt(SURE * (1.0 - SURE) * runs)
        result.append(Promise(at(sure), at(EARLY * runs)))
    return tuple(result)
