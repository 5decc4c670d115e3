"""Steps down in a rise from any source (docs/models.md 2.8).

A compressor, a bottle, a regulator that hunts: nobody knows the curve, only that the flow changes
gradually. So the rise is a Gaussian process, an integrated random walk of the flow, as rough as the
readings say; a bead is a step down in it.
"""

from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    from inner_rim.core.models.rises import Samples

    Table = npt.NDArray[np.float64]

#: How much better, in variances, a rise with a step must explain the readings than one without, and
#: than a kink near it.
EVIDENCE, OVER_KINK = 12.0, 3.0
#: A step up or a kink that explains more is a pump's stroke.
MAX_STROKE = 16.0
MAX_STEPS = 4
#: Time constants of gauges, s.
LAGS_S = (0.0, 0.04, 0.09)
#: Roughness to choose from: variance of the flow's change over the whole rise, as a share of the
#: squared rise. Above the last, the flow is not gradual.
ROUGHNESS, MAX_GRADUAL = tuple(10.0 ** (0.5 * i - 4.0) for i in range(13)), 0.02
#: The process is true to this share of the rise.
TRUE_SHARE = 0.001
#: Most means that a rise is averaged to; means needed before and after a step; means within which a
#: kink is near.
MAX_MEANS, BEFORE, AFTER, NEAR = 200, 2, 3, 6


class StepDown(NamedTuple):
    """A step down: after which sample of the rise, how sure, in variances, and by how much, kPa."""

    sample: int
    evidence: float
    drop_kpa: float


class _Shapes(NamedTuple):
    """What a rise is made of, as the walk's eigenvectors see it; times run from 0 to 1."""

    variances: "Samples"
    vectors: "Table"
    smooth: "Table"
    kinks: "Table"


@lru_cache(32)
def _shapes(n: int) -> _Shapes:
    import numpy as np

    t = np.arange(n) / n
    early, late = np.minimum(t[:, None], t), np.maximum(t[:, None], t)
    variances, vectors = np.linalg.eigh(early * early * (3.0 * late - early) / 6.0)
    kinks = np.maximum(0.0, t[:, None] - t[:-1] - 0.5 / n)
    smooth = np.stack([np.ones(n), t, t * t], axis=1)
    return _Shapes(np.maximum(variances, 0.0), vectors, vectors.T @ smooth, vectors.T @ kinks)


@lru_cache(32)
def _bead(n: int, dt_s: float, lag_s: float) -> "Table":
    """A step after each sample, as a gauge shows it."""
    import numpy as np

    since = dt_s * (np.arange(n)[:, None] - np.arange(n - 1) - 0.5)
    shown = 1.0 - np.exp(-np.maximum(since, 0.0) / lag_s) if lag_s else np.ones_like(since)
    steps: Table = _shapes(n).vectors.T @ np.where(since > 0.0, shown, 0.0)
    return steps


