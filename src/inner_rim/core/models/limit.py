"""The limit and where it comes from, the pressure steps below it, and where a wheel settles
(docs/models.md 2.7).
"""

import math
from typing import Literal, Protocol

import msgspec

from inner_rim.core.record.job import Rim, Tire, Wheel
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.why import PRACTICE, Message, Why
from inner_rim.words import N_

#: Nobody sets a pressure finer than this: below 200 kPa, and from there up.
HAND_STEP_KPA, HAND_STEP_HIGH_KPA, HIGH_FROM_KPA = 5.0, 10.0, 200.0


def hand_step_kpa(pressure_kpa: float, gauge_step_kpa: float) -> float:
    """Return the step a hand sets a pressure to: the gauge's, at least 5 kPa, from 200 kPa up at
    least 10.

    step = max(gauge step, 5 or 10 kPa).

    >>> hand_step_kpa(150.0, 1.0), hand_step_kpa(250.0, 1.0), hand_step_kpa(250.0, 20.0)
    (5.0, 10.0, 20.0)

    Source: common practice, no published source.
    """
    return max(
        gauge_step_kpa, HAND_STEP_KPA if pressure_kpa < HIGH_FROM_KPA else HAND_STEP_HIGH_KPA
    )


def rounded_within(value: float, step: float, low: float, high: float) -> float:
    """Return `value` to the nearest gauge step, but inside [low, high], the upper bound ruling.

    step * floor(p / step + 0.5), kept in [low, high].

    >>> rounded_within(339.7, 5.0, 0.0, 338.0), rounded_within(101.0, 5.0, 102.0, 340.0)
    (335.0, 105.0)

    Source: derived.
    """
    inside = min(max(value, low), high)
    nearest = step * math.floor(inside / step + 0.5)
    if nearest > high:
        nearest = step * math.floor(high / step)
    if nearest < low:
        nearest = step * math.ceil(low / step)
    return nearest if low <= nearest <= high else min(max(inside, low), high)


LimitFrom = Literal["tire", "rim", "straight_side", "unmarked", "unread"]
LimitPart = Literal["tire", "rim"]

STRAIGHT_SIDE_LIMIT_KPA = 500.0  # ISO 5775-2
UNMARKED_LIMIT_KPA = 300.0  # a tire without tubeless mark, from memory
#: Safe limits for what was not entered (from memory): tire by nominal width, rim by internal width.
TIRE_CAP_KPA_MM, TIRE_CAP_MOST_KPA = 13_000.0, 400.0
RIM_CAP_NARROW_KPA, RIM_CAP_WIDE_KPA, RIM_NARROW_UP_TO_MM = 500.0, 350.0, 25.0
RIM_NO_FIGURE_KPA, RIM_NO_FIGURE_UP_TO_MM = 700.0, 19.0

LIMIT_WORDS: dict[LimitFrom, str] = {
    "tire": N_("printed on the tire"),
    "rim": N_("printed on the rim"),
    "straight_side": N_("ISO 5775-2, hookless rim"),
    "unmarked": N_("a tire without tubeless mark"),
    "unread": N_("not entered: a safe limit"),
}


class Limit(msgspec.Struct, frozen=True):
    """The pressure that nothing may pass, and the part that sets it."""

    limit_kpa: float
    limit_from: LimitFrom
    limit_part: LimitPart | None = None


class HasLimit(Protocol):
    """Whatever says what a limit is and where it comes from."""

    @property
    def limit_from(self) -> LimitFrom: ...

    @property
    def limit_part(self) -> LimitPart | None: ...


def limit_words(pressure: HasLimit) -> str:
    """Return where a limit comes from, in words; of a part that was not entered, which one.

    >>> limit_words(Limit(300.0, "unread", "tire"))
    'tire not entered: a safe limit'

    Source: docs/models.md 2.7.
    """
    if pressure.limit_from == "unread" and pressure.limit_part is not None:
        return UNREAD_WORDS[pressure.limit_part]
    return LIMIT_WORDS[pressure.limit_from]


UNREAD_WORDS: dict[LimitPart, str] = {
    "tire": N_("tire not entered: a safe limit"),
    "rim": N_("rim not entered: a safe limit"),
}


