"""What to change next when a bead does not come up or one spot stays low: cheapest first, with reasons.

From what was tried on this wheel, what the plan knows, and what worked in this shop.
"""

from collections.abc import Mapping, Sequence

import msgspec

from .coming_up import GAP_MM, SOURCE_WORDS, ComingUp, Source, free_flow_l_s, needed_l_s
from .log import Attempt, Remedy
from .plan import WheelPlan
from .why import Saying

#: From how many tries on this shop's experience counts, and how many places it can move a remedy.
LEAST_COUNTED, MOST_PLACES = 3, 3.0
#: What a remedy leaves of the gap (common practice, no published source).
GAP_LEFT: dict[Remedy, float] = {"wet": 0.5, "lift": 0.5, "strap": 0.5, "layer": 0.35, "tube_first": 0.5}
REMEDY_WORDS: dict[Remedy, str] = {
    "core_out": "Take the core out",
    "wet": "Wet both beads all round",
    "lift": "Lift the bead onto the shelf by hand",
    "strap": "Strap round the tread, or knock it",
    "bigger_source": "Compressor or charge bottle",
    "layer": "Another layer of tape",
    "tube_first": "Seat with a tube, break one side",
    "push_spot": "Let the air out, push the low spot in, wet it there",
    "lower_side": "Let the air out, lift the low side onto the shelf by hand",
}
_NOT_UP: tuple[Remedy, ...] = ("core_out", "wet", "lift", "strap", "bigger_source", "layer", "tube_first")
_LOW: tuple[Remedy, ...] = ("push_spot", "wet", "lower_side", "core_out", "tube_first")
_REASONS: dict[Remedy, str] = {
    "core_out": "the core lets through a fifth of the air",
    "wet": "a wet bead slides up and closes the gap",
    "lift": "half of the gap is closed before the first stroke",
    "strap": "it presses the beads outward",
    "bigger_source": "the leak must be outrun in the first moment",
    "layer": "it makes the seat larger and the gap smaller",
    "tube_first": "one bead then stays up, and only one leaks",
    "push_spot": "a bead that hangs on the wall goes up when it slides",
    "lower_side": "the side that is up already stays up",
}


class GapSeen(msgspec.Struct, frozen=True):
    """What the attempts say of the gap: above what failed to outrun it, below what did; None where nothing says so."""

    above_mm: float | None
    below_mm: float | None


class Suggestion(msgspec.Struct, frozen=True):
    """One thing to change.

    Attributes:
        remedy: its name in the log.
        text: what to do.
        why: the reason, with figures where the model has some.
        tried: it was changed on this wheel already.
        worked, counted: how often it ended well in this shop, and how often it was tried.
    """

    remedy: Remedy
    text: Saying
    why: Saying
    tried: bool
    worked: int
    counted: int


def gap_seen(tries: Sequence[Attempt], bead_seat_diameter_mm: float) -> GapSeen:
    """Return what attempts with a known source say of the gap.

    A source that failed gives less than the leak takes: the gap is larger than the one it would outrun;
    one that brought a bead up, smaller.

    Source: derived from HANDBOOK 2.10.
    """
    per_mm = needed_l_s(1.0, bead_seat_diameter_mm)
    above: list[float] = []
    below: list[float] = []
    for attempt in tries:
        if attempt.source not in SOURCE_WORDS or attempt.core_out is None:
            continue
        gap = free_flow_l_s(attempt.source, attempt.core_out) / per_mm
        (above if attempt.outcome == "not_up" else below).append(gap)
    return GapSeen(max(above, default=None), min(below, default=None))


def suggestions(
    plan: WheelPlan,
    tries: Sequence[Attempt],
    source: Source | None,
    core_out: bool | None,
    wet: bool,
    shop: Mapping[str, tuple[int, int]] | None = None,
) -> tuple[Suggestion, ...]:
    """Return what to change next, best first.

    Untried before tried; what is likely in this shop (three tries or more) before what is not; then cheapest.

    Args:
        plan: of the wheel.
        tries: on this wheel, oldest first.
        source, core_out, wet: how it was tried last, None where unknown.
        shop: (worked, tried) of each remedy in this shop.

    Source: common practice, no published source, for the order and what a remedy leaves of the gap.
    """
    low = bool(tries) and tries[-1].outcome == "one_low"
    tried = {remedy for attempt in tries for remedy in attempt.changed}
    order = _LOW if low else _NOT_UP
    useless = {"core_out"} if core_out else set()
    if wet:
        useless.add("wet")
    if source in ("compressor", "charge") and core_out:
        useless.add("bigger_source")
    counts = shop or {}
    found = [
        Suggestion(
            remedy=remedy,
            text=Saying(REMEDY_WORDS[remedy]),
            why=_why(remedy, plan, source, bool(core_out), low),
            tried=remedy in tried,
            worked=counts.get(remedy, (0, 0))[0],
            counted=counts.get(remedy, (0, 0))[1],
        )
        for remedy in order
        if remedy not in useless
    ]
    rank = {suggestion.remedy: i for i, suggestion in enumerate(found)}
    found.sort(key=lambda s: (s.tried, rank[s.remedy] - _places_up(s)))
    return tuple(found)


def _places_up(suggestion: Suggestion) -> float:
    """How many places this shop's experience moves a remedy up, or down: none before three tries."""
    if suggestion.counted < LEAST_COUNTED:
        return 0.0
    return MOST_PLACES * (2.0 * suggestion.worked / suggestion.counted - 1.0)


def _why(remedy: Remedy, plan: WheelPlan, source: Source | None, core_out: bool, low: bool) -> Saying:
    coming = plan.coming_up
    reason = Saying(_REASONS[remedy])
    if low or source is None:
        return reason
    needed, given = coming.needed_l_s, free_flow_l_s(source, core_out)
    if remedy in GAP_LEFT:
        needed *= GAP_LEFT[remedy]
    elif remedy == "core_out":
        given = free_flow_l_s(source, True)
    elif remedy == "bigger_source":
        given = free_flow_l_s("charge", core_out)
    else:
        return reason
    return Saying(
        "{needed} l/s needed then, {given} come: {reason}",
        {"reason": reason, "needed": f"{needed:.1f}", "given": f"{given:.1f}"},
    )


def remedy_counts(attempts: Sequence[Attempt]) -> dict[str, tuple[int, int]]:
    """Return (worked, tried) of each remedy over the attempts of a shop: it worked where both sides came up."""
    found: dict[str, tuple[int, int]] = {}
    for attempt in attempts:
        for remedy in attempt.changed:
            worked, counted = found.get(remedy, (0, 0))
            found[remedy] = (worked + (attempt.outcome == "both_up"), counted + 1)
    return found


def judged_gap_mm(coming: ComingUp, seen: GapSeen) -> float:
    """Return the gap to reckon with: the usual one for this fit, moved inside what the attempts allow."""
    gap = GAP_MM[coming.gap]
    if seen.above_mm is not None:
        gap = max(gap, seen.above_mm)
    if seen.below_mm is not None:
        gap = min(gap, seen.below_mm)
    return gap
