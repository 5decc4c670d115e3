"""The handbook's rules of the job as a table: for these parts and this practice, these steps, waits and cautions.

All are common practice, no published source, unless a line says otherwise.
"""

import pytest

from inner_rim.core.plan import plan_job
from inner_rim.core.reading import job_from_plain
from tests.samples import ordinary

INSERT = {"insert__height_mm": 18, "insert__ported": True, "insert__leg_mm": 1}


def plan(**changes):
    return plan_job(job_from_plain(ordinary(**changes)))[0]


def texts(stage, **changes):
    return [step.text.read() for step in plan(**changes).steps if step.stage == stage]


RULES = [
    # changes, stage, must be said, must not be said
    ({}, "strip", "isopropyl alcohol", "strip goes back"),
    ({"rim__bed": "large_holes"}, "strip", "the strip goes back in under the tape", ""),
    ({"rim__carbon": True}, "strip", "Carbon sound", "free of dents"),
    ({}, "strip", "free of dents", "Carbon"),
    ({"tire__new": False}, "strip", "Old sealant cleaned out", ""),
    ({}, "tape", "shoulders first, then the well", "layers"),
    ({"practice__layers": 2}, "tape", "2 layers", ""),
    ({"rim__internal_width_mm": 60, "tire__size": "100-622"}, "tape", "Two strips of", "shoulders first"),
    ({"shelf__tape_widths_mm": [40]}, "tape", "Trim the roll to 26.9 mm", ""),
    ({"shelf__tape_widths_mm": [10]}, "tape", "Find tape 26.9 mm wide", "rub down"),
    ({"practice__tape_start": "past_valve"}, "tape", "away from the hole", ""),
    ({}, "valve", "do not cut", "side ports"),
    ({}, "valve", "nut finger tight", ""),
    ({"rim__depth_at_valve_mm": None}, "valve", "Find the hole", "finger tight"),
    ({"insert__height_mm": 18, "insert__ported": False}, "valve", "holes face along the tire", ""),
    (INSERT, "insert", "notch at the valve", ""),
    (INSERT, "insert", "seam at least 75 mm from the valve", ""),
    ({**INSERT, "insert__joined": False}, "insert", "notch at the valve", "seam"),
    (INSERT, "insert", "Warm tire and insert", ""),
    (INSERT, "insert", "still springy", ""),
    ({}, "mount", "start opposite the valve, finish at the valve", "shoulder is the narrow one"),
    ({"tire__directional": False}, "mount", "First bead", "Arrow"),
    (
        {"rim__well": {"depth_mm": 4, "floor_mm": 7, "left_shoulder_mm": 3, "right_shoulder_mm": 6}},
        "mount", "The left shoulder is the narrow one: that side goes on last", "",
    ),
    ({"practice__sealant_route": "pour"}, "sealant", "pour 65 ml in at the open section", "inject"),
    ({"practice__sealant_route": "inject"}, "sealant", "pull the plunger back before unscrewing", "pour"),
    ({"practice__sealant_route": "inject", "shelf__sealant": {"clogs_valve": True}}, "sealant", "clogs a valve", "inject"),
    ({"practice__lubricant": "fluid"}, "seat", "Mounting fluid", "Soapy"),
    ({}, "seat", "Climb to 1.50 bar, stop, look at both sides", "3.50 bar"),
    ({"tire__max_pressure_kpa": 200}, "seat", "Never above 2.00 bar", "2.20 bar"),
    ({}, "hold", "Flat on the left side", ""),
    ({}, "hold", "no hop, no wobble", ""),
    ({}, "set", "refresh after 108 days", ""),  # 60 % of 180 days
    ({"practice__climate": "hot_dry"}, "set", "refresh after 54 days", ""),
]  # fmt: skip


@pytest.mark.parametrize(("changes", "stage", "said", "unsaid"), RULES)
def test_the_steps_follow_the_parts(changes, stage, said, unsaid):
    found = " / ".join(texts(stage, **changes))
    assert said in found, found
    assert not unsaid or unsaid not in found, found


@pytest.mark.parametrize(
    ("changes", "code", "minutes"),
    [
        ({}, "strip.clean", 15),
        (INSERT, "insert.warm", 10),
        ({}, "hold.left", 15),
        ({"tire__tubeless_ready": False}, "hold.left", 120),  # a weeping casing: hours a side
        ({}, "hold.leave", 720),  # a sound wheel holds overnight
    ],
)
def test_the_waits(changes, code, minutes):
    step = next(step for step in plan(**changes).steps if step.code == code)
    assert step.wait_minutes == minutes and step.active_minutes > 0


@pytest.mark.parametrize(
    ("code", "said"),
    [
        ("strip.clean", "no flame or spark"),
        ("tape.cut", "warm, not hot, most of all on carbon"),
        ("valve.hole", "away from your hand"),
        ("valve.fit", "pliers"),
        ("mount.second", "never into the tape"),
        ("sealant.dose", "Never mix two kinds"),
        ("seat.climb1", "Eyes and ears covered"),
        ("hold.spin", "Never above 3.40 bar"),
    ],
)
def test_a_caution_stands_where_the_hand_is_about_to_do_the_thing(code, said):
    step = next(step for step in plan().steps if step.code == code)
    assert said in step.caution.read()


CAUTIONS = [
    ({}, "seat", "Hissing at the spoke holes"),
    ({}, "seat", "pressure vessel: inspected, never above its rating"),
    ({"shelf__sealant": {"dislikes_soap": True}}, "seat", "Soap weakens this sealant"),
    ({}, "check_in", "a qualified mechanic signs the wheel off"),
    (
        {"tire__max_pressure_kpa": None, "rim__max_pressure_kpa": None},
        "check_in",
        "stands in as a cautious cap",
    ),
    ({"rim__hook": None}, "check_in", "the straight-side limit counts"),
    ({"rim__internal_width_mm": 36}, "check_in", "only where both makers approve"),
    ({"rim__internal_width_mm": 18}, "check_in", "light-bulb shape"),
    ({"tire__tubeless_ready": False}, "check_in", "days of patience"),
    ({}, "set", "maker's limits for load come first"),
    ({}, "sealant", "local rules"),
]


@pytest.mark.parametrize(("changes", "stage", "said"), CAUTIONS)
def test_the_cautions_of_a_stage(changes, stage, said):
    found = [caution.message.read() for caution in plan(**changes).cautions if caution.stage == stage]
    assert any(said in text for text in found), found
