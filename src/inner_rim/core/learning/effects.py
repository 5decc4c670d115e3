"""Effects of shop, rim, tire, rider and so on, learned together: each starts at zero and moves with
the evidence.

A figure is its usual value plus one effect of each kind, such as the shop's and the rider's. Every
effect is normal around 0 with the spread of its kind; what was seen scatters around their sum. A
second hypothesis, that the shop is exactly usual, holds until the log says otherwise
(docs/models.md 2.11).
"""

import math
from collections.abc import Mapping, Sequence
from operator import mul

import msgspec

from inner_rim.core.models.inflation import GAP_SPREAD
from inner_rim.core.models.seating_pressure import SPREAD as SEAT_SPREAD

#: The groups of an observation by kind of effect, such as ``{"shop": "", "rim": "Reed bed 584"}``.
Groups = Mapping[str, str]
Effect = tuple[str, str]
Key = tuple[str, str]
MAX_STEPS, CLOSE_ENOUGH = 60, 1e-9
#: Prior probability that a shop differs from the usual at all (common practice).
DIFFERS = 0.1
#: The least such probability behind a spread that is shown.
WIDE = 0.7
SQRT_2 = math.sqrt(2.0)


class Seen(msgspec.Struct, frozen=True):
    """An observed value: a logarithm or another figure without a unit, its standard error, its
    groups, and the (job, wheel) that it was seen on.
    """

    value: float
    error: float
    groups: dict[str, str]
    key: Key = ("", "")


class Between(msgspec.Struct, frozen=True):
    """A hidden figure that was found to lie between two values, equal where it was read exactly,
    infinite where nothing bounds it; its groups, and the (job, wheel). With several beads it is the
    largest of as many. Its own standard error adds to the spread between such things.
    """

    low: float
    high: float
    groups: dict[str, str]
    key: Key = ("", "")
    beads: int = 1
    error: float = 0.0


class Factored:
    """A symmetric positive definite matrix that is mostly zeros, A = L D L', factored with the
    sparsest row first.

    An observation joins three or four effects, so that a few hundred of them need no dense matrix.

    >>> matrix = Factored([{0: 4.0, 1: 2.0}, {0: 2.0, 1: 3.0}])
    >>> matrix.solved([2.0, 5.0]), round(math.exp(matrix.log_det()), 6)
    ([-0.5, 2.0], 8.0)

    Args:
        rows: the entries of each row by column, in both halves.

    Source: Cholesky's method with elimination in the order of least degree.
    """

    def __init__(self, rows: Sequence[Mapping[int, float]]) -> None:
        left = {place: dict(row) for place, row in enumerate(rows)}
        self._steps: list[tuple[int, float, list[tuple[int, float]]]] = []
        while left:
            place = min(left, key=lambda one: len(left[one]))
            row = left.pop(place)
            pivot = row.pop(place)
            factors = [(other, value / pivot) for other, value in row.items()]
            for other, factor in factors:
                theirs = left[other]
                del theirs[place]
                for column, value in row.items():
                    theirs[column] = theirs.get(column, 0.0) - factor * value
            self._steps.append((place, pivot, factors))

    def solved(self, values: Sequence[float]) -> list[float]:
        """Return A^-1 b."""
        result = list(values)
        for place, _pivot, factors in self._steps:
            for other, factor in factors:
                result[other] -= factor * result[place]
        for place, pivot, factors in reversed(self._steps):
            result[place] = result[place] / pivot - sum(
                factor * result[other] for other, factor in factors
            )
        return result

    def log_det(self) -> float:
        return sum(math.log(pivot) for _place, pivot, _factors in self._steps)


