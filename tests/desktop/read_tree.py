"""Reads the accessible tree of the window, as a screen reader does; runs in the system's Python, which has pyatspi.

Prints as JSON every object that is shown, (role, name, states), and the focus changes while keys are pressed.
"""

import contextlib
import json
import queue
import subprocess
import sys
import threading

import pyatspi
from gi.repository import GLib

#: How long the program may take to appear, and how often it is looked for.
SECONDS, LOOK_MS = 40, 200
#: How long a key may take to move the focus, and how long none moves it when it has come to rest.
MOVES_S, RESTS_S = 5.0, 0.3


def application():
    """The program's entry in the registry, once it is there and shows its bench."""
    result = []

    def look():
        desktop = pyatspi.Registry.getDesktop(0)
        for i in range(desktop.childCount):
            child = desktop.getChildAtIndex(i)
            if child is not None and child.childCount and any("New wheel" in name for _r, name, _s in walk(child)):
                result.append(child)
                pyatspi.Registry.stop()
                return False
        return True

    def late():
        pyatspi.Registry.stop()
        return False

    GLib.timeout_add(LOOK_MS, look)
    end = GLib.timeout_add_seconds(SECONDS, late)
    pyatspi.Registry.start()
    if not result:
        raise SystemExit("the program is not in the tree")
    GLib.source_remove(end)
    return result[0]


def walk(node, depth=0):
    """Every object below one that is shown."""
    try:
        states = node.getState()
        names = [pyatspi.stateToString(s) for s in states.getStates()]
        if depth and not states.contains(pyatspi.STATE_SHOWING) and node.getRoleName() != "application":
            return
        yield node.getRoleName(), node.name, names
        for i in range(node.childCount):
            child = node.getChildAtIndex(i)
            if child is not None and depth < 40:
                yield from walk(child, depth + 1)
    except (LookupError, RuntimeError):  # it went while it was looked at
        return


def main() -> None:
    app = application()
    tree = list(walk(app))
    focused, moved = [], queue.SimpleQueue()

    def heard(event) -> None:
        if event.detail1:
            focused.append((event.source.getRoleName(), event.source.name))
            moved.put(event.source.name)

    pyatspi.Registry.registerEventListener(heard, "object:state-changed:focused")

    def settled() -> None:
        """Wait until the focus has come to rest after a key."""
        wait = MOVES_S
        with contextlib.suppress(queue.Empty):
            while True:
                moved.get(timeout=wait)
                wait = RESTS_S

    def press() -> None:
        window = subprocess.run(
            ["xdotool", "search", "--onlyvisible", "--name", "Inner Rim"], capture_output=True, text=True
        )
        subprocess.run(["xdotool", "windowfocus", "--sync", window.stdout.split()[-1]], timeout=20, check=False)
        for key in sys.argv[1:]:
            subprocess.run(["xdotool", "key", key], timeout=20, check=False)
            settled()
        pyatspi.Registry.stop()

    threading.Thread(target=press, daemon=True).start()
    pyatspi.Registry.start()
    print(json.dumps({"tree": tree, "focused": focused}))


main()
