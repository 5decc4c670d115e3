"""Rises of a pressure trace: their noise, wild readings, how well they never fall, their slope, a pump's strokes
(docs/models.md 2.8).
"""

import math
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    Samples = npt.NDArray[np.float64]
    Mask = npt.NDArray[np.bool_]
    Places = npt.NDArray[np.int_]

#: A reading that leaves both neighbors to the same side by so many times the noise, about as far from one as from
#: the other, is wild.
WILD_SIGMAS, WILD_RATIO = 8.0, 0.6
#: The trend that strokes ride on, the fastest and slowest stroke, s; how much of the rise counts.
TREND_S, FASTEST_STROKE_S, SLOWEST_STROKE_S, RISEN_SHARE = 1.6, 0.4, 1.8, 0.97
#: Over so much a slope is taken, s.
SLOPE_S = 1.8
MAD_TO_SIGMA = 1.4826


def without_wild(pressure_kpa: "Samples", sigma_kpa: float) -> "Samples":
    """Return a trace in which single wild readings are the mean of their neighbors.

    wild: min(|left|, |right|) > 8 * sigma and > 0.6 * max.

    >>> import numpy as np
    >>> without_wild(np.array([1.0, 2.0, 90.0, 4.0]), 0.2).tolist()
    [1.0, 2.0, 3.0, 4.0]

    Source: after Hampel, Journal of the American Statistical Association 69, 1974.
    """
    import numpy as np

    p = pressure_kpa
    left, right = p[1:-1] - p[:-2], p[1:-1] - p[2:]
    small, large = np.minimum(abs(left), abs(right)), np.maximum(abs(left), abs(right))
    wild = (left * right > 0.0) & (small > WILD_SIGMAS * sigma_kpa) & (small > WILD_RATIO * large)
    calm = p.copy()
    calm[1:-1][wild] = 0.5 * (p[:-2] + p[2:])[wild]
    return calm


def rising(pressure_kpa: "Samples") -> slice:
    """Return where a trace rises: from a tenth of its peak to 97 % of it, both in kPa; three samples at least.

    >>> import numpy as np
    >>> rising(np.array([0.0, 5.0, 20.0, 60.0, 100.0, 100.0]))
    slice(2, 5, None)

    Source: derived.
    """
    import numpy as np

    p = pressure_kpa
    first = min(int(np.argmax(p > 0.1 * p.max())), max(0, p.size - 4))  # the gauge may stop just as it rises
    return slice(first, max(first + 3, int(np.argmax(p > RISEN_SHARE * p.max())) + 1))


def mean_slope(pressure_kpa: "Samples", dt_s: float) -> "Samples":
    """Return the slope at each boundary in kPa/s, taken over more than one stroke of a pump where there is so much.

    (p[i + h] - p[i - h]) / (2 h dt), h half of 1.8 s.

    >>> import numpy as np
    >>> mean_slope(np.array([0.0, 2.0, 4.0, 6.0]), 0.5).tolist()
    [4.0, 4.0, 4.0]

    Source: difference quotient.
    """
    import numpy as np

    p = pressure_kpa
    half = max(2, round(0.5 * SLOPE_S / dt_s))
    edge = np.arange(1, p.size)
    low, high = np.maximum(edge - half, 0), np.minimum(edge + half, p.size - 1)
    slopes: Samples = (p[high] - p[low]) / ((high - low) * dt_s)
    return slopes


def noise_kpa(pressure_kpa: "Samples") -> float:
    """Return the standard deviation of one reading, from the median of absolute second differences.

    sigma = 1.4826 * median |p[i-1] - 2 p[i] + p[i+1]| / sqrt(6).

    >>> import numpy as np
    >>> round(noise_kpa(np.array([1.0, 2.0, 3.5, 4.0, 5.5, 6.0, 7.2])), 2)
    0.61

    Source: a line's second differences vanish; their variance is six times a reading's.
    """
    import numpy as np

    second = np.abs(np.diff(pressure_kpa, 2))
    moving = second[second > 0.0]
    spread = float(np.median(second)) if second.size else 0.0
    if spread == 0.0 and moving.size:  # a coarse gauge that mostly stands still
        spread = 0.5 * float(np.median(moving))
    return max(0.1, MAD_TO_SIGMA * spread / math.sqrt(6.0))


def rise_misfit(samples: list[float]) -> float:
    """Return the least sum of squares between samples and any series that never falls.

    min sum (p - f)^2 over f that never falls, kPa^2.

    >>> rise_misfit([1.0, 2.0, 3.0]), rise_misfit([3.0, 1.0])
    (0.0, 2.0)

    Source: isotonic regression by pooling adjacent violators (Ayer et al. 1955).
    """
    sums: list[float] = []
    counts: list[int] = []
    squares = 0.0
    for x in samples:
        squares += x * x
        total, count = x, 1
        while sums and sums[-1] * count > total * counts[-1]:
            total += sums.pop()
            count += counts.pop()
        sums.append(total)
        counts.append(count)
    return max(0.0, squares - sum(s * s / n for s, n in zip(sums, counts, strict=True)))


def stroke_period(pressure_kpa: "Samples", dt_s: float) -> tuple[int, float]:
    """Return the period of a pump's strokes in samples, and how well they repeat, 0 to 1.

    max over lags of (r(lag) - r(lag / 2)) / 2.

    >>> import numpy as np
    >>> strokes = np.repeat(np.arange(40.0), 10) * 5.0
    >>> stroke_period(strokes, 0.1)[0]
    10

    Source: autocorrelation, at the period against half of it, of what the trend leaves of the rise.
    """
    import numpy as np

    wide = max(3, round(TREND_S / dt_s)) | 1
    risen = pressure_kpa > RISEN_SHARE * pressure_kpa.max()
    rising = pressure_kpa[: int(np.argmax(risen)) + 1]  # pumping, not standing
    if rising.size < 2 * wide:
        return 0, 0.0
    rest = rising[wide // 2 : rising.size - wide // 2] - np.convolve(
        rising, np.full(wide, 1.0 / wide), "valid"
    )
    rest = np.clip(rest, *np.percentile(rest, [4.0, 96.0]))  # a pop repeats nothing
    rest = rest - rest.mean()
    power = float(rest @ rest)
    if power <= 0.0:
        return 0, 0.0

    def alike(lag: int) -> float:
        return float(rest[lag:] @ rest[: rest.size - lag]) / power

    first, last = max(2, round(FASTEST_STROKE_S / dt_s)), round(SLOWEST_STROKE_S / dt_s)
    lags = range(first, min(rest.size // 2, last) + 1)
    best = max(((0.5 * (alike(lag) - alike(lag // 2)), lag) for lag in lags), default=(0.0, 0))
    return best[1], best[0]
