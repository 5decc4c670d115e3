"""A training wheel as data: the parts, the customer's words, its faults, and what it might have
been.
"""

import itertools
import random
from typing import Annotated, Literal, get_args

import msgspec
from msgspec import Meta

from inner_rim.core.models.inflation import Source
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import as_input_error
from inner_rim.words import N_, tr

Fault = Literal[
    "unread_limit",
    "mixed_sealant",
    "tape_narrow",
    "tape_lifted",
    "dried_core",
    "short_valve",
    "wrong_arrow",
    "worn_insert",
    "loose_gap",
    "low_spot",
    "porous",
    "nipple",
    "cold_night",
]
FAULTS: tuple[Fault, ...] = get_args(Fault)


class FaultFacts(msgspec.Struct, frozen=True):
    """A fault, and what it costs.

    Attributes:
        title: what it is called.
        truth: what was true, as the debrief says it.
        seen: what is seen or heard where somebody looks for it.
        look: the look that shows it, empty where only the work does.
        fix_min, fix_mm, fix_ml: minutes, tape and sealant where it is fixed in time.
        late_min, late_mm, late_ml: where it shows later, on the bench or with the rider.
        lesson: one sentence to take along.
    """

    title: str
    truth: str
    seen: str
    look: str
    fix_min: float
    late_min: float
    lesson: str
    fix_mm: float = 0.0
    fix_ml: float = 0.0
    late_mm: float = 0.0
    late_ml: float = 0.0


#: A turn of tape and a dose, for what has to be done again.
TURN_MM, DOSE_ML = 2200.0, 60.0
FACTS: dict[Fault, FaultFacts] = {
    "unread_limit": FaultFacts(
        N_("Limit not entered"),
        N_("The max pressure printed on the rim was lower than the one assumed."),
        N_("A max pressure is printed on the rim: lower than the one assumed. Enter it."),
        "limit",
        0.5,
        60.0,
        N_("Read rim and tire before any air goes in: the lowest figure rules."),
        late_ml=DOSE_ML,
    ),
    "mixed_sealant": FaultFacts(
        N_("Two kinds of sealant"),
        N_("The old sealant was of another kind: mixed with the new one it clots."),
        N_("The old sealant is another color and stringy: another kind."),
        "old_sealant",
        5.0,
        30.0,
        N_("Wipe out old sealant of a kind you do not know: two kinds clot."),
        late_ml=DOSE_ML,
    ),
    "tape_narrow": FaultFacts(
        N_("Tape too narrow"),
        N_("The tape was too narrow for this bed."),
        N_("The tape's edges do not reach the shoulders."),
        "tape",
        12.0,
        55.0,
        N_("Look at the whole tape before the tire goes on: afterward it costs an hour."),
        fix_mm=TURN_MM,
        late_mm=TURN_MM,
        late_ml=DOSE_ML,
    ),
    "tape_lifted": FaultFacts(
        N_("Tape lifted"),
        N_("The tape had lifted at a spoke hole."),
        N_("At one spoke hole the tape is lifted."),
        "tape",
        2.0,
        55.0,
        N_("Look at the whole tape before the tire goes on: afterward it costs an hour."),
        late_mm=TURN_MM,
        late_ml=DOSE_ML,
    ),
    "dried_core": FaultFacts(
        N_("Dried valve core"),
        N_("The valve core was stuck with dried sealant."),
        N_("The core sticks: dried sealant in the valve."),
        "core",
        1.0,
        8.0,
        N_("Move the core before the valve goes in; a new one takes a minute."),
    ),
    "short_valve": FaultFacts(
        N_("Valve too short"),
        N_("The valve was too short for the pump head."),
        N_("Hardly any thread stands out of the rim: the pump head will slip."),
        "valve",
        1.0,
        18.0,
        N_("Hold the pump head to the valve before the tire covers it."),
    ),
    "wrong_arrow": FaultFacts(
        N_("Tire the wrong way around"),
        N_("The tire was on the wrong way around."),
        N_("The arrow points backward."),
        "arrow",
        0.5,
        28.0,
        N_("Say the arrow's direction aloud before the first bead goes on."),
        late_ml=DOSE_ML,
    ),
    "worn_insert": FaultFacts(
        N_("Worn insert"),
        N_("The insert was past its life."),
        N_("The insert is gashed and stays flat where it is pressed."),
        "insert",
        3.0,
        22.0,
        N_("Press and turn an insert all the way around before it goes in."),
    ),
    "loose_gap": FaultFacts(
        N_("Loose bead"),
        N_("The beads sat loose: the pump could not outrun the leak as it was."),
        N_("The beads hang loose in the well."),
        "",
        0.0,
        0.0,
        N_("When no pressure builds, change something at once; pumping on never helps."),
    ),
    "low_spot": FaultFacts(
        N_("Low spot"),
        N_("A section of the bead stayed low."),
        N_("The molded line dips under the rim's edge."),
        "line",
        2.0,
        22.0,
        N_("Follow the molded line with a finger, both sides, all the way around."),
    ),
    "porous": FaultFacts(
        N_("Porous side wall"),
        N_("The side walls were porous and wept."),
        N_("Fine foam all over the side wall."),
        "soap",
        12.0,
        25.0,
        N_("A side wall that foams all over wants sealant and time, not new tape."),
        fix_ml=15.0,
        late_ml=15.0,
    ),
    "nipple": FaultFacts(
        N_("Leak at a nipple"),
        N_("Air got under the tape and came out at a nipple."),
        N_("Bubbles at a nipple."),
        "soap",
        40.0,
        55.0,
        N_("Air at a nipple came in through the tape: the remedy is the tape."),
        fix_mm=TURN_MM,
        fix_ml=DOSE_ML,
        late_mm=TURN_MM,
        late_ml=DOSE_ML,
    ),
    "cold_night": FaultFacts(
        N_("Cold night"),
        N_("Nothing leaked: the shop was cold in the morning."),
        N_("The shop is colder than when it was pumped up: that explains it."),
        "temperature",
        0.0,
        0.0,
        N_("Read the air's temperature before you hunt for a leak."),
    ),
}


