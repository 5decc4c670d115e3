"""Sealant: doses by method, the dipstick table."""

from collections.abc import Mapping
from typing import Literal

from inner_rim.core.models.holding import HoldReport
from inner_rim.core.models.inflation import GAP_MM, SOURCE_WORDS
from inner_rim.core.models.line_verdict import (
    TREND_WORDS,
    VERDICT_WORDS,
    forecast_kpa,
    hours_until_kpa,
)
from inner_rim.core.models.pressure import RIDE_WORDS, moved_kpa
from inner_rim.core.models.sealant import dip_table, pool_radii_mm
from inner_rim.core.plan.advisor import (
    REMEDY_WORDS,
    STEP_MINUTES,
    Suggestion,
    gap_seen,
    judged_gap_mm,
    next_step_odds,
    stands_at_pressure,
)
from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.diagnosis import LEAK_MEANING, LEAK_WORDS
from inner_rim.core.record.log import CareWord
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.choices.parts import method_lines, ways
from inner_rim.work.text.lines import FieldChoice, ListLine, LogChoice, Tone, head
from inner_rim.work.text.odds import odds_words, suggested
from inner_rim.work.text.stage_fields import CORE_IN, INJECT_WHEN, REST_FLAT

DIP_ROWS = 60


def sealant_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """Return the doses by method, and the dipstick table."""
    plan = state.plan
    sealant = plan.sealant
    result = [
        head(
            tr("Dose"),
            tr("{free} pool, the rest coats the casing").format(
                free=show(sealant.free_ml, "ml", units)
            ),
        )
    ]
    for name, value in (
        ("lean", sealant.lean_ml),
        ("standard", sealant.standard_ml),
        ("generous", sealant.generous_ml),
        ("label", sealant.label_ml),
    ):
        result.append(
            ListLine(
                show(value, "ml", units) if value is not None else tr("not entered"),
                tr(name),
                note=tr(REASONS[name]),
                chip=tr("used") if name == sealant.method else "",
                key=FieldChoice("practice.dose", name),
            )
        )
    result += [
        ListLine("+" + show(value, "ml", units), tr(name), note=tr("allowance"), tone="muted")
        for name, value in sealant.allowances_ml.items()
    ]
    loads = " + ".join(show(x, "ml", units, symbol=False) for x in sealant.loads_ml)
    result.append(ListLine(loads, tr("Injector")))
    if plan.setup.route == "inject" and plan.setup.tire_goes_on:
        result += ways(plan, "inject_when", INJECT_WHEN)
    if plan.setup.route == "inject":
        result += ways(plan, "core_in", CORE_IN)
    result.append(head(tr("Dipstick"), _dip_words(state)))
    result += dip_lines(state, units)
    return result


def _dip_words(state: PlannedWheel) -> str:
    factor = state.plan.log.dip_factor
    if factor == 1.0:
        return tr("by the round section; a dip right after dosing calibrates it")
    return tr("calibrated by a dip right after dosing (× {factor:.2f})").format(factor=factor)


def dip_lines(state: PlannedWheel, units: UnitChoice, rows: int = DIP_ROWS) -> list[ListLine]:
    """Return the dipstick table of this wheel: depth to free sealant."""
    plan = state.plan
    factor = state.plan.log.dip_factor
    radius, ring = pool_radii_mm(plan.tire, state.wheel.rim.bead_seat_diameter_mm)
    return [
        ListLine(show(ml, "ml", units), show(depth / factor, "mm", units), tone="muted")
        for depth, ml in dip_table(radius, ring, rows)
    ]


def seat_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """Return which source seats the beads, and what the tries say of the gap."""
    plan = state.plan
    coming = plan.seating_odds
    result = [head(tr("What seats the beads"), tr("{gap} bead").format(gap=tr(coming.gap)))]
    for source in coming.sources:
        result.append(
            ListLine(
                tr("{percent:.0f} %").format(percent=100.0 * source.probability),
                tr(SOURCE_WORDS[source.source]),
                note=tr("core out") if source.core_out else tr("core in"),
                chip=tr(source.words),
                tone="calm" if source.words == "likely" else "caution",
                share=source.probability,
            )
        )
    seen = gap_seen(plan, state.progress.seating.tries)
    if seen.above_mm is not None or seen.below_mm is not None:
        gap = judged_gap_mm(coming, seen)
        result.append(
            ListLine(
                tr("{times:.1f} times the usual").format(times=gap / GAP_MM[coming.gap]),
                tr("Gap"),
                note=tr("under the bead, as the tries on this wheel show it"),
            )
        )
    return result


