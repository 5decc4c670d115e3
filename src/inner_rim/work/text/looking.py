"""What a bench looks at: the stage, the drawing, the question on the panel. Never stored."""

from typing import Literal, get_args

import msgspec

from inner_rim.core.record.stages import Stage
from inner_rim.work.editing.undo import Raised

#: What the panel asks for besides the wheel's next step.
Asking = Literal["", "low", "fleet", "print", "printer", "guide", "raise"]
#: The drawings and lists beside the inputs, in their order.
Drawing = Literal["section", "loupe", "wheel", "finish", "trace", "plot", "choices", "steps", "log"]
DRAWINGS: tuple[Drawing, ...] = get_args(Drawing)


class LowPick(msgspec.Struct, frozen=True):
    """Sectors being marked as low before they are logged."""

    side: str
    left: frozenset[int] = frozenset()
    right: frozenset[int] = frozenset()

    def toggled(self, side: str, sector: int) -> "LowPick":
        """Return the pick with a sector turned over, that side being the one keys go to."""
        changed = getattr(self, side) ^ {sector}
        return msgspec.structs.replace(self, side=side, **{side: changed})


class Looking(msgspec.Struct, frozen=True):
    """What is looked at and asked for.

    Attributes:
        stage: the stage whose inputs are shown.
        drawing: the drawing or list beside them.
        why: the pick whose working is open, None for none.
        asking: what the panel asks for, empty for the wheel's next step.
        low: sectors being marked, where `asking` is "low".
        guide: where in the problem guide the user is, where `asking` is "guide".
        fault: what was wrong with the last command, a sentence.
        raised: the limit that would be raised, where `asking` is "raise".
    """

    stage: Stage = "check_in"
    drawing: Drawing = "section"
    why: int | None = None
    asking: Asking = ""
    low: LowPick | None = None
    guide: str = ""
    fault: str = ""
    raised: Raised | None = None

    def plain(self) -> "Looking":
        """Return the same with nothing asked and nothing wrong."""
        return msgspec.structs.replace(self, asking="", low=None, guide="", fault="", raised=None)


def beside_of(kept: str) -> Drawing:
    """Return the drawing that stands beside the first: the one that was kept, else the loupe."""
    return next((name for name in DRAWINGS if name == kept), "loupe")
