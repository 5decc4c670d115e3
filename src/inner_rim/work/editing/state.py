"""A job and its wheels in memory: what is typed, what is stored of it, its plan and progress."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan, WheelPlanner
from inner_rim.core.progress.progress import Progress, State, derive
from inner_rim.core.record.job import Job, Practice, SealantKind, Shelf, Waits, Wheel
from inner_rim.core.record.log import Logged, standing
from inner_rim.core.record.operations import (
    JOB,
    Conflict,
    Drafts,
    FieldKey,
    Operation,
    UnacceptedText,
    apply,
)
from inner_rim.core.record.paths import JsonObject, group_of, name_of
from inner_rim.core.record.practice import (
    PRACTICE_DEFAULTS,
    RIDE_DEFAULTS,
    SHELF_DEFAULTS,
    layered,
    with_stock,
)
from inner_rim.core.record.resolved import USUAL, Learned
from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.texts import seen
from inner_rim.store.rows import StoredJob
from inner_rim.words import tr
from inner_rim.work.editing.draft import DraftReading, JobDraft, get, read

#: What identifies a wheel on the bench: its job's identity and its own.
WheelKey = tuple[str, str]


def key_text(key: WheelKey) -> str:
    """The key as a day document has it."""
    return "/".join(key)


def key_from(text: str) -> WheelKey:
    job_id, _, wheel_id = text.partition("/")
    return job_id, wheel_id


#: The shop's record of remedies: (worked, tried) of each.
Counts = Mapping[str, tuple[int, int]]


class _PendingEdits(msgspec.Struct, frozen=True):
    """Edits on their way to the store, and the job as it is shown with them and all before them."""

    operations: tuple[Operation, ...]
    shown: JobDraft


class JobSnapshot(msgspec.Struct, frozen=True):
    """A job at one moment, as the views show it; see `JobState`."""

    job_id: str
    draft: JobDraft
    log: tuple[Logged, ...]
    conflicts: Mapping[FieldKey, Conflict]


class JobState:
    """One job in memory: what the store has confirmed, what is on its way there, and the sum of
    both.

    Only `Sync` and what edits a job hold it; everything else gets its `snapshot`.

    Attributes:
        draft: the job as it is shown: what is stored, with this bench's own edits on top.
        log: its entries; those that are not stored yet have the number 0.
        conflicts: edits of this bench that conflict with another window's, by field.
        creating: the store has not confirmed the job itself yet.
        last_read: the job of each wheel as it could be read last: what cannot be read now is
            planned from it.
        worked_out: the memo of `wheel_state`, by wheel.
    """

    def __init__(self, stored: StoredJob, *, creating: bool = False) -> None:
        self.job_id = stored.job_id
        self.revision = stored.revision
        self.log = tuple(stored.log)
        self.conflicts: Mapping[FieldKey, Conflict] = {}
        self.creating = creating
        self.last_read: dict[str, Job] = {}
        self.worked_out: dict[str, _WorkedOut] = {}
        self._confirmed = JobDraft(stored.document, stored.drafts)
        self._pending: dict[int, _PendingEdits] = {}
        self.draft = self._confirmed
        self._snapshot = JobSnapshot(self.job_id, self.draft, self.log, self.conflicts)

    @property
    def snapshot(self) -> JobSnapshot:
        """The job as it is now; the same object until something of it changes."""
        last = self._snapshot
        if (
            last.draft is not self.draft
            or last.log is not self.log
            or last.conflicts is not self.conflicts
        ):
            self._snapshot = JobSnapshot(self.job_id, self.draft, self.log, self.conflicts)
        return self._snapshot

    def keep_conflict(self, key: FieldKey, conflict: Conflict) -> None:
        self.conflicts = {**self.conflicts, key: conflict}

    def drop_conflict(self, key: FieldKey) -> None:
        if key in self.conflicts:
            self.conflicts = {other: kept for other, kept in self.conflicts.items() if other != key}

    @property
    def pending(self) -> bool:
        return bool(self._pending)

    def expect(self, number: int, operations: Sequence[Operation]) -> None:
        """Show edits at once; the store will confirm them."""
        self._show_on_top(number, tuple(operations))

    def confirm(
        self, document: JsonObject, drafts: Drafts, revision: int, numbers: Sequence[int] = ()
    ) -> None:
        """Take over what is stored; edits of this bench that are still on their way stay on top of
        it.

        Args:
            numbers: of the edits that are confirmed by it; an earlier one that could not be stored
                stays on top.
        """
        waiting = None
        for number in numbers:
            waiting = self._pending.pop(number, None)
        if revision >= self.revision:
            self._confirmed, self.revision = JobDraft(document, drafts), revision
            if waiting is not None and waiting.shown == self._confirmed:
                return  # stored just as it was shown: later edits already build on it
        self._join()

    def discard_unsaved(self) -> None:
        """Forget edits and entries that are not stored, and that the job itself is not."""
        self._pending.clear()
        self.log = tuple(item for item in self.log if item.number)
        self.creating = False
        self._join()

    def _join(self) -> None:
        self.draft = self._confirmed
        for number, waiting in list(self._pending.items()):
            self._show_on_top(number, waiting.operations)

    def _show_on_top(self, number: int, operations: tuple[Operation, ...]) -> None:
        joined = apply(self.draft.document, self.draft.drafts, operations)
        self.draft = JobDraft(joined.document, joined.drafts)
        self._pending[number] = _PendingEdits(operations, self.draft)

    def take_log(self, stored: Sequence[Logged]) -> bool:
        """Take the stored log over, before what is not stored yet; return whether there was news in
        it.
        """
        known = {item.uid for item in self.log}
        there = {item.uid for item in stored}
        waiting = [item for item in self.log if item.number == 0 and item.uid not in there]
        self.log = (*stored, *waiting)
        return any(item.uid not in known for item in stored)

    def take_entries(self, stored: Sequence[Logged]) -> None:
        """Entries of this bench are stored: they have their numbers now."""
        numbered = {item.uid: item for item in stored}
        log = [numbered.pop(item.uid, item) for item in self.log]
        self.log = tuple(
            sorted((*log, *numbered.values()), key=lambda item: (item.number == 0, item.number))
        )

    def has_log(self, wheel_id: str) -> bool:
        return any(item.wheel_id == wheel_id for item in self.log)

    @property
    def title(self) -> str:
        document = self.draft.document
        return seen(str(document.get("title") or document["wheels"][0].get("name") or tr("Job")))


class Taught(Protocol):
    """What a shop's log has taught."""

    def of(self, job: Job) -> Learned: ...


