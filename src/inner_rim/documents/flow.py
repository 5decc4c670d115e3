"""Common to all papers: reportlab's flowables in the program's fonts, and a page with its footer."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from functools import cache
from html import escape
from typing import Any

from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Paragraph, SimpleDocTemplate, Table

from inner_rim.assets import FONTS
from inner_rim.words import prints_on_letter

MM = 72.0 / 25.4
#: What is printed on, of A4 or Letter: it fits both.
WIDTH_MM, EDGE_MM = 178.0, 12.0
INK, MUTED, STOP, RULE = "#1D282E", "#5C656A", "#A31D1D", "#D9D1C1"
#: What reportlab's page leaves free inside its margins.
FRAME_PT = 6.0
#: Height of a line, as a multiple of the type's.
LEADING = 1.22


@cache
def fonts() -> tuple[str, str]:
    """Return the names of the regular and the bold font, which are embedded."""
    for name, file in (("Inter", "Inter-Regular.ttf"), ("Inter-Bold", "Inter-SemiBold.ttf")):
        pdfmetrics.registerFont(TTFont(name, str(FONTS / file)))
    return "Inter", "Inter-Bold"


@cache
def style(size_pt: float, color: str = INK, *, bold: bool = False) -> ParagraphStyle:
    font = fonts()[bold]
    return ParagraphStyle("", fontName=font, fontSize=size_pt, leading=LEADING * size_pt, textColor=color)


def words(text: str, like: ParagraphStyle) -> Paragraph:
    """Return a text as it is: names from a customer are never markup."""
    return Paragraph(escape(text, quote=False), like)


def table(
    rows: Sequence[Sequence[Any]], widths_mm: Sequence[float], *, below_pt: float = 1.0, rules: bool = False
) -> Table:
    look: list[tuple[Any, ...]] = [
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("RIGHTPADDING", (0, 0), (-1, -1), 3),
        ("TOPPADDING", (0, 0), (-1, -1), below_pt if rules else 0),
        ("BOTTOMPADDING", (0, 0), (-1, -1), below_pt),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
    ]
    if rules:
        look.append(("LINEABOVE", (0, 0), (-1, -1), 0.4, RULE))
    return Table(rows, [width * MM for width in widths_mm], style=look, hAlign="LEFT")


def build(story: list[Any], title: str, foot: str = "", on_page: Callable[[], None] = lambda: None) -> bytes:
    """Return flowables as a PDF.

    Args:
        foot: the footer of every page.
        on_page: called as each page begins.
    """

    page = letter if prints_on_letter() else A4
    margin = 0.5 * (page[0] - WIDTH_MM * MM)

    def begin(canvas: Any, _document: Any) -> None:
        on_page()
        canvas.setFont(fonts()[0], 8.0)
        canvas.setFillColor(MUTED)
        canvas.drawString(margin, 7.0 * MM, foot)

    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=page,
        leftMargin=margin - FRAME_PT,
        rightMargin=margin - FRAME_PT,
        topMargin=EDGE_MM * MM,
        bottomMargin=EDGE_MM * MM,
        title=title,
        creator="Inner Rim",
    )
    document.build(story, onFirstPage=begin, onLaterPages=begin)
    return out.getvalue()
