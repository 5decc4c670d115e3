"""What the log teaches reaches the plan in the window, says so there, and can be left out."""

import json

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from inner_rim.cli import main
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.resolved import LEARNED_FIGURES
from tests.desktop.drive import select
from tests.work.tasks.test_learning import taught_shop, two_ways


def test_learned_figures_hold_until_they_are_switched_off(session, qtbot, tmp_path):
    for n, document in enumerate(taught_shop(3)):
        document["job"]["wheels"][0]["name"] = f"wheel {n}"
        (tmp_path / f"{n}.json").write_text(json.dumps(document), encoding="utf-8")
    assert main(["import", *map(str, sorted(tmp_path.glob("*.json")))]) == 0
    one = session()
    bench, window = one.bench, one.window
    select(window, "wheel 4")
    usual = plan_wheel(
        bench.current.plan.wheel, bench.current.reading.job.ride, None, None, bench.current.log
    )

    def start():
        return bench.current.plan.pressure.by_method["drop"]

    qtbot.waitUntil(lambda: start() < usual.pressure.by_method["drop"])
    assert any("riders keep" in line.read() for line in bench.current.plan.pressure.why.others)
    window.run("learning")
    assert start() == usual.pressure.by_method["drop"]
    again = session()
    qtbot.waitUntil(lambda: again.bench.shop_methods._learned is not None)
    select(again.window, "wheel 4")
    assert again.bench.current.plan.pressure.by_method["drop"] == usual.pressure.by_method["drop"]
    again.window.run("learning")
    assert again.bench.current.plan.pressure.by_method["drop"] < usual.pressure.by_method["drop"]


def insights_of(session, qtbot, folder):
    """A window on what is imported from a folder, its Insights read."""
    assert main(["import", *map(str, sorted(folder.glob("*.json")))]) == 0
    one = session()
    QTest.keyClick(one.window, Qt.Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    page = one.window.page_of("insights")
    qtbot.waitUntil(lambda: bool(page.book.topics))
    return one, page


def test_insights_lead_to_their_wheels_and_a_figure_can_be_left_aside(session, qtbot, tmp_path):
    for n, document in enumerate(taught_shop(4)):
        document["job"]["wheels"][0]["name"] = f"wheel {n}"
        (tmp_path / f"{n}.json").write_text(json.dumps(document), encoding="utf-8")
    one, page = insights_of(session, qtbot, tmp_path)
    window = one.window
    lines = {line.title: line for line in page.marks.rows.lines}
    assert (
        lines["Compressor, core out"].right == "0 of 4"
        and lines["Compressor, core out"].share == 0.0
    )
    page.marks.setFocus()
    assert page.book.opened[0] == "source" and not page.turn.isVisible()  # the first line opens
    assert [line.title for line in page.wheels.rows.lines] == [
        "wheel 0",
        "wheel 2",
        "wheel 4",
        "wheel 6",
    ]
    page.book.write(tmp_path / "insights.csv")
    assert "wheel 0; wheel 2; wheel 4; wheel 6" in (tmp_path / "insights.csv").read_text(
        encoding="utf-8-sig"
    )
    while page.book.opened[0] != "gap":
        QTest.keyClick(page.marks, Qt.Key.Key_Down)
        assert page.turn.isVisible() == (page.book.opened[0] in LEARNED_FIGURES)
    QTest.mouseClick(page.turn, Qt.MouseButton.LeftButton)
    assert page.turn.text() == "Use in plans"
    assert next(line for line in page.marks.rows.lines if line.key == ("gap", 0)).chip == "not used"
    about = one.bench.current.plan
    assert not any(line.read().startswith("gap:") for line in about.seating_odds.why.others)
    # the others still count
    assert any("riders keep" in line.read() for line in about.pressure.why.others)
    page.wheels.setFocus()
    page.wheels.choose_first()
    QTest.keyClick(page.wheels, Qt.Key.Key_Return)
    # a wheel comes back by the button alone
    assert window.page_shown == "insights" and page._open.hasFocus()
    QTest.keyClick(page._open, Qt.Key.Key_Space)
    assert window.page_shown == "bench" and one.bench.current.name == "wheel 0"


def test_a_finding_becomes_the_shops_method_and_can_be_taken_back(session, qtbot, tmp_path):
    for n, document in enumerate(two_ways()):
        (tmp_path / f"{n:02}.json").write_text(json.dumps(document), encoding="utf-8")
    one, page = insights_of(session, qtbot, tmp_path)
    window = one.window
    assert page.marks.rows.lines[0].title == "What should change"
    assert page.book.opened == ("change", 0) and page.plot.isVisible()
    assert len(page.wheels.rows.lines) == 16
    assert page.turn.text() == "Make it the shop's method"
    QTest.mouseClick(page.turn, Qt.MouseButton.LeftButton)
    assert page.marks.rows.lines[1].chip == "in use" and not page.turn.isVisible()
    again = session()
    qtbot.waitUntil(
        lambda: getattr(again.bench.shop_methods.shop.practice, "lubricant", None) == "fluid"
    )
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert page.marks.rows.lines[1].chip == "" and page.turn.isVisible()
    practice = one.bench.shop_methods.shop.practice
    assert practice is None or practice.lubricant is None
