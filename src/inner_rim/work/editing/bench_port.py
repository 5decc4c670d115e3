"""What the parts of a bench want of the bench that they belong to."""

from typing import Protocol

from inner_rim.core.record.log import SeenPop
from inner_rim.core.record.units import UnitChoice
from inner_rim.work.editing.shelf import ShelfBook
from inner_rim.work.editing.state import BenchWheel, JobState, PlannedWheel, Shop, WheelKey


class TracePort(Protocol):
    def points(self) -> tuple[tuple[float, float], ...]: ...


class GaugePort(Protocol):
    """The live attempt at a gauge, as the log takes it."""

    peak_kpa: float

    @property
    def begun(self) -> bool: ...

    def pops(self) -> tuple[SeenPop, ...]: ...

    @property
    def thin(self) -> TracePort: ...

    def start_afresh(self) -> None: ...


class VisitsPort(Protocol):
    """Whoever looks for earlier visits of a wheel."""

    def look_for(self, state: BenchWheel) -> None: ...


class BenchPort(Protocol):
    """The bench, seen by its editor, recorder and visits."""

    message: str
    selected: WheelKey | None
    wheels: list[BenchWheel]

    @property
    def current(self) -> BenchWheel | None: ...

    @property
    def planned(self) -> PlannedWheel | None: ...

    @property
    def shop(self) -> Shop: ...

    @property
    def units(self) -> UnitChoice: ...

    @property
    def shelf(self) -> ShelfBook: ...

    @property
    def gauge(self) -> GaugePort: ...

    @property
    def visits(self) -> VisitsPort: ...

    def refresh(self, only: JobState | None = None, *, everything: bool = False) -> None: ...

    def changed(self) -> None: ...

    def select(self, key: WheelKey) -> None: ...

    def say(self, words: str) -> None: ...

    def now(self) -> str: ...
