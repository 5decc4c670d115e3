"""Reads the accessible tree of the window, as a screen reader does; runs in the system's Python, which has pyatspi.

Prints as JSON every object that is shown, (role, name, states), and the focus changes while keys are pressed.
"""

import json
import subprocess
import sys
import threading
import time

import pyatspi

SECONDS = 40.0


def application():
    """The program's entry in the registry, once it is there and shows its bench."""
    until = time.monotonic() + SECONDS
    while time.monotonic() < until:
        desktop = pyatspi.Registry.getDesktop(0)
        for i in range(desktop.childCount):
            found = desktop.getChildAtIndex(i)
            if (
                found is not None
                and found.childCount
                and any("New wheel" in name for _r, name, _s in walk(found))
            ):
                return found
        time.sleep(0.3)
    raise SystemExit("the program is not in the tree")


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
    focused = []

    def heard(event) -> None:
        if event.detail1:
            focused.append((event.source.getRoleName(), event.source.name))

    pyatspi.Registry.registerEventListener(heard, "object:state-changed:focused")

    def press() -> None:
        window = subprocess.run(
            ["xdotool", "search", "--onlyvisible", "--name", "Inner Rim"], capture_output=True, text=True
        )
        subprocess.run(
            ["xdotool", "windowfocus", "--sync", window.stdout.split()[-1]], timeout=20, check=False
        )
        for key in sys.argv[1:]:
            subprocess.run(["xdotool", "key", key], timeout=20, check=False)
            time.sleep(0.4)
        time.sleep(0.5)
        pyatspi.Registry.stop()

    threading.Thread(target=press, daemon=True).start()
    pyatspi.Registry.start()
    print(json.dumps({"tree": tree, "focused": focused}))


main()
