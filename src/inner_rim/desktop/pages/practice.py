"""Shop setup: each question on which good mechanics disagree, its methods, what speaks for each."""

from __future__ import annotations

import contextlib
from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.moments import DAYS
from inner_rim.core.record.paths import name_of
from inner_rim.core.record.practice import (
    PRACTICE_DEFAULTS,
    QUESTIONS,
    REASONS,
    SHELF_DEFAULTS,
    MethodQuestion,
)
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, number
from inner_rim.desktop.measuring.gauge import Gauge
from inner_rim.desktop.measuring.tools import Caliper
from inner_rim.desktop.pages.tools_card import BackupCard, HoursCard, ToolCard
from inner_rim.desktop.widgets.base import Page, PlainLabel, Scrolling
from inner_rim.desktop.widgets.cards import small_note, titled_column, titled_grid
from inner_rim.desktop.widgets.choices import Choices
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.desktop.widgets.theme import SMALL, TARGET_PX, Theme
from inner_rim.words import N_, tr
from inner_rim.work.editing.fields import field, text_of, value_of
from inner_rim.work.editing.form_draft import FormDraft
from inner_rim.work.editing.settings import Settings
from inner_rim.work.shop_methods import ShopMethods
from inner_rim.work.storage.source import DailyBackup

COLUMNS = 2


