"""Loss of air as figures: pressures at 20 °C, percent a day and its interval, what is expected when (docs/models.md 2.9)."""

import math

from inner_rim.core.models.air import KELVIN_AT_ZERO_C, SEA_LEVEL_KPA
from inner_rim.core.models.line_fit import NORMAL_90, FittedLine

REFERENCE_K = 293.15
HOURS_PER_DAY = 24.0
#: Beyond it a loss is a burst, and its figures mean nothing.
MOST_EXPONENT = 60.0


def normalised_kpa(pressure_kpa: float, temperature_c: float, ambient_kpa: float = SEA_LEVEL_KPA) -> float:
    """Return a gauge pressure as it would be at 20 °C: p20 = (p + p_amb) * 293.15 / (T + 273.15) - p_amb.

    >>> round(normalised_kpa(200.0, 5.0), 2)
    216.25

    Source: ideal gas law at constant volume.
    """
    return (pressure_kpa + ambient_kpa) * REFERENCE_K / (temperature_c + KELVIN_AT_ZERO_C) - ambient_kpa


def expected_kpa(line: FittedLine, hours: float) -> tuple[float, float, float]:
    """Return (low, middle, high) of the pressure at 20 °C at a time, low and high its 90 % band.

    p = exp(start + slope * t ± 1.645 * sqrt(error^2 + (t - middle)^2 * slope_error^2)), kPa.

    >>> from inner_rim.core.models.line_fit import fitted_line
    >>> line = fitted_line([0.0, 12.0], [5.3, 5.25], [0.004, 0.004])
    >>> [round(kpa, 1) for kpa in expected_kpa(line, 24.0)]
    [178.6, 181.3, 184.0]

    Source: standard error of a fitted line; derived.
    """
    middle = line.start + line.slope * hours
    reach = NORMAL_90 * math.hypot(line.error, (hours - line.middle) * line.slope_error)
    low, mid, high = (math.exp(min(middle + part, MOST_EXPONENT)) for part in (-reach, 0.0, reach))
    return low, mid, high


def loss_percent_per_day(slope_per_hour: float) -> float:
    """Return the loss 100 * (1 - e^(24 * slope)) in percent a day.

    >>> round(loss_percent_per_day(-0.005), 2)
    11.31

    Source: derived.
    """
    exponent = min(HOURS_PER_DAY * slope_per_hour, MOST_EXPONENT)
    return 100.0 * (1.0 - math.exp(exponent))


def interval(line: FittedLine, deviations: float = NORMAL_90) -> tuple[float, float]:
    """Return (low, high) of the loss in percent a day, `errors` standard errors to each side of the slope.

    loss = 100 * (1 - exp(24 * (slope ± deviations * error))).

    >>> from inner_rim.core.models.line_fit import fitted_line
    >>> line = fitted_line([0.0, 12.0], [5.3, 5.25], [0.004, 0.004])
    >>> [round(bound, 2) for bound in interval(line)]
    [7.82, 11.18]

    Source: see `fitted_line` and `loss_percent_per_day`.
    """
    reach = deviations * line.slope_error
    return loss_percent_per_day(line.slope + reach), loss_percent_per_day(line.slope - reach)


def forecast_kpa(
    p20_kpa: float, loss_percent: float, hours: float, temperature_c: float, ambient_kpa: float = SEA_LEVEL_KPA
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
    """Return the hours until the pressure at 20 °C falls to a floor; None where it never does, 0 where it has.

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
