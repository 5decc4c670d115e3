"""Pressures as a hand sets them: steps, and rounding that stays inside a range (docs/models.md 2.7)."""

import math

#: Nobody sets a pressure finer than this: below 200 kPa, and from there up.
HAND_STEP_KPA, HAND_STEP_HIGH_KPA, HIGH_FROM_KPA = 5.0, 10.0, 200.0


def hand_step_kpa(pressure_kpa: float, gauge_step_kpa: float) -> float:
    """Return the step a hand sets a pressure to: the gauge's, at least 5 kPa, from 200 kPa up at least 10.

    step = max(gauge step, 5 or 10 kPa).

    >>> hand_step_kpa(150.0, 1.0), hand_step_kpa(250.0, 1.0), hand_step_kpa(250.0, 20.0)
    (5.0, 10.0, 20.0)

    Source: common practice, no published source.
    """
    return max(gauge_step_kpa, HAND_STEP_KPA if pressure_kpa < HIGH_FROM_KPA else HAND_STEP_HIGH_KPA)


def rounded_within(value: float, step: float, low: float, high: float) -> float:
    """Return `value` to the nearest gauge step, but inside [low, high], the upper bound ruling.

    step * floor(p / step + 0.5), kept in [low, high].

    >>> rounded_within(339.7, 5.0, 0.0, 338.0), rounded_within(101.0, 5.0, 102.0, 340.0)
    (335.0, 105.0)

    Source: derived.
    """
    inside = min(max(value, low), high)
    nearest = step * math.floor(inside / step + 0.5)
    if nearest > high:
        nearest = step * math.floor(high / step)
    if nearest < low:
        nearest = step * math.ceil(low / step)
    return nearest if low <= nearest <= high else min(max(inside, low), high)
