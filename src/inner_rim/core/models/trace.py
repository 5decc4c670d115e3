"""Pressure traces: pops, the peak, and what went above the limit (docs/models.md 2.8).

A pop is a sudden step down in a rising trace: a bead jumps onto its seat, the volume grows, the flow goes
on. It is told from noise, from the spike of a pump's stroke, and from the valve that is taken off.
"""

import math
from typing import TYPE_CHECKING, Any

import msgspec

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy as np

    Samples = np.ndarray[Any, np.dtype[Any]]

AMBIENT_KPA = 101.325
#: Half width of the window in which a step is fitted, s, and its bounds in samples.
FIT_S = 0.6
SHORT_FIT_S = 0.26
LEAST_FIT, MOST_FIT, LEAST_BEFORE = 6, 16, 4
#: How far a fall is looked at to each side, and how long a pump's spike lasts at the most, s.
FALL_S, SPIKE_S, MOMENT_S = 0.5, 0.1, 0.1
#: How much better a rise with a fall in it must explain the samples, in variances of one reading.
EVIDENCE, SPIKE_EXCESS = 19.0, 2.0
#: Faster than a pump by hand, taken over more than a stroke (brisk where no strokes are seen): a fall hides in it.
FAST_KPA_S, BRISK_KPA_S, STROKE_S = 28.0, 23.0, 1.8
#: A pump's strokes: the trend they ride on, their period, s; how much of the rise counts;
#: what repeats a little and what for sure; how many strokes around one are its neighbours.
TREND_S, FASTEST_STROKE_S, SLOWEST_STROKE_S, RISEN_SHARE = 1.6, 0.4, 1.8, 0.97
WEAK, STRONG, STROKES_AROUND, STROKE_SIGNIFICANCE = 0.2, 0.55, 4, 5.0
#: The level just after a fall, s.
AFTER_S = 0.16
#: What comes after a fall is looked at so long, s: a pop stays, air that is let out goes on falling.
STAYS_FROM_S, STAYS_TO_S = 0.25, 0.8
#: Least step as a multiple of its standard error, and as a share of the absolute pressure.
FIT_SIGNIFICANCE, HINT_SIGNIFICANCE = 4.5, 2.0
LEAST_SHARE = 0.012
#: Residuals of the fit up to so many times the noise are called smooth: no strokes in it.
SMOOTH = 2.1
#: The flow goes on through a pop: on either side at least this share of the slope on the other.
GOES_ON = 0.3
#: More than this share of the pressure gone is air let out, not a pop.
MOST_SHARE = 0.25
NEAR_PEAK_SHARE = 0.92
APART_S = 0.3
MAD_TO_SIGMA = 1.4826
#: Windows looked at together: a trace of any length takes the same memory beside itself.
BLOCK = 131_072


class Pop(msgspec.Struct, frozen=True):
    """A bead that came up: when, the pressure just before, and how far it fell."""

    time_s: float
    pressure_kpa: float
    drop_kpa: float


class OverLimit(msgspec.Struct, frozen=True):
    """A reading above the limit."""

    time_s: float
    pressure_kpa: float


class TraceReport(msgspec.Struct, frozen=True):
    """What a trace says.

    Attributes:
        peak_kpa: highest reading.
        pops: beads that came up, in time's order.
        over_limit: readings above the limit; empty where no limit was given.
    """

    peak_kpa: float
    pops: tuple[Pop, ...]
    over_limit: tuple[OverLimit, ...]


def analyse(
    time_s: "Samples | list[float]", pressure_kpa: "Samples | list[float]", limit_kpa: float | None = None
) -> TraceReport:
    """Return peak, pops and readings above the limit of a trace.

    Args:
        time_s: shape (n,), rising.
        pressure_kpa: shape (n,), gauge.
        limit_kpa: readings above it are listed; None lists none.

    Raises:
        ValueError: the arrays differ in length, are not finite, or time does not rise.
    """
    import numpy as np

    t, p = np.asarray(time_s, dtype=float), np.asarray(pressure_kpa, dtype=float)
    if t.shape != p.shape or t.ndim != 1:
        raise ValueError("time_s and pressure_kpa must have the same length")
    if not (np.isfinite(t).all() and np.isfinite(p).all()):
        raise ValueError("a trace must be finite")
    if t.size > 1 and not (np.diff(t) > 0.0).all():
        raise ValueError("time_s must rise")
    over: tuple[OverLimit, ...] = ()
    if limit_kpa is not None:
        over = tuple(OverLimit(float(t[i]), float(p[i])) for i in np.flatnonzero(p > limit_kpa))
    return TraceReport(float(p.max()) if p.size else 0.0, find_pops(t, p), over)


