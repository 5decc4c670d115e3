"""At which pressure beads seat: what is likely before the climb, and after a try (docs/models.md
2.14).
"""

import math
import random
from collections.abc import Collection, Sequence

import msgspec

from inner_rim.core.models.limit import top_step_kpa
from inner_rim.core.record.job import Remedy, Wheel
from inner_rim.core.record.resolved import USUAL, Learned, Methods

#: Median pressure at which one bead seats, as a share of the top step, and the spread of its
#: logarithm (common practice).
MEDIAN_SHARE, SPREAD = 0.63, 0.30
#: After so many draws above what is allowed, that is taken.
MAX_DRAWS = 1000
#: What each circumstance makes of the median (common practice, no published source).
FACTORS = {
    "dry": 1.25,
    "wetted": 0.85,
    "ridden before": 0.9,
    "new and folded": 1.1,
    "warmed": 0.9,
    "extra layer": 1.08,
    "insert": 1.1,
    "low spot pushed in": 0.8,
}
#: What a remedy makes of the median of beads that are as they are.
REMEDY_FACTOR: dict[Remedy, float] = {
    "warm": FACTORS["warmed"],
    "push_spot": FACTORS["low spot pushed in"],
    "lower_side": FACTORS["low spot pushed in"],
    "straighten": FACTORS["low spot pushed in"],
    "wet": FACTORS["wetted"],
}


class SeatingChance(msgspec.Struct, frozen=True):
    """The log-normal distribution of the pressure at which both beads of a wheel are seated.

    Attributes:
        median_kpa: of one bead.
        spread: of its logarithm.
        beads: how many still have to seat.
        above_kpa: they did not seat up to here.
    """

    median_kpa: float
    spread: float = SPREAD
    beads: int = 2
    above_kpa: float = 0.0

    def by(self, pressure_kpa: float, factor: float = 1.0) -> float:
        """Return the probability that all beads are seated by a pressure, given that they were not
        at `above_kpa`.

        F(p) = Phi(ln(p / median) / spread)^beads; (F(p / f) - F(above)) / (1 - F(above)), f what a
        remedy makes of the median.

        >>> round(SeatingChance(226.8, beads=1).by(280.0), 2), round(SeatingChance(226.8, above_kpa=210.0).by(280.0), 2)
        (0.76, 0.5)

        Source: log-normal seating pressures, common practice, no published source.
        """
        before, after = self._all(self.above_kpa), self._all(pressure_kpa / factor)
        return max(0.0, after - before) / (1.0 - before) if before < 1.0 else 1.0

    def _all(self, pressure_kpa: float) -> float:
        if pressure_kpa <= 0.0:
            return 0.0
        z = math.log(pressure_kpa / self.median_kpa) / self.spread
        return (0.5 * math.erfc(-z / math.sqrt(2.0))) ** self.beads

    def drawn(self, rng: random.Random, most_kpa: float = math.inf) -> tuple[float, float]:
        """Return pressures in kPa at which the two beads of a simulated wheel seat, the easier one
        first.

        median * exp(spread * N(0, 1)) for each, drawn until neither is above `most_kpa`.

        >>> low, high = SeatingChance(200.0).drawn(random.Random(1), 280.0)
        >>> low <= high <= 280.0
        True

        Source: docs/models.md 2.14.
        """
        for _ in range(MAX_DRAWS):
            first, second = (
                self.median_kpa * math.exp(rng.gauss(0.0, self.spread)) for _bead in range(2)
            )
            if max(first, second) <= most_kpa:
                break
        return min(first, second, most_kpa), min(max(first, second), most_kpa)

    def likely_by(self, steps_kpa: Sequence[float], likely: float = 0.75) -> float | None:
        """Return the first step by which the beads are likely seated, None where not even the last
        is.

        >>> SeatingChance(226.8).likely_by((140.0, 210.0, 280.0, 360.0))
        360.0
        """
        return next((step for step in steps_kpa if self.by(step) >= likely), None)


def circumstance_names(
    wheel: Wheel, methods: Methods, layers: int, changed: Collection[str] = ()
) -> tuple[str, ...]:
    """Return the names in `FACTORS` that hold for a wheel (no unit).

    Args:
        layers: of tape.
        changed: remedies that the next try has.

    median = usual median * product of the factors of these names.

    >>> circumstance_names(wheel, methods, 2)
    ('wetted', 'extra layer')

    Source: docs/models.md 2.14.
    """
    work = wheel.work
    wet = methods.lubricant != "none" or "wet" in changed
    wanted = (
        ("wetted" if wet else "dry", True),
        ("ridden before", bool(work is not None and work.rode_before) or wheel.tire.new is False),
        ("new and folded", bool(work is not None and work.folded and wheel.tire.new)),
        ("warmed", "warm" in changed),
        ("insert", wheel.insert is not None),
        ("low spot pushed in", bool({"push_spot", "lower_side", "straighten"} & set(changed))),
    )
    return tuple(name for name, holds in wanted if holds) + ("extra layer",) * max(0, layers - 1)


def seating_chance(
    wheel: Wheel,
    methods: Methods,
    nominal_width_mm: float,
    layers: int,
    changed: Collection[str] = (),
    learned: Learned = USUAL,
) -> SeatingChance:
    """Return at which pressure the beads of a wheel seat.

    median = 0.63 * top step * product of factors, in kPa.

    >>> round(seating_chance(wheel, methods, 45.0, 1).median_kpa)
    190

    Source: docs/models.md 2.14; common practice, no published source.
    """
    names = circumstance_names(wheel, methods, layers, changed)
    factor = math.prod(FACTORS[name] for name in names) * learned.seat.factor
    spread = learned.seat_spread if learned.seat_spread is not None else SPREAD
    return SeatingChance(MEDIAN_SHARE * top_step_kpa(nominal_width_mm) * factor, spread)
