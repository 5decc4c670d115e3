"""The program in German: complete, nothing left in English, nothing cut, at 125 % text."""

import re

from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QLabel,
    QLineEdit,
    QWidget,
)

from inner_rim.core.record.spoken import STAGES
from inner_rim.desktop.banner import PAGES
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.work.text.questions import PICTURES
from tests.desktop.drive import run
from tests.desktop.test_every_page import LISTS, cut


def shown_texts(widget):
    """Return what a page shows or tells a screen reader, keys of buttons left out."""
    for child in [widget, *widget.findChildren(QWidget)]:
        if not child.isVisible():
            continue
        yield child.accessibleName()
        yield child.accessibleDescription()
        yield child.toolTip()
        if isinstance(child, QLabel | QAbstractButton):
            yield re.sub(r"\s{2,}\S+$", "", child.text())
        if isinstance(child, QLineEdit):
            yield child.placeholderText()
        if isinstance(child, QAbstractItemView) and child.model() is not None:
            for row in range(child.model().rowCount()):
                yield from str(child.model().index(row, 0).data() or "").split("\n")


def test_every_page_and_stage_is_german_and_whole(german, demo, catalog):
    window, bench = demo.window, demo.bench
    window.use_theme(Theme("light", 1.25))
    english = {
        text for text in catalog if german.gettext(text) != text and re.search("[a-z]{3}", text)
    }
    left, too_long = set(), set()

    def look(page):
        for _ in range(4):
            QApplication.processEvents()
        left.update(text.strip() for text in shown_texts(page) if text.strip() in english)
        too_long.update(map(str, cut(page)))

    for place in PAGES:
        window.go_to(place)
        look(window)
    window.go_to("bench")
    for state in list(bench.wheels):
        bench.select(state.key)
        look(window)
    for stage in STAGES:
        run(window.page, "look_at_stage", stage)
        window.page.inputs.show_more()
        look(window.page)
    for command in (
        *(f"show_{view}" for view in (*PICTURES, *LISTS) if view != "sectors"),
        "actions",
        "keys",
    ):
        run(window.page, "leave")
        run(window.page, command)
        look(window)
    assert left == set() and too_long == set()
