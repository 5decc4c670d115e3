"""What a bench shows: the stage, the drawing, the question on the panel. Never stored."""

from typing import Literal, get_args

import msgspec

from inner_rim.core.record.stages import Stage
from inner_rim.work.text.questions import LowSpots, Question

#: The pictures that a step may need.
Picture = Literal["section", "loupe", "wheel", "sectors", "finish", "trace", "plot"]
PICTURES: tuple[Picture, ...] = get_args(Picture)
#: What opens beside the step and goes away again.
Drawer = Literal["", "entries", "plan", "choices", "steps", "log", "actions", "keys"]


class ViewSelection(msgspec.Struct, frozen=True):
    """What is shown and asked for.

    Attributes:
        stage: the stage whose inputs are shown.
        picture: a picture that was asked for, None for the one that the step needs.
        drawer: what is open beside the step, empty for nothing.
        why: the pick whose working is open, None for none.
        question: what the panel asks, None for the wheel's next step.
        fault: what was wrong with the last command, a sentence.
        sure: a figure that was asked about, and is logged when it comes again.
    """

    stage: Stage = "check_in"
    picture: Picture | None = None
    drawer: Drawer = ""
    why: int | None = None
    question: Question | None = None
    bubbles: frozenset[tuple[str, int]] = frozenset()
    fault: str = ""
    sure: str = ""

    @property
    def low(self) -> LowSpots | None:
        """The sectors that are being marked."""
        return self.question if isinstance(self.question, LowSpots) else None

    def shut(self) -> "ViewSelection":
        """Return the same with nothing open beside the step."""
        return msgspec.structs.replace(self, drawer="", why=None)
