"""Forty days of twelve wheels that no rule was made on: what the program plans, against an independent model.

The days are drawn here: conversions, refreshes, and repairs in their usual steps, one or two mechanics, the usual
opening hours, one compressor. The reference is CP-SAT on a model of its own (a calendar of blocked intervals, one
optional interval for each task and mechanic), two workers, 60 s a day.

Run: .venv/bin/python benchmarks/held_out.py reference   writes held_out.json beside this file, 40 minutes
     .venv/bin/python benchmarks/held_out.py [effort]    compares the program's plan with it
Figures to reach: within 5 % of the reference on every day; days of up to four wheels proven.
"""

from __future__ import annotations

import json
import random
import statistics
import sys
import time
from datetime import datetime, timedelta
from pathlib import Path

from ortools.sat.python import cp_model

from inner_rim.core.schedule.day import (
    LATE_WEIGHT,
    VERY_LATE_MIN,
    Day,
    DayWheel,
    Mechanic,
    Task,
    faults,
)
from inner_rim.core.schedule.solver import improve

FILE = Path(__file__).with_suffix(".json")
DAYS, WHEELS, SECONDS = 40, 12, 60.0
MONDAY = datetime(2026, 11, 23)
#: Steps as (stage, fewest minutes, most minutes, waits to choose from, resource).
Step = tuple[str, int, int, tuple[int, ...], str]
TAPE: list[Step] = [
    ("strip", 5, 12, (0, 15), ""),
    ("tape", 8, 25, (0, 30), ""),
    ("mount", 6, 20, (0,), ""),
]
SEAT: list[Step] = [("seat", 4, 15, (0, 5), "compressor"), ("sealant", 3, 8, (0,), "")]
HOLD: list[Step] = [
    ("hold", 2, 4, (15, 120), ""),
    ("hold", 2, 4, (15, 120), ""),
    ("hold", 2, 3, (15, 720), ""),
]
SET: list[Step] = [("set", 3, 8, (0,), "")]
KINDS = (
    [*TAPE, *SEAT, *HOLD, *SET],
    [*SEAT, *HOLD, *SET],
    [("strip", 5, 15, (0, 15), ""), *SEAT, *HOLD[-1:], *SET],
)


def day_of(seed: int, wheels: int = WHEELS) -> Day:
    """Return one of the days; on some the hands are slow and there is far too much to do."""
    rng = random.Random(1000 + seed)
    start = MONDAY + timedelta(days=rng.randint(0, 5), minutes=rng.randint(8 * 60, 12 * 60))
    pace = rng.choice((1.0, 2.0, 3.5))
    result = []
    for n in range(wheels):
        steps = rng.choice(KINDS)
        begun = rng.randint(0, len(steps) - 2)
        tasks = tuple(
            Task(stage, round(pace * rng.randint(low, high)), rng.choice(waits), resource, stage)
            for stage, low, high, waits, resource in steps[begun:]
        )
        hours = rng.choice((None, 3, 6, 10, 26, 28, 32, 50, 72))
        due = (
            start + timedelta(hours=hours, minutes=rng.randint(0, 59))
            if hours is not None
            else None
        )
        ready = start + timedelta(minutes=rng.randint(10, 180)) if rng.random() < 0.25 else None
        result.append(DayWheel(f"wheel {n}", tasks, due, ready))
    mechanics = (Mechanic("one"), Mechanic("two"))[: 1 + seed % 2]
    return Day(start, tuple(result), mechanics)


def reference(day: Day, seconds: float) -> tuple[int, int]:
    """Return (cost, bound) by a model that shares nothing with the program's."""
    model = cp_model.CpModel()
    horizon = 21 * 24 * 60
    closed, at = [], 0
    for opens, closes in day.hours.openings(day.start):
        low, high = day.minute(opens), day.minute(closes)
        if low > at:
            closed.append((at, low))
        at = high
        if at > horizon:
            break
    rows: list[list[cp_model.IntervalVar]] = [[] for _ in day.mechanics]
    used: dict[str, list[cp_model.IntervalVar]] = {}
    cost: list[cp_model.LinearExprT] = []
    for w, wheel in enumerate(day.wheels):
        free: cp_model.LinearExprT = (
            max(0, day.minute(wheel.ready)) if wheel.ready is not None else 0
        )
        for t, task in enumerate(wheel.tasks):
            start = model.new_int_var(0, horizon, f"s{w}.{t}")
            model.add(start >= free)
            mine = [model.new_bool_var(f"m{w}.{t}.{m}") for m in range(len(day.mechanics))]
            model.add_exactly_one(mine)
            for m, here in enumerate(mine):
                end = start + task.minutes
                rows[m].append(
                    model.new_optional_interval_var(start, task.minutes, end, here, f"i{w}.{t}.{m}")
                )
            if task.resource:
                span = model.new_interval_var(
                    start, task.minutes, start + task.minutes, f"r{w}.{t}"
                )
                used.setdefault(task.resource, []).append(span)
            free = start + task.minutes + task.wait_minutes
        cost.append(free)
        if wheel.due is not None:
            due = day.minute(wheel.due)
            late = model.new_int_var(0, 2 * horizon, f"l{w}")
            very = model.new_int_var(0, 2 * horizon, f"v{w}")
            model.add_max_equality(late, [0, free - due])
            model.add_max_equality(very, [0, late - VERY_LATE_MIN])
            cost.append(LATE_WEIGHT * (late + very))
    for m, row in enumerate(rows):
        shut = [model.new_interval_var(a, b - a, b, f"c{m}.{a}") for a, b in closed]
        model.add_no_overlap([*row, *shut])
    for spans in used.values():
        model.add_no_overlap(spans)
    model.minimize(sum(cost))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 2
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.random_seed = 1
    solver.solve(model)
    return round(solver.objective_value), round(solver.best_objective_bound)


def write_reference() -> None:
    """Solve every day with the reference, and keep what it found."""
    result = []
    for seed in range(DAYS):
        result.append(reference(day_of(seed), SECONDS))
        print(seed, *result[-1], flush=True)
        FILE.write_text(json.dumps(result) + "\n")


def compare(effort: float) -> None:
    """Print how far the program's plan is from the reference, a day a line, and whether small days are proven."""
    above = []
    for seed, (cost, bound) in enumerate(json.loads(FILE.read_text())):
        day = day_of(seed)
        begun = time.perf_counter()
        ours = improve(day, effort=effort)
        took = time.perf_counter() - begun
        assert faults(day, ours) == []
        above.append(100.0 * (ours.cost / cost - 1.0))
        print(
            f"{seed:2} {len(day.mechanics)} hands: {ours.cost} against {cost} ({bound}): {above[-1]:+.1f} %, {took:.1f} s"
        )
    print(
        f"worst {max(above):+.1f} %, mean {statistics.mean(above):+.1f} %, above 5 %: {sum(a > 5 for a in above)}"
    )
    small = [improve(day_of(seed, 4), effort=effort) for seed in range(100, 120)]
    print(f"proven: {sum(one.gap == 0.0 for one in small)} of {len(small)} days of four wheels")


if __name__ == "__main__":
    if sys.argv[1:] == ["reference"]:
        write_reference()
    else:
        compare(float((sys.argv[1:] or ["3"])[0]))
