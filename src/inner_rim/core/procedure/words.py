"""The sentence of every action for one wheel, with its figures, cautions and waits.

All advice here is common practice, no published source.
"""

import math
from collections.abc import Mapping
from functools import cached_property
from typing import Any

from inner_rim.core.models.mounting import MountingPick
from inner_rim.core.models.pressure import PressurePick
from inner_rim.core.models.rim import ASSUMED_SPOKES
from inner_rim.core.models.sealant import SealantPick
from inner_rim.core.models.tape import CM_MM, TapePick
from inner_rim.core.models.valve import ValvePick
from inner_rim.core.procedure.actions import FLAT_MINUTES_WEEPING, TOP_UP_EVERY_MINUTES, Action, action
from inner_rim.core.procedure.questions import words_of
from inner_rim.core.procedure.sentences import PLAIN, SENTENCES, Known
from inner_rim.core.procedure.setup import Setup
from inner_rim.core.procedure.stops import MAKERS, SPRAY, while_filling
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.stages import Stage
from inner_rim.core.record.why import Message

SOAP = "Soap weakens this sealant: wet the beads with the sealant itself."
WEEPS = "No tubeless mark: side walls weep; more sealant, and top-ups for up to three days."
LEVERS = "Levers in small bites, shallow, never into the tape."
#: Tasks of a weeping tire: three a day while the shop is open, for three days; the third waits overnight.
TOP_UPS, TOP_UPS_A_DAY, OVERNIGHT_MINUTES = 9, 3, 14 * 60.0


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
        self._known = Known(wheel, methods, setup, tape, valve, mounting, sealant, pressure, dry)
        self._counts: dict[str, int] = {}
        self._said: set[str] = set()
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

    def do(self, stage: Stage, code: str, text: Message | None = None, **more: object) -> Action:
        """Return an action with its sentence and cautions."""
        return action(
            stage, code, text or self._text(code), cautions=self._once(code), key=self._key(code), **more
        )

    def ask(self, stage: Stage, code: str, question: str) -> Action:
        """Return an action that is a question."""
        return action(
            stage,
            code,
            words_of(question),
            question=question,
            cautions=self._once(code),
            key=self._key(code),
        )

    def _key(self, code: str) -> str:
        """The name of an action in the log: its code, from the second time on with its number behind it."""
        number = self._counts[code] = self._counts.get(code, 0) + 1
        return code if number == 1 else f"{code}.{number}"

    # -- sentences -------------------------------------------------------------------------------

    def _text(self, code: str) -> Message:
        made = SENTENCES.get(code)
        if made is not None:
            return made(self._known)
        return Message(PLAIN[code], {"side": self._known.side} if "{side}" in PLAIN[code] else {})

    @property
    def _side(self) -> str:
        return self._known.mounting.last_side or "left"

    @cached_property
    def lays(self) -> tuple[Message, ...]:
        """One sentence for each strip and layer of tape."""
        tape = self._known.tape
        values: dict[str, float | int | str] = {
            "width_mm": tape.trim_to_mm or tape.width_mm or 0.0,
            "length_cm": f"{tape.strip_lengths_mm[0] / CM_MM:.0f} cm",
            "overlap": self._overlap(),
            "start": REASONS[tape.start],
        }
        first = "Lay {width_mm} tape under tension, {length_cm} in all: edges on the shoulders first, then into the rim well. Overlap {overlap}: {start}"
        if self._known.setup.adds_layer and tape.strips == 1:
            first = first.replace("Lay {width_mm} tape", "Lay one more {width_mm} layer over the good tape")
            return (Message(first, values),)
        if tape.strips == 2:
            strips = (
                "First strip, {width_mm} wide, {length_cm} long: its outer edge against the left wall. Overlap {overlap}: {start}",
                "Second strip, {length_cm} long, against the right wall; press the overlap in the middle down",
            )
            layers = 1 if self._known.setup.adds_layer else tape.layers
            return tuple(Message(text, values) for _ in range(layers) for text in strips)
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
        spokes = self._known.wheel.rim.spokes or ASSUMED_SPOKES
        past = 0.5 * self._known.tape.overlap_mm
        spacing = math.pi * self._known.wheel.rim.bead_seat_diameter_mm / max(1, spokes)
        return (
            f"{past / spacing:.0f} spokes ({past / CM_MM:.0f} cm) past it on each side"
            if self._known.tape.start == "at_valve"
            else f"{2 * past / spacing:.0f} spokes ({2 * past / CM_MM:.0f} cm)"
        )

    @property
    def refit_partial(self) -> Message:
        """One bead refitted but for the section at the valve."""
        return Message(
            "Refit that one bead on the {side} side, tucked under the insert, but leave a section at the valve open for the sealant",
            {"side": self._known.side},
        )

    @property
    def all_but_last(self) -> Message:
        """One bead back on but for the section at the valve."""
        return Message("Put the bead back on, but leave a section at the valve open for the sealant")

    @property
    def top_up(self) -> Message:
        """Sealant added to what is in the tire."""
        return Message(
            "Top up to {dose_ml} by what the dip says, valve at the side; pull the plunger back before you unscrew. How much went in?",
            {"dose_ml": self._known.sealant.dose_ml},
        )

    @property
    def dip_before(self) -> Message:
        """A dip into what is left."""
        return Message("Dip, valve at the bottom: how deep is what is left?")

    @property
    def tube_inflate(self) -> Message:
        """Air into a tube."""
        return Message(
            "Inflate to {start_kpa}; look for a pinched tube on both sides", {"start_kpa": self.ride_kpa}
        )

    def step(self, kpa: float) -> Message:
        """Return one step of the climb."""
        return Message("Climb to {step_kpa}, stop, look at both sides", {"step_kpa": kpa})

    # -- waits and cautions ----------------------------------------------------------------------

    @property
    def flat_wait(self) -> Mapping[str, Any]:
        """How long it lies flat on each side."""
        return {"wait_minutes": FLAT_MINUTES_WEEPING} if self._known.setup.weeping else {}

    @property
    def top_ups(self) -> tuple[Mapping[str, Any], ...]:
        """Timed tasks of a tire that weeps, none for another."""
        if not self._known.setup.weeping:
            return ()
        waits = [
            OVERNIGHT_MINUTES if n % TOP_UPS_A_DAY == 0 else TOP_UP_EVERY_MINUTES
            for n in range(1, TOP_UPS + 1)
        ]
        return tuple({"wait_minutes": wait} for wait in waits)

    def _once(self, code: str) -> tuple[Message, ...]:
        """The cautions of an action that were not said before; while filling, each time a flat tire is filled."""
        if code in _FLAT_AGAIN:
            self._said.discard(SPRAY)
        new = tuple(message for message in self._cautions(code) if message.text not in self._said)
        self._said |= {message.text for message in new}
        return new

    def _cautions(self, code: str) -> tuple[Message, ...]:
        """What to mind at this action, on this wheel; at most two."""
        carbon = bool(self._known.wheel.rim.carbon)
        if code in _BY_LEVER:
            levers = self._known.mounting.grade in ("levers", "will_not_go")
            return (Message(LEVERS),) if levers else ()
        if code.startswith("air.") and code != "air.deflate":
            opens = code in ("air.step", "air.burst") and code not in self._counts  # once, at the first
            holes = self._known.setup.taped_holes and code != "air.press"  # a tube is in
            return while_filling(self.limit_kpa, opens and self._known.methods.air_source == "charge", holes)
        if code == "bead.wet":
            instead = self._known.methods.lubricant == "soap" and self._known.setup.lubricant == "sealant"
            return (Message(SOAP),) if instead else ()
        if code in ("sealant.pour", "sealant.inject"):
            weeping = (Message(WEEPS),) if self._known.setup.weeping else ()
            return (Message("Never mix two kinds of sealant."), *weeping)
        if code == "rim.clean":
            solvent = "Solvent: open a window, no flame or spark, gloves."
            return (Message(solvent + " Nothing but alcohol on carbon." if carbon else solvent),)
        if code in ("tape.warm", "tire.warm") or (
            code == "hole.open" and self._known.methods.hole == "warmed"
        ):
            hot = "Warm, not hot; carbon least of all." if carbon else "Warm, not hot."
            return (Message(hot),)
        return tuple(Message(text) for text in _CAUTIONS.get(code, ()))


#: After these the tire is filled from flat: a new danger.
_FLAT_AGAIN = frozenset({"strip.deflate", "air.deflate", "core.out", "core.in"})
_BY_LEVER = frozenset({"bead.second", "bead.partial", "bead.refit", "bead.close"})
_CAUTIONS: dict[str, tuple[str, ...]] = {
    "hole.open": ("Push the pick away from your hand.",),
    "valve.fit": ("Fingers only: a nut tightened with pliers cannot be undone on the road.",),
    "repair.patch": ("Vulcanizing fluid: open a window, no flame or spark.",),
    "set.sign": (MAKERS,),
}
