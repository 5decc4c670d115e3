"""The milestones of each kind of work, in the order in which mechanics work (docs/job.md 1.3).

A milestone stays true until something undoes it. Temporary conditions, such as a flat tire or a
core that is out, are needs of an action, never milestones. A milestone that matters only up to some
point names that point (`unless`).
"""

from collections.abc import Iterator
from functools import lru_cache

import msgspec

from inner_rim.core.procedure.setup import Setup
from inner_rim.core.procedure.state import TUBE_SEATED, Facts, WheelState, conditions
from inner_rim.core.record.spoken import Stage

#: Tasks of a weeping tire: top-ups that are planned; the reading decides on each next one
#: (docs/models.md 2.9).
TOP_UPS, MAX_TOP_UPS = 3, 100


class Milestone(msgspec.Struct, frozen=True):
    """Something to reach.

    Attributes:
        code: the action, or block of actions, that reaches it.
        holds: conditions of the wheel, all of which hold once it is reached.
        unless: conditions under which it no longer matters, because later work is done.
        question: code of the question that its action is.
    """

    stage: Stage
    code: str
    holds: Facts
    unless: Facts = ()
    question: str = ""

    @property
    def once(self) -> bool:
        """Whether nothing but its action tells that it is reached."""
        return self.holds == conditions(f"did={self.code}")

    def reached(self, state: WheelState) -> bool:
        if all(state.holds(one) for one in self.holds):
            return True
        return bool(self.unless) and all(state.holds(one) for one in self.unless)


def once(stage: Stage, code: str, question: str = "", unless: Facts = ()) -> Milestone:
    """Return the milestone of an action that is done once."""
    return Milestone(stage, code, conditions(f"did={code}"), unless, question)


@lru_cache(maxsize=512)
def goals_of(setup: Setup) -> tuple[Milestone, ...]:
    return (*_check_in(setup), *_WORK[setup.does](setup))


def _check_in(setup: Setup) -> Iterator[Milestone]:
    yield once("check_in", "check_in.read")
    if setup.hookless:
        yield once("check_in", "check_in.approval")
    yield once("check_in", "check_in.weigh")


#: Work on a bare rim and a loose tire is over once the first bead is on.
_ON = conditions("first=on|seated")


def _tire_off_and_on(setup: Setup) -> Iterator[Milestone]:
    """Convert, change the tire, tape again, change an insert: all of them take the tire off."""
    if setup.converts_through_one:
        yield from _through_one_side(setup)
        return
    yield from _strip(setup)
    yield from _tape(setup)
    if setup.with_tube:
        yield from _seated_with_tube(setup)
    else:
        yield from _valve(setup)
        if setup.insert != "none" and setup.order == "insert_first":
            yield from _tire(setup, "insert")  # its arrow is asked where it is at hand
            yield from _insert_in(setup)
            yield from _warmed(setup)
        else:
            yield from _tire(setup)
        yield from _waxed(setup)
        yield Milestone("mount", "bead.first", conditions("first=on|seated"))
        if setup.insert != "none" and setup.order == "seat_first":
            yield from _wetted(setup, "mount", conditions("first=seated"))
            yield Milestone(
                "mount", "bead.second", conditions("last=on|seated"), conditions("first=seated")
            )
            yield Milestone(
                "seat", "seat.steps", conditions("first=seated"), conditions("insert=on")
            )
        if setup.insert != "none" and setup.order != "insert_first":
            yield from _insert_in(setup)
    yield from _closed_and_seated(setup)
    yield from _watched(setup)


def _through_one_side(setup: Setup) -> Iterator[Milestone]:
    """From a tube to tubeless on good tape: one side opened, the tube out, on with that one bead."""
    closed = conditions("last=partial|on|seated", "valve=in")
    yield Milestone("strip", "strip.tube_out", conditions("tube=out"))
    yield once("strip", "rim.walls", setup.rim_question, closed)
    yield Milestone("strip", "tape.keep_look", conditions("tape=sound"), (), "tape_damaged")
    yield from _tire_that_stays(setup)
    yield once("strip", "rim.wipe", unless=closed)
    yield from _valve(setup)
    yield from _closed_and_seated(setup)
    yield from _watched(setup)


