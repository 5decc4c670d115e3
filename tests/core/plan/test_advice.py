import math
import random

import msgspec
import numpy as np
import pytest

from inner_rim.core.models.inflation import GAP_MM, Bottle, max_leak_l_s, needed_l_s
from inner_rim.core.models.pressure import RIDE_STEPS, moved_kpa
from inner_rim.core.models.sealant import dip_band_ml, pool_from_dip_ml, pool_radii_mm
from inner_rim.core.models.simulated import Bead, SimulatedWheel, stepped
from inner_rim.core.models.tire import dip_mm
from inner_rim.core.plan.advisor import (
    MINUTES,
    climbs,
    gap_seen,
    judged_gap_mm,
    next_step_odds,
    remedy_counts,
    suggestions,
)
from inner_rim.core.plan.aftercare import DipSeen, due_care, fitted_life_days
from inner_rim.core.plan.wheel_plan import plan_job, plan_wheel
from inner_rim.core.progress.diagnosis import ENDS, PATH
from inner_rim.core.record.log import Attempt, Care, Dip, Dose, SignOff, StepEntry
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.resolved import Learned, LearnedFigure
from tests.samples import logged, ordinary, planned_after


def planned(**changes):
    job = job_from_plain(ordinary(**changes))
    return job.wheels[0], plan_job(job)[0]


def pumped(gap, source, core_out, seconds=12.0, **more):
    wheel = SimulatedWheel(
        2900, 622, GAP_MM[gap], source, core_out, 330, (Bead(180), Bead(240, 0.035)), **more
    )
    for _ in range(int(seconds / 0.002)):
        wheel = stepped(wheel, 0.002)
    return wheel


@pytest.mark.parametrize("gap", ["snug", "ordinary", "loose"])
@pytest.mark.parametrize(
    ("source", "core_out"),
    [("floor_pump", False), ("compressor", False), ("compressor", True), ("charge", True)],
)
def test_the_simulated_wheel_comes_up_where_the_flow_outruns_the_leak(gap, source, core_out):
    # the docs' check figures: needed 0.18, 0.72, 5.4 l/s for two dry beads.
    given = max_leak_l_s(2.9, source, core_out, Bottle())
    needed = needed_l_s(GAP_MM[gap], 622.0)
    if 0.9 < given / needed < 1.15:
        pytest.skip("on the border")
    came_up = pumped(gap, source, core_out).pressure_kpa > 20.0
    assert came_up == (given > needed)


def test_the_advice_heeds_the_shop_s_record_and_its_bottle():
    tries = [StepEntry(stage=s) for s in ("check_in", "strip", "tape", "valve", "mount")]
    plan = planned_after(*tries, *[tried()] * 3)[0]
    for counts, best in (
        (
            {**dict.fromkeys(("core_out", "wet", "bigger_source"), (0, 20)), "strap": (18, 20)},
            "strap",
        ),
        ({"core_out": (20, 20)}, "core_out"),
        ({}, "core_out"),
    ):
        assert (
            suggestions(plan, plan.log.seating.tries, "floor_pump", False, False, counts)[0].remedy
            == best
        )
    small = planned(practice__bottle_ml=300.0, practice__bottle_kpa=300.0)[1]

    def bigger(plan):
        result = suggestions(plan, [tried()], "floor_pump", False, False)
        return next(one.probability for one in result if one.remedy == "bigger_source")

    assert bigger(small) < bigger(plan) - 0.05


def test_beads_pop_one_after_the_other_and_each_takes_pressure():
    wheel = SimulatedWheel(
        2900, 622, GAP_MM["snug"], "floor_pump", False, 330, (Bead(180), Bead(240, 0.035))
    )
    falls = []
    for _ in range(15000):
        after = stepped(wheel, 0.002)
        if after.pressure_kpa < wheel.pressure_kpa - 2.0:
            falls.append((wheel.pressure_kpa, wheel.pressure_kpa - after.pressure_kpa))
        wheel = after
    assert [round(p) for p, _fall in falls] == [180, 240]
    assert falls[0][1] == pytest.approx((180 + 101.325) * (1 - 1 / 1.03), abs=0.5)  # Boyle
    assert all(bead.seated for bead in wheel.beads)


