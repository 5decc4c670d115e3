"""The methods of the trade, as data (docs/job.md part 3): each choice once, with what speaks for
it.

All figures here are common practice with no published source unless a comment says otherwise.
"""

from collections.abc import Callable
from typing import TypeVar

import msgspec

from inner_rim.core.record.job import Practice, Ride, Shelf
from inner_rim.words import N_

#: Target tape width from internal width A and developed width L, both mm.
TAPE_TARGETS: dict[str, Callable[[float, float], float]] = {
    "match": lambda internal_mm, developed_mm: internal_mm,
    "plus_two": lambda internal_mm, developed_mm: internal_mm + 2.0,
    "wide": lambda internal_mm, developed_mm: internal_mm + 3.5,
    "contour": lambda internal_mm, developed_mm: developed_mm,
}
#: Traits of the kinds of tape.
TAPE_KINDS = {
    "polyester": N_("leaves no residue and lasts years; stiff, wants warmth and tension"),
    "cloth": N_(
        "strong and easy to lay; thick, lifts with the bead after three or four tire changes"
    ),
    "film": N_("thin: two layers; follows every well"),
    "overlay": N_("a tape under soft electrical tape: seals well, leaves residue"),
}
#: Tape thickness per layer by kind where the roll does not say, mm (from memory); of an overlay
#: without its strips.
TAPE_KIND_MM = {"polyester": 0.1, "cloth": 0.3, "film": 0.05, "overlay": 0.1}
#: Soft electrical tape that covers an overlay's tape, its usual width and thickness, and how far
#: strips side by side lap, mm (common practice).
ELECTRICAL, ELECTRICAL_MM, ELECTRICAL_THICK_MM, STRIP_LAP_MM = "electrical", 19.0, 0.13, 3.0
#: Layers by kind where the shop says nothing (common practice); an overlay is polyester and soft
#: strips over it.
TAPE_KIND_LAYERS = {"polyester": 1, "cloth": 1, "film": 2, "overlay": 1}
DOSE_FACTORS = {"lean": 0.65, "standard": 1.0, "generous": 1.5}
#: Sealant life in days; a label wins.
SEALANT_LIFE_DAYS = {"hot_dry": 90.0, "temperate": 180.0, "cool_damp": 270.0}
#: Thread that the pump head needs, mm.
ENGAGEMENT_MM = {"push_on": 15.0, "screw_on": 12.0}
#: Vertical deflection as a share of the mounted width.
DROP = {"pavement": 0.15, "mixed": 0.17, "trail": 0.17, "soft": 0.22}
#: Share of the total weight on the front and the rear wheel.
LOAD_SHARES = {
    "drop_bar": (0.45, 0.55),
    "flat_bar": (0.40, 0.60),
    "upright": (0.35, 0.65),
    "front_load": (0.50, 0.50),
}
#: What speaks for each method, shown where it is chosen.
REASONS: dict[str, str] = {
    "match": N_("never meets the bead; for stiff tape laid under tension"),
    "plus_two": N_("covers the extra path through the well"),
    "wide": N_("two to five millimeters over, pressed up to the flanges"),
    "contour": N_("the width that this bed measures, no guess"),
    "at_valve": N_("a double layer where the hole is"),
    "past_valve": N_("a double layer where the hole is, and both ends away from it"),
    "opposite": N_("the joint lies opposite the valve, as far from the hole as can be"),
    "label": N_("the manufacturer's figure for this size"),
    "lean": N_("saves weight; for smooth roads and fresh casings"),
    "standard": N_("coats the casing and leaves a pool"),
    "generous": N_("for thorns, big casings and a first fill"),
    "pour": N_("wets the bead, seats at lower pressure, nothing to clog"),
    "inject": N_("no mess, and proves the wheel tight without sealant"),
    "drop": N_("the deflection that rides well, from load and tire"),
    "previous": N_("what worked on this wheel, at equal casing tension"),
    "range": N_("the middle of what is printed"),
    "none": N_("nothing to wipe off; for loose beads"),
    "soap": N_("slides well; weakens some sealants: let it dry"),
    "fluid": N_("made for beads, dries away"),
    "wax": N_("on both beads before mounting; stays where it is put"),
    "sealant": N_("the sealant itself, where soap would weaken it"),
    "push_on": N_("needs 15 mm of thread"),
    "screw_on": N_("needs 12 mm of thread"),
    "floor_pump": N_("always there; seats snug beads"),
    "compressor": N_("steady and strong; regulated, never above the limit"),
    "charge": N_("one big burst; an inspected bottle, never above its rating"),
    "hot_dry": N_("about 90 days of life; a label wins"),
    "temperate": N_("about 180 days of life; a label wins"),
    "cool_damp": N_("about 270 days of life; a label wins"),
    "insert_first": N_("insert on the rim, tire over it: usual"),
    "bead_first": N_("one bead on, then the insert, then the second bead"),
    "seat_first": N_("for a tight rim: seat the tire dry first, then open one side"),
    "valve": N_("the valve keeps a bead out of the well, so it goes on last there"),
    "elsewhere": N_("where the bead has most slack, the valve out of the way"),
    "hand": N_("thumbs and a rag; enough for most tapes"),
    "warmth": N_("a hair dryer softens stiff tape; warm, not hot"),
    "tube": N_("a tube presses the tape into the rim well for half an hour"),
    "pushed": N_("small and round, pushed through with a pick: cannot leak"),
    "warmed": N_("a warmed pick seals the edge of the hole"),
    "cut": N_("a small cross cut; leaks with a small valve base"),
    "steps": N_("least force: pump, stop, look"),
    "burst": N_("one burst of air; most certain with the core out"),
    "seating": N_("stay at the step where the lines came even"),
    "low": N_("1.3 times the riding pressure; gentle on casing and tape"),
    "printed": N_("the lowest max pressure; seals fastest"),
    "solvent": N_("alcohol is enough for a bed that is only dirty"),
    "abrasive": N_("takes off old glue and dried sealant before the solvent"),
    "base": N_("the base of the valve seals a hole that is round"),
    "putty": N_("closes a hole that is not round"),
    "washer": N_("a rubber washer under the base fills a hole that is too large"),
    "tested": N_("proves the wheel tight before the sealant goes in"),
    "seated": N_("quick: the beads are seated, no dry test"),
    "first": N_("seals while it seats; can clog the valve"),
    "plain": N_("the core goes straight back in"),
    "finger": N_("a finger on the valve keeps the air, and the beads, where they are"),
    "always": N_("each side lies down once, and the sealant reaches both beads"),
    "if_it_leaks": N_("shaking and spinning do for a wheel that holds"),
    **TAPE_KINDS,
}


