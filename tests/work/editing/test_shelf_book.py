"""The shelf in memory and its files, with and without a store; the bench's sums over it."""

import pytest

from inner_rim.core.record.job import MAX_WHEELS, Practice
from inner_rim.core.record.operations import SetField
from inner_rim.core.record.parts import item_from
from inner_rim.work.bench import Bench
from inner_rim.work.editing.shelf import MAX_OFFERED, ShelfChange, in_scope, pick_list_of
from inner_rim.work.editing.state import Shop, usual_of
from inner_rim.work.storage.demo import demo_shelf
from inner_rim.work.tasks.parts_files import PartsImport, export_parts, read_parts
from tests.desk import demo_on_bench
from tests.desk import select_wheel as wheel
from tests.work.text.test_choices_and_day import NOW


@pytest.fixture
def bench():
    return demo_on_bench(NOW)


def tape(name, **more):
    return item_from("tape", {"name": name, "width_mm": 27}, **more)


def book_alone():
    """A shelf without a store."""
    return Bench(clock=lambda: NOW).shelf


def test_a_part_is_added_edited_counted_refused_and_retired_in_memory():
    book, told = book_alone(), []
    book.add(tape("A", stock=3.0), done=told.append)
    item_id = book.items[0].item_id
    assert item_id and told[0].name == "A"
    book.add(tape("A"), failed=told.append)
    assert "already on the shelf" in told[-1]
    book.edit(item_id, [SetField("", "low_at", 2.0, 0.0), SetField("", "spec.width_mm", 28, 27)])
    book.count(item_id, 5.0, 3.0)
    (item,) = book.items
    assert (item.stock, item.low_at, item.spec["width_mm"]) == (5.0, 2.0, 28)
    book.edit(item_id, [SetField("", "low_at", 9.0, 0.0)], failed=told.append)  # not what it was
    assert "that value was kept" in told[-1] and book.items[0].low_at == 2.0
    book.retire(book.items[0])
    assert book.items[0].retired and book.offered("", "tape") == []


def test_offers_are_few_and_a_part_without_a_name_is_not_learned():
    book = book_alone()
    for i in range(40):
        book.add(tape(f"T {i}"))
    assert len(book.offered("t", "tape")) == MAX_OFFERED
    for kind, figures in (
        ("tire", {"size": "45-622"}),
        ("tire", {"name": "Heron", "size": "45-622", "new": True}),
        ("tire", {"name": "Heron", "size": "50-622"}),
        ("rim", {"name": "not whole"}),
    ):
        book.booking("b", ("job", "w"), ShelfChange(learned=((kind, figures),)))
    result = [item for item in book.items if item.kind != "tape"]
    assert [item.spec for item in result] == [{"name": "Heron", "size": "45-622"}]


def test_tables_go_through_files_without_a_store(tmp_path):
    book = book_alone()
    book.adopt(demo_shelf())
    for name in ("shelf.csv", "shelf.json"):
        assert "21 parts" in export_parts(tmp_path / name, book.items)
        assert [i.name for i in read_parts(tmp_path / name)] == [i.name for i in book.items]
    told = []
    running = PartsImport(book, None, tmp_path / "shelf.csv", "now", lambda: told.append(True))
    running.start()
    assert running.over and told and "21 parts imported" in running.words and len(book.items) == 21
    missing = PartsImport(book, None, tmp_path / "none.csv", "now", lambda: None)
    missing.start()
    assert "cannot be read" in missing.words


def test_two_windows_see_each_other_s_shelf(desk):
    one, two = desk(), desk()
    for each in (one, two):
        each.bench.shelf.load()
        each.settle()
    one.bench.shelf.add(tape("Ebb tape 27", stock=9000.0))
    one.settle()
    two.settle(until=lambda: len(two.bench.shelf.items) == 1)
    assert two.bench.shop.shelf.tapes[0].width_mm == 27


