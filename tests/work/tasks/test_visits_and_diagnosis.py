"""A wheel comes back, what a procedure takes, and a diagnosis that knows the wheel."""

import io

import pytest
from pypdf import PdfReader

from inner_rim.core.progress.diagnosis import ENDS, PATH, Facts, asked
from inner_rim.core.record.log import Dose, Leak, StepEntry
from inner_rim.core.record.parts import item_from
from inner_rim.core.record.units import METRIC
from inner_rim.work.bench import Bench
from inner_rim.work.editing.shelf import needs_of_wheel
from inner_rim.work.tasks.export import bench_card, customer_sheet, written_as
from inner_rim.work.text.card import tape_text, valve_text
from inner_rim.work.text.choices import choices_of
from inner_rim.work.text.next_action import now_of
from inner_rim.work.text.panel import PanelContext
from inner_rim.work.text.shelf_lines import pick_lines
from inner_rim.work.text.wheel_words import end_words, facts_of, head_lines, state_words
from tests.desk import check_in


def hand_over(bench, ml=55.0):
    """Every stage done, with what really went in."""
    for stage in ("check_in", "strip", "tape", "valve", "mount"):
        bench.recorder.finish_stage(stage)
    bench.recorder.finish_step()
    bench.recorder.attempt("both_up", 300.0)
    bench.recorder.finish_stage("seat")
    while bench.current.progress.step.asks != "dose":
        bench.recorder.finish_step()
    bench.recorder.finish_step(ml)
    bench.recorder.finish_stage("sealant")
    bench.recorder.finish_stage("hold")
    bench.recorder.hand_over("M. Osier", 180.0)


def test_a_wheel_that_comes_back_starts_from_what_is_known_and_shows_its_visits(desk):
    one = desk()
    bench = one.bench
    check_in(bench)
    first = bench.selected
    bench.editor.type_into("insert.name", "Kelp 45")
    bench.editor.type_into("insert.ported", "yes")
    bench.editor.type_into("practice.insert_order", "bead_first")
    bench.recorder.finish_stage("check_in")
    bench.visits.begin()
    assert "hand it over first" in bench.message
    for stage in ("strip", "tape", "valve", "mount", "insert"):
        bench.recorder.finish_stage(stage)
    bench.recorder.record(Dose(dose_ml=55.0, name="Eelgrass"))
    bench.recorder.finish_stage("seat")
    bench.recorder.record(Leak(place="vent"))
    for stage in ("sealant", "hold"):
        bench.recorder.finish_stage(stage)
    bench.recorder.hand_over("M. Osier", 180.0)
    bench.visits.begin()
    back = bench.current
    assert back.key[0] != first[0] and back.key[1] == first[1]  # another job, the same wheel
    assert back.wheel.work.kind is None and back.wheel.tire.new is False  # asked, not assumed
    asked = now_of(back, PanelContext(METRIC, bench.time))
    assert asked.action == f"What does {back.name} come in for?" and not asked.answers[0].enter
    assert "leaked at the rim's vent hole" in asked.more[0]
    # the finished job has made room
    assert all(state.key[0] == back.key[0] for state in bench.wheels)
    bench.editor.type_into("work.kind", "tire_change")
    back = bench.current
    assert back.plan.work == "tire_change"
    assert (
        back.wheel.work.tape_changes == 0
        and back.wheel.work.tape_laid == f"{bench.time.astimezone():%Y-%m-%d}"
    )
    assert back.wheel.sealant.name == "Eelgrass" and back.wheel.sealant.in_ml >= 55.0
    assert back.wheel.insert.tires_used == 1 and back.wheel.previous_pressure_kpa == 180.0
    assert back.log == [] and "at pressure" in state_words(back.plan.log, METRIC)
    bench.select(back.key)
    one.settle(until=lambda: bench.visits.of(back.wheel_id))
    lines = choices_of(back, "check_in", METRIC, bench.visits.of(back.wheel_id))
    assert lines[0].title == "Earlier visits" and lines[1].note == "M. Osier"


def test_a_new_wheel_of_a_known_name_says_that_it_was_here(desk):
    one = desk()
    bench = one.bench
    check_in(bench)
    bench.editor.type_into("name", "Tern light · rear")
    bench.recorder.hand_over("M. Osier", 180.0)
    bench.archive()
    one.settle()
    for name, said in (("Tern light · front", False), ("tern light · rear", True)):
        check_in(bench)
        bench.editor.type_into("name", name)
        bench.editor.end_of_typing()
        one.settle()
        assert ("was here before" in bench.message) == said


def test_what_really_went_in_is_booked_and_taping_again_uses_stock_again():
    bench = Bench()
    bench.shelf.adopt((
        item_from("tape", {"name": "Ebb 27", "width_mm": 27.0}, stock=9000.0, item_id="t"),
        item_from("sealant", {"name": "Eelgrass", "bottle_ml": 500.0}, stock=500.0, item_id="s"),
    ))  # fmt: skip
    check_in(bench)
    bench.editor.type_into("shelf.tape_widths_mm", "27")
    hand_over(bench, 55.0)

    def stock(item):
        return bench.shelf.item(item).stock

    tape = bench.current.plan.tape.length_mm
    assert stock("s") == 445.0 and stock("t") == pytest.approx(9000.0 - tape)
    bench.recorder.record(Leak(place="nipple"))
    bench.recorder.again("tape")
    assert (bench.current.plan.work, bench.current.progress.stage) == ("retape", "strip")
    assert stock("s") == 445.0 and stock("t") == pytest.approx(9000.0 - tape)  # used stays used
    for stage in ("strip", "tape"):
        bench.recorder.finish_stage(stage)
    assert stock("t") == pytest.approx(9000.0 - 2 * tape)
    bench.recorder.back()
    # a slip is given back, the first run's tape is not
    assert stock("t") == pytest.approx(9000.0 - tape)