def test_a_tape_leak_loses_air_and_a_sound_wheel_does_not():
    shut = {"leak_mm2": 0.4}
    leaking = msgspec.structs.replace(pumped("snug", "compressor", True, **shut), top_kpa=0.0)
    sound = msgspec.structs.replace(pumped("snug", "compressor", True), top_kpa=0.0)
    for _ in range(5000):
        leaking, sound = stepped(leaking, 0.002), stepped(sound, 0.002)
    assert sound.pressure_kpa > 325 and leaking.pressure_kpa < 300


def tried(outcome="not_up", **more):
    return Attempt(peak_kpa=20, outcome=outcome, limit_kpa=340, **more)


def test_advice_is_cheapest_first_untried_first_and_by_what_worked_here():
    _w, plan = planned()
    first = suggestions(plan, [tried()], "floor_pump", False, False)
    assert [s.remedy for s in first][:3] == ["core_out", "wet", "bigger_source"]
    assert all(0.0 <= s.probability <= 1.0 for s in first)
    # a quarter of an hour, and half of one
    assert [s.remedy for s in first][-2:] == ["tube_first", "layer"]
    again = suggestions(plan, [tried(changed=("core_out",))], "floor_pump", True, True)
    assert again[0].remedy == "bigger_source" and "core_out" not in [s.remedy for s in again]
    shop = {"strap": (9, 10), "wet": (0, 10)}
    assert suggestions(plan, [tried()], "floor_pump", False, False, shop)[0].remedy in (
        "core_out",
        "strap",
    )
    order = [s.remedy for s in suggestions(plan, [tried()], "floor_pump", True, False, shop)]
    assert order.index("strap") < order.index("wet")  # what works here goes before what does not
    stands = Attempt(peak_kpa=200, outcome="one_low", limit_kpa=340, low_left=(3,))
    low = suggestions(plan, [stands], None, None, False)
    assert low[0].remedy == "push_spot" and "slides" in low[0].why.read()
    assert "times as fast" in first[0].why.read() and "%" not in first[0].why.read()


def test_a_tire_that_stands_at_pressure_has_no_problem_of_flow():
    """docs/models.md 2.14: neither the core nor another source is a remedy then."""
    seated = [
        StepEntry(stage=s)
        for s in ("check_in", "strip", "tape", "valve", "insert", "mount", "sealant")
    ]
    top = Attempt(peak_kpa=280, outcome="not_up", limit_kpa=340, target_kpa=280)
    plan, progress = planned_after(
        *seated, top, insert={"ported": True}, work__folded=True, practice__sealant_route="pour"
    )
    offered = {
        one.remedy for one in suggestions(plan, progress.seating.tries, "floor_pump", False, False)
    }
    assert offered and not offered & {"core_out", "bigger_source", "lift", "strap"}
    assert {"straighten", "warm"} <= offered and next_step_odds(plan) is None
    lower = Attempt(peak_kpa=140, outcome="not_up", limit_kpa=340, target_kpa=140)
    plan, progress = planned_after(*seated, lower, practice__sealant_route="pour")
    assert 0.0 < next_step_odds(plan) < 1.0


def test_what_the_tries_say_of_the_gap():
    _w, plan = planned()
    pump = tried("no_pressure", source="floor_pump", core_out=False)
    seen = gap_seen(plan, [pump, tried("both_up", source="compressor", core_out=True)])
    assert 0.003 < seen.above_mm < seen.below_mm
    half = gap_seen(
        plan, [pump, tried("both_up", source="compressor", core_out=True, changed=("wet",))]
    )
    assert half.above_mm == pytest.approx(0.5 * seen.above_mm) and half.below_mm == seen.below_mm
    small, large = (
        gap_seen(
            msgspec.structs.replace(plan, methods=bottle),
            [tried("both_up", source="charge", core_out=True)],
        )
        for bottle in (
            msgspec.structs.replace(plan.methods, bottle_ml=ml) for ml in (400.0, 4000.0)
        )
    )
    assert small.below_mm < large.below_mm  # the shop's own bottle counts
    assert seen.above_mm <= judged_gap_mm(plan.seating_odds, seen) <= seen.below_mm


