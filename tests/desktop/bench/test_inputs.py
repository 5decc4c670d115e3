"""Every field of every stage, by hand."""

import itertools
from datetime import timedelta

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.core.record.job import parse_due
from inner_rim.core.record.spoken import STAGES
from inner_rim.work.editing.draft import get
from inner_rim.work.editing.fields import field, text_of
from inner_rim.work.editing.state import in_wheel
from inner_rim.work.text.stage_fields import CAME_IN, DECIDES, STAGE_FIELDS, stage_of
from tests.desk import check_in
from tests.desktop.drive import run, select

LINES = [line for groups in STAGE_FIELDS.values() for lines in groups.values() for line in lines]
#: What to type where a number will not do.
WORDS = {
    "rim.name": "Saltmarsh", "tire.name": "Heron", "tire.size": "47-622", "name": "Tern", "due": "2026-12-01", "waits.until": "2026-12-01",
    "customer": "Ferry kiosk", "bike": "Tandem", "insert.name": "Foam", "rim.bead_seat_diameter_mm": "622",
    "rim.internal_width_mm": "25", "shelf.tape_widths_mm": "25 27 29", "shelf.valve_lengths_mm": "40 44",
    "tire.min_pressure_kpa": "1.2", "ride.temperature_c": "-3", "rim.seat_circumference_mm": "1953",
    "tire.label_dose_ml": "80",
    "rim.well.floor_mm": "8", "rim.well.left_shoulder_mm": "5", "rim.well.right_shoulder_mm": "4",
    "insert.bead_seat_diameter_mm": "622", "load_n": "400", "ride.altitude_m": "900", "insert.mass_g": "120",
    "insert.volume_ml": "400", "insert.tires_used": "1", "shelf.injector_ml": "60", "rim.spokes": "28",
    "rim.depth_at_valve_mm": "21,5", "tire.measured_width_mm": "46", "tire.measured_on_rim_mm": "24",
    "practice.overlap_mm": "180", "previous_width_mm": "40", "ride.total_mass_kg": "88", "insert.rim_min_mm": "20",
    "insert.rim_max_mm": "30", "insert.tire_min_mm": "40", "insert.tire_max_mm": "60", "insert.height_mm": "18", "work.tape_laid": "2025-04-01", "sealant.in_since": "2026-03-01", "work.tape_changes": "1",
    "rim.valve_hole_mm": "6.5", "practice.gauge_step_kpa": "0.05",
}  # fmt: skip


def test_every_stage_has_fields_and_every_field_has_a_place():
    assert set(STAGE_FIELDS) == set(STAGES)
    for line in LINES:
        if line is not CAME_IN:
            spec = field(f"wheels[0].{line.path}" if in_wheel(line.path) else line.path)
            assert set(line.words) <= set(spec.choices)
        groups = STAGE_FIELDS[stage_of(line.path)]
        assert any(result.path == line.path for lines in groups.values() for result in lines)


@pytest.mark.parametrize("stage", STAGES)
def test_every_field_of_a_stage_takes_its_value_and_gives_it_back(session, qtbot, stage):
    one = session(demo=True)
    page = one.window.page
    run(page, "look_at_stage", stage)
    for group in STAGE_FIELDS[stage].values():
        for line in group:
            # a part that comes or goes changes the procedure, and with it the stage
            run(page, "look_at_stage", stage)
            page.inputs.show_more()
            if line.path == "work.kind" or line is CAME_IN:
                continue  # see `test_the_kind_of_work_stands_once_the_work_has_started`, and below
            row = page.inputs._rows[line.path]
            path = one.bench.current.path(line.path)
            if row.entry is None:
                for value, button in row.buttons.items():
                    button = page.inputs._rows[line.path].buttons[value]
                    if not button.isChecked():
                        button.click()
                        run(page, "look_at_stage", stage)
                        button = page.inputs._rows[line.path].buttons[value]
                    typed = text_of(
                        row._spec, get(one.bench.current.job.draft.document, path), one.bench.units
                    )
                    assert typed == value and button.isChecked()
                continue
            assert page.inputs.focus_field(line.path) and row.entry.hasFocus()
            row.entry.selectAll()
            qtbot.keyClicks(row.entry, WORDS.get(line.path, "2"))
            assert row.entry.text() == WORDS.get(line.path, "2"), line.path
            assert path not in one.bench.current.job.draft.drafts, (
                line.path,
                one.bench.current.reading.problems,
            )
            assert get(one.bench.current.job.draft.document, path) is not None
    assert one.bench.planned is not None


