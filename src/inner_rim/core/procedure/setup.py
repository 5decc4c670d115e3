"""What decides a procedure: worked out once from parts, methods and kind of work, with nothing left
open.
"""

from typing import Literal, NamedTuple

import msgspec

from inner_rim.core.models.mounting import Grade
from inner_rim.core.models.pressure import PressurePick
from inner_rim.core.models.tape import TapePick
from inner_rim.core.procedure.state import WheelState, conditions
from inner_rim.core.record.job import Arrival, Wheel, Work
from inner_rim.core.record.resolved import Methods, Stock
from inner_rim.words import N_

ValveIn = Literal["none", "plain", "ported"]
WorkKind = Literal[
    "convert", "tire_change", "retape", "refresh", "insert", "repair", "back_to_tube"
]
Route = Literal["pour", "inject"]
Order = Literal["insert_first", "bead_first", "seat_first"]

WORK_WORDS: dict[WorkKind, str] = {
    "convert": N_("Convert from tube"),
    "tire_change": N_("Change the tire"),
    "retape": N_("Tape again"),
    "refresh": N_("Refresh the sealant"),
    "insert": N_("Insert in, out or changed"),
    "repair": N_("Repair a leak or puncture"),
    "back_to_tube": N_("Back to a tube"),
}
#: Kinds of work in which a part that is there usually stays (docs/job.md 1.1).
KEEPS_TAPE = frozenset({"convert", "tire_change", "refresh", "insert", "repair", "back_to_tube"})
KEEPS_VALVE = frozenset({"convert", "tire_change", "retape", "refresh", "insert", "repair"})
KEEPS_INSERT = frozenset({"tire_change", "retape", "refresh", "repair"})
NEW_TIRE = frozenset({"convert", "tire_change"})
#: Tire changes after which a tape is replaced (common practice, no published source).
TAPE_CHANGES = {"film": 1, "cloth": 3}
#: A tire ridden above this is a hard road tire: a plug tends to blow out (common practice).
HARD_KPA = 350.0


class ResolvedArrival(msgspec.Struct, frozen=True):
    """How a wheel comes in, with nothing left open; see `Arrival`."""

    tube: bool
    taped: bool
    tire: Literal["on", "one_bead_off", "off"]
    seated: bool
    air: bool
    insert: bool
    sealant: bool
    valve: ValveIn
    tape_kind: str


#: Work on a wheel that is tubeless: with a tube inside it is another kind of work.
NEEDS_TUBELESS = frozenset({"refresh", "repair", "back_to_tube", "retape"})
Ported = Literal["none", "ported", "unported", "unread"]
#: A leak in the side wall is a cut, where the casing does not weep.
Leak = Literal["tread", "side_wall", "weeps", "bead", "valve", "nipple", "unknown"]
#: A plug more than that does not last (common practice).
MAX_PLUGS = 2
#: Work that leaves the tape that a tubeless wheel has.
TAPE_IS_THERE = frozenset({"refresh", "repair", "back_to_tube"})


def resolve_arrival(wheel: Wheel, kind: WorkKind, insert_usual: bool) -> ResolvedArrival:
    """Return how a wheel comes in: as it was said, else as usual for its kind of work.

    What cannot be is not: a tire that is off, or open, holds no air, and none stands behind beads
    off their seats.

    Source: docs/job.md 1.1.
    """
    said = wheel.arrival if wheel.arrival is not None else Arrival()
    work, old = wheel.work if wheel.work is not None else Work(), wheel.sealant
    tube = _said(said.tube, kind == "convert") and kind not in NEEDS_TUBELESS
    tire = said.tire or "on"
    # else it was never tubeless, or is a bare rim
    tubeless = kind != "convert" or (not tube and tire != "off")
    seated = _said(said.seated, tire == "on") and tire != "off"
    sealant = tubeless if old is None else old.in_ml != 0.0
    return ResolvedArrival(
        tube=tube,
        taped=wheel.rim.bed != "sealed"
        and (kind in TAPE_IS_THERE or _said(said.taped, tubeless or work.keep_tape is True)),
        tire=tire,
        seated=seated,
        air=_said(said.air, seated) and seated and tire == "on",
        insert=_said(said.insert, insert_usual),
        sealant=not tube and (sealant if said.sealant is None else said.sealant != "none"),
        valve="none"
        if tube
        else said.valve or ("plain" if tubeless or work.keep_valve is True else "none"),
        tape_kind=said.tape_kind or "",
    )


