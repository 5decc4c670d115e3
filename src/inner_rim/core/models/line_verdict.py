"""What a leak test's line says: the verdict, the trend, and when the next reading decides
(docs/models.md 2.9).

The line is that of ln p at 20 °C over time: its slope is the loss.
"""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from inner_rim.core.models.air import KELVIN_AT_ZERO_C, SEA_LEVEL_KPA
from inner_rim.words import N_

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
MIN_APART = 1e-6


def fitted_line(
    times: Sequence[float], values: Sequence[float], errors: Sequence[float]
) -> FittedLine:
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
    if max(times) - min(times) < MIN_APART:
        raise OneMoment("a line needs two different times")
    slope = (
        sum(w * (t - middle) * (y - mean) for w, t, y in zip(weights, times, values, strict=True))
        / spread
    )
    return FittedLine(
        mean - slope * middle, slope, 1.0 / math.sqrt(spread), middle, 1.0 / math.sqrt(total)
    )


REFERENCE_K = 293.15
HOURS_PER_DAY = 24.0
#: Beyond it a loss is a burst, and its figures mean nothing.
MAX_EXPONENT = 60.0


def normalised_kpa(
    pressure_kpa: float, temperature_c: float, ambient_kpa: float = SEA_LEVEL_KPA
) -> float:
    """Return a gauge pressure as it would be at 20 °C: p20 = (p + p_amb) * 293.15 / (T + 273.15) -
    p_amb.

    >>> round(normalised_kpa(200.0, 5.0), 2)
    216.25

    Source: ideal gas law at constant volume.
    """
    return (pressure_kpa + ambient_kpa) * REFERENCE_K / (
        temperature_c + KELVIN_AT_ZERO_C
    ) - ambient_kpa


def expected_kpa(line: FittedLine, hours: float) -> tuple[float, float, float]:
    """Return (low, middle, high) of the pressure at 20 °C at a time, low and high its 90 % band.

    p = exp(start + slope * t ± 1.645 * sqrt(error^2 + (t - middle)^2 * slope_error^2)), kPa.

    >>> from inner_rim.core.models.line_verdict import fitted_line
    >>> line = fitted_line([0.0, 12.0], [5.3, 5.25], [0.004, 0.004])
    >>> [round(kpa, 1) for kpa in expected_kpa(line, 24.0)]
    [178.6, 181.3, 184.0]

    Source: standard error of a fitted line; derived.
    """
    middle = line.start + line.slope * hours
    reach = NORMAL_90 * math.hypot(line.error, (hours - line.middle) * line.slope_error)
    low, mid, high = (math.exp(min(middle + part, MAX_EXPONENT)) for part in (-reach, 0.0, reach))
    return low, mid, high


def loss_percent_per_day(slope_per_hour: float) -> float:
    """Return the loss 100 * (1 - e^(24 * slope)) in percent a day.

    >>> round(loss_percent_per_day(-0.005), 2)
    11.31

    Source: derived.
    """
    exponent = min(HOURS_PER_DAY * slope_per_hour, MAX_EXPONENT)
    return 100.0 * (1.0 - math.exp(exponent))


def interval(line: FittedLine, deviations: float = NORMAL_90) -> tuple[float, float]:
    """Return (low, high) of the loss in percent a day, `errors` standard errors to each side of the
    slope.

    loss = 100 * (1 - exp(24 * (slope ± deviations * error))).

    >>> from inner_rim.core.models.line_verdict import fitted_line
    >>> line = fitted_line([0.0, 12.0], [5.3, 5.25], [0.004, 0.004])
    >>> [round(bound, 2) for bound in interval(line)]
    [7.82, 11.18]

    Source: see `fitted_line` and `loss_percent_per_day`.
    """
    reach = deviations * line.slope_error
    return loss_percent_per_day(line.slope + reach), loss_percent_per_day(line.slope - reach)


def forecast_kpa(
    p20_kpa: float,
    loss_percent: float,
    hours: float,
    temperature_c: float,
    ambient_kpa: float = SEA_LEVEL_KPA,
) -> float:
    """Return the gauge pressure after some hours at a temperature, the loss going on as it is.

    p(t) = p20 * exp(slope * t), pressures absolute.

    >>> round(forecast_kpa(200.0, 10.0, 24.0, 20.0), 6)
    180.0

    Raises:
        ValueError: a loss of 100 % or more.

    Source: exponential loss; ideal gas law.
    """
    if loss_percent >= 100.0:
        raise ValueError("loss_percent must be below 100")
    left = p20_kpa * math.exp(math.log(1.0 - loss_percent / 100.0) * hours / HOURS_PER_DAY)
    return (left + ambient_kpa) * (temperature_c + KELVIN_AT_ZERO_C) / REFERENCE_K - ambient_kpa


