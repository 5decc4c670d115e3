"""Wheels in progress under the version before milestones stand where they stood: nothing is undone by an update.

`tests/data/old_logs.json` was written by that version, step by step, for random parts, methods and kinds of work.
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
    assert progress.stage == case["stage"] and not plan.log.doubtful
    assert progress.state in ("working", "finished")
