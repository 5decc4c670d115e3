"""The day's schedule: the immediate one, how far from the best possible after some effort, and the window meanwhile.

Run: .venv/bin/python benchmarks/schedule.py [efforts]
Figures to reach: the immediate schedule within one frame, 16 ms; 12 wheels within 1 %; the window answers within a
frame, 95 times in 100, while a better schedule is looked for.
"""

from __future__ import annotations

import random
import statistics
import sys
import time
from datetime import datetime, timedelta

from demo import opened
from PyQt6.QtWidgets import QApplication

from inner_rim.core.schedule.day import Day, DayWheel, Mechanic, Task, faults
from inner_rim.core.schedule.listing import list_schedule
from inner_rim.core.schedule.solver import improve

START = datetime(2026, 11, 25, 8)


def day_of(count: int, seed: int) -> Day:
    """Return an invented day: three to five tasks a wheel, waits from none to a night, due within days."""
    rng = random.Random(seed)
    wheels = tuple(
        DayWheel(
            f"wheel {n}",
            tuple(
                Task("x", rng.randint(5, 40), rng.choice([0, 15, 60, 240, 720]))
                for _ in range(rng.randint(3, 5))
            ),
            START + timedelta(hours=rng.randint(24, 24 + 6 * count)),
        )
        for n in range(count)
    )
    return Day(START, wheels, (Mechanic("one"), Mechanic("two")))


def main(efforts: list[float]) -> None:
    """Print both for 12, 24 and 40 wheels."""
    improve(day_of(2, 0), effort=0.5)  # the import
    for count in (12, 24, 40):
        day = day_of(count, 5)
        started = time.perf_counter()
        first = list_schedule(day)
        ms = 1000.0 * (time.perf_counter() - started)
        assert faults(day, first) == []
        print(
            f"{count} wheels, placed at once: {ms:.1f} ms = {ms / 16:.2f} of a frame, cost {first.cost}"
        )
        for effort in efforts:
            started = time.perf_counter()
            better = improve(day, first, effort)
            took = time.perf_counter() - started
            assert faults(day, better) == []
            gap = f"{100.0 * better.gap:.1f} %" if better.gap is not None else "not known"
            print(
                f"  effort {effort:g}: {took:.1f} s, cost {better.cost}, at most {gap} from the best"
            )


def window(wheels: int) -> None:
    """Print how long the demo's window, with so many wheels, takes to answer while it looks for a better schedule."""
    app = QApplication([])
    with opened(app) as session:
        bench = session.bench
        bench.select(next(one.key for one in bench.wheels if one.name.startswith("Warden")))
        while len(bench.wheels) < wheels or session.worker.waiting:
            if len(bench.wheels) < wheels:
                session.window.run("duplicate")
            app.processEvents()
        session.window.go_to("day")
        app.processEvents()
        gaps, last = [], time.perf_counter()
        while bench.day.plan.looking:
            app.processEvents()
            time.sleep(0.002)
            now = time.perf_counter()
            gaps.append(1000.0 * (now - last))
            last = now
    late = statistics.quantiles(gaps, n=100)[94]
    print(
        f"window with {wheels} wheels meanwhile: 95 % of answers within {late:.1f} ms, all within {max(gaps):.0f} ms"
    )


if __name__ == "__main__":
    main([float(one) for one in sys.argv[1:]] or [1.0, 5.0, 20.0])
    window(24)
