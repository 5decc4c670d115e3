"""A whole job by hand in a real window, from an empty bench to handed over, by keyboard or by mouse alone.

Run by `test_whole_job` in a process of its own under Xvfb: every key and click goes through the X server (xdotool).
Prints as JSON what was done, how many keys, letters and clicks it took, and what stands in the data at the end.
"""

import json
import subprocess
import sys
import time
from collections import Counter
from pathlib import Path

from PyQt6.QtCore import QEvent, QEventLoop, QObject, QPoint, Qt, QTimer
from PyQt6.QtGui import QWindow
from PyQt6.QtWidgets import QApplication, QPushButton

from inner_rim.desktop.app import Session
from inner_rim.desktop.commands import keyboard
from inner_rim.desktop.commands.table import shown_key
from inner_rim.desktop.widgets.theme import load_font

RIM, WIDTH, SIZE, NAME = "622", "24", "45-622", "M Osier"
READ = "2.4"
MODIFIERS = {Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta}
#: More actions than a job can take: then something turns in a circle.
MOST_ACTIONS = 250


class Heard(QObject):
    """Counts the keys and mouse buttons that the windows of the program have seen let go."""

    def __init__(self, app):
        super().__init__(app)
        self.count = 0
        app.installEventFilter(self)

    def eventFilter(self, watched, event):
        if isinstance(watched, QWindow) and (
            event.type() == QEvent.Type.MouseButtonRelease
            or (event.type() == QEvent.Type.KeyRelease and event.key() not in MODIFIERS)
        ):
            self.count += 1
        return False


class Hands:
    """Two hands at one window; counts what they do."""

    def __init__(self, app, session, mouse):
        self.app, self.session, self.mouse = app, session, mouse
        self.count = Counter()
        self.heard = Heard(app)
        self._clock = QTimer(app)
        self._clock.start(20)  # so that a wait looks again though nothing happens

    def until(self, reached, seconds=30.0):
        """Let the program run until something holds, and until it is idle."""
        deadline = time.monotonic() + seconds
        while not reached():
            assert time.monotonic() < deadline, "waited in vain"
            self.app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        for _ in range(3):  # what was put off until it is idle
            self.app.sendPostedEvents()
            self.app.processEvents()

    def xdo(self, *args, hits=1):
        expected = self.heard.count + hits
        subprocess.run(["xdotool", *args], check=True, timeout=20)
        self.until(lambda: self.heard.count >= expected)

    def key(self, name):
        assert not self.mouse or name == "Return", name
        self.count["keys"] += 1
        self.xdo("key", name)

    def letters(self, text):
        self.count["letters"] += len(text)
        self.xdo("type", "--delay", "15", text, hits=len(text))

    def click(self, widget, at=None):
        self.count["clicks"] += 1
        at = at if at is not None else widget.rect().center()
        place = widget.mapToGlobal(QPoint(int(at.x()), int(at.y())))
        self.xdo("mousemove", str(place.x()), str(place.y()), "click", "1")

    # -- the bench -------------------------------------------------------------------------------

    @property
    def page(self):
        return self.session.window.page

    @property
    def state(self):
        return self.session.bench.current

    def begin(self):
        if self.mouse:
            self.click(next(b for b in self.page.now._buttons if "New wheel" in b.text()))
        else:
            self.key("ctrl+n")

    def field(self, path, text):
        """Go to a field as a hand does: by Enter from one to the next, or by a click; then type."""
        row = self.page.inputs._rows[path]
        if self.mouse:
            if not row.entry.isVisible():
                group = next(g for g, (_words, rows) in enumerate(self.page.inputs._groups) if row in rows)
                self.click(self.page.inputs._tab_buttons[group])
            self.click(row.entry)
        else:
            for _ in range(40):
                if row.entry.hasFocus():
                    break
                self.key("Return")
        assert row.entry.hasFocus(), path
        self.letters(text)

    def answer(self, command):
        """Give an answer of the panel: by its button, or by its key; Enter for the first."""
        answers = self.page.now.answers
        place = next(i for i, answer in enumerate(answers) if answer.command == command)
        if self.mouse or (place == 0 and not answers[0].enter and not shown_key(command)):
            self.click(self.page.now._buttons[place])  # a wait is skipped by its button alone
        elif place == 0 and answers[0].enter:
            self.key("ctrl+Return" if self.session.window.typing else "Return")
        else:
            from inner_rim.desktop.commands.table import BY_ID

            self.leave_field()
            self.key(BY_ID[command].keys[0].lower())

    def leave_field(self):
        if self.session.window.typing:
            self.key("Escape")

    def into(self, entry, text):
        """Type into an entry of the panel."""
        if self.mouse:
            self.click(entry)
        elif entry is self.page.now.figure:
            self.key("r")
        else:
            for _ in range(12):
                if entry.hasFocus():
                    break
                self.key("Tab")
        assert entry.hasFocus()
        self.letters(text)

    def step(self):
        """Do what the panel asks for next."""
        now = self.page.now
        commands = [answer.command for answer in now.answers]
        stage = self.state.progress.stage
        if commands[0] == "hand_over":
            if not now.signature.text():
                self.answer("hand_over")  # refused, and the cursor is where the name goes
                assert now.signature.hasFocus()
                self.letters(NAME)
            self.answer("hand_over")
        elif commands[0] == "read_gauge" and not self.state.progress.holding.readings:
            self.into(now.figure, READ)
            self.answer("read_gauge")
        elif commands[0] == "read_gauge":
            self.answer("stage_done")  # held by eye and hand: no night is waited for in a test
        elif commands[0] in (
            "go_on",
            "step_done",
            "answer_yes",
            "both_up",
            "finish",
            "stage_done",
            "go_to_missing",
        ):
            self.answer(commands[0])
        else:
            raise AssertionError((stage, commands, now.action.text() if hasattr(now, "action") else ""))


