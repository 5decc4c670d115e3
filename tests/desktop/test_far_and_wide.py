"""The far view with its alarm, and the second drawing of a wide window, in the real window."""

import io
import wave

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from inner_rim.desktop.drawings.far import FarView
from inner_rim.desktop.measuring.alarm import tones
from tests.desktop.bench.test_seat_to_story import wheel
from tests.desktop.drive import run


@pytest.fixture
def bells(monkeypatch):
    heard = []
    monkeypatch.setattr(QApplication, "beep", lambda: heard.append(1))
    return heard


def far(one):
    return one.window.findChild(FarView)


def test_f11_shows_three_things_and_the_alarm_over_them_until_it_is_left(demo, qtbot, bells):
    wheel(demo, "Sandpiper 2 · front")
    window = demo.window
    QTest.keyClick(window, Qt.Key.Key_F11)
    view = far(demo)
    assert view.geometry() == window.rect() and demo.shell.isFullScreen()
    said = view.accessibleDescription()
    assert said.startswith("Climb to") and "3.40 bar, printed on the tire" in said  # there is no gauge
    window.tools.gauge.take(150.0, 0.0)
    assert view.accessibleDescription().startswith("1.50 bar")
    window.tools.gauge.take(341.0, 0.1)
    assert "ABOVE THE LIMIT" in view.accessibleDescription()
    assert view.grab().toImage().pixelColor(3, 3) == window._theme.color("stop")
    QTest.keyClick(view, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: far(demo) is None)
    assert not demo.shell.isFullScreen()


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


def test_a_wide_window_shows_a_second_drawing_which_is_remembered(demo, qtbot):
    state = wheel(demo, "Sandpiper 2 · front")
    page = demo.window.page
    assert page.beside is None
    demo.shell.resize(1920, 1080)
    QApplication.processEvents()
    beside = page.beside
    assert beside.isVisible() and beside.views.currentWidget() is beside.loupe
    assert len(beside.loupe.lenses()) == 2
    QTest.mouseClick(beside.tabs["choices"], Qt.MouseButton.LeftButton)
    assert beside.views.currentWidget() is beside.choices and beside.choices.rows.lines
    assert page.deck.drawing == "section"  # the first one stays
    shares = [line.share for line in beside.choices.rows.lines if line.share is not None]
    assert shares == [source.probability for source in state.plan.coming_up.sources]
    assert demo.bench.settings.own.beside == "choices"
    demo.shell.resize(1280, 800)
    QApplication.processEvents()
    assert not beside.isVisible()


def test_a_click_into_a_lens_goes_to_the_field_of_what_lies_there(demo, qtbot):
    wheel(demo, "Sandpiper 2 · front")
    page = demo.window.page
    QApplication.processEvents()
    section = page.deck.section
    lens = section.lenses()[0]
    asked = []
    section.clicked_part.connect(asked.append)
    at = {
        "tire.size": lens.box.center() + QPointF(0.15, 0.1) * lens.box.width(),  # the bead
        "practice.tape_width": lens.at((lens.seat.layers[0][1][0] + 2.0, lens.seat.layers[0][1][1])),
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


def test_a_sound_device_is_used_where_there_is_one_and_missing_sound_is_no_fault(qapp, monkeypatch, bells):
    """The system's multimedia is played by a double that keeps what it is given; without it, the bell."""
    import sys
    import types
    from pathlib import Path

    from inner_rim.desktop.measuring.alarm import AlarmSound

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


def test_a_printer_that_does_not_answer_and_a_system_that_cannot_print_say_so(demo, qtbot, monkeypatch):
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
