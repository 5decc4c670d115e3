"""The day's plan of a bench: one schedule for the board, the bench's list and "what now"."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from functools import partial

import msgspec

from inner_rim.core.record.log import Logged, Promised, SignOff
from inner_rim.core.record.moments import naive_local
from inner_rim.core.schedule.day import (
    STILL,
    Broken,
    Day,
    KeptPin,
    Schedule,
    faults,
    pinned,
    rebase,
    with_pin,
)
from inner_rim.core.schedule.listing import Help, helps, list_schedule, round_up
from inner_rim.core.schedule.promise import Pace, Promise, PromiseStats, promise_stats, promises
from inner_rim.words import tr
from inner_rim.work.editing.settings import DaySettings, Settings
from inner_rim.work.editing.state import BenchWheel, PlannedWheel
from inner_rim.work.tasks.scheduling import day_of, hands, paces
from inner_rim.work.text.schedule_words import broken_words, changes

#: How long to look for a better schedule before saying what can be promised, about seconds; and how
#: long in all while the page is in view and nothing else is going on.
EFFORT, MAX_EFFORT = 3.0, 60.0
#: Pause of the search between two of its steps, s.
YIELD_S = 0.001
#: How long the end waits for one, s: at the most for OR-tools to be imported.
END_S = 5.0
#: Kinds of log entries that are learned from: how long steps take, and how promises were kept.
LEARNED = ("step", "promise", "sign_off", "attempt")
#: How often the day is simulated for a promise while a job is typed.
ESTIMATE_RUNS = 60
#: A search is repeated after this time, as what is late and what helps depend on the clock; for as
#: long the window says what changed.
STALE, SAID = timedelta(minutes=10), timedelta(minutes=5)
_EPOCH = datetime(2000, 1, 1)


class SearchResult(msgspec.Struct, frozen=True):
    """What a search has found so far.

    Attributes:
        promises: by a wheel's key; None while it is still looked.
        helps: what would help wheels that are late, by their place in the day.
    """

    number: int
    schedule: Schedule
    promises: Mapping[str, Promise] | None = None
    helps: Mapping[int, tuple[Help, ...]] = {}


class Planned(msgspec.Struct, frozen=True):
    """The day as it is planned now.

    Attributes:
        found: what the last search says of it; None where it is only placed.
        changed: which wheels will be ready at another time than was said, in a sentence.
        faults: why the pinned tasks cannot all stay where they are; empty where they can.
    """

    day: Day
    wheels: tuple[PlannedWheel, ...]
    schedule: Schedule
    found: SearchResult | None
    looking: bool
    changed: str
    faults: tuple[Broken, ...] = ()

    def next_up(self) -> tuple[tuple[PlannedWheel, datetime, str], ...]:
        """Return the wheels in the order in which work on them is planned: (wheel, when, what),
        each once.
        """
        firsts: dict[int, tuple[PlannedWheel, datetime, str]] = {}
        for one in self.schedule.placed:
            words = self.day.wheels[one.wheel].tasks[one.task].words
            firsts.setdefault(one.wheel, (self.wheels[one.wheel], self.day.at(one.start), words))
        return tuple(firsts.values())


class DayPlan:
    """Plans the wheels of a bench at once; a search improves the plan beside the work.

    Args:
        settings: hours, mechanics, units.

    Attributes:
        watched: the page is in view: the search goes on as long as it finds something.
    """

    def __init__(
        self,
        wheels: Callable[[], Sequence[BenchWheel]],
        clock: Callable[[], datetime],
        settings: Settings,
    ) -> None:
        self._wheels, self._clock, self._settings = wheels, clock, settings
        self._chosen = DaySettings(settings)
        self._number = 0
        self._stopped = True
        self._wanted: Day | None = None
        self._begun = _EPOCH
        self._found: SearchResult | None = None
        self._last: tuple[Day, Schedule] | None = None
        self._listed: tuple[Day, SearchResult | None, Schedule] | None = None
        self._said: dict[str, datetime] = {}
        self._changed = ("", _EPOCH)
        self._elsewhere: Mapping[str, Sequence[Logged]] = {}
        # of each wheel, the promises and handovers alone
        self._promised: Mapping[str, Sequence[Logged]] = {}
        self._estimates = 0
        self._threads: list[threading.Thread] = []
        self.watched = False

    @property
    def looking(self) -> bool:
        return not self._stopped

    def _day(self) -> tuple[Day, tuple[PlannedWheel, ...]]:
        chosen = self._chosen
        return day_of(
            self._wheels(),
            self._clock(),
            chosen.hours,
            hands(chosen.mechanics, chosen.mechanic_hours, chosen.hours),
            self._settings.own.units,
            chosen.resources,
            chosen.pins,
        )

    def list_aside(self, tell: Callable[[], None]) -> None:
        """Work out the schedule of the day as it is now in another thread, so that `now` finds it
        ready.

        Args:
            tell: called when it is, in that thread.
        """
        day, _wheels = self._day()

        def work() -> None:
            self._list(day)
            tell()

        self._begin(work, "order")

    def now(self) -> Planned:
        day, wheels = self._day()
        if not _alike(day, self._wanted):
            self._found = None
        schedule = self._list(day)
        if self._stopped and self._found is not None:  # what is still looked for is not said yet
            self._compare(day, schedule)
        words, until = self._changed
        changed = words if day.start < until else ""
        wrong = tuple(faults(day, schedule)) if pinned(day) else ()
        return Planned(day, wheels, schedule, self._found, self.looking, changed, wrong)

    def _list(self, day: Day) -> Schedule:
        """Return the schedule of a day at once: in the order of the best that was found, near the
        last one otherwise.
        """
        if self._listed is None or self._listed[0] != day or self._listed[1] is not self._found:
            if self._found is not None:
                order = [(one.wheel, one.task) for one in self._found.schedule.placed]
                schedule = list_schedule(day, order=order)
            else:
                schedule = list_schedule(day, self._before(day))
            self._listed = day, self._found, schedule
        return self._listed[2]

    def pin(self, planned: Planned, wheel: int, task: int, at: datetime, mechanic: int) -> str:
        """Keep a task at a time and with a mechanic; return why that cannot be, empty where it is
        kept.
        """
        day = planned.day
        name = day.wheels[wheel].name
        if at < day.start:
            return tr("{name}: that time has passed").format(name=name)
        tried = with_pin(day, wheel, task, at, mechanic)
        schedule = list_schedule(tried, self._before(tried))
        wrong = [fault for fault in faults(tried, schedule) if fault not in planned.faults]
        if wrong:
            return broken_words(tried, wrong[0])
        held = day.wheels[wheel].tasks[task]
        self._listed = tried, None, schedule  # what will be shown
        self._drop_old_pins(planned)
        self._chosen.keep(
            KeptPin(day.wheels[wheel].key, held.action, at, day.mechanics[mechanic].name)
        )
        return ""

    def apply(self, planned: Planned, wheel: int, remedy: Help) -> None:
        """Do what helps a wheel that is late: put it before another one, or stay longer today."""
        chosen, key = self._chosen, planned.day.wheels[wheel].key
        if remedy.kind == "stay":
            chosen.set("hours", chosen.hours.longer(planned.day.start.date(), remedy.minutes))
        self._drop_old_pins(planned)
        for pin in remedy.pins:
            action = planned.day.wheels[wheel].tasks[pin.task].action
            chosen.keep(KeptPin(key, action, pin.at, planned.day.mechanics[pin.mechanic].name))

    def unpin(self, planned: Planned, wheel: int, task: int) -> None:
        key, action = planned.day.wheels[wheel].key, planned.day.wheels[wheel].tasks[task].action
        for pin in self._chosen.pins:
            if (pin.wheel, pin.action) == (key, action):
                self._chosen.unpin(pin)
        self._drop_old_pins(planned)

    def _drop_old_pins(self, planned: Planned) -> None:
        """Remove pins whose task is done, or whose time is long past."""
        open_actions = {one.key: {task.action for task in one.tasks} for one in planned.day.wheels}
        for pin in self._chosen.pins:
            # a wheel with a problem comes back
            done = pin.action not in open_actions.get(pin.wheel, {pin.action})
            if done or pin.at < planned.day.start - STILL:
                self._chosen.unpin(pin)

    def improve(self, planned: Planned, tell: Callable[[SearchResult], None]) -> None:
        """Look for a better plan where something else is to be done than at the last search, or
        that is long ago.

        Args:
            tell: called with each result, in another thread; hands it to `take`.
        """
        day = planned.day
        if _alike(day, self._wanted) and day.start - self._begun < STALE:
            return
        before = self._before(day)
        self._wanted, self._begun = day, day.start
        self._number += 1
        self._stopped = False
        number, logs = self._number, self.logs()

        def search() -> None:
            first = planned.schedule
            try:
                pace = paces(logs)
                goes_on, wanted = partial(self._goes_on, number), lambda: number == self._number
                for result in searches(day, first, before, pace, number, goes_on, wanted):
                    tell(result)
            except Exception:
                tell(SearchResult(number, first, {}))  # nobody waits forever
                raise

        self._begin(search, "schedule")

    def _begin(self, work: Callable[[], None], name: str) -> None:
        thread = threading.Thread(target=work, name=name, daemon=True)
        self._threads = [*(one for one in self._threads if one.is_alive()), thread]
        thread.start()

    def end(self) -> None:
        """Stop for good, and wait until nothing runs any more: an import under way breaks when the
        program ends.
        """
        self._stopped = True
        self._number += 1
        self._estimates += 1
        for thread in self._threads:
            thread.join(END_S)

    def logs(self) -> tuple[Sequence[Logged], ...]:
        here = {state.wheel_id: tuple(state.log) for state in self._wheels()}
        return (
            *(log for wheel, log in self._elsewhere.items() if wheel not in here),
            *here.values(),
        )

    def learn(self, logs: Mapping[str, Sequence[Logged]]) -> None:
        """Learn from everything that was ever ticked off in this shop, and how its promises were
        kept.

        Args:
            logs: steps, promises and handovers of all wheels, on the bench or off it.
        """
        self._elsewhere = logs
        self._promised = {
            wheel: kept
            for wheel, log in logs.items()
            if (kept := [item for item in log if isinstance(item.entry, Promised | SignOff)])
        }

    @property
    def record(self) -> PromiseStats:
        here = {state.wheel_id: state.log for state in self._wheels()}
        return promise_stats({**self._promised, **here}.values(), naive_local(self._clock()))

    def estimate(self, tell: Callable[[Mapping[str, Promise]], None]) -> None:
        """Work out in another thread when each job can be promised by the plan as it is now: when
        its last wheel is ready.

        A job with a wheel that is not in the plan, for a stop or a missing figure, cannot be
        promised.

        Args:
            tell: called with it by job id, in that thread; with the last estimate only.
        """
        planned, logs = self.now(), self.logs()
        jobs: dict[str, list[int]] = {}
        for place, state in enumerate(planned.wheels):
            jobs.setdefault(state.key[0], []).append(place)
        known = {state.key for state in planned.wheels}
        for other in self._wheels():
            if other.key not in known and other.standing != "finished":
                jobs.pop(other.key[0], None)
        self._estimates += 1
        number = self._estimates

        def work() -> None:
            together = list(jobs.values())
            said = promises(planned.day, planned.schedule, paces(logs), ESTIMATE_RUNS, together)
            if number == self._estimates:
                tell(dict(zip(jobs, said, strict=True)))

        self._begin(work, "promise")

    def take(self, result: SearchResult) -> bool:
        """Take what a search has found; return whether it is of the last one."""
        if result.number != self._number:
            return False
        self._found = result
        if result.promises is not None:
            self._stopped = True
        if self._wanted is not None:
            self._last = self._wanted, result.schedule
        return True

    def _goes_on(self, number: int) -> bool:
        time.sleep(YIELD_S)  # the window's thread comes first
        return number == self._number and (self.watched or not self._stopped)

    def _before(self, day: Day) -> Schedule | None:
        return rebase(*self._last, day) if self._last is not None else None

    def _compare(self, day: Day, schedule: Schedule) -> None:
        """Keep when each wheel will be ready, and say where that is not what was said before."""
        words = changes(day, schedule, self._said)
        if words:
            self._changed = words, day.start + SAID
        self._said = {
            w.key: day.at(done) for w, done in zip(day.wheels, schedule.done, strict=True)
        }


def searches(
    day: Day,
    first: Schedule,
    before: Schedule | None,
    pace: Mapping[str, Pace],
    number: int,
    go_on: Callable[[], bool],
    wanted: Callable[[], bool],
) -> Iterator[SearchResult]:
    """Yield better schedules as they are found; after some effort, and each time one is found
    later, also what can be promised by it and what would help where it is late.

    Args:
        pace: how minutes scatter, by stage.
    """
    from inner_rim.core.schedule.solver import searching

    best, said = first, None
    for spent, best in searching(day, first, MAX_EFFORT, before, go_on=go_on):
        if spent < EFFORT and best.gap != 0.0:
            yield SearchResult(number, best)
        elif said is None or best.cost < said.cost:
            said = best
            yield _said(day, best, pace, number, wanted)
    if said is None:
        yield _said(day, best, pace, number, wanted)


def _said(
    day: Day, best: Schedule, pace: Mapping[str, Pace], number: int, wanted: Callable[[], bool]
) -> SearchResult:
    if not wanted():
        return SearchResult(number, best, {})
    keys = (wheel.key for wheel in day.wheels)
    said = dict(zip(keys, promises(day, best, pace), strict=True))
    helping = {
        w: tuple(_kept(day, one, said[day.wheels[w].key]) for one in remedies)
        for w, remedies in helps(day, best, wanted).items()
    }
    return SearchResult(number, best, said, helping)


def _kept(day: Day, one: Help, promise: Promise) -> Help:
    """A remedy; a time to promise is one that can be kept nine times in ten."""
    if one.kind != "promise" or one.at is None:
        return one
    at = day.hours.next_open(round_up(max(one.at, promise.sure)))
    return msgspec.structs.replace(one, at=at)


def _alike(day: Day, other: Day | None) -> bool:
    return other is not None and msgspec.structs.replace(day, start=other.start) == other
