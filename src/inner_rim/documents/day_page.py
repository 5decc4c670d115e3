"""The day sheet: who does what when, when each wheel is ready, what to take; laid out by reportlab's flowables."""

from __future__ import annotations

from typing import Any

import msgspec
from reportlab.platypus import KeepTogether, Spacer

from inner_rim.documents.flow import MM, MUTED, STOP, WIDTH_MM, build, style, table, words
from inner_rim.words import tr

#: Sizes of type, pt, and the height of a line; widths of the columns, mm.
TITLE_PT, HEAD_PT, TEXT_PT = 18.0, 11.0, 9.0
BOX_MM, TIME_MM, NAME_MM, HALF_MM = 7.0, 25.0, 50.0, 89.0


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
    text, strong, warning = style(TEXT_PT), style(TEXT_PT, bold=True), style(TEXT_PT, STOP, bold=True)
    title, heading, quiet = style(TITLE_PT, bold=True), style(HEAD_PT, bold=True), style(TEXT_PT, MUTED)
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
        widths = [BOX_MM, TIME_MM, NAME_MM, WIDTH_MM - BOX_MM - TIME_MM - NAME_MM]
        story += [Spacer(1, 2 * MM), words(name, heading), table(rows, widths)]
    ready = table([[words(name, strong), words(when, text)] for name, when in paper.ready], [34.0, HALF_MM - 35.0])
    take = table([[words(line, text)] for line in paper.take], [HALF_MM - 2.0]) if paper.take else ""
    heads = [words(tr("Ready"), heading), words(tr("To take from the shelf"), heading) if paper.take else ""]
    beside = table([heads, [ready, take]], [HALF_MM, HALF_MM])
    few = len(paper.ready) + len(paper.take) < 40
    story.append(Spacer(1, 3 * MM))
    if few:
        story.append(KeepTogether(beside))
    else:  # a table's row cannot go over the end of a page
        story += [heads[0], ready, *([heads[1], take] if paper.take else [])]
    return build(story, paper.title)