def limit(tire: Tire, rim: Rim, nominal_width_mm: float) -> Limit:
    """Return the lowest limit over the parts and where it comes from.

    Each part has its printed maximum or, where that was not entered, its own safe limit, so that
    entering a figure only replaces that part's own cap: tire 13000 / W kPa, at most 400; rim 500 up
    to 25 mm of internal width, 350 above, and where it was looked at and carries no figure 700 up
    to 19 mm. A rim that is hookless, or whose hook was not entered, takes 500; a tire without
    tubeless mark 300.

    >>> from inner_rim.core.record.job import Rim, Tire
    >>> result = limit(Tire(size="45-622", max_pressure_kpa=340.0), Rim(622.0, 24.0, hook="hooked"), 45.0)
    >>> result.limit_kpa, result.limit_from
    (340.0, 'tire')

    Source: ISO 5775-2 for the hookless rim; caps from memory.
    """
    width = rim.internal_width_mm
    rim_cap = RIM_CAP_NARROW_KPA if width <= RIM_NARROW_UP_TO_MM else RIM_CAP_WIDE_KPA
    if rim.max_pressure_printed is False and width <= RIM_NO_FIGURE_UP_TO_MM:
        rim_cap = RIM_NO_FIGURE_KPA
    result: list[Limit] = [
        Limit(tire.max_pressure_kpa, "tire")
        if tire.max_pressure_kpa is not None
        else Limit(min(TIRE_CAP_MOST_KPA, TIRE_CAP_KPA_MM / nominal_width_mm), "unread", "tire"),
        Limit(rim.max_pressure_kpa, "rim")
        if rim.max_pressure_kpa is not None
        else Limit(rim_cap, "unread", "rim"),
    ]
    if rim.hook != "hooked":
        result.append(Limit(STRAIGHT_SIDE_LIMIT_KPA, "straight_side"))
    if tire.tubeless_ready is False:
        result.append(Limit(UNMARKED_LIMIT_KPA, "unmarked"))
    return min(result, key=lambda one: one.limit_kpa)


def why_limit(wheel: Wheel, top: Limit, nominal_width_mm: float) -> Why:
    """Return the trail of a limit.

    limit = min over the parts.

    >>> why_limit(wheel, limit(wheel.tire, wheel.rim, 45.0), 45.0).figures["limit_kpa"]
    288.8888888888889

    Source: see `limit`.
    """

    def read(value: float | None) -> float | str:
        return "not entered" if value is None else value

    tire_cap = min(TIRE_CAP_MOST_KPA, TIRE_CAP_KPA_MM / nominal_width_mm)
    figures: dict[str, float | int | str] = {
        "printed_on_the_tire_kpa": read(wheel.tire.max_pressure_kpa),
        "cap_of_an_unread_tire_kpa": tire_cap,
        "printed_on_the_rim_kpa": read(wheel.rim.max_pressure_kpa),
        "hook": wheel.rim.hook or "not entered",
        "hookless_limit_kpa": N_("does not apply")
        if wheel.rim.hook == "hooked"
        else STRAIGHT_SIDE_LIMIT_KPA,
        "limit_kpa": top.limit_kpa,
        "set_by": limit_words(top),
    }
    return Why(
        formula=(
            N_(
                "limit = lowest over the parts: the max pressure of tire and rim, each with a safe limit until it is "
                "entered, the standard's limit on a hookless rim, and 300 kPa for a tire without tubeless mark"
            )
        ),
        figures=figures,
        source=N_("ISO 5775-2 for hookless rims; the parts' manufacturers; caps from memory"),
        what_changes_it=N_(
            "enter the max pressure printed on both parts; a rim without a figure has one in its manufacturer's data sheet"
        ),
    )


SETTLE_FACTOR, SETTLE_STEP = 1.3, 3
#: The top step by nominal width, and the shares of it at which the steps lie (common practice).
TOP_STEP_KPA_MM, MAX_TOP_STEP_KPA = 16_000.0, 600.0
STEP_SHARES = (0.4, 0.6, 0.8, 1.0)


def seating_ladder_kpa(nominal_width_mm: float) -> tuple[float, ...]:
    """Return the usual seating steps for a tire, kPa, before the limit cuts them.

    One casing tension for all widths: top step = 16000 / W, at most 600; steps at 0.4, 0.6, 0.8 and
    1.0 of it, rounded to 5 kPa below 200 and to 10 above.

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
    return min(TOP_STEP_KPA_MM / nominal_width_mm, MAX_TOP_STEP_KPA)


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
    """Return the method of the sealing pressure that is used: `printed` needs a printed maximum (no
    unit).

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

    seating: where both beads seated, before that the third step, or the last of fewer; or the start
    if that is higher; low: 1.3 times the start, not below the second step; printed: the lowest
    printed maximum, where there is one (see `settle_method`).

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
        return rounded_within(
            low, hand_step_kpa(low, methods.gauge_step_kpa), min(start, limit_kpa), limit_kpa
        )
    if method == "printed" and printed_kpa is not None:
        return min(printed_kpa, limit_kpa)
    step = third
    if seated_kpa is not None:
        hand = hand_step_kpa(seated_kpa, methods.gauge_step_kpa)
        # not above the highest step that was checked
        step = hand * math.floor(seated_kpa / hand + 1e-9)
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
        formula=N_(
            "steps by the tire's width, cut at the limit: pump, stop, check both sides, go on"
        ),
        figures=figures,
        source=PRACTICE,
        others=tuple(
            Message("{step_kpa} is left out: above the limit", {"step_kpa": p})
            for p in ladder
            if p > ceiling
        ),
        what_changes_it=N_("a wider or narrower tire, the limit"),
    )
