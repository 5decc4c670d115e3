"""What the parts of a bench want of the bench that they belong to."""

from collections.abc import Sequence
from typing import Protocol

from inner_rim.core.record.log import Logged, SeenPop
from inner_rim.core.record.units import UnitChoice
from inner_rim.work.editing.shelf import ShelfBook
from inner_rim.work.editing.state import JobState, WheelKey, WheelState


class Gauge(Protocol):
    """The live attempt at a gauge, as the log takes it."""

    peak_kpa: float

    @property
    def begun(self) -> bool:
        """Whether an attempt is under way."""
        ...

    def pops(self) -> tuple[SeenPop, ...]:
        """Return the pops of the attempt."""
        ...

    def thinned(self) -> tuple[tuple[float, float], ...]:
        """Return the trace in few points."""
        ...

    def start_afresh(self) -> None:
        """Begin another attempt."""
        ...


class Watcher(Protocol):
    """Whoever looks for earlier visits of a wheel."""

    def look_for(self, state: WheelState) -> None:
        """Say where a wheel of that name was here before."""
        ...


class Desk(Protocol):
    """The bench, seen by its editor, recorder and visits."""

    message: str
    selected: WheelKey | None
    wheels: list[WheelState]

    @property
    def current(self) -> WheelState | None:
        """The selected wheel."""
        ...

    @property
    def units(self) -> UnitChoice:
        """What is read and typed."""
        ...

    @property
    def shelf(self) -> ShelfBook:
        """The parts."""
        ...

    @property
    def gauge(self) -> Gauge:
        """The live attempt."""
        ...

    @property
    def visits(self) -> Watcher:
        """Earlier visits."""
        ...

    def refresh(self, only: JobState | None = None, *, everything: bool = False) -> None:
        """Work out wheels again, and tell."""
        ...

    def changed(self) -> None:
        """Tell whoever shows the bench."""
        ...

    def foreseen(self, job: JobState, index: int, entries: Sequence[Logged]) -> WheelState:
        """Return a wheel as it will be after entries."""
        ...

    def select(self, key: WheelKey) -> None:
        """Select a wheel."""
        ...

    def say(self, words: str) -> None:
        """Show a sentence."""
        ...

    def now(self) -> str:
        """Return the time as it is stored."""
        ...
