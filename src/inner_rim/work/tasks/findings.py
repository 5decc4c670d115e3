"""What this shop's log says should change: its ways, compared on what they cost (docs/models.md
2.15).
"""

from __future__ import annotations

import contextlib
import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from functools import partial
from statistics import fmean

import msgspec

from inner_rim.core.learning.effects import Key, gap_spread, phi, seat_spread
from inner_rim.core.learning.evidence import Visit, gap_groups, ridden
from inner_rim.core.learning.findings import (
    LEAST_MINUTES,
    LEAST_RETURNS,
    MOST_FINDINGS,
    Case,
    Compared,
    compare_minutes,
    compare_rates,
    enough,
    said,
    worse,
)
from inner_rim.core.models.inflation import SOURCE_WORDS, Bottle, max_leak_l_s
from inner_rim.core.models.seating_pressure import seating_chance
from inner_rim.core.plan.advisor import STEP_MINUTES, climbs
from inner_rim.core.plan.wheel_plan import NAMED, OF_TAPE
from inner_rim.core.record.job import Practice
from inner_rim.core.record.log import Attempt, Changed, Inspection, Leak, Reading, StepEntry
from inner_rim.core.record.moments import moment
from inner_rim.core.record.practice import PRACTICE_DEFAULTS, TAPE_KIND_LAYERS, layered
from inner_rim.core.record.resolved import Learned, LearnedFigure
from inner_rim.core.record.units import ML_PER_LITER
from inner_rim.work.tasks.learning import ShopLearning

Value = str | bool | int
#: What a try that fails, a leak test that does not pass, and a wheel that comes back cost, minutes,
#: where the log does not say (common practice, no published source).
FAILED_TRY, FAILED_TEST, RETURN = 6.0, 12.0, 45.0
#: A wheel is a return within so many days; a shop's volume is that of as many.
SOON_DAYS, MONTHS = 90.0, 3.0
#: Minutes between two entries from which something else was done, and minutes of a stage under
#: which its steps were ticked off in a row.
ELSEWHERE, TICKED = 20.0, 0.5
#: What each way may change; minutes are those of a stage.
ACTS_ON: dict[str, tuple[str, ...]] = {
    "air_source": ("first_try", "steps", "seat"),
    "core_out": ("first_try", "steps", "seat"),
    "lubricant": ("first_try", "steps", "seat", "mount", "hold"),
    "seating": ("first_try", "seat"),
    "layers": ("first_try", "tape", "hold", "back"),
    "tape_kind": ("first_try", "tape", "hold", "back"),
    "tape_start": ("tape", "hold", "back"),
    "insert_order": ("first_try", "mount"),
    "sealant_route": ("first_try", "sealant", "hold"),
    "dose": ("hold", "back"),
}
#: Outcomes that go well or not; the others are minutes.
RATES = frozenset({"first_try", "hold", "back"})


class Proposal(msgspec.Struct, frozen=True):
    """A way that this shop's log speaks for.

    Attributes:
        field, way, used: the method, the way that is better, and the one in use.
        outcome: what it is better at: `first_try`, `hold`, `back`, `steps`, or the stage whose
            minutes it saves.
        minutes: what it saves a wheel.
        wheels: how many wheels a month the question is asked of.
    """

    field: str
    way: Value
    used: Value
    outcome: str
    compared: Compared
    minutes: float
    wheels: float

    @property
    def a_month(self) -> float:
        return self.minutes * self.wheels


def ways_of(visit: Visit) -> dict[str, Value]:
    """Return the ways that were really used at a visit, as far as its log and its own methods say."""
    signed, own = visit.plan.log.signed, visit.wheel.practice or Practice()
    named: dict[str, object] = {name: getattr(own, name) for name in NAMED}
    named |= signed.methods if signed is not None else {}
    result: dict[str, Value] = {}
    for name in NAMED:  # an imported log may name anything
        with contextlib.suppress(msgspec.ValidationError):
            way = getattr(msgspec.convert({name: named[name]}, Practice, strict=False), name)
            result |= {name: way} if way is not None else {}
    if not visit.plan.setup.lays_tape:
        result = {name: value for name, value in result.items() if name not in OF_TAPE}
    if visit.wheel.insert is None:
        result.pop("insert_order", None)
    if visit.attempts:
        first = visit.attempts[0]
        if first.source in SOURCE_WORDS:
            result["air_source"] = first.source
        if first.core_out is not None:
            result["core_out"] = first.core_out
        if first.lubricant:
            result["lubricant"] = first.lubricant
    else:
        result.pop("seating", None)
    steps = {item.entry.step for item in visit.log if isinstance(item.entry, StepEntry)}
    for route in ("pour", "inject"):
        if f"sealant.{route}" in steps:
            result["sealant_route"] = route
    return result


