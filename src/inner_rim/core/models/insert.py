"""Insert fit: diameter, widths, height, life and ports (docs/models.md 2.6)."""

from typing import Literal

import msgspec

from inner_rim.core.models.tire import MountedTire
from inner_rim.core.record.job import Insert, Rim
from inner_rim.core.record.why import PRACTICE, Message, Why, listed
from inner_rim.words import N_

MAX_OF_SECTION_HEIGHT = 0.6
TIRES_PER_INSERT = 2
SEAM_FROM_VALVE_MM = 75.0

VERDICT_WORDS = {
    "fits": N_("fits"),
    "remarks": N_("fits, with remarks"),
    "does_not_fit": N_("does not fit"),
}


class InsertPick(msgspec.Struct, frozen=True):
    """Whether an insert fits, each reason in a sentence.

    Attributes:
        verdict: fits, remarks or does_not_fit.
        reasons: what speaks against it first, then remarks.
        effects: (without, with) of air, slack, dose and starting pressure, by their names.
        why: the trail.
    """

    verdict: Literal["fits", "remarks", "does_not_fit"]
    reasons: tuple[Message, ...]
    why: Why
    effects: dict[str, tuple[float, float]] = {}


def pick_insert(insert: Insert, rim: Rim, tire: MountedTire) -> InsertPick:
    """Return how an insert fits this rim and tire.

    height <= 0.6 * section height; ranges in mm.

    >>> from inner_rim.core.record.job import Insert
    >>> from inner_rim.core.record.job import Rim, Tire
    >>> from inner_rim.core.models.rim import bed_of
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> tire = Tire(size="45-622")
    >>> from inner_rim.core.models.tire import mount
    >>> mounted = mount(tire, rim, bed_of(rim))
    >>> pick_insert(Insert(height_mm=20.0, bead_seat_diameter_mm=622.0), rim, mounted).verdict
    'remarks'

    Source: common practice, no published source; the maker's ranges go first.
    """
    against = [*_diameter(insert, rim), *_widths(insert, rim, tire), *_height(insert, tire)]
    remarks = [*_life(insert), *_ports(insert), *_unread(insert)]
    share = None if insert.height_mm is None else insert.height_mm / tire.section_height_mm
    figures: dict[str, float | int | str] = {
        "rim_internal_width_mm": rim.internal_width_mm,
        "tire_width_mm": tire.nominal_width_mm,
        "section_height_mm": tire.section_height_mm,
    }
    if share is not None and insert.height_mm is not None:
        figures |= {"insert_height_mm": insert.height_mm, "share_of_height_percent": 100.0 * share}
    if insert.tires_used is not None:
        figures["tires_used"] = insert.tires_used
    return InsertPick(
        verdict="does_not_fit" if against else "remarks" if remarks else "fits",
        reasons=(*against, *remarks),
        why=Why(
            formula=N_(
                "same diameter; rim and tire inside the insert's ranges; height at most 0.6 of the section; about two tires per insert"
            ),
            figures=figures,
            source=PRACTICE,
            others=(*against, *remarks),
            what_changes_it=N_(
                "another size of insert, a taller tire, a new insert, a valve with side ports"
            ),
        ),
    )


def _diameter(insert: Insert, rim: Rim) -> list[Message]:
    own = insert.bead_seat_diameter_mm
    if own is None or own == rim.bead_seat_diameter_mm:
        return []
    return [
        Message(
            "Made for {insert_seat}, the rim has {rim_seat}.",
            {"insert_seat": format(own, "g"), "rim_seat": format(rim.bead_seat_diameter_mm, "g")},
        )
    ]


def _widths(insert: Insert, rim: Rim, tire: MountedTire) -> list[Message]:
    checks = (
        (
            insert.rim_min_mm,
            rim.internal_width_mm,
            -1,
            N_("Rim too narrow: {width_mm}, at least {bound_mm}."),
        ),
        (
            insert.rim_max_mm,
            rim.internal_width_mm,
            1,
            N_("Rim too wide: {width_mm}, at most {bound_mm}."),
        ),
        (
            insert.tire_min_mm,
            tire.nominal_width_mm,
            -1,
            N_("Tire too narrow: {width_mm}, at least {bound_mm}."),
        ),
        (
            insert.tire_max_mm,
            tire.nominal_width_mm,
            1,
            N_("Tire too wide: {width_mm}, at most {bound_mm}."),
        ),
    )
    return [
        Message(text, {"width_mm": width, "bound_mm": bound})
        for bound, width, sign, text in checks
        if bound is not None and sign * (width - bound) > 0.0
    ]


def _height(insert: Insert, tire: MountedTire) -> list[Message]:
    most = MAX_OF_SECTION_HEIGHT * tire.section_height_mm
    if insert.height_mm is None or insert.height_mm <= most:
        return []
    return [
        Message(
            "Too tall: {height_mm}, at most {most_mm} in this tire.",
            {"height_mm": insert.height_mm, "most_mm": most},
        )
    ]


def _life(insert: Insert) -> list[Message]:
    used = insert.tires_used
    if used is None or used < TIRES_PER_INSERT:
        return []
    return [
        Message(
            "Used with {used} tires already: feel for gashes, is it still springy?", {"used": used}
        )
    ]


def _ports(insert: Insert) -> list[Message]:
    if insert.ported:
        return []
    if insert.ported is None:
        return [Message("Ports not entered. If it has none, take a valve with side ports.")]
    return [Message("No ports of its own: take a valve with side ports.")]


def _unread(insert: Insert) -> list[Message]:
    unread = [
        Message(name)
        for name, value in (
            (N_("diameter"), insert.bead_seat_diameter_mm),
            (
                N_("rim range"),
                insert.rim_min_mm if insert.rim_min_mm is not None else insert.rim_max_mm,
            ),
            (
                N_("tire range"),
                insert.tire_min_mm if insert.tire_min_mm is not None else insert.tire_max_mm,
            ),
            (N_("height"), insert.height_mm),
        )
        if value is None
    ]
    return [Message("Not entered: {unread}.", {"unread": listed(unread)})] if unread else []


def with_effects(
    pick: InsertPick, without: dict[str, float], fitted: dict[str, float]
) -> InsertPick:
    """Return the pick with what the insert changes, figure by figure, also in its trail.

    Each figure (ml, mm, kPa) as (without, with).

    >>> from inner_rim.core.record.job import Insert
    >>> from inner_rim.core.record.job import Rim, Tire
    >>> from inner_rim.core.models.rim import bed_of
    >>> rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    >>> tire = Tire(size="45-622")
    >>> from inner_rim.core.models.tire import mount
    >>> pick = pick_insert(Insert(height_mm=20.0), rim, mount(tire, rim, bed_of(rim)))
    >>> with_effects(pick, {"air_ml": 2600.0}, {"air_ml": 2200.0}).effects
    {'air_ml': (2600.0, 2200.0)}

    Source: derived.
    """
    effects = {name: (without[name], fitted[name]) for name in fitted}
    lines = tuple(
        Message(
            "{what}: {before} without, {after} with it",
            {
                "what": name.rpartition("_")[0],
                "before": Message("{" + name + "}", {name: before}),
                "after": Message("{" + name + "}", {name: after}),
            },
        )
        for name, (before, after) in effects.items()
    )
    why = msgspec.structs.replace(pick.why, others=(*pick.why.others, *lines))
    return msgspec.structs.replace(pick, effects=effects, why=why)
