"""A list of lines: lead, title and note, a figure or a chip at the right; painted large."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Any

from PyQt6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QObject,
    QPointF,
    QRectF,
    QSize,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QFont, QFontMetrics, QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from inner_rim.desktop.widgets.base import unbroken
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.work.text.lines import ListLine

LINE_ROLE = Qt.ItemDataRole.UserRole + 1
ROW, ROW_WITH_NOTE, HEAD, HEAD_WITH_NOTE = 30, 48, 34, 52
#: Heights of one row of a title and of a note, px, and the margin at both edges.
TITLE_ROW, NOTE_ROW, EDGES = 22, 19, 10
#: Height of the bar of a share, px, and of the text above it.
BAR, ABOVE_BAR = 7, 3


class LinesModel(QAbstractListModel):
    """Lines, one row each; the display text is what a screen reader says."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.lines: tuple[ListLine, ...] = ()

    def show_lines(self, lines: tuple[ListLine, ...]) -> bool:
        """Take new lines; return whether they differ from the old ones."""
        if lines == self.lines:
            return False
        if len(lines) == len(self.lines):
            self.lines = lines
            self.dataChanged.emit(self.index(0), self.index(len(lines) - 1))
        else:
            self.beginResetModel()
            self.lines = lines
            self.endResetModel()
        return True

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's signature
        return 0 if parent.isValid() else len(self.lines)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid() or index.row() >= len(self.lines):
            return None
        line = self.lines[index.row()]
        if role == LINE_ROLE:
            return line
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return ", ".join(
                word for word in (line.lead, line.title, line.note, line.right, line.chip) if word
            )
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join(
                word for word in (f"{line.lead}  {line.title}".strip(), line.note) if word
            )
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if index.isValid() and self.lines[index.row()].tone == "head":
            return Qt.ItemFlag.ItemIsEnabled
        return super().flags(index)


