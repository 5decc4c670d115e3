"""The wheels on the bench: a list model and the delegate that paints a tile for each."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter
from PyQt6.QtWidgets import QListView, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from inner_rim.core.progress.progress import STATE_WORDS
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.desktop.drawings.ring import paint_ring
from inner_rim.desktop.widgets.plain import plain_tip
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.next_action import minutes_left, wait_text

STATE_ROLE = Qt.ItemDataRole.UserRole + 1
TILE_HEIGHT = 94


def action_text(state: WheelState, bench: Bench) -> str:
    """Return a wheel's next action in one line."""
    if state.progress is None:
        return tr("Type rim and tire")
    return state.progress.action.read(bench.units)


class WheelModel(QAbstractListModel):
    """The bench's wheels, one row each; the display text is what a screen reader says."""

    def __init__(self, bench: Bench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self._states: list[WheelState] = []
        self.refresh()

    def refresh(self) -> None:
        """Take the bench's wheels over, telling the views no more than changed."""
        new = list(self._bench.wheels)
        if [state.key for state in new] != [state.key for state in self._states]:
            self.beginResetModel()
            self._states = new
            self.endResetModel()
            return
        for row, (before, after) in enumerate(zip(self._states, new, strict=True)):
            self._states[row] = after
            if (before.name, before.progress) != (after.name, after.progress):
                self.dataChanged.emit(self.index(row), self.index(row))

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's signature
        """Return the number of wheels."""
        return 0 if parent.isValid() else len(self._states)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Return a wheel's words or its state."""
        if not index.isValid() or index.row() >= len(self._states):
            return None
        state = self._states[index.row()]
        if role == STATE_ROLE:
            return state
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{state.name}: {action_text(state, self._bench)}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(f"{state.name}\n{action_text(state, self._bench)}")
        return None

    def row_of(self, key: tuple[str, str] | None) -> int:
        """Return the row of a wheel, -1 where it is not there."""
        return next((row for row, state in enumerate(self._states) if state.key == key), -1)


class TileDelegate(QStyledItemDelegate):
    """Paints a wheel's tile: ring, name, next action, state in words."""

    def __init__(self, bench: Bench, theme: Theme, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._bench, self.theme = bench, theme

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """Return a tile's size."""
        return QSize(self.theme.px(180), self.theme.px(TILE_HEIGHT))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Paint one tile."""
        state = index.data(STATE_ROLE)
        if painter is None or state is None:
            return
        theme = self.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect).adjusted(4, 3, -4, -3)
        if state.key == self._bench.selected:
            painter.setPen(theme.color("accent"))
            painter.setBrush(theme.color("accent_soft"))
            painter.drawRoundedRect(box, 8, 8)
        size = theme.px(42)
        ring = QRectF(box.left() + 8, box.center().y() - size / 2, size, size)
        paint_ring(painter, ring, state.progress, theme)
        left = ring.right() + 9
        self._words(painter, QRectF(left, box.top(), box.right() - left - 6, box.height()), state)
        painter.restore()

    def _words(self, painter: QPainter, box: QRectF, state: WheelState) -> None:
        theme = self.theme
        word = state.progress.state if state.progress else "to_do"
        bad = word in ("trouble", "stopped")
        row = theme.px(18)
        top = box.center().y() - 2.15 * row
        painter.setFont(theme.fitted(state.name, box.width(), 14, 12, 600))
        painter.setPen(theme.color("ink"))
        name = painter.fontMetrics().elidedText(state.name, Qt.TextElideMode.ElideMiddle, int(box.width()))
        painter.drawText(QRectF(box.left(), top, box.width(), row * 1.1), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.font(12.5))
        painter.setPen(theme.color("stop" if bad else "muted"))
        action = QRectF(box.left(), top + 1.2 * row, box.width(), 1.9 * row)
        text = two_lines(action_text(state, self._bench), painter.fontMetrics(), action.width())
        painter.drawText(action, Qt.AlignmentFlag.AlignTop, text)
        painter.setFont(theme.font(12.5, 600))
        painter.setPen(theme.color("stop" if bad else "accent"))
        last = QRectF(box.left(), top + 3.2 * row, box.width(), row)
        painter.drawText(last, Qt.AlignmentFlag.AlignVCenter, due_text(state, self._bench))


def due_text(state: WheelState, bench: Bench) -> str:
    """Return the last line of a tile: until when it waits, else its state in a word."""
    progress = state.progress
    if progress is None:
        return tr(STATE_WORDS["to_do"])
    left = minutes_left(progress, bench.time)
    if left > 0.0 and progress.state == "working":
        return wait_text(progress, left)
    if progress.next_reading_at and progress.state == "working":
        at = moment(progress.next_reading_at)
        if at > bench.time:
            return tr("read it {clock}").format(clock=in_words(local(at), "%a %H:%M"))
    return tr(STATE_WORDS[progress.state])


def two_lines(text: str, metrics: QFontMetrics, width: float) -> str:
    """Return `text` broken at a space into two lines, the second cut with an ellipsis."""
    words = text.split()
    first = ""
    while words and metrics.horizontalAdvance(f"{first} {words[0]}".strip()) <= width:
        first = f"{first} {words.pop(0)}".strip()
    rest = metrics.elidedText(" ".join(words), Qt.TextElideMode.ElideRight, int(width))
    return f"{first}\n{rest}" if rest else first


class WheelList(QListView):
    """The column of tiles."""

    chosen = pyqtSignal(object)

    def __init__(self, bench: Bench, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self._shown = bench.selected
        self.wheels = WheelModel(bench, self)
        self._delegate = TileDelegate(bench, theme, self)
        self.setModel(self.wheels)
        self.setItemDelegate(self._delegate)
        self.setAccessibleName(tr("Wheels on the bench"))
        self.setUniformItemSizes(True)  # one changed tile repaints alone
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._moved)

    def set_theme(self, theme: Theme) -> None:
        """Paint in another theme."""
        self._delegate.theme = theme
        self.scheduleDelayedItemsLayout()

    def refresh(self) -> None:
        """Take the bench's wheels and selection over."""
        self.wheels.refresh()
        row = self.wheels.row_of(self._bench.selected)
        selection = self.selectionModel()
        assert selection is not None
        if row >= 0 and selection.currentIndex().row() != row:
            selection.blockSignals(True)
            self.setCurrentIndex(self.wheels.index(row))
            selection.blockSignals(False)
            self.scrollTo(self.wheels.index(row))
        viewport = self.viewport()
        if viewport is not None and self._shown != self._bench.selected:
            viewport.update()
        self._shown = self._bench.selected

    def tick(self) -> None:
        """Show the waits anew."""
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def _moved(self, index: QModelIndex) -> None:
        state = index.data(STATE_ROLE)
        if state is not None:
            self.chosen.emit(state.key)
