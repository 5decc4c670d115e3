"""Work that goes out into files and comes back: in its order, whole, counted; what cannot be read is refused."""

import csv
import json
import re
from datetime import UTC, datetime

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.log import Logged, Note, StepEntry
from inner_rim.core.record.paths import new_id
from inner_rim.core.training.debrief import Result
from inner_rim.documents.csv_text import json_cell
from inner_rim.store.database import sqlite_url
from inner_rim.store.errors import StoreRefused
from inner_rim.store.repository import Repository
from inner_rim.work.bench import as_file
from inner_rim.work.tasks.exchange import import_files, practice_file, pretty
from inner_rim.work.tasks.scenarios import keep_result, read_results, results_csv
from inner_rim.work.training_book import TrainingBook
from tests.desk import check_in
from tests.samples import ordinary, stored


@pytest.fixture
def empty(tmp_path):
    store = Repository(sqlite_url(tmp_path / "other.sqlite"))
    yield store
    store.close()


def with_log(log=(), job_id="job-1", **more):
    return {
        "format": "inner-rim/job-with-log",
        "version": 2,
        "job_id": job_id,
        "job": stored(),
        "log": list(log),
        **more,
    }


def imported(store, tmp_path, *documents, **more):
    files = []
    for n, document in enumerate(documents):
        files.append(tmp_path / f"in-{n}.json")
        files[-1].write_text(json.dumps(document), encoding="utf-8")
    return import_files(store, files, **more)


def test_a_rescue_file_tells_the_same_story(desk, empty, tmp_path):
    """Stored entries have numbers, those that are not stored have none: the order is that of the log."""
    one = desk()
    check_in(one.bench)
    one.bench.recorder.finish_stage("check_in")
    one.settle()
    before = one.bench.current
    waiting = [StepEntry(stage=stage) for stage in ("strip", "tape", "valve")] + [Note(text="last")]
    job = one.bench.sync.job(before.job.job_id)
    job.log += tuple(
        Logged(number=0, at=one.bench.now(), wheel_id=before.wheel_id, entry=entry, uid=new_id())
        for entry in waiting
    )
    one.bench.refresh()
    rescue = tmp_path / "rescue.json"
    rescue.write_bytes(as_file(one.bench))
    for _ in range(2):  # again: nothing is there twice, and nothing moves
        import_files(empty, [rescue], replace=True)
        (job,) = empty.bench().jobs
        shown = one.bench.current
        assert [item.entry for item in job.log] == [item.entry for item in shown.whole_log]
        assert job.document == shown.job.draft.document
        two = desk(url=str(empty.database.url))
        assert two.bench.current.progress == shown.progress


def test_entries_of_several_jobs_keep_the_order_of_each(empty, tmp_path):
    def entry(number, text):
        return {
            "number": number,
            "uid": text,
            "at": "2026-11-24T10:00:00+00:00",
            "wheel_id": "w1",
            "entry": {"kind": "note", "text": text},
        }

    one = with_log([entry(5, "a1"), entry(0, "a2"), entry(3, "a3"), entry(9, "a4")])
    two = with_log([entry(5, "b1"), entry(6, "b2"), entry(0, "b3")], job_id="job-2")
    two["job"]["wheels"][0]["wheel_id"] = "w2"
    said = imported(empty, tmp_path, one, two)
    logs = {job.job_id: [item.entry.text for item in job.log] for job in empty.bench().jobs}
    assert logs == {"job-1": ["a1", "a2", "a3", "a4"], "job-2": ["b1", "b2", "b3"]}
    assert "2 jobs, 7 log entries" in said
    assert (
        "0 log entries" in (said := imported(empty, tmp_path, one, replace=True))
        and "4 entries were there" in said
    )


def test_an_entry_of_another_job_is_refused_and_nothing_is_imported(empty, tmp_path):
    entry = {
        "number": 1,
        "uid": "e1",
        "at": "2026-11-24T10:00:00+00:00",
        "wheel_id": "w1",
        "entry": {"kind": "note", "text": "x"},
    }
    imported(empty, tmp_path, with_log([entry]))
    with pytest.raises(StoreRefused, match="another job"):
        imported(empty, tmp_path, with_log([entry], job_id="job-9"))
    assert [job.job_id for job in empty.bench().jobs] == ["job-1"]


