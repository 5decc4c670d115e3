"""The picks column, one large row per pick; its number or a click opens the working behind it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QRegion,
)
from PyQt6.QtWidgets import QGroupBox, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from inner_rim.core.record.paths import name_of
from inner_rim.core.record.practice import Assumed
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.record.why import Why, label, value_text
from inner_rim.desktop.widgets.base import PlainLabel
from inner_rim.desktop.widgets.theme import NOTE, SMALL, TEXT, TITLE, Theme
from inner_rim.words import tr
from inner_rim.work.text.pick_rows import COUNT, PickRow

if TYPE_CHECKING:
    from inner_rim.work.text.why_words import WhyPage

    Shown = tuple[PickRow, WhyPage, UnitChoice, tuple[Assumed, ...]]

#: A row this high has its note below it, px; room for a title.
TWO_LINES_PX, TITLE_PX = 46, 78


class PicksColumn(QGroupBox):
    """Ten rows painted in one widget; up and down move, Enter opens the why."""

    why_asked = pyqtSignal(int)
    field_wanted = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._badges: dict[int, QPixmap] = {}
        self._rows: tuple[PickRow, ...] = ()
        self._stale = False
        self._at = 0
        self._chips: dict[int, QRectF] = {}
        # so that nothing behind it is painted first
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Plan"))

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._badges.clear()
        self.update()

    def show_rows(self, rows: tuple[PickRow, ...], stale: bool) -> None:
        """Show the picks; `stale` where they are of the last good state, not of what is typed."""
        if stale != self._stale:
            self.update(0, 0, self.width(), self._theme.px(34))
        if len(rows) != len(self._rows):
            self.update()
        else:  # repaint only what changed
            for place, (before, after) in enumerate(zip(self._rows, rows, strict=True)):
                if before != after:
                    self.update(self._inside(place))
        self._rows, self._stale = rows, stale
        self.setAccessibleDescription("; ".join(f"{row.title} {row.value}" for row in rows))

    def _row_box(self, place: int) -> QRectF:
        top = self._theme.px(34)
        height = (self.height() - top) / COUNT
        return QRectF(0, top + place * height, self.width(), height)

    def _inside(self, place: int) -> QRect:
        """A row without the lines above and below it, which it shares with its neighbors."""
        return self._row_box(place).adjusted(0, 2, 0, -2).toAlignedRect()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        theme = self._theme
        painter = QPainter(self)
        area = event.region() if event is not None else QRegion(self.rect())
        # before edges are smoothed: whole pixels
        painter.fillRect(area.boundingRect(), theme.color("ground"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(theme.px(16), 0, self.width() - theme.px(32), theme.px(34))
        if area.intersects(head.toAlignedRect()):
            self._paint_head(painter, head)
        if not self._rows:
            painter.setFont(theme.font(TEXT))
            painter.drawText(
                QRectF(head.left(), head.bottom() + 20, head.width(), 120),
                Qt.TextFlag.TextWordWrap,
                tr("Tape, valve, sealant and pressures are worked out as you type."),
            )
        for place, row in enumerate(self._rows):
            if area.intersects(self._inside(place)):
                self._paint_row(painter, place, row)

    def _paint_head(self, painter: QPainter, head: QRectF) -> None:
        theme = self._theme
        painter.setFont(theme.font(SMALL, 600 if self._stale else 400))
        painter.setPen(theme.color("caution" if self._stale else "muted"))
        words = tr("Last good plan: a field is not accepted") if self._stale else tr("Plan")
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, words)
        if not self._stale:
            painter.drawText(
                head,
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                tr("why: press the number"),
            )

    def _paint_row(self, painter: QPainter, place: int, row: PickRow) -> None:
        """Title and figure in one line, the note below it where there is room, a chip at the right."""
        theme = self._theme
        box = self._row_box(place).adjusted(theme.px(6), 0, -theme.px(6), 0)
        if place == self._at and self.hasFocus():
            painter.setPen(theme.color("accent"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-2, 2, 2, -2), 6, 6)
        if place:
            painter.fillRect(
                QRectF(box.left(), round(box.top()), box.width(), 1.0), theme.color("line")
            )
        two = box.height() >= theme.px(TWO_LINES_PX)
        line = QRectF(
            box.left(),
            box.top() + (theme.px(5) if two else 0),
            box.width(),
            theme.px(26) if two else box.height(),
        )
        badge = QRectF(box.left(), line.center().y() - theme.px(12), theme.px(24), theme.px(24))
        painter.drawPixmap(badge.topLeft().toPoint(), self._badge(place))
        title = QRectF(badge.right() + theme.px(8), line.top(), theme.px(TITLE_PX), line.height())
        self._line(painter, title, row.title, TEXT, "muted")
        chip = self._paint_chip(painter, row, line) if row.chip else 0.0
        self._chips[place] = QRectF(line.right() - chip, line.top(), chip, line.height())
        value = QRectF(title.right(), line.top(), box.right() - title.right() - chip, line.height())
        self._line(painter, value, row.value, NOTE, "stop" if row.tone == "stop" else "ink", 600)
        if two and row.note:
            note = QRectF(title.right(), line.bottom(), box.right() - title.right(), theme.px(18))
            self._line(painter, note, row.note, SMALL, "muted")

    def _badge(self, place: int) -> QPixmap:
        result = self._badges.get(place)
        if result is None:
            theme, ratio = self._theme, self.devicePixelRatioF()
            side = theme.px(24)
            result = QPixmap(round(side * ratio), round(side * ratio))
            result.setDevicePixelRatio(ratio)
            result.fill(theme.color("ground"))
            painter = QPainter(result)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(theme.color("line"))
            painter.drawRoundedRect(QRectF(0.5, 0.5, side - 1.0, side - 1.0), 5, 5)
            painter.setPen(theme.color("muted"))
            painter.setFont(theme.font(SMALL))
            painter.drawText(
                QRectF(0, 0, side, side), Qt.AlignmentFlag.AlignCenter, str((place + 1) % COUNT)
            )
            painter.end()
            self._badges[place] = result
        return result

    def _line(
        self,
        painter: QPainter,
        box: QRectF,
        text: str,
        pixels: int,
        purpose: str,
        weight: int = 400,
    ) -> None:
        font, shown = self._theme.line(text, box.width(), pixels, weight)
        painter.setFont(font)
        painter.setPen(self._theme.color(purpose))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, shown)

    def _paint_chip(self, painter: QPainter, row: PickRow, line: QRectF) -> float:
        theme = self._theme
        font, text = theme.line(row.chip, line.width() * 0.4, SMALL)
        painter.setFont(font)
        width = theme.width_of(text, SMALL) + theme.px(18)
        chip = QRectF(line.right() - width, line.center().y() - theme.px(10), width, theme.px(20))
        soft = {"calm": "accent_soft", "caution": "caution_soft", "stop": "stop_soft"}[row.tone]
        ink = {"calm": "accent", "caution": "caution", "stop": "stop"}[row.tone]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(soft))
        painter.drawRoundedRect(chip, chip.height() / 2, chip.height() / 2)
        painter.setPen(theme.color(ink))
        if row.field:  # it can be clicked
            font = QFont(font)
            font.setUnderline(True)
            painter.setFont(font)
        painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, text)
        return width + 6.0

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open the why of the row under the pointer; its remark goes to the field that it asks for."""
        if event is None:
            return
        for place in range(len(self._rows)):
            if self._row_box(place).contains(event.position()):
                self._at = place
                if self._rows[place].field and self._chips.get(place, QRectF()).contains(
                    event.position()
                ):
                    self.field_wanted.emit(self._rows[place].field)
                else:
                    self.why_asked.emit(place)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Move through the rows and open the why."""
        if event is None:
            return
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step is not None and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._at = min(max(self._at + step, 0), COUNT - 1)
            self.update()
        elif event.key() == Qt.Key.Key_Space and self._rows:
            self.why_asked.emit(self._at)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()


class WhyPanel(QWidget):
    """Why a figure is what it is: a sentence, the figures that decide, what else was possible; all
    figures on request.
    """

    closed = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._shown: Shown | None = None
        self._title = PlainLabel("")
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        close = QPushButton(tr("Close  Esc"))
        close.clicked.connect(self.closed)
        self.whole = QPushButton(tr("All figures"))
        self.whole.setCheckable(True)
        self.whole.clicked.connect(self._fill)
        top = QHBoxLayout()
        top.addWidget(self._title, 1)
        top.addWidget(self.whole)
        top.addWidget(close)
        self.text = QTextBrowser()
        self.text.setAccessibleName(tr("Why"))
        self.text.setOpenLinks(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(theme.px(14), theme.px(8), theme.px(8), theme.px(8))
        column.addLayout(top)
        column.addWidget(self.text, 1)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._title.setFont(theme.font(NOTE, 600))
        self._fill()

    def show_why(
        self, row: PickRow, page: WhyPage, units: UnitChoice, assumed: tuple[Assumed, ...]
    ) -> None:
        if self._shown is None or row.title != self._shown[0].title:
            self.whole.setChecked(False)
        self._shown = row, page, units, assumed
        self._title.setText(f"{row.title} · {row.value}")
        self._fill()

    def _fill(self) -> None:
        if self._shown is None:
            return
        row, page, units, assumed = self._shown
        html = page_html(page, self._theme)
        if self.whole.isChecked():
            html += working_html(row.why, units, assumed, self._theme)
        self.text.setHtml(html)


def page_html(page: WhyPage, theme: Theme) -> str:
    t, px = theme.tokens, theme.type_px
    names = "".join(
        f"<td style='color:{t.muted}; font-size:{px(SMALL)}px'>{_escaped(name)}</td>"
        for name, _value in page.decides
    )
    values = "".join(
        f"<td style='font-size:{px(TITLE)}px; padding-right:{theme.px(22)}px'><b>{_escaped(value)}</b></td>"
        for _name, value in page.decides
    )
    others = "".join(
        f"<tr><td style='padding-right:{theme.px(16)}px'>{_escaped(one.what)}</td>"
        f"<td style='color:{t.muted}'>{_escaped(one.reason)}</td></tr>"
        for one in page.others
    )
    if others:
        head = _escaped(tr("What else was possible, and why not"))
        others = f"<p style='color:{t.muted}'>{head}</p><table cellspacing='0' cellpadding='2'>{others}</table>"
    return (
        f"<div style='font-size:{px(TEXT)}px'><p style='font-size:{px(NOTE)}px'>{_escaped(page.said)}</p>"
        f"<table cellspacing='0'><tr>{names}</tr><tr>{values}</tr></table>{others}</div>"
    )


def working_html(why: Why, units: UnitChoice, assumed: tuple[Assumed, ...], theme: Theme) -> str:
    muted = theme.tokens.muted
    figures = "".join(
        f"<tr><td style='color:{muted}; padding-right:{theme.px(18)}px'>{_escaped(label(name))}</td>"
        f"<td align='right'><b>{_escaped(value_text(name, value, units))}</b></td></tr>"
        for name, value in why.figures.items()
    )
    parts = (
        (tr("Also"), [saying.read(units) for saying in why.others]),
        (tr("What would change it"), [tr(why.what_changes_it)] if why.what_changes_it else []),
        (tr("Source"), [tr(why.source)]),
        (
            tr("Assumed, because it was not entered"),
            [_assumption(item) for item in assumed if item.reason],
        ),
    )
    return (
        f"<hr><div style='font-size:{theme.type_px(TEXT)}px'><p>{_escaped(tr(why.formula))}</p>"
        f"<table cellspacing='0' cellpadding='1'>{figures}</table>"
        f"{''.join(_part(title, lines, muted) for title, lines in parts)}</div>"
    )


def _part(title: str, lines: list[str], muted: str) -> str:
    if not lines:
        return ""
    rows = "<br>".join(_escaped(line) for line in lines)
    return f"<p><span style='color:{muted}'>{_escaped(title)}</span><br>{rows}</p>"


def _escaped(text: str) -> str:
    from html import escape  # not on the way to the first wheel

    return escape(text)


def _assumption(item: Assumed) -> str:
    name = label(name_of(item.field))
    value = value_text(item.field, item.value) if not isinstance(item.value, str) else item.value
    return f"{name}: {tr(value)}, {tr(item.reason)}"
