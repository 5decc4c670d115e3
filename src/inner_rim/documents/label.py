"""The label of a wheel on a small format: its code, its name, when it is due."""

from __future__ import annotations

import io

import msgspec

from inner_rim.documents.flow import INK, MM, MUTED, fonts
from inner_rim.documents.printed_page import QrCode

#: A usual label of a label printer, and its margins, mm.
LABEL_MM = (62.0, 29.0)
EDGE_MM, CODE_MM = 2.0, 25.0
#: Letters of the name, largest and smallest, points, what a row takes of its size, and the height for all rows, mm.
NAME_PT, LEAST_PT, ROW, NAME_MM = 14.0, 6.0, 1.15, 15.0


class Label(msgspec.Struct, frozen=True):
    """The content of a label.

    Attributes:
        code: what the QR code holds; it is written out below too.
    """

    name: str
    due: str
    code: str


def label_pdf(label: Label) -> bytes:
    from reportlab.lib.utils import simpleSplit
    from reportlab.pdfgen.canvas import Canvas

    regular, bold = fonts()
    wide, high = LABEL_MM
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(wide * MM, high * MM))
    canvas.setTitle(label.name)
    canvas.setCreator("Inner Rim")
    QrCode(label.code, CODE_MM).drawOn(canvas, EDGE_MM * MM, 0.5 * (high - CODE_MM) * MM)
    left = EDGE_MM + CODE_MM + EDGE_MM
    room = (wide - left - EDGE_MM) * MM
    size = NAME_PT
    lines = simpleSplit(label.name, bold, size, room)
    while size > LEAST_PT and (
        len(lines) > _rows(size) or any(canvas.stringWidth(x, bold, size) > room for x in lines)
    ):
        size -= 0.5
        lines = simpleSplit(label.name, bold, size, room)
    y = (high - EDGE_MM) * MM - size
    canvas.setFillColor(INK)
    canvas.setFont(bold, size)
    for line in lines[: _rows(size)]:
        canvas.drawString(left * MM, y, line)
        y -= ROW * size
    if label.due:
        canvas.setFont(regular, 9.0)
        canvas.drawString(left * MM, min(y, 11.0 * MM), label.due)
    canvas.setFillColor(MUTED)
    small = min(6.0, 6.0 * room / max(1.0, canvas.stringWidth(label.code, regular, 6.0)))
    canvas.setFont(regular, small)
    canvas.drawString(left * MM, 3.0 * MM, label.code)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _rows(size_pt: float) -> int:
    return int(NAME_MM * MM / (ROW * size_pt))
