"""The physical state of a wheel: what is on it, and how (docs/job.md 1.2).

A fact is written `field=value`, a condition `field=value|value`; both are what an action needs and gives.
"""

from functools import cache
from typing import Literal

import msgspec

from inner_rim.core.procedure.facts import Fact, Facts

Bed = Literal["strip", "dirty", "wet", "dry", "taped", "sealed"]
Tape = Literal["none", "bad", "old", "laid", "sound", "not_needed"]
Bead = Literal["off", "partial", "on", "seated"]
YesNo = Literal["no", "yes"]


class WheelState(msgspec.Struct, frozen=True):
    """What state a wheel is in.

    Attributes:
        bed: the rim bed; `strip` is an old rim strip, `sealed` has no spoke holes.
        rim: whether the bare bed was inspected.
        tape: `old` was there before and is kept if it passes, `bad` has to come off, `sound` was inspected after it was
            laid or left in place.
        to_lay: strips of tape that still have to be laid.
        hole: the hole through the tape at the valve.
        tire: inspected, then wiped and ready to go on.
        first, last: the two beads; the last one is opened and closed.
        wet: whether the beads are lubricated.
        line: the molded line was seen even since the last inflation.
        settled: the molded line was seen even at the sealing pressure, since the beads were last seated.
        dry_test: the wheel was shown to hold without sealant, its beads to stay seated.
        ports: whether sealant can get past the insert; `yes` without one.
        top_ups: of a tire that weeps, since it was closed.
        did: codes of the actions that were done and that nothing has undone since.
    """

    bed: Bed = "strip"
    rim: Literal["unseen", "sound"] = "unseen"
    tape: Tape = "none"
    to_lay: int = 0
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
    settled: YesNo = "no"
    dry_test: Literal["open", "passed"] = "open"
    sealant: Literal["none", "in"] = "none"
    ports: YesNo = "yes"
    has_insert: YesNo = "no"
    top_ups: int = 0
    did: frozenset[str] = frozenset()

    def holds(self, fact: Fact) -> bool:
        """Whether a fact holds; `did=code` where the action of that code was done.

        >>> from inner_rim.core.procedure.facts import condition
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


def open_arrow(state: WheelState) -> dict[str, object]:
    """Return what a tire that came off leaves of its arrows: they are confirmed again where it has any."""
    return {
        name: "open" for name in ("arrow", "arrow_again") if getattr(state, name) != "none"
    }  # a tire without one needs none


@cache
def _changes(facts: Facts) -> dict[str, str | int]:
    return {field: int(values[0]) if field == "to_lay" else values[0] for field, values in facts}
