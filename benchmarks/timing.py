"""Medians and ratios, as every benchmark prints them."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def median_ms(work: Callable[[int], object], runs: int = 30) -> float:
    """Return the median time of a piece of work."""
    times = []
    for i in range(runs):
        started = time.perf_counter()
        work(i)
        times.append(1000.0 * (time.perf_counter() - started))
    return statistics.median(times)


def say(name: str, value: float, most: float) -> None:
    print(f"{name:40} {value:8.2f} ms = {value / most:.2f} of {most:g} ms")
