"""Times of the logbook, of papers, of traces, and of the live trace.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/logbook.py [entries]
Figures to reach: search as you type among 100,000 entries 50 ms; a wheel's story 50 ms; a bench card 300 ms;
five traces in the time of one SciPy import; half an hour of 50 readings a second with the window drawn in a frame.
"""

from __future__ import annotations

import csv
import statistics
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
from demo import opened
from PyQt6.QtWidgets import QApplication
from timing import median_ms, say

from inner_rim.core.models.pops import analyse
from inner_rim.core.record.log import Logged, Note
from inner_rim.desktop.widgets.theme import load_font
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.rows import StoredJob
from inner_rim.work.bench import Bench
from inner_rim.work.storage.demo import demo_bench, demo_jobs
from inner_rim.work.tasks.export import written_as

SAMPLES = Path(__file__).parents[1] / "tests" / "data" / "traces"
PER_WHEEL = 25


def filled(folder: Path, entries: int) -> Repository:
    """Return a database with many jobs and entries, written in one go."""
    store = Repository(sqlite_url(folder / "big.sqlite"))
    job = demo_jobs()[2].job
    begun = datetime(2020, 1, 1, tzinfo=UTC)
    jobs = []
    for number in range(entries // PER_WHEEL):
        name = f"Wheel {number}"
        document = {
            **job,
            "customer": "Ranger post",
            "wheels": [{**job["wheels"][0], "name": name, "wheel_id": f"w{number}"}],
        }
        at = (begun + timedelta(hours=number)).isoformat()
        log = [
            Logged(
                number=number * PER_WHEEL + k + 1,
                at=at,
                wheel_id=f"w{number}",
                entry=Note(text=f"found {k} at {name}, valve {number % 97}"),
                uid=f"e{number}-{k}",
            )
            for k in range(PER_WHEEL)
        ]
        jobs.append(StoredJob(f"j{number}", document, {}, 1, True, tuple(log)))
    store.import_all(jobs, (), {}, begun.isoformat())
    return store


def traces() -> tuple[float, float]:
    """Return (one SciPy import, five traces) in ms, the import in a process of its own."""
    code = (
        "import time; t = time.perf_counter(); import scipy.signal; print(time.perf_counter() - t)"
    )
    runs = [
        float(subprocess.run([sys.executable, "-c", code], capture_output=True, text=True).stdout)
        for _ in range(3)
    ]
    data = []
    for path in sorted(SAMPLES.glob("*.csv"))[:5]:
        with path.open() as file:
            data.append(np.array(list(csv.reader(file))[1:], dtype=float).T)
    started = time.perf_counter()
    for t, p in data:
        analyse(t, p, 340.0)
    return 1000.0 * statistics.median(runs), 1000.0 * (time.perf_counter() - started)


def live(app: QApplication) -> float:
    """Take half an hour of readings at 50 a second, then draw a frame after each; return what 95 % stay below, ms."""
    with opened(app) as session:
        page = session.window.page
        session.window.run("show_trace")
        app.processEvents()
        gauge = session.window.tools.gauge
        for i in range(90_000):
            session.bench.gauge.take(100.0 + 100.0 * (i % 3000) / 3000.0, 0.02 * i, 340.0)
        frames = []
        for i in range(90_000, 90_300):
            started = time.perf_counter()
            gauge.take(100.0 + 100.0 * (i % 3000) / 3000.0, 0.02 * i)
            page.deck.trace.draw()
            app.processEvents()
            frames.append(1000.0 * (time.perf_counter() - started))
        assert len(session.bench.gauge.times) == 90_300
    return statistics.quantiles(frames, n=20)[18]


def main(entries: int) -> None:
    app = QApplication([])
    load_font()
    with tempfile.TemporaryDirectory() as folder:
        store = filled(Path(folder), entries)
        words = ["w", "wh", "wheel 3", "valve 42", "curlew", "ranger found", "nothing like it", ""]
        for word in words:
            say(
                f"search “{word}” among {entries}",
                median_ms(lambda i, w=word: store.logbook.search(w)),
                50.0,
            )
        say("a wheel's story", median_ms(lambda i: store.logbook.job(f"j{i}")), 50.0)
        store.close()
    now = datetime.now(UTC)
    bench = Bench(clock=lambda: now)
    bench.sync.adopt(demo_bench(now))
    say(
        "a bench card",
        median_ms(lambda i: written_as("card", bench.wheels[i % 8], bench.units, now), 8),
        300.0,
    )
    scipy_ms, traces_ms = traces()
    print(f"five traces {traces_ms:.0f} ms = {traces_ms / scipy_ms:.2f} of one SciPy import")
    say("live trace, half an hour, a frame", live(app), 16.0)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000)