def test_the_shop_s_practice_outlives_a_restart(desk):
    one = desk()
    one.bench.shop_methods.set("practice.dose", "lean")
    one.bench.shop_methods.set("shelf.injector_ml", 30.0)
    one.settle()
    again = desk()
    assert again.bench.shop == Shop(
        Practice(dose="lean"), again.bench.shop.shelf, again.bench.shop.sealants
    )
    assert again.bench.shop.shelf.injector_ml == 30.0
    again.bench.shop_methods.set("practice.dose", None)
    assert again.bench.shop.practice is None
    again.bench.shop_methods.set("practice.dose", "a bucket")
    assert again.bench.shop.practice is None  # nonsense is no method


def test_what_holds_where_a_field_says_nothing(bench):
    state = wheel(bench, "Warden")
    assert usual_of(state, "practice.climate") == "cool_damp"  # the shop's
    assert usual_of(state, "practice.pump_head") == "push_on"  # the usual
    assert usual_of(state, "shelf.tape_widths_mm") == [21, 23, 25, 27, 29, 31, 35, 45]
    assert usual_of(state, "ride.use") and usual_of(state, "rim.hook") is None
    assert state.plan.methods.air_source == "floor_pump"
    bench.editor.type_into("practice.air_source", "compressor")
    assert bench.current.plan.methods.air_source == "compressor"


def test_a_fleet_is_one_undo_and_never_more_than_a_job_holds(bench):
    wheel(bench, "Warden")
    before = len(bench.wheels)
    bench.editor.duplicate(11)
    assert len(bench.wheels) == before + 11 and len({w.name for w in bench.wheels}) == before + 11
    bench.undo()
    assert len(bench.wheels) == before
    wheel(bench, "Warden")
    bench.editor.duplicate(MAX_WHEELS + 5)
    assert (
        len(bench.current.job.draft.document["wheels"]) == MAX_WHEELS and "at most" in bench.message
    )


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


def test_an_overlay_takes_its_strips_off_their_own_roll(bench):
    wheel(bench, "Warden")
    plain = bench.current.plan
    bench.editor.type_into("practice.tape_kind", "overlay")

    def electrical():
        lines = pick_list_of(in_scope(bench.wheels, bench.current, "wheel"), bench.shelf.items)
        return next(line for line in lines if line.material == "electrical")

    def steps():
        return [step for step in bench.current.plan.steps if step.code == "tape.overlay"]

    assert electrical().figure_mm == 19.0 and electrical().on_hand is None  # none on the shelf
    width = plain.tape.width_mm  # as wide as the rim tape: only its material tells them apart
    spec = {"name": "Soft strip", "width_mm": width, "material": "electrical"}
    bench.shelf.add(item_from("tape", spec, stock=9000.0))
    over = bench.current.plan.tape.overlay
    assert over.width_mm == width == electrical().figure_mm and electrical().on_hand == 9000.0
    assert over.strips == len(steps()) == -(-(plain.tape.developed_width_mm - 3) // (width - 3))
    assert bench.current.plan.tape.thickness_mm > plain.tape.thickness_mm
    assert electrical().amount == over.strips * over.length_mm
    bench.recorder.finish_stage("tape")
    left = {item.name: item.stock for item in bench.shelf.items}
    assert left["Soft strip"] == 9000.0 - over.strips * over.length_mm
    assert left["Ebb tape 31"] == 0 and not steps()
    bench.recorder.again("tape", "layer")  # the strips stay as they are
    assert not steps() and bench.current.plan.setup.adds_layer


def test_the_pick_list_s_scopes_widen(bench):
    wheel(bench, "Sandpiper 2 · rear")
    counts = [
        sum(
            line.amount
            for line in pick_list_of(
                in_scope(bench.wheels, bench.current, scope), bench.shelf.items
            )
        )
        for scope in ("wheel", "job", "bench")
    ]
    assert 0 < counts[0] <= counts[1] < counts[2]
