"""What is typed into a form and not accepted, kept so that nothing typed is lost; a part's form."""

from collections.abc import Callable, Iterable

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.operations import (
    JOB,
    SetField,
    UnacceptedText,
    as_typed,
    value_at,
    with_field,
)
from inner_rim.core.record.parts import KINDS, STOCK_KIND, Item, PartKind, edited_item, item_from
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.units import ROLL, UnitChoice
from inner_rim.work.editing.fields import Field, field, fields_of, text_of, value_of
from inner_rim.work.editing.settings import UNACCEPTED, Settings
from inner_rim.work.editing.shelf import ShelfBook

#: Reads what was typed into a field, and returns what stores it. Raises InputError where it is not
#: accepted.
Accept = Callable[[str, str, UnitChoice], Callable[[], object]]


class KeptTexts:
    """The texts of one form that are not accepted, each a setting of its own: two benches may type
    at once.
    """

    def __init__(self, settings: Settings, form: str) -> None:
        self._settings, self._form = settings, form

    def __getitem__(self, path: str) -> UnacceptedText | None:
        try:
            return msgspec.convert(self._settings.shop.get(self._name(path)), UnacceptedText)
        except msgspec.ValidationError:
            return None

    def __setitem__(self, path: str, typed: UnacceptedText | None) -> None:
        self._settings.set_shop(self._name(path), msgspec.to_builtins(typed))

    def _name(self, path: str) -> str:
        return f"{UNACCEPTED}{self._form}.{path}"


class FormDraft:
    """A form whose fields are stored as soon as they are accepted."""

    def __init__(self, settings: Settings, form: str, accept: Accept) -> None:
        self._settings, self._accept = settings, accept
        self._texts = KeptTexts(settings, form)

    def type_into(self, path: str, text: str) -> None:
        typed = as_typed(text, self._settings.own.units)
        try:
            store = self._accept(path, typed.text, typed.units)
        except InputError:
            self._texts[path] = typed
        else:
            store()
            self._texts[path] = None

    def text(self, path: str, accepted: str) -> str:
        """Return what the field shows: what is typed, or else the text of the accepted value."""
        typed = self._texts[path]
        return typed.text if typed is not None else accepted

    def problems(self, paths: Iterable[str]) -> list[tuple[str, str]]:
        """Return (path, sentence) of each field whose text is not accepted."""
        result = []
        for path in paths:
            typed = self._texts[path]
            if typed is not None:
                try:
                    self._accept(path, typed.text, typed.units)
                except InputError as fault:
                    result.append((path, fault.sentence))
        return result


#: Fields of every part; the others are the figures of its kind.
OWN = ("stock", "low_at")


