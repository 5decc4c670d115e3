"""The sentence of every action, for one wheel with its figures.

All advice here is common practice, no published source.
"""

from collections.abc import Callable

import msgspec

from inner_rim.core.models.insert import SEAM_FROM_VALVE_MM
from inner_rim.core.models.mounting import ADVICE, AT_VALVE, MountingPick
from inner_rim.core.models.pressure import PressurePick
from inner_rim.core.models.sealant import SealantPick, top_up_ml
from inner_rim.core.models.tape import TapePick
from inner_rim.core.models.valve import ValvePick
from inner_rim.core.procedure.setup import Setup
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.why import Message, Value

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
PLAIN = {
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
    "rim.wipe": "Wipe beads and bead shelves clean",
    "tape.press": "Rub the tape down all round, most of all the overlap",
    "tape.warm": "Warm the tape and press it down",
    "tire.warm": "Warm the new tire until it is soft and open",
    "tube.in": "Put the tube in with a little air in it, no fold",
    "tube.out": "Take the tube out",
    "bead.open_one": "Break the {side} side only; the other bead stays on its shelf",
    "bead.off_one": "Lift that one bead over the rim, all round",
    "core.out": "Take the valve core out, valve at the side",
    "core.in": "Put the valve core back in",
    "sealant.shake": "Shake the sealant well",
    "air.deflate": "Let the air out slowly",
    "dip.read": "Dip, valve at the bottom: how deep is what is left? 0 for none",
    "hold.flat_left": "Lay it flat on the left side",
    "hold.flat_right": "Lay it flat on the right side",
    "hold.soap": "Soapy water on valve, nipples, beads and side walls",
    "repair.find": "Find the leak: look, listen, soapy water, then a bath. Where does air come out?",
    "repair.valve": "Core screwed in, o-ring in place, base flat in the rim well, nut finger tight",
    "repair.plug": "Plug the hole from outside, then turn it to the bottom",
    "repair.patch": "Dry and roughen the inside, patch the hole, press it down",
    "repair.boot": "Boot the hole from inside",
    "set.weigh": "Weigh the finished wheel, or go on without",
    "set.sign": "Hand over, with your name",
}


class SentenceInputs(msgspec.Struct, frozen=True):
    """What the sentences of one wheel are made from.

    Attributes:
        setup: what decides the procedure.
        dry: mounting without the insert, where the tire is seated before it goes in.
        left_ml: sealant that is left, by a dip; None without one.
    """

    wheel: Wheel
    methods: Methods
    setup: Setup
    tape: TapePick
    valve: ValvePick
    mounting: MountingPick
    sealant: SealantPick
    pressure: PressurePick
    dry: MountingPick
    soap_unknown: bool = False
    left_ml: float | None = None

    @property
    def side(self) -> str:
        return self.mounting.last_side or "left"


def _strip_break_beads(known: SentenceInputs) -> Message:
    if known.mounting.last_side is None:
        return Message("Break both beads into the rim well, starting at the valve")
    return Message(
        "Break both beads into the rim well, starting at the valve on the {side} side: its shoulder is the narrow one",
        {"side": known.side},
    )


def _tape_find(known: SentenceInputs) -> Message:
    return Message("Get {what}, and lay it", {"what": known.tape.to_buy})


def _tape_trim(known: SentenceInputs) -> Message:
    return Message("Trim the roll to {trim_trade}", {"trim_trade": known.tape.trim_to_mm or 0.0})


def _hole_open(known: SentenceInputs) -> Message:
    return Message(_HOLE[known.methods.hole])


def _valve_fit(known: SentenceInputs) -> Message:
    valve = known.valve
    values: dict[str, float | int | str] = {}
    if known.setup.keeps_valve:
        text = "Put the valve back in"
    elif valve.length_mm is None:
        text = "Fit a valve that reaches"
    else:
        text, values = "Fit the {length_trade} valve", {"length_trade": valve.length_mm}
    text += ": base in its notch and pressed down, o-ring, nut finger tight"
    if known.setup.insert in ("unported", "unread"):
        text += ". Side ports face along the tire"
    return Message(text, values)


def _tire_wipe(known: SentenceInputs) -> Message:
    if known.setup.new:
        return Message("Wipe the release agent out of the tire and off its beads")
    return Message("Wipe the beads clean")


