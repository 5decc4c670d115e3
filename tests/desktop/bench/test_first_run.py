"""The questions of the first run, answered by hand in the real window; then the data is opened again."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication


def test_three_answers_hold_and_the_questions_do_not_come_back(session, qtbot):
    one = session()
    page, window = one.window.page, one.window
    first = page.first
    assert first.isVisible() and page._form.currentWidget() is first
    QTest.mouseClick(first.units.buttons["psi · mm · ml"], Qt.MouseButton.LeftButton)
    QTest.mouseClick(first.air.buttons["compressor"], Qt.MouseButton.LeftButton)
    first.tapes.setFocus()
    qtbot.keyClicks(first.tapes, "27 25,5 nine")
    qtbot.keyClick(first.tapes, Qt.Key.Key_Return)
    assert "“nine” is not understood" in " ".join(page._view.now.cautions) + page._view.looking.fault
    assert first.tapes.text() == "27 25,5 nine" and not one.bench.shelf.items
    window.change_theme()  # nothing that was typed is lost by it
    first = page.first
    assert first.tapes.text() == "27 25,5 nine"
    first.tapes.setFocus()
    first.tapes.selectAll()
    qtbot.keyClicks(first.tapes, "27 25,5")
    qtbot.keyClick(first.tapes, Qt.Key.Key_Return)
    assert page.now._buttons[0].hasFocus()
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)  # the first wheel
    assert page._form.currentWidget() is page.inputs and one.bench.current is not None
    qtbot.waitUntil(lambda: not one.worker.waiting)
    again = session()
    assert again.bench.units.kpa == "psi" and again.bench.settings.shop["practice.air_source"] == "compressor"
    qtbot.waitUntil(lambda: again.bench.shelf.loaded)
    assert [(i.spec["width_mm"], i.stock) for i in again.bench.shelf.items] == [
        (25.5, 10_000.0),
        (27.0, 10_000.0),
    ]
    assert again.window.page.first is None  # a wheel is on the bench


def test_the_questions_are_left_out_with_one_key(session, qtbot):
    one = session()
    qtbot.keyClick(one.window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert one.bench.current is not None and one.bench.settings.own.asked
    assert "practice.air_source" not in one.bench.settings.shop and not one.bench.shelf.items