class Look(msgspec.Struct, frozen=True):
    """A look, with the actions of the procedure at which the hand is there.

    Attributes:
        minutes: what it takes.
        steps: codes of those actions.
        safety: it is never worth skipping, whatever the odds.
        clear: what is seen where nothing is wrong.
    """

    title: str
    minutes: float
    steps: tuple[str, ...]
    clear: str
    safety: bool = False


#: In the order of the work; the last one is taken at pressure.
LOOKS: dict[str, Look] = {
    "limit": Look(
        N_("Read both limits"),
        1.0,
        ("check_in.read", "check_in.approval", "check_in.weigh"),
        N_("Rim and tire carry the figures that are entered."),
        safety=True,
    ),
    "old_sealant": Look(
        N_("Look at the old sealant"),
        0.5,
        ("strip.sealant_out", "dip.read"),
        N_("It is the kind that goes in again."),
    ),
    "tape": Look(
        N_("Look at the tape"),
        1.0,
        ("tape.look", "tape.keep_look"),
        N_("Edges down, no wrinkle, nothing lifted at the spoke holes."),
    ),
    "core": Look(
        N_("Try the valve core"),
        0.5,
        ("valve.core_check", "hole.open"),
        N_("The core moves freely."),
    ),
    "valve": Look(
        N_("Hold the pump head to the valve"),
        0.5,
        ("valve.fit",),
        N_("The pump head grips the thread."),
    ),
    "arrow": Look(
        N_("Look at the arrow"),
        0.5,
        ("tire.arrow", "tire.arrow_again"),
        N_("The arrow points the way the wheel will turn."),
        safety=True,
    ),
    "insert": Look(
        N_("Look at the insert"), 1.0, ("insert.look",), N_("The insert is whole and springs back.")
    ),
    "line": Look(
        N_("Follow the molded line"),
        1.0,
        ("line.look", "spin.look", "air.step"),
        N_("The molded line is even on both sides, all the way around."),
        safety=True,
    ),
}
BEFORE_AIR: tuple[str, ...] = tuple(name for name in LOOKS if name != "line")
#: Faults that let air out overnight, and those whose remedy is the tape.
LEAKS: frozenset[Fault] = frozenset({"tape_narrow", "tape_lifted", "nipple", "porous"})
TAPE_LEAKS: frozenset[Fault] = frozenset({"tape_narrow", "tape_lifted", "nipple"})


FORMAT = "inner-rim/scenario"
#: Faults that a scenario may hide at once, and suspects that it may name: more could not be solved
#: exactly.
MAX_FAULTS, MAX_SUSPECTS = 3, 8
Odds = Annotated[float, Meta(gt=0.0, lt=1.0)]


