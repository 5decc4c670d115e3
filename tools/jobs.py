"""Print jobs step by step as a mechanic meets them, with what goes wrong on the way: to be read whole after every change.

Run: .venv/bin/python tools/jobs.py [NAME…], and > tests/data/jobs.txt once it reads right.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from typing import Any

from inner_rim.core.plan.wheel_plan import WheelPlan, plan_wheel
from inner_rim.core.progress.progress import derive
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import (
    AnyEntry,
    Attempt,
    Changed,
    Dip,
    Dose,
    Finding,
    Leak,
    LeakPlace,
    Logged,
    Outcome,
    Reading,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.reading import job_from_plain

RIM = {
    "bead_seat_diameter_mm": 622,
    "internal_width_mm": 24,
    "hook": "hooked",
    "max_pressure_kpa": 350,
}
TIRE = {
    "size": "45-622",
    "tubeless_ready": True,
    "max_pressure_kpa": 340,
    "min_pressure_kpa": 150,
    "directional": True,
}
DEEP = {"depth_mm": 5.0, "floor_mm": 8.0, "left_shoulder_mm": 4.0, "right_shoulder_mm": 4.0}
KELP = {"name": "Kelp 45", "ported": True, "bead_seat_diameter_mm": 622, "height_mm": 20}
SAME = {"sealant": {"name": "Eelgrass", "in_ml": 60}}
#: What happens at a step that is named by its code or question: a no with what is done about it, tries, a dip, a leak.
Happens = dict[str, Any]
JOBS: dict[str, tuple[dict[str, Any], Happens]] = {
    "hookless rim with insert, injected": (
        {"rim.hook": "straight_side", "tire.straight_side_approved": True, "insert": KELP, "practice.sealant_route": "inject"},
        {},
    ),
    "fat tire, poured": (
        {"rim.bead_seat_diameter_mm": 559, "rim.internal_width_mm": 80, "tire.size": "100-559", "tire.max_pressure_kpa": 200,
         "tire.min_pressure_kpa": 35, "shelf.tape_widths_mm": [47.0, 50.0], "rim.bed": "large_holes",
         "practice.sealant_route": "pour"},
        {},
    ),
    "loose tire that needs layers": ({"rim.seat_circumference_mm": 1952}, {}),
    "wide unmarked tire tried on a hooked rim": ({"tire.tubeless_ready": False}, {}),
    "28 mm road tire at 7 bar": (
        {"rim.internal_width_mm": 19, "rim.max_pressure_kpa": 700, "tire.size": "28-622", "tire.max_pressure_kpa": 700,
         "tire.min_pressure_kpa": 400},
        {},
    ),
    "porous side wall over days": ({}, {"hold.read": ["lost", "weeps"]}),
    "plug at the roadside, then the bench": ({"work.kind": "repair", "work.leak": "tread", "tire.plugs": 1, **SAME}, {}),
    "refresh with liquid sealant": ({"work.kind": "refresh", "practice.sealant_route": "inject", **SAME}, {"dip.read": 22.0}),
    "refresh with dried sealant": (
        {"work.kind": "refresh", "arrival.sealant": "dried", "practice.sealant_route": "inject", **SAME}, {},
    ),
    "plug in the tread": ({"work.kind": "repair", **SAME}, {"repair.find": "tread"}),
    "air at a nipple": ({"work.kind": "repair", **SAME}, {"repair.find": "nipple"}),
    "tire change, tape kept": ({"work.kind": "tire_change", **SAME}, {}),
    "tire change, the kept tape fails its look": ({"work.kind": "tire_change", **SAME}, {"tape_damaged": "tape"}),
    "charge bottle": ({"practice.air_source": "charge"}, {}),
    "core out, slowly, floor pump": ({"practice.core_out": True}, {}),
    "asymmetric rim": (
        {"rim.well": {"depth_mm": 4, "floor_mm": 8, "left_shoulder_mm": 6, "right_shoulder_mm": 3}}, {},
    ),
    "worn insert": ({"work.kind": "insert", "insert": KELP, **SAME}, {"insert_worn": "fixed"}),
    "insert, seat first": ({"insert": KELP, "practice.insert_order": "seat_first"}, {}),
    "two wheels of one bicycle, the rear": ({"position": "rear", "practice.sealant_route": "inject"}, {}),
    "factory-taped rim with a tube": ({"arrival.taped": True, "work.keep_tape": True}, {}),
    "comes in flat and unseated": (
        {"work.kind": "refresh", "arrival.seated": False, "arrival.air": False, **SAME}, {},
    ),
    "beads fall off at the dry test": ({"practice.sealant_route": "inject"}, {"beads_unseat": "layer"}),
    "a low spot twice": ({}, {"try": ["one_low", "one_low", "both_up"]}),
    "no pressure builds, until the strap": (
        {}, {"try": ["no_pressure", "no_pressure", "both_up"], "change": ["core_out", "strap"]},
    ),
    "back to a tube with a boot": ({"work.kind": "back_to_tube", "work.leak": "side_wall", **SAME}, {}),
    "comes back with the pressure the rider kept": (
        {"work.kind": "refresh", "previous_pressure_kpa": 205, "practice.start_pressure": "previous",
         "practice.sealant_route": "inject", **SAME},
        {"dip.read": 0.0},
    ),
    "bare rim": ({"arrival.tube": False, "arrival.tire": "off"}, {}),
    "taped rim, a tube, the tire that was on it": (
        {"arrival.taped": True, "tire.new": False, "practice.sealant_route": "inject"}, {},
    ),
    "rim without tubeless mark": ({"rim.tubeless_ready": False}, {}),
    "refresh with another kind inside": (
        {"work.kind": "refresh", "sealant": {"name": "Otherweed", "in_ml": 60}}, {},
    ),
    "a bead that leaks on": (
        {"work.kind": "repair", "work.leak": "bead", "work.leak_side": "right", **SAME}, {"bead_leaks_on": "no"},
    ),
    "a bead that closes lying on its side": ({"work.kind": "repair", "work.leak": "bead", **SAME}, {}),
    "a side wall that weeps": ({"work.kind": "repair", **SAME}, {"repair.find": "weeps"}),
    "a cut side wall": ({"work.kind": "repair", **SAME}, {"repair.find": "cut"}),
    "a cut side wall that is patched": (
        {"work.kind": "repair", "work.leak": "side_wall", "work.patch_cut": True, **SAME}, {},
    ),
    "a plug, with sealant that is overdue": (
        {"work.kind": "repair", "work.leak": "tread", "work.new_sealant": True, **SAME}, {},
    ),
    "a valve that leaks, with tape that is overdue": (
        {"work.kind": "repair", "work.leak": "valve", "work.new_tape": True, **SAME}, {},
    ),
    "a hole, with tape that is overdue": (
        {"work.kind": "repair", "work.leak": "tread", "work.new_tape": True, **SAME}, {},
    ),
    "too little sealant in a plugged tire": (
        {"work.kind": "repair", "work.leak": "tread", "practice.sealant_route": "inject", **SAME},
        {"sealant_low": "no", "dip.read": 10.0},
    ),
    "side walls weep at the dry test": ({"practice.sealant_route": "inject"}, {"dry_test_leaks": "weeps"}),
    "a bead leaks at the dry test": ({"practice.sealant_route": "inject"}, {"dry_test_leaks": "layer"}),
    "insert, bead first": ({"insert": KELP, "practice.insert_order": "bead_first"}, {}),
    "refresh past an insert, by the valve that is in": (
        {"work.kind": "refresh", "insert": {**KELP, "ported": False}, "arrival.valve": "ported",
         "practice.sealant_route": "inject", **SAME},
        {"dip.read": 20.0},
    ),
    "tape two spokes past, hole cut, mounting fluid": (
        {"practice.tape_start": "past_valve", "practice.hole": "cut", "practice.lubricant": "fluid"}, {},
    ),
    "injected once seated, finger on the valve": (
        {"practice.sealant_route": "inject", "practice.inject_when": "seated", "practice.core_in": "finger"}, {},
    ),
    "injected before it seats, core out": (
        {"practice.sealant_route": "inject", "practice.inject_when": "first", "practice.core_out": True}, {},
    ),
    "waxed beads, injected before they seat": (
        {"practice.sealant_route": "inject", "practice.inject_when": "first", "practice.lubricant": "wax"}, {},
    ),
    "old glue in the bed, a worn valve hole": (
        {"arrival.taped": True, "work.keep_tape": False, "practice.bed_cleaning": "abrasive", "practice.hole_seal": "putty"},
        {},
    ),
    "rests flat only if it leaks, and it does": ({"practice.rest_flat": "if_it_leaks"}, {"hold.read": ["failed", "fixed"]}),
    "ridden until it is tight": ({"practice.rest_flat": "if_it_leaks"}, {"hold.read": ["ridden", ""]}),
    "tire change over an insert that stays on": (
        {"work.kind": "tire_change", "insert": KELP, "practice.sealant_route": "inject", "rim.well": DEEP, **SAME}, {},
    ),
    "tire change, the insert that stayed on is worn": (
        {"work.kind": "tire_change", "insert": KELP, "rim.well": DEEP, **SAME}, {"insert_worn": "fixed"},
    ),
    "a new tire ridden before its insert goes in": (
        {"insert": KELP, "tire.new": True, "work.insert_later": True, "practice.sealant_route": "inject"}, {},
    ),
    "overlay on a fat rim, one more layer": (
        {"rim.bead_seat_diameter_mm": 559, "rim.internal_width_mm": 60, "tire.size": "100-559", "tire.max_pressure_kpa": 200,
         "tire.min_pressure_kpa": 35, "shelf.tape_widths_mm": [70.0], "practice.tape_kind": "overlay",
         "practice.sealant_route": "inject"},
        {"beads_unseat": "layer"},
    ),
    "insert taken out": ({"work.kind": "insert", "arrival.insert": True, **SAME}, {}),
}  # fmt: skip


def job_of(changes: dict[str, Any]) -> dict[str, Any]:
    """Return the document of an ordinary wheel with changes at dotted paths."""
    wheel: dict[str, Any] = {"name": "Tern", "rim": dict(RIM), "tire": dict(TIRE)}
    job: dict[str, Any] = {"format": "inner-rim/job", "version": 1, "wheels": [wheel]}
    job["shelf"] = {"sealant": {"name": "Eelgrass"}}
    for path, value in changes.items():
        first, _, rest = path.partition(".")
        inside = job if first == "shelf" else wheel
        if rest:
            inside.setdefault(first, {})[rest] = value
        else:
            inside[first] = value
    return job


class Reader:
    """Works at one wheel and prints what is read.

    Args:
        changes: of the ordinary wheel.
        happens: what goes wrong, each of it once.
    """

    def __init__(self, changes: dict[str, Any], happens: Happens) -> None:
        self._job = job_from_plain(job_of(changes))
        self._happens = {
            name: list(value) if isinstance(value, list) else value
            for name, value in happens.items()
        }
        self._log: list[Logged] = []
        self.confirmations = self.cautions = 0

    def read(self) -> None:
        """Print the job to its end."""
        said = ""
        for _n in range(200):
            plan = self._plan()
            for stop in derive(plan.wheel, plan).open_stops:
                print(f"      STOP  {stop.message.read()}")
                if not stop.overridable:
                    return
            if not plan.steps:
                return
            step = plan.steps[0]
            if step.stage != said:
                said = step.stage
                print(f"  {said.upper()}")
            wait = f"  (wait {step.wait_minutes:g} min)" if step.wait_minutes else ""
            print(f"      {step.text.read()}{wait}")
            for caution in step.cautions:
                self.cautions += step.stage != "check_in"
                print(f"          ! {caution.read()}")
            self._log += [
                Logged(
                    number=len(self._log) + 1,
                    at="2026-11-24T10:00:00+00:00",
                    wheel_id="w",
                    entry=entry,
                )
                for entry in self._done(plan)
            ]

    def _plan(self) -> WheelPlan:
        job = self._job
        return plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, self._log)

    def _done(self, plan: WheelPlan) -> Sequence[AnyEntry]:
        step = plan.steps[0]
        if step.pressure_step:
            return self._tried(plan)
        if step.question:
            return self._answered(step.question)
        if step.code == "repair.find":
            place: LeakPlace = self._happens.pop("repair.find", "none")
            print(f"          - air comes out: {place}")
            return [Leak(place=place), StepEntry(stage=step.stage, step=step.key)]
        done = StepEntry(stage=step.stage, step=step.key)
        if step.code == "dip.read" and "dip.read" in self._happens:
            left = self._happens.pop("dip.read")
            print(f"          - {left:g} ml left")
            return [Dip(depth_mm=5.0 if left else 0.0, free_ml=left), done]
        if step.asks == "dose":
            return [Dose(dose_ml=plan.sealant.dose_ml, name="Eelgrass"), done]
        if step.code == "hold.read" and "hold.read" in self._happens:
            how, where = self._happens.pop("hold.read")
            if how == "ridden":
                print("          - ridden in place of a reading")
                return [StepEntry(stage="hold", outcome="ridden")]
            if how == "failed":
                print("          - lost air, fixed")
                return [
                    StepEntry(stage="hold", outcome="failed"),
                    StepEntry(stage="hold", outcome="reopened"),
                ]
            print(f"          - lost air: {where.replace('_', ' ')}")
            return [Reading(pressure_kpa=200), Leak(place=where)]
        if step.code == "set.sign":
            return [done, SignOff(by="M. Osier", pressure_kpa=plan.pressure.set_here_kpa)]
        return [done]

    def _tried(self, plan: WheelPlan) -> Sequence[AnyEntry]:
        step, tries = plan.steps[0], self._happens.get("try", [])
        outcome: Outcome = tries.pop(0) if tries else "both_up"
        low = (3,) if outcome == "one_low" else ()
        peak = 10.0 if outcome == "no_pressure" else step.pressure_kpa
        print(f"          - {outcome.replace('_', ' ')}")
        out = plan.log.state.core == "out"
        result: list[AnyEntry] = [
            Attempt(peak_kpa=peak, outcome=outcome, limit_kpa=plan.pressure.limit_kpa, target_kpa=step.pressure_kpa,
                    low_left=low, core_out=out, source=plan.methods.air_source,
                    changed=tuple(sorted(plan.log.state.changed)))
        ]  # fmt: skip
        remedies = self._happens.get("change", [])
        if outcome == "no_pressure" and remedies:
            remedy: Remedy = remedies.pop(0)
            print(f"          - changed: {remedy.replace('_', ' ')}")
            result.append(Changed(remedy=remedy))
        return result

    def _answered(self, question: str) -> Sequence[AnyEntry]:
        then = self._happens.pop(question, None)
        if then is None:
            return [Finding(check=question, sound=True)]
        print(f"          - NO; {then}")
        no = Finding(check=question, sound=False)
        if then == "no":
            return [no]
        if then == "weeps":
            return [no, Leak(place="weeps")]
        if then == "fixed":
            return [no, Finding(check=question, sound=True)]
        return [
            no,
            StepEntry(stage="tape", outcome="again", step="layer" if then == "layer" else ""),
        ]


def main() -> int:
    """Print the jobs that are named, or all."""
    wanted = sys.argv[1:] or list(JOBS)
    for name in wanted:
        print(name.upper())
        Reader(*JOBS[name]).read()
        print()
    return 0


if __name__ == "__main__":
    sys.exit(main())
