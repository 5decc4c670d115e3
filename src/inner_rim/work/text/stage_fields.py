"""Which fields are filled in at which stage, in groups that fit the bench page."""

import msgspec

from inner_rim.core.record.why import label
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel


class FieldLine(msgspec.Struct, frozen=True):
    """A field in the inputs panel: its path within the wheel, its label, short words for choices."""

    path: str
    label: str
    words: dict[str, str] = {}


YES_NO = {"yes": "yes", "no": "no"}
TIRE_ON = {"on": "on", "one_bead_off": "one bead off", "off": "off"}
LEAK = {
    "tread": "tread",
    "side_wall": "side wall",
    "bead": "bead",
    "valve": "valve",
    "nipple": "nipple",
    "unknown": "not known",
}
SEALANT_IN = {"none": "none", "liquid": "liquid", "dried": "dried", "unknown": "unknown"}
HOOK = {"hooked": "hooked", "straight_side": "hookless"}
USE = {"pavement": "road", "mixed": "mixed", "trail": "trail", "soft": "soft"}
BARS = {"drop_bar": "drop", "flat_bar": "flat", "upright": "upright", "front_load": "cargo"}
POSITION = {"front": "front", "rear": "rear", "other": "other"}
TAPE = {"match": "match", "plus_two": "+2", "wide": "wide", "contour": "contour"}
TAPE_START = {"at_valve": "valve", "past_valve": "past valve", "opposite": "opposite"}
FACE = {"flat": "flat", "curved": "curved", "thin": "thin"}
DOSE = {"label": "label", "lean": "lean", "standard": "std", "generous": "gen."}
ROUTE = {"pour": "pour", "inject": "inject"}
CLIMATE = {"hot_dry": "hot dry", "temperate": "temp.", "cool_damp": "damp"}
START = {"drop": "drop", "previous": "previous", "range": "range"}
HEAD = {"push_on": "push-on", "screw_on": "screw-on"}
BED = {"drilled": "drilled", "large_holes": "large", "sealed": "sealed"}
SOURCE = {"floor_pump": "pump", "compressor": "compr.", "charge": "charge"}
WET = {"none": "none", "soap": "soap", "fluid": "fluid", "sealant": "sealant"}

WORK = {
    "convert": "convert",
    "tire_change": "new tire",
    "retape": "retape",
    "refresh": "refresh",
    "insert": "insert",
    "repair": "repair",
    "back_to_tube": "to tube",
}
#: The same in full, for a wheel that comes back.
WORK_WORDS = {
    "tire_change": "New tire",
    "refresh": "New sealant",
    "retape": "New tape",
    "repair": "Repair",
    "insert": "Insert",
    "back_to_tube": "Back to a tube",
    "convert": "Convert: has a tube",
}
ORDER = {"insert_first": "insert", "bead_first": "bead", "seat_first": "seat"}
PRESS = {"hand": "hand", "warmth": "warmth", "tube": "tube"}
HOLE = {"pushed": "pushed", "warmed": "warmed", "cut": "cut"}
FINISH = {"valve": "valve", "elsewhere": "elsewhere"}
SEATING = {"steps": "steps", "burst": "burst"}
SETTLE = {"seating": "seating", "low": "low", "printed": "printed"}

_LIMITS = (
    FieldLine("rim.max_pressure_kpa", "Rim's max pressure"),
    FieldLine("tire.max_pressure_kpa", "Tire's max pressure"),
)
WAITS = {"customer": "the customer", "part": "a part"}
#: How a wheel came in: one answer for the facts of `arrival`, which can also be entered one by one.
CAME_IN = FieldLine(
    "arrival",
    "Came in",
    {"tube": "with a tube", "air": "tubeless, has air", "flat": "tubeless, flat", "off": "tire off"},
)
#: The group of check-in whose fields are always in view.
DECIDES = ""

