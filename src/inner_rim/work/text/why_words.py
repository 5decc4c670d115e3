"""Why a figure is what it is: a sentence in the shop's words, the figures that decide, and what else
was possible with the reason it was not taken.
"""

from collections.abc import Mapping

import msgspec

from inner_rim.core.models.inflation import SOURCE_WORDS
from inner_rim.core.models.limit import (
    UNREAD_WORDS,
    hand_step_kpa,
    rounded_within,
    seating_ladder_kpa,
    seating_steps_kpa,
    settle_kpa,
)
from inner_rim.core.models.mounting import GRADE_WORDS, grade
from inner_rim.core.models.pressure import floor_kpa, printed_kpa
from inner_rim.core.models.tape import MAX_GAP_LISTED_MM, VERDICT_MEANING
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import TRADE, UnitChoice, show
from inner_rim.core.record.why import Why, label, value_text
from inner_rim.words import N_, tr

#: The figures that decide each pick, by its place in the plan: the first three that its trail has.
_DECIDE: tuple[tuple[str, ...], ...] = (
    ("tire_width_mm", "internal_width_mm", "mounted_width_mm"),
    ("developed_width_mm", "target_mm", "well_depth_mm"),
    (
        "rim_depth_at_the_valve_mm",
        "needed_mm",
        "thread_above_the_nut_mm",
        "nut_and_ring_mm",
        "pump_head_mm",
    ),
    ("share_of_height_percent", "tires_used", "rim_internal_width_mm", "tire_width_mm"),
    ("usable_well_mm", "last_section_mm", "slack_mm"),
    ("cavity_liter", "standard_dose_before_allowances_ml", "dose_ml"),
    ("printed_on_the_tire_kpa", "printed_on_the_rim_kpa", "hookless_limit_kpa"),
    ("nominal_width_mm", "step_1_kpa", "limit_kpa"),
    ("start_kpa", "last_step_kpa", "limit_kpa"),
    ("load_n", "drop_percent", "mounted_width_mm"),
)
DECIDING = 3
NOT_ENTERED, NO_MATTER = "not entered", "does not apply"


class Other(msgspec.Struct, frozen=True):
    """What else was possible, and why it was not taken."""

    what: str
    reason: str


class WhyPage(msgspec.Struct, frozen=True):
    """The why of a figure.

    Attributes:
        said: one sentence.
        decides: the figures that decide, each with its name.
        others: what else was possible.
    """

    said: str
    decides: tuple[tuple[str, str], ...]
    others: tuple[Other, ...]


def why_page(place: int, why: Why, plan: WheelPlan, units: UnitChoice) -> WhyPage:
    """Return the why of a pick, by its place in the plan."""
    makers = (_tire, _tape, _valve, _insert, _mounting, _sealant, _limit, _seat, _settle, _start)
    said, others = makers[place](plan, units)
    known = [name for name in _DECIDE[place] if why.figures.get(name, NO_MATTER) != NO_MATTER]
    figures = (
        (label(name), value_text(name, why.figures[name], units)) for name in known[:DECIDING]
    )
    return WhyPage(said, tuple(figures), tuple(others))


_Said = tuple[str, list[Other]]


def _by_method(found: Mapping[str, str | None], taken: str) -> list[Other]:
    """What the other methods would give; None where its figures were not entered."""
    uses = tr("the shop uses {method}").format(method=spoken(taken))
    return [
        Other(
            spoken(name) if value is None else f"{spoken(name)}: {value}",
            tr("not entered") if value is None else uses,
        )
        for name, value in found.items()
        if name != taken
    ]


def _tire(plan: WheelPlan, units: UnitChoice) -> _Said:
    tire, why = plan.tire, plan.tire.why
    said = tr(
        "The casing keeps its length: on a rim of {rim} inside, this tire comes out {mounted} wide."
    ).format(
        rim=show(plan.bed.internal_width_mm, "mm", units),
        mounted=show(tire.mounted_width_mm, "mm", units),
    )
    rule = why.others[0].read(units)
    return said, [Other(rule, tr("a rule of thumb; the casing's own length is nearer"))]


