"""What decides a procedure: worked out once from parts, methods and kind of work, with nothing left open."""

from typing import Literal

import msgspec

from inner_rim.core.models.mounting import Grade
from inner_rim.core.procedure.state import WheelState
from inner_rim.core.record.job import Arrival, Wheel, Work
from inner_rim.core.record.resolved import Methods, Stock

WorkKind = Literal["convert", "tire_change", "retape", "refresh", "insert", "repair", "back_to_tube"]
Route = Literal["pour", "inject"]
Order = Literal["insert_first", "bead_first", "seat_first"]

WORK_WORDS: dict[WorkKind, str] = {
    "convert": "Convert from tube",
    "tire_change": "Change the tire",
    "retape": "Tape again",
    "refresh": "Refresh the sealant",
    "insert": "Insert in, out or changed",
    "repair": "Repair a leak or puncture",
    "back_to_tube": "Back to a tube",
}
#: Kinds of work in which a part that is there usually stays (docs/job.md 1.1).
KEEPS_TAPE = frozenset({"tire_change", "refresh", "insert", "repair", "back_to_tube"})
KEEPS_VALVE = frozenset({"tire_change", "retape", "refresh", "insert", "repair"})
KEEPS_INSERT = frozenset({"tire_change", "retape", "refresh", "repair"})
NEW_TIRE = frozenset({"convert", "tire_change"})
#: Tire changes after which a tape is replaced (common practice, no published source).
TAPE_CHANGES = {"film": 1, "cloth": 3}
#: A tire ridden above this is a hard road tire: a plug tends to blow out (common practice).
HARD_KPA = 350.0


class Found(msgspec.Struct, frozen=True):
    """How a wheel comes in, with nothing left open; see `Arrival`."""

    tube: bool
    taped: bool
    tire: Literal["on", "one_bead_off", "off"]
    seated: bool
    air: bool
    insert: bool
    sealant: bool


#: Work on a wheel that is tubeless: with a tube inside it is another kind of work.
NEEDS_TUBELESS = frozenset({"refresh", "repair", "back_to_tube", "retape"})
#: Work that leaves the tape that a tubeless wheel has.
TAPE_IS_THERE = frozenset({"refresh", "repair", "back_to_tube"})


def found_as(wheel: Wheel, kind: WorkKind, insert_usual: bool) -> Found:
    """Return how a wheel comes in: as it was said, else as usual for its kind of work.

    What cannot be is not: a tire that is off, or open, holds no air, and none stands behind beads off their seats.

    Args:
        wheel: with what was said.
        kind: of work.
        insert_usual: whether an insert is inside where nothing was said.

    Source: docs/job.md 1.1.
    """
    said = wheel.arrival if wheel.arrival is not None else Arrival()
    work, old = wheel.work, wheel.sealant
    tube = _said(said.tube, kind == "convert") and kind not in NEEDS_TUBELESS
    keeps = kind == "convert" and work is not None and work.keep_tape is True
    tire = said.tire or "on"
    seated = _said(said.seated, tire == "on") and tire != "off"
    sealant = old is None or old.in_ml != 0.0
    return Found(
        tube=tube,
        taped=wheel.rim.bed != "sealed"
        and (kind in TAPE_IS_THERE or _said(said.taped, kind != "convert" or keeps)),
        tire=tire,
        seated=seated,
        air=_said(said.air, seated) and seated and tire == "on",
        insert=_said(said.insert, insert_usual),
        sealant=not tube and (sealant if said.sealant is None else said.sealant != "none"),
    )


