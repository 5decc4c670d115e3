"""Check-in in one go: a typed line, or how the wheel came in, fills its fields."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.line_entry import ParsedLine, Understood, read_due, read_line
from inner_rim.core.record.moments import in_words, naive_local
from inner_rim.core.record.sizes import parse_size
from inner_rim.words import N_, tr
from inner_rim.work.editing.draft import DAY_FIELDS
from inner_rim.work.editing.editor import FACTS, NOT_SAID
from inner_rim.work.text.stage_fields import choice_words, field_label

if TYPE_CHECKING:
    from inner_rim.work.bench import Bench


def say_line(bench: Bench, text: str) -> str:
    """Type what a line says into the fields of the selected wheel, in one step to take back.

    Returns:
        What was not understood; the caller leaves it where it was typed.
    """
    if bench.current is None or not text.strip():
        return text
    line = read_line(text, naive_local(bench.time))
    with bench.history.grouped():
        for one in (*line.understood, *_rim_of(bench, line)):
            bench.editor.type_into(one.path, one.text)
    bench.say(line_words(line))
    return line.left


def _rim_of(bench: Bench, line: ParsedLine) -> tuple[Understood, ...]:
    """The rim's diameter, taken from the tire where the line has a tire and no rim diameter: the
    two must match.
    """
    state, seat = bench.current, "rim.bead_seat_diameter_mm"
    said = {one.path: one.text for one in line.understood}
    if state is None or state.value(seat) is not None or "rim.internal_width_mm" not in said:
        return ()
    try:
        size = parse_size(said.get("tire.size", ""))
    except InputError:
        return ()
    return (Understood(seat, f"{size.bead_seat_diameter_mm:g} mm", said["tire.size"]),)


#: Names of fields whose own one needs the heading above it.
_ALONE = {"rim.well.depth_mm": N_("Well depth")}


def heard(text: str, now: datetime) -> tuple[tuple[tuple[str, str], ...], str]:
    """Return what a line is understood to say while it is typed: fields with their names, in the
    line's order, and what is left.
    """
    line = read_line(text, now)
    in_order = sorted(line.understood, key=lambda one: text.lower().find(one.said.lower()))
    fields = tuple(
        (tr(_ALONE.get(one.path, "")) or field_label(one.path), _heard_value(one))
        for one in in_order
    )
    return fields, line.left


def _heard_value(one: Understood) -> str:
    if one.path in DAY_FIELDS:
        try:
            return in_words(datetime.fromisoformat(one.text), "%a %d %b %H:%M")
        except ValueError:
            return one.text
    return choice_words(one.path, one.text)


def line_words(line: ParsedLine) -> str:
    said = ", ".join(dict.fromkeys(one.said for one in line.understood))
    understood = tr("Understood: {said}.").format(said=said) if said else tr("Nothing understood.")
    if not line.left:
        return understood
    return understood + " " + tr("Not understood: “{left}”.").format(left=line.left[:80])


def type_into(bench: Bench, path: str, text: str) -> None:
    """Take what was typed or chosen in a field; how a wheel came in goes into several, in one step
    to take back.
    """
    if path in DAY_FIELDS:
        text = read_due(text, naive_local(bench.time)) or text
    if path != "arrival":
        bench.editor.type_into(path, text)
        return
    with bench.history.grouped():
        for name, value in FACTS.get(text, NOT_SAID).items():
            bench.editor.type_into(f"arrival.{name}", value)


def end_of_typing(bench: Bench) -> None:
    """A field was left: where the tire's size is known and the rim's diameter is not, it is the
    tire's.
    """
    state = bench.current
    if state is not None and state.value("rim.bead_seat_diameter_mm") is None:
        try:
            size = parse_size(str(state.value("tire.size") or ""))
        except InputError:
            pass
        else:
            bench.editor.type_into(
                "rim.bead_seat_diameter_mm", f"{size.bead_seat_diameter_mm:g} mm"
            )
    bench.editor.end_of_typing()