def main(mouse: bool) -> None:
    app = QApplication([])
    keyboard.BOUNCE_MS = 0  # these hands are dry
    load_font()
    home = Path(sys.argv[2])
    session = Session(home, demo=False)
    session.show()
    hands = Hands(app, session, mouse)
    hands.until(lambda: session._started and not session.worker.waiting)
    window = subprocess.run(
        ["xdotool", "search", "--onlyvisible", "--name", "Inner Rim"], capture_output=True, text=True
    )
    subprocess.run(["xdotool", "windowfocus", "--sync", window.stdout.split()[-1]], timeout=20)
    hands.until(lambda: app.focusWindow() is not None)
    hands.begin()
    for path, text in (
        ("rim.bead_seat_diameter_mm", RIM),
        ("rim.internal_width_mm", WIDTH),
        ("tire.size", SIZE),
    ):
        hands.field(path, text)
    hands.until(lambda: hands.state is not None and hands.state.plan is not None)
    plan = hands.state.plan
    planned = {"limit_kpa": plan.pressure.limit_kpa, "tape": plan.tape.width_mm, **hands.count}
    if not mouse:
        hands.leave_field()
    done = []
    for _ in range(MOST_ACTIONS):
        progress = hands.state.progress
        if progress is not None and progress.state == "finished":
            break
        before = (len(hands.state.log), hands.page.now.answers)
        done.append(progress.stage if progress is not None else "")
        hands.step()
        if (len(hands.state.log), hands.page.now.answers) == before:
            print(json.dumps({"stuck": hands.page._view.now.action, "why": hands.page._view.looking.fault + session.bench.message,
                              "answers": [a.command for a in hands.page.now.answers], "done": done[-3:], "figure": hands.page.now.figure.text(), "focus": str(app.focusWidget()), "readings": len(hands.state.progress.holding.readings), "typing": session.window.typing}))  # fmt: skip
            sys.exit(3)
    hands.until(lambda: not session.worker.waiting)
    assert isinstance(hands.page.now._buttons[0], QPushButton)
    print(json.dumps({"planned": planned, "all": dict(hands.count), "finished": hands.state.progress.state,
                      "entries": len(hands.state.log), "signed": hands.state.progress.handed_over_kpa}))  # fmt: skip
    session.end()


if __name__ == "__main__":
    main(sys.argv[1] == "mouse")
