"""Daily backups in a folder of the user's own, and the setup taken to another bench, through the window."""

import json
import sqlite3
from datetime import UTC, datetime, timedelta

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QPushButton

from inner_rim.cli import main
from inner_rim.core.record.parts import item_from
from inner_rim.desktop.app import Session
from inner_rim.store import backup
from inner_rim.store.backup import backups
from inner_rim.work.storage import source
from inner_rim.work.storage.files import HOME_VARIABLE
from inner_rim.work.storage.source import DailyBackup, open_file


def setup_page(one):
    one.window.go_to("practice")
    return one.window.page_of("practice")


def click(page, words):
    QTest.mouseClick(
        next(b for b in page.findChildren(QPushButton) if b.text() == words),
        Qt.MouseButton.LeftButton,
    )


def test_a_chosen_folder_gets_the_days_backup_and_gives_it_back(
    session, qtbot, own_home, tmp_path, capsys
):
    drive = tmp_path / "drive"
    drive.mkdir()
    one = session()
    one.bench.shelf.add(item_from("tape", {"name": "Tape 27", "width_mm": 27.0}, stock=1.0))
    qtbot.waitUntil(lambda: not one.worker.waiting)
    page = setup_page(one)
    qtbot.waitUntil(lambda: one.bench.backups.newest[0] is not None, timeout=10_000)
    page.refresh()
    assert "none yet" not in page.backup.words.text()  # when the one beside the data was made
    page.backup.folder.setFocus()
    QTest.keyClicks(page.backup.folder, str(drive))
    QTest.keyClick(page.backup.folder, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(list(drive.glob("*.sqlite"))) == 1, timeout=10_000)
    qtbot.waitUntil(lambda: one.bench.backups.newest[1] is not None)
    page.refresh()
    assert f"In {drive}" in page.backup.words.text() and "none yet" not in page.backup.words.text()
    one.finish()

    again = Session(own_home)  # the folder is remembered
    again.fill()
    assert again.bench.settings.own.backup_folder == str(drive)
    with sqlite3.connect(own_home / "inner-rim.sqlite") as data:
        data.execute("DELETE FROM parts")
    data.close()
    assert main(["restore", str(drive)]) == 0 and "Restored from" in capsys.readouterr().out
    store = open_file(own_home / "inner-rim.sqlite")
    assert [item.name for item in store.shelf.all()] == ["Tape 27"]
    store.close()
    assert main(["restore", str(tmp_path)]) == 2 and "holds no backup" in capsys.readouterr().err


def test_seven_days_and_four_weeks_are_kept_in_both_places_and_a_missing_drive_is_said(tmp_path):
    file, drive = tmp_path / "data" / "inner-rim.sqlite", tmp_path / "drive"
    store, today = open_file(file), datetime(2026, 9, 1, 12, tzinfo=UTC)
    drive.mkdir()
    daily = DailyBackup(file, lambda: today)
    daily.use_folder(str(drive))
    for _ in range(60):
        assert daily(store) == ""
        today += timedelta(days=1)
    for folder in (None, drive):
        made = [copy.made_at.date() for copy in backups(file, folder)]
        assert made[-7:] == [(today - timedelta(days=ago)).date() for ago in range(7, 0, -1)]
        assert 7 < len(made) <= 11 and len({day.isocalendar()[:2] for day in made}) >= 4
    drive.rename(tmp_path / "unplugged")
    assert str(drive) in (said := daily(store)) and "not there" in said
    assert not drive.exists()  # a mount point is not filled
    # beside the data it goes on
    assert len(backups(file)) >= 8 and daily.newest[0].date() == today.date()
    store.close()


def test_two_benches_share_a_folder_and_each_gets_its_own_data_back(tmp_path, capsys, monkeypatch):
    drive, first = tmp_path / "drive", datetime(2026, 9, 1, 12, tzinfo=UTC)
    drive.mkdir()
    for name in ("one", "two"):
        file = tmp_path / name / "inner-rim.sqlite"
        days = (first + timedelta(days=day) for day in range(20))
        store, daily = open_file(file), DailyBackup(file, days.__next__)
        store.shelf.add(
            item_from("tape", {"name": f"Tape of {name}", "width_mm": 27.0}, stock=1.0),
            first.isoformat(),
            "new",
        )
        daily.use_folder(str(drive))
        for _ in range(20):  # each keeps its own seven days and four weeks
            assert daily(store) == ""
        assert daily.newest[1] is not None and len(backups(file, drive)) >= 8
        store.close()
    for name in ("one", "two"):
        monkeypatch.setenv(HOME_VARIABLE, str(tmp_path / name))
        assert main(["restore", str(drive)]) == 0
        store = open_file(tmp_path / name / "inner-rim.sqlite")
        assert [item.name for item in store.shelf.all()] == [f"Tape of {name}"]
        store.close()
    capsys.readouterr()
    # a new computer has no copy of its own there
    monkeypatch.setenv(HOME_VARIABLE, str(tmp_path / "new"))
    assert main(["restore", str(drive)]) == 2 and "several benches" in capsys.readouterr().err
    assert (
        main(["restore", str(backups(tmp_path / "one" / "inner-rim.sqlite", drive)[-1].file)]) == 0
    )