#: stage -> group name -> fields, in the order of the hand.
STAGE_FIELDS: dict[str, dict[str, tuple[FieldLine, ...]]] = {
    "check_in": {
        DECIDES: (
            FieldLine("name", "Wheel"),
            FieldLine("ride.total_mass_kg", "Rider, bike, load"),
            FieldLine("tire.name", "Tire"),
            FieldLine("tire.size", "Tire size"),
            FieldLine("rim.name", "Rim"),
            FieldLine("rim.internal_width_mm", "Rim width, inside"),
            FieldLine("rim.hook", "Hook", HOOK),
            FieldLine("due", "Promised for"),
            *_LIMITS,
            FieldLine("work.kind", "Work", WORK),
            CAME_IN,
        ),
        "Rim": (FieldLine("rim.bead_seat_diameter_mm", "Bead seat Ø"), FieldLine("rim.depth_at_valve_mm", "Rim depth")),
        "Tire": (
            FieldLine("tire.min_pressure_kpa", "Tire's min pressure"),
            FieldLine("tire.tubeless_ready", "Tubeless mark", YES_NO),
            FieldLine("tire.straight_side_approved", "Hookless approved", YES_NO),
            FieldLine("tire.new", "New tire", YES_NO),
        ),
        "Ride": (
            FieldLine("position", "Position", POSITION),
            FieldLine("ride.position", "Bars", BARS),
            FieldLine("ride.use", "Ground", USE),
            FieldLine("load_n", "Load on wheel"),
            FieldLine("ride.temperature_c", "Ride temperature"),
            FieldLine("ride.altitude_m", "Ride altitude"),
        ),
        "Work": (
            FieldLine("work.leak", "Leaks at", LEAK),
            FieldLine("tire.plugs", "Plugs"),
            FieldLine("work.keep_tape", "Tape stays", YES_NO),
            FieldLine("work.keep_valve", "Valve stays", YES_NO),
            FieldLine("work.keep_insert", "Insert stays", YES_NO),
            FieldLine("work.tape_changes", "Tires on this tape"),
            FieldLine("work.tape_laid", "Tape laid"),
            FieldLine("work.folded", "Tire folded", YES_NO),
            FieldLine("work.rode_before", "Ridden before", YES_NO),
        ),
        "How it came in": (
            FieldLine("arrival.tube", "Tube inside", YES_NO),
            FieldLine("arrival.taped", "Rim taped", YES_NO),
            FieldLine("arrival.tire", "Tire", TIRE_ON),
            FieldLine("arrival.seated", "Beads seated", YES_NO),
            FieldLine("arrival.air", "Air in", YES_NO),
            FieldLine("arrival.insert", "Insert inside", YES_NO),
            FieldLine("arrival.sealant", "Sealant inside", SEALANT_IN),
        ),
        "Already inside": (
            FieldLine("insert.name", "Insert"),
            FieldLine("insert.height_mm", "Insert height"),
            FieldLine("insert.ported", "Insert ports", YES_NO),
            FieldLine("sealant.name", "Old sealant"),
            FieldLine("sealant.in_ml", "Old sealant in"),
            FieldLine("sealant.in_since", "Old sealant since"),
        ),
        "Customer": (FieldLine("customer", "Customer"), FieldLine("bike", "Bicycle"), FieldLine("notes", "Notes")),
        "Waits": (
            FieldLine("waits.on", "Waits for", WAITS),
            FieldLine("waits.what", "Which"),
            FieldLine("waits.until", "Expected"),
        ),
    },
    "strip": {
        "Rim bed": (
            FieldLine("rim.bed", "Holes", BED),
            FieldLine("rim.spokes", "Spokes"),
            FieldLine("rim.carbon", "Carbon", YES_NO),
            FieldLine("rim.tubeless_ready", "Tubeless rim", YES_NO),
        )
    },
    "tape": {
        "Tape": (
            FieldLine("practice.tape_width", "Method", TAPE),
            FieldLine("practice.tape_start", "Start", TAPE_START),
            FieldLine("practice.layers", "Layers"),
            FieldLine("shelf.tape_widths_mm", "On the shelf"),
            FieldLine("practice.overlap_mm", "Overlap"),
            FieldLine("practice.press_home", "Press home", PRESS),
            FieldLine("practice.hole", "Hole", HOLE),
            FieldLine("rim.seat_circumference_mm", "Around the seat"),
        ),
        "Measured well": (
            FieldLine("rim.well.depth_mm", "Depth"),
            FieldLine("rim.well.floor_mm", "Floor"),
            FieldLine("rim.well.left_shoulder_mm", "Left shoulder"),
            FieldLine("rim.well.right_shoulder_mm", "Right shoulder"),
        ),
    },
    "valve": {
        "Valve": (
            FieldLine("rim.depth_at_valve_mm", "Rim depth"),
            FieldLine("practice.pump_head", "Pump head", HEAD),
            FieldLine("shelf.valve_lengths_mm", "On the shelf"),
            FieldLine("rim.valve_hole_mm", "Valve hole"),
            FieldLine("rim.valve_face", "Face at nut", FACE),
        )
    },
    "insert": {
        "Insert": (
            FieldLine("insert.name", "Insert"),
            FieldLine("insert.bead_seat_diameter_mm", "Made for Ø"),
            FieldLine("insert.height_mm", "Height"),
            FieldLine("insert.volume_ml", "Volume"),
            FieldLine("insert.leg_mm", "Leg in the well"),
            FieldLine("insert.ported", "Own ports", YES_NO),
            FieldLine("insert.joined", "Has a seam", YES_NO),
            FieldLine("insert.tires_used", "Tires so far"),
            FieldLine("practice.insert_order", "First goes", ORDER),
        ),
        "Its ranges": (
            FieldLine("insert.rim_min_mm", "Rim from"),
            FieldLine("insert.rim_max_mm", "Rim to"),
            FieldLine("insert.tire_min_mm", "Tire from"),
            FieldLine("insert.tire_max_mm", "Tire to"),
            FieldLine("insert.mass_g", "Weight"),
        ),
    },
    "mount": {
        "Tire": (
            FieldLine("tire.directional", "Has an arrow", YES_NO),
            FieldLine("tire.measured_width_mm", "Caliper width"),
            FieldLine("tire.measured_on_rim_mm", "… on a rim of"),
            FieldLine("tire.casing_mm", "Casing"),
            FieldLine("practice.finish", "Finish", FINISH),
        )
    },
    "sealant": {
        "Sealant": (
            FieldLine("practice.dose", "Method", DOSE),
            FieldLine("practice.sealant", "Kind"),
            FieldLine("tire.label_dose_ml", "On the label"),
            FieldLine("shelf.injector_ml", "Injector holds"),
            FieldLine("practice.sealant_route", "Route", ROUTE),
            FieldLine("practice.climate", "Climate", CLIMATE),
            FieldLine("tire.new", "New tire", YES_NO),
        )
    },
    "seat": {
        "Limits": (
            *_LIMITS,
            FieldLine("practice.lubricant", "On the bead", WET),
            FieldLine("practice.air_source", "Air from", SOURCE),
            FieldLine("practice.core_out", "Core out", YES_NO),
            FieldLine("practice.seating", "Beads seat by", SEATING),
            FieldLine("practice.settle", "Sealing pressure", SETTLE),
        )
    },
    "hold": {"Limits": _LIMITS},
    "set": {
        "Start": (
            FieldLine("practice.start_pressure", "Method", START),
            FieldLine("previous_pressure_kpa", "Worked before"),
            FieldLine("previous_width_mm", "… on a width of"),
            FieldLine("ride.temperature_c", "Ride temperature"),
            FieldLine("ride.altitude_m", "Ride altitude"),
            FieldLine("practice.shop_temperature_c", "Shop temperature"),
            FieldLine("practice.gauge_step_kpa", "Gauge step"),
        )
    },
}


