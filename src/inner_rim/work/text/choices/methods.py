"""The methods of a figure side by side: what each gives, why one would take it, and which is used."""

from collections.abc import Mapping

from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.text.lines import FieldChoice, ListLine


def method_lines(
    field: str,
    names: Mapping[str, str],
    values: Mapping[str, float | None],
    used: str,
    kind: str,
    units: UnitChoice,
    without: str,
) -> list[ListLine]:
    """Return a line for each method.

    Args:
        field: the setting that chooses one, such as ``practice.tape_width``.
        kind: of the values, such as ``mm``.
    """
    return [
        ListLine(
            show(value, kind, units) if value is not None else without,
            tr(names[name]),
            note=tr(REASONS[name]),
            chip=tr("used") if name == used else "",
            key=FieldChoice(field, name),
        )
        for name, value in values.items()
    ]
