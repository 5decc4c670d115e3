"""A full disk, a second window, a pulled gauge: the shelf, the logbook and a try at seating lose nothing."""

import contextlib
import os
import signal
import time
from pathlib import Path

import pytest
from sqlalchemy import text

from inner_rim.core.record.log import Attempt, Note, Reading
from inner_rim.core.record.operations import SetField
from inner_rim.core.record.parts import item_from
from inner_rim.store import database
from inner_rim.store.database import Database, sqlite_url
from inner_rim.store.errors import (
    StoreDamaged,
    StoreFailed,
    StoreForeign,
    StoreFull,
    StoreLocked,
    StoreNewer,
    StoreReadOnly,
    StoreRefused,
)
from inner_rim.store.repository import Repository
from tests.desk import Desk, check_in


class SickStore(Repository):
    """A real store whose writes fail while `state["fault"]` is set."""

    state: dict

    def __init__(self, file, state):
        super().__init__(sqlite_url(file))
        self.state = state
        writing = self.database.writing

        def sick():
            if state["fault"] is not None:
                raise state["fault"]
            return writing()

        self.database.writing = sick


@pytest.fixture
def sick(tmp_path):
    """A desk on a real file whose writes can be made to fail, and what makes them."""
    state, file = {"fault": None}, tmp_path / "inner-rim.sqlite"
    one = Desk(file, open_store=lambda: SickStore(file, state))
    one.settle()
    yield one, state, file
    state["fault"] = None
    one.worker.stop()


def tape(name="Ebb tape 27", stock=9000.0):
    return item_from("tape", {"name": name, "width_mm": 27}, stock=stock)


@pytest.mark.parametrize(
    "fault", [StoreFull("The disk is full."), StoreLocked("The file is in use.")]
)
def test_a_part_counted_on_a_sick_disk_is_stored_when_it_is_well(sick, fault):
    one, state, file = sick
    state["fault"] = fault
    one.bench.shelf.add(tape())
    one.wait(lambda: one.bench.sync.fault is not None)
    assert one.bench.sync.fault.sentence == fault.sentence
    state["fault"] = None
    one.settle(lambda: one.bench.sync.fault is None)
    assert [item.name for item in one.bench.shelf.items] == ["Ebb tape 27"]
    stored = Repository(sqlite_url(file))
    assert stored.shelf.all()[0].stock == 9000.0
    stored.close()


def test_log_stock_and_settings_keep_their_order_through_a_full_disk(sick):
    one, state, file = sick
    one.bench.shelf.add(tape())
    check_in(one.bench)
    one.settle()
    state["fault"] = StoreFull("The disk is full.")
    one.bench.recorder.finish_stage("check_in")
    for stage in ("strip", "tape"):
        one.bench.recorder.finish_stage(stage)
    one.bench.shop_methods.set("practice.dose", "lean")
    one.bench.recorder.note("last")
    one.wait(lambda: one.bench.sync.fault is not None)
    state["fault"] = None
    one.settle(lambda: one.bench.sync.fault is None)
    stored = Repository(sqlite_url(file))
    bench = stored.bench()
    kinds = [type(item.entry).__name__ for item in bench.jobs[0].log]
    assert kinds == ["StepEntry"] * 3 + ["Note"] and bench.settings["practice.dose"] == "lean"
    assert stored.shelf.all()[0].stock == pytest.approx(
        9000.0 - one.bench.current.plan.tape.length_mm
    )
    assert [hit.item.entry for hit in stored.logbook.search("last")] == [Note(text="last")]
    stored.close()


def test_what_a_damaged_page_swallows_is_named_and_kept_and_nothing_says_it_was_stored(sick):
    one, state, _file = sick
    check_in(one.bench)
    one.settle()
    state["fault"] = StoreDamaged("The data file is damaged. It was left as it is.")
    for n in range(10):
        one.bench.recorder.note(f"note {n}")
    one.settle()
    assert len(one.bench.sync.kept) == 10 and one.bench.current.log[-1].entry == Note(text="note 9")
    state["fault"] = None
    one.bench.editor.type_into("rim.spokes", "28")
    one.settle()
    assert len(one.bench.sync.kept) == 10 and "Stored again" not in one.bench.message
    assert not one.worker.stop()
    one.worker.resume()
    one.worker.try_again()
    one.settle(lambda: not one.bench.sync.kept)
    assert [item.number > 0 for item in one.bench.current.log] == [True] * 10 and one.worker.stop()


def test_a_duplicate_part_of_another_window_is_a_sentence_and_blocks_nothing(desk):
    one, two = desk(), desk()
    two.bench.shelf.load()
    two.settle()
    one.bench.shelf.add(tape())
    one.settle()
    said = []
    two.bench.shelf.add(tape(), failed=said.append)  # not knowing of the other
    two.settle(until=lambda: bool(said))
    assert "already on the shelf" in said[0]
    two.bench.shelf.add(tape("Ebb tape 28"))
    two.settle(until=lambda: len(two.bench.shelf.items) == 2)


def test_a_try_that_the_gauge_left_half_way_is_logged_with_what_was_read(desk):
    one = desk()
    check_in(one.bench)
    for stage in ("check_in", "strip", "tape", "valve", "mount", "sealant"):
        one.bench.recorder.finish_stage(stage)
    for i in range(40):  # then its cable is pulled
        one.bench.gauge.take(5.0 * i, 0.1 * i, 340.0)
    one.bench.recorder.attempt("not_up", 0.0)
    one.settle()
    again = desk().bench.current
    entry = again.log[-1].entry
    assert isinstance(entry, Attempt) and entry.peak_kpa == 195.0 and entry.trace[-1][1] == 195.0
    assert again.progress.seating.tries == (entry,)


