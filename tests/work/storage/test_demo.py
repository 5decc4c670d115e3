from datetime import UTC, datetime

import pytest

from inner_rim.core.record.log import Attempt
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import METRIC
from inner_rim.work.storage.demo import demo_bench, demo_jobs, demo_opener
from inner_rim.work.text.card import text_card
from tests.desk import demo_on_bench

NOW = datetime(2026, 11, 24, 10, tzinfo=UTC)


@pytest.fixture(scope="module")
def bench():
    return demo_on_bench(NOW, shelf=False)


def test_every_job_file_of_the_demo_is_planned_by_the_command_line(capsys):
    from inner_rim.cli import main
    from inner_rim.work.storage.demo import FOLDER

    files = sorted(FOLDER.glob("*.json"))
    assert len(files) == len(demo_jobs()) >= 7
    for file, demo in zip(files, demo_jobs(), strict=True):
        stopped = "tern" in file.name
        assert main(["plan", str(file)]) == (1 if stopped else 0), file.name
        assert job_from_plain(demo.job).wheels[0].name in capsys.readouterr().out


def test_the_scenario_has_every_kind_of_wheel(bench):
    states = [wheel.progress.state for wheel in bench.wheels]
    assert {"to_do", "working", "problem", "stopped", "finished"} == set(states)
    diameters = {wheel.wheel.rim.bead_seat_diameter_mm for wheel in bench.wheels}
    assert diameters == {406, 559, 584, 622}
    assert {wheel.wheel.rim.hook for wheel in bench.wheels} == {"hooked", "straight_side"}
    assert any(wheel.wheel.tire.tubeless_ready is False for wheel in bench.wheels)


def test_the_logs_agree_with_the_plans(bench):
    for wheel in bench.wheels:
        for logged in wheel.log:
            if isinstance(logged.entry, Attempt):
                assert logged.entry.limit_kpa == wheel.plan.pressure.limit_kpa
                assert logged.entry.peak_kpa <= logged.entry.limit_kpa
            assert datetime.fromisoformat(logged.at) <= NOW


def test_every_wheel_prints_a_card(bench):
    for wheel in bench.wheels:
        card = text_card(wheel.plan, METRIC)
        assert card.startswith(wheel.name) and "Limit" in card and len(card.splitlines()) > 12


def test_the_demo_fills_a_database_of_its_own(tmp_path):
    state = demo_bench(NOW)
    repository = demo_opener(tmp_path / "demo.sqlite", state)()
    stored = repository.bench()
    repository.close()
    assert [(j.document, [e.entry for e in j.log]) for j in stored.jobs] == [
        (j.document, [e.entry for e in j.log]) for j in state.jobs
    ]
