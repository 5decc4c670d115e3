"""Log entries: what happened to a wheel. Appended, never changed; a correction is a later entry."""

from collections.abc import Iterable, Sequence
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from inner_rim.core.record.job import Pressure, Remedy

#: The longest text and name that an entry holds.
MAX_WORDS, LONGEST_NAME = 2000, 200
Words = Annotated[str, Meta(max_length=MAX_WORDS)]
Code = Annotated[str, Meta(max_length=100)]
Name = Annotated[str, Meta(min_length=1, max_length=LONGEST_NAME)]
Sector = Annotated[int, Meta(ge=1, le=8, description="counted from the valve")]
#: The bounds of what an entry accepts: pressure, dose, a wheel's weight, a pool's depth, the air.
MAX_KPA, MAX_DOSE_ML, MIN_G, MAX_G, MAX_DIP_MM = 5000.0, 2000.0, 100.0, 30000.0, 200.0
DoseMl = Annotated[float, Meta(ge=0, le=MAX_DOSE_ML)]
#: What a gauge may show, above any limit too: it is recorded as it was.
Gauge = Annotated[float, Meta(ge=0, le=MAX_KPA)]


#: The outcome of a try: seated · a spot or a side low · not yet · air escapes faster than it comes
#: in · even, but off the seat once the air is out · air at spoke holes or nipples.
Outcome = Literal["both_up", "one_low", "not_up", "no_pressure", "falls_off", "hisses"]
#: `side_wall` is of logs from before a cut and a weeping casing were told apart.
LeakPlace = Literal["valve", "nipple", "bead", "cut", "weeps", "vent", "tread", "none", "side_wall"]
RideWord = Literal["right", "harsh", "rim_struck", "burped", "squirmed"]
#: The step with which taping again begins where the good tape stays: one more layer over it.
LAYER = "layer"
CareWord = Literal["refilled", "retaped", "tire_changed", "insert_changed", "checked"]


class Entry(
    msgspec.Struct,
    frozen=True,
    kw_only=True,
    forbid_unknown_fields=True,
    omit_defaults=True,
    tag_field="kind",
):
    """Base of every log entry."""


class StepEntry(Entry, frozen=True, tag="step"):
    """A stage, or one step of it, was finished, failed, or taken up again.

    Attributes:
        outcome: `waited` ends the wait after a step before its time; `reopened` takes a slip back;
            `again` repeats it from `stage` on, and uses stock again; `ridden` ends the leak test
            with a ride in place of a reading.
        step: code of the step; empty for the whole stage.
        completes: this step was the last of its stage.
    """

    stage: Code
    outcome: Literal["done", "failed", "reopened", "waited", "again", "ridden"] = "done"
    text: Words = ""
    step: Code = ""
    completes: bool = False


