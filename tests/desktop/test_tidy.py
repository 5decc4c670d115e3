import gc
import weakref

from PyQt6.QtTest import QTest


class Ring:
    """Garbage that only the collector finds."""

    def __init__(self):
        self.self = self


def test_no_garbage_is_collected_between_key_and_paint_and_all_of_it_in_the_next_pause(demo, qtbot, qapp):
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
        assert len(looks) <= 4  # a slow machine makes a pause of its own; Python itself looks 25 times
        qtbot.waitUntil(lambda: ring() is None, timeout=5000)
        assert looks
    finally:
        gc.callbacks.remove(look)
    demo.finish()
    assert gc.get_threshold()[0] < 5000  # Python looks after it again
