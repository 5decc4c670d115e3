"""Wheels worked at to the end while things go wrong: no rule of docs/job.md 1.2 is broken, and every one is finished.

`tools/campaign.py walks 20000` takes the same walks by the thousand.
"""

import pytest

from tests.core.procedure.walks import walk


@pytest.mark.parametrize("seed", range(6))
def test_every_walk_keeps_the_rules_and_reaches_its_goal(seed):
    for n in range(40):
        assert walk(1000 * seed + n)[0] == "finished"
