"""Pops in a pressure trace (docs/models.md 2.8).

A pop is a sudden step down in a rising trace: a bead jumps onto its seat, the volume grows, the
flow goes on. It is distinguished from noise, from the spike of a pump's stroke, and from a pump
head taken off.
"""

import math
from typing import TYPE_CHECKING

import msgspec

from inner_rim.core.models.any_rise import AnyRise
from inner_rim.core.models.rises import (
    FLOWS_KPA_S,
    LET_OUT_SHARE,
    MAD_TO_SIGMA,
    between_strokes,
    flowing,
    noise_kpa,
    rise_misfit,
    shows_strokes,
    stroke_period,
    without_wild,
)
from inner_rim.core.models.smooth_rise import FAST_KPA_S, LAST_RISES, LONGEST_S, smooth_rises

if TYPE_CHECKING:
    from inner_rim.core.models.rises import Mask, Places, Samples

AMBIENT_KPA = 101.325
#: How much better two rises with a drop between must explain strokes than one, in variances of one
#: reading; and where so little of the drop shows that it may be less than a pop.
EVIDENCE, EVIDENCE_PART = 14.0, 28.0
#: They hold for a pump of this speed, kPa/s. Air that flows in fast hides a drop, so less must
#: show; in a slow rise nothing hides it, and more strokes are tried.
USUAL_KPA_S = 9.0
#: Least drop as a share of the absolute pressure: a seat gives a tire a few percent of volume.
MIN_SHARE = 0.019
#: And in a fast rise, where the flow hides part of it.
FAST_LEAST_SHARE = 0.014
#: Share of the least drop that must show: air goes on coming in while a gauge catches up.
SHOWN_SHARE = 0.6
#: Half width of the window in which strokes are judged; and the moment in which a drop shows, a
#: pump's spike is over, and a gauge has caught up, s.
HALF_S, MOMENT_S = 0.6, 0.1
#: A bead seats at the top of what the trace has reached.
NEAR_PEAK_SHARE = 0.92
#: Samples from which a rise is judged as a whole; certainty, in variances, that a step of its curve
#: needs without the curve; and no bead seats below the first pressure; pumping that goes on adds
#: the second, kPa.
MIN_RISE, CONFIRMED, MIN_KPA, GOES_ON_KPA = 8, 6.0, 5.0, 10.0
#: A bead that seats as the source is shut leaves no rise behind it: the last samples, and so long
#: after them, s, are judged as strokes are.
EDGE, AT_THE_END_S = 4, 0.5
#: Two pops among strokes lie further apart, s.
APART_S = 0.4
#: And so far in a fast rise, s.
SOON_S = 0.15
#: No bead gives a tire more than this share of the absolute pressure to fill.
MAX_SHARE = 0.14
#: A jump up just before, above what was flowing, of this share of the drop may be a pump's spike:
#: then the drop must show without it too.
JUMP_SHARE, SPIKE_EXCESS = 0.5, 2.0
#: How well strokes must repeat; how many around one are its neighbors, how far one must fall short.
REGULAR, STROKES_AROUND, STROKE_SIGMAS = 0.5, 4, 9.0
#: What comes after a drop is looked at so long, s: a pop stays, air that is let out goes on
#: falling.
AFTER_S, STAYS_FROM_S, STAYS_TO_S = 0.16, 0.25, 0.8
MIN_SAMPLES = 9
#: Windows looked at together: a trace of any length takes the same memory beside itself.
BLOCK = 131_072


class Pop(msgspec.Struct, frozen=True):
    """A bead that seated: when, the pressure just before, and how far it fell."""

    time_s: float
    pressure_kpa: float
    drop_kpa: float


class _Boundary(msgspec.Struct, frozen=True, order=True):
    """A boundary at which the pressure fell: how sure, after which sample, and how far."""

    evidence: float
    sample: int
    drop_kpa: float


