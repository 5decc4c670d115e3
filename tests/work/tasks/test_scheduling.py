"""The day of a real bench, and the command line on day documents."""

import json
from datetime import UTC, datetime, timedelta

import msgspec
import pytest

from inner_rim.cli import main
from inner_rim.core.record.log import StepEntry
from inner_rim.core.record.reading import as_plain
from inner_rim.core.schedule.day import Day, DayWheel, Mechanic, Task, faults, lateness
from inner_rim.core.schedule.hours import Hours, Opening
from inner_rim.core.schedule.listing import help_for, helps, list_schedule, longer, placed_in_order
from inner_rim.work.tasks.scheduling import day_of, paces
from inner_rim.work.text.board import board_of
from inner_rim.work.text.schedule_words import changes
from tests.desk import demo_on_bench
from tests.desk import select_wheel as wheel

NOW = datetime(2026, 11, 25, 9, 30, tzinfo=UTC)
ALWAYS = Hours(week=(Opening(0, 1440),) * 7)


@pytest.fixture
def bench():
    return demo_on_bench(NOW, shelf=False)


def test_a_wheel_s_tasks_are_its_open_actions_joined_between_waits(bench):
    day, known = day_of(bench.wheels, NOW, ALWAYS)
    # stop, done
    assert {s.name for s in known}.isdisjoint({"Tern light · front", "Kiosk upright 4 · rear"})
    assert "Old Curlew · rear" in {s.name for s in known}  # a problem: somebody will see to it
    assert faults(day, list_schedule(day)) == []
    for state, result in zip(known, day.wheels, strict=True):
        left = [
            a
            for a in state.plan.steps
            if a.key not in state.progress.steps_done and a.stage not in state.progress.done
        ]
        assert sum(t.minutes for t in result.tasks) == pytest.approx(
            sum(a.minutes for a in left), abs=len(result.tasks)
        )
        assert sum(t.wait_minutes for t in result.tasks) == pytest.approx(
            sum(a.wait_minutes for a in left), abs=3
        )
        assert all(t.wait_minutes for t in result.tasks[:-1])  # nothing is parted without a wait


def test_what_is_done_shortens_the_day_and_a_running_wait_holds_the_wheel_back(bench):
    before, known = day_of(bench.wheels, NOW, ALWAYS)
    place = next(i for i, s in enumerate(known) if s.name.startswith("Warden"))
    wheel(bench, "Warden")
    bench.recorder.reopen_stage("strip")
    bench.recorder.record(StepEntry(stage="strip", step="rim.dry", completes=True))
    after, known = day_of(bench.wheels, NOW, ALWAYS)
    place = next(i for i, s in enumerate(known) if s.name.startswith("Warden"))
    ready = after.wheels[place].ready
    assert ready is not None and timedelta(minutes=10) <= ready - after.start <= timedelta(
        minutes=16
    )
    bench.settings.set_shop("hours", as_plain(ALWAYS))
    planned = bench.day.plan.now()
    first = planned.next_up()
    assert [at for _s, at, _w in first] == sorted(at for _s, at, _w in first)
    assert len(first) == len(known) == len(before.wheels)
    warden = next(at for s, at, _w in first if s.name.startswith("Warden"))
    assert warden >= planned.day.wheels[place].ready


def document(**changes):
    task = {"words": "Tape", "minutes": 40, "wait_minutes": 30}
    day = {
        "format": "inner-rim/day", "version": 1, "start": "2026-11-25T08:00:00",
        "wheels": [{"name": "Ferry crate", "due": "2026-11-25T12:00:00", "tasks": [task, {"words": "Mount", "minutes": 30}]}],
    }  # fmt: skip
    return {**day, **changes}


def run(tmp_path, capsys, plain, *flags):
    file = tmp_path / "day.json"
    file.write_text(json.dumps(plain), encoding="utf-8")
    status = main(["schedule", str(file), *flags])
    out = capsys.readouterr()
    return status, out.out, out.err


