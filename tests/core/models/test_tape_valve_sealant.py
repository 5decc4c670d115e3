import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString

from inner_rim.core.models.rim import bed_of, developed_width_mm
from inner_rim.core.models.tape import edge_gap_mm, two_strips, verdict
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.job import Rim, Well
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary


def plan(**changes):
    return plan_job(job_from_plain(ordinary(**changes)))[0]


wells = st.builds(
    lambda a, floor, left, right, depth: Rim(
        bead_seat_diameter_mm=622,
        internal_width_mm=a,
        well=Well(
            depth_mm=depth, floor_mm=floor * a, left_shoulder_mm=left * a, right_shoulder_mm=right * a
        ),
    ),
    st.floats(15, 90), st.floats(0.1, 0.4), st.floats(0.05, 0.25), st.floats(0.05, 0.25), st.floats(0, 8),
)  # fmt: skip


@given(wells)
def test_developed_width_against_shapely_length(rim):
    bed = bed_of(rim)
    assert developed_width_mm(bed) == pytest.approx(LineString(bed.outline()).length, rel=1e-9)


@pytest.mark.parametrize("internal", [17, 19, 21, 24, 27, 30, 35, 40])
def test_contour_lands_two_to_five_over_on_ordinary_rims(internal):
    # Common practice, no published source.
    over = (
        developed_width_mm(bed_of(Rim(bead_seat_diameter_mm=622, internal_width_mm=internal)))
        - internal
    )
    assert 2.0 <= over <= 5.0


@pytest.mark.parametrize(
    ("gap", "word"),
    [
        (2.01, "too_narrow"), (2.0, "narrow"), (0.76, "narrow"), (0.75, "right"), (-1.5, "right"),
        (-1.51, "climbs"), (-2.5, "climbs"), (-2.51, "too_wide"),
    ],
)  # fmt: skip
def test_verdict_at_each_border(gap, word):
    assert verdict(gap) == word


@pytest.mark.parametrize(
    ("school", "width"), [("match", 25), ("plus_two", 27), ("wide", 27), ("contour", 27)]
)
def test_each_school_picks_the_nearest_stocked_width(school, width):
    tape = plan(practice__tape_width=school, shelf__tape_widths_mm=[21, 23, 25, 27, 31]).tape
    assert (tape.width_mm, tape.method, tape.strips) == (width, school, 1)
    assert tape.by_method[school] == width


def test_ties_go_wider():
    assert plan(practice__tape_width="plus_two", shelf__tape_widths_mm=[25, 27]).tape.width_mm == 27
    assert (
        plan(practice__tape_width="match", shelf__tape_widths_mm=[23.5, 24.5]).tape.width_mm == 24.5
    )


@given(st.lists(st.floats(15, 80), max_size=6), st.floats(17, 90))
def test_a_pick_is_never_a_rejected_width(stock, internal):
    tape = plan(
        rim__internal_width_mm=internal, tire__size="100-622", shelf__tape_widths_mm=stock
    ).tape
    if tape.width_mm is None:
        assert all(w < tape.developed_width_mm for w in stock)
        return
    if tape.strips == 2:
        assert 2 * tape.width_mm - tape.developed_width_mm >= 10
        assert tape.width_mm == two_strips(stock, tape.developed_width_mm)
        return
    laid = tape.trim_to_mm if tape.trim_to_mm is not None else tape.width_mm
    assert verdict(edge_gap_mm(laid, tape.developed_width_mm)) not in ("too_narrow", "too_wide")


def test_a_wide_roll_is_trimmed_and_a_fat_rim_takes_two_strips():
    assert plan(shelf__tape_widths_mm=[45]).tape.trim_to_mm == pytest.approx(26.9, abs=0.05)
    fat = plan(
        rim__internal_width_mm=70, tire__size="100-622", shelf__tape_widths_mm=[25, 40, 45, 60]
    )
    assert (fat.tape.width_mm, fat.tape.strips) == (45, 2)
    assert fat.tape.strip_overlap_mm == pytest.approx(90 - fat.tape.developed_width_mm)


