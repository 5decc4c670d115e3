"""The sentence of every action for one wheel, with its figures, cautions and waits.

All advice here is common practice, no published source.
"""

import math
from collections.abc import Mapping
from functools import cached_property
from typing import Any

from inner_rim.core.models.insert import SEAM_FROM_VALVE_MM
from inner_rim.core.models.mounting import ADVICE, MountingPick
from inner_rim.core.models.pressure import PressurePick
from inner_rim.core.models.rim import ASSUMED_SPOKES
from inner_rim.core.models.sealant import SealantPick
from inner_rim.core.models.tape import CM_MM, TapePick
from inner_rim.core.models.valve import ValvePick
from inner_rim.core.procedure.actions import FLAT_MINUTES_WEEPING, TOP_UP_EVERY_MINUTES, Action, action
from inner_rim.core.procedure.questions import words_of
from inner_rim.core.procedure.setup import Setup
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.why import Message, Value

SPRAY = "Eye and ear protection on, face and fingers away from the bead. Never above {limit_kpa}."
HISS = "Hissing at the spoke holes: stop and let the air out."
BOTTLE = "A charge bottle is a pressure vessel: inspected, never above its rating."
LEVERS = "Levers in small bites, shallow, never into the tape."
#: Tasks of a weeping tire: three a day while the shop is open, for three days; the third waits overnight.
TOP_UPS, TOP_UPS_A_DAY, OVERNIGHT_MINUTES = 9, 3, 14 * 60.0

_WET = {
    "soap": "Soapy water on both beads",
    "fluid": "Mounting fluid on both beads",
    "sealant": "Brush a little sealant on both beads",
}
_HOLE = {
    "pushed": "Find the valve hole from the hub side and push the pick through: small and round",
    "warmed": "Find the valve hole from the hub side and push a warmed pick through",
    "cut": "Find the valve hole from the hub side; a small cross cut, no longer than the hole is wide",
}
_PLAIN = {
    "check_in.read": "Read rim and tire: diameters, widths, hook, printed limits, arrow",
    "check_in.approval": "Hookless rim: find the approval for it on the tire",
    "check_in.weigh": "Weigh the wheel as it came in, or go on without",
    "strip.deflate": "Let the air out",
    "strip.tire_off": "Take the tire off, both beads",
    "strip.tube_out": "Take the tube out",
    "strip.insert_out": "Take the insert out and put it aside",
    "strip.old_insert_out": "Take the old insert out",
    "strip.sealant_out": "Wipe the old sealant out of tire and rim; dispose of it by local rules",
    "strip.valve_out": "Take the valve out",
    "strip.tape_off": "Take the old tape off and rub the adhesive away",
    "strip.rim_strip_off": "Take the rim strip off",
    "strip.rim_strip_in": "Large spoke holes: the rim strip goes back in, under the tape",
    "strip.open_one": "Open one side only; the other bead stays on the rim",
    "rim.clean": "Clean the rim bed with a solvent that leaves no film",
    "rim.dry": "Let the rim bed dry; overnight is better",
    "rim.wipe": "Wipe dried sealant off beads and bead shelves",
    "tape.press": "Rub the tape down all round, most of all the overlap",
    "tape.warm": "Warm the tape and press it down",
    "tire.warm": "Warm the folded tire until it opens up",
    "tube.in": "Put the tube in, a breath of air in it, no fold",
    "tube.out": "Take the tube out",
    "bead.open_one": "Break the {side} side only; the other bead stays on its shelf",
    "bead.off_one": "Lift that one bead over the rim, all round",
    "bead.close": "Turn the sealant to the bottom and close the last section at the valve",
    "core.out": "Let any air out and take the valve core out, valve at the side",
    "core.in": "Put the valve core back in",
    "sealant.shake": "Shake the sealant well",
    "air.deflate": "Let the air out slowly",
    "dip.read": "Dip now, valve at the bottom: it calibrates the dipstick for this tire",
    "hold.flat_left": "Lay it flat on the left side",
    "hold.flat_right": "Lay it flat on the right side",
    "hold.soap": "Soapy water on valve, nipples, beads and side walls",
    "repair.find": "Find the leak: look, listen, soapy water; which hole, how big",
    "repair.plug": "Plug the hole from outside, then turn it to the bottom",
    "repair.patch": "Dry and roughen the inside, patch the hole, press it down",
    "repair.boot": "Boot the hole from inside",
    "set.weigh": "Weigh the finished wheel, or go on without",
    "set.sign": "Hand over, with your name",
}


