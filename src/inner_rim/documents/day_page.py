"""The day on paper: who does what when, when each wheel is ready, what to take; set by reportlab's flowables."""

from __future__ import annotations

import io
from typing import Any

import msgspec

from inner_rim.documents.printed_page import INK, MARGIN_MM, MM, MUTED, PAGE_MM, STOP, fonts
from inner_rim.words import tr

#: Sizes of type, pt, and the height of a line; widths of the columns, mm.
TITLE_PT, HEAD_PT, TEXT_PT, LEAD_PT = 18.0, 11.0, 9.0, 11.0
BOX_MM, TIME_MM, NAME_MM, HALF_MM, EDGE_MM = 7.0, 25.0, 50.0, 89.0, 11.0


class PaperAction(msgspec.Struct, frozen=True):
    """An action on the day sheet: when, at which wheel, what, and what comes of it."""

    at: str
    name: str
    words: str
    then: str = ""


class DayPaper(msgspec.Struct, frozen=True):
    """The day sheet.

    Attributes:
        hands: each mechanic's name and actions.
    """

    title: str
    made: str
    notes: tuple[str, ...]
    hands: tuple[tuple[str, tuple[PaperAction, ...]], ...]
    ready: tuple[tuple[str, str], ...]
    take: tuple[str, ...]


def day_page_pdf(paper: DayPaper) -> bytes:
    """Return the day sheet as a PDF: one page for a day of eight wheels, more where there is more to do."""
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table

    regular, bold = fonts()

    def style(size: float, font: str = regular, color: str = INK) -> ParagraphStyle:
        return ParagraphStyle(
            "", fontName=font, fontSize=size, leading=size * LEAD_PT / TEXT_PT, textColor=color
        )

    text, strong, warning = style(TEXT_PT), style(TEXT_PT, bold), style(TEXT_PT, bold, STOP)
    title, heading, quiet = style(TITLE_PT, bold), style(HEAD_PT, bold), style(TEXT_PT, regular, MUTED)

    def said(words: str, like: ParagraphStyle = text) -> Paragraph:
        return Paragraph(words.replace("&", "&amp;").replace("<", "&lt;"), like)

    def table(rows: list[list[Any]], widths: list[float]) -> Table:
        plain = [("LEFTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 0)]
        low = [("BOTTOMPADDING", (0, 0), (-1, -1), 1), ("VALIGN", (0, 0), (-1, -1), "TOP")]
        return Table(rows, [wide * MM for wide in widths], style=[*plain, *low], hAlign="LEFT")

    wide = PAGE_MM[0] - 2 * MARGIN_MM
    story: list[Any] = [said(paper.title, title), said(paper.made, quiet), Spacer(1, 3 * MM)]
    story += [said(note, warning) for note in paper.notes]
    for name, actions in paper.hands:
        rows = [
            [said("[   ]"), said(one.at), said(one.name, strong), said(f"{one.words}. {one.then}".strip())]
            for one in actions
        ] or [[said(tr("Nothing to do")), "", "", ""]]
        widths = [BOX_MM, TIME_MM, NAME_MM, wide - BOX_MM - TIME_MM - NAME_MM]
        story += [Spacer(1, 2 * MM), said(name, heading), table(rows, widths)]
    ready = table([[said(name, strong), said(words)] for name, words in paper.ready], [34.0, HALF_MM - 35.0])
    take = table([[said(line)] for line in paper.take], [HALF_MM - 2.0]) if paper.take else ""
    heads = [said(tr("Ready"), heading), said(tr("To take from the shelf"), heading) if paper.take else ""]
    beside = table([heads, [ready, take]], [HALF_MM, HALF_MM])
    few = len(paper.ready) + len(paper.take) < 40
    story.append(Spacer(1, 3 * MM))
    if few:
        story.append(KeepTogether(beside))
    else:  # a table's row cannot go over the end of a page
        story += [heads[0], ready, *([heads[1], take] if paper.take else [])]
    out = io.BytesIO()
    margin, edge = MARGIN_MM * MM, EDGE_MM * MM
    document = SimpleDocTemplate(
        out,
        pagesize=(PAGE_MM[0] * MM, PAGE_MM[1] * MM),
        leftMargin=margin,
        rightMargin=margin,
        topMargin=edge,
        bottomMargin=edge,
        title=paper.title,
        creator="Inner Rim",
    )
    document.build(story)
    return out.getvalue()
