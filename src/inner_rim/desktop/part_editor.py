"""The figures of one part on the shelf: fields that are checked as they are typed, stored when left."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.errors import InputError
from inner_rim.core.parts import KIND_WORDS, KINDS, STOCK_KIND, Item, item_from
from inner_rim.core.why import label
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.fields import Field, field, fields_of, text_of, value_of

from .choices import Choices
from .entry import Entry
from .theme import TARGET_PX, Theme


class PartEditor(QWidget):
    """Edits a part, or a new one until it has what its kind needs."""

    def __init__(self, bench: Bench, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench, self._theme = bench, theme
        self._item: Item | None = None
        self._kind = ""
        self._spec: dict[str, Any] = {}
        self._drafts: dict[str, str] = {}
        self._rows: dict[str, tuple[Field, Entry | Choices]] = {}
        self._title = QLabel("")
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        self._fault = QLabel("")
        self._fault.setWordWrap(True)
        self._fault.setProperty("role", "stop")
        self._retire = QPushButton("")
        self._retire.clicked.connect(self._turn_retired)
        self._page = QScrollArea()
        self._page.setWidgetResizable(True)
        self._page.setFrameShape(QFrame.Shape.NoFrame)
        self._page.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._page.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(theme.px(12), theme.px(8), theme.px(8), theme.px(8))
        column.addWidget(self._title)
        column.addWidget(self._fault)
        column.addWidget(self._page, 1)
        column.addWidget(self._retire)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        self._theme = theme
        self._title.setFont(theme.font(18, 600))
        self._fault.setFont(theme.font(13))
        self._retire.setFixedHeight(theme.px(TARGET_PX))
        if self._kind:
            self._build()

    @property
    def item(self) -> Item | None:
        """The part that is shown; None for a new one or for none."""
        return self._item

    def show_item(self, item: Item | None) -> None:
        """Show a part; what was typed and not accepted in another one is left behind."""
        if item is not None and self._item is not None and item.item_id == self._item.item_id:
            if item != self._item:
                self._item, self._spec = item, dict(item.spec)
                self._fill()
            return
        self._item = item
        self._drafts = {}
        self._kind = item.kind if item else ""
        self._spec = dict(item.spec) if item else {}
        self._build()

    def begin(self, kind: str) -> None:
        """Begin a new part of a kind."""
        self._item, self._kind, self._spec, self._drafts = None, kind, {}, {}
        self._build()
        first = self._rows["name"][1]
        assert isinstance(first, Entry)
        first.setFocus()

    def _build(self) -> None:
        self._rows = {}
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, self._theme.px(6), 0)
        grid.setVerticalSpacing(self._theme.px(3))
        if self._kind:
            names = fields_of(KINDS[self._kind])  # type: ignore[index]
            ordered = sorted(names, key=lambda spec: spec.path != "name")
            stock = [self._stock_field("stock"), self._stock_field("low_at")]
            for row, spec in enumerate([ordered[0], *stock, *ordered[1:]]):
                self._add_row(grid, row, spec)
        grid.setRowStretch(grid.rowCount(), 1)
        self._page.setWidget(page)
        self._fill()

    def _stock_field(self, name: str) -> Field:
        import msgspec

        kind = STOCK_KIND.get(self._kind)  # type: ignore[call-overload]
        return msgspec.structs.replace(field(name, Item), kind=kind)

    def _add_row(self, grid: QGridLayout, row: int, spec: Field) -> None:
        words = field_words(spec.path)
        name = QLabel(tr(words))
        name.setProperty("role", "muted")
        grid.addWidget(name, row, 0)
        widget: Entry | Choices
        if spec.choices:
            widget = Choices(tr(words), {c: tr(c.replace("_", " ")) for c in spec.choices}, self._theme)
            widget.chosen.connect(lambda value, s=spec: self._chosen(s, value))
            widget.entered.connect(self.focusNextChild)
        else:
            widget = Entry()
            widget.setFixedHeight(self._theme.px(TARGET_PX - 6))
            widget.setAccessibleName(tr(words))
            widget.textEdited.connect(lambda text, s=spec: self._typed(s, text))
            widget.entered.connect(self.focusNextChild)
            widget.left.connect(self._store)
            unit = QLabel(self._bench.units.unit(spec.kind).symbol if spec.kind else "")
            unit.setProperty("role", "muted")
            unit.setMinimumWidth(self._theme.px(28))
            grid.addWidget(unit, row, 2)
        grid.addWidget(widget, row, 1)
        self._rows[spec.path] = (spec, widget)

    def _value(self, path: str) -> Any:
        if path in ("stock", "low_at"):
            return getattr(self._item, path) if self._item else self._spec.get(path)
        outer, _, inner = path.partition(".")
        value = self._spec.get(outer)
        return value.get(inner) if inner and isinstance(value, dict) else value

    def _fill(self) -> None:
        item = self._item
        new = tr("New: {kind}").format(kind=tr(KIND_WORDS[self._kind])) if self._kind else ""  # type: ignore[index]
        self._title.setText(item.name if item else new)
        self._retire.setVisible(item is not None)
        self._retire.setText(
            tr("Offer it again") if item and item.retired else tr("Retire: offer it no longer")
        )
        for path, (spec, widget) in self._rows.items():
            text = self._drafts.get(path, text_of(spec, self._value(path), self._bench.units))
            if isinstance(widget, Choices):
                widget.show_value(text)
            elif not widget.hasFocus() or not widget.isModified():
                widget.setText(text)
                widget.setCursorPosition(0)
        self._say("")

    def _chosen(self, spec: Field, value: str) -> None:
        self._take(spec, value)
        self._store()

    def _typed(self, spec: Field, text: str) -> None:
        self._drafts[spec.path] = text

    def _take(self, spec: Field, text: str) -> None:
        """Put what was typed into the spec.

        Raises:
            InputError: not accepted.
        """
        value = value_of(spec, text, self._bench.units)
        outer, _, inner = spec.path.partition(".")
        if inner:
            group = dict(self._spec.get(outer) or {})
            group[inner] = value
            self._spec[outer] = group
        else:
            self._spec[outer] = value

    def _store(self) -> None:
        """Store the part if it is whole; else say what is wrong and keep what was typed."""
        if not self._kind or (self._item is not None and not self._drafts and self._spec == self._item.spec):
            return
        spec = dict(self._spec)
        for path, text in list(self._drafts.items()):
            try:
                self._take(self._rows[path][0], text)
            except InputError as fault:
                self._say(f"{tr(field_words(path))}: {fault.sentence}")
                return
        more: dict[str, Any] = {}
        if self._item is not None:
            more = {name: getattr(self._item, name) for name in ("stock", "low_at", "retired")}
        amounts: dict[str, Any] = {n: self._spec.pop(n) for n in ("stock", "low_at") if n in self._spec}
        more |= {name: amount or 0.0 for name, amount in amounts.items()}
        try:
            item = item_from(
                self._kind,
                _without_gaps(self._spec),
                **more,
                item_id=self._item.item_id if self._item else None,
            )
        except InputError as fault:
            self._spec = {**spec, **amounts}
            self._say(f"{tr(field_words(fault.path))}: {fault.sentence}")
            return
        self._bench.shelf.put(item, tr("counted"), failed=self._say, done=self._stored)

    def _stored(self, item: Item) -> None:
        new = self._item is None
        self._drafts = {}
        self._item, self._spec = item, dict(item.spec)
        for _spec, widget in self._rows.values():
            if isinstance(widget, Entry):
                widget.setModified(False)
        self._fill()
        if new:
            self._bench.message = tr("{name} is on the shelf").format(name=item.name)

    def _turn_retired(self) -> None:
        if self._item is not None:
            self._bench.shelf.retire(self._item, not self._item.retired)

    def _say(self, sentence: str) -> None:
        self._fault.setText(sentence)
        self._fault.setVisible(bool(sentence))


def _without_gaps(spec: dict[str, Any]) -> dict[str, Any]:
    """Return a spec without emptied figures; a group that is empty goes with them."""
    found = {}
    for name, value in spec.items():
        inner = {k: v for k, v in value.items() if v is not None} if isinstance(value, dict) else value
        if inner not in (None, {}):
            found[name] = inner
    return found


def field_words(path: str) -> str:
    """Return a figure's name in words.

    >>> field_words("well.depth_mm"), field_words("size")
    ('Well depth', 'Size')
    """
    return FIELD_WORDS.get(path) or label(path.replace(".", " ")).capitalize()


FIELD_WORDS = {
    "name": "Name",
    "stock": "On hand",
    "low_at": "Low at",
    "size": "Size",
    "bead_seat_diameter_mm": "Bead seat Ø",
    "internal_width_mm": "Internal width",
    "depth_at_valve_mm": "Depth at valve",
    "seat_circumference_mm": "Round the seat",
    "max_pressure_kpa": "Maximum",
    "min_pressure_kpa": "Minimum",
    "tubeless_ready": "Tubeless mark",
    "straight_side_approved": "Straight-side ok",
    "roll_length_mm": "Roll",
    "mass_g": "Weight, g",
}
