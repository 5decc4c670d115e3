"""Cards of lines, and the dialog for exporting them."""

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QFrame, QGridLayout, QVBoxLayout, QWidget

from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.storage.paths import documents_folder


def titled_grid(card: QFrame, title: str, theme: Theme, columns: int) -> QGridLayout:
    """Make a frame a card with a title in its first row; return its grid."""
    card.setProperty("role", "card")
    grid = QGridLayout(card)
    grid.setContentsMargins(theme.px(12), theme.px(6), theme.px(12), theme.px(8))
    grid.addWidget(_title(title, theme), 0, 0, 1, columns)
    return grid


def titled_column(card: QFrame, title: str, theme: Theme) -> QVBoxLayout:
    """Make a frame a card with a title on top; return its column."""
    card.setProperty("role", "card")
    column = QVBoxLayout(card)
    column.setContentsMargins(theme.px(12), theme.px(6), theme.px(12), theme.px(8))
    column.setSpacing(theme.px(4))
    column.addWidget(_title(title, theme))
    return column


def _title(words: str, theme: Theme) -> PlainLabel:
    label = PlainLabel(words)
    label.setFont(theme.font(TEXT, 600))
    label.setWordWrap(True)
    return label


def small_note(theme: Theme, words: str = "") -> PlainLabel:
    note = PlainLabel(words)
    note.setWordWrap(True)
    note.setProperty("role", "muted")
    note.setFont(theme.font(SMALL))
    return note


def stacked_card(*inside: QWidget) -> QFrame:
    """Return a card of widgets below each other; lists take the room that is left."""
    card = QFrame()
    card.setProperty("role", "card")
    column = QVBoxLayout(card)
    column.setContentsMargins(12, 8, 10, 10)
    for widget in inside:
        column.addWidget(widget, int(isinstance(widget, LinesView)))
    return card


def ask_csv(parent: QWidget, name: str) -> Path | None:
    """Ask where a CSV file goes; None where the user cancels."""
    chosen, _ = QFileDialog.getSaveFileName(parent, tr("Export"), str(documents_folder() / name), "CSV (*.csv)")
    return Path(chosen) if chosen else None
