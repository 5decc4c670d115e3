"""What is judged by looking: one question, one key, asked at the moment when the answer can be
seen.

A question answered no is a stop until it is answered yes, or overridden by a named person where
that is allowed (docs/job.md part 4). All of it is common practice, no published source.
"""

from collections.abc import Mapping
from typing import Literal

import msgspec

from inner_rim.core.procedure.stops import Clears, Stop, Subject
from inner_rim.core.record.why import Message
from inner_rim.words import N_


class StepQuestion(msgspec.Struct, frozen=True):
    """A question of the inspection.

    Attributes:
        code: its name in the log, and of the stop.
        name: what is looked at, in a word or two.
        words: answered yes when all is well.
        stop: the sentence where it is answered no, empty where that only takes another way; what it
            is about, whether it can be overridden, what clears it.
    """

    code: str
    name: str
    words: str
    stop: str
    subject: Subject
    overridable: bool = True
    clears: Clears = "fixed"
    remedy: Literal["", "tape", "layer"] = ""


_ALL = (
    StepQuestion(
        "spoke_end_through",
        N_("Spoke ends"),
        N_("Spoke ends below the rim bed, no burrs?"),
        N_("A spoke end sticks up: file it flush, or it will puncture the tape."),
        "rim",
    ),
    StepQuestion(
        "carbon_damaged",
        N_("Carbon rim"),
        N_("Carbon rim good? No crack, no soft spot, no white line."),
        N_("The carbon rim is damaged. Do not mount a tire on it."),
        "rim",
        overridable=False,
    ),
    StepQuestion(
        "rim_dented",
        N_("Rim walls"),
        N_("Rim walls free of dents and cracks?"),
        N_("A dent in the rim wall leaks air. Straighten it or use another rim."),
        "rim",
    ),
    StepQuestion(
        "tape_damaged",
        N_("Old tape"),
        N_("Old tape good? No cut, no lifted edge, no dimple at a spoke hole."),
        N_("The old tape is damaged. Take it off and tape the rim again."),
        "tape",
        remedy="tape",
    ),
    StepQuestion(
        "tape_edges_damaged",
        N_("Tape beside the insert"),
        N_("Tape good on both sides of the insert? No cut, no lifted edge."),
        N_("The old tape is damaged. Take it off and tape the rim again."),
        "tape",
        remedy="tape",
    ),
    StepQuestion(
        "tape_laid_badly",
        "Tape",
        N_(
            "Edges down on both shoulders, no wrinkle, overlap sealed, nothing lifted at the spoke holes?"
        ),
        N_("The tape is not down everywhere. Press it down, or lay it again."),
        "tape",
    ),
    StepQuestion(
        "valve_core_stuck",
        N_("Valve core"),
        N_("Stem and core free of dried sealant, core moves freely?"),
        N_("The valve is clogged. Clean it or replace the core."),
        "valve",
    ),
    StepQuestion(
        "tire_unsound",
        "Tire",
        N_("Tire good? No cut through the casing, no torn bead, two plugs at most."),
        N_("The tire is damaged at the casing or bead. Use another tire."),
        "tire",
    ),
    StepQuestion(
        "tire_unsound_else",
        N_("Rest of the tire"),
        N_("Tire good apart from the cut? No torn bead, two plugs at most."),
        N_("The tire is damaged at the casing or bead. Use another tire."),
        "tire",
    ),
    StepQuestion(
        "thorns_left",
        N_("Inside of the tire"),
        N_("Felt all around inside the tire: nothing sharp left?"),
        N_("Something sharp is left in the tire. It would puncture the tube."),
        "tire",
    ),
    StepQuestion(
        "arrow_not_confirmed",
        N_("Arrow"),
        N_("Arrow: will the tire turn the right way on this side?"),
        N_("The arrow points the wrong way. Turn the tire around before the first bead goes on."),
        "arrow",
    ),
    StepQuestion(
        "arrow_not_confirmed_insert",
        N_("Arrow with the insert"),
        N_("Arrow: with this insert in, will the tire turn the right way?"),
        N_("The arrow points the wrong way. Turn the tire around before the insert goes in."),
        "arrow",
    ),
    StepQuestion(
        "insert_worn",
        "Insert",
        N_("Insert good? No gash, still springy."),
        N_("The insert is gashed or worn out. Use a new one."),
        "insert",
    ),
    StepQuestion(
        "bead_line_low",
        N_("Molded line"),
        N_("Molded line even on both sides, all the way around?"),
        N_("A bead is low. Let the air out, push that spot in, wet it, and inflate again."),
        "beads",
        clears="seating",
    ),
    StepQuestion(
        "bead_line_low_again",
        N_("Molded line again"),
        N_("Molded line still even on both sides after inflating again?"),
        N_("A bead is low. Let the air out, push that spot in, wet it, and inflate again."),
        "beads",
        clears="seating",
    ),
    StepQuestion(
        "bead_line_low_last",
        N_("Molded line, sealant in"),
        N_("Sealant in, at pressure: molded line even on both sides?"),
        N_("A bead is low. Let the air out, push that spot in, wet it, and inflate again."),
        "beads",
        clears="seating",
    ),
    StepQuestion(
        "dry_test_leaks",
        N_("Dry test"),
        N_("Dry test: does it hold for a minute without sealant?"),
        N_("It leaks without sealant. Soap it: where does it bubble?"),
        "hold",
        remedy="tape",
    ),
    StepQuestion(
        "sealant_low",
        N_("Enough sealant"),
        N_("Enough liquid sealant inside? Shake it and listen, or look in."),
        "",
        "hold",
    ),
    StepQuestion(
        "bead_leaks_on",
        N_("Bead closed"),
        N_("Soap that bead: has it stopped leaking?"),
        "",
        "beads",
    ),
    StepQuestion(
        "beads_unseat",
        N_("Beads with the air out"),
        N_("Air out: are both beads still on their seats?"),
        N_("The beads drop off their seats when the air is out. Add another layer of tape."),
        "beads",
        clears="seating",
        remedy="layer",
    ),
    StepQuestion(
        "bead_line_uneven",
        N_("Spin"),
        N_("Spin it past a fixed point: no hop, no wobble?"),
        N_(
            "The wheel hops or wobbles: a bead is low, the insert is crooked, or the casing is torn. Let the air out and seat it again."
        ),
        "beads",
        clears="seating",
    ),
)
QUESTIONS: dict[str, StepQuestion] = {question.code: question for question in _ALL}


_WORDS = {question.code: Message(question.words) for question in _ALL}


def words_of(code: str) -> Message:
    """Return a question as the sentence of its action."""
    return _WORDS[code]


def finding_stops(answered: Mapping[str, bool]) -> tuple[Stop, ...]:
    """Return a stop for every question that was answered no, where that is one."""
    asked = (QUESTIONS[code] for code, sound in answered.items() if not sound and code in QUESTIONS)
    asked = (question for question in asked if question.stop)
    return tuple(
        Stop(
            one.code,
            Message(one.stop),
            one.subject,
            overridable=one.overridable,
            clears=one.clears,
            remedy=one.remedy,
        )
        for one in asked
    )
