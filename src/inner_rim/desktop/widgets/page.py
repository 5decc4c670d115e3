"""What every page of the window is."""

from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.widgets.theme import Theme


class Page(QWidget):
    """A page: it shows in any theme, and has perhaps a line to search in."""

    def set_theme(self, theme: Theme) -> None:
        """Show in another theme or text size."""
        raise NotImplementedError

    def changed(self) -> None:
        """Show what has changed on the bench; a page that is not seen waits until it is."""
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show everything as it is now."""

    def focus_search(self) -> None:
        """Put the cursor into the line to search in, where there is one."""
