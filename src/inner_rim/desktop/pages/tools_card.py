"""Cards of the Setup page: measuring tools, backups, opening hours."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

import msgspec
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.moments import DAYS, in_words, local
from inner_rim.core.record.texts import cleaned
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.day import RESOURCES
from inner_rim.desktop.widgets.base import PlainLabel
from inner_rim.desktop.widgets.cards import small_note, titled_column, titled_grid
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.editing.form_draft import FormDraft
from inner_rim.work.editing.settings import MAX_MECHANICS, DaySettings, Settings
from inner_rim.work.storage.files import folder_typed
from inner_rim.work.storage.source import DailyBackup
from inner_rim.work.tasks.tools import Tool
from inner_rim.work.text.hours_words import (
    days_off,
    opening_of,
    opening_text,
    own_hours_of,
    own_hours_text,
)

MAX_PORT = 200


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
        buttons = (
            (tr("Connect"), self._connect),
            (tr("Simulator"), begin_simulator),
            (tr("Off"), tool.off),
        )
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
        port = cleaned(self.port.text()).strip()[:MAX_PORT]
        if not port:
            self.words.setText(tr("Type the port first, such as ttyUSB0"))
            return
        name = port if "/" in port else f"/dev/{port}"
        own = self._settings.own
        self._settings.set_own(ports={**own.ports, self._tool.kind: port})
        self._tool.connect(name)

    def refresh(self) -> None:
        self.words.setText(self._tool.words)


MAX_PATH = 1000
LOOK_EVERY_MS = 2000


class BackupCard(QFrame):
    """A folder is typed or chosen once; a copy is made there every day that the program is opened."""

    export_wanted = pyqtSignal()
    import_wanted = pyqtSignal()

    def __init__(
        self,
        settings: Settings,
        backups: DailyBackup | None,
        theme: Theme,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._settings, self._backups = settings, backups
        column = titled_column(
            self, tr("Backup, every day: seven days and four weeks are kept"), theme
        )
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
        for words, wanted in (
            (tr("Export setup and shelf…"), self.export_wanted),
            (tr("Import…"), self.import_wanted),
        ):
            button = QPushButton(words)
            button.setFixedHeight(theme.px(TARGET_PX))
            button.clicked.connect(lambda _on, s=wanted: s.emit())
            files.addWidget(button)
        column.addLayout(row)
        column.addWidget(self.words)
        column.addLayout(files)
        column.addStretch(1)
        self._fault = _why_not(settings.own.backup_folder)
        self.refresh()
        timer = QTimer(self)  # copies are made in the worker's thread
        timer.timeout.connect(self.refresh)
        timer.start(LOOK_EVERY_MS)

    def _choose(self) -> None:
        chosen = QFileDialog.getExistingDirectory(
            self, tr("Folder for backups"), self.folder.text()
        )
        if chosen:
            self.folder.setText(chosen)
            self._typed()

    def _typed(self) -> None:
        folder = cleaned(self.folder.text()).strip()[:MAX_PATH]
        self._fault = _why_not(folder)
        if not self._fault:  # else it is said, and what was typed stays in its entry
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
        if folder and not _why_not(folder):
            lines.append(tr("In {folder}: {when}").format(folder=folder, when=_when(there)))
        if self._fault:
            lines.append(self._fault)
        self.words.setText("\n".join(lines))


def _why_not(folder: str) -> str:
    """Why a folder cannot be one, empty where it can."""
    try:
        folder_typed(folder)
    except InputError as fault:
        return fault.sentence
    return ""


def _when(made_at: datetime | None) -> str:
    return in_words(local(made_at), "%a %d %b %H:%M") if made_at is not None else tr("none yet")


#: Lines besides the days of the week, and the longest name of a mechanic.
OFF, NAMES, OWN = "days_off", "mechanics", "own_hours"
LONGEST_NAME = 80


class HoursCard(QFrame):
    """A line per day, one for days off, one for the mechanics; each applies as soon as it is
    understood.
    """

    def __init__(self, settings: Settings, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._day = DaySettings(settings)
        self._draft = FormDraft(settings, "hours", self._accept)
        grid = titled_grid(self, tr("Opening hours and mechanics"), theme, 2)
        self.entries: dict[str, EntryField] = {}
        lines = [(day.lower(), tr(day), tr("closed")) for day in DAYS]
        lines += [
            (OFF, tr("Days off"), tr("dates, such as 2026-12-24")),
            (NAMES, tr("Mechanics"), tr("names, or empty for one")),
            (OWN, tr("Own hours"), tr("R Sedge: Mon-Fri 8-12")),
        ]
        for row, (name, words, usual) in enumerate(lines, 1):
            label = PlainLabel(words)
            label.setProperty("role", "muted")
            entry = EntryField()
            entry.setFixedHeight(theme.px(TARGET_PX))
            entry.setAccessibleName(words)
            entry.setPlaceholderText(usual)
            entry.textEdited.connect(lambda text, n=name: self._type_into(n, text))
            entry.entered.connect(self.focusNextChild)
            grid.addWidget(label, row, 0)
            grid.addWidget(entry, row, 1)
            self.entries[name] = entry
        one_of = PlainLabel(tr("Only one"))
        one_of.setProperty("role", "muted")
        grid.addWidget(one_of, len(lines) + 1, 0)
        row_of = QHBoxLayout()
        self.resources: dict[str, QPushButton] = {}
        for name in RESOURCES:
            button = QPushButton(tr(name))
            button.setCheckable(True)
            button.setFixedHeight(theme.px(TARGET_PX))
            button.setToolTip(tr("The shop has one: wheels take turns at it"))
            button.clicked.connect(self._take_resources)
            row_of.addWidget(button)
            self.resources[name] = button
        grid.addLayout(row_of, len(lines) + 1, 1)
        self.fault = PlainLabel("")
        self.fault.setProperty("role", "stop")
        self.fault.setWordWrap(True)
        grid.addWidget(self.fault, len(lines) + 2, 0, 1, 2)
        grid.setColumnStretch(1, 1)
        self.refresh()

    def refresh(self) -> None:
        hours = self._day.hours
        shown = {
            day.lower(): opening_text(result) for day, result in zip(DAYS, hours.week, strict=True)
        }
        shown[OFF] = " ".join(day.isoformat() for day in hours.days_off)
        shown[NAMES] = ", ".join(self._day.mechanics)
        shown[OWN] = own_hours_text(self._day.mechanic_hours, self._day.mechanics)
        for name, entry in self.entries.items():
            if not entry.hasFocus():
                entry.setText(self._draft.text(name, shown[name]))
        for name, button in self.resources.items():
            button.setChecked(name in self._day.resources)
        self._show_faults()

    def _take_resources(self) -> None:
        result = [name for name, button in self.resources.items() if button.isChecked()]
        self._day.set("resources", result)

    def _type_into(self, name: str, text: str) -> None:
        self._draft.type_into(name, text)
        self._show_faults()

    def _show_faults(self) -> None:
        problems = self._draft.problems(self.entries)
        self.fault.setText(
            "\n".join(f"{self.entries[name].accessibleName()}: {words}" for name, words in problems)
        )

    def _accept(self, name: str, text: str, _units: UnitChoice) -> Callable[[], None]:
        setting, value = self._read(name, text)
        return lambda: self._day.set(setting, value, typing=True)

    def _read(self, name: str, text: str) -> tuple[str, object]:
        """Return the setting that a line is for, and its value with what was typed."""
        hours = self._day.hours
        if name == NAMES:
            return "mechanics", _names(text) or None
        if name == OWN:
            own = own_hours_of(cleaned(text), self._day.mechanics)
            return "mechanic_hours", own or None
        if name == OFF:
            hours = msgspec.structs.replace(hours, days_off=days_off(text))
        else:
            place = [day.lower() for day in DAYS].index(name)
            week = list(hours.week)
            week[place] = opening_of(text)
            hours = msgspec.structs.replace(hours, week=tuple(week))
        return "hours", hours


def _names(text: str) -> list[str]:
    """Return names that were typed, in their order.

    Raises:
        InputError: too many, or one too long.
    """
    names = [part.strip() for part in cleaned(text).split(",") if part.strip()]
    if len(names) > MAX_MECHANICS:
        raise InputError(tr("{n} names: at most {most}").format(n=len(names), most=MAX_MECHANICS))
    for name in names:
        if len(name) > LONGEST_NAME:
            raise InputError(
                tr("“{typed}…”: at most {most} letters").format(typed=name[:20], most=LONGEST_NAME)
            )
    return names
