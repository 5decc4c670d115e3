"""Which fields are filled in at which stage, in groups that fit the bench page."""

import msgspec

from inner_rim.core.record.paths import name_of
from inner_rim.core.record.why import label
from inner_rim.words import N_, sentence_case, tr
from inner_rim.work.editing.state import BenchWheel, PlannedWheel


class FieldLine(msgspec.Struct, frozen=True):
    """A field in the inputs panel: its path within the wheel, its label, short words for choices."""

    path: str
    label: str
    words: dict[str, str] = {}


YES_NO = {"yes": N_("yes"), "no": N_("no")}
TIRE_ON = {"on": N_("on"), "one_bead_off": N_("one bead off"), "off": N_("off")}
LEAK = {
    "tread": N_("tread"),
    "side_wall": N_("wall cut"),
    "weeps": N_("wall weeps"),
    "bead": N_("bead"),
    "valve": N_("valve"),
    "nipple": N_("nipple"),
    "unknown": N_("not known"),
}
SIDE = {"left": N_("left side"), "right": N_("right side")}
SEALANT_IN = {
    "none": N_("none"),
    "liquid": N_("liquid"),
    "dried": N_("dried"),
    "unknown": N_("unknown"),
}
TAPE_IN = {
    "polyester": N_("polyester"),
    "cloth": N_("cloth"),
    "film": N_("film"),
    "overlay": N_("overlay"),
}
VALVE_IN = {"none": N_("none"), "plain": N_("plain"), "ported": N_("with side ports")}
HOOK = {"hooked": N_("hooked"), "straight_side": N_("hookless")}
USE = {"pavement": N_("road"), "mixed": N_("mixed"), "trail": N_("trail"), "soft": N_("soft")}
BARS = {
    "drop_bar": N_("drops"),
    "flat_bar": N_("flat bar"),
    "upright": N_("upright"),
    "front_load": N_("cargo"),
}
POSITION = {"front": N_("front"), "rear": N_("rear"), "other": N_("other")}
TAPE = {"match": N_("match"), "plus_two": N_("+2"), "wide": N_("wide"), "contour": N_("contour")}
TAPE_START = {"at_valve": N_("valve"), "past_valve": N_("past valve"), "opposite": N_("opposite")}
FACE = {"flat": N_("flat"), "curved": N_("curved"), "thin": N_("thin")}
DOSE = {
    "label": N_("label"),
    "lean": N_("lean"),
    "standard": N_("standard"),
    "generous": N_("generous"),
}
ROUTE = {"pour": N_("pour"), "inject": N_("inject")}
CLIMATE = {"hot_dry": N_("hot dry"), "temperate": N_("temperate"), "cool_damp": N_("cool damp")}
START = {"drop": N_("drop"), "previous": N_("previous"), "range": N_("range")}
HEAD = {"push_on": N_("push-on"), "screw_on": N_("screw-on")}
BED = {"drilled": N_("drilled"), "large_holes": N_("large"), "sealed": N_("sealed")}
SOURCE = {"floor_pump": N_("pump"), "compressor": N_("compressor"), "charge": N_("charge")}
WET = {
    "none": N_("none"),
    "soap": N_("soap"),
    "fluid": N_("fluid"),
    "wax": N_("wax"),
    "sealant": N_("sealant"),
}
CLEANED = {"solvent": N_("solvent"), "abrasive": N_("abrasive first")}
HOLE_SEAL = {"base": N_("valve base"), "putty": N_("putty"), "washer": N_("rubber washer")}
INJECT_WHEN = {
    "tested": N_("after dry test"),
    "seated": N_("once seated"),
    "first": N_("before it seats"),
}
CORE_IN = {"plain": N_("plain"), "finger": N_("finger on valve")}
REST_FLAT = {"always": N_("always"), "if_it_leaks": N_("if it leaks")}

WORK = {
    "convert": N_("convert"),
    "tire_change": N_("new tire"),
    "retape": N_("retape"),
    "refresh": N_("refresh"),
    "insert": N_("insert"),
    "repair": N_("repair"),
    "back_to_tube": N_("to tube"),
}
#: The same in full, for a wheel that comes back.
WORK_WORDS = {
    "tire_change": N_("New tire"),
    "refresh": N_("New sealant"),
    "retape": N_("New tape"),
    "repair": N_("Repair"),
    "insert": N_("Insert"),
    "back_to_tube": N_("Back to a tube"),
    "convert": N_("Convert: has a tube"),
}
ORDER = {"insert_first": N_("insert"), "bead_first": N_("bead"), "seat_first": N_("seat")}
PRESS = {"hand": N_("hand"), "warmth": N_("warmth"), "tube": N_("tube")}
HOLE = {"pushed": N_("pushed"), "warmed": N_("warmed"), "cut": N_("cut")}
FINISH = {"valve": N_("valve"), "elsewhere": N_("elsewhere")}
SEATING = {"steps": N_("steps"), "burst": N_("burst")}
SETTLE = {"seating": N_("seating"), "low": N_("low"), "printed": N_("printed")}