def _strip(setup: Setup) -> Iterator[Milestone]:
    """Down to the bed, or to the tape that stays."""
    yield once("strip", "strip.tire_off")
    yield Milestone("strip", "strip.tube_out", conditions("tube=out"), _ON)
    bare = setup.lays_tape and not setup.adds_layer
    if bare:
        yield Milestone(
            "strip", "strip.rim_strip_off", conditions("bed=dirty|wet|dry|taped|sealed")
        )
    inserted = conditions("did=insert.on")
    out = "strip.insert_out" if setup.keeps_insert else "strip.old_insert_out"
    if not setup.insert_stays:
        yield Milestone("strip", out, conditions("insert=off"), inserted)
    yield Milestone("strip", "strip.sealant_out", conditions("sealant=none"), _ON)
    if setup.lays_tape or not setup.keeps_valve:
        yield Milestone(
            "strip", "strip.valve_out", conditions("valve=none|tube"), conditions("did=valve.fit")
        )
    if bare:
        yield Milestone("strip", "strip.tape_off", conditions("tape=none|laid|sound"))
        yield Milestone("strip", "rim.look", conditions("rim=sound"), (), "spoke_end_through")
    yield once("strip", "rim.walls", setup.rim_question)
    if setup.patches:
        yield once("strip", "repair.patch")
    if bare:
        yield Milestone("strip", "rim.dry", conditions("bed=dry|taped"))
        if setup.large_holes:
            yield once("strip", "strip.rim_strip_in", unless=conditions("bed=taped"))
    else:
        yield once("strip", "rim.wipe")


def _tape(setup: Setup) -> Iterator[Milestone]:
    if setup.sealed:
        return
    if setup.adds_layer or not setup.lays_tape:
        question = "tape_edges_damaged" if setup.insert_stays else "tape_damaged"
        yield Milestone("tape", "tape.keep_look", conditions("tape=laid|sound"), (), question)
    if setup.lays_tape:
        yield Milestone("tape", "tape", conditions("tape=sound", "to_lay=0"))
        yield Milestone("tape", "hole.open", conditions("hole=open"))


def _valve(setup: Setup) -> Iterator[Milestone]:
    yield Milestone("valve", "valve.fit", conditions("valve=in"))
    if setup.keeps_valve:
        yield once("valve", "valve.core_check", "valve_core_stuck")


def _tire(setup: Setup, stage: Stage = "mount") -> Iterator[Milestone]:
    yield _tire_looked_at(setup, stage, _ON)
    yield Milestone(
        stage, "tire.arrow", conditions("arrow=confirmed|none"), _ON, "arrow_not_confirmed"
    )
    yield Milestone(stage, "tire.wipe", conditions("tire=ready"), _ON)
    if stage == "mount":
        yield from _warmed(setup)


def _tire_looked_at(setup: Setup, stage: Stage, unless: Facts) -> Milestone:
    """The tire is sound, but for a cut that is patched."""
    cut = setup.patches and setup.leak == "side_wall"
    question = "tire_unsound_else" if cut else "tire_unsound"
    return Milestone(stage, "tire.look", conditions("tire=sound|ready"), unless, question)


def _warmed(setup: Setup) -> Iterator[Milestone]:
    if setup.new and (setup.folded or setup.insert != "none"):  # a ridden one goes on more easily
        yield once("mount", "tire.warm", unless=_ON)


def _insert_in(setup: Setup) -> Iterator[Milestone]:
    on = conditions("insert=on")
    yield once("insert", "insert.look", "insert_worn", unless=() if setup.insert_stays else on)
    again = conditions("arrow_again=confirmed|none")
    yield Milestone("insert", "tire.arrow_again", again, on, "arrow_not_confirmed_insert")
    yield Milestone("insert", "insert.on", on)


