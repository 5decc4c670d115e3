"""The stages of the work, in the order of the bench, and their words."""

from typing import Literal, get_args

Stage = Literal["check_in", "strip", "tape", "valve", "insert", "mount", "sealant", "seat", "hold", "set"]
#: Stages of the job; injected sealant comes after seating, see `WheelPlan.stages`.
STAGES: tuple[Stage, ...] = get_args(Stage)

#: What a stage is called.
STAGE_WORDS: dict[str, str] = {
    "check_in": "Check-in",
    "strip": "Strip",
    "tape": "Tape",
    "valve": "Valve",
    "insert": "Insert",
    "mount": "Mount",
    "sealant": "Sealant",
    "seat": "Seat",
    "hold": "Leak test",
    "set": "Hand over",
}