_LIMITS = (
    FieldLine("rim.max_pressure_kpa", "Rim's max pressure"),
    FieldLine("tire.max_pressure_kpa", "Tire's max pressure"),
)
WAITS = {"customer": N_("the customer"), "part": N_("a part")}
#: How a wheel came in: one answer for the facts of `arrival`, which can also be entered one by one.
CAME_IN = FieldLine(
    "arrival",
    N_("Came in"),
    {
        "tube": N_("with a tube"),
        "air": N_("tubeless, has air"),
        "flat": N_("tubeless, flat"),
        "off": N_("tire off"),
    },
)
#: The group of check-in whose fields are always in view.
DECIDES = ""

#: stage -> group name -> fields, in working order.
STAGE_FIELDS: dict[str, dict[str, tuple[FieldLine, ...]]] = {
    "check_in": {
        DECIDES: (
            FieldLine("name", "Wheel"),
            FieldLine("ride.total_mass_kg", N_("Rider, bike, load")),
            FieldLine("tire.name", "Tire"),
            FieldLine("tire.size", N_("Tire size")),
            FieldLine("rim.name", N_("Rim")),
            FieldLine("rim.internal_width_mm", N_("Rim width, inside")),
            FieldLine("rim.hook", "Hook", HOOK),
            FieldLine("due", N_("Promised for")),
            *_LIMITS,
            FieldLine("work.kind", N_("Work"), WORK),
            CAME_IN,
        ),
        N_("Rim"): (
            FieldLine("rim.bead_seat_diameter_mm", N_("Bead seat Ø")),
            FieldLine("rim.depth_at_valve_mm", N_("Rim depth")),
        ),
        N_("Tire"): (
            FieldLine("tire.min_pressure_kpa", "Tire's min pressure"),
            FieldLine("tire.tubeless_ready", "Tubeless mark", YES_NO),
            FieldLine("tire.straight_side_approved", N_("Hookless approved"), YES_NO),
            FieldLine("tire.new", N_("New tire"), YES_NO),
        ),
        N_("Ride"): (
            FieldLine("position", N_("Position"), POSITION),
            FieldLine("ride.position", N_("Bars"), BARS),
            FieldLine("ride.use", N_("Ground"), USE),
            FieldLine("load_n", N_("Load on wheel")),
            FieldLine("ride.temperature_c", N_("Ride temperature")),
            FieldLine("ride.altitude_m", N_("Ride altitude")),
        ),
        N_("Work"): (
            FieldLine("work.leak", N_("Leaks at"), LEAK),
            FieldLine("work.leak_side", N_("Leaks on"), SIDE),
            FieldLine("work.new_sealant", N_("Sealant replaced"), YES_NO),
            FieldLine("work.new_tape", N_("New tape"), YES_NO),
            FieldLine("work.patch_cut", N_("Cut is patched"), YES_NO),
            FieldLine("tire.plugs", "Plugs"),
            FieldLine("work.keep_tape", N_("Tape stays"), YES_NO),
            FieldLine("work.keep_valve", N_("Valve stays"), YES_NO),
            FieldLine("work.keep_insert", N_("Insert stays"), YES_NO),
            FieldLine("work.tape_changes", N_("Tires on this tape")),
            FieldLine("work.tape_laid", N_("Tape laid")),
            FieldLine("work.folded", N_("Tire folded"), YES_NO),
            FieldLine("work.rode_before", N_("Ridden before"), YES_NO),
        ),
        N_("How it came in"): (
            FieldLine("arrival.tube", N_("Tube inside"), YES_NO),
            FieldLine("arrival.taped", N_("Rim taped"), YES_NO),
            FieldLine("arrival.tape_kind", N_("Kind of its tape"), TAPE_IN),
            FieldLine("arrival.tire", "Tire", TIRE_ON),
            FieldLine("arrival.seated", N_("Beads seated"), YES_NO),
            FieldLine("arrival.air", N_("Air in"), YES_NO),
            FieldLine("arrival.insert", N_("Insert inside"), YES_NO),
            FieldLine("arrival.sealant", N_("Sealant inside"), SEALANT_IN),
            FieldLine("arrival.valve", N_("Valve in"), VALVE_IN),
        ),
        N_("Already inside"): (
            FieldLine("insert.name", "Insert"),
            FieldLine("insert.height_mm", N_("Insert height")),
            FieldLine("insert.ported", N_("Insert ports"), YES_NO),
            FieldLine("sealant.name", N_("Old sealant")),
            FieldLine("sealant.in_ml", N_("Old sealant in")),
            FieldLine("sealant.in_since", N_("Old sealant since")),
        ),
        N_("Customer"): (
            FieldLine("customer", N_("Customer")),
            FieldLine("bike", "Bicycle"),
            FieldLine("notes", N_("Notes")),
        ),
        N_("Waits"): (
            FieldLine("waits.on", N_("Waits for"), WAITS),
            FieldLine("waits.what", N_("Which")),
            FieldLine("waits.until", N_("Expected")),
        ),
    },
    "strip": {
        N_("Rim bed"): (
            FieldLine("rim.bed", N_("Holes"), BED),
            FieldLine("rim.spokes", N_("Spokes")),
            FieldLine("rim.carbon", N_("Carbon"), YES_NO),
            FieldLine("rim.tubeless_ready", N_("Tubeless rim"), YES_NO),
            FieldLine("practice.bed_cleaning", N_("Cleaned with"), CLEANED),
        )
    },
    "tape": {
        N_("Tape"): (
            FieldLine("practice.tape_width", N_("Method"), TAPE),
            FieldLine("practice.tape_start", N_("Start"), TAPE_START),
            FieldLine("practice.layers", N_("Layers")),
            FieldLine("shelf.tape_widths_mm", "On the shelf"),
            FieldLine("practice.overlap_mm", N_("Overlap")),
            FieldLine("practice.press_home", N_("Press home"), PRESS),
            FieldLine("practice.hole", N_("Hole"), HOLE),
            FieldLine("rim.seat_circumference_mm", N_("Around the seat")),
        ),
        N_("Measured well"): (
            FieldLine("rim.well.depth_mm", N_("Depth")),
            FieldLine("rim.well.floor_mm", N_("Floor")),
            FieldLine("rim.well.left_shoulder_mm", N_("Left shoulder")),
            FieldLine("rim.well.right_shoulder_mm", N_("Right shoulder")),
        ),
    },
    "valve": {
        N_("Valve"): (
            FieldLine("rim.depth_at_valve_mm", N_("Rim depth")),
            FieldLine("practice.pump_head", N_("Pump head"), HEAD),
            FieldLine("shelf.valve_lengths_mm", "On the shelf"),
            FieldLine("rim.valve_hole_mm", N_("Valve hole")),
            FieldLine("rim.valve_face", N_("Face at nut"), FACE),
            FieldLine("practice.hole_seal", N_("Hole sealed by"), HOLE_SEAL),
        )
    },
    "insert": {
        N_("Insert"): (
            FieldLine("insert.name", "Insert"),
            FieldLine("insert.bead_seat_diameter_mm", N_("Made for Ø")),
            FieldLine("insert.height_mm", N_("Height")),
            FieldLine("insert.volume_ml", N_("Volume")),
            FieldLine("insert.leg_mm", N_("Leg in the well")),
            FieldLine("insert.ported", N_("Own ports"), YES_NO),
            FieldLine("insert.joined", N_("Has a seam"), YES_NO),
            FieldLine("insert.tires_used", N_("Tires so far")),
            FieldLine("practice.insert_order", N_("First goes"), ORDER),
            FieldLine("work.insert_later", N_("Goes in later"), YES_NO),
        ),
        N_("Its ranges"): (
            FieldLine("insert.rim_min_mm", N_("Rim from")),
            FieldLine("insert.rim_max_mm", N_("Rim to")),
            FieldLine("insert.tire_min_mm", N_("Tire from")),
            FieldLine("insert.tire_max_mm", N_("Tire to")),
            FieldLine("insert.mass_g", "Weight"),
        ),
    },
    "mount": {
        N_("Tire"): (
            FieldLine("tire.directional", N_("Has an arrow"), YES_NO),
            FieldLine("tire.measured_width_mm", N_("Caliper width")),
            FieldLine("tire.measured_on_rim_mm", N_("… on a rim of")),
            FieldLine("tire.casing_mm", N_("Casing")),
            FieldLine("practice.finish", N_("Finish"), FINISH),
        )
    },
    "sealant": {
        N_("Sealant"): (
            FieldLine("practice.dose", N_("Method"), DOSE),
            FieldLine("practice.sealant", "Kind"),
            FieldLine("tire.label_dose_ml", N_("On the label")),
            FieldLine("shelf.injector_ml", N_("Injector holds")),
            FieldLine("practice.sealant_route", N_("Route"), ROUTE),
            FieldLine("practice.inject_when", N_("Injected"), INJECT_WHEN),
            FieldLine("practice.core_in", N_("Core goes in"), CORE_IN),
            FieldLine("practice.climate", N_("Climate"), CLIMATE),
            FieldLine("tire.new", N_("New tire"), YES_NO),
        )
    },
    "seat": {
        N_("Limits"): (
            *_LIMITS,
            FieldLine("practice.lubricant", N_("On the bead"), WET),
            FieldLine("practice.air_source", N_("Air from"), SOURCE),
            FieldLine("practice.core_out", N_("Core out"), YES_NO),
            FieldLine("practice.seating", N_("Beads seat by"), SEATING),
            FieldLine("practice.settle", "Sealing pressure", SETTLE),
        )
    },
    "hold": {
        "Limits": _LIMITS,
        N_("Leak test"): (FieldLine("practice.rest_flat", N_("Lies flat"), REST_FLAT),),
    },
    "set": {
        N_("Start"): (
            FieldLine("practice.start_pressure", N_("Method"), START),
            FieldLine("previous_pressure_kpa", N_("Worked before")),
            FieldLine("previous_width_mm", N_("… on a width of")),
            FieldLine("ride.temperature_c", N_("Ride temperature")),
            FieldLine("ride.altitude_m", N_("Ride altitude")),
            FieldLine("practice.shop_temperature_c", N_("Shop temperature")),
            FieldLine("practice.gauge_step_kpa", N_("Gauge step")),
        )
    },
}


