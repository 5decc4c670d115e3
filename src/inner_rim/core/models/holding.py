"""Holding air: loss per day from a few readings, with its interval; whether it means anything yet (docs/models.md 2.9).

Every reading is brought to 20 °C, and what it let into the gauge is given back. Then ln p falls along a
line; its slope is the loss, its standard error follows from the gauge's resolution.
"""

import itertools
import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from inner_rim.core.models.air import KELVIN_AT_ZERO_C, SEA_LEVEL_KPA
from inner_rim.core.models.forecast import HOURS_PER_DAY, MOST_EXPONENT, interval, loss_percent_per_day, normalised_kpa
from inner_rim.core.models.line_fit import NORMAL_90, FittedLine, fitted_line
from inner_rim.core.record.why import Message, Why
from inner_rim.words import N_

Verdict = Literal["holds", "settling", "leaks"]
Trend = Literal["slowing", "not_slowing", "unknown"]
HOLDS_UP_TO, LEAKS_ABOVE = 10.0, 25.0  # percent a day
SURE, SURELY_HOLDS_UP_TO, SURELY_LEAKS_ABOVE = 3.5, 12.0, 22.0  # standard errors, percent a day
GAUGE_ML = 5.0
RESOLUTION_KPA = 0.7
LEAST_FOR_TREND = 4
LOOK_AHEAD_HOURS = 7 * HOURS_PER_DAY
#: Least pressure that a reading counts with: below it the tire is empty, whatever it lost.
LEAST_KPA = 1.0
#: Standard errors: of any gauge, kPa; of a temperature that was read (one thermometer: its bias cancels in a slope)
#: and of one that was not, °C; of the air pressure between two readings, kPa (common practice).
GAUGE_ERROR_KPA, READ_ERROR_C, UNREAD_ERROR_C, UNREAD_C = 0.3, 0.3, 4.0, 20.0
WEATHER_KPA = 0.5
#: A new tire's casing grows by this share of its volume in its first day; spread of the same size (common practice).
GROWTH_SHARE = 0.005
VERDICT_WORDS: dict[Verdict, str] = {
    "holds": N_("holds"),
    "settling": N_("settling: spin it and look again"),
    "leaks": N_("leaks: find it"),
}
TREND_WORDS: dict[Trend, str] = {
    "slowing": N_("slowing"),
    "not_slowing": N_("not slowing"),
    "unknown": N_("not known yet"),
}


class TooFew(ValueError):
    """Fewer readings than a loss follows from."""


class EmptyTire(ValueError):
    """Nothing is left in the tire that could be lost."""


class HoldReading(msgspec.Struct, frozen=True):
    """A reading: hours since the first, gauge pressure, and the temperature of the air, None where it was not entered."""

    time_h: float
    pressure_kpa: float
    temperature_c: float | None


class HoldReport(msgspec.Struct, frozen=True):
    """What the readings say.

    Attributes:
        loss_percent_per_day: best estimate; negative where it seems to gain.
        low_percent_per_day, high_percent_per_day: its 90 % interval.
        verdict: by the bounds of the interval.
        trend: whether the leak slows down.
        decides_at_h: hours since the first reading at which the next one will decide; None where the verdict
            stands already, or no reading within a week will.
        p20_kpa: the readings at 20 °C with the gauge's air given back.
        line: through their logarithms, by hours since the first.
        assumed: what was taken for granted, in sentences.
        why: the trail.
    """

    loss_percent_per_day: float
    low_percent_per_day: float
    high_percent_per_day: float
    verdict: Verdict
    trend: Trend
    decides_at_h: float | None
    p20_kpa: tuple[float, ...]
    line: FittedLine
    assumed: tuple[Message, ...]
    why: Why

    @property
    def too_early(self) -> bool:
        """Whether the interval is so wide that a figure would say nothing."""
        return self.low_percent_per_day <= HOLDS_UP_TO and self.high_percent_per_day > LEAKS_ABOVE


def given_back_kpa(p20_kpa: Sequence[float], volume_ml: float, gauge_ml: float = GAUGE_ML) -> tuple[float, ...]:
    """Return readings with the air that every earlier reading let into the gauge given back.

    A reading fills the gauge's head of volume v from ambient: the gauge pressure falls by V / (V + v).
    The n-th reading is divided by that factor n - 1 times.

    >>> [round(p, 2) for p in given_back_kpa([200.0, 199.0], 1000.0, 5.0)]
    [200.0, 200.0]

    Raises:
        ValueError: a volume that is not positive, or a negative gauge volume.

    Source: ideal gas law (mixing from absolute to ambient).
    """
    if volume_ml <= 0.0 or gauge_ml < 0.0:
        raise ValueError("volume_ml must be positive and gauge_ml not negative")
    factor = volume_ml / (volume_ml + gauge_ml)
    return tuple(p / factor**n for n, p in enumerate(p20_kpa))


