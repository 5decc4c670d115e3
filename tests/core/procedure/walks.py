"""A hand that works at any wheel and that things go wrong for, with an eye of its own for the rules of docs/job.md 1.2.

The eye knows nothing of needs and gives: it keeps its own picture of the wheel from the codes of what is done.
"""

import random

import msgspec

from inner_rim.core.models.limit import hand_step_kpa
from inner_rim.core.models.pressure import pick_pressure
from inner_rim.core.plan.wheel_plan import as_behaved, pick_parts, plan_wheel, reader_of
from inner_rim.core.procedure.achieve import achieve
from inner_rim.core.procedure.actions import code_of
from inner_rim.core.procedure.questions import QUESTIONS
from inner_rim.core.procedure.sentences import SentenceInputs
from inner_rim.core.procedure.words import Words
from inner_rim.core.record.log import (
    Attempt,
    Changed,
    Dose,
    Finding,
    Inspection,
    Leak,
    Override,
    SignOff,
    StepEntry,
)
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
    arrival |= {"valve": pick(("none", "plain", "ported"))} if coin() < 0.4 else {}
    arrival |= {"sealant": pick(("none", "liquid", "dried", "unknown"))} if coin() < 0.4 else {}
    work = {
        "kind": pick(
            ("convert", "tire_change", "retape", "insert", "refresh", "repair", "back_to_tube")
        )
    }
    work |= {
        name: coin() < 0.5
        for name in (
            "keep_tape",
            "keep_valve",
            "keep_insert",
            "folded",
            "insert_later",
            "patch_cut",
            "new_sealant",
            "new_tape",
        )
        if coin() < 0.3
    }
    work |= (
        {"leak": pick(("tread", "side_wall", "weeps", "bead", "valve", "nipple", "unknown"))}
        if coin() < 0.8
        else {}
    )
    return {
        "rim__bed": pick(("drilled", "large_holes", "sealed")),
        "insert": pick((None, {"ported": True}, {"ported": False}, {})),
        "work": work,
        "arrival": arrival or None,
        "practice__insert_order": pick(("insert_first", "bead_first", "seat_first")),
        "practice__sealant_route": pick(("pour", "inject")),
        "practice__lubricant": pick(("none", "soap", "fluid", "wax", "sealant")),
        "practice__press_home": pick(("hand", "warmth", "tube")),
        "practice__core_out": coin() < 0.3,
        "practice__inject_when": pick(("tested", "seated", "first")),
        "practice__tape_kind": pick(("polyester", "film", "overlay")),
        "practice__rest_flat": pick(("always", "if_it_leaks")),
        "practice__bed_cleaning": pick(("solvent", "abrasive")),
        "practice__seating": pick(("steps", "burst")),
        "tire__tubeless_ready": pick((None, True, False)),
        "tire__new": pick((None, True, False)),
        "tire__directional": pick((None, False)),
        "tire__plugs": pick((None, 0, 2)),
    }


