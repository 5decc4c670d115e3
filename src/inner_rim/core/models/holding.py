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
from inner_rim.core.models.forecast import (
    HOURS_PER_DAY,
    MOST_EXPONENT,
    interval,
    loss_percent_per_day,
    normalised_kpa,
)
from inner_rim.core.models.line_fit import NORMAL_90, Line, fitted_line
from inner_rim.core.record.why import Why

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
#: Standard errors: of any gauge, kPa; of a temperature that was read and of one that was not, °C (common practice).
GAUGE_ERROR_KPA, READ_ERROR_C, UNREAD_ERROR_C, UNREAD_C = 0.3, 1.0, 4.0, 20.0
VERDICT_WORDS: dict[Verdict, str] = {
    "holds": "holds",
    "settling": "settling: spin it and look again",
    "leaks": "leaks: find it",
}
TREND_WORDS: dict[Trend, str] = {
    "slowing": "slowing",
    "not_slowing": "not slowing",
    "unknown": "not known yet",
}


class HoldReading(msgspec.Struct, frozen=True):
    """A reading: hours since the first, gauge pressure, and the temperature of the air, None where it was not read."""

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
        why: the trail.
    """

    loss_percent_per_day: float
    low_percent_per_day: float
    high_percent_per_day: float
    verdict: Verdict
    trend: Trend
    decides_at_h: float | None
    p20_kpa: tuple[float, ...]
    line: Line
    why: Why


def given_back_kpa(
    p20_kpa: Sequence[float], volume_ml: float, gauge_ml: float = GAUGE_ML
) -> tuple[float, ...]:
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


def judge(line: Line) -> Verdict:
    """Return the verdict on the bounds of the loss.

    holds: upper bound <= 10 %; leaks: lower bound > 25 %; else settling.

    By the 90 % interval: at most 10 % a day holds, more than 25 % leaks, else settling. Where few readings leave
    the interval so wide that a loss beyond 12 %, or below 22 %, is still possible at 3.5 standard errors, it is
    settling too: a wheel is not called tight, nor leaking, by luck.

    >>> judge(Line(0.0, -0.002, 0.0002)), judge(Line(0.0, -0.002, 0.002)), judge(Line(0.0, -0.03, 0.001))
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
) -> HoldReport:
    """Return what readings of a tire that stands say about its loss.

    Args:
        readings: at least two, in time's order, pressures above nothing.
        volume_ml: air in the tire.
        gauge_ml: what a reading lets into the gauge.
        resolution_kpa: taken as the standard error of one reading.
        ambient_kpa: air pressure in the shop.
        step_kpa: finest step of the gauge; where it is given, the error of each reading follows from it and from its
            temperature (see `reading_error_kpa`) in place of the resolution.

    >>> readings = [HoldReading(0.0, 300.0, 20.0), HoldReading(14.0, 296.0, 20.0)]
    >>> report = hold_report(readings, 3000.0)
    >>> report.verdict, round(report.loss_percent_per_day, 1)
    ('holds', 2.0)

    Raises:
        ValueError: fewer than two different times, time that runs backwards, an empty tire, a resolution that
            is not positive.

    Source: docs/models.md 2.9; weighted least squares, normal 90 % interval.
    """
    _check(readings, resolution_kpa)
    times = [r.time_h for r in readings]
    p20 = given_back_kpa(
        [normalised_kpa(r.pressure_kpa, _celsius(r), ambient_kpa) for r in readings], volume_ml, gauge_ml
    )
    if min(p20) < LEAST_KPA:
        raise ValueError("the tire is empty: nothing is left to measure")
    logs = [math.log(p) for p in p20]
    errors = [
        (resolution_kpa if step_kpa is None else reading_error_kpa(r, step_kpa, ambient_kpa)) / p
        for r, p in zip(readings, p20, strict=True)
    ]
    line = fitted_line(times, logs, errors)
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
        why=_why(line, loss, low, high, p20, volume_ml, gauge_ml, resolution_kpa),
    )


