"""The bench page: one view for typing, one for working. Wheels at the left, what to do in the
middle, its picture beside it, the pressure scale below.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.record.units import entry_text
from inner_rim.desktop.bench.field_row import FieldRow, Stocked
from inner_rim.desktop.bench.first_run import FirstRun
from inner_rim.desktop.bench.inputs import InputsPanel
from inner_rim.desktop.bench.side import SidePanel
from inner_rim.desktop.bench.step_panel import StepPanel
from inner_rim.desktop.bench.wheel_list import WheelList
from inner_rim.desktop.commands.command import Outcome
from inner_rim.desktop.drawings.scale import PressureScale
from inner_rim.desktop.widgets.base import Page, PlainLabel, discard, plain_tip, show_if
from inner_rim.desktop.widgets.choices import ChoiceButton
from inner_rim.desktop.widgets.theme import NOTE, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.tasks.gauge import GaugeSession
from inner_rim.work.text.tiles import summary_text
from inner_rim.work.views import BenchView

#: Widths at 100 % text, px: of a window with the whole list of wheels, of one with step and picture
#: beside each other.
LIST_FROM_PX, BESIDE_FROM_PX = 1560, 940
LIST_PX, RAIL_PX, RINGS_PX = 230, 138, 92
#: As much of the page a name may take.
NAME_SHARE = 0.4
#: Shares of step and picture in the width.
MIDDLE, BESIDE = 11, 9
#: How much larger text is in the far view.
FAR_TIMES = 1.5


class BenchPage(Page):
    """One wheel in full, and the others beside it."""

    commanded = pyqtSignal(str, object)

    def __init__(
        self, session: GaugeSession, stocked: Stocked, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._view: BenchView | None = None
        self._shared: tuple[bool, ...] = ()
        self._theme, self.far = theme, False
        self.wheels = WheelList(theme)
        self.inputs = InputsPanel(stocked, theme)
        self.now = StepPanel(theme)
        self.side = SidePanel(session, theme)
        self.scale = PressureScale(theme)
        self.deck, self.picks, self.why = self.side.deck, self.side.picks, self.side.why
        self.first: FirstRun | None = None  # made on demand
        self._typed_first = "", ""
        self._lay_out(theme)
        self._connect()

    # -- making ------------------------------------------------------------------------------

    def _lay_out(self, theme: Theme) -> None:
        self._name, self._summary = PlainLabel(""), PlainLabel("")
        self._summary.setProperty("role", "muted")
        self._summary.setWordWrap(True)
        self._head = QHBoxLayout()
        self._head.setContentsMargins(theme.px(12), theme.px(4), theme.px(10), 0)
        self._head.setSpacing(theme.px(14))
        self._head.addWidget(self._name)
        self._head.addWidget(self._summary, 1)
        self._form = QStackedWidget()
        self._form.addWidget(self.inputs)
        self._nothing = QWidget()  # the wheel in hand is gone
        self._form.addWidget(self._nothing)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(theme.px(10), theme.px(4), theme.px(4), theme.px(6))
        column.setSpacing(theme.px(4))
        column.addWidget(self._form, 1)
        column.addWidget(self.now, 1)
        self._middle = middle
        grid = self._grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        grid.addWidget(self._left_column(theme), 0, 0, 2, 1)
        grid.addLayout(self._head, 0, 1, 1, 2)
        for part in (middle, self.side):  # the grid's shares rule, not the size hints
            part.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Expanding)
        grid.addWidget(middle, 1, 1)
        grid.addWidget(self.side, 1, 2)
        grid.addWidget(self.scale, 2, 0, 1, 3)
        grid.setRowStretch(1, 1)
        self._size()

    def _left_column(self, theme: Theme) -> QWidget:
        self._left = QWidget()
        column = QVBoxLayout(self._left)
        column.setContentsMargins(theme.px(4), theme.px(6), 0, theme.px(6))
        self._new = QPushButton("+")
        self._new.setAccessibleName(tr("New wheel"))
        self._new.setToolTip(tr("New wheel   Ctrl+N"))
        self._new.setProperty("enter", False)  # Enter makes no second wheel
        column.addWidget(self.wheels, 1)
        column.addWidget(self._new)
        return self._left

    def _connect(self) -> None:
        self.wheels.chosen.connect(lambda key: self.commanded.emit("choose_wheel", key))
        self._new.clicked.connect(lambda: self.commanded.emit("new_wheel", ""))
        self.picks.why_asked.connect(lambda place: self.commanded.emit("why", str(place + 1)))
        self.picks.field_wanted.connect(lambda path: self.commanded.emit("go_to_field", path))
        self.side.closed.connect(lambda: self.commanded.emit("leave", ""))
        self.side.taken.connect(lambda key: self.commanded.emit("take_choice", key))
        self.now.commanded.connect(lambda command: self.commanded.emit(command, ""))
        self.now.one_done.connect(lambda at: self.commanded.emit("one_done", at + 1))
        self.now.pointed.connect(lambda place: self.commanded.emit("point_at", str(place)))
        self.inputs.done.connect(self.now.focus_main)
        self.inputs.stage_wanted.connect(lambda command: self.commanded.emit(command, ""))
        self.deck.commanded.connect(self.commanded)

    # -- size ----------------------------------------------------------------------------------

    @property
    def _in_turns(self) -> bool:
        """Where there is no room beside the step, step and picture take turns."""
        return self.width() < self._theme.px(BESIDE_FROM_PX)

    def _size(self) -> None:
        theme = self._theme
        rail = self.width() < theme.px(LIST_FROM_PX)
        width = (
            (theme.px(RINGS_PX) if self._in_turns else theme.px(RAIL_PX))
            if rail
            else theme.px(LIST_PX)
        )
        self.wheels.show_as("rings" if rail and self._in_turns else "rail" if rail else "list")
        self._left.setFixedWidth(width)
        show_if(self._left, not self.far)
        self._new.setFixedHeight(theme.target)
        self._name.setFont(theme.font(NOTE, 600))
        self._summary.setFont(theme.font(TEXT))
        if self._view is not None:
            self._share(self._view)
            if self._view.state is not None:
                self._name.setText(self._shortened(self._view.state.name))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._size()

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        if self.first is not None:
            self._form.removeWidget(self.first)
            # nothing that was typed is lost
            self._typed_first = (self.first.tapes.text(), self.first.line.text())
            discard(self.first)
            self.first = None  # made again in the new theme
        large = Theme(theme.tokens.name, theme.scale * FAR_TIMES) if self.far else theme
        self.wheels.set_theme(theme)
        self.inputs.set_theme(theme)
        self.side.set_theme(theme)
        self.now.set_theme(large)
        self.scale.set_theme(large)
        self._size()
        view_state, self._view = self._view, None
        if view_state is not None:
            self.show_view(view_state)

    def set_far(self, far: bool) -> None:
        """Show the step larger and without the lists, to be read from three meters; or as usual."""
        self.far = self.now.far = far
        self.set_theme(self._theme)

    # -- showing -----------------------------------------------------------------------------

    def show_view(self, view: BenchView) -> None:
        self._view, state = view, view.state
        self.wheels.show_tiles(view.tiles, view.selected)
        self._name.setText(
            self._shortened(state.name if state is not None else "" if view.lost else tr("Welcome"))
        )
        self._name.setToolTip(plain_tip(state.name) if state is not None else "")
        self._summary.setText(
            summary_text(state, view.units, view.working) if state is not None else ""
        )
        self._show_fields(view)
        self.now.show_now(view.now, view.target, view.working, view.looking.pointed)
        self.now.prefill(view.mark)
        self._share(view)
        if self.side.isVisibleTo(self):
            plan = view.state is not None and not view.working
            self.side.show_view(view, "plan" if plan else "none" if self.far else "stage")
        self._show_scale(view)

    def _shortened(self, name: str) -> str:
        """A name that leaves room for the rim and the tire beside it; whole in its tooltip."""
        metrics = QFontMetrics(self._theme.font(NOTE, 600))
        return metrics.elidedText(
            name, Qt.TextElideMode.ElideMiddle, round(NAME_SHARE * self.width())
        )

    def _share(self, view: BenchView) -> None:
        """Share the room: fields over the step at check-in; step and picture beside each other, or
        in turns.
        """
        looking = view.looking
        opened = bool(looking.drawer) or looking.why is not None or looking.picture is not None
        turns = self._in_turns
        if turns != self.now.alone:
            self.now.alone = turns
            self.now.show_ways()
        middle, side = not (turns and opened), opened or not turns
        if (view.working, middle, side) != self._shared:  # a layout costs more than a keystroke may
            self._shared = view.working, middle, side
            show_if(self._form, not view.working)
            show_if(self._middle, middle)
            show_if(self.side, side)
            self._grid.setColumnStretch(1, MIDDLE if middle else 0)
            self._grid.setColumnStretch(2, BESIDE if side else 0)
        self.now.show_open(looking.drawer)

    def _show_fields(self, view: BenchView) -> None:
        """The fields at check-in, over the step; later in a drawer beside it; on an empty bench,
        three questions.
        """
        if view.state is None and view.lost:
            self._form.setCurrentWidget(self._nothing)
            return
        if view.state is None:
            self._show_first(view)
            return
        in_drawer = view.working and view.looking.drawer == "entries"
        if in_drawer:
            self.side.put(self.inputs)
        elif not view.working and self._form.indexOf(self.inputs) < 0:
            self._form.addWidget(self.inputs)
        if not view.working:
            self._form.setCurrentWidget(self.inputs)
        if in_drawer or not view.working:
            self.inputs.show_stage(view.looking.stage)
            self.inputs.show_wheel(view.state, view.units)

    def _show_first(self, view: BenchView) -> None:
        if self.first is None:
            self.first = FirstRun(self._theme)
            self.first.tapes.setText(self._typed_first[0])
            self.first.line.setText(self._typed_first[1])
            self._form.addWidget(self.first)
            self.first.units_chosen.connect(lambda name: self.commanded.emit("first_units", name))
            self.first.air_chosen.connect(lambda source: self.commanded.emit("first_air", source))
            self.first.tapes_typed.connect(lambda text: self.commanded.emit("first_tapes", text))
            self.first.line_said.connect(lambda text: self.commanded.emit("first_line", text))
            self.first.done.connect(self.now.focus_main)
        self.first.show_answers(view.units, view.air, "floor_pump", view.first)
        self._form.setCurrentWidget(self.first)

    def _show_scale(self, view: BenchView) -> None:
        state = view.planned
        if state is None:
            self.scale.show_plan(None, view.units, None, None)
            return
        progress, signed = state.progress, state.plan.log.signed
        seating = progress.seats_next and progress.state != "stopped"
        self.scale.show_plan(
            state.plan,
            view.units,
            signed.pressure_kpa if signed is not None else None,
            progress.seating.step_kpa if seating else None,
        )

    def live_pressure(self, kpa: float, peak_kpa: float) -> None:
        view = self._view
        if view is None:
            return
        self.scale.show_live(kpa, view.units)
        if view.planned is None:
            return
        if view.planned.progress.seats_next:
            self.now.set_pressure(entry_text(peak_kpa, "kpa", view.units))
        elif view.planned.stage in ("hold", "set"):
            self.now.set_pressure(entry_text(kpa, "kpa", view.units))

    def run_traces(self, live: bool) -> None:
        self.deck.run_trace(live)

    # -- the cursor ----------------------------------------------------------------------------

    def focused_row(self) -> FieldRow | None:
        return self.inputs.focused_row()

    def take_keyboard(self, button: QPushButton) -> None:
        """Leave the keyboard with the panel where a button beside it was clicked."""
        if not (self.now.isAncestorOf(button) or isinstance(button, ChoiceButton)):
            self.now.focus_main()

    def focus(self, outcome: Outcome) -> None:
        """Put the cursor where a command left it."""
        if outcome.pressure:
            self.now.set_pressure(outcome.pressure)
        if outcome.field:
            self.inputs.focus_field(outcome.field)
        elif outcome.focus == "first_field":
            self.inputs.focus_first()
        elif outcome.focus == "line":
            self.inputs.line.setFocus(Qt.FocusReason.OtherFocusReason)
            if outcome.line is not None:
                self.inputs.keep_line(outcome.line)
        elif outcome.focus == "main":
            self.focus_start()
        else:
            self.now.focus_on(outcome.focus)

    def focus_start(self) -> None:
        """Put the cursor where the next thing is done: on the panel, on an empty bench into the
        line.
        """
        if (
            self.first is not None
            and self._form.currentWidget() is self.first
            and self.first.isVisible()
        ):
            self.first.line.setFocus(Qt.FocusReason.OtherFocusReason)
        else:
            self.now.focus_main()