class Setup(msgspec.Struct, frozen=True):
    """What decides the procedure of one wheel.

    Attributes:
        sealed: the rim bed has no spoke holes.
        adds_layer: one more layer goes over the tape that is there, and that is good.
        tape_reason: why the old tape is not kept, empty where the shop or the work says so.
        insert: `none`, `ported` or `unported`; `unread` where its ports were not entered, which
            counts as unported.
        insert_stays: the tire is taken off and put on over it.
        ports: sealant gets past the insert: by its ports, or by those of the valve that goes in.
        tight: the slack asks for `seat_first`.
        press_home: the tape is pressed home with a tube.
        with_tube: the beads are seated with a tube, which is taken out through one opened side.
        drops: the beads come off their seats when the air is out, and a named person goes on.
        route_reason: what forces the route, empty where it is the shop's own choice.
        opens: a refresh or repair opens one side, and all its sealant is new.
        patches: a hole is patched from inside.
        opens_bead: a bead that leaks is opened: lying on that side did not close it, or could not.
        tops_up: a repair found too little sealant inside.
        leak_side: on which side a bead leaks, empty where nobody said.
        arrow: the tire has a direction, or it is not known to have none.
        weeping: it has no tubeless mark, or was seen to lose air through its side wall.
        does: the kind of work whose milestones are reached: a repair at a nipple tapes the rim
            again.
        burst: seated in one burst of air, not in steps.
        steps: number of pressure steps.
        settles_after: how many of them reach the sealing pressure; one more than there are where
            none does.
        rim_question: what is asked of its walls.
        strips: of tape that are to be laid.
        covers: strips of electrical tape that go over it.
        unmarked_rim: it is known to have no shelf that keeps a bead on its seat when it is flat.
        other_kind: sealant of another kind is inside, or of one that nobody knows.
        no_tape, trims, warms: no tape in stock; it is trimmed; it is warmed.
        scours: old glue comes off with an abrasive, which carbon does not take.
        inject_when: after the dry test, once the beads are seated, or before they seat.
        rests_flat: the wheel lies on each side for a while before it is left.
    """

    kind: WorkKind
    sealed: bool
    lays_tape: bool
    adds_layer: bool
    tape_reason: str
    keeps_valve: bool
    keeps_insert: bool
    insert_stays: bool
    insert: Ported
    ports: bool
    arrival: ResolvedArrival
    order: Order
    tight: bool
    press_home: bool
    with_tube: bool
    drops: bool
    route: Route
    route_reason: str
    opens: bool
    patches: bool
    opens_bead: bool
    tops_up: bool
    leak_side: str
    lubricant: str
    core_out: bool
    arrow: bool
    new: bool
    folded: bool
    weeping: bool
    does: WorkKind
    leak: Leak
    burst: bool
    steps: int
    settles_after: int
    hookless: bool
    unmarked_rim: bool
    other_kind: bool
    large_holes: bool
    rim_question: str
    strips: int
    covers: int
    no_tape: bool
    trims: bool
    warms: bool
    scours: bool
    inject_when: Literal["tested", "seated", "first"]
    rests_flat: bool

    @property
    def tubeless(self) -> bool:
        return not self.arrival.tube

    @property
    def insert_was_on(self) -> bool:
        return self.arrival.insert

    @property
    def boots(self) -> bool:
        """Whether a cut is booted from inside."""
        return self.does == "back_to_tube" and self.leak in ("side_wall", "tread")

    @property
    def converts_through_one(self) -> bool:
        """Whether a tube comes out through one opened side, and the other bead stays where it is:
        the tape is good, and the tire the same.
        """
        return (
            self.does == "convert"
            and self.arrival.tube
            and self.arrival.taped
            and self.arrival.tire != "off"
            and not self.lays_tape
            and not self.new
            and not self.with_tube
            and self.insert == "none"
        )

    @property
    def one_bead(self) -> bool:
        """Whether one bead is opened, and the other stays on its seat."""
        return self.does != "back_to_tube"

    @property
    def watch(self) -> Literal["overnight", "minutes"]:
        """Return how long the leak test is: minutes where the beads stayed as they were and the
        casing is sound.
        """
        seats = (
            self.does in ("convert", "tire_change", "retape", "insert")
            or self.opens
            or self.opens_bead
        )
        return "overnight" if seats or self.weeping else "minutes"

    @property
    def stays_seated(self) -> bool:
        """Whether the beads stay where they are, so that the wheel goes back to the pressure it is
        ridden at.
        """
        return self.does in ("refresh", "repair") and not self.opens and not self.opens_bead

    @property
    def ridden_steps(self) -> int:
        """How many pressure steps count as checked because the wheel was ridden as it is."""
        return self.steps + 1 if self.stays_seated and self.arrival.seated else 0

    @property
    def taped_holes(self) -> bool:
        """Whether there are spoke holes that nothing but tape closes."""
        return not self.sealed and self.does != "back_to_tube"

    @property
    def tire_goes_on(self) -> bool:
        return self.does in ("convert", "tire_change", "retape", "insert")

    @property
    def takes_sealant(self) -> bool:
        if self.does == "repair":
            return self.opens or self.tops_up
        return self.does != "back_to_tube"