class Words:
    """The sentences for one wheel.

    Args:
        wheel: its parts.
        methods: that hold for this wheel.
        setup: what decides the procedure.
        tape, valve, mounting, sealant, pressure: what was picked.
        dry: mounting without the insert, where the tire is seated before it goes in.
    """

    def __init__(
        self,
        wheel: Wheel,
        methods: Methods,
        setup: Setup,
        tape: TapePick,
        valve: ValvePick,
        mounting: MountingPick,
        sealant: SealantPick,
        pressure: PressurePick,
        dry: MountingPick,
    ) -> None:
        self._wheel, self._methods, self._setup = wheel, methods, setup
        self._tape, self._valve, self._mounting = tape, valve, mounting
        self._sealant, self._pressure, self._dry = sealant, pressure, dry
        self._counts: dict[str, int] = {}
        self.limit_kpa = pressure.limit_kpa
        self.ladder_kpa = pressure.seating_kpa
        self.settle_kpa = pressure.settle_kpa
        self.ride_kpa = pressure.start_kpa
        self.set_here_kpa = pressure.set_here_kpa
        self.straight_side = wheel.rim.hook == "straight_side"
        self.large_holes = wheel.rim.bed == "large_holes"
        self.rim_question = "carbon_damaged" if wheel.rim.carbon else "rim_dented"
        self.no_tape = tape.width_mm is None
        self.trims = tape.trim_to_mm is not None
        self.warms_tape = methods.press_home == "warmth"

    def do(self, stage: str, code: str, text: Message | None = None, **more: Any) -> Action:
        """Return an action with its sentence and cautions."""
        return action(
            stage, code, text or self._text(code), cautions=self._cautions(code), key=self._key(code), **more
        )

    def ask(self, stage: str, code: str, question: str) -> Action:
        """Return an action that is a question."""
        return action(
            stage,
            code,
            words_of(question),
            question=question,
            cautions=self._cautions(code),
            key=self._key(code),
        )

    def _key(self, code: str) -> str:
        """The name of an action in the log: its code, from the second time on with its number behind it."""
        number = self._counts[code] = self._counts.get(code, 0) + 1
        return code if number == 1 else f"{code}.{number}"

    # -- sentences -------------------------------------------------------------------------------

    def _text(self, code: str) -> Message:
        made = getattr(self, "_say_" + code.replace(".", "_"), None)
        if made is not None:
            found: Message = made()
            return found
        return Message(_PLAIN[code], {"side": self._side} if "{side}" in _PLAIN[code] else {})

    @property
    def _side(self) -> str:
        return self._mounting.last_side or "left"

    def _say_strip_break_beads(self) -> Message:
        if self._mounting.last_side is None:
            return Message("Break both beads into the rim well, starting at the valve")
        return Message(
            "Break both beads into the rim well, starting at the valve on the {side} side: its shoulder is the narrow one",
            {"side": self._side},
        )

    def _say_tape_find(self) -> Message:
        return Message("Get {what}, and lay it", {"what": self._tape.to_buy})

    def _say_tape_trim(self) -> Message:
        return Message("Trim the roll to {trim_mm}", {"trim_mm": self._tape.trim_to_mm or 0.0})

    @cached_property
    def lays(self) -> tuple[Message, ...]:
        """One sentence for each strip and layer of tape."""
        tape = self._tape
        values: dict[str, float | int | str] = {
            "width_mm": tape.trim_to_mm or tape.width_mm or 0.0,
            "length_cm": f"{tape.strip_lengths_mm[0] / CM_MM:.0f} cm",
            "overlap": self._overlap(),
            "start": REASONS[tape.start],
        }
        first = "Lay {width_mm} tape under tension, {length_cm} in all: edges on the shoulders first, then into the rim well. Overlap {overlap}: {start}"
        if tape.strips == 2:
            strips = (
                "First strip, {width_mm} wide, {length_cm} long: its outer edge against the left wall. Overlap {overlap}: {start}",
                "Second strip, {length_cm} long, against the right wall; press the overlap in the middle down",
            )
            return tuple(Message(text, values) for _ in range(tape.layers) for text in strips)
        more = [
            Message(
                "Layer {n} of {layers}, the same way"
                + (": the measured seat is loose" if tape.layers_for_fit else ""),
                {"n": n, "layers": tape.layers},
            )
            for n in range(2, tape.layers + 1)
        ]
        return (Message(first, values), *more)

    def _overlap(self) -> str:
        """The overlap in spokes and cm, as a hand measures it."""
        spokes = self._wheel.rim.spokes or ASSUMED_SPOKES
        past = 0.5 * self._tape.overlap_mm
        spacing = math.pi * self._wheel.rim.bead_seat_diameter_mm / max(1, spokes)
        return (
            f"{past / spacing:.0f} spokes ({past / CM_MM:.0f} cm) past it on each side"
            if self._tape.start == "at_valve"
            else f"{2 * past / spacing:.0f} spokes ({2 * past / CM_MM:.0f} cm)"
        )

    def _say_hole_open(self) -> Message:
        return Message(_HOLE[self._methods.hole])

    def _say_valve_fit(self) -> Message:
        valve = self._valve
        values: dict[str, float | int | str] = {}
        if self._setup.keeps_valve:
            text = "Put the valve back in"
        elif valve.length_mm is None:
            text = "Fit a valve that reaches"
        else:
            text, values = "Fit the {length_mm} valve", {"length_mm": valve.length_mm}
        text += ": base in its notch and pressed down, o-ring, nut finger tight"
        if self._setup.insert == "unported":
            text += ". Side ports face along the tire"
        return Message(text, values)

    def _say_tire_wipe(self) -> Message:
        if self._setup.new:
            return Message("Wipe the release agent out of the tire and off its beads")
        return Message("Wipe the beads clean of dried sealant")

    def _say_insert_on(self) -> Message:
        """Insert mounting in words that help, by order."""
        text = {
            "insert_first": "Lay the insert on the rim, notch at the valve. Then the tire goes over it",
            "bead_first": "Push the insert in between bead and rim, notch at the valve, working round toward the valve. Hold what is in with clamps or a strap",
            "seat_first": "Work the insert in through the open side, notch at the valve; the seated bead stays on its shelf. Hold what is in with clamps or a strap",
        }["seat_first" if self._setup.press_home else self._setup.order]
        insert = self._wheel.insert
        if insert is not None and insert.joined is not False:
            text += ". Keep a seam at least {seam_mm} from the valve"
        text += ". If it pops off, go back to the last clamp and roll it up again"
        return Message(text, {"seam_mm": SEAM_FROM_VALVE_MM})

    def _say_bead_wet(self) -> Message:
        return Message(_WET[self._setup.lubricant])

    def _say_bead_first(self) -> Message:
        if (
            self._setup.insert != "none"
            and self._setup.order == "insert_first"
            and not self._setup.press_home
        ):
            return Message(
                "First bead: roll the insert up off the shelf with your thumbs and tuck the bead under it into the rim well, all the way round; label at the valve"
            )
        return Message(
            "First bead into the rim well: label at the valve, start opposite the valve, finish at the valve"
        )

    def _slack(self, text: str) -> Message:
        mounting = (
            self._dry if self._setup.order == "seat_first" or self._setup.press_home else self._mounting
        )
        values: dict[str, Value | Message] = {
            "advice": Message(ADVICE[mounting.grade]),
            "slack_mm": mounting.slack_mm,
            "side": self._side,
        }
        side = " on the {side} side, where the shoulder is narrow" if mounting.last_side else ""
        tucked = (
            ". Roll the insert up and tuck the bead under it as you go"
            if self._setup.insert != "none" and self._setup.order == "insert_first"
            else ""
        )
        return Message(text.format(side=side) + tucked + ". {advice}", values)

    def _say_bead_second(self) -> Message:
        return self._slack("Second bead{side}")

    def _say_bead_partial(self) -> Message:
        return self._slack("Second bead{side}, but leave a section at the valve open for the sealant")

    def _say_bead_refit(self) -> Message:
        return Message(
            "Refit that one bead on the {side} side: tuck it under the insert, start opposite the valve, finish at the valve"
            if self._setup.insert != "none"
            else "Refit that one bead on the {side} side, finish at the valve",
            {"side": self._side},
        )

    @property
    def refit_partial(self) -> Message:
        """One bead refitted but for the section at the valve."""
        return Message(
            "Refit that one bead on the {side} side, tucked under the insert, but leave a section at the valve open for the sealant",
            {"side": self._side},
        )

    @property
    def all_but_last(self) -> Message:
        """One bead back on but for the section at the valve."""
        return Message("Put the bead back on, but leave a section at the valve open for the sealant")

    def _dose(self, text: str) -> Message:
        loads = " + ".join(f"{{load_{n}_ml}}" for n in range(len(self._sealant.loads_ml)))
        several = f" ({loads})" if len(self._sealant.loads_ml) > 1 and self._setup.route == "inject" else ""
        values: dict[str, Any] = {"dose_ml": self._sealant.dose_ml}
        values |= {f"load_{n}_ml": load for n, load in enumerate(self._sealant.loads_ml)}
        return Message(text.replace("{dose_ml}", "{dose_ml}" + several), values)

    def _say_sealant_pour(self) -> Message:
        reason = f"{self._setup.route_reason}. " if self._setup.route_reason else ""
        return self._dose(reason + "Pour {dose_ml} in at the open section. How much went in?")

    def _say_sealant_inject(self) -> Message:
        return self._dose(
            "Inject {dose_ml}, valve at the side; pull the plunger back before you unscrew. How much went in?"
        )

    @property
    def top_up(self) -> Message:
        """Sealant added to what is in the tire."""
        return Message(
            "Top up to {dose_ml} by what the dip says, valve at the side; pull the plunger back before you unscrew. How much went in?",
            {"dose_ml": self._sealant.dose_ml},
        )

    @property
    def dip_before(self) -> Message:
        """A dip into what is left."""
        return Message("Dip, valve at the bottom: how deep is what is left?")

    def _say_air_inflate(self) -> Message:
        return Message("Inflate to {settle_kpa}, core in", {"settle_kpa": self.settle_kpa})

    @property
    def tube_inflate(self) -> Message:
        """Air into a tube."""
        return Message(
            "Inflate to {start_kpa}; look for a pinched tube on both sides", {"start_kpa": self.ride_kpa}
        )

    def _say_air_press(self) -> Message:
        return Message(
            "Inflate the tube to {settle_kpa} and leave it: it presses the tape home",
            {"settle_kpa": self.settle_kpa},
        )

    def _say_air_burst(self) -> Message:
        return Message(
            "One burst with the core out until both beads are up, at most {step_kpa}",
            {"step_kpa": self.ladder_kpa[-1]},
        )

    def step(self, kpa: float) -> Message:
        """Return one step of the climb."""
        return Message("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": kpa})

    def _say_line_look(self) -> Message:
        return Message("Look at the molded line: even on both sides, all the way round")

    def _say_hold_shake(self) -> Message:
        return Message("Set {settle_kpa}; shake and spin it on every side", {"settle_kpa": self.settle_kpa})

    def _say_hold_top_up(self) -> Message:
        return Message(
            "Weeping side walls: back to {settle_kpa}, spin, and lay it flat on the other side",
            {"settle_kpa": self.settle_kpa},
        )

    def _say_hold_read(self) -> Message:
        return Message(
            "Leave it overnight at {settle_kpa}, then read the gauge", {"settle_kpa": self.settle_kpa}
        )

    def _say_set_pressure(self) -> Message:
        pressure = self._pressure
        return Message(
            "Set {set_here_kpa} here; that is {at_ride_kpa} on the ride",
            {"set_here_kpa": pressure.set_here_kpa, "at_ride_kpa": pressure.at_ride_kpa},
        )

    # -- waits and cautions ----------------------------------------------------------------------

    @property
    def flat_wait(self) -> Mapping[str, Any]:
        """How long it lies flat on each side."""
        return {"wait_minutes": FLAT_MINUTES_WEEPING} if self._setup.weeping else {}

    @property
    def top_ups(self) -> tuple[Mapping[str, Any], ...]:
        """Timed tasks of a tire that weeps, none for another."""
        if not self._setup.weeping:
            return ()
        waits = [
            OVERNIGHT_MINUTES if n % TOP_UPS_A_DAY == 0 else TOP_UP_EVERY_MINUTES
            for n in range(1, TOP_UPS + 1)
        ]
        return tuple({"wait_minutes": wait} for wait in waits)

    def _cautions(self, code: str) -> tuple[Message, ...]:
        """What to mind at this action, on this wheel; at most two."""
        limit = {"limit_kpa": self.limit_kpa}
        carbon = bool(self._wheel.rim.carbon)
        if code in _BY_LEVER:
            levers = self._mounting.grade in ("levers", "will_not_go")
            return (Message(LEVERS),) if levers else ()
        if code in ("air.step", "air.burst"):
            bottle = self._methods.air_source == "charge"
            return (Message(SPRAY, limit), Message(BOTTLE if bottle else HISS))
        if code.startswith("air.") and code != "air.deflate":
            return (Message(SPRAY, limit),)
        if code == "rim.clean":
            solvent = "Solvent: open a window, no flame or spark, gloves."
            return (Message(solvent + " Nothing but alcohol on carbon." if carbon else solvent),)
        if code in ("tape.warm", "tire.warm") or (code == "hole.open" and self._methods.hole == "warmed"):
            hot = "Warm, not hot; carbon least of all." if carbon else "Warm, not hot."
            return (Message(hot),)
        return tuple(Message(text) for text in _CAUTIONS.get(code, ()))


_BY_LEVER = frozenset({"bead.second", "bead.partial", "bead.refit", "bead.close"})
_CAUTIONS: dict[str, tuple[str, ...]] = {
    "hole.open": ("Push the pick away from your hand.",),
    "valve.fit": ("Fingers only: a nut tightened with pliers cannot be undone on the road.",),
    "sealant.pour": ("Never mix two kinds of sealant.",),
    "sealant.inject": ("Never mix two kinds of sealant.",),
    "repair.patch": ("Vulcanizing fluid: open a window, no flame or spark.",),
    "set.sign": (
        "Manufacturers' instructions and local rules take precedence, and a qualified mechanic signs off.",
    ),
}
