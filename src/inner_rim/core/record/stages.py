"""The stages of the work, in the order of the bench, and their words."""

from typing import Literal, get_args

from inner_rim.words import N_

Stage = Literal["check_in", "strip", "tape", "valve", "insert", "mount", "sealant", "seat", "hold", "set"]
#: Stages of the job; injected sealant comes after seating, see `WheelPlan.stages`.
STAGES: tuple[Stage, ...] = get_args(Stage)

#: What a stage is called.
STAGE_WORDS: dict[str, str] = {
    "check_in": N_("Check-in"),
    "strip": N_("Strip"),
    "tape": N_("Tape"),
    "valve": N_("Valve"),
    "insert": N_("Insert"),
    "mount": N_("Mount"),
    "sealant": N_("Sealant"),
    "seat": N_("Seat"),
    "hold": N_("Leak test"),
    "set": N_("Hand over"),
}
