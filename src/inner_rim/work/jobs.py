"""A job and its wheels in memory: what is typed, what is stored of it, its plan and progress."""

from collections.abc import Mapping
from typing import Any

import msgspec

from inner_rim.core.job import Job, Practice, Shelf, Wheel
from inner_rim.core.log import Logged
from inner_rim.core.plan import WheelPlan, plan_wheel
from inner_rim.core.practice import (
    PRACTICE_DEFAULTS,
    RIDE_DEFAULTS,
    SHELF_DEFAULTS,
    layered,
    with_stock,
)
from inner_rim.core.progress import Progress, derive
from inner_rim.core.units import UnitChoice
from inner_rim.store.rows import StoredJob
from inner_rim.words import tr

from .sheet import Reading, Sheet, get, read


class JobState:
    """One job in memory: its sheet, what is stored of it, its undo history and log."""

    def __init__(self, stored: StoredJob | None, sheet: Sheet) -> None:
        self.sheet = sheet
        self.stored_id = stored.job_id if stored else None
        self.stored_sheet = sheet if stored else None
        self.revision = stored.revision if stored else 0
        self.log: list[Logged] = list(stored.log) if stored else []
        self.queued = False
        self.fresh = stored is None  # until this window hears that it is stored
        self.past: list[Sheet] = []
        self.future: list[Sheet] = []
        self.last_path: str | None = None
        self.last_plans: dict[int, tuple[Wheel, Job, WheelPlan]] = {}


class Shop(msgspec.Struct, frozen=True):
    """The shop's own practice and shelf: they hold for every wheel that does not say otherwise.

    Attributes:
        practice: its schools.
        shelf: what there is to take.
        counts: (worked, tried) of each remedy at seating.
    """

    practice: Practice | None = None
    shelf: Shelf | None = None
    counts: Mapping[str, tuple[int, int]] = {}

    def around(self, job: Job) -> Job:
        """Return a job with the shop's practice and shelf where it has none of its own."""
        return msgspec.structs.replace(
            job,
            practice=layered(job.practice, self.practice),
            shelf=layered(job.shelf, self.shelf),
        )


def practice_of(kept: Any) -> Practice | None:
    """Return the practice of a stored setting, None where it says nothing sound."""
    try:
        return msgspec.convert(kept, Practice) if kept else None
    except msgspec.ValidationError:
        return None


class WheelState(msgspec.Struct, frozen=True):
    """One wheel as the views show it.

    Attributes:
        job: the job it belongs to.
        index: its place in the job.
        name: its name.
        reading: what its sheet says.
        wheel, plan: the last good ones; None until the first.
        current: False where the plan is of an earlier state than what is typed.
        progress: where it stands; None without a plan.
        shop_counts: (worked, tried) of each remedy in this shop.
    """

    job: JobState
    index: int
    name: str
    reading: Reading
    wheel: Wheel | None
    ride_job: Job | None
    plan: WheelPlan | None
    current: bool
    progress: Progress | None
    shop_counts: Mapping[str, tuple[int, int]] = {}

    @property
    def key(self) -> tuple[int, int]:
        """What tells this wheel from every other on the bench."""
        return id(self.job), self.index

    @property
    def practice(self) -> Practice:
        """The schools that hold for this wheel: its own, its job's, the shop's, the usual ones."""
        own = self.wheel.practice if self.wheel is not None else None
        job = self.ride_job.practice if self.ride_job is not None else None
        return layered(own, job, PRACTICE_DEFAULTS) or PRACTICE_DEFAULTS

    def path(self, field: str) -> str:
        """Return the full path of a field of this wheel; fields of the job stay as they are."""
        return f"wheels[{self.index}].{field}" if in_wheel(field) else field

    @property
    def log(self) -> list[Logged]:
        """This wheel's entries, oldest first."""
        return [entry for entry in self.job.log if entry.wheel == self.index]


JOB_FIELDS = ("ride.", "shelf.", "title", "customer", "bike", "due")


def in_wheel(field: str) -> bool:
    """Whether a field belongs to a wheel; the others belong to its whole job."""
    return not field.startswith(JOB_FIELDS)


def wheel_state(job: JobState, index: int, units: UnitChoice, shop: Shop) -> WheelState:
    """Return a wheel as it is now; its plan is worked out again only where its figures changed."""
    reading = read(job.sheet, index, units)
    last = job.last_plans.get(index)
    whole = shop.around(reading.job) if reading.job is not None else None
    if whole is not None and (last is None or last[1] != whole):
        wheel = whole.wheels[0]
        plan = plan_wheel(wheel, whole.ride, whole.practice, whole.shelf)
        last = job.last_plans[index] = (wheel, whole, plan)
    progress = None
    if last is not None:
        progress = derive(last[0], last[2], [item for item in job.log if item.wheel == index])
    return WheelState(
        job=job,
        index=index,
        name=str(get(job.sheet.document, f"wheels[{index}].name") or tr("Wheel")),
        reading=reading,
        wheel=last[0] if last else None,
        ride_job=last[1] if last else None,
        plan=last[2] if last else None,
        current=reading.job is not None and not reading.problems,
        progress=progress,
        shop_counts=shop.counts,
    )


def usual_of(state: WheelState, field: str) -> Any:
    """Return what holds for a field of practice, shelf or ride that says nothing itself: the shop's, else the usual."""
    group, _, name = field.partition(".")
    job = state.ride_job
    given: Any
    defaults: Any
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