class LineDelegate(QStyledItemDelegate):
    def __init__(
        self, theme: Theme, lead_px: int, wraps: bool, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.theme, self._lead_px, self._wraps = theme, lead_px, wraps
        self.min_px = 0

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        line = index.data(LINE_ROLE)
        if line.tone == "head":
            height = HEAD_WITH_NOTE if line.note else HEAD
            return QSize(120, self.theme.px(height) + self._more_of_head(line, option.widget))
        height = max(ROW_WITH_NOTE if line.note else ROW, self.min_px)
        height += BAR + ABOVE_BAR if line.share is not None else 0
        if not self._wraps or option.widget is None:
            return QSize(120, self.theme.px(height))
        title, note = self._heights(line, self._room(line, _width_of(option.widget) - EDGES))
        usual = self.theme.px(TITLE_ROW + (NOTE_ROW if line.note else 0))
        return QSize(120, self.theme.px(height) + max(0, title + note - usual))

    def _more_of_head(self, line: ListLine, widget: QWidget | None) -> int:
        """The height that a heading's note needs beyond one row."""
        if not (self._wraps and line.note and widget is not None):
            return 0
        width = _width_of(widget) - EDGES
        return max(0, self._wrapped(line.note, width, self.theme.font(SMALL)) - self.theme.px(18))

    def _wrapped(self, text: str, room: int, font: QFont) -> int:
        """The height of a text that is broken at its spaces where it does not fit into one row."""
        metrics, text = QFontMetrics(font), unbroken(text)
        if metrics.horizontalAdvance(text) <= room:
            return 0
        return metrics.boundingRect(
            0, 0, max(20, room), 10_000, Qt.TextFlag.TextWordWrap, text
        ).height()

    def _heights(self, line: ListLine, room: int) -> tuple[int, int]:
        theme = self.theme
        title = self._wrapped(line.title, room, theme.font(TEXT, self._weight(line)))
        note = self._wrapped(line.note, room, theme.font(SMALL)) if line.note else 0
        return max(title, theme.px(TITLE_ROW)), max(note, theme.px(NOTE_ROW)) if line.note else 0

    def _weight(self, line: ListLine) -> int:
        return 600 if line.note or line.lead else 400

    def _room(self, line: ListLine, width: int) -> int:
        """The width that lead, chip and figure leave for title and note."""
        theme, taken = self.theme, 12
        if line.chip:
            taken += QFontMetrics(theme.font(SMALL)).horizontalAdvance(line.chip) + theme.px(16) + 8
        if line.right:
            taken += QFontMetrics(theme.font(TEXT, 600)).horizontalAdvance(line.right) + 10
        if line.lead:
            taken += theme.column(self._lead_px)
        return max(20, width - taken)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        line = index.data(LINE_ROLE)
        if painter is None or line is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect).adjusted(4, 0, -6, 0)
        if line.tone == "head":
            self._head(painter, box, line)
        else:
            if option.state & QStyle.StateFlag.State_Selected:
                painter.setPen(self.theme.color("accent"))
                painter.setBrush(self.theme.color("accent_soft"))
                painter.drawRoundedRect(box.adjusted(0, 1, 0, -1), 6, 6)
            self._line(painter, box.adjusted(6, 0, -6, 0), line)
        painter.restore()

    def _head(self, painter: QPainter, box: QRectF, line: ListLine) -> None:
        theme = self.theme
        low = box.adjusted(2, theme.px(8), 0, 0)
        painter.setPen(theme.color("line"))
        painter.drawLine(box.topLeft(), box.topRight())
        self._text(
            painter,
            QRectF(low.left(), low.top(), low.width(), theme.px(20)),
            line.title,
            14,
            "ink",
            600,
        )
        if line.note:
            high = box.bottom() - low.top() - theme.px(22)
            self._text(
                painter,
                QRectF(low.left(), low.top() + theme.px(20), low.width(), high),
                line.note,
                12.5,
                "muted",
            )

    def _line(self, painter: QPainter, box: QRectF, line: ListLine) -> None:
        theme = self.theme
        if line.share is not None:
            bar = QRectF(box.left(), box.bottom() - theme.px(BAR + 1), box.width(), theme.px(BAR))
            self._bar(painter, bar, line)
            box = box.adjusted(0.0, 0.0, 0.0, -theme.px(BAR + ABOVE_BAR))
        right = box.right()
        if line.chip:
            right -= self._chip(painter, box, line) + 8
        if line.right:
            painter.setFont(theme.font(TEXT, 600))
            width = painter.fontMetrics().horizontalAdvance(line.right)
            place = QRectF(right - width, box.top(), width, box.height())
            painter.setPen(theme.color("ink"))
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, line.right)
            right -= width + 10
        left = box.left()
        lead = theme.column(self._lead_px) if line.lead else 0
        room = max(20.0, right - left - lead)
        title, note = theme.px(TITLE_ROW), theme.px(NOTE_ROW) if line.note else 0
        if self._wraps:
            title, note = self._heights(line, int(room))
        top = box.center().y() - 0.5 * (title + note)
        if line.lead:
            self._one_row(
                painter, QRectF(left, top, lead - 6, theme.px(TITLE_ROW)), line.lead, 14, "muted"
            )
        purpose = (
            "muted"
            if line.tone == "muted"
            else "stop"
            if line.tone == "stop" and not line.lead
            else "ink"
        )
        place = QRectF(left + lead, top, room, title)
        self._text(painter, place, line.title, 15, purpose, self._weight(line))
        if line.note:
            place = QRectF(left + lead, top + title - 1, room, note)
            self._text(painter, place, line.note, 12.5, "muted")

    def _bar(self, painter: QPainter, box: QRectF, line: ListLine) -> None:
        """A share as a bar on its track, edged so that it is seen without its color; one that has a
        spread as a dot on its span.
        """
        theme = self.theme
        if line.band is not None:
            self._span(painter, box, line.share or 0.0, line.band)
            return
        painter.setPen(QPen(theme.color("muted"), 1.0))
        painter.setBrush(theme.color("card"))
        painter.drawRect(box)
        full = QRectF(
            box.left(), box.top(), box.width() * max(0.0, min(1.0, line.share or 0.0)), box.height()
        )
        painter.fillRect(
            full, theme.color({"caution": "caution", "stop": "stop"}.get(line.tone, "accent"))
        )

    def _span(
        self, painter: QPainter, box: QRectF, share: float, band: tuple[float, float]
    ) -> None:
        theme, middle = self.theme, box.center().y()
        low, at, high = (
            box.left() + box.width() * max(0.0, min(1.0, one)) for one in (band[0], share, band[1])
        )
        painter.setPen(QPen(theme.color("line"), 1.0))
        painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        painter.setPen(QPen(theme.color("accent"), theme.px(3)))
        painter.drawLine(QPointF(low, middle), QPointF(high, middle))
        painter.setPen(QPen(theme.color("card"), 1.0))
        painter.setBrush(theme.color("ink"))
        painter.drawEllipse(QPointF(at, middle), theme.px(4), theme.px(4))

    def _text(
        self,
        painter: QPainter,
        box: QRectF,
        text: str,
        pixels: float,
        purpose: str,
        weight: int = 400,
    ) -> None:
        if not self._wraps:
            self._one_row(painter, box, text, pixels, purpose, weight)
            return
        painter.setPen(self.theme.color(purpose))
        painter.setFont(self.theme.font(pixels, weight))
        flags = int(Qt.AlignmentFlag.AlignVCenter) | int(Qt.TextFlag.TextWordWrap)
        painter.drawText(box, flags, unbroken(text))

    def _one_row(
        self,
        painter: QPainter,
        box: QRectF,
        text: str,
        pixels: float,
        purpose: str,
        weight: int = 400,
    ) -> None:
        painter.setPen(self.theme.color(purpose))
        painter.setFont(self.theme.fitted(text, box.width(), pixels, weight))
        shown = painter.fontMetrics().elidedText(
            text, Qt.TextElideMode.ElideRight, int(box.width())
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, shown)

    def _chip(self, painter: QPainter, box: QRectF, line: ListLine) -> float:
        theme = self.theme
        painter.setFont(theme.font(SMALL))
        width = painter.fontMetrics().horizontalAdvance(line.chip) + theme.px(16)
        high = theme.px(20)
        chip = QRectF(box.right() - width, box.center().y() - high / 2, width, high)
        soft = {"caution": "caution_soft", "stop": "stop_soft"}.get(line.tone, "accent_soft")
        ink = {"caution": "caution", "stop": "stop"}.get(line.tone, "accent")
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(soft))
        painter.drawRoundedRect(chip, high / 2, high / 2)
        painter.setPen(theme.color(ink))
        painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, line.chip)
        return width


