"""A damaged file, restored or set aside from the banner; work that cannot be stored, let go of: through the window."""

import json
import sqlite3
import threading
from datetime import UTC, datetime, timedelta

import pytest

from inner_rim.core.record.log import Note
from inner_rim.store import codec
from inner_rim.store.backup import back_up
from inner_rim.store.snapshot import snapshot
from inner_rim.work.tasks.rescue import restore_file
from tests.desk import check_in


def filled(session, qtbot):
    """A window with one wheel and a note, a backup of it, and the window closed again."""
    one = session()
    check_in(one.bench)
    one.bench.recorder.note("before the damage")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    one.finish()
    return one._file


def damaged(session, qtbot):
    file = filled(session, qtbot)
    back_up(file, datetime.now(UTC) + timedelta(hours=1))
    for name in ("", "-wal", "-shm"):
        file.with_name(file.name + name).unlink(missing_ok=True)
    file.write_bytes(b"scribble" * 2000)
    return file


def test_restore_puts_the_newest_backup_in_the_place_of_a_damaged_file(session, qtbot):
    file = damaged(session, qtbot)
    one = session(well=False)
    banner = one.window.banner
    qtbot.waitUntil(lambda: banner.restore.isVisible(), timeout=10000)
    assert "newest backup was made" in banner.words.text()
    banner.restore.click()
    qtbot.waitUntil(lambda: one.bench.current is not None and not banner.isVisible(), timeout=10000)
    assert [item.entry for item in one.bench.current.log] == [Note(text="before the damage")]
    one.bench.recorder.note("after it")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    assert [item.entry.text for item in snapshot(file).jobs[0].log] == [
        "before the damage",
        "after it",
    ]
    kept = [
        path
        for path in file.parent.iterdir()
        if path.is_file() and path.read_bytes()[:8] == b"scribble"
    ]
    assert len(kept) == 1  # the damaged file is beside it


def test_a_damaged_file_can_be_set_aside_and_work_goes_on_in_a_new_one(session, qtbot):
    file = damaged(session, qtbot)
    one = session(well=False)
    qtbot.waitUntil(lambda: one.window.banner.fresh.isVisible(), timeout=10000)
    check_in(one.bench)
    one.bench.recorder.note("typed meanwhile")
    one.window.banner.fresh.click()
    qtbot.waitUntil(
        lambda: not one.worker.waiting and not one.window.banner.isVisible(), timeout=10000
    )
    assert [item.entry.text for item in snapshot(file).jobs[0].log] == ["typed meanwhile"]


def test_what_can_never_be_stored_is_let_go_of_after_it_was_written_into_a_file(
    session, qtbot, monkeypatch
):
    file = filled(session, qtbot)
    one = session()
    banner = one.window.banner

    def broken(entry):
        raise ZeroDivisionError("a bug in the encoding")

    with monkeypatch.context() as patched:
        patched.setattr("inner_rim.store.statements.encoded_entry", broken)
        one.bench.recorder.note("this one never")
        qtbot.waitUntil(lambda: banner.discard.isVisible(), timeout=10000)
    assert len(one.bench.current.log) == 2
    banner.discard.click()
    qtbot.waitUntil(lambda: not banner.isVisible() and not one.worker.waiting, timeout=10000)
    assert [item.entry.text for item in one.bench.current.log] == ["before the damage"]
    (written,) = file.parent.glob("unsaved-work-*.json")
    saved = json.loads(written.read_text(encoding="utf-8"))
    assert [item["entry"]["text"] for item in saved["jobs"][0]["log"]] == [
        "before the damage",
        "this one never",
    ]


@pytest.mark.parametrize("body", ["{half", '{"job:rim.bike":{"text":5}}'])
def test_drafts_that_cannot_be_read_are_kept_when_the_job_is_edited(session, qtbot, body):
    file = filled(session, qtbot)
    with sqlite3.connect(file) as connection:
        connection.execute("UPDATE jobs SET drafts = ?", (body,))
    one = session()
    assert len(one.bench.sync.unreadable) == 1 and one.bench.current is not None
    one.bench.editor.type_into("bike", "Tern")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    rows = snapshot(file).unreadable
    assert [(row.table, row.body) for row in rows] == [("drafts", body)]
    assert codec.read_drafts(body) == {}


def test_a_restore_under_another_window_is_noticed_there_and_its_unsaved_work_is_kept(
    session, qtbot
):
    file = filled(session, qtbot)
    copy = back_up(file, datetime.now(UTC))
    one = session()
    one.bench.recorder.note("after the backup")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    go = threading.Event()
    one.worker.submit(lambda store: go.wait(10))
    one.bench.recorder.note("not stored yet")
    restore_file(copy, file)  # by another window, or from the command line
    go.set()
    log = lambda: [item.entry.text for item in one.bench.current.log] if one.bench.current else None  # noqa: E731
    qtbot.waitUntil(lambda: log() == ["before the damage"], timeout=10000)
    banner = one.window.banner
    assert (
        banner.isVisible()
        and "Not stored" in banner.words.text()
        and "log entry" in banner.words.text()
    )
    (written,) = file.parent.glob("unsaved-work-*.json")
    assert "not stored yet" in written.read_text(encoding="utf-8")
    one.bench.recorder.note("goes on")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    assert [item.entry.text for item in snapshot(file).jobs[0].log] == [
        "before the damage",
        "goes on",
    ]
    assert one.bench.history.past and not banner.restore.isVisible()
    one.worker.discard()