def find_pops(time_s: "Samples", pressure_kpa: "Samples") -> tuple[Pop, ...]:
    """Return the pops of a trace.

    Three signs of a step down are looked for at each boundary between two samples:

    - where the trace rises smoothly and faster than by hand (compressor, charge): a parabola with a step is fitted by least squares to
      the samples around; the step is the pop;
    - among strokes that repeat themselves: every stroke adds about the same; the mean of a whole period
      after a boundary, less that of the period before it, falls short of its neighbours by the step;
    - anywhere: air only ever comes in, so without a pop the pressure never falls. The samples around are
      fitted by a rise (isotonic regression), once whole and once in two parts; where two parts explain them
      far better, and still do without the last tenth of a second before (a pump's spike), it fell.

    A pop must be larger than its noise and than a small share of the absolute pressure, begin at the top of
    what the trace has reached, and stay: air that is let out goes on falling.

    Source: derived; linear least squares; isotonic regression by pooling adjacent violators (Ayer et al.,
    Annals of Mathematical Statistics 26, 1955); noise by the median of second differences.
    """
    import numpy as np

    t, p = time_s, pressure_kpa
    if t.size < 2 * LEAST_FIT + 1:
        return ()
    dt = float(np.median(np.diff(t)))
    sigma = noise_kpa(p)
    least = LEAST_SHARE * (p[:-1] + AMBIENT_KPA)
    period, regular = stroke_period(p, dt)
    fast = FAST_KPA_S if regular > WEAK else BRISK_KPA_S
    by_hand = (_mean_slope(p, dt) <= fast) | (regular > STRONG)
    size, step = _best_fit(p, dt, sigma)
    by_fit = ~by_hand & (size > FIT_SIGNIFICANCE) & (step > least)
    hint, hint_error = _moments(p, dt, sigma)
    hinted = hint > np.maximum(0.5 * least, HINT_SIGNIFICANCE * hint_error)
    calm = _median_of_three(p)
    top = calm[:-1] > NEAR_PEAK_SHARE * np.maximum.accumulate(calm)[:-1] - 3.0 * sigma
    reach = max(1, round(MOMENT_S / dt))
    marks: set[tuple[float, int, float]] = {
        (float(size[i] ** 2), int(i), float(step[i])) for i in np.flatnonzero(by_fit & top)
    }
    for i in {_deepest(hint, int(i), reach) for i in np.flatnonzero(hinted & top)}:
        if (evidence := _evidence(p, i, dt, sigma, bool(by_hand[i]))) > EVIDENCE:
            marks.add((evidence, i, float(hint[i])))
    if regular > WEAK:
        marks |= _short_strokes(p, period, sigma, least, top)
    found: list[Pop] = []
    for _size, i, drop in sorted(marks, reverse=True):
        if any(abs(t[i] - pop.time_s) < APART_S for pop in found):
            continue
        at = _sharpest(p, i, dt)
        drop = max(drop, float(p[at] - p[at + 1]) if p[at] - p[at + 1] < 2.0 * drop else drop)
        if drop > least[at] and _stays(p, at, drop, dt, sigma):
            found.append(Pop(float(t[at]), float(p[at]), drop))
    return tuple(sorted(found, key=lambda pop: pop.time_s))


def noise_kpa(pressure_kpa: "Samples") -> float:
    """Return the standard deviation of one reading, from the median of absolute second differences.

    Source: a line's second differences vanish; their variance is six times a reading's.
    """
    import numpy as np

    second = np.abs(np.diff(pressure_kpa, 2))
    moving = second[second > 0.0]
    spread = float(np.median(second)) if second.size else 0.0
    if spread == 0.0 and moving.size:  # a coarse gauge that mostly stands still
        spread = 0.5 * float(np.median(moving))
    return max(0.1, MAD_TO_SIGMA * spread / math.sqrt(6.0))


