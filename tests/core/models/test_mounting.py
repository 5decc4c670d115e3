import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import MultiPoint, Point

from inner_rim.core.models.mounting import (
    LIFTED_MM,
    bead_loop_mm,
    finish_slack_mm,
    held_up_mm,
    hull_length_mm,
    pick_mounting,
    shortest_loop_mm,
    slack_at_mm,
)
from inner_rim.core.models.rim import bed_of
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.job import Rim, Tire
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary, planned_after


def plan(**changes):
    return plan_job(job_from_plain(ordinary(**changes)))[0]


def arc(radius, middle, half, points=200):
    angles = [middle - half + 2 * half * k / points for k in range(points + 1)]
    return [(radius * math.sin(a), radius * math.cos(a)) for a in angles]


def hull(rw, bumps):
    """The convex hull of a circle and arcs, by shapely; the polygon is 0.001 mm too short."""
    points = list(Point(0, 0).buffer(rw, quad_segs=600).exterior.coords)
    for radius, middle, half in bumps:
        points += arc(radius, middle, half)
    return MultiPoint(points).convex_hull.length


@pytest.mark.parametrize(("rw", "slack"), [(311.0, -1.6), (307.0, 21.8)])
def test_the_handbook_s_check_values(rw, slack):
    assert math.pi * 622 - shortest_loop_mm(317.0, rw, 0.0) == pytest.approx(slack, abs=0.05)


@given(st.floats(150, 330), st.floats(2, 12), st.floats(-1, 10), st.floats(0, 200))
def test_the_shortest_loop_against_shapely_s_hull(seat, flange, well, lifted):
    rf, rw = seat + flange, seat - well
    reference = hull(rw, [(rf, 0.0, 0.5 * lifted / rf)])
    assert shortest_loop_mm(rf, rw, lifted) == pytest.approx(reference, abs=0.02)


@given(st.floats(0, math.pi), st.floats(0.5, 8))
def test_the_finish_anywhere_against_shapely_s_hull(finish, well):
    rim = Rim(bead_seat_diameter_mm=622, internal_width_mm=24)
    bumps = [(317.0, finish, 0.5 * LIFTED_MM / 317.0), (311.0, 0.0, 4.0 / 311.0)]
    reference = math.pi * 622 - hull(311.0 - well, bumps)
    assert finish_slack_mm(rim, math.pi * 622, well, finish) == pytest.approx(reference, abs=0.02)


def test_finishing_at_the_valve_is_where_the_slack_is_greatest():
    rim = Rim(bead_seat_diameter_mm=622, internal_width_mm=24)
    tire = Tire(size="45-622")
    loop = bead_loop_mm(rim, tire)
    slacks = [finish_slack_mm(rim, loop, 3.4, math.pi * k / 12) for k in range(13)]
    assert slacks[0] == max(slacks) and slacks[12] == pytest.approx(min(slacks), abs=0.01)
    pick = pick_mounting(rim, tire, bed_of(rim), 0.1, None)
    assert pick.slack_mm == pytest.approx(slacks[0], abs=0.01)
    assert pick.finish_at_valve_gain_mm == pytest.approx(slacks[0] - slacks[12], abs=0.02)
    assert held_up_mm(311.0, 307.6, 8.0) == pytest.approx(pick.finish_at_valve_gain_mm)


def test_the_support_function_agrees_with_the_closed_form():
    assert hull_length_mm(307.0, ((317.0, 1.0, 0.1),)) == pytest.approx(
        shortest_loop_mm(317.0, 307.0, 63.4), abs=2e-3
    )


def test_off_the_well_there_is_no_slack_and_each_thing_in_it_costs():
    # Common practice, no published source: the slack is in the well.
    bare = plan().mounting
    assert bare.slack_off_well_mm < 0 < bare.slack_mm
    assert plan(practice__layers=2).mounting.slack_mm < bare.slack_mm
    with_insert = plan(insert__leg_mm=2.5).mounting
    assert with_insert.slack_mm < bare.slack_mm
    assert with_insert.usable_well_mm == pytest.approx(bare.usable_well_mm - 2.5)


