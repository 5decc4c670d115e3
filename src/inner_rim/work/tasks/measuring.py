"""Traces and hold readings from files, for the command line and for scripts."""

import math
from pathlib import Path

from inner_rim.core.models.holding import EmptyTire, HoldReading, TooFew, hold_report
from inner_rim.core.models.line_verdict import OneMoment
from inner_rim.core.models.trace import analyse
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.paths import JsonObject
from inner_rim.documents.csv_text import MAX_FILE_BYTES, read_columns
from inner_rim.words import N_, tr
from inner_rim.work.storage.files import read_whole
from inner_rim.work.tasks.planning import plain

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
