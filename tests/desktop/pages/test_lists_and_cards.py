"""Lists of lines, the tool cards, the part editor's corners: what the hand does there."""

import itertools

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.bench.steps_view import StepsModel
from inner_rim.desktop.bench.wheel_list import WheelModel
from inner_rim.desktop.drawings.trace import TraceView
from inner_rim.desktop.widgets.lines_view import LinesModel, LinesView
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.work.tasks.gauge import MAX_KEPT, GaugeSession
from inner_rim.work.text.lines import ListLine, head
from tests.desktop.drive import cautions_of, looking, run

LINES = (
    head("Widths", "of the shelf"),
    ListLine("right", "27 mm", note="pressed under the bead", chip="picked", key="27"),
    ListLine(
        "too narrow: the bead does not pin the edge", "21 mm", right="9.00 m", tone="stop", key="21"
    ),
)


@pytest.fixture
def view(qtbot):
    made = LinesView(Theme(), "Widths")
    qtbot.addWidget(made)
    made.resize(320, 240)
    made.show_lines(LINES)
    made.show()
    return made


def test_the_models_are_sound(qtmodeltester, demo):
    lines = LinesModel()
    lines.show_lines(LINES)
    view = demo.window.views.view()
    wheels, steps = WheelModel(), StepsModel(Theme())
    wheels.show_tiles(view.tiles)
    steps.show_wheel(view.state, view.units)
    for model in (lines, wheels, steps):
        qtmodeltester.check(model)


def test_a_line_says_all_of_itself_and_a_heading_cannot_be_chosen(view):
    model = view.rows
    assert model.index(1).data() == "27 mm, right, pressed under the bead, picked"
    assert model.index(2).data(Qt.ItemDataRole.ToolTipRole).startswith("21 mm")
    assert not model.flags(model.index(0)) & Qt.ItemFlag.ItemIsSelectable
    assert model.flags(model.index(1)) & Qt.ItemFlag.ItemIsSelectable


def test_arrows_choose_enter_takes_and_letters_are_the_window_s(view, qtbot):
    chosen, taken = [], []
    view.chosen.connect(chosen.append)
    view.taken.connect(taken.append)
    view.setCurrentIndex(view.rows.index(1))
    QTest.keyClick(view, Qt.Key.Key_Down)
    QTest.keyClick(view, Qt.Key.Key_Return)
    QTest.keyClick(view, Qt.Key.Key_T)
    assert chosen == ["27", "21"] and taken == ["21"]
    assert view.currentIndex().row() == 2


def test_what_is_chosen_stays_chosen_when_the_lines_change(view):
    view.choose("21")
    view.show_lines((LINES[0], ListLine("new", key="30"), *LINES[1:]))
    assert view.currentIndex().row() == 3
    assert not view.choose("nothing like it")
    view.grab()
    view.set_theme(Theme("dark", 1.25))
    view.grab()


def test_a_trace_is_drawn_on_where_it_ended_and_keeps_its_peak_in_few_points(qtbot):
    session, theme = GaugeSession(), Theme("light")
    view = TraceView(session, theme)
    qtbot.addWidget(view)
    view.resize(500, 500)
    view.show()
    qtbot.waitExposed(view)
    drawn = []
    follow = view.plot._draw_on
    view.plot._draw_on = lambda points: (drawn.append(len(points)), follow(points))
    for i in range(90_000):
        session.take(999.0 if i == 44_444 else 100.0 + float(i % 700) / 10.0, 0.02 * i, None)
        if i > 89_900:
            view.draw()
            view.plot.grab()
    t, p = zip(*session.thin.points(), strict=True)
    assert len(t) <= MAX_KEPT and max(p) == 999.0 and all(a <= b for a, b in itertools.pairwise(t))
    # the new reading joined to the last one
    assert drawn[0] <= MAX_KEPT and set(drawn[1:]) <= {0, 2}
    before = view.plot.grab().toImage()
    view.set_theme(theme)  # drawn afresh, it looks the same but for the width of its line
    view.draw()
    view.plot.grab()
    assert before.size() == view.plot.grab().toImage().size() and drawn[-1] <= MAX_KEPT


