"""A straight line through readings of known errors, by weighted least squares."""

import math
from collections.abc import Sequence

import msgspec

NORMAL_90 = 1.645  # two-sided 90 % of a normal distribution


class FittedLine(msgspec.Struct, frozen=True):
    """A weighted line.

    Attributes:
        start: its value at time zero.
        slope: for an hour.
        slope_error: standard error of the slope.
        middle: the weighted mean of the times, where the line is known best.
        error: standard error of the line there.
    """

    start: float
    slope: float
    slope_error: float
    middle: float = 0.0
    error: float = 0.0


class OneMoment(ValueError):
    """All times are alike: there is no slope."""


#: Least difference of the first and last time, h: a clock tells no less.
LEAST_APART = 1e-6


def fitted_line(times: Sequence[float], values: Sequence[float], errors: Sequence[float]) -> FittedLine:
    """Return the weighted least-squares line, weights 1 / error^2, errors taken as known.

    Times in h, values and errors in the unit of what is fitted, here ln kPa.

    Args:
        times: shape (n,), n >= 2, not all alike.
        values: shape (n,).
        errors: standard errors, positive.

    >>> line = fitted_line([0.0, 1.0, 2.0], [5.0, 4.9, 4.8], [0.01, 0.01, 0.01])
    >>> round(line.slope, 6), round(line.slope_error, 6)
    (-0.1, 0.007071)

    Raises:
        OneMoment: no two times differ by a millionth of an hour.

    Source: weighted least squares with known variances.
    """
    weights = [1.0 / (e * e) for e in errors]
    total = sum(weights)
    middle = sum(w * t for w, t in zip(weights, times, strict=True)) / total
    mean = sum(w * y for w, y in zip(weights, values, strict=True)) / total
    spread = sum(w * (t - middle) ** 2 for w, t in zip(weights, times, strict=True))
    if max(times) - min(times) < LEAST_APART:
        raise OneMoment("a line needs two different times")
    slope = sum(w * (t - middle) * (y - mean) for w, t, y in zip(weights, times, values, strict=True)) / spread
    return FittedLine(mean - slope * middle, slope, 1.0 / math.sqrt(spread), middle, 1.0 / math.sqrt(total))
