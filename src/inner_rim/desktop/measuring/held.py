"""A pressure that is held at the gauge confirms its step."""

from collections.abc import Callable

from inner_rim.work.bench import Bench
from inner_rim.work.tasks.gauge import is_held


class HeldPressure:
    """Follows the gauge: what was held long enough confirms its step, or asks how the beads look.

    Args:
        run: carries out a command; returns whether it applied.
        changed: called when a pressure begins or ends to be held.
    """

    def __init__(self, bench: Bench, run: Callable[[str], bool], changed: Callable[[], None]) -> None:
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