def test_a_job_that_cannot_be_read_is_said_and_a_backup_is_offered(session, qtbot):
    file = filled(session, qtbot)
    back_up(file, datetime.now(UTC))
    with sqlite3.connect(file) as connection:
        connection.execute("UPDATE jobs SET document = CAST(x'7bff7d' AS TEXT)")
    connection.close()
    one = session()
    banner = one.window.banner
    qtbot.waitUntil(lambda: banner.restore.isVisible(), timeout=10000)
    assert "A job on the bench cannot be read" in banner.words.text() and not one.bench.wheels
    banner.restore.click()
    qtbot.waitUntil(lambda: one.bench.current is not None and not banner.isVisible(), timeout=10000)


def noted(one):
    return [item.entry.text for item in one.bench.current.log] if one.bench.current else None


@pytest.mark.parametrize("whole_folder", [False, True])
def test_data_deleted_under_the_window_are_written_back(session, qtbot, whole_folder):
    """What is typed after the file went is kept, nothing is said to be stored, and all of it is in the file again."""
    file = filled(session, qtbot)
    one = session()
    banner = one.window.banner
    if whole_folder:
        file.parent.rename(file.parent.with_name("taken away"))
    else:
        for path in file.parent.glob(f"{file.name}*"):
            path.unlink()
    one.bench.recorder.note("typed after it went")
    qtbot.waitUntil(lambda: banner.moved.isVisible(), timeout=10000)
    assert "moved or deleted" in banner.words.text() and one.worker.waiting
    assert banner.moved.text() == "Write the data back" and not file.exists()
    assert noted(one) == ["before the damage", "typed after it went"]
    banner.moved.click()
    qtbot.waitUntil(lambda: not banner.isVisible() and not one.worker.waiting, timeout=10000)
    assert [item.entry.text for item in snapshot(file).jobs[0].log] == [
        "before the damage",
        "typed after it went",
    ]
    assert file.stat().st_mode & 0o077 == 0


def test_data_that_come_back_to_their_place_are_gone_on_with(session, qtbot):
    file = filled(session, qtbot)
    one = session()
    away = file.parent.with_name("taken away")
    file.parent.rename(away)
    one.bench.recorder.note("meanwhile")
    qtbot.waitUntil(lambda: one.window.banner.moved.isVisible(), timeout=10000)
    away.rename(file.parent)
    qtbot.waitUntil(
        lambda: not one.window.banner.isVisible() and not one.worker.waiting, timeout=10000
    )
    assert [item.entry.text for item in snapshot(file).jobs[0].log] == [
        "before the damage",
        "meanwhile",
    ]


def test_a_file_put_in_the_place_of_the_data_stays_whole_and_what_was_open_is_kept(session, qtbot):
    """A sync tool renames its own copy over the data: neither of the two loses an entry."""
    file = filled(session, qtbot)
    other = back_up(file, datetime.now(UTC))
    one = session()
    banner = one.window.banner
    one.bench.recorder.note("after the copy")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    theirs = file.with_name("theirs")
    theirs.write_bytes(other.read_bytes())
    theirs.replace(file)
    before = file.read_bytes()
    one.bench.recorder.note("not stored yet")
    qtbot.waitUntil(lambda: banner.moved.isVisible(), timeout=10000)
    assert file.read_bytes() == before
    banner.moved.click()
    qtbot.waitUntil(lambda: noted(one) == ["before the damage"], timeout=10000)
    (kept,) = file.parent.glob(f"{file.stem}-kept-*")
    assert [item.entry.text for item in snapshot(kept).jobs[0].log] == [
        "before the damage",
        "after the copy",
    ]
    (written,) = file.parent.glob("unsaved-work-*.json")
    assert "not stored yet" in written.read_text(encoding="utf-8")
    assert "Not stored" in banner.words.text() and banner.discard.isVisible()
    banner.discard.click()
    one.bench.recorder.note("goes on")
    qtbot.waitUntil(lambda: not one.worker.waiting and not banner.isVisible(), timeout=10000)
    assert [item.entry.text for item in snapshot(file).jobs[0].log] == [
        "before the damage",
        "goes on",
    ]


@pytest.mark.parametrize("replaced", [False, True])
def test_a_window_that_is_closed_after_its_data_went_leaves_them_behind(session, qtbot, replaced):
    file = filled(session, qtbot)
    other = back_up(file, datetime.now(UTC)).read_bytes()
    one = session()
    one.bench.recorder.note("after the copy")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    if replaced:
        theirs = file.with_name("theirs")
        theirs.write_bytes(other)
        theirs.replace(file)
    else:
        file.unlink()  # its log stays, and must not be read into another file
    one.finish()
    kept = next(file.parent.glob(f"{file.stem}-kept-*")) if replaced else file
    assert [item.entry.text for item in snapshot(kept).jobs[0].log] == [
        "before the damage",
        "after the copy",
    ]
    assert len(snapshot(file).jobs[0].log) == (1 if replaced else 2)
