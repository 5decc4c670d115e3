"""Stops, which halt a job, and cautions, shown where the hand is about to act (docs/job.md part 4)."""

import functools
from typing import TYPE_CHECKING, Literal

import msgspec

from inner_rim.core.models.insert import InsertPick
from inner_rim.core.models.pressure import PressurePick
from inner_rim.core.models.tape import TapePick
from inner_rim.core.models.tire import MountedTire
from inner_rim.core.models.valve import MUCH_STANDING_OUT_MM, ValvePick
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.why import Message
from inner_rim.words import N_

if TYPE_CHECKING:
    from inner_rim.core.procedure.setup import Setup

#: On a hookless rim a narrow tire needs a wider ratio (from memory of the standards' tables).
NARROW_TIRE_MM, HOOKLESS_STOP_BELOW = 30.0, 1.15
UNMARKED_FROM_MM = 35.0
#: From this pressure up a rim without tubeless mark is a stop (common practice).
UNMARKED_RIM_KPA = 350.0
SPRAY = N_(
    "Eye and ear protection on, face and fingers away from the bead. Never above {limit_kpa}."
)
HISS = N_("Hissing at the spoke holes: stop and let the air out.")
BOTTLE = N_("A charge bottle is a pressure vessel: inspected, never above its rating.")
MAKERS = N_(
    "Manufacturers' instructions and local rules take precedence, and a qualified mechanic signs off."
)
#: Nobody reads more cautions than this before acting.
MAX_AT_A_TIME = 2

#: What a stop is about.
Subject = Literal[
    "diameter",
    "ratio",
    "hookless",
    "mark",
    "limit",
    "insert",
    "tape",
    "rim",
    "valve",
    "tire",
    "arrow",
    "beads",
    "hold",
]
#: What clears a stop: its field, a hand that fixed it, tape on the shelf, another reading, seating
#: again.
Clears = Literal["field", "fixed", "shelf", "reading", "seating"]


class Bounds(msgspec.Struct, frozen=True):
    """The bounds of a figure, None where there is none on that side."""

    min_: float | None = None
    max_: float | None = None

    def holds(self, value: float) -> bool:
        return (self.min_ is None or value >= self.min_) and (
            self.max_ is None or value <= self.max_
        )


class Ratio(msgspec.Struct, frozen=True):
    """What the ratio of a tire's width to the rim's may be (docs/job.md part 4).

    Attributes:
        possible: outside of it is a stop.
        usual: outside of it, and possible, is a caution.
    """

    possible: Bounds = Bounds(1.1, 2.8)
    usual: Bounds = Bounds(1.3, 2.3)


RATIO = Ratio()


class Stop(msgspec.Struct, frozen=True):
    """Something that halts the job.

    Attributes:
        code: its name in the log.
        subject: what it is about.
        field: what is typed there clears it, empty where that does not.
        bounds: what its figure must be within, where it has one.
        overridable: a named person may override it with a written reason.
        remedy: what is done to the tape about it, empty for nothing.
    """

    code: str
    message: Message
    subject: Subject
    field: str = ""
    bounds: Bounds = Bounds()
    overridable: bool = True
    clears: Clears = "field"
    remedy: Literal["", "tape", "layer"] = ""


class Caution(msgspec.Struct, frozen=True):
    """A sentence shown at the stage where it matters."""

    stage: Stage
    message: Message


def find_stops(
    wheel: Wheel,
    mounted: MountedTire,
    pressure: PressurePick,
    methods: Methods,
    insert: InsertPick | None,
    tape: TapePick,
    setup: "Setup",
) -> tuple[Stop, ...]:
    """Return what halts this wheel, gravest first."""
    return (
        *_diameter_stops(wheel, mounted),
        *_straight_side_stops(wheel),
        *_unmarked_stops(wheel, mounted),
        *_unmarked_rim_stops(wheel, pressure),
        *_ratio_stops(wheel, mounted),
        *_pressure_stops(wheel, pressure, methods),
        *_insert_stops(insert),
        *_tape_stops(tape, setup),
    )


