"""The steps of the job for these parts and this practice, in the order of the hands (HANDBOOK part 1).

A step is something to do, or a question of the inspection; each has a code that the log names it by.
"""

from typing import Literal

import msgspec

from .coming_up import ComingUp, advice
from .insert import SEAM_FROM_VALVE_MM
from .inspection import checks_for
from .job import Practice, Shelf, Wheel
from .mounting import ADVICE, MountingPick
from .practice import REASONS
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
#: Stages whose steps are ticked off one by one; check-in, seating and setting have answers of their own.
WALKED = ("strip", "tape", "valve", "insert", "mount", "sealant", "hold")

Asks = Literal["", "dose", "dip"]


class Step(msgspec.Struct, frozen=True):
    """One thing to do.

    Attributes:
        stage: where it belongs.
        text: a sentence.
        wait_minutes: to wait after it.
        active_minutes: for the hands (common practice).
        code: its name in the log, unique within a wheel.
        check: code of the question it is, empty for something to do.
        caution: what to mind while the hand is about to do it.
        asks: what is written down with it.
    """

    stage: str
    text: Saying
    wait_minutes: float = 0.0
    active_minutes: float = 1.0
    code: str = ""
    check: str = ""
    caution: Saying | None = None
    asks: Asks = ""


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

    @property
    def stages(self) -> tuple[str, ...]:
        """The stages in the order of this wheel: injected sealant comes after dry seating."""
        middle = ("seat", "sealant") if self.inject else ("sealant", "seat")
        return ("check_in", "strip", "tape", "valve", "insert", "mount", *middle, "hold", "set")


def choose(wheel: Wheel, practice: Practice, shelf: Shelf, mounting: MountingPick) -> Choices:
    """Return the order that these parts force or the shop prefers; `practice` and `shelf` are complete.

    A tight rim with an insert is seated dry without the insert first; an insert without ports blocks
    the valve, and particles clog it, so that sealant is poured.

    Source: common practice, no published source.
    """
    insert = wheel.insert
    tight = mounting.grade in ("levers", "will_not_go")
    blocked = insert is not None and not insert.ported
    clogs = shelf.sealant is not None and shelf.sealant.clogs_valve is True
    wanted = practice.sealant_route == "inject"
    reason = ""
    if wanted and blocked:
        reason = "The insert has no ports: pour, or take a ported valve and insert"
    elif wanted and clogs:
        reason = "This sealant clogs a valve: pour"
    inject = wanted and not blocked and not clogs
    return Choices(dry_first=(insert is not None and tight) or inject, inject=inject, route_reason=reason)


def make_steps(
    wheel: Wheel,
    practice: Practice,
    choices: Choices,
    tape: TapePick,
    valve: ValvePick,
    mounting: MountingPick,
    sealant: SealantPick,
    pressure: PressurePick,
    coming: ComingUp,
) -> tuple[Step, ...]:
    """Return the ordered steps of one wheel; `practice` is complete."""
    asked = {
        stage: [
            Step(c.stage, Saying(c.question), active_minutes=0.2, code=c.code, check=c.code)
            for c in checks_for(wheel)
            if c.stage == stage
        ]
        for stage in ("strip", "insert", "mount", "hold")
    }
    by_stage = {
        "check_in": _check_in_steps(wheel),
        "strip": _strip_steps(wheel, asked["strip"]),
        "tape": _tape_steps(tape),
        "valve": _valve_steps(wheel, valve),
        "insert": _insert_steps(wheel, choices, mounting, asked["insert"]),
        "mount": _mount_steps(mounting, choices, asked["mount"]),
        "sealant": _sealant_steps(wheel, sealant, choices),
        "seat": _seat_steps(practice, pressure, coming),
        "hold": [*asked["hold"], *_hold_steps(wheel, pressure)],
        "set": _set_steps(pressure, sealant),
    }
    return tuple(step for stage in choices.stages for step in by_stage[stage])


def _check_in_steps(wheel: Wheel) -> list[Step]:
    found = [
        Step(
            "check_in",
            Saying("Read rim and tire: diameters, widths, hook, printed limits, arrow"),
            code="check_in.read",
            active_minutes=2.0,
        )
    ]
    if wheel.rim.hook == "straight_side":
        found.append(
            Step(
                "check_in",
                Saying("Straight-side rim: find the tire's approval on its side wall"),
                code="check_in.approval",
            )
        )
    return found


