"""The now panel: one large next action, its caution, and the keys that answer it."""

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.texts import cleaned
from inner_rim.desktop.commands.command import Focus, Typed
from inner_rim.desktop.commands.table import BY_ID, shown_key
from inner_rim.desktop.widgets.discard import discard
from inner_rim.desktop.widgets.entry import Entry
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.text.panel import Answer, Now

#: Size of the words on buttons, the least of it in large text, and of head and cautions in large text, px.
BUTTON_PX, LEAST_BUTTON_PX, LARGE_PX = 14.5, 14, 12
#: Room of a button around its words, and least room before the last one, px.
BUTTON_ROOM_PX, BACK_ROOM_PX = 26, 8


def words_of(answer: Answer) -> str:
    """Return the words of an answer: its own, else its command's title."""
    return answer.words or tr(BY_ID[answer.command].title)


def caption(place: int, answer: Answer, typing: bool = False) -> str:
    """Return what stands on the button of an answer: its words, and the key that works where the cursor is.

    Args:
        place: of the answer; Enter gives the first one, where it may.
        answer: it.
        typing: letters are typed into a field: they are no keys there, and Enter goes on in the field.
    """
    key = shown_key(answer.command)
    if place == 0 and answer.enter:
        key = "Ctrl+Enter" if typing else "Enter"
    elif typing and not key.startswith("Ctrl"):
        key = ""
    return f"{words_of(answer)}   {key}" if key else words_of(answer)


#: The panel is no lower, so that it does not jump from step to step.
LEAST_PX = 146