def test_the_command_line_schedules_a_day_and_says_what_is_late(tmp_path, capsys):
    status, out, err = run(tmp_path, capsys, document(), "--json")
    result = json.loads(out)
    assert status == 0 and err == "" and result["format"] == "inner-rim/schedule"
    assert [t["start"] for t in result["tasks"]] == ["2026-11-25T08:00", "2026-11-25T09:10"]
    promise, early = result["wheels"][0].pop("promise"), result["wheels"][0].pop("as_early_as")
    assert "2026-11-25T09:40" < promise <= "2026-11-25T11:30" and early <= promise
    assert result["wheels"][0] == {
        "wheel": "Ferry crate",
        "ready": "2026-11-25T09:40",
        "due": "2026-11-25T12:00",
        "late_minutes": 0,
    }
    assert result["at_most_from_best_percent"] == 0.0
    late = document()
    late["wheels"][0]["due"] = "2026-11-25T09:00:00"
    status, out, _err = run(tmp_path, capsys, late)
    assert status == 1 and "40 min late" in out and "best possible" not in out


def pin(task, clock, mechanic=0):
    one = {"task": task, "at": f"2026-11-25T{clock}:00", "mechanic": mechanic}
    return lambda day: day["wheels"][0].setdefault("pins", []).append(one)


def test_pins_are_kept_also_what_has_begun_and_at_night_and_those_that_cannot_be_are_named(
    tmp_path, capsys
):
    plain = document()
    pin(0, "07:50")(plain)  # a hand has been on it for ten minutes
    pin(1, "20:10")(plain)  # somebody stays
    status, out, _err = run(tmp_path, capsys, plain, "--json")
    result = json.loads(out)
    assert [t["start"] for t in result["tasks"]] == ["2026-11-25T07:50", "2026-11-25T20:10"]
    assert status == 1 and result["wheels"][0]["ready"] == "2026-11-25T20:40"  # due at noon
    assert result["wheels"][0]["promise"] >= "2026-11-25T20:40"
    early = document()
    pin(1, "08:30")(early)  # the tape takes 40 minutes, and 30 more to settle
    status, out, err = run(tmp_path, capsys, early)
    assert status == 2 and out == "" and err.count("\n") == 1
    assert "Ferry crate, Mount: Wed 25 Nov 08:30 is before it may begin" in err
    twice = document()
    twice["wheels"].append({"name": "Tern", "tasks": [{"words": "Seat", "minutes": 30}]})
    pin(0, "08:00")(twice)
    twice["wheels"][1]["pins"] = [{"task": 0, "at": "2026-11-25T08:20:00"}]
    status, out, err = run(tmp_path, capsys, twice)
    assert status == 2 and "mechanic: two tasks at Wed 25 Nov 08:20" in err


@pytest.mark.parametrize(
    ("path", "change"),
    [
        ("wheels[0].tasks[0].minutes", lambda d: d["wheels"][0]["tasks"][0].update(minutes=0)),
        ("wheels[0].due", lambda d: d["wheels"][0].update(due="2026-11-25T12:00:00Z")),
        ("wheels[0].due", lambda d: d["wheels"][0].update(due="9999-11-25T12:00:00")),
        ("start", lambda d: d.update(start="soon")),
        ("wheels[0].color", lambda d: d["wheels"][0].update(color="red")),
        ("wheels[0].pins[0].task", pin(-1, "09:00")),
        ("wheels[0].pins[0].task", pin(2, "09:00")),
        ("wheels[0].pins[0].mechanic", pin(0, "09:00", mechanic=1)),
    ],
)
def test_a_day_that_cannot_be_read_is_refused_in_one_line(tmp_path, capsys, path, change):
    plain = document()
    change(plain)
    status, out, err = run(tmp_path, capsys, plain)
    assert (
        status == 2
        and out == ""
        and err.count("\n") == 1
        and path in err
        and ("use " in err or "type " in err or "missing" in err)
    )


def test_the_schema_names_every_field(capsys):
    assert main(["schedule", "--schema"]) == 0
    result = json.loads(capsys.readouterr().out)
    task = result["$defs"]["Task"]["properties"]
    assert {"words", "minutes", "wait_minutes", "resource"} <= set(task)
    assert task["minutes"]["minimum"] == 1 and result["$defs"]["Day"]["required"] == [
        "start",
        "wheels",
    ]
    assert msgspec.json.encode(result)