def _median_of_three(p: "Samples") -> "Samples":
    """One wild reading is no peak."""
    import numpy as np

    middle = np.median(np.stack([p[:-2], p[1:-1], p[2:]]), axis=0)
    return np.concatenate([p[:1], middle, p[-1:]])


def stroke_period(pressure_kpa: "Samples", dt_s: float) -> tuple[int, float]:
    """Return the period of a pump's strokes in samples, and how well they repeat, 0 to 1.

    Source: autocorrelation, at the period against half of it, of what the trend leaves of the rise.
    """
    import numpy as np

    wide = max(3, round(TREND_S / dt_s)) | 1
    calm = _median_of_three(pressure_kpa)
    rising = pressure_kpa[: int(np.argmax(calm > RISEN_SHARE * calm.max())) + 1]  # pumping, not standing
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


def _short_strokes(
    p: "Samples", period: int, sigma: float, least: "Samples", top: "Samples"
) -> set[tuple[float, int, float]]:
    """Boundaries (weight, sample, step) at which a stroke adds less than its neighbours, and the next as much again."""
    import numpy as np

    if p.size < 6 * period:
        return set()
    total = np.concatenate([[0.0], np.cumsum(p)])
    edge = np.arange(period, p.size - period + 1)
    gain = (total[edge + period] - 2.0 * total[edge] + total[edge - period]) / period
    around = STROKES_AROUND * period
    padded = np.pad(gain, around, mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * around + 1)
    usual = np.concatenate([np.median(block, axis=1) for block in _blocks(windows)])
    short = usual - gain
    error = sigma * math.sqrt(2.0 / period)
    usually = MAD_TO_SIGMA * float(np.median(np.abs(short)))
    scale = max(error, usually)
    found: set[tuple[float, int, float]] = set()
    reach = period // 2
    for k in np.flatnonzero((short > STROKE_SIGNIFICANCE * scale) & (short > least[edge - 1])):
        low, high = max(0, k - reach), min(short.size, k + reach + 1)
        if short[k] < short[low:high].max() or not top[edge[k] - 1]:
            continue
        near = [short[i] for i in (k - round(1.5 * period), k + round(1.5 * period)) if 0 <= i < short.size]
        if len(near) == 2 and max(near) < 0.5 * short[k]:  # not the end of pumping
            found.add((float((short[k] / scale) ** 2), int(edge[k] - 1), float(short[k])))
    return found


def _best_fit(p: "Samples", dt: float, sigma: float) -> tuple["Samples", "Samples"]:
    """Significance and height of the fitted step at each boundary, of a long and a short window the better."""
    import numpy as np

    size, step = np.zeros(p.size - 1), np.zeros(p.size - 1)
    halves = {int(min(max(round(span / dt), LEAST_FIT), MOST_FIT)) for span in (FIT_S, SHORT_FIT_S)}
    for half in halves:
        steps, error, smooth = _fitted_steps(p, half, sigma)
        better = smooth & (steps / error > size)
        size, step = np.where(better, steps / error, size), np.where(better, steps, step)
    return size, step


def _fitted_steps(p: "Samples", half: int, sigma: float) -> tuple["Samples", float, "Samples"]:
    """Steps down of a parabola with a step at each boundary, their standard error, and where the fit is smooth."""
    import numpy as np

    u = (np.arange(2 * half) - half + 0.5) / half
    basis, _ = np.linalg.qr(np.stack([np.ones_like(u), u, u * u, (u > 0.0).astype(float)], axis=1))
    padded = np.pad(p, half, mode="reflect", reflect_type="odd")  # the rise goes on over the edge
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * half)[1 : p.size]
    scale = float(((u > 0.0) * basis[:, 3]).sum())  # the step's height for one unit of its own direction
    ramp = np.arange(half) - 0.5 * (half - 1)
    steps, sound = [np.empty(0)], [np.empty(0, dtype=bool)]
    for block in _blocks(windows):
        centered = block - block.mean(axis=1, keepdims=True)
        parts = centered @ basis
        rest = np.maximum(0.0, (centered * centered).sum(axis=1) - (parts * parts).sum(axis=1))
        smooth = rest / (2 * half - 4) < (SMOOTH * sigma) ** 2
        before, after = block[:, :half] @ ramp, block[:, half:] @ ramp
        # no rise before: the source was opened at the boundary; none after: it was shut there
        goes_on = (after > GOES_ON * before) & (before > GOES_ON * after)
        steps.append(-parts[:, 3] / scale)
        sound.append(smooth & goes_on)
    edge = np.arange(1, p.size)
    whole = (edge >= min(half, LEAST_BEFORE)) & (edge <= p.size - half)
    return np.concatenate(steps), sigma / abs(scale), np.concatenate(sound) & whole


