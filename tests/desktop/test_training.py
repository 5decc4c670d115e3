"""A training wheel in its window, by keys; and nothing of its truth can be found before the debrief."""

import json

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.core.training.scenario import FACTS
from inner_rim.work.tasks.scenarios import play_document, played, read_results, scenario_named


@pytest.fixture
def training(session, qtbot):
    """A window with the training page open, and what starts a wheel there."""
    one = session(demo=True)
    one.window.go_to("training")
    page = one.window.page_of("training")

    def start(name):
        QTest.keyClicks(page.who, "J Reed")
        page.wheels.choose(name)
        page.start.click()
        assert one.training.size() == one.shell.size()
        QApplication.processEvents()
        return one.training.window_

    yield one, page, start
    if one.training is not None:
        one.training.close()


def key(window, name):
    QTest.keyClick(QApplication.focusWidget() or window, name)
    QApplication.processEvents()


def texts_of(thing, seen=None):
    """Every text within a structure, however deep."""
    seen = set() if seen is None else seen
    if id(thing) in seen or thing is None:
        return ""
    seen.add(id(thing))
    if isinstance(thing, str):
        return thing + "\n"
    if isinstance(thing, dict):
        return "".join(texts_of(one, seen) for pair in thing.items() for one in pair)
    if isinstance(thing, list | tuple | set | frozenset):
        return "".join(texts_of(one, seen) for one in thing)
    if hasattr(thing, "__struct_fields__"):
        return "".join(texts_of(getattr(thing, name), seen) for name in thing.__struct_fields__)
    return ""


def test_a_wheel_is_played_by_keys_and_its_debrief_and_result_are_kept(training, qtbot):
    one, page, start = training
    before = one.bench.logged
    window = start("05-low-spot")
    bench = window.bench
    assert "TRAINING" in one.training.findChild(type(page._hint), "training").text()
    steps = 0
    while not one.training.training._ended and steps < 160:
        steps += 1
        progress, answers = (
            bench.current.progress,
            [answer.command for answer in window.turns.view().now.answers],
        )
        if window.turns.view().looking.low is not None:
            assert "sector 5" in bench.message and window.turns.view().low_right == {5}
            window.run("log_low")
            continue
        window.page.now.focus_main()
        if progress.question is not None or progress.seats_next or progress.stage == "check_in":
            if progress.seats_next:
                key(window, Qt.Key.Key_F3)
            key(window, Qt.Key.Key_F2)
            if window.turns.view().looking.low is not None:
                continue
        if "both_up" in answers or "answer_yes" in answers:
            key(window, Qt.Key.Key_Y)
        elif answers[0] == "read_gauge":
            key(window, Qt.Key.Key_F3)
            window.run("read_gauge")
        elif answers[0] == "hand_over":
            window.page.now.signature.setText("J Reed")
            window.run("hand_over")
        else:
            one.training.training.tick()
            window.run(answers[0])
        QApplication.processEvents()
    assert one.training.training._ended and steps < 160
    lines = " ".join(f"{line.title} {line.note} {line.chip}" for line in page.debrief.rows.lines)
    assert (
        "A section of the bead stayed low. " in lines
        and "caught" in lines
        and "Follow the molded line" in lines
    )
    (result,) = read_results(one.bench.settings.folder).results
    assert result.who == "J Reed" and result.caught == ("low_spot",) and not result.late
    assert one.bench.logged == before and not any("hop" in state.name for state in one.bench.wheels)
    assert "Low spot" in " ".join(line.title for line in page.skills.rows.lines)
    qtbot.waitUntil(lambda: not one.training.isVisible(), timeout=10000)


def test_what_is_looked_for_and_not_found_shows_later_and_the_truth_is_nowhere_before(
    training, tmp_path
):
    one, _page, start = training
    window = start("07-spoke-hole")
    truth = FACTS["tape_lifted"]
    view = window.turns.view()
    shown = texts_of(view) + " ".join(
        widget.text()
        for widget in one.training.findChildren(type(window.page._summary))
        if widget.text()
    )
    assert truth.truth not in shown and truth.seen not in shown and "tape_lifted" not in shown
    files = [file for file in one.bench.settings.folder.rglob("*") if file.is_file()]
    assert not any(b"tape_lifted" in file.read_bytes() for file in files)
    document = play_document(played(scenario_named("07"), ["look:limit", "skip:old_sealant"]))
    assert "debrief" not in document and "tape_lifted" not in json.dumps(document)
    document = play_document(
        played(scenario_named("07"), ["look:limit", "skip:old_sealant", "look:tape"])
    )
    assert truth.seen in json.dumps(document)


def test_above_the_limit_the_tire_blows_off_and_the_debrief_says_so(training):
    one, page, start = training
    window = start("01-plain-gravel")
    for _ in range(120):
        progress, answers = (
            window.bench.current.progress,
            [one.command for one in window.turns.view().now.answers],
        )
        if progress.seats_next:
            break
        window.run("answer_yes" if "answer_yes" in answers else answers[0])
        one.training.training.tick()
    window.page.now.figure.setText("9 bar")
    window.run("use_pump")
    assert "blows off the rim" in window.bench.message and "What protects" in window.bench.message
    assert any("above its limit" in line.title for line in page.debrief.rows.lines)
