"""A wheel's papers: the bench card and the rider's sheet, laid out by reportlab's flowables."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import msgspec
from reportlab.platypus import BalancedColumns, Flowable, PageBreak, Spacer

from inner_rim.core.drawing.section import Section
from inner_rim.documents.flow import INK, MM, MUTED, STOP, WIDTH_MM, build, fonts, style, table, words
from inner_rim.words import tr

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
    story: list[Any] = []
    for done, sheet in enumerate(sheets):
        story += [PageBreak()] if done else []
        story += [_ProgressMark(done, on_progress), *_set(sheet)]
    try:
        return build(story, sheets[0].title if sheets else "Inner Rim", foot)
    except _Stopped:
        return None


def _set(sheet: Sheet) -> list[Any]:
    title = [words(sheet.title, style(19.0, bold=True)), words(sheet.subtitle, style(9.5, MUTED))]
    code = QrCode(sheet.qr, QR_MM) if sheet.qr else ""
    head = table([[title, code]], [WIDTH_MM - QR_MM - 2.0, QR_MM + 2.0])
    room = WIDTH_MM - (DRAWING_MM[0] + 4.0 if sheet.section is not None else 0.0)
    rows = [
        [words(row.name, style(8.5, MUTED)), words(row.text, style(10.5, STOP if row.warning else INK, bold=True))]
        for row in sheet.rows
    ]
    plan = table(rows, [NAME_MM, room - NAME_MM], below_pt=2.2, rules=True)
    story: list[Any] = [head, Spacer(1, 2 * MM)]
    if sheet.section is not None:
        plan = table([[plan, _Drawing(sheet.section)]], [room + 2.0, WIDTH_MM - room - 2.0])
    story.append(plan)
    if sheet.columns:
        columns = [one for heading, lines in sheet.columns for one in _paragraph(heading, lines, 8.0)]
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
    """An empty flowable that reports progress when layout reaches it."""

    def __init__(self, done: int, on_progress: Callable[[int], bool]) -> None:
        super().__init__()
        self._done, self._on_progress = done, on_progress

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return 0.0, 0.0

    def draw(self) -> None:
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

        rows = [list(row) for row in segno.make(self._text, error="m", micro=False).matrix_iter(border=2)]
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
