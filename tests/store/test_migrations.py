"""Databases of every earlier version come to today's with all they hold; a newer one is refused."""

import json
import sqlite3

import pytest
from sqlalchemy import text

from inner_rim.core.record.log import Note
from inner_rim.core.record.operations import Typed
from inner_rim.core.record.units import UnitChoice
from inner_rim.store import errors, migrations
from inner_rim.store.backup import back_up, backups
from inner_rim.store.database import Database, sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.snapshot import snapshot
from tests.samples import ordinary

NOW = "2026-11-24T10:00:00+00:00"


def older(url, steps):
    """Make a database as it was after so many steps, with data as that version had them; from the fourth step on with
    data that came through it.
    """
    database = Database(url)
    with database.engine.begin() as connection:
        schema = migrations._Schema(connection)
        schema.run(
            "CREATE TABLE migrations (name TEXT PRIMARY KEY, place INTEGER NOT NULL, applied_at TEXT NOT NULL)"
        )
        take(schema, 0, min(steps, 3))
        two = {**ordinary(), "wheels": [ordinary()["wheels"][0], {**ordinary()["wheels"][0], "name": "rear"}]}
        drafts = {"wheels[1].tire.max_pressure_kpa": "36", "due": "soon"}
        job = {
            "drafts": json.dumps(drafts),
            "revision": 3,
            "archived": 0,
            "created_at": NOW,
            "changed_at": NOW,
        }
        schema.put("jobs", [{**job, "document": json.dumps(two)}, {**job, "document": "{half"}])
        entry = {"job_id": 1, "at": NOW, "kind": "note"}
        schema.put(
            "log",
            [
                {**entry, "wheel": 1, "body": '{"kind":"note","text":"rear"}'},
                {**entry, "wheel": 7, "body": '{"kind":"note","text":"of a wheel that is gone"}'},
                {**entry, "wheel": 0, "body": '{"kind":"attempt","low_left":[9]}'},
            ],
        )
        schema.put(
            "settings",
            [
                {"name": "units", "value": '{"kpa":"psi","mm":"mm","ml":"ml"}'},
                {"name": "practice", "value": '{"dose":"lean","tape_start":"opposite"}'},
                {"name": "injector_ml", "value": "30.0"},
            ],
        )
        if steps > 1:
            part = {
                "spec": '{"name":"Ebb 27","width_mm":27}',
                "retired": 0,
                "changed_at": NOW,
                "low_at": 100.0,
            }
            schema.put("parts", [{**part, "kind": "tape", "name": "Ebb 27", "stock": 700.0}])
            schema.put(
                "movements",
                [
                    {
                        "part_id": 1,
                        "at": NOW,
                        "amount": 900.0,
                        "reason": "counted",
                        "job_id": None,
                        "wheel": None,
                        "stage": None,
                    },
                    {
                        "part_id": 1,
                        "at": NOW,
                        "amount": -250.0,
                        "reason": "used",
                        "job_id": 1,
                        "wheel": 1,
                        "stage": "tape",
                    },
                ],
            )
        take(schema, 3, steps)
    database.close()


def take(schema, first, last):
    for place in range(first, last):
        name, step = migrations.STEPS[place]
        step(schema)
        schema.put("migrations", [{"name": name, "place": place, "applied_at": NOW}])


@pytest.mark.parametrize("steps", range(1, len(migrations.STEPS)))
def test_an_older_database_comes_to_today_s_with_all_it_holds(url, steps):
    older(url, steps)
    store = Repository(url)
    bench = store.bench()
    (job,) = bench.jobs
    front, rear = (wheel["wheel_id"] for wheel in job.document["wheels"])
    assert job.document["wheels"][0]["tire"] == ordinary()["wheels"][0]["tire"] and job.revision == 3
    assert job.drafts == {
        f"{rear}:tire.max_pressure_kpa": Typed("36", UnitChoice("psi")),
        ":due": Typed("soon", UnitChoice("psi")),
    }
    assert [item.wheel_id for item in job.log][::2] == [rear, front] and job.log[0].entry == Note(text="rear")
    assert len({item.uid for item in job.log}) == 3
    assert [row.body for row in bench.unreadable] == ["{half"]  # byte for byte
    assert bench.settings["practice.dose"] == "lean" and bench.settings["practice.tape_start"] == "opposite"
    assert bench.settings["shelf.injector_ml"] == 30.0 and bench.settings["units"]["kpa"] == "psi"
    assert store.logbook.place_of_code(("1", "1")) == (job.job_id, rear)  # a code on an old paper
    assert [hit.name for hit in store.logbook.search("rear note")] == ["rear"]
    if steps > 1:
        (item,) = store.shelf.all()
        assert item.stock == 700.0 and item.low_at == 100.0
        with store.database.reading() as connection:
            moves = connection.execute(
                text("SELECT amount, reason, wheel_id FROM movements ORDER BY id")
            ).all()
        assert [tuple(m) for m in moves] == [
            (900.0, "counted", None),
            (-250.0, "used", rear),
            (50.0, "carried over", None),
        ]
    store.close()


def test_the_same_old_database_gets_the_same_identities(tmp_path):
    ids = []
    for name in ("a", "b"):
        url = sqlite_url(tmp_path / f"{name}.sqlite")
        older(url, 3)
        store = Repository(url)
        ids.append([(job.job_id, job.log[0].uid) for job in store.bench().jobs])
        store.close()
    assert ids[0] == ids[1]


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
    from datetime import UTC, datetime

    file = tmp_path / "x.sqlite"
    older(sqlite_url(file), 3)

    def breaks(schema):
        schema.run("CREATE TABLE half_done (x INTEGER)")
        raise RuntimeError("step failed")

    monkeypatch.setattr(migrations, "STEPS", (*migrations.STEPS, ("9998 breaks", breaks)))
    with pytest.raises(RuntimeError):
        Repository(sqlite_url(file), before_migrating=lambda: back_up(file, datetime.now(UTC)))
    with sqlite3.connect(file) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master")}
        applied = connection.execute("SELECT count(*) FROM migrations").fetchone()
    connection.close()
    assert "half_done" not in tables and "old_codes" not in tables and applied == (3,)
    assert len(backups(file)) == 1


def test_every_step_is_registered_once_in_order():
    names = migrations.step_names()
    assert names == sorted(set(names)) and [name[:4] for name in names] == [
        f"{n:04d}" for n in range(1, len(names) + 1)
    ]
