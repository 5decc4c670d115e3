"""The fields of a stage: those that decide in view, the others behind "More"."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.paths import JsonObject, within_wheel
from inner_rim.core.record.spoken import STAGE_WORDS, Stage
from inner_rim.core.record.units import UnitChoice
from inner_rim.desktop.bench.field_row import FieldRow, Stocked
from inner_rim.desktop.bench.line_preview import LinePreview
from inner_rim.desktop.widgets.base import PlainLabel, Scrolling, discard, show_if
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import NOTE, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.stage_fields import DECIDES, STAGE_FIELDS, FieldLine, wanted_lines

#: Fields are in two columns where each has this much room at 100 % text, px.
COLUMN_PX = 215
#: Fields that take a whole row: their choices need it.
WIDE = ("work.kind", "arrival")


class InputsPanel(QWidget):
    """The fields of one stage, in groups below each other; Enter goes from one to the next."""

    done = pyqtSignal()
    typed = pyqtSignal(str, str)
    left = pyqtSignal()
    left_open = pyqtSignal(str)
    mine_wanted = pyqtSignal(str)
    part_chosen = pyqtSignal(str, object)
    parts_wanted = pyqtSignal(str)
    line_said = pyqtSignal(str)
    stage_wanted = pyqtSignal(str)

    def __init__(self, stocked: Stocked, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stocked, self._theme = stocked, theme
        self._stage: Stage | None = None
        self._shown: tuple[BenchWheel, UnitChoice] | None = None
        self._rows: dict[str, FieldRow] = {}
        self._wanted: tuple[FieldLine, ...] = ()
        self._heads: list[PlainLabel] = []
        self._two = False
        self.line = EntryField()
        self.line.setPlaceholderText(tr("45-622 on 24 hooked, 98 kg"))
        self.line.setToolTip(tr("All in one line   Ctrl+L"))
        self.line.setAccessibleName(tr("All in one line"))
        self.line.entered.connect(lambda: self.line_said.emit(self.line.text()))
        self._before, self._after = QPushButton("◀"), QPushButton("▶")
        self._title = PlainLabel("")
        self._title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._top = QHBoxLayout()
        for button, words, command in (
            (self._before, tr("Fields of the stage before"), "previous_stage"),
            (self._after, tr("Fields of the next stage"), "next_stage"),
        ):
            button.setProperty("role", "flat")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setAccessibleName(words)
            button.setToolTip(words)
            button.clicked.connect(lambda _on, c=command: self.stage_wanted.emit(c))
        self._top.addWidget(self._before)
        self._top.addWidget(self.line, 1)
        self._top.addWidget(self._title, 1)
        self._top.addWidget(self._after)
        self._page = QWidget()
        self._grid = QGridLayout(self._page)
        self.more = QPushButton("")
        self.more.setCheckable(True)
        self.more.setProperty("role", "flat")
        self.more.clicked.connect(self.show_more)
        self._scroll = Scrolling(self._page)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(theme.px(2))
        self.preview = LinePreview(self.line)
        column.addLayout(self._top)
        column.addWidget(self.preview)
        column.addWidget(self._scroll, 1)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._into_view)
        self._fit()

    # -- which fields ----------------------------------------------------------------------------

    def focused_row(self) -> FieldRow | None:
        return next(
            (row for row in self._rows.values() if row.entry is not None and row.entry.hasFocus()),
            None,
        )

    def _fit(self) -> None:
        theme = self._theme
        self.line.setFixedHeight(theme.target)
        for button in (self._before, self._after):
            button.setFixedSize(theme.target, theme.target)
        self._title.setFont(theme.font(NOTE, 600))
        self.more.setFixedHeight(theme.target)
        self._grid.setContentsMargins(0, 0, theme.px(10), 0)
        self._grid.setHorizontalSpacing(theme.px(14))
        self._grid.setVerticalSpacing(theme.px(2))

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._fit()
        before, open_now = self.focused_row(), self.more.isChecked()
        typed = before.entry if before is not None else None
        text, at = (typed.text(), typed.cursorPosition()) if typed is not None else ("", 0)
        stage, self._stage = self._stage, None
        if stage is not None:
            self.show_stage(stage)
            self.show_more(open_now)
            self._show_rows()
        row = self._rows.get(before.line.path) if before is not None else None
        if row is not None and row.entry is not None:
            row.entry.setFocus(Qt.FocusReason.PopupFocusReason)
            row.entry.setText(text)  # as typed, blanks included
            row.entry.setCursorPosition(at)

    def show_stage(self, stage: Stage) -> None:
        if stage == self._stage:
            return
        self._stage = stage
        check_in = stage == "check_in"
        self._title.setText(tr(STAGE_WORDS[stage]))
        self.line.setVisible(check_in)
        show_if(self.preview, check_in and bool(self.preview.text()))
        self._title.setVisible(not check_in)
        self._before.setVisible(not check_in)
        for row in self._rows.values():
            row.drop_list()
            discard(row)
        self._rows.clear()
        self._wanted = ()
        self._two = self._room_for_two
        self.more.setChecked(False)
        groups = STAGE_FIELDS[stage]
        self._make_rows(
            groups[DECIDES] if check_in else [line for lines in groups.values() for line in lines]
        )
        self._place()

    def _make_rows(self, lines: tuple[FieldLine, ...] | list[FieldLine]) -> None:
        for line in lines:
            if line.path in self._rows:
                continue
            row = FieldRow(line, self._stocked, self._theme, stacked=self._stage == "check_in")
            row.entered.connect(self._next_field)
            row.pointed.connect(self._next_pointed)
            row.parts_wanted.connect(self.parts_wanted)
            row.typed.connect(self.typed)
            row.left.connect(self.left)
            row.left_open.connect(self._left_open)
            row.mine_wanted.connect(self.mine_wanted)
            row.part_chosen.connect(self.part_chosen)
            self._rows[line.path] = row

    def _groups(self) -> Iterator[tuple[str, tuple[FieldLine, ...]]]:
        if self._stage is None:
            return
        groups = STAGE_FIELDS[self._stage]
        if self._stage != "check_in":
            for words, lines in groups.items():
                yield (words if len(groups) > 1 else ""), lines
            return
        yield "", (*groups[DECIDES], *(() if self.more.isChecked() else self._wanted))
        if self.more.isChecked():
            for words, lines in groups.items():
                if words != DECIDES:
                    yield words, lines

    def _place(self) -> None:
        """Put the fields in view into their rows, in one column or two."""
        while self._grid.takeAt(0) is not None:
            pass
        for head in self._heads:
            discard(head)
        self._heads = []
        columns, seen = 2 if self._two else 1, set(self._paths())
        for path, row in self._rows.items():
            if path not in seen:  # the others keep the cursor
                row.hide()
        at = 0
        for words, lines in self._groups():
            if words:
                head = PlainLabel(tr(words))
                head.setFont(self._theme.font(TEXT, 600))
                self._heads.append(head)
                self._grid.addWidget(head, at, 0, 1, 2)
                at += 1
            column = 0
            for line in lines:
                row = self._rows[line.path]
                wide = columns == 1 or line.path in WIDE
                if column and wide:
                    at, column = at + 1, 0
                self._grid.addWidget(row, at, column, 1, 2 if wide else 1)
                row.show()
                column = 0 if wide or column else 1
                at += 0 if column else 1
            at += 1 if column else 0
        if self._stage == "check_in":
            open_now = self.more.isChecked()
            self.more.setText(tr("Less") if open_now else tr("More…"))
            self._grid.addWidget(self.more, at, 0, Qt.AlignmentFlag.AlignLeft)
        self.more.setVisible(self._stage == "check_in")
        self._grid.setColumnStretch(0, 1)
        self._grid.setColumnStretch(1, columns - 1)
        for row_at in range(self._grid.rowCount()):
            self._grid.setRowStretch(row_at, 0)
        self._grid.setRowStretch(at + 1, 1)

    @property
    def _room_for_two(self) -> bool:
        return self._stage == "check_in" and self.width() >= self._theme.px(2 * COLUMN_PX)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        before, self._two = self._two, self._room_for_two
        made = self._rows.keys() >= set(self._paths())
        if before != self._two and made:
            self._place()

    def show_more(self, there: bool = True) -> None:
        if self._stage != "check_in" or (
            there == self.more.isChecked() and there == self._all_made()
        ):
            return
        self.more.setChecked(there)
        if there:
            for lines in STAGE_FIELDS["check_in"].values():
                self._make_rows(lines)
            self._show_rows()
        self._place()

    def _all_made(self) -> bool:
        return all(
            line.path in self._rows for lines in STAGE_FIELDS["check_in"].values() for line in lines
        )

    def _left_open(self, path: str) -> None:
        """A choice was left without an answer: said where a figure waits for it."""
        decides = STAGE_FIELDS["check_in"][DECIDES]
        if any(line.path == path for line in (*decides, *self._wanted)):
            self.left_open.emit(path)

    # -- what they show --------------------------------------------------------------------------

    def _show_rows(self) -> None:
        if self._shown is not None:
            for path in self._paths():
                self._rows[path].show_wheel(*self._shown)

    def _paths(self) -> list[str]:
        return [line.path for _words, lines in self._groups() for line in lines]

    def show_wheel(self, state: BenchWheel, units: UnitChoice) -> None:
        if self._shown is not None and self._shown[0].key != state.key:
            self.show_more(False)
        self._shown = (state, units)
        wanted = wanted_lines(state) if self._stage == "check_in" else ()
        focused = self.focused_row()
        if wanted != self._wanted and not (focused is not None and focused.line in self._wanted):
            self._wanted = wanted
            self._make_rows(wanted)
            if not self.more.isChecked():
                self._place()
        self._show_rows()

    def keep_line(self, left: str) -> None:
        """Keep what was not understood of the line; where all was, go on to what is missing."""
        self.line.setText(left)
        if not left and self._shown is not None:
            missing = self._shown[0].reading.missing
            if missing:
                self.focus_field(within_wheel(missing[0]))
            else:
                self.done.emit()

    def offer_parts(self, path: str, parts: list[JsonObject]) -> None:
        """Offer earlier parts at a field if it is still shown: the stage may have changed
        meanwhile.
        """
        if path in self._rows:
            self._rows[path].offer_parts(parts)

    # -- the cursor ------------------------------------------------------------------------------

    def focus_field(self, path: str) -> bool:
        """Put the cursor into a field of this stage, behind "More" or not; return whether it is
        here.
        """
        if path not in self._paths() and self._stage == "check_in":
            if not any(
                line.path == path for lines in STAGE_FIELDS["check_in"].values() for line in lines
            ):
                return False
            self.show_more(True)
        if path not in self._rows:
            return False
        self._go_to(path)
        return True

    def focus_first(self) -> None:
        paths = self._paths()
        if paths:
            self._go_to(paths[0])

    def _go_to(self, path: str) -> None:
        self._rows[path].take_focus()
        self._soon.start()  # once it is laid out

    def _into_view(self) -> None:
        row = next((row for row in self._rows.values() if row.holds_focus()), None)
        if row is not None:
            self._scroll.ensureWidgetVisible(row, 0, self._theme.px(20))

    def _after_row(self, row: FieldRow) -> str:
        paths = self._paths()
        at = paths.index(row.line.path) + 1 if row.line.path in paths else len(paths)
        return paths[at] if at < len(paths) else ""

    def _next_pointed(self, row: FieldRow) -> None:
        """After a choice with the mouse, the keyboard goes on in the next field."""
        if path := self._after_row(row):
            self._go_to(path)

    def _next_field(self, row: FieldRow) -> None:
        """Enter goes to the next field, and from the last one to the main action."""
        if path := self._after_row(row):
            self._go_to(path)
        else:
            self.done.emit()
