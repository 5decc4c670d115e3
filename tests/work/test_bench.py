"""The bench on a real file, in one window and in two."""

import msgspec
import pytest

from inner_rim.core.record.log import Note
from inner_rim.core.record.operations import UnacceptedText
from inner_rim.core.record.units import UnitChoice
from inner_rim.store.database import sqlite_url
from inner_rim.store.errors import StoreFull
from inner_rim.store.repository import Repository
from inner_rim.work.bench import as_file
from tests.desk import Desk, check_in


def test_the_wheel_is_where_it_was_after_a_restart(desk):
    first = desk()
    check_in(first.bench)
    for stage in ("check_in", "strip", "tape", "valve", "mount", "sealant"):
        first.bench.recorder.finish_stage(stage)
    first.bench.recorder.attempt("one_low", 150.0, (3,))
    # not accepted: stays typed all the same
    first.bench.editor.type_into("tire.min_pressure_kpa", "9")
    first.settle()
    again = desk().bench.current
    assert again.progress == first.bench.current.progress and again.progress.state == "problem"
    assert [entry.entry for entry in again.log] == [
        entry.entry for entry in first.bench.current.log
    ]
    assert again.reading.problems and again.plan.pressure == first.bench.current.plan.pressure


def test_undo_and_redo_are_steps_of_fields_not_of_letters(desk):
    one = desk()
    bench = one.bench
    check_in(bench)
    bench.editor.type_into("ride.total_mass_kg", "8")
    for text in ("9", "98", "985", "98"):
        bench.editor.type_into("ride.total_mass_kg", text)
    before = bench.current.job.draft
    bench.undo()
    assert bench.current.ride_job.ride is None
    bench.undo(again=True)
    assert bench.current.job.draft == before and bench.current.ride_job.ride.total_mass_kg == 98
    for _ in range(20):
        bench.undo()
    # the new wheel was the first deed
    assert bench.message == "Nothing to undo" and bench.current is None
    for _ in range(20):
        bench.undo(again=True)
    assert bench.message == "Nothing to do again" and bench.current.job.draft == before
    one.settle()
    assert desk().bench.current.job.draft == before


def test_a_second_window_sees_the_change_and_does_not_overwrite(desk):
    one, two = desk(), None
    check_in(one.bench)
    one.settle()
    two = desk()
    two.bench.editor.type_into("ride.total_mass_kg", "80")
    two.bench.recorder.note("from window two")
    two.settle()
    one.settle(lambda: "another window" in one.bench.message)
    assert one.bench.current.ride_job.ride.total_mass_kg == 80
    assert one.bench.current.log[-1].entry == Note(text="from window two")


def test_an_older_look_at_the_data_takes_nothing_back(desk):
    """The bench is read; then, before the window hears of it, the mechanic goes on."""
    one = desk()
    check_in(one.bench)
    one.bench.shop_methods.set("shelf.injector_ml", 60.0)
    one.settle()
    old = one.bench.current
    one.bench.sync.reload()
    one.bench.editor.new_wheel()
    new = one.bench.current.name
    one.bench.shop_methods.set("shelf.injector_ml", 30.0)
    one.settle()
    assert one.bench.current.name == new and len(one.bench.wheels) == 2
    assert one.bench.settings.shop["shelf.injector_ml"] == 30.0
    one.bench.select(old.key)
    one.bench.sync.reload()
    one.bench.archive()
    one.settle()
    assert [state.name for state in one.bench.wheels] == [new]
    one.bench.sync.reload()
    one.settle()
    assert [state.name for state in one.bench.wheels] == [new]
    one.bench.take_out(*old.key)
    one.settle()
    assert len(one.bench.wheels) == 2 and one.bench.current.name == old.name


def test_the_same_field_in_two_windows_keeps_both_values_and_mine_is_one_key_away(desk):
    one = desk()
    check_in(one.bench)
    one.settle()
    two = desk()
    two.bench.editor.type_into("rim.internal_width_mm", "26")
    two.settle()
    one.bench.editor.type_into("rim.internal_width_mm", "25")  # not knowing of the other
    one.settle(lambda: one.bench.current.conflict("rim.internal_width_mm") is not None)
    state = one.bench.current
    assert "at the same time" in one.bench.message and state.wheel.rim.internal_width_mm == 26
    assert state.conflict("rim.internal_width_mm").operation.value == 25  # a value, not a text
    assert one.bench.editor.take_any_mine() and not one.bench.editor.take_any_mine()
    one.settle()
    two.settle(lambda: two.bench.current.wheel.rim.internal_width_mm == 25)
    assert one.bench.current.wheel.rim.internal_width_mm == 25


