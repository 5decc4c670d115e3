"""A database of an earlier version comes to today's with all it holds; a newer one is refused."""

import sqlite3
from datetime import UTC, datetime

import pytest

from inner_rim.core.record.log import Note
from inner_rim.store import errors, migrations
from inner_rim.store.backup import back_up, backups
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.snapshot import snapshot
from inner_rim.store.statements import NewEntry
from tests.samples import ordinary

NOW = "2026-11-24T10:00:00+00:00"


def filled(url):
    """Make a database of today's version with a job and its log in it."""
    store = Repository(url)
    wheel = {**ordinary()["wheels"][0], "wheel_id": "w1"}
    store.create("job-1", {**ordinary(), "wheels": [wheel]}, NOW)
    store.append("job-1", "w1", [NewEntry("e1", NOW, Note(text="rear"))])
    before = store.bench()
    store.close()
    return before


def test_a_step_that_is_added_is_taken_once_and_keeps_all_that_is_there(url, monkeypatch):
    before = filled(url)
    taken = []

    def more(schema):
        taken.append(schema.is_sqlite)
        schema.run("ALTER TABLE jobs ADD COLUMN color TEXT")

    monkeypatch.setattr(migrations, "STEPS", (*migrations.STEPS, ("0002 color", more)))
    for _ in range(2):
        store = Repository(url)
        assert store.bench().jobs == before.jobs
        assert [hit.name for hit in store.logbook.search("rear note")] == [
            ordinary()["wheels"][0]["name"]
        ]
        store.close()
    assert len(taken) == 1


def test_a_newer_database_is_refused_with_a_sentence_and_left_alone(tmp_path):
    file = tmp_path / "x.sqlite"
    Repository(sqlite_url(file)).close()
    with sqlite3.connect(file) as connection:
        connection.execute("INSERT INTO migrations VALUES ('0999 from the future', 998, ?)", (NOW,))
    connection.close()
    before = file.read_bytes()
    with pytest.raises(errors.StoreNewer, match="newer version"):
        Repository(sqlite_url(file))
    assert file.read_bytes() == before and snapshot(file) is None


def test_a_copy_is_made_before_migrating_and_a_failed_step_leaves_nothing(tmp_path, monkeypatch):
    file = tmp_path / "x.sqlite"
    before = filled(sqlite_url(file))

    def breaks(schema):
        schema.run("CREATE TABLE half_done (x INTEGER)")
        raise RuntimeError("step failed")

    with monkeypatch.context() as changed:
        changed.setattr(migrations, "STEPS", (*migrations.STEPS, ("0002 breaks", breaks)))
        with pytest.raises(RuntimeError):
            Repository(sqlite_url(file), before_migrating=lambda: back_up(file, datetime.now(UTC)))
    with sqlite3.connect(file) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master")}
        applied = connection.execute("SELECT count(*) FROM migrations").fetchone()
    connection.close()
    assert "half_done" not in tables and applied == (1,) and len(backups(file)) == 1
    store = Repository(sqlite_url(file))
    assert store.bench().jobs == before.jobs
    store.close()


def test_every_step_is_registered_once_in_order():
    names = migrations.step_names()
    assert names == sorted(set(names)) and [name[:4] for name in names] == [
        f"{n:04d}" for n in range(1, len(names) + 1)
    ]