@pytest.mark.parametrize("more", [False, True])
def test_enter_goes_through_all_fields_in_view_and_ends_at_the_main_action(session, qtbot, more):
    one = session(demo=True)
    page = one.window.page
    select(one.window, "Dune")
    page.inputs.show_more(more)
    page.inputs.focus_first()
    seen = []
    for _ in range(60):
        focus = QApplication.focusWidget()
        row = next((r for r in page.inputs._rows.values() if r.isAncestorOf(focus)), None)
        if row is None:
            break
        seen.append(row.line.path)
        before = one.bench.current.job.draft
        qtbot.keyClick(focus, Qt.Key.Key_Return)
        assert one.bench.current.job.draft == before  # going on changes nothing
    groups = STAGE_FIELDS["check_in"]
    assert seen == [line.path for name in (groups if more else [DECIDES]) for line in groups[name]]
    assert QApplication.focusWidget() is page.now._buttons[0]


def test_more_opens_itself_at_the_field_that_a_figure_needs(session, qtbot):
    """A hookless rim asks for the tire's approval, a repair for where it leaks; a wheel without a size for no diameter."""
    one = session()
    one.window.run("new_wheel")
    inputs = one.window.page.inputs

    def seen():
        return [path for path, row in inputs._rows.items() if row.isVisible()]

    base = [line.path for line in STAGE_FIELDS["check_in"][DECIDES]]
    assert seen() == base and inputs.more.text() == "More…"
    for path, text in (
        ("rim.hook", "straight_side"),
        ("work.kind", "repair"),
        ("rim.bead_seat_diameter_mm", "9999"),
    ):
        one.bench.editor.type_into(path, text)
    assert seen()[len(base) :] == [
        "tire.straight_side_approved",
        "work.leak",
        "rim.bead_seat_diameter_mm",
    ]
    QTest.mouseClick(inputs.more, Qt.MouseButton.LeftButton)
    assert len(seen()) == sum(len(lines) for lines in STAGE_FIELDS["check_in"].values())
    QTest.mouseClick(inputs.more, Qt.MouseButton.LeftButton)
    assert "tire.casing_mm" not in seen() and "work.keep_tape" not in seen()


def test_how_a_wheel_came_in_is_one_answer_for_several_facts_and_one_step_back(session):
    one = session()
    check_in(one.bench)
    row = one.window.page.inputs._rows["arrival"]
    assert row.buttons["tube"].property("usual") == "true"  # of a conversion
    QTest.mouseClick(row.buttons["flat"], Qt.MouseButton.LeftButton)
    result = one.bench.current.plan.setup.arrival
    assert (result.tube, result.tire, result.seated, result.air) == (False, "on", False, False)
    assert row.buttons["flat"].isChecked()
    QTest.mouseClick(row.buttons["off"], Qt.MouseButton.LeftButton)
    assert (
        one.bench.current.plan.setup.arrival.tire == "off"
        and one.bench.current.value("arrival.seated") is None
    )
    one.bench.undo()
    one.bench.undo()
    assert one.bench.current.job.draft.document["wheels"][0].get("arrival") in (None, {})
    one.bench.editor.type_into("arrival.tire", "one_bead_off")
    assert not any(button.isChecked() for button in row.buttons.values())  # none of the four


def test_the_rim_goes_with_the_tire_and_a_time_is_typed_as_it_is_said(session, qtbot):
    one = session()
    one.window.run("new_wheel")
    inputs = one.window.page.inputs
    for path, text in (
        ("tire.size", "26x1 3/8"),
        ("rim.internal_width_mm", "19"),
        ("due", "tomorrow 5pm"),
    ):
        while not inputs._rows[path].holds_focus():
            qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
        entry = inputs._rows[path].entry
        for letter in text:
            qtbot.keyClicks(entry, letter)
            assert (
                path != "tire.size" or one.bench.current.value("rim.bead_seat_diameter_mm") is None
            )
        assert entry.text() == text
    qtbot.keyClick(entry, Qt.Key.Key_Return)
    # not 559, which "26x1" would be
    assert one.bench.current.value("rim.bead_seat_diameter_mm") == 590.0
    due = parse_due(one.bench.current.value("due"))
    assert (due.hour, due.date() - one.bench.time.astimezone().date()) == (17, timedelta(days=1))
    assert entry.text() == f"{due:%a %d %b} 17:00"
    inputs.focus_field("due")
    entry.selectAll()
    qtbot.keyClicks(entry, entry.selectedText().replace("17:00", "16:30"))
    assert parse_due(one.bench.current.value("due")) == due.replace(hour=16, minute=30)