def _strip_steps(wheel: Wheel, asked: list[Step]) -> list[Step]:
    fumes = Saying("Solvents: open a window, no flame or spark. Acetone only where the rim maker allows it.")
    found = [
        Step(
            "strip",
            Saying("Let the air out, break the bead, take tube and strip out"),
            code="strip.open",
            active_minutes=3.0,
        ),
        *asked,
        Step(
            "strip",
            Saying("Clean with isopropyl alcohol, let it dry"),
            DRYING_MINUTES,
            code="strip.clean",
            active_minutes=3.0,
            caution=fumes,
        ),
    ]
    if wheel.rim.bed == "large_holes":
        found.append(
            Step("strip", Saying("Large holes: the strip goes back in under the tape"), code="strip.strip")
        )
    return found


def _tape_steps(tape: TapePick) -> list[Step]:
    values: dict[str, float | int | str] = {"width_mm": tape.width_mm or 0.0, "length_mm": tape.length_mm}
    if tape.width_mm is None:
        find = Saying("Find tape {need_mm} wide", {"need_mm": tape.developed_width_mm})
        return [Step("tape", find, code="tape.find")]
    found = []
    if tape.trim_to_mm is not None:
        trim = Saying("Trim the roll to {trim_mm}", {"trim_mm": tape.trim_to_mm})
        found.append(Step("tape", trim, code="tape.trim", active_minutes=2.0))
    text = (
        "Two strips of {width_mm}, each against its wall, {length_mm} in all"
        if tape.strips == 2
        else "Lay {width_mm} under tension, {length_mm} in all: shoulders first, then the well"
    )
    values["layers"] = tape.layers
    if tape.layers > 1:
        text += "; {layers} layers"
    found.append(Step("tape", Saying(text, values), code="tape.lay", active_minutes=4.0))
    past = Saying(
        "Overlap {past_mm}, cut, rub down: {reason}",
        {"past_mm": tape.overlap_mm, "reason": REASONS[tape.start]},
    )
    warm = Saying("Stiff tape: warm, not hot, most of all on carbon.")
    found.append(Step("tape", past, code="tape.cut", active_minutes=1.5, caution=warm))
    return found


def _valve_steps(wheel: Wheel, valve: ValvePick) -> list[Step]:
    found = [
        Step(
            "valve",
            Saying("Find the hole from outside; small and round: push through, do not cut"),
            code="valve.hole",
            caution=Saying("Push the pick away from your hand."),
        )
    ]
    if valve.length_mm is not None:
        found.append(
            Step(
                "valve",
                Saying("Fit the {length_mm} valve, o-ring, nut finger tight", {"length_mm": valve.length_mm}),
                code="valve.fit",
                caution=Saying("A nut done up with pliers cannot be undone at the roadside."),
            )
        )
    if wheel.insert is not None and not wheel.insert.ported:
        ports = Saying("Valve with side ports; its holes face along the tire")
        found.append(Step("valve", ports, code="valve.ports"))
    return found


def _insert_steps(wheel: Wheel, choices: Choices, mounting: MountingPick, asked: list[Step]) -> list[Step]:
    if wheel.insert is None:
        return []
    found = [
        Step(
            "insert",
            Saying("Warm tire and insert"),
            WARMING_MINUTES,
            code="insert.warm",
            active_minutes=0.5,
            caution=Saying("Warm, not hot, most of all on carbon."),
        ),
        *asked,
    ]
    if choices.dry_first:
        side = mounting.last_side or "left"
        found.append(
            Step(
                "insert",
                Saying(
                    "Tight rim: mount and seat the tire dry, without the insert, then break the {side} side only",
                    {"side": side},
                ),
                code="insert.dry",
                active_minutes=8.0,
            )
        )
    text = "Insert in, its notch at the valve"
    if wheel.insert.joined is not False:
        text += "; a seam at least {seam_mm} from the valve"
    seam = {"seam_mm": SEAM_FROM_VALVE_MM}
    found.append(Step("insert", Saying(text, seam), code="insert.in", active_minutes=4.0))
    return found


def _mount_steps(mounting: MountingPick, choices: Choices, asked: list[Step]) -> list[Step]:
    found = list(asked)
    if mounting.last_side is not None:
        narrow = Saying(
            "The {side} shoulder is the narrow one: that side goes on last", {"side": mounting.last_side}
        )
        found.append(Step("mount", narrow, code="mount.side", active_minutes=0.2))
    found.append(
        Step(
            "mount",
            Saying(
                "First bead into the well: label over the valve, start opposite the valve, finish at the valve"
            ),
            code="mount.first",
            active_minutes=2.0,
        )
    )
    last = (
        "Second bead the same way. {slack_mm} of slack. {advice}"
        if choices.inject
        else "Second bead, the last section left open for the sealant. {slack_mm} of slack. {advice}"
    )
    found.append(
        Step(
            "mount",
            Saying(last, {"slack_mm": mounting.slack_mm, "advice": ADVICE[mounting.grade]}),
            code="mount.second",
            active_minutes=3.0,
            caution=Saying("A lever only in small bites, shallow, never into the tape."),
        )
    )
    return found


