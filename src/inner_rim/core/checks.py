"""Stops and cautions: what must halt a job, and what is said where the hand is (HANDBOOK part 4)."""

import msgspec

from .insert import InsertPick
from .job import Practice, Shelf, Wheel
from .pressure import PressurePick
from .tape import TapePick
from .tire import MountedTire
from .valve import MUCH_STANDING_OUT_MM, ValvePick
from .why import Saying

RATIO_STOP_BELOW = 1.1
RATIO_MAKERS_BELOW = 1.3
RATIO_BULB_ABOVE = 2.3
RATIO_STOP_ABOVE = 2.8
FAT_MM = 90.0

#: Stops that nobody may override.
NO_OVERRIDE = frozenset(
    {
        "diameter_mismatch",
        "carbon_damaged",
        "straight_side_not_approved",
        "untubed_straight_side",
        "width_ratio",
        "pressure_over_limit",
    }
)


class Stop(msgspec.Struct, frozen=True):
    """Something that halts the job: a code for programs, a sentence, and the field it hangs on."""

    code: str
    message: Saying
    field: str = ""

    @property
    def overridable(self) -> bool:
        """Whether a named person may override it with a written reason."""
        return self.code not in NO_OVERRIDE


class Caution(msgspec.Struct, frozen=True):
    """A sentence shown at the stage where it matters."""

    stage: str
    message: Saying


def find_stops(
    wheel: Wheel,
    mounted: MountedTire,
    pressure: PressurePick,
    practice: Practice,
    insert: InsertPick | None = None,
) -> tuple[Stop, ...]:
    """Return what halts this wheel, gravest first."""
    return (
        *_diameter_stops(wheel, mounted),
        *_straight_side_stops(wheel),
        *_ratio_stops(mounted),
        *_pressure_stops(wheel, pressure, practice),
        *_insert_stops(insert),
    )


def _insert_stops(insert: InsertPick | None) -> list[Stop]:
    if insert is None or insert.verdict != "does_not_fit":
        return []
    return [
        Stop(
            "insert_does_not_fit",
            Saying("The insert does not fit. {reason}", {"reason": insert.reasons[0]}),
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
            Saying(
                "Different diameters: the tire is made for {tire_seat}, the rim has {rim_seat}. They do not go together.",
                {"tire_seat": f"{mounted.bead_seat_diameter_mm:g}", "rim_seat": f"{rim_mm:g}"},
            ),
            "tire.size",
        )
    ]


def _straight_side_stops(wheel: Wheel) -> list[Stop]:
    if wheel.rim.hook != "straight_side":
        return []
    found = []
    if wheel.tire.tubeless_ready is False:
        found.append(
            Stop(
                "untubed_straight_side",
                Saying("A tire without a tubeless marking is never put on a straight-side rim."),
                "tire.tubeless_ready",
            )
        )
    if wheel.tire.straight_side_approved is not True:
        known = wheel.tire.straight_side_approved is False
        found.append(
            Stop(
                "straight_side_not_approved",
                Saying("This tire is not approved for a straight-side rim. Take an approved tire.")
                if known
                else Saying(
                    "Approval of this tire for a straight-side rim was not read. Until it is, it counts as not approved."
                ),
                "tire.straight_side_approved",
            )
        )
    return found


def _ratio_stops(mounted: MountedTire) -> list[Stop]:
    ratio = mounted.width_ratio
    if RATIO_STOP_BELOW <= ratio <= RATIO_STOP_ABOVE:
        return []
    text = (
        "The tire is too narrow for this rim: {width_ratio} times its width, at least {bound} is accepted."
        if ratio < RATIO_STOP_BELOW
        else "The tire is too wide for this rim: {width_ratio} times its width, at most {bound} is accepted."
    )
    bound = RATIO_STOP_BELOW if ratio < RATIO_STOP_BELOW else RATIO_STOP_ABOVE
    return [Stop("width_ratio", Saying(text, {"width_ratio": ratio, "bound": f"{bound:g}"}), "tire.size")]


def _pressure_stops(wheel: Wheel, pressure: PressurePick, practice: Practice) -> list[Stop]:
    if pressure.conflict:
        return [
            Stop(
                "pressure_over_limit",
                Saying(
                    "No pressure is right: the tire needs at least {minimum_kpa}, the limit is {limit_kpa}.",
                    {"minimum_kpa": wheel.tire.min_pressure_kpa or 0.0, "limit_kpa": pressure.limit_kpa},
                ),
                "tire.min_pressure_kpa",
            )
        ]
    asked = practice.start_pressure == "previous" and pressure.school == "previous"
    if asked and pressure.clamped == "limit":
        return [
            Stop(
                "pressure_over_limit",
                Saying(
                    "The pressure that worked before is above the limit of {limit_kpa} for these parts.",
                    {"limit_kpa": pressure.limit_kpa},
                ),
                "previous_pressure_kpa",
            )
        ]
    return []


