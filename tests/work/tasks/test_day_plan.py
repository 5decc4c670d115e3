"""The day's plan of a bench: one for every view, kept steady, improved in another thread."""

import queue
import threading
from datetime import UTC, datetime, timedelta

import pytest

from inner_rim.core.procedure.actions import KINDS
from inner_rim.core.record.log import Attempt, Logged, StepEntry
from inner_rim.core.record.moments import naive_local
from inner_rim.core.record.reading import as_plain
from inner_rim.core.schedule import listing, solver
from inner_rim.core.schedule.day import Pin, cost_of, faults, rebase, tasks_moved
from inner_rim.core.schedule.hours import Hours, Opening
from inner_rim.core.schedule.listing import list_schedule
from inner_rim.core.schedule.promise import promises
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.bench import panel_context
from inner_rim.work.editing.settings import DaySettings
from inner_rim.work.tasks import day_plan
from inner_rim.work.tasks.scheduling import paces
from inner_rim.work.text.next_action import now_of
from inner_rim.work.views import PageViews, Views
from tests.desk import Desk, check_in, demo_on_bench

NOW = datetime(2026, 11, 25, 9, 30, tzinfo=UTC)
ALWAYS = Hours(week=(Opening(0, 1440),) * 7)


@pytest.fixture
def bench(monkeypatch):
    monkeypatch.setattr(day_plan, "EFFORT", 0.5)
    made = demo_on_bench(NOW, shelf=False)
    made.settings.set_shop("hours", as_plain(ALWAYS))
    return made


class Search:
    """Hears of what is found, as a window does."""

    def __init__(self, bench):
        self.bench, self.heard, self.threads = bench, queue.Queue(), set()

    def tell(self, result):
        self.threads.add(threading.current_thread())
        self.heard.put(result)

    def begin(self):
        plan = self.bench.day.plan
        plan.improve(plan.now(), self.tell)
        return self

    def end(self):
        """Take all that is found until the last of it; return how the day is planned then."""
        while self.bench.day.plan.looking:
            self.bench.day.plan.take(self.heard.get(timeout=30))
        return self.bench.day.plan.now()


def test_the_better_plan_comes_with_promises_and_is_what_is_next(bench):
    plan = bench.day.plan
    at_once = plan.now()
    assert (
        at_once.found is None
        and not at_once.looking
        and faults(at_once.day, at_once.schedule) == []
    )
    search = Search(bench).begin()
    assert plan.looking and plan.now().looking
    planned = search.end()
    assert threading.main_thread() not in search.threads
    assert (
        faults(planned.day, planned.schedule) == []
        and planned.schedule.cost <= at_once.schedule.cost
    )
    assert planned.found.schedule.gap is not None
    assert set(planned.found.promises) == {wheel.key for wheel in planned.day.wheels}
    firsts = [planned.wheels[one.wheel].key for one in planned.schedule.placed if one.task == 0]
    assert [state.key for state, _at, _words in planned.next_up()] == firsts


def test_only_other_work_or_ten_minutes_are_looked_at_anew(bench):
    search = Search(bench).begin()
    search.end()
    bench.moved[0] += timedelta(minutes=3)
    search.begin()
    assert not bench.day.plan.looking
    bench.moved[0] += timedelta(minutes=8)  # what is late, and what helps, depend on the clock
    search.begin()
    assert bench.day.plan.looking
    search.end()
    bench.select(bench.day.plan.now().next_up()[0][0].key)
    bench.recorder.note("looked at")  # nothing is done by it
    search.begin()
    assert not bench.day.plan.looking
    bench.settings.set_shop("mechanics", ["M Osier", "R Sedge"])
    assert bench.day.plan.now().found is None  # what was found was for one pair of hands
    search.begin()
    assert {one.mechanic for one in search.end().schedule.placed} == {0, 1}


def done_of(step):
    """What is logged where a step is done."""
    if step.pressure_step:
        return Attempt(peak_kpa=300.0, outcome="both_up", limit_kpa=340.0)
    return StepEntry(stage=step.stage, step=step.key)


def test_a_change_disturbs_the_plan_as_little_as_planning_afresh_or_less(bench):
    before = Search(bench).begin().end()
    first = before.schedule.placed[0]
    state = bench.select(before.wheels[first.wheel].key) or bench.current
    step = state.plan.steps[0]
    bench.moved[0] += timedelta(minutes=step.minutes)
    bench.recorder.record(done_of(step))
    after = bench.day.plan.now()
    assert faults(after.day, after.schedule) == [] and after.day.wheels != before.day.wheels
    kept = rebase(before.day, before.found.schedule, after.day)
    afresh = list_schedule(after.day)
    fresh_cost = cost_of(after.day, afresh.placed, afresh.done, kept)
    assert after.schedule.cost <= fresh_cost
    less = tasks_moved(after.day, after.schedule.placed, kept) <= tasks_moved(
        after.day, afresh.placed, kept
    )
    assert less or after.schedule.cost < fresh_cost  # more is moved only for an earlier end


