"""Shelf, day and practice in the real window: what is typed there is stored and changes every plan."""

from datetime import timedelta

import msgspec
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.core.record.parts import item_from
from inner_rim.desktop.measuring.tools import Caliper
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.editing.settings import DaySettings
from inner_rim.work.tasks.tools import Tool
from inner_rim.work.text.lines import FieldChoice
from tests.desktop.drive import cautions_of, go_on, run


def keys(text):
    QTest.keyClicks(QApplication.focusWidget(), text)


def enter():
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)


def stored(one, qtbot):
    qtbot.waitUntil(lambda: not one.worker.waiting, timeout=10000)
    QApplication.processEvents()  # what the worker's thread has sent is heard


def wheel(one, name):
    one.bench.select(next(s.key for s in one.bench.wheels if s.name.startswith(name)))
    return one.bench.current


def test_a_part_is_found_changed_and_the_plan_takes_from_it(demo, qtbot):
    window, bench = demo.window, demo.bench
    assert wheel(demo, "Warden").plan.tape.width_mm == 31
    QTest.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    page = window.page_of("shelf")
    assert window.page_shown == "shelf" and page.search.hasFocus()
    keys("tape 31")
    assert [line.title for line in page.parts.rows.lines] == ["Ebb tape 31"]
    glance = [line.title for line in page.glance.rows.lines]
    # short for the bench comes first
    assert page.glance.isVisible() and glance.index("Ebb tape 31") == 1
    assert "Running out" in glance and "Ebb tape 29" not in glance
    page._choose(page.parts.rows.lines[0].key)
    assert page.editor.isVisible() and not page.glance.isVisible()
    entry = page.editor._rows["stock"][1]
    assert entry.text() == "1.8"  # meters
    entry.setFocus()
    entry.selectAll()
    keys("2,5")
    enter()
    stored(demo, qtbot)
    assert next(i for i in bench.shelf.items if i.name == "Ebb tape 31").stock == 2500
    entry.setFocus()
    entry.selectAll()
    keys("0")
    enter()
    stored(demo, qtbot)
    assert wheel(demo, "Warden").plan.tape.width_mm == 29  # none of the 31 is left
    assert next(i for i in bench.shelf.items if i.name == "Ebb tape 31").stock == 0


def test_a_new_part_says_what_it_lacks_until_it_is_whole(demo, qtbot):
    page = demo.window.page_of("shelf")
    demo.window.go_to("shelf")
    page.show_kind("valve")
    page.new_part()
    keys("Cut stem")
    enter()
    assert "Length: missing" in page.editor._fault.text()
    page.editor._rows["length_mm"][1].setFocus()
    keys("4 cm")
    enter()
    stored(demo, qtbot)
    made = next(i for i in demo.bench.shelf.items if i.name == "Cut stem")
    assert made.spec["length_mm"] == 40 and page.editor._fault.text() == ""
    page.new_part()
    keys("Cut stem")
    page.editor._rows["length_mm"][1].setFocus()
    keys("50")
    enter()
    assert "already on the shelf" in page.editor._fault.text()
    page.editor.show_item(made)
    page.editor._turn_retired()
    stored(demo, qtbot)
    assert next(i for i in demo.bench.shelf.items if i.name == "Cut stem").retired


def test_tables_go_out_and_in_and_a_bad_one_changes_nothing(demo, qtbot, tmp_path):
    demo.window.go_to("shelf")
    page, shelf = demo.window.page_of("shelf"), demo.bench.shelf
    out = tmp_path / "shelf.csv"
    page.export_file(out)
    assert "21 parts" in page._words.text()
    before = shelf.items
    out.write_bytes(out.read_bytes().replace(b"Ebb tape 21", b"Neap tape 21"))
    running = page.import_file(out)
    qtbot.waitUntil(lambda: running.over)
    stored(demo, qtbot)
    assert {i.name for i in shelf.items} - {i.name for i in before} == {"Neap tape 21"}
    bad = tmp_path / "bad.csv"
    bad.write_text("kind,name,width_mm\ntape,A,27\ntape,B,wide\n")
    running = page.import_file(bad)
    qtbot.waitUntil(lambda: running.over)
    assert "line 3, column width_mm" in page._words.text() and len(shelf.items) == 22
    page.export_file(tmp_path / "no" / "such.csv")
    assert "cannot be written" in page._words.text()


