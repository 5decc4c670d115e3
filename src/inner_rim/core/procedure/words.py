"""The sentence of every action for one wheel, with its figures, cautions and waits.

All advice here is common practice, no published source.
"""

import math
from collections.abc import Callable
from functools import cached_property
from typing import Any

from inner_rim.core.models.rim import ASSUMED_SPOKES
from inner_rim.core.procedure.achieve import Todo
from inner_rim.core.procedure.actions import (
    FLAT_MINUTES_WEEPING,
    KINDS,
    WATCH_MINUTES,
    Action,
    Asks,
    action,
)
from inner_rim.core.procedure.questions import words_of
from inner_rim.core.procedure.sentences import PLAIN, SENTENCES, SentenceInputs
from inner_rim.core.procedure.stops import MAKERS, SPRAY, while_filling
from inner_rim.core.record.why import Message, Value
from inner_rim.words import N_

SOAP = N_("Soap weakens this sealant: wet the beads with the sealant itself.")
SOAP_UNKNOWN = N_("Soap weakens some sealants: check the bottle first.")
SEEN_TO_WEEP = N_("Side walls weep: more sealant, and top-ups for up to three days.")
WEEPS = N_("No tubeless mark: side walls weep; more sealant, and top-ups for up to three days.")
PATCHED_CUT = N_("A cut side wall is patched only where the tire's manufacturer allows it.")
SPRAYS_OUT = N_("Sealant sprays from a valve that is low.")
LEVERS = N_("Levers in small bites, shallow, never into the tape.")


def number_of(key: str) -> int:
    """Return which time an action is taken, by its name in the log.

    >>> number_of("tape.lay"), number_of("tape.lay.2")
    (1, 2)
    """
    tail = key.rpartition(".")[2]
    return int(tail) if tail.isdecimal() else 1


#: The pressure that an action sets.
_PRESSURES: dict[str, Callable[[SentenceInputs], float]] = {
    "air.burst": lambda known: known.pressure.seating_kpa[-1],
    "hold.shake": lambda known: known.pressure.settle_kpa,
    "set.pressure": lambda known: (
        known.pressure.start_kpa
        if known.setup.does == "back_to_tube"
        else known.pressure.set_here_kpa
    ),
}
#: How long to wait after an action, where its kind does not say it.
_WAITS: dict[str, Callable[[SentenceInputs, Todo], float | None]] = {
    "hold.flat_left": lambda known, todo: FLAT_MINUTES_WEEPING if known.setup.weeping else None,
    "hold.flat_right": lambda known, todo: FLAT_MINUTES_WEEPING if known.setup.weeping else None,
    "hold.read": lambda known, todo: WATCH_MINUTES if known.setup.watch == "minutes" else None,
}
_HOLE_TOOLS = {
    "pushed": ("pick",),
    "warmed": ("pick", N_("heat for the pick")),
    "cut": (N_("blade"),),
}
_WET_TOOLS: dict[str, tuple[str, ...]] = {
    "soap": (N_("soapy water"), "brush"),
    "fluid": (N_("mounting fluid"), "brush"),
    "wax": (N_("bead wax"),),
}
_SEAL_TOOLS = {"putty": (N_("sealing putty"),), "washer": (N_("rubber washer"),)}
#: What the hands need, where the method decides it.
_TOOLS: dict[str, Callable[[SentenceInputs], tuple[str, ...]]] = {
    "hole.open": lambda known: _HOLE_TOOLS[known.methods.hole],
    "bead.wet": lambda known: _WET_TOOLS.get(known.setup.lubricant, ("brush",)),
    "rim.clean": lambda known: (
        *((N_("fine abrasive"),) if known.setup.scours else ()),
        *KINDS["rim.clean"].tools,
    ),
    "valve.fit": lambda known: _SEAL_TOOLS.get(known.methods.hole_seal, ()),
}
#: What is logged with an action.
_ASKS: dict[str, Asks] = {
    "sealant.pour": "dose",
    "sealant.inject": "dose",
    "dip.read": "dip",
    "valve.fit": "valve",
}


