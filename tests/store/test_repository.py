"""The store, on SQLite and on PostgreSQL: what goes in comes out, once, whole, or not at all."""

import os
import shutil
import sqlite3
import subprocess
import sys
import threading
import time
from types import SimpleNamespace

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from inner_rim.core.plan.picking import Booking, Use
from inner_rim.core.record.log import Attempt, Note, Reading, SignOff, StepEntry, Unreadable
from inner_rim.core.record.operations import (
    AddWheel,
    RemoveWheel,
    SetDraft,
    SetField,
    UnacceptedText,
)
from inner_rim.core.record.parts import item_from
from inner_rim.core.record.units import UnitChoice
from inner_rim.store import database, errors
from inner_rim.store.database import reading_url, sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.snapshot import snapshot
from inner_rim.store.statements import NewEntry
from inner_rim.work.tasks.exchange import export_to
from tests.samples import stored

NOW = "2026-11-24T10:00:00+00:00"


@pytest.fixture
def store(url):
    made = Repository(url, busy_seconds=0.2)
    yield made
    made.close()


@pytest.fixture
def file(tmp_path):
    return tmp_path / "data" / "inner-rim.sqlite"


def created(store, job_id="job-1", **changes):
    store.create(job_id, stored(**changes), NOW)
    return job_id


def note(store, words, uid, job_id="job-1", **more):
    return store.append(job_id, "w1", [NewEntry(uid, NOW, Note(text=words))], **more)


def sql(store, statement, **values):
    with store.database.engine.begin() as connection:
        return connection.execute(text(statement), values)


def test_what_is_stored_comes_back(store):
    created(store)
    entry = Attempt(peak_kpa=150, outcome="not_up", limit_kpa=340)
    (logged,) = store.append("job-1", "w1", [NewEntry("e1", NOW, entry)])
    store.set_setting("practice.dose", "lean")
    bench = store.bench()
    assert bench.jobs[0].document == stored() and bench.jobs[0].log == (logged,)
    assert bench.settings["practice.dose"] == "lean" and not bench.unreadable
    store.set_setting("practice.dose", None)
    assert "practice.dose" not in store.bench().settings


def test_what_is_tried_again_is_there_once(store):
    item = store.shelf.add(
        item_from("tape", {"name": "Ebb 27", "width_mm": 27}, stock=900.0, item_id="p1"),
        NOW,
        "counted",
    )
    assert store.shelf.add(item, NOW, "counted") == item
    booking = Booking(uses=(("tape", Use("p1", 200.0)),), uid="e1")
    for _ in range(2):
        created(store)
        first = note(store, "as found", "e1", booking=booking)
        store.edit("job-1", [SetField("w1", "rim.spokes", 28, 32)], NOW)
        store.shelf.count("p1", 690.0, 700.0, NOW, "counted", "c1")
    assert note(store, "as found", "e1") == first
    job = store.bench().jobs[0]
    assert len(job.log) == 1 and job.revision == 2 and store.shelf.all()[0].stock == 690.0


def test_edits_join_field_by_field_and_an_older_one_stands_aside(store):
    created(store)
    one = store.edit("job-1", [SetField("w1", "rim.internal_width_mm", 26, 24)], NOW)
    assert not one.conflicts and one.revision == 2
    two = store.edit(
        "job-1",
        [
            SetField("w1", "rim.internal_width_mm", 25, 24),
            SetField("", "ride.total_mass_kg", 80, 98),
        ],
        NOW,
    )
    wheel = two.document["wheels"][0]
    assert wheel["rim"]["internal_width_mm"] == 26 and two.document["ride"]["total_mass_kg"] == 80
    assert [(c.operation.value, c.stored, c.reason) for c in two.conflicts] == [(25, 26, "changed")]
    assert store.bench().jobs[0].document == two.document


def test_a_wheel_with_a_log_is_not_removed_and_a_changed_one_neither(store):
    created(store)
    twin = {**stored()["wheels"][0], "wheel_id": "w2", "name": "twin"}
    store.edit("job-1", [AddWheel(twin)], NOW)
    assert (
        store.edit("job-1", [RemoveWheel("w2", {**twin, "name": "as it was"})], NOW)
        .conflicts[0]
        .reason
        == "changed"
    )
    store.append("job-1", "w2", [NewEntry("e1", NOW, Note(text="seen"))])
    assert store.edit("job-1", [RemoveWheel("w2", twin)], NOW).conflicts[0].reason == "logged"
    assert store.edit("job-1", [RemoveWheel("w1", stored()["wheels"][0])], NOW).conflicts == ()
    assert (
        store.edit("job-1", [SetField("w1", "name", "x", "y")], NOW).conflicts[0].reason == "gone"
    )
    assert [wheel["wheel_id"] for wheel in store.bench().jobs[0].document["wheels"]] == ["w2"]


