"""Draw the house from the code: its rooms as boxes, floor by floor, and an arrow for every import between rooms.

Run: .venv/bin/python tools/house.py        (writes docs/house.svg)
"""

from __future__ import annotations

import ast
from collections import Counter
from html import escape
from pathlib import Path

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "src" / "inner_rim"
#: Floors from top to bottom, rooms from left to right; a room is a folder, or the files of a folder itself.
FLOORS = (
    ("cli", "desktop"),
    ("desktop.bench", "desktop.pages"),
    ("desktop.drawings", "desktop.measuring", "desktop.commands", "desktop.widgets"),
    ("work", "work.tasks", "work.text"),
    ("work.editing", "work.storage"),
    ("store", "documents", "devices"),
    ("core.schedule", "core.drawing", "core.progress", "core.learning", "core.plan"),
    ("core.procedure", "core.models"),
    ("core.record", "core.tables", "words", "assets"),
)
#: Rooms that every other uses; arrows to them are left out of the picture.
EVERYBODY_S = ("core.record", "words")
WIDTH, HEIGHT, GAP, FLOOR = 210, 44, 30, 104


def module_of(path: Path) -> str:
    """Return the dotted name of a file below the package."""
    parts = path.relative_to(PACKAGE).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def room_of(module: str) -> str | None:
    """Return the room a module stands in, None where it stands in none."""
    rooms = sorted((room for floor in FLOORS for room in floor), key=len, reverse=True)
    return next((room for room in rooms if module == room or module.startswith(f"{room}.")), None)


def arrows() -> Counter[tuple[str, str]]:
    """Return how many imports lead from each room to another."""
    result: Counter[tuple[str, str]] = Counter()
    for path in PACKAGE.rglob("*.py"):
        here = room_of(module_of(path))
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("inner_rim"):
                names = [f"{node.module}.{alias.name}" for alias in node.names]
                for there in {room_of(name.removeprefix("inner_rim.")) for name in names}:
                    if here and there and here != there:
                        result[here, there] += 1
    return result


def places() -> dict[str, tuple[float, float]]:
    """Return the upper left corner of every room."""
    widest = max(len(floor) for floor in FLOORS)
    full = widest * (WIDTH + GAP)
    result = {}
    for row, floor in enumerate(FLOORS):
        left = 0.5 * (full - len(floor) * (WIDTH + GAP)) + 0.5 * GAP
        for place, room in enumerate(floor):
            result[room] = (left + place * (WIDTH + GAP), 20.0 + row * FLOOR)
    return result


def drawing() -> str:
    """Return the picture as SVG; an arrow is the thicker the more imports it stands for."""
    at = places()
    width = max(len(floor) for floor in FLOORS) * (WIDTH + GAP)
    height = len(FLOORS) * FLOOR
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" font-family="sans-serif" font-size="15">',
        '<defs><marker id="tip" markerUnits="userSpaceOnUse" markerWidth="9" markerHeight="9" refX="8" refY="4.5" orient="auto">'
        '<path d="M0,0 L9,4.5 L0,9 z" fill="#6b6f73"/></marker></defs>',
        f'<rect width="{width}" height="{height}" fill="#fdfcf7"/>',
    ]
    for (here, there), count in sorted(arrows().items()):
        if there in EVERYBODY_S:
            continue
        (x0, y0), (x1, y1) = at[here], at[there]
        level = y0 == y1
        start = (
            (x0 + (WIDTH if x1 > x0 else 0), y0 + HEIGHT / 2)
            if level
            else (x0 + WIDTH / 2, y0 + HEIGHT)
        )
        end = (x1 + (0 if x1 > x0 else WIDTH), y1 + HEIGHT / 2) if level else (x1 + WIDTH / 2, y1)
        lines.append(
            f'<line x1="{start[0]:.0f}" y1="{start[1]:.0f}" x2="{end[0]:.0f}" y2="{end[1]:.0f}" '
            f'stroke="#6b6f73" stroke-opacity="0.45" stroke-width="{min(1 + count / 8, 5):.1f}" marker-end="url(#tip)"/>'
        )
    for room, (x, y) in at.items():
        lines.append(
            f'<rect x="{x:.0f}" y="{y:.0f}" width="{WIDTH}" height="{HEIGHT}" rx="6" fill="#d9e9e8" stroke="#0d656c"/>'
            f'<text x="{x + WIDTH / 2:.0f}" y="{y + 28:.0f}" text-anchor="middle" fill="#1d272d">{escape(room)}</text>'
        )
    return "\n".join([*lines, "</svg>", ""])


def main() -> None:
    """Write the picture."""
    (ROOT / "docs" / "house.svg").write_text(drawing(), encoding="utf-8")


if __name__ == "__main__":
    main()