class Words:
    """The sentences for one wheel.

    A caution is given once, with the first action it belongs to, so actions are worded in order.
    """

    def __init__(self, known: SentenceInputs) -> None:
        self._known = known
        self._taken: set[str] = set()
        self._said: set[str] = set()

    def dress(self, todo: Todo) -> Action:
        code, pressure = todo.code, self._known.pressure
        more: dict[str, Any] = {}
        if todo.pressure_step >= 0 and code == "air.step":
            more["pressure_kpa"] = pressure.step_kpa(todo.pressure_step)
        elif code == "air.inflate":
            more["pressure_kpa"] = self._inflates_to(todo)
        elif code in _PRESSURES:
            more["pressure_kpa"] = _PRESSURES[code](self._known)
        if code in _WAITS and (wait := _WAITS[code](self._known, todo)) is not None:
            more["wait_minutes"] = wait
        if code in _TOOLS:
            more["tools"] = _TOOLS[code](self._known)
        made = action(
            todo.stage,
            code,
            words_of(todo.question)
            if todo.question
            else self._text(todo, more.get("pressure_kpa", 0.0)),
            question=todo.question,
            cautions=self._once(todo),
            asks=self._asks(todo),
            pressure_step=todo.pressure_step >= 0,
            key=todo.key,
            **more,
        )
        self._taken.add(code)
        return made

    def _inflates_to(self, todo: Todo) -> float:
        """The pressure of one go: the sealing pressure, no higher than both sides were checked at."""
        pressure, setup = self._known.pressure, self._known.setup
        if 0 < todo.up_to < setup.settles_after:
            return min(pressure.seating_kpa[todo.up_to - 1], pressure.settled_kpa)
        return pressure.start_kpa if todo.up_to == 0 else pressure.settle_kpa

    def _asks(self, todo: Todo) -> Asks:
        """What is logged with an action: the layers once all of them are down."""
        setup = self._known.setup
        if todo.code == "tape.press":
            return "" if setup.adds_layer or setup.no_tape else "layers"
        return "" if todo.code == "valve.fit" and setup.keeps_valve else _ASKS.get(todo.code, "")

    # -- sentences -------------------------------------------------------------------------------

    def _text(self, todo: Todo, kpa: float) -> Message:
        code = todo.code
        if code == "air.step":
            text = _STEPS["tube" if todo.inside == "tube" else "air"]
            return Message(text, {"step_kpa": kpa})
        if code == "air.inflate":
            return Message("Inflate to {step_kpa}, core in", {"step_kpa": kpa})
        if (code, todo.inside) in _WITH_SEALANT:
            return Message(_WITH_SEALANT[code, todo.inside])
        if code == "tape.lay":
            return self._lays[min(len(self._lays), number_of(todo.key)) - 1]
        if code == "tape.overlay":
            return self._overlaid(number_of(todo.key))
        made = SENTENCES.get(code)
        if made is not None:
            return made(self._known)
        text = PLAIN[code]
        return Message(text, {"side": self._known.side} if "{side}" in text else {})

    @cached_property
    def _lays(self) -> tuple[Message, ...]:
        tape = self._known.tape
        values: dict[str, Value | Message] = {
            "width_trade": tape.trim_to_mm or tape.width_mm or 0.0,
            "length_cut": tape.strip_lengths_mm[0],
            "where": self._where(),
        }
        if self._known.setup.adds_layer and tape.strips == 1:
            text = N_(
                "One more layer over the good tape: cut {length_cut} of {width_trade}. {where}"
            )
            return (Message(text, values),)
        if tape.strips == 2:
            strips = (
                N_(
                    "Cut {length_cut} of {width_trade} tape: first strip, edge on the left wall. {where}"
                ),
                N_(
                    "Second strip, {length_cut} long, against the right wall; press the overlap in the middle down"
                ),
            )
            layers = 1 if self._known.setup.adds_layer else tape.layers
            return tuple(Message(text, values) for _ in range(layers) for text in strips)
        again = (
            N_("Layer {n} of {layers}, the same way: the measured seat is loose")
            if tape.layers_for_fit
            else N_("Layer {n} of {layers}, the same way")
        )
        more = [Message(again, {"n": n, "layers": tape.layers}) for n in range(2, tape.layers + 1)]
        return (Message("Cut {length_cut} of {width_trade} tape. {where}", values), *more)

    def _overlaid(self, number: int) -> Message:
        """One strip of electrical tape, from the left wall to the right."""
        overlay = self._known.tape.overlay
        strips = overlay.strips if overlay is not None else 1
        values: dict[str, Value | Message] = {"n": 1 + (number - 1) % strips, "strips": strips}
        if overlay is not None:
            values |= {"length_cut": overlay.length_mm, "width_trade": overlay.width_mm}
        if values["n"] == 1:
            text = N_(
                "Electrical tape, strip {n} of {strips}: cut {length_cut} of {width_trade}, lay it against the left wall without stretching it"
            )
        elif values["n"] == strips:
            text = N_(
                "Electrical tape, strip {n} of {strips}: cut {length_cut}, one edge over the strip before, the other against the right wall"
            )
        else:
            text = N_(
                "Electrical tape, strip {n} of {strips}: cut {length_cut}, its edge over the strip before"
            )
        return Message(text, values)

    def _where(self) -> Message:
        """Where the tape starts, and its overlap in spokes and cm, as a hand measures it."""
        tape, rim = self._known.tape, self._known.wheel.rim
        spacing = math.pi * rim.bead_seat_diameter_mm / max(1, rim.spokes or ASSUMED_SPOKES)
        long = tape.overlap_mm * (0.5 if tape.start == "past_valve" else 1.0)
        text = {
            "at_valve": N_(
                "Start just before the valve hole, pull tight, edges down first, end {n} spokes ({long_cut}) past it"
            ),
            "past_valve": N_(
                "Start {n} spokes ({long_cut}) to one side of the valve hole, pull tight, edges down first, end {n} spokes to the other: two layers at the hole"
            ),
            "opposite": N_(
                "Start opposite the valve, pull tight, edges down first, overlap {n} spokes ({long_cut})"
            ),
        }[tape.start]
        return Message(text, {"n": round(long / spacing), "long_cut": long})

    def _once(self, todo: Todo) -> tuple[Message, ...]:
        """The cautions of an action that were not said before; while filling, each time a flat tire
        is filled.
        """
        code = todo.code
        if code in _FLAT_AGAIN:
            self._said -= {SPRAY, SPRAYS_OUT}
        new = tuple(message for message in self._cautions(todo) if message.text not in self._said)
        self._said |= {message.text for message in new}
        return new

    def _cautions(self, todo: Todo) -> tuple[Message, ...]:
        """Cautions at this action, on this wheel; at most two."""
        code = todo.code
        carbon = bool(self._known.wheel.rim.carbon)
        if code in _BY_LEVER:
            levers = self._known.mounting.grade in ("levers", "will_not_go")
            return (Message(LEVERS),) if levers else ()
        if code in ("air.step", "air.burst", "air.inflate"):
            opens = code != "air.inflate" and code not in self._taken  # once, at the first
            holes = self._known.setup.taped_holes and todo.inside != "tube"
            return while_filling(
                self._known.pressure.limit_kpa,
                opens and self._known.methods.air_source == "charge",
                holes,
            )
        if code == "bead.wet":
            return self._soap()
        if code == "repair.patch" and self._known.setup.leak == "side_wall":
            return (Message(PATCHED_CUT), Message(_CAUTIONS[code][0]))
        if code == "hole.open":
            if self._known.methods.hole == "cut":
                return (Message("Cut away from your hand."),)
            return (Message("Push the pick away from your hand."),)
        if code in ("sealant.pour", "sealant.inject"):
            unmarked = self._known.wheel.tire.tubeless_ready is False
            weeps = Message(WEEPS if unmarked else SEEN_TO_WEEP)
            weeping = (weeps,) if self._known.setup.weeping else ()
            mixed = (
                (Message("Never mix two kinds of sealant."),)
                if self._known.setup.other_kind
                else ()
            )
            return (*mixed, *weeping)
        if code == "rim.clean":
            if carbon:
                return (
                    Message(
                        "Solvent: open a window, no flame or spark, gloves. Nothing but alcohol on carbon."
                    ),
                )
            return (Message("Solvent: open a window, no flame or spark, gloves."),)
        if code in ("tape.warm", "tire.warm") or (
            code == "hole.open" and self._known.methods.hole == "warmed"
        ):
            hot = N_("Warm, not hot; carbon least of all.") if carbon else N_("Warm, not hot.")
            return (Message(hot),)
        return tuple(Message(text) for text in _CAUTIONS.get(code, ()))

    def _soap(self) -> tuple[Message, ...]:
        """Cautions where the shop wets beads with soap and the sealant may not tolerate it."""
        if self._known.methods.lubricant != "soap":
            return ()
        if self._known.setup.lubricant == "sealant":
            return (Message(SOAP),)
        return (Message(SOAP_UNKNOWN),) if self._known.soap_unknown else ()


_STEPS = {
    "air": N_("Pump to {step_kpa}. Stop. Check both sides"),
    "tube": N_("Pump to {step_kpa}. Stop. Check both sides for a pinched tube"),
}
#: What is done otherwise with sealant inside.
_WITH_SEALANT = {("core.out", "sealant"): N_("Take the valve core out. Leave the valve at the top")}
#: After these the tire is filled from flat: a new danger.
_FLAT_AGAIN = frozenset({"strip.deflate", "air.deflate"})
_BY_LEVER = frozenset({"bead.second", "bead.partial", "bead.refit", "bead.close"})
_CAUTIONS: dict[str, tuple[str, ...]] = {
    "valve.fit": (N_("Fingers only: pliers make it stick on the road."),),
    "valve.top": (SPRAYS_OUT,),
    "repair.patch": (N_("Vulcanizing fluid: open a window, no flame or spark."),),
    "set.sign": (MAKERS,),
}
