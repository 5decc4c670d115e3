"""The rules of docs/job.md 1.2 over every combination of work, parts and methods, walked here by code alone."""

import itertools
from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.procedure.achieve import BrokenRecipe, check
from inner_rim.core.procedure.actions import KINDS
from inner_rim.core.procedure.setup import WORK_WORDS, start_of
from inner_rim.core.procedure.stops import SPRAY
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary

INSERTS = {"none": None, "ported": {"ported": True}, "unported": {"ported": False}}


def plan(kind, bed, insert, order, route, lubricant, press, core_out, seating="steps", **more):
    changes = {
        "rim__bed": bed,
        "insert": INSERTS[insert],
        "work": {"kind": kind, **more.pop("work", {})},
        **{f"practice__{name}": value for name, value in {
            "insert_order": order, "sealant_route": route, "lubricant": lubricant, "press_home": press,
            "core_out": core_out, "seating": seating,
        }.items()},
    }  # fmt: skip
    return plan_job(job_from_plain(ordinary(**changes, **more)))[0]


FILLS = ("air.inflate", "air.step", "air.burst")


def walk(result):
    """Raise where a rule is broken; knows nothing of needs and gives."""
    setup, limit = result.setup, result.pressure.limit_kpa
    codes = [step.code for step in result.steps]
    first = {code: codes.index(code) for code in codes}
    laid, out, up = "tape.lay" in codes or "tape.find" in codes, False, setup.arrival.air
    wet_ok, seen, inserted, sealed_in = True, True, False, False
    on = {"bead.first", "bead.partial", "bead.second", "bead.refit"}
    asked = [step.question for step in result.steps if step.question]
    assert len(set(asked)) == len(asked)  # rule 8
    for place, step in enumerate(result.steps):
        code, before = step.code, codes[:place]
        assert step.pressure_kpa <= limit  # rule 6
        if code == "insert.on":  # rule 1
            assert "valve.fit" in before or setup.keeps_valve
            assert not setup.arrow or before.count("tire.arrow_again") == 1
        if code == "bead.first":
            assert not setup.arrow or "tire.arrow" in before
            assert {"tire.look", "tire.wipe"} <= set(before)
        if code in ("tape.lay", "tape.find") and setup.adds_layer:  # rule 9: the good tape stays
            assert "tape.keep_look" in before and "strip.tape_off" not in codes
        elif code in ("tape.lay", "tape.find"):  # rule 2
            assert before.index("rim.clean") < before.index("rim.dry") and "rim.look" in before
        if code in on and laid:
            assert "tape.look" in before
        if code == "hole.open":
            assert "tape.look" in before
        if code == "bead.wet":  # rule 3
            assert wet_ok
        if code == "sealant.pour":  # rule 4
            assert before[-2:] == ["bead.partial", "sealant.shake"] and not up
            assert codes[place + 1] == "bead.close"
        if code == "sealant.inject":
            assert out and not up and setup.ports and "core.in" in codes[place:]
            again = codes[place + 1 :]
            up_again = min(again.index(c) for c in FILLS if c in again)
            look = again.index("line.look")
            # seated with the core out, it stays out until then
            assert (
                again.index("core.in") < (look if setup.core_out else up_again) and up_again < look
            )
            held = [again.index(c) for c in ("spin.look", "hold.shake", "hold.soap") if c in again]
            assert up_again < min(held)
        # rule 5
        if code.startswith(("hold.", "spin.", "set.")) or code in ("line.look", "dry.test"):
            assert up and not out, code
        if code.startswith(("hold.", "spin.", "set.")):
            assert seen, code
        out = code == "core.out" or (out and code != "core.in")
        if code in (*FILLS, "air.press"):
            up, seen, wet_ok = True, False, False
        elif code in ("air.deflate", "strip.deflate", "core.in"):
            up, seen = False, False
        if code in ("bead.off_one", "bead.open_one", "strip.break_beads", "strip.tire_off"):
            wet_ok = True
        seen = seen or code == "line.look"
        inserted = inserted or code == "insert.on"
        sealed_in = sealed_in or code in ("sealant.pour", "sealant.inject")
    if setup.sealed or not laid:  # rule 7
        assert not {"tape.lay", "tape.press", "tape.look", "tape.trim", "hole.open"} & set(codes)
    if setup.sealed:
        assert not any(code.startswith("tape.") for code in codes)
    if "bead.off_one" in codes and "bead.first" in codes:
        # one side opened: no first bead after it
        assert "bead.first" not in codes[codes.index("bead.off_one") :]
    if "strip.valve_out" in codes:  # nothing is taken out that is not there
        assert setup.arrival.valve != "none" or "valve.fit" in codes[: first["strip.valve_out"]]
    if setup.insert == "none":
        assert not any(code in ("insert.on", "insert.look", "tire.arrow_again") for code in codes)
    assert ("strip.tube_out" in codes) == (setup.arrival.tube and setup.arrival.tire != "off")
    assert sealed_in == setup.takes_sealant
    goes_in = setup.insert != "none" and setup.tire_goes_on and not setup.insert_stays
    assert inserted == goes_in
    assert first["set.sign"] == len(codes) - 1
    assert all(len(step.cautions) <= 2 for step in result.steps)
    assert max(Counter(caution.stage for caution in result.cautions).values()) <= 2


