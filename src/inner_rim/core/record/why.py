"""The working behind a result, and sentences that carry their figures.

A sentence is kept as a template with canonical figures, so that it can be read in any unit; the
kind of a figure is the suffix of its name.
"""

from collections.abc import Mapping, Sequence

import msgspec

from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import METRIC, UnitChoice, kind_of, show
from inner_rim.words import N_, tr, with_mark

Value = float | int | str


class Message(msgspec.Struct, frozen=True):
    """A sentence with figures (or other sentences) in it, such as ``Message("needs {needed_mm}",
    {"needed_mm": 39.3})``.
    """

    text: str
    values: Mapping[str, "Value | Message"] = {}

    def read(self, choice: UnitChoice = METRIC) -> str:
        if not self.values:
            return tr(self.text)
        return tr(self.text).format(
            **{name: value_text(name, value, choice) for name, value in self.values.items()}
        )


class Why(msgspec.Struct, frozen=True, rename={"what_changes_it": "levers"}):
    """How a figure came about.

    Attributes:
        figures: inputs and intermediate results by their full name, canonical units.
        source: a published source, or "common practice", or "derived".
        others: what else was possible.
        what_changes_it: what would change it.
    """

    formula: str
    figures: Mapping[str, "Value | Message"]
    source: str
    others: tuple[Message, ...] = ()
    what_changes_it: str = ""


#: A placeholder where the working is made from the finished result.
NO_WHY = Why("", {}, "")
PRACTICE = N_("common practice, no published source")


def listed(items: Sequence[Message]) -> Message:
    """Return several things in one list.

    >>> listed([Message("height"), Message("rim range")]).read()
    'height, rim range'
    """
    first, *more = items
    for item in more:
        first = Message("{first}, {next}", {"first": first, "next": item})
    return first


def value_text(name: str, value: Value | Message, choice: UnitChoice = METRIC) -> str:
    """Return a named figure as text in the chosen unit.

    >>> value_text("limit_kpa", 340.0), value_text("width_ratio", 1.875), value_text("method", "contour")
    ('3.40 bar', '1.88', 'contour')
    """
    if isinstance(value, Message):
        return value.read(choice)
    if isinstance(value, str):
        return spoken(value) if value.isidentifier() else tr(value)
    kind = kind_of(name)
    if kind is not None:
        return show(value, kind, choice)
    return str(value) if isinstance(value, int) else with_mark(f"{value:.2f}")


#: Figures whose key in the plan document is not the word that is shown.
_SHOWN = {"school": "method"}


def label(name: str) -> str:
    """Return the words for a figure's name, without its unit.

    >>> label("internal_width_mm")
    'internal width'
    """
    kind = kind_of(name)
    bare = name[: -len(kind) - 1] if kind else _SHOWN.get(name, name)
    return spoken(bare)