def _seated_with_tube(setup: Setup) -> Iterator[Milestone]:
    """A tube presses the tape into the rim well, or seats beads that do not seat without one; the
    first then stays seated.
    """
    yield from _tire(setup)
    yield Milestone("mount", "bead.first", conditions("first=on|seated"))
    seated = conditions(f"did={TUBE_SEATED}")
    yield Milestone("mount", "tube.in", conditions("tube=in"), seated)
    yield from _wetted(setup, "mount", seated)
    yield Milestone("mount", "bead.second", conditions("last=on|seated"), seated)
    yield Milestone("mount", "seat.steps", seated)
    if setup.press_home:
        yield _settled(setup, "mount", conditions("did=air.press"))
        yield once("mount", "air.press")
    yield Milestone("mount", "tube.out", conditions("tube=out"))
    yield from _valve(setup)
    if setup.insert != "none":
        yield from _insert_in(setup)


def _wetted(setup: Setup, stage: Stage, unless: Facts) -> Iterator[Milestone]:
    """The beads are wetted before the second one goes on, where the shop wets them."""
    if setup.lubricant != "none":
        yield Milestone(stage, "bead.wet", conditions("wet=yes"), unless)


def _waxed(setup: Setup) -> Iterator[Milestone]:
    """Wax goes on both beads before the first one does."""
    if setup.lubricant == "wax":
        yield from _wetted(setup, "mount", _ON)


def _closed_and_seated(setup: Setup) -> Iterator[Milestone]:
    """The second bead on, sealant in, both seated and looked at, by route."""
    mounting: Stage = "mount"
    if setup.insert != "none" and setup.order != "insert_first":
        mounting = "insert"
    if setup.with_tube:
        mounting = "insert" if setup.insert != "none" else "valve"
    yield from _wetted(setup, mounting, conditions("last=partial|on|seated"))
    again = setup.insert != "none" and setup.order == "seat_first" and not setup.with_tube
    seating: Stage = "seat"
    if setup.route == "pour":
        yield Milestone(mounting, "bead.partial", conditions("last=partial|on|seated"))
        yield from _poured()
        seating = "sealant" if again else "seat"
        yield from _seated(setup, seating)
    else:
        yield Milestone(
            mounting,
            "bead.refit"
            if again or setup.with_tube or setup.converts_through_one
            else "bead.second",
            conditions("last=on|seated"),
        )
        seating = "insert" if again else "seat"
        if setup.inject_when == "first":
            yield from _injected()
            if not setup.core_out:
                yield once("sealant", "core.in", unless=conditions("core=in"))
            yield from _seated(setup, seating)
            yield _settled(setup, seating)
            return
        if not setup.drops:
            yield from _seated_dry(setup, seating)
        yield from _injected()
        again_at: Stage = "sealant" if setup.drops else seating
        yield Milestone(again_at, "seat.steps", conditions("first=seated", "last=seated"))
        seating = "sealant"
    yield _settled(setup, seating)


def _injected() -> Iterator[Milestone]:
    yield once("sealant", "sealant.shake", unless=conditions("did=sealant.inject"))
    yield once("sealant", "sealant.inject")


def _seated(setup: Setup, stage: Stage) -> Iterator[Milestone]:
    """Seated with sealant in; on a rim that may not keep a flat tire's beads, seen to stay there."""
    watched = conditions("did=hold.shake")
    yield Milestone(stage, "seat.steps", conditions("first=seated", "last=seated"))
    if setup.unmarked_rim and not setup.drops:
        yield Milestone(stage, "dry.stay", conditions("stays=yes"), watched)


def _seated_dry(setup: Setup, stage: Stage) -> Iterator[Milestone]:
    """Seated and tested without sealant; the beads stay on their seats with the air out."""
    dosed = conditions("did=sealant.inject")
    stays = Milestone(stage, "dry.stay", conditions("stays=yes"), dosed)
    yield Milestone(stage, "seat.steps", conditions("first=seated", "last=seated"), dosed)
    if setup.core_out:  # the air goes out anyway
        yield stays
    else:
        yield Milestone(stage, "settle", conditions(_seen_to_settle(setup)), dosed)
    if setup.inject_when == "tested":
        yield once(stage, "dry.test", "dry_test_leaks", unless=dosed)
    if not setup.core_out:
        yield stays


