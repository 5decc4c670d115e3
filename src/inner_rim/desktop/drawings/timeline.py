"""The day's timeline, painted: bars for hands, hatched waits, closed hours, the line of now, flags for due times."""

from __future__ import annotations

from datetime import timedelta

import msgspec
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QGroupBox, QWidget

from inner_rim.core.record.moments import in_words
from inner_rim.desktop.drawings.ring import paint_ring
from inner_rim.desktop.widgets.theme import SMALL, Theme
from inner_rim.words import tr
from inner_rim.work.text.timeline import Bar, Timeline

NAMES_PX, HEAD_PX, ROW_PX, LEAST_ROW_PX, NOTE_ROW_PX = 170, 24, 32, 14, 26
#: A bar is so wide at least that it can be hit.
LEAST_BAR_PX = 5.0
#: A bar is dragged from so many pixels on, and put down at a multiple of so many minutes; a key moves it by a quarter.
DRAG_PX, STEP_MIN, NUDGE_MIN = 6.0, 5, 15
#: What an arrow does: (bars or quarters later, mechanics lower).
ARROWS = {
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Down: (0, 1),
    Qt.Key.Key_Up: (0, -1),
}
LET_GO = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
#: A bar has its wheel's ring from this width on.
RING_PX = 20


class TimelineView(QGroupBox):
    """Shows a day; a double click, or the arrows and Enter, open a bar's wheel; dragging, or Shift and the arrows, move it.

    Signals:
        opened: a wheel's key.
        moved: wheel, task, minute, mechanic.
        let_go: wheel, task; the plan may place it again.
        picked: another bar was chosen, or none.
    """

    opened = pyqtSignal(str)
    moved = pyqtSignal(int, int, int, int)
    let_go = pyqtSignal(int, int)
    picked = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._day: Timeline | None = None
        self._chosen: tuple[str, int] | None = None
        self._pressed: QPointF | None = None
        self._dragged: tuple[int, int] | None = None  # minute and mechanic
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
        bar = self.chosen
        self.setAccessibleDescription(self.said(bar) if bar is not None else ". ".join(day.words))
        self.update()

    # -- places ----------------------------------------------------------------------------------

    def _x(self, minute: float) -> float:
        left = self._theme.px(NAMES_PX)
        share = self._day.share(minute) if self._day is not None else 0.0
        return left + (self.width() - left - 8.0) * share

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
        painter.setFont(theme.font(SMALL))
        for minute, words in day.ticks:
            x = self._x(minute)
            painter.fillRect(QRectF(x, head - 4.0, 1.0, bottom - head + 4.0), theme.color("line"))
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(x - 40, 2, 80, head - 6), Qt.AlignmentFlag.AlignCenter, words)
        for row, name in enumerate(day.rows):
            top, high = self._row(row)
            note = day.notes[row] if high >= theme.px(NOTE_ROW_PX) else ""
            if note:
                painter.setFont(theme.font(SMALL))
                painter.setPen(theme.color("muted"))
                low = QRectF(4, top + 0.52 * high, theme.px(NAMES_PX) - 10, 0.44 * high)
                painter.drawText(low, Qt.AlignmentFlag.AlignVCenter, note)
                high *= 0.56
            painter.setFont(theme.font(SMALL))
            painter.setPen(theme.color("ink"))
            painter.drawText(
                QRectF(4, top, theme.px(NAMES_PX) - 10, high), Qt.AlignmentFlag.AlignVCenter, name
            )
        chosen = self.chosen
        for bar in day.bars:
            self._paint_bar(painter, bar, bar is chosen)
        for row, minute, late in day.dues:
            self._paint_due(painter, row, minute, late)
        painter.setPen(QPen(theme.color("stop"), 2.0))
        painter.drawLine(QPointF(self._x(0), head - 6), QPointF(self._x(0), bottom))
        if chosen is not None and self._dragged is not None:
            self._paint_dragged(painter, chosen, *self._dragged)

    def _paint_dragged(self, painter: QPainter, bar: Bar, minute: int, mechanic: int) -> None:
        """Where a bar would be put down, and when that is."""
        assert self._day is not None
        theme = self._theme
        row = bar.row if self._day.by_wheel else mechanic
        there = msgspec.structs.replace(bar, row=row, start=minute, end=minute + bar.end - bar.start)
        box = self.box(there)
        painter.setPen(QPen(theme.color("accent"), 2.0, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        words = in_words(self._day.start + timedelta(minutes=minute), "%a %H:%M")
        painter.setFont(theme.font(SMALL, 600))
        wide = painter.fontMetrics().horizontalAdvance(words) + 8
        plate = QRectF(min(box.left(), self.width() - wide - 2.0), 0.0, wide, theme.px(HEAD_PX) - 4.0)
        painter.fillRect(plate, theme.color("accent"))
        painter.setPen(theme.color("card"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)

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
        left = box.left() + 3.0
        if bar.pinned:  # a head and a needle, at the upper edge
            painter.setBrush(theme.color("ink"))
            painter.setPen(QPen(theme.color("ink"), 1.5))
            painter.drawLine(QPointF(left + 3.0, box.top() + 4.0), QPointF(left + 3.0, box.bottom() - 3.0))
            painter.drawEllipse(QPointF(left + 3.0, box.top() + 4.0), 3.0, 3.0)
            left += 10.0
        side = min(box.height() - 4.0, float(theme.px(18)))
        if bar.progress is not None and box.right() - left > theme.px(RING_PX) and side >= 10.0:
            paint_ring(painter, QRectF(left, box.center().y() - side / 2, side, side), bar.progress, theme)
            left += side + 3.0
        room = QRectF(left, box.top(), box.right() - left - 3.0, box.height())
        painter.setFont(theme.font(SMALL))
        painter.setPen(theme.color("stop" if bar.late else "ink"))
        wide = painter.fontMetrics().horizontalAdvance
        words = next((said for said in (bar.words, *bar.shorter) if wide(said) <= room.width()), "")
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, words)  # whole, or not at all: a click says it

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

    @property
    def chosen(self) -> Bar | None:
        """The bar that is chosen, None where none is."""
        bars = self._day.bars if self._day is not None else ()
        return next((bar for bar in bars if not bar.wait and (bar.key, bar.task) == self._chosen), None)

    def _bar_at(self, position: QPointF) -> Bar | None:
        bars = self._day.bars if self._day is not None else ()
        return next((bar for bar in bars if not bar.wait and self.box(bar).contains(position)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose a bar, and perhaps begin to drag it."""
        if event is not None:
            self.choose(self._bar_at(event.position()))
            self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag the bar that is chosen."""
        bar = self.chosen
        if event is None or bar is None or self._pressed is None:
            return
        way = event.position() - self._pressed
        if self._dragged is None and abs(way.x()) + abs(way.y()) < DRAG_PX:
            return
        self._dragged = self._place(bar, event.position(), way.x())
        self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        """Put the bar down where it was dragged to."""
        bar, dragged = self.chosen, self._dragged
        self._pressed = self._dragged = None
        if bar is not None and dragged is not None:
            self.moved.emit(bar.wheel, bar.task, *dragged)
        self.update()

    def _place(self, bar: Bar, position: QPointF, way: float) -> tuple[int, int]:
        """The minute and the mechanic that a bar is dragged to; on a wheel's row it stays with its mechanic."""
        assert self._day is not None
        share = (self._x(bar.start) + way - self._x(0)) / (self._x(self._day.end) - self._x(0))
        at = self._day.start + timedelta(minutes=max(0.0, self._day.minute(share)))
        off = at.minute % STEP_MIN + at.second / 60.0
        minute = round((at - self._day.start).total_seconds() / 60.0 - off + STEP_MIN * round(off / STEP_MIN))
        if self._day.by_wheel:
            return max(0, minute), bar.mechanic
        top, high = self._row(0)
        row = int((position.y() - top) // high)
        return max(0, minute), min(max(row, 0), len(self._day.rows) - 1)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Open the wheel."""
        bar = self._bar_at(event.position()) if event is not None else None
        if bar is not None:
            self._pressed = None
            self.opened.emit(bar.key)

    def event(self, event: QEvent | None) -> bool:
        """Keep the keys that move bars from the window's shortcuts."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            shifted = event.modifiers() == Qt.KeyboardModifier.ShiftModifier
            dragging = event.key() == Qt.Key.Key_Escape and self._dragged is not None
            if dragging or (shifted and event.key() in ARROWS) or event.key() in (*LET_GO, Qt.Key.Key_Space):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from bar to bar, with Shift they move it; Space pins it where it is, or lets it go; Enter opens."""
        day = self._day
        if event is None or day is None or not day.bars:
            return
        key, bar = Qt.Key(event.key()), self.chosen
        if key == Qt.Key.Key_Escape and self._dragged is not None:
            self._pressed = self._dragged = None
            self.update()
        elif key in ARROWS and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._nudge(bar, *ARROWS[key])
        elif key in ARROWS and ARROWS[key][0]:
            hands = [one for one in day.bars if not one.wait]
            here = hands.index(bar) if bar in hands else (-1 if ARROWS[key][0] > 0 else 0)
            self.choose(hands[(here + ARROWS[key][0]) % len(hands)])
        elif bar is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit(bar.key)
        elif bar is not None and key == Qt.Key.Key_Space:
            self.turn_pin()
        elif bar is not None and bar.pinned and key in LET_GO:
            self.let_go.emit(bar.wheel, bar.task)
        else:
            event.ignore()

    def turn_pin(self) -> None:
        """Pin the bar that is chosen where it is, or let it go."""
        bar = self.chosen
        if bar is not None and bar.pinned:
            self.let_go.emit(bar.wheel, bar.task)
        elif bar is not None:
            self.moved.emit(bar.wheel, bar.task, bar.start, bar.mechanic)

    def _nudge(self, bar: Bar | None, later: int, lower: int) -> None:
        """Move the bar that is chosen to the quarter of the clock before or after, or to another mechanic."""
        if bar is None or self._day is None or (lower and self._day.by_wheel):
            return
        off = (self._day.start.minute + bar.start) % NUDGE_MIN
        by = later * NUDGE_MIN - off if later >= 0 or not off else -off
        mechanics = len(self._day.rows) if not self._day.by_wheel else bar.mechanic + 1
        row = min(max(bar.mechanic + lower, 0), mechanics - 1)
        if later or row != bar.mechanic:
            self.moved.emit(bar.wheel, bar.task, bar.start + (by if later else 0), row)

    def choose(self, bar: Bar | None) -> None:
        """Choose a bar, and say what it is."""
        self._chosen = (bar.key, bar.task) if bar is not None else None
        if bar is not None:
            self.setToolTip(self.said(bar).replace("<", "‹"))
            self.setAccessibleDescription(self.said(bar))
        self.picked.emit()
        self.update()

    def said(self, bar: Bar) -> str:
        """Return when a bar begins and what is done then."""
        assert self._day is not None
        at = in_words(self._day.start + timedelta(minutes=bar.start), "%a %H:%M")
        return (
            tr("{at}, pinned: {what}").format(at=at, what=bar.words) if bar.pinned else f"{at}: {bar.words}"
        )
