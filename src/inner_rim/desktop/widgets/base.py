"""What every view starts from: text that is never markup, painted pictures, pages, areas that
scroll.
"""

from __future__ import annotations

import re

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QPixmap, QResizeEvent
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QScrollBar, QWidget

from inner_rim.desktop.widgets.theme import Theme

_BEFORE_UNIT = re.compile(
    r"(?<=\d) (?=(?:%|°|bar|psi|kPa|mm|cm|m|in|ml|fl oz|l|min|h|kg|g|lb)(?![a-z]))"
)


def show_if(widget: QWidget, wanted: bool) -> None:
    """Show or hide a widget where it is not so yet: either costs a layout."""
    if widget.isHidden() == wanted:
        widget.setVisible(wanted)


class PlainLabel(QLabel):
    """A label that never takes its text for markup; every label of the program is one."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def setText(self, text: str | None) -> None:
        shown = unbroken(text or "")
        super().setText(shown)
        name = text if shown != text else ""
        if name != self.accessibleName():
            self.setAccessibleName(name)

    def text(self) -> str:
        return super().text().replace("\xa0", " ")


def unbroken(text: str) -> str:
    """Return a text to be broken into lines, its figures kept together with their units."""
    return _BEFORE_UNIT.sub("\xa0", text)


def plain_tip(text: str) -> str:
    """Return a text for a tooltip or a message box, which take anything that looks like markup for
    it.
    """
    if "<" not in text and "&" not in text:
        return text
    import html  # not on the way to the first paint

    return f"<qt>{html.escape(text)}</qt>"


_going: dict[int, list[QObject]] = {}


def discard(widget: QWidget) -> None:
    """Hide a widget and let Qt delete it; none of its signals, or its children's, arrives from here
    on.
    """
    widget.hide()  # the focus moves on, and that is still reported
    parts = [widget, *widget.findChildren(QObject)]
    for part in parts:
        part.blockSignals(True)
    key = id(widget)
    _going[key] = parts
    widget.destroyed.connect(lambda: _going.pop(key, None))  # sent although the others are blocked
    widget.deleteLater()


def any_going() -> bool:
    return bool(_going)


class Page(QWidget):
    """A page: it shows in any theme, and has perhaps a line to search in."""

    def set_theme(self, theme: Theme) -> None:
        raise NotImplementedError

    def changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None: ...

    def focus_search(self) -> None: ...


class Picture(QLabel):
    """A painted view. To a screen reader it is an image: its name says what it is, its description
    what it shows.

    A label with a pixmap has that role, which Qt's Python bindings give no other way to set.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setPixmap(QPixmap(1, 1))

    def sizeHint(self) -> QSize:
        return QSize()

    def minimumSizeHint(self) -> QSize:
        return QSize()


class Scrolling(QScrollArea):
    """Scrolls a widget as wide as itself, with a bar of its own beside it.

    Qt 6.11 counts the bars of a scroll area among its accessible children while they show, and
    reads past the end of the list where one goes between a screen reader's count and its question:
    the program ends. So Qt's own never show.
    """

    def __init__(self, inside: QWidget | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bar = QScrollBar(Qt.Orientation.Vertical, self)
        if inside is not None:
            self.setWidget(inside)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        hidden = self.verticalScrollBar()
        assert hidden is not None
        hidden.rangeChanged.connect(self._follow)
        hidden.valueChanged.connect(self._bar.setValue)
        self._bar.valueChanged.connect(hidden.setValue)
        self._bar.setSingleStep(hidden.singleStep())
        self._follow(0, 0)

    def _follow(self, least: int, most: int) -> None:
        viewport = self.viewport()
        self._bar.setPageStep(viewport.height() if viewport is not None else 0)
        self._bar.setRange(least, most)
        self._bar.setVisible(most > least)

    def _place_bar(self) -> None:
        wide = self._bar.sizeHint().width()
        self.setViewportMargins(0, 0, wide, 0)
        self._bar.setGeometry(self.width() - wide, 0, wide, self.height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._place_bar()
        super().resizeEvent(event)

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        # larger text: a wider bar
        if event is not None and event.type() == QEvent.Type.StyleChange:
            self._place_bar()
