"""The shelf in memory and its files, with and without a store; the bench's sums over it."""

import pytest

from inner_rim.core.job import MAX_WHEELS
from inner_rim.core.parts import item_from
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import Shop, practice_of, usual_of
from inner_rim.work.shelf import MOST_OFFERED, ShelfBook
from inner_rim.work.storage.demo import demo_bench, demo_shelf
from inner_rim.work.storage.parts_files import PartsImport, export_parts, read_parts
from tests.work.test_choices_and_day import NOW


@pytest.fixture
def bench():
    made = Bench(clock=lambda: NOW)
    made.sync.adopt(demo_bench(NOW))
    made.shelf.adopt(demo_shelf())
    return made


def wheel(bench, name):
    state = next(s for s in bench.wheels if s.name.startswith(name))
    bench.select(state.key)
    return state


def tape(name, **more):
    return item_from("tape", {"name": name, "width_mm": 27}, **more)


def test_a_part_is_put_changed_refused_and_retired_in_memory():
    book, told = ShelfBook(None, lambda: "now", lambda: None), []
    book.put(tape("A"), done=told.append)
    assert book.items[0].item_id == 1 and told[0].name == "A"
    book.put(tape("A"), failed=told.append)
    assert "on the shelf already" in told[-1]
    book.put(tape("A", stock=5.0, item_id="p1"))
    assert [item.stock for item in book.items] == [5.0]
    book.retire(book.items[0])
    assert book.items[0].retired and book.offered("", "tape") == []


def test_offers_are_few_and_a_part_without_a_name_is_not_learned():
    book = ShelfBook(None, lambda: "now", lambda: None)
    for i in range(40):
        book.put(tape(f"T {i}"))
    assert len(book.offered("t", "tape")) == MOST_OFFERED
    book.learn("tire", {"size": "45-622"})
    book.learn("tire", {"name": "Heron", "size": "45-622", "new": True})
    book.learn("tire", {"name": "Heron", "size": "50-622"})
    book.learn("rim", {"name": "not whole"})
    found = [item for item in book.items if item.kind != "tape"]
    assert [item.spec for item in found] == [{"name": "Heron", "size": "45-622"}]


def test_tables_go_through_files_without_a_store(tmp_path):
    book = ShelfBook(None, lambda: "now", lambda: None)
    book.adopt(demo_shelf())
    for name in ("shelf.csv", "shelf.json"):
        assert "21 parts" in export_parts(tmp_path / name, book.items)
        assert [i.name for i in read_parts(tmp_path / name)] == [i.name for i in book.items]
    told = []
    running = PartsImport(book, tmp_path / "shelf.csv", lambda: told.append(True))
    running.start()
    assert running.over and told and "21 parts imported" in running.words and len(book.items) == 21
    missing = PartsImport(book, tmp_path / "none.csv", lambda: None)
    missing.start()
    assert "cannot be read" in missing.words


def test_two_windows_see_each_other_s_shelf(desk):
    one, two = desk(), desk()
    for each in (one, two):
        each.bench.shelf.load()
        each.settle()
    one.bench.shelf.put(tape("Ebb tape 27", stock=9000.0))
    one.settle()
    two.settle(until=lambda: len(two.bench.shelf.items) == 1)
    assert two.bench.shop.shelf.tapes[0].width_mm == 27


def test_the_shop_s_practice_outlives_a_restart(desk):
    one = desk()
    one.bench.set_practice("dose", "lean")
    one.bench.set_injector(30.0)
    one.settle()
    again = desk()
    assert again.bench.shop == Shop(practice_of({"dose": "lean"}), again.bench.shop.shelf)
    assert again.bench.shop.shelf.injector_ml == 30.0
    again.bench.set_practice("dose", None)
    assert again.bench.shop.practice is None
    assert practice_of({"dose": "a bucket"}) is None


def test_what_holds_where_a_field_says_nothing(bench):
    state = wheel(bench, "Warden")
    assert usual_of(state, "practice.climate") == "cool_damp"  # the shop's
    assert usual_of(state, "practice.pump_head") == "push_on"  # the usual
    assert usual_of(state, "shelf.tape_widths_mm") == [21, 23, 25, 27, 29, 31, 35, 45]
    assert usual_of(state, "ride.use") and usual_of(state, "rim.hook") is None
    assert state.practice.air_source == "floor_pump"
    bench.editor.type_into("practice.air_source", "compressor")
    assert bench.current.practice.air_source == "compressor"


def test_a_fleet_is_one_undo_and_never_more_than_a_job_holds(bench):
    wheel(bench, "Warden")
    before = len(bench.wheels)
    bench.editor.duplicate(11)
    assert len(bench.wheels) == before + 11 and len({w.name for w in bench.wheels}) == before + 11
    bench.editor.undo()
    assert len(bench.wheels) == before
    wheel(bench, "Warden")
    bench.editor.duplicate(MAX_WHEELS + 5)
    assert len(bench.current.job.draft.document["wheels"]) == MAX_WHEELS and "at most" in bench.message


def test_stock_is_booked_once_per_stage_and_given_back(bench):
    wheel(bench, "Warden")

    def stock(name):
        return next(i.stock for i in bench.shelf.items if i.name == name)

    latex, dose = stock("Tidewater latex"), bench.current.plan.sealant.dose_ml
    for stage in ("tape", "valve", "mount", "sealant"):
        bench.recorder.finish_stage(stage)
        bench.recorder.finish_stage(stage)  # a second time takes nothing
    assert stock("Tidewater latex") == latex - dose and stock("Mudflat rover") == 1
    assert stock("Ebb tape 31") == 0  # there was less than the wheel took
    bench.recorder.reopen_stage("tape")
    assert stock("Tidewater latex") == latex and stock("Mudflat rover") == 2
    assert stock("Ebb tape 31") == 1800


def test_the_pick_list_s_scopes_widen(bench):
    wheel(bench, "Sandpiper 2 · rear")
    counts = [
        sum(line.amount for line in bench.recorder.pick_list(scope)) for scope in ("wheel", "job", "bench")
    ]
    assert 0 < counts[0] <= counts[1] < counts[2]
