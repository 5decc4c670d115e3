"""`plan JOB.json --after LOG.json`: what remains, from the log as the program exports it."""

import json

import pytest

from inner_rim.cli import main
from inner_rim.core.record.log import Attempt, Finding, StepEntry
from inner_rim.work.tasks.exchange import job_file, pretty
from tests.desk import check_in


@pytest.fixture
def remains(desk, tmp_path, capsys):
    """Returns the plan that remains after entries, and the exit status."""

    def after(*entries):
        one = desk()
        check_in(one.bench)
        one.bench.editor.type_into("practice.sealant_route", "inject")
        for entry in entries:
            one.bench.recorder.record(entry)
        one.settle()
        job = one.bench.current.job
        files = [tmp_path / "job.json", tmp_path / "log.json"]
        files[0].write_bytes(pretty(job.draft.document))
        files[1].write_bytes(pretty(job_file(job.job_id, job.draft.document, {}, False, job.log)))
        status = main(["plan", str(files[0]), "--after", str(files[1]), "--json"])
        (wheel,) = json.loads(capsys.readouterr().out)["wheels"]
        return wheel, status, one.bench.current

    return after


def stages(*names):
    return [StepEntry(stage=name) for name in names]


def test_what_is_done_is_left_out_and_the_next_step_is_the_window_s(remains):
    wheel, status, state = remains(
        *stages("check_in", "strip"), StepEntry(stage="tape", step="tape.lay")
    )
    codes = [step["code"] for step in wheel["steps"]]
    assert status == 0 and codes[0] == "tape.press" == state.progress.step.code
    assert "strip.tire_off" not in codes and codes[-1] == "set.sign"
    assert wheel["minutes_hands"] == sum(step["minutes"] for step in wheel["steps"])


def test_beads_that_are_up_need_no_pressure_steps_and_settle_where_they_came_up(remains):
    up = Attempt(peak_kpa=285, outcome="both_up", limit_kpa=340)
    wheel, _status, _state = remains(*stages("check_in", "strip", "tape", "valve", "mount"), up)
    assert not [step for step in wheel["steps"] if step["code"] in ("air.step", "bead.wet")]
    assert wheel["pressure"]["settle_kpa"] == 280


def test_a_layer_is_what_remains_after_beads_that_fall_off(remains):
    up = Attempt(peak_kpa=280, outcome="both_up", limit_kpa=340)
    wheel, status, _state = remains(
        *stages("check_in", "strip", "tape", "valve", "mount"),
        up,
        Finding(check="beads_unseat", sound=False),
    )
    assert status == 1 and wheel["stops"][0]["code"] == "beads_unseat"
    again = StepEntry(stage="tape", outcome="again", step="layer")
    wheel, status, _state = remains(
        *stages("check_in", "strip", "tape", "valve", "mount"), up, again
    )
    codes = [step["code"] for step in wheel["steps"]]
    assert status == 0 and codes.count("tape.lay") == 1 and "strip.tape_off" not in codes


def test_a_file_without_a_log_is_refused_in_one_line(tmp_path, capsys):
    bad = tmp_path / "practice.json"
    bad.write_text('{"format":"inner-rim/practice","settings":{}}', encoding="utf-8")
    assert main(["plan", str(bad), "--after", str(bad)]) == 2
    assert main(["plan", str(bad), str(bad), "--after", str(bad)]) == 2
    assert capsys.readouterr().err.count("\n") == 2
