"""Brings callbacks from other threads to the interface's."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication


class Deliverer(QObject):
    """Brings callbacks from the keeper's thread to the interface's."""

    def __init__(self) -> None:
        super().__init__()
        self._event = QEvent.Type(QEvent.registerEventType())

    def __call__(self, callback: Callable[[], None]) -> None:
        """Run `callback` in the interface's thread soon."""
        QApplication.postEvent(self, _Delivery(self._event, callback))

    def customEvent(self, event: QEvent | None) -> None:
        """Run what was brought."""
        if isinstance(event, _Delivery):
            event.callback()


class _Delivery(QEvent):
    def __init__(self, kind: QEvent.Type, callback: Callable[[], None]) -> None:
        super().__init__(kind)
        self.callback = callback
