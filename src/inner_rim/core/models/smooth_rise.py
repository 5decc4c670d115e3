"""Smooth rises of a pressure trace and the steps down in them (docs/models.md 2.8).

A compressor or a bottle fills a tire along one smooth curve. A bead that seats is a step down in
it, which fades as the source goes on filling.
"""

import itertools
import math
from typing import TYPE_CHECKING, NamedTuple

from inner_rim.core.models.rises import flowing

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    from inner_rim.core.models.rises import Samples

    Table = npt.NDArray[np.float64]

#: How much better a curve must explain a rise for each step in it, in variances of one reading: the
#: square of 4.2, as every boundary is tried with several curves.
EVIDENCE = 18.0
#: Time constants of sources that empty, of those that fill slowly and so bend little, and of gauges
#: that lag, s.
EMPTIES_S, EMPTIES_SLOWLY_S, LAGS_S = (0.4, 0.7, 1.2, 2.0, 4.0), (3.0,), (0.04, 0.09)
#: A curve is true to this share of the rise, and explains it if what is left is not above this
#: share of the variance.
TRUE_SHARE, LEFT_SHARE = 0.003, 1.6
#: No smooth rise has steps up: where one would explain so much, or a third of what a step down
#: does, they are strokes.
MAX_UP, UP_SHARE = 25.0, 1.0 / 3.0
#: No hand pumps faster, kPa/s: in a slower rise a step counts for less, as it may be a stroke's,
#: and a wheel has two beads. A bead may seat in two parts.
FAST_KPA_S, MAX_STEPS, MAX_SLOW_STEPS = 25.0, 4, 2
#: A stroke gives less than a smooth rise, kPa, and no filling takes longer, s.
MIN_KPA, LONGEST_S = 60.0, 60.0
#: Samples that a step needs on either side of it, and a rise in all.
EDGE, MIN_SAMPLES = 3, 12
#: Means of a rise in which source and gauge are looked for, and how many of a trace's last rises
#: are used.
SCANNED, LAST_RISES = 150, 12


class RiseStep(NamedTuple):
    """A step down in a rise: after which sample, and by how much."""

    sample: int
    drop_kpa: float


class SmoothRise(NamedTuple):
    """A rise that one curve explains: which samples, and the steps in it."""

    within: slice
    steps: tuple[RiseStep, ...]


def smooth_rises(pressure_kpa: "Samples", dt_s: float, sigma_kpa: float) -> list[SmoothRise]:
    """Return the rises of a trace that a smooth curve with steps down explains.

    p(t) = a + b t + (c + d t) e^(-t/T) - sum_j h_j e^(-(t - t_j)/T), as a gauge of first order
    shows it; as many steps as lower the sum of squares by 18 variances each.

    Args:
        pressure_kpa: shape (n,), gauge.
        dt_s: between two samples.
        sigma_kpa: standard deviation of one reading.

    >>> import numpy as np
    >>> t = np.arange(0.0, 6.0, 0.05)
    >>> p = 300.0 * (1.0 - np.exp(-t)) - np.where(t > 1.02, 9.0 * np.exp(-(t - 1.02)), 0.0)
    >>> [(rise.steps[0].sample, round(rise.steps[0].drop_kpa)) for rise in smooth_rises(p, 0.05, 0.2)]
    [(20, 9)]

    Source: derived: a source of constant pressure behind a valve; generalized likelihood ratio, one
    step after the other, each placed again after the next (orthogonal matching pursuit: Pati et
    al., Asilomar Conference 1993).
    """
    import numpy as np

    result = []
    for within in flowing(pressure_kpa, dt_s, sigma_kpa)[-LAST_RISES:]:
        rise = pressure_kpa[within]
        if rise.size < MIN_SAMPLES or rise.size * dt_s > LONGEST_S or np.ptp(rise) < MIN_KPA:
            continue
        steps = _steps(rise, dt_s, sigma_kpa)
        if steps is not None:
            result.append(
                SmoothRise(
                    within, tuple(RiseStep(within.start + k, drop) for k, drop in sorted(steps))
                )
            )
    return result


