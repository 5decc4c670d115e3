"""The figures of one part on the shelf: fields that are checked as they are typed, stored as they
are typed.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import KIND_WORDS, Item, PartKind
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.why import label
from inner_rim.desktop.widgets.base import PlainLabel, Scrolling
from inner_rim.desktop.widgets.choices import Choices
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import NOTE, SMALL, TARGET_PX, Theme
from inner_rim.words import N_, sentence_case, tr
from inner_rim.work.editing.fields import Field
from inner_rim.work.editing.form_draft import PartDraft
from inner_rim.work.editing.settings import Settings
from inner_rim.work.editing.shelf import ShelfBook


class PartEditor(QWidget):
    """Shows a part, or a new one until it has what its kind needs; every keystroke goes to its
    draft.
    """

    stored = pyqtSignal(str)

    def __init__(
        self, shelf: ShelfBook, settings: Settings, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._shelf, self._settings, self._theme = shelf, settings, theme
        self.draft: PartDraft | None = None
        self._asks_kind = False
        self._rows: dict[str, tuple[Field, EntryField | Choices]] = {}
        self._title = PlainLabel("")
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        self._title.setWordWrap(True)
        self._fault = PlainLabel("")
        self._fault.setTextFormat(Qt.TextFormat.PlainText)
        self._fault.setWordWrap(True)
        self._fault.setProperty("role", "stop")
        self._retire = QPushButton("")
        self._retire.clicked.connect(self._turn_retired)
        self._page = Scrolling()
        column = QVBoxLayout(self)
        column.setContentsMargins(theme.px(12), theme.px(8), theme.px(8), theme.px(8))
        column.addWidget(self._title)
        column.addWidget(self._fault)
        column.addWidget(self._page, 1)
        column.addWidget(self._retire)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._title.setFont(theme.font(NOTE, 600))
        self._fault.setFont(theme.font(SMALL))
        self._retire.setFixedHeight(theme.px(TARGET_PX))
        self._build()

    @property
    def item(self) -> Item | None:
        """The part that is shown; None for a new one or for none."""
        return self.draft.item if self.draft is not None else None

    def show_item(self, item: Item | None) -> None:
        """Show a part; what was typed and not accepted in another one is kept there."""
        if item is not None and self.item is not None and item.item_id == self.item.item_id:
            if item != self.item and self.draft is not None:
                self.draft.item = item
                self._fill()
            return
        self._asks_kind = False
        self.draft = self._draft_of(item.kind, item) if item else None
        self._build()

    @property
    def is_new(self) -> bool:
        return self._asks_kind or (self.draft is not None and self.draft.item is None)

    def begin(self, kind: PartKind | None) -> None:
        """Begin a new part of a kind, or go on with one that was begun; None asks for the kind."""
        self._asks_kind = kind is None
        self.draft = self._draft_of(kind, None) if kind is not None else None
        self._build()
        if kind is None:
            self._kinds.take_focus()
            return
        first = self._rows["name"][1]
        assert isinstance(first, EntryField)
        first.setFocus()

    def _build(self) -> None:
        self._rows = {}
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, self._theme.px(6), 0)
        grid.setVerticalSpacing(self._theme.px(3))
        if self._asks_kind:
            words = {str(kind): tr(word) for kind, word in KIND_WORDS.items()}
            self._kinds = Choices(tr("Kind of part"), words, self._theme)
            self._kinds.chosen.connect(lambda kind: self.begin(_KINDS[kind]) if kind else None)
            grid.addWidget(self._kinds, 0, 0, 1, 3)
        for row, spec in enumerate(self.draft.fields() if self.draft is not None else ()):
            self._add_row(grid, row, spec)
        grid.setRowStretch(grid.rowCount(), 1)
        self._page.setWidget(page)
        self._fill()

    def _add_row(self, grid: QGridLayout, row: int, spec: Field) -> None:
        words = field_words(spec.path)
        name = PlainLabel(words)
        name.setProperty("role", "muted")
        grid.addWidget(name, row, 0)
        widget: EntryField | Choices
        if spec.choices:
            widget = Choices(words, {c: spoken(c) for c in spec.choices}, self._theme)
            widget.chosen.connect(lambda value, s=spec: self._chosen(s, value))
            widget.entered.connect(self.focusNextChild)
        else:
            widget = EntryField()
            widget.setFixedHeight(self._theme.px(TARGET_PX - 6))
            widget.setAccessibleName(words)
            widget.textEdited.connect(lambda text, s=spec: self._typed(s, text))
            widget.entered.connect(self.focusNextChild)
            widget.left.connect(self._left)
            unit = PlainLabel(self._settings.own.units.unit(spec.kind).symbol if spec.kind else "")
            unit.setProperty("role", "muted")
            unit.setMinimumWidth(self._theme.px(28))
            grid.addWidget(unit, row, 2)
        grid.addWidget(widget, row, 1)
        self._rows[spec.path] = (spec, widget)

    def _fill(self) -> None:
        draft, item = self.draft, self.item
        new = tr("New part: which kind?") if self._asks_kind else ""
        if draft is not None:
            new = tr("New: {kind}").format(kind=tr(KIND_WORDS[draft.kind]))
        self._title.setText(item.name if item else new)
        self._retire.setVisible(item is not None)
        self._retire.setText(
            tr("Offer it again") if item and item.retired else tr("Stop offering it")
        )
        for spec, widget in self._rows.values():
            assert draft is not None
            text = draft.text(spec)
            if isinstance(widget, Choices):
                widget.show_value(text)
            elif widget.text() != text and not (widget.hasFocus() and widget.isModified()):
                widget.setText(text)
                widget.setCursorPosition(0)
                if widget.hasFocus():  # what is typed next replaces it, as on arrival
                    widget.selectAll()
        self._say(draft.problem() if draft is not None else None)

    def _chosen(self, spec: Field, value: str) -> None:
        self._typed(spec, value)
        self._left()

    def _typed(self, spec: Field, text: str) -> None:
        if self.draft is not None:
            self.draft.type_into(spec, text)

    def _left(self) -> None:
        if self.draft is not None:
            self.draft.leave()

    def _draft_of(self, kind: PartKind, item: Item | None) -> PartDraft:
        return PartDraft(self._settings, self._shelf, kind, item, self._say, self._stored)

    def _stored(self, item: Item) -> None:
        self.stored.emit(tr("{name} is on the shelf").format(name=item.name))
        for _spec, widget in self._rows.values():
            # else somebody types into it
            if isinstance(widget, EntryField) and not widget.hasFocus():
                widget.setModified(False)
        self._fill()

    def _turn_retired(self) -> None:
        if self.item is not None:
            self._shelf.retire(self.item, not self.item.retired)

    def _say(self, fault: InputError | None) -> None:
        words = fault.sentence if fault is not None else ""
        path = fault.path if fault is not None else ""
        self._fault.setText(f"{field_words(path)}: {words}" if path else words)
        self._fault.setVisible(bool(words))


_KINDS: dict[str, PartKind] = {str(kind): kind for kind in KIND_WORDS}


def field_words(path: str) -> str:
    """Return a figure's name in words.

    >>> field_words("well.depth_mm"), field_words("size")
    ('Well depth', 'Size')
    """
    return (
        tr(FIELD_WORDS[path])
        if path in FIELD_WORDS
        else sentence_case(label(path.replace(".", " ")))
    )


FIELD_WORDS = {
    "name": N_("Name"),
    "stock": N_("On hand"),
    "low_at": N_("Reorder at"),
    "size": N_("Size"),
    "bead_seat_diameter_mm": N_("Bead seat Ø"),
    "internal_width_mm": N_("Internal width"),
    "depth_at_valve_mm": N_("Rim depth"),
    "seat_circumference_mm": N_("Around the seat"),
    "max_pressure_kpa": N_("Maximum"),
    "min_pressure_kpa": N_("Minimum"),
    "tubeless_ready": N_("Tubeless mark"),
    "straight_side_approved": N_("Hookless approved"),
    "roll_length_mm": N_("Roll"),
    "mass_g": N_("Weight, g"),
}
