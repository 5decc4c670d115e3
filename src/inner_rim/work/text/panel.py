"""What the step panel can say, as plain data: a head, an action, cautions, answers, entries."""

from datetime import datetime
from typing import Literal

import msgspec

from inner_rim.core.record.parts import Item
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.hours import Hours
from inner_rim.core.schedule.promised import Promise
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.asks import Ask, AskName, asks


class Answer(msgspec.Struct, frozen=True):
    """A button of the panel.

    Attributes:
        words: where they are not the command's own title.
        checked: whether it is pressed in; None for a button that does not stay in.
        number: the digit that gives it, 0 for none.
        enter: where it is the first, Enter gives it. Enter confirms work and nothing else: it skips no wait, answers
            no question that can stop the job, passes no stop, makes no second wheel.
    """

    command: str
    words: str = ""
    checked: bool | None = None
    enter: bool = True
    number: int = 0


class PanelContext(msgspec.Struct, frozen=True):
    """What the words depend on besides the wheel.

    Attributes:
        units: what figures are shown in.
        pace: whether one answer confirms all plain steps up to the next question, or each is confirmed by itself.
        promise: when the wheel can be promised, None while it is not known.
        hours: when the shop is open, None where that is not asked.
        held: a gauge has shown the step's pressure for two seconds.
        lost: the wheel in hand that another window took off the bench, empty for none.
        items: what is on the shelf.
    """

    units: UnitChoice
    time: datetime
    pace: Literal["stage", "step"] = "stage"
    promise: Promise | None = None
    cursor: str = ""
    hours: Hours | None = None
    held: bool = False
    lost: str = ""
    signed_by: str = ""
    items: tuple[Item, ...] = ()

    def asks(self, state: PlannedWheel, *names: AskName) -> tuple[Ask, ...]:
        return asks(state, self.units, self.time, self.signed_by, *names)


class Now(msgspec.Struct, frozen=True):
    """The content of the step panel.

    Attributes:
        head: the stage and how far it is.
        cautions: said before the hand acts.
        answers: its buttons, the first one the main action.
        asks: what is typed with them, one entry each.
        more: what else is to be known: a verdict, what a wait is for.
        quiet: the wheel's physical state.
    """

    head: str
    action: str
    cautions: list[str]
    answers: tuple[Answer, ...]
    asks: tuple[Ask, ...] = ()
    more: tuple[str, ...] = ()
    quiet: str = ""


BACK = Answer("back")


def with_state(now: Now, quiet: str) -> Now:
    return msgspec.structs.replace(now, quiet=quiet)
