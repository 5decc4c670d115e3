"""Odd times, a clock set back, an import while work goes on."""

from datetime import UTC, datetime, timedelta

import pytest

from inner_rim.core.record.log import StepEntry
from inner_rim.work.bench import Bench
from inner_rim.work.tasks.export import due_dates
from inner_rim.work.tasks.parts_files import PartsImport
from inner_rim.work.text.board import board_of
from inner_rim.work.text.wheel_words import head_lines
from tests.desk import check_in

NOW = datetime(2026, 11, 25, 12, 0, tzinfo=UTC)


def rows(bench):
    planned = bench.day.plan.now()
    return board_of(planned.day, planned.schedule).rows


@pytest.mark.parametrize(
    "due", ["0001-01-01", "9998-12-31T23:59", "9999-12-31T23:59:59+14:00", "0001-01-01T00:00-12:00"]
)
def test_a_due_date_at_the_ends_of_time_is_shown_and_never_a_fault(due):
    bench = Bench(clock=lambda: NOW)
    check_in(bench)
    bench.editor.type_into("due", due)
    bench.editor.type_into("ride.total_mass_kg", "80")
    assert rows(bench) and head_lines(bench.current)


def test_a_due_time_with_a_zone_is_the_same_moment_here():
    bench = Bench(clock=lambda: NOW)
    check_in(bench)
    lines = {}
    for due in ("2026-12-01T16:00+00:00", "2026-12-01T18:00+02:00"):
        bench.editor.type_into("due", due)
        lines[due] = [row.sentence for row in rows(bench)]
    assert lines["2026-12-01T16:00+00:00"] == lines["2026-12-01T18:00+02:00"]


@pytest.mark.parametrize("moved", [timedelta(hours=-5), timedelta(days=-400), timedelta(days=3000)])
def test_a_clock_that_is_set_elsewhere_keeps_log_waits_and_dates_in_order(moved):
    now = [NOW]
    bench = Bench(clock=lambda: now[0])
    check_in(bench)
    for stage in ("check_in", "strip"):
        bench.recorder.finish_stage(stage)
    bench.recorder.record(StepEntry(stage="strip", step="rim.dry"))
    now[0] += moved
    bench.recorder.finish_stage("tape")
    bench.recorder.read_gauge(200.0, 20.0)
    now[0] -= moved
    bench.recorder.read_gauge(190.0, None)
    assert [type(item.entry).__name__ for item in bench.current.log][-2:] == ["Reading", "Reading"]
    assert rows(bench) and due_dates(bench.wheels, bench.units) == []


def parts_file(tmp_path, count):
    file = tmp_path / "parts.csv"
    rows = "".join(f"tape,Ebb {n},3,27\n" for n in range(count))
    file.write_text("kind,name,stock,width_mm\n" + rows, encoding="utf-8")
    return file


def test_storing_goes_on_while_many_parts_are_imported(desk, tmp_path):
    one = desk()
    check_in(one.bench)
    one.settle()
    running = PartsImport(
        one.bench.shelf, one.worker, parts_file(tmp_path, 4000), one.bench.now(), lambda: None
    )
    running.start()
    noted = 0
    while not running.over:
        one.bench.recorder.note(f"note {noted}")
        noted += 1
        one.settle(seconds=30)
    one.settle(until=lambda: len(one.bench.shelf.items) == 4000)
    assert noted > 0 and len(one.bench.current.log) == noted
    assert all(item.number for item in one.bench.current.log)


def test_an_import_that_is_stopped_leaves_nothing(desk, tmp_path):
    one = desk()
    running = PartsImport(
        one.bench.shelf, one.worker, parts_file(tmp_path, 4000), one.bench.now(), lambda: None
    )
    running.start()
    running.stop()
    one.settle(until=lambda: running.over)
    one.bench.shelf.load()
    one.settle()
    assert "nothing was imported" in running.words and one.bench.shelf.items == ()
