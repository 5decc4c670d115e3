"""The live gauge: the pressure in figures to be read from two meters, and its curve, which is drawn
on where it ended.
"""

import math
from collections.abc import Callable, Sequence
from functools import partial

import msgspec
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QShowEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.log import SeenPop
from inner_rim.core.record.moments import moment
from inner_rim.core.record.units import METRIC, UnitChoice, show
from inner_rim.desktop.drawings.plot import place
from inner_rim.desktop.widgets.base import Picture, PlainLabel
from inner_rim.desktop.widgets.theme import FIGURE, SMALL, STEP, TARGET_PX, TEXT, Theme
from inner_rim.words import N_, tr, with_mark
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, planned
from inner_rim.work.tasks.gauge import (
    FAULT_WORDS,
    GaugeSession,
    PopSearch,
    SimulatedFault,
    alarm_words,
)
from inner_rim.work.text.choices.air import pressure_history

LEFT_PX, BOTTOM_PX, TOP_PX, RIGHT_PX = 38, 22, 8, 8
DOT_PX, POP_PX, TICK_PX = 4.0, 7.0, 48

Point = tuple[float, float]
#: From the place up to which a curve was drawn: its points from there on, and the next place.
Grown = Callable[[int], tuple[Sequence[Point], int]]


class Curve(msgspec.Struct, frozen=True):
    """Points in their order, joined by a line; `dotted` where each is a reading of its own."""

    points: tuple[tuple[float, float], ...]
    purpose: str = "accent"
    dotted: bool = False


class Across(msgspec.Struct, frozen=True):
    y: float
    words: str
    purpose: str
    width: float = 1.0
    dashed: bool = False


