"""What the panel can ask besides the wheel's next step: low sectors, a paper, troubleshooting, a
limit, sealant, a fleet. Each question says itself; commands open, change and answer it.
"""

from collections.abc import Mapping
from typing import Literal

import msgspec

from inner_rim.core.plan.aftercare import sealant_left_ml
from inner_rim.core.progress.diagnosis import PATH
from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.units import show
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel
from inner_rim.work.editing.undo import Raised
from inner_rim.work.text.panel import Answer, Now, PanelContext, asks
from inner_rim.work.text.papers import PRINTED, WAYS
from inner_rim.work.text.wheel_words import end_words, facts_of


class Question(msgspec.Struct, frozen=True):
    """Something that is asked besides the next step."""

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        """Return what the panel says."""
        raise NotImplementedError


class LowSpots(Question, frozen=True):
    """Where is it low? Sectors are marked before they are logged.

    Attributes:
        side: the one that digits go to.
        kpa: the pressure at which they were seen.
    """

    side: str = "left"
    left: frozenset[int] = frozenset()
    right: frozenset[int] = frozenset()
    kpa: float = 0.0

    def toggled(self, side: str, sector: int) -> "LowSpots":
        changed = getattr(self, side) ^ {sector}
        return msgspec.structs.replace(self, side=side, **{side: changed})

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        marked = [
            f"{tr(side)} {n}" for side in ("left", "right") for n in sorted(getattr(self, side))
        ]
        return Now(
            tr("Where is it low? Sectors count from the valve, clockwise as you look at that side"),
            tr("Low: {sectors}").format(sectors=", ".join(marked))
            if marked
            else tr("Press 1 to 8, or click the sector"),
            [],
            (
                Answer("log_low", tr("Log it")),
                Answer("side_left", tr("Left side"), self.side == "left"),
                Answer("side_right", tr("Right side"), self.side == "right"),
                Answer("leave", tr("Cancel")),
            ),
        )


class WritesOut(Question, frozen=True):
    """What is written out?"""

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        ways = {f"write_{way}": words for way, (_ending, words) in WAYS.items()}
        return Now(
            tr("Print & export"),
            tr("What do you want to write out for {name}?").format(name=state.name),
            [tr("Press the number.")],
            (
                *_by_number({**ways, "ask_printer": tr("To a printer")}),
                Answer("leave", tr("Cancel")),
            ),
        )


class Prints(Question, frozen=True):
    """What goes to a printer?"""

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        return Now(
            tr("Print"),
            tr("What do you want to print for {name}?").format(name=state.name),
            [tr("The label is made for a roll of 62 by 29 mm. Press the number.")],
            (
                *_by_number({f"print_{way}": words for way, words in PRINTED.items()}),
                Answer("leave", tr("Cancel")),
            ),
        )


def _by_number(ways: Mapping[str, str]) -> list[Answer]:
    return [
        Answer(command, tr(words), number=n) for n, (command, words) in enumerate(ways.items(), 1)
    ]


class Guide(Question, frozen=True):
    """Troubleshooting: a question, or the diagnosis."""

    code: str = "start"

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        question, leave = PATH.get(self.code), Answer("leave", tr("Leave"))
        if question is None:
            words = end_words(self.code, facts_of(state, around.items))
            return Now(tr("Diagnosis"), words, [], (Answer("guide_log", tr("Log it")), leave))
        answers = (Answer("guide_yes", tr("Yes"), enter=False), Answer("guide_no", tr("No")), leave)
        return Now(tr("Diagnosis"), tr(question.words), [], answers)


class RaisesLimit(Question, frozen=True):
    """A step that is taken back would raise a limit while air is in the tire."""

    raised: Raised

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        raised = self.raised
        before, after = (
            show(kpa, "kpa", around.units) for kpa in (raised.before_kpa, raised.after_kpa)
        )
        return Now(
            tr("Air is in the tire"),
            tr("This would raise the limit from {before} to {after}").format(
                before=before, after=after
            ),
            [
                tr("{name}: read the figure on rim and tire again before you raise it.").format(
                    name=raised.name
                )
            ],
            (
                Answer("leave", tr("Keep {before}").format(before=before)),
                Answer("raise_limit", tr("Raise to {after}").format(after=after)),
            ),
        )


class TopsUp(Question, frozen=True):
    """How much sealant was added?"""

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        assert isinstance(state, PlannedWheel)
        more: tuple[str, ...] = ()
        if state.plan.log.signed is not None:
            left = show(sealant_left_ml(state.wheel, state.plan, around.time), "ml", around.units)
            more = (tr("About {left} left before it, as forecast.").format(left=left),)
        return Now(
            tr("Sealant added"),
            tr("How much went in?"),
            [],
            (Answer("top_up_done", tr("Log it")), Answer("leave", tr("Cancel"))),
            asks(state, around.units, around.time, "", "added", "kind"),
            more,
        )


class Fleet(Question, frozen=True):
    """How many more wheels like this one?"""

    def says(self, state: BenchWheel, around: PanelContext) -> Now:
        return Now(
            tr("Duplicate"),
            tr("How many more wheels like {name}?").format(name=state.name),
            [tr("Each is a wheel of its own in this job, with its own log.")],
            (Answer("make_fleet", tr("Make them"), enter=False), Answer("leave", tr("Cancel"))),
            asks(None, around.units, around.time, "", "count"),
        )


#: The pictures that a step may need; `own` is the one that it does.
Picture = Literal["own", "act", "section", "loupe", "sectors", "finish", "trace", "plot", "wait"]
#: Those that can be asked for at any step.
PICTURES: tuple[Picture, ...] = ("section", "loupe", "sectors", "finish", "trace", "plot")
#: What opens beside the step and goes away again.
Drawer = Literal["", "entries", "plan", "choices", "steps", "log", "actions", "keys"]


class ViewSelection(msgspec.Struct, frozen=True):
    """What is shown and asked for.

    Attributes:
        stage: the stage whose inputs are shown.
        picture: a picture that was asked for, None for the one that the step needs.
        drawer: what is open beside the step, empty for nothing.
        why: the pick whose working is open, None for none.
        question: what the panel asks, None for the wheel's next step.
        fault: what was wrong with the last command, a sentence.
        pointed: place of the step that is pointed to, where several are confirmed together.
        sure: a figure that was asked about, and is logged when it comes again.
    """

    stage: Stage = "check_in"
    picture: Picture | None = None
    drawer: Drawer = ""
    why: int | None = None
    question: Question | None = None
    bubbles: frozenset[tuple[str, int]] = frozenset()
    fault: str = ""
    sure: str = ""
    pointed: int = 0

    @property
    def low(self) -> LowSpots | None:
        """The sectors that are being marked."""
        return self.question if isinstance(self.question, LowSpots) else None

    def shut(self) -> "ViewSelection":
        """Return the same with nothing open beside the step."""
        return msgspec.structs.replace(self, drawer="", why=None, pointed=0)
