import json
import sys
import threading

import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from inner_rim.core.record.reading import job_from_bytes
from inner_rim.core.record.resolved import LEARNED_FIGURES
from inner_rim.desktop import background
from inner_rim.desktop.crash import FaultLog
from inner_rim.desktop.drawings.section import SectionView
from inner_rim.store.errors import StoreFull
from inner_rim.store.repository import Repository
from inner_rim.work.planning import plan_of_job
from tests.desktop.drive import cautions_of, select


def test_an_exported_job_is_planned_by_the_command_line_as_on_the_bench(
    session, tmp_path, monkeypatch
):
    one = session(demo=True)
    # the file alone knows nothing of the shop's log
    one.bench.shop_methods.turn_learning(LEARNED_FIGURES)
    target = tmp_path / "wheel.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
    assert one.window.run("export")
    job = job_from_bytes(target.read_bytes())
    shown = one.bench.current.plan
    assert plan_of_job(job)["wheels"][0]["pressure"]["start_kpa"] == shown.pressure.start_kpa
    assert "Written: wheel.json" in one.window.header.message.text()


def test_a_folder_that_cannot_be_written_is_a_sentence_and_leaves_no_half_file(session, tmp_path):
    one = session(demo=True)
    assert not one.window.exporter.write(tmp_path / "no folder" / "x.json", b"[]")
    assert "cannot be written" in one.window.header.message.text()
    assert list(tmp_path.rglob("*.partial")) == []


def test_theme_size_and_units_are_there_after_a_restart(session, qtbot):
    one = session()
    one.window.run("theme")
    one.window.run("larger")
    one.window.run("units")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    one.finish()
    again = session()
    assert (again._theme.tokens.name, again._theme.scale) == ("dark", 1.125)
    assert again.bench.units.kpa == "psi"


def test_units_are_switched_everywhere_at_once(session):
    one = session(demo=True)
    page = one.window.page
    select(one.window, "Dune")
    for _ in range(3):
        one.window.run("units")  # psi, inch, fl oz
    texts = [
        page.now._action.text(),
        page.scale.accessibleDescription(),
        page.picks.accessibleDescription(),
    ]
    texts += [
        page.deck.section.accessibleDescription(),
        page.wheels.wheels.index(0).data(),
        page._summary.text(),
    ]
    assert all(" bar" not in text and " ml" not in text for text in texts)
    assert " mm" not in texts[5]
    assert "psi" in texts[1] and "in" in texts[3]
    assert page.inputs._rows["tire.max_pressure_kpa"].entry.text() == "20.31"
    select(one.window, "Sandpiper 2 · front")
    assert "psi" in page.now._action.text() and "psi" in page.now._figure.text()
    one.window.run("units")
    assert "bar" in page.now._action.text()


def test_a_second_window_on_the_same_data_says_what_changed(session, qtbot):
    one = session()
    one.bench.editor.new_wheel()
    for field, text in (
        ("rim.bead_seat_diameter_mm", "622"),
        ("rim.internal_width_mm", "24"),
        ("tire.size", "45-622"),
    ):
        one.bench.editor.type_into(field, text)
    qtbot.waitUntil(lambda: not one.worker.waiting)
    two = session()
    two.bench.editor.type_into("rim.internal_width_mm", "25")
    qtbot.waitUntil(lambda: "another window" in one.window.header.message.text(), timeout=10000)
    assert one.window.page.inputs._rows["rim.internal_width_mm"].entry.text() == "25"
    assert one.bench.current.plan.bed.internal_width_mm == 25


def test_when_nothing_can_be_stored_the_window_says_so_and_offers_export(
    session, tmp_path, monkeypatch
):
    one = session(demo=True)
    one.bench.sync.on_store_fault(
        StoreFull("The disk is full; your work is kept here. Make room or export your work.")
    )
    assert one.window.banner.isVisible() and "disk is full" in one.window.banner.words.text()
    one.bench.editor.type_into("ride.total_mass_kg", "77")  # the hand is not stopped
    assert one.bench.current.ride_job.ride.total_mass_kg == 77
    target = tmp_path / "work.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
    one.window.run("export_all")
    saved = json.loads(target.read_text(encoding="utf-8"))
    assert (
        saved["jobs"][0]["job"]["ride"]["total_mass_kg"] == 77
        and saved["jobs"][0]["log"][0]["entry"]["kind"]
    )
    assert saved["shelf"] and saved["practice"]["settings"]["practice.dose"] == "standard"
    one.bench.sync.on_store_fault(None)
    assert (
        not one.window.banner.isVisible() and "nothing was lost" in one.window.header.message.text()
    )