def find_cautions(
    wheel: Wheel,
    mounted: MountedTire,
    tape: TapePick,
    valve: ValvePick,
    pressure: PressurePick,
    practice: Practice,
    shelf: Shelf,
) -> tuple[Caution, ...]:
    """Return the cautions for this wheel, in the order of the stages."""
    return tuple(
        Caution(stage, saying)
        for stage, sayings in (
            ("check_in", _check_in(wheel, mounted, pressure)),
            ("strip", _strip(wheel)),
            ("tape", _tape(tape)),
            ("valve", _valve(valve)),
            ("mount", _mount()),
            ("sealant", _sealant()),
            ("seat", _seat(pressure, practice, shelf)),
            ("hold", [Saying("Wipe off soap and sealant before you trust a dry bead.")]),
            ("set", _set(wheel, pressure)),
        )
        for saying in sayings
    )


def _check_in(wheel: Wheel, mounted: MountedTire, pressure: PressurePick) -> list[Saying]:
    found = []
    ratio = mounted.width_ratio
    if RATIO_STOP_BELOW <= ratio < RATIO_MAKERS_BELOW:
        found.append(
            Saying(
                "Narrow tire on a wide rim ({width_ratio}): only where both makers approve it.",
                {"width_ratio": ratio},
            )
        )
    if RATIO_BULB_ABOVE < ratio <= RATIO_STOP_ABOVE:
        found.append(
            Saying(
                "Wide tire on a narrow rim ({width_ratio}): light-bulb shape, burps more easily.",
                {"width_ratio": ratio},
            )
        )
    if pressure.limit_from == "unread":
        found.append(
            Saying(
                "No limit was read from tire or rim: {limit_kpa} stands in as a cautious cap.",
                {"limit_kpa": pressure.limit_kpa},
            )
        )
    elif wheel.tire.max_pressure_kpa is None:
        found.append(Saying("The tire's printed maximum was not read; it may be lower than the limit shown."))
    elif wheel.rim.max_pressure_kpa is None:
        found.append(Saying("The rim's printed maximum was not read; it may be lower than the limit shown."))
    if wheel.rim.hook is None:
        found.append(
            Saying("Hook not read: look at the rim edge. Until then the straight-side limit counts.")
        )
    if wheel.tire.tubeless_ready is False and wheel.rim.hook != "straight_side":
        found.append(
            Saying("No tubeless marking: side walls weep, more sealant and days of patience; results vary.")
        )
    found.append(
        Saying("The makers' instructions and local rules go first; a qualified mechanic signs the wheel off.")
    )
    return found


def _strip(wheel: Wheel) -> list[Saying]:
    found = [Saying("Solvents: open a window, no flame or spark.")]
    if wheel.rim.carbon:
        found.append(Saying("Carbon rim: any damage stops the job."))
    return found


def _tape(tape: TapePick) -> list[Saying]:
    found = [Saying("Warm, not hot, most of all on carbon. Push the pick away from your hand.")]
    if tape.width_mm is None:
        found.append(
            Saying(
                "No tape in stock covers this bed; {developed_mm} is needed.",
                {"developed_mm": tape.developed_width_mm},
            )
        )
    return found


def _valve(valve: ValvePick) -> list[Saying]:
    if valve.needed_mm is None:
        return [Saying("Depth at the valve was not measured: no length can be picked.")]
    if valve.length_mm is None:
        return [Saying("No valve in stock reaches: {needed_mm} is needed.", {"needed_mm": valve.needed_mm})]
    found = [Saying("Finger tight: a nut done up with pliers cannot be undone at the roadside.")]
    if valve.standing_out_mm is not None and valve.standing_out_mm > MUCH_STANDING_OUT_MM:
        found.append(
            Saying(
                "{standing_out_mm} of thread stand out: easily bent or caught.",
                {"standing_out_mm": valve.standing_out_mm},
            )
        )
    return found


def _mount() -> list[Saying]:
    return [
        Saying("Look at the arrow before the first bead."),
        Saying("Levers in small bites, shallow, never into the tape."),
    ]


def _sealant() -> list[Saying]:
    return [
        Saying("Never mix two kinds of sealant."),
        Saying("Dispose of sealant and solvent by local rules."),
    ]


def _seat(pressure: PressurePick, practice: Practice, shelf: Shelf) -> list[Saying]:
    soap = practice.lubricant == "soap" and shelf.sealant is not None and shelf.sealant.dislikes_soap
    weak = [Saying("Soap weakens this sealant: wet the beads with the sealant itself.")] if soap else []
    return [
        Saying(
            "Eyes and ears covered, face and fingers away. Never above {limit_kpa}.",
            {"limit_kpa": pressure.limit_kpa},
        ),
        Saying("Hissing at the spoke holes: air in the rim cavity. Stop and let it out."),
        Saying(
            "Use a regulated air source; a charge bottle is a pressure vessel: inspected, never above its rating."
        ),
        *weak,
    ]


def _set(wheel: Wheel, pressure: PressurePick) -> list[Saying]:
    found = []
    if pressure.clamped == "limit":
        found.append(
            Saying(
                "The load asks for more than the limit of {limit_kpa}: a wider tire or less load.",
                {"limit_kpa": pressure.limit_kpa},
            )
        )
    if pressure.clamped == "minimum":
        found.append(Saying("Raised to the tire's printed minimum."))
    found.append(Saying("Electric and cargo bicycles: the maker's limits for load come first."))
    return found
