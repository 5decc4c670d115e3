"""What was really done is asked where it happens, with the plan's figure ready, and read by everything after it."""

import io
from datetime import UTC, date, datetime, timedelta

import pypdf
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.core.plan.aftercare import TAPE_DAYS, due_care
from inner_rim.core.plan.wheel_plan import inside_ml, plan_wheel
from inner_rim.core.progress.visit import coming_back
from inner_rim.core.record.job import Practice
from inner_rim.core.record.log import Care, Dose, Note, SignOff, StepEntry, Weight
from inner_rim.core.record.reading import job_from_plain
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.tasks import export
from inner_rim.work.text.card import inside_text
from inner_rim.work.text.lines import LogChoice
from tests.desktop.drive import cautions_of, select
from tests.samples import logged, ordinary

K = Qt.Key


def to_the_dose(demo):
    """Bring a wheel of the demo to the step that asks how much sealant went in."""
    window = demo.window
    select(window, "Sandpiper 2 · rear")
    page = window.page
    while "dose" not in page.now.typed():
        question = demo.bench.current.progress.question is not None
        assert window.run("answer_yes" if question else "step_done")
    return window, page


def doses(demo):
    return [item.entry for item in demo.bench.current.log if isinstance(item.entry, Dose)]


def test_amount_and_kind_are_logged_as_they_were_and_a_slip_is_asked_about(demo):
    window, page = to_the_dose(demo)
    shop = page.now.reason.text()
    assert shop and float(page.now.figure.text()) > 20
    before = len(doses(demo))
    page.now.figure.setText("3")
    page.now.reason.setText("Kelp milk")
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    assert len(doses(demo)) == before and "3 ml is far from the" in cautions_of(page)
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)  # so it was
    assert (doses(demo)[-1].dose_ml, doses(demo)[-1].name) == (3.0, "Kelp milk")
    window.run("undo")
    page.now.figure.setText("3")
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    page.now.figure.setText("4")  # another figure is asked about again
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    assert len(doses(demo)) == before
    page.now.figure.setText("60")
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    assert doses(demo)[-1].dose_ml == 60.0
    assert demo.bench.current.plan.log.sealant_ml == 60.0


def test_the_pressure_that_the_rider_kept_is_asked_first_and_is_the_next_start(demo, qtbot):
    bench, window, page = demo.bench, demo.window, demo.window.page
    select(window, "Kiosk")
    handed = bench.current.plan.log.signed.pressure_kpa
    bench.visits.begin()
    qtbot.waitUntil(lambda: bench.current.log == [] and "kept" in page.now.typed())
    assert float(page.now.figure.text()) == pytest.approx(handed / 100.0, abs=0.06)
    assert "Last at" in cautions_of(page) and "taped" in cautions_of(page)
    page.now.figure.setText("1.8")
    page.now.reason.setText("burped once")
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_2)  # new sealant
    assert bench.current.value("work.kind") == "refresh"
    assert bench.current.value("previous_pressure_kpa") == pytest.approx(180.0)
    # said, not carried over: the shop learns from it
    assert bench.current.wheel.work.kept_said is True
    assert bench.current.plan.pressure.method == "previous"
    assert bench.current.plan.pressure.start_kpa == pytest.approx(180.0, abs=10.0)
    assert [item.entry.text for item in bench.current.log if isinstance(item.entry, Note)] == [
        "burped once"
    ]


