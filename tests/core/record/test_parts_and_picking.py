import pytest

from inner_rim.core.plan.picking import item_for, needs_of, pick_list
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import item_from, search, shelf_of
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary

TAPE = item_from(
    "tape",
    {"name": "Ebb tape 27", "width_mm": 27, "thickness_mm": 0.15},
    stock=3000.0,
    item_id="p1",
)
LATEX = item_from(
    "sealant", {"name": "Tidewater latex", "bottle_ml": 100}, stock=120.0, item_id="p2"
)
STEM = item_from("valve", {"name": "Reed stem 44", "length_mm": 44}, stock=1.0, item_id="p3")
SHELF = (TAPE, LATEX, STEM)


def wheel(**changes):
    document = ordinary(**changes)
    document["shelf"] = {"tape_widths_mm": [27.0], "valve_lengths_mm": [44.0]}
    job = job_from_plain(document)
    return job.wheels[0], plan_job(job)[0]


@pytest.mark.parametrize(
    ("kind", "spec", "more", "field"),
    [
        ("saddle", {"name": "x"}, {}, "kind"),
        ("tape", {"width_mm": 27}, {}, "name"),
        ("tape", {"name": "  ", "width_mm": 27}, {}, "name"),
        ("tape", {"name": "x", "width_mm": 900}, {}, "width_mm"),
        ("valve", {"name": "x", "length_mm": 40, "color": "red"}, {}, "color"),
        ("valve", {"name": "x", "length_mm": 40}, {"stock": -1.0}, "stock"),
        ("rim", {"name": "x", "bead_seat_diameter_mm": 622, "internal_width_mm": 24,
                 "well": {"depth_mm": 4, "floor_mm": 20, "left_shoulder_mm": 9, "right_shoulder_mm": 9}}, {}, "well"),
    ],
)  # fmt: skip
def test_a_part_that_cannot_be_is_refused_by_its_field(kind, spec, more, field):
    with pytest.raises(InputError) as fault:
        item_from(kind, spec, **more)
    assert fault.value.path == field and fault.value.sentence


def test_search_finds_by_any_word_of_name_or_figure():
    assert search(SHELF, "reed") == [STEM] and search(SHELF, "27 ebb") == [TAPE]
    assert search(SHELF, "44", "tape") == [] and len(search(SHELF, "")) == 3
    assert search(SHELF, "e", most=1) == [TAPE]  # the name that begins with it first


def test_a_plan_takes_from_what_is_in_stock():
    shelf = shelf_of((*SHELF, item_from("tape", {"name": "gone", "width_mm": 25})), 60.0)
    assert [tape.width_mm for tape in shelf.tapes] == [
        27
    ] and shelf.sealant.name == "Tidewater latex"
    assert shelf_of(()) is None


def test_the_pick_list_adds_up_and_puts_shortages_first():
    w, plan = wheel()
    needs = needs_of(w, plan, "Tidewater latex")
    assert [n.kind for n in needs] == ["tape", "valve", "sealant"]
    lines = pick_list(
        [("front", needs, frozenset()), ("rear", needs, frozenset({"check_in"}))], SHELF
    )
    by_kind = {line.kind: line for line in lines}
    assert by_kind["tape"].amount == pytest.approx(2 * plan.tape.length_mm)
    assert by_kind["tape"].short == pytest.approx(2 * plan.tape.length_mm - 3000)
    assert by_kind["valve"].short == 1.0 and by_kind["sealant"].bottles == 2
    shorts = [line.short > 0 for line in lines]
    assert shorts == sorted(shorts, reverse=True) and by_kind["tape"].wheels == ("front", "rear")


def test_what_a_done_stage_took_is_not_taken_again():
    w, plan = wheel()
    needs = needs_of(w, plan)
    (line,) = pick_list([("front", needs, frozenset({"tape", "valve"}))], SHELF)
    assert line.kind == "sealant"
    assert item_for(needs[0], ()) is None
    (none,) = pick_list([("front", needs[:1], frozenset())], ())
    assert none.on_hand is None and none.short == none.amount
