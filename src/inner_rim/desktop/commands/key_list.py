"""The keys that matter; every other one is in the list of actions."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QWidget

from inner_rim.desktop.commands.table import KEYS_THAT_MATTER
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import NOTE, Theme
from inner_rim.words import tr


class KeyList(QWidget):
    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(tr("Keys"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        grid = QGridLayout(self)
        grid.setHorizontalSpacing(theme.px(18))
        grid.setVerticalSpacing(theme.px(4))
        for row, (key, words) in enumerate(KEYS_THAT_MATTER):
            name, what = PlainLabel(key), PlainLabel(tr(words))
            name.setFont(theme.font(NOTE, 600))
            what.setFont(theme.font(NOTE))
            what.setWordWrap(True)
            grid.addWidget(name, row, 0)
            grid.addWidget(what, row, 1)
            what.setMinimumHeight(what.fontMetrics().height() + 4)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(KEYS_THAT_MATTER), 1)
