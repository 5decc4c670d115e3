"""The bench page: wheels in work, drawing, inputs, picks, the next action and the pressure scale."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.record.units import entry_text
from inner_rim.desktop.bench.field_row import Stocked
from inner_rim.desktop.bench.first_run import FirstRun
from inner_rim.desktop.bench.inputs import InputsPanel
from inner_rim.desktop.bench.now_panel import NowPanel
from inner_rim.desktop.bench.picks import PicksColumn
from inner_rim.desktop.bench.stage_band import StageBand
from inner_rim.desktop.bench.view_deck import ViewDeck
from inner_rim.desktop.bench.wheel_list import WheelList
from inner_rim.desktop.bench.why_panel import WhyPanel
from inner_rim.desktop.commands.command import Outcome
from inner_rim.desktop.drawings.scale import PressureScale
from inner_rim.desktop.widgets.choices import ChoiceButton
from inner_rim.desktop.widgets.discard import discard
from inner_rim.desktop.widgets.page import Page
from inner_rim.desktop.widgets.plain import PlainLabel, plain_tip
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.tasks.gauge import GaugeSession
from inner_rim.work.text.heading import summary_text
from inner_rim.work.text.panel import Now
from inner_rim.work.text.tiles import Tile
from inner_rim.work.views import BenchView

#: Text larger than this has its tabs in two rows.
TABS_IN_LARGE_ROW, LEAST_CARD_PX = 4, 90
#: A window narrower than this is narrow; the width of the picks in it and otherwise, px.
NARROW_PX, PICKS_NARROW_PX, PICKS_PX = 1100, 290, 326
#: From this width on, a second drawing stands beside the first, px.
WIDE_PX = 1600
#: Room for the fields, and for long names in them where the window is wide.
INPUTS_PX, INPUTS_WIDE_PX = 308, 350


class _Lines(QWidget):
    """Two labels below each other, laid out by hand: a layout would lay out the whole window at every letter typed."""

    def __init__(self, first: PlainLabel, second: PlainLabel, gap: int) -> None:
        super().__init__()
        self._labels, self._gap = (first, second), gap
        for label in self._labels:
            label.setParent(self)

    def place(self) -> None:
        """Each label as high as its font, as wide as there is room."""
        top = 0
        for label in self._labels:
            high = label.fontMetrics().height() + 2
            label.setGeometry(0, top, self.width(), high)
            top += high + self._gap
        if self.minimumHeight() != top - self._gap:
            self.setFixedHeight(top - self._gap)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Give the labels the new width."""
        super().resizeEvent(event)
        self.place()