def test_readings_of_two_windows_are_one_hold(desk):
    one, two = desk(), None
    check_in(one.bench)
    one.bench.recorder.finish_stage("check_in")
    one.settle()
    two = desk()
    two.bench.recorder.read_gauge(300.0, 20.0)
    two.settle()
    one.settle(lambda: any(isinstance(i.entry, Reading) for i in one.bench.current.log))
    one.bench.recorder.read_gauge(298.0, 20.0)
    one.settle()
    assert [r[1] for r in one.bench.current.progress.holding.readings] == [300.0, 298.0]


def test_a_wheel_off_the_bench_comes_back_with_its_story(desk):
    one = desk()
    check_in(one.bench)
    one.bench.recorder.note("before")
    one.settle()
    key = one.bench.current.key
    one.bench.archive()
    one.settle(lambda: one.bench.current is None)
    one.bench.take_out(*key)
    one.settle(lambda: one.bench.current is not None)
    assert [i.entry for i in one.bench.current.log] == [Note(text="before")]
    one.bench.take_out("nowhere", "w")
    one.settle(lambda: "no such wheel" in one.bench.message)


DEEDS = {
    "new wheel": lambda bench: bench.editor.new_wheel(),
    "field": lambda bench: bench.editor.type_into("rim.spokes", "28"),
    "half-typed": lambda bench: bench.editor.type_into("rim.spokes", "x"),
    "entry": lambda bench: bench.recorder.note("wet"),
    "stage": lambda bench: bench.recorder.finish_stage("check_in"),
    "off the bench": lambda bench: bench.archive(),
    "onto the bench": lambda bench: bench.take_out("job-away", "w9"),
    "setting": lambda bench: bench.shop_methods.set("practice.dose", "lean"),
    "new part": lambda bench: bench.shelf.add(tape("Ebb tape 99")),
    "count": lambda bench: bench.shelf.count(bench.shelf.items[0].item_id, 3.0, 9000.0),
    "figure": lambda bench: bench.shelf.edit(
        bench.shelf.items[0].item_id, [SetField("", "low_at", 5.0, bench.shelf.items[0].low_at)]
    ),
    "off offer": lambda bench: bench.shelf.retire(bench.shelf.items[0]),
    "undo": lambda bench: bench.undo(),
}
FAULTS = (
    StoreDamaged,
    StoreForeign,
    StoreNewer,
    StoreRefused,
    StoreFailed,
    StoreFull,
    StoreLocked,
    StoreReadOnly,
)


@pytest.mark.parametrize("fault", FAULTS)
@pytest.mark.parametrize("deed", DEEDS)
def test_no_deed_is_dropped_in_silence_whatever_the_store_answers(sick, deed, fault):
    one, state, _file = sick
    one.bench.shelf.add(tape())
    check_in(one.bench)
    one.settle()
    one.bench.message, state["fault"] = "", fault("It cannot be stored now.")
    DEEDS[deed](one.bench)
    one.wait(lambda: one.bench.sync.fault is not None or (not one.worker.waiting and not one.calls))
    kept = one.bench.sync.kept
    if fault in (StoreDamaged, StoreForeign, StoreNewer, StoreFailed):
        assert kept and kept[0].content
    elif fault is StoreRefused:
        assert kept or "cannot be stored now" in one.bench.message
    else:
        assert one.bench.sync.fault is not None


def stopped(server, number):
    """Send a signal to every process of a server."""
    for folder in Path("/proc").iterdir():
        with contextlib.suppress(OSError):
            words = (folder / "cmdline").read_bytes()
            parent = (folder / "stat").read_text().split()[3] if folder.name.isdigit() else ""
            first = (server.data / "postmaster.pid").read_text().split()[0]
            if first in (folder.name, parent) and words:
                os.kill(int(folder.name), number)


def test_a_server_that_falls_silent_or_holds_a_lock_is_said_within_ten_seconds(
    server, tmp_path, monkeypatch
):
    """A stopped server keeps its connections open and answers nothing; the network still takes what is sent."""
    monkeypatch.setattr(database, "ANSWER_SECONDS", 3.0)
    url = server.new_database()
    one = Desk(tmp_path / "unused", url)
    try:
        one.settle()
        check_in(one.bench)
        one.settle()
        stopped(server, signal.SIGSTOP)
        try:
            one.bench.recorder.note("in the silence")
            began = time.monotonic()
            one.wait(lambda: one.bench.sync.fault is not None, seconds=9)
            assert (
                time.monotonic() - began < 9.0
                and "does not answer" in one.bench.sync.fault.sentence
            )
        finally:
            stopped(server, signal.SIGCONT)
        one.settle(lambda: one.bench.sync.fault is None, seconds=30)
        assert one.bench.current.log[-1].number > 0
        other = Database(url)
        with other.engine.begin() as long:
            long.execute(text("UPDATE state SET change = change"))
            one.bench.recorder.note("behind a long transaction")
            one.wait(lambda: one.bench.sync.fault is not None, seconds=9)
        other.close()
        one.settle(lambda: one.bench.sync.fault is None, seconds=30)
        assert one.bench.current.log[-1].number > 0 and not one.bench.sync.kept
    finally:
        one.worker.stop()
