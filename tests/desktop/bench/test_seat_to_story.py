"""From the first stroke to the next visit in the real window: gauge, advice, hold, papers, logbook, guide."""

import time
from datetime import timedelta

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from inner_rim.core.record.log import Attempt, Correction, Dip, Feedback, Leak, Note
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.units import UnitChoice
from inner_rim.work.tasks.gauge import simulated_lines
from inner_rim.work.text.lines import LogChoice
from inner_rim.work.text.log_words import entry_text
from inner_rim.work.text.papers import WAYS
from inner_rim.work.text.waits import next_reading
from tests.desktop.drive import cautions_of, go_on, looking, run


def wheel(one, name):
    one.bench.select(next(s.key for s in one.bench.wheels if s.name.startswith(name)))
    return one.bench.current


def pump(one, fault="none", seconds=26.0):
    t = 0.0
    for word in simulated_lines(one.bench.current.plan, "floor_pump", False, fault):
        t += word.after_s
        if t > seconds:
            return
        one.window.tools.gauge.take(float(word.data.split()[0]), t)


def test_an_attempt_is_logged_from_the_gauge_without_typing(demo, qtbot):
    wheel(demo, "Sandpiper 2 · front")
    page = demo.window.page
    run(page, "show_trace")
    pump(demo)
    page.deck.trace.draw()
    assert page.deck.trace.figure.text() == "2.80 bar" and page.now.figure.text() == "2.8"
    page.deck.trace.draw()
    run(page, "both_up")
    entry = demo.bench.current.log[-1].entry
    assert isinstance(entry, Attempt) and entry.peak_kpa == pytest.approx(280, abs=1.5)
    assert [round(pop.pressure_kpa) for pop in entry.pops] == pytest.approx([151, 194], abs=4)
    assert entry.source == "floor_pump" and entry.core_out is False and len(entry.trace) > 50
    assert not demo.bench.gauge.begun


def test_the_alarm_is_seen_and_above_the_limit_needs_a_look(demo, qtbot):
    wheel(demo, "Sandpiper 2 · front")
    page = demo.window.page
    for i, kpa in enumerate((100.0, 310.0, 345.0)):
        demo.window.tools.gauge.take(kpa, 0.1 * i)
    run(page, "show_trace")
    page.deck.trace.draw()
    assert "ABOVE THE LIMIT of 3.40 bar" in page.deck.trace.words.text()
    assert "ABOVE THE LIMIT" in demo.bench.message
    run(page, "both_up")
    assert (
        demo.bench.current.progress.seating.over_limit
        and demo.bench.current.progress.stage == "seat"
    )


def test_the_simulator_on_a_real_line_draws_and_its_pulled_cable_is_told(demo, qtbot):
    from inner_rim.devices.simulator import Word, spoken

    wheel(demo, "Sandpiper 2 · front")
    gauge = demo.window.tools.gauge
    demo.window.run("show_trace")
    gauge.tool.simulate([*spoken([20.0, 60.0, 120.0], 0.02, "kPa"), Word(0.3, unplug=True)])
    qtbot.waitUntil(lambda: demo.bench.gauge.peak_kpa == 120.0)
    qtbot.waitUntil(lambda: gauge.tool.fault == "unplugged")
    assert (
        list(demo.bench.gauge.pressures) == [20.0, 60.0, 120.0]
        and "pulled out" in demo.bench.message
    )
    gauge.off()


def test_a_gauge_at_full_speed_never_freezes_the_window_and_the_newest_reading_stands(demo, qtbot):
    from inner_rim.devices.simulator import Word, spoken

    wheel(demo, "Sandpiper 2 · front")
    gauge = demo.window.tools.gauge
    demo.window.run("show_trace")
    (line,) = spoken([150.0], 0.0, "kPa")
    burst = Word(0.0, line.data * 40)
    (last,) = spoken([123.0], 0.2, "kPa")
    gauge.tool.simulate([*[burst] * 500, last])  # 20,000 readings without a pause
    ticks, longest = [time.perf_counter()], 0.0
    while list(demo.bench.gauge.pressures)[-1:] != [123.0]:
        demo.window._app.processEvents()
        ticks.append(time.perf_counter())
        longest = max(longest, ticks[-1] - ticks[-2])
        assert ticks[-1] - ticks[0] < 30.0, "the newest reading never came"
    assert longest < 0.5 and demo.bench.gauge.peak_kpa == 150.0
    gauge.off()