def judge(line: FittedLine) -> Verdict:
    """Return the verdict on the bounds of the loss.

    holds: upper bound <= 10 %; leaks: lower bound > 25 %; else settling.

    By the 90 % interval: at most 10 % a day holds, more than 25 % leaks, else settling. Where few readings leave
    the interval so wide that a loss beyond 12 %, or below 22 %, is still possible at 3.5 standard errors, it is
    settling too: a wheel is not called tight, nor leaking, by luck.

    >>> judge(FittedLine(0.0, -0.002, 0.0002)), judge(FittedLine(0.0, -0.002, 0.002)), judge(FittedLine(0.0, -0.03, 0.001))
    ('holds', 'settling', 'leaks')

    Source: common practice, no published source.
    """
    low, high = interval(line)
    surely_low, surely_high = interval(line, SURE)
    if high <= HOLDS_UP_TO and surely_high <= SURELY_HOLDS_UP_TO:
        return "holds"
    return "leaks" if low > LEAKS_ABOVE and surely_low > SURELY_LEAKS_ABOVE else "settling"


def hold_report(
    readings: Sequence[HoldReading],
    volume_ml: float,
    *,
    gauge_ml: float = GAUGE_ML,
    resolution_kpa: float = RESOLUTION_KPA,
    ambient_kpa: float = SEA_LEVEL_KPA,
    step_kpa: float | None = None,
    new_tire: bool = False,
) -> HoldReport:
    """Return what the readings of a leak test say about the loss.

    Args:
        readings: at least two, in order of time, pressures above zero.
        volume_ml: air in the tire.
        gauge_ml: what a reading lets into the gauge.
        resolution_kpa: taken as the standard error of one reading.
        ambient_kpa: air pressure in the shop.
        step_kpa: finest step of the gauge; where it is given, the error of each reading follows from it and from its
            temperature (see `reading_error_kpa`) in place of the resolution.
        new_tire: its casing still grows, which looks like a loss.

    >>> readings = [HoldReading(0.0, 300.0, 20.0), HoldReading(14.0, 296.0, 20.0)]
    >>> report = hold_report(readings, 3000.0)
    >>> report.verdict, round(report.loss_percent_per_day, 1)
    ('holds', 2.0)

    Raises:
        TooFew, OneMoment, EmptyTire: nothing follows from these readings.
        ValueError: time that runs backwards, a resolution that is not positive.

    Source: docs/models.md 2.9; weighted least squares, normal 90 % interval.
    """
    _check(readings, resolution_kpa)
    times = [r.time_h for r in readings]
    p20 = given_back_kpa(
        [normalised_kpa(r.pressure_kpa, _celsius(r), ambient_kpa) for r in readings], volume_ml, gauge_ml
    )
    if min(p20) < LEAST_KPA:
        raise EmptyTire("nothing is left to measure")
    logs = [math.log(p) for p in p20]
    errors = [e / p for e, p in zip(_errors(readings, resolution_kpa, step_kpa, ambient_kpa), p20, strict=True)]
    grown = [
        GROWTH_SHARE * min(t - times[0], HOURS_PER_DAY) / HOURS_PER_DAY * (p + ambient_kpa) / p if new_tire else 0.0
        for t, p in zip(times, p20, strict=True)
    ]
    line = _with_growth(fitted_line(times, logs, errors), times, grown, errors)
    low, high = interval(line)
    loss = loss_percent_per_day(line.slope)
    verdict = judge(line)
    return HoldReport(
        loss_percent_per_day=loss,
        low_percent_per_day=low,
        high_percent_per_day=high,
        verdict=verdict,
        trend=trend_of(times, logs, errors),
        decides_at_h=None if verdict != "settling" else decides_at_h(times, logs, errors, line),
        p20_kpa=p20,
        line=line,
        assumed=_assumed(readings, resolution_kpa, step_kpa, new_tire),
        why=_why(line, loss, low, high, p20, volume_ml, gauge_ml, resolution_kpa),
    )


