"""Papers by reportlab's flowables: the bench card, the rider's sheet, the day sheet, the wheel's
label.
"""

import io
from collections.abc import Callable, Sequence
from functools import cache
from html import escape
from typing import Any

import msgspec
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import (
    BalancedColumns,
    Flowable,
    KeepTogether,
    PageBreak,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
)

from inner_rim.assets import FONTS
from inner_rim.core.drawing.section import Section
from inner_rim.words import prints_on_letter, tr

#: Letters of the columns: as large as a sheet takes that should stay on its page.
COLUMNS_PT = (8.0, 7.5, 7.0)
QR_MM, DRAWING_MM, NAME_MM = 26.0, (62.0, 72.0), 31.0
#: Fills of the drawing on paper, by the outline's name; dark enough for a gray printer.
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


class SheetRow(msgspec.Struct, frozen=True):
    """A row of a sheet: a word, what it says, and whether it is a warning."""

    name: str
    text: str
    warning: bool = False


class Sheet(msgspec.Struct, frozen=True):
    """A wheel's paper.

    Attributes:
        rows: the main figures, large.
        columns: (heading, lines) in two columns below.
        paragraphs: (heading, lines) over the whole width, last.
        qr: what the code holds; empty for none.
    """

    title: str
    subtitle: str
    rows: tuple[SheetRow, ...]
    columns: tuple[tuple[str, tuple[str, ...]], ...] = ()
    paragraphs: tuple[tuple[str, tuple[str, ...]], ...] = ()
    section: Section | None = None
    qr: str = ""


class _Stopped(Exception):
    pass


def to_pdf(
    sheets: Sequence[Sheet], foot: str = "", on_progress: Callable[[int], bool] = lambda done: True
) -> bytes | None:
    """Return sheets as a PDF, each beginning a page.

    Args:
        on_progress: called with the number done; False stops it.

    Returns:
        The PDF, None where it was stopped.
    """
    sizes_pt = [COLUMNS_PT[0]] * len(sheets)
    try:
        for smaller_pt in COLUMNS_PT[1:]:
            pdf, pages = _laid_out(sheets, sizes_pt, foot, on_progress)
            if max(pages, default=1) == 1:
                return pdf
            sizes_pt = [
                smaller_pt if count > 1 else size_pt
                for size_pt, count in zip(sizes_pt, pages, strict=True)
            ]
        return _laid_out(sheets, sizes_pt, foot, on_progress)[0]
    except _Stopped:
        return None


def _laid_out(
    sheets: Sequence[Sheet],
    sizes_pt: Sequence[float],
    foot: str,
    on_progress: Callable[[int], bool],
) -> tuple[bytes, list[int]]:
    """Return the PDF, and how many pages each sheet takes with columns of these sizes."""
    story: list[Any] = []
    began: list[int] = []
    for done, (sheet, size_pt) in enumerate(zip(sheets, sizes_pt, strict=True)):
        story += [PageBreak()] if done else []
        story += [_ProgressMark(done, on_progress, began), *_set(sheet, size_pt)]
    pages: list[None] = []
    title = sheets[0].title if sheets else "Inner Rim"
    pdf = build(story, title, foot, lambda: pages.append(None))
    ends = [*began[1:], len(pages) + 1]
    return pdf, [end - first for first, end in zip(began, ends, strict=True)]


