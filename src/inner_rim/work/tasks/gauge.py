"""A gauge at the valve: the running trace of an attempt, its peak, its alarms, its pops."""

from __future__ import annotations

import threading
from array import array
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.log import SeenPop
from inner_rim.core.record.units import ML_PER_LITER, UnitChoice, show
from inner_rim.words import N_, tr

if TYPE_CHECKING:
    from inner_rim.core.models.inflation import Source
    from inner_rim.devices.simulator import Word

#: A reading: seconds and kPa, or the other way around where it is compared.
Point = tuple[float, float]
Alarm = Literal["none", "near", "over"]
SimulatedFault = Literal["none", "low_sector", "gap", "tape_leak", "noise", "cable"]

PUMP_SIDE = N_(
    "The gauge is on the pump's side of the valve: every stroke shows. Read between strokes."
)
NEAR_SHARE = 0.9
#: A pressure is held while it stays within this share of it, or these kPa, for this many seconds
#: (common practice).
HELD_SHARE, HELD_KPA, HELD_SECONDS = 0.03, 5.0, 2.0
BEGINS_KPA = 5.0
MAX_LIKELY_KPA = 1500.0  # no bicycle tire is pumped so far: the unit is wrong, or the gauge
MAX_KEPT = 304  # points of a trace
SIMULATED_HZ = 20.0
FAULT_WORDS: dict[SimulatedFault, str] = {
    "none": N_("sound"),
    "low_sector": N_("low spot"),
    "gap": N_("gap too big"),
    "tape_leak": N_("tape leaks"),
    "noise": N_("noisy gauge"),
    "cable": N_("cable pulled"),
}


class ThinTrace:
    """A trace in at most `most` points, however long it gets: of each stretch the lowest and the
    highest reading, so that no peak and no trough is lost. A full one goes on in stretches of twice
    the length.

    >>> trace = ThinTrace(4)
    >>> for second, kpa in enumerate((1.0, 9.0, 3.0, 2.0, 5.0)):
    ...     trace.add(float(second), kpa)
    >>> trace.points()
    ((0.0, 1.0), (1.0, 9.0), (4.0, 5.0))
    """

    def __init__(self, most: int) -> None:
        self._most, self._size, self._in_last = most // 2, 1, 0
        self._stretches: list[tuple[Point, Point]] = []

    def add(self, at_s: float, kpa: float) -> None:
        point = (kpa, at_s)
        if self._in_last and self._in_last < self._size:
            low, high = self._stretches[-1]
            self._stretches[-1] = min(low, point), max(high, point)
            self._in_last += 1
            return
        if len(self._stretches) == self._most:
            pairs = zip(self._stretches[::2], self._stretches[1::2], strict=True)
            self._stretches = [(min(one[0], two[0]), max(one[1], two[1])) for one, two in pairs]
            self._size *= 2
        self._stretches.append((point, point))
        self._in_last = 1

    def points(self) -> tuple[Point, ...]:
        """Return its points, (seconds, kPa), in their order."""
        ends = (sorted({(at, kpa) for kpa, at in stretch}) for stretch in self._stretches)
        return tuple(point for stretch in ends for point in stretch)


class GaugeSession:
    """The readings since the attempt began. None is dropped before they are logged.

    Attributes:
        now_kpa: the last reading, None before the first.
        peak_kpa: highest reading of the attempt.
        alarm: how near the limit the last reading is.
        near_share: share of the limit from which the alarm is given.
        questioned: a sentence if the last reading cannot be true, else empty.
        pump_side: the gauge sits on the pump's side of the valve, as the strokes so far show.
        times, pressures: the attempt so far, seconds from its first reading; `thin` the same in few
            points.
    """

    def __init__(self) -> None:
        self.times = array("d")
        self.pressures = array("d")
        self.thin = ThinTrace(MAX_KEPT)
        self._begun: float | None = None
        self.now_kpa: float | None = None
        self.peak_kpa = 0.0
        self.alarm: Alarm = "none"
        self.was_over = False
        self.pump_side = False
        self.questioned = ""
        self.near_share = NEAR_SHARE

    def take(self, kpa: float, at_s: float, limit_kpa: float | None) -> Alarm:
        """Take a reading and return how near the limit it is."""
        if kpa > MAX_LIKELY_KPA:
            self.questioned = tr(
                "The gauge says {bar:.0f} bar: is its unit right? It does not count."
            ).format(bar=kpa / 100.0)
            return self.alarm
        self.questioned = ""
        self.now_kpa = kpa
        if self._begun is None:
            if kpa < BEGINS_KPA:
                return self._ring(kpa, limit_kpa)
            self._begun = at_s
        self.times.append(at_s - self._begun)
        self.pressures.append(kpa)
        self.thin.add(round(self.times[-1], 2), round(kpa, 2))
        self.peak_kpa = max(self.peak_kpa, kpa)
        return self._ring(kpa, limit_kpa)

    def _ring(self, kpa: float, limit_kpa: float | None) -> Alarm:
        if limit_kpa is None:
            self.alarm = "none"
        else:
            self.alarm = (
                "over"
                if kpa > limit_kpa
                else "near"
                if kpa >= self.near_share * limit_kpa
                else "none"
            )
        self.was_over = self.was_over or self.alarm == "over"
        return self.alarm

    @property
    def begun(self) -> bool:
        """Whether air has come since the last attempt."""
        return self._begun is not None

    def pops(self) -> tuple[SeenPop, ...]:
        result, self.pump_side = pops_in(self.times, self.pressures)
        return result

    def held(self, target_kpa: float) -> bool:
        """Whether the pressure has been near a target for long enough: back from the last reading,
        no further.
        """
        near = max(HELD_KPA, HELD_SHARE * target_kpa)
        for at, kpa in zip(reversed(self.times), reversed(self.pressures), strict=True):
            if abs(kpa - target_kpa) > near:
                return False
            if self.times[-1] - at >= HELD_SECONDS:
                return True
        return False

    def start_afresh(self) -> None:
        """The attempt is logged: the next reading above zero begins another."""
        self.times, self.pressures, self.thin = array("d"), array("d"), ThinTrace(MAX_KEPT)
        self._begun, self.peak_kpa, self.was_over, self.pump_side = None, 0.0, False, False


