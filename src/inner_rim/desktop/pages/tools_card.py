"""A measuring tool on the Setup page: its port, connect, simulator, and its state."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from inner_rim.core.record.texts import cleaned
from inner_rim.desktop.widgets.cards import small_note, titled_column
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.editing.settings import Settings
from inner_rim.work.tasks.tools import Tool

MOST_PORT = 200


class ToolCard(QFrame):
    """One tool: type its port once; it is kept and used again."""

    def __init__(
        self,
        title: str,
        tool: Tool,
        settings: Settings,
        theme: Theme,
        begin_simulator: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._tool, self._settings = tool, settings
        column = titled_column(self, title, theme)
        self.port = EntryField()
        self.port.setPlaceholderText(tr("ttyUSB0"))
        self.port.setAccessibleName(tr("Port of the {tool}").format(tool=title))
        self.port.setText(settings.own.ports.get(tool.kind, ""))
        self.port.entered.connect(self._connect)
        row = QHBoxLayout()
        row.addWidget(self.port, 1)
        buttons = ((tr("Connect"), self._connect), (tr("Simulator"), begin_simulator), (tr("Off"), tool.off))
        for words, action in buttons:
            button = QPushButton(words)
            button.setFixedHeight(theme.px(TARGET_PX))
            button.clicked.connect(lambda _on, a=action: a())
            row.addWidget(button)
        self.port.setFixedHeight(theme.px(TARGET_PX))
        self.words = small_note(theme, tool.words)
        column.addLayout(row)
        column.addWidget(self.words)

    def _connect(self) -> None:
        port = cleaned(self.port.text()).strip()[:MOST_PORT]
        if not port:
            self.words.setText(tr("Type the port first, such as ttyUSB0"))
            return
        name = port if "/" in port else f"/dev/{port}"
        own = self._settings.own
        self._settings.set_own(ports={**own.ports, self._tool.kind: port})
        self._tool.connect(name)

    def refresh(self) -> None:
        self.words.setText(self._tool.words)
