"""The limit: the lowest pressure over the parts, printed or capped, and where it comes from (docs/models.md 2.7)."""

from typing import Literal, Protocol

import msgspec

from inner_rim.core.record.job import Rim, Tire, Wheel
from inner_rim.core.record.why import Why
from inner_rim.words import N_

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


def limit_words(result: HasLimit) -> str:
    """Return where a limit comes from, in words; of a part that was not entered, which one.

    >>> limit_words(Limit(300.0, "unread", "tire"))
    'tire not entered: a safe limit'

    Source: docs/models.md 2.7.
    """
    if result.limit_from == "unread" and result.limit_part is not None:
        return UNREAD_WORDS[result.limit_part]
    return LIMIT_WORDS[result.limit_from]


UNREAD_WORDS: dict[LimitPart, str] = {
    "tire": N_("tire not entered: a safe limit"),
    "rim": N_("rim not entered: a safe limit"),
}


def limit(tire: Tire, rim: Rim, nominal_width_mm: float) -> Limit:
    """Return the lowest limit over the parts and where it comes from.

    Each part has its printed maximum or, where that was not entered, its own safe limit, so that entering a figure
    only replaces that part's own cap: tire 13000 / W kPa, at most 400; rim 500 up to 25 mm of internal width,
    350 above, and where it was looked at and carries no figure 700 up to 19 mm. A rim that is hookless, or whose
    hook was not entered, takes 500; a tire without tubeless mark 300.

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
        Limit(rim.max_pressure_kpa, "rim") if rim.max_pressure_kpa is not None else Limit(rim_cap, "unread", "rim"),
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
        "hookless_limit_kpa": N_("does not apply") if wheel.rim.hook == "hooked" else STRAIGHT_SIDE_LIMIT_KPA,
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
