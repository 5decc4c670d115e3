"""The shelf: every part the shop knows, searched as you type, edited beside the list."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import KIND_WORDS, PartKind
from inner_rim.desktop.pages.part_editor import PartEditor
from inner_rim.desktop.widgets.base import Page, PlainLabel
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.storage.files import documents_folder
from inner_rim.work.tasks.parts_files import PartsFiles, PartsImport
from inner_rim.work.views import PageViews

TABLES = "CSV (*.csv);;JSON (*.json)"
PROGRESS_MS = 50


class ShelfPage(Page):
    """Kinds at the left, parts in the middle, the chosen part at the right."""

    def __init__(
        self,
        views: PageViews,
        files: PartsFiles,
        editor: PartEditor,
        theme: Theme,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._views, self._files, self._theme = views, files, theme
        self._kind: PartKind | None = None
        self._import: PartsImport | None = None
        self.search = EntryField()
        self.search.setPlaceholderText(tr("Find a part by name, size or figure"))
        self.search.setAccessibleName(tr("Find a part"))
        self.search.textEdited.connect(lambda _text: self._show_found())
        self.search.entered.connect(self._first)
        self.parts = LinesView(theme, tr("Parts on the shelf"), wraps=False)
        self.parts.delegate.min_px = 52
        self.parts.chosen.connect(self._choose)
        self.editor = editor
        self.glance = LinesView(theme, tr("Stock at a glance"))
        self.glance.chosen.connect(self._choose)
        self._kinds = self._make_kinds()
        self._words = PlainLabel("")
        self._words.setWordWrap(True)
        self._words.setProperty("role", "muted")
        self._bar = QProgressBar()
        self._stop = QPushButton(tr("Stop the import"))
        self._stop.clicked.connect(self._stop_import)
        self._watch = QTimer(self)
        self._watch.setInterval(PROGRESS_MS)
        self._watch.timeout.connect(self._show_progress)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 12)
        row.setSpacing(12)
        row.addWidget(self._left())
        row.addWidget(self._middle(), 1)
        self._card = QFrame()
        self._card.setProperty("role", "card")
        inside = QVBoxLayout(self._card)
        inside.setContentsMargins(0, 0, 0, 0)
        self._right = QStackedWidget()
        self._right.addWidget(self.glance)
        self._right.addWidget(self.editor)
        inside.addWidget(self._right)
        row.addWidget(self._card)
        self._show_bar(False)
        self._size(theme)
        self.refresh()

    def _make_kinds(self) -> dict[PartKind | None, QPushButton]:
        result: dict[PartKind | None, QPushButton] = {}
        for kind, words in ((None, tr("All parts")), *((k, tr(w)) for k, w in KIND_WORDS.items())):
            button = QPushButton(words)
            button.setCheckable(True)
            button.clicked.connect(lambda _on, k=kind: self.show_kind(k))
            result[kind] = button
        return result

    def _left(self) -> QWidget:
        self._side = QWidget()
        column = QVBoxLayout(self._side)
        column.setContentsMargins(0, 0, 0, 0)
        for button in self._kinds.values():
            column.addWidget(button)
        column.addStretch(1)
        self._new = QPushButton(tr("+  New part"))
        self._new.setProperty("role", "main")
        self._new.clicked.connect(self.new_part)
        take_in, give_out = QPushButton(tr("Import…")), QPushButton(tr("Export…"))
        take_in.clicked.connect(self._ask_import)
        give_out.clicked.connect(self._ask_export)
        self._buttons = [*self._kinds.values(), self._new, take_in, give_out]
        for button in (self._new, take_in, give_out):
            column.addWidget(button)
        return self._side

    def _middle(self) -> QWidget:
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.search)
        column.addWidget(self._words)
        column.addWidget(self._bar)
        column.addWidget(self._stop)
        card = QFrame()
        card.setProperty("role", "card")
        inside = QVBoxLayout(card)
        inside.setContentsMargins(6, 6, 6, 6)
        inside.addWidget(self.parts)
        column.addWidget(card, 1)
        return middle

    def _size(self, theme: Theme) -> None:
        self._side.setFixedWidth(theme.column(168))
        self._card.setFixedWidth(theme.column(400))
        self.search.setFixedHeight(theme.px(TARGET_PX))
        for button in self._buttons:
            button.setFixedHeight(theme.px(TARGET_PX))

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.parts.set_theme(theme)
        self.glance.set_theme(theme)
        self.editor.set_theme(theme)
        self._size(theme)

    # -- showing -----------------------------------------------------------------------------

    def focus_search(self) -> None:
        self.search.setFocus()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show what the search finds, and the part that is chosen or the stock at a glance."""
        self._show_found()
        self._show_right()

    def _show_found(self) -> None:
        view = self._views.shelf(self.search.text(), self._kind)
        self.parts.show_lines(view.parts)
        for kind, button in self._kinds.items():
            button.setChecked(kind == self._kind)
        if self._import is None:
            self._words.setText(view.words)
        shown = self.editor.item
        if shown is not None:
            self.editor.show_item(self._views.part(str(shown.item_id)))
            self.parts.choose(str(shown.item_id))

    def _show_right(self) -> None:
        """Show the part that is chosen or begun, or the stock at a glance."""
        if self.editor.draft is not None or self.editor.is_new:
            self._right.setCurrentWidget(self.editor)
            return
        self.glance.show_lines(self._views.glance())
        self._right.setCurrentWidget(self.glance)

    def show_kind(self, kind: PartKind | None) -> None:
        """Show the parts of one kind, or all; a new part that is begun becomes one of that kind."""
        self._kind = kind
        if kind is not None and self.editor.is_new:
            self.editor.begin(kind)
        self.refresh()

    def _choose(self, key: str) -> None:
        self.editor.show_item(self._views.part(key))
        self._show_right()

    def _first(self) -> None:
        """Enter in the search goes to what was found first."""
        if self.parts.rows.lines:
            self.parts.setCurrentIndex(self.parts.rows.index(0))
            self.parts.setFocus(Qt.FocusReason.TabFocusReason)

    def new_part(self) -> None:
        """Begin a new part of the kind that is shown; where all are, its kind is asked first."""
        self._right.setCurrentWidget(self.editor)
        self.editor.begin(self._kind)

    # -- import and export -------------------------------------------------------------------

    def _ask_import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("Import parts"), str(documents_folder()), TABLES
        )
        if name:
            self.import_file(Path(name))

    def import_file(self, path: Path) -> PartsImport:
        self._import = self._files.take_in(path, self._over)
        self._show_bar(True)
        self._words.setText(tr("Reading {file}").format(file=path.name))
        self._watch.start()
        started = self._import
        started.start()
        return started

    def _stop_import(self) -> None:
        if self._import is not None:
            self._import.stop()

    def _show_progress(self) -> None:
        if self._import is not None:
            self._bar.setRange(0, max(1, self._import.total))
            self._bar.setValue(self._import.done)

    def _over(self) -> None:
        self._watch.stop()
        self._show_bar(False)
        if self._import is not None:
            self._words.setText(self._import.words)

    def _show_bar(self, shown: bool) -> None:
        self._bar.setVisible(shown)
        self._stop.setVisible(shown)

    def _ask_export(self) -> None:
        offered = str(documents_folder() / "shelf.csv")
        name, _ = QFileDialog.getSaveFileName(self, tr("Export parts"), offered, TABLES)
        if name:
            self.export_file(Path(name))

    def export_file(self, path: Path) -> None:
        try:
            self._words.setText(self._files.give_out(path))
        except InputError as fault:
            self._words.setText(fault.sentence)