def test_the_narrow_shoulder_goes_last():
    well = {"depth_mm": 4, "floor_mm": 8, "left_shoulder_mm": 5, "right_shoulder_mm": 3.5}
    assert plan(rim__well=well).mounting.last_side == "right"
    assert plan().mounting.last_side is None
    assert any(
        "on the right side, where the shoulder is narrow" in step.text.read()
        for step in plan(rim__well=well).steps
    )


GOOD_INSERT = {
    "name": "Foam", "bead_seat_diameter_mm": 622, "rim_min_mm": 20, "rim_max_mm": 30, "tire_min_mm": 40,
    "tire_max_mm": 60, "height_mm": 20, "volume_ml": 400, "leg_mm": 2, "ported": True, "mass_g": 90, "tires_used": 0,
}  # fmt: skip


@pytest.mark.parametrize(
    ("change", "verdict", "says"),
    [
        ({}, "fits", ""),
        ({"tires_used": 2}, "remarks", "gashes"),
        ({"ported": False}, "remarks", "side ports"),
        ({"height_mm": None}, "remarks", "Not entered"),
        ({"bead_seat_diameter_mm": 584}, "does_not_fit", "Made for 584"),
        ({"rim_min_mm": 25}, "does_not_fit", "Rim too narrow"),
        ({"tire_max_mm": 44}, "does_not_fit", "Tire too wide"),
        ({"height_mm": 26}, "does_not_fit", "Too tall"),
    ],
)
def test_insert_fit_with_its_reason(change, verdict, says):
    insert = {k: v for k, v in {**GOOD_INSERT, **change}.items() if v is not None}
    result = plan(**{f"insert__{k}": v for k, v in insert.items()})
    assert result.insert.verdict == verdict
    assert says in " ".join(reason.read() for reason in result.insert.reasons)
    assert [s.code for s in result.stops] == (
        ["insert_does_not_fit"] if verdict == "does_not_fit" else []
    )


def test_an_insert_changes_air_dose_pressure_and_order():
    bare, full = plan(), plan(**{f"insert__{k}": v for k, v in GOOD_INSERT.items()})
    assert full.tire.air_volume_ml == pytest.approx(bare.tire.air_volume_ml - 400)
    assert full.tire.cavity_ml == bare.tire.cavity_ml
    assert full.sealant.standard_ml > bare.sealant.standard_ml
    assert full.pressure.by_method["drop"] == pytest.approx(
        0.9 * bare.pressure.by_method["drop"], abs=1
    )
    stages = [step.stage for step in full.steps]
    assert "insert" in stages and stages.index("valve") < stages.index("insert")
    assert "insert" not in [step.stage for step in bare.steps]


def test_the_order_follows_what_forces_it():
    inject = [s.text.read() for s in plan(practice__sealant_route="inject").steps]
    pour = [s.text.read() for s in plan(practice__sealant_route="pour").steps]
    assert any("Inject 60 ml" in text for text in inject) and any(
        "Pour 70 ml" in text for text in pour
    )
    assert any("leave a section at the valve open" in text for text in pour)
    stages = plan(practice__sealant_route="inject").stages
    assert stages.index("seat") < stages.index("sealant")  # dry first
    assert plan(practice__sealant_route="pour").stages.index("sealant") == stages.index("seat")
    clogs = plan(practice__sealant_route="inject", shelf__sealant={"clogs_valve": True})
    assert any("clogs valves, so pour it" in s.text.read() for s in clogs.steps)
    blocked = plan(practice__sealant_route="inject", insert__ported=False)
    assert any("no ports, so pour" in s.text.read() for s in blocked.steps)
    texts = [s.text.read() for s in plan().steps]
    arrow = next(i for i, t in enumerate(texts) if t.startswith("Arrow"))
    assert arrow < next(i for i, t in enumerate(texts) if t.startswith("First bead"))


def test_weights_add_up_and_a_conversion_saves_about_a_tube():
    result = plan().weights
    assert result.added_g == pytest.approx(sum(g for g in result.parts_g.values() if g > 0))
    assert result.removed_g == pytest.approx(-sum(g for g in result.parts_g.values() if g < 0))
    # an ordinary tube of this size, common practice, no published source
    assert 120 <= -result.parts_g["tube"] <= 250
    assert result.parts_g["tape"] == pytest.approx(plan().tape.length_mm * 27 * 0.1 * 1.3 / 1000)


