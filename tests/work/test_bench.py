import threading
import time

import pytest

from inner_rim.core.log import Note
from inner_rim.core.units import UnitChoice
from inner_rim.store.errors import StoreFull
from inner_rim.store.repository import Repository, sqlite_url
from inner_rim.work.bench import Bench
from inner_rim.work.keeper import Keeper
from inner_rim.work.opening import opener


class Desk:
    """A bench with its keeper on a real file; callbacks come back through `settle`."""

    def __init__(self, file):
        self.calls, self.lock = [], threading.Lock()
        self.bench = Bench()
        self.keeper = Keeper(opener(file), self._deliver, self.bench)
        self.bench.keeper = self.keeper
        self.keeper.start()
        self.bench.reload()
        self.settle()

    def _deliver(self, call):
        with self.lock:
            self.calls.append(call)

    def settle(self, until=lambda: True):
        deadline = time.monotonic() + 10
        while time.monotonic() < deadline:
            with self.lock:
                calls, self.calls = self.calls, []
            for call in calls:
                call()
            if not self.keeper.waiting and not calls and until():
                return
            threading.Event().wait(0.005)
        raise AssertionError("did not settle")


@pytest.fixture
def desk(tmp_path):
    made = []

    def open_desk():
        made.append(Desk(tmp_path / "data" / "inner-rim.sqlite"))
        return made[-1]

    yield open_desk
    for one in made:
        one.keeper.stop()


def check_in(bench):
    bench.new_wheel()
    for field, text in (
        ("rim.bead_seat_diameter_mm", "622"),
        ("rim.internal_width_mm", "24"),
        ("rim.hook", "hooked"),
        ("tire.size", "45-622"),
        ("tire.max_pressure_kpa", "3.4"),
    ):
        bench.type_into(field, text)


def test_the_wheel_is_where_it_was_after_a_restart(desk):
    first = desk()
    check_in(first.bench)
    for stage in ("check_in", "strip", "tape", "valve", "mount", "sealant"):
        first.bench.finish_stage(stage)
    first.bench.attempt("one_low", 150.0, (3,))
    first.bench.type_into("tire.min_pressure_kpa", "9")  # not accepted: stays typed all the same
    first.settle()
    again = desk().bench.current
    assert again.progress == first.bench.current.progress and again.progress.state == "trouble"
    assert [entry.entry for entry in again.log] == [entry.entry for entry in first.bench.current.log]
    assert again.reading.problems and again.plan.pressure == first.bench.current.plan.pressure


def test_undo_and_redo_are_steps_of_fields_not_of_letters(desk):
    bench = desk().bench
    check_in(bench)
    bench.type_into("ride.total_mass_kg", "8")
    for text in ("9", "98", "985", "98"):
        bench.type_into("ride.total_mass_kg", text)
    before = bench.current.job.sheet
    bench.undo()
    assert bench.current.ride_job.ride is None
    bench.redo()
    assert bench.current.job.sheet == before and bench.current.ride_job.ride.total_mass_kg == 98
    for _ in range(20):
        bench.undo()
    assert bench.message == "Nothing to undo" and bench.current.plan is not None


def test_a_second_window_sees_the_change_and_does_not_overwrite(desk):
    one, two = desk(), None
    check_in(one.bench)
    one.settle()
    two = desk()
    two.bench.type_into("ride.total_mass_kg", "80")
    two.bench.note("from window two")
    two.settle()
    one.settle(lambda: "another window" in one.bench.message)
    assert one.bench.current.ride_job.ride.total_mass_kg == 80
    assert one.bench.current.log[-1].entry == Note(text="from window two")


def test_an_older_look_at_the_data_takes_nothing_back(desk):
    """The bench is read; then, before the window hears of it, the mechanic goes on."""
    one = desk()
    check_in(one.bench)
    one.bench.set_setting("injector_ml", 60.0)
    one.settle()
    old = one.bench.current
    one.bench.reload()
    one.bench.new_wheel()
    new = one.bench.current.name
    one.bench.set_setting("injector_ml", 30.0)
    one.settle()
    assert one.bench.current.name == new and len(one.bench.wheels) == 2
    assert one.bench.settings["injector_ml"] == 30.0
    one.bench.select(old.key)
    one.bench.reload()
    one.bench.put_away()
    one.settle()
    assert [state.name for state in one.bench.wheels] == [new]
    one.bench.reload()
    one.settle()
    assert [state.name for state in one.bench.wheels] == [new]
    one.bench.take_out(old.job.stored_id, 0)
    one.settle()
    assert len(one.bench.wheels) == 2 and one.bench.current.name == old.name