def counted_from(
    readings: Sequence[HoldReading],
    *,
    resolution_kpa: float = RESOLUTION_KPA,
    ambient_kpa: float = SEA_LEVEL_KPA,
    step_kpa: float | None = None,
) -> int:
    """Return the place of the first reading that counts: the last that rose, else 0.

    rises: p20[n] - p20[n - 1] > 3.5 * sqrt(sigma[n]^2 + sigma[n - 1]^2), kPa, sigma as in `hold_report`.

    No tire gains air: it was pumped up in between, or misread.

    >>> readings = [HoldReading(0.0, 300.0, 20.0), HoldReading(3.0, 240.0, 20.0), HoldReading(3.1, 300.0, 20.0)]
    >>> counted_from(readings), counted_from(readings[:2])
    (2, 0)

    Source: common practice; derived.
    """
    p20 = [normalised_kpa(r.pressure_kpa, _celsius(r), ambient_kpa) for r in readings]
    errors = _errors(readings, resolution_kpa, step_kpa, ambient_kpa)
    rises = (n for n in range(1, len(p20)) if p20[n] - p20[n - 1] > SURE * math.hypot(errors[n], errors[n - 1]))
    return max(rises, default=0)


def _errors(
    readings: Sequence[HoldReading], resolution_kpa: float, step_kpa: float | None, ambient_kpa: float
) -> list[float]:
    """The standard error of each reading, kPa."""
    if step_kpa is None:
        return [resolution_kpa] * len(readings)
    return [reading_error_kpa(reading, step_kpa, ambient_kpa) for reading in readings]


def _with_growth(
    line: FittedLine, times: Sequence[float], grown: Sequence[float], errors: Sequence[float]
) -> FittedLine:
    """The line with what a growing casing seems to lose taken out, and as much again as its error."""
    if not any(grown):
        return line
    apparent = fitted_line(times, grown, errors)
    return msgspec.structs.replace(
        line,
        start=line.start + apparent.start,
        slope=line.slope + apparent.slope,
        slope_error=math.hypot(line.slope_error, apparent.slope),
    )


def _assumed(
    readings: Sequence[HoldReading], resolution_kpa: float, step_kpa: float | None, new_tire: bool
) -> tuple[Message, ...]:
    """What the error of the readings, and a correction, were taken from."""
    if step_kpa is None:
        result = [
            Message(
                "Two readings in three are within {reading_kpa} of the true pressure.", {"reading_kpa": resolution_kpa}
            )
        ]
    else:
        result = [
            Message("The gauge shows steps of {gauge_step_kpa}.", {"gauge_step_kpa": step_kpa}),
            Message("The air pressure changed by about {weather_kpa} between readings.", {"weather_kpa": WEATHER_KPA}),
        ]
        if any(reading.temperature_c is None for reading in readings):
            result.append(Message("Where no temperature was read, it was 20 °C, give or take 4."))
    if new_tire:
        result.append(Message("A new tire grows by about 0.5 % in its first day, which looks like a loss: taken out."))
    return tuple(result)


def _celsius(reading: HoldReading) -> float:
    return UNREAD_C if reading.temperature_c is None else reading.temperature_c


def reading_error_kpa(reading: HoldReading, step_kpa: float, ambient_kpa: float = SEA_LEVEL_KPA) -> float:
    """Return the standard error of one reading, kPa.

    sqrt(step^2 / 12 + 0.3^2 + (p_abs / T * sigma_T)^2 + 0.5^2 / 2), sigma_T 0.3 °C where the temperature was read,
    4 °C where it was not; the air pressure differs by 0.5 kPa between two readings.

    >>> round(reading_error_kpa(HoldReading(0.0, 200.0, 20.0), 1.0), 2)
    0.63

    Source: docs/models.md 2.9; a rounded reading is uniform over its step.
    """
    sigma_c = READ_ERROR_C if reading.temperature_c is not None else UNREAD_ERROR_C
    heat = (reading.pressure_kpa + ambient_kpa) / (_celsius(reading) + KELVIN_AT_ZERO_C) * sigma_c
    return math.sqrt(step_kpa**2 / 12.0 + GAUGE_ERROR_KPA**2 + heat**2 + WEATHER_KPA**2 / 2.0)


def _check(readings: Sequence[HoldReading], resolution_kpa: float) -> None:
    if resolution_kpa <= 0.0:
        raise ValueError("resolution_kpa must be positive")
    if len(readings) < 2:
        raise TooFew("a loss needs two readings")
    for before, after in itertools.pairwise(readings):
        if after.time_h < before.time_h:
            raise ValueError("time_h must not run backwards")


