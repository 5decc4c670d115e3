"""The work view at every stage of the demo: few words, few sizes of type, its own picture, shown once a turn."""

import re
from datetime import timedelta

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton

from inner_rim.core.drawing.acts import draw_act
from inner_rim.core.plan import wheel_plan
from inner_rim.core.procedure.actions import KINDS
from inner_rim.core.record.log import StepEntry
from inner_rim.desktop.banner import PAGES
from inner_rim.desktop.bench.page import BenchPage
from inner_rim.desktop.widgets.theme import SIZES, Theme
from inner_rim.work.text.odds import NAMES, step_name
from tests.desktop.drive import cautions_of, first_answer, looking, select

MAX_WORDS, MAX_SIZES, MAX_NAME = 120, 7, 4
#: Where steps are gathered, each with its sentence.
MAX_GATHERED = 170
WHEELS = (
    "Dune",
    "Warden",
    "Sandpiper 2 · front",
    "Sandpiper 2 · rear",
    "Ferry",
    "Old Curlew",
    "Kiosk",
)
K = Qt.Key


@pytest.fixture
def painted(monkeypatch):
    """What painters have written, and the sizes in px that they wrote in."""
    texts, sizes, draw = [], set(), QPainter.drawText

    def spy(painter, *args):
        words = [one for one in args if isinstance(one, str)]
        texts.extend(words)
        if any(words):
            sizes.add(painter.font().pixelSize())
        return draw(painter, *args)

    monkeypatch.setattr(QPainter, "drawText", spy)
    return texts, sizes


def words_in_view(shell, texts):
    """The words that the window shows, painted or in its controls: whatever has a letter in it."""
    texts.clear()
    shell.grab()
    seen = list(texts)
    for part in (
        *shell.findChildren(QLabel),
        *shell.findChildren(QPushButton),
        *shell.findChildren(QLineEdit),
    ):
        if part.isVisibleTo(shell):
            seen.append(
                part.text() or (part.placeholderText() if isinstance(part, QLineEdit) else "")
            )
    return [word for text in seen for word in text.split() if re.search(r"[^\W\d_]", word)]


def stages_of(demo, name):
    """Take a wheel through its work by the panel's first answers; yields before each."""
    bench, window = demo.bench, demo.window
    clock = [bench.time]
    bench._clock = lambda: clock[0]
    state = select(window, name)
    for _ in range(60):
        for _ in range(3):
            QApplication.processEvents()
        state = bench.current
        yield state
        command = first_answer(window.page.now).command
        if state.progress.state == "finished" or command.startswith("go_to"):
            return
        clock[0] += timedelta(minutes=3)
        if command == "read_gauge":
            if state.progress.holding.readings:
                bench.recorder.finish_stage("hold")
            else:
                bench.recorder.read_gauge(state.plan.pressure.settle_kpa, 20.0)
            continue
        if command == "hand_over":
            window.page.now.signature.setText("M. Osier")
        assert window.run(command), command
    raise AssertionError("never ends")


@pytest.mark.parametrize("name", WHEELS)
def test_at_most_120_words_are_in_view_at_any_stage(demo, painted, name):
    texts, _sizes = painted
    stages = set()
    for state in stages_of(demo, name):
        if not demo.window.turns.view().working:
            continue
        stages.add(state.progress.stage)
        words = words_in_view(demo.shell, texts)
        gathered = bool(demo.window.turns.view().now.steps)
        assert 40 < len(words) <= (MAX_GATHERED if gathered else MAX_WORDS), (
            state.progress.stage,
            demo.window.turns.view().now.head,
            words,
        )
    assert stages


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_type_has_seven_sizes_on_all_pages_none_shrunk_to_fit(demo, painted, theme):
    _texts, sizes = painted
    window = demo.window
    window.use_theme(Theme(theme))
    for place in PAGES:
        window.go_to(place)
        for _ in range(3):
            QApplication.processEvents()
        window.grab()
    window.go_to("bench")
    for name in WHEELS:
        select(window, name)
        for command in (
            "first_field",
            "show_plan",
            "show_choices",
            "show_log",
            "show_steps",
            "actions",
            "keys",
        ):
            window.run(command)
            window.grab()
        window.run("leave")
        window.grab()
        parts = (
            *window.findChildren(QLabel),
            *window.findChildren(QPushButton),
            *window.findChildren(QLineEdit),
        )
        sizes |= {part.font().pixelSize() for part in parts if part.isVisible()}
    assert sizes <= set(SIZES) and len(SIZES) == MAX_SIZES and max(sizes) >= 48, sizes