class BenchPage(Page):
    """One wheel in full, and the others beside it."""

    commanded = pyqtSignal(str, str)
    simulator_wanted = pyqtSignal(str)
    connect_wanted = pyqtSignal()
    off_wanted = pyqtSignal()

    def __init__(
        self, session: GaugeSession, stocked: Stocked, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._view: BenchView | None = None
        self._make(session, stocked, theme)
        self._connect()

    # -- making ------------------------------------------------------------------------------

    def _make(self, session: GaugeSession, stocked: Stocked, theme: Theme) -> None:
        self.wheels = WheelList(theme)
        self.band = StageBand(theme)
        self.inputs = InputsPanel(stocked, theme)
        self.deck = ViewDeck(session, theme)
        self._session = session
        self.beside: ViewDeck | None = None  # made where the window is wide
        self.why = WhyPanel(theme)
        self.now = NowPanel(theme)
        self.picks = PicksColumn(theme)
        self.scale = PressureScale(theme)
        self._count = PlainLabel("")
        self._count.setProperty("role", "muted")
        self._new = QPushButton(tr("+  New wheel"))
        self._again = QPushButton(tr("Duplicate   A"))
        for button in (self._new, self._again):
            button.setProperty("enter", False)  # Enter makes no second wheel
        self._again.setToolTip(
            tr("A wheel with the same parts in this job: the other end, or the next of a fleet")
        )
        self._name = PlainLabel("")
        self._summary = PlainLabel("")
        self._summary.setProperty("role", "muted")
        for label in (self._name, self._summary):
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setMinimumWidth(50)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(0)
        grid.setVerticalSpacing(0)
        grid.addWidget(self._left_column(theme), 0, 0)
        grid.addWidget(self._centre(theme), 0, 1)
        grid.addWidget(self.picks, 0, 2)
        grid.addWidget(self.scale, 1, 0, 1, 3)
        grid.setColumnStretch(1, 1)
        self._size(theme)

    def _left_column(self, theme: Theme) -> QWidget:
        self._left = QWidget()
        column = QVBoxLayout(self._left)
        column.setContentsMargins(theme.px(4), theme.px(6), theme.px(4), theme.px(10))
        head = QHBoxLayout()
        head.setContentsMargins(theme.px(12), 0, theme.px(10), 0)
        title = PlainLabel(tr("On the bench"))
        title.setProperty("role", "muted")
        head.addWidget(title, 1)
        head.addWidget(self._count)
        column.addLayout(head)
        column.addWidget(self.wheels, 1)
        buttons = QHBoxLayout()
        buttons.setSpacing(theme.px(4))
        buttons.addWidget(self._new, 1)
        buttons.addWidget(self._again, 1)
        column.addLayout(buttons)
        return self._left

    def _centre(self, theme: Theme) -> QWidget:
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(14, theme.px(2), 12, 8)
        column.setSpacing(theme.px(4))
        self._head = _Lines(self._name, self._summary, theme.px(4))
        column.addWidget(self._head)
        column.addWidget(self.band)
        self._card = QFrame()
        self._card.setProperty("role", "card")
        self._card.installEventFilter(self)
        self._pages = QStackedWidget()
        self._pages.addWidget(self._work_page(theme))
        self._pages.addWidget(self.why)
        self.first: FirstRun | None = None  # made where it is wanted
        self._typed_first = ""
        card = QVBoxLayout(self._card)
        card.setContentsMargins(0, 0, 0, 0)
        card.addWidget(self._pages)
        column.addWidget(self._card, 1)
        column.addWidget(self.now)
        return centre

    def _work_page(self, theme: Theme) -> QWidget:
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(theme.px(12), theme.px(4), theme.px(8), theme.px(6))
        row.addWidget(self.inputs)
        row.addWidget(self.deck, 1)
        self._row = row
        return page

    def _size(self, theme: Theme) -> None:
        self._left.setFixedWidth(theme.column(222))
        self._card.setMinimumHeight(theme.px(LEAST_CARD_PX))  # it gives way to what is to be done now
        for button in (self._new, self._again):
            button.setFixedHeight(theme.px(TARGET_PX))
            button.setStyleSheet(f"padding: 0 2px; font-size: {theme.column(13)}px;")
        self._theme = theme
        self._fit_width()
        self._fit_head()

    def _fit_width(self) -> None:
        """Where the window is narrow or text is large: tabs in two rows; a narrow window, slimmer picks."""
        narrow = self.width() < NARROW_PX
        picks = PICKS_NARROW_PX if narrow and not self._theme.large else PICKS_PX
        self.picks.setFixedWidth(self._theme.column(picks))
        inputs = INPUTS_WIDE_PX if self.width() >= WIDE_PX else INPUTS_PX
        self.inputs.setFixedWidth(self._theme.column(inputs))
        tight = self._theme.large or narrow
        self.deck.fit(self._theme, TABS_IN_LARGE_ROW if tight else self.deck.places)
        self._fit_beside()

    def _fit_beside(self) -> None:
        """Where the window is wide, a second drawing stands beside the first."""
        wide = self.width() >= WIDE_PX
        if wide and self.beside is None:
            self.beside = ViewDeck(self._session, self._theme, whole=True)
            self._row.addWidget(self.beside, 1)
            self.beside.chosen.connect(lambda name: self.commanded.emit("show_beside", name))
            self._connect_deck(self.beside)
            if self._view is not None:
                self._show_drawings(self._view)
        if self.beside is not None:
            self.beside.setVisible(wide)
            self.beside.fit(self._theme, self.beside.places if not self._theme.large else 5)

    def _connect(self) -> None:
        self.wheels.chosen.connect(lambda key: self.commanded.emit("choose_wheel", key))
        self.deck.chosen.connect(lambda name: self.commanded.emit(f"show_{name}", ""))
        self._connect_deck(self.deck)
        self._new.clicked.connect(lambda: self.commanded.emit("new_wheel", ""))
        self._again.clicked.connect(lambda: self.commanded.emit("duplicate", ""))
        self.band.looked_at.connect(lambda stage: self.commanded.emit("look_at_stage", stage))
        self.picks.why_asked.connect(lambda place: self.commanded.emit("why", str(place + 1)))
        self.why.closed.connect(lambda: self.commanded.emit("leave", ""))
        self.now.commanded.connect(lambda command: self.commanded.emit(command, ""))
        self.inputs.done.connect(self.now.focus_main)

    def _connect_deck(self, deck: ViewDeck) -> None:
        deck.simulator_wanted.connect(self.simulator_wanted)
        deck.connect_wanted.connect(self.connect_wanted)
        deck.off_wanted.connect(self.off_wanted)
        deck.taken.connect(lambda key: self.commanded.emit("take_choice", key))
        deck.clicked_part.connect(lambda path: self.commanded.emit("go_to_field", path))
        deck.sector_clicked.connect(lambda s, n: self.commanded.emit("hit_sector", f"{s} {n}"))

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        if self.beside is not None:
            self.beside.set_theme(theme)
        if self.first is not None:
            self._pages.removeWidget(self.first)
            self._typed_first = self.first.tapes.text()  # nothing that was typed is lost
            discard(self.first)
            self.first = None  # made anew in the new theme
        for view in (
            self.wheels,
            self.band,
            self.inputs,
            self.deck,
            self.why,
            self.now,
            self.picks,
            self.scale,
        ):
            view.set_theme(theme)
        self._size(theme)
        view_state, self._view = self._view, None
        if view_state is not None:
            self.show_view(view_state)

    # -- showing -----------------------------------------------------------------------------

    def show_view(self, view: BenchView) -> None:
        """Show the bench; every part shows only what changed."""
        before, self._view = self._view, view
        state = view.state
        if before is None or before.opened != view.opened:
            self.now.reason.clear()  # a reason belongs to the wheel it was typed for
        self.wheels.show_tiles(view.tiles, view.selected)
        count = len(view.tiles)
        self._count.setText(tr("1 wheel") if count == 1 else tr("{n} wheels").format(n=count))
        self._show_head(view)
        for part in (self.band, self._again):
            part.setVisible(state is not None)
        self.inputs.setVisible(state is not None and view.looking.asking != "low")
        if state is not None:
            self.band.show_progress(view.progress, view.looking.stage)
            self.inputs.show_stage(view.looking.stage)
            self.inputs.show_wheel(state, view.units)
        self._show_drawings(view)
        self._show_now(view, before)
        self.picks.show_rows(view.picks, view.stale)
        if view.why is not None:
            self.why.show_why(view.why[0], view.units, view.why[1])
        self._show_page(view)
        self._show_scale(view)

    def _show_page(self, view: BenchView) -> None:
        """The drawings, the working behind a pick, or the questions of the first run."""
        if view.first:
            if self.first is None:
                self.first = FirstRun(self._theme)
                self.first.tapes.setText(self._typed_first)
                self._pages.addWidget(self.first)
                self.first.units_chosen.connect(lambda name: self.commanded.emit("first_units", name))
                self.first.air_chosen.connect(lambda source: self.commanded.emit("first_air", source))
                self.first.tapes_typed.connect(lambda text: self.commanded.emit("first_tapes", text))
                self.first.done.connect(self.now.focus_main)
            self.first.show_answers(view.units, view.air, "floor_pump")
            self._pages.setCurrentWidget(self.first)
            return
        self._pages.setCurrentIndex(0 if view.why is None else 1)

    def tick(self, tiles: Sequence[Tile], now: Now) -> None:
        """The clock has moved on: show the waits anew."""
        if self._view is not None:
            self.wheels.show_tiles(tiles, self._view.selected)
            self.now.show_now(now)

    def _show_head(self, view: BenchView) -> None:
        state = view.state
        if state is None:
            self._name.setText(tr("Welcome"))
            self._summary.setText(
                tr("Type a rim and a tire: tape, valve, sealant and pressures follow, each with its working.")
            )
            self._fit_head()
            return
        self._name.setText(state.name)
        self._name.setToolTip(plain_tip(state.name))
        self._summary.setText(summary_text(state, view.units))
        self._fit_head()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Fit the head again where the card beside it has another width, as in another text size."""
        if watched is self._card and isinstance(event, QResizeEvent):
            self._fit_head()
        return super().eventFilter(watched, event)

    def _fit_head(self) -> None:
        """Name and summary as large as they fit, never cut while there is a size that fits."""
        for label, size, least, weight in ((self._name, 22, 13, 600), (self._summary, 14, 9, 400)):
            room = max(200, self._card.width() - 4)
            label.setFont(self._theme.fitted(label.text(), room, size, least / self._theme.scale, weight))
        self._head.place()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Fit the head and the columns again."""
        super().resizeEvent(event)
        self._fit_width()
        self._fit_head()

    def _show_drawings(self, view: BenchView) -> None:
        self.deck.show_view(view, view.looking.drawing)
        if self.beside is not None and self.width() >= WIDE_PX:
            self.beside.show_view(view, view.beside)

    def _show_now(self, view: BenchView, before: BenchView | None) -> None:
        self.now.show_now(view.now)
        if view.figure_mark and (before is None or before.figure_mark != view.figure_mark):
            self.now.set_figure(view.figure)
        if view.figure_mark and not self.now.signature.text():
            self.now.signature.setText(view.signed_by)

    def _show_scale(self, view: BenchView) -> None:
        progress = view.progress
        seating = progress is not None and progress.climbing and progress.state != "stopped"
        self.scale.show_plan(
            view.state.plan if view.state is not None else None,
            view.units,
            progress.handed_over_kpa if progress is not None else None,
            progress.seating.step_kpa if progress is not None and seating else None,
        )

    def live_pressure(self, kpa: float, peak_kpa: float) -> None:
        """Show what the gauge says now, on the scale and as the pressure reached."""
        view = self._view
        if view is None:
            return
        self.scale.show_live(kpa, view.units)
        if view.progress is None:
            return
        if view.progress.climbing:
            self.now.set_figure(entry_text(peak_kpa, "kpa", view.units))
        elif view.progress.stage in ("hold", "set"):
            self.now.set_figure(entry_text(kpa, "kpa", view.units))

    def run_traces(self, live: bool) -> None:
        """Draw the trace again and again while readings come."""
        for deck in (self.deck, self.beside):
            if deck is not None:
                deck.run_trace(live)

    def take_keyboard(self, button: QPushButton) -> None:
        """Leave the keyboard with the panel where a button beside it was clicked."""
        if not (self.now.isAncestorOf(button) or isinstance(button, ChoiceButton)):
            self.now.focus_main()

    def focus(self, outcome: Outcome) -> None:
        """Empty entries and put the cursor where a command left it."""
        for name in outcome.clear:
            (self.now.figure if name == "figure" else self.now.reason).clear()
        if outcome.field:
            self.inputs.focus_field(outcome.field)
        elif outcome.focus == "first_field":
            self.inputs.show_group(0)
            self.inputs.focus_first()
        elif outcome.focus == "line":
            self.inputs.line.setFocus(Qt.FocusReason.OtherFocusReason)
        else:
            self.now.focus_on(outcome.focus)