def test_the_same_field_in_two_windows_keeps_both_values(desk):
    one = desk()
    check_in(one.bench)
    one.settle()
    two = desk()
    two.bench.type_into("rim.internal_width_mm", "26")
    two.settle()
    one.bench.type_into("rim.internal_width_mm", "25")  # not knowing of the other
    one.settle(lambda: "at the same time" in one.bench.message)
    state = one.bench.current
    assert state.wheel.rim.internal_width_mm == 26
    assert state.job.sheet.drafts[state.path("rim.internal_width_mm")] == "25.0"


class Sick:
    """A store whose disk is full while `disk["full"]`."""

    def __init__(self, real, disk):
        self._real, self._disk = real, disk

    def __getattr__(self, name):
        if self._disk["full"] and name in ("create", "save", "append"):
            raise StoreFull("The disk is full; your work is kept here.")
        return getattr(self._real, name)


def test_a_full_disk_keeps_the_work_and_stores_it_when_there_is_room(tmp_path):
    file = tmp_path / "inner-rim.sqlite"
    disk = {"full": True}

    def open_sick():
        return Sick(Repository(sqlite_url(file)), disk)

    desk = Desk.__new__(Desk)
    desk.calls, desk.lock, desk.bench = [], threading.Lock(), Bench()
    desk.keeper = desk.bench.keeper = Keeper(open_sick, desk._deliver, desk.bench)
    desk.keeper.start()
    check_in(desk.bench)
    desk.bench.note("written on a full disk")
    deadline = time.monotonic() + 10
    while desk.bench.trouble is None and time.monotonic() < deadline:
        with desk.lock:
            calls, desk.calls = desk.calls, []
        for call in calls:
            call()
    assert "disk is full" in desk.bench.trouble.sentence
    assert desk.bench.current.plan is not None  # the hand is not stopped
    assert desk.bench.unsaved()[0]["log"][0]["entry"]["text"] == "written on a full disk"
    assert not desk.keeper.stop(5.0)  # closing now would lose work: it says so
    disk["full"] = False
    desk.keeper.resume()
    desk.settle(lambda: desk.bench.trouble is None)
    assert desk.bench.message == "Stored again: nothing was lost."
    assert desk.keeper.stop()
    stored = Repository(sqlite_url(file))
    assert stored.bench().jobs[0].log[0].entry == Note(text="written on a full disk")
    stored.close()


def test_parts_used_before_are_known_by_name(desk):
    one = desk()
    check_in(one.bench)
    one.bench.type_into("rim.name", "Saltmarsh box rim")
    one.settle()
    found = []
    one.bench.known_parts("rim", found.append)
    one.settle(lambda: bool(found))
    assert found[0][0]["internal_width_mm"] == 24
    one.bench.new_wheel()
    one.bench.put_part("rim", found[0][0])
    assert one.bench.current.reading.missing == (one.bench.current.path("tire.size"),)


def test_units_change_everywhere_and_are_kept(desk):
    one = desk()
    check_in(one.bench)
    one.bench.set_units(UnitChoice("psi", "in", "floz"))
    one.bench.type_into("tire.max_pressure_kpa", "50")
    one.settle()
    assert one.bench.current.wheel.tire.max_pressure_kpa == pytest.approx(344.74, abs=0.01)
    assert desk().bench.units == UnitChoice("psi", "in", "floz")


def test_the_alarm_begins_where_the_shop_wants_it_but_never_above_the_limit(desk):
    one = desk()
    assert one.bench.gauge.near_share == 0.9
    one.bench.set_setting("alarm_share", 0.8)
    assert one.bench.gauge.near_share == 0.8
    for nonsense in (1.2, 0.1, "loud", float("nan"), None):
        one.bench.set_setting("alarm_share", nonsense)
        assert one.bench.gauge.near_share == 0.8
    one.bench.set_setting("alarm_share", 0.7)
    one.settle()
    one.keeper.stop()
    two = desk()
    assert two.bench.gauge.near_share == 0.7
