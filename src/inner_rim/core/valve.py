"""The valve: length from the rim's depth at the hole (HANDBOOK 2.3)."""

import msgspec

from .job import Insert, Practice, Rim, Shelf
from .practice import ENGAGEMENT_MM
from .rim import Bed
from .tape import TapePick
from .why import PRACTICE, Saying, Why

NUT_AND_RING_MM = 6.0
MUCH_STANDING_OUT_MM = 40.0
BASE_MM = 8.0
SLIM_HOLE_MM = 6.5
HOLE_PLAY_MM = 0.8


class ValvePick(msgspec.Struct, frozen=True):
    """The valve for this rim.

    Attributes:
        needed_mm: shortest length that reaches; None where the rim's depth was not measured.
        length_mm: shortest stocked length that reaches; None where there is none.
        standing_out_mm: thread free above the nut with that length.
        remarks: what to check besides the length: base, hole, ports.
        engagement_mm: thread that the pump head needs.
        why: the trail.
    """

    needed_mm: float | None
    length_mm: float | None
    standing_out_mm: float | None
    engagement_mm: float
    remarks: dict[str, Saying]
    why: Why


def length_needed_mm(depth_mm: float, tape_mm: float, engagement_mm: float) -> float:
    """Return rim depth at the valve + tape + o-ring and nut (6 mm) + engagement of the pump head.

    >>> length_needed_mm(18.0, 0.3, 15.0)
    39.3

    Source: common practice, no published source.
    """
    return depth_mm + tape_mm + NUT_AND_RING_MM + engagement_mm


def valve_remarks(rim: Rim, bed: Bed, insert: Insert | None) -> dict[str, Saying]:
    """Return what to look at besides the length: base against the floor, the hole, ports for an insert.

    Source: common practice, no published source.
    """
    found = {}
    if bed.measured and bed.floor_mm < BASE_MM:
        found["base"] = Saying(
            "Base of {base_mm} in a floor of {floor_mm}: take a narrow or rectangular one",
            {"base_mm": BASE_MM, "floor_mm": bed.floor_mm},
        )
    if rim.valve_hole_mm is not None and rim.valve_hole_mm > SLIM_HOLE_MM + HOLE_PLAY_MM:
        found["hole"] = Saying(
            "Hole of {hole_mm}: a slim valve needs a reducing grommet", {"hole_mm": rim.valve_hole_mm}
        )
    if insert is not None and not insert.ported:
        found["ports"] = Saying("The insert has no ports: a valve with side ports")
    return found


def pick_valve(
    rim: Rim, bed: Bed, tape: TapePick, practice: Practice, shelf: Shelf, insert: Insert | None = None
) -> ValvePick:
    """Return the shortest stocked valve that reaches; `practice` and `shelf` are complete."""
    engagement = ENGAGEMENT_MM[practice.pump_head or "push_on"]
    stock = sorted(set(shelf.valve_lengths_mm or []))
    build_up = (shelf.tape_thickness_mm or 0.0) * (tape.layers + 1)  # the ends overlap at the valve
    needed = length = standing = None
    remarks = valve_remarks(rim, bed, insert)
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
        remarks=remarks,
        why=Why(
            formula="needed = rim depth at the valve + tape at the overlap + o-ring and nut + thread for the pump head; the shortest stocked valve that reaches",
            figures=figures,
            source=PRACTICE,
            others=tuple(
                Saying("{length_mm}: too short", {"length_mm": x})
                if needed is not None and x < needed
                else Saying("{length_mm} is on the shelf", {"length_mm": x})
                for x in stock
            )
            + tuple(remarks.values()),
            levers="a measured depth at the valve, a screw-on pump head (3 mm less), fewer layers of tape",
        ),
    )
