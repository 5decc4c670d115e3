"""The reports of a trace and of a leak test as plain text."""

from inner_rim.core.models.line_verdict import TREND_WORDS, VERDICT_WORDS
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.units import local_units, show
from inner_rim.words import N_, tr

PUMP_SIDE = N_(
    "The gauge is on the pump's side of the valve: every stroke shows. Read between strokes."
)


def trace_text(report: JsonObject) -> str:
    choice = local_units()
    lines = [tr("Peak  {peak}").format(peak=show(report["peak_kpa"], "kpa", choice))]
    for pop in report["pops"]:
        lines.append(
            tr("Pop   at {time:.2f} s, {pressure}, fell by {drop}").format(
                time=pop["time_s"],
                pressure=show(pop["pressure_kpa"], "kpa", choice),
                drop=show(pop["drop_kpa"], "kpa", choice),
            )
        )
    if not report["pops"]:
        lines.append(tr("No pop was found"))
    if report["pump_side"]:
        lines.append(tr(PUMP_SIDE))
    over = report["over_limit"]
    if over:
        lines.append(
            tr(
                "ABOVE THE LIMIT in {n} readings, first at {time:.2f} s: let it out and inspect the wheel"
            ).format(n=len(over), time=over[0]["time_s"])
        )
    return "\n".join(lines) + "\n"


def hold_text(report: JsonObject) -> str:
    loss = tr("{loss:.1f} % a day, between {low:.1f} and {high:.1f}").format(
        loss=report["loss_percent_per_day"],
        low=report["low_percent_per_day"],
        high=report["high_percent_per_day"],
    )
    lines = [
        tr("Loss     {what}").format(what=tr("too early to tell") if report["too_early"] else loss),
        tr("Verdict  {verdict}").format(verdict=tr(VERDICT_WORDS[report["verdict"]])),
        tr("Trend    {trend}").format(trend=tr(TREND_WORDS[report["trend"]])),
    ]
    if report["decides_at_h"] is not None:
        lines.append(
            tr("Read again {hours:.1f} h after the first reading").format(
                hours=report["decides_at_h"]
            )
        )
    lines += [tr("Assumed  {what}").format(what=what) for what in report["assumed"]]
    return "\n".join(lines) + "\n"
