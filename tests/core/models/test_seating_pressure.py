"""At which pressure beads seat, against the handbook's figures, scipy's distributions and drawn wheels (docs/models.md 2.14)."""

import math
import random

import numpy as np
import pytest
from scipy.stats import lognorm

from inner_rim.core.learning.effects import Between, learn_seats, seat_spread
from inner_rim.core.models.limit import top_step_kpa
from inner_rim.core.models.seating_pressure import SeatingChance


def test_single_beads_seat_at_the_steps_as_often_as_is_common_practice():
    """6, 44, 79 and 94 % at 0.4, 0.6, 0.8 and 1.0 of the top step: common practice, no published source."""
    top = top_step_kpa(45.0)
    one = SeatingChance(0.63 * top, beads=1)
    assert [round(one.by(share * top), 2) for share in (0.4, 0.6, 0.8, 1.0)] == [
        0.06,
        0.44,
        0.79,
        0.94,
    ]


@pytest.mark.parametrize("factor", [1.0, 0.8])
@pytest.mark.parametrize("above", [0.0, 180.0, 250.0])
def test_what_is_left_after_a_try_is_the_share_of_drawn_wheels(above, factor):
    rng = np.random.default_rng(4)
    wheels = lognorm.rvs(0.3, scale=220.0, size=(400_000, 2), random_state=rng).max(axis=1)
    left = wheels[wheels > above]
    chance = SeatingChance(220.0, above_kpa=above)
    assert chance.by(280.0, factor) == pytest.approx((left * factor <= 280.0).mean(), abs=0.005)


def test_a_simulated_wheel_is_drawn_from_it():
    rng = random.Random(2)
    drawn = [SeatingChance(200.0).drawn(rng) for _ in range(4000)]
    assert np.mean([max(pair) <= 240.0 for pair in drawn]) == pytest.approx(
        SeatingChance(200.0).by(240.0), abs=0.02
    )
    assert all(max(SeatingChance(200.0).drawn(rng, 230.0)) <= 230.0 for _ in range(200))


def simulated(rng, wheels, shift, usual):
    """Wheels of a shop whose rims seat otherwise, climbed in steps; a quarter has a live gauge that heard both pops."""
    ladder, effects = (0.4, 0.6, 0.8, 1.0), {}
    for _ in range(wheels):
        rim = f"rim {rng.integers(6)}"
        effect = 0.0 if usual else shift + effects.setdefault(rim, rng.normal(0.0, 0.12))
        beads = np.exp(effect + rng.normal(0.0, 0.30 if usual else 0.24, 2)) * 0.63
        groups = {"shop": "", "rim": rim}
        steps = [step for step in ladder if step >= beads.max()]
        low = max((step for step in ladder if step < beads.max()), default=0.0)
        bounds = [math.log(one / 0.63) if one else -math.inf for one in (low, *steps[:1])]
        yield (
            beads.max(),
            groups,
            Between(bounds[0], bounds[1] if steps else math.inf, groups, ("", ""), 2),
        )


@pytest.mark.parametrize(("shift", "usual"), [(0.0, True), (0.35, False)])
def test_what_is_learned_predicts_no_worse_than_usual_and_better_in_a_shop_that_differs(
    shift, usual
):
    """Log loss of seating by 0.8 of the top step, each wheel from those before it; other seeds than it was built with."""
    rng, losses = np.random.default_rng(77), []
    for _shop in range(8):
        seen, loss = [], [0.0, 0.0]
        learned = learn_seats([])
        for n, (worst, groups, one) in enumerate(simulated(rng, 100, shift, usual)):
            if n and n % 10 == 0:
                learned = learn_seats(seen)
            for place, (mean, spread) in enumerate(
                ((0.0, 0.30), (learned.of(groups)[0], seat_spread(learned, groups)))
            ):
                share = min(
                    max(SeatingChance(0.63 * math.exp(mean), spread).by(0.8), 1e-3), 1.0 - 1e-3
                )
                loss[place] -= math.log(share if worst <= 0.8 else 1.0 - share)
            seen.append(one)
        losses.append(loss)
    before, after = np.mean(losses, axis=0)
    assert after <= 1.01 * before if usual else after < 0.93 * before
