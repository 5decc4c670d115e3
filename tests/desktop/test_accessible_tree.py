"""The accessible tree, read as a screen reader reads it: AT-SPI over D-Bus, from a real window under Xvfb."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.desktop.real_window import needs, screen

ROOT = Path(__file__).parents[2]
LAUNCHER = "/usr/libexec/at-spi-bus-launcher"
#: Roles that say nothing of what a thing is.
NO_ROLES = {"filler", "unknown", "invalid", ""}


@pytest.mark.real_window
def test_every_control_has_a_name_and_a_role_and_the_focus_is_announced(own_home):
    needs("Xvfb", "xdotool", "dbus-run-session", LAUNCHER)
    reader = shutil.which("python3", path="/usr/bin") or "python3"
    if subprocess.run([reader, "-c", "import pyatspi"], capture_output=True).returncode:
        pytest.skip("pyatspi is not installed: the tree cannot be read")
    script = (
        f"{LAUNCHER} --launch-immediately & {sys.executable} -m inner_rim.cli --demo & program=$!; "
        f"{reader} tests/desktop/read_tree.py e Tab Tab Return ctrl+2; kill $program; kill %1"
    )
    with screen(own_home) as env:
        done = subprocess.run(
            ["dbus-run-session", "--", "bash", "-c", script],
            env={**env, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"},
            cwd=ROOT, capture_output=True, text=True, timeout=150,
        )  # fmt: skip
    line = next((row for row in done.stdout.splitlines() if row.startswith('{"tree"')), None)
    assert line is not None, done.stdout + done.stderr[-2000:]
    result = json.loads(line)
    controls = [(role, name) for role, name, states in result["tree"] if "focusable" in states]
    assert len(controls) > 25
    assert [c for c in controls if not c[1].strip() or c[0] in NO_ROLES] == []
    names = [name for _role, name in controls]
    for said in ("Actions: everything that applies now", "Wheels on the bench", "Pressure reached", "New wheel"):
        assert said in names, said
    roles = {name: role for role, name in controls}
    assert roles["Pressure reached"] == "text" and roles["Seated"] == "push button"
    assert roles["Wheels on the bench"] == "list"
    assert any("Sandpiper 2 · front: Pump to" in name for name in names)  # what it wants next is read out
    # E, Tab, Tab, Enter, Ctrl+2: each place is announced
    focused = [tuple(one) for one in result["focused"]]
    assert ("text", "Rim's max pressure") in focused and ("text", "Tire's max pressure") in focused
    assert focused.index(("text", "Rim's max pressure")) < focused.index(("text", "Tire's max pressure"))
    on_the_day = {"By mechanic", "By wheel", "Board of the day", "Less time, larger"}
    assert on_the_day & {name for _role, name in focused[-3:]}, focused  # the other page is announced too
