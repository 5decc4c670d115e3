"""The list of keys, over the page; made from the table of commands."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QGridLayout, QWidget

from inner_rim.desktop.commands.table import key_lines
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr

#: Sizes of the text, the largest first.
SIZES = (14.0, 13.0, 12.0, 11.0, 10.0, 9.0, 8.0, 7.0)


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
        self._theme = theme
        self._labels: list[tuple[PlainLabel, PlainLabel]] = []
        for i, (key, words) in enumerate(entries):
            name, what = PlainLabel(key), PlainLabel(words)
            what.setWordWrap(True)
            for column, label in enumerate((name, what)):
                grid.addWidget(label, 1 + i % half, 2 * (i // half) + column)
            self._labels.append((name, what))

    def _fit(self, parent: QWidget) -> None:
        """Take the largest text in which every key is seen; no line is wider than half of the window leaves."""
        for size in SIZES:
            bold, plain = self._theme.font(size, 600), self._theme.font(size)
            for name, what in self._labels:
                name.setFont(bold)
                what.setFont(plain)
            keys = max(name.sizeHint().width() for name, _what in self._labels)
            widest = max(120, parent.width() // 2 - self._theme.px(24 + 20 + 8) - keys)
            for _name, what in self._labels:
                what.setFixedWidth(min(what.fontMetrics().horizontalAdvance(what.text()) + 4, widest))
            self.adjustSize()
            if self.height() <= parent.height() - 16:
                return

    def place(self) -> None:
        """Stand in the middle of the window."""
        parent = self.parentWidget()
        if parent is not None:
            self._fit(parent)
            self.move((parent.width() - self.width()) // 2, (parent.height() - self.height()) // 2)
            self.raise_()