class Shop(msgspec.Struct, frozen=True):
    """The shop's own practice and shelf: they hold for every wheel that does not say otherwise.

    Attributes:
        sealants: every kind in stock, for a wheel that gets another than the usual one.
        counts: (worked, tried) of each remedy at seating.
        learned: what the shop's log has taught; None before it was read, or where it is switched
            off.
    """

    practice: Practice | None = None
    shelf: Shelf | None = None
    sealants: tuple[SealantKind, ...] = ()
    counts: Counts = {}
    learned: Taught | None = None

    def learned_of(self, job: Job) -> Learned:
        return USUAL if self.learned is None else self.learned.of(job)

    def around(self, job: Job) -> Job:
        practice = layered(job.practice, self.practice)
        shelf = layered(job.shelf, self.shelf)
        methods = layered(job.wheels[0].practice, practice)
        if methods is not None and methods.sealant:
            result = [kind for kind in self.sealants if kind.name == methods.sealant]
            kind = result[0] if result else SealantKind(name=methods.sealant)
            shelf = msgspec.structs.replace(shelf or Shelf(), sealant=kind)
        return msgspec.structs.replace(job, practice=practice, shelf=shelf)


class BenchWheel(msgspec.Struct, frozen=True):
    """One wheel on the bench: what is typed of it, and what was logged. Its figures may not make a
    plan yet.
    """

    job: JobSnapshot
    index: int
    wheel_id: str
    name: str
    reading: DraftReading

    @property
    def key(self) -> WheelKey:
        return self.job.job_id, self.wheel_id

    def path(self, field: str) -> str:
        """Return the full path of a field of this wheel; fields of the job stay as they are."""
        return f"wheels[{self.index}].{field}" if in_wheel(field) else field

    def target(self, field: str) -> str:
        return self.wheel_id if in_wheel(field) else JOB

    def typed(self, field: str) -> UnacceptedText | None:
        return self.job.draft.drafts.get(FieldKey(self.target(field), field))

    def conflict(self, field: str) -> Conflict | None:
        """Return the edit of this bench that conflicts with another window's, None where there is
        none.
        """
        return self.job.conflicts.get(FieldKey(self.target(field), field))

    def value(self, field: str) -> object:
        return get(self.job.draft.document, self.path(field))

    @property
    def stage(self) -> Stage:
        return "check_in"

    @property
    def standing(self) -> State:
        return "to_do"

    @property
    def log(self) -> list[Logged]:
        """This wheel's entries that count, oldest first."""
        return standing(self.whole_log)

    @property
    def whole_log(self) -> list[Logged]:
        """Every entry of this wheel, also what was taken back, oldest first."""
        return [entry for entry in self.job.log if entry.wheel_id == self.wheel_id]


