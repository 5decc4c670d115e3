"""The greatest leak past unseated beads that a source of air outruns, from tables (docs/models.md 2.10).

Stepping a tire from flat takes thousands of steps for each source and volume, so that is done once, without
dimensions, by `tools/outrun_table.py`. A leak that closes with pressure is greatest at a third of the closing
pressure; no source outruns one that is greater there than its own flow.
"""

import math
from bisect import bisect_right
from collections.abc import Sequence

#: Strokes after which pumping is given up.
MOST_STROKES = 40
#: What a stroke adds without a leak, as a multiple of the closing pressure.
STROKE_RISES = (0.03, 0.06, 0.1, 0.15, 0.2, 0.3, 0.45, 0.7, 1.0, 1.5, 2.2, 3.5, 6.0, 12.0, 30.0)
#: Air in a bottle above the ambient pressure, as a multiple of what brings the tire to the closing pressure.
EXCESSES = (1.0, 1.1, 1.25, 1.5, 2.0, 3.0, 4.5, 7.0, 11.0, 18.0, 35.0, 80.0, 250.0, 1000.0)
#: Absolute pressure in the bottle over the ambient pressure.
PRESSURE_RATIOS = (1.5, 2.0, 3.0, 5.0, 10.0, 20.0)
#: Core in, core out.
PUMP_SHARES = (
    (0.227, 0.713, 0.859, 0.916, 0.938, 0.956, 0.964, 0.969, 0.971, 0.972, 0.973, 0.974, 0.978, 0.988, 0.997),
    (0.083, 0.260, 0.313, 0.334, 0.343, 0.352, 0.360, 0.375, 0.404, 0.502, 0.695, 0.855, 0.942, 0.983, 0.997),
)
#: By ratio.
BOTTLE_SHARES = (
    (0.000, 0.089, 0.193, 0.316, 0.463, 0.606, 0.703, 0.780, 0.836, 0.881, 0.922, 0.954, 0.978, 0.991),
    (0.000, 0.089, 0.194, 0.317, 0.465, 0.608, 0.705, 0.781, 0.837, 0.881, 0.922, 0.954, 0.978, 0.991),
    (0.000, 0.084, 0.183, 0.300, 0.440, 0.577, 0.672, 0.750, 0.810, 0.860, 0.907, 0.945, 0.973, 0.989),
    (0.000, 0.076, 0.165, 0.272, 0.402, 0.536, 0.636, 0.721, 0.788, 0.843, 0.896, 0.938, 0.970, 0.988),
    (0.000, 0.067, 0.147, 0.245, 0.368, 0.504, 0.610, 0.700, 0.772, 0.831, 0.888, 0.933, 0.967, 0.987),
    (0.000, 0.062, 0.136, 0.228, 0.350, 0.488, 0.597, 0.691, 0.764, 0.825, 0.884, 0.931, 0.966, 0.986),
)


def pump_share(rise: float, core_out: bool) -> float:
    """Return the greatest leak that a floor pump outruns, as a share of its flow during a stroke (no unit).

    share = the greatest lambda for which du/dt = rise * (q(t) - lambda * 2.6 * (1 - u) * sqrt(u)) passes u = 1.

    Args:
        rise: what a stroke adds without a leak, over the closing pressure.
        core_out: of the valve.

    >>> round(pump_share(1.97, True), 2), pump_share(0.001, False)
    (0.64, 0.227)

    Source: `tools/outrun_table.py`; strokes common practice, no published source.
    """
    return _between(STROKE_RISES, PUMP_SHARES[core_out], rise)


def bottle_share(excess: float, ratio: float) -> float:
    """Return the greatest leak that a bottle outruns while it blows down, as a share of its first flow (no unit).

    share = as `pump_share`, with q(t) the flow of what is left in the bottle; 0 where it cannot fill the tire.

    Args:
        excess: its air above the ambient pressure, over what brings the tire to the closing pressure.
        ratio: of its absolute pressure to the ambient one.

    >>> round(bottle_share(60.0, 9.9), 2), bottle_share(0.9, 9.9)
    (0.92, 0.0)

    Source: `tools/outrun_table.py`; isentropic flow of an ideal gas.
    """
    if excess <= EXCESSES[0] or ratio <= 1.0:
        return 0.0
    by_ratio = [_between(EXCESSES, row, excess) for row in BOTTLE_SHARES]
    return _between(PRESSURE_RATIOS, by_ratio, ratio)


def _between(points: Sequence[float], values: Sequence[float], at: float) -> float:
    """Interpolate over the logarithm of the points; beyond the ends the end's own value."""
    place = bisect_right(points, at)
    if place == 0:
        return values[0]
    if place == len(points):
        return values[-1]
    low, high = math.log(points[place - 1]), math.log(points[place])
    share = (math.log(at) - low) / (high - low)
    return values[place - 1] + share * (values[place] - values[place - 1])