def hours_until_kpa(p20_kpa: float, loss_percent: float, floor_kpa: float) -> float | None:
    """Return the hours until the pressure at 20 °C falls to a floor; None where it never does, 0
    where it has.

    t = 24 * ln(floor / p20) / ln(1 - loss / 100), pressures absolute.

    >>> round(hours_until_kpa(200.0, 10.0, 180.0), 6)
    24.0

    Source: derived.
    """
    if p20_kpa <= floor_kpa:
        return 0.0
    if loss_percent <= 0.0 or floor_kpa <= 0.0:
        return None
    if loss_percent >= 100.0:
        return 0.0
    return HOURS_PER_DAY * math.log(floor_kpa / p20_kpa) / math.log(1.0 - loss_percent / 100.0)


Verdict = Literal["holds", "settling", "leaks", "no_line"]
Trend = Literal["slowing", "not_slowing", "unknown"]
HOLDS_UP_TO, LEAKS_ABOVE = 10.0, 25.0  # percent a day
SURE, SURELY_HOLDS_UP_TO, SURELY_LEAKS_ABOVE = 3.5, 12.0, 22.0  # standard errors, percent a day
MIN_FOR_TREND = 4
LOOK_AHEAD_HOURS = 7 * HOURS_PER_DAY
VERDICT_WORDS: dict[Verdict, str] = {
    "holds": N_("holds"),
    "settling": N_("settling: spin it and look again"),
    "leaks": N_("leaks: find it"),
    "no_line": N_("the readings do not lie on one line: pumped up in between, or misread?"),
}
TREND_WORDS: dict[Trend, str] = {
    "slowing": N_("slowing"),
    "not_slowing": N_("not slowing"),
    "unknown": N_("not known yet"),
}


def judge(line: FittedLine) -> Verdict:
    """Return the verdict on the bounds of the loss.

    holds: upper bound <= 10 %; leaks: lower bound > 25 %; else settling.

    By the 90 % interval: at most 10 % a day holds, more than 25 % leaks, else settling. Where few
    readings leave the interval so wide that a loss beyond 12 %, or below 22 %, is still possible at
    3.5 standard errors, it is settling too: a wheel is not called tight, nor leaking, by luck.

    >>> judge(FittedLine(0.0, -0.002, 0.0002)), judge(FittedLine(0.0, -0.002, 0.002)), judge(FittedLine(0.0, -0.03, 0.001))
    ('holds', 'settling', 'leaks')

    Source: common practice, no published source.
    """
    low, high = interval(line)
    surely_low, surely_high = interval(line, SURE)
    if high <= HOLDS_UP_TO and surely_high <= SURELY_HOLDS_UP_TO:
        return "holds"
    return "leaks" if low > LEAKS_ABOVE and surely_low > SURELY_LEAKS_ABOVE else "settling"


#: A normal deviation that is passed once in a hundred.
NORMAL_99_ABOVE = 2.326


def lies_on_a_line(
    times: Sequence[float], logs: Sequence[float], errors: Sequence[float], line: FittedLine
) -> bool:
    """Return whether readings scatter around their line no more than their errors let them.

    sum(((ln p - line) / error)^2) <= chi2(0.99, n - 2), its quantile k (1 - 2/(9k) + 2.326
    sqrt(2/(9k)))^3.

    Times in h, logs of kPa.

    >>> times, errors = [0.0, 1.0, 2.0], [0.003] * 3
    >>> lies_on_a_line(times, [5.3, 5.297, 5.29], errors, fitted_line(times, [5.3, 5.297, 5.29], errors))
    True
    >>> lies_on_a_line(times, [5.3, 5.25, 5.3], errors, fitted_line(times, [5.3, 5.25, 5.3], errors))
    False

    Source: chi-squared test of fit; quantile by E. B. Wilson and M. M. Hilferty (1931).
    """
    free = len(times) - 2
    if free < 1:
        return True
    part = 2.0 / (9.0 * free)
    most = free * (1.0 - part + NORMAL_99_ABOVE * math.sqrt(part)) ** 3
    off = (
        (log - line.start - line.slope * time) / error
        for time, log, error in zip(times, logs, errors, strict=True)
    )
    return sum(one * one for one in off) <= most


#: Losses that a wheel may have, percent a day, each as likely as the next before anything is read
#: (common practice): most hold well, few leak badly.
_PRIOR_LOSSES = tuple(0.5 * 120.0 ** (n / 27.0) for n in range(28))
#: Share of the cases in which the reading must decide: three in four, and some more, as nothing
#: here is known exactly.
DECIDES_SHARE = 0.8


