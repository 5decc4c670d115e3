"""A real window under Xvfb, with a window manager where focus and popups matter: what xdotool says and does."""

import contextlib
import os
import shutil
import subprocess
import sys
import time

import pytest

from inner_rim.store.snapshot import snapshot


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
        ["Xvfb", "-displayfd", str(write), "-screen", "0", size, "-nolisten", "tcp", "-noreset", "-r"],
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
        result = look()
        if result:
            return result
        with contextlib.suppress(subprocess.TimeoutExpired):
            program.wait(0.05)  # another look then, or at once where it has ended
            raise AssertionError(program.stderr.read() if program.stderr else "ended")
    raise AssertionError("waited in vain")


@contextlib.contextmanager
def managed_screen(home, size="1280x800x24"):
    """A screen with a window manager: windows are activated, popups take the focus and give it back."""
    needs("Xvfb", "openbox", "xdotool", "xmessage", "xprop")
    with screen(home, size) as env:
        manager = subprocess.Popen(
            ["openbox"], env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        try:
            wait_for(lambda: "_NET_SUPPORTING_WM_CHECK" in xprop_root(env), manager)
            yield env
        finally:
            manager.terminate()
            manager.wait()


def xprop_root(env):
    """What the window manager says of itself."""
    return subprocess.run(
        ["xprop", "-root"], env=env, capture_output=True, text=True, timeout=20
    ).stdout


class RealWindow:
    """The program in a process of its own, on a screen with a window manager; hands are xdotool's.

    Args:
        env: of the screen.
        args: of the program.
        pause_ms: between two letters or keys.
    """

    def __init__(self, env, *args, pause_ms=70):
        self.env, self.pause_ms = env, pause_ms
        self.program = subprocess.Popen(
            [sys.executable, "-m", "inner_rim.cli", *args],
            env=env, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        result = wait_for(
            lambda: xdo(env, "search", "--onlyvisible", "--name", "Inner Rim"), self.program
        )
        self.id = result.split()[0]
        self.activate()

    def __enter__(self):
        return self

    def __exit__(self, *_exc):
        if self.program.poll() is None:
            self.program.terminate()
        self.program.communicate(timeout=20)

    def activate(self):
        """Bring the window to the front."""
        xdo(self.env, "windowactivate", "--sync", self.id)

    def type(self, text, pause_ms=None):
        """Type letters as a hand does."""
        xdo(self.env, "type", "--delay", str(pause_ms or self.pause_ms), text)

    def key(self, *names):
        """Press keys one after the other."""
        xdo(self.env, "key", "--delay", str(max(self.pause_ms, 30)), *names)

    def other_window(self):
        """Let another program's window come to the front, and go again."""
        other = subprocess.Popen(
            ["xmessage", "-center", "another window"], env=self.env, stderr=subprocess.DEVNULL
        )
        try:
            result = wait_for(
                lambda: xdo(self.env, "search", "--onlyvisible", "--class", "xmessage"), other
            )
            xdo(self.env, "windowactivate", "--sync", result.split()[0])
        finally:
            other.terminate()
            other.wait()
        self.activate()

    def dialog(self, *names):
        """Press keys in the dialog that has just opened, until it is gone."""
        result = wait_for(
            lambda: [w for w in xdo(self.env, "search", "--onlyvisible", "--pid", str(self.program.pid)).split() if w != self.id],
            self.program,
        )  # fmt: skip
        xdo(self.env, "windowactivate", "--sync", result[-1])
        self.key(*names)
        wait_for(lambda: xdo(self.env, "getactivewindow") == self.id, self.program)

    def stored(self, home, until, seconds=10.0):
        """Return what is stored, read from outside, once it is as expected; else what it is at last."""
        deadline = time.monotonic() + seconds
        while True:
            result = snapshot(home / "inner-rim.sqlite")
            if until(result) or time.monotonic() > deadline:
                return result
            with contextlib.suppress(subprocess.TimeoutExpired):
                self.program.wait(0.1)
