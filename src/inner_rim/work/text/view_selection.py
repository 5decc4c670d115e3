"""What a bench shows: the stage, the drawing, the question on the panel. Never stored."""

from typing import Literal, get_args

import msgspec

from inner_rim.core.record.stages import Stage
from inner_rim.work.editing.undo import Raised

#: What the panel asks for besides the wheel's next step.
Asking = Literal["", "low", "fleet", "print", "printer", "guide", "raise", "top_up"]
#: The pictures that a step may need.
Picture = Literal["section", "loupe", "wheel", "sectors", "finish", "trace", "plot"]
PICTURES: tuple[Picture, ...] = get_args(Picture)
#: What opens beside the step and goes away again.
Drawer = Literal["", "entries", "plan", "choices", "steps", "log", "actions", "keys"]


class LowPick(msgspec.Struct, frozen=True):
    """Sectors being marked as low before they are logged."""

    side: str
    left: frozenset[int] = frozenset()
    right: frozenset[int] = frozenset()

    def toggled(self, side: str, sector: int) -> "LowPick":
        changed = getattr(self, side) ^ {sector}
        return msgspec.structs.replace(self, side=side, **{side: changed})


class ViewSelection(msgspec.Struct, frozen=True):
    """What is shown and asked for.

    Attributes:
        stage: the stage whose inputs are shown.
        picture: a picture that was asked for, None for the one that the step needs.
        drawer: what is open beside the step, empty for nothing.
        why: the pick whose working is open, None for none.
        asking: what the panel asks for, empty for the wheel's next step.
        low: sectors being marked, where `asking` is "low".
        guide: where in troubleshooting the user is, where `asking` is "guide".
        fault: what was wrong with the last command, a sentence.
        sure: a figure that was asked about, and is logged when it comes again.
        raised: the limit that would be raised, where `asking` is "raise".
    """

    stage: Stage = "check_in"
    picture: Picture | None = None
    drawer: Drawer = ""
    why: int | None = None
    asking: Asking = ""
    low: LowPick | None = None
    bubbles: frozenset[tuple[str, int]] = frozenset()
    guide: str = ""
    fault: str = ""
    sure: str = ""
    raised: Raised | None = None

    def shut(self) -> "ViewSelection":
        """Return the same with nothing open beside the step."""
        return msgspec.structs.replace(self, drawer="", why=None)