def _sealant_steps(wheel: Wheel, sealant: SealantPick, choices: Choices) -> list[Step]:
    dose: dict[str, float | int | str] = {"dose_ml": sealant.dose_ml}
    never = Saying("Never mix two kinds of sealant; dispose of the old by local rules.")
    found = []
    if choices.inject:
        found.append(
            Step("sealant", Saying("Let the air out; core out, valve at the side"), code="sealant.core")
        )
        text = "Shake, inject {dose_ml}; pull the plunger back before unscrewing"
    else:
        if choices.route_reason:
            found.append(
                Step("sealant", Saying(choices.route_reason), code="sealant.route", active_minutes=0.2)
            )
        text = "Shake, pour {dose_ml} in at the open section, turn it down, close the bead"
    found.append(
        Step(
            "sealant",
            Saying(text, dose),
            code="sealant.dose",
            active_minutes=2.0,
            caution=never,
            asks="dose",
        )
    )
    if choices.inject and wheel.insert is None:
        found.append(
            Step(
                "sealant",
                Saying("Dip now, valve at the bottom: it calibrates the dipstick for this tire"),
                code="sealant.dip",
                active_minutes=0.5,
                asks="dip",
            )
        )
    return found


_WETTING = {
    "none": "Beads dry",
    "soap": "Soapy water on both beads",
    "fluid": "Mounting fluid on both beads",
    "sealant": "Wet the beads with the sealant itself",
}


def _seat_steps(practice: Practice, pressure: PressurePick, coming: ComingUp) -> list[Step]:
    covered = Saying(
        "Eyes and ears covered, face and fingers away. Never above {limit_kpa}.",
        {"limit_kpa": pressure.limit_kpa},
    )
    found = [
        Step("seat", Saying(_WETTING[practice.lubricant or "soap"]), code="seat.wet"),
        Step("seat", advice(coming), code="seat.source"),
    ]
    found += [
        Step(
            "seat",
            Saying("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": step}),
            code=f"seat.climb{i}",
            caution=covered,
        )
        for i, step in enumerate(pressure.seating_kpa, 1)
    ]
    found.append(
        Step(
            "seat",
            Saying(
                "Spin past a fixed point: no hop, no wobble. Never above {limit_kpa}",
                {"limit_kpa": pressure.limit_kpa},
            ),
            code="seat.spin",
        )
    )
    return found


def _hold_steps(wheel: Wheel, pressure: PressurePick) -> list[Step]:
    minutes = FLAT_MINUTES_WEEPING if wheel.tire.tubeless_ready is False else FLAT_MINUTES_READY
    covered = Saying("Face and fingers away. Never above {limit_kpa}.", {"limit_kpa": pressure.limit_kpa})
    return [
        Step(
            "hold",
            Saying("Set {settle_kpa}, shake and spin", {"settle_kpa": pressure.settle_kpa}),
            code="hold.spin",
            caution=covered,
        ),
        Step("hold", Saying("Flat on the left side"), minutes, code="hold.left", active_minutes=0.3),
        Step("hold", Saying("Flat on the right side"), minutes, code="hold.right", active_minutes=0.3),
        Step(
            "hold",
            Saying(
                "Leave it overnight at {settle_kpa}, then read the gauge", {"settle_kpa": pressure.settle_kpa}
            ),
            HOLD_MINUTES,
            code="hold.leave",
            active_minutes=0.3,
        ),
    ]


def _set_steps(pressure: PressurePick, sealant: SealantPick) -> list[Step]:
    return [
        Step(
            "set",
            Saying(
                "Set {set_here_kpa} here, {start_kpa} on the ride",
                {"set_here_kpa": pressure.set_here_kpa, "start_kpa": pressure.start_kpa},
            ),
            code="set.pressure",
        ),
        Step(
            "set",
            Saying(
                "Sealant: look in after {check_days}, refresh after {refresh_days}",
                {"check_days": sealant.check_after_days, "refresh_days": sealant.refresh_after_days},
            ),
            code="set.dates",
            active_minutes=0.2,
        ),
    ]