def test_a_draft_keeps_its_units(store):
    created(store)
    typed = UnacceptedText("36", UnitChoice(kpa="psi"))
    store.edit("job-1", [SetDraft("w1", "tire.max_pressure_kpa", typed)], NOW)
    assert store.bench().jobs[0].drafts == {("w1", "tire.max_pressure_kpa"): typed}


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("rim.spokes", 9999, "144"), ("rim.spokes", "many", "int"), ("name", "x" * 201, "200"),
        ("name", "half \ud83d", "half a character"), ("name", "a\0b", "NUL"), ("rim.color", "red", "unknown"),
        ("rim", 5, "rim"), ("wheel_id", None, "identity"),
    ],
)  # fmt: skip
def test_nothing_that_could_not_be_read_back_gets_in(store, field, value, says):
    created(store)
    old = stored()["wheels"][0]
    with pytest.raises(errors.StoreRefused, match=says):
        base = old["rim"].get("spokes") if field == "rim.spokes" else old.get(field)
        store.edit("job-1", [SetField("w1", field, value, base)], NOW)
    assert store.bench().jobs[0].document == stored() and not store.bench().unreadable


@pytest.mark.parametrize(
    "entry",
    [
        Attempt(peak_kpa=150, outcome="one_low", limit_kpa=340, low_left=(9,)),
        Attempt(peak_kpa=150, outcome="one_low", limit_kpa=340, low_right=(0,)),
        SignOff(by="n" * 201, pressure_kpa=200), SignOff(by="", pressure_kpa=200),
        Reading(pressure_kpa=float("nan")), Reading(pressure_kpa=200, temperature_c=9e9),
        Note(text="x" * 2001), Note(text="cut \udc00"), StepEntry(stage="s" * 101),
    ],
)  # fmt: skip
def test_an_entry_that_could_not_be_read_back_is_refused_with_all_that_follows(store, entry):
    created(store)
    store.shelf.add(
        item_from("tape", {"name": "Ebb 27", "width_mm": 27}, stock=900.0, item_id="p1"),
        NOW,
        "counted",
    )
    booking = Booking(uses=(("tape", Use("p1", 200.0)),), uid="b")
    with pytest.raises(errors.StoreRefused):
        store.append(
            "job-1",
            "w1",
            [NewEntry("e0", NOW, Note(text="before")), NewEntry("e1", NOW, entry)],
            booking,
        )
    assert store.bench().jobs[0].log == () and store.shelf.all()[0].stock == 900.0
    assert store.logbook.search("before") == ()


def test_rows_that_cannot_be_read_are_kept_and_everything_else_loads(store):
    created(store)
    note(store, "sound", "e1")
    store.shelf.add(item_from("tape", {"name": "Ebb 27", "width_mm": 27}), NOW, "counted")
    store.create("job-2", stored(), NOW)
    body = '{"kind":"attempt","peak_kpa":150,"outcome":"one_low","limit_kpa":340,"low_left":[9]}'
    insert = "INSERT INTO log (uid, job_uid, wheel_id, at, kind, body) VALUES (:u, 'job-1', 'w1', :at, 'attempt', :b)"
    sql(store, insert, u="odd", at=NOW, b=body)
    sql(store, insert, u="late", at="yesterday", b='{"kind":"note","text":"when?"}')
    sql(store, "UPDATE jobs SET document = :b WHERE uid = 'job-2'", b='{"wheels":5}')
    sql(store, "UPDATE parts SET spec = :b", b='{"width_mm":"wide"}')
    sql(store, "INSERT INTO settings (name, value) VALUES ('practice.dose', '{')")
    bench = store.bench()
    assert [job.job_id for job in bench.jobs] == ["job-1"]
    entries = [item.entry for item in bench.jobs[0].log]
    assert (
        entries[0] == Note(text="sound")
        and isinstance(entries[1], Unreadable)
        and entries[1].body == body
    )
    assert isinstance(entries[2], Unreadable)
    result = {(row.table, row.body) for row in store.logbook.unreadable()}
    assert result == {("jobs", '{"wheels":5}'), ("parts", '{"width_mm":"wide"}'), ("settings", "{")}
    assert len(store.logbook.search("")) == 3 and store.shelf.all() == ()
    note(store, "goes on", "e3")
    assert store.edit("job-1", [SetField("", "bike", "Tern")], NOW).revision == 2
    with pytest.raises(errors.StoreRefused, match="cannot be read"):
        store.edit("job-2", [SetField("", "bike", "Tern")], NOW)


