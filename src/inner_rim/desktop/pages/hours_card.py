"""Opening hours, days off, mechanics, and what there is only one of: what the day is planned from."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.moments import DAYS
from inner_rim.core.record.texts import cleaned
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.schedule.wheels import RESOURCES
from inner_rim.desktop.widgets.cards import titled_grid
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.editing.day_settings import MOST_MECHANICS, DaySettings
from inner_rim.work.editing.form_draft import FormDraft
from inner_rim.work.editing.settings import Settings
from inner_rim.work.text.hours_words import days_off, opening_of, opening_text, own_hours_of, own_hours_text

#: Lines besides the days of the week, and the longest name of a mechanic.
OFF, NAMES, OWN = "days_off", "mechanics", "own_hours"
LONGEST_NAME = 80


class HoursCard(QFrame):
    """A line per day, one for days off, one for the mechanics; each applies as soon as it is understood."""

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
        shown = {day.lower(): opening_text(result) for day, result in zip(DAYS, hours.week, strict=True)}
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
        self.fault.setText("\n".join(f"{self.entries[name].accessibleName()}: {words}" for name, words in problems))

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
    if len(names) > MOST_MECHANICS:
        raise InputError(tr("{n} names: at most {most}").format(n=len(names), most=MOST_MECHANICS))
    for name in names:
        if len(name) > LONGEST_NAME:
            raise InputError(tr("“{typed}…”: at most {most} letters").format(typed=name[:20], most=LONGEST_NAME))
    return names
