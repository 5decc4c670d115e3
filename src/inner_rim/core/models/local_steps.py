"""Steps down in a fast rise, from the readings just around them (docs/models.md 2.8).

Whatever the source does, a compressor, a bottle, a regulator that hunts, over a few readings its rise is a parabola. A
bead that comes up is a step in it; a source that opens or shuts is a kink.
"""

from functools import cache
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    from inner_rim.core.models.rises import Samples

    Table = npt.NDArray[np.float64]

#: How much better, in variances of one reading, a step must explain the readings than a parabola, and than a kink.
EVIDENCE, OVER_KINK = 20.0, 9.0
#: The same where a curve through the whole rise says a step already.
CONFIRMED, CONFIRMED_OVER_KINK = 12.0, 3.0
#: Half widths of the windows, and how long a bead and a gauge that lags may take over a step, s.
HALVES_S, TAKES_S = (0.1, 0.2, 0.35), (0.0, 0.03, 0.08, 0.15)
LEAST_HALF = 3
#: The rise is true to a parabola to this share of what it rises by in the window.
TRUE_SHARE = 0.003
#: What the step leaves may be above its expectation by so many of its standard deviations.
LEFT_SIGMAS = 4.0


class LocalStep(NamedTuple):
    """A step down: how sure, in variances; after which sample; by how much, kPa."""

    evidence: float
    sample: int
    drop_kpa: float


class _Window(NamedTuple):
    """A window around a boundary: places of its readings, and what a parabola leaves of a step and of kinks."""

    places: "npt.NDArray[np.int_]"
    basis: "Table"
    step: "Table"
    kinks: "Table"


@cache
def _window(half: int, takes: int) -> _Window:
    import numpy as np

    places = np.concatenate([np.arange(1 - half, 1), np.arange(1 + takes, 1 + takes + half)])
    x = places / half
    basis, _scale = np.linalg.qr(np.stack([np.ones_like(x), x, x * x], axis=1))

    def left(column: "Table") -> "Table":
        rest: Table = column - basis @ (basis.T @ column)
        return rest

    bends = [
        left(np.maximum(0.0, places - at)) for at in np.arange(1.5 - half, half + takes, max(1, half // 3))
    ]
    kinks = [bend / np.linalg.norm(bend) for bend in bends if bend @ bend > 1e-6]
    return _Window(places, basis, left((places > 0).astype(float)), np.array(kinks))


def local_steps(pressure_kpa: "Samples", rise: slice, dt_s: float, sigma_kpa: float) -> list[LocalStep]:
    """Return the boundaries of a rise at which a step down explains the readings around, the surest first.

    For windows of 0.1, 0.2 and 0.35 s to each side: (sum of squares about a parabola - about a parabola with a step) /
    variance > 20, and more than a kink explains by 9.

    Args:
        pressure_kpa: shape (n,), gauge.
        rise: where air flows in.
        dt_s: between two samples.
        sigma_kpa: standard deviation of one reading.

    >>> import numpy as np
    >>> t = np.arange(0.0, 2.0, 0.05)
    >>> p = 150.0 * t - np.where(t > 1.02, 8.0, 0.0)
    >>> [(step.sample, round(step.drop_kpa, 1)) for step in local_steps(p, slice(0, 40), 0.05, 0.3)]
    [(20, 8.0)]

    Source: derived; generalized likelihood ratio of a change in a local polynomial.
    """
    best: dict[int, LocalStep] = {}
    for evidence, over, sound, drops, first in _judged(pressure_kpa, rise, dt_s, sigma_kpa):
        for i in (sound & (evidence > EVIDENCE) & (over > OVER_KINK)).nonzero()[0]:
            step = LocalStep(float(evidence[i]), first + int(i), float(drops[i]))
            if step.sample not in best or step > best[step.sample]:
                best[step.sample] = step
    found: list[LocalStep] = []
    apart = max(2, round(TAKES_S[-1] / dt_s))
    for step in sorted(best.values(), reverse=True):
        if all(abs(step.sample - other.sample) > apart for other in found):
            found.append(step)
    return found


def is_step(pressure_kpa: "Samples", rise: slice, sample: int, dt_s: float, sigma_kpa: float) -> bool:
    """Whether the readings around a boundary say a step down too: by 12 variances, 3 more than any kink explains.

    >>> import numpy as np
    >>> t = np.arange(0.0, 2.0, 0.05)
    >>> waves = 150.0 * t + 6.0 * np.sin(6.0 * t)
    >>> is_step(waves, slice(0, 40), 20, 0.05, 0.3), is_step(waves - 8.0 * (t > 1.02), slice(0, 40), 20, 0.05, 0.3)
    (False, True)

    Source: see `local_steps`.
    """
    near = max(1, round(0.1 / dt_s))
    for evidence, over, _sound, _drops, first in _judged(pressure_kpa, rise, dt_s, sigma_kpa):
        low, high = max(0, sample - near - first), max(0, sample + near + 1 - first)
        here = (evidence[low:high] > CONFIRMED) & (over[low:high] > CONFIRMED_OVER_KINK)
        if bool(here.any()):
            return True
    return False


def _judged(
    p: "Samples", rise: slice, dt: float, sigma: float
) -> "list[tuple[Table, Table, npt.NDArray[np.bool_], Table, int]]":
    """For each window: evidence of a step down at each boundary, what it is over a kink, whether the step leaves no more
    than the noise, its height, and the first boundary.
    """
    import numpy as np

    halves = sorted({max(LEAST_HALF, round(s / dt)) for s in HALVES_S} | {4, 6})
    found = []
    for half in halves:
        for takes in sorted({round(s / dt) for s in TAKES_S} | {0, 1}):
            first, last = max(rise.start - 1, 0) + half - 1, rise.stop - takes - half
            if takes > 2 * half or last <= first:
                continue
            window = _window(half, takes)
            shown = p[np.arange(first, last)[:, None] + window.places]
            rest = shown - (shown @ window.basis) @ window.basis.T
            square = float(window.step @ window.step)
            drops = -(rest @ window.step) / square
            variance = sigma * sigma + (TRUE_SHARE * np.ptp(shown, axis=1)) ** 2
            evidence = np.where(drops > 0.0, drops * drops * square / variance, 0.0)
            kink = ((rest @ window.kinks.T) ** 2).max(axis=1) / variance
            free = max(1, 2 * half - 4)
            left = (rest * rest).sum(axis=1) / variance - evidence
            found.append(
                (evidence, evidence - kink, left < free + LEFT_SIGMAS * np.sqrt(2.0 * free), drops, first)
            )
    return found
