"""A real window under Xvfb: the server, and what xdotool says and does."""

import contextlib
import os
import shutil
import subprocess
import time

import pytest


def needs(*programs):
    """Skip where one of the programs is not installed."""
    missing = [name for name in programs if shutil.which(name) is None]
    if missing:
        pytest.skip(f"{', '.join(missing)} not installed: the real-window test cannot run")


@contextlib.contextmanager
def screen(home, size="1280x800x24"):
    """Give the environment of a screen of its own, on which a window opens on the data of `home`."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", size, "-nolisten", "tcp", "-noreset"],
        pass_fds=[write], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    with os.fdopen(read) as answer:
        display = ":" + answer.readline().strip()  # said once it listens
    env = {**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb", "INNER_RIM_HOME": str(home)}
    try:
        yield env
    finally:
        server.terminate()
        server.wait()


def xdo(env, *args):
    return subprocess.run(
        ["xdotool", *args], env=env, capture_output=True, text=True, timeout=20
    ).stdout.strip()


def wait_for(look, program, seconds=30.0):
    """Return what a look at another process finds, once it finds anything."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        found = look()
        if found:
            return found
        with contextlib.suppress(subprocess.TimeoutExpired):
            program.wait(0.05)  # another look then, or at once where it has ended
            raise AssertionError(program.stderr.read() if program.stderr else "ended")
    raise AssertionError("waited in vain")