class LearnedEffects(msgspec.Struct, frozen=True):
    """What was learned.

    Attributes:
        spreads: how far effects of each kind usually are from 0.
        places: where each effect is in `means` and in the precision, the inverse of their
            covariance.
        counts: how many observations each effect was learned from.
        share: the probability that the shop differs from the usual at all.
        known: the memo of `if_it_differs`.
    """

    spreads: dict[str, float]
    places: dict[Effect, int]
    means: list[float]
    precision: Factored
    counts: dict[Effect, int]
    share: float = DIFFERS
    known: dict[tuple[Effect, ...], tuple[float, float]] = {}

    def of(self, groups: Groups) -> tuple[float, float]:
        """Return mean and standard deviation of what is added to the usual figure.

        With probability `share` the sum of the effects, otherwise nothing: mean = share * m. The
        spread around it counts the shop as different with at least `WIDE`: wide until it is known.
        """
        mean, spread = self.if_it_differs(groups)
        moved, doubt = self.share * mean, max(self.share, WIDE)
        return moved, math.sqrt(
            doubt * (spread**2 + mean**2) - 2.0 * doubt * mean * moved + moved**2
        )

    def if_it_differs(self, groups: Groups) -> tuple[float, float]:
        """Return mean and standard deviation of the sum of effects of something, in a shop that
        differs from the usual; an effect that was never seen is spread around 0.
        """
        key = tuple(groups.items())
        if key not in self.known:
            self.known[key] = self._summed(groups)
        return self.known[key]

    def _summed(self, groups: Groups) -> tuple[float, float]:
        known = [self.places[item] for item in groups.items() if item in self.places]
        new = (
            self.spreads[kind] ** 2
            for kind, key in groups.items()
            if (kind, key) not in self.places
        )
        wanted = [0.0] * len(self.means)
        for place in known:
            wanted[place] = 1.0
        together = self.precision.solved(wanted) if known else wanted
        variance = sum(together[place] for place in known)
        return sum(self.means[place] for place in known), math.sqrt(variance + sum(new))


def learn_values(seen: Sequence[Seen], spreads: Mapping[str, float]) -> LearnedEffects:
    """Return the effects that values teach: the posterior of a linear model with normal effects.

    A = X' W X + diag(1 / s^2), mean = A^-1 X' W y, covariance = A^-1, with W = 1 / error^2.

    >>> result = learn_values([Seen(0.2, 0.1, {"shop": ""})] * 8, {"shop": 0.1})
    >>> [round(figure, 3) for figure in result.if_it_differs({"shop": ""})], round(result.share, 3)
    ([0.178, 0.033], 1.0)

    Args:
        seen: values (n), with their standard errors.

    Raises:
        KeyError: a kind has no spread.

    Source: Bayes' rule for a normal linear model.
    """
    design = _Design([one.groups for one in seen], spreads)
    weights = [1.0 / one.error**2 for one in seen]
    curvature = design.precision(weights)
    pull = design.summed([weight * one.value for weight, one in zip(weights, seen, strict=True)])
    means = curvature.solved(pull)
    gain = 0.5 * (
        sum(map(mul, pull, means)) - curvature.log_det() + sum(map(math.log, design.prior))
    )
    return design.learned(means, curvature, gain)


def learn_between(
    seen: Sequence[Between], spreads: Mapping[str, float], within: float, usual: float | None = None
) -> LearnedEffects:
    """Return the effects that intervals and exact readings teach: posterior mode, with its
    curvature.

    A figure x of a wheel is normal around the sum of its effects, or the largest of as many as
    there are beads: P(low < x < high) = Phi((high - m) / s)^n - Phi((low - m) / s)^n. Newton's
    steps from 0; the posterior is concave.

    >>> result = learn_between([Between(0.2, 0.5, {"shop": ""})] * 20, {"shop": 0.3}, 0.2)
    >>> result.of({"shop": ""})[0] > 0.1
    True

    Args:
        within: spread of the hidden figure between things of the same groups.
        usual: the same in a shop that is exactly usual; all spreads together where it is not given.

    Raises:
        KeyError: a kind has no spread.

    Source: Bayes' rule; Laplace's approximation.
    """
    design = _Design([one.groups for one in seen], spreads)
    effects = [0.0] * len(design.prior)
    for _ in range(MAX_STEPS):
        terms = [
            _between(one, mean, within)
            for one, mean in zip(seen, design.means(effects), strict=True)
        ]
        bend = design.precision([one[2] for one in terms])
        slopes = design.summed([one[1] for one in terms])
        uphill = (
            slope - prior * one
            for slope, prior, one in zip(slopes, design.prior, effects, strict=True)
        )
        step = bend.solved(list(uphill))
        effects = [one + by for one, by in zip(effects, step, strict=True)]
        if max(map(abs, step), default=0.0) < CLOSE_ENOUGH:
            break
    held = sum(prior * one**2 for prior, one in zip(design.prior, effects, strict=True))
    fit = sum(one[0] for one in terms) - 0.5 * held
    kinds = {kind for kind, _key in design.places}
    whole = math.hypot(within, *(spreads[kind] for kind in kinds)) if usual is None else usual
    as_usual = sum(_between(one, 0.0, whole)[0] for one in seen)
    gain = fit - 0.5 * (bend.log_det() - sum(map(math.log, design.prior))) - as_usual
    return design.learned(effects, bend, gain)


