"""What is judged by looking: one question, one key, asked at the moment when the answer can be seen.

A question answered no is a stop until it is answered yes, or overridden by a named person where that is
allowed (docs/job.md part 4). All of it is common practice, no published source.
"""

from collections.abc import Mapping

import msgspec

from inner_rim.core.procedure.stops import Stop
from inner_rim.core.record.why import Message


class StepQuestion(msgspec.Struct, frozen=True):
    """A question of the inspection.

    Attributes:
        code: its name in the log, and of the stop.
        name: what is looked at, in a word or two.
        words: answered yes when all is well.
        back_to: kind of work a No leads to once it is accepted, empty where it is fixed in place.
    """

    code: str
    name: str
    words: str
    stop: str
    back_to: str = ""


_ALL = (
    StepQuestion(
        "spoke_end_through",
        "Spoke ends",
        "Spoke ends below the rim bed, no burrs?",
        "A spoke end sticks up: file it flush, or it will puncture the tape.",
    ),
    StepQuestion(
        "carbon_damaged",
        "Carbon rim",
        "Carbon rim good? No crack, no soft spot, no white line.",
        "The carbon rim is damaged. Do not mount a tire on it.",
    ),
    StepQuestion(
        "rim_dented",
        "Rim walls",
        "Rim walls free of dents and cracks?",
        "A dent in the rim wall leaks air. Straighten it or use another rim.",
    ),
    StepQuestion(
        "tape_damaged",
        "Old tape",
        "Old tape good? No cut, no lifted edge, no dimple at a spoke hole.",
        "The old tape is damaged. Take it off and tape the rim again.",
        "retape",
    ),
    StepQuestion(
        "tape_laid_badly",
        "Tape",
        "Edges down on both shoulders, no wrinkle, overlap sealed, nothing lifted at the spoke holes?",
        "The tape is not down everywhere. Press it down, or lay it again.",
    ),
    StepQuestion(
        "valve_core_stuck",
        "Valve core",
        "Stem and core free of dried sealant, core moves freely?",
        "The valve is clogged. Clean it or replace the core.",
    ),
    StepQuestion(
        "tire_unsound",
        "Tire",
        "Tire good? No cut through the casing, no torn bead, two plugs at most.",
        "The tire is damaged at the casing or bead. Use another tire.",
    ),
    StepQuestion(
        "thorns_left",
        "Inside of the tire",
        "Felt all round inside the tire: nothing sharp left?",
        "Something sharp is left in the tire. It would puncture the tube.",
    ),
    StepQuestion(
        "arrow_not_confirmed",
        "Arrow",
        "Arrow: will the tire turn the right way on this side?",
        "The arrow points the wrong way. Turn the tire around before the first bead goes on.",
    ),
    StepQuestion(
        "arrow_not_confirmed_insert",
        "Arrow with the insert",
        "Arrow: with this insert in, will the tire turn the right way?",
        "The arrow points the wrong way. Turn the tire around before the insert goes in.",
    ),
    StepQuestion(
        "insert_worn",
        "Insert",
        "Insert good? No gash, still springy.",
        "The insert is gashed or worn out. Use a new one.",
    ),
    StepQuestion(
        "bead_line_low",
        "Molded line",
        "Molded line even on both sides, all the way round?",
        "A bead is low. Let the air out, push that spot in, wet it, and inflate again.",
    ),
    StepQuestion(
        "bead_line_low_again",
        "Molded line again",
        "Molded line still even on both sides after inflating again?",
        "A bead is low. Let the air out, push that spot in, wet it, and inflate again.",
    ),
    StepQuestion(
        "bead_line_low_last",
        "Molded line, sealant in",
        "Sealant in, at pressure: molded line even on both sides?",
        "A bead is low. Let the air out, push that spot in, wet it, and inflate again.",
    ),
    StepQuestion(
        "dry_test_leaks",
        "Dry test",
        "Dry test: does it hold for a minute without sealant?",
        "It leaks without sealant. Find the leak, or add another layer of tape.",
    ),
    StepQuestion(
        "beads_unseat",
        "Beads with the air out",
        "Air out: are both beads still on their seats?",
        "The beads drop off their seats when the air is out. Add another layer of tape.",
    ),
    StepQuestion(
        "bead_line_uneven",
        "Spin",
        "Spin it past a fixed point: no hop, no wobble?",
        "The wheel hops or wobbles: a bead is low, the insert is crooked, or the casing is torn. Let the air out and seat it again.",
    ),
)
QUESTIONS: dict[str, StepQuestion] = {question.code: question for question in _ALL}


_WORDS = {question.code: Message(question.words) for question in _ALL}


def words_of(code: str) -> Message:
    """Return a question as the sentence of its action."""
    return _WORDS[code]


def finding_stops(answered: Mapping[str, bool]) -> tuple[Stop, ...]:
    """Return a stop for every question that was answered no."""
    return tuple(
        Stop(code, Message(QUESTIONS[code].stop)) for code, sound in answered.items() if not sound and code in QUESTIONS
    )
