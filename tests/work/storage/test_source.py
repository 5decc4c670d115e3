import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from inner_rim.store.errors import StoreUnreachable
from inner_rim.work.storage.files import data_folder, database_file, database_url
from inner_rim.work.storage.source import DailyBackup, first_look, open_file, opener
from tests.samples import stored


def test_one_switch_puts_everything_under_one_folder(monkeypatch, tmp_path):
    monkeypatch.setenv("INNER_RIM_HOME", str(tmp_path / "here"))
    assert database_file(data_folder()) == tmp_path / "here" / "inner-rim.sqlite"
    monkeypatch.delenv("INNER_RIM_HOME")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    assert data_folder() == tmp_path / "share" / "inner-rim"
    assert database_url() is None
    monkeypatch.setenv("INNER_RIM_DATABASE", "sqlite:///x")
    assert database_url() == "sqlite:///x"


def test_a_first_look_at_nothing_is_nothing(tmp_path):
    assert first_look(tmp_path / "none.sqlite") is None


def test_the_first_look_reads_what_the_repository_stored(tmp_path):
    file = tmp_path / "deep" / "er" / "inner-rim.sqlite"
    repository = opener(file)()
    repository.set_setting("theme", {"name": "dark", "scale": 1.25})
    repository.close()
    assert first_look(file).settings["theme"] == {"name": "dark", "scale": 1.25}


def test_another_database_by_its_url(tmp_path):
    repository = opener(Path("/nowhere/x.sqlite"), f"sqlite:///{tmp_path / 'shop.sqlite'}")()
    assert repository.bench().jobs == ()
    repository.close()


def test_a_data_folder_that_cannot_be_made_is_a_sentence(tmp_path):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(StoreUnreachable, match="cannot be used"):
        opener(tmp_path / "file" / "data" / "x.sqlite")()


def test_the_installed_command_plans_and_prints_its_schema(tmp_path):
    import json

    from tests.samples import ordinary

    program = Path(sys.executable).with_name("inner-rim")
    job = tmp_path / "job.json"
    job.write_text(json.dumps(ordinary()), encoding="utf-8")
    done = subprocess.run([program, "plan", job], capture_output=True, text=True)
    assert done.returncode == 0 and done.stdout.startswith("Sandpiper front\n=====")
    head = subprocess.Popen(
        f"'{program}' schema | head -1",
        shell=True,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )
    out, err = head.communicate()
    assert out == "{\n" and "Traceback" not in err
    assert subprocess.run([program, "--version"], capture_output=True, text=True).stdout.startswith(
        "inner-rim 0."
    )
    assert subprocess.run([program, "plan"], capture_output=True, text=True).returncode == 2


def test_damage_that_no_row_shows_is_said_and_never_backed_up(tmp_path):
    """A page of an index: the rows are there, and a question that goes by the index does not find them."""
    file = tmp_path / "inner-rim.sqlite"
    store = open_file(file)
    for n in range(4):
        store.create(f"job-{n}", stored(), "2026-11-24T10:00:00+00:00")
    assert DailyBackup(file)(store) == ""
    store.close()
    with sqlite3.connect(file) as connection:
        connection.execute("PRAGMA journal_mode = DELETE")
        (page,) = connection.execute(
            "SELECT rootpage FROM sqlite_master WHERE name = 'jobs_archived'"
        ).fetchone()
    connection.close()
    data = bytearray(file.read_bytes())
    data[(page - 1) * 4096 + 8] ^= 0x08
    file.write_bytes(data)
    for copy in (tmp_path / "backup").iterdir():
        copy.unlink()
    store = open_file(file)
    assert "damaged" in DailyBackup(file)(store) and not list((tmp_path / "backup").iterdir())
    store.close()