@pytest.mark.parametrize("number", [2**63 - 1, 2**63, 10**400, -1, 1.5, True, "1"])
def test_a_number_that_no_log_has_is_refused(empty, tmp_path, number):
    entry = {
        "number": number,
        "uid": "e1",
        "at": "2026-11-24T10:00:00+00:00",
        "wheel_id": "w1",
        "entry": {"kind": "note", "text": "x"},
    }
    with pytest.raises(InputError, match=r"number|JSON"):
        imported(empty, tmp_path, with_log([entry]))
    assert empty.bench().jobs == ()


@pytest.mark.parametrize(
    "typed",
    [
        {":nosuchfield": {"text": "x"}},
        {"w1:nosuchfield": {"text": "x"}},
        {"w1:rim": {"text": "x"}},
        {":shelf.tapes": {"text": "x"}},
        {"nocolon": {"text": "x"}},
        {"w1:rim.spokes": {"text": "x", "units": {"mm": "furlong"}}},
    ],
)
def test_what_is_typed_comes_in_through_the_same_door(empty, tmp_path, typed):
    with pytest.raises(InputError, match="typed"):
        imported(empty, tmp_path, with_log(typed=typed))
    imported(
        empty, tmp_path, with_log(typed={"w1:rim.spokes": {"text": "x"}, ":bike": {"text": "y"}})
    )
    assert len(empty.bench().jobs[0].drafts) == 2


def test_a_job_that_cannot_be_opened_keeps_no_other_away(desk, monkeypatch, tmp_path):
    """Whatever is wrong with it: here the planning of one wheel has a bug."""
    from inner_rim.work.editing import state

    one = desk()
    for name in ("Sound", "Cursed"):
        check_in(one.bench)
        one.bench.editor.type_into("name", name)
    one.settle()
    planner = state.WheelPlanner

    def breaks(wheel, *more):
        if wheel.name == "Cursed":
            raise KeyError("nosuchfield")
        return planner(wheel, *more)

    monkeypatch.setattr(state, "WheelPlanner", breaks)
    traces = []
    two = desk()
    two.bench.sync.log_fault = traces.append
    two.bench.sync.reload()
    two.settle()
    assert [wheel.name for wheel in two.bench.wheels] == ["Sound"]
    assert [job.title for job in two.bench.sync.unopened.values()] == ["Cursed"]
    assert b"Cursed" in as_file(two.bench)
    two.bench.editor.type_into("rim.spokes", "28")
    two.settle()
    assert two.bench.current.value("rim.spokes") == 28
    monkeypatch.setattr(state, "WheelPlanner", planner)
    one.bench.select(next(wheel.key for wheel in one.bench.wheels if wheel.name == "Cursed"))
    one.bench.editor.type_into("name", "Mended")
    one.settle()
    two.settle(lambda: len(two.bench.wheels) == 2)
    assert not two.bench.sync.unopened


def test_names_are_read_without_signs_that_cannot_be_seen(desk, empty, tmp_path):
    one = desk()
    one.bench.editor.new_wheel()
    one.bench.editor.type_into("name", "Tern\u200b \u202erear\ufeff")
    one.settle()
    assert one.bench.current.job.draft.document["wheels"][0]["name"] == "Tern rear"
    document = ordinary()
    document["wheels"][0]["name"] = "\u2066Tern\u2069 front"
    imported(empty, tmp_path, document)
    two = desk(url=str(empty.database.url))
    assert two.bench.current.name == "Tern front"


def test_work_that_holds_half_a_character_is_written_all_the_same():
    """A rescue must not fail for the very text that could not be stored."""
    written = json.loads(pretty({"kept": [{"text": "cut \ud83d", 5: ("\ud83d",)}]}))
    assert written == {"kept": [{"text": "cut \ufffd", "5": ["\ufffd"]}]}


SOUND = {
    "practice.dose": "lean",
    "practice.gauge_step_kpa": 5.0,
    "shelf.injector_ml": 60,
    "mechanics": ["M Osier"],
    "alarm_share": 0.85,
    "learning": ["gap"],
}


