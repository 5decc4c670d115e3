"""What is learned, against the same posteriors worked out another way by SciPy."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize
from scipy.stats import multivariate_normal, norm
from tools.shops import tried

from inner_rim.core.learning.effects import (
    DIFFERS,
    Between,
    Seen,
    gap_spread,
    learn_between,
    learn_gap,
    learn_values,
    phi,
)
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.resolved import Learned, LearnedFigure
from tests.samples import ordinary

SPREADS = {"shop": 0.2, "rim": 0.4}


def things(count, seed):
    """Whose observations are: the shop's, and one of three rims'."""
    rng = np.random.default_rng(seed)
    return rng, [{"shop": "", "rim": f"r{rng.integers(3)}"} for _ in range(count)]


def design_of(groups, places):
    return np.array([[float(item in one.items()) for item in places] for one in groups])


@pytest.mark.parametrize("count", [1, 7, 40])
def test_values_teach_what_a_joint_normal_distribution_says(count):
    """The effects given the values, by conditioning their joint distribution (no precision matrix), and the evidence."""
    rng, groups = things(count, count)
    seen = [Seen(rng.normal(0.3, 0.3), rng.uniform(0.05, 0.3), one) for one in groups]
    result = learn_values(seen, SPREADS)
    prior = np.diag([SPREADS[kind] ** 2 for kind, _key in result.places])
    design, values = design_of(groups, result.places), np.array([one.value for one in seen])
    noise = np.diag([one.error**2 for one in seen])
    whole = design @ prior @ design.T + noise
    gain = prior @ design.T @ np.linalg.inv(whole)
    assert result.means == pytest.approx(gain @ values)
    covariance = np.array(
        [result.precision.solved(column) for column in np.eye(len(result.places))]
    )
    assert covariance == pytest.approx(prior - gain @ design @ prior)
    usual = multivariate_normal.logpdf(values, np.zeros(count), noise)
    differs = multivariate_normal.logpdf(values, np.zeros(count), whole)
    odds = math.exp(differs - usual) * DIFFERS / (1.0 - DIFFERS)
    assert result.share == pytest.approx(odds / (1.0 + odds))


@pytest.mark.parametrize("count", [1, 12, 60])
def test_tries_teach_the_mode_that_an_optimizer_finds(count):
    rng, groups = things(count, count)
    thresholds, worked = rng.normal(0.0, 1.0, count), rng.random(count) < 0.4
    tries = [
        tried(float(at), bool(did), one)
        for at, did, one in zip(thresholds, worked, groups, strict=True)
    ]
    result = learn_between(tries, SPREADS, 0.5)
    spreads = np.array([SPREADS[kind] for kind, _key in result.places])
    design, sign = design_of(groups, result.places), np.where(worked, 1.0, -1.0)
    threshold = thresholds

    def cost(effects):
        z = sign * (threshold - design @ effects) / 0.5
        return -norm.logcdf(z).sum() + 0.5 * ((effects / spreads) ** 2).sum()

    best = minimize(cost, np.zeros(len(spreads)), method="Nelder-Mead", options={"xatol": 1e-7, "fatol": 1e-10, "maxiter": 9000, "maxfev": 9000})  # fmt: skip
    assert result.means == pytest.approx(best.x, abs=1e-4)


@pytest.mark.parametrize("beads", [1, 2])
def test_intervals_and_exact_readings_teach_the_mode_that_an_optimizer_finds(beads):
    """The largest of two beads between two steps, far outside too; scipy's normal distribution and its optimizer judge."""
    rng, groups = things(24, 5)
    lows = rng.normal(0.0, 1.5, 24)
    seen = [Between(float(low), float(low + rng.choice((0.0, 0.4, math.inf))), one, ("", ""), beads)
            for low, one in zip(lows, groups, strict=True)]  # fmt: skip
    seen[0] = Between(7.0, math.inf, groups[0], ("", ""), beads)
    result = learn_between(seen, SPREADS, 0.3)
    spreads = np.array([SPREADS[kind] for kind, _key in result.places])
    design = design_of(groups, result.places)

    def cost(effects):
        total = 0.5 * ((effects / spreads) ** 2).sum()
        for one, mean in zip(seen, design @ effects, strict=True):
            if one.low == one.high:
                total -= norm.logpdf(one.low, mean, 0.3)
            elif math.isinf(one.high):
                log_below = beads * norm.logcdf(one.low, mean, 0.3)
                total -= (
                    math.log(-math.expm1(log_below))
                    if log_below > -1e-8
                    else np.log1p(-np.exp(log_below))
                )
            else:
                total -= np.log(
                    norm.cdf(one.high, mean, 0.3) ** beads - norm.cdf(one.low, mean, 0.3) ** beads
                )
        return total

    best = minimize(cost, np.asarray(result.means) + 0.02, method="Nelder-Mead", options={"xatol": 1e-7, "fatol": 1e-10, "maxiter": 9000, "maxfev": 9000})  # fmt: skip
    assert result.means == pytest.approx(best.x, abs=2e-3)


def test_the_spread_of_gaps_is_that_of_a_mixture_drawn_at_random():
    tries = [tried(0.6, n % 3 == 0, {"shop": "", "rim": "a"}) for n in range(12)]
    result, groups = learn_gap(tries), {"shop": "", "rim": "a"}
    mean, spread = result.if_it_differs(groups)
    rng = np.random.default_rng(3)
    differs = rng.random(400_000) < result.share
    gaps = np.where(
        differs, rng.normal(mean, math.hypot(0.55, spread), 400_000), rng.normal(0.0, 0.9, 400_000)
    )
    assert gap_spread(result, groups) == pytest.approx(gaps.std(), rel=0.01)
    assert phi(-1.2) == pytest.approx(norm.cdf(-1.2))


FACTORS = st.builds(LearnedFigure, st.floats(-4.0, 4.0), st.just(0.1), st.just(9))


@given(
    st.builds(Learned, FACTORS, FACTORS, st.floats(0.1, 2.0), FACTORS),
    st.sampled_from([None, 250.0, 400.0]),
    st.sampled_from([None, 180.0]),
)
def test_nothing_learned_moves_a_limit_or_passes_one(learned, most, least):
    document = ordinary(tire__max_pressure_kpa=most, tire__min_pressure_kpa=least)
    job = job_from_plain(document)
    usual, plan = (
        plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, (), *more)
        for more in ((), (learned,))
    )
    assert plan.pressure.limit_kpa == usual.pressure.limit_kpa
    for pressure in (plan.pressure.start_kpa, plan.pressure.settle_kpa, *plan.pressure.seating_kpa):
        assert 0.0 < pressure <= plan.pressure.limit_kpa
    assert plan.pressure.start_kpa >= min(least or 0.0, plan.pressure.limit_kpa)
    assert plan.sealant.refresh_after_days * learned.drying.factor == pytest.approx(
        usual.sealant.refresh_after_days
    )
    assert plan.sealant.dose_ml == usual.sealant.dose_ml
