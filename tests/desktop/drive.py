"""Gives commands to the window that a page stands in."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.commands.table import shown_key
from inner_rim.desktop.window import MainWindow


def window_of(widget):
    while not isinstance(widget, MainWindow):
        widget = widget.parentWidget()
    return widget


def run(widget, command, value=""):
    """Carry out a command as a key or a click gives it; return whether it applied."""
    return window_of(widget).run(command, value)


def looking(widget):
    """What the window looks at."""
    return window_of(widget).views.looking


def go_on(window):
    """Give the panel's first answer as a hand does: Enter where Enter may, else its own key, else a click."""
    panel = window.page.now
    first = first_answer(panel)
    focus = QApplication.focusWidget() or window
    if first.enter:
        QTest.keyClick(focus, Qt.Key.Key_Return)
        return
    before = (window.bench.logged, panel.answers)
    QTest.keyClick(focus, Qt.Key.Key_Return)  # it never does this
    assert (window.bench.logged, panel.answers) == before
    if key := shown_key(first.command):
        QTest.keyClick(focus, getattr(Qt.Key, f"Key_{key}"))
    else:
        QTest.mouseClick(panel._buttons[panel.answers.index(first)], Qt.MouseButton.LeftButton)


def first_answer(panel):
    """The panel's first answer that stays at this wheel."""
    return next(answer for answer in panel.answers if answer.command != "what_now")


def cautions_of(page):
    """What the step panel of a page says besides the sentence: cautions, and what else is to be known."""
    panel = getattr(page, "now", page)
    return " ".join(label.text() for label in (*panel._more, *panel._cautions))


def select(window, name):
    """Select a wheel by the beginning of its name, and show it."""
    state = next(one for one in window.bench.wheels if one.name.startswith(name))
    window.bench.select(state.key)
    return window.bench.current
