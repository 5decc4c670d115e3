"""The accessible tree of the program as both tree scripts see it; runs in the system's Python, which has pyatspi."""

import pyatspi
from gi.repository import GLib

#: How long the program may take to show something, and how often it is looked for.
SECONDS, LOOK_MS = 40, 100


def walk(node, depth=0):
    """Every object below one that is shown."""
    try:
        states = node.getState()
        if (
            depth
            and not states.contains(pyatspi.STATE_SHOWING)
            and node.getRoleName() != "application"
        ):
            return
        yield node
        for i in range(node.childCount):
            child = node.getChildAtIndex(i)
            if child is not None and depth < 40:
                yield from walk(child, depth + 1)
    except (LookupError, RuntimeError):  # it went while it was looked at
        return


def until(look):
    """What `look` returns once it is something; None where it stays nothing. Between two looks the program is left alone."""

    def patient():
        """A look that a busy program did not answer in time is one that saw nothing."""
        try:
            return look()
        except GLib.GError:
            return None

    result = patient()

    def ask():
        nonlocal result, asking
        result = patient()
        if result:
            pyatspi.Registry.stop()
        else:
            asking = GLib.timeout_add(LOOK_MS, ask)
        return False

    def late():
        GLib.source_remove(asking)
        pyatspi.Registry.stop()
        return False

    if not result:
        asking = GLib.timeout_add(LOOK_MS, ask)
        end = GLib.timeout_add_seconds(SECONDS, late)
        pyatspi.Registry.start()
        if result:
            GLib.source_remove(end)
    return result


def application():
    """The program's entry in the registry, once it is there and shows its bench."""

    def look():
        desktop = pyatspi.Registry.getDesktop(0)
        for i in range(desktop.childCount):
            child = desktop.getChildAtIndex(i)
            if (
                child is not None
                and child.childCount
                and any("New wheel" in (one.name or "") for one in walk(child))
            ):
                return child
        return None

    result = until(look)
    if result is None:
        raise SystemExit("the program is not in the tree")
    return result
