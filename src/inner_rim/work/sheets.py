"""The wheels in work as they stand in memory: loaded, typed into, undone, stored; and who wants to know.

Qt-free. The state changes at once; the keeper stores each change in order. What is done at the wheels, and
logged, comes on top of it in `bench`.
"""

from collections import Counter
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import msgspec

from inner_rim.core.advisor import remedy_counts
from inner_rim.core.job import MAX_WHEELS
from inner_rim.core.log import (
    Remedy,
)
from inner_rim.core.parts import Item, PartKind, shelf_of
from inner_rim.core.units import UnitChoice
from inner_rim.store.errors import ChangedElsewhere, StoreError
from inner_rim.store.rows import BenchState, StoredJob
from inner_rim.words import tr

from .gauge import GaugeSession
from .jobs import JobState, Shop, WheelState, practice_of, wheel_state
from .keeper import Keeper
from .sheet import Sheet, alike, edit, empty_sheet, get, merged, put
from .shelf import ShelfBook

MOST_UNDO = 500
#: Parts that a check-in teaches the shelf.
LEARNED: tuple[PartKind, ...] = ("rim", "tire", "insert")


class Sheets:
    """The wheels on the bench, the one selected, and what is typed of them.

    Args:
        keeper: stores what changes; None keeps everything in memory only.
        clock: the time, for log entries.
    """

    def __init__(self, keeper: Keeper | None = None, clock: Callable[[], datetime] | None = None) -> None:
        self._keeper = keeper
        self._clock = clock or (lambda: datetime.now(UTC))
        self.shelf = ShelfBook(keeper, self._now, self._shelf_changed)
        self.shop = Shop()
        self.gauge = GaugeSession()
        self.changes: dict[tuple[int, int], tuple[Remedy, ...]] = {}
        self.jobs: list[JobState] = []
        self.wheels: list[WheelState] = []
        self.selected: tuple[int, int] | None = None
        self.units = UnitChoice()
        self.settings: dict[str, Any] = {}
        self.message = ""
        self.trouble: StoreError | None = None
        self.bugs: list[str] = []
        self._listeners: list[Callable[[], None]] = []
        self._loaded = False
        self._counts: dict[str, tuple[int, int]] = {}
        self._stocked: tuple[Item, ...] = ()
        self._setting: Counter[str] = Counter()  # how many orders to keep each are on their way
        self._leaving: list[JobState] = []  # put away here, not yet in the store

    @property
    def keeper(self) -> Keeper | None:
        """What stores the changes of bench and shelf."""
        return self._keeper

    @keeper.setter
    def keeper(self, keeper: Keeper | None) -> None:
        self._keeper = self.shelf.keeper = keeper

    # -- who wants to know -------------------------------------------------------------------

    def subscribe(self, listener: Callable[[], None]) -> None:
        """Call `listener` after every change."""
        self._listeners.append(listener)

    def _changed(self) -> None:
        for listener in self._listeners:
            listener()

    def say(self, words: str) -> None:
        """Show a sentence until the next one."""
        self.message = words
        self._changed()

    # -- loading -----------------------------------------------------------------------------

    def adopt(self, state: BenchState) -> None:
        """Take the stored bench over: what is newer there, without losing what is not stored yet.

        It may have been read before what this window did last was stored, and say so only now.
        """
        news = {name: value for name, value in state.settings.items() if not self._setting[name]}
        self.settings = {**self.settings, **news}
        if not self.shelf.loaded:
            self._stocked = state.stocked
        self.shop = self._shop_now()
        self._settle_alarm()
        self.units = _units_of(self.settings.get("units"), self.units)
        known = {job.stored_id: job for job in self.jobs if job.stored_id is not None}
        told: list[str] = []
        leaving = {job.stored_id for job in self._leaving}
        for stored in state.jobs:
            if stored.job_id in leaving:
                continue
            job = known.pop(stored.job_id, None)
            if job is None:
                self.jobs.append(JobState(stored, _sheet_of(stored)))
            elif self._take_over(job, stored) and self._loaded:
                told.append(str(get(stored.document, "wheels[0].name")))
        for job in known.values():  # put away elsewhere
            if job.sheet is job.stored_sheet and not job.fresh:
                self.jobs.remove(job)
        if told:
            self.message = tr("Changed in another window: {names}").format(names=", ".join(told))
        self._loaded = True
        self._refresh()

    def _settle_alarm(self) -> None:
        """The gauge's alarm begins where the shop wants it, between half of the limit and the limit."""
        share = self.settings.get("alarm_share")
        if isinstance(share, int | float) and 0.5 <= share <= 1.0:
            self.gauge.near_share = float(share)

    def _shop_now(self) -> Shop:
        """What the shop's practice and shelf say now, for every wheel that does not say otherwise."""
        stocked = self.shelf.items if self.shelf.loaded else self._stocked
        injector = self.settings.get("injector_ml")
        return Shop(
            practice_of(self.settings.get("practice")),
            shelf_of(stocked, injector if isinstance(injector, int | float) else None),
            self._counts,
        )

    def _shelf_changed(self) -> None:
        shop = self._shop_now()
        if shop != self.shop:
            self.shop = shop
            self._refresh(everything=True)
        else:
            self._changed()

    def set_practice(self, name: str, value: Any) -> None:
        """Set one school of the shop's own; None takes it back to the usual."""
        kept = {k: v for k, v in (self.settings.get("practice") or {}).items() if k != name}
        self.set_setting("practice", kept if value is None else {**kept, name: value})
        self.shop = self._shop_now()
        self._refresh(everything=True)

    def set_injector(self, injector_ml: float | None) -> None:
        """Set what the shop's injector holds."""
        self.set_setting("injector_ml", injector_ml)
        self.shop = self._shop_now()
        self._refresh(everything=True)

    def _take_over(self, job: JobState, stored: StoredJob) -> bool:
        waiting = [entry for entry in job.log if entry.number == 0]
        news = len(stored.log) > len(job.log) - len(waiting)
        job.log = [*stored.log, *waiting]
        if stored.revision <= job.revision:
            return news
        theirs = _sheet_of(stored)
        if job.stored_sheet is None or job.sheet is job.stored_sheet:
            job.sheet = job.stored_sheet = theirs
            job.revision = stored.revision
            job.past.clear()
            job.future.clear()
            return True
        joined, aside = merged(job.stored_sheet, job.sheet, theirs)
        job.stored_sheet, job.revision, job.sheet = theirs, stored.revision, joined
        if aside:
            self.message = tr(
                "Another window changed {fields} at the same time. Its value stands; yours waits in the field."
            ).format(fields=", ".join(path.rpartition(".")[2] for path in aside))
        self._store(job)
        return not aside

    def reload(self) -> None:
        """Read the bench again from the store."""
        if self.keeper:
            self.keeper.order(lambda store: store.bench(), self.adopt)

    # -- what the keeper says ----------------------------------------------------------------

    def on_store_trouble(self, fault: StoreError | None) -> None:
        """Storing does not work (None: it works again)."""
        if self.trouble is not None and fault is None:
            self.message = tr("Stored again: nothing was lost.")
        self.trouble = fault
        self._changed()

    def on_changed_elsewhere(self) -> None:
        """Another window wrote to the same data."""
        self.reload()
        if self.shelf.loaded:
            self.shelf.load()

    def on_bug(self, fault: BaseException) -> None:
        """Something unexpected happened while storing: keep the traceback for the crash dialog."""
        import traceback  # not on the way to the first paint

        self.bugs.append("".join(traceback.format_exception(fault)))
        self._changed()

    # -- the wheels --------------------------------------------------------------------------

    def _refresh(self, only: JobState | None = None, everything: bool = False) -> None:
        kept = {state.key: state for state in self.wheels}
        found = []
        for job in self.jobs:
            for index in range(len(job.sheet.document.get("wheels", ()))):
                old = kept.get((id(job), index))
                if old is not None and only is not None and job is not only and not everything:
                    found.append(old)
                else:
                    found.append(wheel_state(job, index, self.units, self.shop))
        self.wheels = found
        if self.current is None:
            self.selected = found[0].key if found else None
        self._changed()

    @property
    def current(self) -> WheelState | None:
        """The selected wheel, or None on an empty bench."""
        return next((state for state in self.wheels if state.key == self.selected), None)

    def select(self, key: tuple[int, int]) -> None:
        """Select a wheel."""
        self.selected = key
        self.message = ""
        self._changed()

    def step_selection(self, by: int) -> None:
        """Select the next or the previous wheel."""
        keys = [state.key for state in self.wheels]
        if self.selected in keys:
            self.select(keys[(keys.index(self.selected) + by) % len(keys)])

    def new_wheel(self) -> None:
        """Put a new wheel on the bench and select it."""
        job = JobState(None, empty_sheet(self._new_name()))
        self.jobs.append(job)
        self.selected = (id(job), 0)
        self.message = ""
        self._store(job)
        self._refresh(job)

    def _new_name(self) -> str:
        taken = {state.name for state in self.wheels}
        return next(name for n in range(1, 100000) if (name := tr("Wheel {n}").format(n=n)) not in taken)

    def same_again(self, count: int = 1) -> None:
        """Put wheels alike into the same job: the other wheel of the bicycle, or the rest of a fleet.

        Never more than a job may have; one undo takes all of them back.
        """
        state = self.current
        if state is None:
            return
        sheet, index = state.job.sheet, state.index
        taken = {other.name for other in self.wheels}
        room = MAX_WHEELS - len(sheet.document["wheels"])
        for _ in range(min(count, room)):
            sheet, index = alike(sheet, state.index, taken)
            taken.add(str(sheet.document["wheels"][index]["name"]))
        self._edited(state.job, sheet, None)
        self.select((id(state.job), index))
        if count > room:
            self.say(tr("A job holds at most {most} wheels").format(most=MAX_WHEELS))

    def put_away(self) -> None:
        """Take the selected wheel's job off the bench; it stays in the data."""
        state = self.current
        if state is None:
            return
        job = state.job
        self.jobs.remove(job)
        if self.keeper:
            now = self._now()
            self._leaving.append(job)
            self.keeper.order(
                lambda store: store.put_away(job.stored_id, now), lambda _done: self._leaving.remove(job)
            )
        self.message = tr("{name} is put away").format(name=state.name)
        self._refresh()

    def take_out(self, job_id: int, wheel: int) -> None:
        """Put a wheel back onto the bench, by its number in the store, and select it."""

        def there() -> bool:
            state = next((s for s in self.wheels if s.job.stored_id == job_id and s.index == wheel), None)
            if state is not None:
                self.select(state.key)
            return state is not None

        if there() or self.keeper is None:
            return
        now = self._now()

        def work(store: Any) -> BenchState:
            store.put_away(job_id, now, away=False)
            found: BenchState = store.bench()
            return found

        def arrived(state: BenchState) -> None:
            self.adopt(state)
            if not there():
                self.say(tr("There is no such wheel in these data"))

        self.keeper.order(work, arrived)

    def learn_from_shop(self) -> None:
        """Count what worked at seating in this shop."""
        if self.keeper is not None:
            self.keeper.order(lambda store: remedy_counts(store.logbook.attempts()), self._counted)

    def _counted(self, counts: dict[str, tuple[int, int]]) -> None:
        if counts != self._counts:
            self._counts = counts
            self._shelf_changed()

    # -- the plan's inputs -------------------------------------------------------------------

    def type_into(self, field: str, text: str) -> None:
        """Take what was typed into a field of the selected wheel, accepted or not."""
        state = self.current
        if state is not None:
            path = state.path(field)
            self._edited(state.job, edit(state.job.sheet, path, text, self.units), path)

    def put_part(self, field: str, part: dict[str, Any]) -> None:
        """Put in a rim or a tire used before."""
        state = self.current
        if state is not None:
            path = state.path(field)
            self._edited(state.job, put(state.job.sheet, path, part), None)

    def _edited(self, job: JobState, sheet: Sheet, path: str | None) -> None:
        if sheet == job.sheet:
            return
        if path is None or path != job.last_path or not job.past:
            job.past = [*job.past[-MOST_UNDO:], job.sheet]
        job.last_path, job.sheet = path, sheet
        job.future.clear()
        self.message = ""
        self._store(job)
        self._refresh(job)

    def end_of_typing(self) -> None:
        """The hand has left the field: the next edit is an undo step of its own."""
        if self.current is not None:
            self.current.job.last_path = None

    def undo(self) -> None:
        """Take back the last edit of the selected wheel's plan."""
        self._step_back(lambda job: (job.past, job.future), tr("Nothing to undo"))

    def redo(self) -> None:
        """Do again what was taken back."""
        self._step_back(lambda job: (job.future, job.past), tr("Nothing to redo"))

    def _step_back(
        self, stacks: Callable[[JobState], tuple[list[Sheet], list[Sheet]]], otherwise: str
    ) -> None:
        state = self.current
        if state is None:
            return
        source, target = stacks(state.job)
        if not source:
            self.message = otherwise
            self._changed()
            return
        target.append(state.job.sheet)
        state.job.sheet = source.pop()
        state.job.last_path = None
        self.message = ""
        self._store(state.job)
        self._refresh(state.job)

    def known_parts(self, part: str, done: Callable[[list[dict[str, Any]]], None]) -> None:
        """Give `done` every part of a kind used before that has a name, newest first."""

        def collect(documents: list[dict[str, Any]]) -> list[dict[str, Any]]:
            found: dict[str, dict[str, Any]] = {}
            for document in documents:
                for wheel in document.get("wheels", ()):
                    item = wheel.get(part) or {}
                    if item.get("name"):
                        found.setdefault(item["name"], item)
            return list(found.values())

        if self.keeper:
            self.keeper.order(lambda store: collect(store.recent_documents()), done)
        else:
            done(collect([job.sheet.document for job in reversed(self.jobs)]))

    # -- settings ----------------------------------------------------------------------------

    def set_units(self, units: UnitChoice) -> None:
        """Read and type in other units from now on."""
        self.units = units
        self.set_setting("units", msgspec.to_builtins(units))
        self._refresh()

    def set_setting(self, name: str, value: Any) -> None:
        """Keep a setting."""
        self.settings[name] = value
        self._settle_alarm()
        if self.keeper:

            def kept(_done: None) -> None:
                self._setting[name] -= 1

            self._setting[name] += 1
            self.keeper.order(lambda store: store.set_setting(name, value), kept)

    # -- storing -----------------------------------------------------------------------------

    def _store(self, job: JobState) -> None:
        if self.keeper is None:
            job.stored_sheet = job.sheet
            return
        if job.queued:  # an order that waits takes the newest sheet with it
            return
        job.queued = True
        now = self._now()

        def save(store: Any) -> None:
            job.queued = False
            sheet = job.sheet  # the newest: what was typed since the order was given goes with it
            if sheet is job.stored_sheet:
                return
            if job.stored_id is None:
                job.stored_id = store.create(sheet.document, sheet.drafts, now)
                job.revision = 1
            else:
                job.revision = store.save(job.stored_id, sheet.document, sheet.drafts, job.revision, now)
            job.stored_sheet = sheet

        def stored(_done: None) -> None:
            job.fresh = False

        self.keeper.order(save, stored, self._not_stored)

    def _not_stored(self, fault: StoreError) -> None:
        if isinstance(fault, ChangedElsewhere):
            self.reload()
        else:
            self.on_store_trouble(fault)

    def unsaved(self) -> list[dict[str, Any]]:
        """Return the document and log of every job, for export when storing does not work."""
        return [
            {
                "document": job.sheet.document,
                "drafts": job.sheet.drafts,
                "log": [msgspec.to_builtins(entry) for entry in job.log],
            }
            for job in self.jobs
        ]

    @property
    def time(self) -> datetime:
        """The time now."""
        return self._clock()

    def _now(self) -> str:
        return self._clock().isoformat(timespec="seconds")


def _sheet_of(stored: StoredJob) -> Sheet:
    return Sheet(stored.document, stored.drafts)


def _units_of(stored: Any, otherwise: UnitChoice) -> UnitChoice:
    try:
        return msgspec.convert(stored, UnitChoice) if stored else otherwise
    except msgspec.ValidationError:
        return otherwise
