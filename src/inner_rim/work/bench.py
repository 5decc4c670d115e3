"""The bench: the wheels in progress, the one selected, and the parts that work on them.

Qt-free, and composed: `editor` takes what is typed, `recorder` what is done, `sync` agrees with the
store, `settings` holds what this bench and this shop have chosen, `shelf` the parts, `gauge` the
live attempt, `day` what the day's plan wants.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from inner_rim.core.record.units import UnitChoice
from inner_rim.store.rows import BenchState
from inner_rim.words import tr
from inner_rim.work.editing.editor import Editor
from inner_rim.work.editing.event import Event
from inner_rim.work.editing.history import History, Moved
from inner_rim.work.editing.recorder import Recorder
from inner_rim.work.editing.settings import Settings
from inner_rim.work.editing.shelf import ShelfBook
from inner_rim.work.editing.state import (
    BenchWheel,
    JobState,
    PlannedWheel,
    Shop,
    WheelKey,
    wheel_state,
)
from inner_rim.work.editing.sync import Sync
from inner_rim.work.editing.undo import Raised, Undo
from inner_rim.work.shop_methods import ShopMethods
from inner_rim.work.storage.source import DailyBackup
from inner_rim.work.storage.worker import StoreWorker
from inner_rim.work.tasks.day_on_bench import DayOnBench
from inner_rim.work.tasks.gauge import GaugeSession, is_held
from inner_rim.work.tasks.visits import Visits
from inner_rim.work.text.panel import PanelContext
from inner_rim.work.text.undo_words import undone_text


class Bench:
    """What every view shows a part of.

    Args:
        worker: stores what changes; None keeps everything in memory only.
        clock: the time, for log entries.

    Attributes:
        backups: makes the daily backup of these data, None where nobody does.
        at_first: as many jobs are worked out, so that the first wheel can be worked on at once; the
            others follow, one by one. None for all.
    """

    def __init__(
        self,
        worker: StoreWorker | None = None,
        clock: Callable[[], datetime] | None = None,
        settings_file: Path | None = None,
    ) -> None:
        self._clock = clock or (lambda: datetime.now(UTC))
        self._changed = Event[[]]()
        self.message = ""
        self.at_first: int | None = None
        self.wheels: list[BenchWheel] = []
        self.selected: WheelKey | None = None
        self.backups: DailyBackup | None = None
        self.gauge = GaugeSession()
        #: Called before the selection moves by itself: letters go nowhere then, until the hand
        #: chooses.
        self.before_moving = Event[[]]()
        #: The wheel in hand that another window took off the bench, empty for none.
        self.lost = ""
        self._by_hand = False
        self.sync = Sync(self.now, self.refresh, self.say, self._adopted)
        self.settings = Settings(self.sync, settings_file)
        self.shelf = ShelfBook(self.sync, self.now, lambda: self.shop_methods.work_out())
        self.shop_methods = ShopMethods(self.settings, self.shelf, self.gauge, self._shop_changed)
        self.editor = Editor(self, self.sync)
        self.recorder = Recorder(self, self.sync)
        self._undo = Undo(self, self.sync, self.recorder)
        self.visits = Visits(self, self.sync, self.changed)
        self.day = DayOnBench(self, self.editor, self.recorder, self.settings, self._clock)
        self.sync.elsewhere.connect(self._shelf_elsewhere)
        self.worker = worker

    @property
    def worker(self) -> StoreWorker | None:
        return self.sync.worker

    @worker.setter
    def worker(self, worker: StoreWorker | None) -> None:
        self.sync.worker = worker

    # -- who wants to know -------------------------------------------------------------------

    def subscribe(self, listener: Callable[[], None]) -> None:
        self._changed.connect(listener)

    def changed(self) -> None:
        self._changed.emit()

    def say(self, words: str) -> None:
        self.message = words
        self.changed()

    # -- the wheels --------------------------------------------------------------------------

    @property
    def jobs(self) -> list[JobState]:
        return self.sync.jobs

    @property
    def logged(self) -> int:
        return sum(len(job.log) for job in self.jobs)

    def refresh(self, only: JobState | None = None, *, everything: bool = False) -> None:
        if only is not None:  # someone is already working
            self.at_first = None
        kept = {state.key: state for state in self.wheels}
        result: list[BenchWheel] = []
        opened, left = {job_id for job_id, _wheel in kept}, self.at_first or len(self.jobs)
        for job in list(self.jobs):
            if not left:
                break
            try:
                result += self._states(job, kept, fresh=only is None or job is only or everything)
                left -= 1
            except Exception as fault:
                if job.job_id in opened:
                    raise
                self.sync.keep_unopened(job, fault)  # it must not keep the others from opening
        in_hand = self.current
        taken = (
            in_hand is not None
            and not self._by_hand
            and all(one.key != in_hand.key for one in result)
        )
        if in_hand is not None and taken:
            self.before_moving.emit()
            self.lost = in_hand.name
        self.wheels = result
        if self.current is not None:
            self.lost = ""  # it is there again: restored data, or put back
        elif not self.lost:
            self.selected = result[0].key if result else None
        self.changed()

    def load_more(self) -> bool:
        """Work out one job more; return whether there are others."""
        if self.at_first is not None:
            self.at_first = self.at_first + 1 if self.at_first + 1 < len(self.jobs) else None
            self.refresh()
        return self.at_first is not None

    def _states(
        self, job: JobState, kept: Mapping[WheelKey, BenchWheel], *, fresh: bool
    ) -> list[BenchWheel]:
        result = []
        for index, wheel in enumerate(job.draft.document["wheels"]):
            old = kept.get((job.job_id, str(wheel.get("wheel_id"))))
            result.append(wheel_state(job, index, self.shop) if fresh or old is None else old)
        return result

    @property
    def current(self) -> BenchWheel | None:
        return next((state for state in self.wheels if state.key == self.selected), None)

    @property
    def planned(self) -> PlannedWheel | None:
        """The selected wheel where it has a plan."""
        state = self.current
        return state if isinstance(state, PlannedWheel) else None

    def wheel(self, key: WheelKey) -> BenchWheel | None:
        return next((state for state in self.wheels if state.key == key), None)

    def select(self, key: WheelKey) -> None:
        self.selected, self.lost = key, ""
        self.message = ""
        self.visits.load(key[1])
        self.changed()

    def step_selection(self, by: int) -> None:
        keys = [state.key for state in self.day.listed]
        if self.lost and keys:
            self.select(keys[0 if by > 0 else -1])
        elif self.selected in keys:
            self.select(keys[(keys.index(self.selected) + by) % len(keys)])

    def archive(self) -> None:
        """Take the selected wheel's job off the bench; it stays in the data."""
        state = self.current
        if state is not None:
            job = self.sync.job(state.job.job_id)
            self.history.push(Moved(job.job_id, state.name, False, state.key))
            with self._hand():
                self.sync.archive(job)
                self.message = tr("{name} is off the bench. Ctrl+Z puts it back.").format(
                    name=state.name
                )
                self.refresh()

    @contextmanager
    def _hand(self) -> Iterator[None]:
        """What goes off the bench inside was taken off by this hand: the next wheel takes its
        place.
        """
        before, self._by_hand = self._by_hand, True
        try:
            yield
        finally:
            self._by_hand = before

    # -- taking back -------------------------------------------------------------------------

    @property
    def history(self) -> History:
        return self.sync.history

    def undo(self, *, again: bool = False, sure: bool = False) -> Raised | None:
        """Take back what was done last, or do again what was taken back last, and say what.

        Args:
            sure: also where a limit is raised while air is in the tire.

        Returns:
            what must be asked first, None where it was done.
        """
        raised = None if sure else self._undo.raises(again)
        if raised is None:
            with self._hand():
                undone = self._undo.step(again)
                self.message = undone_text(undone, self.units, self.shelf.item)
                self.refresh()
        return raised

    def set_shop(self, name: str, value: object) -> None:
        self.shop_methods.set(name, value)

    def take_out(self, job_id: str, wheel_id: str) -> None:
        def there() -> bool:
            result = next((one for one in self.wheels if one.key[0] == job_id), None)
            state = self.wheel((job_id, wheel_id)) or (result if not wheel_id else None)
            if state is None:
                return False
            message = self.message
            self.select(state.key)
            self.message = message
            return True

        if not there():
            self.sync.take_out(
                job_id,
                lambda: None if there() else self.say(tr("There is no such wheel in these data")),
            )

    def discard_unsaved(self) -> None:
        self.settings.discard_unsaved()
        self.sync.discard_unsaved()
        if self.shelf.loaded:
            self.shelf.load()

    # -- what holds for all of them ----------------------------------------------------------

    def _adopted(self, state: BenchState) -> None:
        self.settings.adopt(state)
        self.shop_methods.adopt(state)

    def _shelf_elsewhere(self) -> None:
        if self.shelf.loaded:
            self.shelf.load()

    def _shop_changed(self, changed: bool) -> None:
        """The shelf or the shop's methods changed: work every wheel out again where that matters."""
        if changed:
            self.refresh(everything=True)
        else:
            self.changed()

    @property
    def shop(self) -> Shop:
        return self.shop_methods.shop

    @property
    def units(self) -> UnitChoice:
        return self.settings.own.units

    def set_units(self, units: UnitChoice) -> None:
        """Read and type in other units from now on; what was typed stays in the units it was typed
        in.
        """
        self.settings.set_own(units=units)
        self.refresh()

    @property
    def time(self) -> datetime:
        return self._clock()

    def now(self) -> str:
        return self._clock().isoformat(timespec="seconds")


def panel_context(bench: Bench, state: BenchWheel | None, cursor: str = "") -> PanelContext:
    """Return what the words of the next action depend on besides the wheel itself."""
    held = isinstance(state, PlannedWheel) and is_held(bench.gauge, state.progress)
    pace, hours = bench.settings.own.pace, bench.day.hours
    return PanelContext(
        bench.units,
        bench.time,
        pace,
        bench.day.of(state),
        cursor,
        hours,
        held,
        bench.lost,
        bench.settings.own.signed_by,
        bench.shelf.items,
        len(bench.wheels) > 1,
    )


def as_file(bench: Bench) -> bytes:
    from inner_rim.work.tasks.exchange import job_file
    from inner_rim.work.tasks.rescue import work_of

    jobs = [
        job_file(job.job_id, job.draft.document, job.draft.drafts, False, job.log)
        for job in (*bench.jobs, *bench.sync.unopened.values())
    ]
    return work_of(jobs, bench.shelf.items, bench.settings.shop, bench.sync.kept)