def test_two_benches_in_psi_never_make_a_wrong_limit(desk):
    """36 psi and 40 psi typed at once: nobody ever sees 276."""
    one = desk()
    one.bench.set_units(UnitChoice(kpa="psi"))
    check_in(one.bench)
    one.settle()
    two = desk()
    two.bench.set_units(UnitChoice(kpa="psi"))
    two.bench.editor.type_into("tire.max_pressure_kpa", "36")
    one.bench.editor.type_into("tire.max_pressure_kpa", "40")
    for desk_ in (two, one, two):
        desk_.settle()
    one.bench.editor.type_into("tire.name", "H")  # one more letter
    for desk_ in (one, two, one):
        desk_.settle()
    psi = [d.bench.current.wheel.tire.max_pressure_kpa / 6.894757 for d in (one, two)]
    assert psi[0] == psi[1] and round(psi[0]) in (36, 40)
    asides = [d.bench.current.conflict("tire.max_pressure_kpa") for d in (one, two)]
    # and the other value is shown where it was typed
    assert sum(aside is not None for aside in asides) == 1


def test_other_units_on_one_bench_change_nothing_on_the_other_nor_what_was_typed(desk, tmp_path):
    one = desk(settings_file=tmp_path / "a" / "bench.json")
    two = desk(settings_file=tmp_path / "b" / "bench.json")
    one.bench.set_units(UnitChoice(kpa="psi"))
    check_in(one.bench)
    one.bench.editor.type_into("tire.min_pressure_kpa", "90")  # psi, above the maximum: it waits
    one.bench.set_units(UnitChoice(kpa="bar"))
    one.settle()
    two.settle(lambda: two.bench.current is not None)
    assert two.bench.units == UnitChoice()
    for state in (one.bench.current, two.bench.current):
        assert state.typed("tire.min_pressure_kpa") == UnacceptedText("90", UnitChoice(kpa="psi"))
    # bar: now 90 psi fits, and means 90 psi
    one.bench.editor.type_into("tire.max_pressure_kpa", "9")
    assert one.bench.current.wheel.tire.min_pressure_kpa == pytest.approx(90 * 6.894757, abs=0.01)
    again = desk(settings_file=tmp_path / "a" / "bench.json")
    assert again.bench.units == UnitChoice(kpa="bar")


def test_two_methods_set_at_once_both_stand(desk):
    one, two = desk(), desk()
    one.bench.shop_methods.set("practice.dose", "lean")
    two.bench.shop_methods.set("practice.tape_start", "opposite")
    for desk_ in (one, two):
        desk_.settle(
            lambda d=desk_: (
                d.bench.shop.practice is not None
                and d.bench.shop.practice.dose == "lean"
                and d.bench.shop.practice.tape_start == "opposite"
            )
        )


def test_a_duplicate_undone_and_made_again_is_a_new_wheel(desk):
    one = desk()
    check_in(one.bench)
    bench = one.bench
    bench.editor.duplicate()
    first = bench.current.key
    bench.recorder.note("seen")
    bench.undo()
    assert bench.message == "Undone: seen. Ctrl+Shift+Z does it again." and bench.current.log == []
    bench.undo()  # what was logged and taken back stands in its log
    assert "log entries" in bench.message and bench.wheel(first) is not None
    bench.editor.duplicate()
    second = bench.current.key
    bench.undo()
    bench.editor.duplicate()
    assert len({first, second, bench.current.key}) == 3 and bench.current.log == []
    one.settle()
    assert len(desk().bench.wheels) == 3


def test_duplicated_in_two_windows_is_two_wheels_with_their_own_logs(desk):
    one = desk()
    check_in(one.bench)
    one.settle()
    two = desk()
    for each in (one, two):
        each.bench.editor.duplicate()
        each.bench.recorder.note(f"by {id(each)}")
    for each in (one, two):
        each.settle(lambda e=each: len(e.bench.wheels) == 3)
    logs = [[item.entry.text for item in state.log] for state in desk().bench.wheels]
    assert sorted(map(len, logs)) == [0, 1, 1] and len({tuple(log) for log in logs}) == 3


def test_undoing_a_wheel_that_another_window_types_into_keeps_it_and_the_job_can_be_typed_into(
    desk,
):
    one = desk()
    check_in(one.bench)
    one.bench.editor.duplicate()
    one.settle()
    twin = one.bench.current.key
    two = desk()
    two.bench.select(twin)
    two.bench.editor.type_into("rim.spokes", "28")
    two.settle()
    one.bench.undo()  # not knowing of the other
    one.settle(lambda: "not removed" in one.bench.message)
    assert one.bench.wheel(twin) is not None
    for each in (one, two):
        each.bench.select(twin)
        each.bench.editor.type_into("rim.name", f"Reed {id(each)}")
        each.settle()
    assert one.bench.wheel(twin).wheel.rim.spokes == 28


def test_undo_takes_back_ones_own_edits_only(desk):
    one = desk()
    check_in(one.bench)
    one.bench.editor.type_into("rim.spokes", "32")
    one.settle()
    two = desk()
    two.bench.editor.type_into("rim.spokes", "28")
    two.bench.editor.type_into("ride.total_mass_kg", "80")
    two.settle()
    one.settle(lambda: one.bench.current.wheel.rim.spokes == 28)
    one.bench.undo()
    assert (
        "Spokes changed in another window" in one.bench.message
        and one.bench.current.wheel.rim.spokes == 28
    )
    one.bench.undo()  # the edit before it: the maximum
    assert one.bench.current.wheel.tire.max_pressure_kpa is None
    assert one.bench.current.ride_job.ride.total_mass_kg == 80
    one.bench.undo(again=True)
    one.settle()
    assert one.bench.current.wheel.tire.max_pressure_kpa == 340