def _settled(setup: Setup, stage: Stage, unless: Facts = ()) -> Milestone:
    """Inflated to the sealing pressure, and checked there; over once the leak test runs."""
    watched = "did=hold.soap" if setup.watch == "minutes" else "did=hold.shake"
    up = conditions("air=up", "core=in", "line=even", _seen_to_settle(setup))
    return Milestone(stage, "settle", up, unless or conditions(watched))


def _seen_to_settle(setup: Setup) -> str:
    """The fact that both sides were checked at the sealing pressure since the beads were seated."""
    return "seen=" + "|".join(str(seen) for seen in range(setup.settles_after, setup.steps + 2))


def _poured() -> Iterator[Milestone]:
    poured = conditions("did=sealant.pour")
    yield once("sealant", "sealant.shake", unless=poured)
    yield once("sealant", "sealant.pour")
    yield Milestone("sealant", "bead.close", conditions("last=on|seated"))


def _refresh(setup: Setup) -> Iterator[Milestone]:
    yield from _one_bead_opened(setup) if setup.opens else _through_the_valve(setup)
    yield from _watched(setup)


def _through_the_valve(setup: Setup) -> Iterator[Milestone]:
    """Dip, top up to the dose, core in, up again: the beads stay where they are."""
    dosed = conditions("did=sealant.inject")
    yield once("sealant", "dip.read", unless=dosed)
    if not setup.drops:
        yield Milestone("sealant", "dry.stay", conditions("stays=yes"), dosed)
    yield from _injected()
    yield Milestone("sealant", "seat.steps", conditions("first=seated", "last=seated"))
    yield _settled(setup, "sealant")


def _one_bead_opened(setup: Setup, inside: str = "") -> Iterator[Milestone]:
    """One bead opened, the other left on its seat; the old sealant taken out, new poured in; seated
    like any wheel.
    """
    inside_done = conditions("did=rim.wipe", *(conditions(f"did={inside}") if inside else ()))
    yield Milestone("strip", "bead.off_one", conditions("last=off"), inside_done)
    yield Milestone("strip", "strip.sealant_out", conditions("sealant=none"), inside_done)
    yield from _tape_in_sight(setup)
    yield once("strip", "valve.core_check", "valve_core_stuck")
    yield from _tire_that_stays(setup)
    yield once("strip", "rim.wipe")
    if inside:
        yield once("strip", inside)
    yield from _wetted(setup, "sealant", conditions("last=partial|on|seated"))
    yield Milestone("sealant", "bead.partial", conditions("last=partial|on|seated"))
    yield from _poured()
    yield from _seated(setup, "seat")
    yield _settled(setup, "seat")


def _tire_that_stays(setup: Setup) -> Iterator[Milestone]:
    """A tire that was on is looked at in place; one that came in off goes on first."""
    if setup.arrival.tire == "off":
        yield from _tire(setup)
        yield Milestone("mount", "bead.first", conditions("first=on|seated"))
    else:
        yield _tire_looked_at(setup, "strip", ())


def _tape_in_sight(setup: Setup) -> Iterator[Milestone]:
    if setup.arrival.taped:
        good = conditions("tape=sound|not_needed")
        yield Milestone("strip", "tape.keep_look", good, (), "tape_damaged")


def _repair(setup: Setup) -> Iterator[Milestone]:
    """By where it leaks; an unknown leak is found first."""
    # one that is flat is opened at once: no leak is found without air
    looked_for = setup.leak == "valve" or (setup.leak == "unknown" and setup.arrival.air)
    if setup.opens and not looked_for and (setup.opens_bead or not setup.tops_up):
        yield from _one_bead_opened(setup, "repair.patch" if setup.patches else "")
    elif setup.opens_bead:
        yield from _bead_cleaned(setup)
    else:
        yield from _repaired_from_outside(setup)
    yield from _watched(setup)