def test_an_import_that_is_stopped_leaves_nothing(demo, qtbot, tmp_path):
    table = tmp_path / "many.csv"
    rows = "".join(f"tape,T {i},27\n" for i in range(2000))
    table.write_text("kind,name,width_mm\n" + rows)
    running = demo.window.page_of("shelf").import_file(table)
    running.stop()
    qtbot.waitUntil(lambda: running.over, timeout=10000)
    stored(demo, qtbot)
    assert "Stopped" in running.words and len(demo.bench.shelf.items) == 21


def test_a_new_part_asks_its_kind_and_follows_the_kind_that_is_chosen(demo):
    demo.window.go_to("shelf")
    page = demo.window.page_of("shelf")
    page._new.click()
    assert page.editor.is_new and page.editor.draft is None  # under All parts: which kind?
    assert page.editor._title.text() == "New part: which kind?"
    page.editor._kinds.buttons["tape"].click()
    assert page.editor.draft.kind == "tape" and "width_mm" in page.editor._rows
    keys("Kelp tape")
    page._kinds["valve"].click()  # another kind at the left: the form follows
    assert page.editor.draft.kind == "valve" and "length_mm" in page.editor._rows
    page._kinds["tape"].click()
    assert page.editor._rows["name"][1].text() == "Kelp tape"  # what was typed waits there


def test_an_empty_shelf_is_not_said_to_hold_anything(session, qtbot):
    from tests.desk import check_in

    one = session()
    check_in(one.bench)
    rows = {row.title: row for row in one.window.views.view().picks}
    assert "none on the shelf yet" in rows["Tape"].note and "a roll" not in rows["Tape"].note
    lines = [line.title for line in one.window.views.view().lines()]
    one.window.run("look_at_stage", "tape")
    lines = [line.title for line in one.window.views.view().lines()]
    assert "Usual widths: none on the shelf yet" in lines


def test_a_finished_stage_takes_from_the_shelf_and_gives_back_when_taken_up_again(demo, qtbot):
    bench = demo.bench
    tape = wheel(demo, "Warden").plan.tape

    def on_hand():
        return next(i for i in bench.shelf.items if i.name == "Ebb tape 35").stock

    bench.editor.type_into("shelf.tape_widths_mm", "35")
    tape = bench.current.plan.tape
    before = on_hand()
    while bench.current.progress.stage == "tape":
        bench.recorder.finish_step()
    stored(demo, qtbot)
    assert tape.width_mm == 35 and on_hand() == pytest.approx(before - tape.length_mm)
    bench.recorder.reopen_stage("tape")
    stored(demo, qtbot)
    assert on_hand() == pytest.approx(before)


def test_the_shop_s_practice_changes_every_plan_that_does_not_say_otherwise(demo, qtbot):
    demo.window.go_to("practice")
    page = demo.window.page_of("practice")
    page.choices["dose"].buttons["lean"].click()
    assert wheel(demo, "Warden").plan.sealant.method == "lean"
    assert wheel(demo, "Dune").plan.sealant.method == "standard"  # its own
    wheel(demo, "Warden")
    demo.bench.editor.type_into("practice.dose", "generous")
    assert demo.bench.current.plan.sealant.method == "generous"
    page.figures["shelf.injector_ml"].setFocus()
    page.figures["shelf.injector_ml"].selectAll()
    keys("30")
    assert demo.bench.current.plan.sealant.loads_ml[0] == 30
    keys("x")
    assert "not understood" in page._fault.text()


