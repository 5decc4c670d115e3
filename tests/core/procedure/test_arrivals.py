"""How a wheel comes in, and what follows from it for its steps, its stops and its sealant's clock."""

from datetime import date

import pytest

from inner_rim.core.plan.aftercare import due_care, overdue
from inner_rim.core.plan.wheel_plan import dose_due_ml, plan_job, plan_wheel
from inner_rim.core.progress.visit import coming_back
from inner_rim.core.record.log import Attempt, Dip, Dose, Finding, Leak, Logged, SignOff, StepEntry
from inner_rim.core.record.reading import as_plain, job_from_plain
from tests.samples import ordinary

TODAY = date(2026, 12, 1)


def plan_of(*entries, at="2026-12-01T10:00:00+00:00", **changes):
    job = job_from_plain(ordinary(**changes))
    log = [Logged(number=n, at=at, wheel_id="w1", entry=one) for n, one in enumerate(entries, 1)]
    return plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, log)


def codes(**changes):
    return [step.code for step in plan_job(job_from_plain(ordinary(**changes)))[0].steps]


def test_a_bare_rim_is_read_and_nothing_is_taken_out_of_it():
    bare = codes(arrival={"tube": False, "tire": "off"}, rim__hook="straight_side",
                 tire__straight_side_approved=True)  # fmt: skip
    assert bare[:4] == ["check_in.read", "check_in.approval", "check_in.weigh", "rim.look"]
    assert "strip.valve_out" not in bare and "strip.sealant_out" not in bare
    with_valve = codes(
        arrival={"tube": False, "tire": "off", "valve": "plain"}, work={"keep_valve": False}
    )
    assert "strip.valve_out" in with_valve


@pytest.mark.parametrize("new", [True, False])
def test_factory_tape_stays_and_a_tube_comes_out_through_one_side_where_the_tire_is_the_same(new):
    kept = codes(arrival={"taped": True}, tire__new=new)
    assert "tape.keep_look" in kept and "strip.tape_off" not in kept and "tape.lay" not in kept
    assert ("strip.tire_off" in kept) == new and ("bead.off_one" in kept) == (not new)
    assert "rim.walls" in kept and kept.index("strip.tube_out") < kept.index("valve.fit")
    assert "strip.tape_off" in codes(
        arrival={"taped": True}, work={"keep_tape": False}, tire__new=new
    )


def test_a_tubeless_wheel_that_was_put_on_a_tube_keeps_its_tape():
    wheel = as_plain(job_from_plain(ordinary()).wheels[0])
    tubed = plan_of(work={"kind": "back_to_tube"}, arrival={"tape_kind": "cloth"})
    done = [StepEntry(stage=step.stage, step=step.key) for step in tubed.steps[:-1]]
    tubed = plan_of(*done, SignOff(by="M. Osier", pressure_kpa=190.0), work={"kind": "back_to_tube"},
                    arrival={"tape_kind": "cloth"})  # fmt: skip
    back = coming_back(wheel, tubed)
    assert (
        back["arrival"]["tube"]
        and back["arrival"]["taped"]
        and back["arrival"]["tape_kind"] == "cloth"
    )
    again = codes(arrival=back["arrival"], work=back["work"], tire__new=False)
    assert "tape.keep_look" in again and "tape.lay" not in again and "strip.tire_off" not in again


def test_a_valve_with_side_ports_lets_sealant_past_an_insert_without_ports():
    refresh = {"work": {"kind": "refresh"}, "practice__sealant_route": "inject", "insert": {"ported": False},
               "sealant": {"name": "Eelgrass"}, "shelf__sealant": {"name": "Eelgrass"}}  # fmt: skip
    assert "sealant.inject" in codes(arrival={"valve": "ported"}, **refresh)
    assert "sealant.pour" in codes(arrival={"valve": "plain"}, **refresh)


