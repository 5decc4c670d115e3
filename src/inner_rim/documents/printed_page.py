"""What a sheet of paper says, before it is set: titles, rows, log, drawing; and its setting as PDF by reportlab."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from functools import cache
from typing import Any

import msgspec

from inner_rim.assets import FONTS
from inner_rim.core.drawing.section import Section
from inner_rim.words import tr

MM = 72.0 / 25.4
PAGE_MM = (210.0, 297.0)
MARGIN_MM = 16.0
QR_MM = 26.0
#: Fills of the drawing on paper, by the outline's name; dark enough for a grey printer.
FILLS = {
    "air": "#EEF4F4",
    "casing": "#3A4046",
    "tread": "#3A4046",
    "pool": "#A9D5C4",
    "rim": "#B9C0C5",
    "rim_cavity": "#FFFFFF",
    "bead_left": "#20262B",
    "bead_right": "#20262B",
    "insert": "#E8C9A8",
    "valve_stem": "#C6A24A",
    "valve_base": "#4A5258",
    "valve_nut": "#717B82",
}
INK, MUTED, STOP = "#1D282E", "#5C656A", "#A31D1D"


class SheetRow(msgspec.Struct, frozen=True):
    """A row of a sheet: a word, what it says, and whether it is a warning."""

    name: str
    text: str
    warning: bool = False


class Sheet(msgspec.Struct, frozen=True):
    """One page.

    Attributes:
        rows: what counts, large.
        paragraphs: (heading, lines) below.
    """

    title: str
    subtitle: str
    rows: tuple[SheetRow, ...]
    paragraphs: tuple[tuple[str, tuple[str, ...]], ...]
    foot: str = ""
    section: Section | None = None
    qr: str = ""


def to_pdf(sheets: Sequence[Sheet], on_progress: Callable[[int], bool] = lambda done: True) -> bytes | None:
    """Return sheets as a PDF, a page each.

    Args:
        on_progress: hears how many are done; False stops it.

    Returns:
        The PDF, None where it was stopped.
    """
    from reportlab.pdfgen.canvas import Canvas

    regular, bold = fonts()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(PAGE_MM[0] * MM, PAGE_MM[1] * MM))
    canvas.setTitle(sheets[0].title if sheets else "Inner Rim")
    canvas.setCreator("Inner Rim")
    for done, sheet in enumerate(sheets):
        if not on_progress(done):
            return None
        _Page(canvas, regular, bold).set_sheet(sheet)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


@cache
def fonts() -> tuple[str, str]:
    """Return the names of the regular and the bold font, which are embedded."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name, file in (("Inter", "Inter-Regular.ttf"), ("Inter-Bold", "Inter-SemiBold.ttf")):
        pdfmetrics.registerFont(TTFont(name, str(FONTS / file)))
    return "Inter", "Inter-Bold"


def draw_qr(canvas: Any, text: str, left_mm: float, bottom_mm: float, size_mm: float) -> None:
    """Draw a QR code, a square with its quiet edge."""
    import segno

    rows = [list(row) for row in segno.make(text, error="m", micro=False).matrix_iter(border=2)]
    cell = size_mm / len(rows)
    canvas.setFillColor("#000000")
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            if dark:
                place = ((left_mm + x * cell) * MM, (bottom_mm + size_mm - (y + 1) * cell) * MM)
                canvas.rect(*place, cell * MM * 1.02, cell * MM * 1.02, stroke=0, fill=1)