def test_every_action_has_a_short_name():
    assert set(NAMES) >= set(KINDS)
    assert all(len(name.split()) <= MAX_NAME for name in NAMES.values())
    assert step_name("tape.lay.2") == "Lay tape 2"


def test_the_picture_and_the_figure_follow_the_step(demo):
    """Each step has its act; a leak test its graph; another picture is one key away, and W goes back."""
    window, seen = demo.window, {}
    for state in stages_of(demo, "Dune"):
        step = state.progress.step.code if state.progress.step is not None else state.progress.stage
        if state.progress.seats_next:
            step = "seat.steps"
        gathered = demo.window.turns.view().now.steps
        figure = gathered[0].figure if gathered else window.page.now._figure.text()
        seen[step] = (window.page.deck.pictures, figure)
    pictures = {step: pictures for step, (pictures, _figure) in seen.items()}
    assert pictures.pop("check_in") == ("section",)
    assert set(pictures.values()) <= {("act",), ("plot",), ("wait",)}
    assert pictures["tape.lay"] == ("act",) == pictures["seat.steps"]
    assert seen["tape.lay"][1] == "45 mm × 185 cm" and seen["seat.steps"][1].endswith(" bar")
    select(window, "Sandpiper 2 · rear")
    demo.bench.recorder.reopen_stage("mount")
    own = window.page.deck.act._scene
    window.run("show_section")
    assert window.page.deck.pictures == ("section",)
    window.run("show_own")
    assert window.page.deck.pictures == ("act",) and window.page.deck.act._scene is own
    window.use_theme(Theme("light", 1.5))  # no room beside the step: the picture is a button away
    window.run("leave")
    way = window.page.now.ways["show_own"]
    QApplication.processEvents()
    assert way.isVisible() and not window.page.deck.isVisible()
    QTest.mouseClick(way, Qt.MouseButton.LeftButton)
    assert window.page.deck.act.isVisible() and not way.isVisible()
    QApplication.processEvents()
    QTest.mouseClick(window.page.side._close, Qt.MouseButton.LeftButton)
    assert way.isVisible() and not window.page.deck.isVisible()


def test_gathered_steps_are_all_said_and_each_is_confirmed_by_its_number(demo):
    """Enter confirms the list; a number one of it, never before what it needs; the picture follows where one points."""
    window, page, bench = demo.window, demo.window.page, demo.bench
    select(window, "Warden")
    bench.recorder.reopen_stage("strip")
    page.now.focus_main()
    rows = [row for row in page.now.rows.rows if row.isVisible()]
    steps = bench.current.progress.together
    assert len(rows) == len(steps) > 3 and not page.now._action.isVisible()
    for number, (row, step) in enumerate(zip(rows, steps, strict=True), 1):
        whole = step.text.read(bench.units)
        assert row.accessibleName().startswith(f"{number}  {whole}") and whole in row._words.text()
        assert row._words.font().pixelSize() >= 20

    def press(key):
        QTest.keyClick(QApplication.focusWidget(), key)

    before = len(bench.current.log)
    press(K.Key_3)  # with air in, and both beads on their seats
    assert len(bench.current.log) == before and "First: Let the air out" in cautions_of(page)
    press(K.Key_1)
    assert bench.current.log[-1].entry.step == steps[0].key
    assert [one.key for one in bench.current.progress.together] == [one.key for one in steps[1:]]
    QTest.mouseClick(page.now.rows.rows[0], Qt.MouseButton.LeftButton)
    assert bench.current.log[-1].entry.step == steps[1].key
    press(K.Key_Return)
    done = {item.entry.step for item in bench.current.log if isinstance(item.entry, StepEntry)}
    assert {one.key for one in steps} <= done and bench.current.progress.question is not None
    select(window, "Sandpiper 2 · rear")
    bench.recorder.reopen_stage("mount")
    while not (len(bench.current.progress.together) > 2):
        assert window.run("answer_yes")
    page.now.focus_main()
    codes = [step.code for step in bench.current.progress.together]
    at = next(place for place, code in enumerate(codes) if code.startswith("bead."))
    first = page.deck.act._scene
    for _ in range(at):
        press(K.Key_Down)
    assert looking(page).pointed == at and page.deck.pictures == ("act",)
    assert page.deck.act._scene == draw_act(bench.current.plan, bench.current.progress.together[at])
    assert page.deck.act._scene != first and "bead" in page.deck.act.accessibleDescription()
    assert page.now.rows.rows[at].isChecked() and page.now._buttons[0].hasFocus()
    for _ in range(12):
        press(K.Key_Up)
    assert looking(page).pointed == 0 and page.deck.act._scene == first
    amounts = [step.asks for step in bench.current.progress.together if step.asks]
    assert len(amounts) <= 1
    # the plan beside the list says that a number opens its why: then it does, and confirms nothing
    logged = bench.current.log
    press(K.Key_P)
    press(K.Key_2)
    assert looking(page).why == 1 and page.why.isVisible() and bench.current.log == logged
    QTest.mouseClick(page.now.rows.rows[0], Qt.MouseButton.LeftButton)
    assert bench.current.log[:-1] == logged  # a click on the list is one
    press(K.Key_P)
    press(K.Key_Escape)