def suggested_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """What to change next, best first; taking a line plans it before the next try."""
    plan = state.plan
    chosen = sorted(plan.log.state.wanted | plan.log.state.changed)
    result = [
        head(tr("What to change next"), tr("most likely for its minutes first; Enter plans it"))
    ]
    result += [
        ListLine(
            tr(REMEDY_WORDS[remedy]),
            chip=tr("chosen"),
            tone="calm",
            key=LogChoice("change", remedy),
        )
        for remedy in chosen
    ]
    odds, ranked = next_step_odds(plan), suggested(state)
    step = None
    if odds is not None and stands_at_pressure(plan, plan.log.seating.tries):
        step = ListLine(
            tr("Next pressure step"), note=tr("seats it {odds}").format(odds=odds_words(odds))
        )
    for suggestion in ranked:
        if suggestion.remedy in chosen:
            continue
        if (
            step is not None
            and suggestion.probability / suggestion.minutes <= (odds or 0.0) / STEP_MINUTES
        ):
            result.append(step)
            step = None
        result.append(_suggestion_line(suggestion, units))
    return result if step is None else [*result, step]


def _suggestion_line(suggestion: Suggestion, units: UnitChoice) -> ListLine:
    note = tr("{odds}: {reason}").format(
        odds=odds_words(suggestion.probability), reason=suggestion.why.read(units)
    )
    if suggestion.counted:
        note += tr(" · here it worked {n} of {all} times").format(
            n=suggestion.worked, all=suggestion.counted
        )
    return ListLine(
        suggestion.text.read(units),
        note=note,
        chip=tr("tried") if suggestion.tried else "",
        tone="caution" if suggestion.tried else "calm",
        key=LogChoice("change", suggestion.remedy),
    )


MORNING_HOURS = 12.0
_VERDICT_TONES: dict[str, Tone] = {
    "holds": "calm",
    "settling": "caution",
    "no_line": "caution",
    "leaks": "stop",
}


def hold_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    plan = state.plan
    progress = state.progress
    result: list[ListLine] = []
    report = progress.holding.report
    if report is not None and report.too_early:
        result.append(head(tr("What the readings say"), tr("Too early to tell. Spin it.")))
    elif report is not None:
        result += [
            head(tr("What the readings say"), tr(VERDICT_WORDS[report.verdict])),
            ListLine(
                tr("{loss:.1f} % a day").format(loss=report.loss_percent_per_day),
                tr("Loss"),
                note=tr("between {low:.1f} and {high:.1f}, nine times in ten").format(
                    low=report.low_percent_per_day, high=report.high_percent_per_day
                ),
                chip=spoken(report.verdict),
                tone=_VERDICT_TONES[report.verdict],
            ),
            ListLine(tr(TREND_WORDS[report.trend]), tr("Trend")),
            *_forecast(plan, report, units),
        ]
    if progress.holding.readings:
        result.append(head(tr("Readings")))
        before = len(progress.holding.readings) - progress.holding.counted
        for i, (at, kpa, air) in enumerate(progress.holding.readings):
            clock = in_words(local(moment(at)), "%a %H:%M")
            at20 = report.p20_kpa[i - before] if report is not None and i >= before else None
            note = (
                show(air, "c", units)
                if air is not None
                else tr("air temperature not entered: 20 °C assumed")
            )
            right = (
                tr("{p} at 20 °C").format(p=show(at20, "kpa", units)) if at20 is not None else ""
            )
            result.append(ListLine(show(kpa, "kpa", units), clock, note=note, right=right))
    step = progress.step
    if (
        step is not None
        and step.code == "hold.read"
        and (report is None or report.verdict != "leaks")
    ):
        result += [
            head(tr("Instead of a reading")),
            ListLine(
                tr("Ride it, then set the pressure"),
                note=tr("riding spreads the sealant; the log says that no reading ended the test"),
                key=LogChoice("ridden", "hold"),
            ),
        ]
    if plan.setup.watch == "overnight":
        result += ways(plan, "rest_flat", REST_FLAT)
    result.append(head(tr("Where does it bubble?"), tr("soapy water; Enter logs it")))
    here = progress.holding.leak
    for place, words in LEAK_WORDS.items():
        if place == "bead":
            result += [
                _leak(place, tr("Along the left bead"), here, "left"),
                _leak(place, tr("Along the right bead"), here, "right"),
            ]
        elif place != "side_wall":
            result.append(_leak(place, tr(words), here))
    if plan.setup.takes_sealant:
        result.append(
            ListLine(
                tr("Sealant added…"),
                note=tr("Side walls that weep take some more"),
                key=LogChoice("care", "refilled"),
            )
        )
    return result


def _leak(
    place: str, words: str, here: str, side: Literal["left", "right"] | None = None
) -> ListLine:
    chip = tr("seen") if place == here else ""
    return ListLine(
        words, note=tr(LEAK_MEANING[place]), chip=chip, key=LogChoice("leak", place, side)
    )


