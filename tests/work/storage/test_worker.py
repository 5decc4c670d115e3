"""The store worker: in order, never dead, and honest about what is not stored."""

import threading

import pytest

from inner_rim.store.errors import (
    StoreDamaged,
    StoreFailed,
    StoreForeign,
    StoreFull,
    StoreLocked,
    StoreNewer,
    StoreReadOnly,
    StoreRefused,
    StoreReplaced,
)
from inner_rim.work.storage import worker as workers
from inner_rim.work.storage.worker import StoreWorker


class FakeStore:
    """Counts changes as the database does."""

    def __init__(self, read_only=False):
        self.writes, self.foreign, self.log, self.closed, self.read_only = 0, 0, [], 0, read_only

    def change(self):
        return self.writes + self.foreign

    def write(self, what):
        self.writes += 1
        self.log.append(what)

    def close(self):
        self.closed += 1


class Ears:
    def __init__(self):
        self.faults, self.kept, self.notices, self.reads = [], (), [], []
        self.elsewhere, self.replaced = threading.Event(), []

    def on_store_fault(self, fault):
        self.faults.append(fault and type(fault).__name__)

    def on_kept(self, kept):
        self.kept = kept

    def on_changed_elsewhere(self):
        self.elsewhere.set()

    def on_replaced(self, why):
        self.replaced.append(why)

    def on_notice(self, words):
        self.notices.append(words)

    def on_failed_read(self, fault):
        self.reads.append(fault.sentence)


@pytest.fixture
def made(monkeypatch):
    monkeypatch.setattr(workers, "LOOK_SECONDS", 0.02)
    monkeypatch.setattr(workers, "RETRY_SECONDS", 0.02)
    store, ears, traces = FakeStore(), Ears(), []
    worker = StoreWorker(lambda: store, lambda call: call(), ears, traces.append)
    worker.traces = traces
    yield worker, store, ears
    worker.stop()


def done_with(worker):
    """Wait until what was submitted so far is done with."""
    reached = threading.Event()
    worker.submit(lambda s: reached.set())
    assert reached.wait(5)


def raises(fault):
    def work(store):
        raise fault

    return work


def test_tasks_are_done_in_sequence_and_results_come_back(made):
    worker, store, _ears = made
    got = []
    for n in range(50):
        worker.submit(lambda s, n=n: s.write(n) or n, got.append)
    worker.start()
    assert worker.stop()
    assert store.log == got == list(range(50)) and store.closed and worker.waiting == 0


def test_a_passing_fault_is_tried_again_in_place_and_said_once(made):
    worker, store, ears = made
    left = [5]

    def flaky(s):
        if left[0]:
            left[0] -= 1
            raise StoreLocked("in use")
        s.write("first")

    worker.submit(flaky)
    worker.submit(lambda s: s.write("second"))
    worker.start()
    done_with(worker)
    assert store.log == ["first", "second"] and ears.faults == ["StoreLocked", None]


@pytest.mark.parametrize(
    "fault",
    [
        StoreDamaged("damaged"),
        StoreRefused("odd"),
        ZeroDivisionError("bug"),
        KeyError("x"),
        MemoryError(),
    ],
)
def test_what_will_never_be_stored_is_kept_with_its_cause_and_later_tasks_go_on(made, fault):
    worker, store, ears = made
    worker.start()
    worker.submit(raises(fault), words="Log entry of Tern", content={"text": "as found"})
    worker.submit(lambda s: s.write("later"))
    done_with(worker)
    (kept,) = worker.kept
    assert (
        kept.words == "Log entry of Tern"
        and kept.content == {"text": "as found"}
        and kept.fault.sentence
    )
    assert store.log == ["later"] and ears.kept == (kept,)  # a success elsewhere does not clear it
    if not hasattr(fault, "sentence"):
        assert isinstance(kept.fault, StoreFailed) and "Traceback" in worker.traces[0]
    assert not worker.stop() and worker.waiting == 0  # closing asks


