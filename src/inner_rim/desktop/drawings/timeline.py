"""The day's timeline, painted: bars for hands, hatched waits, closed hours, the line of now, flags for due times."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QGroupBox, QWidget

from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.text.timeline import Bar, Timeline

NAMES_PX, HEAD_PX, ROW_PX, LEAST_ROW_PX, NOTE_ROW_PX = 170, 24, 32, 14, 26
#: A bar is so wide at least that it can be hit.
LEAST_BAR_PX = 5.0


class TimelineView(QGroupBox):
    """Shows a day; a double click, or the arrows and Enter, open the wheel of a bar."""

    opened = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._day: Timeline | None = None
        self._at = -1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Timeline of the day"))
        self.setMinimumHeight(theme.px(HEAD_PX + 2 * LEAST_ROW_PX))

    def set_theme(self, theme: Theme) -> None:
        """Paint in another theme."""
        self._theme = theme
        self.update()

    def show_day(self, day: Timeline) -> None:
        """Show another schedule."""
        if day == self._day:
            return
        self._day = day
        self._at = min(self._at, len(day.bars) - 1)
        self.setAccessibleDescription(". ".join(day.words))
        self.update()

    # -- places ----------------------------------------------------------------------------------

    def _x(self, minute: float) -> float:
        left = self._theme.px(NAMES_PX)
        end = self._day.end if self._day is not None else 1
        return left + (self.width() - left - 8.0) * minute / end

    def _row(self, row: int) -> tuple[float, float]:
        """Top and height of a row."""
        head = self._theme.px(HEAD_PX)
        rows = len(self._day.rows) if self._day is not None else 1
        high = min(float(self._theme.px(ROW_PX)), max(4.0, (self.height() - head - 4.0) / max(1, rows)))
        return head + row * high, high

    def box(self, bar: Bar) -> QRectF:
        """Return where a bar lies."""
        top, high = self._row(bar.row)
        end = self._day.end if self._day is not None else bar.end
        left, right = self._x(bar.start), self._x(min(bar.end, end))
        return QRectF(left, top + 2.0, max(LEAST_BAR_PX, right - left), high - 4.0)

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the day."""
        day, theme = self._day, self._theme
        if day is None:
            return
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("card"))
        bottom = self._row(len(day.rows))[0]
        head = float(theme.px(HEAD_PX))
        for begins, ends in day.closed:
            painter.fillRect(
                QRectF(self._x(begins), head, self._x(ends) - self._x(begins), bottom - head),
                theme.color("ground"),
            )
        painter.setFont(theme.font(11))
        for minute, words in day.ticks:
            x = self._x(minute)
            painter.fillRect(QRectF(x, head - 4.0, 1.0, bottom - head + 4.0), theme.color("line"))
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(x - 40, 2, 80, head - 6), Qt.AlignmentFlag.AlignCenter, words)
        for row, name in enumerate(day.rows):
            top, high = self._row(row)
            note = day.notes[row] if high >= theme.px(NOTE_ROW_PX) else ""
            if note:
                painter.setFont(theme.fitted(note, theme.px(NAMES_PX) - 12, 10.0, 7))
                painter.setPen(theme.color("muted"))
                low = QRectF(4, top + 0.52 * high, theme.px(NAMES_PX) - 10, 0.44 * high)
                painter.drawText(low, Qt.AlignmentFlag.AlignVCenter, note)
                high *= 0.56
            painter.setFont(theme.fitted(name, theme.px(NAMES_PX) - 12, min(13.0, 0.7 * high), 8))
            painter.setPen(theme.color("ink"))
            painter.drawText(
                QRectF(4, top, theme.px(NAMES_PX) - 10, high), Qt.AlignmentFlag.AlignVCenter, name
            )
        for place, bar in enumerate(day.bars):
            self._paint_bar(painter, bar, place == self._at and self.hasFocus())
        for row, minute, late in day.dues:
            self._paint_due(painter, row, minute, late)
        painter.setPen(QPen(theme.color("stop"), 2.0))
        painter.drawLine(QPointF(self._x(0), head - 6), QPointF(self._x(0), bottom))

    def _paint_bar(self, painter: QPainter, bar: Bar, chosen: bool) -> None:
        theme, box = self._theme, self.box(bar)
        if bar.wait:
            painter.setPen(QPen(theme.color("edge"), 1.0))
            painter.setBrush(QBrush(theme.color("edge"), Qt.BrushStyle.BDiagPattern))
            painter.drawRect(box.adjusted(0, 3, 0, -3))
            return
        painter.setPen(QPen(theme.color("ink"), 3.0 if chosen else 1.0))
        painter.setBrush(theme.color("stop_soft" if bar.late else "accent_soft"))
        painter.drawRect(box)
        if box.width() > theme.px(26):
            painter.setFont(theme.font(11))
            painter.setPen(theme.color("stop" if bar.late else "ink"))
            words = painter.fontMetrics().elidedText(
                bar.words, Qt.TextElideMode.ElideRight, int(box.width() - 6)
            )
            painter.drawText(box.adjusted(3, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_due(self, painter: QPainter, row: int, minute: int, late: bool) -> None:
        """A flag: its pole where it is due; filled where it will be late."""
        theme = self._theme
        top, high = self._row(row)
        x = self._x(minute)
        painter.setPen(QPen(theme.color("stop" if late else "accent"), 2.0))
        painter.drawLine(QPointF(x, top + 1), QPointF(x, top + high - 1))
        painter.setBrush(theme.color("stop") if late else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(QPolygonF([QPointF(x, top + 1), QPointF(x + 9, top + 5), QPointF(x, top + 9)]))

    # -- hands -----------------------------------------------------------------------------------

    def _bar_at(self, position: QPointF) -> int:
        bars = self._day.bars if self._day is not None else ()
        return next(
            (i for i, bar in enumerate(bars) if not bar.wait and self.box(bar).contains(position)), -1
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose a bar, and say what it is."""
        if event is not None:
            self._choose(self._bar_at(event.position()))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Open the wheel."""
        if event is not None and (place := self._bar_at(event.position())) >= 0 and self._day is not None:
            self.opened.emit(self._day.bars[place].key)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from bar to bar, Enter opens the wheel."""
        day = self._day
        if event is None or day is None or not day.bars:
            return
        hands = [i for i, bar in enumerate(day.bars) if not bar.wait]
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()), 0)
        if step and hands:
            here = hands.index(self._at) if self._at in hands else (-1 if step > 0 else 0)
            self._choose(hands[(here + step) % len(hands)])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at in hands:
            self.opened.emit(day.bars[self._at].key)
        else:
            event.ignore()

    def _choose(self, place: int) -> None:
        self._at = place
        if self._day is not None and place >= 0:
            self.setToolTip(self._day.bars[place].words.replace("<", "‹"))
            self.setAccessibleDescription(self._day.bars[place].words)
        self.update()
