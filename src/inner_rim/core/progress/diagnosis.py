"""Where air comes out and what that means; and what to do about it, on the road and at the bench,
one question at a time.

All of it is common practice, no published source (docs/job.md 1.6).
"""

import msgspec

from inner_rim.words import N_

#: Where it bubbles, in the order in which to look; `side_wall` was said in older logs.
LEAK_WORDS = {
    "valve": N_("At the valve"),
    "nipple": N_("At a spoke nipple"),
    "vent": N_("At the rim's vent hole"),
    "bead": N_("Along the bead"),
    "weeps": N_("Through the side wall, weeping"),
    "cut": N_("Through a cut in the side wall"),
    "side_wall": N_("Through the side wall"),
    "tread": N_("Through the tread"),
    "none": N_("Nowhere to be seen"),
}
LEAK_MEANING = {
    "valve": N_(
        "The most common leak: o-ring, nut finger tight, core. But air at the valve may have entered through the tape anywhere."
    ),
    "nipple": N_(
        "Air is under the tape: it may have entered anywhere. Look for a cut, a lifted edge, a dimple; tape it again."
    ),
    "vent": N_("Air is in the rim cavity: the tape leaks. Let it out; tape it again."),
    "bead": N_(
        "Spin it wet with sealant, that side down for fifteen minutes; then look for a dent or dried sealant on the seat."
    ),
    "weeps": N_("Sealant is what it needs: spin it and lay it flat, hours a side, and add more."),
    "cut": N_(
        "Beyond sealant: boot it and fit a tube, or use another tire. A patch only where its maker allows it."
    ),
    "side_wall": N_(
        "A casing that weeps: spin and lay it flat, hours a side, more sealant; a cut or a torn casing is beyond sealant."
    ),
    "tread": N_(
        "Puncture: turn it down and wait, then a plug; a hole that sealant will not close is booted from inside."
    ),
    "none": N_(
        "Put it under water piece by piece, or wait: it may be the cold. Compare readings at the same temperature."
    ),
}


class Facts(msgspec.Struct, frozen=True):
    """What is known of the wheel that is asked about.

    Attributes:
        hard: it is ridden above about 350 kPa, where plugs tend to blow out.
        tube: size of a tube that fits, such as ``40 to 50 × 622``.
        on_shelf: name of such a tube on the shelf, empty for none.
    """

    hard: bool = False
    plugs: int = 0
    tube: str = ""
    on_shelf: str = ""


class GuideQuestion(msgspec.Struct, frozen=True):
    """A question of the path: its code, its words, and where yes and no lead; a code without a
    question is an end.

    Attributes:
        known: name of the fact that answers it, empty where it must be asked.
    """

    code: str
    words: str
    yes: str
    no: str
    known: str = ""


MAX_PLUGS = 2

#: What to do at the end of a path; `{tube}` is the size of a tube that fits.
ENDS = {
    "closed": N_("It has sealed. Pump up, ride on, and check the pressure now and then."),
    "dried": N_(
        "No sealant comes out: it has dried. Fit a tube now ({tube}), new sealant at the bench. Valve out first; feel for thorns all around and boot any hole that a tube would push through."
    ),
    "plug_hand": N_(
        "Plug it from outside and turn it to the bottom. The bead is still on its seat, so a hand pump is enough."
    ),
    "plug_burst": N_(
        "Plug it from outside. The bead is off its seat: only a big burst of air brings it back; without one, fit a tube ({tube})."
    ),
    "tube": N_(
        "Fit a tube ({tube}): a plug tends to blow out of a hard tire or beside two others. Valve out first (finger-tight nut), feel for thorns all around, boot any hole that a tube would push through: a piece of tire, a wrapper, a banknote."
    ),
    "boot_tube": N_(
        "A cut side wall or torn bead is beyond sealant: boot it from inside and fit a tube ({tube}). Ride home slowly; the tire is finished."
    ),
    "hand_pump": N_("The bead is on its seat: pump it up by hand, spin it, look again."),
    "burst": N_(
        "The bead is off its seat: a big burst of air may bring it back; else fit a tube ({tube})."
    ),
    "dip": N_(
        "Dip through the valve. No sealant comes out: it has dried. Clean it out and refill."
    ),
    "patch": N_(
        "Plug it from outside, or open one side and patch it inside; then top up the sealant."
    ),
    "retape": N_(
        "Tape this rim again: air in the rim cavity went in through the tape, not necessarily where it comes out."
    ),
    "valve": N_(
        "O-ring in place, nut finger tight, core screwed in, base flat in the rim well. If it still leaks, it is the tape."
    ),
    "bead": N_("Let the air out, push that spot in, wet it, and seat it again below the limit."),
    "insert": N_(
        "Take the tire off that side: the insert is crooked, or a lever tore the casing inside."
    ),
    "pressure": N_("Up by a step, within the limit: a burp is a bead pushed off its seat."),
    "settle": N_(
        "No fault found with these questions. Even a sealed tire loses a little: check before each ride."
    ),
    "no_pressure": N_(
        "Change something before you pump again, cheapest first: core out, wet both beads, lift the bead onto its seat by hand, a strap around the tread, a bigger burst of air, another layer of tape, or seat it with a tube and open one side."
    ),
    "layer": N_(
        "The beads are loose on their seats: one more layer over the good tape, then the dry test again."
    ),
    "higher": N_(
        "Let the air out, push both beads in all around, wet them, and pump to the next pressure, never above the limit."
    ),
    "new_tire": N_("Beyond sealant: use another tire."),
}

