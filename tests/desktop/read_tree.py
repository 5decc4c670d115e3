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
from tree import application, until, walk

#: How long a key may take to move the focus, and how long none moves it when it has come to rest.
MOVES_S, RESTS_S = 5.0, 0.3


def main() -> None:
    app = application()
    tree = until(
        lambda: [
            (
                node.getRoleName(),
                node.name,
                [pyatspi.stateToString(one) for one in node.getState().getStates()],
            )
            for node in walk(app)
        ]
    )
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
            ["xdotool", "search", "--onlyvisible", "--name", "Inner Rim"],
            capture_output=True,
            text=True,
        )
        subprocess.run(
            ["xdotool", "windowfocus", "--sync", window.stdout.split()[-1]], timeout=20, check=False
        )
        for key in sys.argv[1:]:
            subprocess.run(["xdotool", "key", key], timeout=20, check=False)
            settled()
        pyatspi.Registry.stop()

    threading.Thread(target=press, daemon=True).start()
    pyatspi.Registry.start()
    print(json.dumps({"tree": tree, "focused": focused}))


main()
