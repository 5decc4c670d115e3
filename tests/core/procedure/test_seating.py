"""The climb, the failed try and its remedies follow the wheel as it is (docs/job.md 1.2, rules 11 to 14)."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.models.air import at_ride_kpa
from inner_rim.core.models.limit import hand_step_kpa
from inner_rim.core.progress.visit import coming_back
from inner_rim.core.record.log import Attempt, Changed, Finding, Inspection, Override, StepEntry
from inner_rim.work.planning import plan_document
from tests.samples import logged, ordinary, planned_after

POURED = {"practice__sealant_route": "pour"}
TO_SEAT = tuple(
    StepEntry(stage=s) for s in ("check_in", "strip", "tape", "valve", "mount", "sealant")
)
KELP = {"name": "Kelp", "ported": True, "bead_seat_diameter_mm": 622, "height_mm": 20}


def attempt(kpa, outcome="not_up", **more):
    return Attempt(
        peak_kpa=kpa, outcome=outcome, limit_kpa=340, target_kpa=kpa, core_out=False, **more
    )


def step(code, stage="seat"):
    return StepEntry(stage=stage, step=code)


def codes(*entries, **changes):
    return [one.code for one in planned_after(*entries, **changes)[0].steps]


def pressures(*entries, **changes):
    return [
        one.pressure_kpa
        for one in planned_after(*entries, **changes)[0].steps
        if one.code == "air.step"
    ]


def test_the_climb_restarts_low_once_a_bead_was_opened_or_came_off():
    """With `seat_first` a wheel seated at 1.4 bar, its insert in, was pumped to 2.8 bar at once."""
    dry = tuple(StepEntry(stage=s) for s in ("check_in", "strip", "tape", "valve", "mount"))
    opened = ("air.deflate", "bead.open_one", "bead.off_one")
    seated = (*dry, attempt(140, "both_up"), *(step(code, "insert") for code in opened))
    again = (*seated, Finding(check="arrow_not_confirmed_insert", sound=True),
             *(step(code, "insert") for code in ("insert.on", "bead.wet", "bead.refit")))  # fmt: skip
    tight = {
        "insert": KELP,
        "practice__insert_order": "seat_first",
        "practice__sealant_route": "inject",
    }
    _plan, progress = planned_after(*again, **tight)
    assert (
        progress.seats_next
        and progress.seating.step_kpa == 140
        and progress.seating.step_number == 1
    )
    up = (*TO_SEAT, attempt(140, "both_up"), attempt(280, "both_up"))
    for low in (Finding(check="bead_line_uneven", sound=False), Inspection(low_left=(3,))):
        assert codes(*up, low, **POURED)[:2] == ["valve.top", "air.deflate"]
        assert pressures(*up, low, **POURED)[0] == 140


def test_the_tire_is_flat_before_a_core_a_bead_or_a_lower_pressure():
    top = (*TO_SEAT, attempt(140), attempt(210), attempt(280))
    assert codes(*top, **POURED)[:3] == ["valve.top", "air.deflate", "air.step"]
    for remedy, code in (
        ("core_out", "core.out"),
        ("wet", "bead.wet"),
        ("strap", "bead.strap"),
        ("lift", "bead.lift"),
    ):
        planned = codes(*top, Changed(remedy=remedy), **POURED)
        assert planned[:3] == ["valve.top", "air.deflate", code], planned[:5]
        assert pressures(*top, Changed(remedy=remedy), **POURED)[0] == 140
    assert codes(*TO_SEAT, attempt(140, "hisses"), **POURED)[:3] == [
        "valve.top",
        "air.deflate",
        "air.step",
    ]
    dry = codes(
        *top[:-4], attempt(280), Changed(remedy="core_out"), practice__sealant_route="inject"
    )
    assert dry[:2] == ["air.deflate", "core.out"]  # no sealant: the valve stays where it is


def test_a_remedy_is_a_procedure_and_what_it_changed_is_in_state_plan_odds_and_entry():
    insert = {**POURED, "insert": KELP}
    at = (*TO_SEAT[:4], StepEntry(stage="insert"), *TO_SEAT[4:], attempt(280))
    planned = codes(*at, Changed(remedy="straighten"), **insert)
    assert planned[:3] == ["valve.top", "air.deflate", "insert.straighten"]
    top = (*TO_SEAT, attempt(280))
    before, _ = planned_after(*top, **POURED)
    done = (
        Changed(remedy="push_spot"),
        *(step(code) for code in ("valve.top", "air.deflate", "bead.push")),
    )
    after, progress = planned_after(*top, *done, **POURED)
    assert after.log.state.changed == {"push_spot"} and progress.seats_next
    assert after.seats.median_kpa == pytest.approx(0.8 * before.seats.median_kpa)
    assert after.seats.by(280.0) > before.seats.by(280.0)


def test_a_tire_seated_with_the_core_out_is_inflated_in_one_go_only_once_its_beads_were_seen_to_stay():
    up = Attempt(peak_kpa=280, outcome="both_up", limit_kpa=340, target_kpa=280, core_out=True)
    planned = codes(*TO_SEAT, up, practice__core_out=True, **POURED)
    assert planned[:2] == ["valve.top", "air.deflate"]
    assert {"core.in", "dry.stay"} <= set(planned[: planned.index("air.inflate")])
    fell = codes(*TO_SEAT, up, step("valve.top"), step("air.deflate"), step("core.in"),
                 Finding(check="beads_unseat", sound=False), practice__core_out=True, **POURED)  # fmt: skip
    assert "air.inflate" not in fell[: fell.index("air.step")]


def test_beads_that_come_off_may_be_seated_after_the_sealant_by_a_named_person():
    dry = tuple(StepEntry(stage=s) for s in ("check_in", "strip", "tape", "valve", "mount"))
    off = (*dry, attempt(280, "both_up"), Finding(check="dry_test_leaks", sound=True), step("air.deflate"),
           Finding(check="beads_unseat", sound=False))  # fmt: skip
    said = Override(code="beads_unseat", by="M. Osier", reason="hard road tire")
    planned = codes(*off, said, practice__sealant_route="inject")
    assert (
        planned.index("sealant.inject") < planned.index("air.step") and "air.inflate" not in planned
    )


def test_after_a_remedy_nothing_is_asked_that_nobody_could_have_changed():
    up = (
        *TO_SEAT,
        attempt(140, "falls_off"),
        StepEntry(stage="tape", outcome="again", step="layer"),
    )
    plan, _ = planned_after(*up, **POURED)
    asked = {one.question for one in plan.steps}
    assert not asked & {"rim_dented", "tire_unsound", "valve_core_stuck", "spoke_end_through"}


@pytest.mark.parametrize(
    ("changes", "seated"),
    [({"tire__size": "100-559", "rim__bead_seat_diameter_mm": 559, "rim__internal_width_mm": 80,
       "tire__max_pressure_kpa": 200, "tire__min_pressure_kpa": None, "previous_pressure_kpa": 70,
       "practice__start_pressure": "previous"}, 65),
     ({"tire__size": "30-622", "rim__internal_width_mm": 19, "tire__max_pressure_kpa": 440,
       "rim__max_pressure_kpa": 700, "practice__settle": "printed"}, 430)],
)  # fmt: skip
def test_a_step_that_a_hand_can_hardly_tell_from_the_last_is_none_of_its_own(changes, seated):
    plan, _ = planned_after(*TO_SEAT, **POURED, **changes)
    ladder = plan.pressure.seating_kpa
    assert all(b - a > hand_step_kpa(a, 0.0) for a, b in itertools.pairwise(ladder))
    up = Attempt(
        peak_kpa=seated, outcome="both_up", limit_kpa=plan.pressure.limit_kpa, target_kpa=seated
    )
    assert "air.step" not in codes(*TO_SEAT, up, **POURED, **changes)


def test_a_layer_that_the_fit_needed_is_planned_at_the_next_retape_and_counted_once():
    again = StepEntry(stage="tape", outcome="again", step="layer")
    story = (*TO_SEAT, attempt(140, "falls_off"), again, *(StepEntry(stage=s) for s in ("strip", "tape", "mount", "sealant")),
             attempt(280, "both_up", changed=("layer",)))  # fmt: skip
    plan, _ = planned_after(*story, **POURED)
    assert plan.log.layers_added == 1 and plan.tape.layers == 2
    back = coming_back(ordinary(**POURED)["wheels"][0], plan)
    back["work"]["kind"] = "retape"
    (wheel,) = plan_document({**ordinary(**POURED), "wheels": [back]})["wheels"]
    assert (
        wheel["tape"]["layers"] == 2
        and [one["code"] for one in wheel["steps"]].count("tape.lay") == 2
    )
    assert "layer" in back["work"]["seated_with"]


def test_seat_first_wets_the_beads_before_the_second_one_and_pouring_agrees_with_where_it_is_closed():
    planned = codes(insert=KELP, practice__insert_order="seat_first")
    assert planned.index("bead.wet") < planned.index("bead.second")
    plan, _ = planned_after(practice__finish="elsewhere", **POURED)
    words = {one.code: one.text.read() for one in plan.steps}
    assert (
        "at the valve open" not in words["bead.partial"]
        and "at the valve" not in words["bead.close"]
    )


def test_plan_document_says_what_remains_after_entries_as_export_writes_them():
    from inner_rim.work.tasks.exchange import job_file

    entries = job_file("j", {}, {}, False, logged(*TO_SEAT, attempt(280)))["log"]
    (wheel,) = plan_document(ordinary(**POURED), after=entries)["wheels"]
    assert [one["code"] for one in wheel["steps"]][:3] == ["valve.top", "air.deflate", "air.step"]
    assert wheel["seats"]["above_kpa"] == 280


@given(
    st.sampled_from(("23-622", "28-622", "45-622", "100-559", "122-559")),
    st.sampled_from((15.0, 19.0, 24.0, 80.0)),
    st.floats(35.0, 160.0),
    st.floats(-20.0, 50.0),
    st.floats(0.0, 4000.0),
    st.floats(5.0, 35.0),
    st.sampled_from((None, 150.0, 300.0, 700.0)),
    st.sampled_from((0.5, 5.0, 20.0)),
)
def test_the_ride_obeys_the_limit_and_nothing_is_set_below_the_floor(
    size, rim, mass, ride_c, height, shop_c, most, gauge
):
    plan, _ = planned_after(
        tire__size=size, rim__bead_seat_diameter_mm=int(size[-3:]), rim__internal_width_mm=rim, ride__total_mass_kg=mass,
        ride__temperature_c=ride_c, ride__altitude_m=height, practice__shop_temperature_c=shop_c,
        practice__gauge_step_kpa=gauge, tire__max_pressure_kpa=most, rim__max_pressure_kpa=most, tire__min_pressure_kpa=None,
    )  # fmt: skip
    pressure = plan.pressure
    assert pressure.set_here_kpa <= pressure.limit_kpa
    assert at_ride_kpa(pressure.set_here_kpa, plan.rider, plan.methods) <= pressure.limit_kpa + 1e-9
    assert pressure.set_here_kpa > 0.0
