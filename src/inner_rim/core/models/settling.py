"""The steps to climb through, and the pressure to hold until a wheel is sealed (docs/models.md 2.7)."""

from inner_rim.core.models.hand import hand_step_kpa, rounded_within
from inner_rim.core.models.limit import Limit
from inner_rim.core.record.practice import seating_ladder_kpa
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.why import PRACTICE, Message, Why

SETTLE_FACTOR, SETTLE_STEP = 1.3, 3


def seating_steps_kpa(nominal_width_mm: float, limit_kpa: float) -> tuple[float, ...]:
    """Return the seating steps cut at the limit; the limit alone where even the first is above it.

    steps <= limit.

    >>> seating_steps_kpa(45.0, 340.0)
    (150.0, 220.0, 300.0)

    Source: common practice, no published source.
    """
    return tuple(p for p in seating_ladder_kpa(nominal_width_mm) if p <= limit_kpa) or (limit_kpa,)


def settle_kpa(methods: Methods, ladder: tuple[float, ...], start: float, top: Limit) -> float:
    """Return the pressure until a wheel is sealed, by the shop's method; never above the limit.

    low: max(1.3 * start, second step), and <= limit.

    seating: the third step, or the last of fewer, or the start if that is higher; low: 1.3 times the start, not
    below the second step; printed: the lowest printed maximum.

    >>> from inner_rim.core.record.job import Rim, Tire, Wheel
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> wheel = Wheel(rim=rim, tire=Tire(size="45-622"), name="Tern")
    >>> from inner_rim.core.plan.resolve import resolve
    >>> from inner_rim.core.models.limit import Limit
    >>> settle_kpa(resolve(wheel).methods, (150.0, 220.0, 300.0), 190.0, Limit(340.0, "tire"))
    300.0

    Source: common practice, no published source.
    """
    third = ladder[min(SETTLE_STEP, len(ladder)) - 1]
    method = methods.settle
    if method == "low":
        second = ladder[min(2, len(ladder)) - 1]
        low = max(SETTLE_FACTOR * start, second)
        return rounded_within(
            low, hand_step_kpa(low, methods.gauge_step_kpa), min(start, top.limit_kpa), top.limit_kpa
        )
    if method == "printed" and top.limit_from in ("tire", "rim"):
        return top.limit_kpa
    return min(max(third, start), top.limit_kpa)


def why_settle(
    methods: Methods, seating: tuple[float, ...], start: float, settle: float, ceiling: float
) -> Why:
    """Return the trail of settling.

    Figures in kPa; settle = by the method, <= limit.

    >>> from inner_rim.core.record.job import Rim, Tire, Wheel
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> wheel = Wheel(rim=rim, tire=Tire(size="45-622"), name="Tern")
    >>> from inner_rim.core.plan.resolve import resolve
    >>> why_settle(resolve(wheel).methods, (150.0, 220.0), 190.0, 220.0, 340.0).figures["settle_kpa"]
    220.0

    Source: see `settle_kpa`.
    """
    return Why(
        formula=(
            "seating: stay at the step where the lines came even until it holds (in the plan the third), or at the "
            "start if that is higher; low: 1.3 × start, not below the second step; printed: the lowest printed "
            "maximum; never above the limit"
        ),
        figures={
            "method": methods.settle,
            "start_kpa": start,
            "last_step_kpa": seating[-1],
            "limit_kpa": ceiling,
            "settle_kpa": settle,
        },
        source=PRACTICE,
        what_changes_it="the method, the starting pressure and the limit",
    )


def why_seating(nominal_width_mm: float, seating: tuple[float, ...], ceiling: float) -> Why:
    """Return the trail of the steps.

    steps <= limit.

    >>> why_seating(45.0, (150.0, 220.0, 300.0), 340.0).figures["step_1_kpa"]
    150.0

    Source: see `seating_steps_kpa`.
    """
    ladder = seating_ladder_kpa(nominal_width_mm)
    figures: dict[str, float | int | str] = {"nominal_width_mm": nominal_width_mm}
    figures |= {f"step_{i}_kpa": p for i, p in enumerate(seating, 1)}
    figures["limit_kpa"] = ceiling
    return Why(
        formula="steps by the tire's width, cut at the limit: climb, stop, look at both sides, go on",
        figures=figures,
        source=PRACTICE,
        others=tuple(
            Message("{step_kpa} is left out: above the limit", {"step_kpa": p}) for p in ladder if p > ceiling
        ),
        what_changes_it="a wider or narrower tire, the limit",
    )
