"""A field of a stage: label, entry or choices, suggestions, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.operations import SetDraft, SetField
from inner_rim.core.record.parts import Item, PartKind
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.units import METRIC, UnitChoice, entry_text
from inner_rim.desktop.widgets.base import PlainLabel, discard
from inner_rim.desktop.widgets.choices import Choices
from inner_rim.desktop.widgets.entry import EntryField, SuggestingEntry
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.editing.draft import DAY_FIELDS, candidates, fits_rim
from inner_rim.work.editing.editor import came_in
from inner_rim.work.editing.fields import Field, field, text_of, usual_text_of, value_of
from inner_rim.work.editing.shelf import MAX_OFFERED
from inner_rim.work.editing.state import BenchWheel, in_wheel, usual_of
from inner_rim.work.text.shelf_lines import part_text
from inner_rim.work.text.stage_fields import CAME_IN, FieldLine

#: Finds the shelf's parts of a kind that match every word of a text.
Stocked = Callable[[str, PartKind], Sequence[Item]]

PART_FIELDS: dict[str, PartKind] = {"rim.name": "rim", "tire.name": "tire", "insert.name": "insert"}
MAX_BESIDE_LABEL, STACKED_CHOICES = 3, 4
PATIENCE_MS = 500
#: Letters shown of a text that conflicts with another window's.
MAX_SHOWN = 30


def _spec_of(line: FieldLine) -> Field:
    """What a field takes; how a wheel came in is one choice for several fields."""
    if line is CAME_IN:
        return Field(line.path, "choice", choices=tuple(line.words))
    return field(f"wheels[0].{line.path}" if in_wheel(line.path) else line.path)


class FieldRow(QWidget):
    """One field: label, entry or choices, unit, and what is wrong in words."""

    entered = pyqtSignal(object)
    pointed = pyqtSignal(object)
    parts_wanted = pyqtSignal(str)
    typed = pyqtSignal(str, str)
    left = pyqtSignal()
    left_open = pyqtSignal(str)
    mine_wanted = pyqtSignal(str)
    part_chosen = pyqtSignal(str, object)

    def __init__(
        self,
        line: FieldLine,
        stocked: Stocked,
        theme: Theme,
        stacked: bool = False,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.line, self._stocked = line, stocked
        self._state: BenchWheel | None = None
        self._units = METRIC
        self._spec = _spec_of(line)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 1, 0, 1)
        grid.setHorizontalSpacing(theme.px(6))
        grid.setVerticalSpacing(0)
        grid.setColumnMinimumWidth(0, 0 if stacked else theme.column(132))
        grid.setColumnStretch(1, 1)
        label = PlainLabel(tr(line.label))
        label.setProperty("role", "muted")
        label.setFont(theme.font(SMALL if stacked else TEXT))
        grid.addWidget(label, 0, 0, 1, 3 if stacked else 1)
        self.entry: EntryField | None = None
        self._suggesting: SuggestingEntry | None = None
        self.choices: Choices | None = None
        if self._spec.choices:
            choices = self.choices = self._make_choices(theme, stacked)
            most = 1 if theme.large else MAX_BESIDE_LABEL
            below = stacked or (theme.scale > 1.0 and len(choices.buttons) > most)
            grid.addWidget(choices, *((1, 0, 1, 3) if below else (0, 1, 1, 2)))
        else:
            self.entry = self._make_entry(theme, label)
            self._unit = PlainLabel("", self)
            self._unit.setProperty("role", "muted")
            self._unit.setMinimumWidth(theme.px(30))
            words = self._spec.longest is not None  # no unit beside them: a name gets all the room
            self._unit.setHidden(words)
            row = 1 if stacked else 0
            grid.addWidget(
                self.entry, row, 0 if stacked else 1, 1, (1 if stacked else 0) + (2 if words else 1)
            )
            if not words:
                grid.addWidget(self._unit, row, 2)
        self._shown: object = None
        self._problem = ("", "")
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE_MS)
        self._patience.timeout.connect(self._show_problem)
        self._fault = PlainLabel("")
        self._fault.setWordWrap(True)
        self._fault.setProperty("role", "stop")
        self._fault.setFont(theme.font(SMALL))
        self._fault.hide()
        grid.addWidget(self._fault, 2, 0, 1, 3)
        self._mine = QPushButton("")
        self._mine.setFixedHeight(theme.target)
        self._mine.clicked.connect(lambda: self.mine_wanted.emit(self.line.path))
        self._mine.hide()
        grid.addWidget(self._mine, 4, 0, 1, 3)
        self._offers = QWidget()
        QHBoxLayout(self._offers).setContentsMargins(0, 0, 0, 0)
        self._offers.hide()
        grid.addWidget(self._offers, 3, 0, 1, 3)
        self._parts: dict[str, JsonObject] = {}
        self._used: list[JsonObject] = []
        self._theme = theme

    def _make_entry(self, theme: Theme, label: QLabel) -> EntryField:
        suggesting = SuggestingEntry() if self.line.path in PART_FIELDS else None
        entry = suggesting or EntryField()
        entry.setFixedHeight(theme.target)
        entry.setAccessibleName(tr(self.line.label))
        label.setBuddy(entry)
        entry.textEdited.connect(lambda text: self.typed.emit(self.line.path, text))
        entry.entered.connect(self._entered)
        entry.left.connect(self._left)
        self._suggesting = suggesting
        if suggesting is not None:
            suggesting.taken.connect(self._part_chosen)
            suggesting.came.connect(lambda: self.parts_wanted.emit(self.line.path))
            suggesting.textEdited.connect(lambda _text: self._offer_names())
        return entry

    def _make_choices(self, theme: Theme, stacked: bool) -> Choices:
        order = self.line.words or {value: value for value in self._spec.choices}
        words = {value: tr(word) for value, word in order.items()}
        each = STACKED_CHOICES if stacked and len(words) > STACKED_CHOICES else None
        choices = Choices(tr(self.line.label), words, theme, each=each)
        choices.chosen.connect(lambda value: self.typed.emit(self.line.path, value))
        choices.entered.connect(self._chosen_or_open)
        choices.pointed.connect(lambda: self.pointed.emit(self))
        return choices

    def _chosen_or_open(self) -> None:
        """Enter goes on; a choice without an answer, and without one that is usual, says that it is
        open.
        """
        if self.choices is not None and self.choices.is_open:
            self.left_open.emit(self.line.path)
        self.entered.emit(self)

    def drop_list(self) -> None:
        if self._suggesting is not None:
            self._suggesting.drop_list()

    def offer_parts(self, parts: list[JsonObject]) -> None:
        """Offer parts used before, besides the shelf's, while the name is typed."""
        self._used = parts
        self._offer_names()

    def _offer_names(self) -> None:
        if self._suggesting is None:
            return
        kind, text = PART_FIELDS[self.line.path], self._suggesting.text()
        self._parts = {
            part_text(item.spec, self._units): item.spec for item in self._stocked(text, kind)
        }
        words = text.casefold().split()
        known = {part.get("name") for part in self._parts.values()}
        for part in self._used:
            if part.get("name") not in known and all(
                word in str(part).casefold() for word in words
            ):
                self._parts[part_text(part, self._units)] = part
        self._suggesting.suggest(list(self._parts)[:MAX_OFFERED])

    def _part_chosen(self, name: str) -> None:
        """Take a suggestion: its figures go in, and the cursor goes to the next field."""
        part = self._parts.get(name)
        if part is not None and self.entry is not None:
            self.part_chosen.emit(PART_FIELDS[self.line.path], dict(part))
            self.entry.setText(str(part.get("name", "")))
            self.entry.setModified(False)
            self.entered.emit(self)

    def _left(self) -> None:
        self.left.emit()
        if self._state is not None:
            self._shown = None  # a spelling of the stored value gives way to the usual one
            self.show_wheel(self._state, self._units)

    def show_wheel(self, state: BenchWheel, units: UnitChoice) -> None:
        self._state, self._units = state, units
        path = state.path(self.line.path)
        typed = state.typed(self.line.path)
        conflict = state.conflict(self.line.path)
        raw, usually = self._values(state)
        problem = state.reading.problems.get(path, "")
        shown = (state.key, raw, typed, conflict, usually, problem, self._units)
        if shown == self._shown and not (self.entry is not None and self.entry.hasFocus()):
            return
        self._shown = shown
        draft = typed.text if typed is not None else None
        value = text_of(self._spec, raw, self._units)
        text = value if draft is None else draft
        if self.entry is not None:
            if self.entry.text() != text and not self._typing(draft, value):
                self.entry.setText(text)
                if not self.entry.hasFocus():
                    self.entry.setCursorPosition(0)  # a long name shows its beginning
            usual = "" if value else usual_text_of(self._spec, usually, self._units)
            if self.entry.placeholderText() != usual:
                self.entry.setPlaceholderText(usual)
            self._unit.setText(self._units.unit(self._spec.kind).symbol if self._spec.kind else "")
        if self.choices is not None:
            usual = "" if text else text_of(self._spec, usually, self._units)
            self.choices.show_value(text, usual)
        self._problem = (problem, draft or "")
        self._show_conflict(state)
        if self._problem[0] and self.entry is not None and self.entry.hasFocus():
            self._patience.start()  # `2` on the way to `24` is no mistake yet
        else:
            self._patience.stop()
            self._show_problem()

    def _values(self, state: BenchWheel) -> tuple[object, object]:
        if self.line is CAME_IN:
            return came_in(state)
        raw = state.value(self.line.path)
        return raw, None if raw is not None else usual_of(state, self.line.path)

    def _show_conflict(self, state: BenchWheel) -> None:
        """Show one's own value that conflicts with another window's, one key or click away."""
        conflict = state.conflict(self.line.path)
        operation = conflict.operation if conflict is not None else None
        if isinstance(operation, SetDraft) and operation.value is not None:
            self._mine.setText(
                tr("Use mine: {value}   Ctrl+J").format(value=operation.value.text[:MAX_SHOWN])
            )
            self._mine.show()
            return
        if not isinstance(operation, SetField):
            self._mine.hide()
            return
        mine = text_of(self._spec, operation.value, self._units) or tr("empty")
        unit = self._units.unit(self._spec.kind).symbol if self._spec.kind else ""
        self._mine.setText(tr("Use mine: {value}   Ctrl+J").format(value=f"{mine} {unit}".strip()))
        self._mine.show()

    def _typing(self, draft: str | None, value: str) -> bool:
        """Whether what is being typed is a spelling of the value that is stored (`2,30`)."""
        entry = self.entry
        if entry is None or not entry.hasFocus() or draft is not None:
            return False
        if self.line.path in DAY_FIELDS:
            return bool(value) and entry.isModified()  # a time is spelled in many ways
        try:
            typed = value_of(self._spec, entry.text(), self._units)
        except InputError:
            return False
        return text_of(self._spec, typed, self._units) == value

    def _show_problem(self) -> None:
        sentence, draft = self._problem
        needed = not sentence
        if self._fault.text() != sentence:
            self._fault.setText(sentence)
            self._fault.setVisible(bool(sentence))
            if self.entry is not None:
                self.entry.setProperty("wrong", "false" if needed else "true")
                style = self.entry.style()
                if style is not None:
                    style.unpolish(self.entry)
                    style.polish(self.entry)
            self._offer_sizes(self._sizes(draft) if sentence else ())

    @property
    def _rim_mm(self) -> object:
        return self._state.value("rim.bead_seat_diameter_mm") if self._state is not None else None

    def _sizes(self, text: str) -> tuple[str, ...]:
        return candidates(text, self._rim_mm) if self.line.path == "tire.size" else ()

    def _entered(self) -> None:
        """Enter goes on; where a size is ambiguous it takes the one of the rim's own diameter."""
        sizes = self._sizes(self.entry.text()) if self.entry is not None else ()
        if sizes and fits_rim(sizes[0], self._rim_mm):
            self._take_size(sizes[0])
        self.entered.emit(self)

    def _offer_sizes(self, sizes: tuple[str, ...]) -> None:
        layout = self._offers.layout()
        assert layout is not None
        while (item := layout.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                discard(widget)
        for size in sizes[:4]:
            own = fits_rim(size, self._rim_mm)
            button = QPushButton(tr("{size}   Enter").format(size=size) if own else size)
            button.setStyleSheet("padding: 0 6px;")
            button.clicked.connect(lambda _on, s=size: self._take_size(s))
            layout.addWidget(button)
        self._offers.setVisible(bool(sizes))

    def _take_size(self, size: str) -> None:
        self.left.emit()
        if self.entry is not None:
            self.entry.setText(size)
            self.entry.setModified(False)
            self.entry.setFocus(Qt.FocusReason.OtherFocusReason)  # typing goes on here
        self.typed.emit(self.line.path, size)

    @property
    def path(self) -> str:
        return self.line.path

    @property
    def kind(self) -> str | None:
        return self._spec.kind

    def put_measured(self, value: float) -> None:
        text = entry_text(value, self._spec.kind or "mm", self._units)
        if self.entry is not None:
            self.entry.setText(text)
            self.entry.setModified(False)
        self.typed.emit(self.line.path, text)

    def holds_focus(self) -> bool:
        focus = QApplication.focusWidget()
        return focus is not None and self.isAncestorOf(focus)

    def take_focus(self) -> None:
        if self.choices is not None:
            self.choices.take_focus()
        elif self.entry is not None:
            self.entry.setFocus(Qt.FocusReason.TabFocusReason)

    @property
    def buttons(self) -> Mapping[str, QPushButton]:
        """The choices by value; none for a field that is typed into."""
        return self.choices.buttons if self.choices is not None else {}