def test_a_rim_without_tubeless_mark_is_said_asked_and_stopped_where_the_tire_is_hard():
    for route in ("pour", "inject"):
        assert "dry.stay" in codes(rim__tubeless_ready=False, practice__sealant_route=route)
    assert "dry.stay" not in codes(rim__tubeless_ready=True, practice__sealant_route="pour")
    soft = plan_of(rim__tubeless_ready=False)
    assert any(
        "Rim without" in one.message.read() for one in soft.cautions if one.stage == "check_in"
    )
    assert any(
        "one more layer" in one.message.read() for one in soft.cautions if one.stage == "tape"
    )
    assert not soft.stops
    hard = plan_of(rim__tubeless_ready=False, rim__internal_width_mm=19, rim__max_pressure_kpa=700,
                   tire__size="28-622", tire__max_pressure_kpa=700, tire__min_pressure_kpa=400)  # fmt: skip
    assert [(one.code, one.overridable) for one in hard.stops] == [("unmarked_rim_hard_tire", True)]
    assert any(gap.field == "rim.tubeless_ready" for gap in plan_of().assumed)


OLD = {
    "sealant": {"name": "Eelgrass", "in_ml": 60, "in_since": "2026-01-05"},
    "shelf__sealant": {"name": "Eelgrass"},
}


def test_the_sealant_s_clock_runs_through_a_repair_and_a_top_up_moves_it_by_its_share():
    plug = {"work": {"kind": "repair", "leak": "tread"}, **OLD}
    signed = SignOff(by="M. Osier", pressure_kpa=190.0)
    repaired = plan_of(signed, **plug)
    assert {one.code: one.day for one in due_care(repaired.wheel, repaired)}["refresh"] == date(
        2026, 7, 4
    )
    assert coming_back(as_plain(repaired.wheel), repaired)["sealant"]["in_since"] == "2026-01-05"
    refresh = {"work": {"kind": "refresh"}, "practice__sealant_route": "inject", **OLD}
    dip, dose = Dip(depth_mm=5.0, free_ml=20.0), Dose(dose_ml=40.0, name="Eelgrass")
    topped = plan_of(StepEntry(stage="check_in"), dip, dose, signed, **refresh)
    began = date.fromisoformat(topped.log.since.sealant_at[:10])
    assert (began - date(2026, 1, 5)).days == round((TODAY - date(2026, 1, 5)).days * 40 / 60)
    wiped = plan_of(StepEntry(stage="check_in"), StepEntry(stage="strip"), dose, signed,
                    **{**refresh, "practice__sealant_route": "pour"})  # fmt: skip
    assert wiped.log.since.sealant_at[:10] == "2026-12-01"


def test_what_is_past_its_date_and_stays_is_offered_as_work():
    old = {"kind": "repair", "leak": "tread", "tape_laid": "2018-03-12", "tape_changes": 5}
    both = plan_of(work=old, **OLD)
    assert [one.words.text[:9] for one in overdue(both.wheel, both, TODAY)] == [
        "The seala",
        "Tape laid",
    ]
    assert overdue(both.wheel, both, date(2018, 6, 1)) == ()
    fresh = plan_of(work={"kind": "retape"}, **OLD)
    assert overdue(fresh.wheel, fresh, TODAY) == ()  # both are replaced
    cloth = plan_of(work={"kind": "refresh", "tape_changes": 3}, arrival={"tape_kind": "cloth"})
    assert [one.words.values for one in overdue(cloth.wheel, cloth, TODAY)] == [{"tires": 3}]


def test_nothing_is_summed_without_a_dip():
    refresh = {"work": {"kind": "refresh"}, "practice__sealant_route": "inject", **OLD}
    assert dose_due_ml(plan_of(StepEntry(stage="check_in"), **refresh)) is None
    dip = Dip(depth_mm=0.0, free_ml=0.0)
    dry = plan_of(StepEntry(stage="check_in"), dip, **refresh)
    assert dose_due_ml(dry) == dry.sealant.dose_ml