def methods_in_use(practice: Practice | None) -> dict[str, Value]:
    """Return what the shop's methods are for every question that a finding may answer."""
    held = layered(practice, PRACTICE_DEFAULTS)
    assert held is not None
    result = {name: getattr(held, name) for name in ACTS_ON}
    if practice is None or practice.core_out is None:  # by default a burst needs the core out
        result["core_out"] = held.seating == "burst"
    if practice is None or practice.layers is None:
        result["layers"] = TAPE_KIND_LAYERS[str(held.tape_kind)]
    return result


def outcomes_of(
    visits: Mapping[str, Sequence[Visit]], learned: ShopLearning, now: datetime
) -> dict[str, dict[Key, Case]]:
    """Return how it went at each wheel that was handed over, by what is looked at."""
    finished = [v for one in visits.values() for v in one if v.plan.log.signed is not None]
    result: dict[str, dict[Key, Case]] = {}

    def keep(name: str, visit: Visit, value: float, odds: float = 0.5, alike: str = "") -> None:
        result.setdefault(name, {})[visit.key] = Case(visit.key, value, odds, alike)

    for visit in finished:
        kind = f"{visit.plan.setup.kind} {visit.wheel.insert is not None}"
        if visit.attempts:
            first, odds = climbs(visit.attempts)[0], seating_odds_of(visit, learned)
            keep("first_try", visit, float(first.seated), odds)
            if first.seated:
                ladder = len(visit.plan.pressure.seating_kpa)
                keep("steps", visit, STEP_MINUTES * len(first.tries), alike=f"{kind} {ladder}")
            kind += f" {round(2.0 * odds)}"
        for stage, minutes in _stage_minutes(visit).items():
            if minutes >= TICKED:
                keep(stage, visit, minutes, alike=kind)
        passed = _passed(visit)
        if passed is not None:
            keep("hold", visit, float(passed), alike=_hard(visit))
    for ride in (ride for one in visits.values() for ride in ridden(one, now.astimezone())):
        back = ride.back is not None and ride.back.plan.setup.kind == "repair"
        if (back and ride.days <= SOON_DAYS) or ride.days > SOON_DAYS:
            good = not (back and ride.days <= SOON_DAYS)
            keep("back", ride.visit, float(good), alike=_hard(ride.visit))
    for name in ("hold", "back"):
        result[name] = _with_odds(result.get(name, {}))
    return result


def _hard(visit: Visit) -> str:
    """What makes a wheel lose air whatever is done: an unmarked tire, a plug."""
    plugs = (visit.wheel.tire.plugs or 0) + visit.plan.log.plugs
    return f"{visit.wheel.tire.tubeless_ready} {bool(plugs)}"


def _with_odds(outcomes: dict[Key, Case]) -> dict[Key, Case]:
    """The outcomes with the shop's own rate of wheels as hard as each, 4 wheels as all of them."""
    every = fmean(one.value for one in outcomes.values()) if outcomes else 0.5
    groups: dict[str, list[float]] = {}
    for one in outcomes.values():
        groups.setdefault(one.alike, []).append(one.value)
    rates = {
        name: (4.0 * every + sum(values)) / (4.0 + len(values)) for name, values in groups.items()
    }
    return {
        key: msgspec.structs.replace(one, odds=rates[one.alike]) for key, one in outcomes.items()
    }


def seating_odds_of(visit: Visit, learned: ShopLearning) -> float:
    """Return the probability that a floor pump through the open valve seats such a wheel, by what
    the log taught of its rim and tire: how hard it is, whatever was used.
    """
    plan, groups = visit.plan, gap_groups(visit.wheel)
    gap, seat = learned.effects["gap"], learned.effects["seat"]
    volume = max(0.1, plan.tire.air_volume_ml / ML_PER_LITER)
    most = max_leak_l_s(volume, "floor_pump", True, Bottle())
    outrun = math.log(max(1e-6, most) / max(1e-6, plan.seating_odds.needed_l_s)) - gap.of(groups)[0]
    figure = LearnedFigure(*seat.of(groups), 1)
    about = Learned(seat=figure, seat_spread=seat_spread(seat, groups))
    chance = seating_chance(
        visit.wheel, plan.methods, plan.tire.nominal_width_mm, plan.tape.layers, (), about
    )
    ladder = plan.pressure.seating_kpa
    return phi(outrun / gap_spread(gap, groups)) * (chance.by(ladder[-1]) if ladder else 1.0)