def test_length_counts_turns_layers_strips_and_overlap():
    one = plan(practice__overlap_mm=150).tape
    two = plan(practice__overlap_mm=150, practice__layers=2).tape
    turn = 3.141592653589793 * (622 - 7)
    assert one.length_mm == pytest.approx(turn + 150)
    assert two.length_mm == pytest.approx(2 * turn + 150)
    # common practice, no published source
    lengths = {
        start: plan(rim__spokes=36, practice__tape_start=start)
        for start in ("at_valve", "past_valve", "opposite")
    }
    assert lengths["at_valve"].tape.overlap_mm == pytest.approx(2 * 3.141592653589793 * 622 / 36)
    assert lengths["past_valve"].tape.overlap_mm == 2 * lengths["at_valve"].tape.overlap_mm
    # two layers at the hole, where the joint is not opposite it
    up = {name: one.valve.why.figures["tape_build_up_mm"] for name, one in lengths.items()}
    assert up["at_valve"] == up["past_valve"] == 2 * up["opposite"]


@pytest.mark.parametrize(("head", "needed"), [("push_on", 39.2), ("screw_on", 36.2)])
def test_valve_length_is_the_sum_of_what_it_passes(head, needed):
    # rim 18 + tape 2 x 0.1 + nut and o-ring 6 + head: common practice, no published source.
    valve = plan(practice__pump_head=head, shelf__valve_lengths_mm=[34, 37, 40, 44]).valve
    assert valve.needed_mm == pytest.approx(needed)
    assert valve.length_mm == (40 if head == "push_on" else 37)
    assert valve.standing_out_mm == pytest.approx(valve.length_mm - 18 - 0.2 - 6)


def test_no_valve_is_invented():
    assert plan(shelf__valve_lengths_mm=[30]).valve.length_mm is None
    unmeasured = plan(rim__depth_at_valve_mm=None).valve
    assert (unmeasured.needed_mm, unmeasured.length_mm) == (None, None)


@pytest.mark.parametrize(
    ("size", "internal", "low", "high"),
    [("40-622", 23, 30, 60), ("57-622", 30, 60, 120), ("102-559", 76, 100, 260)],
)
def test_standard_dose_lies_where_the_trade_doses(size, internal, low, high):
    # Common practice, no published source: trail 60 to 120 ml, fat about 120 inside lean to generous.
    sealant = plan(
        tire__size=size, tire__new=False, rim__internal_width_mm=internal,
        rim__bead_seat_diameter_mm=float(size.split("-")[1]),
    ).sealant  # fmt: skip
    assert low <= sealant.standard_ml <= high
    if size.startswith("102"):
        assert sealant.lean_ml <= 120 <= sealant.generous_ml
    if size.startswith("40"):
        assert sealant.lean_ml <= 60 <= sealant.generous_ml


def test_allowances_add_as_shares_of_the_standard_dose():
    plain = plan(tire__new=False).sealant.why.figures["standard_dose_before_allowances_ml"]
    every = plan(tire__new=True, tire__tubeless_ready=False, insert__volume_ml=300).sealant
    assert every.standard_ml == pytest.approx(plain * 1.55, abs=2.5)
    assert set(every.allowances_ml) == {"new tire", "no tubeless marking", "insert"}


def test_a_label_wins_where_the_school_says_so():
    label = plan(practice__dose="label", tire__label_dose_ml=90).sealant
    assert (label.dose_ml, label.method) == (90, "label")
    assert plan(practice__dose="label").sealant.method == "standard"


@given(st.floats(5, 1000), st.floats(5, 1000))
def test_loads_add_up_to_the_dose(dose, injector):
    loads = plan(
        practice__dose="label", tire__label_dose_ml=dose, shelf__injector_ml=injector
    ).sealant.loads_ml
    assert sum(loads) == pytest.approx(dose)
    assert all(0 < load <= injector + 1e-9 for load in loads)