def stage_of(path: str, here: str = "check_in") -> str:
    """Return the stage in which a field is entered: the stage in view if it has it, else the first."""
    for stage in (here, *STAGE_FIELDS):
        if any(line.path == path for lines in STAGE_FIELDS[stage].values() for line in lines):
            return stage
    return "check_in"


def wanted_lines(state: BenchWheel) -> tuple[FieldLine, ...]:
    """Return the fields behind "More" that a figure needs now: what is missing or wrong, and what
    the work asks for.
    """
    reading = state.reading
    # the rim goes with the tire
    missing = reading.missing if state.value("tire.size") is not None else ()
    paths = {path.partition("].")[2] or path for path in (*reading.problems, *missing)}
    if state.value("rim.hook") == "straight_side":
        paths.add("tire.straight_side_approved")
    if state.value("work.kind") == "repair":
        paths.add("work.leak")
        if state.value("work.leak") == "bead":
            paths.add("work.leak_side")
    if state.value("work.kind") == "insert":
        paths |= {"insert.name", "insert.height_mm"}
    if isinstance(state, PlannedWheel):
        paths |= {stop.field for stop in state.progress.open_stops}
    behind = (lines for group, lines in STAGE_FIELDS["check_in"].items() if group != DECIDES)
    return tuple(
        line
        for lines in behind
        for line in lines
        if line.path in paths or state.conflict(line.path)
    )