class Setup(msgspec.Struct, frozen=True):
    """What decides the procedure of one wheel.

    Attributes:
        kind: the kind of work.
        tubeless: it comes in tubeless.
        sealed: the rim bed has no spoke holes.
        lays_tape: tape is laid.
        adds_layer: one more layer goes over the tape that is there, and that is good.
        tape_reason: why the old tape is not kept, empty where the shop or the work says so.
        keeps_valve, keeps_insert: the one that is there goes back in.
        insert: `none`, `ported` or `unported`; `unread` where its ports were not entered, which counts as unported.
        ports: sealant gets past the insert: by its ports, or by those of the valve that goes in.
        sealant_in: sealant is in the tire.
        insert_was_on: an insert is on the rim at the start.
        found: how it comes in.
        order: how an insert goes in.
        tight: the slack asks for `seat_first`.
        press_home: the tape is pressed home with a tube.
        route: how sealant goes in.
        route_reason: what forces the route, empty where it is the shop's own choice.
        opens: a refresh or repair opens one side.
        lubricant: what is on the beads; `none` for nothing.
        core_out: the core is out for the first burst.
        arrow: the tire has a direction, or it is not known to have none.
        new, folded: the tire.
        weeping: it has no tubeless mark.
    """

    kind: WorkKind
    tubeless: bool
    sealed: bool
    lays_tape: bool
    adds_layer: bool
    tape_reason: str
    keeps_valve: bool
    keeps_insert: bool
    insert: Literal["none", "ported", "unported", "unread"]
    ports: bool
    sealant_in: bool
    insert_was_on: bool
    found: Found
    order: Order
    tight: bool
    press_home: bool
    route: Route
    route_reason: str
    opens: bool
    lubricant: str
    core_out: bool
    arrow: bool
    new: bool
    folded: bool
    weeping: bool

    @property
    def taped_holes(self) -> bool:
        """Whether there are spoke holes that nothing but tape closes."""
        return not self.sealed and self.kind != "back_to_tube"

    @property
    def tire_goes_on(self) -> bool:
        """Whether the tire comes off and goes on again."""
        return self.kind in ("convert", "tire_change", "retape", "insert")

    @property
    def takes_sealant(self) -> bool:
        """Whether sealant goes in."""
        return self.kind != "back_to_tube"


def set_up(
    wheel: Wheel, methods: Methods, stock: Stock, grade: Grade, start_kpa: float, valve_ported: bool = False
) -> Setup:
    """Return what decides the procedure.

    Args:
        wheel: its parts and the work.
        methods: that hold for this wheel.
        stock: the shop's sealant.
        grade: how the last bead goes on.
        start_kpa: riding pressure, for what a plug stands.
        valve_ported: the valve that was picked has side ports.

    Source: docs/job.md 1.1 and 1.3, common practice, no published source.
    """
    work = wheel.work if wheel.work is not None else Work()
    kind: WorkKind = work.kind if work.kind is not None else "convert"
    sealed = wheel.rim.bed == "sealed"
    ported = _ported(wheel)
    goes = _said(work.keep_insert, kind in KEEPS_INSERT) if ported != "none" else False
    found = found_as(wheel, kind, kind != "convert" and (goes or _insert_goes(kind, work, ported)))
    keeps_tape, tape_reason = _keeps_tape(wheel, kind, methods)
    keeps_tape = keeps_tape and found.taped
    tight = ported != "none" and grade in ("levers", "will_not_go")
    keeps_valve = not found.tube and _keeps_valve(kind, work, ported)
    ports = ported in ("none", "ported") or (valve_ported and not keeps_valve)
    route, reason = _route(methods, stock, ported, ports)
    keeps_insert = goes and found.insert
    return Setup(
        kind=kind,
        tubeless=not found.tube,
        sealed=sealed,
        lays_tape=not sealed and not keeps_tape,
        adds_layer=adds_layer(wheel) and found.taped,
        tape_reason=tape_reason,
        keeps_valve=keeps_valve,
        keeps_insert=keeps_insert,
        insert=ported,
        ports=ports,
        sealant_in=found.sealant,
        insert_was_on=found.insert,
        found=found,
        order="seat_first" if tight else methods.insert_order,
        tight=tight,
        press_home=methods.press_home == "tube" and not sealed and not keeps_tape,
        route=route,
        route_reason=reason,
        opens=_opens(wheel, kind, route, stock, start_kpa, found),
        lubricant=_lubricant(methods, stock),
        core_out=methods.opens_core,
        arrow=wheel.tire.directional is not False,
        new=bool(wheel.tire.new),
        folded=bool(work.folded),
        weeping=wheel.tire.tubeless_ready is False,
    )


Ported = Literal["none", "ported", "unported", "unread"]


def _ported(wheel: Wheel) -> Ported:
    """Whether there is an insert, and whether air gets through it by ports of its own."""
    if wheel.insert is None:
        return "none"
    if wheel.insert.ported is None:
        return "unread"
    return "ported" if wheel.insert.ported else "unported"


def adds_layer(wheel: Wheel) -> bool:
    """Whether one more layer goes over the good tape that is there: taped again, and the tape stays."""
    work = wheel.work
    return work is not None and work.kind == "retape" and work.keep_tape is True and wheel.rim.bed != "sealed"


