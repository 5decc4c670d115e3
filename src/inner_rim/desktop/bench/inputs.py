"""The inputs of the stage that is looked at: fields with units, choices, and errors beside them."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.stages import Stage
from inner_rim.core.record.units import UnitChoice
from inner_rim.desktop.bench.field_row import (
    FieldRow,
    Stocked,
)
from inner_rim.desktop.widgets.discard import discard
from inner_rim.desktop.widgets.entry import Entry
from inner_rim.desktop.widgets.group_tab import GroupTab
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.stage_fields import STAGE_FIELDS

#: Tabs beside each other in larger text, so that no word is cut.
TABS_IN_LARGE_ROW = 3


class InputsPanel(QWidget):
    """The fields of one stage, in groups chosen by a row of buttons."""

    done = pyqtSignal()
    typed = pyqtSignal(str, str)
    left = pyqtSignal()
    left_open = pyqtSignal(str)
    mine_wanted = pyqtSignal(str)
    part_chosen = pyqtSignal(str, object)
    parts_wanted = pyqtSignal(str)
    line_said = pyqtSignal(str)

    def __init__(self, stocked: Stocked, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stocked, self._theme = stocked, theme
        self._stage: Stage | None = None
        self._shown: tuple[WheelState, UnitChoice] | None = None
        self._rows: dict[str, FieldRow] = {}
        self._groups: list[tuple[str, list[FieldRow]]] = []
        self._tabs = QGridLayout()
        self._tabs.setSpacing(0)
        self._stack = QStackedWidget()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(theme.px(2))
        self.line = Entry()
        self.line.setPlaceholderText(tr("45-622 on 24, 98 kg"))
        self.line.setToolTip(tr("All in one line: 45-622 on 24 hooked, max 3.4, 98 kg, Thu 16:00"))
        self.line.setAccessibleName(tr("All in one line"))
        self.line.setFixedHeight(theme.target - 4)
        self.line.entered.connect(lambda: self.line_said.emit(self.line.text()))
        column.addWidget(self.line)
        column.addLayout(self._tabs)
        column.addWidget(self._stack, 1)
        self._tab_buttons: list[GroupTab] = []

    def focused_row(self) -> FieldRow | None:
        """Return the field that is typed into, None where none is."""
        return next(
            (row for row in self._rows.values() if row.entry is not None and row.entry.hasFocus()), None
        )

    def set_theme(self, theme: Theme) -> None:
        """Build again in another theme; typing goes on in the same field."""
        self._theme = theme
        self.line.setFixedHeight(theme.target - 4)
        before, place = self.focused_row(), self._stack.currentIndex()
        typed = before.entry if before is not None else None
        text, at = (typed.text(), typed.cursorPosition()) if typed is not None else ("", 0)
        stage, self._stage = self._stage, None
        if stage is not None:
            self.show_stage(stage)
            self.show_group(max(0, place))
        row = self._rows.get(before.line.path) if before is not None else None
        if row is not None and row.entry is not None:
            row.entry.setFocus(Qt.FocusReason.PopupFocusReason)
            row.entry.setText(text)  # as it was typed, blanks and all
            row.entry.setCursorPosition(at)

    def show_stage(self, stage: Stage) -> None:
        """Show the fields of a stage."""
        if stage == self._stage:
            return
        self._stage = stage
        self.line.setVisible(stage == "check_in" and not self._theme.large)  # there the fields need its room
        self._clear()
        theme, groups = self._theme, STAGE_FIELDS[stage]
        each = TABS_IN_LARGE_ROW if theme.scale > 1.0 and len(groups) > TABS_IN_LARGE_ROW else len(groups)
        for place, (group, lines) in enumerate(groups.items()):
            pad = theme.px({6: 7, 7: 3}.get(len(groups), 9))
            tab = GroupTab(tr(group), theme, pad)
            tab.setProperty("role", "flat")
            tab.setStyleSheet(f"padding: 0 {pad}px; min-height: {theme.target - 6}px;")
            tab.clicked.connect(lambda _on, p=place: self.show_group(p))
            self._tabs.addWidget(tab, place // each, place % each, Qt.AlignmentFlag.AlignLeft)
            self._tab_buttons.append(tab)
            page = QWidget()
            column = QVBoxLayout(page)
            column.setContentsMargins(0, 0, theme.px(6), 0)
            column.setSpacing(0)
            rows = [FieldRow(line, self._stocked, theme) for line in lines]
            for row in rows:
                column.addWidget(row)
                row.entered.connect(self._next_field)
                row.pointed.connect(self._next_in_group)
                row.parts_wanted.connect(self.parts_wanted)
                row.typed.connect(self.typed)
                row.left.connect(self.left)
                row.left_open.connect(self.left_open)
                row.mine_wanted.connect(self.mine_wanted)
                row.part_chosen.connect(self.part_chosen)
                self._rows[row.line.path] = row
            column.addStretch(1)
            scroll = QScrollArea()
            scroll.setWidget(page)
            scroll.setWidgetResizable(True)
            scroll.setFrameShape(QFrame.Shape.NoFrame)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self._stack.addWidget(scroll)
            self._groups.append((group, rows))
        self._tabs.setColumnStretch(each, 1)
        self.show_group(0)

    def _clear(self) -> None:
        for row in self._rows.values():
            row.drop_list()
        for button in self._tab_buttons:
            discard(button)
        self._tab_buttons.clear()
        while (item := self._tabs.takeAt(0)) is not None:
            del item
        for column in range(self._tabs.columnCount()):
            self._tabs.setColumnStretch(column, 0)
        while self._stack.count():
            page = self._stack.widget(0)
            assert page is not None
            discard(page)
            self._stack.removeWidget(page)
        self._rows.clear()
        self._groups.clear()

    def show_group(self, place: int) -> None:
        """Show one group of fields."""
        self._stack.setCurrentIndex(place)
        self._show_rows()
        for i, tab in enumerate(self._tab_buttons):
            tab.setChecked(i == place)

    def _show_rows(self) -> None:
        """Show the wheel's values in the group in view; the others wait until they are looked at."""
        if self._shown is not None and self._groups:
            for row in self._groups[max(0, self._stack.currentIndex())][1]:
                row.show_wheel(*self._shown)

    def show_wheel(self, state: WheelState, units: UnitChoice) -> None:
        """Show the wheel's values in every field."""
        self._shown = (state, units)
        self._show_rows()
        problems, missing = state.reading.problems, state.reading.missing
        for (_group, rows), tab in zip(self._groups, self._tab_buttons, strict=True):
            paths = {state.path(row.line.path) for row in rows} if problems or missing else set()
            wrong, lacks = not paths.isdisjoint(problems), not paths.isdisjoint(missing)
            tab.show_mark("!" if wrong else "•" if lacks else "")

    def keep_line(self, left: str) -> None:
        """Keep what was not understood of the line; where all of it was, go on with what is missing."""
        self.line.setText(left)
        if not left and self._shown is not None:
            missing = self._shown[0].reading.missing
            if missing:
                self.focus_field(missing[0].partition(".")[2])
            else:
                self.done.emit()

    def focus_field(self, path: str) -> bool:
        """Put the cursor into a field of this stage; return whether it is here."""
        for place, (_group, rows) in enumerate(self._groups):
            for row in rows:
                if row.line.path == path:
                    self.show_group(place)
                    row.take_focus()
                    return True
        return False

    def focus_first(self) -> None:
        """Put the cursor into the first field of the group in view."""
        rows = self._groups[self._stack.currentIndex()][1] if self._groups else []
        if rows:
            rows[0].take_focus()

    def offer_parts(self, path: str, parts: list[JsonObject]) -> None:
        """Offer parts used before at a field, where it is still shown: the stage may have changed meanwhile."""
        if path in self._rows:
            self._rows[path].offer_parts(parts)

    def _next_in_group(self, row: FieldRow) -> None:
        """After a choice with the mouse, the keyboard goes on in the next field; nothing else comes into view."""
        rows = next((rows for _group, rows in self._groups if row in rows), [row])
        after = rows.index(row) + 1
        if after < len(rows):
            rows[after].take_focus()

    def _next_field(self, row: FieldRow) -> None:
        """Enter goes to the next field, from the last one of a group to the next group."""
        for place, (_group, rows) in enumerate(self._groups):
            if row not in rows:
                continue
            after = rows.index(row) + 1
            if after < len(rows):
                rows[after].take_focus()
            elif place + 1 < len(self._groups):
                self.show_group(place + 1)
                self._groups[place + 1][1][0].take_focus()
            else:
                self.done.emit()
            return
