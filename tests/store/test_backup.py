"""Copies of the data: daily, kept for 7 days and 4 weeks, sound, and put back."""

import sqlite3
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
        found = [uid for (uid,) in connection.execute("SELECT uid FROM jobs ORDER BY id")]
    connection.close()
    return found


def test_a_copy_is_made_once_a_day_and_kept_for_seven_days_and_four_weeks(file):
    assert backup.daily(file, NOW) is not None and backup.daily(file, NOW + timedelta(hours=5)) is None
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


def test_nothing_is_put_back_while_the_program_has_the_data_open(file):
    copy = backup.back_up(file, NOW)
    store = Repository(sqlite_url(file))
    store.bench()
    with pytest.raises(errors.StoreLocked, match="has the data open"):
        restore_file(copy, file)
    store.close()
    assert jobs(file) == ["job-1"]


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
