"""The gauge at the window: readings, alarms that are shown and heard, a pressure that is held."""

from __future__ import annotations

import io
import math
import struct
import wave
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTemporaryDir, QTimer, QUrl, pyqtSignal
from PyQt6.QtWidgets import QApplication

from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.tasks.gauge import SimulatedFault, alarm_words, is_held, simulated_lines
from inner_rim.work.tasks.tools import Tool

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QSoundEffect


class HeldPressure:
    """Follows the gauge: what was held long enough confirms its step, or asks how the beads look.

    Args:
        run: carries out a command; returns whether it applied.
        changed: called when a pressure begins or ends to be held.
    """

    def __init__(
        self, bench: Bench, run: Callable[[str], bool], changed: Callable[[], None]
    ) -> None:
        self._bench, self._run, self._changed = bench, run, changed
        self._held = False

    def look(self) -> None:
        state = self._bench.planned
        held = state is not None and is_held(self._bench.gauge, state.progress)
        if held == self._held:
            return
        self._held = held
        self._changed()
        if held and state is not None and not state.progress.seats_next and self._run("step_done"):
            self._bench.gauge.start_afresh()
            self._held = False


RATE_HZ = 22_050
#: Two tones below 1500 Hz, which hearing protection lets through best (ISO 7731, from memory): near
#: the limit slow, above it fast.
TONES_HZ = (620.0, 930.0)
TONE_S = {"near": 0.45, "over": 0.16}
#: Overtones of a tone: a rich sound is heard through the noise of a compressor.
OVERTONES = (1.0, 0.6, 0.35)
REPEAT_MS = {"near": 2500, "over": 700}


def tones(kind: str) -> bytes:
    """Return the sound of an alarm as a WAV file: one channel, 16 bits, at full level."""
    count = round(RATE_HZ * TONE_S[kind])
    samples: list[float] = []
    for tone in TONES_HZ:
        for i in range(count):
            turn = 2.0 * math.pi * tone * i / RATE_HZ
            rise = min(1.0, i / 200.0, (count - i) / 200.0)  # no click at either end
            samples.append(
                rise * sum(part * math.sin(turn * (n + 1)) for n, part in enumerate(OVERTONES))
            )
    loudest = max(abs(x) for x in samples)
    frames = struct.pack(f"<{len(samples)}h", *(round(32_000 * x / loudest) for x in samples))
    file = io.BytesIO()
    with wave.open(file, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(RATE_HZ)
        out.writeframes(frames)
    return file.getvalue()


class AlarmSound(QObject):
    """Sounds until the pressure falls or someone silences it; the system's bell where there is no
    sound device.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.kind = "none"
        self.silenced = False
        self._effects: dict[str, QSoundEffect] | None = None
        self._folder: QTemporaryDir | None = None  # removed with this
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._sound)

    def prepare(self) -> None:
        """Load what the sound needs, before the first alarm: its imports are heavy."""
        if self._effects is not None:
            return
        self._effects = {}
        try:
            from PyQt6.QtMultimedia import QMediaDevices, QSoundEffect
        except ImportError:  # no sound system on this machine
            return
        if not QMediaDevices.audioOutputs():
            return
        self._folder = QTemporaryDir()
        for kind in TONE_S:
            path = Path(self._folder.path()) / f"{kind}.wav"
            try:
                path.write_bytes(tones(kind))
            except OSError:  # the disk is full: the bell rings instead
                continue
            effect = QSoundEffect(self)
            effect.setSource(QUrl.fromLocalFile(str(path)))
            effect.setVolume(1.0)
            self._effects[kind] = effect

    @property
    def sounding(self) -> bool:
        return self._timer.isActive()

    def ring(self, kind: str, heard: bool) -> None:
        """Begin, change or end the alarm.

        Args:
            heard: whether the sound is switched on.
        """
        if kind != self.kind:
            self.kind, self.silenced = kind, False
        if kind == "none" or not heard or self.silenced:
            self._timer.stop()
            return
        if not self._timer.isActive() or self._timer.interval() != REPEAT_MS[kind]:
            self._timer.start(REPEAT_MS[kind])
            self._sound()

    def silence(self) -> None:
        self.silenced = True
        self._timer.stop()

    def _sound(self) -> None:
        self.prepare()
        effect = (self._effects or {}).get(self.kind)
        if effect is not None:
            effect.play()
        else:
            QApplication.beep()


SILENT_SECONDS = 3.0


class Gauge(QObject):
    """Connects a gauge to the bench; `pressure` and `running` tell the views."""

    pressure = pyqtSignal(float)
    running = pyqtSignal(bool)

    def __init__(self, tool: Tool, bench: Bench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.tool, self._bench = tool, bench
        self._alarm = "none"
        self.sound = AlarmSound(self)
        tool.heard.connect(self.take)
        tool.changed.connect(self.on_progress)

    def connect_port(self) -> None:
        """Listen at the port that was typed on the Setup page."""
        port = self._bench.settings.own.ports.get("gauge", "")
        if not port:
            self._bench.say(tr("Type the gauge's port in Shop setup first (Ctrl+4)"))
            return
        self.tool.connect(port if "/" in port else f"/dev/{port}", SILENT_SECONDS)

    def begin_simulator(self, fault: SimulatedFault = "none") -> None:
        state = self._bench.planned
        if state is None:
            self._bench.say(tr("Type rim and tire first: the simulator plays this wheel"))
            return
        methods = state.plan.methods
        self._bench.gauge.start_afresh()
        self.tool.simulate(
            simulated_lines(state.plan, methods.air_source, methods.core_out, fault), SILENT_SECONDS
        )

    def off(self) -> None:
        """Stop listening; what was read stays."""
        self.tool.off()

    def on_progress(self) -> None:
        if self.tool.live:
            self.sound.prepare()
        else:
            self.sound.ring("none", heard=False)  # the pressure is not known any more
        self.running.emit(self.tool.live)
        self._bench.say(tr("Gauge: {words}").format(words=self.tool.words))

    def take(self, kpa: float, at_s: float) -> None:
        """Take a reading: it is recorded first, then shown; an alarm is heard when it begins."""
        state = self._bench.planned
        limit = state.plan.pressure.limit_kpa if state is not None else None
        alarm = self._bench.gauge.take(kpa, at_s, limit)
        if alarm != self._alarm:
            self._alarm = alarm
            if alarm != "none" and limit is not None:
                self._bench.say(alarm_words(self._bench.gauge, limit, self._bench.units))
            elif limit is not None:
                self._bench.say("")
        self.sound.ring(alarm, self._bench.settings.own.alarm_sound)
        self.pressure.emit(kpa)
