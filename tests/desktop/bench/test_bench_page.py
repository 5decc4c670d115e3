import colorsys
import re

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QAbstractItemModelTester, QTest
from PyQt6.QtWidgets import QLineEdit

from inner_rim.core.record.log import Attempt, Dose, Inspection, SignOff
from inner_rim.desktop.widgets import theme as themes
from inner_rim.desktop.widgets.theme import Theme
from tests.desktop.drive import cautions_of, go_on, run

KEY, CONTROL = Qt.Key, Qt.KeyboardModifier.ControlModifier


def keys(qtbot, text, widget=None):
    from PyQt6.QtWidgets import QApplication

    for letter in text:
        qtbot.keyClicks(widget or QApplication.focusWidget(), letter)


def press(qtbot, window, key, modifier=Qt.KeyboardModifier.NoModifier):
    from PyQt6.QtWidgets import QApplication

    qtbot.keyClick(QApplication.focusWidget() or window, key, modifier)


def type_wheel(qtbot, one):
    """A new wheel by keyboard alone: Enter goes from field to field."""
    window = one.window
    press(qtbot, window, KEY.Key_N, Qt.KeyboardModifier.ControlModifier)
    for text in ("", "", "Heron", "45-622", "Saltmarsh", "24", "h", "", "4", "50 psi"):
        keys(qtbot, text)
        press(qtbot, window, KEY.Key_Return)
    # behind "More"
    for field, text in (("rim.depth_at_valve_mm", "18"), ("tire.min_pressure_kpa", "1,5")):
        window.run("go_to_field", field)
        keys(qtbot, text)
    press(qtbot, window, KEY.Key_Escape)


def test_a_wheel_from_typing_to_handing_over_by_keys_and_back_after_a_restart(session, qtbot):
    one = session()
    assert one.window.page.now._action.text() == "Put the first wheel on the bench"
    type_wheel(qtbot, one)
    bench, window = one.bench, one.window
    wheel = bench.current.wheel
    assert (wheel.rim.internal_width_mm, wheel.tire.size, wheel.tire.min_pressure_kpa) == (
        24,
        "45-622",
        150,
    )
    assert wheel.tire.max_pressure_kpa == pytest.approx(344.74, abs=0.01)
    assert not isinstance(window._app.focusWidget(), QLineEdit)
    asked = []
    # yes, and done
    while bench.current.progress.stage != "seat" or bench.current.progress.step is not None:
        if bench.current.progress.question:
            asked.append(bench.current.progress.question.code)
        go_on(window)
    assert asked == [
        "spoke_end_through",
        "rim_dented",
        "tape_laid_badly",
        "tire_unsound",
        "arrow_not_confirmed",
    ]
    press(qtbot, window, KEY.Key_N)
    assert bench.current.progress.seating.step_kpa == 210 and window.page.now.figure.text() == "2.1"
    press(qtbot, window, KEY.Key_L)
    press(qtbot, window, KEY.Key_3)
    press(qtbot, window, KEY.Key_Right)
    press(qtbot, window, KEY.Key_5)
    press(qtbot, window, KEY.Key_Return)
    logged = bench.current.log[-1].entry
    assert isinstance(logged, Attempt)
    assert (logged.outcome, logged.low_left, logged.low_right) == ("one_low", (3,), (5,))
    assert bench.current.progress.state == "problem"
    let_out = [step.code for step in bench.current.progress.together]
    assert let_out == ["air.deflate", "bead.push"]  # what to do about it, before the next try
    go_on(window)
    # from the lowest step
    assert bench.current.progress.seating.step_kpa == 140 and bench.current.progress.seats_next
    press(qtbot, window, KEY.Key_R)
    keys(qtbot, "3.6")
    press(qtbot, window, KEY.Key_Return)  # leaves the figure
    go_on(window)  # both sides up, but above the limit
    assert (
        bench.current.progress.seating.over_limit
        and "Above the limit" in window.page.now._head.text()
    )
    go_on(window)
    assert isinstance(bench.current.log[-1].entry, Inspection)
    # the air was let out: nothing is at pressure, and the line is looked at again from the first step on
    physical = bench.current.plan.log.state
    assert (physical.air, physical.line) == ("flat", "unseen")
    assert (
        bench.current.progress.stage == "seat" and bench.current.progress.seating.step_number == 1
    )
    go_on(window)
    # up to where it is sealed, as a step of its own
    assert bench.current.progress.seating.step_kpa == 240
    go_on(window)
    # injected, so it is proved tight first
    assert bench.current.progress.question.code == "dry_test_leaks"
    assert [one.command for one in window.page.now.answers][:3] == [
        "answer_yes",
        "answer_no",
        "weeps",
    ]
    press(qtbot, window, KEY.Key_N)  # each place has its own remedy
    assert [one.command for one in window.page.now.answers][:4] == [
        "weeps", "one_more_layer", "tape_again", "fixed"
    ]  # fmt: skip
    press(qtbot, window, KEY.Key_4)
    assert not bench.current.progress.open_stops
    waited = 0
    while window.page.now.answers[0].command != "read_gauge":
        waited += bool(bench.current.progress.waiting.until)
        go_on(window)
        assert waited < 10
    assert waited >= 1  # flat on each side
    (dose,) = (one.entry for one in bench.current.log if isinstance(one.entry, Dose))
    # it stood ready, though steps before it were confirmed
    assert dose.dose_ml == bench.current.plan.sealant.dose_ml
    now = window.page.now
    now.figure.setText("4")
    press(qtbot, window, KEY.Key_Return)
    assert "above the limit" in cautions_of(now) and not bench.current.progress.holding.readings
    for pressure, air in (("2.3", "20"), ("a lot", "20"), ("2.28", "hot"), ("2.28", "64 f")):
        now.figure.setText(pressure)
        now.reason.setText(air)
        press(qtbot, window, KEY.Key_Return)
    assert [r[1:] for r in bench.current.progress.holding.readings] == [
        (230.0, 20.0),
        (228.0, pytest.approx(17.8, abs=0.1)),
    ]
    press(qtbot, window, KEY.Key_D)
    assert bench.current.progress.stage == "set"
    now.figure.setText("4")
    now.signature.setText("M. Osier")
    press(qtbot, window, KEY.Key_Return)
    assert "above the limit" in cautions_of(now) and bench.current.progress.stage == "set"
    now.figure.setText("1.9")
    now.focus_main()
    press(qtbot, window, KEY.Key_Return)
    ways = {
        "tape_kind": "polyester",
        "tape_start": "at_valve",
        "layers": "1",
        "seating": "steps",
        "dose": "standard",
    }
    assert bench.current.log[-1].entry == SignOff(
        by="M. Osier", pressure_kpa=190, ride_kpa=190, methods=ways
    )
    assert bench.current.progress.state == "finished"
    progress = bench.current.progress
    qtbot.waitUntil(lambda: not one.worker.waiting)
    one.finish()
    again = session()
    assert again.bench.current.progress == progress
    assert len(again.bench.current.log) == len(bench.current.log)


