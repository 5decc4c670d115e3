"""Plots as plain data: how a wheel holds air, and the pressures of its visits. Their words are made
here.
"""

from __future__ import annotations

import math
from datetime import datetime, timedelta

import msgspec

from inner_rim.core.models.air import KELVIN_AT_ZERO_C
from inner_rim.core.models.holding import HoldReading, HoldReport, tells_after_h
from inner_rim.core.models.line_verdict import (
    HOLDS_UP_TO,
    HOURS_PER_DAY,
    REFERENCE_K,
    expected_kpa,
    normalised_kpa,
)
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.progress.progress import Holding
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.store.rows import StoredVisit
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.shelf_lines import Mark, Topic
from inner_rim.work.text.wheel_words import span_words

Point = tuple[float, float]
#: When the shop reads wheels that were left overnight.
MORNING_H = 8
#: Points of a band, ticks on an axis, and the air above and below what is shown, as a share.
BAND_POINTS, TICKS, AIR = 41, 4, 0.12
MIN_HOURS = 2.0
#: How long a wheel is left before anything is read.
NIGHT_HOURS = 12.0
#: How many times as high as the picture a line is drawn, where it leaves it: a painter takes no
#: figure of any size.
FAR_OUT = 10.0


class Level(msgspec.Struct, frozen=True):
    y: float
    words: str
    purpose: str


class Moment(msgspec.Struct, frozen=True):
    x: float
    words: str


class Plot(msgspec.Struct, frozen=True):
    """A plot.

    Attributes:
        x_range, y_range: the ends of both axes, x in its own unit, y in the unit that is shown.
        band: (x, low, high), nine times in ten, along a line.
        spans: the same of single dots.
    """

    title: str
    note: str = ""
    x_range: tuple[float, float] = (0.0, 1.0)
    y_range: tuple[float, float] = (0.0, 1.0)
    x_ticks: tuple[tuple[float, str], ...] = ()
    y_ticks: tuple[tuple[float, str], ...] = ()
    dots: tuple[Point, ...] = ()
    line: tuple[Point, ...] = ()
    band: tuple[tuple[float, float, float], ...] = ()
    spans: tuple[tuple[float, float, float], ...] = ()
    levels: tuple[Level, ...] = ()
    moments: tuple[Moment, ...] = ()


def plot_of(
    state: PlannedWheel | None, stage: str, visits: tuple[StoredVisit, ...], units: UnitChoice
) -> Plot:
    """Return what is plotted at a stage: the leak test while it runs, else the pressures of its
    visits.
    """
    if state is None:
        return Plot(tr("Nothing to show yet"), tr("Type rim and tire first."))
    holding = state.progress.holding
    if stage == "hold" or (holding.readings and stage != "check_in" and not visits):
        return hold_plot(state.plan, holding, units)
    return visits_plot(state.plan, visits, units)


def hold_plot(plan: WheelPlan, holding: Holding, units: UnitChoice) -> Plot:
    """Return the readings at 20 °C, their line with its 90 % band up to the next morning, and what
    decides.
    """
    title = tr("Leak test, at 20 °C")
    factor = units.unit("kpa").factor
    if holding.counted < 2:
        return _before_the_second(plan, holding, title, units)
    report, counted = holding.report, holding.readings[-holding.counted :]
    shown = (
        report.p20_kpa
        if report is not None
        else tuple(_at_20(kpa, air, plan) for _at, kpa, air in counted)
    )
    began = moment(counted[0][0])
    dots = tuple(
        (_hours(began, moment(at)), kpa) for (at, _kpa, _c), kpa in zip(counted, shown, strict=True)
    )
    decides = _hours(began, moment(holding.next_reading_at)) if holding.next_reading_at else None
    morning = _hours(began, _next_morning(moment(counted[-1][0])))
    end = max(morning, decides or 0.0, dots[-1][0], MIN_HOURS)
    band: tuple[tuple[float, float, float], ...] = ()
    line: tuple[Point, ...] = ()
    if report is not None:
        times = [end * i / (BAND_POINTS - 1) for i in range(BAND_POINTS)]
        known = [(at, *expected_kpa(report.line, at)) for at in times]
        line = tuple((at, mid) for at, _low, mid, _high in known)
        band = tuple((at, low, high) for at, low, _mid, high in known)
    levels = _levels(plan, units)
    most = max(y for _x, y in dots)  # readings a minute apart may rise beyond all bounds by morning
    low, high = _range(
        [*(y for _x, y in dots), *(min(y, most) for _x, y in line)],
        band,
        [level.y for level in levels],
    )
    top = FAR_OUT * high
    moments = [Moment(morning, in_words(local(began + timedelta(hours=morning)), "%a %H:%M"))]
    if decides is not None:
        moments.append(Moment(decides, tr("decides")))
    return Plot(
        title=title,
        note=_hold_note(report, morning, units),
        x_range=(0.0, end),
        y_range=(low / factor, high / factor),
        x_ticks=_clock_ticks(began, end),
        y_ticks=_pressure_ticks(low, high, units),
        dots=tuple((x, y / factor) for x, y in dots),
        line=tuple((x, min(y, top) / factor) for x, y in line),
        band=tuple((x, min(a, top) / factor, min(b, top) / factor) for x, a, b in band),
        levels=tuple(
            Level(level.y / factor, level.words, level.purpose)
            for level in levels
            if low <= level.y <= high
        ),
        moments=tuple(moments),
    )


