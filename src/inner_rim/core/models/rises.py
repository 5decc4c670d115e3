"""Rises of a pressure trace: their noise, wild readings, how well they never fall, where air flows,
a pump's strokes (docs/models.md 2.8).
"""

import math
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    Samples = npt.NDArray[np.float64]
    Mask = npt.NDArray[np.bool_]
    Places = npt.NDArray[np.int_]

#: A reading that leaves both neighbors to the same side by this many times the noise, about as far
#: from one as from the other, is wild.
WILD_SIGMAS, WILD_RATIO = 8.0, 0.6
#: The trend that strokes ride on, the fastest and slowest stroke, s; how much of the rise counts.
TREND_S, FASTEST_STROKE_S, SLOWEST_STROKE_S, RISEN_SHARE = 1.6, 0.4, 1.8, 0.97
#: Air flows in where the pressure rises faster, kPa/s; a pause ends a rise, s, and so does air that
#: is let out.
FLOWS_KPA_S, PAUSE_S, LET_OUT_SHARE = 3.0, 1.2, 0.25
#: Share of a rise at either end where the flow may begin and stop.
END_SHARE = 0.015
MAD_TO_SIGMA = 1.4826
#: No gauge is more exact, kPa; and differences nearer to each other are the same.
MIN_NOISE_KPA, TOO_CLOSE_KPA = 0.1, 1e-5