class PartDraft:
    """A part and what is typed into its fields.

    An accepted figure of a part that is on the shelf is stored at once, as an edit of that figure.
    A count is taken when the field is left, against the level that was seen when it began. A new
    part is on the shelf as soon as it has what its kind needs and a field is left.

    Args:
        settings: of the shop; they keep what is typed and not accepted.
        say: shows why something is not accepted.
        stored: called once a new part is on the shelf.
    """

    def __init__(
        self,
        settings: Settings,
        shelf: ShelfBook,
        kind: PartKind,
        item: Item | None,
        say: Callable[[InputError | None], None],
        stored: Callable[[Item], None],
    ) -> None:
        self._settings, self._shelf, self.kind, self.item = settings, shelf, kind, item
        self._say, self._on_stored = say, stored
        self._seen: float | None = None
        self._sent: dict[str, UnacceptedText] | None = None  # of a new part on its way to the store

    @property
    def texts(self) -> KeptTexts:
        """What is typed and not accepted; of a new part all that is typed."""
        part = self.item.item_id if self.item is not None else f"new.{self.kind}"
        return KeptTexts(self._settings, f"part.{part}")

    def fields(self) -> list[Field]:
        """Return the fields in their order: name, stock, then the figures of the kind."""
        ordered = sorted(fields_of(KINDS[self.kind]), key=lambda spec: spec.path != "name")
        kind = STOCK_KIND.get(self.kind)
        own = [msgspec.structs.replace(field(name, Item), kind=kind) for name in OWN]
        figures = [
            msgspec.structs.replace(spec, kind=ROLL) if spec.path == "roll_length_mm" else spec
            for spec in ordered[1:]
        ]
        return [ordered[0], *own, *figures]

    def text(self, spec: Field) -> str:
        typed = self.texts[spec.path]
        return (
            typed.text if typed else text_of(spec, self._value(spec.path), self._settings.own.units)
        )

    def _value(self, path: str) -> object:
        if self.item is None:
            return None
        return getattr(self.item, path) if path in OWN else value_at(self.item.spec, path)

    def problem(self) -> InputError | None:
        for spec in self.fields():
            typed = self.texts[spec.path]
            if typed is not None:
                try:
                    _value_in(spec, typed)
                except InputError as fault:
                    return fault
        return None

    # -- typing ----------------------------------------------------------------------------------

    def type_into(self, spec: Field, text: str) -> None:
        """Take what was typed into a field: stored where it is accepted, kept where it is not."""
        typed = as_typed(text, self._settings.own.units)
        if spec.path == "stock" and self._seen is None and self.item is not None:
            self._seen = self.item.stock
        if self.item is None or spec.path == "stock":
            self.texts[spec.path] = typed
        else:
            self._edit(self.item, spec, typed)

    def _edit(self, item: Item, spec: Field, typed: UnacceptedText) -> None:
        path = spec.path if spec.path in OWN else f"spec.{spec.path}"
        try:
            value = _value_in(spec, typed)
            old = self._value(spec.path)
            operation = SetField("", path, value, old)
            item_from(item.kind, edited_item(item, [operation])[0].spec)
        except InputError as fault:
            self.texts[spec.path] = typed
            self._say(fault)
            return
        self._say(None)
        self.texts[spec.path] = None
        if value != old and item.item_id is not None:
            self.item = edited_item(item, [operation])[0]
            self._shelf.edit(
                item.item_id, [operation], failed=lambda words: self._say(InputError(words))
            )

    def leave(self) -> None:
        """A field was left: a count is taken, a new part goes onto the shelf if it is whole."""
        if self.item is None:
            self._add()
            return
        typed = self.texts["stock"]
        spec = next(spec for spec in self.fields() if spec.path == "stock")
        if typed is None or self.item.item_id is None:
            return
        try:
            level = float(str(_value_in(spec, typed) or 0.0))
        except InputError as fault:
            self._say(fault)
            return
        seen = self._seen if self._seen is not None else self.item.stock
        self._seen = None
        self.texts["stock"] = None
        self._say(None)
        self._shelf.count(self.item.item_id, level, seen)

    def _add(self) -> None:
        typed = {known: text for known in self.fields() if (text := self.texts[known.path])}
        if self._sent is not None or not any(text.text.strip() for text in typed.values()):
            return
        spec: JsonObject = {}
        own: JsonObject = {}
        try:
            for known, text in typed.items():
                value = _value_in(known, text)
                if value is not None and known.path in OWN:
                    own[known.path] = value
                elif value is not None:
                    spec = with_field(spec, JOB, known.path, value)
            item = item_from(self.kind, spec, **own)
        except InputError as fault:
            self._say(fault)
            return
        self._sent = {known.path: text for known, text in typed.items()}
        self._shelf.add(item, failed=self._refused, done=self._added)

    def _refused(self, sentence: str) -> None:
        self._sent = None
        self._say(InputError(sentence, "name"))

    def _added(self, item: Item) -> None:
        sent, self._sent = self._sent or {}, None
        now = {spec.path: self.texts[spec.path] for spec in self.fields()}
        for spec in self.fields():
            self.texts[spec.path] = None
        self.item = item
        self._say(None)
        for spec in self.fields():
            text = now[spec.path]
            if text is not None and text != sent.get(
                spec.path
            ):  # typed while the part was on its way
                self.type_into(spec, text.text)
        self._on_stored(item)


def _value_in(spec: Field, typed: UnacceptedText) -> object:
    """Return the value of a field's text.

    Raises:
        InputError: not accepted; its path is the field's.
    """
    try:
        return value_of(spec, typed.text, typed.units)
    except InputError as fault:
        raise InputError(fault.sentence, spec.path) from fault
