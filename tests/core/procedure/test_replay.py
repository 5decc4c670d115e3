"""The log replays through the actions: what state the wheel is in, whatever is done, skipped or taken back."""

import pytest

from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.procedure.recipes import TAKES_APART
from inner_rim.core.procedure.replay import as_logged, seated_kpa
from inner_rim.core.procedure.setup import start_of
from inner_rim.core.progress.progress import derive
from inner_rim.core.record.log import Attempt, Dose, Finding, Inspection, Leak, StepEntry
from inner_rim.core.record.reading import job_from_plain
from tests.samples import logged, ordinary

UP = Attempt(peak_kpa=300, outcome="both_up", limit_kpa=340)


def after(*entries, **changes):
    job = job_from_plain(ordinary(**changes))
    log = logged(*entries)
    bare = plan_job(job)[0]
    wheel = as_logged(job.wheels[0], log, bare.methods.layers or 1)
    plan = (
        plan_job(job_from_plain({**ordinary(**changes)}))[0] if wheel is job.wheels[0] else _plan(job, wheel)
    )
    return plan, derive(wheel, plan, log)


def _plan(job, wheel):
    import msgspec

    return plan_job(msgspec.structs.replace(job, wheels=[wheel]))[0]


def stages(*names):
    return tuple(StepEntry(stage=name) for name in names)


TO_SEAT = stages("check_in", "strip", "tape", "valve", "mount")
DRY = tuple(Finding(check=c, sound=True) for c in ("dry_test_leaks",))


def state(*entries, **changes):
    return after(*entries, **changes)[1].physical


def test_the_state_goes_with_the_work():
    assert state().state.tube == "in"
    assert state(*stages("check_in", "strip")).state.bed == "dry"
    mounted = state(*TO_SEAT).state
    assert (mounted.first, mounted.last, mounted.valve, mounted.air) == ("on", "on", "in", "flat")
    seated = state(*TO_SEAT, UP).state
    assert (seated.first, seated.line, seated.air) == ("seated", "even", "up")


def test_after_injecting_the_core_is_out_until_it_is_put_back_and_nothing_is_held_before_that():
    at_sealant = (*TO_SEAT, UP, StepEntry(stage="seat"), StepEntry(stage="sealant", step="core.out"),
                  Dose(dose_ml=60.0, name="Eelgrass"), StepEntry(stage="sealant", step="sealant.inject"))  # fmt: skip
    _plan, progress = after(*at_sealant)
    assert progress.physical.state.core == "out" and progress.physical.sealant_ml == 60.0
    assert progress.physical.sealant == "Eelgrass" and progress.stage == "sealant"
    while progress.stage == "sealant":
        item = progress.step
        entry = Finding(check=item.question, sound=True) if item.question else StepEntry(
            stage="sealant", step=item.key, completes=progress.last_of_stage
        )  # fmt: skip
        at_sealant = (*at_sealant, entry)
        _plan, progress = after(*at_sealant)
    now = progress.physical.state
    assert (progress.stage, now.core, now.air, now.line) == ("hold", "in", "up", "even")


def test_a_slip_taken_back_is_as_if_it_had_not_been():
    dosed = (*TO_SEAT, UP, StepEntry(stage="seat"), Dose(dose_ml=60.0),
             StepEntry(stage="sealant", step="sealant.inject"))  # fmt: skip
    back = StepEntry(stage="sealant", step="sealant.inject", outcome="reopened")
    assert state(*dosed).sealant_ml == 60.0 and state(*dosed, back).sealant_ml == 0.0
    core = StepEntry(stage="sealant", step="core.in", outcome="reopened")
    assert state(*dosed, core).sealant_ml == 60.0  # the dose was before it


def test_air_at_a_nipple_leads_back_to_taping_with_the_tire_s_own_state():
    held = (*TO_SEAT, UP, StepEntry(stage="seat"), Dose(dose_ml=60.0), *stages("sealant", "hold"))
    plan, progress = after(*held, Leak(place="nipple"), StepEntry(stage="tape", outcome="again"))
    assert plan.work == "retape" and progress.stage == "strip" and progress.done == {"check_in"}
    assert progress.physical.state.sealant == "in" and progress.physical.state.tube == "out"
    codes = [step.code for step in plan.steps]
    assert "strip.tape_off" in codes and "strip.tube_out" not in codes


def test_another_layer_as_a_remedy_is_in_plan_slack_and_state():
    bare, _ = after(*TO_SEAT)
    more, progress = after(
        *TO_SEAT, Attempt(peak_kpa=100, outcome="not_up", limit_kpa=340, changed=("layer",))
    )
    assert (bare.tape.layers, more.tape.layers) == (1, 2) and more.tape.length_mm > 1.8 * bare.tape.length_mm
    assert more.mounting.slack_mm < bare.mounting.slack_mm and progress.physical.layers_added == 1