def _before_the_second(plan: WheelPlan, holding: Holding, title: str, units: UnitChoice) -> Plot:
    """What is known before a loss is: where a tire that holds stays, and when a second reading
    tells.
    """
    factor, pressure = units.unit("kpa").factor, plan.pressure
    began, kpa, air = None, pressure.settle_kpa, None
    if holding.readings:
        at, kpa, air = holding.readings[-1]
        began = moment(at)
    tells = tells_after_h(
        HoldReading(0.0, kpa, air), pressure.gauge_step_kpa, pressure.shop_ambient_kpa
    )
    start = _at_20(kpa, air, plan)
    morning = _hours(began, _next_morning(began)) if began is not None else NIGHT_HOURS
    end = max(morning, tells, MIN_HOURS)
    times = [end * i / (BAND_POINTS - 1) for i in range(BAND_POINTS)]
    least = 1.0 - HOLDS_UP_TO / 100.0
    band = tuple((at, start * least ** (at / HOURS_PER_DAY), start) for at in times)
    low, high = _range([start], band, [])
    moments = [
        Moment(
            tells, tr("tells after {span}").format(span=span_words(30.0 * math.ceil(2.0 * tells)))
        )
    ]
    if began is not None:
        at = in_words(local(began + timedelta(hours=tells)), "%H:%M")
        moments = [Moment(tells, tr("tells {clock}").format(clock=at))]
        moments.append(
            Moment(morning, in_words(local(began + timedelta(hours=morning)), "%a %H:%M"))
        )
    hours = [end * i / TICKS for i in range(1, TICKS + 1)]
    return Plot(
        title=title,
        note=tr("Holds inside the band"),
        x_range=(0.0, end),
        y_range=(low / factor, high / factor),
        x_ticks=_clock_ticks(began, end)
        if began is not None
        else tuple((at, tr("+{hours:.0f} h").format(hours=at)) for at in hours),
        y_ticks=_pressure_ticks(low, high, units),
        dots=((0.0, start / factor),) if began is not None else (),
        band=tuple((at, a / factor, b / factor) for at, a, b in band),
        moments=tuple(moments),
    )