def _set(sheet: Sheet, columns_pt: float) -> list[Any]:
    title = [words(sheet.title, style(19.0, bold=True)), words(sheet.subtitle, style(9.5, MUTED))]
    code = QrCode(sheet.qr, QR_MM) if sheet.qr else ""
    head = table([[title, code]], [WIDTH_MM - QR_MM - 2.0, QR_MM + 2.0])
    room = WIDTH_MM - (DRAWING_MM[0] + 4.0 if sheet.section is not None else 0.0)
    rows = [
        [
            words(row.name, style(8.5, MUTED)),
            words(row.text, style(10.5, STOP if row.warning else INK, bold=True)),
        ]
        for row in sheet.rows
    ]
    plan = table(rows, [NAME_MM, room - NAME_MM], below_pt=2.2, rules=True)
    story: list[Any] = [head, Spacer(1, 2 * MM)]
    if sheet.section is not None:
        plan = table([[plan, _Drawing(sheet.section)]], [room + 2.0, WIDTH_MM - room - 2.0])
    story.append(plan)
    if sheet.columns:
        columns = [
            one
            for heading, lines in sheet.columns
            for one in _paragraph(heading, lines, columns_pt)
        ]
        story += [
            Spacer(1, 2 * MM),
            BalancedColumns(columns, nCols=2, innerPadding=5 * MM, leftPadding=0, rightPadding=0),
        ]
    for heading, lines in sheet.paragraphs:
        story += _paragraph(heading, lines, 9.5)
    return story


def _paragraph(heading: str, lines: Sequence[str], size_pt: float) -> list[Any]:
    if not lines:
        return []
    head = words(heading, style(size_pt + 1.5, bold=True))
    head.keepWithNext = True
    return [Spacer(1, 1.5 * MM), head, *(words(line, style(size_pt)) for line in lines)]


class _ProgressMark(Flowable):  # type: ignore[misc]
    """An empty flowable that reports progress when layout reaches it, and notes its page."""

    def __init__(self, done: int, on_progress: Callable[[int], bool], began: list[int]) -> None:
        super().__init__()
        self._done, self._on_progress, self._began = done, on_progress, began

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return 0.0, 0.0

    def draw(self) -> None:
        self._began.append(self.canv.getPageNumber())
        if not self._on_progress(self._done):
            raise _Stopped


class QrCode(Flowable):  # type: ignore[misc]
    """A QR code, a square with its quiet zone."""

    def __init__(self, text: str, size_mm: float) -> None:
        super().__init__()
        self._text, self._size = text, size_mm * MM

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return self._size, self._size

    def draw(self) -> None:
        import segno

        rows = [
            list(row)
            for row in segno.make(self._text, error="m", micro=False).matrix_iter(border=2)
        ]
        cell = self._size / len(rows)
        self.canv.setFillColor("#000000")
        for y, row in enumerate(rows):
            for x, dark in enumerate(row):
                if dark:
                    place = (x * cell, self._size - (y + 1) * cell)
                    self.canv.rect(*place, cell * 1.02, cell * 1.02, stroke=0, fill=1)


class _Drawing(Flowable):  # type: ignore[misc]
    def __init__(self, section: Section) -> None:
        super().__init__()
        self._section = section

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return DRAWING_MM[0] * MM, DRAWING_MM[1] * MM

    def draw(self) -> None:
        x0, y0, x1, y1 = self._section.bounds()
        width, height = DRAWING_MM
        scale = min(width / (x1 - x0), height / (y1 - y0))
        dx = 0.5 * (width - scale * (x1 - x0)) - scale * x0
        dy = height - scale * y1
        canvas = self.canv

        def path(points: Sequence[tuple[float, float]], closed: bool) -> Any:
            line = canvas.beginPath()
            for i, (x, y) in enumerate(points):
                (line.lineTo if i else line.moveTo)((dx + scale * x) * MM, (dy + scale * y) * MM)
            if closed:
                line.close()
            return line

        canvas.setLineWidth(0.4)
        canvas.setStrokeColor(MUTED)
        for name, outline in self._section.outlines.items():
            canvas.setFillColor(FILLS.get(name, "#FFFFFF"))
            canvas.drawPath(path(outline, True), stroke=1, fill=1)
        canvas.setStrokeColor("#D98A00")
        canvas.setLineWidth(1.6)
        for line in self._section.paths.values():
            canvas.drawPath(path(line, False), stroke=1, fill=0)
        canvas.setFont(fonts()[0], 8.0)
        canvas.setFillColor(MUTED)
        said = tr("{scale:.2f} : 1").format(scale=scale)
        canvas.drawRightString(width * MM, max(0.0, (dy + scale * y0) * MM - 9.0), said)


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
    return ParagraphStyle(
        "", fontName=font, fontSize=size_pt, leading=LEADING * size_pt, textColor=color
    )


