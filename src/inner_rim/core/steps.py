"""The steps of the job for these parts and this practice, in the order of the hands (HANDBOOK part 1)."""

import msgspec

from .coming_up import ComingUp, advice
from .insert import SEAM_FROM_VALVE_MM
from .job import Practice, Wheel
from .mounting import ADVICE, MountingPick
from .pressure import PressurePick
from .sealant import SealantPick
from .tape import TapePick
from .valve import ValvePick
from .why import Saying

DRYING_MINUTES = 15.0
FLAT_MINUTES_READY = 15.0
FLAT_MINUTES_WEEPING = 120.0
HOLD_MINUTES = 12 * 60.0
WARMING_MINUTES = 10.0


class Step(msgspec.Struct, frozen=True):
    """One thing to do: its stage, a sentence, and the minutes to wait after it."""

    stage: str
    text: Saying
    wait_minutes: float = 0.0


class Choices(msgspec.Struct, frozen=True):
    """What decides the order: worked out from parts and practice, each with its reason.

    Attributes:
        dry_first: mount and seat without insert and sealant first.
        inject: sealant goes through the valve.
        route_reason: what forces the route, empty where it is the shop's own choice.
    """

    dry_first: bool
    inject: bool
    route_reason: str = ""


def choose(wheel: Wheel, practice: Practice, mounting: MountingPick) -> Choices:
    """Return the order that these parts force or the shop prefers; `practice` is complete.

    A tight rim with an insert is seated dry without the insert first; an insert without ports blocks
    the valve, so its sealant is poured.

    Source: common practice, no published source.
    """
    insert = wheel.insert
    tight = mounting.grade in ("levers", "will_not_go")
    blocked = insert is not None and not insert.ported
    inject = practice.sealant_route == "inject" and not blocked
    reason = (
        "the insert has no ports: pour, or take a ported valve"
        if blocked and practice.sealant_route == "inject"
        else ""
    )
    return Choices(dry_first=(insert is not None and tight) or inject, inject=inject, route_reason=reason)


def make_steps(
    wheel: Wheel,
    practice: Practice,
    tape: TapePick,
    valve: ValvePick,
    mounting: MountingPick,
    sealant: SealantPick,
    pressure: PressurePick,
    coming: ComingUp,
) -> tuple[Step, ...]:
    """Return the ordered steps of one wheel; `practice` is complete."""
    choices = choose(wheel, practice, mounting)
    return (
        *_check_in_steps(wheel),
        *_strip_steps(wheel),
        *_tape_steps(wheel, tape),
        *_valve_steps(wheel, valve),
        *_insert_steps(wheel, choices),
        *_mount_steps(wheel, mounting, choices),
        *_sealant_steps(sealant, choices),
        *_seat_steps(practice, pressure, coming),
        *_hold_steps(wheel, pressure),
        *_set_steps(pressure, sealant),
    )


def _check_in_steps(wheel: Wheel) -> list[Step]:
    found = [Step("check_in", Saying("Read rim and tire: diameters, widths, hook, printed limits, arrow"))]
    if wheel.rim.hook == "straight_side":
        found.append(Step("check_in", Saying("Straight-side rim: find the tire's approval on its side wall")))
    return found


def _strip_steps(wheel: Wheel) -> list[Step]:
    found = [
        Step("strip", Saying("Let the air out, break the bead, take tube and strip out")),
        Step("strip", Saying("Feel the bed: proud spoke ends, burrs, dents, old sealant")),
        Step("strip", Saying("Clean with isopropyl alcohol, let it dry"), DRYING_MINUTES),
    ]
    if wheel.rim.bed == "large_holes":
        found.append(Step("strip", Saying("Large holes: the strip goes back in under the tape")))
    return found


def _tape_steps(wheel: Wheel, tape: TapePick) -> list[Step]:
    values: dict[str, float | int | str] = {"width_mm": tape.width_mm or 0.0, "length_mm": tape.length_mm}
    if tape.width_mm is None:
        return [Step("tape", Saying("Find tape {need_mm} wide", {"need_mm": tape.developed_width_mm}))]
    found = []
    if tape.trim_to_mm is not None:
        found.append(Step("tape", Saying("Trim the roll to {trim_mm}", {"trim_mm": tape.trim_to_mm})))
    if tape.strips == 2:
        found.append(
            Step(
                "tape", Saying("Two strips of {width_mm}, each against its wall, {length_mm} in all", values)
            )
        )
    else:
        found.append(
            Step(
                "tape",
                Saying(
                    "Lay {width_mm} under tension, {length_mm} in all: shoulders first, then the well", values
                ),
            )
        )
    if tape.layers > 1:
        found.append(Step("tape", Saying("{layers} layers", {"layers": tape.layers})))
    found.append(
        Step(
            "tape",
            Saying("Past the valve again by {past_mm}, cut, rub down", {"past_mm": 0.5 * tape.overlap_mm}),
        )
    )
    return found


