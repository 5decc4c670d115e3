"""A letter is a command only after an act of this hand put it there: nothing that moves by itself gives it a new place."""

import json
from datetime import UTC, datetime
from functools import partial

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from inner_rim.core.models.air import at_ride_kpa
from inner_rim.store.backup import back_up, restore
from inner_rim.work.editing.state import PlannedWheel
from tests.desk import Desk, check_in
from tests.desktop.real_window import RealWindow, managed_screen
from tests.samples import ordinary

KEY = Qt.Key
COMMANDS = (KEY.Key_Y, KEY.Key_A, KEY.Key_R, KEY.Key_D, KEY.Key_N)


def letters(one):
    """Press letters that are commands, wherever the focus is, as a word that goes on."""
    for key in COMMANDS:
        QTest.keyClick(QApplication.focusWidget() or one.window, key)
    QTest.keyClick(QApplication.focusWidget() or one.window, KEY.Key_Return)


def entries(bench):
    return [(state.name, len(state.whole_log)) for state in bench.wheels]


@pytest.fixture
def two_wheels(session, qtbot):
    """A window in which the name of the second wheel is being typed, and another bench on its data."""
    one = session()
    for name in ("Tern", "Curlew"):
        check_in(one.bench)
        one.bench.editor.type_into("name", name)
    qtbot.waitUntil(lambda: not one.worker.waiting)
    one.window.run("go_to_field", "name")
    field = QApplication.focusWidget()
    assert isinstance(field, QLineEdit) and field.text() == "Curlew"
    return one


