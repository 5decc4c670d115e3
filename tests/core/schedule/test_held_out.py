"""Days that no rule was made on, against an independent CP-SAT model that looked for 60 s (benchmarks/held_out.py)."""

import json
import threading
import time

import pytest
from benchmarks.held_out import FILE, day_of

from inner_rim.core.schedule.day import faults
from inner_rim.core.schedule.solver import improve, searching

REFERENCE = json.loads(FILE.read_text())


@pytest.mark.parametrize("seed", [0, 5, 12, 30])
def test_a_day_of_twelve_wheels_is_planned_within_5_percent_of_the_reference_and_alike_each_time(
    seed,
):
    cost, bound = REFERENCE[seed]
    day = day_of(seed)
    result = improve(day, effort=1.0)
    assert faults(day, result) == []
    assert bound <= result.cost <= 1.05 * cost and result.bound <= cost
    again = improve(day, effort=1.0)
    assert again.placed == result.placed and again.bound == result.bound


@pytest.mark.parametrize("seed", range(100, 103))
def test_a_small_day_is_proven(seed):
    assert improve(day_of(seed, 4), effort=3.0).gap == 0.0


def test_a_longer_search_begins_like_a_shorter_one_and_never_gets_worse():
    day = day_of(30)
    short = [(round(spent, 6), best.cost) for spent, best in searching(day, effort=0.3)]
    longer = [(round(spent, 6), best.cost) for spent, best in searching(day, effort=1.0)]
    assert longer[: len(short)] == short
    costs = [cost for _spent, cost in longer]
    assert costs == sorted(costs, reverse=True)


def test_a_search_that_is_overtaken_stops_at_once():
    """Counted from the word to the end: 50 ms is the goal; the bound leaves room for a busy machine."""
    wanted, ended = threading.Event(), []
    wanted.set()

    def search():
        improve(day_of(4), effort=60.0, go_on=wanted.is_set)
        ended.append(time.perf_counter())

    thread = threading.Thread(target=search)
    thread.start()
    thread.join(2.0)  # well within the rounds
    assert thread.is_alive()
    said = time.perf_counter()
    wanted.clear()
    thread.join(10.0)
    assert not thread.is_alive() and ended[0] - said < 1.0
