"""The header of the window: pages, messages, and the commands that are always there."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.desktop.commands.table import BY_ID, shown_key
from inner_rim.desktop.widgets.plain import PlainLabel, plain_tip
from inner_rim.desktop.widgets.theme import SMALL, TARGET_PX, TEXT, Theme
from inner_rim.words import N_, tr

#: The pages of the window, in the order of their keys.
PAGES = {
    "bench": N_("Bench"),
    "day": N_("Day"),
    "shelf": N_("Shelf"),
    "practice": N_("Setup"),
    "logbook": N_("Logbook"),
    "insights": N_("Insights"),
    "training": N_("Training"),
}
#: Commands with a button of their own, and the short words on it.
BUTTONS = {"tour": N_("Tour"), "undo": "↶", "redo": "↷", "actions": N_("Actions")}
#: A window narrower than this, at 100 % text, has no room for a message beside the buttons, px.
MESSAGE_BESIDE_PX = 900
#: Padding beside the words on a button of such a window, px.
NARROW_PADDING = 6


class Header(QWidget):
    """Buttons and one line of words; a press is sent as a command."""

    commanded = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._said: object = None
        self.message = PlainLabel("")
        self.message.setProperty("role", "muted")
        self.message.setWordWrap(True)
        self._bar = QWidget()
        self._row = QHBoxLayout(self._bar)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._bar)
        self._pages = {page: self._button(f"go_{page}", tr(words), "place") for page, words in PAGES.items()}
        for button in self._pages.values():
            button.setCheckable(True)
        self._column = column
        self._middle = QWidget()
        self._beside = QHBoxLayout(self._middle)
        self._beside.setContentsMargins(theme.px(10), 0, 0, 0)
        self._row.addWidget(self._middle, 1)
        self.buttons = {command: self._button(command, tr(words), "flat") for command, words in BUTTONS.items()}
        self.set_theme(theme)

    def _button(self, command: str, words: str, role: str) -> QPushButton:
        button = QPushButton(words)
        title, key = tr(BY_ID[command].title), shown_key(command)
        button.setToolTip(plain_tip(f"{title}   {key}"))
        button.setAccessibleName(title)
        button.setProperty("role", role)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda: self.commanded.emit(command))
        self._row.addWidget(button)
        return button

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._bar.setFixedHeight(theme.px(52))
        self._place_message()
        self._row.setContentsMargins(theme.px(18), 0, theme.px(12), 0)
        self._row.setSpacing(theme.px(2))
        for button in (*self._pages.values(), *self.buttons.values()):
            button.setFixedHeight(theme.px(TARGET_PX))

    def _place_message(self) -> None:
        """Put the message beside the buttons, or below them where there is no room."""
        theme = self._theme
        own_line = self.width() < theme.px(MESSAGE_BESIDE_PX)
        padding = f"QPushButton {{ padding: 0 {theme.px(NARROW_PADDING)}px; }}" if own_line else ""
        if self._bar.styleSheet() != padding:  # Qt polishes the buttons again
            self._bar.setStyleSheet(padding)
        place = self._column if own_line else self._beside
        if place.indexOf(self.message) < 0:
            place.addWidget(self.message)
        self.message.setContentsMargins(theme.px(18) if own_line else 0, 0, 0, 0)
        self.message.setFont(theme.font(SMALL if own_line else TEXT))
        self.message.setVisible(bool(self.message.text()) or not own_line)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place_message()

    def show_page(self, page: str) -> None:
        for name, button in self._pages.items():
            button.setChecked(name == page)

    def show_words(self, message: str, demo: bool) -> None:
        if (message, demo) == self._said:  # a layout costs more than a keystroke may
            return
        self._said = message, demo
        self.buttons["tour"].setVisible(demo)
        self.message.setText(message)
        self._place_message()