def _insert_stops(insert: InsertPick | None) -> list[Stop]:
    if insert is None or insert.verdict != "does_not_fit":
        return []
    return [
        Stop(
            "insert_does_not_fit",
            Message("The insert does not fit. {reason}", {"reason": insert.reasons[0]}),
            "insert",
            "insert.name",
        )
    ]


def _diameter_stops(wheel: Wheel, mounted: MountedTire) -> list[Stop]:
    rim_mm = wheel.rim.bead_seat_diameter_mm
    if rim_mm == mounted.bead_seat_diameter_mm:
        return []
    return [
        Stop(
            "diameter_mismatch",
            Message(
                "Different diameters: the tire is made for {tire_seat}, the rim has {rim_seat}. They do not go together.",
                {
                    "tire_seat": format(mounted.bead_seat_diameter_mm, "g"),
                    "rim_seat": format(rim_mm, "g"),
                },
            ),
            "diameter",
            "tire.size",
            overridable=False,
        )
    ]


def _straight_side_stops(wheel: Wheel) -> list[Stop]:
    if wheel.rim.hook != "straight_side":
        return []
    result = []
    if wheel.tire.tubeless_ready is False:
        result.append(
            Stop(
                "untubed_straight_side",
                Message("A tire without a tubeless marking never goes on a hookless rim."),
                "mark",
                "tire.tubeless_ready",
                overridable=False,
            )
        )
    if wheel.tire.straight_side_approved is not True:
        known = wheel.tire.straight_side_approved is False
        result.append(
            Stop(
                "straight_side_not_approved",
                Message("This tire is not approved for hookless rims. Use an approved tire.")
                if known
                else Message(
                    "Hookless approval of this tire was not entered. Until it is, the tire counts as not approved."
                ),
                "hookless",
                "tire.straight_side_approved",
                overridable=False,
            )
        )
    return result


def _ratio_stops(wheel: Wheel, mounted: MountedTire) -> list[Stop]:
    """Too narrow is a stop for everybody; too wide one that a named person may override: it was
    ridden for decades. So is a narrow tire on a hookless rim of nearly its width, with the
    manufacturers' approval.
    """
    ratio, bounds = mounted.width_ratio, RATIO.possible
    narrow = mounted.nominal_width_mm < NARROW_TIRE_MM and wheel.rim.hook == "straight_side"
    if ratio < (bounds.min_ or 0.0):
        code, bound, text = (
            "width_ratio",
            bounds.min_,
            N_(
                "The tire is too narrow for this rim: {width_ratio} times its width; {bound} is the least."
            ),
        )
    elif narrow and ratio < HOOKLESS_STOP_BELOW:
        bounds = Bounds(HOOKLESS_STOP_BELOW, bounds.max_)
        code, bound, text = (
            "width_ratio_hookless",
            bounds.min_,
            N_(
                "A narrow tire on a hookless rim of nearly its width ({width_ratio} times its width; {bound} is usual): only with both manufacturers' approval."
            ),
        )
    elif not bounds.holds(ratio):
        code, bound, text = (
            "width_ratio_above",
            bounds.max_,
            N_(
                "The tire is too wide for this rim: {width_ratio} times its width; {bound} is the most."
            ),
        )
    else:
        return []
    message = Message(text, {"width_ratio": ratio, "bound": format(bound or 0.0, "g")})
    return [Stop(code, message, "ratio", "tire.size", bounds, overridable=code != "width_ratio")]


def _unmarked_stops(wheel: Wheel, mounted: MountedTire) -> list[Stop]:
    """A narrow tire without tubeless mark is never run tubeless."""
    if wheel.tire.tubeless_ready is not False or mounted.nominal_width_mm >= UNMARKED_FROM_MM:
        return []
    return [
        Stop(
            "unmarked_narrow_tire",
            Message("A tire without tubeless mark and narrower than 35 mm is never run tubeless."),
            "mark",
            "tire.tubeless_ready",
            Bounds(UNMARKED_FROM_MM),
            overridable=False,
        )
    ]


