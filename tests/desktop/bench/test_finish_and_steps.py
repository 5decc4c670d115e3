import math

import pytest
from PyQt6.QtCore import QPoint, Qt

from inner_rim.core.models.mounting import GRADE_WORDS, bead_loop_mm, finish_slack_mm, grade
from inner_rim.core.record.log import Override
from inner_rim.desktop.bench.steps_view import DONE, NOW, wait_text
from tests.desktop.drive import cautions_of, run


def at_mount(one):
    bench = one.bench
    bench.select(next(s.key for s in bench.wheels if s.name.startswith("Sandpiper 2 · rear")))
    bench.recorder.reopen_stage("mount")
    page = one.window.page
    run(page, "show_finish")
    return page.deck.finish


def test_dragging_the_finish_answers_with_the_core_s_slack(session, qtbot):
    one = session(demo=True)
    view = at_mount(one)
    center, radius = view._circle()
    state = one.bench.current
    for degrees in (0, 40, 180, 300):
        angle = math.radians(degrees)
        at = QPoint(
            int(center.x() + 0.8 * radius * math.sin(angle)),
            int(center.y() - 0.8 * radius * math.cos(angle)),
        )
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=at)
        assert math.cos(view._finish - angle) > 0.99
        expected = finish_slack_mm(
            state.wheel.rim,
            bead_loop_mm(state.wheel.rim, state.wheel.tire),
            view.well_mm(),
            view._finish,
        )
        assert view.slack_mm() == pytest.approx(expected)
        assert f"{expected:.1f}".rstrip("0").rstrip(".") in view.accessibleDescription()


@pytest.mark.parametrize(
    ("field", "text"),
    [("rim.seat_circumference_mm", "1960"), ("rim.bed", "sealed"), ("practice.layers", "3")],
)
def test_the_drawing_has_the_plan_s_slack_for_any_seat_and_bed(session, field, text):
    one = session(demo=True)
    view = at_mount(one)
    one.bench.editor.type_into(field, text)
    view.show_wheel(one.bench.current, one.bench.units)
    assert view.slack_mm() == pytest.approx(one.bench.current.plan.mounting.slack_mm, abs=0.05)


def test_the_finish_moves_by_keys_and_is_best_at_the_valve(session, qtbot):
    one = session(demo=True)
    view = at_mount(one)
    best = view.slack_mm()
    assert best == pytest.approx(one.bench.current.plan.mounting.slack_mm, abs=0.05)
    view.setFocus()
    for _ in range(36):
        qtbot.keyClick(view, ".")
    assert view._finish == pytest.approx(math.pi) and view.slack_mm() < best
    for _ in range(36):
        qtbot.keyClick(view, ",")
    assert view.slack_mm() == pytest.approx(best)


def test_each_thing_in_the_well_takes_slack_away(session, qtbot):
    one = session(demo=True)
    view = at_mount(one)
    before = view.slack_mm()
    for name in ("layer", "leg", "bead"):
        qtbot.mouseClick(view._toggles[name], Qt.MouseButton.LeftButton)
        assert view.slack_mm() < before
        before = view.slack_mm()
    assert GRADE_WORDS[grade(before)] in view.accessibleDescription()
    view._finish = math.pi
    held = view.slack_mm()
    qtbot.mouseClick(view._toggles["valve"], Qt.MouseButton.LeftButton)
    assert view.slack_mm() >= held


def test_steps_follow_the_wheel_and_its_units(session):
    one = session(demo=True)
    page = one.window.page
    run(page, "show_steps")
    model = page.side.steps.steps
    lines = [model.index(row).data() for row in range(model.rowCount())]
    stage = one.bench.current.progress.stage
    assert stage == "seat" and any(
        line.startswith(f"{NOW}  Seat: Pump to 2.10 bar") for line in lines
    )
    assert (
        "hands-on" in lines[0]
        and lines[1].startswith("Lay out")
        and lines[2].startswith(DONE)
        and any("wait 15 min" in line for line in lines)
    )
    one.window.run("units")
    assert any("psi" in model.index(row).data() for row in range(model.rowCount()))
    assert wait_text(720) == " (then wait 12 h)" and wait_text(0) == ""


def test_a_misfit_insert_stops_and_is_passed_only_by_name_and_reason(session, qtbot):
    one = session(demo=True)
    page, bench = one.window.page, one.bench
    bench.select(next(s.key for s in bench.wheels if s.name.startswith("Warden")))
    bench.editor.type_into("insert.bead_seat_diameter_mm", "622")
    assert bench.current.progress.state == "stopped" and "does not fit" in page.now._action.text()
    one.window.run("show_section")
    assert "insert" in page.deck.section._section.outlines
    one.window.run("override")
    assert (
        "enter a reason and your name" in cautions_of(page)
        and bench.current.progress.state == "stopped"
    )
    page.now.reason.setText("cut to length by hand")
    page.now.signature.setText("M. Osier")
    one.window.run("override")
    entry = bench.current.log[-1].entry
    assert entry == Override(
        code="insert_does_not_fit", by="M. Osier", reason="cut to length by hand"
    )
    assert bench.current.progress.state == "working"
    bench.undo()
    assert bench.current.progress.state == "stopped" and "overridden" in bench.message
    bench.undo()
    assert bench.current.plan.insert is None and "insert" not in page.deck.section._section.outlines
