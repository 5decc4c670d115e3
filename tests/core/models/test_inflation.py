import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from inner_rim.core.models.inflation import (
    AIR_KG_M3,
    CLOSING_PA,
    DISCHARGE,
    FACTORS,
    GAP_MM,
    WAYS,
    Bottle,
    Circumstances,
    advice,
    free_flow_l_s,
    max_leak_l_s,
    needed_l_s,
    orifice_l_s,
    probability,
)
from inner_rim.core.models.simulated import Bead, SimulatedWheel, stepped
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary


def coming(**changes):
    return plan_job(job_from_plain(ordinary(**changes)))[0].seating_odds


def test_the_handbook_s_check_figures():
    # docs/models.md 2.10: two dry beads, 622, median gap; and what each source just beats on 45-622, 3 liters.
    assert [needed_l_s(GAP_MM[g], 622) for g in ("snug", "ordinary", "loose")] == pytest.approx(
        [0.18, 0.72, 5.4], rel=0.01
    )
    per_mm = needed_l_s(1.0, 622)
    beaten = {way: max_leak_l_s(3.0, *way, Bottle()) / per_mm for way in WAYS}
    assert beaten[("floor_pump", False)] == pytest.approx(0.004, rel=0.1)
    assert beaten[("floor_pump", True)] == pytest.approx(0.008, rel=0.1)
    assert beaten[("compressor", False)] == pytest.approx(0.019, rel=0.03)
    assert beaten[("compressor", True)] == pytest.approx(0.105, rel=0.03)


def own_words(**changes):
    return next(source.words for source in coming(**changes).sources if source.own)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"practice__lubricant": "none", "practice__core_out": False}, "unlikely"),
        ({"practice__lubricant": "none", "practice__core_out": True}, "perhaps"),
        ({"practice__lubricant": "soap", "practice__core_out": True}, "likely"),
        (
            {"practice__lubricant": "none", "practice__core_out": False, "insert__ported": True},
            "likely",
        ),
        ({"tire__tubeless_ready": False, "practice__core_out": True}, "unlikely"),
        ({"tire__tubeless_ready": False, "practice__core_out": False}, "unlikely"),
    ],
)
def test_what_mechanics_report_of_a_floor_pump(changes, words):
    # Common practice, no published source (docs/models.md).
    assert own_words(practice__sealant_route="inject", **changes) == words


def test_the_shop_s_own_source_comes_first_in_words():
    result = coming(practice__air_source="compressor", practice__core_out=True)
    assert (result.sources[0].source, result.sources[0].core_out, result.sources[0].own) == (
        "compressor",
        True,
        True,
    )
    assert advice(result).read() == "compressor, core out: likely"
    loose = advice(coming(tire__tubeless_ready=False)).read()
    assert loose.startswith("floor pump, core in: unlikely; ") and loose.endswith("likely")


@given(
    st.sets(st.sampled_from(sorted(n for n, f in FACTORS.items() if f < 1.0))),
    st.sampled_from(sorted(FACTORS)),
)
def test_a_remedy_never_makes_it_less_likely(already, more):
    if FACTORS[more] >= 1.0:
        return
    before, after = Circumstances(tuple(already)), Circumstances((*already, more))
    for way in WAYS:
        most = max_leak_l_s(3.0, *way, Bottle())
        assert probability(most, after.factor) >= probability(most, before.factor)
    for out in (False, True):
        pumped = max_leak_l_s(3.0, "floor_pump", out, Bottle())
        assert max_leak_l_s(3.0, "floor_pump", True, Bottle()) >= pumped


def seats(leak_l_s, volume, source, core_out, bottle):
    """Whether the simulated wheel, stepped in time with two beads that do not seat, passes the closing pressure."""
    wheel = SimulatedWheel(
        1000.0 * volume, 622.0, leak_l_s / needed_l_s(1.0, 622.0), source, core_out, 400.0,
        (Bead(300.0), Bead(300.0)), charge_kpa=bottle.kpa, charge_liter=bottle.ml / 1000.0,
    )  # fmt: skip
    best, since = 0.0, 0
    while wheel.time_s < 40 * 0.9:
        wheel = stepped(wheel, 0.02)
        if wheel.pressure_kpa > CLOSING_PA / 1000.0:
            return True
        if wheel.pressure_kpa > best + 0.005:
            best, since = wheel.pressure_kpa, wheel.time_s
        elif wheel.time_s > since + 1.9 or (source == "charge" and wheel.time_s > since + 0.3):
            return False  # two strokes without getting further
    return False


SHOPS = [Bottle(), Bottle(300.0, 300.0), Bottle(3000.0, 1000.0)]
GRID = [
    (source, out, bottle, volume)
    for source, out in WAYS
    for bottle in (SHOPS if source == "charge" else SHOPS[:1])
    for volume in (0.5, 1.3, 3.0, 8.0, 25.0)
]


@pytest.mark.parametrize(("source", "out", "bottle", "volume"), GRID)
def test_the_forecast_is_within_two_hundredths_of_the_simulated_wheel(source, out, bottle, volume):
    """By halving: the leak that the simulated wheel just outruns, and what share of the gaps that is."""
    low, high = 0.0, 1.1 * orifice_l_s(6.0, 1000.0)
    for _ in range(12):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if seats(middle, volume, source, out, bottle) else (low, middle)
    result = max_leak_l_s(volume, source, out, bottle)
    for gap in ("snug", "ordinary", "loose"):
        median = needed_l_s(GAP_MM[gap], 622.0)
        assert probability(result, median) == pytest.approx(probability(low, median), abs=0.02)


@given(
    st.floats(0.3, 30.0), st.floats(100.0, 5000.0), st.floats(100.0, 1200.0), st.sampled_from(WAYS)
)
def test_no_source_outruns_more_than_it_gives_and_a_larger_tire_never_helps(volume, ml, kpa, way):
    bottle = Bottle(ml, kpa)
    source, out = way
    flow = {"floor_pump": {False: 0.4, True: 1.1}[out]}.get(source) or free_flow_l_s(
        source, out, bottle
    )
    most = max_leak_l_s(volume, source, out, bottle)
    assert 0.0 <= most <= flow + 1e-9
    assert max_leak_l_s(1.5 * volume, source, out, bottle) <= most + 1e-9


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


def test_the_fit_of_the_bead_decides_the_gap():
    # Common practice, no published source.
    assert coming(rim__seat_circumference_mm=1954.5).gap == "snug" and coming().gap == "ordinary"
    assert coming(tire__tubeless_ready=False).gap == "loose"
    assert coming(rim__seat_circumference_mm=1949).gap == "loose"


def test_the_plan_document_has_the_agreed_names():
    from inner_rim.work.planning import plan_document

    result = plan_document(ordinary())["wheels"][0]["coming_up"]
    # wetted
    assert result["gap"] == "ordinary" and result["needed_l_s"] == pytest.approx(0.36, abs=0.01)
    assert {"source", "core_out", "free_l_s", "comes_up", "probability", "words"} <= result[
        "sources"
    ][0].keys()
