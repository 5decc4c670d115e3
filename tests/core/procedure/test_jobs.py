"""The jobs of `tools/jobs.py` all come to their end, or to a stop that says why; what they read like is for a mechanic to say."""

import pytest
from tools.jobs import JOBS, Reader


@pytest.mark.parametrize("name", JOBS)
def test_a_job_comes_to_its_end_or_to_a_stop(name, capsys):
    Reader(*JOBS[name]).read()
    said = capsys.readouterr().out
    assert said.rstrip().endswith(("signs off.", "Set 2.40 bar", "your name")) or "STOP" in said, (
        said[-300:]
    )


def test_all_twenty_seven_are_there():
    assert len(JOBS) == 27