def words(text: str, like: ParagraphStyle) -> Paragraph:
    """Return a text as it is: names from a customer are never markup."""
    return Paragraph(escape(text, quote=False), like)


def table(
    rows: Sequence[Sequence[Any]],
    widths_mm: Sequence[float],
    *,
    below_pt: float = 1.0,
    rules: bool = False,
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


def build(
    story: list[Any], title: str, foot: str = "", on_page: Callable[[], None] = lambda: None
) -> bytes:
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


#: A usual label of a label printer, and its margins, mm.
LABEL_MM = (62.0, 29.0)
EDGE_MM_label, CODE_MM = 2.0, 25.0
#: Letters of the name, largest and smallest, points, what a row takes of its size, and the height
#: for all rows, mm.
NAME_PT, MIN_PT, ROW, NAME_MM_label = 14.0, 6.0, 1.15, 15.0


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
    QrCode(label.code, CODE_MM).drawOn(canvas, EDGE_MM_label * MM, 0.5 * (high - CODE_MM) * MM)
    left = EDGE_MM_label + CODE_MM + EDGE_MM_label
    room = (wide - left - EDGE_MM_label) * MM
    size = NAME_PT
    lines = simpleSplit(label.name, bold, size, room)
    while size > MIN_PT and (
        len(lines) > _rows(size) or any(canvas.stringWidth(x, bold, size) > room for x in lines)
    ):
        size -= 0.5
        lines = simpleSplit(label.name, bold, size, room)
    y = (high - EDGE_MM_label) * MM - size
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
    return int(NAME_MM_label * MM / (ROW * size_pt))


#: Sizes of type, pt, and the height of a line; widths of the columns, mm.
TITLE_PT, HEAD_PT, TEXT_PT = 18.0, 11.0, 9.0
BOX_MM, TIME_MM, NAME_MM_day_page, HALF_MM = 7.0, 25.0, 50.0, 89.0


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
    """Return the day sheet as a PDF: one page for a day of eight wheels, more where there is more
    to do.
    """
    text, strong, warning = (
        style(TEXT_PT),
        style(TEXT_PT, bold=True),
        style(TEXT_PT, STOP, bold=True),
    )
    title, heading, quiet = (
        style(TITLE_PT, bold=True),
        style(HEAD_PT, bold=True),
        style(TEXT_PT, MUTED),
    )
    story: list[Any] = [words(paper.title, title), words(paper.made, quiet), Spacer(1, 3 * MM)]
    story += [words(note, warning) for note in paper.notes]
    for name, actions in paper.hands:
        rows = [
            [
                words("[   ]", text),
                words(one.at, text),
                words(one.name, strong),
                words(f"{one.words}. {one.then}".strip(), text),
            ]
            for one in actions
        ] or [[words(tr("Nothing to do"), text), "", "", ""]]
        widths = [BOX_MM, TIME_MM, NAME_MM_day_page, WIDTH_MM - BOX_MM - TIME_MM - NAME_MM_day_page]
        story += [Spacer(1, 2 * MM), words(name, heading), table(rows, widths)]
    ready = table(
        [[words(name, strong), words(when, text)] for name, when in paper.ready],
        [34.0, HALF_MM - 35.0],
    )
    take = (
        table([[words(line, text)] for line in paper.take], [HALF_MM - 2.0]) if paper.take else ""
    )
    heads = [
        words(tr("Ready"), heading),
        words(tr("To take from the shelf"), heading) if paper.take else "",
    ]
    beside = table([heads, [ready, take]], [HALF_MM, HALF_MM])
    few = len(paper.ready) + len(paper.take) < 40
    story.append(Spacer(1, 3 * MM))
    if few:
        story.append(KeepTogether(beside))
    else:  # a table's row cannot go over the end of a page
        story += [heads[0], ready, *([heads[1], take] if paper.take else [])]
    return build(story, paper.title)
