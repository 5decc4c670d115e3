"""Gives commands to the window that a page stands in."""

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
