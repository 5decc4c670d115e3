"""From an empty bench to handed over in a real window, by keyboard alone and by mouse alone, counting what it takes."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from inner_rim.core.record.log import Attempt, Dose, SignOff
from inner_rim.store.snapshot import snapshot
from tests.desktop.real_window import needs, screen

ROOT = Path(__file__).parents[2]


@pytest.mark.real_window
@pytest.mark.parametrize("by", ["keyboard", "mouse", "gloves"])
def test_a_first_wheel_is_planned_and_handed_over(own_home, by):
    needs("Xvfb", "xdotool")
    with screen(own_home) as env:
        done = subprocess.run(
            [sys.executable, "tests/desktop/whole_job.py", by, str(own_home)],
            env={**env, "PYTHONPATH": f"{ROOT}:{env.get('PYTHONPATH', '')}"},
            cwd=ROOT, capture_output=True, text=True, timeout=240,
        )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr[-2000:]
    result = json.loads(done.stdout.splitlines()[-1])
    planned, checked, everything = result["planned"], result["checked"], result["all"]
    if by == "keyboard":
        # besides the letters of the figures
        assert planned["keys"] <= 8 and checked["keys"] <= 20, result
        # only waits are skipped by a click
        assert everything.get("clicks", 0) <= 4 and everything["keys"] <= 60
    else:
        assert (
            "keys" not in everything and checked["clicks"] <= 20 and everything["clicks"] <= 60
        ), result
    assert result["finished"] == "finished"
    # the same in the data, read by another process
    job = snapshot(own_home / "inner-rim.sqlite").jobs[0]
    entries = [item.entry for item in job.log]
    limit = result["limit_kpa"]
    assert job.document["wheels"][0]["tire"]["size"] == "45-622"
    tries = [entry for entry in entries if isinstance(entry, Attempt)]
    assert tries and all(entry.peak_kpa <= limit for entry in tries)
    assert sum(isinstance(entry, Dose) for entry in entries) >= 1
    signed = [entry for entry in entries if isinstance(entry, SignOff)]
    assert len(signed) == 1 and signed[0].by == "M Osier" and signed[0].pressure_kpa <= limit
