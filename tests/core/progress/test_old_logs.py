"""Wheels in progress under versions before stand where they stood: nothing is undone by an update.

`tests/data/old_logs.json` was written by them, step by step, for random parts, methods and kinds of work: the first
60 before milestones, the others, with the step that was next, before inserts that stay on and overlays by strips.
"""

import json
from pathlib import Path

import msgspec
import pytest

from inner_rim.core.record.log import AnyEntry
from tests.samples import planned_after

CASES = json.loads(
    (Path(__file__).parents[2] / "data" / "old_logs.json").read_text(encoding="utf-8")
)


@pytest.mark.parametrize("case", CASES, ids=range(len(CASES)))
def test_a_wheel_in_progress_stands_where_it_stood(case):
    plan, progress = planned_after(*msgspec.convert(case["log"], list[AnyEntry]), **case["changes"])
    assert not plan.log.doubtful
    if "next" in case:
        assert (plan.steps[0].stage, plan.steps[0].code) == (case["stage"], case["next"])
    else:
        assert progress.stage == case["stage"] and progress.state in ("working", "finished")
