"""Steps in a few words; odds as a mechanic says them, and what they say of the next try."""

from inner_rim.core.plan.advisor import (
    STEP_MINUTES,
    Suggestion,
    next_step_odds,
    stands_at_pressure,
    suggestions,
)
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import REMEDY_ACTIONS, code_of
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import PlannedWheel

NAMES = {
    "check_in.read": N_("Read rim and tire"),
    "check_in.approval": N_("Hookless approval"),
    "check_in.weigh": N_("Weigh"),
    "strip.deflate": N_("Air out"),
    "strip.break_beads": N_("Break both beads"),
    "strip.open_one": N_("Open one side"),
    "strip.tire_off": N_("Tire off"),
    "strip.tube_out": N_("Tube out"),
    "strip.insert_out": N_("Insert out"),
    "strip.old_insert_out": N_("Old insert out"),
    "strip.sealant_out": N_("Old sealant out"),
    "strip.valve_out": N_("Valve out"),
    "strip.tape_off": N_("Old tape off"),
    "strip.rim_strip_off": N_("Rim strip off"),
    "strip.rim_strip_in": N_("Rim strip in"),
    "rim.look": N_("Check rim bed"),
    "rim.walls": N_("Check rim walls"),
    "rim.clean": N_("Clean rim bed"),
    "rim.dry": N_("Let it dry"),
    "rim.wipe": N_("Wipe shelves"),
    "tape.keep_look": N_("Check tape"),
    "tape.find": N_("Get tape"),
    "tape.trim": N_("Trim tape"),
    "tape.lay": N_("Lay tape"),
    "tape.overlay": N_("Electrical tape"),
    "tape.press": N_("Rub it down"),
    "tape.warm": N_("Warm it"),
    "tape.look": N_("Check tape"),
    "hole.open": N_("Valve hole"),
    "valve.fit": N_("Fit valve"),
    "valve.core_check": N_("Check core"),
    "tire.look": N_("Check tire"),
    "tire.thorns": N_("Feel for thorns"),
    "tire.wipe": N_("Wipe beads"),
    "tire.warm": N_("Warm tire"),
    "tire.arrow": N_("Check arrow"),
    "tire.arrow_again": N_("Arrow again"),
    "insert.look": N_("Check insert"),
    "insert.on": N_("Insert on"),
    "bead.wet": N_("Wet beads"),
    "bead.first": N_("First bead"),
    "bead.second": N_("Second bead"),
    "bead.partial": N_("Second bead, part open"),
    "bead.close": N_("Close it"),
    "bead.open_one": N_("Open one side"),
    "bead.off_one": N_("Lift one bead off"),
    "bead.refit": N_("Refit bead"),
    "tube.in": N_("Tube in"),
    "tube.out": N_("Tube out"),
    "core.out": N_("Core out"),
    "core.in": N_("Core in"),
    "sealant.shake": N_("Shake sealant"),
    "sealant.pour": N_("Pour"),
    "sealant.inject": N_("Inject"),
    "dip.read": N_("Dip"),
    "air.burst": N_("One burst"),
    "air.inflate": N_("Inflate"),
    "air.step": N_("Pump"),
    "air.press": N_("Press tape"),
    "air.source": N_("Other source"),
    "valve.top": N_("Valve to top"),
    "bead.lift": N_("Lift beads"),
    "bead.level": N_("Pull high side down"),
    "bead.push": N_("Push spot in"),
    "bead.strap": N_("Strap"),
    "insert.straighten": N_("Straighten insert"),
    "air.deflate": N_("Air out"),
    "line.look": N_("Check line"),
    "dry.test": N_("Dry test"),
    "dry.stay": N_("Beads stay"),
    "sealant.look": N_("Shake"),
    "repair.lay": N_("Leak down"),
    "repair.bead_look": N_("Bead again"),
    "spin.look": N_("Spin"),
    "hold.shake": N_("Shake and spin"),
    "hold.flat_left": N_("Flat, left"),
    "hold.flat_right": N_("Flat, right"),
    "hold.top_up": N_("Top up"),
    "hold.soap": N_("Soapy water"),
    "hold.read": N_("Read gauge"),
    "repair.find": N_("Find leak"),
    "repair.plug": N_("Plug"),
    "repair.patch": N_("Patch"),
    "repair.boot": N_("Boot"),
    "repair.valve": N_("Valve tight"),
    "set.pressure": N_("Set pressure"),
    "set.weigh": N_("Weigh"),
    "set.sign": N_("Sign"),
}