def test_what_to_change_next_is_marked_and_logged_with_the_next_try(demo, qtbot):
    wheel(demo, "Old Curlew")
    page, bench = demo.window.page, demo.bench
    bench.recorder.attempt("not_up", 20.0)
    run(page, "look_at_stage", "seat")
    run(page, "show_choices")
    assert page.side.choices.rows.lines[0].title == "What to change next"
    page.side.choices.taken.emit(LogChoice("change", "core_out"))
    assert page._view.looking.drawer == ""  # back to the step
    assert [step.code for step in bench.current.progress.together] == ["core.out"]
    run(page, "show_choices")
    assert page.side.choices.rows.lines[1].chip == "chosen"
    bench.recorder.finish_steps()
    assert "Changed: Take the core out" in cautions_of(page)
    bench.recorder.attempt("both_up", 200.0)
    entry = bench.current.log[-1].entry
    assert (
        entry.changed == ("core_out",)
        and entry.core_out is True
        and bench.current.progress.seating.changes == ()
    )


def standing(demo, monkeypatch):
    wheel(demo, "Ferry")
    page, bench = demo.window.page, demo.bench
    clock = [bench.time]
    monkeypatch.setattr(bench, "_clock", lambda: clock[0])
    for _ in range(20):
        if page.now.answers[0].command == "read_gauge":
            break
        go_on(demo.window)
    return page, bench, clock


def test_readings_say_when_the_next_one_decides_and_then_it_holds(demo, qtbot, monkeypatch):
    page, bench, clock = standing(demo, monkeypatch)
    bench.recorder.read_gauge(300.0, 20.0)
    clock[0] += timedelta(hours=1)
    bench.recorder.read_gauge(299.5, 20.0)
    assert "that should decide it" in cautions_of(page)
    assert bench.current.progress.holding.next_reading_at

    def tile():
        return next(
            tile.last for tile in demo.window.views.view().tiles if tile.key == bench.selected
        )

    assert "read it" in tile()
    for _ in range(4):  # a closed day may lie between
        clock[0] += timedelta(hours=14)
        if "read it" not in tile():
            break
    assert "read it" not in tile()  # by the clock alone
    bench.recorder.read_gauge(297.0, 20.0)
    assert bench.current.progress.holding.report.verdict == "holds"
    assert page.now.answers[0].command == "stage_done" and "It holds" in page.now._action.text()
    run(page, "show_choices")
    assert any("% a day" in line.title for line in page.side.choices.rows.lines)
    run(page, "main_action")
    assert bench.current.progress.stage == "set"


def test_a_reading_is_asked_for_only_while_the_shop_is_open(demo, monkeypatch):
    page, bench, clock = standing(demo, monkeypatch)
    hours = bench.day.hours
    for ahead in range(0, 7 * 24, 5):
        with monkeypatch.context() as later:
            later.setattr(bench, "_clock", lambda a=ahead: clock[0] + timedelta(hours=a))
            bench.recorder.read_gauge(300.0, 20.0)
            later.setattr(bench, "_clock", lambda a=ahead: clock[0] + timedelta(hours=a + 1))
            bench.recorder.read_gauge(299.5, 20.0)
            at = next_reading(bench.current.progress, hours)
            assert at is None or hours.is_open(at)
            if at is not None:
                assert in_words(at, "%a %H:%M") in cautions_of(page)
        bench.undo()
        bench.undo()


def test_a_wheel_below_its_minimum_does_not_go_on(demo, qtbot, monkeypatch):
    page, bench, clock = standing(demo, monkeypatch)
    bench.recorder.read_gauge(125.0, 20.0)
    clock[0] += timedelta(hours=12)
    bench.recorder.read_gauge(120.0, 20.0)
    run(page, "stage_done")
    assert [stop.code for stop in bench.current.progress.open_stops] == ["below_minimum"]
    assert bench.current.progress.state == "stopped"


def test_lost_air_asks_where_it_bubbles_and_says_what_that_means(demo, qtbot, monkeypatch):
    page, bench, _clock = standing(demo, monkeypatch)
    run(page, "did_not")
    run(page, "show_leaks")
    page.side.choices.taken.emit(LogChoice("leak", "nipple"))
    assert bench.current.log[-1].entry == Leak(place="nipple")
    assert "under the tape" in cautions_of(page)


def test_a_leak_test_that_is_ridden_says_so_and_is_no_way_out_for_one_that_leaks(
    demo, qtbot, monkeypatch
):
    page, bench, clock = standing(demo, monkeypatch)
    run(page, "show_choices")
    ride = LogChoice("ridden", "hold")
    rows = page.side.choices.rows
    assert ride in [line.key for line in rows.lines]
    page.side.choices.taken.emit(ride)
    assert bench.current.progress.stage == "set"
    steps = {step.code: step.text.read() for step in bench.current.plan.steps}
    assert "ride it until it stays tight" in steps["set.pressure"]
    assert "ended by a ride" in entry_text(bench.current.log[-1].entry, UnitChoice())
    run(page, "back")
    assert bench.current.progress.stage == "hold" and not bench.current.plan.log.ridden
    for kpa in (300.0, 200.0, 100.0):
        bench.recorder.read_gauge(kpa, 20.0)
        clock[0] += timedelta(hours=2)
    run(page, "show_choices")
    assert bench.current.progress.holding.report.verdict == "leaks"
    assert ride not in [line.key for line in rows.lines]