def test_a_change_worked_where_pressure_built_or_where_the_climb_after_it_seated_the_beads():
    def at(kpa, outcome, *changed):
        return Attempt(
            peak_kpa=kpa, outcome=outcome, limit_kpa=340, target_kpa=kpa, changed=changed
        )

    flow = [
        at(5, "no_pressure"),
        at(5, "no_pressure", "wet"),
        at(140, "not_up", "core_out"),
        at(210, "both_up"),
    ]
    spot = [
        at(140, "one_low"),
        at(140, "not_up", "push_spot"),
        at(210, "not_up"),
        at(280, "both_up"),
    ]
    fails = [at(280, "not_up"), at(140, "not_up", "wet"), at(210, "not_up"), at(280, "not_up")]
    assert remedy_counts([flow, spot, fails]) == {
        "wet": (0, 2),
        "core_out": (1, 1),
        "push_spot": (1, 1),
    }
    assert [len(one.tries) for one in climbs(spot)] == [1, 3]


@pytest.mark.parametrize("said", RIDE_STEPS)
@pytest.mark.parametrize("now", [150.0, 151.0, 250.0, 339.0, 340.0])
def test_a_ride_s_word_moves_the_pressure_inside_minimum_and_limit(said, now):
    _w, plan = planned()
    then = moved_kpa(now, said, plan.pressure, 1.0)
    assert 150.0 <= then <= 340.0
    assert (then - now) * RIDE_STEPS[said] >= 0.0
    if said in ("rim_struck", "burped") and now < 339.0:
        assert then > now


def test_the_sealant_s_date_follows_dose_and_dip():
    job = job_from_plain(ordinary())

    def care(log):
        plan = plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, log)
        return {one.code: one for one in due_care(plan.wheel, plan)}

    _wheel, plan = planned()
    log = logged(Dose(dose_ml=65), SignOff(by="M. Osier", pressure_kpa=190))
    dates = {code: one.day for code, one in care(log).items()}
    # the end and half of 180 days
    assert (dates["refresh"] - dates["check"]).days == pytest.approx(90, abs=1)
    assert care(log[:1]) == {}
    dry = Dip(depth_mm=0.6 * plan.sealant.dip_mm, free_ml=20.0)
    # 40 days on, more than half is gone
    later = [*log, *logged(dry, at="2027-01-03T10:00:00+00:00")]
    sooner = care(later)["refresh"].day
    # between the dip's and the climate's
    assert (sooner - dates["check"]).days < 30 and sooner < dates["refresh"]
    again = [*later, *logged(Care(what="refilled"), at="2027-01-04T10:00:00+00:00")]
    assert care(again)["refresh"].day.isoformat() == "2027-07-03"


def test_dates_follow_what_really_went_in_and_a_dipstick_s_calibration():
    """The same dip after 40, 60 and 100 ml: the more went in, the faster it dries; a wheel with a tube has no date."""
    job = job_from_plain(ordinary())

    def refresh(*entries, later=(), **work):
        wheel = job_from_plain(ordinary(**work)).wheels[0]
        log = [*logged(*entries, SignOff(by="M. Osier", pressure_kpa=190)),
               *logged(*later, at="2027-01-23T10:00:00+00:00")]  # fmt: skip
        plan = plan_wheel(wheel, job.ride, job.practice, job.shelf, log)
        return {one.code: one.day for one in due_care(plan.wheel, plan)}.get("refresh")

    dip = Dip(depth_mm=7.0, free_ml=20.0)
    days = [refresh(Dose(dose_ml=ml), later=[dip]) for ml in (40.0, 60.0, 100.0)]
    assert days[0] > days[1] > days[2]
    shallow = Dip(depth_mm=9.0, free_ml=40.0, calibrates=True, factor=1.3)
    assert refresh(Dose(dose_ml=60.0), shallow, later=[dip]) > days[1]  # the same 7 mm are more
    assert refresh(work__kind="back_to_tube") is None