def test_a_step_that_is_confirmed_out_of_order_passes_none_before_it(demo):
    """Every list on the way of every wheel: the others of the list stay, or the number is refused."""
    window, page, bench = demo.window, demo.window.page, demo.bench
    tried = refused = 0
    for name in WHEELS:
        for _state in stages_of(demo, name):
            steps, wheel = bench.current.progress.together, bench.current
            if not page.now.rows.steps:
                continue
            for place, step in enumerate(steps):
                window.run("one_done", str((place + 1) % 10))
                tried += 1
                if bench.current.log == wheel.log:
                    refused += 1
                    assert "First:" in cautions_of(page)
                    window.run("point_at", "0")  # the mouse takes no complaint away
                    assert "First:" in cautions_of(page)
                    continue
                left = {one.key for one in bench.current.plan.steps}
                assert {one.key for one in steps} - {step.key} <= left, (name, step.key)
                window.run("undo")
    assert tried > 20 and refused > 5


def test_a_wait_is_a_ring_that_fills_until_its_minute_and_leads_to_the_next_wheel(demo):
    window, page, bench = demo.window, demo.window.page, demo.bench
    for _state in stages_of(demo, "Dune"):
        if bench.current.progress.waiting.until:
            break
    begun, minutes = bench.time, bench.current.progress.waiting.after.wait_minutes
    clock = [begun]
    bench._clock = lambda: clock[0]

    def ring():
        window.turns.refresh()
        QApplication.processEvents()
        return window.turns.view().wait

    assert page.deck.pictures == ("wait",) and ring().ends in page.now._action.text()
    seen = []
    for _ in range(3):
        seen.append(ring().over)
        clock[0] += timedelta(minutes=minutes / 5)
    assert seen == sorted(set(seen)) and 0.0 <= seen[0] < seen[-1] < 1.0
    assert ring().ends in page.deck.waiting.accessibleDescription()
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)  # it never cuts a wait short
    assert bench.current.progress.waiting.until and bench.current.name.startswith("Dune")
    assert page.now.answers[0].command == "what_now"
    QTest.keyClick(QApplication.focusWidget(), K.Key_J)
    assert not bench.current.name.startswith("Dune")
    select(window, "Dune")
    clock[0] = begun + timedelta(minutes=minutes + 5)
    assert ring() is None and page.deck.pictures != ("wait",)


def test_what_was_opened_goes_away_with_escape_with_its_key_and_with_the_next_answer(demo):
    window, page = demo.window, demo.window.page
    select(window, "Warden")
    page.now.focus_main()
    own = page.deck.pictures
    for key, drawer in (
        (K.Key_P, "plan"),
        (K.Key_C, "choices"),
        (K.Key_G, "log"),
        (K.Key_T, "steps"),
    ):
        QTest.keyClick(window, key)
        assert looking(page).drawer == drawer
        QTest.keyClick(window, key)
        assert looking(page).drawer == "" and page.deck.pictures == own
    QTest.keyClick(window, K.Key_G)
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)  # the step is done
    assert looking(page).drawer == "" and window.page.side._pages.currentIndex() == 0
    QTest.keyClick(window, K.Key_E)
    assert isinstance(QApplication.focusWidget(), QLineEdit) or page.inputs.isAncestorOf(
        QApplication.focusWidget()
    )
    QTest.keyClick(QApplication.focusWidget(), K.Key_Escape)
    assert looking(page).drawer == "" and page.now.isAncestorOf(QApplication.focusWidget())
    QTest.mouseClick(page.now.ways["show_log"], Qt.MouseButton.LeftButton)
    assert looking(page).drawer == "log" and page.now.ways["show_log"].isChecked()
    QTest.mouseClick(page.side._close, Qt.MouseButton.LeftButton)
    assert looking(page).drawer == ""


