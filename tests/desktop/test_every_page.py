"""Every page, both themes, larger text, every unit: nothing warns, and no word on a button is cut."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QWidget,
)

from inner_rim.core.record.spoken import STAGES
from inner_rim.desktop.banner import PAGES, Header
from inner_rim.desktop.commands.navigation import UNIT_SETS
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.work.text.questions import PICTURES
from tests.desktop.drive import cautions_of, run


def cut(widget):
    """Return buttons whose words do not fit, labels of one line that are cut, and what stands in empty fields."""
    result = []
    for button in widget.findChildren(QPushButton):
        if button.isVisible() and button.text():
            wanted = max(map(button.fontMetrics().horizontalAdvance, button.text().split("\n")))
            if wanted > button.width() + 1:
                result.append((button.text(), wanted, button.width()))
    for label in widget.findChildren(QLabel):
        if (
            label.isVisible()
            and label.text()
            and not label.wordWrap()
            and label.minimumWidth() == 0
        ):
            wanted = label.fontMetrics().horizontalAdvance(label.text())
            if wanted > label.width() + 1:
                result.append((label.text(), wanted, label.width()))
    for entry in widget.findChildren(QLineEdit):
        if entry.isVisible() and entry.placeholderText() and not entry.text():
            wanted = entry.fontMetrics().horizontalAdvance(entry.placeholderText())
            if wanted > entry.width() - 2 * entry.fontMetrics().averageCharWidth():
                result.append((entry.placeholderText(), wanted, entry.width()))
    return result


@pytest.mark.parametrize("name", ["light", "dark"])
@pytest.mark.parametrize("scale", [1.0, 1.25, 1.5])
def test_no_word_is_cut_on_any_page(demo, name, scale):
    window = demo.window
    window.go_to("day")  # the bench is not in view while the text grows
    QApplication.processEvents()
    window.use_theme(Theme(name, scale))
    for place in PAGES:
        window.go_to(place)
        for _ in range(4):
            QApplication.processEvents()
        window.grab()
        assert cut(window.page_of(place)) == [], place
        for area in window.findChildren(QScrollArea):  # see Scrolling
            assert (
                not area.verticalScrollBar().isVisible()
                and not area.horizontalScrollBar().isVisible()
            ), place


SIZES = ((1024, 700), (1280, 800), (1920, 1080), (3840, 2160))
LISTS = ("plan", "choices", "steps", "log")


def small(widget, scale):
    """Return what is too small to hit with a wet glove: answers under 64 px at the step, all else under 44."""
    result = []
    for button in widget.findChildren(QPushButton):
        if button.isVisible() and button.height() < 44:
            result.append((button.text() or button.accessibleName(), button.height()))
    return result


@pytest.mark.parametrize("scale", [1.0, 1.25, 1.5])
def test_no_word_is_cut_at_any_stage_view_or_size_of_window(demo, scale):
    window, bench = demo.window, demo.bench
    window.use_theme(Theme("light", scale))
    page = window.page
    for size in SIZES:
        demo.shell.resize(*size)
        QApplication.processEvents()
        header = window.findChild(Header)
        tight = [
            b.text()
            for b in header.findChildren(QPushButton)
            if b.isVisible() and b.width() < b.sizeHint().width()
        ]
        assert tight == [], size
        for state in list(bench.wheels):
            bench.select(state.key)
            for _ in range(3):
                QApplication.processEvents()
            assert cut(page) == [] and small(page, scale) == [], (state.name, size)
            assert window.size() == demo.shell.size() and window.width() == size[0], state.name
            answers = [
                b
                for b, a in zip(page.now._buttons, page.now.answers, strict=True)
                if a.command != "back"
            ]
            if window.turns.view().working:
                assert all(button.height() >= 64 for button in answers)
        for stage in STAGES:
            run(page, "look_at_stage", stage)
            page.inputs.show_more()
            for _ in range(5):
                QApplication.processEvents()
            assert cut(page.inputs) == [], (stage, size)
        for view in (*PICTURES, *LISTS):
            run(page, "leave")
            if view != "sectors":
                run(page, f"show_{view}")
            QApplication.processEvents()
            window.grab()
            assert cut(page.side) == [], (view, size)


@pytest.mark.parametrize(
    ("scale", "size"),
    [(1.0, (1024, 700)), (1.0, (1280, 800)), (1.25, (1280, 800)), (1.5, (1280, 800))],
)
def test_what_to_do_now_and_its_cautions_are_never_cut_off(demo, scale, size):
    # A caution that is cut in the middle may say the opposite; where there is no room for all of it, it scrolls.
    demo.shell.resize(*size)
    demo.window.use_theme(Theme("light", scale))
    now, cautions = demo.window.page.now, 0
    for state in list(demo.bench.wheels):
        demo.bench.select(state.key)
        for _ in range(4):
            QApplication.processEvents()
        cautions += bool(cautions_of(now))
        for label in (now._head, now._action, *now._more, *now._cautions):
            box = label.fontMetrics().boundingRect(
                0, 0, label.width(), 10_000, Qt.TextFlag.TextWordWrap, label.text()
            )
            assert not label.text() or box.height() <= label.height() + 1, (
                state.name,
                label.text(),
            )
        below = max(
            label.geometry().bottom() for label in (now._action, *now._more, *now._cautions)
        )
        assert (
            below < now._words.height()
            and now._scroll.verticalScrollBar().maximum()
            >= now._words.height() - now._scroll.height()
        ), state.name
        assert now.geometry().bottom() < now.parentWidget().height(), state.name
    assert cautions >= 2


def unnamed(widget):
    """Return controls that take the keyboard and that a screen reader could not name."""
    result = []
    for control in widget.findChildren(QWidget):
        if not control.isVisible() or control.focusPolicy() == Qt.FocusPolicy.NoFocus:
            continue
        words = control.text() if isinstance(control, QAbstractButton) else ""
        if not (control.accessibleName() or words).strip():
            result.append((type(control).__name__, control.objectName()))
    return result


def test_every_control_that_takes_the_keyboard_has_a_name(demo):  # W3C WCAG 2.1, 4.1.2: the name
    window, bench = demo.window, demo.bench
    for place in PAGES:
        window.go_to(place)
        QApplication.processEvents()
        assert unnamed(window) == [], place
    window.go_to("bench")
    for state in list(bench.wheels):
        bench.select(state.key)
        for stage in STAGES:
            run(window.page, "look_at_stage", stage)
            assert unnamed(window.page) == [], (state.name, stage)
    for view in (*PICTURES, *LISTS):
        if view != "sectors":
            run(window.page, f"show_{view}")
        assert unnamed(window.page) == [], view


@pytest.mark.parametrize("units", UNIT_SETS, ids=lambda u: u.kpa + u.mm)
def test_every_page_in_every_unit(demo, units):
    window, bench = demo.window, demo.bench
    bench.set_units(units)
    for place in PAGES:
        window.go_to(place)
        QApplication.processEvents()
        window.grab()
    window.go_to("bench")
    for stage in STAGES:
        window.run("look_at_stage", stage)
        window.run("show_choices")
        window.grab()


def test_a_very_long_name_and_customer_hurt_no_page(demo):
    window, bench = demo.window, demo.bench
    bench.editor.type_into(
        "name",
        "The warden of the outer estuary's second winter touring bicycle, front, with dynamo " * 2,
    )
    bench.editor.type_into(
        "customer", "Association of Volunteers for the Northern Mudflats and Salt Marshes " * 2
    )
    for place in PAGES:
        window.go_to(place)
        QApplication.processEvents()
        window.grab()
        assert window.width() == 1280, place  # nothing pushes the window wider


def test_the_pages_are_reached_by_keys_and_left_by_escape(demo):
    from PyQt6.QtCore import Qt
    from PyQt6.QtTest import QTest

    window = demo.window
    digits = [getattr(Qt.Key, f"Key_{n}") for n in range(1, len(PAGES) + 1)]
    for place, key in zip(PAGES, digits, strict=True):
        QTest.keyClick(
            QApplication.focusWidget() or window, key, Qt.KeyboardModifier.ControlModifier
        )
        assert window.page_shown == place
        QTest.keyClick(window, Qt.Key.Key_Escape)
        assert window.page_shown == "bench"