class LogChanges(msgspec.Struct, frozen=True):
    """What the log changes of the work.

    Attributes:
        again: `tape` where the rim is taped again, `layer` where one more layer goes over the good
            tape.
        leak: where air was seen to come out, empty where it was not.
        leak_side: on which side, empty where nobody said.
        bead_leaks_on: a bead still leaks after lying on its side.
        tops_up: there was too little sealant inside.
        with_tube: the beads are seated with a tube first.
        drops: a named person goes on although the beads come off their seats when the air is out.
        lost_air: the leak test was lost.
        insert_out: an insert that was left on is worn, and comes out.
    """

    again: Literal["", "tape", "layer"] = ""
    leak: str = ""
    leak_side: str = ""
    bead_leaks_on: bool = False
    tops_up: bool = False
    with_tube: bool = False
    drops: bool = False
    lost_air: bool = False
    insert_out: bool = False


_LEAKS: dict[str, Leak] = {
    "valve": "valve",
    "nipple": "nipple",
    "vent": "nipple",
    "bead": "bead",
    "side_wall": "side_wall",
    "cut": "side_wall",
    "weeps": "weeps",
    "tread": "tread",
}


def set_up(
    wheel: Wheel,
    methods: Methods,
    stock: Stock,
    grade: Grade,
    pressure: PressurePick,
    tape: TapePick,
    valve_ported: bool = False,
    changes: LogChanges = LogChanges(),  # noqa: B008 - immutable
) -> Setup:
    """Return what decides the procedure.

    Args:
        pressure: its steps, and the riding pressure, for what a plug stands.

    Source: docs/job.md 1.1 and 1.3, common practice, no published source.
    """
    work = _work_on(wheel, methods, changes)
    arrival = work.arrival
    sealed = wheel.rim.bed == "sealed"
    layer = changes.again == "layer" or (not changes.again and adds_layer(wheel) and arrival.taped)
    tight = work.insert != "none" and grade in ("levers", "will_not_go")
    ported = arrival.valve == "ported" if work.valve_stays else valve_ported
    ports = work.insert in ("none", "ported") or ported
    route, reason = _route(methods, stock, work.insert, ports)
    weeping = wheel.tire.tubeless_ready is False or (
        work.leak == "weeps" if work.kind == "repair" else changes.leak in ("weeps", "side_wall")
    )
    keeps_insert = not changes.insert_out and (
        (work.keeps_insert and arrival.insert) or (bool(changes.again) and work.insert != "none")
    )
    order: Order = "seat_first" if tight else methods.insert_order
    over_it = work.does == "tire_change" and order == "insert_first"
    return Setup(
        kind=work.kind,
        sealed=sealed,
        lays_tape=not sealed and not work.keeps_tape,
        adds_layer=layer,
        tape_reason=work.tape_reason,
        keeps_valve=work.keeps_valve,
        keeps_insert=keeps_insert,
        insert_stays=keeps_insert
        and over_it
        and work.valve_stays
        and (sealed or (work.keeps_tape and arrival.taped)),
        insert=work.insert,
        ports=ports,
        arrival=arrival,
        order=order,
        tight=tight,
        press_home=(presses := methods.press_home == "tube" and not sealed and not work.keeps_tape),
        with_tube=presses or changes.with_tube,
        drops=changes.drops,
        route=route,
        route_reason=reason,
        opens=_opens(wheel, work, route, stock, pressure.start_kpa, changes.tops_up),
        patches=work.kind == "repair"
        and not changes.again
        and work.leak in ("tread", "side_wall")
        and work.does != "back_to_tube",
        opens_bead=work.does == "repair"
        and work.leak == "bead"
        and (changes.bead_leaks_on or not _lies_on_it(wheel, arrival)),
        tops_up=changes.tops_up,
        leak_side=changes.leak_side or (wheel.work.leak_side if wheel.work else None) or "",
        lubricant=_lubricant(methods, stock),
        core_out=methods.core_out,
        arrow=wheel.tire.directional is not False,
        new=bool(wheel.tire.new),
        folded=bool(wheel.work is not None and wheel.work.folded),
        weeping=weeping,
        does=work.does,
        leak=work.leak,
        burst=methods.seating == "burst",
        steps=len(pressure.seating_kpa),
        settles_after=pressure.steps_below(pressure.settled_kpa) + 1,
        hookless=wheel.rim.hook == "straight_side",
        unmarked_rim=wheel.rim.tubeless_ready is False,
        # taped again, what came in was wiped out
        other_kind=arrival.sealant and not changes.again and not _same_kind(wheel, stock),
        large_holes=wheel.rim.bed == "large_holes",
        rim_question="carbon_damaged" if wheel.rim.carbon else "rim_dented",
        strips=tape.strips * (1 if layer else tape.layers),
        covers=tape.overlay.strips if tape.overlay is not None and not layer else 0,
        no_tape=tape.width_mm is None,
        trims=tape.trim_to_mm is not None,
        warms=methods.press_home == "warmth",
        scours=methods.bed_cleaning == "abrasive" and not wheel.rim.carbon,
        inject_when=methods.inject_when,
        rests_flat=methods.rest_flat == "always"
        or weeping
        or changes.lost_air
        or changes.leak not in ("", "none"),
    )


