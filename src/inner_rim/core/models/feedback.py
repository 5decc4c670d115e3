"""What a test ride says about the pressure (docs/models.md 2.7)."""

import math

from inner_rim.core.models.limit import rounded_within
from inner_rim.core.models.pressure import PressurePick
from inner_rim.words import N_

#: What a test ride's word moves the pressure by, as a share (common practice, no published source).
RIDE_STEPS = {"right": 0.0, "harsh": -0.07, "rim_struck": 0.10, "burped": 0.08, "squirmed": 0.07}
RIDE_WORDS = {
    "right": N_("right"),
    "harsh": N_("harsh"),
    "rim_struck": N_("rim struck"),
    "burped": N_("it burped"),
    "squirmed": N_("it squirmed"),
}


def moved_kpa(now_kpa: float, said: str, pressure: PressurePick, gauge_step_kpa: float) -> float:
    """Return where a test ride's word moves a pressure: by a share, at least one gauge step, inside
    minimum and limit.

    p_next = p * (1 + share), share by the word.

    Raises:
        KeyError: no such word.

    Source: common practice, no published source.
    """
    share = RIDE_STEPS[said]
    step = share * now_kpa
    if share and abs(step) < gauge_step_kpa:
        step = math.copysign(gauge_step_kpa, share)
    floor = min(pressure.minimum_kpa or 0.0, pressure.limit_kpa)
    return rounded_within(now_kpa + step, gauge_step_kpa, floor, pressure.limit_kpa)
