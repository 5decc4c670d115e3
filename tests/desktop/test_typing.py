"""What is typed at the pace of a hand into a real window with a window manager, read back by another process.

Offscreen no list takes the focus, no window is activated and no focus has a reason: only here can letters be lost.
"""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.desktop.real_window import RealWindow, managed_screen

ROOT = Path(__file__).parents[2]
FIRST = {
    "name": "Canal rim",
    "bead_seat_diameter_mm": 622.0,
    "internal_width_mm": 24.0,
    "hook": "hooked",
}


def rims(window, home, until):
    """The rims as stored, wheel by wheel, once they are as expected."""

    def read(state):
        return [job.document["wheels"][0].get("rim", {}) for job in state.jobs] if state else []

    return read(window.stored(home, lambda state: until(read(state))))


def first_wheel(window, home):
    window.key("ctrl+n")
    assert rims(window, home, lambda result: len(result) == 1)
    window.key("Return", "Return", "Return")
    window.type("45-622")
    window.key("Return")
    window.type("Canal rim")
    window.key("Return")
    window.type("24")
    window.key("Return")
    window.type("h")
    assert rims(window, home, lambda result: result == [FIRST]) == [FIRST]


def second_wheel(window, home):
    window.key("ctrl+n")
    assert len(rims(window, home, lambda result: len(result) == 2)) == 2
    window.key("Return", "Return", "Return", "Return")


@pytest.mark.real_window
@pytest.mark.parametrize("pause_ms", [30, 70, 150])
def test_no_letter_is_lost_under_suggestions_another_window_or_a_dialog(own_home, pause_ms):
    with managed_screen(own_home) as env, RealWindow(env, pause_ms=pause_ms) as window:
        first_wheel(window, own_home)
        second_wheel(window, own_home)

        def named(name):
            result = rims(window, own_home, lambda all_of_them: all_of_them[-1].get("name") == name)
            assert result[-1].get("name") == name

        window.type("Canal rim 99")  # a list opens, narrows and closes under the letters
        named("Canal rim 99")
        window.key("ctrl+a")
        window.type("Kana other ")
        window.other_window()
        window.type("rim")  # goes on where it was
        named("Kana other rim")
        window.key("ctrl+e")  # a file dialog in the middle of a word
        window.dialog("Escape")
        window.type(" 3")
        named("Kana other rim 3")
        window.key("Return")
        window.type("2")
        window.other_window()
        window.type("9")
        result = rims(window, own_home, lambda all_of_them: "internal_width_mm" in all_of_them[-1])
        assert result[-1] == {"name": "Kana other rim 3", "internal_width_mm": 29.0}
        window.key("shift+Tab", "Tab")  # arriving by Tab selects all: typing replaces
        window.type("24")
        result = rims(
            window, own_home, lambda all_of_them: all_of_them[-1]["internal_width_mm"] == 24.0
        )
        assert result[-1]["internal_width_mm"] == 24.0


@pytest.mark.real_window
def test_a_suggestion_is_taken_by_keyboard(own_home):
    with managed_screen(own_home) as env, RealWindow(env) as window:
        first_wheel(window, own_home)
        second_wheel(window, own_home)
        window.type("C")
        assert rims(window, own_home, lambda result: result[-1].get("name") == "C")[-1] == {
            "name": "C"
        }
        window.key("Down", "Return")
        assert rims(window, own_home, lambda result: result == [FIRST, FIRST]) == [FIRST, FIRST]
        window.type("25")  # the cursor went on, to the width
        assert rims(window, own_home, lambda result: result[-1]["internal_width_mm"] == 25.0)[
            -1
        ] == {**FIRST, "internal_width_mm": 25.0}


@pytest.mark.real_window
def test_every_text_field_of_every_page_keeps_what_is_typed_and_a_click_takes_a_suggestion(
    own_home,
):
    with managed_screen(own_home) as env:
        done = subprocess.run(
            [sys.executable, "tests/desktop/type_everywhere.py", str(own_home)],
            env={**env, "PYTHONPATH": f"{ROOT}:{env.get('PYTHONPATH', '')}"},
            cwd=ROOT, capture_output=True, text=True, timeout=150,
        )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr[-3000:]
    said = json.loads(done.stdout.splitlines()[-1])
    assert said["wrong"] == {} and said["typed"] > 80
    assert said["clicked"]["bead_seat_diameter_mm"] == 584 and said["clicked"]["name"].startswith(
        "Reed bed"
    )
