"""A simulated tool: a pseudo-terminal with a script at the other end that sends what the tool
would.
"""

from __future__ import annotations

import contextlib
import os
import threading
import tty
from collections.abc import Iterable, Iterator

import msgspec


class Word(msgspec.Struct, frozen=True):
    """What the simulator does next: wait, then send bytes or unplug.

    Attributes:
        after_s: seconds to wait first.
        unplug: the cable is pulled.
    """

    after_s: float
    data: bytes = b""
    unplug: bool = False


def spoken(
    values: Iterable[float], every_s: float, unit: str = "mm", decimals: int = 2
) -> Iterator[Word]:
    for value in values:
        yield Word(every_s, f"{value:.{decimals}f} {unit}\r\n".encode())


class Simulator:
    """The far end of a line; `port` is what a reader opens.

    Args:
        words: what it sends, in order; then it is silent.
    """

    def __init__(self, words: Iterable[Word]) -> None:
        self._near, far = os.openpty()
        tty.setraw(far)
        self.port = os.ttyname(far)
        self._far: int | None = far  # kept open, so that nothing is lost before the reader comes
        self._words = iter(words)
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._thread = threading.Thread(target=self._run, name="simulator", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def say(self, data: bytes) -> None:
        with self._lock, contextlib.suppress(OSError):
            if self._near >= 0:
                os.write(self._near, data)

    def stop(self) -> None:
        """Fall silent and pull the cable."""
        self._stop.set()
        if self._thread.ident is not None:
            self._thread.join(2.0)
        self._unplug()

    def _run(self) -> None:
        self.say(b"\r\n")  # a reader trusts no line whose start it has not seen
        for word in self._words:
            if self._stop.wait(word.after_s):
                return
            if word.unplug:
                self._unplug()
                return
            self.say(word.data)

    def _unplug(self) -> None:
        with self._lock:
            if self._far is not None:
                os.close(self._far)
                self._far = None
            if self._near >= 0:
                os.close(self._near)
                self._near = -1