def test_every_combination_of_work_bed_insert_order_route_press_and_core():
    kinds, beds = tuple(WORK_WORDS), ("drilled", "large_holes", "sealed")
    orders = ("insert_first", "bead_first", "seat_first")
    for kind, bed, insert, order, route, press, out in itertools.product(
        kinds, beds, INSERTS, orders, ("pour", "inject"), ("hand", "tube"), (False, True)
    ):
        walk(plan(kind, bed, insert, order, route, "soap", press, out))


@settings(max_examples=400)
@given(
    st.sampled_from(tuple(WORK_WORDS)),
    st.sampled_from(("drilled", "large_holes", "sealed")),
    st.sampled_from(tuple(INSERTS)),
    st.sampled_from(("insert_first", "bead_first", "seat_first")),
    st.sampled_from(("pour", "inject")),
    st.sampled_from(("none", "soap", "fluid", "wax", "sealant")),
    st.sampled_from(("hand", "warmth", "tube")),
    st.booleans(),
    st.sampled_from(("steps", "burst")),
    st.sampled_from(("tested", "seated", "first")),
    st.sampled_from(("always", "if_it_leaks")),
    st.fixed_dictionaries(
        {},
        optional={
            "keep_tape": st.booleans(),
            "keep_valve": st.booleans(),
            "keep_insert": st.booleans(),
            "folded": st.booleans(),
            **{
                name: st.booleans()
                for name in ("insert_later", "new_sealant", "new_tape", "patch_cut")
            },
            "tape_changes": st.integers(0, 6),
            "leak": st.sampled_from(
                ("tread", "side_wall", "weeps", "bead", "valve", "nipple", "unknown")
            ),
        },
    ),
    st.sampled_from((None, True, False)),
    st.sampled_from((None, True, False)),
    st.sampled_from((None, False)),
    st.floats(0.0, 12.0),
    st.fixed_dictionaries(
        {},
        optional={
            **{name: st.booleans() for name in ("tube", "taped", "seated", "air", "insert")},
            "tire": st.sampled_from(("on", "one_bead_off", "off")),
            "sealant": st.sampled_from(("none", "liquid", "dried", "unknown")),
            "valve": st.sampled_from(("none", "plain", "ported")),
            "tape_kind": st.sampled_from(("polyester", "cloth", "film", "overlay")),
        },
    ),
)
def test_any_arrival_kept_parts_tire_marks_and_wells(
    kind,
    bed,
    insert,
    order,
    route,
    wet,
    press,
    out,
    seating,
    when,
    flat,
    work,
    marked,
    new,
    arrow,
    depth,
    arrival,
):
    well = {"depth_mm": depth, "floor_mm": 8.0, "left_shoulder_mm": 3.0, "right_shoulder_mm": 4.0}
    walk(
        plan(
            kind, bed, insert, order, route, wet, press, out, seating, work=work, rim__well=well,
            tire__tubeless_ready=marked, tire__new=new, tire__directional=arrow, arrival=arrival or None,
            practice__inject_when=when, practice__rest_flat=flat,
        )
    )  # fmt: skip


def test_the_check_bites():
    """Each step left out of a procedure that something later needs is found, and so is one pressure too many."""
    result = plan("convert", "drilled", "ported", "insert_first", "inject", "soap", "hand", False)
    start, limit = start_of(result.setup), result.pressure.limit_kpa
    needed = {"valve.fit", "tape.look", "rim.dry", "core.in", "air.inflate", "line.look", "tire.wipe", "tire.arrow",
              "tire.arrow_again", "hole.open", "core.out", "bead.first", "strip.tire_off"}  # fmt: skip
    for code in needed:
        place = max(i for i, step in enumerate(result.steps) if step.code == code)
        with pytest.raises(BrokenRecipe):
            check([*result.steps[:place], *result.steps[place + 1 :]], start, limit)
    with pytest.raises(BrokenRecipe, match="above"):
        check(result.steps, start, 10.0)
    twice = next(step for step in result.steps if step.question)
    with pytest.raises(BrokenRecipe, match="again"):
        check([*result.steps[: result.steps.index(twice)], twice, twice], start, limit)


def test_every_code_has_the_agreed_form():
    assert all(code == code.lower() and code.count(".") == 1 for code in KINDS)


@pytest.mark.parametrize("route", ["pour", "inject"])
def test_a_caution_is_said_once_unless_a_flat_tire_is_filled_again(route):
    """At most 8 on a plain conversion; eye protection and limit stand wherever air goes into a flat tire."""
    result = plan("convert", "drilled", "none", "insert_first", route, "soap", "hand", False)
    after_check_in = [step for step in result.steps if step.stage != "check_in"]
    said = Counter(message.text for step in after_check_in for message in step.cautions)
    assert sum(said.values()) <= 8 and max(said[text] for text in said if text != SPRAY) == 1
    flat = True
    for step in result.steps:
        if step.code in ("air.inflate", "air.step", "air.burst"):
            assert (SPRAY in [message.text for message in step.cautions]) == flat, step.key
            flat = False
        flat = flat or step.code in ("air.deflate", "core.out")
