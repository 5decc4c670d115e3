"""What a command is, what it is given, and what it returns. A command reads no widget."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, Literal, Protocol

import msgspec

from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import N_
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.panel import Now
from inner_rim.work.text.view_selection import ViewSelection

if TYPE_CHECKING:
    from inner_rim.work.training import Training

#: Where a key works: everywhere, also while a field is typed into; or on the bench page while none is.
Scope = Literal["anywhere", "bench"]
#: Where the cursor goes after a command: an entry of the panel, the main action, or nowhere else.
Focus = Literal["", "main", "figure", "reason", "signature", "first_field", "line", "search"]


class ExporterPort(Protocol):
    """What commands need of the exporter."""

    def export(self, what: str) -> bool: ...

    def print_paper(self, way: str) -> None: ...
    def export_setup(self) -> None: ...
    def import_setup(self) -> None: ...


class CaliperPort(Protocol):
    def take_questioned(self) -> None: ...


class ToolsPort(Protocol):
    """What commands need of the measuring tools."""

    @property
    def caliper(self) -> CaliperPort: ...

    @property
    def sounding(self) -> bool: ...

    def silence(self) -> None: ...


class PanelEntries(msgspec.Struct, frozen=True):
    """What is typed into the panel's entries."""

    figure: str = ""
    reason: str = ""
    signature: str = ""


class Outcome(msgspec.Struct, frozen=True):
    """The outcome of a command.

    Attributes:
        look: changes of the view, by the names of `ViewSelection`; an old fault goes in any case.
        field: the field that the cursor goes to instead.
        clear: entries of the panel that are emptied.
        figure: what is put into the entry of the pressure or amount, empty for nothing.
        line: what is kept in the line of a check-in, None where it stays as it is.
    """

    look: Mapping[str, object] = {}
    focus: Focus = ""
    field: str = ""
    clear: tuple[Literal["figure", "reason"], ...] = ()
    line: str | None = None
    figure: str = ""


class ParkingPort(Protocol):
    """What commands need to know of letters that go nowhere."""

    parked: bool

    def park(self) -> None: ...
    def unpark(self) -> None: ...


class WindowPort(Protocol):
    """What commands need of the window."""

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
        typed: the texts in the panel's entries.
        value: the key that was pressed, or what was clicked: a sector, a stage, a field, a choice.
    """

    bench: Bench
    window: WindowPort
    looking: ViewSelection
    now: Now
    typed: PanelEntries = PanelEntries()
    value: Any = ""

    @property
    def state(self) -> BenchWheel | None:
        return self.bench.current

    @property
    def digit(self) -> int | None:
        return int(self.value) if self.value in tuple("0123456789") else None

    def offers(self, command: str) -> bool:
        return any(answer.command == command for answer in self.now.answers)

    def look(self, focus: Focus = "", **changes: object) -> Outcome:
        return Outcome(changes, focus)

    def complain(self, sentence: str, focus: Focus = "") -> Outcome:
        return Outcome({"fault": sentence}, focus)


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
