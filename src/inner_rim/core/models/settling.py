"""The pressure steps of seating, and the sealing pressure (docs/models.md 2.7)."""

import math

from inner_rim.core.models.hand import hand_step_kpa, rounded_within
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.why import PRACTICE, Message, Why
from inner_rim.words import N_

SETTLE_FACTOR, SETTLE_STEP = 1.3, 3
#: The top step by nominal width, and the shares of it at which the steps lie (common practice).
TOP_STEP_KPA_MM, MOST_TOP_STEP_KPA = 16_000.0, 600.0
STEP_SHARES = (0.4, 0.6, 0.8, 1.0)


def seating_ladder_kpa(nominal_width_mm: float) -> tuple[float, ...]:
    """Return the usual seating steps for a tire, kPa, before the limit cuts them.

    One casing tension for all widths: top step = 16000 / W, at most 600; steps at 0.4, 0.6, 0.8 and 1.0 of it,
    rounded to 5 kPa below 200 and to 10 above.

    >>> seating_ladder_kpa(28.0), seating_ladder_kpa(45.0)
    ((230.0, 340.0, 460.0, 570.0), (140.0, 210.0, 280.0, 360.0))

    Source: common practice, no published source.
    """
    top = top_step_kpa(nominal_width_mm)
    return tuple(_to_hand(share * top) for share in STEP_SHARES)


def top_step_kpa(nominal_width_mm: float) -> float:
    """Return the usual top step of a tire before it is rounded, kPa: 16000 / W, at most 600.

    >>> top_step_kpa(40.0), top_step_kpa(23.0)
    (400.0, 600.0)

    Source: common practice, no published source.
    """
    return min(TOP_STEP_KPA_MM / nominal_width_mm, MOST_TOP_STEP_KPA)


def _to_hand(pressure_kpa: float) -> float:
    step = hand_step_kpa(pressure_kpa, 0.0)
    return step * math.floor(pressure_kpa / step + 0.5)


def seating_steps_kpa(nominal_width_mm: float, limit_kpa: float) -> tuple[float, ...]:
    """Return the seating steps cut at the limit; the limit alone where even the first is above it.

    steps <= limit.

    >>> seating_steps_kpa(45.0, 340.0)
    (140.0, 210.0, 280.0)

    Source: common practice, no published source.
    """
    return tuple(p for p in seating_ladder_kpa(nominal_width_mm) if p <= limit_kpa) or (limit_kpa,)


def settle_method(methods: Methods, printed_kpa: float | None) -> str:
    """Return the method of the sealing pressure that is used: `printed` needs a printed maximum (no unit).

    printed -> seating where nothing is printed.

    >>> settle_method(msgspec.structs.replace(methods, settle="printed"), None)
    'seating'

    Source: docs/models.md 2.7.
    """
    return "seating" if methods.settle == "printed" and printed_kpa is None else methods.settle


def settle_kpa(
    methods: Methods,
    ladder: tuple[float, ...],
    start: float,
    limit_kpa: float,
    printed_kpa: float | None,
    seated_kpa: float | None = None,
) -> float:
    """Return the sealing pressure, by the shop's method; never above the limit.

    low: max(1.3 * start, second step), and <= limit.

    seating: where both beads seated, before that the third step, or the last of fewer; or the start if that is higher; low: 1.3 times the start, not
    below the second step; printed: the lowest printed maximum, where there is one (see `settle_method`).

    Args:
        methods: of the shop.
        ladder: the seating steps.
        start: the starting pressure.
        limit_kpa: nothing is above it.
        printed_kpa: the lowest maximum printed on tire or rim, None where nothing is.
        seated_kpa: at which both beads seated; None before that.

    >>> methods, ladder = methods, (140.0, 210.0, 280.0)
    >>> settle_kpa(methods, ladder, 190.0, 340.0, 340.0), settle_kpa(methods, ladder, 190.0, 340.0, 340.0, 212.0)
    (280.0, 210.0)

    Source: common practice, no published source.
    """
    third = ladder[min(SETTLE_STEP, len(ladder)) - 1]
    method = settle_method(methods, printed_kpa)
    if method == "low":
        second = ladder[min(2, len(ladder)) - 1]
        low = max(SETTLE_FACTOR * start, second)
        return rounded_within(low, hand_step_kpa(low, methods.gauge_step_kpa), min(start, limit_kpa), limit_kpa)
    if method == "printed" and printed_kpa is not None:
        return min(printed_kpa, limit_kpa)
    step = third
    if seated_kpa is not None:
        hand = hand_step_kpa(seated_kpa, methods.gauge_step_kpa)
        step = hand * math.floor(seated_kpa / hand + 1e-9)  # not above the highest step that was checked
    return min(max(step, start), limit_kpa)


def why_settle(
    methods: Methods,
    seating: tuple[float, ...],
    start: float,
    settle: float,
    ceiling: float,
    printed_kpa: float | None,
    seated_kpa: float | None = None,
) -> Why:
    """Return the trail of the sealing pressure.

    Figures in kPa; settle = by the method, <= limit.

    >>> why_settle(methods, (150.0, 220.0), 190.0, 220.0, 340.0, None).figures["settle_kpa"]
    220.0

    Source: see `settle_kpa`.
    """
    method = settle_method(methods, printed_kpa)
    instead = Message("No max pressure is entered: sealed at the pressure that seated it.")
    return Why(
        formula=(
            N_(
                "seating: stay at the step where the lines came even until it holds (in the plan the third), or at the "
                "start if that is higher; low: 1.3 × start, not below the second step; printed: the lowest printed "
                "maximum; never above the limit"
            )
        ),
        figures={
            "method": method,
            "start_kpa": start,
            "last_step_kpa": seating[-1],
            "limit_kpa": ceiling,
            "settle_kpa": settle,
            **({"seated_at_kpa": seated_kpa} if seated_kpa is not None else {}),
        },
        source=PRACTICE,
        others=(instead,) if method != methods.settle else (),
        what_changes_it=N_("the method, the starting pressure and the limit"),
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
        formula=N_("steps by the tire's width, cut at the limit: pump, stop, check both sides, go on"),
        figures=figures,
        source=PRACTICE,
        others=tuple(
            Message("{step_kpa} is left out: above the limit", {"step_kpa": p}) for p in ladder if p > ceiling
        ),
        what_changes_it=N_("a wider or narrower tire, the limit"),
    )
