"""A trace's and a hold's report as plain text."""

from inner_rim.core.models.holding import TREND_WORDS, VERDICT_WORDS
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.units import METRIC, UnitChoice, show
from inner_rim.words import tr

PUMP_SIDE = tr("The gauge is on the pump's side of the valve: every stroke shows. Read between strokes.")


def trace_text(found: JsonObject, choice: UnitChoice = METRIC) -> str:
    lines = [tr("Peak  {peak}").format(peak=show(found["peak_kpa"], "kpa", choice))]
    for pop in found["pops"]:
        lines.append(
            tr("Pop   at {time:.2f} s, {pressure}, fell by {drop}").format(
                time=pop["time_s"],
                pressure=show(pop["pressure_kpa"], "kpa", choice),
                drop=show(pop["drop_kpa"], "kpa", choice),
            )
        )
    if not found["pops"]:
        lines.append(tr("No pop was found"))
    if found["pump_side"]:
        lines.append(PUMP_SIDE)
    over = found["over_limit"]
    if over:
        lines.append(
            tr(
                "ABOVE THE LIMIT in {n} readings, first at {time:.2f} s: let it out and inspect the wheel"
            ).format(n=len(over), time=over[0]["time_s"])
        )
    return "\n".join(lines) + "\n"


def hold_text(found: JsonObject) -> str:
    lines = [
        tr("Loss     {loss:.1f} % a day, between {low:.1f} and {high:.1f}").format(
            loss=found["loss_percent_per_day"],
            low=found["low_percent_per_day"],
            high=found["high_percent_per_day"],
        ),
        tr("Verdict  {verdict}").format(verdict=tr(VERDICT_WORDS[found["verdict"]])),
        tr("Trend    {trend}").format(trend=tr(TREND_WORDS[found["trend"]])),
    ]
    if found["decides_at_h"] is not None:
        lines.append(
            tr("Read again {hours:.1f} h after the first reading").format(hours=found["decides_at_h"])
        )
    lines += [tr("Assumed  {what}").format(what=what) for what in found["assumed"]]
    return "\n".join(lines) + "\n"