class PlannedWheel(BenchWheel, frozen=True):
    """A wheel with its plan and where it stands: of the figures that could be read last.

    Attributes:
        wheel: as its log left it.
        ride_job: its job with this wheel alone, the shop's practice and shelf filled in.
        current: False where the plan is of an earlier state than what is typed.
        shop_counts: (worked, tried) of each remedy in this shop.
    """

    wheel: Wheel
    ride_job: Job
    plan: WheelPlan
    progress: Progress
    current: bool
    shop_counts: Counts

    @property
    def stage(self) -> Stage:
        return self.progress.stage

    @property
    def standing(self) -> State:
        return self.progress.state

    @property
    def waits(self) -> Waits | None:
        return self.wheel.waits

    @property
    def sealant_name(self) -> str:
        """The kind that goes in, empty where it was not said."""
        sealant = self.ride_job.shelf.sealant if self.ride_job.shelf is not None else None
        return (sealant.name if sealant is not None else None) or ""

    @property
    def worked_kpa(self) -> float:
        """The pressure on the ride: where the last one put it, what it was handed over at, else
        what is proposed.
        """
        log = self.plan.log
        return log.feedback_kpa or log.ride_kpa or self.plan.pressure.start_kpa


JOB_FIELDS = ("ride.", "shelf.", "title", "customer", "bike", "due")


def in_wheel(field: str) -> bool:
    """Whether a field belongs to a wheel; the others belong to its whole job."""
    return not field.startswith(JOB_FIELDS)


class _WorkedOut(msgspec.Struct, frozen=True):
    """A wheel's state, and what it was worked out from."""

    draft: JobDraft
    shop: Shop
    newest: tuple[int, str]
    whole: Job | None
    learned: Learned
    planner: WheelPlanner | None
    state: BenchWheel

    def holds(self, draft: JobDraft, shop: Shop, newest: tuple[int, str], index: int) -> bool:
        return (self.shop, self.newest) == (shop, newest) and _untouched(self.draft, draft, index)