class NowPanel(QFrame):
    """Dark card under the drawing. What it says comes from outside; it only shows and tells."""

    commanded = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("role", "now")
        self._theme = theme
        self._answers: tuple[Answer, ...] = ()
        self._typing = False
        self._buttons: list[QPushButton] = []
        self._fitted: tuple[object, ...] = ()
        self._head = PlainLabel("")
        self._action = PlainLabel("")
        self._caution = PlainLabel("")
        for label in (self._head, self._action, self._caution):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
        self._row, self._second_row = QHBoxLayout(), QHBoxLayout()
        self._buttons_made = (False, theme.column(BUTTON_PX))
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._lay_out_again)
        words = QVBoxLayout()
        words.setSpacing(theme.px(2))
        words.addWidget(self._action)
        words.addWidget(self._caution)
        words.addStretch(1)
        self._asking = QVBoxLayout()
        self._asking.setSpacing(theme.px(2))
        self._asking.addStretch(1)
        self.figure, self._figure_label = self._make_entry()
        self.reason, self._reason_label = self._make_entry()
        self.signature, self._signature_label = self._make_entry()
        words.insertWidget(0, self._head)
        top = QHBoxLayout()
        top.addLayout(words, 1)
        top.addLayout(self._asking)
        column = QVBoxLayout(self)
        column.setContentsMargins(theme.px(18), theme.px(8), theme.px(14), theme.px(10))
        column.addLayout(top, 1)
        column.addLayout(self._row)
        column.addLayout(self._second_row)
        self.set_theme(theme)

    def _make_entry(self) -> tuple[Entry, QLabel]:
        label = PlainLabel("")
        label.setAlignment(Qt.AlignmentFlag.AlignRight)
        entry = Entry()
        entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        entry.entered.connect(lambda: self.commanded.emit("entered"))
        self._asking.addWidget(label)
        self._asking.addWidget(entry)
        return entry, label

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme."""
        self._theme = theme
        self._head.setFont(theme.font(LARGE_PX if theme.large else 14))
        self._caution.setFont(theme.font(LARGE_PX if theme.large else 14))
        self._caution.setStyleSheet(f"color: {theme.tokens.caution_on_ink};")
        for label in (self._figure_label, self._reason_label, self._signature_label):
            label.setStyleSheet(f"font-size: {theme.px(13)}px;")
        for entry in (self.figure, self.reason, self.signature):
            wide = 96 if theme.large and entry is self.figure else 150
            entry.setFixedSize(theme.px(wide), theme.px(TARGET_PX - 6))
        for entry in (self.reason, self.signature):
            entry.setStyleSheet(f"font-size: {theme.px(17)}px;")
        answers, self._answers = self._answers, ()
        self._show_answers(answers)
        self._fit()

    def _fit(self) -> None:
        """Make the action as large as it fits into one row, and the panel as high as its words: none is cut."""
        theme = self._theme
        asked = max(
            (
                entry.width() + theme.px(12)
                for label, entry in (
                    (self._figure_label, self.figure),
                    (self._reason_label, self.reason),
                    (self._signature_label, self.signature),
                )
                if label.text()
            ),
            default=0,
        )
        width = max(200, self.width() - theme.px(32) - asked)
        self._action.setFont(theme.fitted(self._action.text(), width, 23, 14 if theme.large else 17, 600))
        layout = self.layout()
        assert layout is not None
        layout.invalidate()
        least = LEAST_PX if theme.large else theme.px(LEAST_PX)  # large text leaves no room to spare
        self.setMinimumHeight(max(least, layout.heightForWidth(self.width())))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Fit the action anew."""
        super().resizeEvent(event)
        self._fit()
        self._measure_soon()

    def showEvent(self, event: QShowEvent | None) -> None:
        """Measure the answers, which are not measured while nobody sees them."""
        super().showEvent(event)
        self._measure_soon()

    def _measure_soon(self) -> None:
        if self._measure_buttons(self._answers) != self._buttons_made:
            self._soon.start()  # not while it is being laid out

    def show_now(self, now: Now) -> None:
        """Show the next action, its cautions, the entries it needs, and its answers."""
        head, action, cautions, answers = now.head, now.action, now.cautions, now.answers
        self._ask(now.figure, now.signature, now.reason)
        self._head.setText(head)
        self._action.setText(action)
        self._caution.setText("  ".join(cautions))  # every one: the panel grows
        self._caution.setVisible(bool(cautions))
        self.setAccessibleName(f"{head}. {action}")
        self._show_answers(answers)
        fitted = (head, action, tuple(cautions), now.figure, now.signature, now.reason, self._in_two_rows)
        if fitted != self._fitted:
            self._fitted = fitted
            self._fit()

    def _ask(self, figure: str = "", signature: str = "", reason: str = "") -> None:
        """Show the entries that are needed, by their labels; empty hides one."""
        for label, entry, words in (
            (self._figure_label, self.figure, figure),
            (self._reason_label, self.reason, reason),
            (self._signature_label, self.signature, signature),
        ):
            label.setText(words)
            label.setVisible(bool(words))
            entry.setVisible(bool(words))
            entry.setAccessibleName(words)

    def _show_answers(self, answers: tuple[Answer, ...]) -> None:
        if [(a.words, a.command) for a in answers] != [(a.words, a.command) for a in self._answers]:
            had_focus = any(button.hasFocus() for button in self._buttons)
            before, self._buttons, self._answers = self._buttons, [], answers
            for button in before:
                discard(button)
            for row in (self._row, self._second_row):
                while row.takeAt(0) is not None:
                    pass
            self._buttons_made = self._measure_buttons(answers)
            half = (len(answers) + 1) // 2 if self._in_two_rows else len(answers)
            self._buttons = [
                self._make_button(i, answer, self._row if i < half else self._second_row)
                for i, answer in enumerate(answers)
            ]
            for row, mine in ((self._row, answers[:half]), (self._second_row, answers[half:])):
                if not any(answer.command == "back" for answer in mine):
                    row.addStretch(1)
            if had_focus and self._buttons:
                self._buttons[0].setFocus()
        for button, answer in zip(self._buttons, answers, strict=True):
            if answer.checked is not None:
                button.setChecked(answer.checked)
        self._answers = answers

    def show_typing(self, typing: bool) -> None:
        """Show the keys that work while a field is typed into, or while none is."""
        if typing != self._typing:
            self._typing = typing
            for place, (button, answer) in enumerate(zip(self._buttons, self._answers, strict=False)):
                button.setText(caption(place, answer, typing).replace("&", "&&"))
            layout = self.layout()
            assert layout is not None
            layout.activate()
            self._measure_soon()

    def _lay_out_again(self) -> None:
        if self._measure_buttons(self._answers) != self._buttons_made:
            answers, self._answers = self._answers, ()
            self._show_answers(answers)
            self._fit()

    @property
    def _in_two_rows(self) -> bool:
        return self._buttons_made[0]

    def _measure_buttons(self, answers: tuple[Answer, ...]) -> tuple[bool, int]:
        """Return whether the answers need two rows, and the size of their words: none is ever cut, px."""
        usual = self._theme.column(BUTTON_PX)
        if not self.isVisible():
            return False, usual
        least = LEAST_BUTTON_PX if self._theme.large else usual
        room = self.width() - self._theme.px(32) - BACK_ROOM_PX
        for pixels in range(usual, least - 1, -1):
            metrics = QFontMetrics(self._theme.font(pixels / self._theme.scale, 400))
            words = (
                metrics.horizontalAdvance(caption(place, a, self._typing)) for place, a in enumerate(answers)
            )
            gaps = self._row.spacing() * max(0, len(answers) - 1)
            if sum(words) + BUTTON_ROOM_PX * len(answers) + gaps <= room:
                return False, pixels
        return True, usual

    def _make_button(self, place: int, answer: Answer, row: QHBoxLayout) -> QPushButton:
        button = QPushButton(
            caption(place, answer, self._typing).replace("&", "&&")
        )  # Qt would take it for a key
        button.setAccessibleName(words_of(answer))
        button.setFixedHeight(self._theme.px(TARGET_PX))
        look = f"padding: 0 9px; font-size: {self._buttons_made[1]}px;"
        if place == 0:
            button.setProperty("role", "main")
        button.setProperty("enter", answer.enter)
        if answer.command == "back":
            row.addStretch(1)
            look += " border: none;"
        button.setStyleSheet(look)
        if answer.checked is not None:
            button.setCheckable(True)
        command = answer.command
        button.clicked.connect(lambda _on: self.commanded.emit(command))
        row.addWidget(button)
        button.show()  # now, so that it can take the focus at once
        return button

    def focus_main(self) -> None:
        """Put the focus on the main action."""
        if self._buttons:
            self._buttons[0].setFocus(Qt.FocusReason.OtherFocusReason)

    def focus_on(self, where: Focus) -> None:
        """Put the focus on the main action or into an entry."""
        entry = {"figure": self.figure, "reason": self.reason, "signature": self.signature}.get(where)
        if entry is not None and entry.isVisible():
            entry.setFocus(Qt.FocusReason.TabFocusReason)
        elif where == "main":
            self.focus_main()

    def typed(self) -> Typed:
        """Return what stands in the entries, without what cannot be stored."""
        return Typed(cleaned(self.figure.text()), cleaned(self.reason.text()), cleaned(self.signature.text()))

    @property
    def answers(self) -> tuple[Answer, ...]:
        """What can be answered now."""
        return self._answers

    def set_figure(self, text: str) -> None:
        """Put a figure in, unless the hand is typing there."""
        if not (self.figure.hasFocus() and self.figure.isModified()):
            self.figure.setText(text)
            self.figure.setModified(False)
