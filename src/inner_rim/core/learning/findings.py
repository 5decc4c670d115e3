"""What the log proposes: two ways of doing a thing compared on what they cost (docs/models.md 2.15)."""

import math
from collections.abc import Iterable, Iterator, Sequence
from statistics import fmean

import msgspec

from inner_rim.core.learning.effects import Key

#: Wheels on each side of a comparison, how sure it must be at least, and the false findings that
#: all comparisons of a shop may have together.
LEAST_WHEELS, SURE, FALSE_FINDINGS = 8, 0.9, 0.1
#: The least that is worth a change: minutes a wheel, and returns of wheels.
LEAST_MINUTES, LEAST_RETURNS = 1.0, 0.02
MOST_FINDINGS = 5
#: What the usual is worth, in wheels (common practice, no published source).
PRIOR_WHEELS = 4.0
#: Odds are held within these shares, and rounded to this step of their logarithm: no wheel is
#: certain.
SURE_ODDS, ODDS_STEP = 0.03, 0.25
#: The grid of a posterior: ends and points.
GRID_END, GRID_POINTS = 7.0, 281


class Case(msgspec.Struct, frozen=True):
    """How it went at one wheel.

    Attributes:
        value: 1 for well and 0 for badly, or minutes.
        odds: the probability that it goes well at such a wheel, whatever the way; 0.5 for minutes.
        alike: wheels whose minutes can be compared have it in common.
    """

    key: Key
    value: float
    odds: float = 0.5
    alike: str = ""


class Figure(msgspec.Struct, frozen=True):
    """A figure of one way with its interval, nine times out of ten, and the wheels it was seen on."""

    value: float
    low: float
    high: float
    wheels: tuple[Key, ...]


class Compared(msgspec.Struct, frozen=True):
    """A way beside the one in use.

    Attributes:
        better: the probability that it is better.
        gain: its share of wheels more that go well, or the minutes a wheel it takes less.
    """

    better: float
    gain: float
    way: Figure
    used: Figure


def enough(way: Sequence[Case], used: Sequence[Case]) -> bool:
    return min(len(way), len(used)) >= LEAST_WHEELS


def compare_rates(way: Sequence[Case], used: Sequence[Case]) -> Compared:
    """Return how often things go well each way, on wheels as hard as all of them together.

    The logarithm of the odds of a wheel is moved by b, one b a way; its posterior is the product of
    the wheels' likelihoods and of 4 wheels that went as usual in this shop. Where all wheels are
    alike, that is Beta(4 p + good, 4 (1 - p) + bad) exactly. A rate is the mean over all wheels.

    >>> good, bad = (Case(("j", str(n)), value) for n, value in ((0, 1.0), (1, 0.0)))
    >>> result = compare_rates([good] * 28 + [bad] * 2, [good] * 15 + [bad] * 15)
    >>> round(result.better, 3), round(result.way.value, 2), round(result.used.value, 2)
    (1.0, 0.91, 0.52)

    Args:
        way, used: at least one outcome each, of 0 or 1.

    Source: conjugate Beta prior, carried to unequal wheels on a grid (docs/models.md 2.15).
    """
    everything = _by_odds((*way, *used))
    together = _posterior(everything, _as_usual(everything, 0.0))
    usual = sum(b * weight for b, weight in together)
    both = [_posterior(_by_odds(one), _as_usual(everything, usual)) for one in (way, used)]
    better, below = 0.0, 0.0
    for (_b, mine), (_b2, theirs) in zip(*both, strict=True):
        better += mine * (below + 0.5 * theirs)
        below += theirs
    figures = [
        _rate(posterior, everything, cases)
        for posterior, cases in zip(both, (way, used), strict=True)
    ]
    return Compared(better, figures[0].value - figures[1].value, *figures)


#: How many wheels of each logarithm of the odds went well, and how many did not.
_Counts = dict[float, tuple[float, float]]
_Posterior = list[tuple[float, float]]


def _by_odds(cases: Iterable[Case]) -> _Counts:
    result: _Counts = {}
    for one in cases:
        share = min(max(one.odds, SURE_ODDS), 1.0 - SURE_ODDS)
        place = ODDS_STEP * round(math.log(share / (1.0 - share)) / ODDS_STEP)
        good, bad = result.get(place, (0.0, 0.0))
        result[place] = good + one.value, bad + 1.0 - one.value
    return result


def _as_usual(counts: _Counts, usual: float) -> Iterator[tuple[float, tuple[float, float]]]:
    """Wheels worth `PRIOR_WHEELS` that went as usual, shared out as all wheels are."""
    every = sum(map(sum, counts.values()))
    for place, one in counts.items():
        worth, share = PRIOR_WHEELS * sum(one) / every, logistic(place + usual)
        yield place, (worth * share, worth * (1.0 - share))


def _posterior(counts: _Counts, prior: Iterable[tuple[float, tuple[float, float]]]) -> _Posterior:
    """(b, weight) on a grid of b."""
    rows = [*counts.items(), *prior]
    at = [GRID_END * (2.0 * n / (GRID_POINTS - 1) - 1.0) for n in range(GRID_POINTS)]
    logs = [
        sum(
            good * math.log(logistic(place + b)) + bad * math.log(logistic(-place - b))
            for place, (good, bad) in rows
        )
        for b in at
    ]
    most = max(logs)
    weights = [math.exp(one - most) for one in logs]
    whole = sum(weights)
    return [(b, weight / whole) for b, weight in zip(at, weights, strict=True)]


