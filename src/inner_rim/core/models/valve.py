"""The valve: length from the rim's depth at the hole (docs/models.md 2.3)."""

from collections.abc import Sequence

import msgspec

from inner_rim.core.models.rim import Bed
from inner_rim.core.models.tape import TapePick
from inner_rim.core.record.job import Insert, Rim, ValveStem
from inner_rim.core.record.practice import ENGAGEMENT_MM
from inner_rim.core.record.resolved import Methods, Stock
from inner_rim.core.record.why import NO_WHY, PRACTICE, Message, Why
from inner_rim.words import N_

NUT_AND_RING_MM = 6.0
MUCH_STANDING_OUT_MM = 30.0
BASE_MM = 8.0
SLIM_HOLE_MM = 6.5
HOLE_PLAY_MM = 0.8


class ValveOption(msgspec.Struct, frozen=True):
    """A valve on the shelf: whether it reaches (None where that is unknown) and what speaks against
    it.
    """

    length_mm: float
    name: str | None
    remarks: tuple[Message, ...]
    reaches: bool | None


class ValvePick(msgspec.Struct, frozen=True):
    """The valve for this rim.

    Attributes:
        needed_mm: shortest length that reaches; None where the rim's depth was not measured.
        length_mm: shortest stocked length that reaches; None where there is none.
        standing_out_mm: thread free above the nut with that length.
        remarks: what to check besides the length: base, hole, ports.
        engagement_mm: thread that the pump head needs.
        base_mm: width of its base across the well.
        stem: its name on the shelf, None where only the length is listed.
        options: every valve on the shelf.
        why: the trail.
    """

    needed_mm: float | None
    length_mm: float | None
    standing_out_mm: float | None
    engagement_mm: float
    base_mm: float
    stem: str | None
    options: tuple[ValveOption, ...]
    remarks: dict[str, Message]
    why: Why


def length_needed_mm(depth_mm: float, tape_mm: float, engagement_mm: float) -> float:
    """Return rim depth at the valve + tape + o-ring and nut (6 mm) + engagement of the pump head.

    needed = depth + tape + 6 + engagement.

    >>> length_needed_mm(18.0, 0.3, 15.0)
    39.3

    Source: common practice, no published source.
    """
    return depth_mm + tape_mm + NUT_AND_RING_MM + engagement_mm


def stems_of(stock: Stock) -> tuple[ValveStem, ...]:
    """Return the valves on the shelf, shortest first; lengths alone stand for slim valves with the
    usual base.

    >>> [stem.length_mm for stem in stems_of(stock)][:3]
    [35.0, 40.0, 44.0]

    Source: docs/models.md 2.3.
    """
    listed = stock.valves or [ValveStem(length_mm=length) for length in set(stock.valve_lengths_mm)]
    return tuple(sorted(listed, key=lambda stem: stem.length_mm))


def valve_remarks(
    rim: Rim, bed: Bed, insert: Insert | None, stem: ValveStem | None
) -> dict[str, Message]:
    """Return what to check besides the length: base against the floor, the hole, the nut's face,
    ports.

    base <= floor; hole against the valve, mm.

    Without a stem the usual slim valve is judged.

    >>> from inner_rim.core.record.job import Rim
    >>> rim = Rim(622.0, 24.0, valve_hole_mm=8.5)
    >>> list(valve_remarks(rim, bed, None, None))
    ['hole']

    Source: common practice, no published source.
    """
    result = {}
    base = stem.base_mm if stem is not None and stem.base_mm is not None else BASE_MM
    hole = stem.hole_mm if stem is not None and stem.hole_mm is not None else SLIM_HOLE_MM
    if bed.measured and bed.floor_mm < base:
        result["base"] = Message(
            "Base of {base_mm} in a floor of {floor_mm}: take a narrow or rectangular one",
            {"base_mm": base, "floor_mm": bed.floor_mm},
        )
    if rim.valve_hole_mm is not None and rim.valve_hole_mm > hole + HOLE_PLAY_MM:
        result["hole"] = Message(
            "Hole of {hole_mm}: a slim valve needs a reducing grommet",
            {"hole_mm": rim.valve_hole_mm},
        )
    if rim.valve_hole_mm is not None and rim.valve_hole_mm < hole - HOLE_PLAY_MM:
        result["hole"] = Message(
            "Hole of {hole_mm}: too small for this valve, take a slim one",
            {"hole_mm": rim.valve_hole_mm},
        )
    if rim.valve_face in ("curved", "thin"):
        result["washer"] = Message(
            "A {face} face under the nut: a shaped washer", {"face": rim.valve_face}
        )
    if insert is not None and not insert.ported and not (stem is not None and stem.ported):
        result["ports"] = Message(
            N_("The insert has no ports: a valve with side ports")
            if insert.ported is False
            else N_("Ports of the insert not entered: a valve with side ports if it has none")
        )
    return result


