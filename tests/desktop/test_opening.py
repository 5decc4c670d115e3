"""A job file opened while a window runs goes to that window; without one, a window opens on it."""

import contextlib
import json
import sqlite3
import subprocess
import sys

from inner_rim.cli import main
from tests.samples import ordinary


def rows(home, query):
    with contextlib.closing(sqlite3.connect(home / "inner-rim.sqlite")) as connection:
        return connection.execute(query).fetchall()


def opened(path, *flags):
    return subprocess.run(
        [sys.executable, "-m", "inner_rim.cli", "open", str(path), *flags],
        capture_output=True,
        text=True,
        timeout=60,
    )


def test_a_job_file_goes_to_the_window_that_runs(session, qtbot, tmp_path):
    one = session()
    one.window.go_to("shelf")
    before = {state.key for state in one.bench.wheels}
    file = tmp_path / "curlew.json"
    file.write_text(json.dumps(ordinary()), encoding="utf-8")
    for _ in range(2):  # the second time it is there already, and nothing of it is overwritten
        done = opened(file)
        assert done.returncode == 0 and "Traceback" not in done.stderr, done.stderr
        qtbot.waitUntil(lambda: one.window.page_shown == "bench", timeout=8000)
        assert one.bench.current.key not in before
        assert one.bench.current.value("tire.size") == ordinary()["wheels"][0]["tire"]["size"]
        one.bench.editor.type_into("name", "Kept")
        qtbot.waitUntil(lambda: not one.worker.waiting, timeout=8000)
        one.window.go_to("shelf")
    assert one.bench.current.name == "Kept" and len(one.bench.wheels) == len(before) + 1


def test_without_a_window_one_opens_on_the_job(own_home, tmp_path, monkeypatch):
    shown = {}
    monkeypatch.setattr("inner_rim.desktop.app.run", lambda **given: shown.update(given) or 0)
    file = tmp_path / "curlew.json"
    file.write_text(json.dumps(ordinary()), encoding="utf-8")
    assert main(["open", str(file)]) == 0
    ((job_id, document),) = rows(own_home, "SELECT uid, document FROM jobs")
    assert shown["show"] == (job_id, json.loads(document)["wheels"][0]["wheel_id"])
    file.write_text("{}", encoding="utf-8")
    assert main(["open", str(file)]) == 2
