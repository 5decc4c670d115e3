"""What was taken back or done again, in one sentence; and what is asked before a limit is raised by
it.
"""

from collections.abc import Callable, Iterable

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.log import TakenBack
from inner_rim.core.record.operations import AddWheel, Operation, RemoveWheel, SetDraft, SetField
from inner_rim.core.record.parts import Item
from inner_rim.core.record.paths import group_of, name_of
from inner_rim.core.record.practice import QUESTIONS
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.record.why import label
from inner_rim.words import N_, sentence_case, tr, with_mark
from inner_rim.work.editing.fields import field, text_of
from inner_rim.work.editing.history import (
    Counted,
    Deed,
    FieldsEdited,
    Moved,
    PartAdded,
    Recorded,
    Set,
)
from inner_rim.work.editing.state import in_wheel
from inner_rim.work.editing.undo import Undone
from inner_rim.work.text.log_words import entry_text
from inner_rim.work.text.shelf_lines import amount_text
from inner_rim.work.text.stage_fields import field_label

#: Finds a part of the shelf by its identity.
FindItem = Callable[[str], Item | None]

REFUSED = {
    "off_bench": N_("Its job is off the bench. Put it back from the logbook first."),
    "logged": N_("The wheel has log entries. Take it off the bench instead."),
    "changed": N_("Another window changed it since."),
    "last": N_("It is the only wheel of its job. Take it off the bench instead."),
    "gone": N_("It is not there any more."),
}


def undone_text(undone: Undone, units: UnitChoice, item: FindItem) -> str:
    """Return what happened when a step was taken back or done again, and how to go the other way."""
    if not undone.deeds:
        return tr("Nothing to do again") if undone.again else tr("Nothing to undo")
    what = deed_text(undone.deeds[-1], units, item)
    if undone.left and undone.refused:
        return tr("Left as it is: {fields} changed in another window since.").format(
            fields=_labels(undone.left)
        )
    if undone.refused:
        return tr("Cannot undo “{what}”. {why}").format(what=what, why=tr(REFUSED[undone.refused]))
    if undone.again:
        said = tr("Done again: {what}. Ctrl+Z takes it back.").format(what=what)
    else:
        said = tr("Undone: {what}. Ctrl+Shift+Z does it again.").format(what=what)
    if undone.left:
        said += " " + tr("Left as it is: {fields} changed in another window since.").format(
            fields=_labels(undone.left)
        )
    return said


def _labels(paths: Iterable[str]) -> str:
    return ", ".join(field_label(path) for path in paths)


def deed_text(deed: Deed, units: UnitChoice, item: FindItem) -> str:
    if isinstance(deed, FieldsEdited):
        return _edited(deed.operations, units)
    if isinstance(deed, Recorded):
        entries = [one.entry for one in deed.entries if not isinstance(one.entry, TakenBack)]
        return entry_text(entries[-1], units) if entries else tr("log entry")
    if isinstance(deed, Set):
        return _setting(deed)
    if isinstance(deed, Moved):
        return (tr("{name} on the bench") if deed.on else tr("{name} off the bench")).format(
            name=deed.name
        )
    if isinstance(deed, PartAdded):
        return tr("new part {name}").format(name=deed.item.name)
    part = item(deed.item_id)
    name = part.name if part is not None else tr("a part")
    if isinstance(deed, Counted):
        amount = (
            amount_text(part.kind, abs(deed.by), units)
            if part is not None
            else with_mark(f"{abs(deed.by):g}")
        )
        sign = "+" if deed.by > 0.0 else "−"
        return tr("count of {name}, {amount}").format(name=name, amount=f"{sign}{amount}")
    fields = ", ".join(
        label(one.path.removeprefix("spec.").replace(".", " ")) for one in deed.operations
    )
    return tr("{name}, {fields}").format(name=name, fields=fields)


def _edited(operations: tuple[Operation, ...], units: UnitChoice) -> str:
    added = [one for one in operations if isinstance(one, AddWheel)]
    if added:
        if len(added) > 1:
            return tr("{n} wheels added").format(n=len(added))
        return tr("{name} added").format(name=added[0].wheel.get("name") or tr("wheel"))
    removed = next((one for one in operations if isinstance(one, RemoveWheel)), None)
    if removed is not None:
        return tr("{name} removed").format(name=removed.base.get("name") or tr("wheel"))
    sets = [one for one in operations if isinstance(one, SetField)]
    if len(sets) == 1:
        return _value(sets[0].path, sets[0].value, units)
    if not sets:
        drafts = [one for one in operations if isinstance(one, SetDraft)]
        return ", ".join(tr("{field} “{typed}”").format(
            field=field_label(one.path), typed=one.value.text[:30] if one.value is not None else "")
            for one in drafts[:2])  # fmt: skip
    name = next((str(one.value) for one in sets if one.path.endswith(".name") and one.value), "")
    return f"{sentence_case(label(group_of(sets[0].path)))} {name}".strip()


def _value(path: str, value: object, units: UnitChoice) -> str:
    spec = field(f"wheels[0].{path}" if in_wheel(path) else path)
    unit = units.unit(spec.kind).symbol if spec.kind else ""
    try:
        text = text_of(spec, value, units)
    except (InputError, TypeError, ValueError):
        text = str(value)
    if not text:
        return tr("{field} emptied").format(field=field_label(path))
    return f"{field_label(path)} {text} {unit}".strip()


def _setting(deed: Set) -> str:
    group, name = group_of(deed.name), name_of(deed.name)
    question = next((one for one in QUESTIONS if group == "practice" and one.field == name), None)
    if group == "pin":
        return tr("a task pinned") if deed.after is not None else tr("a task unpinned")
    if isinstance(deed.after, dict | list):
        return tr("shop setup, {name}").format(name=label(name))
    value = tr("the usual") if deed.after is None else spoken(str(deed.after))
    words = tr(question.words) if question is not None else sentence_case(label(name)) + ":"
    return f"{words} {value}"