def test_what_changed_is_said_for_five_minutes(bench):
    plan, search = bench.day.plan, Search(bench).begin()
    before = search.end()
    assert before.changed == ""  # nothing was said before
    bench.settings.set_shop("hours", None)  # the usual hours: nobody works at night any more
    search.begin()
    after = search.end()
    said = after.changed
    later = [
        wheel.name
        for wheel, was, now in zip(
            after.day.wheels, before.schedule.done, after.schedule.done, strict=True
        )
        if now > was + 10
    ]
    assert later and said.startswith(f"Changed: {later[0]} later")
    bench.moved[0] += timedelta(minutes=4)
    assert plan.now().changed == said
    bench.moved[0] += timedelta(minutes=2)
    assert plan.now().changed == ""


def test_a_search_that_is_overtaken_is_not_waited_for(bench, monkeypatch):
    asked = threading.Event()

    def slow(day, first, effort, before, go_on):
        while go_on():
            yield 0.0, first
            asked.wait(0.01)

    monkeypatch.setattr(solver, "searching", slow)
    plan, search = bench.day.plan, Search(bench).begin()
    early = search.heard.get(timeout=30)
    assert plan.take(early) and plan.looking
    bench.settings.set_shop("mechanics", ["one", "two"])
    search.begin()
    assert not plan.take(early) and plan.looking  # it is of the search before
    (first, second) = plan._threads
    first.join(10)
    assert not first.is_alive() and second.is_alive()
    bench.day.end()


def test_a_search_that_breaks_is_over(bench, monkeypatch):
    def broken(*_more, **_named):
        raise RuntimeError("a bug")

    raised = []
    monkeypatch.setattr(threading, "excepthook", lambda args: raised.append(args.exc_value))
    monkeypatch.setattr(solver, "searching", broken)
    planned = Search(bench).begin().end()
    assert not planned.looking and faults(planned.day, planned.schedule) == []
    for thread in threading.enumerate():
        if thread.name == "schedule":
            thread.join(10)
    assert [str(one) for one in raised] == ["a bug"]  # not swallowed either


def test_what_would_help_is_worked_out_beside_the_work(bench, monkeypatch):
    """Counted: no remedy is scheduled in the thread of the window, however many wheels are late."""
    threads = []
    usual = listing.help_for

    def counted(*args):
        threads.append(threading.current_thread())
        return usual(*args)

    monkeypatch.setattr(listing, "help_for", counted)
    bench.moved[0] += timedelta(days=9)  # every due time has passed
    search = Search(bench).begin()
    planned = search.end()
    assert planned.found.helps and set(planned.found.helps) == set(
        listing.latest(planned.day, planned.found.schedule)
    )
    bench.day.plan.now()
    assert threads and threading.main_thread() not in threads


def test_the_list_is_in_the_plan_s_order_with_times_and_changes_only_when_something_is_done(bench):
    bench.day.put_in_order()
    planned = bench.day.plan.now()
    listed = bench.day.listed
    bad = [one for one in listed if one.progress and one.progress.state in ("problem", "stopped")]
    assert bad and listed[: len(bad)] == bad  # what needs a person comes first
    firsts = [state.key for state, _at, _words in planned.next_up() if state not in bad]
    assert [one.key for one in listed[len(bad) :]][: len(firsts)] == firsts
    tiles = {tile.key: tile for tile in Views(bench).view().tiles}
    assert list(tiles) == [one.key for one in listed]
    at_once = planned.next_up()[0][0]
    assert tiles[at_once.key].last == ("problem" if at_once in bad else "go on now")
    later = [tiles[key].last for key in firsts if bench.day.begins[key] > naive_local(NOW)]
    assert later and all(
        words.startswith(("start at ", "go on at ", "waits", "read it")) for words in later
    )
    # Up and Down go through the list as it is seen
    bench.select(listed[0].key)
    for one in listed[1:]:
        bench.step_selection(1)
        assert bench.selected == one.key
    # typing does not move a tile under the hand
    bench.select(firsts[-1])
    bench.editor.type_into("due", "2026-11-25 10:00")
    assert [one.key for one in bench.day.listed] == [one.key for one in listed]