def test_a_tool_s_port_is_kept_and_what_is_wrong_with_it_said(demo, qtbot):
    demo.window.go_to("practice")
    card = demo.window.page_of("practice")._tool_cards[0]
    card.port.setText("")
    card._connect()
    assert "Type the port first" in card.words.text()
    card.port.setText("ttyNowhere")
    card._connect()
    assert "/dev/ttyNowhere cannot be opened" in card.words.text()
    assert demo.bench.settings.own.ports["caliper"] == "ttyNowhere"
    demo.window.tools.caliper.begin_simulator()
    qtbot.waitUntil(lambda: "simulator" in card.words.text())
    demo.window.tools.caliper.tool.off()
    assert card.words.text() == "not connected"


def test_a_gauge_without_a_port_or_a_wheel_says_what_is_missing(demo, qtbot):
    demo.window.tools.gauge.connect_port()
    assert "in Shop setup first" in demo.bench.message
    demo.bench.editor.new_wheel()
    demo.window.tools.gauge.begin_simulator()
    assert "Type rim and tire first" in demo.bench.message


def test_an_emptied_figure_of_a_part_is_gone_and_a_needed_one_is_asked_for(demo, qtbot):
    demo.window.go_to("shelf")
    page, shelf = demo.window.page_of("shelf"), demo.bench.shelf
    item = next(i for i in shelf.items if i.name == "Reed stem 44 slim base")
    page.editor.show_item(item)

    def type_into(path, text):
        entry = page.editor._rows[path][1]
        entry.setFocus()
        entry.selectAll()
        QTest.keyClicks(entry, text) if text else QTest.keyClick(entry, Qt.Key.Key_Delete)
        QTest.keyClick(entry, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: not demo.worker.waiting)
        QApplication.processEvents()

    type_into("base_mm", "")
    assert "base_mm" not in next(i for i in shelf.items if i.item_id == item.item_id).spec
    type_into("length_mm", "")
    assert "Length: missing" in page.editor._fault.text()
    type_into("length_mm", "48")
    assert next(i for i in shelf.items if i.item_id == item.item_id).spec["length_mm"] == 48
    page.editor._rows["base"][1].buttons["round"].click()
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    QApplication.processEvents()
    assert next(i for i in shelf.items if i.item_id == item.item_id).spec["base"] == "round"


def test_cards_of_the_bench_are_stopped_between_two(demo, qtbot, tmp_path):
    demo.window.go_to("day")
    page = demo.window.page_of("day")
    page.show_drawer(True)
    page.write_cards(tmp_path / "cards.pdf")
    assert page._stop.isVisible() and not page.papers["cards"].isVisible()
    page._stop.click()
    qtbot.waitUntil(lambda: "Stopped" in demo.bench.message, timeout=10000)
    assert not (tmp_path / "cards.pdf").exists() and page.papers["cards"].isVisible()
    page.write_cards(tmp_path / "none" / "cards.pdf")
    qtbot.waitUntil(lambda: "cannot be written" in demo.bench.message, timeout=20000)


def test_a_fleet_is_asked_for_and_an_odd_number_refused(demo, qtbot):
    window, page, bench = demo.window, demo.window.page, demo.bench
    before = len(bench.wheels)
    window.run("fleet")
    assert "How many more wheels like" in page.now._action.text()
    page.now.figure.setText("a dozen")
    run(page, "make_fleet")
    assert "Enter a whole number from 1" in cautions_of(page) and len(bench.wheels) == before
    page.now.figure.setText("3")
    run(page, "make_fleet")
    assert len(bench.wheels) == before + 3
    window.run("fleet")
    window.run("leave")
    assert looking(page).question is None


def test_the_steps_of_a_stage_are_done_at_once_up_to_a_question_or_a_wait(demo, qtbot):
    page, bench = demo.window.page, demo.bench
    bench.select(next(s.key for s in bench.wheels if s.name.startswith("Warden")))
    bench.recorder.reopen_stage("strip")
    asked = []
    for _ in range(20):
        progress = bench.current.progress
        if progress.stage != "strip":
            break
        asked.append(progress.question.code if progress.question is not None else "")
        assert not (asked[-1] and run(page, "stage_done"))  # a question has its own answers
        run(page, "answer_yes" if asked[-1] else "stage_done")
    assert bench.current.progress.stage == "tape" and sum(map(bool, asked)) >= 2
    # the rim dries: that wait has begun, as if the step was ticked off
    waiting = bench.current.progress.waiting
    assert waiting.after is not None and waiting.after.code == "rim.dry"
    run(page, "back")
    assert bench.current.progress.stage == "strip"


