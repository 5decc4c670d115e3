"""Copies of the data: daily, kept for 7 days and 4 weeks, sound, and put back."""

import os
import sqlite3
import stat
from datetime import UTC, date, datetime, timedelta

import pytest

from inner_rim.store import backup, errors
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.tasks.rescue import restore_file
from tests.samples import stored

NOW = datetime(2026, 11, 24, 10, tzinfo=UTC)


@pytest.fixture
def file(tmp_path):
    made = tmp_path / "inner-rim.sqlite"
    store = Repository(sqlite_url(made))
    store.create("job-1", stored(), NOW.isoformat())
    store.close()
    return made


def jobs(path):
    with sqlite3.connect(path) as connection:
        result = [uid for (uid,) in connection.execute("SELECT uid FROM jobs ORDER BY id")]
    connection.close()
    return result


def test_a_copy_is_made_once_a_day_and_kept_for_seven_days_and_four_weeks(file):
    assert (
        backup.daily(file, NOW) is not None and backup.daily(file, NOW + timedelta(hours=5)) is None
    )
    for days in range(1, 60):
        assert backup.daily(file, NOW + timedelta(days=days)) is not None
    made = [copy.made_at.date() for copy in backup.backups(file)]
    last = date(2026, 11, 24) + timedelta(days=59)
    assert made[-7:] == [last - timedelta(days=n) for n in range(6, -1, -1)]
    assert len(made) <= 7 + 4 and len({day.isocalendar()[1] for day in made}) == 4
    assert all(copy.file.stat().st_mode & 0o777 == 0o600 for copy in backup.backups(file))


def test_a_copy_is_whole_while_the_data_are_written_to(file):
    store = Repository(sqlite_url(file))
    store.create("job-2", stored(), NOW.isoformat())  # still in the write-ahead log
    copy = backup.back_up(file, NOW)
    store.close()
    assert jobs(copy) == ["job-1", "job-2"]


def test_a_copy_put_back_keeps_the_old_file_beside_it(file, tmp_path):
    copy = backup.back_up(file, NOW)
    store = Repository(sqlite_url(file))
    store.create("job-2", stored(), NOW.isoformat())
    store.close()
    words = restore_file(copy, file)
    assert jobs(file) == ["job-1"] and "Restored" in words
    (aside,) = tmp_path.glob("inner-rim.sqlite.old-*")
    assert jobs(aside) == ["job-1", "job-2"]


def test_a_program_that_has_the_data_open_is_refused_its_next_write_after_a_restore(file):
    copy = backup.back_up(file, NOW)
    store = Repository(sqlite_url(file))
    store.create("job-2", stored(), NOW.isoformat())
    restore_file(copy, file)
    for work in (
        lambda: store.create("job-3", stored(), NOW.isoformat()),
        store.bench,
        store.change,
    ):
        with pytest.raises(errors.StoreReplaced):
            work()
    store.close()
    again = Repository(sqlite_url(file))
    again.create("job-4", stored(), NOW.isoformat())
    again.close()
    assert jobs(file) == ["job-1", "job-4"]


def test_a_file_that_is_no_database_any_more_is_replaced_and_kept(file, tmp_path):
    copy = backup.back_up(file, NOW)
    file.write_bytes(b"gone " * 900)
    restore_file(copy, file)
    (aside,) = tmp_path.glob("inner-rim.sqlite.old-*")
    assert jobs(file) == ["job-1"] and aside.read_bytes().startswith(b"gone")


def test_nothing_is_copied_onto_the_data_or_what_is_no_file(file, tmp_path):
    store = Repository(sqlite_url(file))
    store.create("job-2", stored(), NOW.isoformat())
    link, hard, pipe = tmp_path / "link.sqlite", tmp_path / "hard.sqlite", tmp_path / "pipe"
    link.symlink_to(file)
    hard.hardlink_to(file)
    os.mkfifo(pipe)
    for target in (file, link, hard, tmp_path / "inner-rim.sqlite-wal", tmp_path, pipe):
        with pytest.raises(errors.StoreForeign):
            backup.copy(file, target)
    for source in (file, link, pipe):
        with pytest.raises(errors.StoreError):
            restore_file(source, file)
    assert stat.S_ISFIFO(pipe.stat().st_mode) and len(store.bench().jobs) == 2
    store.close()
    assert jobs(file) == ["job-1", "job-2"]


def test_a_clock_that_was_set_back_stops_no_backup(file):
    for days in range(20):
        backup.daily(file, NOW + timedelta(days=400 + days))
    for days in range(12):
        made = backup.daily(file, NOW + timedelta(days=days))
        assert made is not None and made.exists()
        assert backup.backups(file)[-1].file == made
    assert [copy.made_at.day for copy in backup.backups(file)[-3:]] == [3, 4, 5]


def test_what_is_not_sound_is_neither_kept_nor_put_back(file, tmp_path):
    before = file.read_bytes()
    bad = tmp_path / "bad.sqlite"
    bad.write_bytes(before[:4096] + b"\xa5" * (len(before) - 4096))
    for fault in (bad, tmp_path / "none.sqlite", tmp_path):
        with pytest.raises(errors.StoreError):
            restore_file(fault, file)
    empty = tmp_path / "empty.sqlite"
    sqlite3.connect(empty).execute("CREATE TABLE recipes (soup TEXT)").connection.close()
    with pytest.raises(errors.StoreForeign):
        restore_file(empty, file)
    assert jobs(file) == ["job-1"]
    with pytest.raises(errors.StoreError):
        backup.back_up(bad, NOW)
    assert backup.backups(bad) == [] and not list((tmp_path / "backup").glob("*"))


def test_a_backup_folder_that_cannot_be_made_is_a_sentence(file, tmp_path):
    (tmp_path / "backup").write_text("in the way")
    with pytest.raises(errors.StoreReadOnly, match="backup"):
        backup.back_up(file, NOW)
    with pytest.raises(errors.StoreReadOnly, match="not there"):  # longer than any folder's name
        backup.back_up(file, NOW, tmp_path / ("y" * 300))