def find_pops(time_s: "Samples", pressure_kpa: "Samples") -> tuple[Pop, ...]:
    """Return the pops of a trace.

    Air only flows in, so without a pop the pressure never falls. Wild readings are taken out first
    (Hampel). Then one rise is compared with two and a drop between, by the ratio of their
    likelihoods:

    - where one smooth curve explains a whole rise (compressor, bottle), a pop is a step down in it
    (`smooth_rises`);
    - in a fast rise, or one without strokes, a pop is a step down in a flow that changes gradually
    (`AnyRise`);
    - among strokes of any rhythm, a rise is any series that never falls (isotonic regression);
    - where strokes repeat themselves, a stroke that adds less than its neighbors by a drop is one
    as well.

    A pop begins at the top of what the trace has reached, is larger than a small share of the
    absolute pressure, and stays: air that is let out goes on falling.

    Args:
        time_s: shape (n,), rising.
        pressure_kpa: shape (n,), gauge.

    >>> import numpy as np
    >>> t = np.arange(0.0, 10.0, 0.05)
    >>> p = 20.0 * t - np.where(t > 6.0, 12.0, 0.0)
    >>> [(round(pop.time_s, 2), round(pop.pressure_kpa)) for pop in find_pops(t, p)]
    [(6.0, 120)]

    Source: derived; isotonic regression by pooling adjacent violators (Ayer et al., Annals of
    Mathematical Statistics 26, 1955); wild readings after Hampel (Journal of the American
    Statistical Association 69, 1974).
    """
    import numpy as np

    if time_s.size < MIN_SAMPLES:
        return ()
    t, dt = time_s, float(np.median(np.diff(time_s)))
    sigma = noise_kpa(pressure_kpa)
    p = without_wild(pressure_kpa, sigma)
    if shows_strokes(p, dt, sigma):
        p = between_strokes(p, dt)
    least = MIN_SHARE * (p[:-1] + AMBIENT_KPA)
    top = p[:-1] > NEAR_PEAK_SHARE * np.maximum.accumulate(p)[:-1] - 3.0 * sigma
    result, strokes = _in_rises(t, p, dt, sigma, top)
    asked = _asked(p, dt, sigma)
    for marks in (
        _drops(p, dt, sigma, least, strokes, asked),
        _short_strokes(p, dt, sigma, least, strokes),
    ):
        for mark in sorted(marks, reverse=True):
            at = _sharpest(p, mark.sample, dt)
            apart = all(abs(t[at] - pop.time_s) >= APART_S for pop in result)
            if apart and _stays(p, at, mark.drop_kpa, dt, sigma):
                result.append(Pop(float(t[at]), float(p[at]), mark.drop_kpa))
    return tuple(sorted(result, key=lambda pop: pop.time_s))


def _in_rises(
    t: "Samples", p: "Samples", dt: float, sigma: float, top: "Mask"
) -> tuple[list[Pop], "Mask"]:
    """The pops of the rises that are judged as a whole, and which boundaries are left to the
    strokes.
    """
    smooth = {rise.within.start: rise.steps for rise in smooth_rises(p, dt, sigma)}
    flows = flowing(p, dt, sigma)[-LAST_RISES:]
    result: list[Pop] = []
    strokes = top.copy()
    for within, end in zip(flows, [*(flow.start for flow in flows), p.size][1:], strict=True):
        fast = speed_kpa_s(p, within, dt) > FAST_KPA_S
        if within.stop - within.start < MIN_RISE or (within.stop - within.start) * dt > LONGEST_S:
            continue
        steps = [(step.sample, step.drop_kpa) for step in smooth.get(within.start, ())]
        if fast or within.start not in smooth:
            process = AnyRise(p[within], dt, sigma)
            if not fast and not process.is_gradual:
                continue
            # A regulator hunts in waves: the process must show a curve's step too.
            steps = [
                step for step in steps if process.evidence_near(step[0] - within.start) > CONFIRMED
            ]
            steps += [(within.start + step.sample, step.drop_kpa) for step in process.steps]
        share = FAST_LEAST_SHARE if fast or within.start not in smooth else MIN_SHARE
        for k, drop in steps:
            at = _sharpest(p, min(k, p.size - 2), dt)
            new = all(abs(t[at] - pop.time_s) > SOON_S for pop in result)
            large = drop > share * (p[at] + AMBIENT_KPA) and p[at] > MIN_KPA + 3.0 * sigma
            if new and top[at] and large and _stays(p, at, drop, dt, sigma):
                result.append(Pop(float(t[at]), float(p[at]), drop))
        strokes[max(0, within.start - 1) : max(0, within.stop - EDGE)] = False
        strokes[within.stop + round(AT_THE_END_S / dt) : _filled_until(p, within, end, sigma)] = (
            False
        )
    return result, strokes


def _filled_until(p: "Samples", rise: slice, end: int, sigma: float) -> int:
    """The sample at which the pressure goes on rising after a rise, `end` at the latest: no bead
    seats before.
    """
    import numpy as np

    both = np.minimum(p[rise.stop : end - 1], p[rise.stop + 1 : end])  # not one wild reading
    above = np.flatnonzero(both > p[rise].max() + GOES_ON_KPA + 3.0 * sigma)
    return rise.stop + int(above[0]) if above.size else end