def test_a_clock_that_was_set_back_loses_no_reading(demo, qtbot, monkeypatch):
    _page, bench, clock = standing(demo, monkeypatch)
    bench.recorder.read_gauge(300.0, 20.0)
    clock[0] -= timedelta(hours=2)
    bench.recorder.read_gauge(299.0, 20.0)
    clock[0] += timedelta(hours=10)
    bench.recorder.read_gauge(298.0, 20.0)
    progress = bench.current.progress
    assert len(progress.holding.readings) == 3 and len(progress.holding.report.p20_kpa) == 2


def test_a_test_ride_moves_the_pressure_and_the_history_keeps_it(demo, qtbot):
    wheel(demo, "Kiosk")
    page, bench = demo.window.page, demo.bench
    run(page, "show_care")
    page.side.choices.taken.emit(LogChoice("ride", "harsh"))
    entry = bench.current.log[-1].entry
    assert isinstance(entry, Feedback) and entry.next_kpa < entry.pressure_kpa == 240
    titles = [line.title for line in page.side.choices.rows.lines]
    assert "What this wheel was ridden at" in titles and "Aftercare" in titles
    page.side.choices.taken.emit(LogChoice("care", "checked"))
    run(page, "show_trace")
    page.deck.trace.draw()
    assert (
        "by days" in page.deck.trace.words.text()
        and bench.current.name in page.deck.trace.words.text()
    )
    page.now.figure.setText("4 mm")
    run(page, "log_dip")
    dip = bench.current.log[-1].entry
    assert isinstance(dip, Dip) and not dip.calibrates and 0 < dip.free_ml < 20
    page.now.figure.setText("deep")
    run(page, "log_dip")
    assert "type the depth" in cautions_of(page)


def test_the_bicycle_s_wheels_stand_in_one_plot(demo, qtbot):
    wheel(demo, "Sandpiper 2 · front")
    bench, page = demo.bench, demo.window.page
    for name in ("Sandpiper 2 · front", "Sandpiper 2 · rear"):
        wheel(demo, name)
        bench.recorder.hand_over("M. Osier", 180.0)
    run(page, "show_trace")
    page.deck.trace.draw()
    assert len(page.deck.trace.plot.curves) == 2 and "front" in page.deck.trace.words.text()


def test_the_alarm_begins_where_the_shop_wants_it(demo, qtbot):
    wheel(demo, "Sandpiper 2 · front")
    demo.window.go_to("practice")
    page = demo.window.page_of("practice")
    page.alarm.setText("80")
    page.alarm.textEdited.emit("80")
    assert demo.bench.gauge.take(275.0, 0.0, 340.0) == "near"
    page.alarm.textEdited.emit("110")
    assert "50 to 100" in page._fault.text() and demo.bench.settings.alarm_share == 0.8


def test_papers_are_written_or_say_why_not(demo, qtbot, tmp_path, monkeypatch):
    wheel(demo, "Kiosk")
    page, window = demo.window.page, demo.window
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "two.pdf"), "")
    )
    page.now.focus_main()
    for key in "x2":
        QTest.keyClicks(QApplication.focusWidget(), key)
    assert (tmp_path / "two.pdf").read_bytes().startswith(b"%PDF") and looking(
        page
    ).question is None
    window.exporter.write_paper("sheet", tmp_path / "sheet.pdf")
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(
        b"%PDF"
    ) and "Written" in demo.bench.message
    window.exporter.write_paper("card", tmp_path / "none" / "card.pdf")
    assert "cannot be written" in demo.bench.message
    window.go_to("day")
    window.page_of("day").write_cards(tmp_path / "all.pdf")
    qtbot.waitUntil(lambda: (tmp_path / "all.pdf").exists(), timeout=20000)


def test_the_guide_knows_what_to_do_where_a_bead_does_not_seat(demo):
    wheel(demo, "Kiosk")
    window, panel = demo.window, demo.window.page.now
    for keys, words in (
        ("nyn", "Core out"),
        ("nyyy", "push that spot in"),
        ("nyyny", "one more layer"),
        ("nyynny", "Tape this rim again"),
    ):
        window.run("guide")
        for key in keys:
            QTest.keyClicks(panel._buttons[0], key)
        assert words in panel._action.text() or words.casefold() in panel._action.text(), keys
        window.run("leave")


