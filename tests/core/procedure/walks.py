"""A hand that works at any wheel and that things go wrong for, with an eye of its own for the rules of docs/job.md 1.2.

The eye knows nothing of needs and gives: it keeps its own picture of the wheel from the codes of what is done.
"""

import random

from inner_rim.core.plan.wheel_plan import pick_parts, summary_of
from inner_rim.core.procedure.achieve import achieve
from inner_rim.core.procedure.actions import code_of
from inner_rim.core.record.log import Attempt, Changed, Dose, Finding, Inspection, Leak, SignOff, StepEntry
from inner_rim.core.record.reading import job_from_plain
from tests.samples import logged, ordinary

#: After so many entries nothing goes wrong any more; no wheel takes more than the second.
CALM, MOST = 70, 400


def any_wheel(rng):
    """Return the changes of an ordinary wheel to any work, arrival, parts and methods."""
    pick, coin = rng.choice, rng.random
    flags = ("tube", "taped", "seated", "air", "insert")
    arrival = {name: coin() < 0.5 for name in flags if coin() < 0.4}
    arrival |= {"tire": pick(("on", "one_bead_off", "off"))} if coin() < 0.4 else {}
    arrival |= {"sealant": pick(("none", "liquid", "dried", "unknown"))} if coin() < 0.4 else {}
    work = {"kind": pick(("convert", "tire_change", "retape", "insert", "refresh", "repair", "back_to_tube"))}
    work |= {name: coin() < 0.5 for name in ("keep_tape", "keep_valve", "keep_insert", "folded") if coin() < 0.3}
    work |= {"leak": pick(("tread", "side_wall", "bead", "valve", "nipple", "unknown"))} if coin() < 0.8 else {}
    return {
        "rim__bed": pick(("drilled", "large_holes", "sealed")),
        "insert": pick((None, {"ported": True}, {"ported": False}, {})),
        "work": work,
        "arrival": arrival or None,
        "practice__insert_order": pick(("insert_first", "bead_first", "seat_first")),
        "practice__sealant_route": pick(("pour", "inject")),
        "practice__lubricant": pick(("none", "soap", "fluid", "sealant")),
        "practice__press_home": pick(("hand", "warmth", "tube")),
        "practice__core_out": coin() < 0.3,
        "practice__seating": pick(("steps", "burst")),
        "tire__tubeless_ready": pick((None, True, False)),
        "tire__new": pick((None, True, False)),
        "tire__directional": pick((None, False)),
        "tire__plugs": pick((None, 0, 2)),
    }


class Plan:
    """What remains at a wheel after a log, without words and figures that do not change: planned thousands of times."""

    def __init__(self, picks, entries):
        self.pressure, self.log = picks.pressure, summary_of(picks, logged(*entries))
        self.setup = picks.setup(self.log.changes)
        self.steps = achieve(self.log.state, self.setup, self.log.taken, self.log.seating.step)

    def kpa(self, step):
        """The pressure that a step sets."""
        return (
            self.pressure.seating_kpa[min(step.pressure_step, len(self.pressure.seating_kpa) - 1)]
            if step.pressure_step >= 0
            else 0
        )


class Eye:
    """What is seen of a wheel by what is done to it.

    Args:
        plan: of the wheel as it came in.
    """

    def __init__(self, plan):
        result = plan.setup.arrival
        self.off = {"first": result.tire == "off", "last": result.tire != "on"}
        self.up, self.out, self.seen, self.sealant = result.air, False, False, result.sealant
        self.valve = not result.tube
        self.tube, self.insert = result.tube and result.tire != "off", result.insert and not result.tube
        self.clean, self.looked, self.arrow, self.again = False, True, result.tire != "off", False
        self.hole = True
        self.poured_open = self.wiped = self.partial = False
        self.limit = plan.pressure.limit_kpa

    def see(self, step, plan):
        """Raise where doing a step now breaks a rule."""
        code, setup = step.code, plan.setup
        assert plan.kpa(step) <= self.limit, step.key  # rule 6
        if code == "insert.on":  # rule 1
            assert self.valve and (self.again or not setup.arrow) and not self.insert and setup.insert != "none"
        if code == "bead.first":
            assert (self.arrow or not setup.arrow) and self.wiped and self.off["last"]
        if code == "tape.lay":  # rule 2
            assert self.off["first"] and self.off["last"] and not self.valve and not setup.sealed
            assert self.clean or setup.adds_layer or setup.lays_tape
        if code in ("bead.first", "bead.second", "bead.partial", "bead.refit", "valve.fit"):
            assert self.looked and self.hole, code
        if code == "bead.wet":  # rule 3
            assert not self.up
        if code == "sealant.pour":  # rule 4
            assert self.partial and not self.up and not self.sealant
        if code == "sealant.inject":
            assert self.out and not self.up and not self.off["last"] and setup.ports
        if code.startswith(("hold.", "spin.", "set.")) or code in ("line.look", "dry.test"):  # rule 5
            assert self.up and not self.out, code
        if code.startswith(("hold.", "spin.", "set.")):
            assert self.seen, code
        if code.startswith("air.") and code != "air.deflate":
            assert not self.off["first"] and not self.off["last"] and not self.partial, code
        if code in ("strip.tube_out", "tube.out"):  # rule 7
            assert self.tube
        if code in ("strip.insert_out", "strip.old_insert_out"):
            assert self.insert
        if code == "tube.in":
            assert not self.sealant and not self.valve and not self.tube
        if code in ("strip.tire_off", "strip.open_one", "bead.off_one", "strip.break_beads", "core.out"):
            assert not self.up, code
        self._after(code)

    def _after(self, code):
        if code in ("air.inflate", "air.step", "air.burst", "air.press"):
            self.up, self.seen = True, False
        if code in ("air.deflate", "strip.deflate", "core.in"):
            self.up = self.seen = False
        self.out = code == "core.out" or (self.out and code not in ("core.in", "valve.fit", "strip.valve_out"))
        self.seen = self.seen or code == "line.look"
        self.sealant = code in ("sealant.pour", "sealant.inject") or (
            self.sealant and code not in ("strip.sealant_out", "strip.tube_out")
        )
        self.valve = code == "valve.fit" or (self.valve and code not in ("strip.valve_out", "tube.in"))
        self.tube = code == "tube.in" or (self.tube and code not in ("strip.tube_out", "tube.out"))
        self.insert = code == "insert.on" or (self.insert and code not in ("strip.insert_out", "strip.old_insert_out"))
        if code == "strip.tire_off":
            self.off = {"first": True, "last": True}
            self.arrow = self.again = self.wiped = self.partial = False
        if code in ("strip.open_one", "bead.off_one"):
            self.off["last"], self.partial = True, False
        if code == "bead.first":
            self.off["first"] = False
        if code in ("bead.second", "bead.partial", "bead.refit", "bead.close"):
            self.off["last"], self.partial = False, code == "bead.partial"
        self.arrow = self.arrow or code == "tire.arrow"
        self.again = self.again or code == "tire.arrow_again"
        self.wiped = self.wiped or code == "tire.wipe"
        self.clean = code == "rim.dry" or self.clean
        if code in ("strip.tape_off", "tape.lay", "tape.find"):
            self.looked = self.hole = False
        self.looked = self.looked or code in ("tape.look", "tape.keep_look")
        self.hole = self.hole or code == "hole.open"


