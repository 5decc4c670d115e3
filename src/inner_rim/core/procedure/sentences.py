"""The sentence of every action, for one wheel with its figures.

All advice here is common practice, no published source.
"""

from collections.abc import Callable

import msgspec

from inner_rim.core.models.insert import SEAM_FROM_VALVE_MM
from inner_rim.core.models.mounting import ADVICE, ADVICE_ELSEWHERE, MountingPick
from inner_rim.core.models.pressure import PressurePick
from inner_rim.core.models.sealant import SealantPick, top_up_ml
from inner_rim.core.models.tape import TapePick
from inner_rim.core.models.valve import ValvePick
from inner_rim.core.procedure.setup import Setup
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.resolved import Methods
from inner_rim.core.record.why import Message, Value
from inner_rim.words import N_

_WET = {
    "soap": N_("Soapy water on both beads"),
    "fluid": N_("Mounting fluid on both beads"),
    "wax": N_("Wax on both beads"),
    "sealant": N_("Brush a little sealant on both beads"),
}
_HOLE = {
    "pushed": N_(
        "Find the valve hole from the hub side and push the pick through: small and round"
    ),
    "warmed": N_("Find the valve hole from the hub side and push a warmed pick through"),
    "cut": N_(
        "Find the valve hole from the hub side; a small cross cut, no longer than the hole is wide"
    ),
}
PLAIN = {
    "check_in.read": N_("Read rim and tire: diameters, widths, hook, printed limits, arrow"),
    "check_in.approval": N_("Hookless rim: find the approval for it on the tire"),
    "check_in.weigh": N_("Weigh the wheel as it came in, or go on without"),
    "strip.deflate": N_("Let the air out"),
    "strip.tube_out": N_("Take the tube out"),
    "strip.insert_out": N_("Take the insert out and put it aside"),
    "strip.old_insert_out": N_("Take the old insert out"),
    "strip.sealant_out": N_(
        "Wipe the old sealant out of tire and rim; dispose of it by local rules"
    ),
    "strip.valve_out": N_("Take the valve out"),
    "strip.tape_off": N_("Take the old tape off and rub the adhesive away"),
    "strip.rim_strip_off": N_("Take the rim strip off"),
    "strip.rim_strip_in": N_("Large spoke holes: the rim strip goes back in, under the tape"),
    "strip.open_one": N_("Open one side only; the other bead stays on the rim"),
    "rim.dry": N_("Let the rim bed dry; overnight is better"),
    "rim.wipe": N_("Wipe beads and bead shelves clean"),
    "tape.press": N_("Rub the tape down all around, most of all the overlap"),
    "tape.warm": N_("Warm the tape and press it down"),
    "tire.warm": N_("Warm the new tire until it is soft and open"),
    "tube.in": N_("Put the tube in with a little air in it, no fold"),
    "tube.out": N_("Take the tube out"),
    "bead.off_one": N_("Lift that one bead over the rim, all around"),
    "core.out": N_("Turn the valve to 3 o'clock and take the core out"),
    "sealant.shake": N_("Shake the sealant well"),
    "valve.top": N_("Turn the valve to the top"),
    "air.deflate": N_("Let the air out slowly"),
    "air.source": N_("Connect a compressor or a charged bottle"),
    "bead.lift": N_("Lift both beads onto their seats by hand or with a lever, all around"),
    "bead.level": N_("Pull the high side down by hand, lift the low side onto its seat"),
    "bead.push": N_("Push the low spot in with your thumbs and wet it there"),
    "bead.strap": N_("Pull a strap tight around the tread, or knock it all around"),
    "insert.straighten": N_("Work the insert straight by hand, all around"),
    "dip.read": N_("Dip, valve at the bottom: how deep is what is left? 0 for none"),
    "hold.flat_left": N_("Lay it flat on the left side"),
    "hold.flat_right": N_("Lay it flat on the right side"),
    "hold.soap": N_("Soapy water on valve, nipples, beads and side walls"),
    "repair.find": N_(
        "Find the leak: look, listen, soapy water, then a bath. Where does air come out?"
    ),
    "repair.valve": N_(
        "Core screwed in, o-ring in place, base flat in the rim well, nut finger tight"
    ),
    "repair.plug": N_("Plug the hole from outside, then turn it to the bottom"),
    "repair.patch": N_("Dry and roughen the inside, patch the hole, press it down"),
    "repair.boot": N_("Boot the hole from inside"),
    "air.press": N_("Leave the tube at this pressure: it presses the tape home"),
    "set.weigh": N_("Weigh the finished wheel, or go on without"),
    "set.sign": N_("Hand over, with your name"),
}