class CurvesView(Picture):
    """Shows curves, levels and pops; a curve that grows is drawn on where it ended, never over the
    whole again.
    """

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self.curves: tuple[Curve, ...] = ()
        self.levels: tuple[Across, ...] = ()
        self.pops: tuple[tuple[float, float], ...] = ()
        self.x_range, self.y_range = (0.0, 1.0), (0.0, 1.0)
        self.live: Grown | None = None
        self._sheet, self._drawn = QPixmap(), 0
        self._sheet_of: tuple[object, ...] = ()
        self.setMinimumSize(120, 60)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._begin_again()

    def _begin_again(self) -> None:
        self._sheet_of = ()
        self.update()

    def show_curves(self, curves: Sequence[Curve], x_range: tuple[float, float]) -> None:
        if (tuple(curves), x_range, self.live) != (self.curves, self.x_range, None):
            self.curves, self.x_range, self.live = tuple(curves), x_range, None
            self._begin_again()

    def show_live(self, points: Grown, count: int, x_range: tuple[float, float]) -> None:
        """Show a curve that grows.

        Args:
            count: how many points there are.
        """
        if self.live is None or x_range != self.x_range or count < self._drawn:
            self._sheet_of = ()
        self.curves, self.x_range, self.live = (), x_range, points
        self.update()

    def show_levels(
        self, levels: Sequence[Across], pops: Sequence[Point], y_range: tuple[float, float]
    ) -> None:
        if (tuple(levels), y_range) != (self.levels, self.y_range):
            self._sheet_of = ()
        self.levels, self.pops, self.y_range = tuple(levels), tuple(pops), y_range
        self.update()

    def at(self, x: float, y: float) -> QPointF:
        return place(self._field(), self.x_range, self.y_range, x, y)

    def _field(self) -> QRectF:
        px = self._theme.px
        return QRectF(self.rect()).adjusted(px(LEFT_PX), px(TOP_PX), -px(RIGHT_PX), -px(BOTTOM_PX))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        sheet_of = (self.size(), self.devicePixelRatioF())
        if self._sheet_of != sheet_of:
            self._sheet, self._sheet_of, self._drawn = self._fresh_sheet(), sheet_of, 0
        if self.live is not None:
            points, self._drawn = self.live(self._drawn)
            self._draw_on(points)
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("caution"))
        for x, y in self.pops:
            tip = self.at(x, y)
            corners = (QPointF(-POP_PX, -2 * POP_PX), QPointF(POP_PX, -2 * POP_PX))
            painter.drawPolygon(QPolygonF([tip, *(tip + corner for corner in corners)]))

    def _fresh_sheet(self) -> QPixmap:
        """Axes, levels, and the curves that do not grow."""
        theme, field = self._theme, self._field()
        sheet = QPixmap(self.size() * self.devicePixelRatioF())
        sheet.setDevicePixelRatio(self.devicePixelRatioF())
        sheet.fill(theme.color("card"))
        painter = self._painter_on(sheet)
        self._paint_axes(painter)
        painter.setClipRect(field.adjusted(-8.0, -8.0, 8.0, 8.0))
        painter.setFont(theme.font(SMALL))
        for level in self.levels:
            style = Qt.PenStyle.DashLine if level.dashed else Qt.PenStyle.SolidLine
            painter.setPen(QPen(theme.color(level.purpose), level.width, style))
            left = self.at(self.x_range[0], level.y)
            painter.drawLine(left, QPointF(field.right(), left.y()))
            words = QRectF(left.x() + 6.0, left.y() - theme.px(18), field.width(), theme.px(17))
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, level.words)
        for curve in self.curves:
            points = [self.at(x, y) for x, y in curve.points]
            painter.setPen(QPen(theme.color(curve.purpose), 2.0))
            painter.drawPolyline(QPolygonF(points))
            painter.setBrush(theme.color(curve.purpose))
            for point in points if curve.dotted else ():
                painter.drawEllipse(point, DOT_PX, DOT_PX)
        painter.end()
        return sheet

    def _draw_on(self, points: Sequence[Point]) -> None:
        if not points:
            return
        painter = self._painter_on(self._sheet)
        painter.setClipRect(self._field().adjusted(-8.0, -8.0, 8.0, 8.0))
        painter.setPen(QPen(self._theme.color("accent"), 2.0))
        painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in points]))
        painter.end()

    def _painter_on(self, sheet: QPixmap) -> QPainter:
        painter = QPainter(sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        return painter

    def _paint_axes(self, painter: QPainter) -> None:
        theme, field = self._theme, self._field()
        painter.setFont(theme.font(SMALL))
        painter.setPen(QPen(theme.color("muted"), 1.0))
        painter.drawLine(field.bottomLeft(), field.bottomRight())
        painter.drawLine(field.bottomLeft(), field.topLeft())
        high, wide = theme.px(16), theme.px(TICK_PX)
        for y in ticks(*self.y_range, max(2, int(field.height() // wide))):
            level = self.at(self.x_range[0], y).y()
            box = QRectF(0.0, level - high / 2.0, field.left() - 5.0, high)
            painter.drawText(
                box,
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                with_mark(f"{y:g}"),
            )
        for x in ticks(*self.x_range, max(2, int(field.width() // wide))):
            across = self.at(x, self.y_range[0]).x()
            painter.drawLine(QPointF(across, field.bottom()), QPointF(across, field.bottom() + 4.0))
            box = QRectF(across - wide / 2.0, field.bottom() + 4.0, wide, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, with_mark(f"{x:g}"))


def ticks(low: float, high: float, most: int) -> list[float]:
    """Return at most `most` round values of a range, 1, 2 or 5 times a power of ten apart.

    >>> ticks(0.0, 3.8, 5), ticks(0.0, 13.0, 8)
    ([0.0, 1.0, 2.0, 3.0], [0.0, 2.0, 4.0, 6.0, 8.0, 10.0, 12.0])
    """
    if high <= low:
        return [low]
    unit = 10.0 ** math.floor(math.log10((high - low) / most))
    step = next(unit * times for times in (1, 2, 5, 10) if (high - low) / (unit * times) <= most)
    first = math.ceil(low / step)
    return [round(step * place, 10) for place in range(first, math.floor(high / step + 1e-9) + 1)]


FRAME_MS = 40
#: Least length of the time axis, s, and how many times the readings' length it takes when they
#: reach its end.
MIN_SPAN_S, ROOM = 10.0, 1.3
MAX_DRAWN = 4000  # readings in which pops are looked for while it runs
DAY_S = 86_400.0
POPS_EVERY = 12  # frames
#: The simulators, each in a word.
SHOWN_FAULTS: dict[SimulatedFault, str] = {
    "none": N_("sound"),
    "low_sector": N_("low"),
    "gap": N_("gap"),
    "tape_leak": N_("leak"),
    "noise": N_("noisy"),
    "cable": N_("cable"),
}


class TraceView(QWidget):
    """Figure, graph and tools of one attempt. The readings come from the gauge's session."""

    commanded = pyqtSignal(str, object)

    def __init__(self, session: GaugeSession, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._theme = session, theme
        self._state: PlannedWheel | None = None
        self._others_of_bicycle: tuple[BenchWheel, ...] = ()
        self._units = METRIC
        self.search = PopSearch(session)
        self.plot = CurvesView(theme)
        self.plot.setAccessibleName(tr("Pressure over time"))
        self._drawn_for: tuple[object, ...] = ()
        self._frames = 0
        self._until_s = 0.0  # how far the axis of time goes
        self.figure = PlainLabel("–")
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self._buttons: list[QPushButton] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(theme.px(6), 0, 0, 0)
        self._column.setSpacing(2)
        top = QHBoxLayout()
        top.addWidget(self.figure)
        top.addWidget(self.words, 1)
        self._column.addLayout(top)
        self._column.addWidget(self.plot, 1)
        row = QGridLayout()
        row.setSpacing(3)
        self._row = row
        self._simulator = PlainLabel(tr("Simulator:"))
        self._simulator.setProperty("role", "muted")
        self._simulator.setFont(theme.font(SMALL))
        self._add_button(
            tr("Connect"),
            tr("the gauge at the port in Shop setup"),
            partial(self.commanded.emit, "connect_gauge", ""),
        )
        for fault, words in SHOWN_FAULTS.items():
            tip = tr("a simulated wheel: {fault}").format(fault=tr(FAULT_WORDS[fault]))
            self._add_button(tr(words), tip, partial(self.commanded.emit, "simulate_gauge", fault))
        self._add_button(tr("Off"), "", partial(self.commanded.emit, "gauge_off", ""))
        self._column.addLayout(row)
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MS)
        self._timer.timeout.connect(self.draw)
        self.set_theme(theme)

    def _lay_buttons(self) -> None:
        """Lay the buttons out: in one row behind the word for the simulator, in two where text is
        large.
        """
        each = (len(self._buttons) + 1) // 2 if self._theme.large else len(self._buttons)
        self._row.addWidget(self._simulator, 0, 1)
        for at, button in enumerate(self._buttons):
            column = at % each
            self._row.addWidget(button, at // each, column + (column > 0))

    def _add_button(self, words: str, tip: str, action: Callable[[], None]) -> None:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda _on: action())
        self._buttons.append(button)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        large = theme.scale > 1.0  # the column grows less than the text
        self.figure.setFont(theme.font(STEP if large else FIGURE, 600))
        self.words.setFont(theme.font(SMALL if large else TEXT, 600))
        self._lay_buttons()
        # once it is laid out: without a parent it would be a window
        self._simulator.setVisible(not large)
        for button in self._buttons:
            button.setFixedHeight(TARGET_PX if theme.large else theme.px(TARGET_PX))
            button.setStyleSheet(f"padding: 0 1px; font-size: {theme.type_px(SMALL)}px;")
        self.plot.set_theme(theme)
        self._drawn_for = ()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.draw()

    def run(self, live: bool) -> None:
        if live:
            self._timer.start()
        else:
            self._timer.stop()
        self.draw()

    def show_wheel(
        self, state: PlannedWheel | None, others: tuple[BenchWheel, ...], units: UnitChoice
    ) -> None:
        self._state, self._others_of_bicycle, self._units = state, others, units
        if self.isVisible():
            self.draw()

    def draw(self) -> None:
        session, units, state = self._session, self._units, self._state
        plan = state.plan if state is not None else None
        shown = "–" if session.now_kpa is None else show(session.now_kpa, "kpa", units)
        if self.figure.text() != shown:
            self.figure.setText(shown)
        tone = {"over": "stop", "near": "caution"}.get(session.alarm, "ink")
        self._tint(self.figure, tone)
        words = alarm_words(session, plan.pressure.limit_kpa, units) if plan is not None else ""
        said = words or tr("peak {peak}").format(peak=show(session.peak_kpa, "kpa", units))
        if self.words.text() != said:
            self.words.setText(said)
        self._tint(self.words, tone if words else "muted")
        self.setAccessibleDescription(f"{shown}. {words}")
        if self.isVisible():
            self._draw_plot(plan, units)

    def _tint(self, label: QLabel, purpose: str) -> None:
        """Color a label, only if the color changes: a style sheet costs a layout."""
        if label.property("purpose") != (purpose, self._theme.tokens.name):
            label.setProperty("purpose", (purpose, self._theme.tokens.name))
            label.setStyleSheet(f"color: {getattr(self._theme.tokens, purpose)};")

    def _draw_plot(self, plan: WheelPlan | None, units: UnitChoice) -> None:
        session = self._session
        factor = units.unit("kpa").factor
        times = session.times
        if not times and plan is not None:
            self._draw_history(plan, units)
            return
        self._widen(times[-1] if times else 0.0)
        self.plot.show_live(partial(grown, session, factor), len(times), (0.0, self._until_s))
        self._frames += 1
        if self._frames % POPS_EVERY == 0 and len(times) < MAX_DRAWN:
            self.search.look()
        mark = (id(plan), units, self.search.found)
        if mark != self._drawn_for:
            self._draw_marks(plan, units, self.search.found)
            self._drawn_for = mark

    def _widen(self, last_s: float) -> None:
        """Extend the time axis in leaps, so that it does not move with every reading."""
        if self._until_s == 0.0 or last_s > self._until_s or last_s < 0.25 * self._until_s:
            self._until_s = max(MIN_SPAN_S, ROOM * last_s)

    def _draw_history(self, plan: WheelPlan, units: UnitChoice) -> None:
        """Without a live trace: the attempt logged last, or what the wheel was handed over and
        ridden at, by days.
        """
        state = self._state
        histories = self._histories()
        tries = state.progress.seating.tries if state is not None else ()
        factor = units.unit("kpa").factor
        others: list[tuple[str, list[tuple[float, float]]]] = []
        if histories:
            (_name, points), *others = histories
            self.words.setText(
                tr("Pressures by days: {names}").format(names=", ".join(n for n, _p in histories))
            )
        else:
            points = list(tries[-1].trace) if tries else []
            self.words.setText(
                tr("The last try") if points else tr("No gauge yet: connect one, or the simulator")
            )
        self._until_s = 0.0
        shown = [points, *(more for _name, more in others)]
        curves = [
            Curve(
                tuple((t, p / factor) for t, p in one),
                "caution" if place else "accent",
                bool(histories),
            )
            for place, one in enumerate(shown)
        ]
        last = max((t for one in shown for t, _p in one), default=0.0)
        self.plot.show_curves(curves, (0.0, 1.05 * last or MIN_SPAN_S))
        mark = (id(plan), units, len(points))
        if mark != self._drawn_for:
            self._draw_marks(plan, units, ())
            self._drawn_for = mark

    def _histories(self) -> list[tuple[str, list[tuple[float, float]]]]:
        """Pressures of the wheel shown, and of the other wheels of its bicycle: (name, (days,
        kPa)).
        """
        state = self._state
        if state is None:
            return []
        mine = [state, *self._others_of_bicycle]
        pasts = [(s.name, pressure_history(s.plan)[::-1]) for s in planned(mine)]
        times = [moment(at) for _name, past in pasts for at, _kpa, _words in past]
        return [
            (
                name,
                [((moment(at) - min(times)).total_seconds() / DAY_S, kpa) for at, kpa, _w in past],
            )
            for name, past in pasts
            if past
        ]

    def _draw_marks(
        self, plan: WheelPlan | None, units: UnitChoice, pops: Sequence[SeenPop]
    ) -> None:
        if plan is None:
            self.plot.show_levels((), (), self.plot.y_range)
            return
        factor, limit = units.unit("kpa").factor, plan.pressure.limit_kpa

        def level(kpa: float) -> Across:
            words = show(kpa, "kpa", units, symbol=False)
            if kpa == limit:
                return Across(kpa / factor, tr("limit {limit}").format(limit=words), "stop", 3.0)
            return Across(kpa / factor, words, "muted", dashed=True)

        levels = [level(kpa) for kpa in dict.fromkeys((*plan.pressure.seating_kpa, limit))]
        dots = [(pop.time_s, pop.pressure_kpa / factor) for pop in pops]
        self.plot.show_levels(levels, dots, (0.0, 1.12 * limit / factor))


def grown(
    session: GaugeSession, factor: float, drawn: int
) -> tuple[list[tuple[float, float]], int]:
    """Return what of a trace is not drawn yet, from the last reading that is, and how many are
    drawn then.

    Args:
        factor: canonical value of one shown unit.
        drawn: how many readings are; none: the whole trace, in few points.
    """
    times, pressures = session.times, session.pressures
    count = len(times)
    if drawn == 0:
        return [(at, kpa / factor) for at, kpa in session.thin.points()], count
    return [
        (times[i], pressures[i] / factor) for i in range(drawn - 1, count)
    ] if count > drawn else [], count
