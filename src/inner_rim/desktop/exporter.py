"""Writing files from the window, and printing: the job, the papers of a wheel, everything that is
on screen.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, QSizeF
from PyQt6.QtGui import QPageSize, QPainter
from PyQt6.QtWidgets import QFileDialog, QWidget

from inner_rim.words import tr
from inner_rim.work.bench import Bench, as_file
from inner_rim.work.text.papers import JOB_ENDING, WAYS


class Exporter:
    """Asks where a file goes and writes it, all or nothing, with a sentence either way."""

    def __init__(self, bench: Bench, parent: QWidget) -> None:
        self._bench, self._parent = bench, parent

    def ask(self, title: str, name: str, pattern: str) -> Path | None:
        """Ask where a file goes, the user's documents offered first; None where the user decides
        against it.
        """
        from inner_rim.work.storage.files import documents_folder

        offered = documents_folder() / name.replace("/", "-").replace("\0", "-")
        chosen, _ = QFileDialog.getSaveFileName(self._parent, title, str(offered), pattern)
        return Path(chosen) if chosen else None

    def export(self, what: str) -> bool:
        """Write the job as a file, everything, or one of the selected wheel's papers."""
        if what == "everything":
            return self.everything()
        return self.job() if what == "job_file" else self.ask_paper(what)

    def job(self) -> bool:
        """Write the selected wheel's job document; return whether it was written."""
        from inner_rim.work.tasks.exchange import pretty

        state = self._bench.current
        if state is None:
            return False
        return self._write(
            tr("Export the job"),
            f"{state.name[:80]}{JOB_ENDING}",
            lambda: pretty(state.job.draft.document),
        )

    def everything(self) -> bool:
        """Write everything that is on screen as one file that `import` reads; return whether it was
        written.
        """

        return self._write(
            tr("Export the work"), "inner-rim-work.json", lambda: as_file(self._bench)
        )

    def export_setup(self) -> None:
        """Write the shop's setup and shelf, for another bench."""
        from inner_rim.work.tasks.exchange import NAME, export_setup

        path = self.ask(tr("Export setup and shelf"), NAME, "JSON (*.json)")
        if path is not None:
            export_setup(self._bench.settings, self._bench.shelf, path, self._bench.say)

    def import_setup(self) -> None:
        """Take in a setup file, or whatever else `import` reads."""
        from inner_rim.work.storage.files import documents_folder
        from inner_rim.work.tasks.exchange import import_setup

        chosen, _ = QFileDialog.getOpenFileName(
            self._parent, tr("Import"), str(documents_folder()), "JSON (*.json)"
        )
        if chosen:
            bench = self._bench
            import_setup(bench.sync, bench.shelf, Path(chosen), bench.say)

    def _write(self, title: str, name: str, made: Callable[[], bytes]) -> bool:
        path = self.ask(title, name, "JSON (*.json)")
        return path is not None and self.write(path, made())

    def write(self, path: Path, data: bytes) -> bool:
        """Write a file and say so; return whether it was written."""
        from inner_rim.work.storage.files import write_saying

        return write_saying(path, lambda: data, self._bench.say)

    def ask_paper(self, way: str) -> bool:
        from inner_rim.work.tasks.export import file_name

        state = self._bench.planned
        if state is None:
            return False
        ending, words = WAYS[way]
        path = self.ask(tr(words), file_name(way, state), f"*{ending}")
        if path is not None:
            self.write_paper(way, path)
        return path is not None

    def print_paper(self, way: str) -> None:
        from inner_rim.work.tasks.export import written_as

        state = self._bench.planned
        if state is None:
            return
        data = written_as(way, state, self._bench.units, self._bench.time)
        self._bench.say(print_pdf(data, f"{state.name} {way}", self._parent))

    def write_paper(self, way: str, path: Path) -> None:
        from inner_rim.work.storage.files import write_saying
        from inner_rim.work.tasks.export import written_as

        bench, state = self._bench, self._bench.planned
        if state is not None:
            write_saying(path, lambda: written_as(way, state, bench.units, bench.time), bench.say)


#: Dots for an inch: fine enough for the code on a label.
DPI = 300
POINTS_AN_INCH = 72.0


def print_pdf(data: bytes, title: str, parent: QWidget) -> str:
    """Ask for a printer and print a PDF; return what was done in a sentence, empty where the user
    decides against it.
    """
    try:
        from PyQt6.QtPdf import QPdfDocument
        from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
    except ImportError:  # the system lacks what Qt prints with
        return tr("This system cannot print; write a PDF and print that.")
    document = QPdfDocument(parent)
    buffer = QBuffer(parent)
    buffer.setData(QByteArray(data))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    document.load(buffer)
    try:
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(title)
        printer.setResolution(DPI)
        printer.setFullPage(True)
        size = document.pagePointSize(0)
        page = QPageSize(
            QSizeF(size), QPageSize.Unit.Point, "", QPageSize.SizeMatchPolicy.FuzzyMatch
        )
        printer.setPageSize(page)
        dialog = QPrintDialog(printer, parent)
        dialog.setWindowTitle(tr("Print {name}").format(name=title))
        if not dialog.exec():
            return ""
        painter = QPainter()
        if not painter.begin(printer):
            return tr(
                "The printer does not answer: nothing was printed. The same paper is there as a PDF."
            )
        try:
            for number in range(document.pageCount()):
                if number:
                    printer.newPage()
                points = document.pagePointSize(number)
                pixels = (points * (DPI / POINTS_AN_INCH)).toSize()
                image = document.render(number, pixels)
                paper = QRectF(printer.pageLayout().fullRectPixels(printer.resolution()))
                scale = min(paper.width() / pixels.width(), paper.height() / pixels.height())
                box = QRectF(0, 0, pixels.width() * scale, pixels.height() * scale)
                box.moveCenter(paper.center())
                painter.drawImage(box, image)
        finally:
            painter.end()
        return tr("Sent to the printer: {name}").format(name=title)
    finally:
        document.close()
        buffer.deleteLater()
        document.deleteLater()