def test_what_is_overdue_becomes_work_by_a_click_and_comes_back_with_undo(demo, qtbot):
    bench, window, page = demo.bench, demo.window, demo.window.page
    select(window, "Kiosk")
    bench.visits.begin()
    qtbot.waitUntil(lambda: bench.current.log == [] and "kept" in page.now.typed())
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_4)  # a repair
    for path, said in (
        ("work.leak", "tread"), ("sealant.in_ml", "60"), ("sealant.in_since", "2024-01-10"), ("work.tape_laid", "2021-03-01"),
    ):  # fmt: skip
        bench.editor.type_into(path, said)
    assert "The sealant was due" in cautions_of(page) and "Tape laid" in cautions_of(page)

    def press(command):
        place = [answer.command for answer in page.now.answers].index(command)
        QTest.mouseClick(page.now._buttons[place], Qt.MouseButton.LeftButton)

    def codes():
        return [step.code for step in bench.current.plan.steps]

    assert bench.current.value("work.kind") == "repair" and "repair.plug" in codes()
    press("renew_sealant")
    assert {"strip.sealant_out", "repair.patch", "sealant.pour"} <= set(codes())
    assert "The sealant was due" not in cautions_of(page)
    press("renew_tape")
    assert (
        "tape.lay" in codes() and "repair.patch" in codes() and "Tape laid" not in cautions_of(page)
    )
    window.run("undo")
    window.run("undo")
    assert "repair.plug" in codes() and "strip.sealant_out" not in codes()


def test_a_shop_that_chose_its_start_keeps_it_and_a_first_visit_has_none():
    back = {"previous_pressure_kpa": 180.0, "work": {"kind": "refresh", "rode_before": True}}
    for practice, changes, method in (
        (None, back, "previous"),
        (Practice(start_pressure="drop"), back, "drop"),
        (None, {"previous_pressure_kpa": 180.0}, "drop"),
    ):
        document = ordinary(**changes)
        document["wheels"][0].pop("practice", None)
        document.pop("practice", None)
        job = job_from_plain(document)
        assert (
            plan_wheel(job.wheels[0], job.ride, practice, job.shelf, ()).pressure.method == method
        )


def test_tape_ages_from_the_day_it_was_laid_and_by_its_kind():
    """docs/job.md 1.5: cloth stands three tires, film one, polyester any while it looks good, all two years."""

    def tape(kind, *entries, **work):
        document = ordinary(work={"kind": "refresh", **work})
        job = job_from_plain(document)
        log = logged(SignOff(by="M. Osier", pressure_kpa=190), *entries)
        plan = plan_wheel(job.wheels[0], job.ride, Practice(tape_kind=kind), job.shelf, log)
        return next(one for one in due_care(plan.wheel, plan) if one.code == "tape")

    laid = date(2025, 1, 10)
    assert tape("polyester", tape_laid=laid.isoformat()).day == laid + timedelta(days=TAPE_DAYS)
    changed = [Care(what="tire_changed")]
    assert "two years" in tape("polyester", *changed * 5).words.read()
    assert "two years" in tape("cloth", *changed * 2).words.read()
    assert "3 tire changes" in tape("cloth", *changed, tape_changes=2).words.read()
    assert "lay new tape" in tape("film", *changed).words.read()


def text_of(data):
    return " ".join(
        " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages).split()
    )


def test_what_really_went_in_shows_everywhere_after_it(demo, qtbot):
    """Dose, kind, plug and pressure as they were: on sheet and card, in dates, at the next visit, in the search."""
    _window, page = to_the_dose(demo)
    bench, units = demo.bench, demo.bench.units
    planned = inside_text(bench.current.plan, units)
    before = due_of(bench)
    page.now.figure.setText("52")
    page.now.reason.setText("Kelp milk")
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    bench.recorder.record(StepEntry(stage="tape", step="repair.plug"))
    bench.recorder.record(
        Weight(mass_g=1240, when="after"), SignOff(by="M. Osier", pressure_kpa=176, ride_kpa=176)
    )
    state = bench.current
    assert state.plan.log.signed is not None
    for way in ("card", "sheet"):
        words = text_of(export.written_as(way, state, units, bench.now()))
        assert "52 ml inside: Kelp milk" in words and planned not in words, way
    assert "1 in the tire" in words and "1240 g" in words
    assert due_of(bench) != before
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    visit = coming_back(state.job.draft.document["wheels"][state.index], state.plan)
    assert visit["sealant"]["in_ml"] == 52.0 and visit["sealant"]["name"] == "Kelp milk"
    assert visit["arrival"]["weighed_g"] == 1240
    assert visit["tire"]["plugs"] == 1 and visit["previous_pressure_kpa"] == 176
    repository = Repository(sqlite_url(demo._file))
    assert any("Kelp" in str(hit.item.entry) for hit in repository.logbook.search("kelp", (), ""))
    repository.close()


