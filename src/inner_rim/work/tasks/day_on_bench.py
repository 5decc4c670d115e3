"""What the bench shows of the day's plan: its wheels in order, when work on each goes on, when a
job can be promised.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING

from inner_rim.core.record.log import Promised
from inner_rim.core.record.moments import in_words
from inner_rim.core.schedule.hours import Hours
from inner_rim.words import tr
from inner_rim.work.editing.bench_port import BenchPort
from inner_rim.work.editing.editor import Editor
from inner_rim.work.editing.recorder import Recorder
from inner_rim.work.editing.settings import DaySettings, Settings
from inner_rim.work.editing.state import BenchWheel, WheelKey

if TYPE_CHECKING:
    from inner_rim.core.schedule.promise import Promise
    from inner_rim.work.tasks.day_plan import DayPlan


class DayOnBench:
    """The day's plan, as the bench follows it.

    Args:
        editor: takes a due time.
        settings: hours, mechanics, units.

    Attributes:
        begins: when work on each wheel starts or goes on, in the order of the plan.
    """

    def __init__(
        self,
        desk: BenchPort,
        editor: Editor,
        recorder: Recorder,
        settings: Settings,
        clock: Callable[[], datetime],
    ) -> None:
        self._desk, self._editor, self._recorder = desk, editor, recorder
        self._settings, self._clock = settings, clock
        self.begins: dict[WheelKey, datetime] = {}
        self.promised: Mapping[str, Promise] = {}

    @cached_property
    def plan(self) -> DayPlan:
        """Who does what when; made when it is first asked for."""
        from inner_rim.work.tasks.day_plan import DayPlan

        return DayPlan(lambda: self._desk.wheels, self._clock, self._settings)

    @property
    def hours(self) -> Hours:
        return DaySettings(self._settings).hours

    def end(self) -> None:
        """Stop planning, if it was ever started."""
        if "plan" in self.__dict__:
            self.plan.end()

    @property
    def listed(self) -> list[BenchWheel]:
        """The wheels as the list has them: problems, then in the order of the plan, then those on
        which no work is possible.
        """
        places = {key: place for place, key in enumerate(self.begins)}

        def rank(state: BenchWheel) -> tuple[int, int]:
            if state.standing in ("problem", "stopped"):
                return 0, 0
            if state.key in places:
                return 1, places[state.key]
            return 3 if state.standing == "finished" else 2, 0

        return sorted(self._desk.wheels, key=rank)

    def put_in_order(self) -> None:
        """Sort the list as in the day's plan; not while someone types or looks, but after something
        is done.
        """
        begins = {state.key: at for state, at, _words in self.plan.now().next_up()}
        if list(begins.items()) != list(self.begins.items()):
            self.begins = begins
            self._desk.changed()

    def estimated(self, promised: Mapping[str, Promise]) -> None:
        if promised != self.promised:
            self.promised = promised
            self._desk.changed()

    def of(self, state: BenchWheel | None) -> Promise | None:
        return self.promised.get(state.key[0]) if state is not None else None

    def promise(self) -> bool:
        """Promise the selected wheel's job for the time that can be kept; return whether one is
        known.

        It becomes the job's due time and a log entry of the wheel.
        """
        result = self.of(self._desk.current)
        if result is None:
            return False
        self._promise(result.sure, result.early)
        return True

    def promise_for(self, state: BenchWheel, at: datetime) -> None:
        before = self._desk.selected
        self._desk.selected = state.key
        self._promise(at, at)
        self._desk.selected = before
        self._desk.changed()

    def _promise(self, at: datetime, early: datetime) -> None:
        due = at.isoformat(timespec="minutes")
        self._editor.type_into("due", due)
        self._editor.end_of_typing()
        self._recorder.record(Promised(due=due, early=early.isoformat(timespec="minutes")))
        self._desk.say(tr("Promised for {at}").format(at=in_words(at, "%a %d %b %H:%M")))