class Walk:
    """A wheel that is worked at: what is picked for it, what is logged, what the eye has seen."""

    def __init__(self, rng, changes):
        self.rng, self.entries = rng, []
        job = job_from_plain(ordinary(**changes))
        self.job, self.wheel = job, job.wheels[0]
        self._known = {}
        self.picks = self._picks(self.wheel, None)
        self.wheel = self.picks.wheel  # without an insert that goes in later
        self.plan()
        self.eye = Eye(self)

    def _picks(self, wheel, seated_kpa):
        key = msgspec.json.encode((wheel, seated_kpa))
        if key not in self._known:
            self._known[key] = pick_parts(
                wheel, self.job.ride, self.job.practice, self.job.shelf, seated_kpa
            )
        return self._known[key]

    def plan(self):
        """Plan what remains, as `plan_wheel` does, but with words for the next step alone: it is planned thousands of times."""
        self.log = reader_of(self.picks).summary(logged(*self.entries))
        made = as_behaved(self.wheel, self.picks.resolved.methods.layers, self.picks.tape, self.log)
        picks = self.picks
        if made is not self.wheel or self.log.seated_kpa is not None:
            picks = self._picks(made, self.log.seated_kpa)
        self.setup, self.pressure = picks.setup(self.log.changes), picks.pressure
        if self.setup.stays_seated:
            resolved = picks.resolved
            self.pressure = pick_pressure(
                picks.wheel, picks.tire, resolved.rider, resolved.methods, stays_seated=True
            )
        self.steps = achieve(self.log.state, self.setup, self.log.taken)
        self.step = None
        if self.steps:
            known = SentenceInputs(
                picks.wheel, picks.resolved.methods, self.setup, picks.tape, picks.valve, picks.mounting, picks.sealant,
                self.pressure, picks.dry,
            )  # fmt: skip
            self.step = Words(known).dress(self.steps[0])

    def done(self):
        self.eye.see(self)
        return StepEntry(stage=self.step.stage, step=self.step.key)

    def go_on(self, calm):
        """Do the next step, or let it go wrong."""
        rng, step, setup = self.rng, self.step, self.setup
        wrong = rng.random() < (0.0 if calm else 0.18)
        entries = self.entries
        if step.pressure_step and step.code != "line.look":
            entries += self._try(wrong)
        elif step.question:
            entries += self._answer(wrong)
        elif step.code == "repair.find":
            entries.append(
                Leak(place=rng.choice(("valve", "nipple", "bead", "cut", "weeps", "tread", "none")))
            )
            self.eye.see(self)
            if entries[-1].place == "none":
                return
        elif wrong and step.stage == "hold" and not setup.sealed and setup.does != "back_to_tube":
            entries += [Leak(place="nipple"), StepEntry(stage="tape", outcome="again")]
        elif wrong and step.stage == "hold" and rng.random() < 0.3:  # fixed, and tested again
            entries += [StepEntry(stage="hold", outcome=one) for one in ("failed", "reopened")]
        elif step.code == "hold.read" and rng.random() < 0.1:
            self.eye.see(self)
            entries.append(StepEntry(stage="hold", outcome="ridden"))
        elif wrong and step.stage == "hold" and self.eye.seen and self.eye.kpa:
            entries.append(Inspection(low_left=(3,)))
            self.eye.comes_off()
        elif wrong and self.eye.low and rng.random() < 0.5:
            entries.append(Changed(remedy=rng.choice(REMEDIES)))  # on second thoughts
        elif step.code == "set.sign":
            entries += [self.done(), SignOff(by="M. Osier", pressure_kpa=200)]
        else:
            if step.code in ("sealant.pour", "sealant.inject"):
                entries.append(Dose(dose_ml=60))
            entries.append(self.done())

    def _try(self, wrong):
        """A try at seating, and what is done about it where it fails."""
        rng, eye, state, step = self.rng, self.eye, self.log.state, self.step
        eye.see(self)
        out = state.core == "out"
        outcome = (
            rng.choice(("one_low", "not_up", "no_pressure", "falls_off", "hisses"))
            if wrong
            else "both_up"
        )
        kpa = step.pressure_kpa * (
            rng.choice((1.0, 1.0, 0.97)) if outcome != "no_pressure" else 0.05
        )
        kpa = max(kpa, eye.kpa) if outcome != "no_pressure" else kpa
        low = (3,) if outcome == "one_low" else ()
        entry = Attempt(
            peak_kpa=kpa, outcome=outcome, limit_kpa=self.pressure.limit_kpa, low_left=low, core_out=out,
            target_kpa=step.pressure_kpa, changed=tuple(sorted(state.changed)),
        )  # fmt: skip
        eye.tried(kpa, outcome, out)
        taped = not self.setup.sealed and self.setup.tire_goes_on
        if outcome == "hisses" and taped:
            return [entry, StepEntry(stage="tape", outcome="again")]
        if outcome == "falls_off" and taped:
            return [entry, StepEntry(stage="tape", outcome="again", step="layer")]
        if outcome in ("no_pressure", "not_up", "one_low") and rng.random() < 0.7:
            if rng.random() < 0.1 and self.setup.tire_goes_on:
                return [entry, Changed(remedy="tube_first")]
            return [
                entry,
                *(Changed(remedy=one) for one in rng.sample(REMEDIES, rng.choice((1, 1, 2)))),
            ]
        return [entry]

    def _answer(self, wrong):
        eye, question = self.eye, self.step.question
        eye.see(self, sound=not wrong)
        if not wrong:
            return [Finding(check=question, sound=True)]
        no = Finding(check=question, sound=False)
        taped = not self.setup.sealed and self.setup.tire_goes_on
        if question.startswith("bead_line"):
            # it is seated once more
            return [no, *([Changed(remedy="push_spot")] if self.rng.random() < 0.5 else [])]
        if question == "beads_unseat":
            way = self.rng.random()
            if way < 0.3:
                return [no, Override(code=question, by="M. Osier", reason="a hard road tire")]
            if way < 0.6 and taped:
                return [no, StepEntry(stage="tape", outcome="again", step="layer")]
            return [no, Changed(remedy="wet")]
        if not QUESTIONS[question].stop:
            return [no]
        if question == "dry_test_leaks" and self.rng.random() < 0.4:
            return [*([no] if self.rng.random() < 0.5 else []), Leak(place="weeps")]
        if question in ("tape_damaged", "tape_edges_damaged", "dry_test_leaks") and taped:
            return [no, StepEntry(stage="tape", outcome="again")]
        return [no, Finding(check=question, sound=True)]


