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
    assert (
        "“nine” is not understood" in " ".join(page._view.now.cautions) + page._view.looking.fault
    )
    assert first.tapes.text() == "27 25,5 nine" and not one.bench.shelf.items
    window.run("theme")  # nothing that was typed is lost by it
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
    assert (
        again.bench.units.kpa == "psi"
        and again.bench.settings.shop["practice.air_source"] == "compressor"
    )
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


def test_the_first_wheel_is_said_in_one_line_on_an_empty_bench(session, qtbot):
    one = session()
    first, page = one.window.page.first, one.window.page
    first.line.setFocus()
    qtbot.keyClicks(first.line, "45-622 on 24 hooked, 98 kg, green")
    qtbot.keyClick(first.line, Qt.Key.Key_Return)
    assert one.bench.planned is not None and page.inputs.line.text() == "green"
    assert page.inputs.line.hasFocus() and page._form.currentWidget() is page.inputs
    one.bench.archive()
    # asked once
    assert page._form.currentWidget() is page.first and not page.first._questions.isVisible()


def test_the_tour_of_the_demo_has_five_stops_and_can_be_left_at_once(demo):
    window, words = demo.window, []
    tour = window.header.buttons["tour"]
    assert tour.isVisible()
    QTest.mouseClick(tour, Qt.MouseButton.LeftButton)
    for _ in range(5):
        words.append(window._tour.words.text())
        assert window._tour.next.hasFocus()
        QTest.keyClick(window._tour.next, Qt.Key.Key_Return)
    assert window._tour is None and [text[:6] for text in words] == [
        f"{n} of 5" for n in range(1, 6)
    ]
    assert window.page_shown == "day"
    logged = demo.bench.logged
    window.run("tour")
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    assert window._tour is None and demo.bench.logged == logged  # nothing was done to the wheels
