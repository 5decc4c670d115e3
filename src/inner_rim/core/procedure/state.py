"""The physical state of a wheel: what is on it, and how (docs/job.md 1.2).

A fact is written `field=value`, a condition `field=value|value`; both are what an action needs and
gives.
"""

from functools import cache
from typing import Literal, NamedTuple

import msgspec

from inner_rim.core.record.job import Remedy


class Fact(NamedTuple):
    """A field of the wheel's state, and the values of which one holds.

    >>> str(condition("last=off|partial"))
    'last=off|partial'
    """

    field: str
    values: tuple[str, ...]

    def __str__(self) -> str:
        return f"{self.field}={'|'.join(self.values)}"


Facts = tuple[Fact, ...]


@cache
def condition(text: str) -> Fact:
    """Return the fact that a text such as ``last=off|partial`` names."""
    field, _, values = text.partition("=")
    return Fact(field, tuple(values.split("|")))


def conditions(*given: str | Fact) -> Facts:
    """Return facts, each a text or one that was read before."""
    return tuple(condition(one) if isinstance(one, str) else one for one in given)


Bed = Literal["strip", "dirty", "wet", "dry", "taped", "sealed"]
Tape = Literal["none", "bad", "old", "laid", "sound", "not_needed"]
Bead = Literal["off", "partial", "on", "seated"]
YesNo = Literal["no", "yes"]


#: What is in `did` once a tube has seated the beads.
TUBE_SEATED = "tube.seated"


class WheelState(msgspec.Struct, frozen=True):
    """What state a wheel is in.

    Attributes:
        bed: the rim bed; `strip` is an old rim strip, `sealed` has no spoke holes.
        rim: whether the bare bed was inspected.
        tape: `old` was there before and is kept if it passes, `bad` has to come off, `sound` was
            inspected after it was laid or left in place.
        to_lay: strips of tape that still have to be laid.
        to_cover: strips of electrical tape that still go over it.
        hole: the hole through the tape at the valve.
        tire: inspected, then wiped and ready to go on.
        first, last: the two beads; the last one is opened and closed.
        wet: whether the beads are lubricated.
        line: the molded line was seen even since the last inflation.
        seen: pressure steps at which both sides were checked since the beads were last off their
            seats; one more than there are is the sealing pressure.
        stays: whether the beads were seen to stay seated with the air out; `passed` where a named
            person goes on although they do not.
        valve_at: where the valve was turned before the air is let out.
        ports: whether sealant can get past the insert; `yes` without one.
        injects_first: sealant is injected before the beads seat.
        top_ups: of a tire that weeps, since it was closed.
        wanted: what is to be changed before the next try.
        changed: what was changed since the last try.
        did: codes of the actions that were done and that nothing has undone since.
    """

    bed: Bed = "strip"
    rim: Literal["unseen", "sound"] = "unseen"
    tape: Tape = "none"
    to_lay: int = 0
    to_cover: int = 0
    hole: Literal["closed", "open"] = "closed"
    valve: Literal["none", "in", "tube"] = "none"
    core: Literal["in", "out"] = "in"
    insert: Literal["off", "on"] = "off"
    tire: Literal["unseen", "sound", "ready"] = "unseen"
    arrow: Literal["open", "confirmed", "none"] = "open"
    arrow_again: Literal["open", "confirmed", "none"] = "open"
    first: Bead = "off"
    last: Bead = "off"
    wet: YesNo = "no"
    tube: Literal["out", "in"] = "out"
    air: Literal["flat", "up"] = "flat"
    line: Literal["unseen", "even"] = "unseen"
    seen: int = 0
    stays: Literal["unseen", "yes", "passed"] = "unseen"
    valve_at: Literal["any", "top"] = "any"
    sealant: Literal["none", "in"] = "none"
    ports: YesNo = "yes"
    has_insert: YesNo = "no"
    injects_first: YesNo = "no"
    top_ups: int = 0
    wanted: frozenset[Remedy] = frozenset()
    changed: frozenset[Remedy] = frozenset()
    did: frozenset[str] = frozenset()

    @property
    def seated(self) -> bool:
        return self.first == self.last == "seated"

    @property
    def clear(self) -> YesNo:
        """Whether no sealant sprays out with the air: there is none, or the valve is at the top."""
        return "yes" if self.sealant == "none" or self.valve_at == "top" else "no"

    @property
    def injectable(self) -> YesNo:
        """Whether sealant may be injected: the beads stay on their seats with the air out, or have
        not seated yet where it goes in first.
        """
        first = self.injects_first == "yes" and "seated" not in (self.first, self.last)
        return "yes" if first or self.stays != "unseen" else "no"

    def holds(self, fact: Fact) -> bool:
        """Whether a fact holds; `did=code` where the action of that code was done.

        >>> from inner_rim.core.procedure.state import condition
        >>> WheelState(core="out").holds(condition("core=out")), WheelState().holds(condition("tape=sound|not_needed"))
        (True, False)
        """
        field, values = fact
        value = getattr(self, field)
        return values[0] in value if field == "did" else str(value) in values

    def after(self, facts: Facts) -> "WheelState":
        """Return the state with these facts true.

        >>> WheelState().after((Fact("core", ("out",)),)).core
        'out'
        """
        if not facts:
            return self
        return msgspec.structs.replace(self, **_changes(facts))


def after_moving(before: WheelState, state: WheelState) -> WheelState:
    """Return a state with what beads that left their seats, or never reached them, make of what was
    seen.

    A climb begins at the lowest step once a bead came off its seat, and once the air is out while
    it is off.
    """
    if state.seated and before.air == "up" and state.air == "flat" and state.stays == "passed":
        state = msgspec.structs.replace(state, first="on", last="on")
    if state.seated or not (before.seated or state.air == "flat"):
        return state
    stays: Literal["unseen", "passed"] = "passed" if state.stays == "passed" else "unseen"
    if not before.seated:
        return msgspec.structs.replace(state, seen=0, stays=stays)
    kept = frozenset(one for one in state.did if not one.startswith(BEADS_MOVED))
    return msgspec.structs.replace(state, seen=0, stays=stays, line="unseen", did=kept, top_ups=0)


#: Beginnings of what is looked at again once a bead was off its seat.
BEADS_MOVED = ("line.", "dry.", "spin.", "hold.")


def open_arrow(state: WheelState) -> dict[str, object]:
    """Return what a tire that came off leaves of its arrows: they are confirmed again where it has
    any.
    """
    # a tire without one needs none
    return {name: "open" for name in ("arrow", "arrow_again") if getattr(state, name) != "none"}


@cache
def _changes(facts: Facts) -> dict[str, str | int]:
    return {
        field: int(values[0]) if values[0].isdecimal() else values[0] for field, values in facts
    }
