"""Discards widgets that the window no longer shows.

Qt deletes a widget once the event loop that asked for it runs again, so one discarded before a dialog opens lives as
long as the dialog. Its Python object must live as long, and none of its signals may arrive any more.
"""

from __future__ import annotations

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

_going: dict[int, list[QObject]] = {}


def discard(widget: QWidget) -> None:
    """Hide a widget and let Qt delete it; none of its signals, or its children's, arrives from here on."""
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