def test_a_pinned_task_stays_while_the_clock_runs_and_is_let_go_when_it_is_done_or_long_past(bench):
    plan = bench.day.plan
    planned = plan.now()
    first = planned.schedule.placed[-1]
    wheel, task = first.wheel, 0
    at = planned.day.start + timedelta(hours=3)
    key = planned.day.wheels[wheel].key
    assert plan.pin(planned, wheel, task, at, 0) == ""

    def begins():
        now = plan.now()
        w = next(i for i, one in enumerate(now.day.wheels) if one.key == key)
        return now.day.at(next(p.start for p in now.schedule.placed if (p.wheel, p.task) == (w, 0)))

    assert begins() == at
    bench.moved[0] += timedelta(hours=2)
    assert begins() == at and plan.now().faults == ()
    refused = plan.pin(plan.now(), wheel, 1, plan.now().day.start, 0)
    assert "before it may begin" in refused and len(DaySettings(bench.settings).pins) == 1
    bench.moved[0] += timedelta(hours=1, minutes=20)  # not begun: wanted now
    assert begins() == plan.now().day.start and len(plan.now().day.wheels[wheel].pins) == 1
    bench.moved[0] += timedelta(minutes=20)  # nobody came: the plan is free again
    assert plan.now().day.wheels[wheel].pins == ()
    assert plan.pin(plan.now(), wheel, task, plan.now().day.start + timedelta(minutes=30), 0) == ""
    assert len(DaySettings(bench.settings).pins) == 1
    state = bench.select(plan.now().wheels[wheel].key) or bench.current
    done = next(s for s in state.plan.steps if s.key == DaySettings(bench.settings).pins[0].action)
    bench.recorder.record(done_of(done))
    now = plan.now()
    assert all(not one.pins for one in now.day.wheels if one.key == key)
    plan.unpin(now, wheel, task)  # what no longer holds goes with the next change
    assert DaySettings(bench.settings).pins == ()


def test_what_other_wheels_took_in_this_shop_is_learned_too(bench):
    usual = paces(bench.day.plan.logs())
    steps = [
        key
        for key, kind in KINDS.items()
        if key.startswith("tape.") and kind.minutes >= 1.0 and not kind.wait_minutes
    ]
    at, log = NOW - timedelta(days=30), []
    for number, step in enumerate(steps * 4):
        at += timedelta(minutes=3.0 * KINDS[step].minutes)
        entry = StepEntry(stage="tape", step=step if number < len(steps) else f"{step}.2")
        log.append(
            Logged(number=number, at=at.isoformat(), wheel_id="old", entry=entry, uid=str(number))
        )
    bench.day.plan.learn({"old": tuple(log)})
    learned = paces(bench.day.plan.logs())["tape"].mean
    # three times the minutes
    assert learned > 0.3 and learned > (usual["tape"].mean if "tape" in usual else 0.0)
    told = queue.Queue()
    bench.day.plan.estimate(told.put)
    said = told.get(timeout=30)
    assert set(said) == {state.key[0] for state in bench.day.plan.now().wheels}
    assert all(one.early <= one.sure for one in said.values())


def test_a_bicycle_is_promised_for_its_last_wheel_and_not_while_one_of_them_cannot_be_planned(
    bench,
):
    bench.select(
        next(one.key for one in bench.wheels if one.name.startswith("Sandpiper 2 · front"))
    )
    job = bench.current.job
    told = queue.Queue()

    def said():
        bench.day.plan.estimate(told.put)
        return told.get(timeout=30).get(job.job_id)

    planned = bench.day.plan.now()
    mine = [place for place, state in enumerate(planned.wheels) if state.job.job_id == job.job_id]
    each = promises(
        planned.day, planned.schedule, paces(bench.day.plan.logs()), day_plan.ESTIMATE_RUNS
    )
    assert len(mine) == 2 and said().sure >= max(each[place].sure for place in mine)
    bench.editor.type_into("tire.size", "45-584")  # another diameter than the rim: a stop
    assert said() is None


