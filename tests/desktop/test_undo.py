"""Ctrl+Z in the real window: the last thing that was done, whatever it was, and what is asked before a limit is raised."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.core.record.log import TakenBack
from inner_rim.store.snapshot import snapshot
from inner_rim.work.editing.undo import has_air
from tests.desktop.bench.test_seat_to_story import wheel

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def undo(one):
    QTest.keyClick(QApplication.focusWidget() or one.window, Qt.Key.Key_Z, CTRL)
    return one.bench.message


def redo(one):
    QTest.keyClick(QApplication.focusWidget() or one.window, Qt.Key.Key_Z, CTRL | SHIFT)
    return one.bench.message


def type_into(one, field, text):
    one.window.run("go_to_field", field)
    QApplication.focusWidget().selectAll()
    QTest.keyClicks(QApplication.focusWidget(), text)
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)


def limit(one):
    return one.bench.current.plan.pressure.limit_kpa


def test_steps_come_back_before_the_figure_typed_before_them_and_raising_a_limit_asks(demo, qtbot):
    state = wheel(demo, "Sandpiper 2 · front")
    window, panel = demo.window, demo.window.page.now
    assert state.progress.stage == "seat" and limit(demo) == 340
    type_into(demo, "tire.max_pressure_kpa", "2.0")
    assert limit(demo) == 200
    panel.figure.setText("1.5")
    window.run("did_not")
    tries = len(demo.bench.current.progress.seating.tries)
    # the attempt was last: it comes back, the limit stays
    assert undo(demo) == "Undone: Seating, 1.50 bar: not yet. Ctrl+Shift+Z does it again."
    assert len(demo.bench.current.progress.seating.tries) == tries - 1 and limit(demo) == 200
    assert redo(demo).startswith("Done again: Seating, 1.50 bar")
    assert len(demo.bench.current.progress.seating.tries) == tries
    undo(demo)
    # then the figure: it would raise the limit with air in the tire, so nothing happens before an answer
    undo(demo)
    assert (
        limit(demo) == 200
        and panel._action.text() == "This would raise the limit from 2.00 bar to 3.40 bar"
    )
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)  # Enter keeps
    assert limit(demo) == 200 and demo.window.views.looking.question is None
    undo(demo)
    QTest.mouseClick(panel._buttons[1], Qt.MouseButton.LeftButton)
    assert limit(demo) == 340 and demo.bench.message.startswith("Undone: Tire's max pressure 2 bar")
    # what was taken back stays in the log, marked, and in the data
    window.run("show_log")
    texts = window.page.side.log.entries._texts
    assert any(text.endswith("not yet · taken back") for text in texts)
    qtbot.waitUntil(lambda: not demo.worker.waiting, timeout=10000)
    log = next(j for j in snapshot(demo._file).jobs if j.job_id == state.job.job_id).log
    assert sum(isinstance(item.entry, TakenBack) for item in log) == 3


def test_stock_settings_and_a_wheel_off_the_bench_come_back_in_order(demo, qtbot):
    bench = demo.bench
    tape = next(item for item in bench.shelf.items if item.name == "Ebb tape 31")
    state = wheel(demo, "Kiosk")
    bench.shelf.count(tape.item_id, 900.0, tape.stock)
    demo.window.go_to("practice")
    demo.window.page_of("practice").choices["dose"].buttons["lean"].click()
    demo.window.go_to("bench")
    demo.window.run("archive")
    assert bench.wheel(state.key) is None and "Ctrl+Z puts it back" in bench.message
    assert undo(demo) == "Undone: Kiosk upright 4 · rear off the bench. Ctrl+Shift+Z does it again."
    assert bench.current.key == state.key
    assert undo(demo).startswith("Undone: How much sealant? lean")
    assert bench.shop.practice.dose == "standard"
    assert undo(demo).startswith("Undone: count of Ebb tape 31, −0.9")
    stock = {item.name: item.stock for item in bench.shelf.items}
    assert stock["Ebb tape 31"] == tape.stock
    assert undo(demo) == "Nothing to undo"
    for _ in range(3):
        redo(demo)
    assert bench.wheel(state.key) is None and bench.shop.practice.dose == "lean"
    undo(demo)
    qtbot.waitUntil(lambda: not demo.worker.waiting, timeout=10000)
    result = snapshot(demo._file)
    assert any(job.job_id == state.job.job_id for job in result.jobs)
    assert result.settings["practice.dose"] == "lean"


def test_sealant_taken_back_goes_back_to_the_shelf_once(demo, qtbot):
    """A dose and a later one: each taken back gives back its own, done again takes it again."""
    from inner_rim.core.record.log import Dose

    bench = demo.bench
    wheel(demo, "Sandpiper 2 · front")
    name = bench.current.ride_job.shelf.sealant.name

    def stock():
        return next(item.stock for item in bench.shelf.items if item.name == name)

    full = stock()
    for ml in (60.0, 15.0):
        bench.recorder.record(Dose(dose_ml=ml, name=name))
    assert stock() == full - 75
    undo(demo)
    assert stock() == full - 60
    undo(demo)
    assert stock() == full
    redo(demo)
    assert stock() == full - 60
    qtbot.waitUntil(lambda: not demo.worker.waiting, timeout=10000)
    bench.shelf.load()
    qtbot.waitUntil(lambda: not demo.worker.waiting, timeout=10000)
    QApplication.processEvents()
    assert stock() == full - 60


def test_a_limit_is_not_raised_by_undo_while_a_failed_try_may_have_left_air_in(demo):
    """A spot was low at 1.4 bar: the air was not said to be out."""
    state = wheel(demo, "Sandpiper 2 · front")
    type_into(demo, "tire.max_pressure_kpa", "2.0")
    assert limit(demo) == 200
    demo.bench.recorder.attempt("one_low", 140.0, (3,))
    assert demo.bench.current.key == state.key and has_air(demo.bench.current)
    demo.bench.recorder.attempt("no_pressure", 5.0)
    assert not has_air(demo.bench.current)
