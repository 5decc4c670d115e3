"""Takes back what was done last at this bench, whatever it was, and does it again.

Nothing is rewound: each deed is answered by its opposite, which is stored like any other (an edit
by an edit, a log entry by a later entry), so that what other benches did meanwhile stands.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import msgspec

from inner_rim.core.record.log import Logged, TakenBack
from inner_rim.core.record.operations import Operation, SetField, apply, inverse
from inner_rim.core.record.paths import new_id
from inner_rim.work.editing.bench_port import BenchPort
from inner_rim.work.editing.draft import JobDraft
from inner_rim.work.editing.history import (
    Counted,
    Deed,
    FieldsEdited,
    Moved,
    PartAdded,
    PartEdited,
    Recorded,
    Set,
    UndoStep,
)
from inner_rim.work.editing.recorder import Recorder
from inner_rim.work.editing.state import BenchWheel, JobState, PlannedWheel, planned, wheel_state
from inner_rim.work.editing.sync import Sync


class Undone(msgspec.Struct, frozen=True):
    """The result of an undo or a redo.

    Attributes:
        deeds: of the step, as they were done; none where there was nothing to take back.
        left: fields that another window changed since: they stay as they are.
        refused: why nothing could be done: `off_bench`, or as in `operations.Conflict`; empty where
            it was done.
    """

    deeds: tuple[Deed, ...] = ()
    again: bool = False
    left: tuple[str, ...] = ()
    refused: str = ""


class Raised(msgspec.Struct, frozen=True):
    """Taking a step back would raise the limit of a wheel with air in it.

    Attributes:
        again: it is asked of doing the step again.
    """

    name: str
    before_kpa: float
    after_kpa: float
    again: bool = False


class UndoPort(BenchPort, Protocol):
    def take_out(self, job_id: str, wheel_id: str) -> None: ...

    def set_shop(self, name: str, value: object) -> None: ...


class Undo:
    def __init__(self, bench: UndoPort, sync: Sync, recorder: Recorder) -> None:
        self._bench, self._sync, self._recorder = bench, sync, recorder
        self._history = sync.history
        self._opposites: dict[type, Callable[..., Deed | None]] = {
            FieldsEdited: self._edited,
            Recorded: self._recorded,
            Counted: self._counted,
            PartEdited: self._part_edited,
            PartAdded: self._part_added,
            Set: self._set,
            Moved: self._moved,
        }
        self._left: list[str] = []
        self._refused = ""

    def step(self, again: bool = False) -> Undone:
        source, target = self._ways(again)
        if not source:
            return Undone(again=again)
        step = source.pop()
        self._left, self._refused = [], ""
        with self._history.silent():
            done = [self._opposites[type(deed)](deed) for deed in reversed(step.deeds)]
        opposites = tuple(deed for deed in done if deed is not None)
        said = step.said or step.deeds
        if opposites:
            target.append(UndoStep(opposites, said))
        return Undone(said, again, tuple(self._left), "" if opposites else self._refused or "gone")

    def raises(self, again: bool = False) -> Raised | None:
        """Return the wheel with air in it whose limit the next step would raise, None where there
        is none.
        """
        source, _target = self._ways(again)
        for deed in source[-1].deeds if source else ():
            job = self._job(deed.job_id) if isinstance(deed, FieldsEdited) else None
            if job is None or not isinstance(deed, FieldsEdited):
                continue
            wanted = [inverse(operation) for operation in reversed(deed.operations)]
            for before, after in self._before_and_after(job, wanted):
                low_kpa, high_kpa = before.plan.pressure.limit_kpa, after.plan.pressure.limit_kpa
                if has_air(before) and high_kpa > low_kpa:
                    return Raised(before.name, low_kpa, high_kpa, again)
        return None

    def _before_and_after(
        self, job: JobState, wanted: list[Operation]
    ) -> list[tuple[PlannedWheel, PlannedWheel]]:
        mine = [state for state in planned(self._bench.wheels) if state.job.job_id == job.job_id]
        shown = job.draft
        joined = apply(shown.document, shown.drafts, wanted, job.has_log)
        known = {
            str(wheel.get("wheel_id")): place
            for place, wheel in enumerate(joined.document["wheels"])
        }
        after = JobDraft(joined.document, joined.drafts)
        there = [state for state in mine if state.wheel_id in known]
        then = [wheel_state(job, known[state.wheel_id], self._bench.shop, after) for state in there]
        return [
            (now, other)
            for now, other in zip(there, then, strict=True)
            if isinstance(other, PlannedWheel)
        ]

    def _ways(self, again: bool) -> tuple[list[UndoStep], list[UndoStep]]:
        past, future = self._history.past, self._history.future
        return (future, past) if again else (past, future)

    def _job(self, job_id: str) -> JobState | None:
        result = next((job for job in self._sync.jobs if job.job_id == job_id), None)
        if result is None:
            self._refused = "off_bench"
        return result

    # -- the opposite of each deed -------------------------------------------------------------

    def _edited(self, deed: FieldsEdited) -> Deed | None:
        job = self._job(deed.job_id)
        if job is None:
            return None
        wanted = [inverse(operation) for operation in reversed(deed.operations)]
        conflicts = apply(job.draft.document, job.draft.drafts, wanted, job.has_log).conflicts
        barred = [conflict.operation for conflict in conflicts]
        for conflict in conflicts:
            if isinstance(conflict.operation, SetField):
                self._left.append(conflict.operation.path)
            else:
                self._refused = conflict.reason
        possible = [operation for operation in wanted if operation not in barred]
        if possible:
            self._sync.edit(job, possible)
            self._bench.refresh(job)
            self._look_at(job, possible[0].target if hasattr(possible[0], "target") else "")
        return FieldsEdited(job.job_id, tuple(possible)) if possible else None

    def _recorded(self, deed: Recorded) -> Deed | None:
        job = self._job(deed.job_id)
        state = self._look_at(job, deed.wheel_id) if job is not None else None
        if job is None or state is None:
            return None
        now = self._bench.now()
        entries = tuple(
            Logged(
                number=0, at=now, wheel_id=deed.wheel_id, entry=TakenBack(of=item.uid), uid=new_id()
            )
            for item in reversed(deed.entries)
        )
        self._recorder.append(state, entries)
        return Recorded(deed.job_id, deed.wheel_id, entries)

    def _look_at(self, job: JobState, wheel_id: str) -> BenchWheel | None:
        mine = [state for state in self._bench.wheels if state.job.job_id == job.job_id]
        state = next((one for one in mine if one.wheel_id == wheel_id), mine[0] if mine else None)
        here = self._bench.current
        if state is not None and (
            here is None or (here.job.job_id != job.job_id or wheel_id not in ("", here.wheel_id))
        ):
            self._bench.select(state.key)
        return state

    def _counted(self, deed: Counted) -> Deed | None:
        item = self._bench.shelf.item(deed.item_id)
        if item is None:
            return None
        level = max(0.0, item.stock - deed.by)
        self._bench.shelf.count(deed.item_id, level, item.stock)
        return Counted(deed.item_id, level - item.stock)

    def _part_edited(self, deed: PartEdited) -> Deed | None:
        if self._bench.shelf.item(deed.item_id) is None:
            return None
        wanted = [
            msgspec.structs.replace(one, value=one.base, base=one.value)
            for one in reversed(deed.operations)
        ]
        self._bench.shelf.edit(deed.item_id, wanted)
        return PartEdited(deed.item_id, tuple(wanted))

    def _part_added(self, deed: PartAdded) -> Deed | None:
        """A part that was added is offered no longer: what was booked from it stays booked."""
        retired = SetField("", "retired", False, True)
        return self._part_edited(PartEdited(str(deed.item.item_id), (retired,)))

    def _set(self, deed: Set) -> Deed | None:
        self._bench.set_shop(deed.name, deed.before)
        return Set(deed.name, deed.after, deed.before)

    def _moved(self, deed: Moved) -> Deed | None:
        if not deed.on:
            self._bench.take_out(deed.job_id, deed.selected[1] if deed.selected else "")
            return Moved(deed.job_id, deed.name, True, deed.selected)
        job = self._job(deed.job_id)
        if job is None:
            return None
        wheel_id = str(job.draft.document["wheels"][0]["wheel_id"])
        self._sync.archive(job)
        self._bench.selected = deed.selected
        self._bench.refresh()
        return Moved(deed.job_id, deed.name, False, (deed.job_id, wheel_id))


def has_air(state: PlannedWheel) -> bool:
    """Whether air is, or may be, in the tire: it is inflated, or being seated. At check-in its
    figures are still being entered.
    """
    log = state.plan.log
    return state.progress.stage != "check_in" and (log.state.air == "up" or log.may_have_air)
