"""Parts and their stock: every level is the sum of its movements, whoever books and counts."""

import pytest
from sqlalchemy import text

from inner_rim.core.plan.picking import Booking, Use
from inner_rim.core.record.log import Note
from inner_rim.core.record.operations import SetField
from inner_rim.core.record.parts import item_from
from inner_rim.store import errors
from inner_rim.store.repository import Repository
from inner_rim.store.shelf import prepared
from inner_rim.store.statements import NewEntry
from tests.samples import stored

NOW = "2026-11-24T10:00:00+00:00"


@pytest.fixture
def store(url):
    made = Repository(url)
    made.create("job-1", stored(), NOW)
    yield made
    made.close()


def tape(name="Ebb tape 27", stock=3000.0, **more):
    return item_from("tape", {"name": name, "width_mm": 27}, stock=stock, **more)


def movements(store):
    with store.database.reading() as connection:
        rows = connection.execute(
            text("SELECT part_uid, amount, reason, stage FROM movements ORDER BY id")
        )
        return [tuple(row) for row in rows]


def book(store, uid, **booking):
    store.append("job-1", "w1", [NewEntry(uid, NOW, Note(text=uid))], Booking(uid=uid, **booking))


def test_a_part_comes_back_and_its_stock_moves_with_a_reason(store):
    made = store.shelf.add(tape(item_id="p1"), NOW, "counted")
    assert store.shelf.all() == (made,)
    store.shelf.count("p1", 2500.0, 3000.0, NOW, "counted", "c1")
    assert movements(store) == [("p1", 3000.0, "counted", None), ("p1", -500.0, "counted", None)]


def test_a_second_part_of_the_name_is_refused_with_a_sentence(store):
    store.shelf.add(tape(), NOW, "counted")
    with pytest.raises(errors.DuplicatePart, match="already on the shelf"):
        store.shelf.add(tape(), NOW, "counted")
    other = store.shelf.add(tape("Ebb tape 28"), NOW, "counted")
    with pytest.raises(errors.DuplicatePart):
        store.shelf.edit(
            other.item_id, [SetField("", "spec.name", "Ebb tape 27", "Ebb tape 28")], NOW
        )
    with pytest.raises(errors.StoreRefused, match="no longer on the shelf"):
        store.shelf.edit("nowhere", [SetField("", "low_at", 3.0, 0.0)], NOW)


def test_figures_of_two_benches_join_and_a_count_keeps_what_was_booked_meanwhile(store):
    store.shelf.add(tape(item_id="p1"), NOW, "counted")
    book(store, "b1", uses=(("tape", Use("p1", 400.0)),))
    store.shelf.edit("p1", [SetField("", "low_at", 500.0, 0.0)], NOW)
    item, conflicts = store.shelf.edit(
        "p1", [SetField("", "spec.width_mm", 28, 27), SetField("", "low_at", 9.0, 0.0)], NOW
    )
    assert item.low_at == 500.0 and item.spec["width_mm"] == 28 and conflicts[0].stored == 500.0
    assert item.stock == 2600.0  # an edit of a figure is no count
    # seen before the booking: 100 are missing
    store.shelf.count("p1", 2900.0, 3000.0, NOW, "counted", "c1")
    assert store.shelf.all()[0].stock == 2500.0 == sum(move[1] for move in movements(store))
    with pytest.raises(errors.StoreRefused):
        store.shelf.edit("p1", [SetField("", "spec.width_mm", 900, 28)], NOW)


def test_what_a_stage_took_goes_back_when_it_is_reopened_and_never_below_nothing(store):
    store.shelf.add(tape(stock=1500.0, item_id="p1"), NOW, "counted")
    book(store, "b1", uses=(("tape", Use("p1", 2000.0)),))
    assert store.shelf.all()[0].stock == 0.0
    book(store, "b2", back=("tape", "valve"))
    book(store, "b3", back=("tape",))  # a second time gives nothing more
    assert store.shelf.all()[0].stock == 1500.0
    book(store, "b4", uses=(("tape", Use("p1", 200.0)),))  # done again: used again
    assert store.shelf.all()[0].stock == 1300.0


def test_a_check_in_teaches_parts_once(store):
    tire = item_from("tire", {"name": "Heron", "size": "45-622"}, item_id="t1")
    book(store, "b1", learned=(tire,))
    book(
        store, "b2", learned=(item_from("tire", {"name": "Heron", "size": "50-622"}, item_id="t2"),)
    )
    assert [(i.item_id, i.spec["size"]) for i in store.shelf.all()] == [("t1", "45-622")]


def test_many_parts_are_stored_all_or_nothing(store):
    store.shelf.add(tape("T 7", 1.0), NOW, "counted")
    many = [prepared(tape(f"T {i}", float(i))) for i in range(1000)]
    before = store.change()
    assert store.shelf.put_many(many, NOW, "imported", lambda done: done < 500) == 0
    assert [item.stock for item in store.shelf.all()] == [1.0]
    assert store.shelf.put_many(many, NOW, "imported") == 1000
    result = {item.name: item.stock for item in store.shelf.all()}
    assert len(result) == 1000 and result["T 7"] == 7.0 and store.change() == before + 1