def logistic(x: float) -> float:
    """Return 1 / (1 + exp(-x)).

    >>> logistic(0.0), round(logistic(-2.0), 3)
    (0.5, 0.119)
    """
    return 1.0 / (1.0 + math.exp(-x))


def _rate(posterior: _Posterior, everything: _Counts, cases: Sequence[Case]) -> Figure:
    every = sum(map(sum, everything.values()))
    rates = [
        (sum(sum(n) * logistic(place + b) for place, n in everything.items()) / every, weight)
        for b, weight in posterior
    ]
    mean = sum(rate * weight for rate, weight in rates)
    return Figure(mean, *_interval(rates), tuple(one.key for one in cases))


def _interval(posterior: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The middle 90 % of values in rising order with their weights."""
    ends: list[float] = []
    below = 0.0
    for value, weight in posterior:
        below += weight
        if below >= (0.05, 0.95)[len(ends)]:
            ends.append(value)
            if len(ends) == 2:
                break
    return ends[0], ends[-1]


def compare_minutes(way: Sequence[Case], used: Sequence[Case]) -> Compared | None:
    """Return what each way takes, wheels compared with those alike; None where none are.

    Minutes are log-normal around a figure of the wheels alike and one of the way. Difference by
    least squares, d = sum w (mean of used - mean of way) / sum w over the kinds of wheels alike,
    w = n1 n2 / (n1 + n2); with 4 wheels as usual each way, d W / (W + 2), Student's t.

    >>> took = [Case(("j", str(n)), 8.0 * 1.1 ** (n % 5 - 2)) for n in range(20)]
    >>> slow = [Case(one.key, 1.5 * one.value) for one in took]
    >>> result = compare_minutes(took, slow)
    >>> round(result.better, 3), round(result.way.value, 1), round(result.used.value, 1)
    (1.0, 8.4, 11.7)

    Source: normal linear model with a conjugate prior (docs/models.md 2.15).
    """
    kinds: dict[str, tuple[list[float], list[float]]] = {}
    for side, cases in enumerate((way, used)):
        for one in cases:
            kinds.setdefault(one.alike, ([], []))[side].append(math.log(one.value))
    both = {kind: sides for kind, sides in kinds.items() if all(sides)}
    counts = [sum(len(sides[side]) for sides in both.values()) for side in (0, 1)]
    freedom = sum(counts) - len(both) - 1
    if min(counts) < LEAST_WHEELS or freedom < LEAST_WHEELS:
        return None
    worth = {kind: len(a) * len(b) / (len(a) + len(b)) for kind, (a, b) in both.items()}
    whole = sum(worth.values())
    raw = sum(worth[kind] * (fmean(b) - fmean(a)) for kind, (a, b) in both.items()) / whole
    left = sum(_squares(a, b, raw) for a, b in both.values())
    spread = math.sqrt(max(left / freedom, 1e-4))
    prior = PRIOR_WHEELS / 2.0
    less, error = raw * whole / (whole + prior), spread / math.sqrt(whole + prior)
    posterior = _student(less, error, freedom)
    better = sum(weight for value, weight in posterior if value > 0.0)
    middle = fmean(value for a, b in both.values() for value in (*a, *b))
    share = counts[1] / sum(counts)
    tops = (middle - less * share, middle + less * (1.0 - share))
    figures = []
    for top, n, cases in zip(tops, counts, (way, used), strict=True):
        mean = top + 0.5 * spread**2
        low, high = _interval(_student(mean, spread / math.sqrt(n), freedom))
        wheels = tuple(one.key for one in cases if one.alike in both)
        figures.append(Figure(math.exp(mean), math.exp(low), math.exp(high), wheels))
    return Compared(better, figures[1].value - figures[0].value, *figures)


def _squares(way: list[float], used: list[float], less: float) -> float:
    """Squares that are left of wheels alike, once their own mean and the way's figure are taken."""
    moved = [*(value + less for value in way), *used]
    mean = fmean(moved)
    return sum((value - mean) ** 2 for value in moved)


def _student(mean: float, spread: float, freedom: int) -> list[tuple[float, float]]:
    at = [GRID_END * (2.0 * n / (GRID_POINTS - 1) - 1.0) for n in range(GRID_POINTS)]
    weights = [(1.0 + t * t / freedom) ** (-0.5 * (freedom + 1)) for t in at]
    whole = sum(weights)
    return [(mean + spread * t, weight / whole) for t, weight in zip(at, weights, strict=True)]


def said(compared: Compared, comparisons: int, gain: float, least: float) -> bool:
    """Return whether a comparison is a finding: sure enough for all that were made, and worth it.

    P(better) >= max(0.9, 1 - 0.1 / comparisons), so that a shop whose ways are all alike has one
    false finding in ten at most.

    Args:
        comparisons: how many pairs of ways and outcomes this shop's log could decide.
        gain, least: what it gains a wheel, and the least that counts, in the same unit.

    Source: Bonferroni's inequality.
    """
    sure = max(SURE, 1.0 - FALSE_FINDINGS / max(1, comparisons))
    return compared.better >= sure and gain >= least


def worse(compared: Compared, loss: float, least: float) -> bool:
    """Return whether a way is likely worse on an outcome, by as much as would count as a gain."""
    return compared.better <= 1.0 - SURE and loss >= least
