import math

import pytest
from hypothesis import given, settings
from shapely.geometry import LineString, Polygon

from inner_rim.core.drawing.section import draw_section
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.reading import job_from_plain
from tests.samples import any_job, ordinary


def drawn(**changes):
    job = job_from_plain(ordinary(**changes))
    plan = plan_job(job)[0]
    return draw_section(job.wheels[0], plan), plan


def test_the_drawing_is_to_scale():
    section, plan = drawn()
    casing, pool = Polygon(section.outlines["casing"]), Polygon(section.outlines["pool"])
    x0, y0, x1, _ = casing.bounds
    assert x1 - x0 == pytest.approx(plan.tire.mounted_width_mm, rel=2e-3)
    assert -y0 == pytest.approx(plan.tire.section_height_mm, rel=1e-6)
    assert pool.bounds[3] - pool.bounds[1] == pytest.approx(plan.sealant.dip_mm, rel=1e-6)
    assert LineString(section.paths["tape"]).length == pytest.approx(plan.tape.width_mm, abs=1e-6)
    stem = Polygon(section.outlines["valve_stem"]).bounds
    assert stem[3] - stem[1] == pytest.approx(plan.valve.length_mm)
    nut_top = Polygon(section.outlines["valve_nut"]).bounds[3]
    # tape's thickness
    assert stem[3] - nut_top == pytest.approx(plan.valve.standing_out_mm, abs=0.25)


@pytest.mark.parametrize("width", [23, 25, 31, 45])
def test_narrow_tape_leaves_shelf_and_wide_tape_climbs(width):
    section, plan = drawn(shelf__tape_widths_mm=[width])
    tape = LineString(section.paths["tape"])
    assert tape.length == pytest.approx(plan.tape.trim_to_mm or width, abs=1e-6)
    climbs = plan.tape.edge_gap_mm < 0
    assert (tape.bounds[1] < -1e-9) == climbs  # below the bead seats is up the wall


@settings(max_examples=150)
@given(any_job())
def test_any_plan_can_be_drawn(document):
    try:
        job = job_from_plain(document)
    except InputError:
        return
    for wheel, plan in zip(job.wheels, plan_job(job), strict=True):
        section = draw_section(wheel, plan)
        points = [p for o in (*section.outlines.values(), *section.paths.values()) for p in o]
        assert all(math.isfinite(x) and math.isfinite(y) for x, y in points)
        assert all(math.isfinite(d.length_mm) for d in section.dimensions)