def _keeps_valve(kind: WorkKind, work: Work, ported: Ported) -> bool:
    """Whether the valve that is there stays: not where an insert without ports goes in, which needs one with side ports."""
    if kind == "convert":
        return False
    new_insert = kind == "insert" and ported in ("unported", "unread") and work.keep_insert is not True
    return _said(work.keep_valve, kind in KEEPS_VALVE and not new_insert)


def _insert_goes(kind: WorkKind, work: Work, ported: Ported) -> bool:
    """Whether an insert that was on comes off: swapped, back to a tube, or taken out for good."""
    if ported == "none":
        return kind == "insert"
    return work.keep_insert is False or kind == "back_to_tube"


def _said(said: bool | None, otherwise: bool) -> bool:
    return otherwise if said is None else said


def _keeps_tape(wheel: Wheel, kind: WorkKind, methods: Methods) -> tuple[bool, str]:
    """Whether the old tape stays, and why it does not where its age says so."""
    work = wheel.work
    said = work.keep_tape if work is not None else None
    if kind == "retape":  # with the tape kept, one more layer goes over it
        return False, ""
    if kind == "convert":  # a rim that was taped at the factory
        return said is True, ""
    if said is not None:
        return said, ""
    most = TAPE_CHANGES.get(methods.tape_kind)
    if kind == "tire_change" and most is not None and ((work.tape_changes or 0) if work else 0) + 1 >= most:
        return False, "This kind of tape does not survive another tire change: tape the rim again"
    return kind in KEEPS_TAPE, ""


def _route(methods: Methods, stock: Stock, insert: Ported, ports: bool) -> tuple[Route, str]:
    if methods.sealant_route != "inject":
        return "pour", ""
    if not ports:
        if insert == "unread":
            return "pour", "Ports of the insert not entered, so pour the sealant"
        return "pour", "The insert has no ports, so pour the sealant"
    if stock.sealant.clogs_valve is True:
        return "pour", "This sealant clogs valves, so pour it"
    return "inject", ""


def _opens(wheel: Wheel, kind: WorkKind, route: Route, stock: Stock, start_kpa: float, found: Found) -> bool:
    """Whether a refresh or repair opens one side: sealant of another or unknown kind, or dried; a patch inside; or beads
    that are off their seats anyway.
    """
    if kind == "repair" and start_kpa > HARD_KPA:
        return True
    odd = wheel.arrival is not None and wheel.arrival.sealant in ("dried", "unknown")
    if kind in ("refresh", "repair") and (odd or not found.seated or found.tire != "on"):
        return True
    old = wheel.sealant.name if wheel.sealant is not None else None
    new = stock.sealant.name
    same = old is not None and new is not None and old.casefold() == new.casefold()
    return kind in ("refresh", "repair") and (route == "pour" or not same)


def _lubricant(methods: Methods, stock: Stock) -> str:
    wanted = methods.lubricant
    weak = stock.sealant.dislikes_soap is True
    return "sealant" if wanted == "soap" and weak else wanted


def start_of(setup: Setup) -> WheelState:
    """Return the state in which a wheel comes in."""
    arrow: Literal["open", "confirmed", "none"] = (
        "confirmed" if setup.arrow else "none"
    )  # a tire that stays on turns as it did
    if setup.arrow and (setup.tire_goes_on or setup.found.tire == "off"):
        arrow = "open"
    found = setup.found
    state = WheelState(
        arrow=arrow,
        arrow_again=arrow,
        has_insert="no" if setup.insert == "none" else "yes",
        ports="yes" if setup.ports else "no",
    )
    seat = "seated" if found.seated else "on"
    beads = {"on": (seat, seat), "one_bead_off": (seat, "off"), "off": ("off", "off")}[found.tire]
    state = state.after((f"first={beads[0]}", f"last={beads[1]}", f"air={'up' if found.air else 'flat'}"))
    if setup.sealed:
        state = state.after(("bed=sealed", "tape=not_needed", "hole=open"))
    elif found.taped:
        state = state.after(("bed=taped", "tape=old", "hole=open"))
    elif not found.tube:  # no strip, no tape: what was there left its mark
        state = state.after(("bed=dirty",))
    if found.tube:
        return state.after(("tube=in", "valve=tube")) if found.tire != "off" else state
    state = state.after(("valve=in", "sealant=in" if found.sealant else "sealant=none"))
    return state.after(("insert=on",)) if found.insert else state