def shop_of(store):
    return {n: value for n, value in store.bench().settings.items() if not n.startswith("search.")}


def setup_of(settings):
    return {"format": "inner-rim/practice", "version": 1, "settings": settings}


def test_a_shop_s_setup_comes_in_as_it_went_out(empty, tmp_path, desk):
    assert "imported" in imported(empty, tmp_path, setup_of(SOUND))
    assert shop_of(empty) == SOUND
    again = tmp_path / "again.json"
    again.write_bytes(pretty(practice_file(empty.bench().settings)))
    assert "imported" in import_files(empty, [again]) and shop_of(empty) == SOUND


@pytest.mark.parametrize(
    ("name", "value", "path"),
    [
        ("practice.dose", "huge", "settings.practice.dose"),
        ("practice.gauge_step_kpa", -1, "settings.practice.gauge_step_kpa"),
        ("hours", {"week": "no"}, "settings.hours"),
        ("shelf.injector_ml", -5, "settings.shelf.injector_ml"),
        ("shelf.tape_widths_mm", "wide", "settings.shelf.tape_widths_mm"),
        ("alarm_share", 7.0, "settings.alarm_share"),
        ("mechanics", {"a": 1}, "settings.mechanics"),
        ("pin.wheel.tape", [], "settings.pin.wheel.tape"),
        ("no such setting", 1, "settings.no such setting"),
    ],
)
def test_a_setup_that_the_program_would_not_write_is_refused_whole(
    empty, tmp_path, name, value, path
):
    with pytest.raises(InputError) as fault:
        imported(empty, tmp_path, setup_of({**SOUND, name: value}))
    assert path in str(fault.value), fault.value
    assert shop_of(empty) == {}


#: Names, notes and figures that a spreadsheet may take for formulas.
ODD = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False, allow_infinity=False) | st.text("=+-@,;'\"\t a1"),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text("=-@;a", max_size=3), inner, max_size=3),
    max_leaves=8,
)  # fmt: skip


@given(plain=ODD)
def test_json_in_a_table_reads_back_and_no_part_of_it_begins_a_formula(plain):
    body = msgspec.json.encode(plain).decode()
    cell = json_cell(body)
    assert json.loads(cell) == json.loads(body)
    inner = cell if isinstance(plain, list | dict) else ""
    assert not re.search(r"(?<=[;,\t\r\n])[=+\-@\t\r]", inner)


def test_training_results_are_lines_that_neither_a_window_nor_a_flipped_bit_takes_away(tmp_path):
    at = datetime(2026, 12, 1, 9, tzinfo=UTC)

    def result(who):
        return Result(who, at, "01-plain-gravel", ("low_spot",), (), 40.0, 38.0, 2.0, False)

    old = tmp_path / "training.json"  # as versions before kept them
    old.write_bytes(msgspec.json.encode([result("Old")]))
    first, second = TrainingBook(tmp_path, print), TrainingBook(tmp_path, print)
    assert [one.who for one in read_results(tmp_path).results] == ["Old"] and not old.exists()
    for who in ("=HYPERLINK(1)", "B Reed", "C Osier"):  # two windows in turn
        keep_result(tmp_path, result(who))
    file = tmp_path / "training.jsonl"
    lines = file.read_bytes().splitlines(keepends=True)
    file.write_bytes(lines[0] + lines[1][:-9] + b"\x00\n" + b"".join(lines[2:])[:-1])
    keep_result(tmp_path, result("D Sedge"))
    kept = read_results(tmp_path)
    assert [one.who for one in kept.results] == ["Old", "B Reed", "C Osier", "D Sedge"]
    assert kept.unreadable == 1 and lines[1][:-9] in file.read_bytes()
    said = []
    TrainingBook(tmp_path, said.append)
    assert "1 training results cannot be read" in said[0] and first is not second
    rows = list(
        csv.reader(results_csv([result('=HYPERLINK("x")'), result("Ann, B")]).decode().splitlines())
    )
    assert [row[0] for row in rows] == ["name", '\'=HYPERLINK("x")', "Ann, B"]
    assert len({len(row) for row in rows}) == 1
