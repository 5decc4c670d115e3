import sqlite3

import pytest

from inner_rim.core.log import Attempt, Note, SignOff, StepEntry
from inner_rim.store.repository import Repository, sqlite_url
from tests.samples import ordinary

NOW = "2026-11-24T10:00:00+00:00"


@pytest.fixture
def file(tmp_path):
    return tmp_path / "inner-rim.sqlite"


@pytest.fixture
def store(file):
    made = Repository(sqlite_url(file))
    yield made
    made.close()


def filled(store):
    job = store.create({**ordinary(rim__name="Saltmarsh box rim"), "customer": "Ranger post east"}, {}, NOW)
    other = store.create(ordinary(name="Tern rear"), {}, NOW)
    store.append(job, 0, StepEntry(stage="tape", text="lifted at the joint"), NOW)
    store.append(job, 0, Attempt(peak_kpa=150, outcome="both_up", limit_kpa=340), "2026-11-25T10:00:00+00:00")
    store.append(other, 0, SignOff(by="M. Osier", pressure_kpa=190), NOW)
    return job, other


def found(store, *args):
    return [(hit.name, type(hit.item.entry).__name__) for hit in store.logbook.search(*args)]


def test_every_word_s_beginning_is_enough_in_any_order(store):
    filled(store)
    assert found(store, "join lift") == [("Sandpiper front", "StepEntry")]
    assert found(store, "saltm")[0] == ("Sandpiper front", "Attempt")  # newest first
    assert found(store, "ranger both up") == [("Sandpiper front", "Attempt")]
    assert found(store, "osier") == [("Tern rear", "SignOff")]
    assert found(store, "45-622 tern") == [("Tern rear", "SignOff")]
    assert found(store, "nothing like it") == [] and len(found(store, "")) == 3


def test_kind_and_time_narrow_it(store):
    filled(store)
    assert found(store, "", ("attempt",)) == [("Sandpiper front", "Attempt")]
    assert found(store, "", (), "2026-11-25T00:00:00+00:00") == [("Sandpiper front", "Attempt")]
    assert found(store, "sandpiper", ("sign_off",)) == []


@pytest.mark.parametrize(
    "words", ['"', "'; DROP TABLE log; --", "a OR b", "NEAR(", "*", "ä", "-tape", "col:tape"]
)
def test_no_words_break_the_search(store, words):
    filled(store)
    assert isinstance(found(store, words), list)


def test_a_put_away_wheel_keeps_its_story(store):
    job, _other = filled(store)
    store.put_away(job, NOW)
    story = store.logbook.job(job)
    assert story.archived and [type(item.entry).__name__ for item in story.log] == ["StepEntry", "Attempt"]
    assert store.logbook.job(999) is None and len(found(store, "saltmarsh")) == 2


def test_what_worked_is_counted_from_attempts_with_a_change(store):
    job, _other = filled(store)
    store.append(job, 0, Attempt(peak_kpa=9, outcome="both_up", limit_kpa=340, changed=("wet",)), NOW)
    assert [attempt.changed for attempt in store.logbook.attempts()] == [("wet",)]


def test_an_older_database_s_log_can_be_searched_after_its_migration(store, file):
    job, _other = filled(store)
    store.close()
    with sqlite3.connect(file) as old:  # as it was before the search
        old.execute("DROP TABLE log_search")
        old.execute("DROP INDEX log_kind")
        old.execute("DELETE FROM migrations WHERE name LIKE '0003%'")
    old.close()
    again = Repository(sqlite_url(file))
    assert found(again, "lifted") == [("Sandpiper front", "StepEntry")]
    again.append(job, 0, Note(text="lifted again"), NOW)
    assert len(found(again, "lifted")) == 2
    again.close()