def test_tools_time_and_boxes_are_on_pick_list_and_card():
    bench = Bench()
    check_in(bench)
    bench.editor.type_into("due", "2026-12-01T16:00")
    state = bench.current
    lines = head_lines(state)
    assert "hands-on" in lines[0] and "start by" in lines[0] and "injector" in lines[1]
    picked = pick_lines((), METRIC, [state.plan])
    assert {"injector", "pick"} <= {line.title for line in picked}
    steps = [line for _stage, lines in bench_card(state, METRIC).columns[1:] for line in lines]
    assert len(steps) == len(state.plan.steps) and all(line.startswith("[  ] ") for line in steps)
    pdf = PdfReader(io.BytesIO(written_as("card", state, METRIC, bench.time)))
    text = "\n".join(page.extract_text() for page in pdf.pages)
    assert "Lay out" in text and "o'clock" in text and "Hand over, with your name" in text


def test_the_rider_s_sheet_names_the_spare_tube():
    bench = Bench()
    check_in(bench)
    sheet = customer_sheet(bench.current, METRIC)
    carry = dict(sheet.paragraphs)["Carry with you"][0]
    assert "45 mm wide, 622" in carry and "gloves" in carry and "boot" in carry


def test_the_rider_s_sheet_says_what_really_went_in():
    bench = Bench()
    check_in(bench)

    def rows():
        return {row.name: row.text for row in customer_sheet(bench.current, METRIC).rows}

    assert rows()["Sealant"] == "60 ml inside"
    bench.recorder.record(StepEntry(stage="check_in"), Dose(dose_ml=90.0))
    assert rows()["Sealant"] == "90 ml inside"
    bench.editor.new_wheel()
    check_in(bench)
    bench.editor.type_into("work.kind", "back_to_tube")
    assert "Sealant" not in rows() and rows()["Inside"] == "a tube"
    assert "tube" in customer_sheet(bench.current, METRIC).subtitle


def test_a_diagnosis_answers_itself_what_the_wheel_knows():
    # Plugs blow out of hard road tires: common practice, no published source.
    assert asked("hard", Facts(hard=True)) == "tube" and asked("hard", Facts(plugs=2)) == "tube"
    assert PATH[asked("hard", Facts())].words.startswith("Is the bead still on its seat")
    bench = Bench()
    check_in(bench)
    tube = {
        "name": "Reed tube",
        "bead_seat_diameter_mm": 622.0,
        "width_min_mm": 40.0,
        "width_max_mm": 50.0,
    }
    facts = facts_of(bench.current, [item_from("tube", tube, stock=2.0)])
    assert not facts.hard and "45 mm wide, 622, on the shelf: Reed tube" in end_words("tube", facts)
    for code in ENDS:
        assert "{" not in end_words(code, facts)


def test_what_stays_is_said_to_stay_and_takes_nothing_from_the_shelf():
    bench = Bench()
    check_in(bench)
    for kind, tape, valve in (
        ("convert", "27 mm", "measure"),
        ("tire_change", "stays", "stays"),
        ("retape", "27 mm", "stays"),
        ("back_to_tube", "stays", "comes out"),
    ):
        bench.editor.type_into("work.kind", kind)
        plan = bench.current.plan
        assert tape_text(plan, METRIC).startswith(tape) and valve_text(plan, METRIC).startswith(
            valve
        )
        needs = {need.kind for need in needs_of_wheel(bench.current)}
        assert ("tape" in needs) == (tape != "stays") and ("tube" in needs) == (
            kind == "back_to_tube"
        )
        assert ("sealant" in needs) == (kind != "back_to_tube")


def test_a_wheel_may_get_another_sealant_than_the_shop_s_usual_one():
    bench = Bench()
    bench.shelf.adopt((
        item_from("sealant", {"name": "Eelgrass", "bottle_ml": 500.0}, stock=500.0, item_id="e"),
        item_from("sealant", {"name": "Samphire", "clogs_valve": True, "life_days": 90.0}, stock=300.0, item_id="s"),
    ))  # fmt: skip
    check_in(bench)
    usual = bench.current
    assert usual.ride_job.shelf.sealant.name == "Eelgrass" and usual.plan.setup.route == "inject"
    bench.editor.type_into("practice.sealant", "Samphire")
    own = bench.current
    assert own.plan.sealant.refresh_after_days == 90 and own.plan.setup.route == "pour"
    (need,) = (need for need in needs_of_wheel(own) if need.kind == "sealant")
    assert need.name == "Samphire"
    bench.editor.type_into("practice.sealant", "")
    bench.shop_methods.set("practice.sealant", "Samphire")
    assert bench.current.plan.setup.route == "pour"  # the shop's
