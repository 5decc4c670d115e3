"""The last resort: an unexpected fault goes to the log file and to a dialog with its traceback."""

from __future__ import annotations

import sys
import threading
from pathlib import Path
from types import TracebackType

from PyQt6.QtWidgets import QApplication, QMessageBox

from inner_rim.words import tr
from inner_rim.work.storage.files import log_fault


class FaultLog:
    """Takes every uncaught exception of the interface and of other threads: to `folder`/faults.log,
    and to a dialog.

    Args:
        asks: shows a dialog; not where nobody is there to close it.

    Attributes:
        count: how many there were.
    """

    def __init__(self, folder: Path, *, asks: bool = True) -> None:
        self._folder, self._asks = folder, asks
        self.count = 0

    def install(self) -> None:
        """Send what nobody catches here."""
        sys.excepthook = self._caught
        threading.excepthook = lambda args: self.write(
            _text(args.exc_type, args.exc_value, args.exc_traceback)
        )

    def _caught(
        self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None
    ) -> None:
        text = _text(kind, fault, trace)
        self.write(text)
        if issubclass(kind, KeyboardInterrupt):
            QApplication.exit(1)
        elif self._asks:
            self._ask(text)

    def _ask(self, text: str) -> None:
        from inner_rim.work.tasks.doctor import save_report

        box = QMessageBox(
            QMessageBox.Icon.Critical,
            tr("Unexpected fault"),
            tr("Unexpected error. Your work is saved."),
        )
        report = save_report(self._folder, text)
        if report is not None:
            box.setInformativeText(
                tr("A report to mail, without anybody's data: {file}").format(file=report)
            )
        box.setDetailedText(text)
        box.exec()

    def write(self, text: str) -> None:
        """Append a traceback to the fault file; a full disk must not hide the dialog."""
        self.count += 1
        sys.stderr.write(text)
        if log_fault(self._folder, text) is None:
            sys.stderr.write("the fault file cannot be written\n")


def _text(
    kind: type[BaseException], fault: BaseException | None, trace: TracebackType | None
) -> str:
    import traceback  # not on the way to the first paint

    return "".join(traceback.format_exception(kind, fault, trace))
