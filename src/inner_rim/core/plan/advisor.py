"""What to change next when a bead does not seat or one spot stays low: least expected minutes
first.

From what was tried on this wheel, what the plan knows, and what worked in this shop.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import msgspec

from inner_rim.core.models.inflation import (
    FACTORS,
    SOURCE_WORDS,
    STROKE_L_S,
    Bottle,
    SeatingOdds,
    Source,
    free_flow_l_s,
    max_leak_l_s,
    needed_l_s,
    probability,
)
from inner_rim.core.models.seating_pressure import REMEDY_FACTOR
from inner_rim.core.plan.wheel_plan import WheelPlan, remedies_in_force
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import Attempt
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.core.record.why import Message
from inner_rim.words import N_

#: How many tries the model's probability is worth against the shop's own record.
PRIOR_TRIES = 4.0
#: What a remedy leaves of the gap (common practice, no published source).
GAP_LEFT: dict[Remedy, float] = {
    "wet": FACTORS["wetted"],
    "lift": FACTORS["lifted by hand"],
    "strap": FACTORS["strap"],
    "layer": FACTORS["extra layer"],
    "tube_first": 0.1,
}
#: Hands-on minutes of a remedy (common practice, no published source).
MINUTES: dict[Remedy, float] = {
    "core_out": 0.5,
    "wet": 1.0,
    "lift": 2.0,
    "strap": 2.0,
    "bigger_source": 2.0,
    "layer": 25.0,
    "tube_first": 15.0,
    "push_spot": 1.0,
    "lower_side": 2.5,
    "warm": 10.3,
    "straighten": 3.0,
}
#: Minutes of a pressure step, and of letting the air out before a remedy.
STEP_MINUTES, FLAT_MINUTES = 1.0, 0.4
#: What is left of the effect of a remedy that is taken once more, as an exponent (common practice).
AGAIN_SHARE = 0.5
#: How likely a wheel seats that a tube seats first: one bead then stays on its seat (common
#: practice).
TUBE_PROBABILITY = 0.7
REMEDY_WORDS: dict[Remedy, str] = {
    "core_out": N_("Take the core out"),
    "wet": N_("Wet both beads all around"),
    "lift": N_("Lift the bead onto the shelf by hand"),
    "strap": N_("Strap around the tread, or knock it"),
    "bigger_source": N_("Compressor or charge bottle"),
    "layer": N_("Another layer of tape"),
    "tube_first": N_("Seat with a tube, break one side"),
    "push_spot": N_("Push the low spot in, wet it there"),
    "lower_side": N_("Pull the high side down, lift the low side"),
    "warm": N_("Warm the stiff tire, at this pressure"),
    "straighten": N_("Work the insert straight"),
}
#: What helps where no pressure builds, and where a tire stands at pressure and is not seated.
_NO_PRESSURE: tuple[Remedy, ...] = (
    "core_out",
    "wet",
    "lift",
    "strap",
    "bigger_source",
    "layer",
    "tube_first",
)
#: A bead that hangs is helped by hand, one way or another.
_BY_HAND = frozenset[Remedy]({"push_spot", "lower_side", "straighten"})
_AT_PRESSURE: tuple[Remedy, ...] = (
    "push_spot",
    "wet",
    "lower_side",
    "straighten",
    "warm",
    "tube_first",
)
_REASONS: dict[Remedy, str] = {
    "core_out": N_("the core lets through a fifth of the air"),
    "wet": N_("a wet bead slides up and closes the gap"),
    "lift": N_("half of the gap is closed before the first stroke"),
    "strap": N_("it presses the beads outward"),
    "bigger_source": N_("the leak must be outrun in the first moment"),
    "layer": N_("it makes the seat larger and the gap smaller"),
    "tube_first": N_("one bead then stays seated, and only one leaks"),
    "push_spot": N_("a bead that hangs on the wall goes up when it slides"),
    "lower_side": N_("the side that is up already stays up"),
    "warm": N_("a soft casing gives"),
    "straighten": N_("a crooked insert holds the bead down"),
}


class GapSeen(msgspec.Struct, frozen=True):
    """What the attempts say of the gap: above what failed to outrun it, below what did; None where
    nothing says so.
    """

    above_mm: float | None
    below_mm: float | None


class Suggestion(msgspec.Struct, frozen=True):
    """One thing to change.

    Attributes:
        remedy: its name in the log.
        why: the reason, with figures where the model has some.
        tried: it was changed on this wheel already.
        worked, counted: how often it ended well in this shop, and how often it was tried.
        probability: that it works now: the model's, updated by the shop's record.
    """

    remedy: Remedy
    text: Message
    why: Message
    tried: bool
    worked: int
    counted: int
    probability: float
    minutes: float


def updated(prior: float, worked: int, counted: int) -> float:
    """Return a probability after a shop's record: Beta-Binomial, the prior worth 4 tries.

    >>> updated(0.5, 0, 0), updated(0.5, 4, 4)
    (0.5, 0.75)

    Source: conjugate Beta prior.
    """
    return (PRIOR_TRIES * prior + worked) / (PRIOR_TRIES + counted)


def after_failing(most_l_s: float, now_l_s: float, median_l_s: float, spread: float) -> float:
    """Return the probability that what outruns `now_l_s` works, where what outruns `most_l_s` did
    not.

    Both are leaks of the gap as it was: a remedy that leaves half of it outruns twice the leak.

    Source: conditional probability of a log-normal gap.
    """
    before = probability(most_l_s, median_l_s, spread)
    after = probability(max(now_l_s, most_l_s), median_l_s, spread)
    return (after - before) / (1.0 - before) if before < 1.0 else 1.0


def gap_seen(plan: WheelPlan, tries: Sequence[Attempt]) -> GapSeen:
    """Return what attempts with a known source say of the gap as it is now.

    A source that built no pressure gives less than the leak takes: the gap is larger than the one
    it would outrun; one that did, smaller. What was changed since leaves its share of either.

    Source: derived from docs/models.md 2.10.
    """
    per_mm = needed_l_s(1.0, plan.tire.bead_seat_diameter_mm)
    left = 1.0
    above: list[float] = []
    below: list[float] = []
    for attempt in reversed(tries):
        if attempt.source in SOURCE_WORDS and attempt.core_out is not None:
            gap = _most(plan, attempt.source, attempt.core_out) / per_mm * left
            (below if attempt.builds(plan.pressure.seating_kpa[0]) else above).append(gap)
        for remedy in attempt.changed:
            left *= GAP_LEFT.get(remedy, 1.0)
    return GapSeen(max(above, default=None), min(below, default=None))


def stands_at_pressure(plan: WheelPlan, tries: Sequence[Attempt]) -> bool:
    """Return whether the last try left a tire at pressure: it has no problem of flow
    (docs/models.md 2.14).
    """
    return (
        bool(tries)
        and tries[-1].outcome != "both_up"
        and tries[-1].builds(plan.pressure.seating_kpa[0])
    )


def next_step_odds(plan: WheelPlan) -> float | None:
    """Return the probability that the next pressure step seats the beads, None where there is none."""
    state, ladder = plan.log.state, plan.pressure.seating_kpa
    if state.seated or state.seen >= len(ladder):
        return None
    return plan.seats.by(ladder[state.seen])


def suggestions(
    plan: WheelPlan,
    tries: Sequence[Attempt],
    source: Source | None,
    core_out: bool | None,
    wet: bool,
    shop: Mapping[str, tuple[int, int]] | None = None,
) -> tuple[Suggestion, ...]:
    """Return what to change next, best first: most probability for each minute, untried before
    tried.

    Where no pressure builds, probabilities start from the model of the gap, given that it has not
    seated so far; where the tire stands at pressure, from that of seating pressures: neither core
    nor source is a remedy then. Both are updated by the shop's record (Beta-Binomial, prior worth 4
    tries).

    Args:
        source, core_out, wet: how it was tried last, None where unknown.

    Source: docs/models.md 2.10 and 2.14; costs and what a remedy leaves of the gap common practice.
    """
    pressure = stands_at_pressure(plan, tries)
    tried = {remedy for attempt in tries for remedy in attempt.changed}
    useless = _useless(
        plan, source, core_out, wet and not pressure, bool(tries) and tries[-1].outcome == "one_low"
    )
    counts = shop or {}
    result = []
    for remedy in _AT_PRESSURE if pressure else _NO_PRESSURE:
        if remedy in useless:
            continue
        worked, counted = counts.get(remedy, (0, 0))
        prior = (
            _at_pressure(remedy, plan)
            if pressure
            else _prior(remedy, plan, source or "floor_pump", bool(core_out))
        )
        climb = FLAT_MINUTES + STEP_MINUTES * len(plan.pressure.seating_kpa) if pressure else 0.0
        result.append(
            Suggestion(
                remedy=remedy,
                text=Message(REMEDY_WORDS[remedy]),
                why=_why(remedy, plan, source, bool(core_out), pressure),
                tried=remedy in tried,
                worked=worked,
                counted=counted,
                probability=updated(prior, worked, counted),
                minutes=MINUTES[remedy] + climb,
            )
        )
    result.sort(key=lambda s: (s.tried, -s.probability / s.minutes))
    return tuple(result)


def _useless(
    plan: WheelPlan, source: Source | None, core_out: bool | None, wet: bool, low: bool
) -> set[Remedy]:
    """Remedies that change nothing on this wheel as it is."""
    work, useless = plan.wheel.work, set[Remedy]()
    if core_out:
        useless.add("core_out")
    if wet:  # a tire that stands at pressure is wetted once more
        useless.add("wet")
    if source in ("compressor", "charge") and core_out:
        useless.add("bigger_source")
    if plan.log.state.insert == "off":
        useless.add("straighten")
    if not (plan.wheel.tire.new and work is not None and work.folded):
        useless.add("warm")
    if not low:
        useless |= {"push_spot", "lower_side"}
    if plan.setup.with_tube or not plan.setup.tire_goes_on:
        useless.add("tube_first")
    return useless


def _at_pressure(remedy: Remedy, plan: WheelPlan) -> float:
    """The probability that a climb after a remedy seats a tire that stood at pressure."""
    if remedy == "tube_first":
        return TUBE_PROBABILITY
    had = remedies_in_force(plan.log)
    again = remedy in had or (remedy == "wet" and plan.log.state.wet == "yes")
    again = again or (remedy in _BY_HAND and bool(_BY_HAND & had))
    factor = REMEDY_FACTOR.get(remedy, 1.0) ** (AGAIN_SHARE if again else 1.0)
    return plan.seats.by(plan.pressure.seating_kpa[-1], factor)


def _prior(remedy: Remedy, plan: WheelPlan, source: Source, core_out: bool) -> float:
    most = _most(plan, source, core_out)
    if remedy == "core_out":
        now = _most(plan, source, True)
    elif remedy == "bigger_source":
        now = _most(plan, "charge", core_out)
    else:
        now = most / GAP_LEFT.get(remedy, 1.0)
    return after_failing(most, now, plan.seating_odds.needed_l_s, plan.seating_odds.spread)


def _most(plan: WheelPlan, source: Source, core_out: bool) -> float:
    """The greatest leak that a source of this shop outruns on this tire, l/s."""
    volume = max(0.1, plan.tire.air_volume_ml / ML_PER_LITER)
    return max_leak_l_s(volume, source, core_out, _bottle(plan))


def _bottle(plan: WheelPlan) -> Bottle:
    return Bottle(plan.methods.bottle_ml, plan.methods.bottle_kpa)


def _why(
    remedy: Remedy, plan: WheelPlan, source: Source | None, core_out: bool, pressure: bool
) -> Message:
    reason = Message(_REASONS[remedy])
    if pressure or source is None or remedy not in ("core_out", "bigger_source"):
        return reason
    if remedy == "core_out" and source == "floor_pump":
        times = STROKE_L_S[True] / STROKE_L_S[False]
        return Message("a stroke comes {times} times as fast", {"times": format(times, ".0f")})
    now = free_flow_l_s(source, core_out)
    then = free_flow_l_s(
        *(("charge", core_out, _bottle(plan)) if remedy == "bigger_source" else (source, True))
    )
    return Message(
        "{times} times the air: {reason}", {"times": format(then / now, ".0f"), "reason": reason}
    )


class Climb(NamedTuple):
    """Tries from one start to where the beads were seated, or something was changed; the try before
    them, if any.
    """

    before: Attempt | None
    tries: tuple[Attempt, ...]

    @property
    def seated(self) -> bool:
        return any(one.outcome == "both_up" for one in self.tries)

    @property
    def worked(self) -> bool:
        """Whether what was changed for it worked: pressure built where none had, else the beads
        seated.
        """
        flow = self.before is not None and self.before.outcome == "no_pressure"
        return self.tries[0].outcome != "no_pressure" if flow else self.seated


def climbs(attempts: Sequence[Attempt]) -> tuple[Climb, ...]:
    """Return the climbs of one wheel, oldest first: a lower or equal pressure, or a change, begins
    another.
    """
    result: list[Climb] = []
    for place, one in enumerate(attempts):
        last = attempts[place - 1] if place else None
        goes_on = (
            last is not None
            and not one.changed
            and (one.target_kpa or one.peak_kpa) > last.peak_kpa
        )
        if goes_on and last is not None and last.outcome in ("not_up", "both_up", "one_low"):
            result[-1] = Climb(result[-1].before, (*result[-1].tries, one))
        else:
            result.append(Climb(last, (one,)))
    return tuple(result)


def remedy_counts(wheels: Iterable[Sequence[Attempt]]) -> dict[str, tuple[int, int]]:
    """Return (worked, tried) of each remedy over the tries of a shop, wheel by wheel; see
    `Climb.worked`.
    """
    result: dict[str, tuple[int, int]] = {}
    for climb in (one for attempts in wheels for one in climbs(attempts)):
        for remedy in climb.tries[0].changed:
            worked, counted = result.get(remedy, (0, 0))
            result[remedy] = (worked + climb.worked, counted + 1)
    return result


def judged_gap_mm(coming: SeatingOdds, seen: GapSeen) -> float:
    """Return the gap to plan with: the usual one for this fit, moved inside what the attempts
    allow.
    """
    gap = coming.gap_mm
    if seen.above_mm is not None:
        gap = max(gap, seen.above_mm)
    if seen.below_mm is not None:
        gap = min(gap, seen.below_mm)
    return gap
