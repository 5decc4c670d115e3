"""A bench with its worker on real data, for tests that need no window."""

import threading
import time

from inner_rim.work.bench import Bench
from inner_rim.work.storage.demo import demo_bench, demo_shelf
from inner_rim.work.storage.source import opener
from inner_rim.work.storage.worker import StoreWorker


class Desk:
    """A bench with its worker on a real file, or on a database by its URL; callbacks come back through `settle`."""

    def __init__(self, file, url=None, open_store=None, settings_file=None):
        self.calls, self.lock, self.traces = [], threading.Lock(), []
        self.bench = Bench(settings_file=settings_file)
        open_store = open_store or opener(file, url)
        self.worker = StoreWorker(open_store, self._run_in_ui, self.bench.sync, self.traces.append)
        self.bench.worker = self.worker
        self.worker.start()
        self.bench.sync.reload()
        self.bench.shelf.load()

    def _run_in_ui(self, call):
        with self.lock:
            self.calls.append(call)

    def hear(self):
        """Run what has come back so far; return whether anything has."""
        with self.lock:
            calls, self.calls = self.calls, []
        for call in calls:
            call()
        return bool(calls)

    def settle(self, until=lambda: True, seconds=15):
        """Wait until everything is stored and heard of, and something holds."""
        self.wait(lambda: not self.worker.waiting and not self.calls and until(), seconds)

    def wait(self, until, seconds=15):
        """Wait until something holds, stored or not."""
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            if not self.hear() and until():
                return
            threading.Event().wait(0.002)
        raise AssertionError("it did not come to that")


def check_in(bench):
    """Type what a wheel needs."""
    bench.editor.new_wheel()
    for field, text in (
        ("rim.bead_seat_diameter_mm", "622"),
        ("rim.internal_width_mm", "24"),
        ("rim.hook", "hooked"),
        ("tire.size", "45-622"),
        ("tire.max_pressure_kpa", "3.4"),
    ):
        bench.editor.type_into(field, text)


def demo_on_bench(now, shelf=True):
    """Return a bench in memory with the demo on it; `moved[0]` is its clock."""
    clock = [now]
    made = Bench(clock=lambda: clock[0])
    made.sync.adopt(demo_bench(now))
    if shelf:
        made.shelf.adopt(demo_shelf())
    made.moved = clock
    return made


def select_wheel(bench, name):
    """Select the wheel whose name begins so, and return it."""
    state = next(s for s in bench.wheels if s.name.startswith(name))
    bench.select(state.key)
    return state
