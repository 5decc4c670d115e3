"""A page that scrolls up and down where there is no room for it."""

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QScrollBar, QWidget


class Scrolling(QScrollArea):
    """Scrolls a widget as wide as itself, with a bar of its own beside it.

    Qt 6.11 counts the bars of a scroll area among its accessible children while they show, and reads past the end of the
    list where one goes between a screen reader's count and its question: the program ends. So Qt's own never show.
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
        if event is not None and event.type() == QEvent.Type.StyleChange:  # larger text: a wider bar
            self._place_bar()
