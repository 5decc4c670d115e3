"""Holding air: loss per day from a few readings, with its interval; whether it means anything yet
(docs/models.md 2.9).

Every reading is brought to 20 °C, and what it let into the gauge is given back. Then ln p falls
along a line; its slope is the loss, its standard error follows from the gauge's resolution.
"""

import itertools
import math
from collections.abc import Sequence

import msgspec

from inner_rim.core.models.air import KELVIN_AT_ZERO_C, SEA_LEVEL_KPA
from inner_rim.core.models.line_verdict import (
    HOLDS_UP_TO,
    HOURS_PER_DAY,
    LEAKS_ABOVE,
    SURE,
    SURELY_HOLDS_UP_TO,
    FittedLine,
    Trend,
    Verdict,
    decides_at_h,
    fitted_line,
    interval,
    judge,
    lies_on_a_line,
    loss_percent_per_day,
    normalised_kpa,
    trend_of,
)
from inner_rim.core.record.resolved import Z_90
from inner_rim.core.record.why import Message, Why
from inner_rim.words import N_

GAUGE_ML = 5.0
RESOLUTION_KPA = 0.7
#: Least pressure that a reading counts with: below it the tire is empty, whatever it lost.
MIN_KPA = 1.0
#: Standard errors: of any gauge, kPa; of a temperature that was read (one thermometer: its bias
#: cancels in a slope) and of one that was not, °C; of the air pressure between two readings, kPa
#: (common practice).
GAUGE_ERROR_KPA, READ_ERROR_C, UNREAD_ERROR_C, UNREAD_C = 0.3, 0.3, 4.0, 20.0
WEATHER_KPA = 0.5
#: How much warmer than the shop the air may be when the pump stops, °C, and in how many hours that
#: falls to a third (common practice).
PUMPED_C, COOLING_H = 4.0, 1.0 / 6.0
#: What a tight tire loses, percent a day (common practice).
TIGHT = 2.0
#: A new tire's casing grows by this share of its volume in its first day; spread of the same size
#: (common practice).
GROWTH_SHARE = 0.005


class TooFew(ValueError):
    """Fewer readings than a loss follows from."""


class EmptyTire(ValueError):
    """Nothing is left in the tire that could be lost."""


class HoldReading(msgspec.Struct, frozen=True):
    """A reading.

    Attributes:
        time_h: hours since the first.
        temperature_c: of the air, None where it was not entered.
        pumped_h: hours since the tire was pumped up, infinite where that is long ago or not known.
    """

    time_h: float
    pressure_kpa: float
    temperature_c: float | None
    pumped_h: float = math.inf