def test_log_entries_cannot_be_changed_even_with_sql(store):
    created(store)
    note(store, "as found", "e1")
    statements = ["UPDATE log SET body = 'x'", "DELETE FROM log"]
    if store.database.is_sqlite:
        statements += [
            "INSERT OR REPLACE INTO log (id, uid, job_uid, wheel_id, at, kind, body) VALUES (1, 'z', 'j', 'w', 'a', 'k', 'x')",
            "INSERT OR REPLACE INTO log (uid, job_uid, wheel_id, at, kind, body) VALUES ('e1', 'j', 'w', 'a', 'k', 'x')",
        ]
    else:
        statements.append("TRUNCATE log")
    for statement in statements:
        with pytest.raises(DBAPIError, match="never changed"):
            sql(store, statement)
    assert store.bench().jobs[0].log[0].entry == Note(text="as found")


def test_two_windows_may_start_at_the_same_moment(url, tmp_path):
    code = "import sys; from inner_rim.store.repository import Repository; Repository(sys.argv[1]).close()"
    running = [subprocess.Popen([sys.executable, "-c", code, url]) for _ in range(3)]
    assert [process.wait(60) for process in running] == [0, 0, 0]


def test_full_synchronization_and_write_ahead_log(tmp_path):
    store = Repository(sqlite_url(tmp_path / "x.sqlite"))
    with store.database.engine.connect() as connection:
        values = [
            connection.exec_driver_sql(f"PRAGMA {name}").scalar()
            for name in ("journal_mode", "synchronous")
        ]
    store.close()
    assert values == ["wal", 2]


def test_the_first_look_agrees(tmp_path):
    file = tmp_path / "x.sqlite"
    store = Repository(sqlite_url(file))
    created(store)
    note(store, "as found", "e1")
    store.shelf.add(
        item_from("tape", {"name": "Ebb 27", "width_mm": 27}, stock=9.0), NOW, "counted"
    )
    assert snapshot(file) == store.bench() and store.bench().stocked[0].stock == 9.0
    store.close()


def test_each_fault_of_a_file_is_one_sentence(tmp_path):
    file = tmp_path / "x.sqlite"
    store = Repository(sqlite_url(file), busy_seconds=0.2)
    created(store)
    holder = sqlite3.connect(file, isolation_level=None)
    holder.execute("BEGIN IMMEDIATE")
    with pytest.raises(errors.StoreLocked, match="in use"):
        store.edit("job-1", [SetField("", "bike", "Tern")], NOW)
    holder.execute("ROLLBACK")
    holder.close()
    with store.database.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(errors.StoreFull, match="disk is full"):
        for n in range(20):
            note(store, "x" * 2000, f"e{n}")
    store.close()
    damaged = tmp_path / "damaged.sqlite"
    damaged.write_bytes(b"not a database, certainly " * 400)
    with pytest.raises(errors.StoreForeign, match="not a database of this program"):
        Repository(sqlite_url(damaged))
    foreign = tmp_path / "foreign.sqlite"
    with sqlite3.connect(foreign) as other:
        other.execute("CREATE TABLE recipes (soup TEXT)")
    other.close()
    before = foreign.read_bytes()
    with pytest.raises(errors.StoreForeign, match="not a database of this program"):
        Repository(sqlite_url(foreign))
    # but for the header of a file that was opened
    assert foreign.read_bytes()[100:] == before[100:]
    with pytest.raises(errors.StoreUnreachable, match="cannot be opened"):
        Repository(sqlite_url(tmp_path / "no" / "such" / "folder" / "x.sqlite"))
    read_only = Repository(reading_url(file), read_only=True)
    assert len(read_only.bench().jobs) == 1
    with pytest.raises(errors.StoreReadOnly, match="read-only"):
        created(read_only, "job-9")
    read_only.close()


@pytest.mark.parametrize(
    "url",
    [
        "foo",
        "sqlite://",
        "sqlite:///:memory:",
        "mysql://u:secret@h/n",
        "http://x",
        "postgresql+nodriver://h/n",
        "",
    ],
)
def test_a_url_of_no_database_is_refused_without_its_password(url):
    with pytest.raises(errors.StoreMisnamed, match="INNER_RIM_DATABASE") as caught:
        Repository(url)
    assert "secret" not in caught.value.sentence