def test_what_is_wrong_stands_beside_the_field_and_the_last_plan_stays(session, qtbot):
    one = session(demo=True)
    qtbot.waitUntil(lambda: one.bench.shelf.loaded and not one.worker.waiting)
    # figures move once when it is there
    qtbot.waitUntil(lambda: one.bench.shop.learned is not None)
    page = one.window.page
    plan = one.bench.current.plan
    run(page, "go_to_field", "tire.size")
    keys(qtbot, "26 x 2")
    row = page.inputs._rows["tire.size"]
    qtbot.waitUntil(row._fault.isVisible)  # after a moment's patience
    assert "several diameters" in row._fault.text()
    assert one.bench.current.plan == plan and page.picks._stale
    offered = [w.text() for w in row._offers.findChildren(type(page._new)) if not w.isHidden()]
    assert offered[0] == "50-559"
    press(qtbot, one.window, KEY.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert row.entry.text() == "45-622" and not row._fault.isVisible() and not page.picks._stale


def test_stops_are_shown_with_the_way_to_the_field(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    stopped = next(s for s in one.bench.wheels if s.progress.state == "stopped")
    one.bench.select(stopped.key)
    assert one.window.turns.view().now.head == "STOP" and "not approved" in page.now._action.text()
    assert not one.window.context().offers("finish")
    press(qtbot, one.window, KEY.Key_Return)
    assert (
        one.window._app.focusWidget()
        is page.inputs._rows["tire.straight_side_approved"].buttons["no"]
    )


def test_every_pick_opens_to_its_why_in_the_chosen_units(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    page.now.focus_main()
    for number in (1, 2, 3, 4, 5, 6, 7, 8, 9, 0):
        press(qtbot, one.window, getattr(KEY, f"Key_{number}"))
        text = page.why.text.toPlainText()
        assert "Source" not in text and text.split("\n")[0].endswith(".")
        QTest.mouseClick(page.why.whole, Qt.MouseButton.LeftButton)
        whole = page.why.text.toPlainText()
        assert whole.startswith(text.strip()) and "Source" in whole
        assert page.side._pages.currentWidget() is page.why
        press(qtbot, one.window, KEY.Key_Escape)
        assert page.side._pages.currentWidget() is not page.why
    one.window.run("units")
    run(page, "why", "7")
    assert "49.3 psi" in page.why.text.toPlainText() and "bar" not in page.why.text.toPlainText()


def test_a_part_used_before_fills_the_rim(session, qtbot):
    one = session(demo=True)
    press(qtbot, one.window, KEY.Key_N, Qt.KeyboardModifier.ControlModifier)
    one.window.run("go_to_field", "rim.name")
    row = one.window.page.inputs._rows["rim.name"]
    qtbot.waitUntil(lambda: one.window._app.focusWidget() is row.entry)
    qtbot.waitUntil(lambda: any(name.startswith("Reed bed 584") for name in row._parts))
    keys(qtbot, "reed")
    assert row.entry.suggesting and [*row._parts] == [
        "Reed bed 584 · Ø 584 mm · 27 mm inside · hooked · at most 3.20 bar"
    ]
    press(qtbot, row.entry, KEY.Key_Down)
    press(qtbot, row.entry, KEY.Key_Return)
    qtbot.waitUntil(
        lambda: "bead_seat_diameter_mm" in one.bench.current.job.draft.document["wheels"][0]["rim"]
    )
    assert one.bench.current.job.draft.document["wheels"][0]["rim"]["bead_seat_diameter_mm"] == 584
    assert one.window.page.inputs._rows["rim.internal_width_mm"].entry.text() == "27"
    assert (
        one.window._app.focusWidget() is one.window.page.inputs._rows["rim.internal_width_mm"].entry
    )


def test_a_click_on_a_part_of_the_drawing_goes_to_its_field(session, qtbot):
    one = session(demo=True)
    one.window.run("show_section")
    one.shell.grab()
    view = one.window.page.deck.section
    frame = view._frame
    middle = view._at((0.0, -view._state.plan.tire.section_height_mm / 2), frame).toPoint()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(middle))
    assert one.window._app.focusWidget() is one.window.page.inputs._rows["tire.size"].entry


@pytest.mark.parametrize("scale", [1.0, 1.25])
@pytest.mark.parametrize("name", themes.NAMES)
def test_no_button_cuts_its_words_in_any_theme_and_size(session, name, scale):
    one = session(demo=True)
    one.window.use_theme(Theme(name, scale))
    page = one.window.page
    for state in list(one.bench.wheels):
        one.bench.select(state.key)
        one.shell.grab()
        one.window._app.processEvents()  # answers that do not fit go into two rows
        for button in page.now._buttons:
            words = button.fontMetrics().horizontalAdvance(button.text())
            assert words <= button.width() - 4, (state.name, button.text())
    assert one.shell.width() == 1280  # nothing pushed the window wider


def luminance(color):
    parts = [int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("name", themes.NAMES)
def test_contrast_of_every_text_on_its_ground(name):
    # W3C WCAG 2.1, success criterion 1.4.3: at least 4.5 to 1.
    t = Theme(name).tokens
    pairs = [
        ("ink", "ground"), ("ink", "card"), ("muted", "ground"), ("muted", "card"), ("accent", "card"),
        ("accent", "ground"), ("accent", "accent_soft"), ("on_accent", "accent"), ("on_ink", "ink"),
        ("caution", "card"), ("caution", "ground"), ("caution", "caution_soft"), ("caution_on_ink", "ink"),
        ("stop", "card"), ("stop", "ground"), ("stop", "stop_soft"), ("ink", "accent_soft"), ("ink", "air"),
    ]  # fmt: skip
    for text, ground in pairs:
        a, b = sorted((luminance(getattr(t, text)), luminance(getattr(t, ground))), reverse=True)
        assert (a + 0.05) / (b + 0.05) >= 4.5, (text, ground)
    assert colorsys and re.fullmatch(r"#[0-9A-F]{6}", t.ink)


#: Shapes that say something, and their backgrounds: each pair has a contrast of 3 to 1 (W3C WCAG 2.1, 1.4.11).
SHAPES = (
    *((edge, ground) for edge in ("edge", "accent", "stop", "ink") for ground in ("card", "ground", "field")),
    *(("metal_edge", ground) for ground in ("card", "air")),
    *(("ink", ground) for ground in ("air", "liquid", "foam")),
    *(("rubber", ground) for ground in ("metal", "brass", "tape")),
    ("edge", "accent_soft"), ("accent", "accent_soft"), ("accent", "line"), ("stop", "line"), ("stop", "stop_soft"),
    ("caution", "card"), ("caution", "ground"), ("caution", "air"),
    ("edge_on_ink", "ink"), ("caution_on_ink", "ink"), ("caution_on_ink", "accent"),
)  # fmt: skip


@pytest.mark.parametrize("name", themes.NAMES)
def test_contrast_of_every_shape_that_says_something(name):
    # W3C WCAG 2.1, success criterion 1.4.11: at least 3 to 1.
    t = Theme(name).tokens
    for shape, ground in SHAPES:
        a, b = sorted((luminance(getattr(t, shape)), luminance(getattr(t, ground))), reverse=True)
        assert (a + 0.05) / (b + 0.05) >= 3.0, (shape, ground)
    sheet = Theme(name).style_sheet()
    for rule in re.findall(r"(?:QLineEdit|QPushButton|QProgressBar)[^{]*{[^}]*}", sheet):
        assert t.line not in rule, rule  # a hairline is no edge of what is worked with


def test_the_models_keep_qt_s_rules(session, qtbot):
    one = session(demo=True)
    page = one.window.page
    for model in (page.wheels.wheels, page.side.log.entries):
        tester = QAbstractItemModelTester(
            model, QAbstractItemModelTester.FailureReportingMode.Fatal
        )
        one.bench.recorder.note("another line")
        one.bench.editor.new_wheel()
        assert model.rowCount() >= 0 and tester
    assert page.wheels.wheels.rowCount() == len(one.bench.wheels)


def test_the_list_of_keys_holds_every_key_and_is_the_readme_s_table(session, qtbot):
    from pathlib import Path

    from inner_rim.desktop.command_lists import KeyList
    from inner_rim.desktop.commands.table import KEYS_THAT_MATTER, by_key, key_lines, key_table

    listed = {
        key
        for keys_, _title in key_lines()
        for key in keys_.replace("1 … 9, 0", "1, 0").split(", ")
    }
    assert {key.replace("Return", "Enter") for key in by_key()} <= listed | set("23456789")
    page = (Path(__file__).parents[3] / "docs" / "manual" / "keys.md").read_text(encoding="utf-8")
    assert key_table() in page, "run tools/key_table.py"
    one = session(demo=True)
    one.window.page.now.focus_main()
    keys(qtbot, "?")
    (shown,) = one.window.findChildren(KeyList)
    assert shown.isVisible() and len(KEYS_THAT_MATTER) == 12
    told = {one for keys_, _words in KEYS_THAT_MATTER for one in keys_.split()}
    assert told <= {key.replace("Return", "Enter") for key in by_key()} | {"Enter"}
    press(qtbot, one.window, KEY.Key_Escape)
    assert not shown.isVisible()


def test_the_actions_list_offers_what_applies_and_takes_it(session, qtbot):
    from PyQt6.QtWidgets import QApplication

    one = session(demo=True)
    window, bench = one.window, one.bench
    window.page.now.focus_main()
    count = len(bench.wheels)
    press(qtbot, window, KEY.Key_Space, CONTROL)
    listed = [
        window._lists.shown.list.item(i).text() for i in range(window._lists.shown.list.count())
    ]
    assert any("Print & export" in line and line.endswith("X") for line in listed)
    assert not any("Hand over" in line for line in listed)  # it does not apply at this wheel
    for letter in "dupl":
        qtbot.keyClicks(QApplication.focusWidget(), letter)
    qtbot.keyClick(QApplication.focusWidget(), KEY.Key_Return)
    assert len(bench.wheels) == count + 1 and window._lists.shown is None
    press(qtbot, window, KEY.Key_Space, CONTROL)
    press(qtbot, QApplication.focusWidget(), KEY.Key_Escape)
    assert window._lists.shown is None and window.page_shown == "bench"