def test_an_offered_size_is_taken_by_a_click(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    run(page, "go_to_field", "tire.size")
    row = page.inputs._rows["tire.size"]
    row.entry.selectAll()
    qtbot.keyClicks(row.entry, "650x40")
    qtbot.waitUntil(row._offers.isVisible)
    layout = row._offers.layout()
    first = layout.itemAt(0).widget()
    assert first.text() == "40-584"
    qtbot.mouseClick(first, Qt.MouseButton.LeftButton)
    assert one.bench.current.wheel.tire.size == "40-584" and row.entry.text() == "40-584"
    assert one.bench.current.reading.problems == {}


def test_a_value_that_another_hand_changed_shows_in_the_field_at_once(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    run(page, "look_at_stage", "check_in")
    run(page, "go_to_field", "rim.internal_width_mm")
    row = page.inputs._rows["rim.internal_width_mm"]
    one.bench.editor.type_into("rim.internal_width_mm", "26")
    assert row.entry.text() == "26"
    row.entry.selectAll()
    qtbot.keyClicks(row.entry, "25,50")
    # a spelling of the stored value is left alone while it is typed
    assert row.entry.text() == "25,50"
    page.now.focus_main()
    assert row.entry.text() == "25.5"


def test_every_control_says_what_it_is(session):
    from PyQt6.QtWidgets import QLineEdit, QPushButton

    one = session(demo=True)
    page = one.window.page
    for stage in STAGES:
        run(page, "look_at_stage", stage)
        for entry in one.window.findChildren(QLineEdit):
            assert entry.accessibleName() or not entry.isVisible(), stage
        for button in one.window.findChildren(QPushButton):
            assert button.accessibleName() or button.text().strip() or not button.isVisible(), stage
    for view in (page.deck.act, page.scale, page.picks, page.wheels, page.now):
        assert view.accessibleName()


def test_a_choice_is_made_by_arrow_letter_or_space(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    run(page, "look_at_stage", "check_in")
    page.inputs.focus_field("tire.new")
    for key, value in (
        (Qt.Key.Key_N, False),
        (Qt.Key.Key_Y, True),
        (Qt.Key.Key_Right, False),
        (Qt.Key.Key_Left, True),
    ):
        qtbot.keyClick(QApplication.focusWidget(), key)
        assert one.bench.current.wheel.tire.new is value
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Space)  # taken back: not known again
    assert one.bench.current.wheel.tire.new is None
    row = page.inputs._rows["tire.new"]
    assert [b.focusPolicy() for b in row.buttons.values()] == [
        Qt.FocusPolicy.StrongFocus,
        Qt.FocusPolicy.ClickFocus,
    ]
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_X)
    assert one.bench.current.wheel.tire.new is None


def test_the_kind_of_work_stands_once_the_work_has_started(session):
    one = session()
    check_in(one.bench)
    one.bench.editor.type_into("work.kind", "refresh")
    assert (
        one.bench.current.plan.work == "refresh" and "tape" not in one.bench.current.progress.stages
    )
    one.bench.editor.type_into("work.kind", "convert")
    one.bench.recorder.finish_stage("check_in")
    one.bench.editor.type_into("work.kind", "refresh")
    assert one.bench.current.plan.work == "convert" and "has started" in one.bench.message


def test_enter_takes_the_size_of_the_rim_s_own_diameter_and_goes_on(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    run(page, "look_at_stage", "check_in")
    assert one.window.run("go_to_field", "tire.size")
    row = page.inputs._rows["tire.size"]
    one.bench.editor.type_into("rim.bead_seat_diameter_mm", "571")
    row.entry.selectAll()
    qtbot.keyClicks(row.entry, "650x40")
    qtbot.waitUntil(row._offers.isVisible)
    first = row._offers.layout().itemAt(0).widget()
    assert first.text().startswith("40-571") and first.text().endswith("Enter")
    qtbot.keyClick(row.entry, Qt.Key.Key_Return)
    assert (
        get(one.bench.current.job.draft.document["wheels"][one.bench.current.index], "tire.size")
        == "40-571"
    )
    assert not row.entry.hasFocus()  # on to the next field
    # where none of them is the rim's, Enter decides nothing
    one.bench.editor.type_into("rim.bead_seat_diameter_mm", "622")
    one.window.run("go_to_field", "tire.size")
    row.entry.selectAll()
    qtbot.keyClicks(row.entry, "650x40")
    qtbot.keyClick(row.entry, Qt.Key.Key_Return)
    assert one.bench.current.typed("tire.size").text == "650x40"


@pytest.mark.parametrize("stage", STAGE_FIELDS)
def test_after_a_choice_with_the_mouse_the_keyboard_goes_on_in_the_next_field(demo, stage):
    window, inputs = demo.window, demo.window.page.inputs
    select(window, "Dune")
    window.run("look_at_stage", stage)
    inputs.show_more()
    rows = [inputs._rows[path] for path in inputs._paths()]
    for row, after in itertools.pairwise(rows):
        button = next((one for one in row.buttons.values() if not one.isChecked()), None)
        if button is None or row.path == "arrival":  # its answers are shown in the fields below it
            continue
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        assert after.isAncestorOf(QApplication.focusWidget())
        button = next(one for one in row.buttons.values() if one.isChecked())
        # taken back: there is something to think about
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        assert row.isAncestorOf(QApplication.focusWidget())
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def test_a_long_name_shows_its_beginning_when_the_hand_has_left(demo):
    inputs = demo.window.page.inputs
    demo.bench.select(next(one.key for one in demo.bench.wheels if one.name.startswith("Dune")))
    demo.window.run("go_to_field", "rim.name")
    entry = inputs._rows["rim.name"].entry
    QTest.keyClicks(entry, "Wide sand rim of the beach patrol, second set, rear")
    assert entry.cursorPosition() > 40
    QTest.keyClick(entry, Qt.Key.Key_Return)
    assert not entry.hasFocus() and entry.cursorPosition() == 0


def test_a_stage_that_what_is_typed_adds_does_not_take_the_field_from_under_the_hand(demo):
    """An insert's name adds its stage to the work; its letters would be commands there."""
    window = demo.window
    demo.bench.select(
        next(one.key for one in demo.bench.wheels if one.name.startswith("Sandpiper 2 · front"))
    )
    before = demo.bench.logged
    window.run("look_at_stage", "check_in")
    window.run("go_to_field", "insert.name")
    entry = QApplication.focusWidget()
    for letter in "Foam":
        QTest.keyClick(QApplication.focusWidget(), letter)
    assert entry.hasFocus() and entry.text() == "Foam" and window.views.looking.stage == "check_in"
    assert demo.bench.current.wheel.insert.name == "Foam" and demo.bench.logged == before
    assert demo.bench.current.progress.stage == "insert"
    QTest.keyClick(entry, Qt.Key.Key_Escape)  # closes the suggestions
    assert entry.hasFocus() and not entry.suggesting
    QTest.keyClick(entry, Qt.Key.Key_Escape)
    demo.bench.changed()  # the next look, with the hand off the field
    assert window.views.looking.stage == "insert"


def test_a_check_in_is_said_in_one_line_and_taken_back_in_one_step(session, qtbot):
    """Said with the keyboard alone, read back from the data; what was not understood stays where it was typed."""
    one = session(demo=True)
    window, bench = one.window, one.bench
    window.run("new_wheel")
    qtbot.keyClick(one.window._app.focusWidget(), Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    line = window.page.inputs.line
    assert line.hasFocus()
    qtbot.keyClicks(line, "45-622 on 24 hooked, max 3.4, 98 kg, blue")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert line.text() == "blue" and "Not understood: “blue”" in bench.message
    wheel = bench.current.job.draft.document["wheels"][0]
    assert wheel["rim"] == {
        "bead_seat_diameter_mm": 622.0,
        "internal_width_mm": 24.0,
        "hook": "hooked",
    }
    assert wheel["tire"] == {"size": "45-622", "max_pressure_kpa": 340.0}
    assert bench.planned is not None and bench.current.value("ride.total_mass_kg") == 98.0
    assert window.page.inputs.more.text() == "More…"  # nothing that is missing is behind it
    line.clear()
    qtbot.keyClicks(line, "rear")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert line.text() == "" and bench.current.value("position") == "rear"
    assert window.page.now._buttons[0].hasFocus()  # nothing is missing: the check-in can be ended
    bench.undo()
    assert bench.current.value("position") is None
    bench.undo()
    assert (
        bench.current.job.draft.document["wheels"][0]["rim"] == {}
        and bench.current.value("tire.size") is None
    )


def test_what_a_line_says_is_shown_field_by_field_while_it_is_typed(session, qtbot):
    one = session()
    page = one.window.page
    run(page, "new_wheel")
    inputs = page.inputs
    inputs.line.setFocus()
    qtbot.keyClicks(inputs.line, "45-622 on 24 no hook, tire max 3.4, well 4, zebra")
    said = inputs.preview.text()
    assert inputs.preview.isVisible()
    for words in (
        "Tire size: 45-622",
        "Rim width, inside: 24",
        "Hook: hookless",
        "Tire's max pressure: 3.4",
        "Well depth: 4",
        "zebra",
    ):
        assert words in said, words
    assert said.index("Tire size") < said.index("Hook") < said.index("not understood")
    qtbot.keyClick(inputs.line, Qt.Key.Key_Return)
    assert one.bench.current.value("rim.hook") == "straight_side"
    assert inputs.line.text() == "zebra" and not inputs.preview.isVisible()
