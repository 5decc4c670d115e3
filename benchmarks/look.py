"""A frame of the live gauge at any length of its trace, and a change of theme or text size with every page open.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/look.py
To reach: a frame within 8 ms (half of 16), a change within 0.2 s of processor time.
"""

from __future__ import annotations

import math
import statistics
import time

from demo import opened
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.app import Session

#: Readings a second, and how many of them there are.
EVERY_S = 0.05
LENGTHS = {"ten seconds": 200, "half an hour": 36_000, "ten hours": 720_000}


def main() -> None:
    """Print both."""
    app = QApplication([])
    with opened(app) as session:
        frames(app, session)
        changes(app, session)


def frames(app: QApplication, session: Session) -> None:
    window, gauge, at_s = session.window, session.bench.gauge, 0.0
    window.run("show_trace")
    app.processEvents()
    trace = window.page.deck.trace
    for words, count in LENGTHS.items():
        times = []
        while len(gauge.times) < count + 30:
            gauge.take(200.0 + 10.0 * math.sin(at_s / 3.0), at_s, 340.0)
            at_s += EVERY_S
            if len(gauge.times) > count:
                started = time.perf_counter()
                trace.draw()
                trace.plot.repaint()
                times.append(1000.0 * (time.perf_counter() - started))
        median, most = statistics.median(times), max(times[1:])  # the first draws the whole
        print(
            f"frame, {words}: median {median:.2f} ms, at most {most:.2f}, the whole {times[0]:.1f}"
        )


def changes(app: QApplication, session: Session) -> None:
    window = session.window
    for page in ("day", "shelf", "practice", "logbook", "insights", "training", "bench"):
        window.run(f"go_{page}")
        app.processEvents()
    for command in ("theme", "larger", "smaller", "theme", "theme"):
        started = time.process_time()
        window.run(command)
        app.processEvents()
        print(f"{command}: {time.process_time() - started:.3f} s of processor time (at most 0.2)")


if __name__ == "__main__":
    main()
