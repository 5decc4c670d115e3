"""A pressure trace as a whole: the peak, the pops, and what went above the limit (docs/models.md
2.8).
"""

from typing import TYPE_CHECKING

import msgspec

from inner_rim.core.models.pops import Pop, find_pops, on_pump_side

if TYPE_CHECKING:
    from inner_rim.core.models.rises import Samples


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