def test_what_is_kept_can_be_tried_again_or_let_go_of(made):
    worker, store, ears = made
    broken = [True]

    def work(s):
        if broken[0]:
            raise StoreDamaged("damaged")
        s.write("stored")

    worker.start()
    worker.submit(work, words="a")
    worker.submit(work, words="b")
    done_with(worker)
    assert [kept.words for kept in ears.kept] == ["a", "b"]
    worker.try_again()
    done_with(worker)
    assert [kept.words for kept in ears.kept] == ["a", "b"]
    broken[0] = False
    worker.try_again()
    done_with(worker)
    assert store.log == ["stored", "stored"] and ears.kept == ()
    broken[0] = True
    worker.submit(work, words="c")
    done_with(worker)
    worker.discard()
    assert ears.kept == () and worker.stop()


def test_a_question_that_fails_is_said_and_nothing_is_kept(made):
    worker, _store, ears = made
    worker.start()
    failed = []
    worker.submit(raises(ZeroDivisionError()))
    worker.submit(
        raises(StoreRefused("odd")),
        failed=lambda fault: failed.append(fault.sentence),
        words="a part",
    )
    done_with(worker)
    assert len(ears.reads) == 1 and failed == ["odd"] and worker.kept == ()


def test_changes_by_others_are_heard_and_our_own_are_not(made):
    worker, store, ears = made
    worker.submit(lambda s: s.write("ours"))
    worker.start()
    done_with(worker)
    assert not ears.elsewhere.is_set()
    store.foreign += 1
    assert ears.elsewhere.wait(5)


def test_what_changed_between_the_first_look_and_the_opening_is_heard(made):
    worker, store, ears = made
    worker.seen(0)
    store.foreign = 3  # another window was at work meanwhile
    worker.start()
    assert ears.elsewhere.wait(5)


def test_work_left_undone_at_a_stop_is_done_first_after_it(made):
    worker, store, _ears = made
    full = [True]

    def first(s):
        if full[0]:
            raise StoreFull("full")
        s.write("first")

    worker.submit(first, words="first")
    worker.submit(lambda s: s.write("second"), words="second")
    worker.start()
    assert not worker.stop(5) and worker.waiting == 2
    full[0] = False
    worker.resume()
    assert worker.stop(5) and store.log == ["first", "second"]


def test_a_store_that_cannot_be_opened_is_tried_until_it_can_whatever_the_reason(monkeypatch):
    monkeypatch.setattr(workers, "RETRY_SECONDS", 0.02)
    store, ears, tries = FakeStore(), Ears(), []

    def open_store():
        tries.append(1)
        if len(tries) < 4:
            raise [StoreLocked("in use"), OSError("odd"), StoreDamaged("damaged")][len(tries) - 1]
        return store

    worker = StoreWorker(open_store, lambda call: call(), ears)
    worker.start()
    done_with(worker)
    assert len(tries) == 4 and ears.faults == ["StoreLocked", "StoreFailed", "StoreDamaged", None]
    assert worker.stop()


def test_a_read_only_medium_says_so_from_the_start_and_is_opened_anew_when_it_must_be_written(
    monkeypatch,
):
    monkeypatch.setattr(workers, "RETRY_SECONDS", 0.02)
    monkeypatch.setattr(workers, "LOOK_SECONDS", 0.02)
    stores, ears = [FakeStore(read_only=True), FakeStore()], Ears()
    opened = []

    def open_store():
        opened.append(stores[min(len(opened), 1)])
        return opened[-1]

    def write(s):
        if s.read_only:
            raise StoreReadOnly("read-only")
        s.write("at last")

    worker = StoreWorker(open_store, lambda call: call(), ears)
    worker.start()
    done_with(worker)
    assert ears.faults == ["StoreReadOnly"]
    worker.submit(write)
    done_with(worker)
    assert stores[1].log == ["at last"] and ears.faults[-1] is None and stores[0].closed
    assert worker.stop()


