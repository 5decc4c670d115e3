"""Time from a keystroke in a field to the painted consequence.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/window.py
Figure to reach: one frame, 16 ms.
"""

from __future__ import annotations

import statistics
import time

from demo import opened
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

MOST_MS = 16.0


def main() -> None:
    """Type widths into the demo's first wheel, letter by letter, painting after each."""
    app = QApplication([])
    with opened(app) as session:
        session.window.run("go_to_field", "rim.internal_width_mm")
        entry = app.focusWidget()
        times = []
        for n in range(60):
            entry.selectAll()
            for letter in f"2{n % 6}.{n % 10}":
                started = time.perf_counter()
                QTest.keyClick(entry, letter)
                app.processEvents()
                times.append(1000.0 * (time.perf_counter() - started))
    median, worst = statistics.median(times), statistics.quantiles(times, n=100)[94]
    print(
        f"keystroke to paint: median {median:.1f} ms = {median / MOST_MS:.2f} of a frame; 95 % {worst:.1f} ms = {worst / MOST_MS:.2f}"
    )


if __name__ == "__main__":
    main()