def _insert_on(known: SentenceInputs) -> Message:
    """Insert mounting in words that help, by order."""
    text = {
        "insert_first": "Rim flat on a bucket or stand. Lay the insert on it, notch at the valve. Then the tire goes over it",
        "bead_first": "Push the insert in between bead and rim, notch at the valve, working round toward the valve. Hold what is in with clamps or a strap",
        "seat_first": "Work the insert in through the open side, notch at the valve; the seated bead stays on its shelf. Hold what is in with clamps or a strap",
    }["seat_first" if known.setup.press_home else known.setup.order]
    insert = known.wheel.insert
    if insert is not None and insert.joined is not False:
        text += ". Keep a seam at least {seam_mm} from the valve"
    text += ". If it pops off, go back to the last clamp and roll it up again"
    return Message(text, {"seam_mm": SEAM_FROM_VALVE_MM})


def _bead_wet(known: SentenceInputs) -> Message:
    return Message(_WET[known.setup.lubricant])


def _ending(known: SentenceInputs) -> str:
    """Where a bead starts and where its last section goes on."""
    if known.methods.finish == "elsewhere":
        return "start at the valve, finish away from it, where the slack is"
    return "start opposite the valve, finish at the valve"


def _bead_first(known: SentenceInputs) -> Message:
    if known.setup.insert != "none" and known.setup.order == "insert_first" and not known.setup.press_home:
        return Message(
            "First bead: roll the insert up off the shelf with your thumbs and tuck the bead under it into the rim well; clamp the first section, then all the way round; label at the valve"
        )
    return Message("First bead into the rim well: label at the valve, " + _ending(known))


def _slack(known: SentenceInputs, text: str) -> Message:
    mounting = known.dry if known.setup.order == "seat_first" or known.setup.press_home else known.mounting
    advice = ADVICE[mounting.grade]
    if known.methods.finish == "elsewhere":
        advice = advice.replace(AT_VALVE, "Start at the valve, finish away from it, where the slack is.")
    values: dict[str, Value | Message] = {"advice": Message(advice), "slack_mm": mounting.slack_mm, "side": known.side}
    side = " on the {side} side, where the shoulder is narrow" if mounting.last_side else ""
    tucked = (
        ". Roll the insert up and tuck the bead under it as you go"
        if known.setup.insert != "none" and known.setup.order == "insert_first"
        else ""
    )
    return Message(text.format(side=side) + tucked + ". {advice}", values)


def _bead_second(known: SentenceInputs) -> Message:
    return _slack(known, "Second bead{side}")


def _bead_partial(known: SentenceInputs) -> Message:
    if known.setup.does in ("refresh", "repair"):
        if known.setup.insert_was_on:
            return Message(
                "Refit that one bead on the {side} side, tucked under the insert, but leave a section at the valve open for the sealant",
                {"side": known.side},
            )
        return Message("Put the bead back on, but leave a section at the valve open for the sealant")
    if known.setup.order == "seat_first" and known.setup.insert != "none":
        return Message(
            "Refit that one bead on the {side} side, tucked under the insert, but leave a section at the valve open for the sealant",
            {"side": known.side},
        )
    return _slack(known, "Second bead{side}, but leave a section at the valve open for the sealant")


def _bead_close(known: SentenceInputs) -> Message:
    tucked = ", tucked under the insert" if known.setup.insert != "none" else ""
    return Message("Turn the sealant to the bottom and close the last section at the valve" + tucked)


def _bead_refit(known: SentenceInputs) -> Message:
    return Message(
        "Refit that one bead on the {side} side: tuck it under the insert, " + _ending(known)
        if known.setup.insert != "none"
        else "Refit that one bead on the {side} side: " + _ending(known),
        {"side": known.side},
    )


def dose_words(known: SentenceInputs, text: str) -> Message:
    """Return a sentence with the dose and its fillings."""
    loads = " + ".join(f"{{load_{n}_ml}}" for n in range(len(known.sealant.loads_ml)))
    several = f" ({loads})" if len(known.sealant.loads_ml) > 1 and known.setup.route == "inject" else ""
    values: JsonObject = {"dose_ml": known.sealant.dose_ml}
    values |= {f"load_{n}_ml": load for n, load in enumerate(known.sealant.loads_ml)}
    return Message(text.replace("{dose_ml}", "{dose_ml}" + several), values)


