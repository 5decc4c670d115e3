"""The bench under any sequence of actions: nothing stored is lost, no wheel above its limit goes on."""

import contextlib
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from inner_rim.core.record.log import Attempt, Inspection
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.bench import Bench
from inner_rim.work.editing.draft import JobDraft, duplicate_wheel
from inner_rim.work.editing.state import PlannedWheel
from tests.samples import stored as stored_job

TYPED = (
    ("rim.internal_width_mm", ("24", "2", "90", "", "wide", "19,5")),
    ("rim.bead_seat_diameter_mm", ("622", "584", "6")),
    ("tire.size", ("45-622", "700x45C", "26 x 2", "x", "45-584")),
    ("tire.max_pressure_kpa", ("3.4", "50 psi", "999", "")),
    ("rim.max_pressure_kpa", ("3", "2 bar", "")),
    ("ride.total_mass_kg", ("98", "200 lb", "-1")),
    ("name", ("Sandpiper", "Tern", "")),
    ("insert.height_mm", ("20", "")),
)


class Direct:
    """A worker that obeys at once, in this thread, on a real database."""

    def __init__(self, store):
        self.store, self.waiting, self.submitted = store, 0, 0

    def submit(self, work, done=None, failed=None, **words):
        result = work(self.store)
        if done is not None:
            done(result)


class BenchStory(RuleBasedStateMachine):
    @initialize()
    def open(self):
        self.folder = tempfile.TemporaryDirectory()
        self.store = Repository(sqlite_url(Path(self.folder.name) / "x.sqlite"))
        self.now = datetime(2026, 11, 24, 9, tzinfo=UTC)
        self.bench = self.opened()
        self.bench.editor.new_wheel()

    def opened(self):
        bench = Bench(Direct(self.store), clock=self.tick)
        bench.sync.reload()
        return bench

    def tick(self):
        self.now += timedelta(seconds=1)
        return self.now

    @rule(choice=st.sampled_from(TYPED), data=st.data())
    def type_something(self, choice, data):
        if self.bench.current:
            self.bench.editor.type_into(choice[0], data.draw(st.sampled_from(choice[1])))

    @rule()
    def leave_the_field(self):
        self.bench.editor.end_of_typing()

    @rule(back=st.booleans())
    def undo_or_redo(self, back):
        self.bench.undo() if back else self.bench.undo(again=True)

    @rule()
    def another_wheel(self):
        if len(self.bench.wheels) < 4:
            self.bench.editor.duplicate() if len(
                self.bench.wheels
            ) % 2 else self.bench.editor.new_wheel()

    @rule(by=st.integers(-1, 1))
    def look_elsewhere(self, by):
        self.bench.step_selection(by)

    @precondition(lambda self: self.ready)
    @rule(sound=st.booleans())
    def answer_or_finish(self, sound):
        progress = self.bench.current.progress
        if progress.question is not None:
            self.bench.recorder.answer(sound)
        elif progress.open_stops:
            self.bench.recorder.fixed(progress.open_stops[0].code)
        elif progress.step is not None and sound:
            self.bench.recorder.finish_step()
        elif progress.stage not in ("seat", "set"):
            self.bench.recorder.finish_stage(progress.stage)

    @precondition(lambda self: self.ready)
    @rule(depth=st.floats(0.1, 60.0))
    def dip_or_go_on(self, depth):
        if self.bench.current.progress.waiting.after is not None:
            self.bench.recorder.end_wait()
            assert not self.bench.current.progress.waiting.until
        with contextlib.suppress(ValueError):
            self.bench.recorder.dip(depth)

    @precondition(lambda self: self.ready)
    @rule()
    def back(self):
        before = self.bench.current.progress
        self.bench.recorder.back()
        after = self.bench.current.progress
        assert len(after.steps_done) <= len(before.steps_done) and after.done <= before.done

    @precondition(lambda self: self.ready)
    @rule(outcome=st.sampled_from(["both_up", "one_low", "not_up"]), peak=st.integers(0, 600))
    def try_to_seat(self, outcome, peak):
        if self.bench.current.progress.stage == "seat":
            self.bench.recorder.attempt(outcome, float(peak), (3,) if outcome == "one_low" else ())

    @precondition(lambda self: self.ready)
    @rule()
    def look_over(self):
        if self.bench.current.progress.seating.over_limit:
            self.bench.recorder.inspect_after_over_limit()

    @precondition(lambda self: self.ready)
    @rule(stage=st.sampled_from(["strip", "tape", "seat", "hold"]))
    def take_up_again(self, stage):
        self.bench.recorder.reopen_stage(stage)

    @rule()
    def close_and_open_again(self):
        before = [
            (w.name, w.job.draft, [e.entry for e in w.log], w.standing) for w in self.bench.wheels
        ]
        self.bench = self.opened()
        after = [
            (w.name, w.job.draft, [e.entry for e in w.log], w.standing) for w in self.bench.wheels
        ]
        for old, new in zip(before, after, strict=True):
            assert old[:3] == new[:3]
            assert old[3] is None or new[3] is None or old[3] == new[3] or old[1].drafts

    @property
    def ready(self):
        current = self.bench.current if hasattr(self, "bench") else None
        return isinstance(current, PlannedWheel)

    @invariant()
    def what_is_shown_is_what_is_stored(self):
        if hasattr(self, "bench"):
            stored = {job.job_id: job for job in self.store.bench().jobs}
            for job in self.bench.jobs:
                assert JobDraft(stored[job.job_id].document, stored[job.job_id].drafts) == job.draft
                assert stored[job.job_id].log == job.log

    @invariant()
    def a_wheel_goes_past_seating_only_seated_and_below_its_limit_or_looked_over(self):
        for wheel in self.bench.wheels if hasattr(self, "bench") else ():
            if not isinstance(wheel, PlannedWheel) or "seat" not in wheel.progress.done:
                continue
            entries = [item.entry for item in wheel.log]
            tries = [e for e in entries if isinstance(e, Attempt)]
            assert tries and tries[-1].outcome == "both_up"
            over = [i for i, e in enumerate(entries) if isinstance(e, Attempt) and e.over_limit]
            looked = [
                i for i, e in enumerate(entries) if isinstance(e, Inspection) and e.after_over_limit
            ]
            assert not over or (looked and max(looked) > max(over))

    def teardown(self):
        if hasattr(self, "store"):
            self.store.close()
            self.folder.cleanup()


BenchStory.TestCase.settings = settings(max_examples=40, stateful_step_count=30, deadline=None)
TestBenchStory = BenchStory.TestCase


@pytest.mark.parametrize(
    ("position", "there"), [("front", "rear"), ("rear", "front"), ("other", "other"), (None, None)]
)
def test_a_duplicate_is_the_other_end_with_its_own_load(position, there):
    draft = JobDraft(stored_job(position=position, load_n=400, previous_pressure_kpa=210))
    made = duplicate_wheel(draft, "w1", {"Sandpiper front"}).wheel
    assert made.get("position") == there
    assert "load_n" not in made and "previous_pressure_kpa" not in made
    assert made["rim"] == draft.document["wheels"][0]["rim"] and made["name"] != "Sandpiper front"


def test_a_fleet_of_a_dozen_alike_has_a_dozen_names():
    bench = Bench()
    bench.editor.new_wheel()
    for _ in range(11):
        bench.editor.duplicate()
    assert len({wheel.name for wheel in bench.wheels}) == 12
    assert bench.current is bench.wheels[-1]
    bench.undo()
    assert len(bench.wheels) == 11 and bench.current is not None