def _celsius(reading: HoldReading) -> float:
    return UNREAD_C if reading.temperature_c is None else reading.temperature_c


def reading_error_kpa(reading: HoldReading, step_kpa: float, ambient_kpa: float = SEA_LEVEL_KPA) -> float:
    """Return the standard error of one reading: sqrt(step^2 / 12 + 0.3^2 + (p_abs / T * sigma_T)^2).

    sigma_T is 1 °C where the temperature was read, 4 °C where it was not.

    >>> round(reading_error_kpa(HoldReading(0.0, 200.0, 20.0), 1.0), 2)
    1.11

    Source: docs/models.md 2.9; a rounded reading is uniform over its step.
    """
    sigma_c = READ_ERROR_C if reading.temperature_c is not None else UNREAD_ERROR_C
    heat = (reading.pressure_kpa + ambient_kpa) / (_celsius(reading) + KELVIN_AT_ZERO_C) * sigma_c
    return math.sqrt(step_kpa**2 / 12.0 + GAUGE_ERROR_KPA**2 + heat**2)


def _check(readings: Sequence[HoldReading], resolution_kpa: float) -> None:
    if resolution_kpa <= 0.0:
        raise ValueError("resolution_kpa must be positive")
    if len(readings) < 2:
        raise ValueError("two readings at least are needed")
    for before, after in itertools.pairwise(readings):
        if after.time_h < before.time_h:
            raise ValueError("time_h must not run backwards")


def decides_at_h(
    times: Sequence[float], logs: Sequence[float], errors: Sequence[float], line: Line
) -> float | None:
    """Return when one more reading will decide, if the loss goes on as it is; None where none within a week will.

    Times and the result in h; logs of the pressure at 20 °C in kPa.

    Where a line through two readings would do, this is t = 1.645 * sigma * sqrt(2) / (p * k) with k the distance of the
    slope from the border; with the readings that are there, the time is sought at which the interval with one
    more reading on the line no longer spans the border.

    >>> times, logs, errors = [0.0, 4.0], [5.7, 5.69], [0.004, 0.004]
    >>> round(decides_at_h(times, logs, errors, fitted_line(times, logs, errors)) or 0.0, 1)
    7.0

    Source: docs/models.md 2.9, derived.
    """
    loss = loss_percent_per_day(line.slope)

    def decided(at: float) -> bool:
        value = line.start + line.slope * at
        error = errors[-1] * math.exp(min(max(0.0, logs[-1] - value), MOST_EXPONENT))
        new = fitted_line([*times, at], [*logs, value], [*errors, error])
        low, high = interval(new)
        return judge(new) != "settling" or (low > HOLDS_UP_TO and high <= LEAKS_ABOVE)

    low_at, high_at = times[-1], times[-1] + LOOK_AHEAD_HOURS
    if HOLDS_UP_TO < loss <= LEAKS_ABOVE and decided(low_at + 1e-6):
        return None  # it is settling, and known to be
    if not decided(high_at):
        return None
    for _ in range(50):
        middle = 0.5 * (low_at + high_at)
        low_at, high_at = (low_at, middle) if decided(middle) else (middle, high_at)
    return high_at


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
    # not slowing is said only where a halving of the loss would have been seen
    seen = abs(0.5 * before.slope) > NORMAL_90 * error
    return "not_slowing" if seen or flatter < -NORMAL_90 * error else "unknown"


def _why(
    line: Line,
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
            "every reading brought to 20 °C, what earlier readings let into the gauge given back; a line through ln p "
            "by least squares; loss = 100 × (1 − e^(24 × slope)), its 90 % interval from the gauge's resolution"
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
        source="ideal gas law; weighted least squares with a normal interval; bounds common practice, no published source",
        what_changes_it="a later reading, a finer gauge, the same temperature",
    )