def wheel_state(job: JobState, index: int, shop: Shop, draft: JobDraft | None = None) -> BenchWheel:
    """Return a wheel as it is now; its plan is worked out again only where its figures or its log
    changed.

    Args:
        draft: the job as it would be, None for as it is.
    """
    supposed, draft = draft is not None, draft if draft is not None else job.draft
    wheel_id = str(draft.document["wheels"][index]["wheel_id"])
    everything = [item for item in job.log if item.wheel_id == wheel_id]
    newest = (len(everything), everything[-1].uid if everything else "")
    before = job.worked_out.get(wheel_id)
    if before is not None and before.holds(draft, shop, newest, index):
        return before.state if supposed else _in_snapshot(job, wheel_id, before)
    reading = read(draft, index)
    whole = shop.around(reading.job) if reading.job is not None else job.last_read.get(wheel_id)
    name = seen(str(get(draft.document, f"wheels[{index}].name") or tr("Wheel")))
    state, learned, planner = BenchWheel(job.snapshot, index, wheel_id, name, reading), USUAL, None
    if whole is not None:
        learned = shop.learned_of(whole)
        same = before is not None and (before.whole, before.learned) == (whole, learned)
        planner = before.planner if before is not None and same else None
        if planner is None:
            planner = WheelPlanner(
                whole.wheels[0], whole.ride, whole.practice, whole.shelf, learned
            )
        plan = planner.plan(standing(everything))
        known = before.state if before is not None else None
        stood = isinstance(known, PlannedWheel) and known.plan is plan
        state = PlannedWheel(
            job=job.snapshot,
            index=index,
            wheel_id=wheel_id,
            name=name,
            reading=reading,
            wheel=plan.wheel,
            ride_job=msgspec.structs.replace(whole, wheels=[plan.wheel]),
            plan=plan,
            progress=known.progress
            if stood and isinstance(known, PlannedWheel)
            else derive(plan.wheel, plan),
            current=reading.job is not None and not reading.problems,
            shop_counts=shop.counts,
        )
    if not supposed:
        job.worked_out[wheel_id] = _WorkedOut(draft, shop, newest, whole, learned, planner, state)
        if whole is not None:
            job.last_read[wheel_id] = whole
    return state


def planned(states: Iterable[BenchWheel]) -> list[PlannedWheel]:
    return [state for state in states if isinstance(state, PlannedWheel)]


def _in_snapshot(job: JobState, wheel_id: str, known: _WorkedOut) -> BenchWheel:
    """Return a wheel that is as it was, in its job as that is now."""
    if known.state.job is not job.snapshot:
        state = msgspec.structs.replace(known.state, job=job.snapshot)
        job.worked_out[wheel_id] = msgspec.structs.replace(known, state=state)
        return state
    return known.state


def _untouched(before: JobDraft, now: JobDraft, index: int) -> bool:
    old, new = before.document, now.document
    if old["wheels"][index : index + 1] != new["wheels"][index : index + 1]:
        return False
    mine = (JOB, str(new["wheels"][index]["wheel_id"]))
    typed, typed_now = (
        {key: text for key, text in draft.drafts.items() if key.target in mine}
        for draft in (before, now)
    )
    if typed != typed_now:
        return False
    return old.keys() == new.keys() and all(
        old[name] == new[name] for name in new if name != "wheels"
    )


def usual_of(state: BenchWheel, field: str) -> object:
    """Return what holds for a field of practice, shelf or ride that says nothing itself: the
    shop's, else the usual.
    """
    group, name = group_of(field), name_of(field)
    job = state.ride_job if isinstance(state, PlannedWheel) else None
    if group == "arrival":
        return _usual_arrival(state, name) if isinstance(state, PlannedWheel) else None
    given: object
    defaults: object
    if group == "practice":
        given, defaults = (job.practice if job else None), PRACTICE_DEFAULTS
    elif group == "shelf":
        given, defaults = (with_stock(job.shelf) if job else None), SHELF_DEFAULTS
    elif group == "ride":
        given, defaults = (job.ride if job else None), RIDE_DEFAULTS
    else:
        return None
    value = getattr(given, name, None)
    return value if value is not None else getattr(defaults, name, None)


def _usual_arrival(state: PlannedWheel, name: str) -> object:
    """How a wheel of this kind of work usually comes in."""
    value = getattr(state.plan.setup.arrival, name)
    return ("liquid" if value else "none") if name == "sealant" else value