class MethodQuestion(msgspec.Struct, frozen=True):
    """A question on which good mechanics disagree: the field of the practice, the words, its
    methods in order.
    """

    field: str
    words: str
    methods: tuple[str, ...]


QUESTIONS: tuple[MethodQuestion, ...] = (
    MethodQuestion(
        "tape_width", N_("How wide is the tape?"), ("match", "plus_two", "wide", "contour")
    ),
    MethodQuestion(
        "tape_start", N_("Where does the tape start?"), ("at_valve", "past_valve", "opposite")
    ),
    MethodQuestion(
        "tape_kind", N_("Which kind of tape?"), ("polyester", "cloth", "film", "overlay")
    ),
    MethodQuestion("bed_cleaning", N_("How is the rim bed cleaned?"), ("solvent", "abrasive")),
    MethodQuestion("hole_seal", N_("What seals the valve hole?"), ("base", "putty", "washer")),
    MethodQuestion("sealant_route", N_("How does the sealant go in?"), ("pour", "inject")),
    MethodQuestion(
        "inject_when", N_("When is the sealant injected?"), ("tested", "seated", "first")
    ),
    MethodQuestion(
        "core_in", N_("How does the core go back in after injecting?"), ("plain", "finger")
    ),
    MethodQuestion("dose", N_("How much sealant?"), ("label", "lean", "standard", "generous")),
    MethodQuestion(
        "lubricant", N_("What is on the bead?"), ("none", "soap", "fluid", "wax", "sealant")
    ),
    MethodQuestion(
        "insert_order",
        N_("How does an insert go in?"),
        ("insert_first", "bead_first", "seat_first"),
    ),
    MethodQuestion(
        "finish", N_("Where does the last section of a bead go on?"), ("valve", "elsewhere")
    ),
    MethodQuestion("press_home", N_("How is the tape pressed home?"), ("hand", "warmth", "tube")),
    MethodQuestion("hole", N_("How is the valve hole opened?"), ("pushed", "warmed", "cut")),
    MethodQuestion("seating", N_("How are the beads seated?"), ("steps", "burst")),
    MethodQuestion(
        "rest_flat", N_("When does the wheel lie flat on each side?"), ("always", "if_it_leaks")
    ),
    MethodQuestion(
        "settle", N_("What pressure until it is sealed?"), ("seating", "low", "printed")
    ),
    MethodQuestion(
        "start_pressure",
        N_("Where does the riding pressure come from?"),
        ("drop", "previous", "range"),
    ),
    MethodQuestion("pump_head", N_("Which pump head?"), ("push_on", "screw_on")),
    MethodQuestion(
        "air_source",
        N_("Where does the air come from first?"),
        ("floor_pump", "compressor", "charge"),
    ),
    MethodQuestion(
        "climate", N_("How fast does sealant dry here?"), ("hot_dry", "temperate", "cool_damp")
    ),
)

