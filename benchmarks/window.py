"""Time from a keystroke in a field to the painted consequence, and from Enter to the painted next step.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/window.py
Figures to reach: 95 % of the letters within 8 ms, letter upon letter and as a quick hand types, where the processor
has rested between two letters; 95 % of the Enters within 25 ms.
"""

from __future__ import annotations

import statistics
import time

from demo import opened
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.app import Session
from inner_rim.desktop.commands import keyboard

LETTER_MS, ENTER_MS = 8.0, 25.0
HAND_S = 0.06


def main() -> None:
    """Type widths into the demo's first wheel, letter by letter, painting after each."""
    keyboard.BOUNCE_MS = 0  # dry hands
    app = QApplication([])
    with opened(app) as session:
        wheel(session, "Dune")
        session.window.run("go_to_field", "rim.internal_width_mm")
        for words, pause in (("letter upon letter", 0.0), ("by a quick hand", HAND_S)):
            say(f"keystroke to paint, {words}", typed(app, pause), LETTER_MS)
        session.bench.settings.set_own(pace="step")
        say("Enter to the next step", entered(app, session), ENTER_MS)


def say(name: str, times: list[float], most: float) -> None:
    """Print median and 95 % of some times."""
    median, worst = statistics.median(times), statistics.quantiles(times, n=100)[94]
    print(f"{name}: median {median:.1f} ms, 95 % {worst:.1f} ms (at most {most:g}), {len(times)} times")


def wheel(session: Session, name: str) -> None:
    """Select a wheel of the demo."""
    session.bench.select(next(one.key for one in session.bench.wheels if one.name.startswith(name)))


def entered(app: QApplication, session: Session) -> list[float]:
    """Return how long each Enter took that confirmed a step, ms; wheels are taken through their work and back."""
    window, times = session.window, []
    for name in ("Dune", "Warden", "Sandpiper 2 · rear") * 4:
        wheel(session, name)
        for _ in range(24):
            app.processEvents()
            now = window.page.now
            first = now.answers[0]
            if not first.enter or first.command not in ("step_done", "stage_done", "finish"):
                if not window.run(first.command if first.command != "read_gauge" else "did_not"):
                    break
                continue
            now.focus_main()
            app.processEvents()
            started = time.perf_counter()
            QTest.keyClick(app.focusWidget(), Qt.Key.Key_Return)
            app.processEvents()
            times.append(1000.0 * (time.perf_counter() - started))
        for _ in range(24):
            window.run("undo")
    return times


def typed(app: QApplication, pause: float) -> list[float]:
    """Return how long each letter took, ms; `pause` seconds pass between two."""
    entry = app.focusWidget()
    times = []
    for n in range(60):
        entry.selectAll()
        for letter in f"7{n % 6}.{n % 10}":
            started = time.perf_counter()
            QTest.keyClick(entry, letter)
            app.processEvents()
            times.append(1000.0 * (time.perf_counter() - started))
            until = time.perf_counter() + pause
            while time.perf_counter() < until:
                app.processEvents()
                time.sleep(0.002)
    return times


if __name__ == "__main__":
    main()