def test_a_server_that_refuses_or_is_down_is_one_sentence_without_the_password(server):
    wrong = server.new_database().replace(server.url("x").split(":")[2].split("@")[0], "wrong-word")
    gone = server.url("postgres").replace(f":{server.port}/", ":1/")
    for url in (wrong, gone, server.url("no_such_name")):
        with pytest.raises(errors.StoreUnreachable, match="does not answer, or refuses") as caught:
            Repository(url)
        assert "word" not in caught.value.sentence and "water" not in caught.value.sentence


def test_a_server_that_restarts_loses_nothing(server):
    store = Repository(server.new_database())
    created(store)
    server.stop()
    with pytest.raises(errors.StoreUnreachable) as caught:
        note(store, "while it is down", "e1")
    assert caught.value.passing
    server.start()
    note(store, "while it is down", "e1")
    assert len(store.bench().jobs[0].log) == 1
    store.close()


TYPIST = """
import itertools, sys
from pathlib import Path
from inner_rim.core.record.log import Note
from inner_rim.work.bench import Bench
from inner_rim.work.storage.worker import StoreWorker
from inner_rim.work.storage.source import opener
bench = Bench()
worker = StoreWorker(opener(Path(sys.argv[1])), lambda call: call(), bench.sync)
bench.worker = worker
worker.start()
bench.editor.new_wheel()
for n in itertools.count():
    bench.editor.type_into("name", f"typed {n}")
    bench.recorder.note(f"note {n}")
    while worker.waiting:
        pass
    print(n, flush=True)
"""


@pytest.mark.parametrize("round_number", range(6))
def test_kill_at_any_moment_loses_at_most_the_keystroke_in_flight(file, round_number):
    command = [sys.executable, "-c", TYPIST, str(file)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        for _ in range(3 + 2 * round_number):
            assert process.stdout.readline()
        until = time.perf_counter() + 0.0013 * round_number  # another moment each time
        while time.perf_counter() < until:
            pass
        process.kill()
        rest = process.communicate()[0].split()
    last = int(rest[-1]) if rest else 2 + 2 * round_number
    result = snapshot(file) or Repository(sqlite_url(file)).bench()
    name = result.jobs[0].document["wheels"][0]["name"]
    assert int(name.removeprefix("typed ")) in (last, last + 1)
    notes = [entry.entry.text for entry in result.jobs[0].log]
    assert notes in ([f"note {n}" for n in range(last + 1)], [f"note {n}" for n in range(last + 2)])
    with sqlite3.connect(file) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    connection.close()


def test_bytes_that_are_no_text_make_one_row_unreadable_and_no_other(tmp_path):
    """A bit that flipped inside a stored document: SQLite's own check finds nothing."""
    file = tmp_path / "x.sqlite"
    store = Repository(sqlite_url(file))
    for n in range(3):
        created(store, f"job-{n}")
        note(store, f"note {n}", f"e{n}", f"job-{n}")
    sql(
        store,
        "UPDATE jobs SET document = CAST(replace(CAST(document AS BLOB), x'6f', x'ef') AS TEXT) WHERE uid = 'job-1'",
    )
    sql(store, "UPDATE settings SET value = CAST(x'22ff22' AS TEXT)")
    sql(store, "INSERT INTO settings (name, value) VALUES (CAST(x'ff' AS TEXT), '1')")
    sql(
        store,
        "INSERT INTO log (uid, job_uid, wheel_id, at, kind, body) VALUES (CAST(x'ff41' AS TEXT), 'job-0', 'w1', '2026', 'note', CAST(x'7bff' AS TEXT))",
    )
    bench = store.bench()
    assert [job.job_id for job in bench.jobs] == ["job-0", "job-2"]
    assert [type(item.entry) for item in bench.jobs[0].log] == [Note, Unreadable]
    assert {row.table for row in bench.unreadable} == {"jobs", "settings"}
    assert snapshot(file) == bench
    assert len(store.logbook.search("")) == 4 and len(store.logbook.search("note")) >= 2
    store.logbook.rebuild_index()
    assert (
        store.logbook.place_of_code("w1") is not None
        and store.logbook.handed_over("x", "y") is None
    )
    said = export_to(store, tmp_path / "out")
    assert (
        said.startswith("2 jobs")
        and rb"\xef" in (tmp_path / "out" / "jobs" / "0002-unreadable.txt").read_bytes()
    )
    note(store, "goes on", "e9", "job-1")
    store.close()


READER = """
import sys
from pathlib import Path
from inner_rim.work.storage.source import open_file
store = open_file(Path(sys.argv[1]))
print(store.read_only, [job.document["bike"] for job in store.bench().jobs])
"""


@pytest.mark.parametrize("log_left_behind", [True, False])
def test_a_read_only_disk_is_read_with_the_log_that_a_crash_left_behind(tmp_path, log_left_behind):
    disk = tmp_path / "disk"
    disk.mkdir()
    store = Repository(sqlite_url(tmp_path / "x.sqlite"))
    created(store)
    store.edit("job-1", [SetField("", "bike", "Tern")], NOW)
    if not log_left_behind:
        store.close()
    for part in tmp_path.glob("x.sqlite*"):
        if not part.name.endswith("-shm"):
            shutil.copyfile(part, disk / part.name)
    if log_left_behind:
        assert (disk / "x.sqlite-wal").stat().st_size > 0
        store.close()
    for path in (*disk.iterdir(), disk):
        path.chmod(0o555)
    for folder in (
        tmp_path,
        tmp_path.parent,
        tmp_path.parent.parent,
        tmp_path.parent.parent.parent,
    ):
        folder.chmod(folder.stat().st_mode | 0o055)
    other = (
        ["setpriv", "--reuid=nobody", "--regid=nogroup", "--clear-groups"]
        if os.getuid() == 0
        else []
    )
    command = [*other, sys.executable, "-c", READER, str(disk / "x.sqlite")]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60)
    disk.chmod(0o755)
    assert done.stdout == "True ['Tern']\n", done.stderr


