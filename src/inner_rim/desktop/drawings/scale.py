"""The one pressure scale, always in view: zero – minimum – riding – sealing – steps – limit."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QWidget

from inner_rim.core.models.limit import limit_words
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import TEXT, TITLE, Theme
from inner_rim.words import tr

HEADROOM = 1.14  # how far the scale goes past the limit
#: The whole, room at the left for the unit, the top and the height of the bar, a row of words, px.
HIGH_PX, LEFT_PX, BAR_PX, THICK_PX, ROW_PX = 98, 74, 40, 11, 21


class PressureScale(Picture):
    """A bar from zero to past the limit, with every pressure of the plan on it."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._plan: WheelPlan | None = None
        self._units = UnitChoice()
        self._now_kpa: float | None = None
        self._next_kpa: float | None = None
        self._shown: object = ()
        # so that nothing behind it is painted first
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.setFixedHeight(theme.px(HIGH_PX))
        self.update()

    def show_plan(
        self,
        plan: WheelPlan | None,
        units: UnitChoice,
        now_kpa: float | None,
        next_kpa: float | None,
    ) -> None:
        """Show a plan's pressures; `now_kpa` marks where the wheel is, `next_kpa` the next pressure
        step.
        """
        shown = (plan.pressure if plan else None, units, now_kpa, next_kpa)
        if shown == self._shown:
            return
        self._shown = shown
        self._plan, self._units, self._now_kpa, self._next_kpa = plan, units, now_kpa, next_kpa
        self.setAccessibleName(tr("Pressure scale"))
        self.setAccessibleDescription("; ".join(f"{name} {text}" for name, text in self._words()))
        self.update()

    def show_live(self, kpa: float, units: UnitChoice) -> None:
        self._units = units
        if kpa != self._now_kpa:
            self._now_kpa = kpa
            self._shown = ()  # so that the next plan is painted
            self.update()

    def _words(self) -> list[tuple[str, str]]:
        if self._plan is None:
            return []
        p = self._plan.pressure
        result = [(tr("limit"), f"{show(p.limit_kpa, 'kpa', self._units)}, {tr(limit_words(p))}")]
        result += [(tr("riding"), show(p.start_kpa, "kpa", self._units))]
        return [*result, (tr("sealing"), show(p.settle_kpa, "kpa", self._units))]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        theme = self._theme
        painter = QPainter(self)
        # before edges are smoothed: whole pixels
        painter.fillRect(self.rect(), theme.color("card"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(theme.color("line"))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(theme.font(TEXT))
        painter.setPen(theme.color("muted"))
        unit = self._units.unit("kpa").symbol
        head = QRectF(theme.px(16), theme.px(BAR_PX - 8), theme.px(60), theme.px(28))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, unit)
        if self._plan is None:
            painter.setFont(theme.font(TITLE))
            painter.drawText(
                QRectF(theme.px(LEFT_PX), 0, self.width() - theme.px(LEFT_PX), self.height()),
                Qt.AlignmentFlag.AlignVCenter,
                tr("No limit known yet: do not inflate."),
            )
            return
        self._paint_bar(painter, self._plan)

    def _x(self, kpa: float, bar: QRectF, limit_kpa: float) -> float:
        return bar.left() + bar.width() * min(kpa / (limit_kpa * HEADROOM), 1.0)

    def _paint_bar(self, painter: QPainter, plan: WheelPlan) -> None:
        theme, p = self._theme, plan.pressure
        bar = QRectF(
            theme.px(LEFT_PX),
            theme.px(BAR_PX),
            self.width() - theme.px(LEFT_PX + 20),
            theme.px(THICK_PX),
        )
        limit = p.limit_kpa

        def zone(low: float, high: float, purpose: str) -> None:
            x0, x1 = self._x(low, bar, limit), self._x(high, bar, limit)
            painter.fillRect(QRectF(x0, bar.top(), x1 - x0, bar.height()), theme.color(purpose))

        floor = p.minimum_kpa or 0.0
        zone(0.0, limit * HEADROOM, "line")
        zone(floor, p.settle_kpa, "accent")
        zone(p.settle_kpa, limit, "accent_soft")
        zone(limit, limit * HEADROOM, "stop_soft")
        painter.setPen(theme.outline("edge"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        # straight lines on whole pixels
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.drawRect(bar)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        at_the_limit = tr("LIMIT {p}, {origin}").format(
            p=show(limit, "kpa", self._units), origin=tr(limit_words(p))
        )
        width = theme.width_of(at_the_limit, TITLE, 600) + 4
        limit_left = min(self._x(limit, bar, limit) - width * 0.5, bar.right() - width)
        self._paint_marks(painter, plan, bar)
        x = self._x(limit, bar, limit)
        painter.fillRect(QRectF(x - 2, bar.top() - 6, 4, bar.height() + 12), theme.color("stop"))
        painter.setPen(theme.color("stop"))
        painter.setFont(theme.font(TITLE, 600))
        painter.drawText(
            QRectF(limit_left, bar.top() - theme.px(37), width, theme.px(30)),
            Qt.AlignmentFlag.AlignVCenter,
            at_the_limit,
        )
        self._pointers(painter, bar, limit)

    def _paint_marks(self, painter: QPainter, plan: WheelPlan, bar: QRectF) -> None:
        """Paint a tick for every pressure; steps in the first row below it, what has a name in the
        second, with a line to it.
        """
        theme, limit = self._theme, plan.pressure.limit_kpa
        named = self._named(plan)
        texts = {show(kpa, "kpa", self._units, symbol=False) for kpa in named}
        steps = [
            kpa
            for kpa in plan.pressure.seating_kpa
            if show(kpa, "kpa", self._units, symbol=False) not in texts
        ]
        lines = [self._x(kpa, bar, limit) for kpa in named]
        mark = self._x(limit, bar, limit)
        figures = [show(kpa, "kpa", self._units, symbol=False) for kpa in steps]
        for row, pressures, words, blocked, weight in (
            (0, steps, figures, [*lines, mark], 400),
            (1, list(named), list(named.values()), [mark], 600),
        ):
            ticks = [self._x(kpa, bar, limit) for kpa in pressures]
            widths = [theme.width_of(text, TEXT, weight) + 4.0 for text in words]
            places = at_their_ticks(
                ticks, widths, blocked, bar.left() - theme.px(40), self.width(), theme.px(8)
            )
            top = bar.bottom() + 4 + row * theme.px(ROW_PX)
            painter.setPen(theme.color("ink"))
            for tick in ticks:
                down = top if row else bar.bottom() + 4
                painter.drawLine(int(tick), int(bar.center().y()), int(tick), int(down))
            painter.setFont(theme.font(TEXT, weight))
            for left, width, text in zip(places, widths, words, strict=True):
                if left is not None:
                    box = QRectF(left, top, width, theme.px(ROW_PX))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _named(self, plan: WheelPlan) -> dict[float, str]:
        """The pressures that have a name, from the lowest; two names of one pressure together."""
        p = plan.pressure
        names = [(p.start_kpa, tr("riding")), (p.settle_kpa, tr("sealing"))]
        if p.minimum_kpa is not None:
            names.insert(0, (p.minimum_kpa, tr("min")))
        by_text: dict[str, tuple[float, list[str]]] = {}
        for kpa, name in sorted(names, key=lambda one: one[0]):
            text = show(kpa, "kpa", self._units, symbol=False)
            by_text.setdefault(text, (kpa, []))[1].append(name)
        return {kpa: f"{', '.join(said)} {text}" for text, (kpa, said) in by_text.items()}

    def _pointers(self, painter: QPainter, bar: QRectF, limit: float) -> None:
        theme = self._theme
        painter.setPen(Qt.PenStyle.NoPen)
        if self._next_kpa is not None:
            x = self._x(self._next_kpa, bar, limit)
            painter.setBrush(theme.color("caution"))
            painter.drawEllipse(QRectF(x - 6, bar.center().y() - 6, 12, 12))
        if self._now_kpa is not None:
            x = self._x(self._now_kpa, bar, limit)
            painter.setBrush(theme.color("stop" if self._now_kpa > limit else "ink"))
            top = bar.top() - 2
            painter.drawPolygon(
                QPolygonF(
                    [
                        QRectF(x - 7, top - 11, 0, 0).topLeft(),
                        QRectF(x + 7, top - 11, 0, 0).topLeft(),
                        QRectF(x, top, 0, 0).topLeft(),
                    ]
                )
            )


def at_their_ticks(
    ticks: Sequence[float],
    widths: Sequence[float],
    blocked: Sequence[float],
    left: float,
    right: float,
    gap: float,
) -> list[float | None]:
    """Return the left edge of each label: centered at its tick, else beginning or ending there;
    None where there is no room for it.

    No two overlap, none is outside left and right, and none covers a mark that is not its own.

    Args:
        ticks: in order, as the blocked marks need not be.
        blocked: other marks that no label may cover.

    >>> at_their_ticks([100.0, 130.0], [40.0, 40.0], [], 0.0, 300.0, 8.0)
    [60.0, 130.0]
    """
    result: list[float | None] = []
    free = left
    for place, (tick, width) in enumerate(zip(ticks, widths, strict=True)):
        others = [x for x in (*blocked, *ticks[:place], *ticks[place + 1 :]) if abs(x - tick) > 2.0]
        after = ticks[place + 1] if place + 1 < len(ticks) else right + width
        # one that ends at its tick leaves the next one room
        tight = after - tick < 0.5 * (width + widths[min(place + 1, len(widths) - 1)]) + gap
        ends, centered, begins = tick - width, tick - 0.5 * width, tick
        edges = (ends, centered, begins) if tight else (centered, begins, ends)
        fits = (
            edge
            for edge in edges
            if edge >= free
            and edge + width <= right
            and not any(edge - 2.0 < x < edge + width + 2.0 for x in others)
        )
        edge = next(fits, None)
        result.append(edge)
        free = edge + width + gap if edge is not None else free
    return result
