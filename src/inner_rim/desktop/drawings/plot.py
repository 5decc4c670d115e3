"""A plot, painted: dots with their line and band, levels across, moments upright."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.work.text.plots import Plot

LEFT_PX, BOTTOM_PX, TOP_PX, RIGHT_PX = 46, 24, 66, 10
DOT_PX = 4.5


def place(
    field: QRectF, x_range: tuple[float, float], y_range: tuple[float, float], x: float, y: float
) -> QPointF:
    (x0, x1), (y0, y1) = x_range, y_range
    return QPointF(
        field.left() + field.width() * (x - x0) / max(1e-9, x1 - x0),
        field.bottom() - field.height() * (y - y0) / max(1e-9, y1 - y0),
    )


class PlotView(Picture):
    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._plot: Plot | None = None
        self.setMinimumSize(180, 60)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_plot(self, plot: Plot) -> None:
        if plot == self._plot:
            return
        self._plot = plot
        self.setAccessibleName(plot.title)
        self.setAccessibleDescription(
            "; ".join((plot.note, *(level.words for level in plot.levels)))
        )
        self.update()

    def at(self, x: float, y: float) -> QPointF:
        assert self._plot is not None
        return place(self._field(), self._plot.x_range, self._plot.y_range, x, y)

    def _field(self) -> QRectF:
        px = self._theme.px
        return QRectF(self.rect()).adjusted(px(LEFT_PX), px(TOP_PX), -px(RIGHT_PX), -px(BOTTOM_PX))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._plot is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_words(painter, self._plot)
        if not self._plot.dots or self._field().height() < self._theme.px(40):
            return
        self._paint_axes(painter, self._plot)
        painter.save()
        painter.setClipRect(self._field().adjusted(-6, -6, 6, 6))
        self._paint_band(painter, self._plot)
        painter.restore()
        self._paint_moments(painter, self._plot, self._paint_levels(painter, self._plot))
        painter.setPen(QPen(self._theme.color("accent"), 3.0))
        for x, low, high in self._plot.spans:
            painter.drawLine(self.at(x, low), self.at(x, high))
        painter.setPen(QPen(self._theme.color("card"), 1.0))
        painter.setBrush(self._theme.color("ink"))
        for x, y in self._plot.dots:
            painter.drawEllipse(self.at(x, y), DOT_PX, DOT_PX)

    def _paint_words(self, painter: QPainter, plot: Plot) -> None:
        theme = self._theme
        wide = self.width() - 12.0
        painter.setPen(theme.color("ink"))
        painter.setFont(theme.fitted(plot.title, wide, TEXT, 600))
        painter.drawText(
            QRectF(6, 2, wide, theme.px(22)), Qt.AlignmentFlag.AlignVCenter, plot.title
        )
        painter.setPen(theme.color("muted"))
        painter.setFont(theme.font(SMALL))
        flags = int(Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)
        painter.drawText(
            QRectF(
                6,
                theme.px(24),
                wide,
                max(theme.px(36), self.height() - theme.px(24) if not plot.dots else 0),
            ),
            flags,
            plot.note,
        )

    def _paint_axes(self, painter: QPainter, plot: Plot) -> None:
        theme, field = self._theme, self._field()
        painter.setFont(theme.font(SMALL))
        painter.setPen(QPen(theme.color("muted"), 1.0))
        painter.drawLine(field.bottomLeft(), field.bottomRight())
        painter.drawLine(field.bottomLeft(), field.topLeft())
        for y, words in plot.y_ticks:
            at = self.at(plot.x_range[0], y)
            painter.setPen(QPen(theme.color("line"), 1.0))
            painter.drawLine(at, QPointF(field.right(), at.y()))
            painter.setPen(theme.color("muted"))
            box = QRectF(0, at.y() - theme.px(9), field.left() - 6, theme.px(18))
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
            )
        free = field.left() - 20.0
        for x, words in plot.x_ticks:
            at = self.at(x, plot.y_range[0])
            painter.setPen(theme.color("muted"))
            painter.drawLine(at, at + QPointF(0, 4))
            width = painter.fontMetrics().horizontalAdvance(words) + 6.0
            left = min(max(at.x() - width / 2, 0.0), self.width() - width)
            if left < free:
                continue
            free = left + width
            painter.drawText(
                QRectF(left, at.y() + 5, width, theme.px(17)), Qt.AlignmentFlag.AlignCenter, words
            )

    def _paint_band(self, painter: QPainter, plot: Plot) -> None:
        theme = self._theme
        if plot.band:
            low = [self.at(x, a) for x, a, _b in plot.band]
            high = [self.at(x, b) for x, _a, b in reversed(plot.band)]
            painter.setPen(QPen(theme.color("accent"), 1.0, Qt.PenStyle.DotLine))
            painter.setBrush(theme.color("accent_soft"))
            painter.drawPolygon(QPolygonF([*low, *high]))
        if plot.line:
            last = plot.dots[-1][0]
            behind = [self.at(x, y) for x, y in plot.line if x <= last]
            ahead = [self.at(x, y) for x, y in plot.line if x >= last]
            painter.setPen(QPen(theme.color("accent"), 2.0))
            painter.drawPolyline(QPolygonF([*behind, *ahead[:1]]))
            painter.setPen(QPen(theme.color("accent"), 2.0, Qt.PenStyle.DashLine))
            painter.drawPolyline(QPolygonF(ahead))

    def _paint_levels(self, painter: QPainter, plot: Plot) -> list[QRectF]:
        """Paint limit and minimum; return the boxes of their words."""
        theme, field = self._theme, self._field()
        taken = []
        painter.setFont(theme.font(SMALL, 600))
        for level in plot.levels:
            at = self.at(plot.x_range[0], level.y)
            painter.setPen(QPen(theme.color(level.purpose), 2.0))
            painter.drawLine(at, QPointF(field.right(), at.y()))
            width = painter.fontMetrics().horizontalAdvance(level.words) + 8.0
            # a plan is written at the left and below, out of the way of a limit
            if level.purpose == "accent":
                box = QRectF(field.left() + 4, at.y() + 2, width, theme.px(16))
            else:
                box = QRectF(field.right() - width, at.y() - theme.px(17), width, theme.px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, level.words)
            taken.append(box)
        return taken

    def _paint_moments(self, painter: QPainter, plot: Plot, taken: list[QRectF]) -> None:
        """Paint upright lines with their words, each at the lowest place that is free."""
        theme, field = self._theme, self._field()
        painter.setFont(theme.font(SMALL))
        for moment in plot.moments:
            at = self.at(moment.x, plot.y_range[0])
            painter.setPen(QPen(theme.color("ink"), 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(at, QPointF(at.x(), field.top()))
            width = painter.fontMetrics().horizontalAdvance(moment.words) + 8.0
            left = at.x() - width if at.x() + width > self.width() - 4 else at.x() + 2
            box = QRectF(left, field.bottom() - theme.px(16), width, theme.px(16))
            while any(box.intersects(other) for other in taken) and box.top() > field.top():
                box.translate(0.0, -0.5 * theme.px(16))
            taken.append(box)
            painter.setPen(theme.color("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, moment.words)