def _width_of(widget: QWidget) -> int:
    """The width of a view's rows, without its scroll bar: shown or not, text wraps alike."""
    viewport = widget.viewport() if isinstance(widget, QListView) else None
    bar = widget.verticalScrollBar() if isinstance(widget, QListView) else None
    if viewport is None or bar is None:
        return widget.width()
    return min(viewport.width(), widget.width() - bar.sizeHint().width())


class LinesView(QListView):
    """A list of lines; Enter or a double click takes the line that is chosen.

    Args:
        wraps: long words are broken into rows; off where there are thousands of lines.
    """

    chosen = pyqtSignal(object)
    taken = pyqtSignal(object)

    def __init__(
        self,
        theme: Theme,
        name: str,
        lead_px: int = 92,
        wraps: bool = True,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.rows = LinesModel(self)
        self.delegate = LineDelegate(theme, lead_px, wraps, self)
        self.setModel(self.rows)
        self.setItemDelegate(self.delegate)
        self.setAccessibleName(name)
        self.setResizeMode(QListView.ResizeMode.Adjust)  # lines wrap again at another width
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.doubleClicked.connect(lambda index: self._take(index))
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(lambda index, _before: self._choose(index))

    def set_theme(self, theme: Theme) -> None:
        self.delegate.theme = theme
        self.scheduleDelayedItemsLayout()

    def show_lines(self, lines: tuple[ListLine, ...]) -> None:
        index = self.currentIndex()
        key = index.data(LINE_ROLE).key if index.isValid() and index.data(LINE_ROLE) else None
        if self.rows.show_lines(lines):
            self.scheduleDelayedItemsLayout()
        if key is not None:
            self.choose(key)

    @property
    def chosen_key(self) -> Any:
        line = self.currentIndex().data(LINE_ROLE) if self.currentIndex().isValid() else None
        return line.key if line is not None else None

    def choose_first(self) -> None:
        self.setCurrentIndex(QModelIndex())
        self.step(1)

    def step(self, by: int) -> None:
        """Choose the next or the previous line that can be chosen, and signal it."""
        row = self.currentIndex().row() + by
        while 0 <= row < len(self.rows.lines):
            if self.rows.lines[row].key is not None:
                self.setCurrentIndex(self.rows.index(row))
                return
            row += by

    def choose(self, key: Hashable) -> bool:
        for row, line in enumerate(self.rows.lines):
            if line.key == key:
                selection = self.selectionModel()
                assert selection is not None
                blocked = selection.blockSignals(True)
                self.setCurrentIndex(self.rows.index(row))
                selection.blockSignals(blocked)
                viewport = self.viewport()
                if viewport is not None:
                    viewport.update()
                return True
        return False

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self.currentIndex())
            event.accept()
            return
        if event is not None and event.text() and event.text().isprintable():
            event.ignore()  # letters are the window's keys, not a search in the list
            return
        super().keyPressEvent(event)

    def _choose(self, index: QModelIndex) -> None:
        line = index.data(LINE_ROLE) if index.isValid() else None
        if line is not None and line.key is not None:
            self.chosen.emit(line.key)

    def _take(self, index: QModelIndex) -> None:
        line = index.data(LINE_ROLE) if index.isValid() else None
        if line is not None and line.key is not None:
            self.taken.emit(line.key)
