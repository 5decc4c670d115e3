import sqlite3

import pytest

from inner_rim.core.parts import item_from
from inner_rim.store import errors, migrations, versions
from inner_rim.store.repository import Repository, sqlite_url
from inner_rim.store.shelf import Use
from tests.samples import ordinary

NOW = "2026-11-24T10:00:00+00:00"


@pytest.fixture
def store(tmp_path):
    made = Repository(sqlite_url(tmp_path / "inner-rim.sqlite"))
    yield made
    made.close()


def tape(name="Ebb tape 27", stock=3000.0, **more):
    return item_from("tape", {"name": name, "width_mm": 27}, stock=stock, **more)


def movements(store):
    with store.reading() as connection:
        return [
            tuple(row)
            for row in connection.exec_driver_sql("SELECT part_id, amount, reason, stage FROM movements")
        ]


def test_a_part_comes_back_and_its_stock_moves_with_a_reason(store):
    made = store.shelf.put(tape(), NOW, "counted")
    assert store.shelf.all() == (made,) and made.item_id == 1
    store.shelf.put(tape(stock=2500.0, item_id=1), NOW, "counted")
    assert movements(store) == [(1, 3000.0, "counted", None), (1, -500.0, "counted", None)]


def test_a_second_part_of_the_name_is_refused_with_a_sentence(store):
    store.shelf.put(tape(), NOW, "counted")
    with pytest.raises(errors.DuplicatePart, match="on the shelf already"):
        store.shelf.put(tape(), NOW, "counted")
    other = store.shelf.put(tape("Ebb tape 28"), NOW, "counted")
    with pytest.raises(errors.DuplicatePart):
        store.shelf.put(tape(item_id=other.item_id), NOW, "counted")


def test_what_a_stage_took_goes_back_when_it_is_taken_up_again_and_never_below_nothing(store):
    store.shelf.put(tape(stock=1500.0), NOW, "counted")
    store.shelf.book_out([Use(1, 2000.0)], NOW, 7, 0, "tape")
    assert store.shelf.all()[0].stock == 0.0
    store.shelf.give_back(NOW, 7, 0, ["tape", "valve"])
    store.shelf.give_back(NOW, 7, 0, ["tape"])  # a second time gives nothing more
    store.shelf.give_back(NOW, 8, 0, ["tape"])
    assert store.shelf.all()[0].stock == 1500.0


def test_many_parts_are_stored_all_or_nothing(store):
    store.shelf.put(tape("T 7", 1.0), NOW, "counted")
    many = [tape(f"T {i}", float(i)) for i in range(1000)]
    assert store.shelf.put_many(many, NOW, "imported", lambda done: done < 500) == 0
    assert [item.stock for item in store.shelf.all()] == [1.0]
    assert store.shelf.put_many(many, NOW, "imported") == 1000
    assert len(store.shelf.all()) == 1000 and store.change() == 2


def test_an_old_database_gets_its_shelf_and_keeps_its_jobs(tmp_path, monkeypatch):
    file = tmp_path / "inner-rim.sqlite"
    monkeypatch.setattr(versions, "STEP_NAMES", versions.STEP_NAMES[:1])
    monkeypatch.setattr(migrations, "STEP_NAMES", versions.STEP_NAMES)
    monkeypatch.setattr(migrations, "STEPS", migrations.STEPS[:1])
    from sqlalchemy import create_engine

    engine = create_engine(sqlite_url(file))
    migrations.migrate(engine, file)  # the first version's schema, before there was a shelf
    engine.dispose()
    monkeypatch.undo()
    with sqlite3.connect(file) as old:
        import msgspec

        body = msgspec.json.encode(ordinary()).decode()
        old.execute(
            "INSERT INTO jobs (document, drafts, revision, archived, created_at, changed_at) VALUES (?, '{}', 1, 0, ?, ?)",
            (body, NOW, NOW),
        )
        assert not old.execute("SELECT name FROM sqlite_master WHERE name = 'parts'").fetchall()
    old.close()
    opened = Repository(sqlite_url(file))
    assert opened.bench().jobs[0].document == ordinary() and opened.shelf.all() == ()
    opened.shelf.put(tape(), NOW, "counted")
    assert [item.name for item in opened.bench().stocked] == ["Ebb tape 27"]
    opened.close()
    assert len(list((tmp_path / "backup").glob("*.sqlite"))) == 1