def _blocks(windows: "Samples") -> "Iterator[Samples]":
    """Give windows a block at a time."""
    for first in range(0, len(windows), BLOCK):
        yield windows[first : first + BLOCK]


def _mean_slope(p: "Samples", dt: float) -> "Samples":
    """Slope in kPa/s at each boundary, taken over more than one stroke of a pump where there is so much."""
    import numpy as np

    half = max(2, round(0.5 * STROKE_S / dt))
    edge = np.arange(1, p.size)
    low, high = np.maximum(edge - half, 0), np.minimum(edge + half, p.size - 1)
    slopes: Samples = (p[high] - p[low]) / ((high - low) * dt)
    return slopes


def _moments(p: "Samples", dt: float, sigma: float) -> tuple["Samples", float]:
    """How far the moment after each boundary lies below the moment before it, and the standard error."""
    import numpy as np

    n = max(1, round(MOMENT_S / dt))
    total = np.concatenate([[0.0], np.cumsum(p)])
    edge = np.arange(1, p.size)
    low, far = np.maximum(edge - n, 0), np.minimum(edge + n, p.size)
    before, after = (total[edge] - total[low]) / (edge - low), (total[far] - total[edge]) / (far - edge)
    return before - after, sigma * math.sqrt(2.0 / n)


def _deepest(hint: "Samples", i: int, reach: int) -> int:
    """The boundary near `i` at which the fall is deepest."""
    low = max(0, i - reach)
    return low + int(hint[low : i + reach + 1].argmax())


def _evidence(p: "Samples", i: int, dt: float, sigma: float, by_hand: bool) -> float:
    """How much better two rises with a fall after sample `i` explain the samples than one, in variances."""
    half = max(4, round(FALL_S / dt))
    gap = max(1, math.ceil(SPIKE_S / dt - 0.3)) if by_hand else 0
    left = [float(x) for x in p[max(0, i + 1 - half) : i + 1]]
    right = [float(x) for x in p[i + 1 : i + 1 + half]]
    if len(left) <= gap + 1 or len(right) < 2:
        return 0.0
    apart = rise_misfit(left) + rise_misfit(right)
    whole = rise_misfit(left + right) - apart
    if gap == 0:
        return whole / (sigma * sigma)
    bare = rise_misfit(left[:-gap] + right) - rise_misfit(left[:-gap]) - rise_misfit(right)
    return min(whole, SPIKE_EXCESS * bare) / (sigma * sigma)


def rise_misfit(samples: list[float]) -> float:
    """Return the least sum of squares between samples and any series that never falls.

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


def _sharpest(p: "Samples", i: int, dt: float) -> int:
    """The sample just before the steepest fall near a boundary."""
    import numpy as np

    near = max(1, round(SPIKE_S / dt))
    low, high = max(0, i - near), min(p.size - 2, i + near)
    return low + int(np.argmax(p[low : high + 1] - p[low + 1 : high + 2]))


def _stays(p: "Samples", at: int, drop: float, dt: float, sigma: float) -> bool:
    """Whether the pressure stays after a fall, as it does after a pop, and most of it is still there."""
    import numpy as np

    just = p[at + 1 : at + 1 + max(2, round(AFTER_S / dt))]
    later = p[at + 1 + round(STAYS_FROM_S / dt) : at + 1 + round(STAYS_TO_S / dt)]
    if just.size < 2 or p[at] - float(np.median(just)) > MOST_SHARE * p[at] + 3.0 * sigma:
        return False
    return later.size < 2 or float(np.median(later)) > float(np.median(just)) - 2.0 * sigma - 0.3 * drop