def pops_in(times: Sequence[float], pressures: Sequence[float]) -> tuple[tuple[SeenPop, ...], bool]:
    """Return the pops of a trace, and whether the gauge sits on the pump's side."""
    from inner_rim.core.models.pops import analyse

    try:
        report = analyse(*rising(times, pressures))
    except ValueError:  # not enough of it
        return (), False
    seen = (
        SeenPop(time_s=round(pop.time_s, 2), pressure_kpa=round(pop.pressure_kpa, 1))
        for pop in report.pops
    )
    return tuple(seen), report.pump_side


class PopSearch:
    """Looks for the pops of a running attempt in another thread: a tenth of a second is too long
    for the window's.

    Attributes:
        found: those of the last search that ended, none of an attempt that was logged.
    """

    def __init__(self, session: GaugeSession) -> None:
        self._session = session
        self._of: Sequence[float] = ()
        self._found: tuple[SeenPop, ...] = ()
        self._thread: threading.Thread | None = None

    @property
    def found(self) -> tuple[SeenPop, ...]:
        return self._found if self._of is self._session.times else ()

    @property
    def looking(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    def look(self) -> None:
        if self.looking:
            return
        session = self._session
        attempt, times, pressures = session.times, list(session.times), list(session.pressures)

        def work() -> None:
            found, pump_side = pops_in(times, pressures)
            if attempt is session.times:
                self._of, self._found, session.pump_side = attempt, found, pump_side

        self._thread = threading.Thread(target=work, name="pops", daemon=True)
        self._thread.start()


def rising(times: Sequence[float], pressures: Sequence[float]) -> tuple[list[float], list[float]]:
    """Return readings without those that came at the same moment as the one before, or earlier."""
    kept_t: list[float] = []
    kept_p: list[float] = []
    for t, p in zip(times, pressures, strict=True):
        if not kept_t or t > kept_t[-1]:
            kept_t.append(t)
            kept_p.append(p)
    return kept_t, kept_p


def simulated_lines(
    plan: WheelPlan, source: Source, core_out: bool, fault: SimulatedFault, seed: int = 1
) -> Iterator[Word]:
    """Return what a simulated gauge says at this wheel: the simulated wheel, read out twenty times
    a second.

    Pumping goes on to the last seating step and stops there.
    """
    import random

    from inner_rim.core.models.inflation import GAP_MM
    from inner_rim.core.models.simulated import TAPE_LEAK_MM2, Bead, SimulatedWheel, stepped
    from inner_rim.devices.simulator import Word

    rng = random.Random(seed)
    steps = plan.pressure.seating_kpa
    top = steps[-1]
    first, second = plan.seats.drawn(rng, 0.97 * top)
    if fault == "low_sector":
        second = 1.5 * top
    gap = GAP_MM["loose"] if fault == "gap" else GAP_MM["snug"]
    wheel = SimulatedWheel(
        volume_ml=max(50.0, plan.tire.air_volume_ml),
        bead_seat_diameter_mm=plan.tire.bead_seat_diameter_mm,
        gap_mm=gap,
        source=source,
        core_out=core_out,
        top_kpa=top,
        beads=(Bead(first), Bead(second, 0.035)),
        leak_mm2=TAPE_LEAK_MM2 * 20.0 if fault == "tape_leak" else 0.0,
        charge_kpa=plan.methods.bottle_kpa,
        charge_liter=plan.methods.bottle_ml / ML_PER_LITER,
    )
    noise = 1.5 if fault == "noise" else 0.15
    every = 1.0 / SIMULATED_HZ
    said = 0
    while True:
        for _ in range(25):
            wheel = stepped(wheel, every / 25.0)
        if wheel.pressure_kpa >= top - 0.5 and wheel.source != "compressor":
            wheel = msgspec.structs.replace(wheel, top_kpa=0.0)  # pumping has stopped
        said += 1
        if fault == "cable" and said > 6.0 * SIMULATED_HZ:
            yield Word(every, unplug=True)
            return
        shown = max(0.0, wheel.pressure_kpa + rng.gauss(0.0, noise))
        yield Word(every, f"{shown:.1f} kPa\r\n".encode())


def target_kpa(progress: Progress) -> float | None:
    if progress.state in ("stopped", "finished"):
        return None
    if progress.seats_next:
        return None if progress.seating.over_limit else progress.seating.step_kpa
    return (
        progress.step.pressure_kpa
        if progress.step is not None and progress.step.code == "air.inflate"
        else None
    )


def is_held(session: GaugeSession, progress: Progress) -> bool:
    """Whether the gauge has been at the step's pressure for two seconds."""
    target = target_kpa(progress)
    return target is not None and session.held(target)


def alarm_words(session: GaugeSession, limit_kpa: float, units: UnitChoice) -> str:
    if session.questioned:
        return session.questioned
    limit = show(limit_kpa, "kpa", units)
    if session.alarm == "over":
        return tr("ABOVE THE LIMIT of {limit}. Stop, let it out.").format(limit=limit)
    if session.alarm == "near":
        return tr("Near the limit of {limit}").format(limit=limit)
    return tr(PUMP_SIDE) if session.pump_side else ""
