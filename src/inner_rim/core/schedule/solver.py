"""The schedule improved by CP-SAT (OR-tools), and a bound that says how good it is. Imported when
first used.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from inner_rim.core.schedule.day import (
    LATE_WEIGHT,
    MAX_SOLVED,
    MOVED_MIN,
    VERY_LATE_MIN,
    Day,
    Placed,
    Schedule,
    cost_of,
    done_times,
    faults,
    fits_somewhere,
    pinned,
)
from inner_rim.core.schedule.listing import list_schedule, searched

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

SEED = 7
#: Moves tried, and OR-tools' deterministic seconds, for each unit of effort.
TRIES, EFFORT = 300, 0.3
#: A round of moves, then one of proof and one of improvement, the first so long, in units of
#: effort; all three are twice as long the next time.
ROUNDS = (0.3, 0.7)
#: How often to ask whether to go on, s.
ASKED_EVERY_S = 0.01


def improve(
    day: Day,
    first: Schedule | None = None,
    effort: float = 5.0,
    before: Schedule | None = None,
    on_progress: Callable[[Schedule], bool] = lambda schedule: True,
    go_on: Callable[[], bool] = lambda: True,
) -> Schedule:
    """Return the best schedule found, with its bound; the same for the same day and effort."""
    *_rounds, (_spent, best) = searching(day, first, effort, before, on_progress, go_on)
    return best


def searching(
    day: Day,
    first: Schedule | None = None,
    effort: float = 5.0,
    before: Schedule | None = None,
    on_progress: Callable[[Schedule], bool] = lambda schedule: True,
    go_on: Callable[[], bool] = lambda: True,
) -> Iterator[tuple[float, Schedule]]:
    """Yield (effort spent, best schedule so far with its bound) after each round of a search.

    Minimizes `cost_of` over starts and mechanics, hands in opening hours only. Rounds take turns:
    one proves how good the schedule at hand is, one improves it by large neighborhood search from
    there. Each pair is twice as long as the one before; a longer search begins with the same
    rounds. It ends where the best is proven.

    Args:
        effort: how long it may look, about seconds; counted in steps, so that it does not depend on
            the machine. On a day of more than 60 wheels moves are tried only, and nothing is
            proven.
        before: the plan before, which is kept where that costs nothing.
        on_progress: called with each better schedule; False stops it.
        go_on: called often; False stops it too.
    """
    best = first if first is not None else list_schedule(day, before)
    if not best.placed:
        yield 0.0, Schedule((), best.done, best.cost, best.cost)
        return
    large = len(day.wheels) / MAX_SOLVED
    if large > 1.0:  # the model alone would take longer than the effort
        yield effort, searched(day, best, round(TRIES * effort / large**2), before, go_on)
        return
    spent, longer = 0.0, 1
    while spent < effort and go_on():
        best = searched(day, best, TRIES * longer, before, go_on, SEED + longer)
        if not on_progress(best):
            break
        for proves, length in zip((True, False), ROUNDS, strict=True):
            share = min(longer * length, effort - spent)
            if share > 0.0 and go_on():
                best = _Model(day, best, before).solve(
                    share * EFFORT, on_progress, go_on, proves=proves
                )
                spent += share
                yield spent, best
            if best.gap == 0.0:
                return
        longer *= 2
    if not spent:
        yield 0.0, best


class _Model:
    """Starts and hands as variables; what must hold and what it costs as constraints."""

    def __init__(self, day: Day, first: Schedule, before: Schedule | None) -> None:
        from ortools.sat.python import cp_model

        self._day, self._first, self._before = day, first, before
        self._model = cp_model.CpModel()
        # no best schedule ends later: at the worst every task stands behind the last of the one at
        # hand
        self._horizon = max(one.end for one in first.placed) + sum(
            t.minutes for w in day.wheels for t in w.tasks
        )
        self._tasks = [
            (w, t) for w, wheel in enumerate(day.wheels) for t in range(len(wheel.tasks))
        ]
        self._pins = pinned(day)
        self._starts = {
            (w, t): self._model.new_int_var(
                self._first_minute(w, t), self._horizon, f"start {w} {t}"
            )
            for w, t in self._tasks
        }
        self._hands: dict[tuple[int, int], list[cp_model.IntVar]] = {}
        # Equal mechanics are counted, not distinguished: who does what is settled afterward.
        self._pooled = (
            not self._pins and len({day.hours_of(m) for m in range(len(day.mechanics))}) == 1
        )
        self._place()
        self._pin()
        self._model.minimize(self._cost())
        self._hint()

    def _first_minute(self, wheel: int, task: int) -> int:
        """When a task may begin at the earliest: now; a hand may be on a pinned one already."""
        pin = self._pins.get((wheel, task))
        return 0 if pin is None else min(0, pin.start)

    def _place(self) -> None:
        """Each task in a pair of hands, in opening hours, no more at a time than hands, alone at
        its resource.
        """
        day, model = self._day, self._model
        spans = []
        used: dict[str, list[cp_model.IntervalVar]] = {}
        for w, t in self._tasks:
            task, start = day.wheels[w].tasks[t], self._starts[w, t]
            span = model.new_fixed_size_interval_var(start, task.minutes, f"span {w} {t}")
            spans.append(span)
            if self._pooled and fits_somewhere(day.hours_of(0), task):
                model.add_linear_expression_in_domain(start, self._openings(0, task.minutes))
            if task.resource:
                used.setdefault(task.resource, []).append(span)
        model.add_cumulative(spans, [1] * len(spans), len(day.mechanics))
        for row in used.values():
            model.add_no_overlap(row)
        if not self._pooled:
            self._hand_out()

    def _hand_out(self) -> None:
        """Each task to one mechanic, in that one's opening hours."""
        day, model = self._day, self._model
        rows: list[list[cp_model.IntervalVar]] = [[] for _ in day.mechanics]
        for w, t in self._tasks:
            task, start = day.wheels[w].tasks[t], self._starts[w, t]
            hands = self._hands[w, t] = [
                model.new_bool_var(f"hands {w} {t} {m}") for m in range(len(day.mechanics))
            ]
            model.add_exactly_one(hands)
            for m, mine in enumerate(hands):
                name = f"interval {w} {t} {m}"
                rows[m].append(
                    model.new_optional_fixed_size_interval_var(start, task.minutes, mine, name)
                )
                if (w, t) not in self._pins and fits_somewhere(day.hours_of(m), task):
                    domain = self._openings(m, task.minutes)
                    model.add_linear_expression_in_domain(start, domain).only_enforce_if(mine)
        for row in rows:
            model.add_no_overlap(row)

    def _openings(self, mechanic: int, minutes: int) -> cp_model.Domain:
        from ortools.sat.python import cp_model

        ranges = []
        for opens, closes in self._day.hours_of(mechanic).openings(self._day.start):
            low, high = self._day.minute(opens), self._day.minute(closes) - minutes
            if low > self._horizon:
                break
            if high >= low:
                ranges.append([low, high])
        return cp_model.Domain.from_intervals(ranges)

    def _pin(self) -> None:
        for place, one in self._pins.items():
            self._model.add(self._starts[place] == one.start)
            self._model.add(self._hands[place][one.mechanic] == 1)

    def _cost(self) -> cp_model.LinearExprT:
        """What `cost_of` adds up; the order of a wheel's tasks with their waits stands in it too."""
        day, model = self._day, self._model
        most = self._horizon + max(
            task.wait_minutes for wheel in day.wheels for task in wheel.tasks
        )
        terms: list[cp_model.LinearExprT] = []
        for w, wheel in enumerate(day.wheels):
            free: cp_model.LinearExprT = (
                max(0, day.minute(wheel.ready)) if wheel.ready is not None else 0
            )
            for t, task in enumerate(wheel.tasks):
                if t or (w, t) not in self._pins:
                    model.add(self._starts[w, t] >= free)
                free = self._starts[w, t] + (task.minutes + task.wait_minutes)
            terms.append(free)
            if wheel.due is not None:
                due = day.minute(wheel.due)
                late = model.new_int_var(0, most + max(0, -due), f"late {w}")
                very = model.new_int_var(0, most + max(0, -due), f"very late {w}")
                model.add(late >= free - due)
                model.add(very >= late - VERY_LATE_MIN)
                terms += [LATE_WEIGHT * late, LATE_WEIGHT * very]
        for one in self._before.placed if self._before is not None else ():
            start = self._starts.get((one.wheel, one.task))
            if start is not None:
                other = model.new_bool_var(f"moved {one.wheel} {one.task}")
                model.add(start == one.start).only_enforce_if(~other)
                terms.append(MOVED_MIN * other)
        return sum(terms)

    def _hint(self) -> None:
        for one in self._first.placed:
            self._model.add_hint(self._starts[one.wheel, one.task], one.start)
            for m, mine in enumerate(self._hands.get((one.wheel, one.task), ())):
                self._model.add_hint(mine, m == one.mechanic)

    def solve(
        self,
        effort: float,
        on_progress: Callable[[Schedule], bool],
        go_on: Callable[[], bool],
        *,
        proves: bool,
    ) -> Schedule:
        """Return the best schedule found, no worse than the first one.

        Args:
            effort: OR-tools' deterministic seconds.
            proves: look for a bound; else only for better schedules.
        """
        from ortools.sat.python import cp_model

        solver = cp_model.CpSolver()
        if proves:  # energy of the hands in the linear part: a far better bound
            solver.parameters.num_workers = 1
            solver.parameters.linearization_level = 2
        else:  # taking turns at fixed points, two workers give the same plan for the same day
            solver.parameters.num_workers = 2
            solver.parameters.interleave_search = True
            solver.parameters.use_lns_only = True
        solver.parameters.random_seed = SEED
        solver.parameters.max_deterministic_time = effort
        model = self

        class OnSolution(cp_model.CpSolverSolutionCallback):
            """Reports each better schedule."""

            def on_solution_callback(self) -> None:
                """Report, and stop where no more is wanted."""
                if not on_progress(model._read(self.value, self.best_objective_bound)):
                    self.stop_search()

        over = threading.Event()

        def watch() -> None:
            """Stop it soon where it is no longer wanted; it may have nothing to report for seconds."""
            while not over.wait(ASKED_EVERY_S):
                if not go_on():
                    solver.stop_search()

        watcher = threading.Thread(target=watch, name="schedule watch", daemon=True)
        watcher.start()
        try:
            status = solver.solve(self._model, OnSolution())
        finally:
            over.set()
            watcher.join()
        first = self._first
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return first
        best = self._read(solver.value, solver.best_objective_bound)
        bound = max(best.bound or 0, first.bound or 0)
        # rules may not get around pins
        result = best if best.cost <= first.cost or faults(self._day, first) else first
        return Schedule(result.placed, result.done, result.cost, min(bound, result.cost))

    def _read(self, value: Callable[[cp_model.IntVar], int], bound: float) -> Schedule:
        day, result = self._day, []
        free = [0] * len(day.mechanics)
        usual = {
            (one.wheel, one.task): one.mechanic for one in (self._before or self._first).placed
        }
        for w, t in sorted(self._tasks, key=lambda place: (value(self._starts[place]), place)):
            start = value(self._starts[w, t])
            end = start + day.wheels[w].tasks[t].minutes
            # as before, else whoever has been free for the shortest time: gaps stay long
            if self._pooled:
                could = [m for m in range(len(free)) if free[m] <= start]
                kept = usual.get((w, t))
                mechanic = kept if kept in could else max(could, key=lambda m: (free[m], -m))
                free[mechanic] = end
            else:
                mechanic = next(m for m, mine in enumerate(self._hands[w, t]) if value(mine))
            result.append(Placed(w, t, mechanic, start, end))
        placed = tuple(sorted(result, key=lambda one: (one.start, one.mechanic, one.wheel)))
        done = done_times(day, placed)
        return Schedule(placed, done, cost_of(day, placed, done, self._before), int(bound + 0.5))
