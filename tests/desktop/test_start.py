import os
import re
import subprocess
import sys

import pytest

from inner_rim.store.snapshot import snapshot
from tests.desktop.real_window import needs, screen, wait_for, xdo

PROGRAM = [sys.executable, "-m", "inner_rim.cli"]


def run(*args, **env):
    clean = {
        k: v
        for k, v in os.environ.items()
        if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    return subprocess.run(
        [*PROGRAM, *args], env={**clean, **env}, capture_output=True, text=True, timeout=120
    )


@pytest.mark.parametrize(
    "flags", [["--demo", "--smoke"], ["--demo", "--smoke-start"], ["--smoke"], ["--smoke-start"]]
)
def test_smoke_paints_prints_and_leaves(flags, own_home):
    done = run(*flags)
    assert done.returncode == 0 and done.stderr == "", done.stderr
    assert re.fullmatch(r"first paint \d+ ms, first wheel usable \d+ ms\n", done.stdout)
    assert not (own_home.exists() and "--demo" in flags)  # the demo never touches the user's data


BROKEN = """
import sys, threading
from inner_rim.desktop import app
before = app.Smoke._paint_pages
def paint(smoke):
    thread = threading.Thread(target={target})
    thread.start()
    thread.join()
    before(smoke)
app.Smoke._paint_pages = paint
sys.exit(app.run(demo=True, smoke=True, smoke_start=False, started=0.0))
"""


@pytest.mark.parametrize(("target", "status"), [("lambda: 1 / 0", 1), ("lambda: None", 0)])
def test_smoke_fails_where_any_thread_raised(target, status, own_home):
    clean = {
        k: v
        for k, v in os.environ.items()
        if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    code = [sys.executable, "-c", BROKEN.format(target=target)]
    done = subprocess.run(code, env=clean, capture_output=True, text=True, timeout=120)
    assert (done.returncode, "ZeroDivisionError" in done.stderr) == (status, bool(status)), (
        done.stderr
    )


def test_a_damaged_data_file_opens_the_window_and_is_left_alone(own_home):
    own_home.mkdir()
    file = own_home / "inner-rim.sqlite"
    file.write_bytes(b"scribble" * 1000)
    done = run("--smoke")
    assert done.returncode == 0 and "Traceback" not in done.stderr
    assert file.read_bytes() == b"scribble" * 1000


def test_a_wheel_made_before_the_others_are_worked_out_stays_selected(qapp, own_home, monkeypatch):
    """The first job is planned before the others; a key may be faster than these."""
    from inner_rim.desktop.app import Session

    one = Session(own_home, demo=True)
    monkeypatch.setattr(one, "start_storing", lambda: None)
    one.fill()
    assert len({state.key[0] for state in one.bench.wheels}) == 1
    one.window.run("new_wheel")
    assert one.bench.current.name.startswith("Wheel") and len(one.bench.wheels) > 5
    one._ready()
    assert one.bench.current.name.startswith("Wheel")
    one.finish()


@pytest.mark.real_window
def test_a_real_window_takes_real_keys(own_home, tmp_path):
    """Under Xvfb with xdotool: a wheel is typed, the process killed, the wheel is there again."""
    needs("Xvfb", "xdotool")
    with screen(own_home) as env:
        program = subprocess.Popen(PROGRAM, env=env, stderr=subprocess.PIPE, text=True)
        try:
            window = wait_for(
                lambda: xdo(env, "search", "--onlyvisible", "--name", "Inner Rim"), program
            )
            # the bench is ready
            wait_for(lambda: (own_home / "inner-rim.sqlite-wal").exists(), program)
            xdo(env, "windowfocus", "--sync", window.split()[-1])
            xdo(env, "key", "--delay", "60", "ctrl+n")
            # a slow machine takes its time
            wait_for(lambda: stored_rim(own_home) is not None, program)
            xdo(env, "key", "--delay", "60", "Return", "Return", "Return", "Return")
            for text, name in (("Marsh", "name"), ("24", "internal_width_mm")):
                xdo(env, "type", "--delay", "20", text)
                wait_for(
                    lambda n=name, t=text: (
                        f"{(stored_rim(own_home) or {}).get(n)}" in (t, f"{t}.0")
                    ),
                    program,
                )
                xdo(env, "key", "Return")
        finally:
            program.kill()
            program.communicate()
    assert stored_rim(own_home)["internal_width_mm"] == 24


def stored_rim(home):
    state = snapshot(home / "inner-rim.sqlite")
    return state.jobs[0].document["wheels"][0]["rim"] if state and state.jobs else None
