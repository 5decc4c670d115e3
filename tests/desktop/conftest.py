from datetime import UTC, datetime

import pytest
from PyQt6.QtWidgets import QMessageBox

from inner_rim.desktop import app as app_module
from inner_rim.desktop.app import Session
from inner_rim.desktop.commands import keyboard
from inner_rim.desktop.widgets.theme import load_font
from inner_rim.work import bench as bench_module
from inner_rim.work.storage import demo as demo_data
from inner_rim.work.tasks import day_plan

#: When the program thinks it is as a test begins, whenever it runs: a Tuesday morning.
MORNING = datetime(2026, 11, 24, 9, tzinfo=UTC)
#: Jobs of the demo's past that a test sees, where it is not marked `past`; the newest ones.
FEW_JOBS = 3


@pytest.fixture
def session(qtbot, qapp, own_home, monkeypatch, request):
    """The real window on a real file, the worker running; several may be opened on the same data.

    Tests press keys faster than a hand: only the test of bounces waits as a hand does. Eight months of the demo's past
    are read only where a test looks at them, and a better plan is not looked for while a page stays open.
    """
    late = MORNING - datetime.now(UTC)

    class Clock(datetime):
        @classmethod
        def now(cls, tz=None):
            return datetime.now(tz) + late

    for module in (app_module, bench_module):
        monkeypatch.setattr(module, "datetime", Clock)
    monkeypatch.setattr(keyboard, "BOUNCE_MS", 0)
    monkeypatch.setattr(app_module, "REST_S", 0.0)
    monkeypatch.setattr(day_plan, "MAX_EFFORT", day_plan.EFFORT)
    if request.node.get_closest_marker("past") is None:
        whole = demo_data.past_jobs
        monkeypatch.setattr(demo_data, "past_jobs", lambda now: whole(now)[-FEW_JOBS:])
    load_font()
    opened = []

    def asked(_parent, _title, words, *_more):
        raise AssertionError(f"the window asks, and nobody answers: {words}")

    monkeypatch.setattr(QMessageBox, "warning", asked)

    def open_session(demo=False, well=True):
        one = Session(own_home, demo=demo)
        opened.append(one)
        one.show()
        qtbot.addWidget(one.shell)
        qtbot.waitUntil(lambda: one._started and not (well and one.worker.waiting), timeout=10000)
        # tests change the bench from outside and look at once
        one.bench.subscribe(one.window.turns.render)
        return one

    yield open_session
    for one in opened:
        one.finish()


@pytest.fixture
def demo(session, qtbot):
    """The demo in the real window, its shelf read."""
    one = session(demo=True)
    qtbot.waitUntil(lambda: one.bench.shelf.loaded)
    return one


#: Read by the Python of the system, see `test_accessible_tree`.
collect_ignore = ["read_tree.py", "tree.py", "walk_tree.py"]
