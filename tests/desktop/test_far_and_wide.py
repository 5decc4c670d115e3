"""The far view with its alarm, and printing, in the real window."""

import io
import wave

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.measuring.gauge import tones
from tests.desktop.bench.test_seat_to_story import wheel
from tests.desktop.drive import run
from tests.desktop.test_work_view import stages_of


@pytest.fixture
def bells(monkeypatch):
    heard = []
    monkeypatch.setattr(QApplication, "beep", lambda: heard.append(1))
    return heard


def test_f11_shows_the_step_larger_and_without_the_lists_and_the_alarm_in_its_place(
    demo, qtbot, bells
):
    wheel(demo, "Sandpiper 2 · front")
    window, page = demo.window, demo.window.page
    usual = page.now._action.fontMetrics().height()
    QTest.keyClick(window, Qt.Key.Key_F11)
    assert (
        demo.shell.isFullScreen() and not page._left.isVisible() and not window.header.isVisible()
    )
    assert page.now._action.fontMetrics().height() > 1.4 * usual
    assert (
        page.now._action.text().startswith("Pump to")
        and "3.40 bar, printed on the tire" in page.scale.accessibleDescription()
    )
    window.tools.gauge.take(311.0, 0.0)
    assert "90 %" in page.now._action.text() or "near" in page.now._action.text().lower()
    window.tools.gauge.take(341.0, 0.1)
    assert "ABOVE THE LIMIT" in page.now._action.text()
    assert page.now.grab().toImage().pixelColor(8, 40) == window._theme.color("stop_soft")
    window.tools.gauge.take(150.0, 0.2)
    assert page.now._action.text().startswith("Pump to")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not demo.shell.isFullScreen() and page._left.isVisible() and window.header.isVisible()
    assert page.now._action.fontMetrics().height() == usual


def test_the_alarm_sounds_until_it_is_silenced_and_again_when_it_gets_worse(demo, qtbot, bells):
    wheel(demo, "Sandpiper 2 · front")
    window, gauge = demo.window, demo.window.tools.gauge
    assert not window.run("silence")  # nothing to silence
    gauge.take(310.0, 0.0)
    assert gauge.sound.sounding and len(bells) == 1
    gauge.take(311.0, 0.1)
    assert len(bells) == 1  # the same alarm goes on at its own pace
    QTest.keyClick(window, Qt.Key.Key_F8)
    assert not gauge.sound.sounding
    gauge.take(312.0, 0.2)
    assert not gauge.sound.sounding
    gauge.take(345.0, 0.3)
    assert gauge.sound.sounding and len(bells) == 2
    qtbot.waitUntil(lambda: len(bells) >= 3, timeout=3000)  # on and on
    gauge.take(100.0, 0.4)
    assert not gauge.sound.sounding
    demo.bench.settings.set_own(alarm_sound=False)
    gauge.take(345.0, 0.5)
    assert not gauge.sound.sounding and len(bells) == 3


@pytest.mark.parametrize("kind", ["near", "over"])
def test_the_sound_is_loud_and_most_of_it_lies_where_ear_protection_lets_it_through(kind):
    """ISO 7731 (from memory): components from 500 to 1500 Hz for people who wear hearing protection."""
    with wave.open(io.BytesIO(tones(kind))) as file:
        rate = file.getframerate()
        p = np.frombuffer(file.readframes(file.getnframes()), dtype="<i2") / 32768.0
    assert np.abs(p).max() > 0.95
    power = np.abs(np.fft.rfft(p)) ** 2
    hz = np.fft.rfftfreq(p.size, 1 / rate)
    assert power[(hz >= 500) & (hz <= 1500)].sum() > 0.6 * power.sum()


def test_a_click_into_a_lens_goes_to_the_field_of_what_lies_there(demo, qtbot):
    wheel(demo, "Sandpiper 2 · front")
    page = demo.window.page
    demo.shell.resize(1920, 1080)
    run(page, "show_section")
    QApplication.processEvents()
    section = page.deck.section
    lens = section.lenses()[0]
    asked = []
    section.clicked_part.connect(asked.append)
    at = {
        "tire.size": lens.box.center() + QPointF(0.15, 0.1) * lens.box.width(),  # the bead
        "practice.tape_width": lens.at(
            (lens.seat.layers[0][1][0] + 2.0, lens.seat.layers[0][1][1])
        ),
        "rim.hook": lens.at((-12.8, -3.0)),
        "rim.well.depth_mm": lens.at((-11.0, 1.2)),
    }
    for field, place in at.items():
        QTest.mouseClick(section, Qt.MouseButton.LeftButton, pos=place.toPoint())
        assert asked.pop() == field
    run(page, "show_loupe")
    assert (
        "up to the wall" in page.deck.loupe.accessibleDescription()
        or "climbs" in page.deck.loupe.accessibleDescription()
    )
    assert "hooked wall" in page.deck.loupe.accessibleDescription()


