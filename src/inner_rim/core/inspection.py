"""What is looked at by hand, for this wheel's parts: one question, one key (HANDBOOK parts 1 and 4).

A question answered no is a stop until it is answered yes, or passed by name where that is allowed.
"""

import msgspec

from .checks import Stop
from .job import Wheel
from .why import Saying


class Check(msgspec.Struct, frozen=True):
    """A question of the inspection.

    Attributes:
        code: the name in the log, and of the stop.
        stage: where it is asked.
        question: answered yes when all is well.
        message: what the stop says when it is not.
    """

    code: str
    stage: str
    question: str
    message: str


SPOKE_ENDS = Check(
    "spoke_end_through",
    "strip",
    "Spoke ends flush with the bed, no burr?",
    "A spoke end stands proud: file it, or it holes the tape.",
)
CARBON = Check(
    "carbon_damaged",
    "strip",
    "Carbon sound: no crack, no soft spot, no white line?",
    "The carbon rim is damaged: it is not mounted again.",
)
WALLS = Check(
    "rim_dented",
    "strip",
    "Rim walls free of dents?",
    "A dent in the wall is an air path: straighten it or take another rim.",
)
OLD_TAPE = Check(
    "tape_damaged",
    "strip",
    "Old tape off, or without cut, lifted edge or dimple?",
    "The old tape is cut, lifted or holed: take it off.",
)
OLD_SEALANT = Check(
    "sealant_mixed",
    "strip",
    "Old sealant cleaned out, or the same kind?",
    "Old sealant of another kind: clean it out, two kinds never mix.",
)
ARROW_INSERT = Check(
    "arrow_not_confirmed_insert",
    "insert",
    "Arrow: will the tire turn the right way round this insert?",
    "The arrow points the wrong way: turn the tire round before the insert goes in.",
)
INSERT_SOUND = Check(
    "insert_worn",
    "insert",
    "Insert sound: no gash, still springy?",
    "The insert is gashed or limp: take a new one.",
)
ARROW_BEAD = Check(
    "arrow_not_confirmed",
    "mount",
    "Arrow: does the tire turn the right way on this side?",
    "The arrow points the wrong way: turn the tire round before the first bead.",
)

HOP = Check(
    "bead_line_uneven",
    "hold",
    "Spin it past a fixed point: no hop, no wobble, the line even on both sides?",
    "The wheel hops or wobbles: a bead is low, an insert crooked, or the casing torn. Let the air out, push the spot in, seat again.",
)


def checks_for(wheel: Wheel) -> tuple[Check, ...]:
    """Return the questions for a wheel's parts, in the order of the bench.

    A tire that is not known to have no arrow is asked about.

    Source: common practice, no published source.
    """
    arrow = wheel.tire.directional is not False
    wanted = (
        (True, SPOKE_ENDS),
        (bool(wheel.rim.carbon), CARBON),
        (not wheel.rim.carbon, WALLS),
        (True, OLD_TAPE),
        (wheel.tire.new is not True, OLD_SEALANT),
        (wheel.insert is not None, INSERT_SOUND),
        (arrow and wheel.insert is not None, ARROW_INSERT),
        (arrow, ARROW_BEAD),
        (True, HOP),
    )
    return tuple(check for applies, check in wanted if applies)


def finding_stops(wheel: Wheel, answered: dict[str, bool]) -> tuple[Stop, ...]:
    """Return a stop for every question that was answered no."""
    return tuple(Stop(c.code, Saying(c.message)) for c in checks_for(wheel) if answered.get(c.code) is False)
