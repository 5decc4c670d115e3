"""A line of a list as the views show it, without knowing what it means."""

from collections.abc import Hashable
from typing import Literal

import msgspec

Tone = Literal["calm", "caution", "stop", "head", "muted"]


class FieldChoice(msgspec.Struct, frozen=True):
    """A field, and the value that a line would set; None only shows the way to the field."""

    path: str
    value: str | None = None


class LogChoice(msgspec.Struct, frozen=True):
    """Something seen, done or changed, which goes into the log."""

    what: Literal["leak", "ride", "care", "change", "ridden"]
    value: str
    side: Literal["left", "right"] | None = None


class ListLine(msgspec.Struct, frozen=True):
    """One line.

    Attributes:
        lead: a short word or figure before it.
        note: a second, quieter line.
        tone: head for a heading; else how the chip is colored.
        key: what the caller identifies it by; None where it cannot be chosen.
        share: a share from 0 to 1 that is shown as a bar below it, None for no bar.
        band: where that lies nine times in ten: a dot on a span in place of the bar.
    """

    title: str
    lead: str = ""
    note: str = ""
    right: str = ""
    chip: str = ""
    tone: Tone = "calm"
    key: Hashable = None
    share: float | None = None
    band: tuple[float, float] | None = None


def head(title: str, note: str = "") -> ListLine:
    return ListLine(title, note=note, tone="head")
