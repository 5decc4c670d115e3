"""A row of choices: arrows or first letters choose, Space takes back, Enter goes on without
changing; a letter that several begin with goes from one to the next.
"""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from inner_rim.desktop.widgets.theme import SMALL, Theme
from inner_rim.words import tr


class ChoiceButton(QPushButton):
    """One choice; keys that concern the whole row go to it."""

    key_pressed = pyqtSignal(object)
    pointed = pyqtSignal()
    letters: frozenset[str] = frozenset()

    def event(self, event: QEvent | None) -> bool:
        """Take the letters that choose in this row before the window's shortcuts do."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and not event.modifiers()
            and event.text().lower() in self.letters
        ):
            event.accept()
            return True
        return super().event(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        super().mouseReleaseEvent(event)
        if (
            event is not None
            and self.isChecked()
            and self.rect().contains(event.position().toPoint())
        ):
            self.pointed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None:
            self.key_pressed.emit(event)
            if event.isAccepted():
                return
        super().keyPressEvent(event)


#: Most choices, and letters in all, in one row; more are put in several rows, so that no word is
#: cut.
MAX_IN_A_ROW, MAX_LETTERS, IN_SEVERAL_ROWS = 5, 26, 3


#: Padding that counts when a row's width is divided, px.
AROUND_PX = 10


class Choices(QWidget):
    """Buttons of which one or none is chosen; one stop for Tab."""

    chosen = pyqtSignal(str)
    pointed = pyqtSignal()  # with the mouse
    entered = pyqtSignal()

    def __init__(
        self,
        label: str,
        words: dict[str, str],
        theme: Theme,
        equal: bool = False,
        each: int | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        metrics = QFontMetrics(theme.font(SMALL))
        self.buttons: dict[str, ChoiceButton] = {}
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(theme.px(3))
        if each is None:
            each = len(words) if len(words) <= MAX_IN_A_ROW else IN_SEVERAL_ROWS
            if not equal and sum(map(len, words.values())) > MAX_LETTERS:
                each = min(each, (len(words) + 1) // 2)
        for place, (value, word) in enumerate(words.items()):
            if place % each == 0:
                row = QHBoxLayout()
                row.setSpacing(theme.px(3))
                rows.addLayout(row)
            button = ChoiceButton(word)
            button.setCheckable(True)
            button.setFixedHeight(theme.target)
            button.setAccessibleName(f"{label}: {word}")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setStyleSheet(
                f"QPushButton {{ padding: 0; min-height: {theme.target - 2}px; font-size: {theme.type_px(SMALL)}px; }}"
                f'QPushButton[usual="true"], QPushButton:focus {{ min-height: {theme.target - 4}px; }}'  # a thicker border
            )
            button.clicked.connect(lambda on, v=value: self.chosen.emit(v if on else ""))
            button.pointed.connect(self.pointed)
            button.key_pressed.connect(self._key)
            # the same room around every word
            share = metrics.horizontalAdvance(word) + theme.px(AROUND_PX)
            row.addWidget(button, 1 if equal else share)
            self.buttons[value] = button
        for button in self.buttons.values():
            button.letters = frozenset(word[0].lower() for word in words.values())
        self.show_value("")

    def show_value(self, text: str, usual: str = "") -> None:
        """Show what is chosen, or what applies where nothing is; only one button is a stop for Tab."""
        stop = text if text in self.buttons else next(iter(self.buttons))
        for value, button in self.buttons.items():
            button.setChecked(value == text)
            tab = Qt.FocusPolicy.StrongFocus if value == stop else Qt.FocusPolicy.ClickFocus
            button.setFocusPolicy(tab)
            holds = "true" if value == usual and not text else "false"
            if button.property("usual") != holds:
                button.setProperty("usual", holds)
                button.setToolTip(tr("the shop's method") if holds == "true" else "")
                style = button.style()
                if style is not None:
                    style.unpolish(button)
                    style.polish(button)

    @property
    def is_open(self) -> bool:
        return not any(
            b.isChecked() or b.property("usual") == "true" for b in self.buttons.values()
        )

    def take_focus(self) -> None:
        values = list(self.buttons.values())
        target = next((button for button in values if button.isChecked()), values[0])
        target.setFocus(Qt.FocusReason.TabFocusReason)

    def _key(self, event: QKeyEvent) -> None:
        event.ignore()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()
            if not event.isAutoRepeat():
                self.entered.emit()
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        values = list(self.buttons)
        if step is not None:
            event.accept()
            here = next((i for i, b in enumerate(self.buttons.values()) if b.hasFocus()), 0)
            self._choose(values[(here + step) % len(values)])
            return
        letter = event.text().lower()
        alike = [
            v
            for v, b in self.buttons.items()
            if letter.isalnum() and b.text().lower().startswith(letter)
        ]
        if alike:  # a letter that several begin with goes from one to the next
            event.accept()
            chosen = next((v for v in alike if self.buttons[v].isChecked()), None)
            self._choose(alike[(alike.index(chosen) + 1) % len(alike) if chosen is not None else 0])

    def _choose(self, value: str) -> None:
        self.buttons[value].setFocus(Qt.FocusReason.TabFocusReason)
        self.chosen.emit(value)
