"""What is typed in one burst goes to the store together: in its order, whole, and as soon as no key comes."""

import threading

import pytest

from inner_rim.core.record.log import Note
from inner_rim.core.record.operations import JOB, SetField
from inner_rim.store.database import sqlite_url
from inner_rim.store.errors import StoreDamaged, StoreFull
from inner_rim.store.repository import Repository
from inner_rim.work.editing import sync
from tests.desk import Desk, check_in


class Heard(Repository):
    """A real store that says what it was asked for, and fails while it is told to."""

    def __init__(self, file, asked, fault):
        super().__init__(sqlite_url(file))
        self.asked, self.fault = asked, fault

    def edit(self, job_id, operations, now, uid=""):
        self.asked.append([one.path for one in operations])
        if self.fault:
            raise self.fault[0]
        return super().edit(job_id, operations, now, uid)

    def append(self, *entry):
        self.asked.append("entry")
        return super().append(*entry)


@pytest.fixture
def desk(tmp_path):
    """A desk with a wheel checked in; `asked` is what the store is asked for from then on."""
    asked, fault, file = [], [], tmp_path / "inner-rim.sqlite"
    one = Desk(file, open_store=lambda: Heard(file, asked, fault))
    one.asked, one.fault, one.file = asked, fault, file
    one.settle()
    check_in(one.bench)
    one.settle()
    asked.clear()
    yield one
    fault.clear()
    one.worker.stop()


def held(desk):
    """Keep the worker busy until the returned event is set."""
    go, there = threading.Event(), threading.Event()

    def wait(_store):
        there.set()
        assert go.wait(10)

    desk.worker.submit(wait)
    assert there.wait(10)
    return go


def widths(desk, *texts):
    for text in texts:
        desk.bench.editor.type_into("rim.internal_width_mm", text)


def stored_wheel(file):
    store = Repository(sqlite_url(file))
    try:
        (job,) = store.bench().jobs
        return job.document["wheels"][0], [item.entry for item in job.log]
    finally:
        store.close()


def test_what_waits_together_is_stored_together_and_nothing_overtakes(desk):
    bench = desk.bench
    go = held(desk)
    widths(desk, "25", "26")
    bench.editor.type_into("rim.spokes", "28")
    bench.recorder.record(Note(text="between"))
    widths(desk, "27", "28")
    go.set()
    desk.settle()
    width = "rim.internal_width_mm"
    assert desk.asked == [[width, "rim.spokes"], "entry", [width]]
    wheel, log = stored_wheel(desk.file)
    assert wheel["rim"]["internal_width_mm"] == 28 and wheel["rim"]["spokes"] == 28
    assert log == [Note(text="between")] and not bench.jobs[0].pending


def test_edits_of_two_jobs_are_not_mixed(desk):
    bench = desk.bench
    check_in(bench)
    desk.settle()
    desk.asked.clear()
    go = held(desk)
    for job, bike in zip(bench.jobs, ("Tern", "Gull"), strict=True):
        bench.sync.edit(job, [SetField(JOB, "bike", bike, None)])
    go.set()
    desk.settle()
    assert len(desk.asked) == 2
    store = Repository(sqlite_url(desk.file))
    assert {job.document["bike"] for job in store.bench().jobs} == {"Tern", "Gull"}
    store.close()


def test_a_burst_waits_for_the_hand_but_nothing_that_is_asked_waits_for_the_burst(
    desk, monkeypatch
):
    monkeypatch.setattr(sync, "REST_S", 30.0)
    monkeypatch.setattr(sync, "MAX_S", 60.0)
    desk.bench.sync.patient = True
    widths(desk, "25", "26", "27", "28", "29")
    assert desk.asked == []
    answered = threading.Event()
    desk.worker.submit(lambda store: store.change(), lambda _change: answered.set())
    widths(desk, "25")  # after the question: it does not overtake it
    desk.wait(answered.is_set, seconds=10)
    monkeypatch.setattr(sync, "REST_S", 0.0)
    desk.settle()
    assert desk.asked == [["rim.internal_width_mm"]] * 2


def test_a_hand_that_never_rests_does_not_keep_it_from_the_store(desk, monkeypatch):
    monkeypatch.setattr(sync, "REST_S", 30.0)
    monkeypatch.setattr(sync, "MAX_S", 0.05)
    desk.bench.sync.patient = True
    widths(desk, "25", "26")
    desk.settle()
    assert desk.asked and stored_wheel(desk.file)[0]["rim"]["internal_width_mm"] == 26


def test_a_burst_that_cannot_be_stored_is_kept_whole_in_words_and_content_and_stored_at_the_next_try(
    desk,
):
    bench = desk.bench
    go = held(desk)
    desk.fault.append(StoreDamaged("A page is damaged."))
    widths(desk, "25", "26")
    bench.editor.type_into("rim.spokes", "28")
    go.set()
    desk.wait(lambda: bench.sync.kept)
    (kept,) = bench.sync.kept
    assert "rim.internal_width_mm, rim.spokes" in kept.words
    assert [one["path"] for one in kept.content["operations"]] == desk.asked[0]
    widths(desk, "27")  # it has begun: what is typed now is stored by itself
    desk.wait(lambda: len(bench.sync.kept) == 2)
    desk.fault.clear()
    desk.worker.try_again()
    desk.settle(lambda: not bench.sync.kept)
    rim = stored_wheel(desk.file)[0]["rim"]
    assert rim["internal_width_mm"] == 27 and rim["spokes"] == 28


def test_what_could_not_be_stored_stays_in_view_though_what_came_after_it_is_stored(desk):
    bench = desk.bench
    desk.fault.append(StoreDamaged("A page is damaged."))
    bench.editor.type_into("rim.spokes", "28")
    desk.wait(lambda: bench.sync.kept)
    desk.fault.clear()
    widths(desk, "27")
    desk.settle()
    assert stored_wheel(desk.file)[0]["rim"]["internal_width_mm"] == 27
    assert bench.current.value("rim.spokes") == 28 and bench.jobs[0].pending
    desk.worker.try_again()
    desk.settle(lambda: not bench.sync.kept)
    assert stored_wheel(desk.file)[0]["rim"]["spokes"] == 28 and not bench.jobs[0].pending


def test_a_full_disk_in_the_middle_of_a_burst_loses_nothing_of_it(desk):
    desk.fault.append(StoreFull("The disk is full."))
    widths(desk, "25")
    desk.wait(lambda: desk.bench.sync.fault is not None)
    widths(desk, "26", "27")
    desk.fault.clear()
    desk.settle(lambda: desk.bench.sync.fault is None)
    assert stored_wheel(desk.file)[0]["rim"]["internal_width_mm"] == 27
    assert not desk.bench.jobs[0].pending
