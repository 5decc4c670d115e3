"""The bench page: wheels in work, drawing, inputs, picks, the next action and the pressure scale."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.drawing.section import Section, draw_section
from inner_rim.core.record.units import entry_text
from inner_rim.desktop.bench.answers import Answers
from inner_rim.desktop.bench.inputs import InputsPanel
from inner_rim.desktop.bench.log_view import LogView
from inner_rim.desktop.bench.now_panel import NowPanel
from inner_rim.desktop.bench.picks import COUNT, PicksColumn
from inner_rim.desktop.bench.stage_band import StageBand
from inner_rim.desktop.bench.steps_view import StepsView
from inner_rim.desktop.bench.wheel_list import WheelList
from inner_rim.desktop.bench.why_panel import WhyPanel
from inner_rim.desktop.drawings.finish import FinishView
from inner_rim.desktop.drawings.scale import PressureScale
from inner_rim.desktop.drawings.section import SectionView
from inner_rim.desktop.drawings.sectors import WheelView
from inner_rim.desktop.drawings.side import SideView
from inner_rim.desktop.drawings.trace import TraceView
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.plain import PlainLabel, plain_tip
from inner_rim.desktop.widgets.theme import TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.bench import Bench, around
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text import pick_rows
from inner_rim.work.text.choices import choices_of
from inner_rim.work.text.heading import summary_text
from inner_rim.work.text.next_action import now_of
from inner_rim.work.text.stage_fields import place_of

CLOCK_MS = 5000
#: Lines of the choices that are done, not typed.
COMMANDS_WITH_VALUE = ("leak", "ride", "care")
#: Stages at which the wheel is looked at sector by sector.
SECTOR_STAGES = ("seat", "hold", "set")
VIEWS = ("section", "wheel", "finish", "trace", "choices", "steps", "log")


class BenchPage(QWidget):
    """One wheel in full, and the others beside it."""

    paper_wanted = pyqtSignal(str)

    def __init__(self, bench: Bench, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench, self._theme = bench, theme
        self._shown_stage = "check_in"
        self._followed: tuple[object, ...] = ()
        self._section_of: tuple[object, object] | None = None
        self._section: Section | None = None
        self._why: int | None = None
        self._figure_for: tuple[object, ...] = ()
        self.answers = Answers(self, bench)
        self._clock = QTimer(self)  # waits go on while nobody touches a key
        self._clock.setInterval(CLOCK_MS)
        self._clock.timeout.connect(self._tick)
        self._clock.start()
        self._make(theme)
        self._connect()
        bench.subscribe(self.refresh)
        self.refresh()

    # -- making ------------------------------------------------------------------------------

    def _make(self, theme: Theme) -> None:
        self.wheels = WheelList(self._bench, theme)
        self.band = StageBand(theme)
        self.inputs = InputsPanel(self._bench, theme)
        self.section = SectionView(theme)
        self.wheel = WheelView(theme)
        self.side = SideView(theme)
        self.finish = FinishView(theme)
        self.trace = TraceView(self._bench.gauge, theme)
        self.choices = LinesView(theme, tr("Choices at this stage"))
        self.steps = StepsView(self._bench, theme)
        self.log = LogView(self._bench)
        self.why = WhyPanel(theme)
        self.now = NowPanel(theme)
        self.picks = PicksColumn(theme)
        self.scale = PressureScale(theme)
        self._count = PlainLabel("")
        self._count.setProperty("role", "muted")
        self._new = QPushButton(tr("+  New wheel"))
        self._again = QPushButton(tr("Same again"))
        self._again.setToolTip(tr("A wheel alike in this job: the other end, or the next of a fleet. Key A"))
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
        column.addWidget(self._name)
        column.addWidget(self._summary)
        column.addWidget(self.band)
        self._card = QFrame()
        self._card.setProperty("role", "card")
        self._pages = QStackedWidget()
        self._pages.addWidget(self._work_page(theme))
        self._pages.addWidget(self.why)
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
        right = QVBoxLayout()
        right.setSpacing(0)
        tabs = QHBoxLayout()
        tabs.addStretch(1)
        self._tabs = {}
        titles = (
            tr("Section"),
            tr("Wheel"),
            tr("Finish"),
            tr("Trace"),
            tr("Choices"),
            tr("Steps"),
            tr("Log"),
        )
        for name, words, key in zip(VIEWS, titles, "SWFVCTG", strict=True):
            tab = QPushButton(words)
            tab.setToolTip(tr("key {key}").format(key=key))
            tab.setProperty("role", "flat")
            tab.setCheckable(True)
            tab.clicked.connect(lambda _on, n=name: self.show_view(n))
            tabs.addWidget(tab)
            self._tabs[name] = tab
        right.addLayout(tabs)
        self._views = QStackedWidget()
        self._wheel_pages = QStackedWidget()
        self._wheel_pages.addWidget(self.side)
        self._wheel_pages.addWidget(self.wheel)
        for view in (
            self.section,
            self._wheel_pages,
            self.finish,
            self.trace,
            self.choices,
            self.steps,
            self.log,
        ):
            self._views.addWidget(view)
        right.addWidget(self._views, 1)
        row.addLayout(right, 1)
        self._tabs["section"].setChecked(True)
        return page

    def _size(self, theme: Theme) -> None:
        self._left.setFixedWidth(theme.column(222))
        self.picks.setFixedWidth(theme.column(326))
        self.inputs.setFixedWidth(theme.column(308))
        for tab in self._tabs.values():
            tight = theme.scale > 1.0  # six words beside larger fields
            pad, size = (theme.px(2), theme.column(13)) if tight else (6, 14)
            tab.setStyleSheet(f"padding: 0 {pad}px; font-size: {size}px;")
        for button in (self._new, self._again):
            button.setFixedHeight(theme.px(TARGET_PX))
            button.setStyleSheet(f"padding: 0 2px; font-size: {theme.px(13)}px;")
        self._name.setFont(theme.font(22, 600))
        self._summary.setFont(theme.font(14))

    def _connect(self) -> None:
        self.wheels.chosen.connect(self._choose)
        self.choices.taken.connect(self._take_choice)
        self._new.clicked.connect(lambda: self.obey("new_wheel"))
        self._again.clicked.connect(lambda: self.obey("same_again"))
        self.band.looked_at.connect(self.look_at)
        self.section.clicked_part.connect(self.go_to)
        self.wheel.sector_clicked.connect(self.answers.hit_sector)
        self.picks.why_asked.connect(self.show_why)
        self.why.closed.connect(self.close_why)
        self.now.commanded.connect(self.obey)
        self.inputs.done.connect(self.now.focus_main)

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        self._theme = theme
        for view in (
            self.wheels,
            self.band,
            self.inputs,
            self.section,
            self.wheel,
            self.side,
            self.finish,
            self.trace,
            self.choices,
            self.steps,
            self.why,
            self.now,
            self.picks,
            self.scale,
        ):
            view.set_theme(theme)
        self._size(theme)
        self.refresh()

    # -- showing -----------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the bench as it is now."""
        state = self._bench.current
        self._follow(state)
        self.wheels.refresh()
        count = len(self._bench.wheels)
        self._count.setText(tr("1 wheel") if count == 1 else tr("{n} wheels").format(n=count))
        self._show_head(state)
        self.band.setVisible(state is not None)
        self._again.setVisible(state is not None)
        self.inputs.setVisible(state is not None and self.answers.low is None)
        late = self._shown_stage in SECTOR_STAGES  # the finish is behind, the trace is wanted
        for name, tab in self._tabs.items():
            tab.setVisible(state is not None and name != ("finish" if late else "trace"))
        if state is not None:
            self.band.show_progress(state.progress, self._shown_stage)
            self.inputs.show_stage(self._shown_stage)
            self.inputs.refresh(state)
        self._show_drawings(state)
        self.log.refresh()
        self.steps.refresh()
        self._show_now(state)
        plan = state.plan if state else None
        rows = pick_rows.rows(plan, self._bench.units) if plan else ()
        self.picks.show_rows(rows, state is not None and plan is not None and not state.current)
        if self._why is not None:
            self._fill_why()
        progress = state.progress if state else None
        seating = progress is not None and progress.stage == "seat" and progress.state != "stopped"
        self.scale.show_plan(
            plan,
            self._bench.units,
            progress.handed_over_kpa if progress else None,
            progress.step_kpa if progress and seating else None,
        )

    def _tick(self) -> None:
        """Show the waits anew, where there are any."""
        if any(s.progress is not None and s.progress.wait_until for s in self._bench.wheels):
            self.wheels.tick()
            self._show_now(self._bench.current)

    def _follow(self, state: WheelState | None) -> None:
        """Show the inputs of the stage in work whenever the wheel or its stage changes."""
        stage = state.progress.stage if state and state.progress else "check_in"
        now = (state.key if state else None, stage)
        if now != self._followed:
            self._followed = now
            self._shown_stage = stage
            self.answers.start_afresh()

    def _show_head(self, state: WheelState | None) -> None:
        if state is None:
            self._name.setText(tr("Welcome"))
            self._summary.setText(
                tr("Type a rim and a tire, and tape, valve, sealant and pressures follow, each with its why.")
            )
            return
        self._name.setText(state.name)
        self._name.setToolTip(plain_tip(state.name))
        self._summary.setText(summary_text(state, self._bench.units))

    def _show_drawings(self, state: WheelState | None) -> None:
        if state is None or state.plan is None or state.wheel is None:
            self._section = None
        elif self._section_of is None or self._section_of[1] is not state.plan:
            self._section = draw_section(state.wheel, state.plan)
            self._section_of = (state.wheel, state.plan)
        elif self._section is None:
            self._section = draw_section(state.wheel, state.plan)
        self.section.show_section(state, self._section, self._bench.units)
        self.finish.show_wheel(state, self._bench.units)
        self.side.show_wheel(state, self._bench.units)
        by_sector = self.answers.low is not None or self._shown_stage in SECTOR_STAGES
        self._wheel_pages.setCurrentWidget(self.wheel if by_sector else self.side)
        self._show_choices(state)
        others = tuple(
            s for s in self._bench.wheels if state is not None and s.job is state.job and s is not state
        )
        self.trace.show_wheel(state, others, self._bench.units)
        progress = state.progress if state else None
        low_left = frozenset(progress.low_left if progress else ())
        low_right = frozenset(progress.low_right if progress else ())
        side = None
        if self.answers.low is not None:
            low_left, low_right, side = self.answers.low.left, self.answers.low.right, self.answers.low.side
        self.wheel.show_wheel(state, low_left, low_right, side)

    def _show_choices(self, state: WheelState | None) -> None:
        """Work out what there is to choose from, only while it is looked at."""
        if state is not None and self._views.currentWidget() is self.choices:
            self.choices.show_lines(
                choices_of(
                    state,
                    self._shown_stage,
                    self._bench.units,
                    self._bench.recorder.changes.get(state.key, ()),
                    self._bench.visits.of(state.wheel_id),
                )
            )

    def _take_choice(self, key: str) -> None:
        """A line of the choices was taken: a school, or the way to a field."""
        field, given, value = key.partition("=")
        if field == "change":
            self._bench.recorder.change(value)  # type: ignore[arg-type]
        elif field in COMMANDS_WITH_VALUE:
            self.answers.take(field, value)
        elif given:
            self._bench.editor.type_into(field, value)
        else:
            self.go_to(field)

    def _show_now(self, state: WheelState | None) -> None:
        now = self.answers.asked(state) or now_of(state, around(self._bench, state), self.answers.low)
        cautions = [self.answers.fault] if self.answers.fault else now.cautions
        self.now.ask(now.figure, now.signature, now.reason)
        self.now.show_now(now.head, now.action, cautions, now.answers)
        self._prefill(state)

    def _prefill(self, state: WheelState | None) -> None:
        """Put the pressure that is expected into the entry, anew whenever the log has moved on."""
        if state is None or state.progress is None or state.plan is None:
            return
        mark = (
            state.key,
            len(state.log),
            state.progress.stage,
            state.progress.step.key if state.progress.step else "",
            self._bench.units,
            state.plan.pressure.set_here_kpa,
            state.progress.step_kpa,
        )
        if mark == self._figure_for:
            return
        self._figure_for = mark
        if state.progress.step is not None and state.progress.step.asks == "dip":
            self.now.set_figure("")
            return
        if state.progress.step is not None and state.progress.step.asks == "dose":
            self.now.set_figure(entry_text(state.plan.sealant.dose_ml, "ml", self._bench.units))
            return
        if state.progress.stage == "hold" or state.progress.state == "finished":
            self.now.set_figure("")
            return
        kpa = state.progress.step_kpa if state.progress.stage == "seat" else state.plan.pressure.set_here_kpa
        self.now.set_figure(entry_text(kpa, "kpa", self._bench.units))
        if not self.now.signature.text():
            self.now.signature.setText(self._bench.settings.own.signed_by)

    def show_view(self, name: str) -> None:
        """Show the section, the wheel or the log."""
        self.close_why()
        self._views.setCurrentIndex(VIEWS.index(name))
        for other, tab in self._tabs.items():
            tab.setChecked(other == name)
        self._show_choices(self._bench.current)

    def live_pressure(self, kpa: float) -> None:
        """Show what the gauge says now, on the scale and as the pressure reached."""
        self.scale.show_live(kpa, self._bench.units)
        state = self._bench.current
        if state is None or state.progress is None:
            return
        if state.progress.stage == "seat":
            self.now.set_figure(entry_text(self._bench.gauge.peak_kpa, "kpa", self._bench.units))
        elif state.progress.stage in ("hold", "set"):
            self.now.set_figure(entry_text(kpa, "kpa", self._bench.units))

    def look_at(self, stage: str) -> None:
        """Look at the inputs of a stage, wherever the wheel stands."""
        self._shown_stage = stage
        self.close_why()
        self.refresh()

    def step_stage(self, by: int) -> None:
        """Look at the next stage or the one before."""
        stages = self.band.stages
        here = stages.index(self._shown_stage) if self._shown_stage in stages else 0
        self.look_at(stages[(here + by) % len(stages)])

    def go_to(self, path: str) -> None:
        """Put the cursor into a field, whatever stage it stands in."""
        if not self.inputs.focus_field(path):
            self._shown_stage = place_of(path)[0]
            self.refresh()
            self.inputs.focus_field(path)

    def show_why(self, place: int) -> None:
        """Open the arithmetic behind a pick."""
        state = self._bench.current
        if state is None or state.plan is None:
            return
        if self._why == place:
            self.close_why()
            return
        self._why = place
        self._fill_why()
        self._pages.setCurrentWidget(self.why)

    def _fill_why(self) -> None:
        state = self._bench.current
        if state is None or state.plan is None or self._why is None:
            self.close_why()
            return
        row = pick_rows.rows(state.plan, self._bench.units)[self._why]
        assumed = tuple(item for item in state.plan.assumed if item.field in row.assumed)
        self.why.show_why(row, self._bench.units, assumed)

    def close_why(self) -> None:
        """Go back to the drawing."""
        self._why = None
        self._pages.setCurrentIndex(0)

    # -- obeying -----------------------------------------------------------------------------

    def obey(self, command: str) -> bool:
        """Carry out a command of the now panel or a key; return whether it meant something here."""
        return self.answers.obey(command)

    def main_action(self) -> None:
        """The first answer of the now panel."""
        if self.now.answers:
            self.obey(self.now.answers[0].command)

    def offers(self, command: str) -> bool:
        """Whether the now panel offers a command at the moment."""
        return any(answer.command == command for answer in self.now.answers)

    def _choose(self, key: object) -> None:
        if isinstance(key, tuple) and key != self._bench.selected:
            self._bench.select(key)

    def digit(self, number: int) -> None:
        """A digit key: a sector while marking, else the why of a pick."""
        if not self.answers.mark_sector(number):
            self.show_why((number - 1) % COUNT)  # 0 is the tenth

    def leave(self) -> bool:
        """Close what is open; return whether anything was."""
        if self.answers.stop_marking():
            return True
        if self._why is not None:
            self.close_why()
            return True
        return False