class _WorkOn(NamedTuple):
    """What a wheel is in for, how it comes in, and what of it stays; by the names of `Setup`.

    Attributes:
        valve_stays: the valve that it came in with; taped again, the one that was fitted stays.
    """

    kind: WorkKind
    leak: Leak
    does: WorkKind
    insert: Ported
    arrival: ResolvedArrival
    keeps_insert: bool
    valve_stays: bool
    keeps_valve: bool
    keeps_tape: bool
    tape_reason: str


def _work_on(wheel: Wheel, methods: Methods, changes: LogChanges) -> _WorkOn:
    work = wheel.work if wheel.work is not None else Work()
    kind: WorkKind = work.kind if work.kind is not None else "convert"
    leak: Leak = _LEAKS.get(changes.leak) or work.leak or "unknown"
    if leak == "side_wall" and work.side_wall == "weeps" and not changes.leak:
        leak = "weeps"
    ported = _ported(wheel)
    keeps_insert = ported != "none" and _said(work.keep_insert, kind in KEEPS_INSERT)
    insert_usual = kind != "convert" and (keeps_insert or _insert_goes(kind, work, ported))
    does = _does(kind, leak, wheel, changes)
    result = resolve_arrival(wheel, kind, insert_usual)
    valve_stays = result.valve != "none" and _keeps_valve(kind, work, ported, result)
    keeps_tape, reason = _keeps_tape(wheel, does, result.tape_kind or methods.tape_kind)
    return _WorkOn(
        kind=kind,
        leak=leak,
        does=does,
        insert=ported,
        arrival=result,
        keeps_insert=keeps_insert,
        valve_stays=valve_stays,
        keeps_valve=valve_stays or bool(changes.again),
        keeps_tape=(keeps_tape and result.taped) or does in TAPE_IS_THERE,
        tape_reason=reason,
    )


