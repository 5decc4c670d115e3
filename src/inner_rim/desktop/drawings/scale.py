"""The one pressure scale, always in view: zero – minimum – riding – sealing – steps – limit."""

from __future__ import annotations

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
#: The whole, room at the left for the unit, the top of the bar, px.
HIGH_PX, LEFT_PX, BAR_PX = 94, 74, 49


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
            theme.px(LEFT_PX), theme.px(BAR_PX), self.width() - theme.px(LEFT_PX + 20), theme.px(11)
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
        marks_above = [(p.settle_kpa, tr("sealing {p}"), 400)]
        if p.minimum_kpa is not None:
            marks_above.insert(0, (p.minimum_kpa, tr("min {p}"), 400))
        marks_below = [(step, "{p}", 400) for step in p.seating_kpa if step != p.start_kpa]
        marks_below.append((p.start_kpa, tr("riding {p}"), 600))
        at_the_limit = tr("LIMIT {p}, {origin}").format(
            p=show(limit, "kpa", self._units), origin=tr(limit_words(p))
        )
        width = theme.width_of(at_the_limit, TITLE, 600) + 4
        limit_left = min(self._x(limit, bar, limit) - width * 0.5, bar.right() - width)
        self._marks(painter, marks_above, bar, limit, above=True, right=limit_left - 8)
        self._marks(painter, sorted(marks_below), bar, limit, above=False, right=bar.right())
        x = self._x(limit, bar, limit)
        painter.fillRect(QRectF(x - 2, bar.top() - 6, 4, bar.height() + 12), theme.color("stop"))
        painter.setPen(theme.color("stop"))
        painter.setFont(theme.font(TITLE, 600))
        painter.drawText(
            QRectF(limit_left, bar.top() - theme.px(45), width, theme.px(30)),
            Qt.AlignmentFlag.AlignVCenter,
            at_the_limit,
        )
        self._pointers(painter, bar, limit)

    def _marks(
        self,
        painter: QPainter,
        marks: list[tuple[float, str, int]],
        bar: QRectF,
        limit: float,
        *,
        above: bool,
        right: float,
    ) -> None:
        """Paint ticks and their words, pushed aside where they would run into each other; above the
        bar, words that would end up far from their tick are left out.
        """
        theme = self._theme
        texts = [
            words.format(p=show(kpa, "kpa", self._units, symbol=False)) for kpa, words, _ in marks
        ]
        widths = [
            theme.width_of(text, TEXT, weight) + 4.0
            for text, (_, _, weight) in zip(texts, marks, strict=True)
        ]
        ticks = [self._x(kpa, bar, limit) for kpa, _, _ in marks]
        shown, edges = list(range(len(marks))), (bar.left() - theme.px(40), right, theme.px(8))
        while True:
            placed = side_by_side([ticks[i] for i in shown], [widths[i] for i in shown], *edges)
            lefts = dict(zip(shown, placed, strict=True))
            moved = {
                i: abs(left + 0.5 * widths[i] - ticks[i]) - widths[i] for i, left in lefts.items()
            }
            farthest = max(shown, key=moved.__getitem__, default=None)
            if not above or farthest is None or moved[farthest] <= 0.0:
                break
            shown.remove(farthest)
        top = bar.top() - theme.px(26) if above else bar.bottom() + theme.px(7)
        edge = bar.top() - 4 if above else bar.bottom() + 4
        painter.setPen(theme.color("ink"))
        for tick in ticks:
            painter.drawLine(int(tick), int(edge), int(tick), int(bar.center().y()))
        for i, left in lefts.items():
            painter.setFont(theme.font(TEXT, marks[i][2]))
            painter.drawText(
                QRectF(left, top, widths[i], theme.px(22)), Qt.AlignmentFlag.AlignCenter, texts[i]
            )

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


def side_by_side(
    centers: list[float], widths: list[float], left: float, right: float, gap: float
) -> list[float]:
    """Return the left edges of labels that should be over their centers, in order, without overlap.

    First each is pushed right of the one before, then the last ones back inside `right`. Where
    there is not room for all, order and gap are kept and the first ones pass `left`.
    """
    edges: list[float] = []
    free = left
    for center, width in zip(centers, widths, strict=True):
        edges.append(max(center - 0.5 * width, free))
        free = edges[-1] + width + gap
    most = right
    for i in range(len(edges) - 1, -1, -1):
        edges[i] = min(edges[i], most - widths[i])
        most = edges[i] - gap
    return edges