def without_wild(pressure_kpa: "Samples", sigma_kpa: float) -> "Samples":
    """Return a trace in which single wild readings are the mean of their neighbors.

    wild: min(|left|, |right|) > 8 sigma and > 0.6 max, and off the line of the two readings before
    and of the two after by 8 sigma: the last reading before a pop is on the line of those before
    it.

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
    off_line = np.abs(p[2:] - 2.0 * p[1:-1] + p[:-2]) > WILD_SIGMAS * sigma_kpa
    wild[1:] &= off_line[:-1]
    wild[:-1] &= off_line[1:]
    calm = p.copy()
    calm[1:-1][wild] = 0.5 * (p[:-2] + p[2:])[wild]
    return calm


def flowing(pressure_kpa: "Samples", dt_s: float, sigma_kpa: float) -> list[slice]:
    """Return where air flows in, rise by rise; the bend at either end of a rise is left out.

    A rise is where the mean of half a second is above the mean of the half second before it by 3
    kPa/s and by three times what the noise does; less than 1.2 s without that is part of it, unless
    a quarter of the pressure is gone.

    Args:
        pressure_kpa: shape (n,), gauge.
        dt_s: between two samples.
        sigma_kpa: standard deviation of one reading.

    >>> import numpy as np
    >>> t = np.arange(0.0, 10.0, 0.1)
    >>> flowing(np.clip(40.0 * (t - 2.0), 0.0, 200.0), 0.1, 0.2)
    [slice(20, 70, None)]

    Source: derived.
    """
    import numpy as np

    p, half = pressure_kpa, max(2, round(0.5 / dt_s))
    total, edge = np.concatenate([[0.0], np.cumsum(p)]), np.arange(1, p.size)
    low, high = np.maximum(edge - half, 0), np.minimum(edge + half, p.size)
    after, before = (
        (total[high] - total[edge]) / (high - edge),
        (total[edge] - total[low]) / (edge - low),
    )
    slope = (after - before) / (0.5 * (high - low) * dt_s)
    noise = sigma_kpa * math.sqrt(2.0 / half) / (half * dt_s)
    up = np.flatnonzero(slope > max(FLOWS_KPA_S, 3.0 * noise))
    apart = (np.diff(up) > round(PAUSE_S / dt_s)) | (p[up[1:]] < (1.0 - LET_OUT_SHARE) * p[up[:-1]])
    rises = [
        _inner(p, int(run[0]), int(run[-1]) + 2, sigma_kpa)
        for run in np.split(up, 1 + np.flatnonzero(apart))
        if run.size
    ]
    return [rise for rise in rises if rise.stop - rise.start > 2]


def _inner(p: "Samples", start: int, stop: int, sigma: float) -> slice:
    """A rise without the flat parts before and after it."""
    import numpy as np

    rise = p[start:stop]
    low, high = float(rise.min()), float(np.sort(rise)[-2:].mean())
    # Not the first reading that is so high: a bead may seat at the very end.
    flows = np.flatnonzero(rise < high - END_SHARE * (high - low) - 4.0 * sigma)
    last = int(flows[-1]) if flows.size else 0
    still = np.flatnonzero(rise[: last + 1] < low + END_SHARE * (high - low) + 3.0 * sigma)
    return slice(start + (int(still[-1]) if still.size else 0), start + last + 1)


def noise_kpa(pressure_kpa: "Samples") -> float:
    """Return the standard deviation of one reading, from the median of absolute second differences;
    0.1 at least.

    sigma = 1.4826 * median |p[i-1] - 2 p[i] + p[i+1]| / sqrt(6). A gauge shows steps, so the
    differences are a few values only: each is spread evenly over its step, and the median is found
    in between.

    >>> import numpy as np
    >>> round(noise_kpa(np.array([1.0, 2.0, 3.5, 4.0, 5.5, 6.0, 7.2])), 2)
    0.51

    Source: a line's second differences vanish; their variance is six times a reading's. Grouped
    median: common practice in statistics.
    """
    import numpy as np

    values, counts = np.unique(np.round(np.abs(np.diff(pressure_kpa, 2)), 6), return_counts=True)
    if not values.size:
        return MIN_NOISE_KPA
    apart = np.diff(values, prepend=0.0)
    step = float(apart[apart > TOO_CLOSE_KPA].min(initial=math.inf))
    ends = values + 0.5 * step if step < math.inf else values
    share = np.cumsum(counts) / counts.sum()
    median = float(np.interp(0.5, np.concatenate([[0.0], share]), np.concatenate([[0.0], ends])))
    return max(MIN_NOISE_KPA, MAD_TO_SIGMA * median / math.sqrt(6.0))


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


#: A gauge on the pump's side shows the flow too: this many falls, this large, kPa, and this many
#: times the noise, while the pressure rises on; a bump shorter than the first is the jolt of a
#: stroke's beginning, and no stroke lasts longer than the second, s.
MIN_FALLS, FALL_KPA, FALL_SIGMAS, JOLT_S, LONGEST_STROKE_S = 6, 5.0, 5.0, 0.25, 1.0


def falls(pressure_kpa: "Samples", sigma_kpa: float) -> int:
    """Return how often a trace falls back from a top by 5 kPa and rises above that top again.

    >>> import numpy as np
    >>> falls(np.array([0.0, 20.0, 5.0, 40.0, 25.0, 60.0, 45.0, 45.0]), 0.2)
    2

    Source: derived: a tire's own pressure falls only where a bead seats.
    """
    count, top, low = 0, float(pressure_kpa[0]), float(pressure_kpa[0])
    for value in pressure_kpa.tolist():
        if value > top:
            if top - low > max(FALL_SIGMAS * sigma_kpa, FALL_KPA):
                count += 1
            top = low = value
        else:
            low = min(low, value)
    return count


def between_strokes(
    pressure_kpa: "Samples", dt_s: float, longest_s: float = LONGEST_STROKE_S
) -> "Samples":
    """Return a trace without bumps shorter than a stroke: what a gauge on the pump's side shows
    between strokes.

    Opening: the greatest of the least readings of every window that a moment lies in, 1 s long by
    default; a rise stays as it is.

    >>> import numpy as np
    >>> between_strokes(np.array([0.0, 9.0, 1.0, 1.0, 9.0, 2.0, 2.0, 2.0]), 0.5).tolist()
    [0.0, 1.0, 1.0, 1.0, 2.0, 2.0, 2.0, 2.0]

    Source: morphological opening (Serra, Image Analysis and Mathematical Morphology, 1982).
    """
    import numpy as np

    half = max(1, round(0.5 * longest_s / dt_s))
    windows = np.lib.stride_tricks.sliding_window_view
    eroded = windows(np.pad(pressure_kpa, half, mode="edge"), 2 * half + 1).min(axis=1)
    opened: Samples = windows(np.pad(eroded, half, mode="edge"), 2 * half + 1).max(axis=1)
    return opened


def shows_strokes(pressure_kpa: "Samples", dt_s: float, sigma_kpa: float) -> bool:
    """Whether a trace rises and falls with every stroke: the gauge stands on the pump's side of the
    valve (no unit).

    falls >= 6, jolts of less than 0.25 s left out.

    >>> import numpy as np
    >>> t = np.arange(0.0, 20.0, 0.05)
    >>> strokes = 20.0 * (np.sin(6.0 * t) > 0.0)
    >>> shows_strokes(10.0 * t, 0.05, 0.2), shows_strokes(10.0 * t + strokes, 0.05, 0.2)
    (False, True)

    Source: derived: see `falls`.
    """
    return falls(between_strokes(pressure_kpa, dt_s, JOLT_S), sigma_kpa) >= MIN_FALLS