def _stage_minutes(visit: Visit) -> dict[str, float]:
    """Minutes of each stage: the time before each of its entries, unless something else was done."""
    result: dict[str, float] = {}
    for before, after in itertools.pairwise(visit.log):
        minutes = (moment(after.at) - moment(before.at)).total_seconds() / 60.0
        waited = isinstance(after.entry, StepEntry) and after.entry.outcome != "done"
        if minutes > ELSEWHERE or waited:
            continue
        if isinstance(after.entry, StepEntry):
            result[after.entry.stage] = result.get(after.entry.stage, 0.0) + minutes
        elif isinstance(after.entry, Attempt | Changed | Inspection):
            result["seat"] = result.get("seat", 0.0) + minutes
    return result


def _passed(visit: Visit) -> bool | None:
    """Whether the leak test passed with nothing to fix, None where nothing was read."""
    tested = False
    for item in visit.log:
        entry = item.entry
        if isinstance(entry, Reading):
            tested = True
        elif (isinstance(entry, Leak) and entry.place != "none") or (
            tested
            and (isinstance(entry, Attempt) or getattr(entry, "outcome", "") in ("again", "failed"))
        ):
            return False
    return True if tested else None


def findings_of(
    visits: Mapping[str, Sequence[Visit]],
    learned: ShopLearning,
    practice: Practice | None,
    now: datetime,
) -> tuple[Proposal, ...]:
    """Return what the log says should change, most minutes a month first."""
    used, outcomes = methods_in_use(practice), outcomes_of(visits, learned, now)
    ways: dict[str, dict[Value, set[Key]]] = {}
    for visit in (v for one in visits.values() for v in one):
        if visit.plan.log.signed is not None:
            for field, way in ways_of(visit).items():
                ways.setdefault(field, {}).setdefault(way, set()).add(visit.key)
    recent = _recent(visits, now)
    made = [
        (field, way, name, compared)
        for field, sides in ways.items()
        for way, keys in sides.items()
        if way != used[field]
        for name in ACTS_ON[field]
        if (compared := _compare(name, outcomes, keys, sides.get(used[field], set()))) is not None
    ]
    cost = partial(_gain, outcomes=outcomes)
    best: dict[str, Proposal] = {}
    for field, way, name, compared in made:
        others = [(n, c) for f, w, n, c in made if (f, w) == (field, way)]
        if any(worse(c, -cost(n, c), LEAST_MINUTES) or _more_return(n, c) for n, c in others):
            continue
        minutes = cost(name, compared)
        enough_gain = minutes
        if name == "back":
            enough_gain = LEAST_MINUTES * compared.gain / LEAST_RETURNS
        if not said(compared, len(made), enough_gain, LEAST_MINUTES):
            continue
        keys = set().union(*ways[field].values())
        result = Proposal(
            field, way, used[field], name, compared, minutes, len(keys & recent) / MONTHS
        )
        if field not in best or result.a_month > best[field].a_month:
            best[field] = result
    return tuple(sorted(best.values(), key=lambda one: -one.a_month)[:MOST_FINDINGS])


def _more_return(name: str, compared: Compared) -> bool:
    return name == "back" and worse(compared, -compared.gain, LEAST_RETURNS)


def _recent(visits: Mapping[str, Sequence[Visit]], now: datetime) -> set[Key]:
    """The wheels that were handed over in the last 90 days."""
    return {
        visit.key
        for one in visits.values()
        for visit in one
        if visit.plan.log.signed is not None
        and (now.astimezone() - moment(visit.plan.log.signed_at)).days < SOON_DAYS
    }


def _compare(
    name: str, outcomes: Mapping[str, Mapping[Key, Case]], way: set[Key], used: set[Key]
) -> Compared | None:
    seen = outcomes.get(name, {})
    both = [[seen[key] for key in sorted(keys) if key in seen] for keys in (way, used)]
    if not enough(*both):
        return None
    compare: Callable[[Sequence[Case], Sequence[Case]], Compared | None] = (
        compare_rates if name in RATES else compare_minutes
    )
    return compare(*both)


def _gain(name: str, compared: Compared, outcomes: Mapping[str, Mapping[Key, Case]]) -> float:
    """The minutes a wheel that a way saves on an outcome."""
    if name == "first_try":
        return compared.gain * _cost_of_failing(outcomes)
    return compared.gain * {"hold": FAILED_TEST, "back": RETURN}.get(name, 1.0)


def _cost_of_failing(outcomes: Mapping[str, Mapping[Key, Case]]) -> float:
    """What a failed first try costs here: minutes of seating more than where it worked."""
    took = outcomes.get("seat", {})
    good, bad = (
        [
            took[key].value
            for key, one in outcomes["first_try"].items()
            if one.value == value and key in took
        ]
        for value in (1.0, 0.0)
    )
    if min(len(good), len(bad)) < 5:
        return FAILED_TRY
    return max(LEAST_MINUTES, fmean(bad) - fmean(good))