def _between(one: Between, mean: float, spread: float) -> tuple[float, float, float]:
    """Logarithm of the likelihood of one observation, its slope in the mean, and its negative
    curvature.
    """
    spread = math.hypot(spread, one.error)
    if one.low == one.high:
        z = (one.low - mean) / spread
        return -0.5 * z * z - math.log(spread), z / spread, 1.0 / spread**2
    (d0, c0), (d1, c1) = (_slopes((x - mean) / spread, one.beads) for x in (one.low, one.high))
    share = max(_share((one.low - mean) / spread, (one.high - mean) / spread, one.beads), 1e-300)
    slope = -(d1 - d0) / (spread * share)
    return math.log(share), slope, max(1e-9, slope**2 - (c1 - c0) / (spread**2 * share))


def _share(low: float, high: float, beads: int) -> float:
    """Phi(high)^n - Phi(low)^n, exact in either tail."""
    if low <= 0.0:
        return phi(high) ** beads - phi(low) ** beads
    above = [
        -math.expm1(beads * math.log1p(-phi(-z))) if not math.isinf(z) else 0.0 for z in (low, high)
    ]
    return above[0] - above[1]


def _slopes(z: float, beads: int) -> tuple[float, float]:
    """The first and the second derivative of Phi(z)^n."""
    if math.isinf(z):
        return 0.0, 0.0
    below, density = phi(z), math.exp(-0.5 * z * z) / math.sqrt(2.0 * math.pi)
    first = beads * below ** (beads - 1) * density
    second = beads * (beads - 1) * below ** max(0, beads - 2) * density**2 - z * first
    return first, second


def phi(z: float) -> float:
    """Return the standard normal distribution function.

    >>> round(phi(1.96), 3)
    0.975

    Source: definition by the error function.
    """
    return 0.5 * math.erfc(-z / SQRT_2)


class _Design:
    """Which effects each observation has, and the prior precisions of the effects."""

    def __init__(self, groups: Sequence[Groups], spreads: Mapping[str, float]) -> None:
        self.places: dict[Effect, int] = {}
        self._of = [
            [self.places.setdefault(item, len(self.places)) for item in one.items()]
            for one in groups
        ]
        self.prior = [1.0 / spreads[kind] ** 2 for kind, _key in self.places]
        self._spreads = dict(spreads)

    def precision(self, weights: Sequence[float]) -> Factored:
        """X' W X + the prior."""
        rows: list[dict[int, float]] = [{place: prior} for place, prior in enumerate(self.prior)]
        for places, weight in zip(self._of, weights, strict=True):
            for one in places:
                row = rows[one]
                for other in places:
                    row[other] = row.get(other, 0.0) + weight
        return Factored(rows)

    def summed(self, values: Sequence[float]) -> list[float]:
        """X' v."""
        result = [0.0] * len(self.prior)
        for places, value in zip(self._of, values, strict=True):
            for place in places:
                result[place] += value
        return result

    def means(self, effects: Sequence[float]) -> list[float]:
        """X b."""
        return [sum(effects[place] for place in places) for places in self._of]

    def learned(self, means: list[float], precision: Factored, gain: float) -> LearnedEffects:
        """What was learned; `gain` is the logarithm of the evidence that the shop differs over that
        it is exactly usual.
        """
        odds = DIFFERS / (1.0 - DIFFERS) * math.exp(min(gain, 500.0))
        counts = dict.fromkeys(self.places, 0)
        names = list(self.places)
        for places in self._of:
            for place in places:
                counts[names[place]] += 1
        return LearnedEffects(
            self._spreads, self.places, means, precision, counts, odds / (1.0 + odds)
        )


#: Spreads of the effects on the logarithm of a figure (common practice, no published source;
#: docs/models.md 2.11).
GAP_SPREADS = {"shop": 0.3, "rim": 0.4, "tire": 0.4, "pair": 0.3}
GAP_WITHIN = 0.55
SEAT_SPREADS = {"shop": 0.08, "rim": 0.12, "tire": 0.12, "pair": 0.08}
#: What is left of the whole spread of 0.30 between beads of the same rim and tire.
SEAT_WITHIN = math.sqrt(SEAT_SPREAD**2 - sum(one**2 for one in SEAT_SPREADS.values()))
KEPT_SPREADS = {"shop": 0.08, "rider": 0.12, "ground": 0.06}
KEPT_ERROR = 0.08
#: Degrees of freedom of an answer's error, and rounds of weighing.
HEAVY_TAIL, ROUNDS = 4.0, 12
DRYING_SPREADS = {"shop": 0.25, "product": 0.25}
#: A prior on failures, worth half a wheel and year: one in twenty wheels a year (common practice,
#: no published source).
FAILURES, FAILURE_YEARS = 0.025, 0.5
#: Spread of the drying rate of single wheels around the shop's and the product's.
DRYING_WITHIN = 0.2