def _repaired_from_outside(setup: Setup) -> Iterator[Milestone]:
    """The beads stay on their seats, unless the sealant inside is too little and cannot be topped
    up through the valve.
    """
    repaired = {"unknown": "repair.find", "valve": "repair.valve", "tread": "repair.plug"}
    if setup.leak in repaired:
        yield once("strip", repaired[setup.leak])
    if setup.tops_up or not setup.opens:
        yield once("strip", "sealant.look", "sealant_low")
    if setup.opens:
        yield from _one_bead_opened(setup)
    elif setup.tops_up:
        yield from _through_the_valve(setup)
    else:
        yield _settled(setup, "strip")
    if setup.leak == "bead":  # most close that way
        yield once("hold", "repair.lay")
        yield once("hold", "repair.bead_look", "bead_leaks_on")


def _bead_cleaned(setup: Setup) -> Iterator[Milestone]:
    """One bead off its seat, cleaned and wetted, and seated again; the sealant stays in."""
    clean = conditions("did=rim.wipe")
    yield Milestone("strip", "bead.off_one", conditions("last=off"), clean)
    yield once("strip", "sealant.look", "sealant_low")
    yield from _tape_in_sight(setup)
    yield from _tire_that_stays(setup)
    yield once("strip", "rim.wipe")
    yield from _wetted(setup, "mount", conditions("last=on|seated"))
    yield Milestone("mount", "bead.refit", conditions("last=on|seated"))
    yield from _seated(setup, "seat")
    if setup.tops_up:
        yield from _through_the_valve(setup)
    else:
        yield _settled(setup, "seat")


def _back_to_tube(setup: Setup) -> Iterator[Milestone]:
    tube = conditions("tube=in")
    yield Milestone("strip", "strip.open_one", conditions("last=off"), tube)
    out = "strip.insert_out" if setup.insert != "none" else "strip.old_insert_out"
    yield Milestone("strip", out, conditions("insert=off"))
    yield Milestone("strip", "strip.sealant_out", conditions("sealant=none"))
    yield Milestone("strip", "strip.valve_out", conditions("valve=none"), tube)
    yield from _tape_in_sight(setup)
    yield once("strip", "tire.thorns", "thorns_left")
    if setup.boots:
        yield once("strip", "repair.boot")
    if setup.arrival.tire == "off":
        yield from _tire(setup)
        yield Milestone("mount", "bead.first", conditions("first=on|seated"))
    yield Milestone("mount", "tube.in", tube)
    yield from _wetted(setup, "mount", conditions("last=on|seated"))
    yield Milestone("mount", "bead.second", conditions("last=on|seated"))
    yield Milestone("seat", "seat.steps", conditions("first=seated", "last=seated"))
    yield Milestone("seat", "settle", conditions("air=up", "line=even", _seen_to_settle(setup)))
    yield once("set", "set.pressure")
    yield once("set", "set.sign")


def _watched(setup: Setup) -> Iterator[Milestone]:
    """Leak-tested as long as the work asks for, and handed over."""
    if setup.watch == "minutes":  # the beads stayed where they were
        yield once("hold", "hold.soap")
    else:
        yield once("hold", "spin.look", "bead_line_uneven")
        yield once("hold", "hold.shake")
        if setup.rests_flat:
            yield once("hold", "hold.flat_left")
            yield once("hold", "hold.flat_right")
        if setup.weeping:
            for n in range(1, TOP_UPS + 1):
                enough = "|".join(str(done) for done in range(n, MAX_TOP_UPS + 1))
                yield Milestone("hold", "hold.top_up", conditions(f"top_ups={enough}"))
    yield once("hold", "hold.read")
    yield once("set", "set.pressure")
    yield once("set", "set.weigh")
    yield once("set", "set.sign")


_WORK = {
    "convert": _tire_off_and_on,
    "tire_change": _tire_off_and_on,
    "retape": _tire_off_and_on,
    "insert": _tire_off_and_on,
    "refresh": _refresh,
    "repair": _repair,
    "back_to_tube": _back_to_tube,
}
