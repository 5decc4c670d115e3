"""A whole job by hand in a real window, from an empty bench to handed over: by keyboard, by mouse, or with gloves.

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
from inner_rim.desktop.widgets.theme import Theme, load_font
from inner_rim.work.editing.state import PlannedWheel

NAME, READ = "M Osier", "2.4"
#: What is entered at check-in, in the order of the fields; a letter chooses.
ENTRIES = {
    "ride.total_mass_kg": "98",
    "tire.size": "45-622",
    "rim.internal_width_mm": "24",
    "rim.hook": "hooked",
    "due": "tomorrow 16:00",
    "rim.max_pressure_kpa": "4",
    "tire.max_pressure_kpa": "3.4",
    "work.kind": "convert",
}
#: With gloves: text at 150 %, and nothing smaller than this is hit, px.
LARGE, TARGET_PX, ANSWER_PX = 1.5, 44, 64
MODIFIERS = {Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta}
#: More actions than a job can take: then something turns in a circle.
MAX_ACTIONS = 250


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
        assert widget.height() >= TARGET_PX and widget.width() >= TARGET_PX, (widget, widget.size())
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
        """Go to a field as a hand does: by Enter from one to the next, or by a click; then type or choose."""
        row = self.page.inputs._rows[path]
        if self.mouse:
            target = row.entry if row.entry is not None else row.buttons[text]
            self.scroll_to(target)
            self.click(target)
        else:
            for _ in range(40):
                if row.holds_focus():
                    break
                self.key("Return")
        if row.entry is not None:
            assert row.entry.hasFocus(), path
            self.letters(text)
        elif not self.mouse:
            assert row.holds_focus(), path
            self.key(text[0])

    def scroll_to(self, widget):
        """Turn the mouse's wheel over the fields until a widget is in view."""
        area = self.page.inputs._scroll
        for _ in range(40):
            top = widget.mapTo(area.viewport(), QPoint(0, 0)).y()
            if top >= 0 and top + widget.height() <= area.viewport().height():
                return
            at = area.viewport().mapToGlobal(area.viewport().rect().center())
            button, before = "4" if top < 0 else "5", area.verticalScrollBar().value()
            self.xdo("mousemove", str(at.x()), str(at.y()), "click", button, hits=0)
            self.until(lambda before=before: area.verticalScrollBar().value() != before)
        raise AssertionError("cannot be scrolled to")

    def answer(self, command):
        """Give an answer of the panel: by its button, or by its key; Enter for the first."""
        answers = self.page.now.answers
        place = next(i for i, answer in enumerate(answers) if answer.command == command)
        if self.session.window.turns.view().working and self.mouse:
            assert self.page.now._buttons[place].height() >= ANSWER_PX
        by_enter = place == 0 and answers[0].enter
        if self.mouse or not (by_enter or shown_key(command)):
            self.click(self.page.now._buttons[place])  # a wait is skipped by its button alone
        elif by_enter:
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
        commands = [one.command for one in now.answers if one.command != "what_now"]
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
            raise AssertionError(
                (stage, commands, now.action.text() if hasattr(now, "action") else "")
            )


def main(by: str) -> None:
    mouse = by != "keyboard"
    app = QApplication([])
    keyboard.BOUNCE_MS = 0  # these hands are dry
    load_font()
    home = Path(sys.argv[2])
    session = Session(home, demo=False)
    session.show()
    hands = Hands(app, session, mouse)
    hands.until(lambda: session._started and not session.worker.waiting)
    window = subprocess.run(
        ["xdotool", "search", "--onlyvisible", "--name", "Inner Rim"],
        capture_output=True,
        text=True,
    )
    subprocess.run(["xdotool", "windowfocus", "--sync", window.stdout.split()[-1]], timeout=20)
    hands.until(lambda: app.focusWindow() is not None)
    if by == "gloves":
        session.window.use_theme(Theme("light", LARGE))
    hands.begin()
    planned = {}
    for path, text in ENTRIES.items():
        hands.field(path, text)
        if not planned and isinstance(hands.state, PlannedWheel):
            planned = dict(hands.count)
    if not mouse:
        while not hands.page.now.isAncestorOf(app.focusWidget()):
            hands.key("Return")
    hands.answer("finish")
    checked = dict(hands.count)
    done = []
    for _ in range(MAX_ACTIONS):
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
    limit = hands.state.plan.pressure.limit_kpa
    print(json.dumps({"planned": planned, "checked": checked, "limit_kpa": limit, "all": dict(hands.count), "finished": hands.state.progress.state,
                      "entries": len(hands.state.log), "signed": hands.state.plan.log.signed.pressure_kpa}))  # fmt: skip
    session.end()


if __name__ == "__main__":
    main(sys.argv[1])