QUESTION_WORDS = {question.field: question.words for question in QUESTIONS}

PRACTICE_DEFAULTS = Practice(
    tape_width="contour",
    tape_start="at_valve",
    tape_kind="polyester",
    dose="standard",
    sealant_route="inject",
    lubricant="soap",
    insert_order="insert_first",
    finish="valve",
    press_home="hand",
    hole="pushed",
    seating="steps",
    settle="seating",
    bed_cleaning="solvent",
    hole_seal="base",
    inject_when="tested",
    core_in="plain",
    rest_flat="always",
    start_pressure="drop",
    pump_head="push_on",
    air_source="floor_pump",
    core_out=False,
    climate="temperate",
    bottle_ml=1200.0,
    bottle_kpa=900.0,
    gauge_step_kpa=1.0,
    shop_temperature_c=20.0,
    shop_altitude_m=0.0,
)
RIDE_DEFAULTS = Ride(use="mixed", total_mass_kg=90.0, position="flat_bar")
SHELF_DEFAULTS = Shelf(
    tape_widths_mm=[19.0, 21.0, 23.0, 25.0, 27.0, 29.0, 31.0, 33.0, 35.0, 38.0, 42.0, 45.0],
    roll_length_mm=10000.0,
    valve_lengths_mm=[35.0, 40.0, 44.0, 48.0, 55.0, 60.0, 70.0, 80.0, 100.0],
    injector_ml=60.0,
)


class Assumed(msgspec.Struct, frozen=True):
    """An input that was not given and what stands in for it."""

    field: str
    value: float | str
    reason: str


P = TypeVar("P", Practice, Ride, Shelf)


def filled(given: P | None, defaults: P, prefix: str) -> tuple[P, tuple[Assumed, ...]]:
    """Return `given` with every gap filled from `defaults`, and a list of what was filled.

    >>> filled(Ride(use="trail"), Ride(use="mixed", total_mass_kg=90.0), "ride")[1][0].field
    'ride.total_mass_kg'
    """
    if given is None:
        given = type(defaults)()
    gaps = {
        name: value
        for name in defaults.__struct_fields__
        if getattr(given, name) is None and (value := getattr(defaults, name)) is not None
    }
    notes = tuple(
        Assumed(
            f"{prefix}.{name}",
            value if isinstance(value, str | float | int) else _listed(value),
            "",
        )
        for name, value in gaps.items()
    )
    return msgspec.structs.replace(given, **gaps), notes


def layered(*given: P | None) -> P | None:
    """Return what is known of several layers of the same thing, the first that says something
    ruling.

    >>> layered(Practice(dose="lean"), None, Practice(dose="label", layers=2)).layers
    2
    """
    known = [layer for layer in given if layer is not None]
    if len(known) < 2:
        return known[0] if known else None
    result = {
        name: next((value for layer in known if (value := getattr(layer, name)) is not None), None)
        for name in known[0].__struct_fields__
    }
    return msgspec.structs.replace(known[0], **result)


def with_stock(shelf: Shelf | None) -> Shelf | None:
    """Return the shelf with widths and lengths read off its tapes and valves, where only those are
    listed.
    """
    if shelf is None:
        return None
    result: dict[str, list[float]] = {}
    if shelf.tapes is not None and shelf.tape_widths_mm is None:
        result["tape_widths_mm"] = sorted(
            {tape.width_mm for tape in shelf.tapes if tape.material != ELECTRICAL}
        )
    if shelf.valves is not None and shelf.valve_lengths_mm is None:
        result["valve_lengths_mm"] = sorted({valve.length_mm for valve in shelf.valves})
    return msgspec.structs.replace(shelf, **result) if result else shelf


def _listed(values: list[float]) -> str:
    return ", ".join(f"{value:g}" for value in values)