class SeenPop(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A pop that the gauge saw: seconds into the attempt, and the pressure just before."""

    time_s: float
    pressure_kpa: Gauge


#: Where the peak of a try stays under this share of the first step, no pressure builds (docs/job.md
#: 1.3).
NO_PRESSURE_SHARE = 0.2


class Attempt(Entry, frozen=True, tag="attempt"):
    """One try at seating the beads.

    Attributes:
        peak_kpa: highest pressure.
        target_kpa: the pressure step that was tried.
        source: floor_pump, compressor or charge; empty where it was not said.
        pops: what the gauge saw.
        changed: what had been changed since the try before.
        trace: (seconds, kPa) of the gauge, thinned out, peaks kept.
        tube: a tube was in.
    """

    peak_kpa: Gauge
    outcome: Outcome
    limit_kpa: Pressure
    target_kpa: Gauge | None = None
    low_left: tuple[Sector, ...] = ()
    low_right: tuple[Sector, ...] = ()
    source: Words = ""
    core_out: bool | None = None
    lubricant: Words = ""
    pops: tuple[SeenPop, ...] = ()
    changed: tuple[Remedy, ...] = ()
    trace: tuple[tuple[float, float], ...] = ()
    tube: bool = False

    @property
    def over_limit(self) -> bool:
        return self.peak_kpa > self.limit_kpa

    def builds(self, first_kpa: float) -> bool:
        """Return whether pressure built, so that the source outran the leak, whether the beads
        seated or not.
        """
        low = self.outcome == "not_up" and self.peak_kpa < NO_PRESSURE_SHARE * first_kpa
        return self.outcome != "no_pressure" and not low


class Changed(Entry, frozen=True, tag="changed"):
    """Something was changed before the next try at seating."""

    remedy: Remedy


class Inspection(Entry, frozen=True, tag="inspection"):
    """Both sides looked at, in eight sectors a side; no sector low means even."""

    low_left: tuple[Sector, ...] = ()
    low_right: tuple[Sector, ...] = ()
    after_over_limit: bool = False


class Finding(Entry, frozen=True, tag="finding"):
    """A question of the inspection and its answer: `sound` is yes."""

    check: Code
    sound: bool


class Reading(Entry, frozen=True, tag="reading"):
    pressure_kpa: Gauge
    temperature_c: Annotated[float, Meta(ge=-100, le=200)] | None = None


class Leak(Entry, frozen=True, tag="leak"):
    """Where air was seen to come out, on which side where it is a bead, and what was done."""

    place: LeakPlace
    done: Words = ""
    side: Literal["left", "right"] | None = None


class Feedback(Entry, frozen=True, tag="feedback"):
    """What a test ride said of the pressure, and where it goes from here."""

    said: RideWord
    pressure_kpa: Gauge
    next_kpa: Gauge


class Care(Entry, frozen=True, tag="care"):
    """Aftercare: sealant topped up, rim retaped, tire changed, insert inspected.

    Attributes:
        dose_ml, name: sealant that was added; None where only the date is known.
        left_ml: sealant that was still in, as forecast.
    """

    what: CareWord
    text: Words = ""
    dose_ml: DoseMl | None = None
    name: Annotated[str, Meta(max_length=200)] = ""
    left_ml: DoseMl = 0.0


class Dose(Entry, frozen=True, tag="dose"):
    """Sealant that went in: how much, and of which kind where it is known."""

    dose_ml: DoseMl
    name: Annotated[str, Meta(max_length=200)] = ""


class Weight(Entry, frozen=True, tag="weight"):
    """The whole wheel on a scale, before or after the work."""

    mass_g: Annotated[float, Meta(ge=MIN_G, le=MAX_G)]
    when: Literal["before", "after"]


class Dip(Entry, frozen=True, tag="dip"):
    """A dipstick reading at the lowest point; `calibrates` where the dose had just gone in.

    Attributes:
        free_ml: what the depth means, by this wheel's shape.
        least_ml, most_ml: what it means where the dipstick is off by 1 mm; None in an imported
            entry without them.
        factor: calibration that was used, or found.
    """

    depth_mm: Annotated[float, Meta(ge=0, le=MAX_DIP_MM)]
    free_ml: Annotated[float, Meta(ge=0, le=20000)]
    calibrates: bool = False
    least_ml: Annotated[float, Meta(ge=0, le=20000)] | None = None
    most_ml: Annotated[float, Meta(ge=0, le=20000)] | None = None
    factor: Annotated[float, Meta(ge=0.5, le=2.0)] = 1.0


class SignOff(Entry, frozen=True, tag="sign_off"):
    """The wheel was handed over, signed by a named person.

    Attributes:
        pressure_kpa: as it was set in the shop.
        ride_kpa: what that is on the ride; None where no dipstick was used.
        methods: the ways that were used where no other entry shows them, by their question.
    """

    by: Name
    pressure_kpa: Gauge
    ride_kpa: Gauge | None = None
    methods: Annotated[dict[Code, Code], Meta(max_length=40)] = {}


class Promised(Entry, frozen=True, tag="promise"):
    """The customer was told when the wheel will be ready.

    Attributes:
        due: the time that was told, ISO 8601 on the shop's own clock.
        early: when it might be ready at the earliest.
    """

    due: Annotated[str, Meta(max_length=40)]
    early: Annotated[str, Meta(max_length=40)] = ""


class Note(Entry, frozen=True, tag="note"):
    text: Words


class Override(Entry, frozen=True, tag="override"):
    """A stop passed by a named person with a reason."""

    code: Code
    by: Name
    reason: Annotated[str, Meta(min_length=1, max_length=MAX_WORDS)]


class Correction(Entry, frozen=True, tag="correction"):
    """What an earlier entry should have said."""

    of: Annotated[int, Meta(ge=0)]
    text: Words


class TakenBack(Entry, frozen=True, tag="taken_back"):
    """An earlier entry is taken back: it no longer counts, and stays in view.

    Attributes:
        of: identity of that entry; of a `TakenBack` where what it took back counts again.
    """

    of: Code


AnyEntry = (
    StepEntry
    | Attempt
    | Changed
    | Inspection
    | Finding
    | Reading
    | Leak
    | Feedback
    | Care
    | Dose
    | Weight
    | Dip
    | SignOff
    | Promised
    | Note
    | Override
    | Correction
    | TakenBack
)


class Unreadable(msgspec.Struct, frozen=True, tag_field="kind", tag="unreadable"):
    """A stored entry that this program cannot read: shown as it is, kept byte for byte, never
    written.
    """

    body: str
    why: str


class Logged(msgspec.Struct, frozen=True, kw_only=True):
    """An entry as it stands in the log.

    Attributes:
        number: its place in the log, 0 before it is stored.
        at: when, ISO 8601 in UTC.
        uid: its identity, the same in every copy of the log.
    """

    number: int
    at: str
    wheel_id: str
    entry: AnyEntry | Unreadable
    uid: str = ""


def gone(log: Iterable[Logged]) -> frozenset[str]:
    """Return the identities of the entries that were taken back, oldest entry first."""
    result: set[str] = set()
    for item in reversed(tuple(log)):
        if isinstance(item.entry, TakenBack) and item.uid not in result:
            result.add(item.entry.of)
    return frozenset(result)


def standing(log: Sequence[Logged]) -> list[Logged]:
    """Return the entries that count: without those that were taken back, and without what took them
    back.

    >>> entry = Logged(number=1, at="", wheel_id="w", entry=Note(text="wet"), uid="a")
    >>> back = Logged(number=2, at="", wheel_id="w", entry=TakenBack(of="a"), uid="b")
    >>> standing([entry, back]), standing([entry]) == [entry]
    ([], True)
    """
    if not any(isinstance(item.entry, TakenBack) for item in log):
        return list(log)
    away = gone(log)
    return [item for item in log if item.uid not in away and not isinstance(item.entry, TakenBack)]
