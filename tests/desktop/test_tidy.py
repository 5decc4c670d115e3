import gc
import weakref

from PyQt6 import sip
from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from inner_rim.desktop.widgets.base import any_going


class Ring:
    """Garbage that only the collector finds."""

    def __init__(self):
        self.self = self


def test_no_garbage_is_collected_between_key_and_paint_and_all_of_it_in_the_next_pause(
    demo, qtbot, qapp
):
    demo.window.run("go_to_field", "rim.internal_width_mm")
    entry = qapp.focusWidget()
    looks = []

    def look(phase, told):
        looks.append((phase, told["generation"]))

    qtbot.waitUntil(lambda: gc.get_count()[0] < 700)  # what opening left behind is gone
    gc.callbacks.append(look)
    try:
        ring = weakref.ref(Ring())
        for n in range(40):
            entry.selectAll()
            for letter in f"2{n % 6}.{n % 10}":
                QTest.keyClick(entry, letter)
                qapp.processEvents()
        # a slow machine makes a pause of its own; Python itself looks 25 times
        assert len(looks) <= 4
        qtbot.waitUntil(lambda: ring() is None, timeout=5000)
        assert looks
    finally:
        gc.callbacks.remove(look)
    demo.finish()
    assert gc.get_threshold()[0] < 5000  # Python looks after it again


def test_a_field_that_was_let_go_hears_nothing_while_a_dialog_is_open(
    demo, qtbot, qapp, monkeypatch
):
    """Deleted widgets live until a dialog opened after them closes; the collector runs meanwhile."""
    bench, window = demo.bench, demo.window
    window.run("go_to_field", "rim.internal_width_mm")
    entry = qapp.focusWidget()
    before, typed = bench.current.job.draft, []
    window.page.inputs.typed.connect(lambda *told: typed.append(told))

    def open_dialog(*_args, **_options):
        loop = QEventLoop()
        QTimer.singleShot(100, loop.quit)
        loop.exec()
        assert not sip.isdeleted(entry) and any_going()
        gc.collect()
        QTest.keyClicks(entry, "99")
        entry.textEdited.emit("99")
        return "", ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", open_dialog)

    def change_theme_and_save():
        window.run("theme", "")
        window.run("export", "")

    QTimer.singleShot(0, change_theme_and_save)
    qtbot.waitUntil(lambda: sip.isdeleted(entry) and not any_going())
    assert not typed and bench.current.job.draft == before
