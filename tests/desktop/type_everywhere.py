"""Types into every text field of every page of a real window, with another window in between and a look at what
each field keeps. Run by `test_typing` in a process of its own on a screen with a window manager.
"""

import json
import subprocess
import sys
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLineEdit

from inner_rim.core.record.spoken import STAGES
from inner_rim.desktop.app import Session
from inner_rim.desktop.widgets.theme import load_font
from tests.desktop.whole_job import Hands

PAGES = ("bench", "day", "shelf", "practice", "logbook", "insights")
#: Letters that no field takes for a value, so that it keeps them as they were typed; two halves of one word.
FIRST, SECOND = "kelp 1", "2 weir"


def fields(session):
    return [
        one for one in session.window.findChildren(QLineEdit) if one.isVisible() and one.isEnabled()
    ]


def views(session):
    """Every view with fields of its own: (name, how to show it)."""
    window = session.window
    for stage in STAGES:
        yield (
            f"bench {stage}",
            lambda s=stage: (window.run("look_at_stage", s), window.page.inputs.show_more()),
        )
    for page in PAGES[1:]:
        yield page, lambda p=page: window.go_to(p)
    for kind in ("rim", "tire", "tape", "valve", "sealant", "insert"):
        yield f"shelf {kind}", lambda k=kind: (window.go_to("shelf"), new_part(window, k))


def new_part(window, kind):
    window.page_of("shelf").editor.begin(kind)


def take_by_mouse(session, hands):
    """Take the suggestion that is left of those for a second wheel's rim; return that rim."""
    hands.key("ctrl+n")
    entry = session.window.page.inputs._rows["rim.name"].entry
    while not entry.hasFocus():
        hands.key("Return")
    hands.letters("reed")
    hands.until(lambda: entry.suggesting)
    shown = entry._list
    hands.mouse = True
    hands.click(shown.viewport(), shown.visualItemRect(shown.item(0)).center())
    hands.mouse = False
    rim = session.bench.current.job.draft.document["wheels"][0]["rim"]
    assert session.window.page.inputs._rows["rim.internal_width_mm"].entry.hasFocus()
    session.bench.select(next(s.key for s in session.bench.wheels if s.name.startswith("Dune")))
    return rim


def main() -> None:
    app = QApplication([])
    load_font()
    session = Session(Path(sys.argv[1]), demo=True)
    session.show()
    hands = Hands(app, session, mouse=False)
    hands.until(
        lambda: session._started and not session.worker.waiting and session.bench.shelf.loaded
    )
    own = subprocess.run(
        ["xdotool", "search", "--onlyvisible", "--name", "Inner Rim"],
        capture_output=True,
        text=True,
    ).stdout.split()[0]
    subprocess.run(["xdotool", "windowactivate", "--sync", own], timeout=20)
    hands.until(lambda: app.focusWindow() is not None)
    other = subprocess.Popen(
        ["xmessage", "another window"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    result = ""
    while not result:
        result = subprocess.run(
            ["xdotool", "search", "--onlyvisible", "--class", "xmessage"],
            capture_output=True,
            text=True,
        ).stdout
    subprocess.run(["xdotool", "windowactivate", "--sync", own], timeout=20)
    clicked = take_by_mouse(session, hands)
    wrong, typed = {}, {}
    for name, show in views(session):
        subprocess.run(["xdotool", "windowactivate", "--sync", own], timeout=20)
        hands.until(lambda: app.focusWindow() is not None)
        show()
        hands.until(lambda: True)
        for place, entry in enumerate(fields(session)):
            entry.clearFocus()  # arriving selects all; it may be the one that was typed into last
            entry.setFocus(Qt.FocusReason.TabFocusReason)
            hands.until(entry.hasFocus)
            hands.xdo("type", "--delay", "8", FIRST, hits=len(FIRST))
            if place % 4 == 0:  # somebody looks at another window in the middle of a word
                subprocess.run(
                    ["xdotool", "windowactivate", "--sync", result.split()[0]], timeout=20
                )
                hands.until(lambda: app.focusWindow() is None)
                subprocess.run(["xdotool", "windowactivate", "--sync", own], timeout=20)
                hands.until(lambda: app.focusWindow() is not None)
            hands.xdo("type", "--delay", "8", SECOND, hits=len(SECOND))
            key = f"{name}: {entry.accessibleName()}"
            typed[key] = entry.text()
            if entry.text() != FIRST + SECOND:
                wrong[key] = entry.text()
            # what it does not find would be out of view
            if entry.accessibleName().startswith("Find"):
                hands.key("ctrl+a")
                hands.key("BackSpace")
    other.terminate()
    other.wait()
    hands.until(lambda: not session.worker.waiting)
    session.end()
    print(json.dumps({"typed": len(typed), "wrong": wrong, "clicked": clicked}))


if __name__ == "__main__":
    main()
