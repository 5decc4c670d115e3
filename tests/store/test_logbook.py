from datetime import UTC, datetime

import pytest
from sqlalchemy import text

from inner_rim.core.record.log import Attempt, Note, SignOff, StepEntry
from inner_rim.core.record.operations import SetField
from inner_rim.store import search
from inner_rim.store.backup import back_up, check
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.statements import NewEntry
from tests.samples import stored

NOW = "2026-11-24T10:00:00+00:00"


@pytest.fixture
def store(url):
    made = Repository(url)
    yield made
    made.close()


def put(store, job_id, entry, at=NOW):
    number = len(store.logbook.search("")) + 1
    store.append(job_id, "w1", [NewEntry(f"e{number}", at, entry)])


def filled(store):
    store.create(
        "job-1", {**stored(rim__name="Saltmarsh box rim"), "customer": "Ranger post east"}, NOW
    )
    store.create("job-2", stored(name="Tern rear", wheel_id="w1"), NOW)
    put(store, "job-1", StepEntry(stage="tape", text="lifted at the joint"))
    put(
        store,
        "job-1",
        Attempt(peak_kpa=150, outcome="both_up", limit_kpa=340),
        "2026-11-25T10:00:00+00:00",
    )
    put(store, "job-2", SignOff(by="M. Osier", pressure_kpa=190))


def found(store, *args):
    return [(hit.name, type(hit.item.entry).__name__) for hit in store.logbook.search(*args)]


def test_every_word_s_beginning_is_enough_in_any_order(store):
    filled(store)
    assert found(store, "join lift") == [("Sandpiper front", "StepEntry")]
    assert found(store, "saltm")[0] == ("Sandpiper front", "Attempt")  # newest first
    assert found(store, "ranger both up") == [("Sandpiper front", "Attempt")]
    assert found(store, "osier") == found(store, "übergeben") == [("Tern rear", "SignOff")]
    assert found(store, "45-622 tern") == [("Tern rear", "SignOff")]
    assert found(store, "nothing like it") == [] and len(found(store, "")) == 3


def test_kind_and_time_narrow_it(store):
    filled(store)
    assert found(store, "", ("attempt",)) == [("Sandpiper front", "Attempt")]
    assert found(store, "", (), "2026-11-25T00:00:00+00:00") == [("Sandpiper front", "Attempt")]
    assert found(store, "sandpiper", ("sign_off",)) == []


@pytest.mark.parametrize(
    "words",
    [
        '"',
        "'; DROP TABLE log; --",
        "a OR b",
        "NEAR(",
        "*",
        "ä",
        "-tape",
        "col:tape",
        "INNER-RIM/9999/0",
        "²",
        "a " * 3000,
        "x" * 9000,
        "%",
        "_",
    ],
)
def test_no_words_break_the_search(store, words):
    filled(store)
    assert isinstance(found(store, words), list)


def test_a_wheel_off_the_bench_keeps_its_story(store):
    filled(store)
    store.archive("job-1", NOW)
    story = store.logbook.job("job-1")
    assert story.archived and [type(item.entry).__name__ for item in story.log] == [
        "StepEntry",
        "Attempt",
    ]
    assert store.logbook.job("nowhere") is None and len(found(store, "saltmarsh")) == 2


def test_a_renamed_wheel_and_a_changed_customer_are_found(store):
    filled(store)
    store.edit(
        "job-1",
        [
            SetField("w1", "name", "Dunlin", "Sandpiper front"),
            SetField("", "customer", "Kiosk", "Ranger post east"),
        ],
        NOW,
    )
    assert len(found(store, "dunlin")) == len(found(store, "kiosk")) == 2
    assert found(store, "ranger") == found(store, "sandpiper") == []


def test_a_code_finds_the_newest_job_of_its_wheel(store):
    filled(store)
    assert store.logbook.place_of_code("W1") == ("job-2", "w1")
    assert store.logbook.place_of_code("w2") is None and store.logbook.place_of_code("12/0") is None


def test_a_lost_index_is_made_anew_while_searching_and_while_writing(store):
    filled(store)
    for act in (
        lambda: found(store, "lifted"),
        lambda: put(store, "job-1", Note(text="lifted again")),
    ):
        with store.database.engine.begin() as connection:
            connection.exec_driver_sql(f"DROP TABLE {search.index_name(connection)}")
        act()
    assert len(found(store, "lifted")) == 2


@pytest.mark.parametrize("by_writing", [True, False])
def test_a_damaged_page_of_the_index_is_made_anew_and_nothing_else_is_touched(tmp_path, by_writing):
    file = tmp_path / "x.sqlite"
    store = Repository(sqlite_url(file))
    filled(store)
    for n in range(300):
        store.append(
            "job-1", "w1", [NewEntry(f"n{n}", NOW, Note(text=f"curlew {n} " + "reed " * 40))]
        )
    with store.database.engine.connect() as connection:
        name = search.index_name(connection)
        pages = (
            connection.execute(
                text("SELECT pageno FROM dbstat WHERE name = :name AND pagetype = 'leaf'"),
                {"name": f"{name}_data"},
            )
            .scalars()
            .all()
        )
        size = connection.exec_driver_sql("PRAGMA page_size").scalar()
    store.close()
    with file.open("r+b") as damaged:
        for page in pages:
            damaged.seek((page - 1) * size)
            damaged.write(b"\xa5" * size)
    store = Repository(sqlite_url(file))
    if not by_writing:
        assert len(store.logbook.search("curlew", most=1000)) == 300
    store.append("job-1", "w1", [NewEntry("last", NOW, Note(text="curlew last"))])
    assert len(store.logbook.search("curlew", most=1000)) == 301
    assert len(store.bench().jobs[0].log) == 303
    store.close()
    check(back_up(file, datetime.now(UTC)))