def _does(kind: WorkKind, leak: Leak, wheel: Wheel, changes: LogChanges) -> WorkKind:
    """The kind of work whose milestones are reached: taping again, a repair at a nipple, a cut side
    wall.
    """
    if changes.again:
        return "retape"
    if kind == "repair" and leak == "nipple" and wheel.rim.bed != "sealed":
        return "retape"
    work = wheel.work if wheel.work is not None else Work()
    if kind == "repair" and leak == "side_wall" and not work.patch_cut:
        return "back_to_tube"
    found = kind == "refresh" or (kind == "repair" and leak != "unknown")
    if found and work.new_tape and wheel.rim.bed != "sealed":
        return "retape"
    return kind


def wheel_today(wheel: Wheel) -> Wheel:
    """Return the wheel as it leaves today: without an insert that goes in later."""
    work = wheel.work
    if work is None or not work.insert_later or work.kind == "insert" or wheel.insert is None:
        return wheel
    kind: WorkKind = work.kind if work.kind is not None else "convert"
    keeps = _said(work.keep_insert, kind in KEEPS_INSERT)
    arrival = wheel.arrival if wheel.arrival is not None else Arrival()
    usual = kind != "convert" and (keeps or _insert_goes(kind, work, _ported(wheel)))
    arrival = msgspec.structs.replace(arrival, insert=_said(arrival.insert, usual))
    return msgspec.structs.replace(wheel, insert=None, arrival=arrival)


def _ported(wheel: Wheel) -> Ported:
    """Whether there is an insert, and whether air gets through it by ports of its own."""
    if wheel.insert is None:
        return "none"
    if wheel.insert.ported is None:
        return "unread"
    return "ported" if wheel.insert.ported else "unported"


def adds_layer(wheel: Wheel) -> bool:
    """Whether one more layer goes over the good tape that is there: taped again, and the tape
    stays.
    """
    work = wheel.work
    return (
        work is not None
        and work.kind == "retape"
        and work.keep_tape is True
        and wheel.rim.bed != "sealed"
    )


def _keeps_valve(kind: WorkKind, work: Work, ported: Ported, arrival: ResolvedArrival) -> bool:
    """Whether the valve that came in stays: not where an insert without ports goes in, which needs
    one with side ports.
    """
    new_insert = (
        kind in ("insert", "convert")
        and ported in ("unported", "unread")
        and arrival.valve != "ported"
        and work.keep_insert is not True
    )
    return _said(work.keep_valve, kind in KEEPS_VALVE and not new_insert)


def _insert_goes(kind: WorkKind, work: Work, ported: Ported) -> bool:
    """Whether an insert that was on comes off: swapped, back to a tube, or taken out for good."""
    if ported == "none":
        return kind == "insert"
    return work.keep_insert is False or kind == "back_to_tube"


def _said(said: bool | None, otherwise: bool) -> bool:
    return otherwise if said is None else said


def _keeps_tape(wheel: Wheel, kind: WorkKind, tape_kind: str) -> tuple[bool, str]:
    """Whether the old tape stays, and why it does not where its age says so."""
    work = wheel.work
    said = work.keep_tape if work is not None else None
    if kind == "retape":  # with the tape kept, one more layer goes over it
        return False, ""
    if work is not None and work.new_tape:
        return False, ""
    if said is not None:
        return said, ""
    most = TAPE_CHANGES.get(tape_kind)
    if (
        kind == "tire_change"
        and most is not None
        and ((work.tape_changes or 0) if work else 0) + 1 >= most
    ):
        return False, N_(
            "This kind of tape does not survive another tire change: tape the rim again"
        )
    return kind in KEEPS_TAPE, ""


def _route(methods: Methods, stock: Stock, insert: Ported, ports: bool) -> tuple[Route, str]:
    if methods.sealant_route != "inject":
        return "pour", ""
    if not ports:
        if insert == "unread":
            return "pour", N_("Ports of the insert not entered, so pour the sealant")
        return "pour", N_("The insert has no ports, so pour the sealant")
    if stock.sealant.clogs_valve is True:
        return "pour", N_("This sealant clogs valves, so pour it")
    return "inject", ""


def _patches(wheel: Wheel, start_kpa: float) -> bool:
    """Whether a hole in the tread is patched from inside: a plug blows out of a hard tire, and two
    are enough.
    """
    return start_kpa > HARD_KPA or (wheel.tire.plugs or 0) >= MAX_PLUGS


