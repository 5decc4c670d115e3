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
from reportlab.lib.utils import simpleSplit
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
from inner_rim.core.drawing.scene import BADGE_RADIUS, HIGH, NOTE, WIDE, Scene
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.words import prints_on_letter, tr

#: Letters of the columns: as large as a sheet takes that should stay on its page.
COLUMNS_PT = (8.0, 7.5, 7.0)
QR_MM, NAME_MM = 26.0, 31.0
#: Pictures of acts, on the back: how many beside each other, and their width.
ABREAST, PICTURE_MM = 2, 82.0
#: Their colors on paper, by purpose; dark enough for a gray printer.
PAPER = {
    "card": "#FFFFFF",
    "ink": "#1D282E",
    "muted": "#5C656A",
    "line": "#D9D1C1",
    "edge": "#878071",
    "accent": "#0B686E",
    "accent_soft": "#E3EEEE",
    "caution": "#8A5000",
    "caution_soft": "#FBE6C8",
    "stop": "#A31D1D",
    "stop_soft": "#F6DAD6",
    "metal": "#B9C0C5",
    "metal_edge": "#717B82",
    "brass": "#C6A24A",
    "rubber": "#3A4046",
    "tape": "#D98A00",
    "air": "#EEF4F4",
    "liquid": "#A9D5C4",
    "foam": "#E8C9A8",
    "tube": "#9A7593",
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
        pictures: of the acts that matter most, each with its name, on the back.
        log: (heading, lines) below them.
        qr: what the code holds; empty for none.
    """

    title: str
    subtitle: str
    rows: tuple[SheetRow, ...]
    columns: tuple[tuple[str, tuple[str, ...]], ...] = ()
    paragraphs: tuple[tuple[str, tuple[str, ...]], ...] = ()
    pictures: tuple[tuple[str, Scene], ...] = ()
    log: tuple[str, tuple[str, ...]] = ("", ())
    units: UnitChoice = METRIC
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
            fits = [n <= 1 + bool(one.pictures) for n, one in zip(pages, sheets, strict=True)]
            if all(fits):
                return pdf
            sizes_pt = [
                size_pt if fit else smaller_pt for size_pt, fit in zip(sizes_pt, fits, strict=True)
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
    rows = [
        [
            words(row.name, style(8.5, MUTED)),
            words(row.text, style(10.5, STOP if row.warning else INK, bold=True)),
        ]
        for row in sheet.rows
    ]
    plan = table(rows, [NAME_MM, WIDTH_MM - NAME_MM], below_pt=2.2, rules=True)
    story: list[Any] = [head, Spacer(1, 2 * MM), plan]
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
    if sheet.pictures:
        shown: list[Any] = [_Drawing(*one, sheet.units) for one in sheet.pictures]
        shown += [""] * (-len(shown) % ABREAST)
        across = [shown[i : i + ABREAST] for i in range(0, len(shown), ABREAST)]
        story += [PageBreak(), title[0], table(across, [WIDTH_MM / ABREAST] * ABREAST)]
    return story + _paragraph(*sheet.log, 9.5)


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
    """The picture of an act under its name."""

    def __init__(self, name: str, scene: Scene, units: UnitChoice) -> None:
        super().__init__()
        self._name, self._scene, self._units = name, scene, units
        self._scale = PICTURE_MM * MM / WIDE

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return PICTURE_MM * MM, HIGH * self._scale + PICTURE_NAME_PT * LEADING

    def draw(self) -> None:
        canvas, scale, high = self.canv, self._scale, HIGH * self._scale
        regular, bold = fonts()
        canvas.setFillColor(MUTED)
        canvas.setFont(regular, PICTURE_NAME_PT)
        canvas.drawString(0.0, high + 2.0, self._name)
        canvas.saveState()
        clip = canvas.beginPath()
        clip.rect(0.0, 0.0, WIDE * scale, high)
        canvas.clipPath(clip, stroke=0, fill=0)
        canvas.setLineJoin(1)
        for path in self._scene.paths:
            line = canvas.beginPath()
            for i, (x, y) in enumerate(path.points):
                (line.lineTo if i else line.moveTo)(x * scale, high - y * scale)
            if path.closed:
                line.close()
            canvas.setLineWidth(max(0.3, path.width * scale))
            canvas.setDash([3.0, 2.0] if path.dashed else [])
            if path.edge:
                canvas.setStrokeColor(PAPER[path.edge])
            if path.fill:
                canvas.setFillColor(PAPER[path.fill])
            canvas.drawPath(line, stroke=int(bool(path.edge)), fill=int(bool(path.fill)))
        canvas.setDash([])
        for badge in self._scene.badges:
            x, y = badge.at[0] * scale, high - badge.at[1] * scale
            canvas.setLineWidth(1.0)
            canvas.setStrokeColor(PAPER[badge.color])
            canvas.setFillColor(PAPER["card"])
            canvas.circle(x, y, BADGE_RADIUS * scale, stroke=1, fill=1)
            self._write(str(badge.number), (x, y), NOTE * scale, badge.color, bold, 0)
        for caption in self._scene.captions:
            size = caption.size * scale
            text = caption.words.read(self._units)
            lines = simpleSplit(text, bold, size, caption.wide * scale or WIDE * scale)
            x, y = caption.at[0] * scale, high - caption.at[1] * scale
            for i, said in enumerate(lines):
                down = (i - 0.5 * (len(lines) - 1)) * LEADING * size
                self._write(said, (x, y - down), size, caption.color, bold, caption.align)
        canvas.restoreState()

    def _write(
        self, text: str, at: tuple[float, float], size: float, color: str, font: str, align: int
    ) -> None:
        canvas = self.canv
        wide = canvas.stringWidth(text, font, size)
        left = at[0] - (0.5 + 0.5 * align) * wide
        canvas.setFillColor(PAPER["card"])
        canvas.rect(left - 0.5, at[1] - 0.5 * size, wide + 1.0, size, stroke=0, fill=1)
        canvas.setFillColor(PAPER[color])
        canvas.setFont(font, size)
        canvas.drawString(left, at[1] - 0.35 * size, text)


MM = 72.0 / 25.4
#: What is printed on, of A4 or Letter: it fits both.
WIDTH_MM, EDGE_MM = 178.0, 12.0
INK, MUTED, STOP, RULE = "#1D282E", "#5C656A", "#A31D1D", "#D9D1C1"
#: What reportlab's page leaves free inside its margins.
FRAME_PT = 6.0
#: The name over a picture, points.
PICTURE_NAME_PT = 7.5
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
