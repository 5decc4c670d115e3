"""Two ways compared: against SciPy's Beta and Student distributions, and in shops with a known truth."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, stats
from tools.shops import found

from inner_rim.core.learning.findings import (
    PRIOR_WHEELS,
    Case,
    compare_minutes,
    compare_rates,
    enough,
    logistic,
)


def wheels(good, bad, odds=0.5):
    return [Case(("j", str(n)), float(n < good), odds) for n in range(good + bad)]


@given(*[st.integers(1, 30)] * 4)
def test_wheels_that_are_alike_give_a_beta_distribution(good, bad, good2, bad2):
    way, used = wheels(good, bad), wheels(good2, bad2)
    result = compare_rates(way, used)
    n = len(way) + len(used)
    # the usual is what all wheels did, with four that are as likely good as bad; as a mean of b
    usual = stats.beta(2.0 + good + good2, 2.0 + bad + bad2)
    share = logistic(usual.expect(lambda p: np.log(p / (1.0 - p))))
    mine, theirs = (
        stats.beta(PRIOR_WHEELS * share + g, PRIOR_WHEELS * (1.0 - share) + b)
        for g, b in ((good, bad), (good2, bad2))
    )
    better, _error = integrate.quad(lambda p: mine.pdf(p) * theirs.cdf(p), 0.0, 1.0, limit=200)
    assert result.better == pytest.approx(better, abs=0.02) and n == good + bad + good2 + bad2
    assert result.way.value == pytest.approx(mine.mean(), abs=0.01)
    assert result.gain == pytest.approx(mine.mean() - theirs.mean(), abs=0.01)
    assert result.way.low == pytest.approx(mine.ppf(0.05), abs=0.03)
    assert result.way.high == pytest.approx(mine.ppf(0.95), abs=0.03)


def test_a_way_is_not_blamed_for_the_hard_wheels_it_was_used_on():
    """One way saw only hard wheels and did as they do, the other only easy ones."""
    hard, easy = wheels(6, 24, odds=0.2), wheels(24, 6, odds=0.8)
    assert 0.35 < compare_rates(hard, easy).better < 0.65
    assert compare_rates(wheels(6, 24), wheels(24, 6)).better < 0.001


def test_minutes_are_those_of_least_squares():
    """Against NumPy's least squares with a column for each kind of wheel, and SciPy's t."""
    rng = np.random.default_rng(4)
    way, used = (
        [
            Case(("j", f"{side} {n}"), float(np.exp(2.0 + 0.6 * kind + by + rng.normal(0, 0.3))), alike=str(kind))
            for n, kind in enumerate(rng.random(count) < share)
        ]
        for side, (count, share, by) in enumerate(((25, 0.8, 0.0), (40, 0.3, 0.2)))
    )  # fmt: skip
    result = compare_minutes(way, used)
    cases = [(0.0, one) for one in way] + [(1.0, one) for one in used]
    design = np.array([[side, one.alike == "True", one.alike == "False"] for side, one in cases])
    logs = np.log([one.value for _side, one in cases])
    fit, left, *_ = np.linalg.lstsq(design.astype(float), logs, rcond=None)
    freedom, spread = len(cases) - 3, np.sqrt(left[0] / (len(cases) - 3))
    whole = 1.0 / np.linalg.inv(design.astype(float).T @ design.astype(float))[0, 0]
    less = fit[0] * whole / (whole + PRIOR_WHEELS / 2.0)
    sure = stats.t(freedom, less, spread / np.sqrt(whole + PRIOR_WHEELS / 2.0)).sf(0.0)
    assert result.better == pytest.approx(sure, abs=0.01)
    assert result.used.value / result.way.value == pytest.approx(np.exp(less), rel=1e-6)
    assert result.gain == pytest.approx(result.used.value - result.way.value)
    apart = [Case(one.key, one.value, alike="other") for one in used]
    assert compare_minutes(way, apart) is None


def test_too_few_wheels_say_nothing():
    assert not enough(wheels(7, 0), wheels(20, 20)) and enough(wheels(8, 0), wheels(4, 4))


def test_a_shop_whose_ways_are_alike_is_told_nothing_and_a_true_gain_is_found():
    """At most one false finding in ten shops; seating two minutes faster is found in four of five of 150 wheels."""
    rng = np.random.default_rng(77)
    assert sum(len(found(rng, 60)) for _ in range(40)) <= 8  # a mean of 4 passes 49 times in 50
    hits = sum("core" in found(rng, 150, "core", "seat", 2.0) for _ in range(15))
    assert hits >= 12
