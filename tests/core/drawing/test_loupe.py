"""The loupe against the models and against shapely, a general geometry library."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon

from inner_rim.core.drawing.loupe import draw_loupe
from inner_rim.core.drawing.section import along_bed, draw_section
from inner_rim.core.models.rim import Bed
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary


def seats(hooked=True, **changes):
    job = job_from_plain(ordinary(**changes))
    plan = plan_job(job)[0]
    return draw_loupe(draw_section(job.wheels[0], plan), plan, hooked), plan


@pytest.mark.parametrize("width", [24, 26, 27, 29])
@pytest.mark.parametrize("layers", [1, 3])
def test_the_edge_lies_where_the_gap_says_and_each_layer_on_the_one_below(width, layers):
    (left, right), plan = seats(
        shelf__tape_widths_mm=[width],
        practice__layers=layers,
        rim__well={
            "depth_mm": 4.0,
            "floor_mm": 7.0,
            "left_shoulder_mm": 4.5,
            "right_shoulder_mm": 4.5,
        },
    )
    half, gap = 0.5 * plan.bed.internal_width_mm, plan.tape.edge_gap_mm
    assert len(left.layers) == len(right.layers) == layers
    for seat, sign in ((left, -1.0), (right, 1.0)):
        edge = seat.layers[0][0]
        if gap >= 0.0:
            assert sign * edge[0] == pytest.approx(half - gap, abs=0.2)
        else:
            assert edge[1] == pytest.approx(gap, abs=0.2)  # up the wall
        metal = Polygon(seat.outlines["rim"]).buffer(-1e-6)
        for i, layer in enumerate(seat.layers):
            away = [
                LineString(layer).distance(Point(p))
                for p in along_bed(plan.bed, seat.side, max(0.0, gap), 4.0)
            ]
            assert max(away) == pytest.approx((i + 0.5) * plan.tape.thickness_mm, abs=0.02)
            assert LineString(layer).intersection(metal).length < 0.05  # on the metal, not in it
        assert seat.gap_mm == gap and seat.band == ()  # the well was measured
    assert np.array(left.layers[0]) * [-1.0, 1.0] == pytest.approx(
        np.array(right.layers[0]), abs=1e-9
    )


def test_two_strips_lie_against_their_own_walls():
    (left, right), plan = seats(shelf__tape_widths_mm=[21])
    assert plan.tape.strips == 2 and left.gap is None and left.gap_mm is None
    half = 0.5 * plan.bed.internal_width_mm
    assert [abs(seat.layers[0][0][0]) for seat in (left, right)] == pytest.approx(
        [half, half], abs=0.2
    )


def test_an_assumed_well_has_a_band_as_wide_as_the_plan_says_and_no_tape_has_none():
    (left, _right), plan = seats()
    low, high = plan.tape.developed_band_mm
    assert LineString(left.band).length == pytest.approx(0.5 * (high - low), abs=1e-6)
    (bare, _), _plan = seats(shelf__tape_widths_mm=[])
    assert bare.layers == () and bare.gap is None and bare.band == ()


beds = st.builds(
    lambda floor, left, right, run, depth: Bed(floor + left + right + 2 * run, depth, floor, left, right, True),
    st.floats(0, 20), st.floats(1, 8), st.floats(1, 8), st.floats(0, 6), st.floats(0, 8),
)  # fmt: skip


@settings(max_examples=200)
@given(beds, st.sampled_from(["left", "right"]), st.floats(-6, 20), st.floats(0, 30))
def test_any_stretch_of_the_bed_is_as_long_as_asked_or_ends_at_the_other_wall(
    bed, side, start, length
):
    whole = LineString(along_bed(bed, side, 0.0, 1000.0)).length
    line = along_bed(bed, side, start, start + length)
    inside = max(0.0, min(whole, start + length) - min(start, whole))
    got = LineString(line).length if len(line) > 1 else 0.0
    assert got == pytest.approx(inside, abs=1e-6)
