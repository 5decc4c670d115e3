import threading

import pytest

from inner_rim.store.errors import ChangedElsewhere, StoreLocked
from inner_rim.work import keeper as keepers
from inner_rim.work.keeper import Keeper


class FakeStore:
    """Counts changes as the database does."""

    def __init__(self):
        self.writes, self.foreign, self.log, self.closed = 0, 0, [], False

    def change(self):
        return self.writes + self.foreign

    def write(self, what):
        self.writes += 1
        self.log.append(what)

    def close(self):
        self.closed = True


class Ears:
    def __init__(self):
        self.troubles, self.elsewhere, self.bugs = [], threading.Event(), []
        self.bug = threading.Event()

    def on_store_trouble(self, fault):
        self.troubles.append(fault and type(fault).__name__)

    def on_changed_elsewhere(self):
        self.elsewhere.set()

    def on_bug(self, fault):
        self.bugs.append(fault)
        self.bug.set()


@pytest.fixture
def made(monkeypatch):
    monkeypatch.setattr(keepers, "LOOK_SECONDS", 0.02)
    monkeypatch.setattr(keepers, "RETRY_SECONDS", 0.02)
    store, ears = FakeStore(), Ears()
    keeper = Keeper(lambda: store, lambda call: call(), ears)
    yield keeper, store, ears
    if keeper._thread.is_alive():
        keeper.stop()


def test_orders_are_done_in_sequence_and_results_come_back(made):
    keeper, store, _ears = made
    got = []
    for n in range(50):
        keeper.order(lambda s, n=n: s.write(n) or n, got.append)
    keeper.start()
    assert keeper.stop()
    assert store.log == got == list(range(50)) and store.closed and keeper.waiting == 0


def test_a_passing_fault_is_tried_again_in_place_and_said_once(made):
    keeper, store, ears = made
    left = [5]

    def flaky(s):
        if left[0]:
            left[0] -= 1
            raise StoreLocked("in use")
        s.write("first")

    keeper.order(flaky)
    keeper.order(lambda s: s.write("second"))
    done = threading.Event()
    keeper.order(lambda s: done.set())
    keeper.start()
    assert done.wait(5)
    assert store.log == ["first", "second"] and ears.troubles == ["StoreLocked", None]


def test_a_fault_that_does_not_pass_goes_to_who_asked(made):
    keeper, _store, _ears = made
    faults, done = [], threading.Event()

    def conflict(s):
        raise ChangedElsewhere(7)

    keeper.order(conflict, failed=faults.append)
    keeper.order(lambda s: done.set())
    keeper.start()
    assert done.wait(5) and faults[0].job_id == 7


def test_changes_by_others_are_heard_and_our_own_are_not(made):
    keeper, store, ears = made
    seen = threading.Event()
    keeper.order(lambda s: s.write("ours"))
    keeper.order(lambda s: seen.set())
    keeper.start()
    assert seen.wait(5) and not ears.elsewhere.is_set()
    store.foreign += 1
    assert ears.elsewhere.wait(5)


def test_what_changed_between_the_first_look_and_the_opening_is_heard(made):
    keeper, store, ears = made
    keeper.seen(0)
    store.foreign = 3  # another window was at work meanwhile
    keeper.start()
    assert ears.elsewhere.wait(5)


def test_work_left_undone_at_a_stop_is_done_first_after_it(made):
    keeper, store, _ears = made
    full = [True]

    def first(s):
        if full[0]:
            raise StoreLocked("in use")
        s.write("first")

    keeper.order(first)
    keeper.order(lambda s: s.write("second"))
    keeper.start()
    assert not keeper.stop(5) and keeper.waiting == 2
    full[0] = False
    keeper.resume()
    assert keeper.stop(5) and store.log == ["first", "second"]


def test_a_store_that_cannot_be_opened_is_tried_until_it_can(monkeypatch):
    monkeypatch.setattr(keepers, "RETRY_SECONDS", 0.02)
    store, ears, tries = FakeStore(), Ears(), []

    def open_store():
        tries.append(1)
        if len(tries) < 4:
            raise StoreLocked("in use")
        return store

    keeper = Keeper(open_store, lambda call: call(), ears)
    done = threading.Event()
    keeper.order(lambda s: done.set())
    keeper.start()
    assert done.wait(5) and len(tries) == 4
    assert keeper.stop()


def test_a_bug_is_not_swallowed(made):
    keeper, _store, ears = made
    keeper.order(lambda s: 1 / 0)
    keeper.start()
    assert ears.bug.wait(5) and isinstance(ears.bugs[0], ZeroDivisionError)
