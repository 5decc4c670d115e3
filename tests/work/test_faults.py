"""A full disk, a second window, a pulled gauge: the shelf, the logbook and a try at seating lose nothing."""

import threading
import time

import pytest

from inner_rim.core.log import Attempt, Note, Reading
from inner_rim.core.parts import item_from
from inner_rim.store.errors import StoreFull, StoreLocked
from inner_rim.store.repository import Repository, sqlite_url
from inner_rim.work.bench import Bench
from inner_rim.work.keeper import Keeper
from tests.work.test_bench import Desk, check_in, desk  # noqa: F401 - a fixture


class SickShelf:
    def __init__(self, real, state):
        self._real, self._state = real, state

    def __getattr__(self, name):
        if self._state["fault"] is not None and name in ("put", "put_many", "book_out", "give_back"):
            raise self._state["fault"]
        return getattr(self._real, name)


class SickStore:
    """A real store whose writes fail while `state["fault"]` is set."""

    def __init__(self, real, state):
        self._real, self._state = real, state
        self.shelf = SickShelf(real.shelf, state)

    def __getattr__(self, name):
        if self._state["fault"] is not None and name in ("create", "save", "append", "set_setting"):
            raise self._state["fault"]
        return getattr(self._real, name)


@pytest.fixture
def sick(tmp_path):
    """A desk on a real file whose writes can be made to fail, and what makes them."""
    state = {"fault": None}
    file = tmp_path / "inner-rim.sqlite"
    one = Desk.__new__(Desk)
    one.calls, one.lock, one.bench = [], threading.Lock(), Bench()
    one.keeper = one.bench.keeper = Keeper(
        lambda: SickStore(Repository(sqlite_url(file)), state), one._deliver, one.bench
    )
    one.keeper.start()
    one.bench.shelf.load()
    one.settle()
    yield one, state, file
    state["fault"] = None
    one.keeper.stop()


def hear(one, until):
    deadline = time.monotonic() + 10
    while not until() and time.monotonic() < deadline:
        with one.lock:
            calls, one.calls = one.calls, []
        for call in calls:
            call()
    assert until()


def tape(name="Ebb tape 27", stock=9000.0):
    return item_from("tape", {"name": name, "width_mm": 27}, stock=stock)


@pytest.mark.parametrize("fault", [StoreFull("The disk is full."), StoreLocked("The file is in use.")])
def test_a_part_counted_on_a_sick_disk_is_stored_when_it_is_well(sick, fault):
    one, state, file = sick
    state["fault"] = fault
    one.bench.shelf.put(tape())
    hear(one, lambda: one.bench.trouble is not None)
    assert one.bench.trouble.sentence == fault.sentence
    state["fault"] = None
    one.settle(lambda: one.bench.trouble is None)
    assert [item.name for item in one.bench.shelf.items] == ["Ebb tape 27"]
    stored = Repository(sqlite_url(file))
    assert stored.shelf.all()[0].stock == 9000.0
    stored.close()


def test_log_stock_and_settings_keep_their_order_through_a_full_disk(sick):
    one, state, file = sick
    one.bench.shelf.put(tape())
    check_in(one.bench)
    one.settle()
    state["fault"] = StoreFull("The disk is full.")
    one.bench.finish_stage("check_in")
    for stage in ("strip", "tape"):
        one.bench.finish_stage(stage)
    one.bench.set_practice("dose", "lean")
    one.bench.note("last")
    hear(one, lambda: one.bench.trouble is not None)
    state["fault"] = None
    one.settle(lambda: one.bench.trouble is None)
    stored = Repository(sqlite_url(file))
    bench = stored.bench()
    kinds = [type(item.entry).__name__ for item in bench.jobs[0].log]
    assert kinds == ["StepEntry"] * 3 + ["Note"] and bench.settings["practice"] == {"dose": "lean"}
    assert stored.shelf.all()[0].stock == pytest.approx(9000.0 - one.bench.current.plan.tape.length_mm)
    assert [hit.item.entry for hit in stored.logbook.search("last")] == [Note(text="last")]
    stored.close()


def test_a_duplicate_part_of_another_window_is_a_sentence_and_blocks_nothing(desk):  # noqa: F811
    one, two = desk(), desk()
    two.bench.shelf.load()
    two.settle()
    one.bench.shelf.put(tape())
    one.settle()
    said = []
    two.bench.shelf.put(tape(), failed=said.append)  # not knowing of the other
    two.settle(until=lambda: bool(said))
    assert "on the shelf already" in said[0]
    two.bench.shelf.put(tape("Ebb tape 28"))
    two.settle(until=lambda: len(two.bench.shelf.items) == 2)


def test_a_try_that_the_gauge_left_half_way_is_logged_with_what_was_read(desk):  # noqa: F811
    one = desk()
    check_in(one.bench)
    for stage in ("check_in", "strip", "tape", "valve", "mount", "sealant"):
        one.bench.finish_stage(stage)
    for i in range(40):  # then its cable is pulled
        one.bench.gauge.take(5.0 * i, 0.1 * i, 340.0)
    one.bench.attempt("not_up", 0.0)
    one.settle()
    again = desk().bench.current
    entry = again.log[-1].entry
    assert isinstance(entry, Attempt) and entry.peak_kpa == 195.0 and entry.trace[-1][1] == 195.0
    assert again.progress.tries == (entry,)


def test_readings_of_two_windows_are_one_hold(desk):  # noqa: F811
    one, two = desk(), None
    check_in(one.bench)
    one.bench.finish_stage("check_in")
    one.settle()
    two = desk()
    two.bench.read_gauge(300.0, 20.0)
    two.settle()
    one.settle(lambda: any(isinstance(i.entry, Reading) for i in one.bench.current.log))
    one.bench.read_gauge(298.0, 20.0)
    one.settle()
    assert [r[1] for r in one.bench.current.progress.readings] == [300.0, 298.0]


def test_a_wheel_put_away_comes_back_with_its_story(desk):  # noqa: F811
    one = desk()
    check_in(one.bench)
    one.bench.note("before")
    one.settle()
    job_id = one.bench.current.job.stored_id
    one.bench.put_away()
    one.settle(lambda: one.bench.current is None)
    one.bench.take_out(job_id, 0)
    one.settle(lambda: one.bench.current is not None)
    assert [i.entry for i in one.bench.current.log] == [Note(text="before")]
    one.bench.take_out(999, 0)
    one.settle(lambda: "no such wheel" in one.bench.message)