def test_the_day_says_at_each_row_how_it_stands_and_the_shelf_opens_beside_it(demo, qtbot):
    demo.window.go_to("day")
    page = demo.window.page_of("day")
    rows = {row.name: row for row in page.board.view.day.rows}
    assert rows["Tern light · front"].sentence.startswith("STOP: ")
    assert rows["Old Curlew · rear"].sentence.startswith("misses ")
    assert "Needs a look" in rows["Old Curlew · rear"].reason
    assert ", due " in rows["Dune roller · rear"].sentence
    assert not page.drawer.isVisible()
    QTest.mouseClick(page.drawer_button, Qt.MouseButton.LeftButton)
    assert page.drawer.isVisible() and "Aftercare" in [line.title for line in page.picks.rows.lines]
    counts = []
    for scope in ("wheel", "job", "bench"):
        page.show_scope(scope)
        counts.append(len(page.picks.rows.lines))
    assert counts[0] <= counts[1] <= counts[2] and counts[2] > 5


def test_a_check_in_teaches_the_shelf_and_the_name_field_offers_it(demo, qtbot):
    bench, page = demo.bench, demo.window.page
    bench.editor.new_wheel()
    for field, text in (
        ("rim.name", "Gull rim"),
        ("rim.bead_seat_diameter_mm", "622"),
        ("rim.internal_width_mm", "23"),
        ("tire.size", "45-622"),
        ("tire.name", "Gull tire"),
    ):
        bench.editor.type_into(field, text)
    bench.recorder.finish_stage("check_in")
    stored(demo, qtbot)
    learned = {i.name: i for i in bench.shelf.items}
    assert learned["Gull rim"].spec["internal_width_mm"] == 23 and learned["Gull tire"].stock == 0
    bench.editor.new_wheel()
    run(page, "look_at_stage", "check_in")
    run(page, "go_to_field", "rim.name")
    row = page.inputs._rows["rim.name"]
    keys("622 gul")
    assert [*row._parts] == ["Gull rim · Ø 622 mm · 23 mm inside"]
    row.entry.taken.emit(next(iter(row._parts)))
    assert bench.current.job.draft.document["wheels"][0]["rim"]["internal_width_mm"] == 23
    assert row.entry.text() == "Gull rim"


def test_the_caliper_types_into_the_field_in_hand(demo, qtbot):
    page, bench = demo.window.page, demo.bench
    wheel(demo, "Dune")
    caliper = Caliper(Tool("caliper", lambda call: call()), bench, page.inputs.focused_row)
    page.now.focus_main()
    caliper.take(24.0)
    assert "go into a length field" in bench.message
    run(page, "go_to_field", "rim.internal_width_mm")
    for value in (76.0, 76.1, 76.2):
        caliper.take(value)
    assert bench.current.wheel.rim.internal_width_mm == pytest.approx(76.1)
    for value in (75.0, 76.1, 76.3):
        caliper.take(value)
    assert "differ by 1.3 mm" in bench.message
    assert bench.current.wheel.rim.internal_width_mm == pytest.approx(76.1)
    caliper.take_questioned()
    assert bench.current.wheel.rim.internal_width_mm == pytest.approx(75.8)


def test_the_simulator_reads_into_the_window(demo, qtbot, monkeypatch):
    from inner_rim.devices.simulator import spoken

    wheel(demo, "Dune")
    demo.window.run("go_to_field", "rim.internal_width_mm")
    demo.window.tools.caliper.tool.simulate(spoken([76.2, 76.2, 76.2], 0.01))
    qtbot.waitUntil(lambda: demo.bench.current.wheel.rim.internal_width_mm == pytest.approx(76.2))
    demo.window.tools.disconnect()


def test_every_choice_at_every_stage_is_shown_and_a_school_is_taken(demo, qtbot):
    from inner_rim.core.record.spoken import STAGES

    bench, page = demo.bench, demo.window.page
    wheel(demo, "Warden")
    bench.editor.type_into("insert.height_mm", "20")
    run(page, "show_choices")
    for stage in STAGES:
        run(page, "look_at_stage", stage)
        assert page.side.choices.rows.lines, stage
    run(page, "look_at_stage", "tape")
    page.side.choices.taken.emit(FieldChoice("practice.tape_width", "match"))
    assert bench.current.plan.tape.method == "match"