def test_drying_is_linear_and_a_doubtful_dip_is_bounded():
    assert 180 < fitted_life_days(50, [DipSeen(30, 50, 3)], 180) < 500
    assert 40 < fitted_life_days(50, [DipSeen(30, 0, 3)], 180) < 180
    with pytest.raises(ValueError, match="rate"):
        fitted_life_days(0, [], 180)


@pytest.mark.parametrize("day", [3, 20, 60, 120])
def test_a_dip_never_makes_the_drying_rate_worse_than_the_climate_s_alone(day):
    """Simulated wheels: true rates around the climate's, a dipstick that is off by 1 mm."""
    _w, plan = planned()
    radii = pool_radii_mm(plan.tire, 622.0)
    rng, with_dip, alone = random.Random(day), 0.0, 0.0
    for _ in range(300):
        truth = rng.gauss(0.0, 0.35)
        left = plan.sealant.free_ml * max(0.0, 1.0 - day * math.exp(truth) / 180.0)
        depth = max(0.0, (dip_mm(left, *radii) if left > 0.0 else 0.0) + rng.gauss(0.0, 1.0))
        low, high = dip_band_ml(depth, *radii)
        seen = DipSeen(
            day,
            pool_from_dip_ml(depth, *radii) if depth > 0.0 else 0.0,
            max(0.5, 0.5 * (high - low)),
        )
        result = math.log(180.0 / fitted_life_days(plan.sealant.free_ml, [seen], 180.0))
        with_dip += (result - truth) ** 2
        alone += truth**2
    assert with_dip <= 1.02 * alone
    if day >= 60:
        assert with_dip < 0.7 * alone


def test_ranking_by_probability_and_minutes_costs_less_than_a_fixed_order():
    """Simulated shops whose remedies work otherwise than the model thinks, and learn."""
    _w, plan = planned()
    fixed = ("core_out", "wet", "lift", "strap", "bigger_source", "layer", "tube_first")
    for wheels in (20, 100, 500):
        rng = random.Random(wheels)
        spent = {"learned": 0.0, "fixed": 0.0}
        for _shop in range(12):
            truth = {r: rng.betavariate(2, 2) for r in fixed}
            counts = {}
            for _wheel in range(wheels):
                worked = {r: rng.random() < truth[r] for r in fixed}
                for name in spent:
                    order = fixed if name == "fixed" else [
                        s.remedy for s in suggestions(plan, [tried()], "floor_pump", False, False, counts)
                    ]  # fmt: skip
                    for remedy in order:
                        spent[name] += MINUTES[remedy]
                        if name == "learned":
                            won, all_ = counts.get(remedy, (0, 0))
                            counts[remedy] = (won + worked[remedy], all_ + 1)
                        if worked[remedy]:
                            break
        assert spent["learned"] < spent["fixed"], wheels


def test_every_path_of_the_guide_ends_and_every_end_is_reached():
    reached = set()

    def walk(code, way):
        assert code not in way, "a circle"
        if code not in PATH:
            reached.add(code)
            return
        for answer in (PATH[code].yes, PATH[code].no):
            walk(answer, (*way, code))

    walk("start", ())
    assert reached == set(ENDS)


@pytest.mark.parametrize(("factor", "spread"), [(1.0, 0.9), (0.6, 0.5), (2.0, 1.3)])
def test_the_odds_of_a_change_use_the_gap_as_it_was_learned(factor, spread):
    """Against gaps drawn by NumPy: those that a floor pump did not outrun with the core in, and does with it out."""
    wheel, _plan = planned()
    learned = Learned(gap=LearnedFigure(math.log(factor), 0.2, 12), gap_spread=spread)
    plan = plan_wheel(wheel, learned=learned)
    before, after = (
        max_leak_l_s(plan.tire.air_volume_ml / 1000.0, "floor_pump", out, Bottle())
        for out in (False, True)
    )
    rng = np.random.default_rng(3)
    leaks = plan.seating_odds.needed_l_s * np.exp(rng.normal(0.0, spread, 400_000))
    true = np.mean((leaks > before) & (leaks <= after)) / np.mean(leaks > before)
    advice = suggestions(plan, [tried()], "floor_pump", False, False)
    said = next(one.probability for one in advice if one.remedy == "core_out")
    assert said == pytest.approx(true, abs=0.02)