class _Page:
    """Sets one sheet, from the top down."""

    def __init__(self, canvas: Any, regular: str, bold: str) -> None:
        self._canvas, self._regular, self._bold = canvas, regular, bold
        self._y = PAGE_MM[1] - MARGIN_MM

    def set_sheet(self, sheet: Sheet) -> None:
        right = PAGE_MM[0] - MARGIN_MM
        if sheet.qr:
            draw_qr(self._canvas, sheet.qr, right - QR_MM, PAGE_MM[1] - MARGIN_MM - QR_MM + 4.0, QR_MM)
        width = right - MARGIN_MM - (QR_MM + 4.0 if sheet.qr else 0.0)
        self._lines(sheet.title, 20.0, self._bold, INK, width, 8.5)
        self._lines(sheet.subtitle, 10.0, self._regular, MUTED, width, 5.0)
        self._y = min(self._y, PAGE_MM[1] - MARGIN_MM - (QR_MM if sheet.qr else 0.0)) - 3.0
        top = self._y
        drawing = sheet.section is not None
        wide = right - MARGIN_MM - (74.0 if drawing else 0.0)
        for row in sheet.rows:
            self._row(row, wide)
        if sheet.section is not None:
            self._draw(sheet.section, right - 70.0, top - 92.0, 70.0, 90.0)
            self._y = min(self._y, top - 94.0)
        for heading, lines in sheet.paragraphs:
            self._paragraph(heading, lines, right - MARGIN_MM)
        if sheet.foot:
            self._canvas.setFont(self._regular, 8.5)
            self._canvas.setFillColor(MUTED)
            self._canvas.drawString(MARGIN_MM * MM, 9.0 * MM, sheet.foot)

    def _row(self, row: SheetRow, width: float) -> None:
        if self._y < MARGIN_MM + 8.0:
            return
        canvas = self._canvas
        canvas.setStrokeColor("#D9D1C1")
        canvas.setLineWidth(0.4)
        canvas.line(MARGIN_MM * MM, (self._y + 1.2) * MM, (MARGIN_MM + width) * MM, (self._y + 1.2) * MM)
        canvas.setFont(self._regular, 9.0)
        canvas.setFillColor(MUTED)
        canvas.drawString(MARGIN_MM * MM, (self._y - 3.6) * MM, row.name)
        top = self._y
        self._lines(
            row.text,
            12.0,
            self._bold,
            STOP if row.warning else INK,
            width - 26.0,
            5.2,
            left=MARGIN_MM + 26.0,
            first=3.9,
        )
        self._y = min(self._y - 2.7, top - 6.6) - 0.6

    def _paragraph(self, heading: str, lines: tuple[str, ...], width: float) -> None:
        if not lines or self._y < MARGIN_MM + 14.0:
            return
        self._y -= 4.0
        self._lines(heading, 12.0, self._bold, INK, width, 6.0)
        for line in lines:
            if self._y < MARGIN_MM + 2.0:
                self._lines("…", 10.0, self._regular, MUTED, width, 4.6)
                return
            self._lines(line, 10.0, self._regular, INK, width, 4.7)

    def _lines(
        self,
        text: str,
        size: float,
        font: str,
        color: str,
        width: float,
        step: float,
        left: float = MARGIN_MM,
        first: float | None = None,
    ) -> None:
        from reportlab.lib.utils import simpleSplit

        canvas = self._canvas
        canvas.setFillColor(color)
        canvas.setFont(font, size)
        for i, line in enumerate(simpleSplit(text, font, size, width * MM)):
            self._y -= first if first is not None and i == 0 else step
            canvas.drawString(left * MM, self._y * MM, line)

    def _draw(self, section: Section, left: float, bottom: float, width: float, height: float) -> None:
        x0, y0, x1, y1 = section.bounds()
        scale = min(width / (x1 - x0), height / (y1 - y0))
        dx = left + 0.5 * (width - scale * (x1 - x0)) - scale * x0
        dy = bottom + 0.5 * (height - scale * (y1 - y0)) - scale * y0

        def path(points: Sequence[tuple[float, float]], closed: bool) -> Any:
            line = self._canvas.beginPath()
            for i, (x, y) in enumerate(points):
                (line.lineTo if i else line.moveTo)((dx + scale * x) * MM, (dy + scale * y) * MM)
            if closed:
                line.close()
            return line

        self._canvas.setLineWidth(0.4)
        self._canvas.setStrokeColor(MUTED)
        for name, outline in section.outlines.items():
            self._canvas.setFillColor(FILLS.get(name, "#FFFFFF"))
            self._canvas.drawPath(path(outline, True), stroke=1, fill=1)
        self._canvas.setStrokeColor("#D98A00")
        self._canvas.setLineWidth(1.6)
        for line in section.paths.values():
            self._canvas.drawPath(path(line, False), stroke=1, fill=0)
        self._canvas.setFont(self._regular, 8.0)
        self._canvas.setFillColor(MUTED)
        words = tr("{scale:.2f} : 1").format(scale=scale)
        self._canvas.drawRightString((left + width) * MM, bottom * MM, words)
