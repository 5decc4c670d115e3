"""Makes the pages beside the bench, each when first opened."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from inner_rim.desktop.measuring.tools import Tools
from inner_rim.desktop.widgets.base import Page
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import WheelKey

if TYPE_CHECKING:
    from inner_rim.work.text.board import RowHelp


def make_page(
    name: str, bench: Bench, theme: Theme, tools: Tools, to_bench: Callable[[], None]
) -> Page:
    """Return the page of a name; where it opens a wheel, that wheel is selected and `to_bench`
    called.
    """
    make = {
        "day": _day,
        "shelf": _shelf,
        "logbook": _logbook,
        "insights": _insights,
        "training": _training,
    }.get(name)
    page = make(bench, theme, to_bench) if make is not None else _practice(bench, theme, tools)
    bench.subscribe(page.changed)
    return page


def _practice(bench: Bench, theme: Theme, tools: Tools) -> Page:
    from inner_rim.desktop.exporter import Exporter
    from inner_rim.desktop.pages.practice import PracticePage

    page = PracticePage(
        bench.settings, bench.shop_methods, theme, tools.caliper, tools.gauge, bench.backups
    )
    exporter = Exporter(bench, page)
    page.export_wanted.connect(lambda: exporter.export_setup())  # the page keeps it alive
    page.import_wanted.connect(lambda: exporter.import_setup())
    return page


def _day(bench: Bench, theme: Theme, to_bench: Callable[[], None]) -> Page:
    from inner_rim.desktop.pages.day import DayPage
    from inner_rim.work.day_papers import DayPapers
    from inner_rim.work.views import PageViews

    def open_wheel(key: WheelKey) -> None:
        bench.select(key)
        to_bench()

    page = DayPage(PageViews(bench), bench.day.plan, DayPapers(bench), theme)
    page.wheel_wanted.connect(open_wheel)

    def help_late(one: RowHelp) -> None:
        planned = page.board.planned
        with bench.history.grouped():
            if one.help.kind == "promise":
                assert one.help.at is not None
                bench.day.promise_for(planned.wheels[one.wheel], one.help.at)
            else:
                bench.day.plan.apply(planned, one.wheel, one.help)
        page.refresh()

    page.help_wanted.connect(help_late)

    def print_sheet(pdf: bytes) -> None:
        from inner_rim.desktop.exporter import print_pdf

        bench.say(print_pdf(pdf, tr("Day sheet"), page))

    page.print_wanted.connect(print_sheet)
    return page


def _shelf(bench: Bench, theme: Theme, _to_bench: Callable[[], None]) -> Page:
    from inner_rim.desktop.pages.part_editor import PartEditor
    from inner_rim.desktop.pages.shelf import ShelfPage
    from inner_rim.work.tasks.parts_files import PartsFiles
    from inner_rim.work.views import PageViews

    editor = PartEditor(bench.shelf, bench.settings, theme)
    editor.stored.connect(bench.say)
    return ShelfPage(
        PageViews(bench), PartsFiles(bench.shelf, lambda: bench.worker, bench.now), editor, theme
    )


def _logbook(bench: Bench, theme: Theme, to_bench: Callable[[], None]) -> Page:
    from inner_rim.desktop.pages.logbook import LogbookPage
    from inner_rim.work.logbook import Logbook
    from inner_rim.work.views import PageViews

    page = LogbookPage(Logbook(bench), PageViews(bench), theme)
    page.wheel_wanted.connect(_taker(bench, to_bench))
    return page


def _insights(bench: Bench, theme: Theme, to_bench: Callable[[], None]) -> Page:
    from inner_rim.desktop.pages.logbook import InsightsPage
    from inner_rim.work.logbook import InsightBook
    from inner_rim.work.views import PageViews

    page = InsightsPage(InsightBook(bench), PageViews(bench), theme)
    page.wheel_wanted.connect(_taker(bench, to_bench))
    return page


def _training(bench: Bench, theme: Theme, _to_bench: Callable[[], None]) -> Page:
    from inner_rim.desktop.pages.training import TrainingPage
    from inner_rim.work.training_book import TrainingBook

    return TrainingPage(TrainingBook(bench.settings.folder, bench.say), theme)


def _taker(bench: Bench, to_bench: Callable[[], None]) -> Callable[[str, str], None]:
    def take_out(job_id: str, wheel_id: str) -> None:
        bench.take_out(job_id, wheel_id)
        to_bench()

    return take_out