class AnyRise:
    """A rise from any source and the steps down in it.

    p = a + b t + c t^2 + w(t) - sum_j h_j s(t - t_j) + noise, w an integrated Wiener process whose
    variance maximizes the restricted likelihood, s a step as a gauge of first order shows it. A
    step is worth (s' K^-1 r)^2 / (s' K^-1 s), r what the others leave, K the covariance.

    Args:
        rise_kpa: shape (n,), gauge, where air flows in.
        dt_s: between two samples.
        sigma_kpa: standard deviation of one reading.

    >>> import numpy as np
    >>> t = np.arange(0.0, 2.0, 0.05)
    >>> waves = 150.0 * t + 6.0 * np.sin(6.0 * t)
    >>> AnyRise(waves, 0.05, 0.3).steps
    ()
    >>> [(step.sample, round(step.drop_kpa)) for step in AnyRise(waves - 8.0 * (t > 1.02), 0.05, 0.3).steps]
    [(20, 8)]

    Source: derived; smoothing splines as Gaussian processes: Wahba, Journal of the Royal
    Statistical Society B 40, 1978.
    """

    def __init__(self, rise_kpa: "Samples", dt_s: float, sigma_kpa: float) -> None:
        import numpy as np

        self._few = max(1, -(-rise_kpa.size // MAX_MEANS))
        means = (
            rise_kpa[: rise_kpa.size // self._few * self._few].reshape(-1, self._few).mean(axis=1)
        )
        self._shapes = _shapes(means.size)
        self._beads = [_bead(means.size, round(dt_s * self._few, 6), lag) for lag in LAGS_S]
        self._risen = float(np.ptp(means)) or 1.0
        self._variance = sigma_kpa**2 / self._few + (TRUE_SHARE * self._risen) ** 2
        self._seen = self._shapes.vectors.T @ means
        self._columns = self._shapes.smooth
        self._found: list[StepDown] = []
        self._weights, self.roughness = self._likeliest(self._columns)
        while len(self._found) < MAX_STEPS and self._add_step():
            pass
        self._weights, self.roughness = self._likeliest(self._columns)

    @property
    def steps(self) -> tuple[StepDown, ...]:
        """The steps down, the surest first."""
        return tuple(
            sorted(
                (
                    StepDown((k + 1) * self._few - 1, evidence, drop)
                    for k, evidence, drop in self._found
                ),
                key=lambda step: -step.evidence,
            )
        )

    @property
    def is_gradual(self) -> bool:
        """Whether the flow changes gradually, as no hand pump's does."""
        if self.roughness > MAX_GRADUAL:
            return False
        worth_up = max(float(self._worth(bead)[0].max()) for bead in self._beads)
        return max(worth_up, float(self._kink_worth().max())) < MAX_STROKE

    def evidence_near(self, sample: int) -> float:
        """Return how sure a step down within two samples of one is, given the steps that were
        found, in variances.
        """
        k = sample // self._few
        known = [step.evidence for step in self._found if abs(step.sample - k) <= AFTER]
        if known:
            return known[0]
        near = slice(max(0, k - 2), k + 3)
        return max(float(self._worth(bead[:, near])[1].max(initial=0.0)) for bead in self._beads)

    def _likeliest(self, columns: "Table") -> tuple["Samples", float]:
        """The inverse variances of the readings in the walk's eigenvectors, and its roughness."""
        import numpy as np

        best = None
        for roughness in ROUGHNESS:
            weights = 1.0 / (self._variance + roughness * self._risen**2 * self._shapes.variances)
            weighted = columns.T * weights
            normal = weighted @ columns
            rest = (
                self._seen - columns @ np.linalg.lstsq(normal, weighted @ self._seen, rcond=None)[0]
            )
            fit = np.log(weights).sum() - np.linalg.slogdet(normal)[1] - rest @ (weights * rest)
            if best is None or fit > best[0]:
                best = fit, weights, roughness
        assert best is not None
        return best[1], best[2]

    def _worth(self, shape: "Table") -> tuple["Samples", "Samples", "Samples"]:
        """What each column of a shape would explain going up and going down, and how high it would
        be.
        """
        import numpy as np

        root = np.sqrt(self._weights)
        basis, _scale = np.linalg.qr(root[:, None] * self._columns)
        seen, shape = root * self._seen, root[:, None] * shape
        along = (seen - basis @ (basis.T @ seen)) @ shape
        free = np.maximum((shape**2).sum(axis=0) - ((basis.T @ shape) ** 2).sum(axis=0), 1e-9)
        worth = along * along / free
        return np.where(along > 0.0, worth, 0.0), np.where(along < 0.0, worth, 0.0), along / free

    def _kink_worth(self) -> "Samples":
        up, down, _height = self._worth(self._shapes.kinks)
        return up + down

    def _best(self) -> tuple[StepDown, "Table"]:
        """The step down that explains most, and its column."""
        result = []
        for bead in self._beads:
            _up, worth, height = self._worth(bead)
            worth[:BEFORE], worth[-AFTER:] = 0.0, 0.0
            for other in self._found:
                worth[max(0, other.sample - 2) : other.sample + 3] = 0.0
            k = int(worth.argmax())
            result.append((StepDown(k, float(worth[k]), -float(height[k])), bead[:, k : k + 1]))
        return max(result, key=lambda step: step[0].evidence)

    def _add_step(self) -> bool:
        """Add the step that explains most, if it is sure. A step makes the process seem rough, so
        the roughness is looked for again with it.
        """
        import numpy as np

        before = self._columns
        self._weights, self.roughness = self._likeliest(before)
        guess, column = self._best()
        if guess.evidence <= 0.0:
            return False
        self._weights, self.roughness = self._likeliest(np.concatenate([before, column], axis=1))
        step, column = self._best()
        kink = float(self._kink_worth()[max(0, step.sample - NEAR) : step.sample + NEAR + 1].max())
        if step.evidence < EVIDENCE or step.evidence - kink < OVER_KINK:
            return False
        self._found.append(step)
        self._columns = np.concatenate([before, column], axis=1)
        return True
