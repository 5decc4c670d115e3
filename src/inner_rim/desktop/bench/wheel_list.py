"""The wheels on the bench: a list model and the delegate that paints a tile for each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QListView, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from inner_rim.desktop.drawings.ring import paint_ring
from inner_rim.desktop.widgets.base import plain_tip
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.text.tiles import Tile

TILE_ROLE = Qt.ItemDataRole.UserRole + 1
#: As a list with next action and state, as a rail of rings with names beside or below them: the
#: height of a wheel, px.
Form = Literal["list", "rail", "rings"]
HEIGHTS: dict[Form, int] = {"list": 108, "rail": 62, "rings": 78}


class WheelModel(QAbstractListModel):
    """The bench's wheels, one row each; the display text is what a screen reader says."""

    looks_changed = pyqtSignal(int)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._tiles: list[Tile] = []

    def show_tiles(self, tiles: Sequence[Tile]) -> None:
        if [tile.key for tile in tiles] != [tile.key for tile in self._tiles]:
            self.beginResetModel()
            self._tiles = list(tiles)
            self.endResetModel()
            return
        for row, (before, after) in enumerate(zip(self._tiles, tiles, strict=True)):
            self._tiles[row] = after
            if _words(before) != _words(after):
                self.dataChanged.emit(self.index(row), self.index(row))
            elif before != after:  # the view would lay all of them out again
                self.looks_changed.emit(row)

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's signature
        return 0 if parent.isValid() else len(self._tiles)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid() or index.row() >= len(self._tiles):
            return None
        tile = self._tiles[index.row()]
        if role == TILE_ROLE:
            return tile
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{tile.name}: {tile.action}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(f"{tile.name}\n{tile.action}")
        return None

    def row_of(self, key: tuple[str, str] | None) -> int:
        return next((row for row, tile in enumerate(self._tiles) if tile.key == key), -1)


def _words(tile: Tile) -> tuple[str, str, str]:
    return tile.name, tile.action, tile.last


class TileDelegate(QStyledItemDelegate):
    """Paints a wheel: its ring, its name, in the list its next action and state in words."""

    def __init__(self, theme: Theme, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.form: Form = "list"
        self.selected: WheelKey | None = None

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(self.theme.px(40), self.theme.px(HEIGHTS[self.form]))

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        tile = index.data(TILE_ROLE)
        if painter is None or tile is None:
            return
        theme = self.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect).adjusted(3, 2, -3, -2)
        if tile.key == self.selected:
            painter.setPen(theme.color("accent"))
            painter.setBrush(theme.color("accent_soft"))
            painter.drawRoundedRect(box, 8, 8)
        size = theme.px({"list": 40, "rail": 32, "rings": 34}[self.form])
        below = self.form == "rings"
        left = box.center().x() - size / 2 if below else box.left() + 5
        top = box.top() + 3 if below else box.center().y() - size / 2
        ring = QRectF(left, top, size, size)
        ratio = option.widget.devicePixelRatioF() if option.widget is not None else 1.0
        paint_ring(painter, ring, tile.progress, theme, ratio)
        words = QRectF(
            ring.right() + 6, box.top() + 2, box.right() - ring.right() - 8, box.height() - 4
        )
        if below:
            words = QRectF(box.left(), ring.bottom(), box.width(), box.bottom() - ring.bottom())
        (self._words if self.form == "list" else self._name)(painter, words, tile)
        painter.restore()

    def _name(self, painter: QPainter, box: QRectF, tile: Tile) -> None:
        theme = self.theme
        painter.setFont(theme.font(SMALL, 600 if tile.key == self.selected else 400))
        painter.setPen(theme.color("stop" if tile.bad else "ink"))
        across = (
            Qt.AlignmentFlag.AlignHCenter if self.form == "rings" else Qt.AlignmentFlag.AlignLeft
        )
        flags = int(Qt.AlignmentFlag.AlignVCenter | across) | int(Qt.TextFlag.TextWordWrap)
        metrics, wide = painter.fontMetrics(), int(box.width())
        lines = (
            metrics.elidedText(one, Qt.TextElideMode.ElideRight, 2 * wide)
            for one in tile.short.split("\n")
        )
        painter.drawText(box, flags, "\n".join(lines))

    def _words(self, painter: QPainter, box: QRectF, tile: Tile) -> None:
        theme = self.theme
        row = theme.px(19)
        painter.setFont(theme.font(TEXT, 600))
        painter.setPen(theme.color("ink"))
        name = painter.fontMetrics().elidedText(
            tile.name, Qt.TextElideMode.ElideMiddle, int(box.width())
        )
        painter.drawText(
            QRectF(box.left(), box.top(), box.width(), row), Qt.AlignmentFlag.AlignVCenter, name
        )
        painter.setFont(theme.font(SMALL))
        painter.setPen(theme.color("stop" if tile.bad else "muted"))
        action = QRectF(box.left(), box.top() + row, box.width(), box.height() - 2 * row)
        painter.drawText(action, Qt.TextFlag.TextWordWrap, tile.action)
        painter.setFont(theme.font(SMALL, 600))
        painter.setPen(theme.color("stop" if tile.bad else "accent"))
        last = QRectF(box.left(), box.bottom() - row, box.width(), row)
        painter.drawText(last, Qt.AlignmentFlag.AlignVCenter, tile.last)


class WheelList(QListView):
    chosen = pyqtSignal(object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.wheels = WheelModel(self)
        self._delegate = TileDelegate(theme, self)
        self.setModel(self.wheels)
        self.setItemDelegate(self._delegate)
        self.wheels.looks_changed.connect(lambda row: self.update(self.wheels.index(row)))
        self.setAccessibleName(tr("Wheels on the bench"))
        self.setUniformItemSizes(True)  # one changed tile repaints alone
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._moved)

    def show_as(self, form: Form) -> None:
        if form != self._delegate.form:
            self._delegate.form = form
            self.set_theme(self._delegate.theme)

    def set_theme(self, theme: Theme) -> None:
        self._delegate.theme = theme
        self.scheduleDelayedItemsLayout()
        self.executeDelayedItemsLayout()
        self.scrollTo(self.currentIndex())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scrollTo(self.currentIndex())

    def show_tiles(self, tiles: Sequence[Tile], selected: WheelKey | None) -> None:
        self.wheels.show_tiles(tiles)
        row = self.wheels.row_of(selected)
        if row >= 0 and self.currentIndex().row() != row:
            selection = self.selectionModel()
            assert selection is not None
            selection.blockSignals(True)
            self.setCurrentIndex(self.wheels.index(row))
            selection.blockSignals(False)
            self.scrollTo(self.wheels.index(row))
        viewport = self.viewport()
        if viewport is not None and self._delegate.selected != selected:
            viewport.update()
        self._delegate.selected = selected

    def _moved(self, index: QModelIndex) -> None:
        tile = index.data(TILE_ROLE)
        if tile is not None:
            self.chosen.emit(tile.key)
