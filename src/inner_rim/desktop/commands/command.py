"""What a command is, what it is given, and what it returns. A command reads no widget."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, Literal, Protocol

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import N_
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import BenchWheel, PlannedWheel
from inner_rim.work.tasks.gauge import SimulatedFault
from inner_rim.work.text.panel import AskName, Now, accept
from inner_rim.work.text.questions import Question, ViewSelection

if TYPE_CHECKING:
    from inner_rim.work.training import Training

#: Where a key works: everywhere, also while a field is typed into; or on the bench page while none
#: is.
Scope = Literal["anywhere", "bench"]
#: Where the cursor goes after a command: what the panel asks for, the main action, or nowhere else.
Focus = AskName | Literal["", "main", "first_field", "line", "search"]


class ExporterPort(Protocol):
    def export(self, what: str) -> bool: ...

    def print_paper(self, way: str) -> None: ...
    def export_setup(self) -> None: ...
    def import_setup(self) -> None: ...


class CaliperPort(Protocol):
    def take_questioned(self) -> None: ...


class LiveGaugePort(Protocol):
    def connect_port(self) -> None: ...
    def begin_simulator(self, fault: SimulatedFault = "none") -> None: ...
    def off(self) -> None: ...


class ToolsPort(Protocol):
    @property
    def caliper(self) -> CaliperPort: ...

    @property
    def gauge(self) -> LiveGaugePort: ...

    @property
    def sounding(self) -> bool: ...

    def silence(self) -> None: ...


class Complaint(Exception):
    """What was typed or done cannot be taken.

    Args:
        sentence: why, and what is accepted.
        focus: where it is corrected.
    """

    def __init__(self, sentence: str, focus: Focus = "") -> None:
        super().__init__(sentence)
        self.outcome = Outcome({"fault": sentence}, focus)


class Outcome(msgspec.Struct, frozen=True):
    """The outcome of a command.

    Attributes:
        look: changes of the view, by the names of `ViewSelection`; an old fault goes in any case.
        field: the field that the cursor goes to instead.
        pressure: what is put into the entry of the pressure, empty for nothing.
        line: what is kept in the line of a check-in, None where it stays as it is.
    """

    look: Mapping[str, object] = {}
    focus: Focus = ""
    field: str = ""
    line: str | None = None
    pressure: str = ""


class ParkingPort(Protocol):
    """What commands need to know of letters that go nowhere."""

    parked: bool

    def park(self) -> None: ...
    def unpark(self) -> None: ...


class WindowPort(Protocol):
    @property
    def parking(self) -> ParkingPort: ...

    def go_to(self, page: str) -> None: ...

    @property
    def theme(self) -> Theme: ...

    def use_theme(self, theme: Theme) -> None: ...

    def toggle_list(self, name: Literal["keys", "actions"]) -> None: ...

    @property
    def demo(self) -> bool: ...

    def begin_tour(self) -> None: ...

    def toggle_far(self) -> None:
        """Show the step over the whole screen, to be read from three meters; or the page again."""

    def leave_far(self) -> bool: ...

    @property
    def exporter(self) -> ExporterPort: ...

    @property
    def tools(self) -> ToolsPort: ...

    @property
    def training(self) -> Training | None:
        """The training wheel of this window; None on the shop's own bench."""

    @property
    def page_shown(self) -> str: ...

    @property
    def typing(self) -> bool: ...


class Context(msgspec.Struct, frozen=True):
    """What a command is given.

    Attributes:
        bench: the use cases.
        now: what the panel says, with the answers that it offers.
        typed: the texts in the panel's entries, by what is asked for.
        value: the key that was pressed, or what was clicked: a sector, a stage, a field, a choice.
    """

    bench: Bench
    window: WindowPort
    looking: ViewSelection
    now: Now
    typed: Mapping[AskName, str] = {}
    value: Any = ""

    @property
    def state(self) -> BenchWheel | None:
        return self.bench.current

    @property
    def planned(self) -> PlannedWheel:
        """The wheel, for commands that apply only where it has a plan."""
        state = self.bench.planned
        if state is None:
            raise LookupError("the wheel has no plan")
        return state

    @property
    def digit(self) -> int | None:
        return int(self.value) if self.value in tuple("0123456789") else None

    def read(self, name: AskName) -> Any:
        """Return what was typed where something is asked for, a figure in its canonical unit; see
        `accept`.

        Raises:
            Complaint: it cannot be that.
        """
        try:
            return accept(name, self.typed.get(name, ""), self.bench.units)
        except InputError as fault:
            raise Complaint(fault.sentence, name) from None

    def offers(self, command: str) -> bool:
        return any(answer.command == command for answer in self.now.answers)

    def look(self, focus: Focus = "", **changes: object) -> Outcome:
        return Outcome(changes, focus)

    def ask(self, question: Question | None, focus: Focus = "main") -> Outcome:
        """Ask something besides the next step; None to go back to that."""
        return Outcome({"question": question}, focus)


MAIN = Outcome(focus="main")


#: The groups of the list of actions, in their order.
GROUPS = (N_("This step"), N_("This wheel"), N_("The bench"), N_("The program"))


class Command(msgspec.Struct, frozen=True):
    """A command of the program.

    Attributes:
        id: its name in the code.
        title: its name on buttons and in lists; empty for one that only clicks give.
        keys: its keys, as Qt spells them; the first is shown.
        listed: in the list of actions; "typed" where it comes up only by its words.
        group: its group in that list.
    """

    id: str
    title: str
    run: Callable[[Context], Outcome | None]
    keys: tuple[str, ...] = ()
    scope: Scope = "bench"
    applies: Callable[[Context], bool] = lambda context: True
    listed: bool | Literal["typed"] = True
    group: str = GROUPS[1]
