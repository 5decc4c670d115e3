"""Why: the formula in words, its figures, the source, what else was possible, what would change it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from inner_rim.core.record.paths import name_of
from inner_rim.core.record.practice import Assumed
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.record.why import Why, label, value_text
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import NOTE, Theme
from inner_rim.words import tr
from inner_rim.work.text.pick_rows import PickRow


class WhyPanel(QWidget):
    closed = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._title = PlainLabel("")
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        close = QPushButton(tr("Close  Esc"))
        close.clicked.connect(self.closed)
        top = QHBoxLayout()
        top.addWidget(self._title, 1)
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

    def show_why(self, row: PickRow, units: UnitChoice, assumed: tuple[Assumed, ...]) -> None:
        self._title.setText(f"{row.title} · {row.value}")
        self.text.setHtml(why_html(row.why, units, assumed, self._theme))


def why_html(why: Why, units: UnitChoice, assumed: tuple[Assumed, ...], theme: Theme) -> str:
    muted, px = theme.tokens.muted, theme.px
    figures = "".join(
        f"<tr><td style='color:{muted}; padding-right:{px(18)}px'>{_escaped(label(name))}</td>"
        f"<td align='right'><b>{_escaped(value_text(name, value, units))}</b></td></tr>"
        for name, value in why.figures.items()
    )
    others = [
        _part(tr("What else was possible"), [saying.read(units) for saying in why.others], muted),
        _part(tr("What would change it"), [tr(why.what_changes_it)] if why.what_changes_it else [], muted),
    ]
    below = [
        _part(tr("Source"), [tr(why.source)], muted),
        _part(tr("Assumed, because it was not entered"), [_assumption(item) for item in assumed if item.reason], muted),
    ]
    return (
        f"<div style='font-size:{px(14)}px'><p style='font-size:{px(15)}px'>{_escaped(tr(why.formula))}</p>"
        f"<table width='100%' cellspacing='0' cellpadding='0'><tr><td width='46%' valign='top'>"
        f"<table cellspacing='0' cellpadding='1'>{figures}</table>{''.join(below)}</td>"
        f"<td valign='top' style='padding-left:{px(16)}px'>{''.join(others)}</td></tr></table></div>"
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