def _line_of(path: str) -> FieldLine | None:
    of_all = (lines for groups in STAGE_FIELDS.values() for lines in groups.values())
    return next((line for lines in of_all for line in lines if line.path == path), None)


def field_label(path: str) -> str:
    """Return what a field is called beside where it is typed.

    >>> field_label("tire.max_pressure_kpa"), field_label("rim.material")
    ("Tire's max pressure", 'Material')
    """
    line = _line_of(path)
    return tr(line.label) if line is not None else sentence_case(label(name_of(path)))


def choice_words(path: str, value: str) -> str:
    """Return what a choice is called on its button; another value as it is.

    >>> choice_words("rim.hook", "straight_side"), choice_words("rim.hook", "24")
    ('hookless', '24')
    """
    line = _line_of(path)
    words = line.words.get(value) if line is not None else None
    return tr(words) if words else value


#: What a choice without an answer leads to, where it is more than a missing remark.
_OPEN = {
    "rim.hook": N_("Hooked or hookless? Using the hookless limit until you enter it."),
    "tire.straight_side_approved": N_(
        "Does the maker approve this tire for a hookless rim? Until you enter it, it counts as not approved."
    ),
}


def open_text(path: str) -> str:
    """Return the sentence shown where Enter leaves a choice unanswered."""
    return (
        tr(_OPEN[path])
        if path in _OPEN
        else tr("{field}: not entered").format(field=field_label(path))
    )