def on_pump_side(time_s: "Samples", pressure_kpa: "Samples") -> bool:
    """Whether a gauge stands on the pump's side of the valve: it shows every stroke's flow too (no
    unit).

    See `shows_strokes`; readings wild by themselves do not count.

    >>> import numpy as np
    >>> t = np.arange(0.0, 20.0, 0.05)
    >>> on_pump_side(t, 10.0 * t), on_pump_side(t, 10.0 * t + 30.0 * np.maximum(0.0, np.sin(6.0 * t)))
    (False, True)

    Source: see `shows_strokes`.
    """
    import numpy as np

    if time_s.size < MIN_SAMPLES:
        return False
    sigma = noise_kpa(pressure_kpa)
    return shows_strokes(
        without_wild(pressure_kpa, sigma), float(np.median(np.diff(time_s))), sigma
    )


def speed_kpa_s(pressure_kpa: "Samples", rise: slice, dt_s: float) -> float:
    """Return how fast a rise is, kPa/s: (p at its end - p at its start) / time.

    >>> import numpy as np
    >>> speed_kpa_s(np.arange(11.0) * 5.0, slice(0, 11), 0.1)
    50.0

    Source: definition.
    """
    first, last = int(rise.start), int(rise.stop) - 1
    return float(pressure_kpa[last] - pressure_kpa[first]) / ((last - first) * dt_s)


def _asked(p: "Samples", dt: float, sigma: float) -> "Samples":
    """How many times the evidence of a usual pump is asked for: by the speed of the rise a sample
    lies in or follows.
    """
    import numpy as np

    asked = np.ones(p.size)
    rises = flowing(p, dt, sigma)
    ends = [*(rise.start for rise in rises), p.size][1:]
    for rise, end in zip(rises, ends, strict=True):
        speed = speed_kpa_s(p, rise, dt)
        if speed < FAST_KPA_S:  # a pump
            asked[rise.start : end] = math.sqrt(USUAL_KPA_S / max(FLOWS_KPA_S, speed))
    return asked


def _drops(
    p: "Samples", dt: float, sigma: float, least: "Samples", top: "Mask", asked: "Samples"
) -> list[_Boundary]:
    """Boundaries at which two rises with a drop between explain the samples far better than one: by
    this many times the evidence of a usual pump as is asked for.
    """
    import numpy as np

    moment = max(1, round(MOMENT_S / dt))
    hint = _hints(p, moment)
    clear = 2.0 * sigma * math.sqrt(2.0 / moment)
    result: dict[int, _Boundary] = {}
    for i in map(int, np.flatnonzero((hint > np.maximum(0.4 * least, clear)) & top)):
        low = max(0, i - moment)
        k = low + int(hint[low : i + moment + 1].argmax())
        if k in result or k + 1 < 3 * moment or hint[k] <= SHOWN_SHARE * least[k]:
            continue
        late = range(0, 3 * moment, moment)  # a gauge that lags shows the drop later
        best = max(_evidence(p, k, shift, float(hint[k]), dt) for shift in late)
        result[k] = _Boundary(best / (sigma * sigma), k, float(hint[k]))
    return [
        mark
        for mark in result.values()
        if mark.evidence
        > asked[mark.sample] * (EVIDENCE if mark.drop_kpa > least[mark.sample] else EVIDENCE_PART)
    ]


def _hints(p: "Samples", moment: int) -> "Samples":
    """How far the lowest of three moments after each boundary lies below the moment before it."""
    import numpy as np

    total = np.concatenate([[0.0], np.cumsum(p)])
    edge = np.arange(1, p.size)

    def mean(low: "Places", high: "Places") -> "Samples":
        spread: Samples = (total[high] - total[low]) / (high - low)
        return spread

    before = mean(np.maximum(edge - moment, 0), edge)
    hint = np.full(edge.size, -np.inf)
    for late in range(3):
        first = np.minimum(edge + late * moment, p.size - 1)
        hint = np.maximum(hint, before - mean(first, np.minimum(first + moment, p.size)))
    return hint


def _evidence(p: "Samples", k: int, shift: int, drop_kpa: float, dt: float) -> float:
    """How much less two rises leave of the samples around `k` than one: a difference of sums of
    squares.

    Where the pressure jumped up just before, it may be a pump's spike: then half of it must be
    there without the last moment before `k`.
    """
    import numpy as np

    half, moment = max(4, round(HALF_S / dt)), max(1, round(MOMENT_S / dt))
    left, right = p[max(0, k + 1 - half) : k + 1], p[k + 1 + shift : k + 1 + shift + half]
    gone = np.flatnonzero(right < (1.0 - LET_OUT_SHARE) * p[k])
    right = right[: gone[0]] if gone.size else right
    if right.size < 2 or left.size < moment + 2:
        return 0.0
    apart = rise_misfit(right.tolist())
    whole = rise_misfit([*left.tolist(), *right.tolist()]) - rise_misfit(left.tolist()) - apart
    flow = max(0.0, float(p[k - moment] - p[max(0, k - 3 * moment)]) / (2 * moment))
    jump = float(np.diff(p[max(0, k - moment - 1) : k + 1]).max()) - flow
    if jump <= JUMP_SHARE * drop_kpa:
        return whole
    bare = left[:-moment].tolist()
    return min(
        whole, SPIKE_EXCESS * (rise_misfit([*bare, *right.tolist()]) - rise_misfit(bare) - apart)
    )