class _Fit(NamedTuple):
    """A curve with steps after some samples: what it costs, and what it leaves of the rise in
    variances.
    """

    cost: float
    left: float
    steps: tuple[int, ...]
    curve: "_FittedCurve"


class _FittedCurve:
    """A rise of `n` samples from a source that empties with `empties_s`, seen by a gauge that lags
    by `lag_s`.
    """

    def __init__(self, n: int, dt_s: float, empties_s: float, lag_s: float) -> None:
        import numpy as np

        # a step lies between two samples
        t, since = (np.arange(n) * dt_s, (np.arange(n - 1) + 0.5) * dt_s)
        self._fades = np.exp(-t / empties_s)
        self._half = math.exp(0.5 * dt_s / empties_s)
        columns = [np.ones(n), t / t[-1], self._fades, t / empties_s * self._fades]
        self._catches_up, self._gain, shown = None, 1.0, np.exp(-since / empties_s)
        if lag_s:
            columns.append(np.exp(-t / lag_s))
            self._gain = empties_s / (empties_s - lag_s)
            self._catches_up = np.exp(-since[: math.ceil(12.0 * lag_s / dt_s)] / lag_s)
            shown = self._gain * (shown - np.exp(-since / lag_s))
        self.smooth = np.stack(columns, axis=1)
        self._shown, self._square = shown, np.cumsum(shown * shown)[::-1]

    def with_steps(self, steps: tuple[int, ...]) -> "Table":
        """The columns that are fitted: the smooth ones, and one for each step."""
        import numpy as np

        n = len(self.smooth)
        columns = np.zeros((n, len(steps)))
        for column, k in zip(columns.T, steps, strict=True):
            column[k + 1 :] = self._shown[: n - 1 - k]
        return np.concatenate([self.smooth, columns], axis=1)

    def _against(self, series: "Table") -> "Table":
        """The products of a step at each boundary with each series; a running sum, as a step fades
        by powers.
        """
        import numpy as np

        behind = np.cumsum((self._fades[:, None] * series)[::-1], axis=0)[::-1]
        result: Table = self._half * behind[1:] / self._fades[:-1, None]
        if self._catches_up is not None:
            longer = np.concatenate(
                [series[1:], np.zeros((self._catches_up.size - 1, series.shape[1]))]
            )
            late = [np.correlate(column, self._catches_up, "valid") for column in longer.T]
            result = self._gain * (result - np.stack(late, axis=1))
        return result

    def gains(self, basis: "Table", rest: "Samples", down: bool) -> "Samples":
        """How much less a step at each boundary would leave of the rest."""
        import numpy as np

        products = self._against(np.concatenate([rest[:, None], basis], axis=1))
        free = np.maximum(self._square - (products[:, 1:] ** 2).sum(axis=1), 1e-3)
        along = -products[:, 0] if down else products[:, 0]
        gain = np.where(along > 0.0, along * along / free, 0.0)
        gain[:EDGE], gain[-EDGE:] = 0.0, 0.0
        return gain


def _left(columns: "Table", rise: "Samples") -> tuple["Table", "Samples"]:
    """An orthonormal basis of the columns, and what they leave of the rise."""
    import numpy as np

    basis, _scale = np.linalg.qr(columns)
    return basis, rise - basis @ (basis.T @ rise)


def _gains(curve: _FittedCurve, rise: "Samples", steps: tuple[int, ...], down: bool) -> "Samples":
    """How much less one more step at each boundary would leave, but next to a step that is there."""
    gain = curve.gains(*_left(curve.with_steps(steps), rise), down)
    for k in steps:
        gain[max(0, k - 1) : k + 2] = 0.0
    return gain