def test_a_dip_right_after_dosing_calibrates_and_one_that_cannot_be_is_refused(demo, qtbot):
    bench, page = demo.bench, demo.window.page
    wheel(demo, "Ferry")
    bench.recorder.reopen_stage("sealant")
    while bench.current.plan.behind[-1].code != "sealant.inject":
        go_on(demo.window)
    assert bench.current.plan.log.dosed_ml == 60.0 and page.now.figure.text() == ""
    depth = bench.current.plan.sealant.dip_mm
    page.now.figure.setText("500")
    run(page, "log_dip")
    assert "cannot be this pool's depth" in cautions_of(page)
    page.now.figure.setText(f"{depth / 1.25:.2f}")
    run(page, "log_dip")
    assert bench.current.plan.log.dip_factor == pytest.approx(1.25, abs=0.01)
    assert bench.current.progress.step.code == "core.in"  # before anything is judged


def test_ten_thousand_letters_of_search_are_one_list(demo):
    shelf = demo.bench.shelf
    shelf.adopt(
        tuple(
            item_from("tape", {"name": f"T {i}", "width_mm": 27}, item_id=f"p{i}")
            for i in range(5000)
        )
    )
    assert len(shelf.find("T 4999")) == 1 and len(shelf.offered("T", "tape")) == 12