def test_what_two_benches_pin_at_once_both_stands(tmp_path):
    file = tmp_path / "shop.sqlite"
    first = Desk(file, open_store=lambda: Repository(sqlite_url(file)))
    for name in ("Ferry crate", "Tern"):
        check_in(first.bench)
        first.bench.editor.type_into("name", name)
    first.settle()
    second = Desk(file, open_store=lambda: Repository(sqlite_url(file)))
    second.wait(lambda: len(second.bench.wheels) == 2)
    for desk, wheel in ((first, 0), (second, 1)):  # neither has looked at what the other did
        planned = desk.bench.day.plan.now()
        at = planned.day.hours.next_open(planned.day.start + timedelta(days=2 + wheel))
        assert desk.bench.day.plan.pin(planned, wheel, 0, at, 0) == ""
    first.settle()
    second.settle()
    assert first.worker.stop() and second.worker.stop()
    stored = Repository(sqlite_url(file))
    pins = [value for name, value in stored.bench().settings.items() if name.startswith("pin.")]
    stored.close()
    assert len({pin["wheel"] for pin in pins}) == 2


def test_searches_do_not_pile_up(bench):
    """Every change begins a new search; the older ones are over at their next step."""
    search = Search(bench)
    for number in range(8):
        bench.settings.set_shop("mechanics", [f"M Osier {n}" for n in range(1 + number % 3)])
        search.begin()
    deadline = threading.Event()
    for _ in range(100):
        if sum(one.name == "schedule" for one in threading.enumerate()) <= 1:
            break
        deadline.wait(0.02)
    assert sum(one.name == "schedule" for one in threading.enumerate()) <= 1
    assert search.end().found.number == 8


def test_at_the_end_nothing_is_worked_out_any_more(bench, monkeypatch):
    begun = threading.Event()

    def slow(day, first, effort, before, go_on):
        begun.set()
        while go_on():
            pass
        yield 0.0, first

    monkeypatch.setattr(solver, "searching", slow)
    bench.day.end()  # nothing was begun
    search = Search(bench).begin()
    bench.day.plan.estimate(lambda said: None)
    assert begun.wait(30)
    bench.day.end()
    assert not [one for one in threading.enumerate() if one.name in ("schedule", "promise")]
    assert not bench.day.plan.take(search.heard.get(timeout=30))  # what comes late is not taken


@pytest.mark.parametrize("waits_on", ["customer", "part"])
def test_a_wheel_that_waits_for_somebody_is_planned_from_the_day_that_is_expected_and_says_so(
    bench, waits_on
):
    """Nobody knows when: it is not planned and not promised. A day: nothing before that day, and the promise names it."""
    state = next(one for one in bench.wheels if one.name.startswith("Dune"))
    bench.select(state.key)
    bench.editor.type_into("waits.on", waits_on)
    bench.editor.type_into("waits.what", "60 mm valve")
    assert not any(one.name == state.name for one in bench.day.plan.now().day.wheels)
    words = "the customer" if waits_on == "customer" else "a part"
    assert (
        f"Waits for {words}: 60 mm valve"
        in now_of(bench.current, panel_context(bench, bench.current)).quiet
    )
    ready = (naive_local(bench.time) + timedelta(days=4)).replace(
        hour=0, minute=0, second=0, microsecond=0
    )
    bench.editor.type_into("waits.until", ready.date().isoformat())
    planned = bench.day.plan.now()
    place = next(w for w, one in enumerate(planned.day.wheels) if one.name == state.name)
    starts = [planned.day.at(one.start) for one in planned.schedule.placed if one.wheel == place]
    assert min(starts) >= planned.day.hours.next_open(ready)
    assert (
        f"expected {ready:%a %d %b}"
        in now_of(bench.current, panel_context(bench, bench.current)).quiet
    )
    bench.editor.type_into("waits.on", "")
    assert any(one.name == state.name for one in bench.day.plan.now().day.wheels)


def test_what_helps_a_late_wheel_is_done_by_settings_that_can_be_taken_back(bench):
    bench.settings.set_shop("hours", None)
    plan, chosen = bench.day.plan, DaySettings(bench.settings)
    planned = plan.now()
    today = planned.day.start.date()
    closes = chosen.hours.spans(today)[-1].closes
    plan.apply(planned, 0, listing.Help("stay", minutes=20))
    assert chosen.hours.spans(today)[-1].closes == closes + 20
    assert chosen.hours.spans(today + timedelta(days=7))[-1].closes == closes  # today only
    assert "Open until 17:50 today" in PageViews(bench).board(plan.now(), True).words
    planned = plan.now()
    at = planned.day.at(planned.schedule.placed[0].end + 60)
    plan.apply(planned, 2, listing.Help("before", other=1, pins=(Pin(0, at, 0),)))
    after = plan.now()
    first = next(one for one in after.schedule.placed if (one.wheel, one.task) == (2, 0))
    assert after.day.at(first.start) == at and after.day.wheels[2].pins
    bench.undo(again=False)
    assert not plan.now().day.wheels[2].pins