@pytest.mark.parametrize(
    ("answer", "closes"),
    [(QMessageBox.StandardButton.Cancel, False), (QMessageBox.StandardButton.Discard, True)],
)
def test_closing_with_work_that_is_not_stored_asks_first(session, monkeypatch, answer, closes):
    one = session(demo=True)
    asked = []
    monkeypatch.setattr(QMessageBox, "warning", lambda *a, **k: asked.append(a[2]) or answer)
    monkeypatch.setattr(one.window, "all_stored", lambda: False)
    assert one.shell.close() is closes and "not stored" in asked[0]


@pytest.mark.parametrize("chosen", ["", "no folder/work.json"])
def test_saving_that_is_broken_off_or_fails_does_not_close(session, tmp_path, monkeypatch, chosen):
    one = session(demo=True)
    monkeypatch.setattr(QMessageBox, "warning", lambda *a, **k: QMessageBox.StandardButton.Save)
    monkeypatch.setattr(one.window, "all_stored", lambda: False)
    target = str(tmp_path / chosen) if chosen else ""
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (target, ""))
    assert one.shell.close() is False
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "work.json"), "")
    )
    assert one.shell.close() is True and (tmp_path / "work.json").exists()


def test_an_unexpected_fault_goes_to_the_file_and_the_dialog(tmp_path, monkeypatch, qapp, capsys):
    shown = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: shown.append(box.detailedText()))
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    faults = FaultLog(tmp_path / "data")
    monkeypatch.setattr("threading.excepthook", threading.excepthook)
    faults.install()
    try:
        raise RuntimeError("spoke through the rim")
    except RuntimeError as fault:
        sys.excepthook(type(fault), fault, fault.__traceback__)
    assert "spoke through the rim" in shown[0]
    assert "spoke through the rim" in (tmp_path / "data" / "faults.log").read_text(encoding="utf-8")
    report = (tmp_path / "data" / "report.txt").read_text(encoding="utf-8")
    assert "test_window.py" in report and "RuntimeError" in report and "PyQt6" in report
    # it might quote a customer
    assert "spoke through the rim\n" not in report and "RuntimeError:" not in report
    FaultLog(tmp_path / "data" / "faults.log" / "x").write("a folder that cannot be made")
    assert faults.count == 1
    assert "cannot be written" in capsys.readouterr().err


def test_long_names_are_shown_shortened_not_clipped_or_pushing(session):
    one = session(demo=True)
    one.bench.editor.type_into(
        "name", "The long-distance expedition tandem of the eastern ranger post, " * 3
    )
    one.bench.editor.type_into("customer", "A customer with a name that goes on and on " * 4)
    one.shell.grab()
    assert one.shell.width() == 1280
    page = one.window.page
    assert page.side.geometry().right() < 1280 and page.side.width() > 400
    assert page._name.toolTip().startswith("The long-distance")


def test_a_bouncing_or_held_key_answers_once(session, qtbot, monkeypatch):
    from PyQt6.QtCore import QEvent, Qt
    from PyQt6.QtGui import QKeyEvent
    from PyQt6.QtWidgets import QApplication

    from inner_rim.desktop.commands import keyboard

    one = session(demo=True)
    bench, page = one.bench, one.window.page
    bench.select(next(s.key for s in bench.wheels if s.name.startswith("Dune")))
    page.now.focus_main()
    monkeypatch.setattr(keyboard, "BOUNCE_MS", 60_000)
    before = len(bench.current.log)
    for _ in range(3):
        qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    assert len(bench.current.log) == before + 1  # check-in done, no question answered by the bounce
    monkeypatch.setattr(keyboard, "BOUNCE_MS", 0)
    held = QKeyEvent(
        QEvent.Type.KeyPress, Qt.Key.Key_Return, Qt.KeyboardModifier.NoModifier, "\r", True
    )
    one.window.keyPressEvent(held)
    assert len(bench.current.log) == before + 1
    together = len(bench.current.progress.together)
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    assert together > 1 and len(bench.current.log) == before + 1 + together