def test_the_practice_is_searched_by_question_method_and_figure(demo, qtbot):
    qtbot.keyClick(demo.window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    page = demo.window.page_of("practice")
    assert page.search.hasFocus()

    def shown():
        return [i for i, (card, _text) in enumerate(page._cards) if not card.isHidden()]

    assert len(shown()) == len(page._cards)
    qtbot.keyClicks(page.search, "altitude")
    assert shown() == [len(page._cards) - 5]  # the shop's figures
    page.search.clear()
    qtbot.keyClicks(page.search, "thorns")  # what speaks for a method
    assert len(shown()) == 1
    qtbot.keyClick(page.search, Qt.Key.Key_Return)
    assert page.choices["dose"].isAncestorOf(QApplication.focusWidget())
    page.search.setFocus()
    page.search.selectAll()
    qtbot.keyClicks(page.search, "zebra")
    assert shown() == [] and page._none.isVisible()
    demo.window.run("theme")  # what was looked for stays
    assert page.search.text() == "zebra" and shown() == []


def test_hours_days_off_and_mechanics_are_typed_and_the_schedule_keeps_them(demo, qtbot):
    demo.window.go_to("practice")
    card = demo.window.page_of("practice").hours

    def typed(name, text):
        card.entries[name].setFocus()
        card.entries[name].selectAll()
        keys(text or " ")

    typed("wednesday", "9-12.30")
    typed("thursday", "closed")
    typed("days_off", "2026-12-24, 2026-12-25")
    typed("mechanics", "M Osier, R Sedge")
    hours = DaySettings(demo.bench.settings).hours
    assert (hours.week[2].opens, hours.week[2].closes, hours.week[3]) == (540, 750, None)
    assert [day.isoformat() for day in hours.days_off] == ["2026-12-24", "2026-12-25"]
    assert DaySettings(demo.bench.settings).mechanics == ("M Osier", "R Sedge")
    typed("friday", "late")
    assert (
        "such as 8-17:30" in card.fault.text()
        and DaySettings(demo.bench.settings).hours.week[4].opens == 480
    )
    typed("mechanics", ", ".join(f"M Osier {n}" for n in range(21)))
    # each line is named, and one does not hide the other
    first, second = card.fault.text().splitlines()
    assert first.startswith("Friday: “late”") and second == "Mechanics: 21 names: at most 20"
    assert len(DaySettings(demo.bench.settings).mechanics) == 20  # as far as it was understood
    typed("mechanics", "M Osier, " + "R" * 81)
    assert "at most 80 letters" in card.fault.text()
    typed("mechanics", "M Osier, R Sedge")
    assert card.fault.text() == first
    stored(demo, qtbot)
    demo.window.run("theme")  # built anew: what was not understood is still there
    anew = demo.window.page_of("practice").hours
    assert anew.entries["friday"].text() == "late" and anew.fault.text() == first
    card = anew
    for unfinished in ("R Sedge: sat", "N Tern: Mon 8-12"):
        typed("own_hours", unfinished)
        assert f"Own hours: “{unfinished.removeprefix('R Sedge: ')}”: type" in card.fault.text()
    typed("own_hours", "r sedge: tue-wed 13-16, off 2026-12-01")
    assert card.fault.text() == first
    QTest.mouseClick(card.resources["truing stand"], Qt.MouseButton.LeftButton)
    planned = demo.bench.day.plan.now()
    assert [one.hours is None for one in planned.day.mechanics] == [True, False]
    own = planned.day.mechanics[1].hours
    # the shop's too
    assert own.week[0] is None and own.week[1].opens == 780 and len(own.days_off) == 3
    assert {t.resource for w in planned.day.wheels for t in w.tasks if t.stage == "tape"} == {
        "truing stand"
    }
    result = planned.next_up()
    shop = DaySettings(demo.bench.settings).hours  # own hours may go beyond the shop's
    assert result and all(shop.is_open(at) or own.is_open(at) for _state, at, _words in result)


def test_the_board_improves_beside_the_work_and_says_who_does_what_next(demo, qtbot):
    qtbot.keyClick(demo.window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    page = demo.window.page_of("day")
    board = page.board
    qtbot.waitUntil(lambda: not board.planned.looking, timeout=30000)
    names = [row.name for row in board.view.day.rows]
    assert names.index("Dune roller · rear") and any(bar.wait for bar in board.view.day.bars)
    board.view.setFocus()
    QTest.keyClick(board.view, Qt.Key.Key_Right)
    QTest.keyClick(board.view, Qt.Key.Key_Right)
    bar = board.view.chosen
    assert bar is not None
    QTest.keyClick(board.view, Qt.Key.Key_Return)
    assert demo.window.page_shown == "bench" and "/".join(demo.bench.selected) == bar.key
    # what is next, by one key; on the board by its number
    demo.window.page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_J)
    assert demo.bench.message.startswith("Next, ") and demo.bench.current.name in demo.bench.message
    planned = board.planned
    assert planned.wheels[planned.schedule.placed[0].wheel].key == demo.bench.selected
    demo.window.go_to("day")
    (hands,) = board.view.day.hands
    assert len(hands.actions) == 3 == len(board.next_up)
    assert all(
        action.name in button.text()
        for action, button in zip(hands.actions, board.next_up, strict=True)
    )
    QTest.keyClick(demo.window.page_of("day"), Qt.Key.Key_2)
    assert (
        demo.window.page_shown == "bench" and "/".join(demo.bench.selected) == hands.actions[1].key
    )


def test_what_helps_a_late_wheel_is_a_button_that_does_it(demo, qtbot):
    demo.bench.settings.set_shop("hours", {"week": [{"opens": 0, "closes": 1439}] * 7})
    window = demo.window
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    page = window.page_of("day")
    board = page.board
    qtbot.waitUntil(lambda: not board.planned.looking and bool(board.view.helps), timeout=30000)
    row = next(row for row in board.view.day.rows if row.helps)
    selected = demo.bench.selected
    promise = next(button for button in board.view.helps if button.text().startswith("Promise "))
    assert promise.isVisible() and promise.accessibleName().startswith(row.name)
    QTest.mouseClick(promise, Qt.MouseButton.LeftButton)
    state = next(one for one in demo.bench.wheels if "/".join(one.key) == row.key)
    entry = state.job.log[-1].entry
    assert entry.due == state.value("due") and demo.bench.selected == selected
    page.refresh()
    after = next(one for one in board.view.day.rows if one.key == row.key)
    assert not after.late and ", promised " in after.sentence and not after.helps
    window.run("undo")
    page.refresh()
    assert next(one for one in board.view.day.rows if one.key == row.key).late


def test_bars_are_moved_by_key_and_mouse_stay_pinned_and_say_why_they_cannot(demo, qtbot):
    demo.bench.settings.set_shop("mechanics", ["M Osier", "R Sedge"])
    qtbot.keyClick(demo.window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    line = demo.window.page_of("day").board
    view = line.view
    qtbot.waitUntil(lambda: not line.planned.looking, timeout=30000)
    line.watch(False)  # nothing moves by itself meanwhile
    QTest.mouseClick(line.buttons["mechanics"], Qt.MouseButton.LeftButton)
    for _ in range(4):
        view.zoom(-1)  # an hour: each bar is by itself
    view.setFocus()
    assert not line.buttons["pin"].isVisible()
    QTest.keyClick(view, Qt.Key.Key_Right)
    bar = view.chosen
    begun = line.planned.day.at(bar.start)
    QTest.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    moved = view.chosen
    at = line.planned.day.at(moved.start)
    assert moved.pinned and (moved.key, moved.task) == (bar.key, bar.task)
    assert at.minute % 15 == 0 and timedelta(0) < at - begun <= timedelta(minutes=15)
    other = 1 - moved.mechanic
    QTest.keyClick(
        view, Qt.Key.Key_Down if other else Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier
    )
    assert view.chosen.mechanic == other and line.planned.day.at(view.chosen.start) == at
    stored(demo, qtbot)
    (kept,) = DaySettings(demo.bench.settings).pins  # one place, however often it was moved
    assert (kept.at, kept.wheel) == (at, bar.key)
    # what cannot be is said, and nothing moves: the wheel's second task before its first
    second = next(one for one in view.day.bars if (one.key, one.task) == (bar.key, 1))
    view.choose(second)
    for _ in range(100):  # a night may lie between the two
        QTest.keyClick(view, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert (
        "is before it may begin" in line.words.text() or "that time has passed" in line.words.text()
    )
    first = next(one for one in view.day.bars if (one.key, one.task) == (bar.key, 0))
    assert line.planned.day.at(first.start) == at and view.chosen.start >= first.end
    QTest.keyClick(view, Qt.Key.Key_Delete)
    # the mouse
    view.choose(None)
    free = next(one for one in view.day.bars if not one.wait and one.task == 0 and not one.pinned)
    here = view.places.box(free).center().toPoint()
    there = here + QPoint(round(view.places.x(free.start + 240) - view.places.x(free.start)), 0)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(view, there)
    assert view._dragged is not None
    # thought better of it: the page stays, and so does the bar
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert view._dragged is None and demo.window.page_shown == "day" and not view.chosen.pinned
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=there)
    assert not view.chosen.pinned
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(view, there)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=there)
    dropped = view.chosen
    if not line._refused:
        # minutes; a long day has few pixels
        pixel = 240 / (view.places.x(free.start + 240) - view.places.x(free.start))
        assert dropped.pinned and abs(dropped.start - free.start - 240) <= 5 + pixel
        assert dropped.key == free.key
    stored(demo, qtbot)
    repository = Repository(sqlite_url(demo._file))
    kept = [value for name, value in repository.bench().settings.items() if name.startswith("pin.")]
    assert bar.key in {pin["wheel"] for pin in kept}
    repository.close()
    view.choose(next(one for one in view.day.bars if (one.key, one.task) == (bar.key, 0)))
    assert line.buttons["pin"].text() == "Unpin"
    QTest.mouseClick(line.buttons["pin"], Qt.MouseButton.LeftButton)
    assert bar.key not in {pin.wheel for pin in DaySettings(demo.bench.settings).pins}


@pytest.mark.past
def test_while_a_wheel_is_typed_it_says_when_it_can_be_ready_and_the_promise_is_kept_in_mind(
    demo, qtbot
):
    window, page = demo.window, demo.window.page
    state = wheel(demo, "Dune")
    qtbot.waitUntil(
        lambda: (
            "nine times in ten" in page.now._head.text() or "nine in ten" in page.now._head.text()
        )
    )
    sure = demo.bench.day.promised[state.key[0]].sure
    window.run("go_to_field", "due")
    QApplication.focusWidget().selectAll()
    QTest.keyClicks(
        QApplication.focusWidget(), (sure - timedelta(hours=5)).strftime("%Y-%m-%d %H:%M")
    )
    qtbot.waitUntil(lambda: "is too early" in page.now._head.text())
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: demo.bench.day.promised[state.key[0]].sure is not None)
    told = demo.bench.day.promised[state.key[0]].sure
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_U)
    assert demo.bench.message.startswith("Promised for ")
    assert demo.bench.current.job.draft.document["due"] == told.isoformat(timespec="minutes")
    stored(demo, qtbot)
    repository = Repository(sqlite_url(demo._file))
    job = next(job for job in repository.bench().jobs if job.job_id == state.job.job_id)
    assert job.document["due"] == job.log[-1].entry.due == told.isoformat(timespec="minutes")
    assert state.wheel_id in repository.logbook.logs(("promise",))
    repository.close()
    # the record counts what has come due: the demo's promises were kept but for three, this one is open
    window.go_to("day")
    assert "Promises kept: 71 of 77." in window.page_of("day").board.words.text()


