"""Leak test: what the readings say, where it bubbles."""

from inner_rim.core.models.forecast import forecast_kpa, hours_until_kpa
from inner_rim.core.models.holding import HoldReport
from inner_rim.core.models.line_verdict import TREND_WORDS, VERDICT_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.diagnosis import LEAK_MEANING, LEAK_WORDS
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.lines import ListLine, LogChoice, Tone, head

MORNING_HOURS = 12.0
_VERDICT_TONES: dict[str, Tone] = {"holds": "calm", "settling": "caution", "leaks": "stop"}


def hold_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    progress = state.progress
    result: list[ListLine] = []
    report = progress.holding.report if progress else None
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
                chip=tr(report.verdict),
                tone=_VERDICT_TONES[report.verdict],
            ),
            ListLine(tr(TREND_WORDS[report.trend]), tr("Trend")),
            *_forecast(plan, report, units),
        ]
    if progress is not None and progress.holding.readings:
        result.append(head(tr("Readings")))
        before = len(progress.holding.readings) - progress.holding.counted
        for i, (at, kpa, air) in enumerate(progress.holding.readings):
            clock = in_words(local(moment(at)), "%a %H:%M")
            at20 = report.p20_kpa[i - before] if report is not None and i >= before else None
            note = show(air, "c", units) if air is not None else tr("air temperature not entered: 20 °C assumed")
            right = tr("{p} at 20 °C").format(p=show(at20, "kpa", units)) if at20 is not None else ""
            result.append(ListLine(show(kpa, "kpa", units), clock, note=note, right=right))
    result.append(head(tr("Where does it bubble?"), tr("soapy water; Enter logs it")))
    here = progress.holding.leak if progress else ""
    result += [
        ListLine(
            tr(words),
            note=tr(LEAK_MEANING[place]),
            chip=tr("seen") if place == here else "",
            key=LogChoice("leak", place),
        )
        for place, words in LEAK_WORDS.items()
    ]
    if plan.setup.takes_sealant:
        result.append(
            ListLine(
                tr("Sealant added…"), note=tr("Side walls that weep take some more"), key=LogChoice("care", "refilled")
            )
        )
    return result


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