def test_with_the_core_out_at_seating_it_goes_back_in_before_anything_is_judged():
    _plan, progress = after(*TO_SEAT, Attempt(peak_kpa=300, outcome="both_up", limit_kpa=340, core_out=True),
                            practice__core_out=True)  # fmt: skip
    assert (progress.stage, progress.step.code, progress.physical.state.core) == ("seat", "core.in", "out")


def test_a_core_taken_out_as_a_remedy_goes_back_in_before_anything_is_judged():
    for route in ("pour", "inject"):
        up = Attempt(peak_kpa=200, outcome="both_up", limit_kpa=340, core_out=True, changed=("core_out",))
        before = TO_SEAT if route == "inject" else (*TO_SEAT, StepEntry(stage="sealant"))
        _plan, progress = after(*before, up, practice__sealant_route=route)
        assert (progress.stage, progress.step.code, progress.physical.state.core) == (
            "seat",
            "core.in",
            "out",
        )


def test_a_step_back_after_the_climb_leaves_the_beads_seated_and_one_before_it_does_not():
    tested = (*TO_SEAT, UP, *DRY, StepEntry(stage="seat", step="air.deflate"))
    _plan, back = after(*tested, StepEntry(stage="seat", step="air.deflate", outcome="reopened"))
    assert (back.stage, back.step.code, back.physical.state.first) == ("seat", "air.deflate", "seated")
    _plan, wet = after(*tested, StepEntry(stage="seat", step="bead.wet", outcome="reopened"))
    assert (wet.step.code, wet.physical.state.first) == ("bead.wet", "on")
    assert state(*TO_SEAT, UP, StepEntry(stage="mount", outcome="reopened")).state.first == "off"
    assert state(*TO_SEAT, StepEntry(stage="seat")).state.first == "seated"  # the whole stage, in one word


AGAIN = StepEntry(stage="tape", outcome="again", step="layer")


def test_beads_that_fall_off_get_one_more_layer_over_the_good_tape():
    """Nothing is undone that need not be: the tape stays, and sealant that was never in is not wiped out."""
    dry = {"practice__sealant_route": "inject"}
    before, _ = after(*TO_SEAT, UP, **dry)
    plan, progress = after(*TO_SEAT, UP, Finding(check="beads_unseat", sound=False), AGAIN, **dry)
    codes = [step.code for step in plan.steps]
    assert "strip.tape_off" not in codes and "rim.clean" not in codes and "strip.sealant_out" not in codes
    assert codes.count("tape.lay") == 1 and "tape.keep_look" in codes and codes.count("hole.open") == 1
    assert plan.tape.layers == before.tape.layers + 1 and plan.tape.length_mm == before.tape.length_mm
    lay = next(step for step in plan.steps if step.code == "tape.lay")
    assert "one more" in lay.text.text and "over the good tape" in lay.text.text
    assert progress.physical.layers_added == 1 and progress.physical.sealant_ml == 0.0
    assert (progress.physical.state.air, progress.physical.state.first) == ("flat", "on")  # as it stands now
    assert not {"strip.deflate", "strip.break_beads"} & set(codes)
    twice, _ = after(*TO_SEAT, UP, AGAIN, *TO_SEAT[1:], UP, AGAIN, **dry)
    assert twice.tape.layers == before.tape.layers + 2 and twice.tape.length_mm == before.tape.length_mm


@pytest.mark.parametrize("last", ["seat", "sealant", "hold"])
def test_air_that_may_be_in_is_always_let_out_before_a_bead_is_broken(last):
    """A stage confirmed whole says nothing of its steps: what was flat before may be at pressure."""
    flat = StepEntry(stage="seat", step="air.deflate")
    plan, progress = after(*TO_SEAT, UP, flat, StepEntry(stage=last), AGAIN, practice__sealant_route="inject")
    codes = [step.code for step in plan.steps]
    assert progress.physical.state.air == "up" and codes.index("strip.deflate") < codes.index(
        "strip.break_beads"
    )


def test_air_that_a_slip_only_seemed_to_let_out_is_let_out_for_good():
    flat = StepEntry(stage="seat", step="air.deflate")
    slip = StepEntry(stage="seat", step="air.deflate", outcome="reopened")
    plan, progress = after(*TO_SEAT, UP, flat, slip, AGAIN, practice__sealant_route="inject")
    assert progress.physical.state.air == "up" and "strip.deflate" in [step.code for step in plan.steps]


