"""What holds for all of the core: trails, data files."""

import re
from pathlib import Path

import pytest

import inner_rim.core
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.practice import DOSE_FACTORS, REASONS, TAPE_TARGETS
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import UnitChoice
from inner_rim.core.record.why import value_text
from tests.samples import ordinary


def whys():
    plan = plan_job(job_from_plain(ordinary()))[0]
    pressure = plan.pressure
    parts = [plan.tire.why, plan.tape.why, plan.valve.why, plan.sealant.why, pressure.why]
    return [*parts, pressure.why_limit, pressure.why_seating, pressure.why_settle]


def test_every_result_carries_formula_figures_source_and_levers():
    for why in whys():
        assert why.formula and why.what_changes_it and len(why.figures) >= 2
        assert re.search(r"derived|common practice|ISO|Berto|published|maker", why.source)


def test_every_trail_reads_in_any_units():
    for choice in (UnitChoice(), UnitChoice("psi", "in", "floz")):
        for why in whys():
            texts = [value_text(n, v, choice) for n, v in why.figures.items()] + [
                s.read(choice) for s in why.others
            ]
            assert all(text and "{" not in text for text in texts)
            if choice.kpa == "psi":
                assert not any(" bar" in text or text.endswith("kPa") for text in texts)


def test_the_trail_s_figures_make_the_result():
    plan = plan_job(job_from_plain(ordinary(practice__overlap_mm=200)))[0]
    tape, sealant, start = (
        plan.tape.why.figures,
        plan.sealant.why.figures,
        plan.pressure.why.figures,
    )
    assert tape["one_turn_mm"] + tape["overlap_mm"] == pytest.approx(tape["length_mm"])
    assert sealant["dose_ml"] - sealant["coat_ml"] == pytest.approx(sealant["pool_ml"])
    assert start["deflection_mm"] == pytest.approx(
        start["drop_percent"] / 100 * start["mounted_width_mm"]
    )


def test_tables_carry_their_source_in_the_header():
    for path in (Path(inner_rim.core.__path__[0]) / "tables").glob("*.toml"):
        head = path.read_text(encoding="utf-8").split("\n\n")[0]
        assert re.search(r"Source: .*(memory|ISO)", head), path.name


def test_every_school_has_what_speaks_for_it():
    assert set(REASONS) >= set(TAPE_TARGETS) | set(DOSE_FACTORS) | {
        "label",
        "pour",
        "inject",
        "drop",
        "previous",
        "range",
    }


def test_assumptions_are_said():
    bare = {
        "rim": {"bead_seat_diameter_mm": 622, "internal_width_mm": 24},
        "tire": {"size": "45-622"},
        "name": "bare",
    }
    plan = plan_job(job_from_plain({"format": "inner-rim/job", "version": 1, "wheels": [bare]}))[0]
    said = {item.field for item in plan.assumed}
    assert said >= {
        "rim.well", "rim.hook", "rim.max_pressure_kpa", "tire.max_pressure_kpa", "ride.total_mass_kg", "ride.use",
        "practice.tape_width", "shelf.tape_widths_mm", "position",
    }  # fmt: skip
    assert plan.pressure.limit_from == "unread" and plan.stops == ()
    cautions = " ".join(c.message.read() for c in plan.cautions)
    assert "a safe one" in cautions and "Hook not entered" in cautions
    full = {item.field for item in plan_job(job_from_plain(ordinary()))[0].assumed}
    assert not full & {"rim.hook", "rim.max_pressure_kpa", "position", "ride.use"}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"rim__internal_width_mm": 37}, "both manufacturers"),
        ({"rim__internal_width_mm": 17}, "burps"),
        ({"rim__hook": None}, "Hook not entered"),
        ({"load_n": 3000}, "needs more than"),
        ({"rim__depth_at_valve_mm": 12, "shelf__valve_lengths_mm": [90]}, "stick out"),
        (
            {"rim__max_pressure_kpa": None, "tire__max_pressure_kpa": 600},
            "rim's max pressure was not entered",
        ),
    ],
)
def test_cautions_stand_where_they_matter(change, says):
    plan = plan_job(job_from_plain(ordinary(**change)))[0]
    assert any(says in c.message.read() for c in plan.cautions)
    assert any("Never above" in c.message.read() for c in plan.cautions if c.stage == "seat")


@pytest.mark.parametrize(
    ("change", "hisses"),
    [({}, True), ({"rim__bed": "sealed"}, False), ({"work": {"kind": "back_to_tube"}}, False)],
)
def test_air_hisses_at_spoke_holes_only_where_there_are_some_under_tape(change, hisses):
    plan = plan_job(job_from_plain(ordinary(**change)))[0]
    said = " ".join(c.read() for step in plan.steps for c in step.cautions)
    assert "Never above" in said and ("Hissing" in said) == hisses
    pressed = plan_job(job_from_plain(ordinary(practice__press_home="tube", **change)))[0].steps
    with_tube = [c.read() for step in pressed if step.stage == "mount" for c in step.cautions]
    assert any("Never above" in words for words in with_tube) == hisses and not any(
        "Hissing" in one for one in with_tube
    )


def test_a_size_that_was_read_one_way_of_several_is_said_beside_a_ratio_and_an_unread_limit():
    change = {"tire__size": "700x45", "rim__internal_width_mm": 37, "tire__max_pressure_kpa": None}
    plan = plan_job(job_from_plain(ordinary(**change)))[0]
    ratio, unread = [c.message.read() for c in plan.cautions if c.stage == "check_in"]
    assert "both manufacturers" in ratio
    assert "tire's max pressure" in unread and "no letter: read as 700C, 622" in unread
    below = plan_job(job_from_plain(ordinary(**change, rim__max_pressure_kpa=200)))[0]
    said = next(c.message.read() for c in below.cautions if "may be below" in c.message.read())
    assert "may be below 2.00 bar" in said and "cap" not in said  # the limit stands on the rim