#: Losses that a wheel may have, percent a day, each as likely as the next before anything is read (common practice):
#: most hold well, few leak badly.
_PRIOR_LOSSES = tuple(0.5 * 120.0 ** (n / 27.0) for n in range(28))
#: Share of the cases in which the reading must decide: three in four, and some more, as nothing here is known exactly.
DECIDES_SHARE = 0.8


def decides_at_h(
    times: Sequence[float], logs: Sequence[float], errors: Sequence[float], line: FittedLine
) -> float | None:
    """Return when one more reading will decide in three of four cases or more; None where none within a week will.

    Times and the result in h; logs of the pressure at 20 °C in kPa.

    A reading at t moves the slope by c * d * (y - line(t)) / S', with d = t - middle, c = W w / (W + w) and
    S' = S + c * d^2. Given a loss, y is normal with variance 1 / c; the losses are weighted by the prior and by how well the
    slope so far fits them. The share of y that leads to a verdict follows from the bounds of `judge`.

    >>> times, logs, errors = [0.0, 4.0], [5.7, 5.69], [0.004, 0.004]
    >>> round(decides_at_h(times, logs, errors, fitted_line(times, logs, errors)) or 0.0)
    8

    Source: docs/models.md 2.9; normal updating of a weighted line.
    """
    slopes = [_slope_of(loss) for loss in _PRIOR_LOSSES]
    fits = [math.exp(-0.5 * min(700.0, ((line.slope - slope) / line.slope_error) ** 2)) for slope in slopes]
    if sum(fits) <= 1e-200:  # it loses faster than any of them, or gains
        slopes, fits = [line.slope], [1.0]
    cases = [(slope, fit / sum(fits)) for slope, fit in zip(slopes, fits, strict=True) if fit > 1e-6 * max(fits)]

    def share(at: float) -> float:
        return sum(weight * _decided_share(at, slope, line, logs[-1], errors[-1]) for slope, weight in cases)

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
    """Slopes of a verdict: holds from the first up, leaks up to the second, known to settle between the last two."""
    reach, sure = NORMAL_90 * slope_error, SURE * slope_error
    holds = max(_slope_of(HOLDS_UP_TO) + reach, _slope_of(SURELY_HOLDS_UP_TO) + sure)
    leaks = min(_slope_of(LEAKS_ABOVE) - reach, _slope_of(SURELY_LEAKS_ABOVE) - sure)
    return holds, leaks, _slope_of(LEAKS_ABOVE) + reach, _slope_of(HOLDS_UP_TO) - reach


def _is_settled(line: FittedLine) -> bool:
    _holds, _leaks, low, high = _bounds(line.slope_error)
    return low <= line.slope < high


def _decided_share(at: float, slope: float, line: FittedLine, last: float, error: float) -> float:
    """The share of readings at a time that decide, where the loss goes on by a slope."""
    expected = last + slope * (at - line.middle)  # near enough for the error of a reading of less pressure
    error *= math.exp(min(max(0.0, last - expected), MOST_EXPONENT))
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

    The readings are parted in the middle of their time; slowing where the later slope is flatter by more than
    1.645 of its standard error, not slowing where it is not and the two are known well enough to tell; else
    unknown.

    >>> trend_of([0.0, 4.0, 8.0, 12.0], [5.70, 5.60, 5.59, 5.588], [0.003] * 4)
    'slowing'

    Source: docs/models.md 2.9; difference of two normal estimates.
    """
    if len(times) < LEAST_FOR_TREND:
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


def _why(
    line: FittedLine,
    loss: float,
    low: float,
    high: float,
    p20: Sequence[float],
    volume_ml: float,
    gauge_ml: float,
    resolution_kpa: float,
) -> Why:
    return Why(
        formula=(
            N_(
                "every reading brought to 20 °C, what earlier readings let into the gauge given back; a line through ln p "
                "by least squares; loss = 100 × (1 − e^(24 × slope)), its 90 % interval from the gauge's resolution"
            )
        ),
        figures={
            "readings": len(p20),
            "first_at_20_kpa": p20[0],
            "last_at_20_kpa": p20[-1],
            "air_ml": volume_ml,
            "gauge_ml": gauge_ml,
            "resolution_kpa": resolution_kpa,
            "slope_an_hour": f"{line.slope:.5f}",
            "loss_percent": loss,
            "at_least_percent": low,
            "at_most_percent": high,
        },
        source=N_(
            "ideal gas law; weighted least squares with a normal interval; bounds common practice, no published source"
        ),
        what_changes_it=N_("a later reading, a finer gauge, the same temperature"),
    )
