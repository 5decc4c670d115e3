"""The last resort: an unexpected fault goes to the log file and to a dialog with its traceback."""

from __future__ import annotations

import sys
from pathlib import Path
from types import TracebackType

from PyQt6.QtWidgets import QApplication, QMessageBox

from inner_rim.words import tr
from inner_rim.work.storage.files import log_fault


def install(folder: Path) -> None:
    """Send every uncaught exception of the interface to `folder`/faults.log and to a dialog."""

    def caught(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        import traceback  # not on the way to the first paint

        from inner_rim.work.tasks.doctor import save_report

        text = "".join(traceback.format_exception(kind, fault, trace))
        sys.stderr.write(text)
        write_fault(folder, text)
        if issubclass(kind, KeyboardInterrupt):
            QApplication.exit(1)
            return
        box = QMessageBox(
            QMessageBox.Icon.Critical, tr("Unexpected fault"), tr("Unexpected error. Your work is saved.")
        )
        report = save_report(folder, text)
        if report is not None:
            box.setInformativeText(tr("A report to mail, without anybody's data: {file}").format(file=report))
        box.setDetailedText(text)
        box.exec()

    sys.excepthook = caught


def write_fault(folder: Path, text: str) -> None:
    """Append a traceback to the fault file; a full disk must not hide the dialog."""
    if log_fault(folder, text) is None:
        sys.stderr.write("the fault file cannot be written\n")