def _unmarked_rim_stops(wheel: Wheel, pressure: PressurePick) -> list[Stop]:
    """A rim without tubeless mark has no shelf that keeps the bead of a hard tire on its seat."""
    if wheel.rim.tubeless_ready is not False or pressure.start_kpa < UNMARKED_RIM_KPA:
        return []
    message = Message(
        "The rim has no tubeless mark, and {start_kpa} is a lot for it: its beads may come off their seats.",
        {"start_kpa": pressure.start_kpa},
    )
    bounds = Bounds(None, UNMARKED_RIM_KPA)
    return [Stop("unmarked_rim_hard_tire", message, "mark", "rim.tubeless_ready", bounds)]


def _tape_stops(tape: TapePick, setup: "Setup") -> list[Stop]:
    """No tape in stock covers the rim: what to buy, or a named person's reason."""
    if not setup.lays_tape or tape.width_mm is not None:
        return []
    message = Message("No tape in stock covers this rim. Get {what}.", {"what": tape.to_buy})
    return [Stop("tape_not_in_stock", message, "tape", clears="shelf")]


def _pressure_stops(wheel: Wheel, pressure: PressurePick, methods: Methods) -> list[Stop]:
    if pressure.conflict:
        return [
            Stop(
                "pressure_over_limit",
                Message(
                    "No pressure is right: the tire needs at least {minimum_kpa}, the limit is {limit_kpa}.",
                    {
                        "minimum_kpa": wheel.tire.min_pressure_kpa or 0.0,
                        "limit_kpa": pressure.limit_kpa,
                    },
                ),
                "limit",
                "tire.min_pressure_kpa",
                Bounds(wheel.tire.min_pressure_kpa, pressure.limit_kpa),
                overridable=False,
            )
        ]
    asked = methods.start_pressure == "previous" and pressure.method == "previous"
    if asked and pressure.clamped == "limit":
        return [
            Stop(
                "pressure_over_limit",
                Message(
                    "The pressure that worked before is above the limit of {limit_kpa} for these parts.",
                    {"limit_kpa": pressure.limit_kpa},
                ),
                "limit",
                "previous_pressure_kpa",
                Bounds(None, pressure.limit_kpa),
                overridable=False,
            )
        ]
    return []


def find_cautions(
    wheel: Wheel,
    mounted: MountedTire,
    tape: TapePick,
    valve: ValvePick,
    pressure: PressurePick,
    methods: Methods,
    setup: "Setup",
) -> tuple[Caution, ...]:
    """Return what to know of this wheel at a stage; cautions for an action are given with the
    action.
    """
    bottle = methods.air_source == "charge"
    by_stage: tuple[tuple[Stage, list[Message]], ...] = (
        ("check_in", _check_in(wheel, mounted, pressure, setup)),
        ("tape", _tape(wheel, setup)),
        ("valve", _valve(valve) if setup.tire_goes_on and not setup.keeps_valve else []),
        ("seat", [*while_filling(pressure.limit_kpa, bottle, setup.taped_holes)]),
        ("hold", _hold(pressure, methods)),
        ("set", _set(wheel, pressure)),
    )
    return tuple(Caution(stage, saying) for stage, sayings in by_stage for saying in sayings)


#: Work on a wheel that is tubeless.
_TUBELESS_WORK = frozenset({"refresh", "repair", "back_to_tube", "retape"})


def _check_in(
    wheel: Wheel, mounted: MountedTire, pressure: PressurePick, setup: "Setup"
) -> list[Message]:
    result = []
    ratio, usual = mounted.width_ratio, RATIO.usual
    mind = RATIO.possible.holds(ratio) and not usual.holds(ratio)
    if mind and ratio < (usual.min_ or 0.0):
        result.append(
            Message(
                "Narrow tire on a wide rim ({width_ratio}): only where both manufacturers approve it.",
                {"width_ratio": ratio},
            )
        )
    elif mind:
        result.append(
            Message(
                "Wide tire on a narrow rim ({width_ratio}): light-bulb shape, burps more easily.",
                {"width_ratio": ratio},
            )
        )
    if wheel.rim.tubeless_ready is False and setup.does != "back_to_tube":
        result.append(
            Message("Rim without tubeless mark: nothing keeps a bead on its seat when it is flat.")
        )
    if wheel.arrival is not None and wheel.arrival.tube and setup.kind in _TUBELESS_WORK:
        result.append(
            Message(
                "A tube is inside: this work is for a tubeless wheel. Convert it, or correct the entry."
            )
        )
    unread = _unread(wheel, pressure)
    result += [unread] if unread else []
    # also shown at the signature and on the papers, so it may give way
    result.append(Message(MAKERS))
    return result[:MAX_AT_A_TIME]


