"""Where air comes out and what that means; and the decision path of trouble at the bench and at the roadside.

All of it is common practice, no published source (HANDBOOK part 1).
"""

import msgspec

#: Where it bubbles, in the order in which to look.
LEAK_WORDS = {
    "valve": "At the valve",
    "nipple": "At a spoke nipple",
    "vent": "At the rim's vent hole",
    "bead": "Along the bead",
    "side_wall": "Through the side wall",
    "tread": "Through the tread",
    "none": "Nowhere to be seen",
}
LEAK_MEANING = {
    "valve": "The commonest leak: o-ring, nut finger tight, core. But air at the valve may have entered through the tape anywhere.",
    "nipple": "Air is under the tape: it may have entered anywhere. Look for a cut, a lifted edge, a dimple; tape anew.",
    "vent": "Air is in the rim cavity: the tape leaks. Let it out; tape anew.",
    "bead": "Spin it wet with sealant, that side down for fifteen minutes; then look for a dent or dried sealant on the seat.",
    "side_wall": "A casing that weeps: spin and lay it flat, hours a side, more sealant; a cut or a torn casing is beyond sealant.",
    "tread": "Puncture: turn it down and wait, then a plug; a hole that sealant will not close is booted from inside.",
    "none": "Put it under water piece by piece, or wait: it may be the cold. Compare readings at the same temperature.",
}


class Question(msgspec.Struct, frozen=True):
    """A question of the path: its code, its words, and where yes and no lead; a code without a question is an end."""

    code: str
    words: str
    yes: str
    no: str


#: What to do at the end of a path.
ENDS = {
    "dip": "Dip through the valve: no sealant comes out means that it has dried. Clean it out, refill.",
    "tube": "Fit a tube: the surest repair at the roadside. Feel the inside for thorns that sealant has been hiding first; boot a big hole.",
    "plug": "Plug it, with the hole at the bottom afterwards. Plugs hold badly in hard road tires.",
    "spin": "Spin it with the hole down, wait, pump up. Wipe it and look again.",
    "retape": "Tape anew: air in the rim cavity went in through the tape.",
    "valve": "Finger tight, o-ring in place, core screwed in, base flat in the well. Still there: the tape.",
    "bead": "Let the air out, push the spot in, wet it, seat it again below the limit.",
    "insert": "Take the tire off that side: the insert lies crooked, or the casing was torn inside by a lever.",
    "pressure": "Up by a step, within the limit: a burp is a bead that was pushed off its seat.",
    "settle": "Nothing wrong: even a sealed tire loses a little for ever. Check before each ride.",
    "new_tire": "Beyond sealant: a side-wall cut or a casing torn from its bead. Take another tire.",
}

#: The path, from its first question on.
PATH: dict[str, Question] = {
    q.code: q
    for q in (
        Question("start", "Does air come out while you look?", "where", "slow"),
        Question("where", "Is it a hole that you can see, in tread or side wall?", "hole", "rim"),
        Question("hole", "Is it in the side wall, or is the casing torn from its bead?", "new_tire", "size"),
        Question("size", "Does it go on bleeding after a spin with the hole down?", "bleeds", "spin"),
        Question("bleeds", "Are you at the bench, with a plug at hand?", "plug", "tube"),
        Question("rim", "Does it bubble at a nipple or at the vent hole?", "retape", "valve_q"),
        Question("valve_q", "Does it bubble at the valve?", "valve", "bead_q"),
        Question("bead_q", "Does it bubble along the bead?", "bead", "settle"),
        Question("slow", "Was it flat or low after standing?", "dried", "ride"),
        Question("dried", "Does sealant come out on the dipstick?", "rim", "dip"),
        Question("ride", "Did it burp on the ride?", "pressure", "wobble"),
        Question("wobble", "Does the wheel hop or wobble?", "line", "settle"),
        Question("line", "Is the moulded line low anywhere?", "bead", "insert"),
    )
}