def test_a_wheel_that_another_window_takes_off_leaves_the_letters_nowhere(two_wheels, qtbot):
    one, other = two_wheels, Desk(two_wheels._file)
    try:
        other.settle(lambda: len(other.bench.wheels) == 2)
        other.bench.select(one.bench.selected)
        before = entries(one.bench)
        other.bench.archive()
        other.settle()
        qtbot.waitUntil(lambda: one.bench.lost == "Curlew", timeout=10000)
    finally:
        other.worker.stop()
    letters(one)
    assert (
        entries(one.bench) == [one for one in before if one[0] == "Tern"]
        and one.bench.current is None
    )
    assert "Curlew is off the bench" in one.window.page.now._action.text()
    QTest.keyClick(one.window, KEY.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert one.bench.current.name == "Tern"  # chosen by hand


def test_an_opened_file_leaves_the_letters_nowhere_until_the_hand_chooses(two_wheels, qtbot):
    one = two_wheels
    other = (
        one.bench.wheels[0].key
        if one.bench.wheels[0].key != one.bench.selected
        else one.bench.wheels[1].key
    )
    before = entries(one.bench)
    one.show_wheel(other)
    assert one.bench.current.name == "Tern" and "was opened" in one.bench.message
    for key in COMMANDS:
        QTest.keyClick(QApplication.focusWidget() or one.window, key)
    assert entries(one.bench) == before and {state.name for state in one.bench.wheels} == {
        "Tern",
        "Curlew",
    }
    # chooses, and does nothing else
    QTest.keyClick(QApplication.focusWidget() or one.window, KEY.Key_Return)
    assert entries(one.bench) == before and not one.window.parking.parked
    QTest.keyClick(one.window, KEY.Key_A)
    assert len(one.bench.wheels) == 3  # a command again


def test_a_page_key_in_the_middle_of_a_word_makes_no_commands_of_the_rest(two_wheels):
    one, before = two_wheels, entries(two_wheels.bench)
    QTest.keyClick(one.window, KEY.Key_1, Qt.KeyboardModifier.ControlModifier)
    field = QApplication.focusWidget()
    assert isinstance(field, QLineEdit)
    QTest.keyClick(field, KEY.Key_End)
    QTest.keyClicks(field, " nard")
    assert one.bench.current.name == "Curlew nard" and len(entries(one.bench)) == len(before)
    one.window.run("go_shelf")
    one.window.page_of("shelf").focus_search()
    QTest.keyClick(one.window, KEY.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert one.window.page_shown == "bench"
    letters(one)
    assert sum(count for _name, count in entries(one.bench)) == 0 and len(one.bench.wheels) == 2


def test_typing_goes_on_while_other_data_take_the_place(two_wheels, qtbot, tmp_path):
    """A restore took the job away under the hand: KeyError."""
    one = two_wheels
    empty = tmp_path / "empty.sqlite"
    desk = Desk(empty)
    desk.settle()
    desk.worker.stop()
    copy = back_up(empty, datetime.now(UTC))
    state = one.bench.current
    restore(copy, one._file, datetime.now(UTC))
    qtbot.waitUntil(lambda: not one.bench.wheels, timeout=10000)
    one.bench.editor._edit(state, [], None)
    assert "was not stored" in one.bench.message
    one.worker.discard()


def test_on_an_empty_bench_the_cursor_stands_in_the_line(session, qtbot):
    one = session()
    line = QApplication.focusWidget()
    assert line is one.window.page.first.line
    QTest.keyClicks(line, "45-622 on 24 hooked, 98 kg")
    QTest.keyClick(line, KEY.Key_Return)
    state = one.bench.current
    assert (state.value("tire.size"), state.value("rim.internal_width_mm")) == ("45-622", 24)
    assert "hooked" not in state.name and isinstance(state, PlannedWheel)


def test_no_sentence_shows_two_figures_alike_and_the_ride_obeys_the_limit_at_handing_over(session):
    """33 psi in a bar shop is 227.5 kPa: "2.28 bar is above the limit of 2.28 bar" was said of it."""
    one = session()
    check_in(one.bench)
    editor, now = one.bench.editor, one.window.page.now
    for field, text in (
        ("tire.max_pressure_kpa", "33 psi"),
        ("tire.min_pressure_kpa", "1"),
        ("ride.temperature_c", "40"),
    ):
        editor.type_into(field, text)
    for stage in ("check_in", "strip", "tape", "valve", "mount", "sealant"):
        one.bench.recorder.finish_stage(stage)
    one.bench.recorder.attempt("both_up", 220.0)
    for stage in ("seat", "hold"):
        one.bench.recorder.finish_stage(stage)
    one.window.turns.render_now()
    assert now.answers[0].command == "hand_over"
    now.signature.setText("M. Osier")
    plan = one.bench.current.plan
    limit, ride = (
        plan.pressure.limit_kpa,
        partial(at_ride_kpa, rider=plan.rider, methods=plan.methods),
    )
    just_above = next(kpa / 100 for kpa in range(19000, 22700) if ride(kpa / 100) > limit + 0.1)
    said = []
    for typed in ("2.28", "33.001 psi", "2.27", f"{just_above} kPa"):
        now.figure.setText(typed)
        one.window.run("hand_over")
        said.append(one.window.views.view().now.cautions[0])
    assert said[0].startswith("2.28 bar is above the limit of 2.27 bar") and limit == pytest.approx(
        227.527
    )
    assert "kPa is above the limit of 227.53 kPa" in said[1]
    assert (
        said[2].startswith("2.27 bar here is ")
        and "on the ride, above the limit of 2.27 bar" in said[2]
    )
    assert "kPa on the ride, above the limit of 227.53 kPa" in said[3]
    now.figure.setText("2")
    one.window.run("hand_over")
    assert one.bench.current.progress.state == "finished"


@pytest.mark.real_window
def test_in_a_real_window_no_letter_of_a_word_reaches_another_wheel(own_home):
    """A window with a window manager, another bench on its data: what is stored is read back from outside."""
    file = own_home / "inner-rim.sqlite"
    desk = Desk(file)
    for name in ("Tern", "Curlew"):
        check_in(desk.bench)
        desk.bench.editor.type_into("name", name)
    desk.settle()
    keys = {state.name: state.key for state in desk.bench.wheels}

    def stored(window, until):
        return window.stored(own_home, until)

    def names(state):
        return sorted(job.document["wheels"][0]["name"] for job in state.jobs)

    try:
        with managed_screen(own_home) as env, RealWindow(env) as window:
            window.key("e")  # the first field: the name
            window.type("X")
            first = stored(window, lambda state: any("X" in name for name in names(state)))
            typed = next(name for name in names(first) if "X" in name)
            mine = "Curlew" if "Curlew" not in names(first) else "Tern"
            desk.wait(lambda: any(state.name == typed for state in desk.bench.wheels))
            desk.bench.select(keys[mine])
            desk.bench.archive()
            desk.settle()
            window.stored(own_home, lambda state: len(state.jobs) == 1)
            window.type("yardny")
            window.key("Return")
            window.type("yn")
            after = window.stored(own_home, lambda state: False, seconds=2.0)
            assert len(after.jobs) == 1 and not after.jobs[0].log, names(after)
            assert names(after) == ["Tern" if mine == "Curlew" else "Curlew"]
    finally:
        desk.worker.stop()


@pytest.mark.real_window
def test_in_a_real_window_an_empty_bench_takes_the_line(own_home):
    with managed_screen(own_home) as env, RealWindow(env) as window:
        window.type("45-622 on 24 hooked, 98 kg")
        window.key("Return")
        state = window.stored(
            own_home,
            lambda state: bool(
                state
                and state.jobs
                and state.jobs[0].document["wheels"][0].get("tire", {}).get("size")
            ),
        )
        (wheel,) = state.jobs[0].document["wheels"]
        assert wheel["tire"]["size"] == "45-622" and wheel["rim"]["internal_width_mm"] == 24.0
        assert (
            json.dumps(wheel).count("98 kg") == 0
            and ordinary()["wheels"][0]["tire"]["size"] == "45-622"
        )
