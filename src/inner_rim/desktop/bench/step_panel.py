"""The step panel: what to do, the figure it is about, what to look out for, and the answers."""

from collections.abc import Sequence

from PyQt6.QtCore import QRect, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.texts import cleaned
from inner_rim.desktop.bench.step_rows import StepRows
from inner_rim.desktop.commands.command import Focus
from inner_rim.desktop.commands.table import BY_ID, shown_key
from inner_rim.desktop.widgets.base import PlainLabel, Scrolling, discard, show_if
from inner_rim.desktop.widgets.cards import Flow
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import FIGURE, NOTE, STEP, TEXT, TITLE, Theme
from inner_rim.words import N_, tr
from inner_rim.work.text.panel import SLOTS, Answer, Ask, AskName, Now, Slot
from inner_rim.work.text.questions import Drawer

#: The commands under the answers in the work view, with what their buttons say.
WAYS = {
    "first_field": N_("Entries"),
    "show_plan": N_("Plan"),
    "show_choices": N_("Options"),
    "show_log": N_("Log"),
    "show_own": N_("Picture"),
}

#: What each of them opens.
DRAWERS: dict[str, Drawer] = {
    "first_field": "entries",
    "show_plan": "plan",
    "show_choices": "choices",
    "show_log": "log",
}
#: No limit to a widget's height, px.
MAX_PX = 16_777_215


def words_of(answer: Answer) -> str:
    """Return the words of an answer: its own, else its command's title; after its number."""
    words = answer.words or tr(BY_ID[answer.command].title)
    return f"{answer.number}  {words}" if answer.number else words


def caption(place: int, answer: Answer, typing: bool = False) -> str:
    """Return the text on the button of an answer: its words, and the key that works where the
    cursor is.

    Args:
        place: of the answer; Enter gives the first one, where it may.
        typing: letters are typed into a field: they are no keys there, and Enter goes on in the
            field.
    """
    key = shown_key(answer.command)
    if place == 0 and answer.enter:
        key = "Ctrl+Enter" if typing else "Enter"
    elif typing and not key.startswith("Ctrl"):
        key = ""
    return f"{words_of(answer)}   {key}" if key else words_of(answer)