def test_a_sound_device_is_used_where_there_is_one_and_missing_sound_is_no_fault(
    qapp, monkeypatch, bells
):
    """The system's multimedia is played by a double that keeps what it is given; without it, the bell."""
    import sys
    import types
    from pathlib import Path

    from inner_rim.desktop.measuring.gauge import AlarmSound

    played = []

    class Effect:
        def __init__(self, parent):
            self.data = b""

        def setSource(self, url):
            self.data = Path(url.toLocalFile()).read_bytes()

        def setVolume(self, volume):
            assert volume == 1.0

        def play(self):
            played.append(self.data)

    double = types.ModuleType("PyQt6.QtMultimedia")
    double.QSoundEffect = Effect
    double.QMediaDevices = types.SimpleNamespace(audioOutputs=lambda: ["a speaker"])
    monkeypatch.setitem(sys.modules, "PyQt6.QtMultimedia", double)
    sound = AlarmSound()
    sound.ring("near", heard=True)
    sound.ring("over", heard=True)
    assert played == [tones("near"), tones("over")] and not bells
    sound.silence()
    double.QMediaDevices = types.SimpleNamespace(audioOutputs=list)
    silent = AlarmSound()
    silent.ring("over", heard=True)
    assert len(bells) == 1 and len(played) == 2
    silent.ring("none", heard=True)
    assert not silent.sounding and not sound.sounding
    # on a full disk the tones cannot be laid down: the bell again
    double.QMediaDevices = types.SimpleNamespace(audioOutputs=lambda: ["a speaker"])

    def full(self, data):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "write_bytes", full)
    crowded = AlarmSound()
    crowded.ring("over", heard=True)
    assert crowded.sounding and len(bells) == 2 and len(played) == 2
    crowded.silence()


def test_a_printer_that_does_not_answer_and_a_system_that_cannot_print_say_so(
    demo, qtbot, monkeypatch
):
    import sys

    from PyQt6.QtGui import QPainter
    from PyQt6.QtPrintSupport import QPrintDialog

    wheel(demo, "Kiosk")
    monkeypatch.setattr(QPrintDialog, "exec", lambda dialog: 1)
    with monkeypatch.context() as broken:
        broken.setattr(QPainter, "begin", lambda painter, device: False)
        demo.window.run("print_sheet")
        assert "nothing was printed" in demo.bench.message
        demo.bench.say("")
        demo.window.go_to("day")
        QTest.mouseClick(demo.window.page_of("day").papers["print"], Qt.MouseButton.LeftButton)
        assert "nothing was printed" in demo.bench.message
    monkeypatch.setitem(sys.modules, "PyQt6.QtPdf", None)  # a system without what Qt prints with
    demo.window.run("print_label")
    assert "cannot print" in demo.bench.message


def test_a_target_that_is_held_for_two_seconds_asks_how_it_looks_or_confirms_a_plain_step(
    demo, qtbot, bells
):
    state = wheel(demo, "Sandpiper 2 · front")
    page, gauge = demo.window.page, demo.window.tools.gauge
    target, before = state.progress.seating.step_kpa, demo.bench.logged

    def read(kpas, begin):
        for i, kpa in enumerate(kpas):
            gauge.take(kpa, begin + 0.25 * i)
            QApplication.processEvents()

    read([0.3 * target, 0.7 * target, target - 2.0, target, target + 1.0], 0.0)
    assert page.now._action.text().startswith("Pump to")  # not long enough
    read([target] * 8, 1.5)
    # the beads are for the eye
    assert page.now._action.text().startswith("Pressure held.") and demo.bench.logged == before
    assert float(page.now.figure.text()) == pytest.approx(target / 100.0, abs=0.02)
    read([target - 30.0], 4.0)
    assert page.now._action.text().startswith("Pump to")
    read([target] * 10, 4.5)
    page.now.focus_main()
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Y)
    assert demo.bench.current.log[-1].entry.peak_kpa == pytest.approx(target + 1.0)
    demo.bench.settings.set_own(pace="step")
    for state in stages_of(demo, "Warden"):
        step = state.progress.step
        if step is not None and step.code == "air.inflate":
            break
    before = demo.bench.logged
    read([0.5 * step.pressure_kpa, *[step.pressure_kpa] * 9], 100.0)
    assert demo.bench.logged == before + 1 and demo.bench.current.log[-1].entry.step == step.key
    read([step.pressure_kpa] * 20, 110.0)
    assert demo.bench.logged == before + 1  # once
    demo.window.run("undo")
    assert demo.bench.current.progress.step.key == step.key


def test_the_far_view_leaves_the_cursor_in_a_name_that_is_half_typed(session):
    """Letters after it would be keys of the panel, and the space its answer."""
    one = session()
    one.window.run("new_wheel")
    one.window.page.inputs.focus_field("rim.name")
    for text, key in (("weir C", Qt.Key.Key_F11), ("an", Qt.Key.Key_Escape), ("al eel", None)):
        QTest.keyClicks(QApplication.focusWidget(), text)
        if key is not None:
            QTest.keyClick(QApplication.focusWidget(), key)
            QApplication.processEvents()
    assert not one.window.page.far
    assert one.bench.current.value("rim.name") == "weir Canal eel"