def _tape(plan: WheelPlan, units: UnitChoice) -> _Said:
    tape = plan.tape
    bed = show(tape.developed_width_mm, "mm", units)
    if not plan.setup.lays_tape:
        return tr("The old tape stays. Check it: damaged, it comes off."), []
    if tape.width_mm is None:
        said = tr("No tape on the shelf covers this bed, which is {bed} from wall to wall.")
        return said.format(bed=bed), _widths(plan, units)
    width = show(tape.width_mm, TRADE, units)
    if tape.strips == 2:
        said = tr(
            "The bed is {bed} from wall to wall, more than any tape on the shelf: two strips of {width}."
        )
    else:
        said = tr(
            "The bed is {bed} from wall to wall; {width} is nearest to what {method} asks for."
        )
    said = said.format(bed=bed, width=width, method=spoken(tape.method))
    methods = {
        name: None if picked is None else show(picked, TRADE, units)
        for name, picked in tape.by_method.items()
    }
    return said, [*_widths(plan, units), *_by_method(methods, tape.method)]


def _widths(plan: WheelPlan, units: UnitChoice) -> list[Other]:
    """The other widths on the shelf that come near."""
    tape, lines = plan.tape, []
    for option in tape.options:
        if option.width_mm == tape.width_mm or abs(option.edge_gap_mm) >= MAX_GAP_LISTED_MM:
            continue
        further = tr("further from {target}").format(target=show(tape.target_mm, "mm", units))
        reason = tr(VERDICT_MEANING[option.verdict]) or further
        lines.append(Other(show(option.width_mm, TRADE, units), reason))
    return lines


def _valve(plan: WheelPlan, units: UnitChoice) -> _Said:
    valve = plan.valve
    if plan.setup.keeps_valve:
        return tr("The valve that is in stays."), []
    if valve.needed_mm is None:
        return tr(
            "How long it must be follows from the rim's depth at the valve: measure that first."
        ), []
    need = show(valve.needed_mm, TRADE, units)
    if valve.length_mm is None:
        said = tr(
            "Rim, tape, nut and pump head need {need}, and no valve on the shelf is as long."
        ).format(need=need)
    else:
        said = tr(
            "Rim, tape, nut and pump head need {need}; {length} is the shortest that reaches."
        ).format(need=need, length=show(valve.length_mm, TRADE, units))
    lines = []
    for option in valve.options:
        if option.length_mm == valve.length_mm:
            continue
        if option.reaches is False:
            short = show(valve.needed_mm - option.length_mm, TRADE, units)
            reason = tr("{short} too short").format(short=short)
        else:
            said_of = (remark.read(units) for remark in option.remarks)
            reason = next(said_of, tr("longer than needed"))
        lines.append(Other(option.name or show(option.length_mm, TRADE, units), reason))
    return said, lines


def _insert(plan: WheelPlan, units: UnitChoice) -> _Said:
    insert = plan.insert
    if insert is None:
        return tr("No insert is fitted."), []
    if insert.verdict == "does_not_fit":
        return insert.reasons[0].read(units), []
    if insert.reasons:
        return tr("It fits, but: {what}").format(what=insert.reasons[0].read(units)), []
    return tr("Rim, tire and height are inside what the insert is made for."), []


def _mounting(plan: WheelPlan, units: UnitChoice) -> _Said:
    mounting = plan.mounting
    if mounting.grade == "unknown":
        low, high = (show(round(one), "mm", units) for one in mounting.band_mm)
        said = tr(
            "The well was not measured: the slack may be {low} or {high}, by hand or with levers."
        )
        said = said.format(low=low, high=high)
    else:
        said = tr(
            "With the bead down in the well, {slack} are left to lift the last section over: {grade}."
        ).format(slack=show(mounting.slack_mm, "mm", units), grade=tr(GRADE_WORDS[mounting.grade]))
    opposite = mounting.slack_mm - mounting.finish_at_valve_gain_mm
    rest = (
        (N_("bead on its seat: {slack}"), mounting.slack_off_well_mm),
        (N_("finish opposite the valve: {slack}"), opposite),
    )
    return said, [
        Other(
            tr(text).format(slack=show(slack, "mm", units) if slack > 0.0 else tr("none")),
            tr("less slack: {grade}").format(grade=tr(GRADE_WORDS[grade(slack)])),
        )
        for text, slack in rest
    ]


def _sealant(plan: WheelPlan, units: UnitChoice) -> _Said:
    sealant = plan.sealant
    said = tr(
        "{space} of space inside takes {dose}: {coat} coat the casing, {pool} stay liquid for a hole."
    ).format(
        space=show(plan.tire.cavity_ml / 1000.0, "liter", units),
        dose=show(sealant.dose_ml, "ml", units),
        coat=show(max(0.0, sealant.dose_ml - sealant.free_ml), "ml", units),
        pool=show(sealant.free_ml, "ml", units),
    )
    doses = {
        "lean": sealant.lean_ml,
        "standard": sealant.standard_ml,
        "generous": sealant.generous_ml,
        "label": sealant.label_ml,
    }
    shown = {
        name: None if dose is None else show(dose, "ml", units) for name, dose in doses.items()
    }
    return said, _by_method(shown, sealant.method)