#: What can be changed before a try, but for a layer and a tube, which are work of their own.
REMEDIES = (
    "core_out",
    "wet",
    "strap",
    "lift",
    "push_spot",
    "lower_side",
    "bigger_source",
    "warm",
    "straighten",
)
#: What is never done with air in the tire.
ONLY_FLAT = {
    "strip.break_beads", "strip.open_one", "strip.tire_off", "strip.tube_out", "strip.insert_out", "strip.valve_out",
    "strip.old_insert_out", "strip.sealant_out", "strip.tape_off", "bead.open_one", "bead.off_one", "bead.lift", "bead.level",
    "bead.push", "bead.strap", "bead.wet", "bead.first", "bead.second", "bead.partial", "bead.refit", "bead.close",
    "insert.on", "insert.straighten", "tape.lay", "tape.overlay", "sealant.pour", "sealant.inject", "core.out", "core.in", "valve.fit",
    "tube.in", "tube.out", "dip.read", "repair.patch", "repair.boot", "air.source",
}  # fmt: skip


class Eye:
    """What is seen of a wheel by what is done to it."""

    def __init__(self, walk):
        result = walk.setup.arrival
        self.off = {"first": result.tire == "off", "last": result.tire != "on"}
        #: The pressure that is in; at which both sides were checked since the beads were last off their seats.
        self.kpa, self.checked = (walk.pressure.start_kpa if result.air else 0.0), 0.0
        self.seated = result.seated and result.tire == "on"
        self.stayed, self.ridden = self.seated and not result.air, self.seated
        self.out, self.seen, self.sealant, self.top = False, False, result.sealant, False
        self.low, self.passed = False, False
        self.valve = result.valve != "none"
        self.tube, self.insert = (
            result.tube and result.tire != "off",
            result.insert and not result.tube,
        )
        self.clean, self.looked, self.arrow, self.again = False, True, result.tire != "off", False
        self.hole = True
        self.wiped = self.partial = False
        self.limit = walk.pressure.limit_kpa

    def comes_off(self):
        """A bead is off its seat: nothing that was checked before counts."""
        self.checked, self.seated, self.stayed, self.ridden, self.seen, self.low = (
            0.0,
            False,
            False,
            False,
            False,
            True,
        )

    def tried(self, kpa, outcome, out):
        before = self.seated
        self.kpa = 0.0 if outcome in ("no_pressure", "falls_off") else kpa
        self.seated = outcome == "both_up"
        self.checked = (
            max(self.checked, kpa) if self.kpa and not (before and not self.seated) else 0.0
        )
        self.seen, self.low = self.seated and not out, not self.seated
        if not self.seated:
            self.stayed = self.ridden = False

    def see(self, walk, sound=True):
        """Raise where doing the next step now breaks a rule."""
        step, setup, kpa = walk.step, walk.setup, walk.step.pressure_kpa
        code = step.code
        assert kpa <= self.limit, step.key  # rule 6
        if code == "insert.on":  # rule 1
            assert (
                self.valve
                and (self.again or not setup.arrow)
                and not self.insert
                and setup.insert != "none"
            )
        if code == "bead.first":
            assert (self.arrow or not setup.arrow) and self.wiped and self.off["last"]
        if code == "tape.lay":  # rule 2
            assert self.off["first"] and self.off["last"] and not self.valve and not setup.sealed
            assert self.clean or setup.adds_layer or setup.lays_tape
        if code == "tape.overlay":
            assert self.off["first"] and self.off["last"] and not self.valve and not self.looked
        if code in ("bead.first", "bead.second", "bead.partial", "bead.refit", "valve.fit"):
            assert self.looked and self.hole, code
        if code == "sealant.pour":  # rule 4
            assert self.partial and not self.sealant
        if code == "sealant.inject":
            assert (
                self.out and not self.off["last"] and setup.ports and not self.partial
                and (self.stayed or self.passed or (setup.inject_when == "first" and not self.seated))
            )  # fmt: skip
        # rule 5
        if code.startswith(("hold.", "spin.", "set.")) or code in ("line.look", "dry.test"):
            assert self.kpa and not self.out, code
        if code.startswith(("hold.", "spin.", "set.")):
            assert self.seen, code
        if code.startswith("air.") and code not in ("air.deflate", "air.source"):
            assert not self.off["first"] and not self.off["last"] and not self.partial, code
        if code in ("strip.tube_out", "tube.out"):  # rule 7
            assert self.tube
        if code in ("strip.insert_out", "strip.old_insert_out", "insert.straighten"):
            assert self.insert
        if code == "tube.in":
            assert not self.sealant and not self.valve and not self.tube
        assert not (self.kpa and code in ONLY_FLAT), code  # rule 11
        if code in ("air.deflate", "strip.deflate"):
            assert self.kpa and (self.top or not self.sealant), code
        self._see_air(walk, code, kpa)
        self._after(code, kpa, sound)

    def _see_air(self, walk, code, kpa):
        """Rule 12: from the lowest step, or on from where it is; in one go only up to what was checked before."""
        slack = hand_step_kpa(kpa, 0.0) + 1e-6
        if code in ("air.step", "air.burst"):
            left = walk.log.state.wanted - {
                "core_out" if self.tube or self.out else "",
                "" if self.insert else "straighten",
            }
            assert not left, "what was to be changed is not changed"  # rule 13
            if self.kpa:
                assert kpa > self.kpa and (self.checked or self.ridden), (
                    code,
                    kpa,
                    self.kpa,
                    self.checked,
                )
            elif code == "air.step":
                assert kpa <= walk.pressure.seating_kpa[0], (code, kpa)
        if code == "air.inflate":
            assert not self.kpa and self.stayed and (self.ridden or kpa <= self.checked + slack), (
                kpa,
                self.checked,
            )
        if code in ("hold.shake", "hold.top_up", "air.press"):
            assert self.ridden or kpa <= self.checked + slack, (code, kpa, self.checked)

    def _after(self, code, kpa, sound):
        if code in ("air.inflate", "air.step", "air.burst"):
            self.kpa, self.seen, self.top = kpa, False, False
        if code in ("air.deflate", "strip.deflate"):
            self.kpa, self.seen = 0.0, False
            self.seated = self.seated and not self.passed
            if not self.seated:
                self.checked = 0.0
        if code == "valve.top":
            self.top = True
        elif code.startswith(("hold.", "spin.", "bead.", "sealant.")):
            self.top = False
        if code == "dry.stay" and sound:
            self.stayed = True
        if code in ("line.look", "spin.look", "dry.stay") and not sound:
            self.comes_off()
        if code in ("strip.break_beads", "bead.open_one"):
            self.comes_off()
        self.out = code == "core.out" or (
            self.out and code not in ("core.in", "valve.fit", "strip.valve_out")
        )
        self.seen = self.seen or (code == "line.look" and sound)
        self.sealant = code in ("sealant.pour", "sealant.inject") or (
            self.sealant and code not in ("strip.sealant_out", "strip.tube_out")
        )
        self.valve = code == "valve.fit" or (
            self.valve and code not in ("strip.valve_out", "tube.in")
        )
        self.passed = self.passed and code != "tube.in"
        self.tube = code == "tube.in" or (self.tube and code not in ("strip.tube_out", "tube.out"))
        self.insert = code == "insert.on" or (
            self.insert and code not in ("strip.insert_out", "strip.old_insert_out")
        )
        if code == "strip.tire_off":
            self.off = {"first": True, "last": True}
            self.arrow = self.again = self.partial = self.passed = False
            self.wiped = self.wiped and not self.sealant
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
    """Work at one wheel to its end; return how it ended, and the walk."""
    rng = random.Random(seed)
    one = Walk(rng, any_wheel(rng))
    for n in range(MOST):
        if one.step is None:
            return "finished", one
        before = len(one.entries)
        one.go_on(calm=n >= CALM)
        one.eye.passed = one.eye.passed or any(
            isinstance(item, Override) for item in one.entries[before:]
        )
        one.plan()
        if n % 16 == 0:  # as the program plans it, with all its words
            job = one.job
            plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, logged(*one.entries))
    raise AssertionError(f"never ends: {[code_of(step.key) for step in one.steps][:12]}")
