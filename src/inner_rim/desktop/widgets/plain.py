"""Text that is shown as it is: a name such as `<img src=…>` is a name, never markup."""

import re

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget

_BEFORE_UNIT = re.compile(r"(?<=\d) (?=(?:%|°|bar|psi|kPa|mm|cm|m|in|ml|fl oz|l|min|h|kg|g|lb)(?![a-z]))")


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
    """Return a text for a tooltip or a message box, which take anything that looks like markup for it."""
    if "<" not in text and "&" not in text:
        return text
    import html  # not on the way to the first paint

    return f"<qt>{html.escape(text)}</qt>"