@pytest.mark.parametrize(
    ("circumference", "fit", "layers"),
    [(1950.0, "loose", 5), (1954.0, "snug", 1), (1957.0, "tight", 1)],
)
def test_a_loose_bead_says_how_many_layers_make_it_snug(circumference, fit, layers):
    result = plan(rim__seat_circumference_mm=circumference).tape.bead_fit
    assert result.fit == fit and result.layers_to_snug == layers
    mended = plan(rim__seat_circumference_mm=circumference, practice__layers=layers).tape.bead_fit
    assert mended.fit == ("tight" if fit == "tight" else "snug")


@pytest.mark.parametrize("around", [None, 1945.0, 1960.0])
def test_plan_and_drawing_reckon_from_the_same_seat(around):
    rim = job_from_plain(ordinary(rim__seat_circumference_mm=around)).wheels[0].rim
    loop = math.pi * 622
    assert finish_slack_mm(rim, loop, 3.3, valve_base=False) == pytest.approx(
        slack_at_mm(rim, loop, 3.3), abs=0.05
    )


@pytest.mark.parametrize(
    ("size", "width", "depth", "shorter", "said"),
    [
        ("28-622", 19, 3.0, 3.0, "unknown"),  # never "by hand" with a well that nobody measured
        ("45-622", 24, 3.5, 1.0, "by_hand"),
        ("58-622", 35, 4.5, 1.0, "by_hand"),
    ],
)
def test_a_well_that_was_not_measured_is_graded_by_its_whole_band(
    size, width, depth, shorter, said
):
    """Depth by the rim's width, the bead's own loop, bands in squares: the handbook's figures, worked out again here."""
    rim = {"rim__internal_width_mm": width}
    pick = plan(tire__size=size, tire__tubeless_ready=True, **rim).mounting
    assert pick.grade == said
    job = job_from_plain(ordinary(tire__size=size, tire__tubeless_ready=True, **rim))
    known = job.wheels[0].rim
    loop = math.pi * 622 - shorter
    usable = pick.usable_well_mm
    assert usable == pytest.approx(depth - 0.1)
    low, middle, high = (slack_at_mm(known, loop, usable + by) for by in (-1.0, 0.0, 1.0))
    assert pick.slack_mm == pytest.approx(middle)
    assert pick.band_mm[0] == pytest.approx(middle - math.hypot(middle - low, 4.0))
    assert pick.band_mm[1] == pytest.approx(middle + math.hypot(high - middle, 4.0))
    well = {"depth_mm": depth, "floor_mm": 7, "left_shoulder_mm": 3, "right_shoulder_mm": 3}
    measured = plan(tire__size=size, tire__tubeless_ready=True, rim__well=well, **rim).mounting
    assert measured.grade in ("by_hand", "technique", "levers")
    assert 8.0 < measured.band_mm[1] - measured.band_mm[0] < 9.0  # the bead's loop remains


def test_a_bed_without_spoke_holes_takes_no_tape_into_the_valve_s_length():
    """23 + 6 + 15: 44 mm reach where no tape lies under the base."""
    rim = {"rim__depth_at_valve_mm": 23.0, "shelf__valve_lengths_mm": [44, 48]}
    assert plan(rim__bed="sealed", **rim).valve.length_mm == 44.0
    assert plan(**rim).valve.length_mm == 48.0


def test_a_stop_that_may_be_passed_is_passed_by_name():
    from inner_rim.core.record.log import Override

    other = {"insert__bead_seat_diameter_mm": 584}
    assert planned_after(**other)[1].state == "stopped"
    by_name = Override(code="insert_does_not_fit", by="M. Osier", reason="cut to size")
    _plan, passed = planned_after(by_name, **other)
    assert passed.open_stops == () and passed.state == "to_do"


def test_a_stop_s_reason_follows_the_units_of_its_reader():
    from inner_rim.core.record.units import UnitChoice

    stop = plan(insert__rim_min_mm=25.4).stops[0]
    assert (
        stop.message.read() == "The insert does not fit. Rim too narrow: 24 mm, at least 25.4 mm."
    )
    assert "at least 1 in." in stop.message.read(UnitChoice(mm="in"))