def _same_kind(wheel: Wheel, stock: Stock) -> bool:
    """Whether the sealant in the tire is known to be of the shop's kind."""
    old = wheel.sealant.name if wheel.sealant is not None else None
    new = stock.sealant.name
    return old is not None and new is not None and old.casefold() == new.casefold()


def _opens(
    wheel: Wheel, work: _WorkOn, route: Route, stock: Stock, start_kpa: float, tops_up: bool
) -> bool:
    """Whether a refresh or repair opens one side: sealant of another or unknown kind, or dried; a
    patch inside; or beads that are off their seats anyway.
    """
    if work.does not in ("refresh", "repair"):
        return False
    if wheel.work is not None and wheel.work.new_sealant:
        return True
    fills = work.does == "refresh" or tops_up
    if fills and (route == "pour" or not _same_kind(wheel, stock)):
        return True
    closed = work.leak == "valve" or (work.leak == "bead" and not _odd(wheel))
    if work.does == "repair" and closed:
        return False
    hole = work.leak == "side_wall" or (work.leak == "tread" and _patches(wheel, start_kpa))
    patches = work.does == "repair" and hole
    return _odd(wheel) or patches or not work.arrival.seated or work.arrival.tire != "on"


def _odd(wheel: Wheel) -> bool:
    """Whether what is inside is no good, as far as anybody knows."""
    return wheel.arrival is not None and wheel.arrival.sealant in ("dried", "unknown")


def _lies_on_it(wheel: Wheel, arrival: ResolvedArrival) -> bool:
    """Whether lying on the side of a bead that leaks can close it: both on their seats, with liquid
    sealant in.
    """
    return arrival.seated and arrival.tire == "on" and arrival.sealant and not _odd(wheel)


def _lubricant(methods: Methods, stock: Stock) -> str:
    wanted = methods.lubricant
    weak = stock.sealant.dislikes_soap is True
    return "sealant" if wanted == "soap" and weak else wanted


def start_of(setup: Setup) -> WheelState:
    """Return the state in which a wheel comes in.

    A tire that is on turns as it did; its arrow is confirmed again once it came off.
    """
    arrival = setup.arrival
    arrow: Literal["open", "confirmed", "none"] = "none"
    if setup.arrow:
        arrow = "open" if arrival.tire == "off" else "confirmed"
    state = WheelState(
        arrow=arrow,
        arrow_again=arrow,
        has_insert="no" if setup.insert == "none" else "yes",
        ports="yes" if setup.ports else "no",
        injects_first="yes" if setup.inject_when == "first" else "no",
        to_lay=setup.strips if setup.lays_tape else 0,
        to_cover=setup.covers if setup.lays_tape else 0,
        did=frozenset({"strip.tire_off"}) if arrival.tire == "off" else frozenset(),
    )
    seat = "seated" if arrival.seated else "on"
    state = msgspec.structs.replace(state, seen=setup.ridden_steps)
    if arrival.seated and not arrival.air:
        state = msgspec.structs.replace(state, stays="yes")
    beads = {"on": (seat, seat), "one_bead_off": (seat, "off"), "off": ("off", "off")}[arrival.tire]
    state = state.after(
        conditions(f"first={beads[0]}", f"last={beads[1]}", "air=up" if arrival.air else "air=flat")
    )
    if setup.sealed:
        state = state.after(conditions("bed=sealed", "tape=not_needed", "hole=open"))
    elif arrival.taped:
        bad = setup.lays_tape and not setup.adds_layer
        state = state.after(conditions("bed=taped", "tape=bad" if bad else "tape=old", "hole=open"))
    elif not arrival.tube:  # no strip, no tape: what was there left its mark
        state = state.after(conditions("bed=dirty"))
    if arrival.tube:
        return state.after(conditions("tube=in", "valve=tube")) if arrival.tire != "off" else state
    state = state.after(
        conditions(
            "valve=none" if arrival.valve == "none" else "valve=in",
            "sealant=in" if arrival.sealant else "sealant=none",
        )
    )
    return state.after(conditions("insert=on")) if arrival.insert else state