def pick_valve(
    rim: Rim,
    bed: Bed,
    tape: TapePick,
    methods: Methods,
    stock: Stock,
    insert: Insert | None = None,
    fitted_mm: float | None = None,
) -> ValvePick:
    """Return the valve that was fitted, before that the one that reaches with the fewest remarks,
    the shortest of these.

    needed = depth + tape + 6 + head, mm.

    >>> pick_valve(rim, bed, tape, methods, stock).length_mm is None
    True

    Source: docs/models.md 2.3.
    """
    engagement = ENGAGEMENT_MM[methods.pump_head]
    stems = stems_of(stock)
    doubled = tape.start != "opposite"  # its ends lie over each other at the hole
    taped = rim.bed != "sealed"
    build_up = tape.thickness_mm * (tape.layers + doubled) if taped else 0.0
    needed = stem = None
    judged = {i: valve_remarks(rim, bed, insert, each) for i, each in enumerate(stems)}
    if rim.depth_at_valve_mm is not None:
        needed = length_needed_mm(rim.depth_at_valve_mm, build_up, engagement)
        reach = [i for i, each in enumerate(stems) if each.length_mm >= needed]
        best = min(reach, key=lambda i: (len(judged[i]), stems[i].length_mm), default=None)
        stem = stems[best] if best is not None else None
    if fitted_mm is not None:
        like = [each for each in stems if each.length_mm == fitted_mm]
        stem = like[0] if like else ValveStem(length_mm=fitted_mm)
    standing = (
        stem.length_mm - needed + engagement if stem is not None and needed is not None else None
    )
    remarks = valve_remarks(rim, bed, insert, stem)
    if needed is not None and (stem is None or stem.length_mm < needed):
        remarks |= (
            _screw_on(stems, needed, methods) if stem is None else _too_short(stem, needed, methods)
        )
    pick = ValvePick(
        needed_mm=needed,
        length_mm=stem.length_mm if stem else None,
        standing_out_mm=standing,
        engagement_mm=engagement,
        base_mm=(stem.base_mm if stem else None) or BASE_MM,
        stem=stem.name if stem else None,
        remarks=remarks,
        options=tuple(
            ValveOption(
                each.length_mm, each.name, tuple(judged[i].values()), _reaches(each, needed)
            )
            for i, each in enumerate(stems)
        ),
        why=NO_WHY,
    )
    return msgspec.structs.replace(pick, why=_why(pick, rim, build_up))


def _too_short(stem: ValveStem, needed_mm: float, methods: Methods) -> dict[str, Message]:
    """A valve that was fitted and is too short: with a screw-on head it may still reach."""
    reaches = _screw_on([stem], needed_mm, methods)
    short = {"length_trade": stem.length_mm, "short_trade": needed_mm - stem.length_mm}
    return reaches or {
        "short": Message("{length_trade} is {short_trade} short: the pump head may slip off", short)
    }


def _screw_on(stems: Sequence[ValveStem], needed_mm: float, methods: Methods) -> dict[str, Message]:
    """A valve 1 to 3 mm short reaches with a screw-on pump head, which takes less thread."""
    gain = ENGAGEMENT_MM["push_on"] - ENGAGEMENT_MM["screw_on"]
    longest = max((stem.length_mm for stem in stems), default=0.0)
    if methods.pump_head != "push_on" or not needed_mm - gain <= longest < needed_mm:
        return {}
    short = {"length_trade": longest, "short_trade": needed_mm - longest}
    return {
        "head": Message(
            "{length_trade} is {short_trade} short: it reaches with a screw-on pump head", short
        )
    }


def _why(pick: ValvePick, rim: Rim, build_up_mm: float) -> Why:
    figures: dict[str, float | int | str] = {}
    if rim.depth_at_valve_mm is not None:
        figures["rim_depth_at_the_valve_mm"] = rim.depth_at_valve_mm
    figures |= {
        "tape_build_up_mm": build_up_mm,
        "nut_and_ring_mm": NUT_AND_RING_MM,
        "pump_head_mm": pick.engagement_mm,
    }
    if pick.needed_mm is not None:
        figures["needed_mm"] = pick.needed_mm
    if pick.standing_out_mm is not None:
        figures["thread_above_the_nut_mm"] = pick.standing_out_mm
    return Why(
        formula=N_(
            "needed = rim depth at the valve + tape at the overlap + o-ring and nut + thread for the pump head; of the stocked valves that reach, the one with the fewest remarks, then the shortest"
        ),
        figures=figures,
        source=PRACTICE,
        others=tuple(
            Message("{length_trade}: too short", {"length_trade": each.length_mm})
            if each.reaches is False
            else Message("{length_trade}", {"length_trade": each.length_mm})
            for each in pick.options
        )
        + tuple(pick.remarks.values()),
        what_changes_it=N_(
            "a measured depth at the valve, a screw-on pump head (3 mm less), fewer layers of tape"
        ),
    )


def _reaches(stem: ValveStem, needed_mm: float | None) -> bool | None:
    return None if needed_mm is None else stem.length_mm >= needed_mm