def stage_of(path: str, here: str = "check_in") -> str:
    """Return the stage in which a field is entered: the one that is looked at where it has it, else the first."""
    for stage in (here, *STAGE_FIELDS):
        if any(line.path == path for lines in STAGE_FIELDS[stage].values() for line in lines):
            return stage
    return "check_in"


def wanted_lines(state: BenchWheel) -> tuple[FieldLine, ...]:
    """Return the fields behind "More" that a figure needs now: what is missing or wrong, and what the work asks for."""
    reading = state.reading
    missing = reading.missing if state.value("tire.size") is not None else ()  # the rim goes with the tire
    paths = {path.partition("].")[2] or path for path in (*reading.problems, *missing)}
    if state.value("rim.hook") == "straight_side":
        paths.add("tire.straight_side_approved")
    if state.value("work.kind") == "repair":
        paths.add("work.leak")
    if state.value("work.kind") == "insert":
        paths |= {"insert.name", "insert.height_mm"}
    if state.progress is not None:
        paths |= {stop.field for stop in state.progress.open_stops}
    behind = (lines for group, lines in STAGE_FIELDS["check_in"].items() if group != DECIDES)
    return tuple(line for lines in behind for line in lines if line.path in paths or state.conflict(line.path))


def field_label(path: str) -> str:
    """Return what a field is called beside where it is typed.

    >>> field_label("tire.max_pressure_kpa"), field_label("rim.material")
    ("Tire's max pressure", 'Rim material')
    """
    for groups in STAGE_FIELDS.values():
        for lines in groups.values():
            for line in lines:
                if line.path == path:
                    return line.label
    return label(path.replace(".", " ")).capitalize()


#: What a choice without an answer leads to, where it is more than a missing remark.
_OPEN = {
    "rim.hook": "Hooked or hookless? Using the hookless limit until you enter it.",
    "tire.straight_side_approved": "Does the maker approve this tire for a hookless rim? Until you enter it, it counts as not approved.",
}


def open_text(path: str) -> str:
    """Return what is said where Enter leaves a choice without an answer."""
    return tr(_OPEN[path]) if path in _OPEN else tr("{field}: not entered").format(field=tr(field_label(path)))