def late_day():
    start = datetime(2026, 11, 25, 8)
    return Day(
        start,
        (
            DayWheel(
                "Ferry crate",
                (Task("Tape", 60), Task("Mount", 30)),
                start + timedelta(hours=8),
                key="a",
            ),
            DayWheel("Sandpiper", (Task("Seat", 45),), start + timedelta(minutes=50), key="b"),
            DayWheel(
                "Old Curlew",
                (Task("Set", 380), Task("Hold", 100)),
                datetime(2026, 11, 25, 18, 30),
                key="c",
            ),
        ),
        (Mechanic("one"),),
    )


def test_what_would_help_is_computed_by_scheduling_anew():
    day = late_day()
    wrong = placed_in_order(day, [(0, 0), (0, 1), (1, 0), (2, 0), (2, 1)])
    assert lateness(day, 1, wrong.done[1]) > 0
    first = help_for(day, wrong, 1)[0]
    assert (first.kind, first.other) == ("before", 0)
    tried = placed_in_order(day, [(1, 0), (0, 0), (0, 1), (2, 0), (2, 1)])
    assert lateness(day, 1, tried.done[1]) == 0  # it does help
    helps = {one.kind: one for one in help_for(day, list_schedule(day), 2)}
    longer_day = longer(day, helps["stay"].minutes)
    assert lateness(longer_day, 2, list_schedule(longer_day).done[2]) == 0
    shorter = [m for m in (20, 40, 60, 120) if m < helps["stay"].minutes]
    assert all(lateness(longer(day, m), 2, list_schedule(longer(day, m)).done[2]) for m in shorter)
    promise = helps["promise"].at
    assert (
        promise >= day.at(list_schedule(day).done[2])
        and day.hours.is_open(promise)
        and promise.minute % 10 == 0
    )


def test_the_board_has_every_task_its_waits_what_is_late_and_what_would_help():
    day = late_day()
    schedule = list_schedule(day)
    shown = board_of(day, schedule, helps=helps(day, schedule))
    late = next(place for place, row in enumerate(shown.rows) if row.name == "Old Curlew")
    row = shown.rows[late]
    assert [bar.end - bar.start for bar in shown.bars if bar.row == late and not bar.wait] == [
        380,
        100,
    ]
    assert row.late and row.sentence.startswith("misses 18:30, ready Thu ")
    assert any(one.words.startswith("Stay ") for one in row.helps) and row.helps[
        -1
    ].words.startswith("Promise ")
    others = [one for one in shown.rows if one is not row]
    assert all(", due " in one.sentence and "to spare" in one.reason for one in others)
    assert shown.closed[0] == (570, 24 * 60)  # 17:30 to 8:00
    by_hands = board_of(day, schedule, False)
    assert [one.name for one in by_hands.rows] == ["one"] and all(
        not bar.wait for bar in by_hands.bars
    )
    (hands,) = shown.hands
    assert hands.actions[0].at == "now" and len(hands.actions) == 3
    said = {wheel.key: day.at(done) for wheel, done in zip(day.wheels, schedule.done, strict=True)}
    assert changes(day, schedule, said) == ""
    said["a"] -= timedelta(hours=1)
    assert changes(day, schedule, said).startswith("Changed: Ferry crate later, Wed ")


def test_the_shop_s_own_minutes_are_learned_from_its_log(bench):
    """Tape takes this shop twice as long; ticks in a row, and what stood over lunch, say nothing."""
    wheel(bench, "Warden")
    usual = paces(w.log for w in bench.wheels)
    bench.recorder.reopen_stage("tape")
    tape = [step for step in bench.current.plan.steps if step.stage == "tape"]
    for step in tape:
        bench.moved[0] += timedelta(minutes=2.0 * step.minutes)
        bench.recorder.record(StepEntry(stage="tape", step=step.key, completes=step is tape[-1]))
    slow = paces(w.log for w in bench.wheels)["tape"]
    assert slow.mean > 0.1 and slow.mean > (usual["tape"].mean if "tape" in usual else 0.0)
    mount = [step for step in bench.current.plan.steps if step.stage == "mount"][:3]
    before = paces(w.log for w in bench.wheels).get("mount")
    for minutes, step in zip((0.001, 0.001, 300.0), mount, strict=False):
        bench.moved[0] += timedelta(minutes=minutes)
        bench.recorder.record(StepEntry(stage="mount", step=step.key))
    assert paces(w.log for w in bench.wheels).get("mount") == before