def test_long_words_break_into_rows_and_the_lead_stays_in_one(view):
    long = (
        "Let the air out, push the low spot in, wet it there; pump to 1.50 bar and check both sides"
    )
    view.show_lines(
        (ListLine("Old Curlew", "Seat", note="short"), ListLine("Old Curlew", "Seat", note=long))
    )
    QApplication.processEvents()
    short, tall = (view.sizeHintForRow(row) for row in (0, 1))
    assert tall >= short + 15  # another row at least
    before = tall
    view.resize(900, 240)
    QApplication.processEvents()
    assert view.sizeHintForRow(1) == short < before  # room enough: one row again
    plain = LinesView(Theme(), "Thousands", wraps=False)
    plain.show_lines((ListLine("Old Curlew", "Seat", note=long),))
    assert plain.sizeHintForRow(0) == short  # a list of thousands keeps even rows


def test_a_message_stands_beside_the_buttons_or_below_where_there_is_no_room(demo):
    header = demo.window.header

    def below():
        QApplication.processEvents()
        return (
            header.message.parentWidget() is header and header.message.y() >= header._bar.height()
        )

    assert not below() and header.message.isVisible()
    demo.window.use_theme(Theme("light", 1.5))
    assert below()


@pytest.mark.parametrize("scale", [1.0, 1.25])
def test_with_a_charge_bottle_each_caution_stands_at_its_pressure_step_two_at_a_time(demo, scale):
    demo.window.use_theme(Theme("light", scale))
    demo.bench.select(
        next(s.key for s in demo.bench.wheels if s.name.startswith("Sandpiper 2 · front"))
    )
    demo.bench.shop_methods.set("practice.air_source", "charge")
    now = demo.window.page.now
    for _ in range(6):
        QApplication.processEvents()
    spray, hiss, bottle = (
        "Eye and ear protection",
        "Hissing at the spoke holes",
        "A charge bottle is a pressure vessel",
    )
    said = cautions_of(now)
    assert demo.bench.current.progress.seating.step_number == 2
    assert [words in said for words in (spray, hiss, bottle)] == [False, True, False]  # each once
    demo.bench.recorder.reopen_stage("seat")
    demo.bench.recorder.finish_step()  # wet
    for _ in range(6):
        QApplication.processEvents()
    said = cautions_of(now)
    assert "pressure 1 of" in now._head.text()
    assert [words in said for words in (spray, hiss, bottle)] == [True, False, True]
    assert now.geometry().bottom() < now.parentWidget().height()


def test_a_sign_on_a_button_is_no_key(demo):
    demo.bench.select(next(s.key for s in demo.bench.wheels if s.name.startswith("Kiosk")))
    captions = [button.text() for button in demo.window.page.now._buttons]
    assert any("&&" in words for words in captions)  # Qt's spelling of the sign itself
    assert not any("&" in words.replace("&&", "") for words in captions)


def test_the_shelf_asks_for_its_glance_once_and_not_for_every_letter(demo, monkeypatch):
    from inner_rim.work import views

    demo.window.go_to("shelf")
    page, asked = demo.window.page_of("shelf"), []
    whole = views.glance_lines
    monkeypatch.setattr(views, "glance_lines", lambda *a: asked.append(1) or whole(*a))
    QTest.keyClicks(page.search, "tape 31")
    assert [line.title for line in page.parts.rows.lines] == ["Ebb tape 31"] and asked == []
    page.new_part()
    assert page.editor.isVisible() and not page.glance.isVisible()


def test_answers_on_the_practice_page_are_equally_wide(demo):
    demo.window.go_to("practice")
    QApplication.processEvents()
    for choices in demo.window.page_of("practice").choices.values():
        rows = {}
        for button in choices.buttons.values():
            rows.setdefault(button.y(), []).append(button.width())
        assert all(max(widths) - min(widths) <= 2 for widths in rows.values())


def test_the_selected_wheel_stays_in_sight_in_larger_text_and_a_lower_window(demo, qtbot):
    tiles = demo.window.page.wheels
    QTest.keyClick(tiles, Qt.Key.Key_End)

    def whole():
        tile, port = tiles.visualRect(tiles.currentIndex()), tiles.viewport().rect()
        return tile.top() >= 0 and tile.bottom() <= port.bottom()

    qtbot.waitUntil(whole)
    for _ in range(3):
        run(demo.window, "larger")
        qtbot.waitUntil(whole)
    demo.shell.resize(1024, 700)
    qtbot.waitUntil(whole)