class HoldReport(msgspec.Struct, frozen=True):
    """What the readings say.

    Attributes:
        loss_percent_per_day: best estimate; negative where it seems to gain.
        low_percent_per_day, high_percent_per_day: its 90 % interval.
        verdict: by the bounds of the interval.
        trend: whether the leak slows down.
        decides_at_h: hours since the first reading at which the next one will decide; None where
            the verdict stands already, or no reading within a week will.
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


def given_back_kpa(
    p20_kpa: Sequence[float], volume_ml: float, gauge_ml: float = GAUGE_ML
) -> tuple[float, ...]:
    """Return readings with the air that every earlier reading let into the gauge given back.

    A reading fills the gauge's head of volume v from ambient: the gauge pressure falls by V / (V +
    v). The n-th reading is divided by that factor n - 1 times.

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
        step_kpa: finest step of the gauge; where it is given, the error of each reading follows
            from it and from its temperature (see `reading_error_kpa`) in place of the resolution.
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
        [normalised_kpa(r.pressure_kpa, _celsius(r), ambient_kpa) for r in readings],
        volume_ml,
        gauge_ml,
    )
    if min(p20) < MIN_KPA:
        raise EmptyTire("nothing is left to measure")
    logs = [math.log(p) for p in p20]
    errors = [
        e / p
        for e, p in zip(_errors(readings, resolution_kpa, step_kpa, ambient_kpa), p20, strict=True)
    ]
    grown = [
        GROWTH_SHARE * min(t - times[0], HOURS_PER_DAY) / HOURS_PER_DAY * (p + ambient_kpa) / p
        if new_tire
        else 0.0
        for t, p in zip(times, p20, strict=True)
    ]
    raw = fitted_line(times, logs, errors)
    line = _with_growth(raw, times, grown, errors)
    low, high = interval(line)
    loss = loss_percent_per_day(line.slope)
    verdict = judge(line)
    if verdict != "leaks" and not lies_on_a_line(times, logs, errors, raw):
        verdict = "no_line"
    cold = msgspec.structs.replace(readings[-1], pumped_h=math.inf)
    next_error = _errors([cold], resolution_kpa, step_kpa, ambient_kpa)[0] / p20[-1]
    return HoldReport(
        loss_percent_per_day=loss,
        low_percent_per_day=low,
        high_percent_per_day=high,
        verdict=verdict,
        trend=trend_of(times, logs, errors),
        decides_at_h=decides_at_h(times, logs, errors, line, next_error)
        if verdict == "settling"
        else None,
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

    rises: p20[n] - p20[n - 1] > 3.5 * sqrt(sigma[n]^2 + sigma[n - 1]^2), kPa, sigma as in
    `hold_report`.

    No tire gains air: it was pumped up in between, or misread.

    >>> readings = [HoldReading(0.0, 300.0, 20.0), HoldReading(3.0, 240.0, 20.0), HoldReading(3.1, 300.0, 20.0)]
    >>> counted_from(readings), counted_from(readings[:2])
    (2, 0)

    Source: common practice; derived.
    """
    p20 = [normalised_kpa(r.pressure_kpa, _celsius(r), ambient_kpa) for r in readings]
    errors = _errors(readings, resolution_kpa, step_kpa, ambient_kpa)
    rises = (
        n
        for n in range(1, len(p20))
        if p20[n] - p20[n - 1] > SURE * math.hypot(errors[n], errors[n - 1])
    )
    return max(rises, default=0)


def _errors(
    readings: Sequence[HoldReading],
    resolution_kpa: float,
    step_kpa: float | None,
    ambient_kpa: float,
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
                "Two readings in three are within {reading_kpa} of the true pressure.",
                {"reading_kpa": resolution_kpa},
            )
        ]
    else:
        result = [
            Message("The gauge shows steps of {gauge_step_kpa}.", {"gauge_step_kpa": step_kpa}),
            Message(
                "The air pressure changed by about {weather_kpa} between readings.",
                {"weather_kpa": WEATHER_KPA},
            ),
        ]
        if any(reading.temperature_c is None for reading in readings):
            result.append(Message("Where no temperature was read, it was 20 °C, give or take 4."))
    if new_tire:
        result.append(
            Message(
                "A new tire grows by about 0.5 % in its first day, which looks like a loss: taken out."
            )
        )
    return tuple(result)


def _celsius(reading: HoldReading) -> float:
    return UNREAD_C if reading.temperature_c is None else reading.temperature_c


def reading_error_kpa(
    reading: HoldReading, step_kpa: float, ambient_kpa: float = SEA_LEVEL_KPA
) -> float:
    """Return the standard error of one reading, kPa.

    sqrt(step^2 / 12 + 0.3^2 + (p_abs / T * sigma_T)^2 + 0.5^2 / 2), sigma_T 0.3 °C where the
    temperature was read, 4 °C where it was not, and a further 4 * exp(-t / 10 min) °C at t after
    pumping; the air pressure differs by 0.5 kPa between two readings.

    >>> round(reading_error_kpa(HoldReading(0.0, 200.0, 20.0), 1.0), 2)
    0.63

    Source: docs/models.md 2.9; a rounded reading is uniform over its step.
    """
    sigma_c = math.hypot(
        READ_ERROR_C if reading.temperature_c is not None else UNREAD_ERROR_C,
        PUMPED_C * math.exp(-reading.pumped_h / COOLING_H),
    )
    heat = (reading.pressure_kpa + ambient_kpa) / (_celsius(reading) + KELVIN_AT_ZERO_C) * sigma_c
    return math.sqrt(step_kpa**2 / 12.0 + GAUGE_ERROR_KPA**2 + heat**2 + WEATHER_KPA**2 / 2.0)


def tells_after_h(first: HoldReading, step_kpa: float, ambient_kpa: float = SEA_LEVEL_KPA) -> float:
    """Return after how many hours a second reading shows that a tight tire holds.

    24 * max(1.645 * e / (b(10) - b(2)), 3.5 * e / (b(12) - b(2))), e = the error of both readings
    / pressure, b(x) = -ln(1 - x / 100): both bounds of the verdict, for a tire that loses 2 % a day.

    >>> round(tells_after_h(HoldReading(0.0, 240.0, 20.0), 1.0), 1)
    3.0

    Source: docs/models.md 2.9; what a tight tire loses is common practice.
    """
    cold = msgspec.structs.replace(first, pumped_h=math.inf)
    error = math.hypot(
        reading_error_kpa(first, step_kpa, ambient_kpa),
        reading_error_kpa(cold, step_kpa, ambient_kpa),
    )
    share = error / max(first.pressure_kpa, MIN_KPA)

    def apart(percent: float) -> float:
        return math.log(1.0 - TIGHT / 100.0) - math.log(1.0 - percent / 100.0)

    bounds = ((Z_90, HOLDS_UP_TO), (SURE, SURELY_HOLDS_UP_TO))
    return HOURS_PER_DAY * max(z * share / apart(percent) for z, percent in bounds)


def _check(readings: Sequence[HoldReading], resolution_kpa: float) -> None:
    if resolution_kpa <= 0.0:
        raise ValueError("resolution_kpa must be positive")
    if len(readings) < 2:
        raise TooFew("a loss needs two readings")
    for before, after in itertools.pairwise(readings):
        if after.time_h < before.time_h:
            raise ValueError("time_h must not run backwards")


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
