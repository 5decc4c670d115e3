"""What every page of the window is."""

from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.widgets.theme import Theme


class Page(QWidget):
    """A page: it shows in any theme, and has perhaps a line to search in."""

    def set_theme(self, theme: Theme) -> None:
        raise NotImplementedError

    def changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None: ...

    def focus_search(self) -> None: ...
