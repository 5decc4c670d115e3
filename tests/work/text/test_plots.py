"""Plots as data: what they show is what the models say, in the units that are shown."""

import itertools
from datetime import UTC, datetime, timedelta

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from inner_rim.core.models.holding import HoldReading, hold_report, reading_error_kpa
from inner_rim.core.models.line_verdict import expected_kpa
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.progress.progress import Holding
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.store.rows import StoredVisit
from inner_rim.work.text.plots import hold_plot, visits_plot
from tests.samples import ordinary

BEGAN = datetime(2026, 11, 25, 16, 0, tzinfo=UTC)


def held(pressures, hours):
    plan = plan_job(job_from_plain(ordinary()))[0]
    read = [HoldReading(h, p, 20.0) for h, p in zip(hours, pressures, strict=True)]
    report = hold_report(read, plan.tire.air_volume_ml, step_kpa=1.0) if len(read) > 1 else None
    rows = tuple(
        ((BEGAN + timedelta(hours=h)).isoformat(), p, 20.0)
        for h, p in zip(hours, pressures, strict=True)
    )
    at = (
        (BEGAN + timedelta(hours=report.decides_at_h)).isoformat()
        if report and report.decides_at_h
        else ""
    )
    return plan, Holding(rows, len(rows), report, at)


def test_the_band_of_a_line_is_the_one_of_weighted_least_squares():
    """Against the covariance of numpy.polyfit with weights, a general library."""
    hours, pressures = [0.0, 2.0, 5.0, 13.0], [250.0, 249.0, 247.5, 244.0]
    plan, holding = held(pressures, hours)
    report = holding.report
    errors = [reading_error_kpa(HoldReading(h, p, 20.0), 1.0) / q
              for h, p, q in zip(hours, pressures, report.p20_kpa, strict=True)]  # fmt: skip
    line, cov = np.polyfit(hours, np.log(report.p20_kpa), 1, w=1 / np.array(errors), cov="unscaled")
    for at in (0.0, 6.0, 30.0):
        row = np.array([at, 1.0])
        middle, error = row @ line, np.sqrt(row @ cov @ row)
        wanted = np.exp(
            [middle + z * error for z in (stats.norm.ppf(0.05), 0.0, stats.norm.ppf(0.95))]
        )
        assert expected_kpa(report.line, at) == pytest.approx(wanted, rel=2e-4)
    plot = hold_plot(plan, holding, METRIC)
    assert [y for _x, y in plot.dots] == pytest.approx([p / 100 for p in report.p20_kpa])
    assert all(
        low <= y <= high for (_x, low, high), (_t, y) in zip(plot.band, plot.line, strict=True)
    )
    # up to the morning after the last reading
    assert plot.x_range[1] >= plot.moments[0].x > hours[-1]


def test_every_figure_of_a_plot_lies_inside_it_and_the_units_only_change_the_scale():
    plan, holding = held([250.0, 247.0], [0.0, 1.0])
    for units in (METRIC, UnitChoice("psi", "in", "floz")):
        plot = hold_plot(plan, holding, units)
        factor = units.unit("kpa").factor
        assert plot.dots[0][1] * factor == pytest.approx(holding.report.p20_kpa[0])
        low, high = plot.y_range
        ys = [y for _x, y in (*plot.dots, *plot.line)] + [level.y for level in plot.levels]
        assert all(low <= y <= high for y in ys)
        assert 2 <= len(plot.y_ticks) <= 7 and all(low <= y <= high for y, _w in plot.y_ticks)
        assert all(plot.x_range[0] <= x <= plot.x_range[1] for x, _w in plot.x_ticks)
    decides = [m for m in plot.moments if m.words == "decides"]
    assert len(decides) == 1 and decides[0].x == pytest.approx(
        holding.report.decides_at_h, abs=1e-3
    )


@given(
    gaps=st.lists(st.floats(1e-4, 100.0), min_size=1, max_size=4),
    pressures=st.lists(st.floats(5.0, 900.0), min_size=5, max_size=5),
)
def test_readings_however_near_each_other_can_be_plotted(gaps, pressures):
    """Two readings seconds apart once let the axis run beyond every step."""
    hours = [0.0, *itertools.accumulate(gaps)]
    plan, holding = held(pressures[: len(hours)], hours)
    for units in (METRIC, UnitChoice("psi", "in", "floz")):
        plot = hold_plot(plan, holding, units)
        low, high = plot.y_range
        assert 0.0 <= low < high < 30.0 * max(pressures) / units.unit("kpa").factor
        assert all(low <= y <= high for _x, y in plot.dots) and 1 <= len(plot.y_ticks) <= 7
        assert all(y <= 10.01 * high for _x, *ys in (*plot.band, *plot.line) for y in ys)


@pytest.mark.parametrize(("kpa", "air"), [(250.0, 20.0), (180.0, None), (600.0, 5.0)])
def test_before_the_second_reading_the_plot_says_where_and_when_that_tells(kpa, air):
    """A tight tire that is read then holds, by the same verdict; read earlier, it does not yet."""
    plan, holding = held([kpa], [0.0])
    holding = msgspec.structs.replace(holding, readings=((holding.readings[0][0], kpa, air),))
    plot, step = hold_plot(plan, holding, METRIC), plan.pressure.gauge_step_kpa
    ambient = plan.pressure.shop_ambient_kpa
    assert len(plot.dots) == 1 and "Holds" in plot.note
    tells = next(one.x for one in plot.moments if one.words.startswith("tells"))

    def verdict(hours):
        left = kpa * 0.98 ** (hours / 24.0)
        readings = [HoldReading(0.0, kpa, air), HoldReading(hours, left, air)]
        return hold_report(
            readings, 3000.0, gauge_ml=0.0, step_kpa=step, ambient_kpa=ambient
        ).verdict

    # the air's own pressure is part of what is brought to 20 °C, so not to the minute
    assert verdict(1.15 * tells) == "holds" != verdict(0.8 * tells)
    inside = [low <= kpa_at <= high for (_x, low, high), kpa_at in
              ((one, plot.dots[0][1] * 0.98 ** (one[0] / 24.0)) for one in plot.band)]  # fmt: skip
    assert all(inside)
    empty = hold_plot(plan, Holding(), METRIC)
    assert (
        empty.dots == ()
        and empty.band
        and [one.words[:11] for one in empty.moments] == ["tells after"]
    )


def test_the_visits_of_a_wheel_stand_at_their_days():
    plan = plan_job(job_from_plain(ordinary()))[0]
    assert visits_plot(plan, (), METRIC).dots == ()
    visits = tuple(
        StoredVisit((BEGAN + timedelta(days=d)).isoformat(), "M. Osier", kpa)
        for d, kpa in ((0, 180.0), (40, 190.0), (200, 175.0))
    )
    plot = visits_plot(plan, visits, METRIC)
    assert plot.dots == ((0.0, 1.8), (40.0, 1.9), (200.0, 1.75))
    assert "3 times" in plot.note and len(plot.x_ticks) == 3
