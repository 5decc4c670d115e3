"""A training wheel as data: the parts, the customer's words, what is wrong, and what it might have been."""

import itertools
import random
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from inner_rim.core.models.inflation import Source
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Wheel
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.reading import as_input_error
from inner_rim.core.training.faults import FAULTS, Fault
from inner_rim.words import N_, tr

FORMAT = "inner-rim/scenario"
#: Faults that a scenario may hide at once, and suspects that it may name: more could not be solved exactly.
MOST_FAULTS, MOST_SUSPECTS = 3, 8
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
        suspects: the odds, before anything is seen, of everything that might be wrong with such a wheel.
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


def _hypotheses(suspects: tuple[tuple[Fault, float], ...]) -> tuple[tuple[frozenset[Fault], float], ...]:
    result = []
    for count in range(MOST_FAULTS + 1):
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
        InputError: a field is missing, unknown or out of bounds, or the faults are not among the suspects.
    """
    suspects = plain.get("suspects") if isinstance(plain, dict) else None
    for name in suspects if isinstance(suspects, dict) else ():
        if name not in FAULTS:
            known = ", ".join(FAULTS)
            raise InputError(
                tr("“{name}” is no fault: use {known}").format(name=str(name)[:40], known=known), "suspects"
            )
    try:
        scenario = msgspec.convert(plain, Scenario)
    except msgspec.ValidationError as fault:
        raise as_input_error(str(fault), plain, Scenario) from fault
    if len(scenario.faults) > MOST_FAULTS or len(set(scenario.faults)) != len(scenario.faults):
        raise InputError(tr("use up to {most} different faults").format(most=MOST_FAULTS), "faults")
    if len(scenario.suspects) > MOST_SUSPECTS:
        raise InputError(tr("use up to {most} suspects").format(most=MOST_SUSPECTS), "suspects")
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
_SIZES = (("45-622", 24.0, 622.0), ("50-584", 27.0, 584.0), ("57-622", 30.0, 622.0), ("35-622", 21.0, 622.0))


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
        "rim": {"bead_seat_diameter_mm": seat, "internal_width_mm": width, "hook": "hooked", "depth_at_valve_mm": 28.0},
        "tire": {"size": size, "max_pressure_kpa": rng.choice((300.0, 350.0, 400.0)), "tubeless_ready": True},
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
