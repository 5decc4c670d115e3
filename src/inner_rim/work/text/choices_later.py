"""Choices from the first stroke on: what brings the beads up, what to change, how it holds, what it is ridden at."""

from inner_rim.core.models.feedback import RIDE_WORDS, moved_kpa
from inner_rim.core.models.holding import (
    TREND_WORDS,
    VERDICT_WORDS,
    HoldReport,
    forecast_kpa,
    hours_until_kpa,
)
from inner_rim.core.models.inflation import GAP_MM, SOURCE_WORDS
from inner_rim.core.plan.advisor import gap_seen, judged_gap_mm, suggestions
from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.diagnosis import LEAK_MEANING, LEAK_WORDS
from inner_rim.core.record.log import CareWord, Feedback, Logged, SignOff
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.lines import Line, Tone, head

MORNING_HOURS = 12.0
CLAMPED_WORDS = {
    "limit": tr("held at the limit"),
    "minimum": tr("raised to the printed minimum"),
    "floor": tr("raised to the usual minimum"),
}
_VERDICT_TONES: dict[str, Tone] = {"holds": "calm", "settling": "caution", "leaks": "stop"}
METHOD_WORDS = {"drop": "drop", "previous": "worked before", "range": "printed range"}


def seat_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """Return which source brings the beads up, and what the tries say of the gap."""
    coming = plan.coming_up
    found = [
        head(
            tr("What brings the beads up"),
            tr("{gap} bead: {needed:.1f} l/s needed").format(gap=tr(coming.gap), needed=coming.needed_l_s),
        )
    ]
    for source in coming.sources:
        found.append(
            Line(
                tr("{percent:.0f} %").format(percent=100.0 * source.probability),
                tr(SOURCE_WORDS[source.source]),
                note=tr("core out") if source.core_out else tr("core in"),
                chip=tr(source.words),
                tone="calm" if source.words == "likely" else "caution",
            )
        )
    seen = gap_seen(state.progress.seating.tries if state.progress else (), plan.tire.bead_seat_diameter_mm)
    if seen.above_mm is not None or seen.below_mm is not None:
        gap = judged_gap_mm(coming, seen)
        found.append(
            Line(
                tr("about {gap:.3f} mm").format(gap=gap),
                tr("Gap"),
                note=tr("what the tries on this wheel say; {usual:.3f} mm is usual for this fit").format(
                    usual=GAP_MM[coming.gap]
                ),
            )
        )
    return found


def suggested_lines(
    state: WheelState, plan: WheelPlan, units: UnitChoice, changed: tuple[str, ...]
) -> list[Line]:
    """What to change next, best first; taking a line marks it as changed for the next try."""
    methods = plan.methods
    tries = state.progress.seating.tries if state.progress else ()
    source, core_out, wet = methods.air_source, methods.core_out, methods.lubricant != "none"
    found = [head(tr("What to change next"), tr("cheapest first; Enter marks it as changed"))]
    for suggestion in suggestions(plan, tries, source, core_out, wet and bool(tries), state.shop_counts):
        note = suggestion.why.read(units)
        if suggestion.counted:
            note += tr(" · here it worked {n} of {all} times").format(
                n=suggestion.worked, all=suggestion.counted
            )
        marked = suggestion.remedy in changed
        found.append(
            Line(
                suggestion.text.read(units),
                note=note,
                chip=tr("changed") if marked else tr("tried") if suggestion.tried else "",
                tone="caution" if suggestion.tried and not marked else "calm",
                key=f"change={suggestion.remedy}",
            )
        )
    return found


def hold_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """Return what the readings say, what is to be expected, and where it may bubble."""
    progress = state.progress
    found: list[Line] = []
    report = progress.holding.report if progress else None
    if progress is not None and report is not None:
        found += [
            head(tr("What the readings say"), tr(VERDICT_WORDS[report.verdict])),
            Line(
                tr("{loss:.1f} % a day").format(loss=report.loss_percent_per_day),
                tr("Loss"),
                note=tr("between {low:.1f} and {high:.1f}, nine times in ten").format(
                    low=report.low_percent_per_day, high=report.high_percent_per_day
                ),
                chip=tr(report.verdict),
                tone=_VERDICT_TONES[report.verdict],
            ),
            Line(tr(TREND_WORDS[report.trend]), tr("Trend")),
            *_forecast(plan, report, units),
        ]
    if progress is not None and progress.holding.readings:
        found.append(head(tr("Readings")))
        for i, (at, kpa, air) in enumerate(progress.holding.readings):
            clock = in_words(local(moment(at)), "%a %H:%M")
            at20 = (
                report.p20_kpa[i]
                if report is not None and len(report.p20_kpa) == len(progress.holding.readings)
                else None
            )
            note = show(air, "c", units) if air is not None else tr("air not read: 20 °C assumed")
            right = tr("{p} at 20 °C").format(p=show(at20, "kpa", units)) if at20 is not None else ""
            found.append(Line(show(kpa, "kpa", units), clock, note=note, right=right))
    found.append(head(tr("Where does it bubble?"), tr("soapy water; Enter logs it")))
    here = progress.holding.leak if progress else ""
    found += [
        Line(
            tr(words),
            note=tr(LEAK_MEANING[place]),
            chip=tr("seen") if place == here else "",
            key=f"leak={place}",
        )
        for place, words in LEAK_WORDS.items()
    ]
    return found


