"""Hands a job file that is opened to the window that already runs on the same data."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

from inner_rim.work.editing.state import WheelKey, key_from, key_text

PATIENCE_MS = 1000


def _name(folder: Path) -> str:
    return f"inner-rim-{hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:16]}"


def handed_over(folder: Path, key: WheelKey) -> bool:
    """Ask the window that runs on the data in `folder` to show a wheel; return whether there is
    one.
    """
    socket = QLocalSocket()
    socket.connectToServer(_name(folder))
    if not socket.waitForConnected(PATIENCE_MS):
        return False
    socket.write(key_text(key).encode())
    return bool(socket.waitForBytesWritten(PATIENCE_MS))


class Receiver:
    """Receives which wheel to show. Only the first window on the data gets the socket's name, so
    only it receives.
    """

    def __init__(self, folder: Path, show: Callable[[WheelKey], None], parent: QObject) -> None:
        self._show = show
        self._server = QLocalServer(parent)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._connected)
        probe = QLocalSocket()
        probe.connectToServer(_name(folder))
        if not probe.waitForConnected(PATIENCE_MS):
            QLocalServer.removeServer(_name(folder))  # left by a crash
            self._server.listen(_name(folder))

    def _connected(self) -> None:
        socket = self._server.nextPendingConnection()
        if socket is None:
            return
        if socket.waitForReadyRead(PATIENCE_MS):
            self._show(key_from(socket.readAll().data().decode("utf-8", errors="replace")))
        socket.close()

    def end(self) -> None:
        self._server.close()
