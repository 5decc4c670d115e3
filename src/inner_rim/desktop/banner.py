"""The header and the banner under it: pages, what is wrong with storing, and what can be done about
it.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.desktop.commands.table import BY_ID, shown_key
from inner_rim.desktop.widgets.base import PlainLabel, plain_tip
from inner_rim.desktop.widgets.theme import SMALL, TARGET_PX, TEXT, Theme
from inner_rim.words import N_, tr
from inner_rim.work.bench import Bench, as_file
from inner_rim.work.tasks import rescue

MAX_NAMED = 3


class StorageBanner(QFrame):
    """Says why work is not stored, for now or for good, until the cause is gone.

    Args:
        export: exports everything; returns whether a file was written.

    Attributes:
        data_file: the local data file, None on a server and for the demo.
    """

    def __init__(
        self, bench: Bench, theme: Theme, export: Callable[[], bool], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._bench, self._export_work = bench, export
        self.data_file: Path | None = None
        self._backup: tuple[Path, str] | None = None
        self._looked_for: object = None
        bench.sync.before_replacing = self._keep_work_and_say
        self.setProperty("role", "problem")
        self.words = PlainLabel("")
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setWordWrap(True)
        self.again = self._button(tr("Try again"), self._try_again)
        self.discard = self._button(tr("Discard it"), self._discard_unsaved)
        self.restore = self._button("", self._restore)
        self.moved = self._button("", self._save_open_data)
        self.fresh = self._button(tr("Set the file aside and start fresh"), self._start_fresh)
        self.export = self._button(tr("Export the work…"), self._export)
        column = QVBoxLayout(self)
        column.addWidget(self.words)
        row = QHBoxLayout()
        for button in self._buttons:
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        self.set_theme(theme)
        self.hide()

    @property
    def _buttons(self) -> tuple[QPushButton, ...]:
        return self.again, self.moved, self.restore, self.fresh, self.export, self.discard

    def _button(self, words: str, action: Callable[[], None]) -> QPushButton:
        button = QPushButton(words)
        button.clicked.connect(lambda _on: action())
        return button

    def set_theme(self, theme: Theme) -> None:
        for button in self._buttons:
            button.setFixedHeight(theme.px(TARGET_PX))

    def refresh(self) -> None:
        sync = self._bench.sync
        sentences = [sync.fault.sentence] if sync.fault is not None else []
        sentences += self._kept_words()
        lost = [row.key for row in sync.unreadable if row.table == "jobs"]
        if lost:
            sentences.append(
                tr("{n} jobs on the bench cannot be read. They are kept as they are.").format(
                    n=len(lost)
                )
                if len(lost) > 1
                else tr("A job on the bench cannot be read. It is kept as it is.")
            )
        for job in list(sync.unopened.values())[:MAX_NAMED]:
            sentences.append(
                tr(
                    "{name} cannot be opened. It is kept as it is; export the work to look into it."
                ).format(name=job.title[:80])
            )
        if sync.notice:
            sentences.append(sync.notice)
        damaged = self._damage() or (sync.unreadable if lost else None)
        if (damaged, self.data_file) != self._looked_for:
            self._looked_for = (damaged, self.data_file)
            self._backup = (
                rescue.newest_backup(self.data_file)
                if damaged is not None and self.data_file
                else None
            )
        if damaged is not None and self.data_file is not None:
            sentences.append(
                tr("The newest backup was made {when}.").format(when=self._backup[1])
                if self._backup
                else tr("There is no backup of it.")
            )
        self.words.setText("\n".join(sentences))
        self.restore.setVisible(damaged is not None and self._backup is not None)
        self.restore.setText(
            tr("Restore the backup of {when}").format(when=self._backup[1] if self._backup else "")
        )
        self.fresh.setVisible(
            damaged is not None and self.data_file is not None and sync.fault is damaged
        )
        moved = rescue.moved(sync.fault)
        self.moved.setVisible(moved is not None and self.data_file is not None)
        self.moved.setText(
            tr("Keep a copy, use the file that is there")
            if moved is not None and moved.there
            else tr("Write the data back")
        )
        self.again.setVisible(bool(sync.kept))
        self.discard.setVisible(bool(sync.kept) and self.data_file is not None)
        self.export.setVisible(sync.fault is not None or bool(sync.kept) or bool(sync.unopened))
        self.setVisible(bool(sentences))

    def _kept_words(self) -> list[str]:
        kept = self._bench.sync.kept
        if not kept:
            return []
        named = "; ".join(f"{one.words[:80]} ({one.fault.sentence})" for one in kept[:MAX_NAMED])
        more = tr("; and {n} more").format(n=len(kept) - MAX_NAMED) if len(kept) > MAX_NAMED else ""
        return [tr("Not stored: {what}").format(what=named + more)]

    def _damage(self) -> object:
        """The fault that a backup would help against, None where there is none."""
        sync = self._bench.sync
        return rescue.damage((sync.fault, *(kept.fault for kept in sync.kept)))

    # -- what can be done --------------------------------------------------------------------------

    def _try_again(self) -> None:
        if self._bench.worker is not None:
            self._bench.worker.try_again()

    def _export(self) -> None:
        self._export_work()

    def _discard_unsaved(self) -> None:
        """Show the stored data again; what could not be stored is written to a file first."""
        if self._keep_work():
            self._bench.discard_unsaved()

    def _restore(self) -> None:
        """Restore the backup; what is on screen is written beside it first."""
        worker = self._bench.worker
        if worker is not None and self._backup is not None and self.data_file is not None:
            if not self._keep_work():
                return
            worker.reopen(rescue.restoring(self._backup[0], self.data_file), replaced=True)
            self._bench.say(tr("Restoring the backup of {when}").format(when=self._backup[1]))

    def _save_open_data(self) -> None:
        """Write what is open back to its place; where another file is, beside it, and use that one."""
        worker, file = self._bench.worker, self.data_file
        moved = rescue.moved(self._bench.sync.fault)
        if worker is None or file is None or moved is None:
            return
        if not moved.there:
            worker.save_open_data(file, replaced=False)
        elif self._keep_work():
            copy = rescue.kept_name(file)
            worker.save_open_data(copy, replaced=True)
            self._bench.say(tr("The data that were open are kept in {file}").format(file=copy.name))

    def _start_fresh(self) -> None:
        worker = self._bench.worker
        if worker is not None and self.data_file is not None and self._keep_work():
            worker.reopen(rescue.setting_aside(self.data_file))

    def _keep_work_and_say(self) -> str:
        """Save what is on screen before restored data replace it; return the file."""
        self._keep_work()
        return self._bench.message

    def _keep_work(self) -> bool:
        """Write what is on screen into a file beside the data, so that nothing of it can be lost."""
        from inner_rim.core.record.errors import InputError
        from inner_rim.work.storage.files import write_whole

        assert self.data_file is not None
        stamp = self._bench.time.strftime("%Y-%m-%dT%H%M%S")
        target = self.data_file.with_name(f"unsaved-work-{stamp}.json")
        try:
            write_whole(target, as_file(self._bench))
            self._bench.say(tr("Written first: {file}").format(file=target))
        except InputError as fault:
            self._bench.say(fault.sentence)
            return False
        return True


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
        self._pages = {
            page: self._button(f"go_{page}", tr(words), "place") for page, words in PAGES.items()
        }
        for button in self._pages.values():
            button.setCheckable(True)
        self._column = column
        self._middle = QWidget()
        self._beside = QHBoxLayout(self._middle)
        self._beside.setContentsMargins(theme.px(10), 0, 0, 0)
        self._row.addWidget(self._middle, 1)
        self.buttons = {
            command: self._button(command, tr(words), "flat") for command, words in BUTTONS.items()
        }
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