class SentenceInputs(msgspec.Struct, frozen=True):
    """What the sentences of one wheel are made from.

    Attributes:
        setup: what decides the procedure.
        dry: mounting without the insert, where the tire is seated before it goes in.
        left_ml: sealant that is left, by a dip; None without one.
        ridden: the leak test was ended by a ride.
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
    soap_weakens: bool = False
    left_ml: float | None = None
    ridden: bool = False

    @property
    def side(self) -> str:
        """The side that is opened: where it leaks, else where the shoulder is narrow."""
        of_bead = self.setup.does == "repair" and self.setup.leak == "bead"
        leaks = self.setup.leak_side if of_bead else ""
        return leaks or self.mounting.last_side or "left"

    @property
    def leaks_somewhere(self) -> bool:
        """Whether the side that leaks is opened, and nobody said which it is."""
        return self.setup.opens_bead and not self.setup.leak_side


def _strip_break_beads(known: SentenceInputs) -> Message:
    if known.mounting.last_side is None:
        return Message("Break both beads into the rim well, starting at the valve")
    return Message(
        "Break both beads into the rim well, starting at the valve on the {side} side: its shoulder is the narrow one",
        {"side": known.side},
    )


def _bead_open_one(known: SentenceInputs) -> Message:
    if known.leaks_somewhere:
        return Message("Break the side that leaks only; the other bead stays on its shelf")
    return Message(
        "Break the {side} side only; the other bead stays on its shelf", {"side": known.side}
    )


def _repair_lay(known: SentenceInputs) -> Message:
    if not known.setup.leak_side:
        return Message("Spin it, then lay it flat with the leaking side down")
    return Message("Spin it, then lay it flat on the {side} side", {"side": known.side})


def _tire_off(known: SentenceInputs) -> Message:
    if known.setup.insert_stays:
        return Message("Take the tire off over the insert, both beads; the insert stays on the rim")
    return Message("Take the tire off, both beads")


def _tape_find(known: SentenceInputs) -> Message:
    return Message("Get {what}, and lay it", {"what": known.tape.to_buy})


def _tape_trim(known: SentenceInputs) -> Message:
    return Message("Trim the roll to {trim_trade}", {"trim_trade": known.tape.trim_to_mm or 0.0})


def _rim_clean(known: SentenceInputs) -> Message:
    if known.setup.scours:
        return Message(
            "Rub old glue and dried sealant off with fine abrasive, then clean the rim bed with a solvent that leaves no film"
        )
    return Message("Clean the rim bed with a solvent that leaves no film")


def _core_in(known: SentenceInputs) -> Message:
    if known.methods.core_in == "finger" and known.setup.route == "inject":
        return Message("Finger on the open valve until the core goes in: it keeps the beads up")
    return Message("Put the valve core back in")


def _hole_open(known: SentenceInputs) -> Message:
    return Message(_HOLE[known.methods.hole])


def _then(first: Message, *more: Message) -> Message:
    """Return sentences one after another."""
    for one in more:
        first = Message("{first}. {then}", {"first": first, "then": one})
    return first


_HOLE_SEAL = {
    "putty": N_("A ring of sealing putty under the base closes the hole"),
    "washer": N_("A rubber washer goes under the base"),
}


def _valve_fit(known: SentenceInputs) -> Message:
    length = known.valve.length_mm
    if known.setup.keeps_valve:
        first = Message(
            "Put the valve back in: base in its notch and pressed down, o-ring, nut finger tight"
        )
    elif length is None:
        first = Message(
            "Fit a valve that reaches: base in its notch and pressed down, o-ring, nut finger tight"
        )
    else:
        first = Message(
            "Fit the {length_trade} valve: base in its notch and pressed down, o-ring, nut finger tight",
            {"length_trade": length},
        )
    more = [] if known.setup.keeps_valve else list(known.valve.remarks.items())
    remarks = [said for name, said in more if name in ("base", "hole", "washer")]
    ports = known.setup.insert in ("unported", "unread")
    seal = _HOLE_SEAL.get(known.methods.hole_seal)
    return _then(
        first,
        *([Message(seal)] if seal else []),
        *remarks,
        *([Message("Side ports face along the tire")] if ports else []),
    )


def _tire_wipe(known: SentenceInputs) -> Message:
    if known.setup.new:
        return Message("Wipe the release agent out of the tire and off its beads")
    return Message("Wipe the beads clean")


def _insert_on(known: SentenceInputs) -> Message:
    """Insert mounting in words that help, by order."""
    clamp = (
        Message("Hold what is in with clamps or a strap"),
        Message("If it pops off, go back to the last clamp and roll it up again"),
    )
    how = {
        "insert_first": (
            Message("Rim flat on a bucket or stand"),
            Message("Lay the insert on it, notch at the valve"),
            Message("Then the tire goes over it"),
        ),
        "bead_first": (
            Message(
                "Push the insert in between bead and rim, notch at the valve, working around toward the valve"
            ),
            *clamp,
        ),
        "seat_first": (
            Message(
                "Work the insert in through the open side, notch at the valve; the seated bead stays on its shelf"
            ),
            *clamp,
        ),
    }["seat_first" if known.setup.with_tube else known.setup.order]
    insert = known.wheel.insert
    seam = (
        [Message("Keep a seam at least {seam_mm} from the valve", {"seam_mm": SEAM_FROM_VALVE_MM})]
        if insert is not None and insert.joined is not False
        else []
    )
    return _then(*how, *seam)


def _bead_wet(known: SentenceInputs) -> Message:
    # wetted as a remedy in a shop that mounts dry
    weak = known.setup.lubricant == "none" and known.soap_weakens
    return Message(_WET.get(known.setup.lubricant) or _WET["sealant" if weak else "soap"])


def _ending(known: SentenceInputs) -> Message:
    """Where a bead starts and where its last section goes on."""
    if known.methods.finish == "elsewhere":
        return Message("start at the valve, finish away from it, where the slack is")
    return Message("start opposite the valve, finish at the valve")


def _bead_first(known: SentenceInputs) -> Message:
    if (
        known.setup.insert != "none"
        and known.setup.order == "insert_first"
        and not known.setup.with_tube
    ):
        return Message(
            "First bead: roll the insert up off the shelf with your thumbs and tuck the bead under it into the rim well; clamp the first section, then all the way around; label at the valve. If it pops off, go back to the last clamp"
        )
    return Message(
        "First bead into the rim well: label at the valve, {ending}", {"ending": _ending(known)}
    )


def _slack(known: SentenceInputs, text: str, on_a_side: str) -> Message:
    """Return how the second bead goes on, and what its slack asks for."""
    mounting = (
        known.dry if known.setup.order == "seat_first" or known.setup.with_tube else known.mounting
    )
    advice = (ADVICE_ELSEWHERE if known.methods.finish == "elsewhere" else ADVICE)[mounting.grade]
    first = Message(on_a_side, {"side": known.side}) if mounting.last_side else Message(text)
    tucked = known.setup.insert != "none" and known.setup.order != "seat_first"
    roll = [Message("Roll the insert up and tuck the bead under it as you go")] if tucked else []
    return _then(first, *roll, Message(advice, {"slack_mm": mounting.slack_mm}))


def _bead_second(known: SentenceInputs) -> Message:
    return _slack(
        known, N_("Second bead"), N_("Second bead on the {side} side, where the shoulder is narrow")
    )


def _bead_partial(known: SentenceInputs) -> Message:
    stays_open = known.setup.does in ("refresh", "repair")
    if (
        known.setup.insert_was_on
        if stays_open
        else known.setup.order == "seat_first" and known.setup.insert != "none"
    ):
        return Message(
            "Refit that one bead on the {side} side, tucked under the insert, but leave a section at the valve open for the sealant",
            {"side": known.side},
        )
    if stays_open:
        return Message(
            "Put the bead back on, but leave a section at the valve open for the sealant"
        )
    if known.methods.finish == "elsewhere":
        return _slack(
            known,
            N_("Second bead, but leave its last section open for the sealant, away from the valve"),
            N_(
                "Second bead on the {side} side, where the shoulder is narrow, but leave its last section open for the sealant, away from the valve"
            ),
        )
    return _slack(
        known,
        N_("Second bead, but leave a section at the valve open for the sealant"),
        N_(
            "Second bead on the {side} side, where the shoulder is narrow, but leave a section at the valve open for the sealant"
        ),
    )


def _bead_close(known: SentenceInputs) -> Message:
    tucked = known.setup.insert != "none"
    if known.methods.finish == "elsewhere":
        return Message(
            N_(
                "Turn the sealant to the bottom and close the section that is open, tucked under the insert"
            )
            if tucked
            else N_("Turn the sealant to the bottom and close the section that is open")
        )
    if tucked:
        return Message(
            "Turn the sealant to the bottom and close the last section at the valve, tucked under the insert"
        )
    return Message("Turn the sealant to the bottom and close the last section at the valve")


def _bead_refit(known: SentenceInputs) -> Message:
    if known.leaks_somewhere and known.setup.insert == "none":
        return Message("Put that bead back on: {ending}", {"ending": _ending(known)})
    text = (
        N_("Refit that one bead on the {side} side: tuck it under the insert, {ending}")
        if known.setup.insert != "none"
        else N_("Refit that one bead on the {side} side: {ending}")
    )
    return Message(text, {"side": known.side, "ending": _ending(known)})


def dose_message(known: SentenceInputs) -> Message:
    """Return the dose, with its fillings where it takes several."""
    dose = Message("{dose_ml}", {"dose_ml": known.sealant.dose_ml})
    loads = known.sealant.loads_ml
    if len(loads) < 2 or known.setup.route != "inject":
        return dose
    fillings = Message("{load_ml}", {"load_ml": loads[0]})
    for load in loads[1:]:
        fillings = Message("{fillings} + {load_ml}", {"fillings": fillings, "load_ml": load})
    return Message("{dose} ({fillings})", {"dose": dose, "fillings": fillings})


def _sealant_pour(known: SentenceInputs) -> Message:
    reason = [Message(known.setup.route_reason)] if known.setup.route_reason else []
    pour = Message(
        "Pour {dose} in at the open section. How much went in?", {"dose": dose_message(known)}
    )
    return _then(*reason, pour)


def _sealant_inject(known: SentenceInputs) -> Message:
    how = Message("valve at the side; pull the plunger back before you unscrew. How much went in?")
    if known.setup.does not in ("refresh", "repair"):
        return Message("Inject {dose}, {how}", {"dose": dose_message(known), "how": how})
    if known.left_ml is None:
        text = N_(
            "Top up to {dose_ml} by what the dip says; not dipped, there is no sum. Inject it, {how}"
        )
        return Message(text, {"dose_ml": known.sealant.dose_ml, "how": how})
    add = top_up_ml(known.sealant.dose_ml, known.left_ml)
    values: dict[str, Value | Message] = {
        "left_ml": known.left_ml,
        "add_ml": add,
        "dose_ml": known.sealant.dose_ml,
    }
    return Message(
        "{left_ml} left, {add_ml} to add make {dose_ml}: inject it, {how}", {**values, "how": how}
    )


def _air_burst(known: SentenceInputs) -> Message:
    return Message(
        N_("One burst with the core out until both beads are up, at most {step_kpa}")
        if known.setup.core_out
        else N_("One burst until both beads are up, at most {step_kpa}"),
        {"step_kpa": known.pressure.seating_kpa[-1]},
    )


def _line_look(known: SentenceInputs) -> Message:
    return Message("Look at the molded line: even on both sides, all the way around")


def _hold_shake(known: SentenceInputs) -> Message:
    return Message(
        "Set {settle_kpa}; shake and spin it on every side",
        {"settle_kpa": known.pressure.settle_kpa},
    )


def _hold_top_up(known: SentenceInputs) -> Message:
    return Message(
        "Weeping side walls: back to {settle_kpa}, spin, and lay it flat on the other side",
        {"settle_kpa": known.pressure.settle_kpa},
    )


def _hold_read(known: SentenceInputs) -> Message:
    if known.setup.watch == "minutes":
        return Message(
            "Leave it 15 minutes at {settle_kpa}, then read the gauge",
            {"settle_kpa": known.pressure.settle_kpa},
        )
    return Message(
        "Leave it overnight at {settle_kpa}, then read the gauge",
        {"settle_kpa": known.pressure.settle_kpa},
    )


def _set_pressure(known: SentenceInputs) -> Message:
    pressure = known.pressure
    if known.setup.does == "back_to_tube":
        return Message("Set {start_kpa}", {"start_kpa": pressure.start_kpa})
    if pressure.lets_down_there:
        values: dict[str, Value | Message] = {
            "set_here_kpa": pressure.set_here_kpa,
            "start_kpa": pressure.start_kpa,
        }
        return Message(
            "Set {set_here_kpa} here, the least for this tire. Let it down to {start_kpa} at the place",
            values,
        )
    values = {"set_here_kpa": pressure.set_here_kpa, "at_ride_kpa": pressure.at_ride_kpa}
    if known.ridden:
        return Message(
            "Set {set_here_kpa} and ride it until it stays tight. Check both sides, then set {set_here_kpa} again",
            values,
        )
    return Message("Set {set_here_kpa} here; that is {at_ride_kpa} on the ride", values)


#: The sentence of each action that depends on the wheel.
SENTENCES: dict[str, Callable[[SentenceInputs], Message]] = {
    "strip.break_beads": _strip_break_beads,
    "bead.open_one": _bead_open_one,
    "repair.lay": _repair_lay,
    "strip.tire_off": _tire_off,
    "rim.clean": _rim_clean,
    "core.in": _core_in,
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
    "air.burst": _air_burst,
    "line.look": _line_look,
    "hold.shake": _hold_shake,
    "hold.top_up": _hold_top_up,
    "hold.read": _hold_read,
    "set.pressure": _set_pressure,
}
