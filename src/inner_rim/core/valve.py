"""The valve: length from the rim's depth at the hole (HANDBOOK 2.3)."""

import msgspec

from .job import Practice, Rim, Shelf
from .practice import ENGAGEMENT_MM
from .tape import TapePick
from .why import PRACTICE, Saying, Why

NUT_AND_RING_MM = 6.0
MUCH_STANDING_OUT_MM = 40.0


class ValvePick(msgspec.Struct, frozen=True):
    """The valve for this rim.

    Attributes:
        needed_mm: shortest length that reaches; None where the rim's depth was not measured.
        length_mm: shortest stocked length that reaches; None where there is none.
        standing_out_mm: thread free above the nut with that length.
        engagement_mm: thread that the pump head needs.
        why: the trail.
    """

    needed_mm: float | None
    length_mm: float | None
    standing_out_mm: float | None
    engagement_mm: float
    why: Why


def length_needed_mm(depth_mm: float, tape_mm: float, engagement_mm: float) -> float:
    """Return rim depth at the valve + tape + o-ring and nut (6 mm) + engagement of the pump head.

    >>> length_needed_mm(18.0, 0.3, 15.0)
    39.3

    Source: common practice, no published source.
    """
    return depth_mm + tape_mm + NUT_AND_RING_MM + engagement_mm


def pick_valve(rim: Rim, tape: TapePick, practice: Practice, shelf: Shelf) -> ValvePick:
    """Return the shortest stocked valve that reaches; `practice` and `shelf` are complete."""
    engagement = ENGAGEMENT_MM[practice.pump_head or "push_on"]
    stock = sorted(set(shelf.valve_lengths_mm or []))
    build_up = (shelf.tape_thickness_mm or 0.0) * (tape.layers + 1)  # the ends overlap at the valve
    needed = length = standing = None
    figures: dict[str, float | int | str] = {
        "tape_build_up_mm": build_up,
        "nut_and_ring_mm": NUT_AND_RING_MM,
        "pump_head_mm": engagement,
    }
    if rim.depth_at_valve_mm is not None:
        needed = length_needed_mm(rim.depth_at_valve_mm, build_up, engagement)
        length = next((x for x in stock if x >= needed), None)
        figures = {"rim_depth_at_the_valve_mm": rim.depth_at_valve_mm, **figures, "needed_mm": needed}
    if length is not None and needed is not None:
        standing = length - needed + engagement
        figures["thread_above_the_nut_mm"] = standing
    return ValvePick(
        needed_mm=needed,
        length_mm=length,
        standing_out_mm=standing,
        engagement_mm=engagement,
        why=Why(
            formula="needed = rim depth at the valve + tape at the overlap + o-ring and nut + thread for the pump head; the shortest stocked valve that reaches",
            figures=figures,
            source=PRACTICE,
            others=tuple(
                Saying("{length_mm}: too short", {"length_mm": x})
                if needed is not None and x < needed
                else Saying("{length_mm} is on the shelf", {"length_mm": x})
                for x in stock
            ),
            levers="a measured depth at the valve, a screw-on pump head (3 mm less), fewer layers of tape",
        ),
    )