def test_edits_tried_again_after_their_answer_was_lost_are_there_once(store):
    """Whatever another window has stored meanwhile, it stands; what was refused is told again."""
    created(store)
    mine = [SetField("", "bike", "Tern", None), SetField("", "customer", "Ada", "Bo")]
    first = store.edit("job-1", mine, NOW, "edit-1")
    assert [conflict.reason for conflict in first.conflicts] == ["changed"]
    # as if it had never been
    store.edit("job-1", [SetField("", "bike", None, "Tern")], NOW, "edit-2")
    again = store.edit("job-1", mine, NOW, "edit-1")
    assert again.document.get("bike") is None and again.conflicts == first.conflicts


def test_text_that_is_not_accepted_is_never_taken_from_another_window(store):
    created(store)
    one, two = UnacceptedText("six"), UnacceptedText("8?")
    store.edit("job-1", [SetDraft("w1", "rim.spokes", one)], NOW)
    edited = store.edit("job-1", [SetDraft("w1", "rim.spokes", two)], NOW)
    assert edited.drafts == {("w1", "rim.spokes"): one}
    assert [(c.reason, c.stored) for c in edited.conflicts] == [("changed", one)]
    undone = store.edit("job-1", [SetDraft("w1", "rim.spokes", None, two)], NOW)
    assert undone.drafts == {("w1", "rim.spokes"): one} and undone.conflicts == ()
    assert store.edit("job-1", [SetDraft("w1", "rim.spokes", None, one)], NOW).drafts == {}


def test_a_server_is_given_up_for_its_own_silence_not_for_the_program_s(server, monkeypatch):
    late, looked = [0.0], threading.Semaphore(0)

    class Over(threading.Event):
        def wait(self, seconds=None):
            looked.release()  # it has looked, and waits to look again
            return super().wait(seconds)

    monkeypatch.setattr(database, "LOOK_SECONDS", 0.02)
    monkeypatch.setattr(
        database, "time", SimpleNamespace(monotonic=lambda: time.monotonic() + late[0])
    )
    monkeypatch.setattr(database, "threading", SimpleNamespace(Event=Over, Thread=threading.Thread))
    url = server.new_database()
    store, other = Repository(url), Repository(url)
    # a long import: the program takes its time between statements
    with store.database.writing() as connection:
        late[0] += 10.0 * database.ANSWER_SECONDS
        while looked.acquire(blocking=False):
            pass
        assert looked.acquire(timeout=20) and looked.acquire(timeout=20)
        connection.execute(
            text("INSERT INTO settings (name, value) VALUES ('practice.dose', '\"lean\"')")
        )
    assert store.bench().settings["practice.dose"] == "lean"
    with other.database.writing() as connection, monkeypatch.context() as patched:
        connection.execute(text("LOCK TABLE settings"))
        patched.setattr(database, "ANSWER_SECONDS", 0.3)
        with pytest.raises(errors.StoreUnreachable), store.database.reading() as waiting:
            waiting.execute(text("SELECT name FROM settings"))
    assert store.bench().settings["practice.dose"] == "lean"
    other.close()
    store.close()