def test_a_full_disk_keeps_the_work_and_stores_it_when_there_is_room(tmp_path):
    file, disk = tmp_path / "inner-rim.sqlite", {"full": True}

    class Sick(Repository):
        def __getattribute__(self, name):
            if disk["full"] and name in ("create", "edit", "append"):
                raise StoreFull("The disk is full; your work is kept here.")
            return super().__getattribute__(name)

    one = Desk(file, open_store=lambda: Sick(sqlite_url(file)))
    check_in(one.bench)
    one.bench.recorder.note("written on a full disk")
    one.wait(lambda: one.bench.sync.fault is not None)
    assert "disk is full" in one.bench.sync.fault.sentence
    assert one.bench.planned is not None  # the hand is not stopped
    assert (
        msgspec.json.decode(as_file(one.bench))["jobs"][0]["log"][0]["entry"]["text"]
        == "written on a full disk"
    )
    assert not one.worker.stop(5.0)  # closing now would lose work: it says so
    disk["full"] = False
    one.worker.resume()
    one.settle(lambda: one.bench.sync.fault is None)
    assert one.bench.message == "Stored again: nothing was lost."
    assert one.worker.stop()
    stored = Repository(sqlite_url(file))
    assert stored.bench().jobs[0].log[0].entry == Note(text="written on a full disk")
    stored.close()


def test_parts_used_before_are_known_by_name(desk):
    one = desk()
    check_in(one.bench)
    one.bench.editor.type_into("rim.name", "Saltmarsh box rim")
    one.settle()
    result = []
    one.bench.editor.known_parts("rim", result.append)
    one.settle(lambda: bool(result))
    assert result[0][0]["internal_width_mm"] == 24
    one.bench.editor.new_wheel()
    one.bench.editor.put_part("rim", result[0][0])
    assert one.bench.current.reading.missing == (one.bench.current.path("tire.size"),)


def test_a_bench_keeps_its_units_in_a_file_of_its_own_and_nonsense_there_is_no_setting(
    desk, tmp_path
):
    file = tmp_path / "home" / "bench.json"
    two = desk(settings_file=file)
    two.bench.set_units(UnitChoice("psi", "in", "floz"))
    two.bench.settings.set_own(scale=1.25)
    three = desk(settings_file=file)
    assert (
        three.bench.units == UnitChoice("psi", "in", "floz")
        and three.bench.settings.own.scale == 1.25
    )
    file.write_bytes(msgspec.json.encode({"units": {"kpa": "furlong", "mm": "mm", "ml": "ml"}}))
    assert desk(settings_file=file).bench.units == UnitChoice()


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("units", {"kpa": "furlong", "mm": "mm", "ml": "ml"}),
        ("units", 7),
        ("scale", 90.0),
        ("scale", "large"),
        ("pace", "hurried"),
        ("ports", ["a"]),
        ("backup_folder", None),
        ("theme", {"dark": True}),
        ("asked", "yes"),
    ],
)
def test_one_setting_that_is_not_understood_is_left_out_alone_kept_aside_and_said(
    desk, tmp_path, name, value
):
    file = tmp_path / "bench.json"
    body = msgspec.json.encode({"signed_by": "M Osier", "alarm_sound": False, name: value})
    file.write_bytes(body)
    settings = desk(settings_file=file).bench.settings
    assert settings.own.signed_by == "M Osier" and not settings.own.alarm_sound
    assert name in settings.aside and "bench-not-read.json" in settings.aside
    settings.set_own(scale=1.25)  # writes the file anew
    assert (tmp_path / "bench-not-read.json").read_bytes() == body
    again = desk(settings_file=file).bench.settings
    assert again.own.scale == 1.25 and not again.aside


@pytest.mark.parametrize("body", [b"[" * 100_000, b"{", b"\xff", b"[1]", b'"x"'])
def test_settings_of_which_nothing_is_understood_are_kept_aside(desk, tmp_path, body):
    file = tmp_path / "bench.json"
    file.write_bytes(body)
    settings = desk(settings_file=file).bench.settings
    assert settings.own.signed_by == "" and "bench.json" in settings.aside
    assert (tmp_path / "bench-not-read.json").read_bytes() == body


def test_the_alarm_begins_where_the_shop_wants_it_but_never_above_the_limit(desk):
    one = desk()
    assert one.bench.gauge.near_share == 0.9
    one.bench.shop_methods.set("alarm_share", 0.8)
    assert one.bench.gauge.near_share == 0.8
    for nonsense in (1.2, 0.1, "loud", True):
        one.bench.shop_methods.set("alarm_share", nonsense)
        assert one.bench.gauge.near_share == 0.8
    one.bench.shop_methods.set("alarm_share", 0.7)
    one.settle()
    assert desk().bench.gauge.near_share == 0.7