def _limit(plan: WheelPlan, units: UnitChoice) -> _Said:
    pressure, figures = plan.pressure, plan.pressure.why_limit.figures
    rules = tr("The lowest figure rules: {limit}, {origin}.").format(
        limit=show(pressure.limit_kpa, "kpa", units), origin=value_text("set_by", figures["set_by"])
    )
    lines = []
    for name in ("printed_on_the_tire_kpa", "printed_on_the_rim_kpa", "hookless_limit_kpa"):
        value = figures[name]
        if isinstance(value, float | int) and value > pressure.limit_kpa:
            what = f"{label(name)}: {show(value, 'kpa', units)}"
            lines.append(Other(what, tr("higher: the lowest rules")))
        elif value == NOT_ENTERED:
            lines.append(Other(label(name), tr("not entered: counts as low")))
    if pressure.limit_from == "unread" and pressure.limit_part is not None:
        lines.append(
            Other(tr(UNREAD_WORDS[pressure.limit_part]), tr("until it is read off the part"))
        )
    return rules, lines


def _seat(plan: WheelPlan, units: UnitChoice) -> _Said:
    pressure, odds = plan.pressure, plan.seating_odds
    said = tr(
        "Steps that pull as hard on the bead as on any other width, never above {limit}."
    ).format(limit=show(pressure.limit_kpa, "kpa", units))
    steps = seating_ladder_kpa(plan.tire.nominal_width_mm)
    lines = [
        Other(show(step, "kpa", units), tr("above the limit"))
        for step in steps
        if step > pressure.limit_kpa
    ]
    for flow in odds.sources:
        core = tr("core out") if flow.core_out else tr("core in")
        share = tr("{words}: builds pressure in {n} of 10 such wheels")
        share = share.format(words=tr(flow.words), n=f"{10.0 * flow.probability:.0f}")
        own = tr("the shop's own") if flow.own else ""
        what = ", ".join(filter(None, (tr(SOURCE_WORDS[flow.source]), core, own)))
        lines.append(Other(what, share))
    return said, lines


def _settle(plan: WheelPlan, units: UnitChoice) -> _Said:
    pressure = plan.pressure
    if plan.setup.stays_seated:
        said = tr("The beads stay on their seats: it goes back to its riding pressure, {settle}.")
        return said.format(settle=show(pressure.settle_kpa, "kpa", units)), []
    said = tr("It stays at {settle} until the leak test passes, never above {limit}.").format(
        settle=show(pressure.settle_kpa, "kpa", units), limit=show(pressure.limit_kpa, "kpa", units)
    )
    printed = printed_kpa(plan.wheel)
    steps = seating_steps_kpa(plan.tire.nominal_width_mm, pressure.limit_kpa)
    found: dict[str, str | None] = {}
    for name in ("seating", "low", "printed"):
        if name == "printed" and printed is None:
            found[name] = None
            continue
        methods = msgspec.structs.replace(plan.methods, settle=name)
        start, limit, seated = pressure.start_kpa, pressure.limit_kpa, pressure.seated_kpa
        kpa = settle_kpa(methods, steps, start, limit, printed, seated)
        found[name] = show(kpa, "kpa", units)
    return said, _by_method(found, pressure.settle_method)


def _start(plan: WheelPlan, units: UnitChoice) -> _Said:
    pressure = plan.pressure
    if pressure.clamped == "limit":
        said = tr("This load asks for more than {start}, and that is the limit.")
    elif pressure.clamped is not None:
        said = tr("This load asks for less than {start}, and that is the least for this tire.")
    elif pressure.method == "drop":
        said = tr(
            "Under {load} the tire gives {drop} % of its width at {start}: firm, and not hard."
        )
    else:
        said = tr("{start} by {method}.")
    said = said.format(
        start=show(pressure.start_kpa, "kpa", units),
        load=show(pressure.load_n, "n", units),
        drop=f"{100.0 * pressure.drop_share:.0f}",
        method=spoken(pressure.method),
    )
    limit = pressure.limit_kpa
    usual = floor_kpa(plan.tire.nominal_width_mm)
    least = min(usual if pressure.minimum_kpa is None else pressure.minimum_kpa, limit)
    found: dict[str, str | None] = {}
    for name, kpa in pressure.by_method.items():
        if kpa is None:
            found[name] = None
            continue
        step = hand_step_kpa(kpa, pressure.gauge_step_kpa)
        found[name] = show(rounded_within(kpa, step, least, limit), "kpa", units)
    return said, _by_method(found, pressure.method)