def _unread(wheel: Wheel, pressure: PressurePick) -> Message | None:
    """What was not entered: limits and rim edge, which count as low, and a size that was read one
    way of several.
    """
    limit, capped = {"limit_kpa": pressure.limit_kpa}, pressure.limit_from == "unread"
    result = []
    if wheel.tire.max_pressure_kpa is None and capped:
        text = N_("Enter the tire's max pressure; until then {limit_kpa} is the limit, a safe one.")
        result.append(Message(text, limit))
    elif wheel.tire.max_pressure_kpa is None:
        result.append(Message("Enter the tire's max pressure: it may be below {limit_kpa}.", limit))
    elif capped:
        text = N_(
            "The rim's max pressure was not entered: {limit_kpa} is a safe limit. See the manufacturer's data sheet."
        )
        result.append(Message(text, limit))
    if wheel.rim.hook is None:
        result.append(
            Message("Hook not entered: look at the rim. Until then the hookless limit counts.")
        )
    if size := wheel.tire.parsed_size.assumed:
        result.append(Message("Tire size: {assumed}.", {"assumed": Message(size)}))
    if not result:
        return None
    return functools.reduce(
        lambda one, more: Message("{one} {more}", {"one": one, "more": more}), result
    )


def _tape(wheel: Wheel, setup: "Setup") -> list[Message]:
    rim = wheel.rim
    if not setup.lays_tape or rim.tubeless_ready is not False or rim.seat_circumference_mm:
        return []
    return [
        Message(
            "Rim without tubeless mark: measure around the seat, or lay one more layer, so that the beads sit tight."
        )
    ]


def _valve(valve: ValvePick) -> list[Message]:
    if valve.needed_mm is None:
        return [Message("Rim depth at the valve was not measured: no length can be picked.")]
    if valve.length_mm is None:
        return [
            Message(
                "No valve in stock reaches: {needed_trade} is needed.",
                {"needed_trade": valve.needed_mm},
            )
        ]
    if valve.standing_out_mm is None or valve.standing_out_mm <= MUCH_STANDING_OUT_MM:
        return []
    return [
        Message(
            "{standing_out_mm} of thread stick out: easily bent or caught.",
            {"standing_out_mm": valve.standing_out_mm},
        )
    ]


def while_filling(limit_kpa: float, bottle: bool, holes: bool) -> tuple[Message, ...]:
    """Return what to mind while air goes in: the bottle where it is opened, else spoke holes that
    only tape covers.
    """
    spray = Message(SPRAY, {"limit_kpa": limit_kpa})
    if bottle:
        return spray, Message(BOTTLE)
    return (spray, Message(HISS)) if holes else (spray,)


def _hold(pressure: PressurePick, methods: Methods) -> list[Message]:
    result = [Message("Wipe off soap and sealant before you trust a dry bead.")]
    if pressure.settle_method != methods.settle:
        result.append(
            Message(
                "No max pressure entered: sealing at {settle_kpa}, the pressure that seated it.",
                {"settle_kpa": pressure.settle_kpa},
            )
        )
    return result


def _set(wheel: Wheel, pressure: PressurePick) -> list[Message]:
    result = []
    if pressure.clamped == "limit" and pressure.limit_from != "unread":
        result.append(
            Message(
                "This load needs more than {limit_kpa}: a wider tire or less load.",
                {"limit_kpa": pressure.limit_kpa},
            )
        )
    if pressure.clamped == "minimum":
        result.append(Message("Raised to the tire's min pressure."))
    if pressure.clamped == "floor":
        result.append(Message("Raised to the usual minimum for this width; no minimum was read."))
    if pressure.hot_kpa > pressure.limit_kpa:
        result.append(
            Message(
                "Parked in the sun a dark tire reaches {hot_kpa}, over {limit_kpa}: keep it cool or set less.",
                {"hot_kpa": pressure.hot_kpa, "limit_kpa": pressure.limit_kpa},
            )
        )
    return result
