"""What the log says as lines: a heading and its sentence for each topic, a line for each mark."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

import msgspec

from inner_rim.words import tr
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.text.lines import ListLine, head


class Mark(msgspec.Struct, frozen=True):
    """One mark of a topic.

    Attributes:
        note: a second line.
    """

    name: str
    figure: str
    share: float | None = None
    wheels: tuple[WheelKey, ...] = ()
    note: str = ""


class Topic(msgspec.Struct, frozen=True):
    """What the log says of one question: its sentence, from how many, and its marks."""

    code: str
    title: str
    sentence: str
    n: int
    marks: tuple[Mark, ...] = ()


def insight_lines(topics: Sequence[Topic] | None, unused_figures: Collection[str]) -> tuple[ListLine, ...]:
    """Return the topics that the log says something of; a line that says what is missing where there is none."""
    if topics is None:
        return (head(tr("Reading the log…")),)
    result = tuple(_lines(topics, unused_figures))
    if result:
        return result
    words = tr("It fills as wheels are seated, tested, promised, and come back")
    return (head(tr("The log says nothing yet"), words),)


def _lines(topics: Sequence[Topic], unused_figures: Collection[str]) -> Iterator[ListLine]:
    for topic in topics:
        if topic.marks:
            yield head(topic.title, topic.sentence)
        for place, mark in enumerate(topic.marks):
            chip = tr("not used") if topic.code in unused_figures else ""
            yield ListLine(
                mark.name, note=mark.note, right=mark.figure, chip=chip, share=mark.share, key=(topic.code, place)
            )