def _best_step(curve: _FittedCurve, rise: "Samples", steps: tuple[int, ...]) -> int | None:
    """The sample after which one more step explains most; None if none explains anything."""
    gain = _gains(curve, rise, steps, down=True)
    k = int(gain.argmax())
    return k if gain[k] > 0.0 else None


def _placed_again(
    curve: _FittedCurve, rise: "Samples", steps: tuple[int, ...], rounds: int
) -> tuple[int, ...]:
    """Each step where it explains most, given the others."""
    for _ in range(rounds if len(steps) > 1 else 0):
        before = steps
        for i in range(len(steps)):
            others = (*steps[:i], *steps[i + 1 :])
            k = _best_step(curve, rise, others)
            steps = steps if k is None else (*others[:i], k, *others[i:])
        if steps == before:
            break
    return steps


def _fitted(curve: _FittedCurve, rise: "Samples", variance: float, most: int, effort: int) -> _Fit:
    """The curve with the steps that are worth their cost, `most` of them; as many in a row as the
    effort that are not end the search.
    """
    steps: tuple[int, ...] = ()
    fits: list[_Fit] = []
    while True:
        _basis, rest = _left(curve.with_steps(steps), rise)
        left = float(rest @ rest) / variance
        fits.append(_Fit(left + EVIDENCE * len(steps), left, steps, curve))
        best = min(fits, key=lambda fit: fit.cost)
        if len(steps) == most or len(steps) - len(best.steps) >= effort:
            return best
        k = _best_step(curve, rise, steps)
        if k is None:
            return best
        steps = _placed_again(curve, rise, (*steps, k), effort)


def _variance(rise: "Samples", sigma: float) -> float:
    """Of a reading about a curve that is not exact."""
    return sigma * sigma + (TRUE_SHARE * float(rise.max() - rise.min())) ** 2


def _source(
    rise: "Samples", dt: float, sigma: float, empties_s: tuple[float, ...], most: int
) -> tuple[float, float]:
    """The time constants of source and gauge that explain a rise best, looked for in the means of a
    few samples each.
    """
    few = max(1, rise.size // SCANNED)
    means = rise[: rise.size // few * few].reshape(-1, few).mean(axis=1)
    variance = _variance(means, sigma / math.sqrt(few))

    def cost(constants: tuple[float, float]) -> float:
        return _fitted(
            _FittedCurve(means.size, few * dt, *constants), means, variance, most, 1
        ).cost

    return min(itertools.product(empties_s, (0.0, *LAGS_S)), key=cost)


def _steps(rise: "Samples", dt: float, sigma: float) -> list[RiseStep] | None:
    """The steps of the curve that explains a rise best; None if none explains it, or a step up
    would help.
    """
    import numpy as np

    n = rise.size
    variance = _variance(rise, sigma)
    speed = float(rise[-1] - rise[0]) / (n * dt)
    slow = speed < FAST_KPA_S
    most = MAX_SLOW_STEPS if slow else MAX_STEPS
    empties_s, lag_s = _source(rise, dt, sigma, EMPTIES_SLOWLY_S if slow else EMPTIES_S, most)
    best = _fitted(_FittedCurve(n, dt, empties_s, lag_s), rise, variance, most, 2)
    columns = best.curve.with_steps(best.steps)
    smooth = columns.shape[1] - len(best.steps)
    up = float(_gains(best.curve, rise, best.steps, down=False).max()) / variance
    explained = best.left <= LEFT_SHARE * max(1, n - smooth - 2 * len(best.steps)) and up <= MAX_UP
    if not explained:
        return None
    heights = np.linalg.lstsq(columns, rise, rcond=None)[0][smooth:]
    result = []
    for i, k in enumerate(best.steps):
        _basis, rest = _left(np.delete(columns, smooth + i, axis=1), rise)
        worth = float(rest @ rest) / variance - best.left
        if worth * UP_SHARE > up and worth * min(1.0, speed / FAST_KPA_S) > EVIDENCE:
            result.append(RiseStep(k, -float(heights[i])))
    return result
