"""Effects of shop, rim, tire, rider and so on, learned together: each starts at zero and moves with the evidence.

A figure is its usual value plus one effect of each kind, such as the shop's and the rider's. Every effect is normal
around 0 with the spread of its kind; what was seen scatters around their sum. A second hypothesis, that
the shop is exactly usual, holds until the log says otherwise (docs/models.md 2.11).
"""

import math
from collections.abc import Mapping, Sequence
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

#: The groups of an observation by kind of effect, such as ``{"shop": "", "rim": "Reed bed 584"}``.
Groups = Mapping[str, str]
Effect = tuple[str, str]
Key = tuple[str, str]
Array = NDArray[np.float64]
MOST_STEPS, CLOSE_ENOUGH = 60, 1e-9
#: Prior probability that a shop differs from the usual at all (common practice).
DIFFERS = 0.1
#: The least such probability behind a spread that is shown.
WIDE = 0.7
SQRT_2 = math.sqrt(2.0)


class Seen(msgspec.Struct, frozen=True):
    """An observed value: a logarithm or another figure without a unit, its standard error, its groups, and the
    (job, wheel) that it was seen on.
    """

    value: float
    error: float
    groups: dict[str, str]
    key: Key = ("", "")


class Between(msgspec.Struct, frozen=True):
    """A hidden figure that was found to lie between two values, equal where it was read exactly, infinite where nothing
    bounds it; its groups, and the (job, wheel). With several beads it is the largest of as many.
    """

    low: float
    high: float
    groups: dict[str, str]
    key: Key = ("", "")
    beads: int = 1


class LearnedEffects(msgspec.Struct, frozen=True):
    """What was learned.

    Attributes:
        spreads: how far effects of each kind usually are from 0.
        places: where each effect is in `means` and `covariance`.
        counts: how many observations each effect was learned from.
        share: the probability that the shop differs from the usual at all.
    """

    spreads: dict[str, float]
    places: dict[Effect, int]
    means: Any
    covariance: Any
    counts: dict[Effect, int]
    share: float = DIFFERS

    def of(self, groups: Groups) -> tuple[float, float]:
        """Return mean and standard deviation of what is added to the usual figure.

        With probability `share` the sum of the effects, otherwise nothing: mean = share * m. The spread around it counts
        the shop as different with at least `WIDE`: wide until it is known.
        """
        mean, spread = self.if_it_differs(groups)
        moved, doubt = self.share * mean, max(self.share, WIDE)
        return moved, math.sqrt(doubt * (spread**2 + mean**2) - 2.0 * doubt * mean * moved + moved**2)

    def if_it_differs(self, groups: Groups) -> tuple[float, float]:
        """Return mean and standard deviation of the sum of effects of something, in a shop that differs from the usual;
        an effect that was never seen is spread around 0.
        """
        known = [self.places[item] for item in groups.items() if item in self.places]
        new = (self.spreads[kind] ** 2 for kind, key in groups.items() if (kind, key) not in self.places)
        mean = float(self.means[known].sum()) if known else 0.0
        variance = float(self.covariance[np.ix_(known, known)].sum()) if known else 0.0
        return mean, math.sqrt(variance + sum(new))


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
    places, design, precision = _design([one.groups for one in seen], spreads)
    if not places:
        return _nothing(spreads)
    weight = np.array([1.0 / one.error**2 for one in seen])
    values = np.array([one.value for one in seen])
    curvature = design.T @ (design * weight[:, None]) + np.diag(precision)
    covariance: Array = np.linalg.inv(curvature)
    pull = design.T @ (weight * values)
    means = covariance @ pull
    gain = 0.5 * (float(pull @ means) - _log_det(curvature) + float(np.log(precision).sum()))
    return _effects(spreads, places, means, covariance, design, gain)