def test_every_label_shows_plain_text_and_a_name_is_never_markup(session, qtbot):
    from PyQt6.QtCore import Qt
    from PyQt6.QtWidgets import QLabel

    one = session(demo=True)
    select(one.window, "Dune")
    one.bench.editor.type_into("name", '<img src="/dev/zero"> front')
    one.bench.editor.type_into("tire.size", '<img src="/dev/zero">')
    for place in ("bench", "day", "shelf", "practice", "logbook"):
        one.window.go_to(place)
        one.window.grab()
    labels = one.window.findChildren(QLabel)
    assert len(labels) > 40
    assert [label.text() for label in labels if label.textFormat() != Qt.TextFormat.PlainText] == []
    assert one.window.page._name.toolTip().startswith("<qt>&lt;img")


def test_a_ninth_sector_is_a_sentence_and_the_wheel_opens_again(session, qtbot):
    """L, 9, Enter: the entry that once made every wheel unreadable."""
    from PyQt6.QtCore import Qt
    from PyQt6.QtWidgets import QApplication

    one = session()
    for field, text in (
        ("rim.bead_seat_diameter_mm", "622"),
        ("rim.internal_width_mm", "24"),
        ("tire.size", "45-622"),
    ):
        if not one.bench.wheels:
            one.bench.editor.new_wheel()
        one.bench.editor.type_into(field, text)
    for stage in ("check_in", "strip", "tape", "valve", "mount", "sealant"):
        one.bench.recorder.finish_stage(stage)
    one.window.page.now.focus_main()
    while one.bench.current.progress.step is not None:  # the beads are wetted first
        one.window.run("step_done")
    for key in (Qt.Key.Key_L, Qt.Key.Key_9):
        qtbot.keyClick(QApplication.focusWidget(), key)
    assert "1 to 8" in cautions_of(one.window.page)
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    for depth in ("250", "-1", "9" * 400):
        one.window.page.now.figure.setText(depth)
        one.window.run("log_dip")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    assert one.worker.kept == ()
    one.finish()
    again = session()
    assert again.bench.current is not None and again.bench.current.progress.stage == "seat"


def test_what_is_typed_is_painted_first_and_stored_right_after(session, qtbot, monkeypatch):
    monkeypatch.setattr(background, "PAINT_SECONDS", 20.0)  # only the paint may let it go on
    seen, edit, paint = [], Repository.edit, SectionView.paintEvent
    monkeypatch.setattr(
        Repository, "edit", lambda self, *a: (seen.append("store"), edit(self, *a))[1]
    )
    monkeypatch.setattr(
        SectionView, "paintEvent", lambda self, event: (paint(self, event), seen.append("paint"))[0]
    )
    one = session(demo=True)
    select(one.window, "Dune")
    one.window.run("go_to_field", "rim.internal_width_mm")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    entry = QApplication.focusWidget()
    entry.selectAll()
    seen.clear()
    qtbot.keyClicks(entry, "21")
    qtbot.waitUntil(lambda: not one.worker.waiting)
    assert seen[0] == "paint" and "store" in seen, seen


def test_what_is_painted_piece_by_piece_is_what_is_painted_whole(demo, qtbot, qapp):
    page, shell = demo.window.page, demo.shell
    select(demo.window, "Dune")
    demo.window.run("theme")
    demo.window.run("go_to_field", "rim.internal_width_mm")
    entry = qapp.focusWidget()
    for text in ("25.5", "28", "24"):
        entry.selectAll()
        for letter in text:
            QTest.keyClick(entry, letter)
            qapp.processEvents()
    qtbot.waitUntil(lambda: not demo.worker.waiting)
    qapp.processEvents()
    # what has stood there all the time
    seen = qapp.primaryScreen().grabWindow(shell.winId()).toImage()
    for part in (page.picks, page.deck.section, page.scale):
        whole, corner = part.grab().toImage(), part.mapTo(shell, QPoint(0, 0))
        other = [
            (x, y)
            for x in range(0, whole.width(), 3)
            for y in range(whole.height())
            if abs(
                whole.pixelColor(x, y).green()
                - seen.pixelColor(corner.x() + x, corner.y() + y).green()
            )
            > 24
        ]
        assert other == [], type(part).__name__
