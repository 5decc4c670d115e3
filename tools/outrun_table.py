"""Work out the tables of `core/models/inflation.py`: the greatest leak past unseated beads that a source outruns.

Run: .venv/bin/python tools/outrun_table.py

Steps the tire from flat (docs/models.md 2.10) so finely that a step moves the pressure by less than half a percent
of the closing pressure, and halves the leak until it is known to a thousandth. Prints the tables.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable

from inner_rim.core.models.inflation import (
    EXCESSES,
    KAPPA,
    MAX_STROKES,
    PRESSURE_RATIOS,
    STROKE_L_S,
    STROKE_LITER,
    STROKE_RISES,
    STROKE_S,
)

FINE, BISECTIONS = 0.004, 12
#: The leak is greatest at a third of the closing pressure: 1 / ((1 - 1/3) * sqrt(1/3)).
GREATEST = 1.5 * math.sqrt(3.0)


def halved(passes: Callable[[float], bool]) -> float:
    """Return the greatest share of the source's own flow that a leak may have; none is above 1."""
    low, high = 0.0, 1.0
    for _ in range(BISECTIONS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if passes(middle) else (low, middle)
    return low


def pump_passes(leak: float, rise: float, duty: float) -> bool:
    """Whether strokes bring the tire past the closing pressure; `rise` is a stroke's without a leak, in pc."""
    step = min(FINE / (rise / duty), 0.02)
    u = before = 0.0
    each = math.ceil(1.0 / step)
    step = 1.0 / each
    on = round(each * duty)
    for _ in range(MAX_STROKES):
        for i in range(each):
            inflow = rise / (on * step) if i < on else 0.0
            u = max(
                0.0, u + step * (inflow - leak * rise / duty * GREATEST * (1.0 - u) * math.sqrt(u))
            )
            if u >= 1.0:
                return True
        if u <= before + 1e-4:
            return False
        before = u
    return False


def flow_of(ratio: float) -> float:
    """The flow out of a bottle at a ratio of absolute pressures, choked flow being the ratio itself."""
    if ratio <= 1.0:
        return 0.0
    critical = (2.0 / (KAPPA + 1.0)) ** (KAPPA / (KAPPA - 1.0))
    if 1.0 / ratio <= critical:
        return ratio
    choked = math.sqrt(KAPPA) * (2.0 / (KAPPA + 1.0)) ** ((KAPPA + 1.0) / (2.0 * (KAPPA - 1.0)))
    expansion = ratio ** (-2.0 / KAPPA) - ratio ** (-(KAPPA + 1.0) / KAPPA)
    return ratio * math.sqrt(2.0 * KAPPA / (KAPPA - 1.0) * expansion) / choked


def bottle_passes(leak: float, excess: float, ratio: float) -> bool:
    """Whether a bottle that blows down brings the tire past; `excess` is its air above ambient, in pc of the tire."""
    gain, first = excess / (ratio - 1.0), flow_of(ratio)
    u, left = 0.0, ratio
    while True:
        flow = flow_of(left)
        rate = gain * (flow - leak * first * GREATEST * (1.0 - u) * math.sqrt(u))
        if rate <= 1e-6:
            return False
        step = min(FINE / max(rate, gain * flow), 0.005)
        u, left = u + step * rate, left - step * flow
        if u >= 1.0:
            return True


def rows(name: str, result: list[list[float]]) -> str:
    """A table as it stands in the code."""
    lines = "\n".join(f"    ({', '.join(f'{value:.3f}' for value in row)})," for row in result)
    return f"{name} = (\n{lines}\n)\n"


def main() -> None:
    """Print both tables."""
    pump = []
    for core_out in (False, True):
        duty = STROKE_LITER / STROKE_L_S[core_out] / STROKE_S
        pump.append(
            [halved(lambda leak, r=r, d=duty: pump_passes(leak, r, d)) for r in STROKE_RISES]
        )
    bottle = [
        [halved(lambda leak, x=x, r=r: bottle_passes(leak, x, r)) for x in EXCESSES]
        for r in PRESSURE_RATIOS
    ]
    sys.stdout.write(rows("PUMP_SHARES", pump) + rows("BOTTLE_SHARES", bottle))


if __name__ == "__main__":
    main()