def test_a_small_window_shows_step_and_picture_in_turns(demo):
    window, page = demo.window, demo.window.page
    demo.shell.resize(1024, 700)
    window.use_theme(Theme("light", 1.5))
    select(window, "Warden")
    QApplication.processEvents()
    assert page._middle.isVisible() and not page.side.isVisible() and page.scale.isVisible()
    QTest.keyClick(window, K.Key_S)
    assert page.side.isVisible() and not page._middle.isVisible() and page.scale.isVisible()
    QTest.keyClick(window, K.Key_Escape)
    assert page._middle.isVisible() and not page.side.isVisible()


@pytest.fixture
def counted(demo, monkeypatch):
    """How often a wheel was planned, and the view built and shown."""
    counts = {"planned": 0, "built": 0, "shown": 0}
    plan = wheel_plan._planned

    def planned(*args):
        counts["planned"] += 1
        return plan(*args)

    monkeypatch.setattr(wheel_plan, "_planned", planned)
    turns, view, show = demo.window.turns, demo.window.views.view, BenchPage.show_view

    def build():
        counts["built"] += 1
        return view()

    def shown(page, state):
        counts["shown"] += 1
        show(page, state)

    monkeypatch.setattr(turns, "_build", build)
    monkeypatch.setattr(BenchPage, "show_view", shown)
    return counts


def taken(counts):
    was = tuple(counts.values())
    counts.update(planned=0, built=0, shown=0)
    return was


def test_an_enter_or_a_letter_plans_once_and_builds_and_shows_the_view_once(demo, qtbot, counted):
    window = demo.window
    select(window, "Warden")
    window.page.now.focus_main()
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    QApplication.processEvents()
    taken(counted)
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    assert taken(counted) == (1, 1, 1)
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    QApplication.processEvents()
    planned, _built, shown = taken(counted)
    assert planned == 0 and shown <= 2  # the store has answered, and the list follows the day
    for key in (K.Key_G, K.Key_Escape, K.Key_X, K.Key_Escape):
        QTest.keyClick(window, key)
        assert taken(counted) == (0, 1, 1), key
    QTest.keyClick(window, K.Key_L)  # a key that does not apply builds nothing to find that out
    assert taken(counted) == (0, 0, 0)
    select(window, "Dune")
    window.run("go_to_field", "rim.internal_width_mm")
    QApplication.focusWidget().selectAll()
    QTest.keyClick(QApplication.focusWidget(), "7")  # no width of a rim yet
    QApplication.processEvents()
    taken(counted)
    QTest.keyClick(QApplication.focusWidget(), "5")
    assert taken(counted) == (1, 1, 1)


def test_a_bar_that_is_dragged_lists_the_schedule_once(demo, qtbot, monkeypatch):
    from inner_rim.work.tasks import day_plan

    now = demo.bench.time
    # the next minute is another day to list
    monkeypatch.setattr(demo.bench.day.plan, "_clock", lambda: now)
    demo.window.go_to("day")
    page = demo.window.page_of("day").board
    qtbot.waitUntil(lambda: not page.planned.looking, timeout=30000)
    listed, schedule = [], day_plan.list_schedule
    monkeypatch.setattr(
        day_plan, "list_schedule", lambda *a, **k: (listed.append(1), schedule(*a, **k))[1]
    )
    bar = next(one for one in page.view.day.bars if one.name.startswith("Dune"))
    page.view.moved.emit(bar.wheel, bar.task, bar.start + 10, bar.mechanic)
    QApplication.processEvents()
    assert len(listed) == 1 and any(one.pinned for one in page.view.day.bars)


def test_a_remark_in_the_plan_goes_to_its_field_and_its_row_to_the_why(demo):
    window, page = demo.window, demo.window.page
    select(window, "Dune")
    demo.bench.editor.type_into("rim.depth_at_valve_mm", "")
    demo.bench.editor.type_into("tire.max_pressure_kpa", "")
    demo.shell.grab()
    rows = {row.title: place for place, row in enumerate(window.turns.view().picks)}
    for title, field in (("Valve", "rim.depth_at_valve_mm"), ("Limit", "tire.max_pressure_kpa")):
        place = rows[title]
        QTest.mouseClick(
            page.picks, Qt.MouseButton.LeftButton, pos=page.picks._chips[place].center().toPoint()
        )
        assert page.inputs._rows[field].entry.hasFocus(), title
    QTest.mouseClick(
        page.picks,
        Qt.MouseButton.LeftButton,
        pos=page.picks._row_box(rows["Valve"]).topLeft().toPoint() + QPoint(60, 15),
    )
    assert looking(page).why == rows["Valve"]
