"""Printing: the system's dialog, then the same pages as in the PDF."""

from __future__ import annotations

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, QSizeF
from PyQt6.QtGui import QPageSize, QPainter
from PyQt6.QtWidgets import QWidget

from inner_rim.words import tr

#: Dots for an inch: fine enough for the code on a label.
DPI = 300
POINTS_AN_INCH = 72.0


def print_pdf(data: bytes, title: str, parent: QWidget) -> str:
    """Ask for a printer and print a PDF; return what was done in a sentence, empty where the user decides against it."""
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
        page = QPageSize(QSizeF(size), QPageSize.Unit.Point, "", QPageSize.SizeMatchPolicy.FuzzyMatch)
        printer.setPageSize(page)
        dialog = QPrintDialog(printer, parent)
        dialog.setWindowTitle(tr("Print {name}").format(name=title))
        if not dialog.exec():
            return ""
        painter = QPainter()
        if not painter.begin(printer):
            return tr("The printer does not answer: nothing was printed. The same paper is there as a PDF.")
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