#: The path, from its first question on: first where you are.
PATH: dict[str, GuideQuestion] = {
    q.code: q
    for q in (
        GuideQuestion("start", N_("Are you on the road?"), "bleeds", "unseated"),
        # on the road
        GuideQuestion(
            "bleeds",
            N_("Spin it with the hole at the bottom and wait. Does it still lose air?"),
            "torn",
            "closed",
        ),
        GuideQuestion(
            "torn", N_("Is the side wall cut, or the bead torn?"), "boot_tube", "hole_seen"
        ),
        GuideQuestion("hole_seen", N_("Do you see a hole in the tread?"), "wet", "seated"),
        GuideQuestion("wet", N_("Does sealant come out of it?"), "hard", "dried"),
        GuideQuestion(
            "hard",
            N_("Is it a hard road tire, above about 3.5 bar?"),
            "tube",
            "plugged",
            known="hard",
        ),
        GuideQuestion(
            "plugged", N_("Does it have two plugs already?"), "tube", "plug_seat", known="plugs"
        ),
        GuideQuestion(
            "plug_seat", N_("Is the bead still on its seat all around?"), "plug_hand", "plug_burst"
        ),
        GuideQuestion(
            "seated", N_("Is the bead still on its seat all around?"), "hand_pump", "burst"
        ),
        # at the bench
        GuideQuestion(
            "unseated", N_("Will a bead not seat, or does it come off its seat?"), "builds", "where"
        ),
        GuideQuestion(
            "builds", N_("Does any pressure build when you pump?"), "spot", "no_pressure"
        ),
        GuideQuestion("spot", N_("With pressure in it, is a spot or a side low?"), "bead", "falls"),
        GuideQuestion(
            "falls", N_("Do the beads come off their seats when the air is out?"), "layer", "hiss"
        ),
        GuideQuestion("hiss", N_("Does it hiss at spoke holes or nipples?"), "retape", "higher"),
        GuideQuestion("where", N_("Does air come out while you look?"), "puncture", "slow"),
        GuideQuestion("puncture", N_("Is it a hole in tread or side wall?"), "side", "rim"),
        GuideQuestion(
            "side", N_("Is it in the side wall, or is the bead torn?"), "new_tire", "patch"
        ),
        GuideQuestion(
            "rim", N_("Does it bubble at a nipple or at the vent hole?"), "retape", "valve_q"
        ),
        GuideQuestion("valve_q", N_("Does it bubble at the valve?"), "valve", "bead_q"),
        GuideQuestion("bead_q", N_("Does it bubble along the bead?"), "bead", "settle"),
        GuideQuestion("slow", N_("Was it flat or low after standing?"), "dip_q", "ride"),
        GuideQuestion("dip_q", N_("Does sealant come out on the dipstick?"), "rim", "dip"),
        GuideQuestion("ride", N_("Did it burp on the ride?"), "pressure", "wobble"),
        GuideQuestion("wobble", N_("Does the wheel hop or wobble?"), "line", "settle"),
        GuideQuestion("line", N_("Is the molded line low anywhere?"), "bead", "insert"),
    )
}


def asked(code: str, facts: Facts) -> str:
    """Return the question to ask at a place of the path, past those that the wheel itself answers.

    >>> asked("hard", Facts(hard=True)), asked("hard", Facts())
    ('tube', 'plug_seat')
    """
    while (question := PATH.get(code)) is not None and question.known:
        known = facts.hard if question.known == "hard" else facts.plugs >= MAX_PLUGS
        code = question.yes if known else question.no
    return code