def visits_plot(plan: WheelPlan, visits: tuple[StoredVisit, ...], units: UnitChoice) -> Plot:
    title = tr("Pressure at each visit")
    if not visits:
        return Plot(title, tr("This wheel was not handed over before."))
    factor = units.unit("kpa").factor
    began = moment(visits[0].at)
    dots = tuple((_hours(began, moment(visit.at)) / 24.0, visit.pressure_kpa) for visit in visits)
    levels = [*_levels(plan, units), Level(plan.pressure.start_kpa, tr("planned now"), "accent")]
    low, high = _range([y for _x, y in dots], (), [level.y for level in levels])
    last = max(dots[-1][0], 1.0)
    every = max(1, -(-len(visits) // TICKS))
    shown = [*range(0, len(visits), every)]
    return Plot(
        title=title,
        note=tr("{n} times handed over, last at {kpa} by {name}").format(
            n=len(visits), kpa=show(visits[-1].pressure_kpa, "kpa", units), name=visits[-1].by
        )
        if len(visits) > 1
        else tr("handed over once, at {kpa} by {name}").format(
            kpa=show(visits[-1].pressure_kpa, "kpa", units), name=visits[-1].by
        ),
        x_range=(-0.06 * last, 1.06 * last),
        y_range=(low / factor, high / factor),
        x_ticks=tuple(
            (dots[i][0], in_words(local(moment(visits[i].at)), "%d %b %y")) for i in shown
        ),
        y_ticks=_pressure_ticks(low, high, units),
        dots=tuple((x, y / factor) for x, y in dots),
        line=tuple((x, y / factor) for x, y in dots) if len(dots) > 1 else (),
        levels=tuple(
            Level(level.y / factor, level.words, level.purpose)
            for level in levels
            if low <= level.y <= high
        ),
    )


def _at_20(kpa: float, air: float | None, plan: WheelPlan) -> float:
    warm = REFERENCE_K - KELVIN_AT_ZERO_C if air is None else air
    return normalised_kpa(kpa, warm, plan.pressure.shop_ambient_kpa)


def _levels(plan: WheelPlan, units: UnitChoice) -> list[Level]:
    pressure = plan.pressure
    result = [
        Level(
            pressure.limit_kpa,
            tr("limit {kpa}").format(kpa=show(pressure.limit_kpa, "kpa", units)),
            "stop",
        )
    ]
    if pressure.minimum_kpa is not None:
        words = tr("minimum {kpa}").format(kpa=show(pressure.minimum_kpa, "kpa", units))
        result.append(Level(pressure.minimum_kpa, words, "caution"))
    return result


def _hold_note(report: HoldReport | None, morning: float, units: UnitChoice) -> str:
    if report is None:
        return ""  # the step says what is missing
    low, expected, high = expected_kpa(report.line, morning)
    if report.too_early or high - low > expected:
        return ""
    return tr("{kpa} expected in the morning").format(kpa=show(expected, "kpa", units))


def _hours(began: datetime, at: datetime) -> float:
    return (at - began).total_seconds() / 3600.0


def _next_morning(at: datetime) -> datetime:
    """Return the next time on the shop's clock at which the wheel is read again, in the zone of
    `at`.
    """
    here = local(at)
    morning = here.replace(hour=MORNING_H, minute=0, second=0, microsecond=0)
    if morning <= here:
        morning += timedelta(days=1)
    return at + (morning - here)


def _range(
    values: list[float], band: tuple[tuple[float, float, float], ...], levels: list[float]
) -> tuple[float, float]:
    """The pressures that are shown: all that was measured and is expected, and a level where it is
    near.
    """
    low, high = min(values), max(values)
    room = max(0.25 * high, high - low)
    inside = (
        [
            max(low - room, min(a for _x, a, _b in band)),
            min(high + room, max(b for _x, _a, b in band)),
        ]
        if band
        else []
    )
    near = [level for level in levels if low - room <= level <= high + room]
    low, high = min([low, *inside, *near]), max([high, *inside, *near])
    air = AIR * max(high - low, 0.02 * high)
    return max(0.0, low - air), high + air


def _clock_ticks(began: datetime, end: float) -> tuple[tuple[float, str], ...]:
    """Whole hours of the clock, few enough to be read."""
    step = next((hours for hours in (1, 2, 3, 6, 12, 24, 48) if end / hours <= TICKS + 1), 72)
    first = local(began)
    start = (first + timedelta(hours=1)).replace(minute=0, second=0, microsecond=0)
    ticks: list[tuple[float, str]] = []
    for i in range(int(end) + 2):
        at = start + timedelta(hours=i)
        x = (at - first).total_seconds() / 3600.0
        if x > end:
            break
        if at.hour % min(step, 24) == 0:
            ticks.append((x, in_words(at, "%a" if at.hour == 0 else "%H:%M")))
    return tuple(ticks)


def _pressure_ticks(low: float, high: float, units: UnitChoice) -> tuple[tuple[float, str], ...]:
    """Round figures on the pressure axis, in the unit that is shown."""
    factor = units.unit("kpa").factor
    return _round_ticks(low / factor, high / factor)


def _round_ticks(bottom: float, top: float) -> tuple[tuple[float, str], ...]:
    wide = max(top - bottom, 1e-9)
    least = wide / (TICKS + 1)
    power = 10.0 ** math.floor(math.log10(least))
    step = next((n * power for n in (1.0, 2.0, 5.0) if n * power >= least), 10.0 * power)
    first = -(-bottom // step)
    places = [step * (first + i) for i in range(int(wide / step) + 2)]
    decimals = max(0, -int(f"{step:e}".partition("e")[2]))
    return tuple((place, f"{place:.{decimals}f}") for place in places if place <= top)


def insight_plot(topic: Topic | None, mark: Mark | None) -> Plot | None:
    """Return both ways of a finding, or how a topic's figure moved over the months; None where
    there is nothing to compare.
    """
    if topic is None or mark is None:
        return None
    seen = mark.sides or topic.months
    if len(seen) < 2:
        return None
    words = [one.name if mark.sides else _month_words(one.name) for one in seen]
    low, high = _range([end for one in seen for end in (one.low, one.high)], (), [])
    return Plot(
        tr("Both ways") if mark.sides else tr("Over the months"),
        tr("Dot: the figure · bar: where it lies nine times out of ten"),
        x_range=(-0.5, len(seen) - 0.5),
        y_range=(low, high),
        x_ticks=tuple((float(n), name) for n, name in enumerate(words)),
        y_ticks=tuple((y, _with_unit(words, topic.unit)) for y, words in _round_ticks(low, high)),
        dots=tuple((float(n), one.value) for n, one in enumerate(seen)),
        spans=tuple((float(n), one.low, one.high) for n, one in enumerate(seen)),
    )


def _month_words(name: str) -> str:
    return in_words(datetime.fromisoformat(f"{name}-01"), "%b")


def _with_unit(figure: str, unit: str) -> str:
    return f"{figure}{unit}" if unit == "×" else f"{figure} {unit}".rstrip()
