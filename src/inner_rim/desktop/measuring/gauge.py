"""The gauge at the window: readings go into the bench's session, alarms are shown and heard."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from inner_rim.desktop.measuring.alarm import AlarmSound
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.tasks.gauge import SimulatedFault, alarm_words, simulated_lines
from inner_rim.work.tasks.tools import Tool

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
        tool.heard = self.take

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
        self.tool.simulate(simulated_lines(state.plan, methods.air_source, methods.core_out, fault), SILENT_SECONDS)

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
