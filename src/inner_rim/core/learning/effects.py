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


class Tried(msgspec.Struct, frozen=True):
    """A try that succeeds where a hidden figure is below a threshold; whether it did, its groups, and the (job, wheel)."""

    threshold: float
    worked: bool
    groups: dict[str, str]
    key: Key = ("", "")


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


def learn_tries(tries: Sequence[Tried], spreads: Mapping[str, float], within: float) -> LearnedEffects:
    """Return the effects that tries teach: posterior mode of a probit model, with its curvature.

    A try works with probability Phi((threshold - effects) / within). Newton's steps from 0; the posterior is concave.

    >>> result = learn_tries([Tried(0.0, False, {"shop": ""})] * 20, {"shop": 0.3}, 0.55)
    >>> result.of({"shop": ""})[0] > 0.2
    True

    Args:
        within: spread of the hidden figure between things of the same groups.

    Raises:
        KeyError: a kind has no spread.

    Source: Bayes' rule; Laplace's approximation.
    """
    places, design, precision = _design([one.groups for one in tries], spreads)
    if not places:
        return _nothing(spreads)
    sign = np.array([1.0 if one.worked else -1.0 for one in tries])
    threshold = np.array([one.threshold for one in tries])
    effects = np.zeros(len(places))
    for _ in range(MOST_STEPS):
        slope, curvature = _probit(sign, (threshold - design @ effects) / within, within)
        gradient = design.T @ slope - precision * effects
        bend = design.T @ (design * curvature[:, None]) + np.diag(precision)
        step = np.linalg.solve(bend, gradient)
        effects = effects + step
        if np.abs(step).max() < CLOSE_ENOUGH:
            break
    fit = _log_likelihood(sign, (threshold - design @ effects) / within) - 0.5 * float(precision @ effects**2)
    whole = math.sqrt(within**2 + sum(spreads[kind] ** 2 for kind in {kind for kind, _key in places}))
    gain = fit - 0.5 * (_log_det(bend) - float(np.log(precision).sum())) - _log_likelihood(sign, threshold / whole)
    covariance: Array = np.linalg.inv(bend).astype(np.float64)
    return _effects(spreads, places, effects, covariance, design, gain)


def _log_det(matrix: Array) -> float:
    return float(np.linalg.slogdet(matrix)[1])


def _log_likelihood(sign: Array, z: Array) -> float:
    return sum(math.log(max(1e-300, phi(one))) for one in sign * z)


def _probit(sign: Array, z: Array, within: float) -> tuple[Array, Array]:
    """Slope of the log likelihood in the effects, and its negative curvature, one for each try."""
    t = sign * z
    hazard = np.array([_hazard(one) for one in t])
    return -sign * hazard / within, hazard * (hazard + t) / within**2


def _hazard(t: float) -> float:
    """phi(t) / Phi(t), also far below 0, where both vanish."""
    if t < -8.0:
        return -t + 1.0 / -t
    return math.exp(-0.5 * t * t) / math.sqrt(2.0 * math.pi) / phi(t)


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