def _forecast(plan: WheelPlan, report: HoldReport, units: UnitChoice) -> list[ListLine]:
    """Tomorrow's pressure, and how long it stays above the minimum."""
    last, loss = report.p20_kpa[-1], report.loss_percent_per_day
    if loss >= 100.0:
        return []
    result = [
        ListLine(
            show(max(0.0, forecast_kpa(last, loss, MORNING_HOURS, 20.0)), "kpa", units),
            tr("In 12 hours"),
            note=tr("at 20 °C, at this rate"),
        )
    ]
    if plan.pressure.minimum_kpa is not None:
        hours = hours_until_kpa(last, loss, plan.pressure.minimum_kpa)
        words = (
            tr("never, as it is")
            if hours is None
            else tr("now")
            if hours == 0.0
            else tr("in {days:.1f} days").format(days=hours / 24.0)
        )
        result.append(ListLine(words, tr("At minimum")))
    return result


CLAMPED_WORDS = {
    "limit": N_("at the limit"),
    "minimum": N_("raised to the tire's minimum"),
    "floor": N_("raised to the usual minimum"),
}


METHOD_WORDS = {"drop": N_("drop"), "previous": N_("worked before"), "range": N_("printed range")}


def set_lines(
    state: PlannedWheel, units: UnitChoice, plans: Mapping[str, WheelPlan]
) -> list[ListLine]:
    """Return the riding pressure by method, what a test ride may say, and the history."""
    plan = state.plan
    pressure = plan.pressure
    result = [
        head(
            tr("Riding pressure by method"),
            tr("load {load} on this wheel").format(load=show(pressure.load_n, "n", units)),
        )
    ]
    result += method_lines(
        "practice.start_pressure",
        METHOD_WORDS,
        pressure.by_method,
        pressure.method,
        "kpa",
        units,
        tr("unknown"),
    )
    result += _bicycle(state.wheel_id, plans, units)
    result += [*_ridden(state, units), *care_lines(state, units)]
    if pressure.clamped:
        words = tr(CLAMPED_WORDS[pressure.clamped])
        result.append(ListLine(words, tr("Clamped"), tone="caution", chip=tr("clamped")))
    result.append(
        ListLine(
            show(pressure.set_here_kpa, "kpa", units),
            tr("Set here"),
            note=tr("that is {ride} on the ride").format(
                ride=show(pressure.at_ride_kpa, "kpa", units)
            ),
        )
    )
    return result


def _bicycle(mine: str, plans: Mapping[str, WheelPlan], units: UnitChoice) -> list[ListLine]:
    """The riding pressure and the load of each wheel of the bicycle."""
    if len(plans) < 2:
        return []
    result = [head(tr("The bicycle"), tr("riding pressure and load of each wheel"))]
    for wheel_id, plan in plans.items():
        result.append(
            ListLine(
                plan.name,
                show(plan.pressure.start_kpa, "kpa", units),
                note=tr("load {load} · never above {limit}").format(
                    load=show(plan.pressure.load_n, "n", units),
                    limit=show(plan.pressure.limit_kpa, "kpa", units),
                ),
                chip=tr("this one") if wheel_id == mine else "",
            )
        )
    return result


def _ridden(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """What a test ride may say, and where it would put the pressure; the history of the wheel."""
    plan = state.plan
    now = state.worked_kpa
    step = plan.pressure.gauge_step_kpa
    result = [
        head(
            tr("After a test ride"),
            tr("ridden at {now}; Enter logs it").format(now=show(now, "kpa", units)),
        )
    ]
    for said, words in RIDE_WORDS.items():
        then = moved_kpa(now, said, plan.pressure, step)
        result.append(
            ListLine(
                tr(words),
                note=tr("stays")
                if then == now
                else tr("then {then}").format(then=show(then, "kpa", units)),
                key=LogChoice("ride", said),
            )
        )
    past = pressure_history(plan)
    if past:
        result.append(head(tr("What this wheel was ridden at")))
        result += [
            ListLine(show(kpa, "kpa", units), in_words(local(moment(at)), "%d %b"), note=tr(words))
            for at, kpa, words in past
        ]
    return result


CARE_WORDS: dict[CareWord, str] = {
    "refilled": N_("Sealant topped up…"),
    "retaped": N_("Retaped"),
    "tire_changed": N_("Another tire"),
    "insert_changed": N_("Another insert"),
    "checked": N_("Inspected: all good"),
}


def care_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    plan = state.plan
    due = due_care(state.wheel, plan)
    result = [head(tr("Aftercare"), tr("Enter logs it; the dates follow"))]
    result += [ListLine(care.words.read(units), in_words(care.day, "%d %b %Y")) for care in due]
    result += [
        ListLine(tr(words), key=LogChoice("care", what)) for what, words in CARE_WORDS.items()
    ]
    return result


def pressure_history(plan: WheelPlan) -> list[tuple[str, float, str]]:
    """Return (when, kPa, why) of every pressure a wheel was handed over or ridden at, newest first."""
    words = {"": N_("handed over"), **RIDE_WORDS}
    return [(at, kpa, words[said]) for at, kpa, said in reversed(plan.log.since.pressures)]
