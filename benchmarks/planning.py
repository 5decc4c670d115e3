"""Time of planning one wheel.

Run: .venv/bin/python benchmarks/planning.py
Figure to reach: 2 ms median for `plan_document` on one wheel.
"""

from __future__ import annotations

import statistics
import time

from inner_rim.work.planning import plan_document
from inner_rim.work.storage.demo import demo_jobs

MAX_MS = 2.0


def main() -> None:
    """Plan every wheel of the demo, each time with another width, so that no cache helps."""
    times = []
    for i in range(100):
        for demo in demo_jobs():
            wheel = {**demo.job["wheels"][0]}
            wheel["rim"] = {
                **wheel["rim"],
                "internal_width_mm": wheel["rim"]["internal_width_mm"] + 0.001 * i,
            }
            job = {**demo.job, "wheels": [wheel]}
            started = time.perf_counter()
            plan_document(job)
            times.append(1000.0 * (time.perf_counter() - started))
    median, worst = statistics.median(times), statistics.quantiles(times, n=100)[98]
    print(
        f"plan_document, one wheel: median {median:.2f} ms = {median / MAX_MS:.2f} of {MAX_MS:g} ms; 99 % {worst:.2f} ms"
    )


if __name__ == "__main__":
    main()