def test_the_data_are_closed_while_a_backup_is_put_back_and_the_window_hears_of_it(made):
    worker, store, ears = made
    worker.start()
    done_with(worker)
    seen = []
    worker.reopen(lambda: seen.append(store.closed))
    assert ears.elsewhere.wait(5) and seen == [1] and not ears.replaced
    worker.reopen(lambda: seen.append(store.closed), replaced=True)
    done_with(worker)
    assert ears.replaced == [""] and seen == [1, 2]


def test_what_was_meant_for_the_data_before_a_restore_is_kept_and_not_stored(monkeypatch):
    """Until the window has heard of it, what it submits is of what it still shows."""
    monkeypatch.setattr(workers, "LOOK_SECONDS", 0.02)
    stores, ears, calls = [FakeStore(), FakeStore()], Ears(), []
    opened = iter(stores)
    worker = StoreWorker(lambda: next(opened), calls.append, ears)
    worker.start()
    done_with(worker)
    worker.submit(raises(StoreReplaced("restored elsewhere")), words="edit one", content=1)
    worker.submit(lambda store: store.write("edit two"), words="edit two", content=2)
    done_with(worker)
    assert (
        [kept.content for kept in worker.kept] == [1, 2] and stores[0].closed and not stores[1].log
    )
    for call in calls:
        call()
    assert ears.replaced == ["restored elsewhere"]
    worker.submit(lambda store: store.write("edit three"), words="edit three")
    worker.discard()
    done_with(worker)
    assert stores[1].log == ["edit three"] and worker.stop()


@pytest.mark.parametrize(
    "fault", [StoreDamaged, StoreForeign, StoreNewer, StoreReplaced, StoreFailed]
)
def test_a_fault_of_the_data_keeps_what_was_to_be_stored_whoever_answers_for_it(made, fault):
    worker, _store, ears = made
    worker.start()
    heard = []
    worker.submit(raises(fault("no")), failed=heard.append, words="count", content={"level": 3})
    done_with(worker)
    done_with(worker)
    assert [kept.content for kept in ears.kept] == [{"level": 3}] and heard == []


def test_a_notice_is_said_when_it_comes_and_when_it_goes(monkeypatch):
    monkeypatch.setattr(workers, "LOOK_SECONDS", 0.01)
    ears, words, looked = Ears(), ["No backup: the folder cannot be made."], threading.Semaphore(0)
    look = lambda store: (words[0], looked.release())[0]  # noqa: E731
    worker = StoreWorker(FakeStore, lambda call: call(), ears, every_look=look)
    worker.start()
    done_with(worker)
    words[0] = ""
    assert all(looked.acquire(timeout=20) for _ in range(4))
    assert (
        worker.stop()
        and ears.notices == ["No backup: the folder cannot be made.", ""]
        and ears.faults == []
    )


def test_storing_begins_when_the_window_has_painted_and_not_at_all_late_where_it_closes():
    store, ears, painted = FakeStore(), Ears(), threading.Event()
    worker = StoreWorker(
        lambda: store, lambda call: call(), ears, let_paint=lambda: painted.wait(20) and None
    )
    worker.start()
    stored = threading.Event()
    worker.submit(lambda s: (s.write("a"), stored.set()), words="a")
    assert not stored.wait(0.1) and store.log == []
    painted.set()
    assert stored.wait(5)
    painted.clear()
    worker.submit(lambda s: s.write("b"), words="b")
    worker.submit(lambda s: s.write("c"), words="c")
    threading.Timer(0.2, painted.set).start()  # b may wait for the paint already
    assert worker.stop()
    assert store.log == ["a", "b", "c"]


def test_a_window_that_cannot_say_whether_it_has_painted_loses_nothing():
    store, ears = FakeStore(), Ears()

    def broken():
        raise RuntimeError("gone")

    worker = StoreWorker(lambda: store, lambda call: call(), ears, let_paint=broken)
    worker.start()
    worker.submit(lambda s: s.write("a"), words="a")
    while worker.waiting:
        threading.Event().wait(0.01)
    assert [kept.words for kept in worker.kept] == ["a"] and not worker.stop()
    assert store.log == []
