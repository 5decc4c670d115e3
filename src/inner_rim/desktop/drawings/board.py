"""The day's board, painted: a row per wheel or mechanic, labeled bars, waits hatched, closed hours
folded.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from PyQt6.QtCore import QEvent, QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QGroupBox, QPushButton, QWidget

from inner_rim.core.record.moments import in_words
from inner_rim.desktop.drawings.board_painter import BoardLayout, BoardPainter
from inner_rim.desktop.widgets.base import plain_tip
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.text.board import Bar, BoardData, BoardRow, Group, RowHelp

#: Open minutes in view, from an hour to a week; None for all that is planned.
ZOOMS: tuple[int | None, ...] = (60, 120, 240, 480, None, 960, 1920, 2850)
#: Pixels from which a press becomes a drag, and the grid in minutes that a bar snaps to; a key
#: moves it by a quarter hour.
DRAG_PX, STEP_MIN, NUDGE_MIN = 6.0, 5, 15
#: What an arrow does: (bars or quarters later, mechanics lower).
ARROWS = {
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Down: (0, 1),
    Qt.Key.Key_Up: (0, -1),
}
LET_GO = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
#: Shown before there is a day.
EMPTY = BoardData(datetime.min, (), (), (), 1)


class BoardView(QGroupBox):
    """Shows a day; a double click, or the arrows and Enter, open a bar's wheel; dragging, or Shift
    and the arrows, move it.

    Signals:
        opened: a wheel's key.
        moved: wheel, task, minute, mechanic.
        unpin: wheel, task; the plan may place it again.
        picked: another bar was chosen, or none.
        helped: a remedy was chosen (RowHelp).
        zoomed: more or less time is in view, or another part of it.
    """

    opened = pyqtSignal(str)
    moved = pyqtSignal(int, int, int, int)
    unpin = pyqtSignal(int, int)
    picked = pyqtSignal()
    helped = pyqtSignal(object)
    zoomed = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._day: BoardData | None = None
        self.places = BoardLayout(theme, EMPTY, self.width(), None, ())
        self._buttons: list[list[QPushButton]] = []
        self._zoom: int | None = None
        self._chosen: tuple[str, int] | None = None
        self._pressed: QPointF | None = None
        self._dragged: tuple[int, int] | None = None  # minute and mechanic
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Board of the day"))

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._lay_out()

    def show_day(self, day: BoardData) -> None:
        if day == self._day:
            return
        old, self._day = self._day, day
        if old is None or [(row.name, row.helps) for row in old.rows] != [
            (row.name, row.helps) for row in day.rows
        ]:
            self._make_buttons(day)
        bar = self.chosen
        rows = ". ".join(f"{row.name}: {row.sentence}" for row in day.rows if row.sentence)
        self.setAccessibleDescription(self.said(bar) if bar is not None else rows)
        self._lay_out()

    def _make_buttons(self, day: BoardData) -> None:
        for button in self.helps:
            button.hide()
            button.deleteLater()
        self._buttons = [[self._help_button(row, one) for one in row.helps] for row in day.rows]

    def _help_button(self, row: BoardRow, one: RowHelp) -> QPushButton:
        button = QPushButton(one.words, self)
        button.setAccessibleName(f"{row.name}: {one.words}")
        button.clicked.connect(lambda _on: self.helped.emit(one))
        button.show()
        return button

    def _lay_out(self) -> None:
        if self._day is None:
            return
        helps = [[button.sizeHint().width() for button in row] for row in self._buttons]
        shifted = self.places.shifted
        self.places = BoardLayout(self._theme, self._day, self.width(), self._zoom, helps)
        self.places.shifted = min(shifted, self.places.max_shifted)
        for row, buttons in enumerate(self._buttons):
            for button, box in zip(buttons, self.places.help_boxes(row), strict=True):
                button.setFixedHeight(round(box.height()))
                button.setGeometry(box.toRect())
        self.setMinimumHeight(round(self.places.tops[-1] + 4))
        self.updateGeometry()
        self.zoomed.emit()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, round(self.places.tops[-1] + 4))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay_out()

    # -- what is in view -------------------------------------------------------------------------

    def zoom(self, by: int) -> None:
        place = ZOOMS.index(self._zoom)
        self._zoom = ZOOMS[min(max(place + by, 0), len(ZOOMS) - 1)]
        self._lay_out()

    def shift(self, px: float) -> None:
        shifted = min(max(px, 0.0), self.places.max_shifted)
        if shifted != self.places.shifted:
            self.places.shifted = shifted
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turned = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(-1 if turned > 0 else 1)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.shift(self.places.shifted - turned)
            self.zoomed.emit()
        else:
            event.ignore()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._day is None:
            return
        painter = QPainter(self)
        board = BoardPainter(
            painter, self.places, self._day, self._theme, self.visibleRegion().boundingRect().top()
        )
        board.paint(self.size(), self.chosen)
        if self.chosen is not None and self._dragged is not None:
            board.paint_dragged(self.chosen, *self._dragged, float(self.width()))

    # -- mouse and keys -----------------------------------------------------------------------------------

    @property
    def day(self) -> BoardData | None:
        return self._day

    @property
    def groups(self) -> tuple[Group, ...]:
        return tuple(self.places.groups)

    @property
    def helps(self) -> tuple[QPushButton, ...]:
        return tuple(button for row in self._buttons for button in row)

    @property
    def chosen(self) -> Bar | None:
        bars = self._day.bars if self._day is not None else ()
        return next(
            (bar for bar in bars if not bar.wait and (bar.key, bar.task) == self._chosen), None
        )

    def _bar_at(self, position: QPointF) -> Bar | None:
        """The bar under the pointer; of those that are shown as one, the pinned one, or the first."""
        group = next(
            (one for one in self.places.groups if self.places.group_box(one).contains(position)),
            None,
        )
        return _of_group(group) if group is not None else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.choose(self._bar_at(event.position()))
            self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        bar = self.chosen
        if event is None or bar is None or self._pressed is None:
            return
        way = event.position() - self._pressed
        if self._dragged is None and abs(way.x()) + abs(way.y()) < DRAG_PX:
            return
        self._dragged = self._place(bar, event.position(), way.x())
        self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        bar, dragged = self.chosen, self._dragged
        self._pressed = self._dragged = None
        if bar is not None and dragged is not None:
            self.moved.emit(bar.wheel, bar.task, *dragged)
        self.update()

    def _place(self, bar: Bar, position: QPointF, way: float) -> tuple[int, int]:
        """The minute and the mechanic that a bar is dragged to; on a wheel's row it stays with its
        mechanic.
        """
        assert self._day is not None
        minute = max(0.0, self.places.axis.minute(self.places.axis.x(bar.start) + way))
        at = self._day.start + timedelta(minutes=minute)
        off = at.minute % STEP_MIN + at.second / 60.0
        put = round(
            (at - self._day.start).total_seconds() / 60.0 - off + STEP_MIN * round(off / STEP_MIN)
        )
        if self._day.by_wheel:
            return max(0, put), bar.mechanic
        return max(0, put), self.places.row_at(position.y())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        bar = self._bar_at(event.position())
        rows = self._day.rows if self._day is not None else ()
        row = rows[self.places.row_at(event.position().y())].key if rows else ""
        key = bar.key if bar is not None else row
        if key:
            self._pressed = None
            self.opened.emit(key)

    def event(self, event: QEvent | None) -> bool:
        """Take the keys that move bars before the window's shortcuts do."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            shifted = event.modifiers() == Qt.KeyboardModifier.ShiftModifier
            dragging = event.key() == Qt.Key.Key_Escape and self._dragged is not None
            if (
                dragging
                or (shifted and event.key() in ARROWS)
                or event.key() in (*LET_GO, Qt.Key.Key_Space)
            ):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from bar to bar, with Shift they move it; Space pins it where it is, or unpins
        it; Enter opens.
        """
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
            self._step(ARROWS[key][0])
        elif bar is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit(bar.key)
        elif bar is not None and key == Qt.Key.Key_Space:
            self.turn_pin()
        elif bar is not None and bar.pinned and key in LET_GO:
            self.unpin.emit(bar.wheel, bar.task)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 if key == Qt.Key.Key_Minus else -1)
        else:
            event.ignore()

    def _step(self, by: int) -> None:
        """Choose the next bar by the clock, or the one before."""
        groups = sorted(self.places.groups, key=lambda one: (one.start, one.bars[0].row))
        here = next(
            (i for i, one in enumerate(groups) if self.chosen in one.bars), -1 if by > 0 else 0
        )
        self.choose(_of_group(groups[(here + by) % len(groups)]))

    def turn_pin(self) -> None:
        bar = self.chosen
        if bar is not None and bar.pinned:
            self.unpin.emit(bar.wheel, bar.task)
        elif bar is not None:
            self.moved.emit(bar.wheel, bar.task, bar.start, bar.mechanic)

    def _nudge(self, bar: Bar | None, later: int, lower: int) -> None:
        """Move the bar that is chosen to the quarter of the clock before or after, or to another
        mechanic.
        """
        if bar is None or self._day is None or (lower and self._day.by_wheel):
            return
        off = (self._day.start.minute + bar.start) % NUDGE_MIN
        by = later * NUDGE_MIN - off if later >= 0 or not off else -off
        mechanics = len(self._day.rows) if not self._day.by_wheel else bar.mechanic + 1
        row = min(max(bar.mechanic + lower, 0), mechanics - 1)
        if later or row != bar.mechanic:
            self.moved.emit(bar.wheel, bar.task, bar.start + (by if later else 0), row)

    def choose(self, bar: Bar | None) -> None:
        self._chosen = (bar.key, bar.task) if bar is not None else None
        if bar is not None:
            self.setToolTip(plain_tip(self.said(bar)))
            self.setAccessibleDescription(self.said(bar))
            right = self.places.axis.x(bar.end)
            shifted = self.places.shifted
            if not shifted <= self.places.axis.x(bar.start) <= shifted + self.places.room_px - 40.0:
                self.shift(right - self.places.room_px / 2.0)
        self.picked.emit()
        self.update()

    def said(self, bar: Bar) -> str:
        assert self._day is not None
        at = in_words(self._day.start + timedelta(minutes=bar.start), "%a %H:%M")
        return (
            tr("{at}, pinned: {what}").format(at=at, what=bar.words)
            if bar.pinned
            else f"{at}: {bar.words}"
        )


def _of_group(group: Group) -> Bar:
    """The bar that a click on a group means: the pinned one, else the first."""
    return next((bar for bar in group.bars if bar.pinned), group.bars[0])