class Spot(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Where the bead is low: the side, and the sector counted from the valve."""

    side: Literal["left", "right"]
    sector: Annotated[int, Meta(ge=1, le=8)]


class Scenario(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A training wheel (docs/training.md describes the file).

    Attributes:
        grade: from 1, a plain wheel, to 5, three faults at once.
        story: what the customer says.
        faults: what is wrong: the truth that is hidden until the debrief.
        suspects: the odds, before anything is seen, of everything that might be wrong with such a
            wheel.
        spot: where a low spot is.
        true_limit_kpa: what is printed on the rim, where the limit was not entered.
        source: where the air comes from first.
    """

    id: Annotated[str, Meta(pattern="^[a-z0-9-]{1,60}$")]
    title: Annotated[str, Meta(min_length=1, max_length=120)]
    grade: Annotated[int, Meta(ge=1, le=5)]
    story: Annotated[str, Meta(min_length=1, max_length=600)]
    wheel: Wheel
    suspects: dict[Fault, Odds]
    faults: tuple[Fault, ...] = ()
    spot: Spot = Spot("left", 3)
    true_limit_kpa: Annotated[float, Meta(gt=0.0, le=1500.0)] = 180.0
    source: Source = "floor_pump"
    format: Literal["inner-rim/scenario"] = "inner-rim/scenario"
    version: Literal[1] = 1

    @property
    def hypotheses(self) -> tuple[tuple[frozenset[Fault], float], ...]:
        """Every combination of suspects that may be true, with its probability, which sum to 1."""
        return _hypotheses(tuple(sorted(self.suspects.items())))


def _hypotheses(
    suspects: tuple[tuple[Fault, float], ...],
) -> tuple[tuple[frozenset[Fault], float], ...]:
    result = []
    for count in range(MAX_FAULTS + 1):
        for chosen in itertools.combinations(suspects, count):
            there = frozenset(fault for fault, _odds in chosen)
            weight = 1.0
            for fault, odds in suspects:
                weight *= odds if fault in there else 1.0 - odds
            result.append((there, weight))
    total = sum(weight for _there, weight in result)
    return tuple((there, weight / total) for there, weight in result)


def scenario_from(plain: JsonObject) -> Scenario:
    """Return the scenario of a file's content.

    Raises:
        InputError: a field is missing, unknown or out of bounds, or the faults are not among the
            suspects.
    """
    suspects = plain.get("suspects") if isinstance(plain, dict) else None
    for name in suspects if isinstance(suspects, dict) else ():
        if name not in FAULTS:
            known = ", ".join(FAULTS)
            raise InputError(
                tr("“{name}” is no fault: use {known}").format(name=str(name)[:40], known=known),
                "suspects",
            )
    try:
        scenario = msgspec.convert(plain, Scenario)
    except msgspec.ValidationError as fault:
        raise as_input_error(str(fault), plain, Scenario) from fault
    if len(scenario.faults) > MAX_FAULTS or len(set(scenario.faults)) != len(scenario.faults):
        raise InputError(tr("use up to {most} different faults").format(most=MAX_FAULTS), "faults")
    if len(scenario.suspects) > MAX_SUSPECTS:
        raise InputError(tr("use up to {most} suspects").format(most=MAX_SUSPECTS), "suspects")
    if missing := [fault for fault in scenario.faults if fault not in scenario.suspects]:
        raise InputError(tr("{fault} must be a suspect too").format(fault=missing[0]), "suspects")
    if "worn_insert" in scenario.suspects and scenario.wheel.insert is None:
        raise InputError(tr("a worn insert needs an insert"), "wheel.insert")
    return scenario


_NAMES = ("Bittern", "Avocet", "Dunlin", "Godwit", "Lapwing", "Plover", "Sanderling", "Whimbrel")
_STORIES = (
    N_("It goes soft. I have no idea since when."),
    N_("Please make it tubeless. It was fine with the tube."),
    N_("My cousin did it last year. Now it is your turn."),
    N_("It held all summer, and then it did not."),
)
_SIZES = (
    ("45-622", 24.0, 622.0),
    ("50-584", 27.0, 584.0),
    ("57-622", 30.0, 622.0),
    ("35-622", 21.0, 622.0),
)


def generated(seed: int, weak: tuple[Fault, ...] = (), faults: int | None = None) -> Scenario:
    """Return a random scenario, the same for the same seed.

    Args:
        weak: faults that the apprentice should practice; one of them is among the truth.
        faults: how many are hidden; by chance where it is None.
    """
    rng = random.Random(seed)
    size, width, seat = rng.choice(_SIZES)
    pool = [fault for fault in FAULTS if fault != "worn_insert"]
    suspects = sorted({*rng.sample(pool, 5), *(fault for fault in weak[:2] if fault in pool)})
    count = rng.choice((0, 1, 1, 2, 2, 3)) if faults is None else faults
    chosen = [fault for fault in weak[:1] if fault in suspects][:count]
    chosen += rng.sample([fault for fault in suspects if fault not in chosen], count - len(chosen))
    wheel = {
        "name": f"{rng.choice(_NAMES)} {seed % 1000}",
        "rim": {
            "bead_seat_diameter_mm": seat,
            "internal_width_mm": width,
            "hook": "hooked",
            "depth_at_valve_mm": 28.0,
        },
        "tire": {
            "size": size,
            "max_pressure_kpa": rng.choice((300.0, 350.0, 400.0)),
            "tubeless_ready": True,
        },
    }
    return scenario_from(
        {
            "format": FORMAT,
            "version": 1,
            "id": f"random-{seed}",
            "title": tr("Random wheel {seed}").format(seed=seed),
            "grade": 1 + min(4, count + 1),
            "story": tr(rng.choice(_STORIES)),
            "wheel": wheel,
            "suspects": {fault: round(rng.uniform(0.1, 0.4), 2) for fault in suspects},
            "faults": chosen,
            "spot": {"side": rng.choice(("left", "right")), "sector": rng.randint(1, 8)},
            "source": rng.choice(("floor_pump", "compressor")),
        }
    )
