"""Steps one by one, waits by the clock, and a dip that calibrates."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.models.sealant import calibration, dip_table, pool_from_dip_ml, pool_radii_mm
from inner_rim.core.models.tape import overlap_deg
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.log import Dip, Finding, StepEntry
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary, planned_after


def planned(**changes):
    job = job_from_plain(ordinary(**changes))
    return job.wheels[0], plan_job(job)[0]


def after(*entries, **changes):
    return planned_after(*entries, **changes)[1]


def done(step, **more):
    return StepEntry(stage=step.stage, step=step.key, **more)


def walk(entries, **changes):
    """Tick off whatever is asked next, as a hand would, and return where it ends."""
    while True:
        progress = after(*entries, **changes)
        if progress.step is None:
            return progress
        if progress.question is not None:
            entries.append(Finding(check=progress.question.code, sound=True))
        else:
            entries.append(done(progress.step))


@pytest.mark.parametrize(
    "changes", [{}, {"insert__height_mm": 18, "insert__ported": True}, {"rim__carbon": True}]
)
@pytest.mark.parametrize("route", ["pour", "inject"])
def test_every_step_is_asked_once_in_the_plan_s_order_until_seating(changes, route):
    _wheel, plan = planned(practice__sealant_route=route, **changes)
    entries = [StepEntry(stage="check_in")]
    progress = walk(entries, practice__sealant_route=route, **changes)
    assert progress.stage == "seat"
    said = [e.step if isinstance(e, StepEntry) else e.check for e in entries[1:]]
    seat_at = next(place for place, step in enumerate(plan.steps) if step.pressure_step)
    wanted = [s.question or s.key for s in plan.steps[:seat_at] if s.stage != "check_in"]
    assert said == wanted
    assert len({s.key for s in plan.steps}) == len(plan.steps)


def test_a_wait_runs_by_the_log_s_clock_and_ends_with_whatever_comes_next():
    _wheel, plan = planned()
    clean = next(s for s in plan.steps if s.code == "rim.dry")
    waiting = after(StepEntry(stage="check_in"), done(clean, completes=True))
    assert (waiting.waiting.until, waiting.waiting.after.code) == (
        "2026-11-24T10:15:00+00:00",
        "rim.dry",
    )
    assert waiting.stage == "tape"
    cut = after(
        StepEntry(stage="check_in"), done(clean, completes=True), done(clean, outcome="waited")
    )
    assert cut.waiting.until == "" and cut.stage == "tape"


def test_one_step_back_takes_up_that_step_and_no_other():
    entries = [StepEntry(stage="check_in")]
    walk(entries)
    lay = StepEntry(stage="tape", step="tape.press", outcome="reopened")
    back = after(*entries, lay)
    assert (back.stage, back.step.code, back.last_step.key) == ("tape", "tape.press", "tape.lay")
    assert not {"valve", "mount", "seat"} & back.done and "strip" in back.done


def test_the_tape_s_start_follows_the_school():
    # common practice, no published source
    spoke = 360.0 / 32
    length = 4 * math.pi * 622 / 32
    assert overlap_deg("at_valve", length / 2, 622) == pytest.approx((0.0, 2 * spoke))
    assert overlap_deg("past_valve", length, 622) == pytest.approx((-2 * spoke, 2 * spoke))
    assert sum(overlap_deg("opposite", length, 622)) / 2 == pytest.approx(180)
    _wheel, plan = planned(practice__tape_start="opposite")
    assert (plan.tape.start_deg + plan.tape.cut_deg) / 2 == pytest.approx(180)


@given(factor=st.floats(0.6, 1.8), share=st.floats(0.05, 1.0))
def test_a_dip_right_after_dosing_gives_back_the_dose(factor, share):
    _wheel, plan = planned()
    radii = pool_radii_mm(plan.tire, 622.0)
    read = plan.sealant.dip_mm / factor
    result = calibration(read, plan.sealant.dip_mm)
    assert pool_from_dip_ml(read, *radii, result) == pytest.approx(plan.sealant.free_ml, abs=0.01)
    assert pool_from_dip_ml(share * read, *radii, result) <= plan.sealant.free_ml + 0.01


@pytest.mark.parametrize("read", [0.0, -1.0, 0.1, 90.0])
def test_a_dip_that_cannot_be_does_not_calibrate(read):
    with pytest.raises(ValueError, match="dip"):
        calibration(read, 11.0)


def test_the_dip_table_rises_and_a_calibration_is_kept_in_the_log():
    _wheel, plan = planned()
    table = dip_table(*pool_radii_mm(plan.tire, 622.0))
    assert len(table) == 60 and all(a < b for a, b in itertools.pairwise(table))
    kept, _ = planned_after(
        StepEntry(stage="check_in"), Dip(depth_mm=9.0, free_ml=40.0, calibrates=True, factor=1.2)
    )
    assert kept.log.dip_factor == 1.2


def test_the_wheel_s_own_practice_goes_before_the_job_s():
    document = {**ordinary(), "practice": {"dose": "generous", "layers": 2}}
    assert plan_job(job_from_plain(document))[0].sealant.method == "generous"
    document["wheels"][0]["practice"] = {"dose": "lean"}
    plan = plan_job(job_from_plain(document))[0]
    assert (plan.sealant.method, plan.tape.layers) == ("lean", 2)


def test_of_the_valves_that_reach_the_one_that_suits_is_taken():
    stems = [
        {"name": "round", "length_mm": 40, "base_mm": 8},
        {"name": "narrow", "length_mm": 44, "base": "rectangular", "base_mm": 5},
        {"name": "short", "length_mm": 30},
    ]
    well = {"depth_mm": 4, "floor_mm": 6, "left_shoulder_mm": 5, "right_shoulder_mm": 5}
    _w, wide = planned(shelf__valves=stems)
    _w, tight = planned(shelf__valves=stems, rim__well=well)
    assert (wide.valve.stem, tight.valve.stem) == ("round", "narrow") and tight.valve.remarks == {}
    _w, curved = planned(shelf__valves=stems, rim__valve_face="curved")
    assert "washer" in curved.valve.remarks
    # a label's life goes before the climate's
    _w, labeled = planned(shelf__sealant={"life_days": 100})
    assert labeled.sealant.refresh_after_days == pytest.approx(100)