def test_a_wheel_that_waits_is_marked_by_the_actions_and_says_so_on_the_board(demo, qtbot):
    window, page = demo.window, demo.window.page
    state = wheel(demo, "Warden")
    assert window.run("waits") and page.inputs._rows["waits.on"].isVisible()
    QTest.mouseClick(page.inputs._rows["waits.on"].buttons["part"], Qt.MouseButton.LeftButton)
    page.inputs.focus_field("waits.what")
    keys("38 mm valve")
    enter()
    assert "Waits for a part: 38 mm valve" in page._view.now.quiet
    window.go_to("day")
    rows = {row.key: row for row in window.page_of("day").board.view.day.rows}
    assert rows["/".join(state.key)].sentence == "Waits for a part: 38 mm valve"
    stored(demo, qtbot)
    repository = Repository(sqlite_url(demo._file))
    job = next(job for job in repository.bench().jobs if job.job_id == state.key[0])
    assert job.document["wheels"][0]["waits"] == {"on": "part", "what": "38 mm valve"}
    repository.close()


def test_a_field_arrived_at_stays_selected_while_its_part_changes(demo):
    """A stage that ends books stock while somebody is about to type: 5 must not become 50."""
    demo.window.go_to("shelf")
    editor = demo.window.page_of("shelf").editor
    item = next(one for one in demo.bench.shelf.items if one.kind == "tape" and one.low_at)
    editor.show_item(item)
    field = editor._rows["low_at"][1]
    field.setFocus(Qt.FocusReason.TabFocusReason)
    editor.show_item(msgspec.structs.replace(item, stock=item.stock - 1000.0))
    editor.show_item(msgspec.structs.replace(item, stock=item.stock, low_at=item.low_at + 500.0))
    QTest.keyClicks(field, "5")
    assert field.text() == "5"


def test_what_is_typed_while_a_new_part_is_on_its_way_to_the_store_is_kept(demo, qtbot):
    demo.window.go_to("shelf")
    editor = demo.window.page_of("shelf").editor
    editor.begin("tape")
    rows = {path: widget for path, (_spec, widget) in editor._rows.items()}
    for path, text in (("name", "Reed 33"), ("width_mm", "33")):
        rows[path].setFocus()
        QTest.keyClicks(rows[path], text)
    rows["low_at"].setFocus(Qt.FocusReason.TabFocusReason)  # it is whole: it goes to the store
    QTest.keyClicks(rows["low_at"], "2.5")  # before the store has answered
    assert editor.item is None
    qtbot.waitUntil(lambda: editor.item is not None and not demo.worker.waiting)
    QTest.keyClicks(rows["low_at"], "5")
    assert rows["low_at"].text() == "2.55"
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    stored = next(item for item in demo.bench.shelf.items if item.name == "Reed 33")
    assert (stored.low_at, stored.spec["width_mm"]) == (2550.0, 33.0)
