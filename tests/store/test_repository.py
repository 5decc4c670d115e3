import sqlite3
import subprocess
import sys
import time

import pytest

from inner_rim.core.log import Attempt, Note
from inner_rim.store import errors, migrations, versions
from inner_rim.store.glance import glance
from inner_rim.store.repository import Repository, sqlite_url
from tests.samples import ordinary

NOW = "2026-11-24T10:00:00+00:00"


@pytest.fixture
def file(tmp_path):
    return tmp_path / "data" / "inner-rim.sqlite"


@pytest.fixture
def repository(file):
    file.parent.mkdir()
    made = Repository(sqlite_url(file), busy_seconds=0.2)
    yield made
    made.close()


def test_what_is_stored_comes_back_and_the_first_look_agrees(repository, file):
    job = repository.create(ordinary(), {"due": "soon"}, NOW)
    entry = Attempt(peak_kpa=150, outcome="not_up", limit_kpa=340)
    repository.append(job, 0, entry, NOW)
    repository.set_setting("units", {"kpa": "psi"})
    bench = repository.bench()
    assert bench.jobs[0].document == ordinary() and bench.jobs[0].drafts == {"due": "soon"}
    assert bench.jobs[0].log[0].entry == entry
    assert bench.settings == {"units": {"kpa": "psi"}}
    assert glance(file) == bench


def test_full_synchronisation_and_write_ahead_log(repository):
    with repository._engine.connect() as connection:
        values = [
            connection.exec_driver_sql(f"PRAGMA {name}").scalar() for name in ("journal_mode", "synchronous")
        ]
    assert values == ["wal", 2]


def test_an_old_revision_never_overwrites(repository):
    job = repository.create(ordinary(), {}, NOW)
    assert repository.save(job, ordinary(rim__spokes=28), {}, 1, NOW) == 2
    with pytest.raises(errors.ChangedElsewhere):
        repository.save(job, ordinary(rim__spokes=36), {}, 1, NOW)
    assert repository.bench().jobs[0].document["wheels"][0]["rim"]["spokes"] == 28


def test_log_entries_cannot_be_changed_even_with_sql(repository, file):
    repository.append(repository.create(ordinary(), {}, NOW), 0, Note(text="as found"), NOW)
    with sqlite3.connect(file) as connection:
        for statement in ("UPDATE log SET body = 'x'", "DELETE FROM log"):
            with pytest.raises(sqlite3.IntegrityError, match="never changed"):
                connection.execute(statement)
    connection.close()


def test_a_newer_database_is_refused_with_a_sentence_and_left_alone(repository, file):
    repository.close()
    with sqlite3.connect(file) as connection:
        connection.execute("INSERT INTO migrations VALUES ('0999 from the future', 998, ?)", (NOW,))
    connection.close()
    before = file.read_bytes()
    with pytest.raises(errors.StoreNewer, match="newer version"):
        Repository(sqlite_url(file))
    assert file.read_bytes() == before and glance(file) is None


def test_a_copy_is_made_before_migrating_and_a_failed_step_leaves_nothing(repository, file, monkeypatch):
    repository.create(ordinary(), {}, NOW)
    repository.close()

    def breaks(connection):
        connection.exec_driver_sql("CREATE TABLE half_done (x)")
        raise RuntimeError("step failed")

    monkeypatch.setattr(migrations, "STEPS", (*migrations.STEPS, breaks))
    for module in (migrations, versions):
        monkeypatch.setattr(
            module, "STEP_NAMES", (*versions.STEP_NAMES[: len(migrations.STEPS) - 1], "9998 breaks")
        )
    with pytest.raises(RuntimeError):
        Repository(sqlite_url(file))
    with sqlite3.connect(file) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master")}
        assert connection.execute("SELECT count(*) FROM jobs").fetchone() == (1,)
    connection.close()
    assert "half_done" not in tables
    copies = list((file.parent / "backup").glob("*.sqlite"))
    assert len(copies) == 1
    with sqlite3.connect(copies[0]) as connection:
        assert connection.execute("SELECT count(*) FROM jobs").fetchone() == (1,)
    connection.close()


def test_two_windows_may_start_at_the_same_moment(file):
    file.parent.mkdir()
    code = "import sys; from inner_rim.store.repository import *; from pathlib import Path; Repository(sqlite_url(Path(sys.argv[1]))).close()"
    running = [subprocess.Popen([sys.executable, "-c", code, str(file)]) for _ in range(3)]
    assert [process.wait(60) for process in running] == [0, 0, 0]


def test_each_fault_is_one_sentence(repository, file, tmp_path):
    job = repository.create(ordinary(), {}, NOW)
    holder = sqlite3.connect(file, isolation_level=None)
    holder.execute("BEGIN IMMEDIATE")
    with pytest.raises(errors.StoreLocked, match="in use"):
        repository.save(job, ordinary(), {}, 1, NOW)
    holder.execute("ROLLBACK")
    holder.close()

    with repository._engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(errors.StoreFull, match="disk is full"):
        repository.append(job, 0, Note(text="x" * 2000), NOW)
        for _ in range(20):
            repository.append(job, 0, Note(text="x" * 2000), NOW)

    read_only = Repository(f"sqlite:///file:{file}?mode=ro&uri=true")
    with pytest.raises(errors.StoreReadOnly, match="cannot be written"):
        read_only.create(ordinary(), {}, NOW)
    read_only.close()

    damaged = tmp_path / "damaged.sqlite"
    damaged.write_bytes(b"not a database, certainly " * 400)
    with pytest.raises(errors.StoreDamaged, match="not a database"):
        Repository(sqlite_url(damaged))
    with pytest.raises(errors.StoreUnreachable, match="cannot be opened"):
        Repository(sqlite_url(tmp_path / "no" / "such" / "folder" / "x.sqlite"))


TYPIST = """
import itertools, sys
from pathlib import Path
from inner_rim.work.bench import Bench
from inner_rim.work.keeper import Keeper
from inner_rim.work.opening import opener
bench = Bench()
keeper = Keeper(opener(Path(sys.argv[1])), lambda call: call(), bench)
bench.keeper = keeper
keeper.start()
bench.new_wheel()
for n in itertools.count():
    bench.type_into("name", f"typed {n}")
    bench.note(f"note {n}")
    while keeper.waiting:
        pass
    print(n, flush=True)
"""


@pytest.mark.parametrize("round_number", range(12))
def test_kill_at_any_moment_loses_at_most_the_keystroke_in_flight(file, round_number):
    process = subprocess.Popen([sys.executable, "-c", TYPIST, str(file)], stdout=subprocess.PIPE, text=True)
    for _ in range(3 + 2 * round_number):
        assert process.stdout.readline()
    until = time.perf_counter() + 0.0007 * round_number  # another moment each time
    while time.perf_counter() < until:
        pass
    process.kill()
    rest = process.communicate()[0].split()
    last = int(rest[-1]) if rest else 2 + 2 * round_number
    found = glance(file) or Repository(sqlite_url(file)).bench()
    name = found.jobs[0].document["wheels"][0]["name"]
    assert int(name.removeprefix("typed ")) in (last, last + 1)
    notes = [entry.entry.text for entry in found.jobs[0].log]
    assert notes in ([f"note {n}" for n in range(last + 1)], [f"note {n}" for n in range(last + 2)])
    with sqlite3.connect(file) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    connection.close()
