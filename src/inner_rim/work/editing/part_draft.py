"""One part on the shelf while it is being typed: stored as typed, what is not accepted kept beside it."""

from collections.abc import Callable

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.operations import SetField, UnacceptedText, value_at
from inner_rim.core.record.parts import KINDS, STOCK_KIND, Item, PartKind, edited_item, item_from
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.texts import cleaned
from inner_rim.core.record.units import CUT_LENGTH
from inner_rim.work.editing.draft import MOST_TYPED
from inner_rim.work.editing.fields import Field, field, fields_of, text_of, value_of
from inner_rim.work.editing.settings import Settings
from inner_rim.work.editing.shelf import ShelfBook

#: Fields of every part; the others are the figures of its kind.
OWN = ("stock", "low_at")


class PartDraft:
    """A part and what is typed into its fields.

    An accepted figure of a part that is on the shelf is stored at once, as an edit of that figure. A count is
    taken when the hand leaves the field, against the level that was seen when it began. A new part is on
    the shelf as soon as it has what its kind needs and the hand leaves a field.

    Args:
        settings: of the shop; they keep what is typed and not accepted.
        say: shows why something is not accepted.
        stored: hears that a new part is on the shelf.
    """

    def __init__(
        self,
        settings: Settings,
        shelf: ShelfBook,
        kind: PartKind,
        item: Item | None,
        say: Callable[[str], None],
        stored: Callable[[Item], None],
    ) -> None:
        self._settings, self._shelf, self.kind, self.item = settings, shelf, kind, item
        self._say, self._on_stored = say, stored
        self._seen: float | None = None
        self._sending = False
        self.typed = self._kept()

    @property
    def _key(self) -> str:
        return f"part.{self.item.item_id if self.item is not None else f'new.{self.kind}'}"

    def _kept(self) -> dict[str, UnacceptedText]:
        try:
            return msgspec.convert(
                self._settings.shop.get(f"typed.{self._key}") or {}, dict[str, UnacceptedText]
            )
        except msgspec.ValidationError:
            return {}

    def _keep(self) -> None:
        plain = {path: msgspec.to_builtins(typed) for path, typed in self.typed.items()}
        self._settings.set_shop(f"typed.{self._key}", plain or None)

    def fields(self) -> list[Field]:
        """Return the fields in their order: name, stock, then the figures of the kind."""
        ordered = sorted(fields_of(KINDS[self.kind]), key=lambda spec: spec.path != "name")
        kind = STOCK_KIND.get(self.kind)
        own = [msgspec.structs.replace(field(name, Item), kind=kind) for name in OWN]
        figures = [
            msgspec.structs.replace(spec, kind=CUT_LENGTH) if spec.path == "roll_length_mm" else spec
            for spec in ordered[1:]
        ]
        return [ordered[0], *own, *figures]

    def text(self, spec: Field) -> str:
        typed = self.typed.get(spec.path)
        return (
            typed.text
            if typed is not None
            else text_of(spec, self._value(spec.path), self._settings.own.units)
        )

    def _value(self, path: str) -> object:
        if self.item is None:
            return None
        return getattr(self.item, path) if path in OWN else value_at(self.item.spec, path)

    def problem(self) -> str:
        for spec in self.fields():
            typed = self.typed.get(spec.path)
            if typed is not None:
                try:
                    value_of(spec, typed.text, typed.units)
                except InputError as fault:
                    return f"{spec.path}\t{fault.sentence}"
        return ""

    # -- typing ----------------------------------------------------------------------------------

    def type_into(self, spec: Field, text: str) -> None:
        """Take what was typed into a field: stored where it is accepted, kept where it is not."""
        typed = UnacceptedText(cleaned(text)[:MOST_TYPED], self._settings.own.units)
        if spec.path == "stock" and self._seen is None and self.item is not None:
            self._seen = self.item.stock
        self.typed[spec.path] = typed
        if self.item is None or spec.path == "stock":
            self._keep()
        else:
            self._edit(self.item, spec, typed)

    def _edit(self, item: Item, spec: Field, typed: UnacceptedText) -> None:
        path = spec.path if spec.path in OWN else f"spec.{spec.path}"
        try:
            value = value_of(spec, typed.text, typed.units)
            old = self._value(spec.path)
            operation = SetField("", path, value, old)
            item_from(item.kind, edited_item(item, [operation])[0].spec)
        except InputError as fault:
            self._keep()
            self._say(f"{fault.path or spec.path}\t{fault.sentence}")
            return
        self._say("")
        had = self._key in self._settings.shop or len(self.typed) > 1
        del self.typed[spec.path]
        if had:
            self._keep()
        if value != old and item.item_id is not None:
            self.item = edited_item(item, [operation])[0]
            self._shelf.edit(item.item_id, [operation], failed=lambda sentence: self._say(f"\t{sentence}"))

    def leave(self) -> None:
        """The hand has left a field: a count is taken, a new part goes onto the shelf if it is whole."""
        if self.item is None:
            self._add()
            return
        typed = self.typed.get("stock")
        spec = next(spec for spec in self.fields() if spec.path == "stock")
        if typed is None or self.item.item_id is None:
            return
        try:
            level = float(str(value_of(spec, typed.text, typed.units) or 0.0))
        except InputError as fault:
            self._say(f"stock\t{fault.sentence}")
            return
        seen = self._seen if self._seen is not None else self.item.stock
        self._seen = None
        del self.typed["stock"]
        self._keep()
        self._say("")
        self._shelf.count(self.item.item_id, level, seen)

    def _add(self) -> None:
        if self._sending or not any(typed.text.strip() for typed in self.typed.values()):
            return
        spec: JsonObject = {}
        own: JsonObject = {}
        for known in self.fields():
            typed = self.typed.get(known.path)
            if typed is None:
                continue
            try:
                value = value_of(known, typed.text, typed.units)
            except InputError as fault:
                self._say(f"{known.path}\t{fault.sentence}")
                return
            outer, _, inner = known.path.partition(".")
            if value is None:
                continue
            if known.path in OWN:
                own[known.path] = value
            elif inner:
                spec.setdefault(outer, {})[inner] = value
            else:
                spec[outer] = value
        try:
            item = item_from(self.kind, spec, **own)
        except InputError as fault:
            self._say(f"{fault.path}\t{fault.sentence}")
            return
        self._sending = True
        self._shelf.add(item, failed=self._refused, done=self._added)

    def _refused(self, sentence: str) -> None:
        self._sending = False
        self._say(f"name\t{sentence}")

    def _added(self, item: Item) -> None:
        self._sending = False
        self.typed = {}
        self._keep()
        self.item = item
        self._say("")
        self._on_stored(item)
