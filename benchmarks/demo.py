"""The demo's window, opened as a user opens it, for what is measured in it."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.app import Session
from inner_rim.desktop.widgets.theme import load_font


@contextmanager
def opened(app: QApplication) -> Iterator[Session]:
    """Open the demo in a folder of its own, and wait until everything is stored."""
    load_font()
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder), demo=True)
        session.show()
        while not session._started or session.worker.waiting:
            app.processEvents()
        assert session.window is not None
        yield session
        session.finish()
        session.shell.hide()
