"""Makes the pages beside the bench, each when it is first wanted."""

from __future__ import annotations

from collections.abc import Callable

from inner_rim.desktop.measuring.tools import Tools
from inner_rim.desktop.widgets.page import Page
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.work.bench import Bench


def make_page(name: str, bench: Bench, theme: Theme, tools: Tools, to_bench: Callable[[], None]) -> Page:
    """Return the page of a name; where it opens a wheel, that wheel is selected and `to_bench` called."""
    if name == "day":
        from inner_rim.desktop.pages.day import DayPage

        def open_wheel(key: str) -> None:
            job_id, _, wheel_id = key.partition("/")
            bench.select((job_id, wheel_id))
            to_bench()

        day = DayPage(bench, theme)
        day.wheel_wanted.connect(open_wheel)
        return day
    if name == "shelf":
        from inner_rim.desktop.pages.shelf import ShelfPage

        return ShelfPage(bench, theme)
    if name == "logbook":
        from inner_rim.desktop.pages.logbook import LogbookPage

        def take_out(job_id: str, wheel_id: str) -> None:
            bench.take_out(job_id, wheel_id)
            to_bench()

        book = LogbookPage(bench, theme)
        book.wheel_wanted.connect(take_out)
        return book
    from inner_rim.desktop.pages.practice import PracticePage

    return PracticePage(bench, theme, tools.caliper, tools.gauge)
