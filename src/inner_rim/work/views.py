"""The view state: what the bench and the pages beside it show, each part worked out once."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

import msgspec

from inner_rim.core.drawing.loupe import SeatLoupe, draw_loupe
from inner_rim.core.drawing.section import Section, draw_section
from inner_rim.core.record.parts import Item, PartKind
from inner_rim.core.record.practice import Assumed
from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.units import UnitChoice
from inner_rim.store.rows import StoredVisit
from inner_rim.words import tr
from inner_rim.work.bench import Bench, panel_context
from inner_rim.work.editing.shelf import in_scope, pick_list_of
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, WheelKey, key_text
from inner_rim.work.logbook import InsightBook, Logbook
from inner_rim.work.tasks.day_plan import Planned
from inner_rim.work.tasks.first_run import is_first
from inner_rim.work.text.board import BoardData, Unplanned, board_of
from inner_rim.work.text.choices import choices_of
from inner_rim.work.text.lines import ListLine
from inner_rim.work.text.next_action import now_of
from inner_rim.work.text.panel import Answer, Now
from inner_rim.work.text.pick_rows import PickRow, rows
from inner_rim.work.text.plots import Plot, insight_plot, plot_of
from inner_rim.work.text.questions import Picture, ViewSelection
from inner_rim.work.text.schedule_words import gap_words, longer_words, pin_words
from inner_rim.work.text.shelf_lines import (
    glance_lines,
    hit_lines,
    insight_lines,
    pick_lines,
    shelf_lines,
    story_lines,
)
from inner_rim.work.text.tiles import Tile, shortened, tile_of
from inner_rim.work.text.waits import (
    RunningWait,
    care_of_all,
    promise_given,
    record_text,
    running_wait,
    why_not_planned,
    why_waits,
)
from inner_rim.work.text.work_view import (
    StageFigure,
    StepLine,
    pictured_step,
    pictures_of,
    stage_figures,
    stage_steps,
    target_of,
)

if TYPE_CHECKING:
    from inner_rim.core.drawing.scene import Scene
    from inner_rim.work.text.why_words import WhyPage


#: What a training wheel answers besides, and the stages in which it is offered; none for all.
TRAINING_ANSWERS: dict[str, tuple[str, ...]] = {
    "look": (),
    "use_pump": ("seat", "sealant", "hold"),
    "thermometer": ("hold",),
}


class BenchView(msgspec.Struct, frozen=True):
    """All that the bench page shows.

    Attributes:
        units: what figures are shown in.
        tiles: the wheels, in the order of the list.
        opened: changes when another wheel or stage is shown.
        lost: the wheel in hand is gone, and no other one is chosen.
        first: the questions of the first run are shown; `air` is the shop's source of air.
        working: the wheel is past check-in: the step is the screen.
        now: the next action; `target` is the figure that it is about, `pictures` what it needs to
            be seen.
        wait: that runs at the wheel.
        mark: what the prefilled entries depend on: they are set again only when it changes, never
            over what is typed.
        picks: the picks column, where it is shown; `stale` where they are of the last good state.
        section, side: the outlines, None where they are not shown.
        seats: both bead seats close up, none without a plan.
        low_left, low_right: sectors that are low, as logged or as marked.
        low_side: the side that digit keys go to while marking.
        visits: earlier visits of this wheel, oldest first.
    """

    units: UnitChoice
    tiles: tuple[Tile, ...]
    selected: WheelKey | None
    state: BenchWheel | None
    others: tuple[BenchWheel, ...]
    looking: ViewSelection
    opened: tuple[object, ...]
    lost: bool
    first: bool
    air: str
    working: bool
    now: Now
    wait: RunningWait | None
    target: str
    pictures: tuple[Picture, ...]
    steps: tuple[StepLine, ...]
    figures: tuple[StageFigure, ...]
    mark: tuple[object, ...]
    picks: tuple[PickRow, ...]
    stale: bool
    why: tuple[PickRow, tuple[Assumed, ...], WhyPage] | None
    act: Scene | None
    section: Section | None
    seats: tuple[SeatLoupe, ...]
    low_left: frozenset[int]
    low_right: frozenset[int]
    low_side: str | None
    visits: tuple[StoredVisit, ...]

    def lines(self) -> tuple[ListLine, ...]:
        """Return the options at the stage; worked out when shown."""
        if self.state is None:
            return ()
        return choices_of(self.state, self.looking.stage, self.units, self.visits, self.others)

    def plot(self) -> Plot:
        """Return what is plotted at the stage; worked out when shown."""
        return plot_of(self.planned, self.looking.stage, self.visits, self.units)

    @property
    def planned(self) -> PlannedWheel | None:
        """The wheel where it has a plan."""
        return self.state if isinstance(self.state, PlannedWheel) else None


class Views:
    """Works out what the page shows; drawings and picks only when plan or units are others than
    before.

    Attributes:
        looking: what is looked at; commands change it.
        live: whether a gauge is connected.
    """

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self.typing: Callable[[], bool] = lambda: False
        self.live: Callable[[], bool] = lambda: False
        self.training = False
        self.cursor = ""
        self._logged = 0
        self.looking = ViewSelection()
        self._opened: tuple[object, ...] = ()
        self._drawn: tuple[object, Section | None, tuple[SeatLoupe, ...]] = (None, None, ())
        self._acted: tuple[object, str, Scene | None] = (None, "", None)
        self._picked: tuple[object, object, tuple[PickRow, ...]] = (None, None, ())
        self._tiled: dict[WheelKey, tuple[BenchWheel, tuple[object, ...], Tile]] = {}

    def view(self) -> BenchView:
        bench, state, planned = self._bench, self._bench.current, self._bench.planned
        self._follow(state)
        looking, units = self.looking, bench.units
        now = self._now(state)
        waits = any(answer.command == "go_on" for answer in now.answers)
        wait = running_wait(planned.progress, bench.time) if planned is not None and waits else None
        pictures = _pictures(planned, looking, self.live(), wait is not None)
        working = state is not None and state.stage != "check_in"
        whole = (
            planned if not working or looking.drawer == "plan" or looking.why is not None else None
        )
        cut = planned if whole is not None or {"section", "loupe"}.intersection(pictures) else None
        section, seats = self._outlines(cut)
        picks = self._picks(whole, units)
        seating = planned.progress.seating if planned is not None else None
        low = looking.low
        return BenchView(
            units=units,
            tiles=self._tiles(units),
            selected=bench.selected,
            state=state,
            others=_others(state, bench.wheels),
            looking=looking,
            opened=self._opened,
            lost=bool(bench.lost),
            first=is_first(bench, bench.settings.own.asked),
            air=bench.settings.shop.get("practice.air_source") or "",
            working=working,
            now=now,
            wait=wait,
            target="" if looking.question is not None else target_of(planned, units, bench.time),
            pictures=pictures,
            steps=stage_steps(planned, units) if planned is not None and working else (),
            figures=stage_figures(planned.plan, planned.stage, units)
            if planned is not None and working
            else (),
            mark=_mark(planned, units),
            picks=picks,
            stale=planned is not None and not planned.current,
            why=_why(planned, looking, picks, units),
            act=self._act(planned) if planned is not None and "act" in pictures else None,
            section=section,
            seats=seats,
            low_left=low.left if low else frozenset(seating.low_left if seating else ()),
            low_right=low.right if low else frozenset(seating.low_right if seating else ()),
            low_side=low.side if low else None,
            visits=bench.visits.of(state.wheel_id) if state is not None else (),
        )

    def _now(self, state: BenchWheel | None) -> Now:
        """What the panel says: what is asked, else the next step; a training wheel can be looked at
        and pumped besides.
        """
        around, question = panel_context(self._bench, state, self.cursor), self.looking.question
        now = (
            now_of(state, around)
            if state is None or question is None
            else question.says(state, around)
        )
        if self.looking.fault:
            now = msgspec.structs.replace(now, cautions=[self.looking.fault])
        if not self.training or question is not None:
            return now
        stage = state.stage if state is not None else ""
        more = (
            Answer(one) for one, stages in TRAINING_ANSWERS.items() if not stages or stage in stages
        )
        return msgspec.structs.replace(now, answers=(*now.answers, *more))

    def change(self, look: Mapping[str, object]) -> None:
        """Look at something else; an old fault goes, unless there is a new one."""
        self.looking = msgspec.structs.replace(self.looking, **{"fault": "", "sure": "", **look})

    def _follow(self, state: BenchWheel | None) -> None:
        """Look at the stage in work whenever the wheel or its stage changes.

        What is typed may add a stage, such as an insert's; the field stays under the hand until it
        has left it.
        """
        stage: Stage = state.stage if state is not None else "check_in"
        opened = (state.key if state is not None else None, stage)
        typed = opened[0] == (self._opened or (None,))[0] and self._bench.logged == self._logged
        if opened != self._opened and not (typed and self.typing()):
            self._opened, self._logged = opened, self._bench.logged
            self.looking = ViewSelection(stage)
        elif (
            self._logged != self._bench.logged
        ):  # something was done: what was open beside the step goes away
            self._logged = self._bench.logged
            self.looking = self.looking.shut()
        if self.looking.why is not None and not isinstance(state, PlannedWheel):
            self.looking = msgspec.structs.replace(self.looking, why=None)

    def _outlines(self, state: PlannedWheel | None) -> tuple[Section | None, tuple[SeatLoupe, ...]]:
        if state is None:
            return None, ()
        if self._drawn[0] is not state.plan:
            section, hook = draw_section(state.wheel, state.plan), state.wheel.rim.hook
            self._drawn = (
                state.plan,
                section,
                draw_loupe(section, state.plan, None if hook is None else hook == "hooked"),
            )
        return self._drawn[1:]

    def _act(self, state: PlannedWheel) -> Scene | None:
        step = pictured_step(state, self.looking.pointed)
        if step is None:
            return None
        from inner_rim.core.drawing.acts import draw_act  # not before the first paint

        if self._acted[0] is not state.plan or self._acted[1] != step.key:
            self._acted = state.plan, step.key, draw_act(state.plan, step)
        return self._acted[2]

    def _tiles(self, units: UnitChoice) -> tuple[Tile, ...]:
        """The tiles of the list; a wheel's is made again for another state, and every second for
        its waits.
        """
        bench = self._bench
        now, result = bench.time.replace(microsecond=0), {}
        for one in bench.day.listed:
            begins = bench.day.begins.get(one.key)
            known = self._tiled.get(one.key)
            if (
                known is None
                or known[0].reading is not one.reading
                or known[1] != (units, begins, now)
            ):
                known = (
                    one,
                    (units, begins, now),
                    tile_of(one, units, now, begins, bench.day.hours),
                )
            result[one.key] = known
        self._tiled = result
        return shortened([known[2] for known in result.values()])

    def _picks(self, state: PlannedWheel | None, units: UnitChoice) -> tuple[PickRow, ...]:
        if state is None:
            return ()
        if self._picked[0] is not state.plan or self._picked[1] is not units:
            self._picked = (state.plan, units, rows(state.plan, units))
        return self._picked[2]


def _mark(state: PlannedWheel | None, units: UnitChoice) -> tuple[object, ...]:
    if state is None:
        return ()
    progress = state.progress
    step = progress.step.key if progress.step else ""
    set_here = state.plan.pressure.set_here_kpa
    return (
        state.key,
        len(state.whole_log),
        progress.stage,
        step,
        units,
        set_here,
        progress.seating.step_kpa,
    )


def _pictures(
    state: PlannedWheel | None, looking: ViewSelection, live: bool, waits: bool
) -> tuple[Picture, ...]:
    """The picture that was asked for, else those that the step needs."""
    if looking.picture not in (None, "own"):
        return (looking.picture,)
    if waits:
        return ("wait",)
    return ("sectors",) if looking.low is not None else pictures_of(state, live, looking.pointed)


def _others(state: BenchWheel | None, wheels: list[BenchWheel]) -> tuple[BenchWheel, ...]:
    if state is None:
        return ()
    return tuple(one for one in wheels if one.key[0] == state.key[0] and one.index != state.index)


def _why(
    state: PlannedWheel | None,
    looking: ViewSelection,
    picks: tuple[PickRow, ...],
    units: UnitChoice,
) -> tuple[PickRow, tuple[Assumed, ...], WhyPage] | None:
    if looking.why is None or state is None:
        return None
    from inner_rim.work.text.why_words import why_page  # not before it is asked for

    row = picks[looking.why]
    assumed = tuple(item for item in state.plan.assumed if item.field in row.assumed)
    return row, assumed, why_page(looking.why, row.why, state.plan, units)


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
        turn: what the button does to the way or the learned figure that is open, empty where none
            is.
        plot: both ways of a finding, or how the topic's figure moved; None where there is none.
    """

    marks: tuple[ListLine, ...]
    wheels: tuple[ListLine, ...]
    title: str
    turn: str
    plot: Plot | None


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
        return board_of(
            planned.day, planned.schedule, by_wheel, words, promises, helps, standing, unplanned
        )

    def shelf_of_day(self, scope: str) -> tuple[ListLine, ...]:
        """Return what to take from the shelf for the wheel, its job, or the bench; then the
        aftercare that is due.
        """
        bench = self._bench
        wheels = in_scope(bench.wheels, bench.current, scope)
        plans = [state.plan for state in wheels]
        picks = pick_lines(pick_list_of(wheels, bench.shelf.items), bench.units, plans)
        return (*picks, *care_of_all(bench.wheels, bench.units, bench.time))

    def shelf(self, words: str, kind: PartKind | None) -> ShelfView:
        shelf = self._bench.shelf
        result = shelf.find(words, kind)
        if not shelf.items:
            said = tr(
                "The shelf is empty. Add a part, import a table, or check a wheel in: it is learned from there."
            )
        else:
            said = tr("1 part") if len(result) == 1 else tr("{n} parts").format(n=len(result))
        return ShelfView(shelf_lines(result, self._units), said)

    def glance(self) -> tuple[ListLine, ...]:
        """Return the shop's stock at a glance: what runs out, what is short for the bench."""
        items = self._bench.shelf.items
        return glance_lines(items, pick_list_of(self._bench.wheels, items), self._units)

    def part(self, item_id: str) -> Item | None:
        return next(
            (item for item in self._bench.shelf.items if str(item.item_id) == item_id), None
        )

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
        turn = ""
        in_use = book.in_use if book.topics is not None else {}
        if mark is not None and mark.sets is not None:
            field, way = mark.sets
            turn = tr("Make it the shop's method") if in_use[field] != way else ""
        elif mark is not None and counts is not None:
            turn = tr("Do not use") if counts else tr("Use in plans")
        return InsightsView(
            insight_lines(book.topics, book.unused_figures, in_use),
            tuple(ListLine(book.name_of(key), key=key) for key in wheels),
            mark.name
            if mark is not None and mark.sets is not None
            else f"{topic.title}: {mark.name}"
            if topic is not None and mark is not None
            else tr("Choose a line to see its wheels"),
            turn,
            insight_plot(topic, mark),
        )
