"""A gauge at the valve: the running trace of an attempt, its peak, its alarms, its pops."""

from __future__ import annotations

from array import array
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.log import SeenPop
from inner_rim.core.record.units import ML_PER_LITER, UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.text.measuring_words import PUMP_SIDE

if TYPE_CHECKING:
    from inner_rim.core.models.inflation import Source
    from inner_rim.devices.simulator import Word

Alarm = Literal["none", "near", "over"]
SimulatedFault = Literal["none", "low_sector", "gap", "tape_leak", "noise", "cable"]

NEAR_SHARE = 0.9
#: A pressure is held while it stays within this share of it, or these kPa, for this many seconds (common practice).
HELD_SHARE, HELD_KPA, HELD_SECONDS = 0.03, 5.0, 2.0
BEGINS_KPA = 5.0
MOST_LIKELY_KPA = 1500.0  # no bicycle tire is pumped so far: the unit is wrong, or the gauge
MOST_KEPT = 300
SIMULATED_HZ = 20.0
FAULT_WORDS: dict[SimulatedFault, str] = {
    "none": N_("sound"),
    "low_sector": N_("low spot"),
    "gap": N_("gap too big"),
    "tape_leak": N_("tape leaks"),
    "noise": N_("noisy gauge"),
    "cable": N_("cable pulled"),
}


class GaugeSession:
    """The readings since the attempt began. None is dropped before they are logged.

    Attributes:
        now_kpa: the last reading, None before the first.
        peak_kpa: highest reading of the attempt.
        alarm: how near the limit the last reading is.
        near_share: share of the limit from which the alarm is given.
        questioned: a sentence if the last reading cannot be true, else empty.
        pump_side: the gauge sits on the pump's side of the valve, as the strokes so far show.
        times, pressures: the attempt so far, seconds from its first reading.
    """

    def __init__(self) -> None:
        self.times = array("d")
        self.pressures = array("d")
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
        if kpa > MOST_LIKELY_KPA:
            self.questioned = tr("The gauge says {bar:.0f} bar: is its unit right? It does not count.").format(
                bar=kpa / 100.0
            )
            return self.alarm
        self.questioned = ""
        self.now_kpa = kpa
        if self._begun is None:
            if kpa < BEGINS_KPA:
                return self._ring(kpa, limit_kpa)
            self._begun = at_s
        self.times.append(at_s - self._begun)
        self.pressures.append(kpa)
        self.peak_kpa = max(self.peak_kpa, kpa)
        return self._ring(kpa, limit_kpa)

    def _ring(self, kpa: float, limit_kpa: float | None) -> Alarm:
        if limit_kpa is None:
            self.alarm = "none"
        else:
            self.alarm = "over" if kpa > limit_kpa else "near" if kpa >= self.near_share * limit_kpa else "none"
        self.was_over = self.was_over or self.alarm == "over"
        return self.alarm

    @property
    def begun(self) -> bool:
        """Whether air has come since the last attempt."""
        return self._begun is not None

    def pops(self) -> tuple[SeenPop, ...]:
        from inner_rim.core.models.trace import analyse

        try:
            report = analyse(*rising(self.times, self.pressures))
        except ValueError:  # not enough of it
            return ()
        self.pump_side = report.pump_side
        return tuple(
            SeenPop(time_s=round(pop.time_s, 2), pressure_kpa=round(pop.pressure_kpa, 1)) for pop in report.pops
        )

    def held_s(self, target_kpa: float) -> float:
        """Return for how long the pressure has been at a target, s: back from the last reading while it is near it."""
        near = max(HELD_KPA, HELD_SHARE * target_kpa)
        since = None
        for at, kpa in zip(reversed(self.times), reversed(self.pressures), strict=True):
            if abs(kpa - target_kpa) > near:
                break
            since = at
        return self.times[-1] - since if since is not None else 0.0

    def thinned(self) -> tuple[tuple[float, float], ...]:
        """Return the trace in few points: the lowest and the highest reading of each stretch, in order."""
        return thinned(self.times, self.pressures, MOST_KEPT)

    def start_afresh(self) -> None:
        """The attempt is logged: the next reading above zero begins another."""
        self.times, self.pressures = array("d"), array("d")
        self._begun, self.peak_kpa, self.was_over, self.pump_side = None, 0.0, False, False


def rising(times: Sequence[float], pressures: Sequence[float]) -> tuple[list[float], list[float]]:
    """Return readings without those that came at the same moment as the one before, or earlier."""
    kept_t: list[float] = []
    kept_p: list[float] = []
    for t, p in zip(times, pressures, strict=True):
        if not kept_t or t > kept_t[-1]:
            kept_t.append(t)
            kept_p.append(p)
    return kept_t, kept_p


def thinned(times: Sequence[float], pressures: Sequence[float], most: int) -> tuple[tuple[float, float], ...]:
    """Return at most about `most` points of a trace; no peak and no trough is lost.

    >>> thinned([0.0, 1.0], [3.0, 4.0], 10)
    ((0.0, 3.0), (1.0, 4.0))
    """
    count = len(times)
    if count <= most:
        return tuple(zip(times, pressures, strict=True))
    size = -(-2 * count // most)
    result: list[tuple[float, float]] = []
    for start in range(0, count, size):
        part = range(start, min(count, start + size))
        ends = {min(part, key=pressures.__getitem__), max(part, key=pressures.__getitem__)}
        result += [(round(times[i], 2), round(pressures[i], 2)) for i in sorted(ends)]
    return tuple(result)


def simulated_lines(
    plan: WheelPlan, source: Source, core_out: bool, fault: SimulatedFault, seed: int = 1
) -> Iterator[Word]:
    """Return what a simulated gauge says at this wheel: the simulated wheel, read out twenty times a second.

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


def target_kpa(progress: Progress | None) -> float | None:
    if progress is None or progress.state in ("stopped", "finished"):
        return None
    if progress.seats_next:
        return None if progress.seating.over_limit else progress.seating.step_kpa
    return progress.step.pressure_kpa if progress.step is not None and progress.step.code == "air.inflate" else None


def is_held(session: GaugeSession, progress: Progress | None) -> bool:
    """Whether the gauge has been at the step's pressure for two seconds."""
    target = target_kpa(progress)
    return target is not None and session.held_s(target) >= HELD_SECONDS


def alarm_words(session: GaugeSession, limit_kpa: float, units: UnitChoice) -> str:
    if session.questioned:
        return session.questioned
    limit = show(limit_kpa, "kpa", units)
    if session.alarm == "over":
        return tr("ABOVE THE LIMIT of {limit}. Stop, let it out.").format(limit=limit)
    if session.alarm == "near":
        return tr("Near the limit of {limit}").format(limit=limit)
    return tr(PUMP_SIDE) if session.pump_side else ""