def learn_gap(tries: Sequence[Between]) -> LearnedEffects:
    """Return what attempts teach of the gap of a shop's rims and tires.

    Args:
        tries: a wheel's ln(gap / usual median of its class), above what failed to outrun it and
            below what did, with the effects shop, rim, tire and pair.
    """
    return learn_between(tries, GAP_SPREADS, GAP_WITHIN)


def gap_spread(effects: LearnedEffects, groups: dict[str, str]) -> float:
    """Return the spread of the logarithm of a single gap: the mixture's of a shop that differs and
    one that is usual.

    Source: docs/models.md 2.11.
    """
    return _mixed_spread(effects, groups, GAP_WITHIN, GAP_SPREAD)


def _mixed_spread(
    effects: LearnedEffects, groups: dict[str, str], within: float, usual: float
) -> float:
    mean, spread = effects.if_it_differs(groups)
    differs = effects.share * (within**2 + spread**2 + mean**2)
    return math.sqrt(differs + (1.0 - effects.share) * usual**2 - (effects.share * mean) ** 2)


def learn_seats(seen: Sequence[Between]) -> LearnedEffects:
    """Return what tries and pops teach of the pressure at which beads seat.

    Args:
        seen: ln(pressure / usual median of such wheels), with the effects shop, rim, tire and pair.
    """
    return learn_between(seen, SEAT_SPREADS, SEAT_WITHIN)


def seat_spread(effects: LearnedEffects, groups: dict[str, str]) -> float:
    """Return the spread of the logarithm of a single seating pressure: the mixture's, as for a gap.

    Source: docs/models.md 2.14.
    """
    return _mixed_spread(effects, groups, SEAT_WITHIN, SEAT_SPREAD)


def learn_kept(kept: Sequence[Seen]) -> LearnedEffects:
    """Return what riders teach of the pressure, errors with Student's heavy tails: an odd answer
    counts little.

    Each round weighs an answer that is off by r with 5 / (4 + (r / error)^2) of its own weight.

    >>> kept = [Seen(-0.2, 0.08, {"shop": ""})] * 12
    >>> odd = Seen(0.6, 0.08, {"shop": ""})
    >>> [round(learn_kept(seen).if_it_differs({"shop": ""})[0], 2) for seen in (kept, [*kept, odd])]
    [-0.19, -0.18]

    Args:
        kept: logarithm of kept over proposed, with the effects shop, rider and ground.

    Source: expectation-maximization for Student's t; degrees of freedom common practice.
    """
    weighed = list(kept)
    for _ in range(ROUNDS):
        effects = learn_values(weighed, KEPT_SPREADS)
        weighed = [
            msgspec.structs.replace(one, error=one.error / math.sqrt(_weight(one, effects)))
            for one in kept
        ]
    return effects


def _weight(one: Seen, effects: LearnedEffects) -> float:
    known = (effects.places.get(item) for item in one.groups.items())
    off = one.value - sum(effects.means[place] for place in known if place is not None)
    return (HEAVY_TAIL + 1.0) / (HEAVY_TAIL + (off / one.error) ** 2)


def learn_drying(dips: Sequence[Between]) -> LearnedEffects:
    """Return what dips teach of how fast sealant dries.

    Args:
        dips: logarithm of the rate of one wheel over the climate's, from below where nothing was
            left, with the effects shop and product.
    """
    return learn_between(dips, DRYING_SPREADS, DRYING_WITHIN, DRYING_WITHIN)


def failures_a_year(count: int, years: float) -> float:
    """Return the failures of a wheel and year: Gamma-Poisson, (0.025 + count) / (0.5 + years).

    >>> failures_a_year(0, 0.0), round(failures_a_year(4, 9.5), 3)
    (0.05, 0.403)

    Args:
        count: wheels of one sort that came back for what was done.

    Source: conjugate Gamma prior.
    """
    return (FAILURES + count) / (FAILURE_YEARS + years)
