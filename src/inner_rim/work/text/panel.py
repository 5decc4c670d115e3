"""What the now panel can say, as plain data: a head, an action, cautions, answers, entries."""

from datetime import datetime

import msgspec

from inner_rim.core.record.log import Remedy
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.promised import Promise


class Answer(msgspec.Struct, frozen=True):
    """A button of the panel: the command it gives, its words where they are not the command's own title,
    whether it is pressed in. The first answer is the main one: Enter gives it.
    """

    command: str
    words: str = ""
    checked: bool | None = None


class Around(msgspec.Struct, frozen=True):
    """What the words depend on besides the wheel.

    Attributes:
        units: what figures are shown in.
        time: the time now.
        changed: what was changed since the last attempt.
        promise: when the wheel can be promised, None while it is not known.
    """

    units: UnitChoice
    time: datetime
    changed: tuple[Remedy, ...] = ()
    promise: Promise | None = None


class Now(msgspec.Struct, frozen=True):
    """The content of the now panel; `figure`, `reason` and `signature` label entries, empty for none."""

    head: str
    action: str
    cautions: list[str]
    answers: tuple[Answer, ...]
    figure: str = ""
    signature: str = ""
    reason: str = ""


BACK = Answer("back")


def with_state(now: Now, quiet: str) -> Now:
    """Return what the panel says with the wheel's physical state behind its head."""
    return msgspec.structs.replace(now, head=f"{now.head}   ·   {quiet}" if quiet else now.head)
