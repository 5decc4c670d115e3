"""What the lists say: choices at every stage, the day, the shelf, the pick list, the logbook."""

import re
from datetime import UTC, datetime, timedelta

import pytest

from inner_rim.core.record.log import (
    Attempt,
    Care,
    Correction,
    Dip,
    Dose,
    Feedback,
    Finding,
    Inspection,
    Leak,
    Note,
    Override,
    Reading,
    SeenPop,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.parts import item_from
from inner_rim.core.record.spoken import STAGES
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.schedule.hours import Hours, Opening
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.work.editing.shelf import in_scope, pick_list_of
from inner_rim.work.text.choices import choices_of
from inner_rim.work.text.choices.air import dip_lines, pressure_history
from inner_rim.work.text.lines import FieldChoice, LogChoice
from inner_rim.work.text.log_words import entry_text
from inner_rim.work.text.next_action import now_of
from inner_rim.work.text.panel import PanelContext
from inner_rim.work.text.pick_rows import rows
from inner_rim.work.text.shelf_lines import (
    amount_text,
    figures_text,
    glance_lines,
    hit_lines,
    pick_lines,
    shelf_lines,
    story_lines,
)
from inner_rim.work.text.waits import care_of_all, why_not_planned, why_waits
from inner_rim.work.views import Views
from tests.desk import demo_on_bench
from tests.desk import select_wheel as wheel

NOW = datetime(2026, 11, 25, 9, tzinfo=UTC)
BAR, PSI = UnitChoice(), UnitChoice("psi", "in", "floz")


@pytest.fixture
def bench():
    return demo_on_bench(NOW)


def said(bench, stage, units=BAR):
    others = tuple(
        one for one in bench.wheels if one.job is bench.current.job and one is not bench.current
    )
    return choices_of(bench.current, stage, units, (), others)


def line(lines, title_part):
    return next(x for x in lines if title_part in f"{x.lead} {x.title} {x.note}")


@pytest.mark.parametrize("stage", STAGES)
@pytest.mark.parametrize("units", [BAR, PSI])
def test_every_stage_has_its_choices_in_any_unit(bench, stage, units):
    for name in ("Warden", "Tern", "Kiosk", "Dune"):
        wheel(bench, name)
        lines = said(bench, stage, units)
        assert lines and lines[0].tone == "head"
        if units is PSI:
            assert not any(re.search(r"\d bar\b", f"{x.title} {x.lead} {x.right}") for x in lines)


def test_the_tape_s_choices_show_every_width_every_school_and_what_is_used(bench):
    wheel(bench, "Warden")
    lines = said(bench, "tape")
    widths = [x.lead for x in lines if x.lead.endswith(" mm")]
    assert widths == [f"{w} mm" for w in (21, 23, 25, 27, 29, 31, 35, 45)]
    assert [x.chip for x in lines].count("picked") == 1 and line(lines, "31 mm").chip == "picked"
    assert line(lines, "21 mm").tone == "stop" and line(lines, "35 mm").chip == "climbs"
    schools = [
        x.key
        for x in lines
        if isinstance(x.key, FieldChoice) and x.key.path == "practice.tape_width"
    ]
    assert len(schools) == 4 and line(lines, "contour").chip == "used"
    assert "a full roll does 4 wheels" in line(lines, "Cut").title


def test_a_wide_rim_takes_two_strips_and_says_how_far_they_overlap(bench):
    wheel(bench, "Dune")
    assert "over each other" in line(said(bench, "tape"), "Strips").title


def test_the_compatibility_names_what_was_not_read_and_every_stop(bench):
    wheel(bench, "Tern")
    lines = said(bench, "check_in")
    assert any(x.tone == "stop" and "hookless" in x.title for x in lines)
    bench.editor.type_into("tire.max_pressure_kpa", "")
    assert line(said(bench, "check_in"), "Tire's max pressure").chip == "enter it"


def test_an_insert_is_shown_before_and_after(bench):
    wheel(bench, "Warden")
    assert "No insert" in said(bench, "insert")[0].title
    for field, text in (
        ("insert.height_mm", "20"),
        ("insert.volume_ml", "300"),
        ("insert.leg_mm", "2"),
    ):
        bench.editor.type_into(field, text)
    lines = said(bench, "insert")
    assert line(lines, "Air").title.count("l") and "→" in line(lines, "Slack").title
    assert line(lines, "Start").title.count("→") == 1


def test_the_dipstick_table_rises_and_follows_a_calibration(bench):
    state = wheel(bench, "Kiosk")
    plain = dip_lines(state, BAR)
    assert len(plain) == 60 and plain[0].lead != plain[-1].lead
    bench.recorder.record(Dip(depth_mm=10.0, free_ml=50.0, calibrates=True, factor=1.25))
    state = bench.current
    scaled = dip_lines(state, BAR)
    assert float(scaled[-1].lead.split()[0]) == pytest.approx(
        float(plain[-1].lead.split()[0]) / 1.25, abs=0.1
    )
    assert "calibrated" in line(said(bench, "sealant"), "Dipstick").note


def test_weights_are_told_for_the_wheel_and_for_the_bicycle(bench):
    wheel(bench, "Sandpiper 2 · front")
    lines = said(bench, "mount")
    assert line(lines, "In all").title.endswith(" g") and line(lines, "Bicycle").note == "2 wheels"
    assert line(said(bench, "set"), "The bicycle").tone == "head"


def test_what_brings_it_up_and_what_the_tries_say_of_the_gap(bench):
    wheel(bench, "Sandpiper 2 · front")
    bench.recorder.attempt("not_up", 20.0)
    bench.recorder.attempt("both_up", 200.0)
    lines = said(bench, "seat")
    assert lines[0].title == "What to change next"
    assert line(lines, "compressor").title.endswith("%") and "the usual" in line(lines, "Gap").title


def test_the_hold_s_choices_forecast_and_list_the_readings(bench):
    wheel(bench, "Ferry")
    for hours, kpa in ((0, 300.0), (2, 297.0), (3, 293.0)):
        bench.moved[0] += timedelta(hours=hours)
        bench.recorder.read_gauge(kpa, 18.0)
    lines = said(bench, "hold")
    assert line(lines, "Loss").title.endswith("% a day") and line(
        lines, "In 12 hours"
    ).title.endswith("bar")
    assert [x.right for x in lines if x.right] and line(lines, "At minimum").title
    assert len([x for x in lines if isinstance(x.key, LogChoice) and x.key.what == "leak"]) == 9


def why(bench, hours=None):
    return why_waits(
        bench.current, bench.units, bench.time, hours or Hours(week=(Opening(0, 1440),) * 7)
    )


def test_a_wheel_of_the_day_says_why_it_waits(bench):
    wheel(bench, "Warden")
    assert why(bench) == ""
    bench.recorder.reopen_stage("strip")
    bench.recorder.record(StepEntry(stage="strip", step="rim.dry", completes=True))
    assert why(bench).startswith("Let it dry: waits until ")
    bench.moved[0] += timedelta(minutes=16)
    assert why(bench) == ""
    wheel(bench, "Old Curlew")
    assert why(bench).startswith("Needs a look: A spot is still low at 1.75 bar")
    bench.set_units(PSI)
    assert " psi" in why(bench)
    bench.set_units(BAR)
    bench.editor.type_into("waits.on", "customer")
    assert why(bench) == why_not_planned(bench.current, METRIC)[0] == "Waits for the customer"
    wheel(bench, "Tern")
    assert why_not_planned(bench.current, METRIC)[0].startswith("STOP: ")
    bench.moved[0] += timedelta(days=400)
    assert (
        line(care_of_all(bench.wheels, bench.units, bench.time), "Refresh the sealant").chip
        == "due"
    )


def test_a_weeping_tire_says_so_while_it_is_held():
    bench = demo_on_bench(NOW)
    wheel(bench, "Old Curlew")
    while bench.current.progress.stage != "hold":
        progress = bench.current.progress
        if progress.seats_next:
            bench.recorder.attempt("both_up", progress.seating.step_kpa)
        elif progress.question is not None:
            bench.recorder.answer(True)
        else:
            bench.recorder.finish_step()
    assert why(bench) == "Weeps: pumped up and spun until it holds, up to three days"
    while bench.current.progress.step.code != "hold.top_up":
        bench.recorder.finish_step()

    def read(kpa, hours):
        bench.moved[0] += timedelta(hours=hours)
        bench.recorder.read_gauge(kpa, 20.0)
        report = bench.current.progress.holding.report
        return report and report.verdict

    # what it lost before it was pumped up says nothing of what it loses after: 300 again is no wheel that holds
    bench.recorder.finish_step()
    assert [read(300, 0.0), read(240, 3.0)] == [None, "leaks"]
    assert "stage_done" not in [answer.command for answer in Views(bench).view().now.answers]
    bench.recorder.finish_step()
    assert "Read the gauge now" in Views(bench).view().now.action
    assert read(300, 0.1) is None
    now = Views(bench).view().now
    assert now.action.startswith("Leave it until ") and [answer.command for answer in now.answers][
        :2
    ] == ["read_gauge", "stage_done"]
    assert read(270, 3.0) == "leaks"
    assert read(299, 0.1) is None  # pumped up, and not said: nothing gains air
    assert "The pressure rose" in Views(bench).view().now.more[0]
    assert read(297, 12.0) == "settling"  # it was warm from the pump when it showed 299
    assert read(296, 12.0) == "holds"
    assert len(bench.current.progress.holding.readings) == 5


def test_the_pressure_history_is_newest_first(bench):
    wheel(bench, "Kiosk")
    bench.recorder.feedback("harsh")
    bench.recorder.feedback("right")
    past = pressure_history(bench.current.plan)
    assert [words for _at, _kpa, words in past] == ["right", "harsh", "handed over"]


def test_shelf_lines_mark_what_runs_out():
    low = item_from("valve", {"name": "A", "length_mm": 44}, stock=1.0, low_at=2.0, item_id="p1")
    gone = item_from("tape", {"name": "B", "width_mm": 27}, low_at=2.0, item_id="p2")
    old = item_from("sealant", {"name": "C"}, stock=100.0, retired=True, item_id="p3")
    chips = [x.chip for x in shelf_lines([low, gone, old], BAR)]
    assert chips == ["running out", "none left", "retired"]
    assert (
        figures_text(low.spec, PSI) == "1.732 in long"
        and amount_text("tape", 2500.0, BAR) == "2.50 m"
    )


def test_pick_lines_put_what_is_missing_first(bench):
    lines = pick_lines(
        pick_list_of(in_scope(bench.wheels, bench.current, "bench"), bench.shelf.items), BAR
    )
    assert lines[0].title == "Missing" and any(x.title == "Take from the shelf" for x in lines)
    assert (
        any("bottle" in x.note for x in lines) and "Nothing to take" in pick_lines((), BAR)[0].title
    )


ENTRIES = (
    (StepEntry(stage="tape"), "Tape: done"),
    (StepEntry(stage="strip", step="rim.dry", outcome="waited"), "Strip, Let it dry: wait cut short"),
    (Attempt(peak_kpa=341, outcome="both_up", limit_kpa=340), "ABOVE THE LIMIT of 3.40 bar"),
    (
        Attempt(
            peak_kpa=200, outcome="one_low", limit_kpa=340, low_left=(3,), changed=("core_out",),
            pops=(SeenPop(time_s=1.0, pressure_kpa=180.0),),
        ),
        "low spot, left 3; pops at 1.80 bar; changed: Take the core out",
    ),
    (Inspection(low_right=(8,)), "Low in sector right 8"),
    (Inspection(after_over_limit=True), "Inspected after going above the limit"),
    (Finding(check="tape_damaged", sound=False), "FOUND: Old tape"),
    (Reading(pressure_kpa=200, temperature_c=18), "Read 2.00 bar at 18 °C"),
    (Leak(place="nipple", done="taped anew"), "Bubbles: at a spoke nipple. taped anew"),
    (Leak(place="bead", side="left"), "Bubbles: along the bead, left"),
    (Finding(check="sealant_low", sound=False), "Enough sealant: no"),
    (Feedback(said="burped", pressure_kpa=190, next_kpa=205), "Ridden at 1.90 bar: it burped; next 2.05 bar"),
    (Care(what="refilled"), "Aftercare: refilled"),
    (Dose(dose_ml=65), "Sealant in: 65 ml"),
    (Dip(depth_mm=11, free_ml=50, calibrates=True), "Dipstick 11 mm: 50 ml free, calibrates this tire"),
    (SignOff(by="M. Osier", pressure_kpa=190), "Handed over at 1.90 bar, signed M. Osier"),
    (Note(text="as found"), "as found"),
    (Override(code="tape_damaged", by="M. Osier", reason="under the bead"), "overridden by M. Osier: under the bead"),
    (Correction(of=7, text="it was 1.6"), "Correction of entry 7: it was 1.6"),
)  # fmt: skip


@pytest.mark.parametrize(("entry", "words"), ENTRIES, ids=lambda x: type(x).__name__)
def test_every_entry_reads_in_words_and_in_any_unit(entry, words):
    assert words in entry_text(entry, BAR)
    assert " bar" not in entry_text(entry, PSI)


def test_a_glance_names_what_is_low_and_nothing_that_is_retired_or_not_watched():
    def tape(name, stock, low_at, retired=False):
        return item_from(
            "tape", {"name": name, "width_mm": 27.0}, stock=stock, low_at=low_at, retired=retired
        )

    items = [
        tape("Low", 900.0, 1000.0),
        tape("At the mark", 1000.0, 1000.0),
        tape("Enough", 1001.0, 1000.0),
        tape("Not watched", 0.0, 0.0),
        tape("Retired", 0.0, 1000.0, retired=True),
    ]
    shown = [line.title for line in glance_lines(items, (), BAR) if line.tone != "head"]
    assert shown == ["Low", "At the mark"]
    assert glance_lines(items[2:], (), BAR)[0].title == "Nothing runs out"


def test_a_story_marks_what_was_corrected_and_hits_lead_to_it(bench):
    state = wheel(bench, "Old Curlew")
    number = next(i.number for i in state.log if isinstance(i.entry, Attempt) and i.entry.low_left)
    bench.recorder.record(Correction(of=number, text="it was the other side"))
    log = tuple(bench.current.log)
    job = StoredJob("j3", bench.current.job.draft.document, {}, 1, True, log)
    lines = story_lines(job, state.key, BAR)
    assert lines[0].note == "off the bench" and line(lines, "low spot").chip == "corrected below"
    hits = hit_lines(tuple(Hit("j3", state.name, item) for item in log), BAR)
    shown = [hit.key[2] for hit in hits if hit.tone != "head"]
    assert shown == [item.number for item in sorted(log, key=lambda item: item.at, reverse=True)]
    heads = [hit.title for hit in hits if hit.tone == "head"]
    assert heads and len(set(heads)) == len(heads)  # every day once
    assert (
        hits[-1].key == ("j3", state.wheel_id, log[0].number)
        and "Nothing logged yet" in hit_lines((), BAR)[0].title
        and hit_lines((), BAR, asked="kelp")[0].title == "Nothing found"
        and hit_lines((), BAR, asked=None) == ()
    )
    assert "Choose an entry" in story_lines(None, None, BAR)[0].title


def test_what_is_ready_at_night_is_ready_when_the_shop_opens(bench):
    """A wait of a quarter of an hour that begins just before closing time ends in the morning."""
    shop = Hours()
    # a Friday, by the clock of this machine
    closing = datetime(2026, 11, 27, 17, 25).astimezone(UTC)
    bench.moved[0] = closing
    wheel(bench, "Warden")
    bench.recorder.reopen_stage("strip")
    bench.recorder.record(StepEntry(stage="strip", step="rim.dry", completes=True))
    assert why(bench, shop).endswith("waits until Sat 09:00")
    assert (
        "Wait until 17:40"
        in now_of(bench.current, PanelContext(bench.units, bench.time, hours=shop)).action
    )
    assert "waits until 17:" in why(bench)


def test_a_tire_that_is_too_wide_is_stopped_in_the_options_too(bench):
    bench.editor.new_wheel()
    for field, text in (
        ("tire.size", "62-622"), ("rim.bead_seat_diameter_mm", "622"), ("rim.internal_width_mm", "17"),
    ):  # fmt: skip
        bench.editor.type_into(field, text)
    ratio = line(said(bench, "check_in"), "Ratio")
    assert (ratio.chip, ratio.tone) == ("stop", "stop") and "above 2.8 stop" in ratio.note
    assert rows(bench.planned.plan, BAR)[0].chip == "stop"
    bench.editor.type_into("rim.internal_width_mm", "30")
    assert line(said(bench, "check_in"), "Ratio").chip == "usual"