def due_of(bench):
    return [
        (care.code, care.day, care.words.read())
        for care in due_care(bench.current.wheel, bench.current.plan)
    ]


def to_what_asks(demo, name, label):
    """Bring a wheel to the step whose entry has a label."""
    window = demo.window
    select(window, name)
    page = window.page
    for _ in range(40):
        if page._view.now.asks and page._view.now.asks[0].label == label:
            return page
        question = demo.bench.current.progress.question is not None
        waits = any(answer.command == "go_on" for answer in page.now.answers)
        assert window.run("go_on" if waits else "answer_yes" if question else "step_done")
    raise AssertionError(f"{name} was never asked for {label}")


def test_layers_and_valve_as_they_were_go_before_the_plan(demo, qtbot):
    page = to_what_asks(demo, "Warden trike", "Layers")
    bench = demo.bench
    planned = bench.current.plan.tape.layers
    assert page.now.figure.text() == str(planned)
    for typed, layers in (("nine", planned), (str(planned + 1), planned + 1)):
        page.now.figure.setText(typed)
        page.now.focus_main()
        QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
        assert bench.current.plan.tape.layers == layers
    page = to_what_asks(demo, "Warden trike", "Valve")
    stocked = bench.current.plan.valve.length_mm
    assert float(page.now.figure.text()) == pytest.approx(stocked, abs=0.6)
    page.now.figure.setText("60")
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    plan = bench.current.plan
    assert plan.valve.length_mm == 60.0 and plan.valve.standing_out_mm > 0.0
    assert any(done.code == "valve.fit" for done in plan.behind)
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    units = bench.units
    assert f"× {planned + 1}" in text_of(
        export.written_as("card", bench.current, units, bench.now())
    )
    visit = coming_back(bench.current.job.draft.document["wheels"][bench.current.index], plan)
    assert visit["arrival"]["valve_mm"] == 60.0 and visit["practice"]["layers"] == planned + 1
    demo.window.run("undo")
    assert bench.current.plan.valve.length_mm == stocked  # one step back: the answer and the figure
    bench.editor.type_into("work.valve_mm", "25")
    assert "pump head may slip off" in bench.current.plan.valve.remarks["short"].read()


def test_sealant_added_later_is_asked_for_with_what_was_left(demo, qtbot):
    bench, window, page = demo.bench, demo.window, demo.window.page
    select(window, "Kiosk")
    before, in_before = due_of(bench), inside_ml(bench.current.plan)
    bench._clock = lambda: datetime.now(UTC) + timedelta(days=60)
    window.run("show_care")
    window.run("take_choice", LogChoice("care", "refilled"))
    assert "added" in page.now.typed() and "as forecast" in cautions_of(page)
    page.now.figure.setText("25")
    page.now.reason.setText("Kelp milk")
    QTest.keyClick(page.now.figure, K.Key_Return)
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    care = bench.current.log[-1].entry
    assert isinstance(care, Care) and (care.dose_ml, care.name) == (25.0, "Kelp milk")
    assert 0.0 < care.left_ml < in_before
    log = bench.current.plan.log
    assert (log.sealant_ml, log.sealant) == (care.left_ml + 25.0, "Kelp milk")
    assert due_of(bench) != before
    assert "Kelp milk" in text_of(
        export.written_as("sheet", bench.current, bench.units, bench.now())
    )
    state = bench.current
    visit = coming_back(state.job.draft.document["wheels"][state.index], state.plan)
    assert visit["sealant"]["in_ml"] == log.sealant_ml and visit["sealant"]["name"] == "Kelp milk"
    bench.recorder.reopen_stage("set")  # it was never out of the shop: some more goes in
    bench.recorder.record(Dose(dose_ml=10.0, name="Eelgrass"))
    later = bench.current.plan.log
    assert (later.sealant_ml, later.sealant) == (log.sealant_ml + 10.0, "Eelgrass")
    for _ in range(3):
        window.run("undo")
    assert inside_ml(bench.current.plan) == in_before