def _sealant_pour(known: SentenceInputs) -> Message:
    reason = f"{known.setup.route_reason}. " if known.setup.route_reason else ""
    return dose_words(known, reason + "Pour {dose_ml} in at the open section. How much went in?")


def _sealant_inject(known: SentenceInputs) -> Message:
    how = "valve at the side; pull the plunger back before you unscrew. How much went in?"
    if known.setup.does not in ("refresh", "repair"):
        return dose_words(known, "Inject {dose_ml}, " + how)
    if known.left_ml is None:
        return Message("Top up to {dose_ml} by what the dip says, " + how, {"dose_ml": known.sealant.dose_ml})
    add = top_up_ml(known.sealant.dose_ml, known.left_ml)
    return Message(
        "{left_ml} left, {add_ml} to add make {dose_ml}: inject it, " + how,
        {"left_ml": known.left_ml, "add_ml": add, "dose_ml": known.sealant.dose_ml},
    )


def _air_inflate(known: SentenceInputs) -> Message:
    if known.setup.does == "back_to_tube":
        return Message(
            "Inflate to {start_kpa}; look for a pinched tube on both sides", {"start_kpa": known.pressure.start_kpa}
        )
    return Message("Inflate to {settle_kpa}, core in", {"settle_kpa": known.pressure.settle_kpa})


def _air_press(known: SentenceInputs) -> Message:
    return Message(
        "Inflate the tube to {settle_kpa} and leave it: it presses the tape home",
        {"settle_kpa": known.pressure.settle_kpa},
    )


def _air_burst(known: SentenceInputs) -> Message:
    return Message(
        "One burst with the core out until both beads are up, at most {step_kpa}"
        if known.setup.core_out
        else "One burst until both beads are up, at most {step_kpa}",
        {"step_kpa": known.pressure.seating_kpa[-1]},
    )


def _line_look(known: SentenceInputs) -> Message:
    return Message("Look at the molded line: even on both sides, all the way round")


def _hold_shake(known: SentenceInputs) -> Message:
    return Message("Set {settle_kpa}; shake and spin it on every side", {"settle_kpa": known.pressure.settle_kpa})


def _hold_top_up(known: SentenceInputs) -> Message:
    return Message(
        "Weeping side walls: back to {settle_kpa}, spin, and lay it flat on the other side",
        {"settle_kpa": known.pressure.settle_kpa},
    )


def _hold_read(known: SentenceInputs) -> Message:
    if known.setup.watch == "minutes":
        return Message(
            "Leave it 15 minutes at {settle_kpa}, then read the gauge", {"settle_kpa": known.pressure.settle_kpa}
        )
    return Message("Leave it overnight at {settle_kpa}, then read the gauge", {"settle_kpa": known.pressure.settle_kpa})


def _set_pressure(known: SentenceInputs) -> Message:
    pressure = known.pressure
    if known.setup.does == "back_to_tube":
        return Message("Set {start_kpa}", {"start_kpa": pressure.start_kpa})
    return Message(
        "Set {set_here_kpa} here; that is {at_ride_kpa} on the ride",
        {"set_here_kpa": pressure.set_here_kpa, "at_ride_kpa": pressure.at_ride_kpa},
    )


#: The sentence of each action that depends on the wheel.
SENTENCES: dict[str, Callable[[SentenceInputs], Message]] = {
    "strip.break_beads": _strip_break_beads,
    "tape.find": _tape_find,
    "tape.trim": _tape_trim,
    "hole.open": _hole_open,
    "valve.fit": _valve_fit,
    "tire.wipe": _tire_wipe,
    "insert.on": _insert_on,
    "bead.wet": _bead_wet,
    "bead.first": _bead_first,
    "bead.second": _bead_second,
    "bead.partial": _bead_partial,
    "bead.close": _bead_close,
    "bead.refit": _bead_refit,
    "sealant.pour": _sealant_pour,
    "sealant.inject": _sealant_inject,
    "air.inflate": _air_inflate,
    "air.press": _air_press,
    "air.burst": _air_burst,
    "line.look": _line_look,
    "hold.shake": _hold_shake,
    "hold.top_up": _hold_top_up,
    "hold.read": _hold_read,
    "set.pressure": _set_pressure,
}
