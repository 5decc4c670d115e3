"""Time from a keystroke in a field to the painted consequence.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/window.py
Figure to reach: 95 % within one frame, 16.7 ms: letter upon letter, and as a quick hand types, where the processor
has rested between two letters.
"""

from __future__ import annotations

import statistics
import time

from demo import opened
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

MOST_MS = 1000.0 / 60.0
HAND_S = 0.06


def main() -> None:
    """Type widths into the demo's first wheel, letter by letter, painting after each."""
    app = QApplication([])
    with opened(app) as session:
        session.window.run("go_to_field", "rim.internal_width_mm")
        for words, pause in (("letter upon letter", 0.0), ("by a quick hand", HAND_S)):
            times = typed(app, pause)
            median, worst = statistics.median(times), statistics.quantiles(times, n=100)[94]
            print(
                f"keystroke to paint, {words}: median {median:.1f} ms = {median / MOST_MS:.2f} of a frame; "
                f"95 % {worst:.1f} ms = {worst / MOST_MS:.2f}"
            )


def typed(app: QApplication, pause: float) -> list[float]:
    """Return how long each letter took, ms; `pause` seconds pass between two."""
    entry = app.focusWidget()
    times = []
    for n in range(60):
        entry.selectAll()
        for letter in f"2{n % 6}.{n % 10}":
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
