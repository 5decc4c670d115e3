"""The alarm sound: loud, low enough to pass hearing protection, silenced with one key."""

from __future__ import annotations

import io
import math
import struct
import wave
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTemporaryDir, QTimer, QUrl
from PyQt6.QtWidgets import QApplication

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QSoundEffect

RATE_HZ = 22_050
#: Two tones below 1500 Hz, which hearing protection lets through best (ISO 7731, from memory): near the limit slow,
#: above it fast.
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
            samples.append(rise * sum(part * math.sin(turn * (n + 1)) for n, part in enumerate(OVERTONES)))
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
    """Sounds until the pressure falls or someone silences it; the system's bell where there is no sound device."""

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
