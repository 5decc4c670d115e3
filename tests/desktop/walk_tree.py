"""Takes a wheel from check-in to handing over by the accessible tree alone; runs in the system's Python, which has pyatspi.

It sees names, roles, descriptions and focus, never a position or a pixel: what it presses it asks the tree to press, and where
it types it asks the tree for the focus first. Prints as JSON what was read out at each step, and what the painted views said.
"""

import contextlib
import json
import subprocess
import sys

import pyatspi
import tree
from gi.repository import GLib

#: What is answered to what is offered, the first that is there.
ANSWERS = ("Yes", "Skip the wait (logged)", "Seated", "Passed", "Hand over")
MAIN = ("Done", "All ", "Check-in done")


def until(look):
    result = tree.until(look)
    if not result:
        raise SystemExit(
            f"waited in vain; the tree has {[(n.getRoleName(), n.name) for n in tree.walk(app)][:80]}"
        )
    return result


def seen():
    """What is shown now: (role, name) to object."""
    return {(node.getRoleName(), (node.name or "").strip()): node for node in tree.walk(app)}


def type_into(name, text):
    """Ask for the focus of a field by its name, and type."""
    field = until(lambda: seen().get(("text", name)))
    field.queryComponent().grabFocus()
    until(lambda: field.getState().contains(pyatspi.STATE_FOCUSED))
    subprocess.run(["xdotool", "key", "ctrl+a", "type", "--", text], timeout=20, check=True)
    until(lambda: field.queryText().getText(0, -1) == text)


def press(button):
    action = button.queryAction()
    names = [action.getName(i) for i in range(action.nActions)]
    with contextlib.suppress(GLib.GError):  # pressed, and too busy with it to answer
        action.doAction(names.index("Press") if "Press" in names else 0)


def words_of(nodes):
    return sorted(name for role, name in nodes if role == "label" and name)


def settled(before):
    """Return a look at what is shown: it is something once the words are others, and all is the same at two looks running."""
    last = None

    def look():
        nonlocal last
        nodes, was = seen(), last
        last = set(nodes)
        return nodes if last == was and words_of(nodes) != before else None

    return look


def images(nodes):
    return {name: node.description for (role, name), node in nodes.items() if role == "image"}


app = tree.application()
subprocess.run(
    "xdotool windowfocus --sync $(xdotool search --onlyvisible --name 'Inner Rim' | tail -1)",
    shell=True,
)
type_into("All in one line", sys.argv[1])
subprocess.run(["xdotool", "key", "Return"], check=True)
steps, before = [], None
for _ in range(120):
    nodes = until(settled(before))
    before = words_of(nodes)
    buttons = {
        name: node
        for (role, name), node in nodes.items()
        if role in ("push button", "button", "toggle button")
    }
    steps.append({"words": before, "answers": sorted(buttons), "images": images(nodes)})
    if "Duplicate" in buttons or "New visit" in buttons:  # nothing is left to do at this wheel
        break
    fields = {name for role, name in nodes if role == "text"}
    if "Log the reading" in buttons and "Passed" not in buttons:
        type_into("Gauge", sys.argv[2])
        steps[-1]["answer"] = "Log the reading"
        press(buttons["Log the reading"])
        until(lambda: any("reading" in word and sys.argv[2] in word for word in words_of(seen())))
        continue
    if "Hand over" in buttons and "Signed by" in fields:
        type_into("Signed by", sys.argv[3])
        before = words_of(until(settled(None)))  # the keys on the labels went when typing began
    answer = next((name for name in ANSWERS if name in buttons), None)
    if answer is None:  # what the panel has set the focus on, else its main action by name
        answer = next(
            (name for name in buttons if buttons[name].getState().contains(pyatspi.STATE_FOCUSED)),
            None,
        )
        answer = answer or next((name for name in buttons if name.startswith(MAIN)), None)
    if answer is None:
        raise SystemExit(f"nothing to press: {[(n.getRoleName(), n.name) for n in nodes.values()]}")
    steps[-1]["answer"] = answer
    press(buttons[answer])
print(json.dumps({"steps": steps}))