def _forecast(plan: WheelPlan, report: HoldReport, units: UnitChoice) -> list[Line]:
    """Tomorrow's pressure, and how long it stays above the minimum."""
    last, loss = report.p20_kpa[-1], report.loss_percent_per_day
    if loss >= 100.0:
        return []
    found = [
        Line(
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
        found.append(Line(words, tr("At minimum")))
    return found


def set_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """Return the starting pressure by method, what a test ride may say, and the history."""
    pressure = plan.pressure
    found = [
        head(
            tr("Starting pressure by method"),
            tr("load {load} on this wheel").format(load=show(pressure.load_n, "n", units)),
        )
    ]
    for name, value in pressure.by_method.items():
        found.append(
            Line(
                show(value, "kpa", units) if value is not None else tr("unknown"),
                tr(METHOD_WORDS[name]),
                note=tr(REASONS[name]),
                chip=tr("used") if name == pressure.method else "",
                key=f"practice.start_pressure={name}",
            )
        )
    found += _bicycle(state, units)
    found += [*_ridden(state, plan, units), *care_lines(state, plan, units)]
    if pressure.clamped:
        words = CLAMPED_WORDS[pressure.clamped]
        found.append(Line(words, tr("Clamped"), tone="caution", chip=tr("clamped")))
    found.append(
        Line(
            show(pressure.set_here_kpa, "kpa", units),
            tr("Set here"),
            note=tr("that is {ride} on the ride").format(ride=show(pressure.at_ride_kpa, "kpa", units)),
        )
    )
    return found


def _bicycle(state: WheelState, units: UnitChoice) -> list[Line]:
    """Front and rear side by side: start, load, and what to set here, of every wheel of the job."""
    order = [str(wheel.get("wheel_id")) for wheel in state.job.draft.document["wheels"]]
    known = state.job.last_plans
    plans = [(wheel_id, known[wheel_id]) for wheel_id in order if wheel_id in known]
    if len(plans) < 2:
        return []
    found = [head(tr("The bicycle"), tr("start and load of each wheel"))]
    for wheel_id, (wheel, _job, plan) in plans:
        found.append(
            Line(
                wheel.name,
                show(plan.pressure.start_kpa, "kpa", units),
                note=tr("load {load} · never above {limit}").format(
                    load=show(plan.pressure.load_n, "n", units),
                    limit=show(plan.pressure.limit_kpa, "kpa", units),
                ),
                chip=tr("this one") if wheel_id == state.wheel_id else "",
            )
        )
    return found


def _ridden(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """What a test ride may say, and where it would put the pressure; the history of the wheel."""
    progress = state.progress
    if progress is None:
        return []
    now = progress.feedback_kpa or progress.ride_kpa or plan.pressure.start_kpa
    step = plan.pressure.gauge_step_kpa
    found = [
        head(
            tr("After a test ride"),
            tr("ridden at {now}; Enter logs it").format(now=show(now, "kpa", units)),
        )
    ]
    for said, words in RIDE_WORDS.items():
        then = moved_kpa(now, said, plan.pressure, step)
        found.append(
            Line(
                tr(words),
                note=tr("stays") if then == now else tr("then {then}").format(then=show(then, "kpa", units)),
                key=f"ride={said}",
            )
        )
    past = pressure_history(state.log)
    if past:
        found.append(head(tr("What this wheel was ridden at")))
        found += [
            Line(show(kpa, "kpa", units), in_words(local(moment(at)), "%d %b"), note=tr(words))
            for at, kpa, words in past
        ]
    return found


CARE_WORDS: dict[CareWord, str] = {
    "refilled": "Sealant refreshed",
    "retaped": "Retaped",
    "tire_changed": "Another tire",
    "insert_changed": "Another insert",
    "checked": "Inspected, all well",
}


def care_lines(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    """Return what is due on this wheel, and what may be written down as done."""
    assert state.wheel is not None
    due = due_care(state.wheel, plan, state.log)
    found = [head(tr("Looking after"), tr("Enter logs it; the dates follow"))]
    found += [Line(care.words.read(units), f"{care.day:%d %b %Y}") for care in due]
    found += [Line(tr(words), key=f"care={what}") for what, words in CARE_WORDS.items()]
    return found


def pressure_history(log: list[Logged]) -> list[tuple[str, float, str]]:
    """Return (when, kPa, why) of every pressure a wheel was handed over or ridden at, newest first."""
    found: list[tuple[str, float, str]] = []
    for item in log:
        if isinstance(item.entry, SignOff):
            found.append((item.at, item.entry.pressure_kpa, "handed over"))
        elif isinstance(item.entry, Feedback):
            found.append((item.at, item.entry.pressure_kpa, RIDE_WORDS[item.entry.said]))
    return found[::-1]
