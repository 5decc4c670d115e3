"""The jobs of `tools/jobs.py` read as they were last read whole, and all come to their end or to a stop that says why."""

from pathlib import Path

import pytest
from tools.jobs import JOBS, Reader

READ = (Path(__file__).parents[2] / "data" / "jobs.txt").read_text(encoding="utf-8")


@pytest.mark.parametrize("name", JOBS)
def test_a_job_reads_as_it_was_read(name, capsys):
    Reader(*JOBS[name]).read()
    said = capsys.readouterr().out
    assert said.rstrip().endswith(("signs off.", "Set 2.40 bar", "your name")) or "STOP" in said
    assert said.rstrip() == READ.split(f"{name.upper()}\n")[1].split("\n\n")[0].rstrip()