def _short_strokes(
    p: "Samples", dt: float, sigma: float, least: "Samples", top: "Mask"
) -> list[_Boundary]:
    """Boundaries at which a stroke adds less than its neighbors, and the next as much again, where
    strokes repeat.
    """
    import numpy as np

    period, regular = stroke_period(p, dt)
    if regular <= REGULAR or p.size < 6 * period:
        return []
    total = np.concatenate([[0.0], np.cumsum(p)])
    edge = np.arange(period, p.size - period + 1)
    gain = (total[edge + period] - 2.0 * total[edge] + total[edge - period]) / period
    around = STROKES_AROUND * period
    padded = np.pad(gain, around, mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * around + 1)
    usual = np.concatenate(
        [
            np.median(windows[first : first + BLOCK], axis=1)
            for first in range(0, len(windows), BLOCK)
        ]
    )
    short = usual - gain
    error = sigma * math.sqrt(2.0 / period)
    usually = MAD_TO_SIGMA * float(np.median(np.abs(short)))
    scale = max(error, usually)
    result: list[_Boundary] = []
    reach = period // 2
    for k in np.flatnonzero((short > STROKE_SIGMAS * scale) & (short > least[edge - 1])):
        low, high = max(0, k - reach), min(short.size, k + reach + 1)
        if short[k] < short[low:high].max() or not top[edge[k] - 1]:
            continue
        near = [
            short[i]
            for i in (k - round(1.5 * period), k + round(1.5 * period))
            if 0 <= i < short.size
        ]
        if len(near) == 2 and max(near) < 0.5 * short[k]:  # not the end of pumping
            result.append(
                _Boundary(float((short[k] / scale) ** 2), int(edge[k] - 1), float(short[k]))
            )
    return result


def _sharpest(p: "Samples", i: int, dt: float) -> int:
    """The sample just before the steepest fall near a boundary."""
    import numpy as np

    near = max(1, round(MOMENT_S / dt))
    low, high = max(0, i - near), min(p.size - 2, i + near)
    return low + int(np.argmax(p[low : high + 1] - p[low + 1 : high + 2]))


def _stays(p: "Samples", at: int, drop: float, dt: float, sigma: float) -> bool:
    """Whether the pressure stays after a fall, as it does after a pop, and most of it is still
    there.
    """
    import numpy as np

    after = at + 1 + round(MOMENT_S / dt)
    just = p[after : after + max(2, round(AFTER_S / dt))]
    later = p[after + round(STAYS_FROM_S / dt) : after + round(STAYS_TO_S / dt)]
    most = MAX_SHARE * (p[at] + AMBIENT_KPA) + 3.0 * sigma
    if just.size < 2 or max(drop, p[at] - float(np.median(just))) > most:
        return False
    return (
        later.size < 2
        or float(np.median(later)) > float(np.median(just)) - 2.0 * sigma - 0.3 * drop
    )


class OverLimit(msgspec.Struct, frozen=True):
    """A reading above the limit."""

    time_s: float
    pressure_kpa: float


class TraceReport(msgspec.Struct, frozen=True):
    """What a trace says.

    Attributes:
        peak_kpa: highest reading.
        pops: beads that seated, in order of time.
        over_limit: readings above the limit; empty where no limit was given.
        pump_side: the gauge stands on the pump's side of the valve; pops are looked for between
            strokes.
    """

    peak_kpa: float
    pops: tuple[Pop, ...]
    over_limit: tuple[OverLimit, ...]
    pump_side: bool = False


def analyse(
    time_s: "Samples | list[float]",
    pressure_kpa: "Samples | list[float]",
    limit_kpa: float | None = None,
) -> TraceReport:
    """Return peak, pops and readings above the limit of a trace.

    over: p > limit.

    Args:
        time_s: shape (n,), rising.
        pressure_kpa: shape (n,), gauge.
        limit_kpa: readings above it are listed; None lists none.

    >>> analyse([0.0, 1.0, 2.0], [100.0, 250.0, 180.0], limit_kpa=200.0).over_limit
    (OverLimit(time_s=1.0, pressure_kpa=250.0),)

    Raises:
        ValueError: the arrays differ in length, are not finite, or time does not rise.

    Source: see `find_pops`.
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
    return TraceReport(float(p.max()) if p.size else 0.0, find_pops(t, p), over, on_pump_side(t, p))
