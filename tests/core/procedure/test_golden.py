"""Eight wheels whose order of steps once read wrong to a mechanic, as the text that is read at the bench.

The texts stand in `tests/data/procedures`; they were read line by line against docs/job.md 1.3 (common practice,
no published source).
"""

from pathlib import Path

import pytest

from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.reading import job_from_plain
from tests.samples import ordinary

FOLDER = Path(__file__).parents[2] / "data" / "procedures"
WELL = {"depth_mm": 3.5, "floor_mm": 8.0, "left_shoulder_mm": 3.0, "right_shoulder_mm": 4.0}
SHALLOW = {**WELL, "depth_mm": 1.5}
ROOMY = {**WELL, "depth_mm": 6.0}
INSERT = {
    "name": "Kelp 45",
    "ported": True,
    "leg_mm": 1.0,
    "height_mm": 20.0,
    "bead_seat_diameter_mm": 622.0,
}
CASES = {
    "tight insert": {"insert": INSERT, "rim__well": SHALLOW},
    "roomy insert injected": {"insert": INSERT, "rim__well": ROOMY},
    "unported insert": {"insert": {**INSERT, "ported": False}, "rim__well": ROOMY},
    "unmarked tire on a hooked rim": {"tire__tubeless_ready": False, "rim__well": ROOMY},
    "fat rim with large holes and two strips": {
        "rim__internal_width_mm": 80, "rim__bead_seat_diameter_mm": 559, "rim__bed": "large_holes",
        "tire__size": "100-559", "tire__max_pressure_kpa": 200, "tire__min_pressure_kpa": 35,
        "shelf__tape_widths_mm": [27.0, 47.0, 50.0],
    },
    "road tire with clogging sealant": {
        "rim__internal_width_mm": 19, "tire__size": "28-622", "tire__max_pressure_kpa": 600,
        "tire__min_pressure_kpa": 400, "rim__max_pressure_kpa": 700, "rim__well": ROOMY,
        "shelf__sealant": {"name": "Eelgrass", "clogs_valve": True},
    },
    "tire change with kept tape": {
        "work": {"kind": "tire_change"}, "rim__well": ROOMY, "sealant": {"name": "Eelgrass", "in_ml": 60.0},
    },
    "tape again after a spoke": {
        "work": {"kind": "retape"}, "rim__well": ROOMY, "tire__new": False, "practice__sealant_route": "pour",
    },
}  # fmt: skip


def text_of(changes):
    plan = plan_job(job_from_plain(ordinary(**changes)))[0]
    lines = []
    for step in plan.steps:
        wait = f" (wait {step.wait_minutes:g} min)" if step.wait_minutes else ""
        cautions = "".join(f"\n{'':10}! {caution.read()}" for caution in step.cautions)
        lines.append(f"{step.stage:<10}{step.text.read()}{wait}{cautions}")
    return "\n".join(lines) + "\n"


@pytest.mark.parametrize("name", CASES)
def test_the_steps_read_right_to_a_mechanic(name):
    expected = (FOLDER / f"{name.replace(' ', '_')}.txt").read_text(encoding="utf-8")
    assert text_of(CASES[name]) == expected
