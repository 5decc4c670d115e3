"""Traces and hold readings from files, for the command line and for scripts, and their reports as
plain text.
"""

import itertools
import math
from pathlib import Path

from inner_rim.core.models.holding import EmptyTire, HoldReading, TooFew, counted_from, hold_report
from inner_rim.core.models.line_verdict import TREND_WORDS, VERDICT_WORDS, OneMoment
from inner_rim.core.models.pops import analyse
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.units import local_units, show
from inner_rim.documents.csv_text import MAX_FILE_BYTES, read_columns
from inner_rim.words import N_, tr
from inner_rim.work.planning import plain
from inner_rim.work.storage.files import read_whole
from inner_rim.work.tasks.gauge import PUMP_SIDE

TRACE_BOUNDS = {"time_s": (-1e9, 1e9), "pressure_kpa": (-200.0, 10_000.0)}
HOLD_BOUNDS = {"time_h": (-1e6, 1e6), "pressure_kpa": (0.0, 5000.0), "temperature_c": (-60.0, 90.0)}


def trace_document(path: Path, limit_kpa: float | None = None) -> JsonObject:
    """Return peak, pops and readings above the limit of a trace file, as plain data.

    Raises:
        InputError: the file is not a trace.
    """
    columns = read_columns(read_whole(path, MAX_FILE_BYTES), TRACE_BOUNDS, "time_s", strictly=True)
    return dict(plain(analyse(columns["time_s"], columns["pressure_kpa"], limit_kpa)))


def hold_document(
    path: Path,
    volume_ml: float,
    gauge_ml: float,
    resolution_kpa: float,
    ambient_kpa: float,
    step_kpa: float | None = None,
    new_tire: bool = False,
) -> JsonObject:
    """Return loss, interval, verdict, trend, when the next reading decides and what was assumed, as
    plain data.

    Raises:
        InputError: the file holds no readings of a leak test.
    """
    optional = frozenset({"temperature_c"} if step_kpa is not None else ())
    columns = read_columns(
        read_whole(path, MAX_FILE_BYTES), HOLD_BOUNDS, "time_h", strictly=False, optional=optional
    )
    readings = [
        HoldReading(time_h, kpa, None if math.isnan(celsius) else celsius)
        for time_h, kpa, celsius in zip(*(columns[name] for name in HOLD_BOUNDS), strict=True)
    ]
    if all(b.time_h >= a.time_h for a, b in itertools.pairwise(readings)):
        first = counted_from(
            readings, resolution_kpa=resolution_kpa, ambient_kpa=ambient_kpa, step_kpa=step_kpa
        )
        readings = readings[first:]
    try:
        report = hold_report(
            readings,
            volume_ml,
            gauge_ml=gauge_ml,
            resolution_kpa=resolution_kpa,
            ambient_kpa=ambient_kpa,
            step_kpa=step_kpa,
            new_tire=new_tire,
        )
    except (TooFew, OneMoment, EmptyTire) as fault:
        raise InputError(tr(_HOLD_FAULTS[type(fault)])) from fault
    result = {**plain(report), "too_early": report.too_early}
    return {name: result[name] for name in HOLD_NAMES}


HOLD_NAMES = (
    "loss_percent_per_day",
    "low_percent_per_day",
    "high_percent_per_day",
    "verdict",
    "trend",
    "decides_at_h",
    "assumed",
    "too_early",
)
_HOLD_FAULTS: dict[type[ValueError], str] = {
    TooFew: N_("column time_h: it takes two readings or more"),
    OneMoment: N_("column time_h: all readings are of one moment; use two different times"),
    EmptyTire: N_("column pressure_kpa: the tire is empty (1 kPa at 20 °C is the least)"),
}


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
