"""Facts of a wheel's state, written ``field=value`` or ``field=one|another`` in the tables of the procedure."""

from functools import cache
from typing import NamedTuple


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
