"""The accessible tree, read as a screen reader reads it: AT-SPI over D-Bus, from a real window under Xvfb."""

import json
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from inner_rim.core.record.log import Reading, SignOff
from inner_rim.work.storage.source import open_file
from tests.desktop.real_window import needs, screen

ROOT = Path(__file__).parents[2]
LAUNCHER = "/usr/libexec/at-spi-bus-launcher"
#: Roles that say nothing of what a thing is.
NO_ROLES = {"filler", "unknown", "invalid", ""}


def read(home, script, *args, demo=False, timeout=150):
    """Run a script of the system's Python beside the program, on a bus of its own; return what it printed as JSON."""
    needs("Xvfb", "xdotool", "dbus-run-session", LAUNCHER)
    reader = shutil.which("python3", path="/usr/bin") or "python3"
    if subprocess.run([reader, "-c", "import pyatspi"], capture_output=True).returncode:
        pytest.skip("pyatspi is not installed: the tree cannot be read")
    program = [sys.executable, "-m", "inner_rim.cli", *(["--demo"] if demo else [])]
    commands = (
        f"{LAUNCHER} --launch-immediately & {shlex.join(program)} & program=$!; "
        f"{shlex.join([reader, f'tests/desktop/{script}', *args])}; kill $program; kill %1; wait $program"
    )
    with screen(home) as env:
        done = subprocess.run(
            ["dbus-run-session", "--", "bash", "-c", commands],
            # no cache: it is told of changes only where it listens for every kind of them
            env={**env, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1", "ATSPI_NO_CACHE": "1"},
            cwd=ROOT, capture_output=True, text=True, timeout=timeout,
        )  # fmt: skip
    line = next((row for row in done.stdout.splitlines() if row.startswith("{")), None)
    assert line is not None, done.stdout + done.stderr[-2000:]
    return json.loads(line)


@pytest.mark.real_window
def test_every_control_has_a_name_and_a_role_and_the_focus_is_announced(own_home):
    result = read(own_home, "read_tree.py", "e", "Tab", "Tab", "Return", "ctrl+2", demo=True)
    controls = [(role, name) for role, name, states in result["tree"] if "focusable" in states]
    assert len(controls) > 25
    assert [c for c in controls if not c[1].strip() or c[0] in NO_ROLES] == []
    names = [name for _role, name in controls]
    for said in (
        "Actions: everything that applies now",
        "Wheels on the bench",
        "Pressure reached",
        "New wheel",
    ):
        assert said in names, said
    roles = {name: role for role, name in controls}
    assert roles["Pressure reached"] == "text" and roles["Seated"] == "push button"
    assert roles["Wheels on the bench"] == "list"
    # what it wants next is read out
    assert any("Sandpiper 2 · front: Pump to" in name for name in names)
    # E, Tab, Tab, Enter, Ctrl+2: each place is announced
    focused = [tuple(one) for one in result["focused"]]
    assert ("text", "Rim's max pressure") in focused and ("text", "Tire's max pressure") in focused
    assert focused.index(("text", "Rim's max pressure")) < focused.index(
        ("text", "Tire's max pressure")
    )
    on_the_day = {"By mechanic", "By wheel", "Board of the day", "Less time  +"}
    # the other page is announced too
    assert on_the_day & {name for _role, name in focused[-3:]}, focused


@pytest.mark.real_window
def test_a_wheel_goes_from_check_in_to_handing_over_by_the_tree_alone(own_home):
    steps = read(own_home, "walk_tree.py", "45-622 on 24 hooked, max 3.4, 98 kg", "2.7", "M Osier")[
        "steps"
    ]
    answers = [one.get("answer") for one in steps]
    assert answers[0] == "Check-in done" and answers[-2:] == ["Hand over", None]
    assert {"Yes", "Seated", "Log the reading", "Passed"} <= set(answers)
    # what is painted is said, and changes with it; a caution is in the tree where the hand is about to act
    assert "images" in steps[0] and all("Pressure scale" in one["images"] for one in steps[1:])
    assert steps[-1]["images"]["Pressure scale"].startswith("limit 3.40 bar, printed on the tire")
    lists = [
        one["images"]["Steps of this stage"]
        for one in steps
        if "Steps of this stage" in one["images"]
    ]
    assert len(set(lists)) > 12
    seating = next(
        one for one in steps if "Pump to 1.40 bar. Stop. Check both sides" in one["words"]
    )
    assert any("Never above 3.40 bar" in word for word in seating["words"])
    assert seating["images"]["Picture of the step"].endswith("even; low")
    drawn = [one["images"].get("Picture of the step", "") for one in steps]
    assert any("second bead" in said and "finish at the valve" in said for said in drawn)
    store = open_file(own_home / "inner-rim.sqlite")
    (job,) = store.bench().jobs
    entries = [item.entry for item in store.logbook.job(job.job_id).log]
    store.close()
    assert [(e.by, e.pressure_kpa) for e in entries if isinstance(e, SignOff)] == [
        ("M Osier", 270.0)
    ]
    assert [e.pressure_kpa for e in entries if isinstance(e, Reading)] == [270.0]