def test_a_missing_drive_is_waited_for_without_checking_the_data_again(tmp_path, monkeypatch):
    file, drive, checks = tmp_path / "data" / "inner-rim.sqlite", tmp_path / "drive", []
    store, check = open_file(file), backup.check
    monkeypatch.setattr(backup, "check", lambda one: checks.append(one) or check(one))
    monkeypatch.setattr(source, "BACKUP_RETRY_SECONDS", 0.0)
    daily = DailyBackup(file)
    daily.use_folder(str(drive))
    assert str(drive) in daily(store)
    before = len(checks)
    assert str(drive) in daily(store) and len(checks) == before
    drive.mkdir()
    assert daily(store) == "" and daily.newest[1] is not None
    store.close()


def test_setup_and_shelf_travel_as_one_file(session, qtbot, own_home, tmp_path, monkeypatch):
    file = tmp_path / "setup.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(file), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(file), ""))
    one = session()
    one.bench.shop_methods.set("practice.dose", "lean")
    one.bench.shop_methods.set("alarm_share", 0.8)
    one.bench.shelf.add(
        item_from("tape", {"name": "Tape 27", "width_mm": 27.0}, stock=9000.0, low_at=2500.0)
    )
    qtbot.waitUntil(lambda: not one.worker.waiting)
    click(setup_page(one), "Export setup and shelf…")
    one.finish()

    other = Session(tmp_path / "other")
    other.show()
    qtbot.addWidget(other.shell)
    qtbot.waitUntil(lambda: other._started and not other.worker.waiting, timeout=10_000)
    other.bench.shop_methods.set("practice.dose", "generous")
    qtbot.waitUntil(lambda: not other.worker.waiting)
    click(setup_page(other), "Import…")
    qtbot.waitUntil(
        lambda: other.bench.message == "Shop setup imported, and parts: 1", timeout=10_000
    )
    qtbot.waitUntil(lambda: [item.name for item in other.bench.shelf.items] == ["Tape 27"])
    assert (
        other.bench.settings.shop["practice.dose"] == "lean"
        and other.bench.settings.alarm_share == 0.8
    )
    assert other.window.page_of("practice").choices["dose"].buttons["lean"].isChecked()
    other.bench.undo()  # the settings, in one step
    assert (
        other.bench.settings.shop["practice.dose"] == "generous"
        and other.bench.settings.alarm_share is None
    )
    file.write_text('{"format": "inner-rim/work", "version": 1, "shelf": [{"kind": "tape"}]}')
    other.window.run("import_setup")
    qtbot.waitUntil(lambda: "setup.json: width_mm: missing" in other.bench.message)
    qtbot.waitUntil(lambda: not other.worker.waiting)
    other.finish()
    store = open_file(tmp_path / "other" / "inner-rim.sqlite")
    assert store.bench().settings["practice.dose"] == "generous"
    assert [(item.name, item.stock, item.low_at) for item in store.shelf.all()] == [
        ("Tape 27", 9000.0, 2500.0)
    ]
    store.close()


@pytest.mark.parametrize("typed", ["~nobody-of-that-name/backup", "a\0b"])
def test_a_folder_that_cannot_be_is_said_and_never_keeps_the_program_from_starting(
    session, qtbot, own_home, tmp_path, typed, capsys
):
    one = session()
    page = setup_page(one)
    page.backup.folder.setText(str(tmp_path))
    page.backup.folder.entered.emit()
    page.backup.folder.setText(typed)
    page.backup.folder.entered.emit()
    if typed.startswith("~"):  # a field takes no control characters
        assert "no folder" in page.backup.words.text() and page.backup.folder.text() == typed
        assert one.bench.settings.own.backup_folder == str(tmp_path)  # as before
    one.finish()
    # kept by a version that did not check it
    (own_home / "bench.json").write_text(json.dumps({"backup_folder": typed, "asked": True}))
    again = Session(own_home)
    again.fill()
    assert "no folder" in setup_page(again).backup.words.text()
    again.finish()
    assert main(["doctor"]) in (0, 1) and "no folder" in capsys.readouterr().out


def test_settings_that_nest_without_end_are_left_out(own_home):
    own_home.mkdir(exist_ok=True)
    (own_home / "bench.json").write_text("[" * 100_000)
    again = Session(own_home)
    again.fill()
    assert again.bench.settings.own.backup_folder == ""
    again.finish()