class PracticePage(Page):
    """A card per question; a method chosen here applies to every wheel that does not say otherwise."""

    export_wanted = pyqtSignal()
    import_wanted = pyqtSignal()

    def __init__(
        self,
        settings: Settings,
        methods: ShopMethods,
        theme: Theme,
        caliper: Caliper,
        gauge: Gauge,
        backups: DailyBackup | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._settings, self._methods, self._theme, self._backups = (
            settings,
            methods,
            theme,
            backups,
        )
        self._caliper, self._gauge = caliper, gauge
        self._draft = FormDraft(settings, "shop", self._accept)
        self._tool_cards: list[ToolCard] = []
        self.figures: dict[str, EntryField] = {}
        self._figure_units: dict[str, QLabel] = {}
        self._cards: list[tuple[QFrame, str]] = []
        for tool in (caliper.tool, gauge.tool):
            tool.changed.connect(self._tools_changed)
        self.choices: dict[str, Choices] = {}
        self._reasons: dict[str, QLabel] = {}
        self._scroll = Scrolling()
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 12)
        self.search = EntryField()
        self.search.setPlaceholderText(tr("Find a question, a method, a figure"))
        self.search.setAccessibleName(tr("Find in Shop setup"))
        self.search.textEdited.connect(lambda _text: self._lay_out())
        self.search.entered.connect(self._enter_first)
        column.addWidget(self.search)
        column.addWidget(self._scroll)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, theme.px(8), 0)
        grid.setSpacing(theme.px(10))
        intro = PlainLabel(
            tr(
                "The shop's methods, set once. A wheel can use another one at its stage; its plan names the method it used."
            )
        )
        intro.setProperty("role", "muted")
        intro.setWordWrap(True)
        grid.addWidget(intro, 0, 0, 1, COLUMNS)
        self.search.setFixedHeight(theme.px(TARGET_PX))
        self._cards = [(self._card(question), _searched(question)) for question in QUESTIONS]
        figures = " ".join(
            word for group in FIGURES.items() for word in (group[0], *group[1].values())
        )
        self._cards += [
            (self._figures_card(), tr("The shop's figures") + " " + figures),
            (
                self._hours_card(),
                tr(
                    "Opening hours and mechanics, days off, own hours, only one compressor, truing stand"
                )
                + " "
                + " ".join(map(tr, DAYS)),
            ),
            (self._caliper_card(), tr("Caliper port tool")),
            (self._gauge_card(), tr("Gauge port tool alarm sound")),
            (self._backup_card(), tr("Backup folder, export and import of the setup")),
        ]
        self._grid = grid
        self._none = PlainLabel(tr("Nothing matches."))
        self._none.setProperty("role", "muted")
        for column in range(COLUMNS):
            grid.setColumnStretch(column, 1)
        grid.setRowStretch(2 + len(self._cards), 1)
        grid.addWidget(self._none, 1 + len(self._cards), 0, 1, COLUMNS)
        self._lay_out()
        self._scroll.setWidget(page)
        self.refresh()

    def _lay_out(self) -> None:
        words = self.search.text().casefold().split()
        shown = 0
        for card, text in self._cards:
            result = all(word in text.casefold() for word in words)
            if result:
                self._grid.addWidget(card, 1 + shown // COLUMNS, shown % COLUMNS)
                shown += 1
            card.setVisible(result)
        self._none.setVisible(not shown)

    def _enter_first(self) -> None:
        """Enter goes into the first card that is shown."""
        card = next((card for card, _text in self._cards if not card.isHidden()), None)
        target = (
            next(
                (
                    w
                    for w in card.findChildren(QWidget)
                    if w.focusPolicy() & Qt.FocusPolicy.TabFocus
                ),
                None,
            )
            if card
            else None
        )
        if target is not None:
            target.setFocus(Qt.FocusReason.TabFocusReason)

    def focus_search(self) -> None:
        self.search.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _card(self, question: MethodQuestion) -> QFrame:
        theme = self._theme
        card = QFrame()
        column = titled_column(card, tr(question.words), theme)
        words = {method: _short(method) for method in question.methods}
        choices = Choices(tr(question.words), words, theme, equal=True)
        choices.chosen.connect(
            lambda value, q=question: self._methods.set(f"practice.{q.field}", value or None)
        )
        choices.entered.connect(self.focusNextChild)
        reason = small_note(theme)
        column.addWidget(choices)
        column.addWidget(reason)
        column.addStretch(1)
        self.choices[question.field], self._reasons[question.field] = choices, reason
        return card

    def _figures_card(self) -> QFrame:
        """Figures of the shop: injector, layers, gauge, the air and the height."""
        theme = self._theme
        card = QFrame()
        grid = titled_grid(card, tr("The shop's figures"), theme, 4)
        row = 1
        for group, figures in FIGURES.items():
            head = PlainLabel(tr(group))
            head.setFont(theme.font(SMALL, 600))
            grid.addWidget(head, row, 0, 1, 3)
            for path, words in figures.items():
                row += 1
                name = PlainLabel(tr(words))
                name.setProperty("role", "muted")
                entry = EntryField()
                entry.setFixedHeight(theme.px(TARGET_PX))
                entry.setAccessibleName(tr(words))
                entry.textEdited.connect(lambda text, p=path: self._take_figure(p, text))
                entry.entered.connect(self.focusNextChild)
                unit = PlainLabel("")
                unit.setProperty("role", "muted")
                for column, widget in enumerate((name, entry, unit)):
                    grid.addWidget(widget, row, column)
                self.figures[path], self._figure_units[path] = entry, unit
            row += 1
        self._fault = PlainLabel("")
        self._fault.setProperty("role", "stop")
        self._fault.setWordWrap(True)
        grid.addWidget(self._fault, row, 0, 1, 3)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(row + 1, 1)
        return card

    def _take_figure(self, path: str, text: str) -> None:
        self._draft.type_into(path, text)
        self._show_faults()

    def _show_faults(self) -> None:
        entries = {**self.figures, ALARM: self.alarm}
        problems = self._draft.problems(entries)
        self._fault.setText(
            "\n".join(f"{entries[path].accessibleName()}: {words}" for path, words in problems)
        )

    def _accept(self, path: str, text: str, units: UnitChoice) -> Callable[[], None]:
        value = alarm_share_of(text) if path == ALARM else value_of(field(path), text, units)
        return lambda: self._methods.set(path, value, typing=True)

    def _show_figures(self) -> None:
        shop, units = self._methods.shop, self._settings.own.units
        for path, entry in self.figures.items():
            spec, name = field(path), name_of(path)
            own, usual = (
                (shop.shelf, SHELF_DEFAULTS)
                if path in SHELF_FIGURES
                else (shop.practice, PRACTICE_DEFAULTS)
            )
            if not entry.hasFocus():
                entry.setText(
                    self._draft.text(path, text_of(spec, getattr(own, name, None), units))
                )
            entry.setPlaceholderText(text_of(spec, getattr(usual, name), units))
            self._figure_units[path].setText(units.unit(spec.kind).symbol if spec.kind else "")
        share = self._settings.alarm_share
        if not self.alarm.hasFocus():
            self.alarm.setText(
                self._draft.text(ALARM, f"{100.0 * share:g}" if share is not None else "")
            )
        self._show_faults()

    def _hours_card(self) -> HoursCard:
        self.hours = HoursCard(self._settings, self._theme)
        return self.hours

    def _caliper_card(self) -> ToolCard:
        card = ToolCard(
            tr("Caliper: three readings into the field you are in"),
            self._caliper.tool,
            self._settings,
            self._theme,
            self._caliper.begin_simulator,
        )
        self._tool_cards = [card]
        return card

    def _gauge_card(self) -> ToolCard:
        card = ToolCard(
            tr("Gauge: live pressure while seating"),
            self._gauge.tool,
            self._settings,
            self._theme,
            self._gauge.begin_simulator,
        )
        self._tool_cards.append(card)
        sound = QPushButton(tr("Sound the alarm"))
        sound.setCheckable(True)
        sound.setChecked(self._settings.own.alarm_sound)
        sound.setFixedHeight(self._theme.px(TARGET_PX))
        sound.clicked.connect(lambda on: self._settings.set_own(alarm_sound=on))
        self.alarm = EntryField()
        self.alarm.setPlaceholderText(tr("Alarm from 90 % of the limit"))
        self.alarm.setAccessibleName(tr("Alarm from, percent of the limit"))
        self.alarm.setFixedHeight(self._theme.px(TARGET_PX))
        self.alarm.textEdited.connect(lambda text: self._take_figure(ALARM, text))
        layout = card.layout()
        if isinstance(layout, QVBoxLayout):
            layout.addWidget(self.alarm)
            layout.addWidget(sound)
            layout.addStretch(1)
        return card

    def _backup_card(self) -> BackupCard:
        self.backup = BackupCard(self._settings, self._backups, self._theme)
        self.backup.export_wanted.connect(self.export_wanted)
        self.backup.import_wanted.connect(self.import_wanted)
        return self.backup

    def _tools_changed(self) -> None:
        for card in self._tool_cards:
            card.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        practice = self._methods.shop.practice
        for question in QUESTIONS:
            own = (getattr(practice, question.field) if practice is not None else None) or ""
            usual = getattr(PRACTICE_DEFAULTS, question.field) or ""
            self.choices[question.field].show_value(own, usual)
            used = own or usual
            lines = [
                f"{'▸' if method == used else '·'} {_short(method)}: {tr(REASONS[method])}"
                for method in question.methods
            ]
            self._reasons[question.field].setText("\n".join(lines))
        self._show_figures()
        self.hours.refresh()
        self.backup.refresh()


def _searched(question: MethodQuestion) -> str:
    """What a question is found by: its words, its methods, and what speaks for each."""
    methods = (f"{_short(method)} {tr(REASONS[method])}" for method in question.methods)
    return " ".join((tr(question.words), spoken(question.field), *methods))


def alarm_share_of(text: str) -> float | None:
    """Return the share of the limit from which the alarm sounds, None where nothing is typed.

    Raises:
        InputError: not 50 to 100 %.
    """
    plain = text.strip().rstrip("%").replace(",", ".").strip()
    if not plain:
        return None
    with contextlib.suppress(ValueError):
        share = number(plain) / 100.0
        if 0.5 <= share <= 1.0:
            return share
    raise InputError(tr("“{typed}”: type 50 to 100 percent of the limit").format(typed=text[:20]))


#: The setting of the gauge's alarm, and the figures that are the shelf's.
ALARM = "alarm_share"
SHELF_FIGURES = ("shelf.injector_ml",)
#: The shop's figures in groups.
FIGURES = {
    N_("Tape and sealant"): {
        "practice.layers": N_("Layers of tape"),
        "practice.sealant": N_("Sealant used"),
        "shelf.injector_ml": N_("Injector holds"),
    },
    N_("Gauge and air"): {
        "practice.gauge_step_kpa": N_("Gauge step"),
        "practice.shop_temperature_c": N_("Shop temperature"),
        "practice.shop_altitude_m": N_("Shop altitude"),
    },
}
SHORT = {
    "plus_two": N_("+2 mm"),
    "previous": N_("worked before"),
    "range": N_("printed range"),
    "base": N_("valve base"),
    "tested": N_("after the dry test"),
    "seated": N_("once seated"),
    "first": N_("before it seats"),
    "plain": N_("plain"),
    "finger": N_("finger on it"),
    "always": N_("always"),
    "if_it_leaks": N_("if it leaks"),
}


def _short(method: str) -> str:
    return tr(SHORT[method]) if method in SHORT else spoken(method)