def learn_between(seen: Sequence[Between], spreads: Mapping[str, float], within: float) -> LearnedEffects:
    """Return the effects that intervals and exact readings teach: posterior mode, with its curvature.

    A figure x of a wheel is normal around the sum of its effects, or the largest of as many as there are beads:
    P(low < x < high) = Phi((high - m) / s)^n - Phi((low - m) / s)^n. Newton's steps from 0; the posterior is concave.

    >>> result = learn_between([Between(0.2, 0.5, {"shop": ""})] * 20, {"shop": 0.3}, 0.2)
    >>> result.of({"shop": ""})[0] > 0.1
    True

    Args:
        within: spread of the hidden figure between things of the same groups.

    Raises:
        KeyError: a kind has no spread.

    Source: Bayes' rule; Laplace's approximation.
    """
    places, design, precision = _design([one.groups for one in seen], spreads)
    if not places:
        return _nothing(spreads)
    effects = np.zeros(len(places))
    for _ in range(MOST_STEPS):
        terms = [_between(one, float(m), within) for one, m in zip(seen, design @ effects, strict=True)]
        slope, curvature = np.array([one[1] for one in terms]), np.array([one[2] for one in terms])
        bend = design.T @ (design * curvature[:, None]) + np.diag(precision)
        step = np.linalg.solve(bend, design.T @ slope - precision * effects)
        effects = effects + step
        if np.abs(step).max() < CLOSE_ENOUGH:
            break
    fit = sum(one[0] for one in terms) - 0.5 * float(precision @ effects**2)
    whole = math.sqrt(within**2 + sum(spreads[kind] ** 2 for kind in {kind for kind, _key in places}))
    usual = sum(_between(one, 0.0, whole)[0] for one in seen)
    gain = fit - 0.5 * (_log_det(bend) - float(np.log(precision).sum())) - usual
    covariance: Array = np.linalg.inv(bend).astype(np.float64)
    return _effects(spreads, places, effects, covariance, design, gain)


def _between(one: Between, mean: float, spread: float) -> tuple[float, float, float]:
    """Logarithm of the likelihood of one observation, its slope in the mean, and its negative curvature."""
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
    above = [-math.expm1(beads * math.log1p(-phi(-z))) if not math.isinf(z) else 0.0 for z in (low, high)]
    return above[0] - above[1]


def _slopes(z: float, beads: int) -> tuple[float, float]:
    """The first and the second derivative of Phi(z)^n."""
    if math.isinf(z):
        return 0.0, 0.0
    below, density = phi(z), math.exp(-0.5 * z * z) / math.sqrt(2.0 * math.pi)
    first = beads * below ** (beads - 1) * density
    second = beads * (beads - 1) * below ** max(0, beads - 2) * density**2 - z * first
    return first, second


def _log_det(matrix: Array) -> float:
    return float(np.linalg.slogdet(matrix)[1])


def phi(z: float) -> float:
    """Return the standard normal distribution function.

    >>> round(phi(1.96), 3)
    0.975

    Source: definition by the error function.
    """
    return 0.5 * math.erfc(-z / SQRT_2)


def _design(groups: Sequence[Groups], spreads: Mapping[str, float]) -> tuple[dict[Effect, int], Array, Array]:
    """Where each effect is, which of them each observation has (n, p), and the prior precisions (p,)."""
    places: dict[Effect, int] = {}
    for one in groups:
        for item in one.items():
            places.setdefault(item, len(places))
    design = np.zeros((len(groups), len(places)))
    for row, one in enumerate(groups):
        for item in one.items():
            design[row, places[item]] = 1.0
    return places, design, np.array([1.0 / spreads[kind] ** 2 for kind, _key in places])


def _effects(
    spreads: Mapping[str, float], places: dict[Effect, int], means: Array, covariance: Array, design: Array, gain: float
) -> LearnedEffects:
    """The effects; `gain` is the logarithm of the evidence that the shop differs over that it is exactly usual."""
    odds = DIFFERS / (1.0 - DIFFERS) * math.exp(min(gain, 500.0))
    seen = design.sum(axis=0)
    counts = {one: int(seen[at]) for one, at in places.items()}
    return LearnedEffects(dict(spreads), places, means, covariance, counts, odds / (1.0 + odds))


def _nothing(spreads: Mapping[str, float]) -> LearnedEffects:
    return LearnedEffects(dict(spreads), {}, np.zeros(0), np.zeros((0, 0)), {})