def test_beads_that_are_seated_once_more_settle_by_forecast_until_they_are_up():
    log = (*TO_SEAT, UP)
    assert seated_kpa(logged(*log)) == 300
    for later in (
        StepEntry(stage="mount", outcome="reopened"),
        StepEntry(stage="seat", outcome="reopened"),
        Inspection(low_left=(3,)),
        Inspection(after_over_limit=True),
    ):
        assert seated_kpa(logged(*log, later)) is None
        assert seated_kpa(logged(*log, later, UP)) == 300
    assert seated_kpa(logged(*log, StepEntry(stage="hold", outcome="reopened"))) == 300


def test_a_layer_after_sealant_went_in_wipes_what_was_logged():
    plan, progress = after(*TO_SEAT, UP, Dose(dose_ml=90.0, name="Eelgrass"), AGAIN)
    assert "strip.sealant_out" in [step.code for step in plan.steps]
    assert progress.physical.sealant_ml == 90.0


def test_a_wheel_is_taken_apart_only_as_far_as_it_came_in_together():
    def strip(**arrival):
        plan, _progress = after(work__kind="tire_change", arrival=arrival)
        return [step.code for step in plan.steps if step.stage == "strip" and step.code in TAKES_APART]

    assert strip() == ["strip.deflate", "strip.break_beads", "strip.tire_off"]
    assert strip(air=False) == ["strip.break_beads", "strip.tire_off"]
    assert strip(seated=False) == ["strip.tire_off"]
    assert strip(tire="off") == []
    flat, progress = after(work__kind="refresh", arrival={"seated": False})
    assert flat.setup.opens and any(step.climb for step in flat.steps)
    assert (progress.physical.state.air, progress.physical.state.first) == ("flat", "on")
    tube, _progress = after(
        work__kind="insert", insert=insert(ported=True), arrival={"tube": True, "taped": True}
    )
    codes = [step.code for step in tube.steps]
    assert "strip.tube_out" in codes and "strip.sealant_out" not in codes and "insert.on" in codes
    assert "tape.keep_look" in codes and "valve.fit" in codes


def test_a_factory_taped_rim_with_a_tube_keeps_its_tape():
    plan, _progress = after(work__keep_tape=True)
    codes = [step.code for step in plan.steps]
    assert "strip.tube_out" in codes and "tape.keep_look" in codes
    assert not {"tape.lay", "strip.tape_off", "strip.rim_strip_off", "rim.clean"} & set(codes)
    assert start_of(plan.setup).tape == "old" and start_of(plan.setup).tube == "in"


def insert(**more):
    return {"name": "Reed", "bead_seat_diameter_mm": 622, "rim_min_mm": 20, "rim_max_mm": 30, **more}


def test_an_insert_without_ports_takes_another_valve_and_side_ports_let_sealant_in():
    stems = {"shelf__valves": [{"name": "Ported 44", "length_mm": 44, "ported": True}]}
    inject = {"practice__sealant_route": "inject"}
    plan, _ = after(insert=insert(ported=False), work__kind="insert", **inject, **stems)
    codes = [step.code for step in plan.steps]
    assert "strip.valve_out" in codes and "valve.fit" in codes and "sealant.inject" in codes
    assert plan.setup.route == "inject" and "ports" not in plan.valve.remarks
    kept, _ = after(insert=insert(ported=False), work__kind="tire_change", **inject, **stems)
    assert kept.setup.keeps_valve and kept.setup.route == "pour"


def test_ports_that_were_not_entered_are_not_said_to_be_missing():
    plan, _ = after(insert=insert(), practice__sealant_route="inject")
    assert plan.setup.route == "pour" and "not entered" in plan.setup.route_reason
    assert "not entered" in plan.valve.remarks["ports"].text
    assert any("not entered" in remark.text for remark in plan.insert.reasons)


def test_a_refresh_with_one_bead_opened_leaves_the_other_seated_and_climbs_in_steps():
    opened = {"work__kind": "refresh", "practice__sealant_route": "pour"}
    plan, _ = after(**opened)
    codes = [step.code for step in plan.steps]
    assert "strip.break_beads" not in codes and codes.index("bead.open_one") < codes.index("bead.off_one")
    assert {"tape.keep_look", "valve.core_check"} <= set(codes) and "seat" in plan.stages
    assert any(step.climb for step in plan.steps)
    tucked, _ = after(insert=insert(ported=True), **opened)
    partial = next(step for step in tucked.steps if step.code == "bead.partial")
    assert "under the insert" in partial.text.text
