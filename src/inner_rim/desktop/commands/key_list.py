"""The list of keys, over the page; made from the table of commands."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QGridLayout, QWidget

from inner_rim.desktop.commands.table import key_lines
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr


class KeyList(QFrame):
    """Every key and what it does."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setProperty("role", "card")
        self.setAccessibleName(tr("Keys"))
        grid = QGridLayout(self)
        grid.setContentsMargins(theme.px(24), theme.px(16), theme.px(24), theme.px(16))
        grid.setHorizontalSpacing(theme.px(20))
        title = PlainLabel(tr("Keys"))
        title.setFont(theme.font(20, 600))
        grid.addWidget(title, 0, 0, 1, 4)
        entries = key_lines()
        half = (len(entries) + 1) // 2
        for i, (key, words) in enumerate(entries):
            column = 2 * (i // half)
            name = PlainLabel(key)
            name.setFont(theme.font(14, 600))
            grid.addWidget(name, 1 + i % half, column)
            what = PlainLabel(words)
            what.setFont(theme.font(14))
            grid.addWidget(what, 1 + i % half, column + 1)

    def place(self) -> None:
        """Stand in the middle of the window."""
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move((parent.width() - self.width()) // 2, (parent.height() - self.height()) // 2)
            self.raise_()
