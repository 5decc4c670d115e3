import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from inner_rim.core.coming_up import (
    AIR_KG_M3,
    CLOSING_PA,
    DISCHARGE,
    GAP_MM,
    free_flow_l_s,
    needed_l_s,
    orifice_l_s,
)
from inner_rim.core.plan import plan_job
from inner_rim.core.reading import job_from_plain
from tests.samples import ordinary


def coming(**changes):
    return plan_job(job_from_plain(ordinary(**changes)))[0].coming_up


def test_the_handbook_s_check_figures():
    assert [needed_l_s(GAP_MM[g], 622) for g in ("snug", "ordinary", "loose")] == pytest.approx(
        [0.27, 1.8, 9.0], rel=0.01
    )
    assert free_flow_l_s("floor_pump", False) == pytest.approx(0.4, abs=0.02)
    assert [free_flow_l_s("compressor", out) for out in (False, True)] == pytest.approx([1.7, 9.4], rel=0.02)


@given(st.floats(0.001, 0.2), st.floats(300, 700), st.integers(1, 2))
def test_the_flow_that_is_needed_is_the_greatest_leak(gap, diameter, beads):
    def leak(p):
        area = gap * 1e-3 * math.pi * diameter * 1e-3 * beads * (1 - p / CLOSING_PA)
        return DISCHARGE * area * math.sqrt(2 * p / AIR_KG_M3) * 1000

    top = minimize_scalar(
        lambda p: -leak(p), bounds=(0, CLOSING_PA), method="bounded", options={"xatol": 1e-6}
    )
    assert top.x == pytest.approx(CLOSING_PA / 3, rel=1e-3)
    assert needed_l_s(gap, diameter, beads) == pytest.approx(leak(top.x), rel=1e-6)


@given(st.floats(0, 1000), st.floats(0.1, 10))
def test_more_pressure_never_gives_less_air_and_nothing_gives_nothing(kpa, area):
    assert orifice_l_s(area, kpa) <= orifice_l_s(area, kpa + 1.0) + 1e-12
    assert orifice_l_s(area, 0.0) == pytest.approx(0.0, abs=1e-9)


def test_the_flow_has_no_jump_where_it_chokes():
    choke = 101.325 * (1 / 0.528282 - 1)
    assert orifice_l_s(1.1, choke - 0.01) == pytest.approx(orifice_l_s(1.1, choke + 0.01), rel=1e-3)


@pytest.mark.parametrize(
    ("changes", "gap", "easiest"),
    [
        ({"rim__seat_circumference_mm": 1954.5}, "snug", ("floor_pump", False)),
        ({}, "ordinary", ("charge", False)),
        ({"tire__tubeless_ready": False}, "loose", ("compressor", True)),
        ({"rim__seat_circumference_mm": 1949}, "loose", ("compressor", True)),
    ],
)
def test_what_mechanics_report(changes, gap, easiest):
    # Common practice, no published source: snug comes up with a floor pump, ordinary wants a charge or the
    # core out, loose wants the core out and a compressor or bottle.
    found = coming(**changes)
    assert found.gap == gap and (found.easiest.source, found.easiest.core_out) == easiest
    assert all(source.comes_up == (source.free_l_s > found.needed_l_s) for source in found.sources)


def test_the_plan_document_has_the_agreed_names():
    from inner_rim.work.planning import plan_document

    found = plan_document(ordinary())["wheels"][0]["coming_up"]
    assert found["gap"] == "ordinary" and found["needed_l_s"] == pytest.approx(1.8, abs=0.01)
    assert found["sources"][0].keys() == {"source", "core_out", "free_l_s", "comes_up"}
