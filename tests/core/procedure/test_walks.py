"""Wheels worked at to the end while things go wrong: no rule of docs/job.md 1.2 is broken, and every one is finished.

`tools/campaign.py walks 20000` takes the same walks by the thousand.
"""

import pytest

from inner_rim.core.plan.wheel_plan import WheelPlanner, plan_wheel
from tests.core.procedure.walks import walk
from tests.samples import logged


@pytest.mark.parametrize("seed", range(6))
def test_every_walk_keeps_the_rules_and_reaches_its_goal(seed):
    for n in range(40):
        assert walk(1000 * seed + n)[0] == "finished"


@pytest.mark.parametrize("seed", range(3))
def test_a_plan_that_grows_with_its_log_is_the_plan_of_the_whole_log(seed):
    """Read entry by entry, taken back to any length, and read on from there."""
    _ended, one = walk(70_000 + seed)
    given, log = (one.wheel, one.job.ride, one.job.practice, one.job.shelf), logged(*one.entries)
    planner = WheelPlanner(*given)
    for count in (*range(len(log) + 1), len(log) // 2, *range(len(log) // 2, len(log) + 1)):
        assert planner.plan(log[:count]) == plan_wheel(*given, log[:count]), count