def step_name(key: str) -> str:
    """Return what a step is called in a few words, by its name in the log.

    >>> step_name("tape.lay"), step_name("tape.lay.2")
    ('Lay tape', 'Lay tape 2')
    """
    code = code_of(key)
    number = key.removeprefix(code).lstrip(".")
    return f"{tr(NAMES[code])} {number}".strip()


#: What is said of a probability, each up to the figure before it.
_WORDS = (
    (0.07, N_("hardly ever")),
    (0.15, N_("in one of ten cases")),
    (0.22, N_("in one of five cases")),
    (0.29, N_("in one of four cases")),
    (0.41, N_("in one of three cases")),
    (0.58, N_("in one of two cases")),
    (0.70, N_("in two of three cases")),
    (0.77, N_("in three of four cases")),
    (0.85, N_("in four of five cases")),
    (0.95, N_("in nine of ten cases")),
    (1.01, N_("nearly always")),
)


def odds_words(probability: float) -> str:
    """Return a probability as a mechanic says it.

    >>> odds_words(0.5), odds_words(0.66)
    ('in one of two cases', 'in two of three cases')
    """
    return tr(next(words for most, words in _WORDS if probability < most))


def suggested(state: PlannedWheel) -> tuple[Suggestion, ...]:
    """Return what to change before the next try at a wheel, best first."""
    plan = state.plan
    seating, wheel, methods = plan.log.seating, plan.log.state, plan.methods
    core_out = wheel.core == "out" or methods.core_out
    wet = wheel.wet == "yes" and bool(seating.tries)
    return suggestions(plan, seating.tries, methods.air_source, core_out, wet, state.shop_counts)


def seating_figure(plan: WheelPlan, units: UnitChoice) -> str:
    """Return by which step the beads are likely seated, before the climb; else how likely they are
    by the last.
    """
    ladder = plan.pressure.seating_kpa
    by = plan.seats.likely_by(ladder)
    if by is not None:
        return tr("likely by {kpa}").format(kpa=show(by, "kpa", units))
    percent = 100.0 * plan.seats.by(ladder[-1])
    return tr("{percent:.0f} % by {kpa}").format(
        kpa=show(ladder[-1], "kpa", units), percent=percent
    )


def seating_words(state: PlannedWheel) -> tuple[str, ...]:
    """Return how likely the next step seats a tire that stands at pressure, and how likely the best
    change does.
    """
    plan = state.plan
    log = plan.log
    best, odds = next(iter(suggested(state)), None), next_step_odds(plan)
    if (
        not stands_at_pressure(plan, log.seating.tries)
        or log.state.changed
        or best is None
        or odds is None
    ):
        return ()
    said = {
        "odds": odds_words(odds),
        "change": change_name(best.remedy),
        "others": odds_words(best.probability),
    }
    if best.probability / best.minutes > odds / STEP_MINUTES:
        return (tr("{change} first: {others}. Next step seats it: {odds}.").format(**said),)
    return (tr("Next step seats it: {odds}. {change}: {others}.").format(**said),)


def change_name(remedy: Remedy) -> str:
    """Return what is changed in two or three words."""
    if remedy in REMEDY_ACTIONS:
        return step_name(REMEDY_ACTIONS[remedy])
    return tr(_OF_THEIR_OWN[remedy])


#: Changes that are work of their own.
_OF_THEIR_OWN: dict[str, str] = {"layer": N_("Layer of tape"), "tube_first": N_("Seat with a tube")}


def suggestion_words(one: Suggestion) -> str:
    return tr("{change}: {percent:.0f} %").format(
        change=change_name(one.remedy), percent=100.0 * one.probability
    )