def decides_at_h(
    times: Sequence[float],
    logs: Sequence[float],
    errors: Sequence[float],
    line: FittedLine,
    next_error: float | None = None,
) -> float | None:
    """Return when one more reading will decide in three of four cases or more; None where none
    within a week will.

    Times and the result in h; logs of the pressure at 20 °C in kPa; `next_error` is that of the
    next reading, the last one's where it is not given.

    A reading at t moves the slope by c * d * (y - line(t)) / S', with d = t - middle, c = W w / (W
    + w) and S' = S + c * d^2. Given a loss, y is normal with variance 1 / c; the losses are
    weighted by the prior and by how well the slope so far fits them. The share of y that leads to a
    verdict follows from the bounds of `judge`.

    >>> times, logs, errors = [0.0, 4.0], [5.7, 5.69], [0.004, 0.004]
    >>> round(decides_at_h(times, logs, errors, fitted_line(times, logs, errors)) or 0.0)
    8

    Source: docs/models.md 2.9; normal updating of a weighted line.
    """
    slopes = [_slope_of(loss) for loss in _PRIOR_LOSSES]
    fits = [
        math.exp(-0.5 * min(700.0, ((line.slope - slope) / line.slope_error) ** 2))
        for slope in slopes
    ]
    if sum(fits) <= 1e-200:  # it loses faster than any of them, or gains
        slopes, fits = [line.slope], [1.0]
    cases = [
        (slope, fit / sum(fits))
        for slope, fit in zip(slopes, fits, strict=True)
        if fit > 1e-6 * max(fits)
    ]

    def share(at: float) -> float:
        return sum(
            weight * _decided_share(at, slope, line, logs[-1], next_error or errors[-1])
            for slope, weight in cases
        )

    low_at, high_at = times[-1], times[-1] + LOOK_AHEAD_HOURS
    loss = loss_percent_per_day(line.slope)
    if HOLDS_UP_TO < loss <= LEAKS_ABOVE and _is_settled(line):
        return None  # it is settling, and known to be
    if share(high_at) < DECIDES_SHARE:
        return None
    for _ in range(24):
        middle = 0.5 * (low_at + high_at)
        low_at, high_at = (low_at, middle) if share(middle) >= DECIDES_SHARE else (middle, high_at)
    return high_at


def _slope_of(loss_percent: float) -> float:
    """The slope of ln p an hour at a loss in percent a day."""
    return math.log(1.0 - loss_percent / 100.0) / HOURS_PER_DAY


def _bounds(slope_error: float) -> tuple[float, float, float, float]:
    """Slopes of a verdict: holds from the first up, leaks up to the second, known to settle between
    the last two.
    """
    reach, sure = NORMAL_90 * slope_error, SURE * slope_error
    holds = max(_slope_of(HOLDS_UP_TO) + reach, _slope_of(SURELY_HOLDS_UP_TO) + sure)
    leaks = min(_slope_of(LEAKS_ABOVE) - reach, _slope_of(SURELY_LEAKS_ABOVE) - sure)
    return holds, leaks, _slope_of(LEAKS_ABOVE) + reach, _slope_of(HOLDS_UP_TO) - reach


def _is_settled(line: FittedLine) -> bool:
    _holds, _leaks, low, high = _bounds(line.slope_error)
    return low <= line.slope < high


def _decided_share(at: float, slope: float, line: FittedLine, last: float, error: float) -> float:
    """The share of readings at a time that decide, where the loss goes on by a slope."""
    # near enough for the error of a reading of less pressure
    expected = last + slope * (at - line.middle)
    error *= math.exp(min(max(0.0, last - expected), MAX_EXPONENT))
    spread, weight, total = 1.0 / line.slope_error**2, 1.0 / error**2, 1.0 / line.error**2
    shared, away = total * weight / (total + weight), at - line.middle
    joined = spread + shared * away * away
    mean = (spread * line.slope + shared * away * away * slope) / joined
    sigma = math.sqrt(shared) * abs(away) / joined
    holds, leaks, low, high = _bounds(1.0 / math.sqrt(joined))

    def below(bound: float) -> float:
        return 0.5 * (1.0 + math.erf((bound - mean) / (sigma * math.sqrt(2.0))))

    settled = max(0.0, below(high) - below(low)) if low < high else 0.0
    return 1.0 - below(holds) + below(leaks) + settled


def trend_of(times: Sequence[float], logs: Sequence[float], errors: Sequence[float]) -> Trend:
    """Return whether the latest segment of the readings loses less than the one before.

    slowing: later slope - earlier slope > 1.645 * error.

    Times in h; logs of the pressure at 20 °C in kPa.

    The readings are parted in the middle of their time; slowing where the later slope is flatter by
    more than 1.645 of its standard error, not slowing where it is not and the two are known well
    enough to tell; else unknown.

    >>> trend_of([0.0, 4.0, 8.0, 12.0], [5.70, 5.60, 5.59, 5.588], [0.003] * 4)
    'slowing'

    Source: docs/models.md 2.9; difference of two normal estimates.
    """
    if len(times) < MIN_FOR_TREND:
        return "unknown"
    middle = 0.5 * (times[0] + times[-1])
    split = next((i for i, t in enumerate(times) if t >= middle), len(times) // 2)
    split = min(max(split, 1), len(times) - 2)
    early, late = slice(0, split + 1), slice(split, None)
    try:
        before = fitted_line(times[early], logs[early], errors[early])
        after = fitted_line(times[late], logs[late], errors[late])
    except ValueError:
        return "unknown"
    error = math.hypot(before.slope_error, after.slope_error)
    flatter = after.slope - before.slope
    if flatter > NORMAL_90 * error:
        return "slowing"
    # "not slowing" only where a halving of the loss would have shown
    seen = abs(0.5 * before.slope) > NORMAL_90 * error
    return "not_slowing" if seen or flatter < -NORMAL_90 * error else "unknown"
