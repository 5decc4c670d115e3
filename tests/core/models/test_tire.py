import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq
from shapely.geometry import Point, Polygon, box

from inner_rim.core.models.rim import bed_of
from inner_rim.core.models.tire import (
    casing_arc_mm,
    cavity_ml,
    dip_mm,
    inner_surface_mm2,
    measuring_rim_mm,
    mount,
    mounted_width_mm,
    pool_ml,
    section_center_mm,
)
from inner_rim.core.record.job import Rim, Tire

widths = st.floats(20, 120)
ratios = st.floats(1.15, 2.8)


def mounted(size, internal_mm, diameter_mm=622, **tire):
    rim = Rim(bead_seat_diameter_mm=diameter_mm, internal_width_mm=internal_mm)
    return mount(Tire(size=size, **tire), rim, bed_of(rim))


@given(widths, ratios, st.floats(0.3, 0.8))
def test_mounted_width_keeps_the_arc_and_agrees_with_scipy(width, ratio, measuring):
    arc = casing_arc_mm(width, measuring * width)
    rim = width / ratio
    result = mounted_width_mm(arc, rim)
    reference = brentq(
        lambda d: d * (math.pi - math.asin(rim / d)) - arc, rim, 2 * arc / math.pi, xtol=1e-12
    )
    assert result == pytest.approx(reference, rel=1e-9)
    assert casing_arc_mm(result, rim) == pytest.approx(arc, rel=1e-9)


@pytest.mark.parametrize("size", ["25-622", "32-622", "40-622", "45-622", "57-622"])
def test_a_millimetre_of_rim_gives_the_trade_s_04_of_tire(size):
    # ISO/ETRTO rule of thumb 0.4 mm a mm, from memory; 0.35 to 0.42 by the handbook's derivation.
    usual = measuring_rim_mm(float(size.split("-")[0]))
    gain = mounted(size, usual + 0.5).mounted_width_mm - mounted(size, usual - 0.5).mounted_width_mm
    assert 0.35 <= gain <= 0.42


@pytest.mark.parametrize(
    ("size", "rollout_mm"), [("25-622", 2105), ("32-622", 2155), ("40-622", 2200)]
)
def test_rollout_against_circumference_tables(size, rollout_mm):
    # Circumference tables for cycle computers, values from memory, 2 %.
    usual = measuring_rim_mm(float(size.split("-")[0]))
    assert 2 * math.pi * mounted(size, usual).outer_radius_mm == pytest.approx(rollout_mm, rel=0.02)


def test_the_sketch_of_the_bench_page():
    tire = mounted("45-622", 24)
    assert (round(tire.mounted_width_mm, 1), round(tire.section_height_mm, 1)) == (45.4, 41.9)


def test_a_measured_width_overrides_the_nominal_one():
    assert mounted(
        "45-622", 24, measured_width_mm=47.0, measured_on_rim_mm=24.0
    ).mounted_width_mm == (pytest.approx(47.0))


def inside(radius_mm, center_mm, bead_seat_diameter_mm, points=4000):
    """The inner circle, concentric with the casing, above the bead seats: a polygon in (radius, sideways)."""
    circle = Point(0.5 * bead_seat_diameter_mm + center_mm, 0).buffer(radius_mm, quad_segs=points)
    return circle.intersection(box(0.5 * bead_seat_diameter_mm, -500, 5000, 500))


@given(
    st.floats(20, 110), ratios, st.floats(0.5, 3.0), st.sampled_from([349.0, 406.0, 559.0, 622.0])
)
def test_cavity_against_a_solid_of_revolution_by_shapely(width, ratio, casing, diameter):
    bed = bed_of(Rim(bead_seat_diameter_mm=diameter, internal_width_mm=max(10.0, width / ratio)))
    if bed.internal_width_mm > width:
        return
    radius, center = 0.5 * width - casing, section_center_mm(width, bed.internal_width_mm)
    segment = inside(radius, center, diameter, 500)
    well = Polygon([(0.5 * diameter + height, x) for x, height in bed.outline()])
    solid = sum(2 * math.pi * part.centroid.x * part.area for part in (segment, well)) / 1000
    assert cavity_ml(diameter, radius, center, bed) == pytest.approx(solid, rel=1e-4)


def test_inner_surface_against_shapely_lengths():
    center = section_center_mm(44.4, 24.0)
    segment = inside(21.0, center, 622.0)
    ring = np.array(segment.exterior.coords)
    steps = np.diff(ring, axis=0)
    middles = 0.5 * (ring[1:] + ring[:-1])
    on_arc = np.abs(middles[:, 0] - 311.0) > 1e-6  # the chord itself is open
    length = np.hypot(*steps.T)
    surface = float(np.sum(2 * math.pi * middles[on_arc, 0] * length[on_arc]))
    assert inner_surface_mm2(622.0, 21.0, center) == pytest.approx(surface, rel=1e-4)


@pytest.mark.parametrize(
    ("tube", "ring", "depth"),
    [(21.4, 330.2, 13.0), (50.0, 318.0, 20.0), (12.0, 320.0, 5.0), (26.0, 229.0, 40.0)],
)
def test_pool_against_a_trimesh_solid_cut_by_a_plane(tube, ring, depth):
    torus = trimesh.creation.torus(ring, tube, major_sections=720, minor_sections=180)
    torus.apply_transform(trimesh.transformations.rotation_matrix(math.pi / 2, [1, 0, 0]))
    level = -(ring + tube) + depth
    cut = trimesh.intersections.slice_mesh_plane(
        torus, plane_normal=[0, 0, -1], plane_origin=[0, 0, level], cap=True, engine="manifold"
    )
    assert pool_ml(depth, tube, ring) == pytest.approx(cut.volume / 1000, rel=2e-3)


@given(st.floats(1, 400), st.floats(10, 55), st.floats(170, 340))
def test_dip_and_pool_are_each_other_s_inverse(volume, tube, ring):
    depth = dip_mm(volume, tube, ring)
    assert 0 < depth <= 2 * tube
    if depth < 2 * tube * 0.999:
        assert pool_ml(depth, tube, ring) == pytest.approx(volume, rel=1e-6)
