"""The figures that are learned: which effects move them, how large these usually are, and what counts as evidence."""

import math
from collections.abc import Sequence

from inner_rim.core.learning.effects import Between, LearnedEffects, Seen, learn_between, learn_values
from inner_rim.core.models.inflation import GAP_SPREAD
from inner_rim.core.models.seating_pressure import SPREAD as SEAT_SPREAD

#: Spreads of the effects on the logarithm of a figure (common practice, no published source; docs/models.md 2.11).
GAP_SPREADS = {"shop": 0.3, "rim": 0.4, "tire": 0.4, "pair": 0.3}
GAP_WITHIN = 0.55
SEAT_SPREADS = {"shop": 0.08, "rim": 0.12, "tire": 0.12, "pair": 0.08}
#: What is left of the whole spread of 0.30 between beads of the same rim and tire.
SEAT_WITHIN = math.sqrt(SEAT_SPREAD**2 - sum(one**2 for one in SEAT_SPREADS.values()))
KEPT_SPREADS = {"shop": 0.08, "rider": 0.12, "ground": 0.06}
KEPT_ERROR = 0.08
DRYING_SPREADS = {"shop": 0.25, "product": 0.25}
#: A prior on failures, worth half a wheel and year: one in twenty wheels a year (common practice, no published source).
FAILURES, FAILURE_YEARS = 0.025, 0.5
#: Spread of the drying rate of single wheels around the shop's and the product's.
DRYING_WITHIN = 0.2


def learn_gap(tries: Sequence[Between]) -> LearnedEffects:
    """Return what attempts teach of the gap of a shop's rims and tires.

    Args:
        tries: a wheel's ln(gap / usual median of its class), above what failed to outrun it and below what did, with the
            effects shop, rim, tire and pair.
    """
    return learn_between(tries, GAP_SPREADS, GAP_WITHIN)


def gap_spread(effects: LearnedEffects, groups: dict[str, str]) -> float:
    """Return the spread of the logarithm of a single gap: the mixture's of a shop that differs and one that is usual.

    Source: docs/models.md 2.11.
    """
    return _mixed_spread(effects, groups, GAP_WITHIN, GAP_SPREAD)


def _mixed_spread(effects: LearnedEffects, groups: dict[str, str], within: float, usual: float) -> float:
    mean, spread = effects.if_it_differs(groups)
    differs = effects.share * (within**2 + spread**2 + mean**2)
    return math.sqrt(differs + (1.0 - effects.share) * usual**2 - (effects.share * mean) ** 2)


def learn_seats(seen: Sequence[Between]) -> LearnedEffects:
    """Return what tries and pops teach of the pressure at which beads seat.

    Args:
        seen: ln(pressure / usual median of such wheels), with the effects shop, rim, tire and pair.
    """
    return learn_between(seen, SEAT_SPREADS, SEAT_WITHIN)


def seat_spread(effects: LearnedEffects, groups: dict[str, str]) -> float:
    """Return the spread of the logarithm of a single seating pressure: the mixture's, as for a gap.

    Source: docs/models.md 2.14.
    """
    return _mixed_spread(effects, groups, SEAT_WITHIN, SEAT_SPREAD)


def learn_kept(kept: Sequence[Seen]) -> LearnedEffects:
    """Return what riders teach of the pressure.

    Args:
        kept: logarithm of kept over proposed, with the effects shop, rider and ground.
    """
    return learn_values(kept, KEPT_SPREADS)


def learn_drying(dips: Sequence[Seen]) -> LearnedEffects:
    """Return what dips teach of how fast sealant dries.

    Args:
        dips: logarithm of the rate of one wheel over the climate's, with the effects shop and product.
    """
    return learn_values(dips, DRYING_SPREADS)


def failures_a_year(count: int, years: float) -> float:
    """Return the failures of a wheel and year: Gamma-Poisson, (0.025 + count) / (0.5 + years).

    >>> failures_a_year(0, 0.0), round(failures_a_year(4, 9.5), 3)
    (0.05, 0.403)

    Args:
        count: wheels of one sort that came back for what was done.

    Source: conjugate Gamma prior.
    """
    return (FAILURES + count) / (FAILURE_YEARS + years)