class StepPanel(QFrame):
    """Its content comes from outside; it only shows and reports. The words scroll where there is no
    room; the answers stay.
    """

    commanded = pyqtSignal(str)
    one_done = pyqtSignal(int)
    pointed = pyqtSignal(int)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("role", "step")
        self._theme = theme
        self._now = Now("", "", [], ())
        self._target, self._working, self.far = "", True, False
        self.alone = False  # no picture beside it
        self._answers: tuple[Answer, ...] = ()
        self._asked_for: dict[Slot, tuple[str, tuple[object, ...]]] = {}
        self._typing, self._alarm = False, ""
        self._buttons: list[QPushButton] = []
        self._head, self._action, self._figure = PlainLabel(""), PlainLabel(""), PlainLabel("")
        self.rows = StepRows(theme)
        self.rows.chosen.connect(self.one_done)
        self.rows.pointed.connect(self.pointed)
        self._more: list[PlainLabel] = []
        self._cautions: list[PlainLabel] = []
        for label in (self._head, self._action):
            label.setWordWrap(True)
        self._head.setProperty("role", "muted")
        self._make_words()
        self.figure, self._figure_label = self._make_entry()
        self.reason, self._reason_label = self._make_entry()
        self.signature, self._signature_label = self._make_entry()
        self._asked = QWidget()
        self._asking = QGridLayout(self._asked)
        self._asking.setContentsMargins(0, 0, 0, 0)
        self._flow = Flow(theme.px(8))
        self._plains: list[QPushButton] = []
        self.ways = {name: QPushButton(tr(words)) for name, words in WAYS.items()}
        self._way_row = Flow(0)
        self._main = self._make_button("main")
        for name, button in self.ways.items():
            button.setProperty("role", "flat")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _on, n=name: self.commanded.emit(n))
            self._way_row.addWidget(button)
        self._back = self._make_button("flat")
        for button in (self._main, self._back):
            button.hide()
        self._column = QVBoxLayout(self)
        self._column.addWidget(self._head)
        self._column.addWidget(self._scroll, 1)
        self._column.addWidget(self._asked)
        self._column.addLayout(self._flow)
        self._column.addLayout(self._way_row)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._fit)
        self.set_theme(theme)

    def _make_words(self) -> None:
        """The sentence, its figure, what follows and what to look out for, in an area that scrolls."""
        self._words = QWidget()
        self._lines = QVBoxLayout(self._words)
        self._lines.setContentsMargins(0, 0, 0, 0)
        self._lines.addWidget(self._action)
        self._lines.addWidget(self._figure)
        self._lines.addWidget(self.rows)
        self._lines.addStretch(1)
        self._scroll = Scrolling(self._words)

    def _make_entry(self) -> tuple[EntryField, QLabel]:
        label = PlainLabel("")
        label.setProperty("role", "muted")
        entry = EntryField()
        entry.entered.connect(lambda: self.commanded.emit("entered"))
        label.setBuddy(entry)
        return entry, label

    @property
    def _entries(self) -> tuple[tuple[QLabel, EntryField], ...]:
        return (
            (self._figure_label, self.figure),
            (self._reason_label, self.reason),
            (self._signature_label, self.signature),
        )

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.rows.set_theme(theme)
        self._figure.setStyleSheet(theme.type_style(FIGURE, 600))
        for label, entry in self._entries:
            label.setFont(theme.font(TEXT))
            entry.setFixedHeight(theme.target)
        self.figure.setFixedWidth(theme.px(120))
        for entry in (self.reason, self.signature):
            entry.setMinimumWidth(theme.px(120))
            entry.setMaximumWidth(theme.px(220))
        for button in self.ways.values():
            button.setFixedHeight(theme.target)
        self._column.setSpacing(theme.px(6))
        self._asking.setHorizontalSpacing(theme.px(10))
        self._asking.setVerticalSpacing(0)
        self._dress()

    def _dress(self) -> None:
        """Give the words their sizes: large where the step is the screen, small beside the fields
        of a check-in.
        """
        theme, working = self._theme, self._working
        self._head.setFont(theme.font(NOTE if working else TEXT))
        self._action.setStyleSheet(theme.type_style(STEP if working else NOTE, 600))
        small = NOTE if working else TEXT
        for line in self._more:
            line.setStyleSheet(theme.type_style(small))
        for line in self._cautions:
            line.setStyleSheet(theme.type_style(small, 400, "caution"))
        self._lines.setSpacing(theme.px(8 if working else 2))
        self._column.setContentsMargins(theme.px(18), theme.px(10), theme.px(14), theme.px(6))
        self.show_ways()
        over = working and not theme.large
        if over and self._column.indexOf(self._asked) < 0:
            self._flow.removeWidget(self._asked)
            self._column.insertWidget(2, self._asked)
        elif not over:  # in one row with the answers, behind them
            self._column.removeWidget(self._asked)
            self._flow.removeWidget(self._asked)
            self._flow.addWidget(self._asked)
        # a label is over its entry, or before it
        for place, (label, entry) in enumerate(self._entries):
            self._asking.addWidget(label, 0, place if over else 2 * place)
            self._asking.addWidget(entry, 1 if over else 0, place if over else 2 * place + 1)
        for column in range(8):
            self._asking.setColumnStretch(column, 1 if column == 6 else 0)
        for button in (self._main, *self._plains, self._back):
            self._dress_button(button)
        self._fit()

    def show_ways(self) -> None:
        """Show what opens beside the step; its picture only where that is not in view."""
        for name, button in self.ways.items():
            wanted = self._working and not self.far
            show_if(button, wanted and (self.alone or name != "show_own"))

    def _dress_button(self, button: QPushButton) -> None:
        theme, flat = self._theme, button.property("role") == "flat"
        large = self._working and not flat
        high = theme.answer if large else theme.target
        inner = high if flat else high - 2  # without an edge, or with one
        button.setFixedHeight(high)
        style = f"min-height: {inner}px; max-height: {high}px; {theme.type_style(NOTE if large else TEXT)}"
        button.setStyleSheet(style)

    # -- showing ---------------------------------------------------------------------------------

    def show_now(self, now: Now, target: str = "", working: bool = True, pointed: int = 0) -> None:
        """Show the next action with its figure, or several, what follows, its cautions, the entries
        it needs, and its answers.
        """
        self._point(now, pointed)
        if (now, target, working) == (self._now, self._target, self._working):
            return
        before, self._now, self._target = self._now, now, target
        dressed = working == self._working
        self._working = working
        self._ask(now.asks)
        self._head.setText(now.head if working else now.quiet)
        show_if(self._head, working or bool(now.quiet))
        self._head.setToolTip(now.quiet if working else "")
        self._show_action()
        self._figure.setText(target)
        show_if(self._figure, bool(target) and working)
        if (now.more, now.cautions) != (before.more, before.cautions):
            self._more = self._show_lines(self._more, list(now.more), 3)
            signs = [f"!\u2002{words}" for words in now.cautions]
            self._cautions = self._show_lines(self._cautions, signs, 3 + len(self._more))
            dressed = False
        said = now.action or " ".join(f"{n}  {one.words}" for n, one in enumerate(now.steps, 1))
        self.setAccessibleName(f"{now.head}. {said}")
        self.setAccessibleDescription(" ".join((target, *now.more, *now.cautions)).strip())
        self._show_answers(now.answers)
        if dressed:
            self._soon.start()
        else:
            self._dress()
        self._scroll.ensureVisible(0, 0)

    def _show_action(self) -> None:
        words = self._alarm or self._now.action
        self._action.setText(words)
        show_if(self._action, bool(words) or not self._now.steps)

    def _point(self, now: Now, pointed: int) -> None:
        """Show the steps of a list, and the one that is pointed to."""
        new = now.steps != self.rows.steps
        show_if(self.rows, bool(now.steps))
        self.rows.show_steps(now.steps, pointed)
        if new:
            self._soon.start()
        elif (row := self.rows.row_in_view) is not None:
            self._scroll.ensureWidgetVisible(row, 0, 0)

    def _show_lines(
        self, labels: Sequence[QLabel], texts: list[str], place: int
    ) -> list[PlainLabel]:
        for old in labels:
            self._lines.removeWidget(old)
            discard(old)
        made: list[PlainLabel] = []
        for text in texts:
            label = PlainLabel(text)
            label.setWordWrap(True)
            self._lines.insertWidget(place + len(made), label)
            made.append(label)
        return made

    def _ask(self, asks: Sequence[Ask]) -> None:
        """Show the entries of what is asked for, and no other."""
        key, by_slot = shown_key("reached"), {ask.slot: ask for ask in asks}
        for slot, (label, entry) in zip(SLOTS, self._entries, strict=True):
            words = by_slot[slot].label if slot in by_slot else ""
            label.setText(
                f"{words}   {key}" if words and entry is self.figure and not self._typing else words
            )
            show_if(label, bool(words))
            show_if(entry, bool(words))
            entry.setAccessibleName(words)

    def prefill(self, mark: tuple[object, ...]) -> None:
        """Put what is most likely into the entries, where another thing is asked, or what that
        depends on is another; a name only into an empty one.
        """
        for ask in self._now.asks:
            entry, before = self._entry(ask.slot), self._asked_for.get(ask.slot, ("", ()))
            same, at_wheel = before[0] == ask.name, before[1][:1] == mark[:1]
            if before == (ask.name, mark) or (same and ask.stays and at_wheel):
                continue
            self._asked_for[ask.slot] = ask.name, mark
            if ask.slot == "signature":
                entry.setText(entry.text() or ask.prefill)
            elif not (same and entry.hasFocus() and entry.isModified()):
                entry.setText(ask.prefill)
                entry.setModified(False)
        self._asked_for = {ask.slot: self._asked_for[ask.slot] for ask in self._now.asks}

    def _entry(self, slot: Slot) -> EntryField:
        return self._entries[SLOTS.index(slot)][1]

    def _show_answers(self, answers: tuple[Answer, ...]) -> None:
        """Show a button for each answer; buttons are reused, as making one costs more than painting
        it.
        """
        if answers != self._answers:
            had_focus = any(button.hasFocus() for button in self._buttons)
            before, plain = self._buttons, 0
            self._buttons = []
            for place, answer in enumerate(answers):
                if answer.command == "back":
                    button = self._back
                elif place == 0:
                    button = self._main
                else:
                    plain += 1
                    button = self._plain(plain)
                self._put_answer(button, place, answer)
                self._buttons.append(button)
            self._answers = answers
            for button in before:
                if button not in self._buttons:
                    button.hide()
            if had_focus and self._buttons:
                self._buttons[0].setFocus()

    def _plain(self, place: int) -> QPushButton:
        """A button for an answer that is neither the main one nor Undo step."""
        while len(self._plains) < place:
            self._plains.append(self._make_button())
            if self._flow.indexOf(self._asked) >= 0:  # the entries stay behind the answers
                self._flow.removeWidget(self._asked)
                self._flow.addWidget(self._asked)
        return self._plains[place - 1]

    def _make_button(self, role: str = "") -> QPushButton:
        button = QPushButton()
        button.setProperty("role", role)
        button.clicked.connect(lambda _on: self.commanded.emit(str(button.property("command"))))
        self._dress_button(button)
        (self._way_row if role == "flat" else self._flow).addWidget(button)
        return button

    def _put_answer(self, button: QPushButton, place: int, answer: Answer) -> None:
        button.setDown(False)  # a finger already on it did not mean its new words
        # Qt would take it for a mnemonic
        button.setText(caption(place, answer, self._typing).replace("&", "&&"))
        button.setAccessibleName(words_of(answer))
        button.setProperty("command", answer.command)
        button.setProperty("enter", answer.enter)
        button.setCheckable(answer.checked is not None)
        button.setChecked(bool(answer.checked))
        show_if(button, True)  # now, so that it can take the focus at once

    def show_typing(self, typing: bool) -> None:
        if typing == self._typing:
            return
        self._typing = typing
        for place, (button, answer) in enumerate(zip(self._buttons, self._answers, strict=False)):
            button.setText(caption(place, answer, typing).replace("&", "&&"))
        self._ask(self._now.asks)
        self._soon.start()

    def show_open(self, name: str) -> None:
        for way, button in self.ways.items():
            button.setChecked(DRAWERS.get(way) == name)

    def show_alarm(self, words: str, alarm: str) -> None:
        """Show an alarm of the gauge in place of the sentence; empty words for none."""
        if words == self._alarm:
            return
        self._alarm = words
        theme = self._theme
        self._show_action()
        purpose = {"near": "caution", "over": "stop"}.get(alarm if words else "", "")
        self.setStyleSheet(
            f"QFrame[role='step'] {{ background: {theme.color(purpose + '_soft').name()};"
            f" border: 3px solid {theme.color(purpose).name()}; }}"
            if purpose
            else ""
        )
        self._soon.start()

    # -- its size --------------------------------------------------------------------------------

    def _fit(self) -> None:
        """Beside the fields of a check-in it is as high as its words; a step has all the room there
        is.
        """
        layout = self.layout()
        if layout is None:
            return
        if self._working:
            least, most, high = self._theme.px(STEP), MAX_PX, MAX_PX
            self._action.setStyleSheet(self._theme.type_style(self._step_size(), 600))
            viewport = self._scroll.viewport()
            if self.rows.steps and viewport is not None:
                self.rows.fit(viewport.width(), viewport.height())
        else:
            wide = max(100, self.width() - self._theme.px(34))
            least = most = min(self._lines.heightForWidth(wide), self._theme.px(120))
            high = 0
        if (least, most) != (self._scroll.minimumHeight(), self._scroll.maximumHeight()):
            self._scroll.setMinimumHeight(least)
            self._scroll.setMaximumHeight(most)
            layout.invalidate()
        high = high or layout.totalHeightForWidth(self.width())
        if high != self.maximumHeight():
            self.setMaximumHeight(high)

    def _step_size(self) -> int:
        """The size of the sentence: a smaller one where its figure and the cautions would not be in
        view with it.
        """
        viewport = self._scroll.viewport()
        if viewport is None or viewport.height() < self._theme.px(STEP):
            return STEP
        wide = viewport.width()
        others = [
            label for label in (self._figure, *self._more, *self._cautions) if not label.isHidden()
        ]
        gaps = self._lines.spacing() * len(others)
        high = sum(
            label.heightForWidth(wide) if label.wordWrap() else label.sizeHint().height()
            for label in others
        )
        room = QRect(0, 0, wide, MAX_PX)
        metrics = QFontMetrics(self._theme.font(STEP, 600))
        sentence = metrics.boundingRect(
            room, int(Qt.TextFlag.TextWordWrap), self._action.text()
        ).height()
        return STEP if sentence + gaps + high <= viewport.height() else TITLE

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._soon.start()

    # -- focus and entries -----------------------------------------------------------------------

    def focus_main(self) -> None:
        if self._buttons:
            self._buttons[0].setFocus(Qt.FocusReason.OtherFocusReason)

    def focus_on(self, where: Focus) -> None:
        ask = next((one for one in self._now.asks if one.name == where), None)
        if ask is not None:
            self._entry(ask.slot).setFocus(Qt.FocusReason.TabFocusReason)
        elif where == "main":
            self.focus_main()

    def typed(self) -> dict[AskName, str]:
        """Return what is typed where something is asked for, without what cannot be stored."""
        return {ask.name: cleaned(self._entry(ask.slot).text()) for ask in self._now.asks}

    @property
    def answers(self) -> tuple[Answer, ...]:
        return self._answers

    def set_pressure(self, text: str) -> None:
        """Put a pressure into its entry, where one is asked for; never over what is typed."""
        asked = any(ask.name in ("pressure", "reading", "handed") for ask in self._now.asks)
        if asked and not (self.figure.hasFocus() and self.figure.isModified()):
            self.figure.setText(text)
            self.figure.setModified(False)