def _valve_steps(wheel: Wheel, valve: ValvePick) -> list[Step]:
    found = [Step("valve", Saying("Find the hole from outside; small and round: push through, do not cut"))]
    if valve.length_mm is not None:
        found.append(
            Step(
                "valve",
                Saying("Fit the {length_mm} valve, o-ring, nut finger tight", {"length_mm": valve.length_mm}),
            )
        )
    if wheel.insert is not None and not wheel.insert.ported:
        found.append(Step("valve", Saying("Valve with side ports; its holes face along the tire")))
    return found


def _insert_steps(wheel: Wheel, choices: Choices) -> list[Step]:
    if wheel.insert is None:
        return []
    found = [
        Step("insert", Saying("Warm tire and insert"), WARMING_MINUTES),
        Step("insert", Saying("Arrow: look again before the insert goes in")),
    ]
    if choices.dry_first:
        found.append(
            Step(
                "insert",
                Saying(
                    "Tight rim: mount and seat the tire dry, without the insert, then break one side only"
                ),
            )
        )
    seam = {"seam_mm": SEAM_FROM_VALVE_MM}
    found.append(
        Step("insert", Saying("Insert in: notch at the valve, a seam at least {seam_mm} from it", seam))
    )
    return found


def _mount_steps(wheel: Wheel, mounting: MountingPick, choices: Choices) -> list[Step]:
    found = [Step("mount", Saying("Arrow: does the tire turn the right way? Label over the valve"))]
    if mounting.last_side is not None:
        found.append(
            Step(
                "mount",
                Saying(
                    "The {side} shoulder is the narrow one: that side goes on last",
                    {"side": mounting.last_side},
                ),
            )
        )
    found.append(
        Step("mount", Saying("First bead into the well, start opposite the valve, finish at the valve"))
    )
    if not choices.inject:
        found.append(Step("mount", Saying("Second bead, but leave the last section open for the sealant")))
    else:
        found.append(Step("mount", Saying("Second bead the same way")))
    found.append(
        Step(
            "mount",
            Saying(
                "{slack_mm} of slack. {advice}",
                {"slack_mm": mounting.slack_mm, "advice": ADVICE[mounting.grade]},
            ),
        )
    )
    return found


def _sealant_steps(sealant: SealantPick, choices: Choices) -> list[Step]:
    dose: dict[str, float | int | str] = {"dose_ml": sealant.dose_ml}
    if choices.inject:
        return [
            Step("sealant", Saying("Seat dry first; then core out, valve at the side")),
            Step("sealant", Saying("Shake, inject {dose_ml}; pull the plunger back before unscrewing", dose)),
        ]
    found = [
        Step(
            "sealant",
            Saying("Shake, pour {dose_ml} in at the open section, turn it down, close the bead", dose),
        )
    ]
    if choices.route_reason:
        found.insert(0, Step("sealant", Saying(choices.route_reason)))
    return found


_WETTING = {
    "none": "Beads dry",
    "soap": "Soapy water on both beads",
    "fluid": "Mounting fluid on both beads",
    "sealant": "Wet the beads with the sealant itself",
}


def _seat_steps(practice: Practice, pressure: PressurePick, coming: ComingUp) -> list[Step]:
    found = [Step("seat", Saying(_WETTING[practice.lubricant or "soap"])), Step("seat", advice(coming))]
    found += [
        Step("seat", Saying("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": step}))
        for step in pressure.seating_kpa
    ]
    found.append(
        Step(
            "seat",
            Saying(
                "Spin past a fixed point: no hop, no wobble. Never above {limit_kpa}",
                {"limit_kpa": pressure.limit_kpa},
            ),
        )
    )
    return found


def _hold_steps(wheel: Wheel, pressure: PressurePick) -> list[Step]:
    minutes = FLAT_MINUTES_WEEPING if wheel.tire.tubeless_ready is False else FLAT_MINUTES_READY
    return [
        Step("hold", Saying("Set {settle_kpa}, shake and spin", {"settle_kpa": pressure.settle_kpa})),
        Step("hold", Saying("Flat on the left side"), minutes),
        Step("hold", Saying("Flat on the right side"), minutes),
        Step("hold", Saying("Leave it overnight, then read the gauge"), HOLD_MINUTES),
    ]


def _set_steps(pressure: PressurePick, sealant: SealantPick) -> list[Step]:
    return [
        Step(
            "set",
            Saying(
                "Set {set_here_kpa} here, {start_kpa} on the ride",
                {"set_here_kpa": pressure.set_here_kpa, "start_kpa": pressure.start_kpa},
            ),
        ),
        Step(
            "set",
            Saying(
                "Sealant: look in after {check_days}, refresh after {refresh_days}",
                {"check_days": sealant.check_after_days, "refresh_days": sealant.refresh_after_days},
            ),
        ),
    ]