def test_the_guide_leads_to_an_end_and_the_log(demo, qtbot):
    wheel(demo, "Kiosk")
    window, page = demo.window, demo.window.page
    page.now.focus_main()
    QTest.keyClicks(page.now._buttons[0], "h")
    assert "Are you on the road" in page.now._action.text()
    for key in ("n", "n", "n", "n", "n", "n"):
        QTest.keyClicks(page.now._buttons[0], key)
    assert page.now.answers[0].command == "guide_log"
    run(page, "main_action")
    assert isinstance(demo.bench.current.log[-1].entry, Note)
    assert window.page_shown == "bench" and looking(page).question is None


def test_the_logbook_finds_opens_corrects_and_brings_back(demo, qtbot, tmp_path):
    window, bench = demo.window, demo.bench
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    page = window.page_of("logbook")
    assert window.page_shown == "logbook" and page.search.hasFocus()
    QTest.keyClicks(page.search, "curlew seat")
    # on one day or on two, by the hour at which the demo is opened
    qtbot.waitUntil(lambda: sum(line.tone != "head" for line in page.hits.rows.lines) >= 3)
    assert page.hits.rows.lines[0].tone == "head"  # the day
    # the first is chosen and its wheel's story shown at once; arrows move, Enter goes on to it and to the button
    qtbot.waitUntil(lambda: page.book.name.startswith("Old Curlew"))
    first = page.hits.chosen_key
    assert first == page.hits.rows.lines[1].key
    QTest.keyClick(page.search, Qt.Key.Key_Down)
    assert page.hits.chosen_key not in (None, first) and page.search.hasFocus()
    QTest.keyClick(page.search, Qt.Key.Key_Up)
    assert page.hits.chosen_key == first
    QTest.keyClick(page.search, Qt.Key.Key_Return)
    assert page.hits.hasFocus()
    QTest.keyClick(page.hits, Qt.Key.Key_Return)
    assert page._open.hasFocus()
    number = next(line.key for line in page.story.rows.lines if "Seating" in line.title)
    page._choose_entry(number)
    page.correction.setText("it was 1.6 bar")
    page.correction.entered.emit()
    qtbot.waitUntil(lambda: any(line.chip == "corrected below" for line in page.story.rows.lines))
    assert isinstance(bench.current.log[-1].entry, Correction)
    page.export_file(tmp_path / "found.csv")
    assert (tmp_path / "found.csv").read_text(encoding="utf-8-sig").count("\n") >= 3
    wheel(demo, "Old Curlew")
    bench.archive()
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    page._to_bench()
    qtbot.waitUntil(
        lambda: bench.current is not None and bench.current.name.startswith("Old Curlew")
    )
    assert window.page_shown == "bench"


def test_a_scanned_code_opens_the_wheel(demo, qtbot):
    from inner_rim.work.tasks.export import wheel_code

    qtbot.waitUntil(lambda: not demo.worker.waiting)
    state = wheel(demo, "Kiosk")
    demo.window.go_to("logbook")
    page = demo.window.page_of("logbook")
    page.search.setText(wheel_code(state))
    page.look_up()
    qtbot.waitUntil(lambda: page.book.name == state.name)


def test_a_paper_goes_to_a_printer_by_keys_alone(demo, qtbot, tmp_path, monkeypatch):
    import pypdf
    from PyQt6.QtPrintSupport import QPrintDialog

    wheel(demo, "Kiosk")
    window = demo.window
    sent = tmp_path / "printed.pdf"

    def takes(dialog):
        dialog.printer().setOutputFileName(str(sent))
        return 1

    monkeypatch.setattr(QPrintDialog, "exec", takes)
    window.page.now.focus_main()
    for key in (Qt.Key.Key_X, getattr(Qt.Key, f"Key_{len(WAYS) + 1}"), Qt.Key.Key_3):
        QTest.keyClick(QApplication.focusWidget() or window, key)
    page = pypdf.PdfReader(sent).pages[0]
    assert [round(float(x) / 72 * 25.4) for x in page.mediabox[2:]] == [62, 29]
    assert "Sent to the printer" in demo.bench.message and looking(window.page).question is None
    monkeypatch.setattr(QPrintDialog, "exec", lambda dialog: 0)
    sent.unlink()
    window.run("print_card")
    assert not sent.exists()


def test_the_list_follows_units_and_the_day_s_plan_though_no_wheel_changed(demo):
    bench, views = demo.bench, demo.window.views

    def tiles():
        return {tile.name: tile for tile in views.view().tiles}

    assert "2.10 bar" in tiles()["Sandpiper 2 · front"].action
    bench.set_units(UnitChoice(kpa="psi"))
    assert "30.4 psi" in tiles()["Sandpiper 2 · front"].action
    planned = next(name for name, tile in tiles().items() if "go on" in tile.last)
    bench.day.begins = {}
    assert "go on" not in tiles()[planned].last
