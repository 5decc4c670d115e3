"""The daily backup on the Shop setup page, and the setup as a file for another bench."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.moments import in_words, local
from inner_rim.core.record.texts import cleaned
from inner_rim.desktop.widgets.cards import small_note, titled_column
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.editing.settings import Settings
from inner_rim.work.storage.source import DailyBackup

MOST_PATH = 1000
LOOK_EVERY_MS = 2000


class BackupCard(QFrame):
    """A folder is typed or chosen once; a copy is made there every day that the program is opened."""

    export_wanted = pyqtSignal()
    import_wanted = pyqtSignal()

    def __init__(
        self, settings: Settings, backups: DailyBackup | None, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._settings, self._backups = settings, backups
        column = titled_column(self, tr("Backup, every day: seven days and four weeks are kept"), theme)
        self.folder = EntryField()
        self.folder.setPlaceholderText(tr("Another folder, such as a drive"))
        self.folder.setAccessibleName(tr("Folder for backups"))
        self.folder.setFixedHeight(theme.px(TARGET_PX))
        self.folder.setText(settings.own.backup_folder)
        self.folder.entered.connect(self._typed)
        choose = QPushButton(tr("Choose…"))
        choose.setFixedHeight(theme.px(TARGET_PX))
        choose.clicked.connect(lambda _on: self._choose())
        row = QHBoxLayout()
        row.addWidget(self.folder, 1)
        row.addWidget(choose)
        self.words = small_note(theme)
        files = QVBoxLayout() if theme.large else QHBoxLayout()
        for words, wanted in ((tr("Export setup and shelf…"), self.export_wanted), (tr("Import…"), self.import_wanted)):
            button = QPushButton(words)
            button.setFixedHeight(theme.px(TARGET_PX))
            button.clicked.connect(lambda _on, s=wanted: s.emit())
            files.addWidget(button)
        column.addLayout(row)
        column.addWidget(self.words)
        column.addLayout(files)
        column.addStretch(1)
        self.refresh()
        timer = QTimer(self)  # copies are made in the worker's thread
        timer.timeout.connect(self.refresh)
        timer.start(LOOK_EVERY_MS)

    def _choose(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, tr("Folder for backups"), self.folder.text())
        if chosen:
            self.folder.setText(chosen)
            self._typed()

    def _typed(self) -> None:
        folder = cleaned(self.folder.text()).strip()[:MOST_PATH]
        self._settings.set_own(backup_folder=folder)
        if self._backups is not None:
            self._backups.use_folder(folder)
        self.refresh()

    def refresh(self) -> None:
        folder = self._settings.own.backup_folder
        if self._backups is None:
            self.words.setText(tr("These data are not backed up here."))
            return
        beside, there = self._backups.newest
        lines = [tr("Beside the data: {when}").format(when=_when(beside))]
        if folder:
            lines.append(tr("In {folder}: {when}").format(folder=folder, when=_when(there)))
        self.words.setText("\n".join(lines))


def _when(made_at: datetime | None) -> str:
    return in_words(local(made_at), "%a %d %b %H:%M") if made_at is not None else tr("none yet")
