"""What the pages beside the bench show, worked out from the bench, so that none of them reads it."""

import msgspec

from inner_rim.core.record.parts import Item, PartKind
from inner_rim.core.record.units import UnitChoice
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import PlannedWheel, key_text
from inner_rim.work.editing.stock_use import in_scope, pick_list_of
from inner_rim.work.insight_book import InsightBook
from inner_rim.work.logbook import Logbook
from inner_rim.work.tasks.day_plan import Planned
from inner_rim.work.text.board import BoardData, Unplanned, board_of
from inner_rim.work.text.day import care_of_all, why_not_planned, why_waits
from inner_rim.work.text.insight_lines import insight_lines
from inner_rim.work.text.lines import ListLine
from inner_rim.work.text.logbook import hit_lines, story_lines
from inner_rim.work.text.promise_words import promise_given, record_text
from inner_rim.work.text.schedule_words import gap_words, longer_words, pin_words
from inner_rim.work.text.shelf_lines import glance_lines, pick_lines, shelf_lines


class ShelfView(msgspec.Struct, frozen=True):
    """The shelf: the parts that were found, and how many in words."""

    parts: tuple[ListLine, ...]
    words: str


class LogbookView(msgspec.Struct, frozen=True):
    """The logbook: what was found, and the story that is open.

    Attributes:
        hits: entries found.
        story: the wheel's visits and entries.
    """

    hits: tuple[ListLine, ...]
    story: tuple[ListLine, ...]
    title: str
    opened: bool


class InsightsView(msgspec.Struct, frozen=True):
    """What the log says.

    Attributes:
        marks: topics and their marks.
        wheels: behind the mark that is open.
        turn: what the button does to the learned figure that is open, empty where none is.
    """

    marks: tuple[ListLine, ...]
    wheels: tuple[ListLine, ...]
    title: str
    turn: str


class PageViews:
    def __init__(self, bench: Bench) -> None:
        self._bench = bench

    @property
    def _units(self) -> UnitChoice:
        return self._bench.units

    def board(self, planned: Planned, by_wheel: bool) -> BoardData:
        bench, result = self._bench, planned.found
        promises, helps = (result.promises or {}, result.helps) if result is not None else ({}, {})
        known = {state.key for state in planned.wheels}
        unplanned = [
            Unplanned(
                state.name,
                key_text(state.key),
                *why_not_planned(state, bench.units),
                state.progress if isinstance(state, PlannedWheel) else None,
            )
            for state in bench.wheels
            if state.key not in known and state.standing != "finished"
        ]
        words = (
            *pin_words(planned.day, planned.faults),
            planned.changed,
            longer_words(planned.day),
            gap_words(result.schedule) if result is not None and not planned.looking else "",
            record_text(bench.day.plan.record),
        )
        standing = [
            (
                state.progress,
                why_waits(state, bench.units, bench.time, planned.day.hours),
                promise_given(state) is not None,
            )
            for state in planned.wheels
        ]
        return board_of(planned.day, planned.schedule, by_wheel, words, promises, helps, standing, unplanned)

    def shelf_of_day(self, scope: str) -> tuple[ListLine, ...]:
        """Return what to take from the shelf for the wheel, its job, or the bench; then the aftercare that is due."""
        bench = self._bench
        wheels = in_scope(bench.wheels, bench.current, scope)
        plans = [state.plan for state in wheels]
        picks = pick_lines(pick_list_of(wheels, bench.shelf.items), bench.units, plans)
        return (*picks, *care_of_all(bench.wheels, bench.units, bench.time))

    def shelf(self, words: str, kind: PartKind | None) -> ShelfView:
        shelf = self._bench.shelf
        result = shelf.find(words, kind)
        if not shelf.items:
            said = tr("The shelf is empty. Add a part, import a table, or check a wheel in: it is learned from there.")
        else:
            said = tr("1 part") if len(result) == 1 else tr("{n} parts").format(n=len(result))
        return ShelfView(shelf_lines(result, self._units), said)

    def glance(self) -> tuple[ListLine, ...]:
        """Return the shop's stock at a glance: what runs out, what is short for the bench."""
        items = self._bench.shelf.items
        return glance_lines(items, pick_list_of(self._bench.wheels, items), self._units)

    def part(self, item_id: str) -> Item | None:
        return next((item for item in self._bench.shelf.items if str(item.item_id) == item_id), None)

    def logbook(self, book: Logbook) -> LogbookView:
        """Return what the search found, and the story that is open."""
        return LogbookView(
            hit_lines(book.hits, self._units, book.unreadable, book.asked),
            story_lines(book.story, book.opened, self._units),
            book.name or tr("Wheel history"),
            book.opened is not None,
        )

    def insights(self, book: InsightBook) -> InsightsView:
        """Return what the log says, and the wheels behind the mark that is open."""
        topic, mark, counts = book.topic, book.mark, book.counts
        wheels = mark.wheels if mark is not None else ()
        turn = "" if counts is None or mark is None else tr("Do not use") if counts else tr("Use in plans")
        return InsightsView(
            insight_lines(book.topics, book.unused_figures),
            tuple(ListLine(book.name_of(key), key=key) for key in wheels),
            f"{topic.title}: {mark.name}"
            if topic is not None and mark is not None
            else tr("Choose a line to see its wheels"),
            turn,
        )
