"""A card with a title over a grid of lines."""

from PyQt6.QtWidgets import QFrame, QGridLayout

from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import TEXT, Theme


def titled_grid(card: QFrame, title: str, theme: Theme, columns: int) -> QGridLayout:
    """Make a frame a card with a title in its first row; return its grid."""
    card.setProperty("role", "card")
    grid = QGridLayout(card)
    grid.setContentsMargins(theme.px(12), theme.px(6), theme.px(12), theme.px(8))
    label = PlainLabel(title)
    label.setFont(theme.font(TEXT, 600))
    grid.addWidget(label, 0, 0, 1, columns)
    return grid