def test_the_caution_against_mixing_stands_only_where_another_kind_is_in():
    def mixes(**changes):
        steps = plan_of(work={"kind": "refresh"}, practice__sealant_route="pour", **changes).steps
        return any("mix" in said.text for step in steps for said in step.cautions)

    assert not mixes(**OLD)
    assert mixes(sealant={"name": "Otherweed"}, shelf__sealant={"name": "Eelgrass"}) and mixes()


def test_grommet_washer_and_base_stand_in_the_valve_s_sentence():
    plan = plan_of(rim__valve_hole_mm=8.5, rim__valve_face="curved")
    said = next(step.text.read() for step in plan.steps if step.code == "valve.fit")
    assert "grommet" in said and "washer" in said


def test_a_valve_that_was_fitted_decides_the_route_after_taping_again():
    """With the tape taken off again, not the valve that the wheel came in with."""
    wheel = {"work": {"kind": "convert", "keep_valve": True}, "arrival": {"taped": True, "valve": "ported"},
             "insert": {"ported": False}, "practice__sealant_route": "inject"}  # fmt: skip
    again = StepEntry(stage="tape", outcome="again")
    plan = plan_of(StepEntry(stage="check_in"), StepEntry(stage="strip"), again, **wheel)
    assert plan.setup.ports == (plan.log.state.ports == "yes") and plan.log.run == 2
    assert plan.steps[0].code != "check_in.read"


def test_a_tube_presses_the_tape_home_where_the_beads_are_wetted():
    """Wetted again later, which says nothing of the wait in between."""
    home = {"practice__press_home": "tube", "practice__lubricant": "soap"}
    wet = [StepEntry(stage=one.stage, step=one.key) for one in plan_of(**home).steps]
    last = next(n for n, one in enumerate(wet) if one.step == "bead.wet")
    left = [step.code for step in plan_of(*wet[: last + 1], **home).steps]
    assert left.index("air.press") < left.index("tube.out")


def test_the_lay_out_goes_by_the_methods():
    def tools(**practice):
        return set(plan_of(**{f"practice__{name}": how for name, how in practice.items()}).tools)

    assert "blade" in tools(hole="cut") and "blade" not in tools(hole="pushed")
    assert "heat for the pick" in tools(hole="warmed")
    assert "mounting fluid" in tools(lubricant="fluid") and "brush" in tools(lubricant="sealant")
    assert not {"brush", "mounting fluid"} & tools(lubricant="none")
    assert "hair dryer" in set(plan_of(insert={"ported": True}, tire__new=True).tools)


def test_a_leak_is_looked_for_with_the_core_in_where_the_shop_seats_with_it_out():
    """The core went out and in without end: in for the look, out for the next try."""
    wheel = {"work": {"kind": "repair"}, "arrival": {"valve": "none", "air": False},
             "practice__core_out": True, **OLD}  # fmt: skip
    log = []
    for _n in range(40):
        step = plan_of(*log, **wheel).steps[0]
        if step.code == "repair.find":
            break
        if step.pressure_step:
            log.append(
                Attempt(peak_kpa=step.pressure_kpa, outcome="both_up", limit_kpa=340, core_out=True)
            )
        elif step.question:
            log.append(Finding(check=step.question, sound=True))
        else:
            log.append(StepEntry(stage=step.stage, step=step.key))
    assert step.code == "repair.find"
    assert plan_of(*log, **wheel).log.state.core == "in"


def test_a_ridden_wheel_is_not_pumped_twice_where_its_leak_turns_out_to_open_no_bead():
    """With unknown sealant and an unknown leak it would be opened; the leak is at the valve, and the beads stay."""
    kept = {"kind": "repair", "keep_valve": False}
    came = {"tube": False, "sealant": "unknown"}
    before = plan_of(work=kept, arrival=came)
    assert "air.step" in [step.code for step in before.steps]
    after = plan_of(Leak(place="valve"), work=kept, arrival=came)
    steps = [step.code for step in after.steps]
    assert "air.inflate" in steps and "air.step" not in steps
    assert after.log.state.seen == after.setup.steps + 1