def walk(seed):
    """Work at one wheel to its end; return how it ended and how many entries it took."""
    rng = random.Random(seed)
    job = job_from_plain(ordinary(**any_wheel(rng)))
    picks = pick_parts(job.wheels[0], job.ride, job.practice, job.shelf)
    entries, eye = [], None
    for n in range(MOST):
        plan = Plan(picks, entries)
        eye = eye or Eye(plan)
        if not plan.steps:
            return "finished", n
        step = plan.steps[0]
        wrong = rng.random() < (0.15 if n < CALM else 0.0)
        if step.pressure_step >= 0:
            entries += _try(rng, eye, plan, step, wrong)
        elif step.question:
            entries += _answer(rng, eye, plan, step, wrong)
        elif step.code == "repair.find":
            entries.append(Leak(place=rng.choice(("valve", "nipple", "bead", "side_wall", "tread", "none"))))
            eye.see(step, plan)
            if entries[-1].place == "none":
                continue
        elif wrong and step.stage == "hold" and not plan.setup.sealed and plan.setup.does != "back_to_tube":
            entries += [Leak(place="nipple"), StepEntry(stage="tape", outcome="again")]
        elif wrong and plan.log.behind and rng.random() < 0.3:
            entries.append(Inspection(low_left=(3,)) if eye.seen and eye.up else _done(eye, plan, step))
            if isinstance(entries[-1], Inspection):
                eye.seen = False
        elif step.code == "set.sign":
            entries += [_done(eye, plan, step), SignOff(by="M. Osier", pressure_kpa=200)]
        else:
            if step.code in ("sealant.pour", "sealant.inject"):
                entries.append(Dose(dose_ml=60))
            entries.append(_done(eye, plan, step))
    raise AssertionError(f"never ends: {[code_of(step.key) for step in plan.steps][:12]}")


def _done(eye, plan, step):
    eye.see(step, plan)
    return StepEntry(stage=step.stage, step=step.key)


def _try(rng, eye, plan, step, wrong):
    """A try at seating, and what is done about it where it fails."""
    limit = plan.pressure.limit_kpa
    eye.see(step, plan)
    out = plan.log.state.core == "out"
    outcome = rng.choice(("one_low", "not_up", "no_pressure", "falls_off", "hisses")) if wrong else "both_up"
    low = (3,) if outcome == "one_low" else ()
    entry = Attempt(peak_kpa=plan.kpa(step), outcome=outcome, limit_kpa=limit, low_left=low, core_out=out)
    eye.up, eye.seen = outcome == "both_up" and not out, outcome == "both_up" and not out
    if outcome == "hisses" and not plan.setup.sealed and plan.setup.tire_goes_on:
        return [entry, StepEntry(stage="tape", outcome="again")]
    if outcome == "falls_off" and not plan.setup.sealed and plan.setup.tire_goes_on:
        return [entry, StepEntry(stage="tape", outcome="again", step="layer")]
    if outcome == "no_pressure":
        remedy = rng.choice(("core_out", "wet", "strap", "lift", "tube_first"))
        if remedy == "tube_first" and not plan.setup.tire_goes_on:
            return [entry]
        eye.out = eye.out or (remedy == "core_out" and plan.log.state.valve == "in")
        return [entry, Changed(remedy=remedy)]
    return [entry]


def _answer(rng, eye, plan, step, wrong):
    eye.see(step, plan)
    if not wrong:
        return [Finding(check=step.question, sound=True)]
    no = Finding(check=step.question, sound=False)
    eye.seen = eye.seen and not step.question.startswith("bead_line")
    taped = not plan.setup.sealed and plan.setup.tire_goes_on
    if step.question in ("tape_damaged", "dry_test_leaks") and taped:
        return [no, StepEntry(stage="tape", outcome="again")]
    if step.question == "beads_unseat" and taped:
        return [no, StepEntry(stage="tape", outcome="again", step="layer")]
    if step.question.startswith("bead_line"):
        return [no]  # it is seated once more
    return [no, Finding(check=step.question, sound=True)]
