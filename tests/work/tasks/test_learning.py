"""What a shop's stored log teaches: read from a real file, used by the plan, shown, and switched off."""

import csv
import io
import json
from datetime import UTC, datetime
from itertools import zip_longest

import msgspec
import pytest

from inner_rim.cli import main
from inner_rim.core.learning.evidence import Visit
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.job import Practice
from inner_rim.core.record.log import (
    Attempt,
    Dip,
    Dose,
    Logged,
    Note,
    Promised,
    Reading,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.paths import new_id
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.resolved import USUAL
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.editing.state import Shop
from inner_rim.work.tasks.exchange import import_files
from inner_rim.work.tasks.findings import findings_of, ways_of
from inner_rim.work.tasks.insights import insights_csv, topics_of
from inner_rim.work.tasks.learning import ShopLearning, all_visits
from tests.samples import logged, ordinary, planned_after, stored

DOSE, DIP = (
    Dose(dose_ml=60, name="Kelp milk"),
    Dip(depth_mm=4.0, free_ml=0.0, factor=1.0, calibrates=False),
)
NAMES = {"rim__name": "Heron 622", "tire__name": "Grebe"}
SIGNED = SignOff(by="M. Osier", pressure_kpa=200)


def failed(source="compressor", core_out=True):
    return Attempt(
        peak_kpa=5,
        outcome="no_pressure",
        limit_kpa=340,
        target_kpa=250,
        source=source,
        core_out=core_out,
    )


def visit(job_id, wheel_id, entries, times=(), **changes):
    """Return the document of a job of one wheel with its log; entries are (day of November 2026, entry)."""
    document = stored(**NAMES, **changes)
    document["wheels"][0]["wheel_id"] = wheel_id
    log = [
        {**msgspec.to_builtins(one), "wheel_id": wheel_id, "uid": new_id()}
        for (day, entry), clock in zip_longest(entries, times, fillvalue="T10:00:00+00:00")
        for one in logged(entry, at=f"2026-11-{day:02}{clock}")
    ]
    for number, one in enumerate(log, 1):
        one["number"] = number
    return {
        "format": "inner-rim/job-with-log",
        "version": 2,
        "job_id": job_id,
        "job": document,
        "log": log,
    }


def taught_shop(wheels=12):
    """Riders keep 12 % less than proposed, beads need more air than usual, sealant is gone in half the time."""
    proposed = planned_after()[0].pressure.by_method["drop"]
    for n in range(wheels):
        yield visit(f"a{n}", f"w-{n}", [(1, failed()), (1, DOSE), (1, SIGNED), (20, DIP)])
        rode = {
            "previous_pressure_kpa": 0.88 * proposed,
            "work": {"kind": "refresh", "rode_before": True, "kept_said": True},
        }
        yield visit(f"b{n}", f"w-{n}", [(21, SIGNED)], **rode)


@pytest.fixture
def taught(tmp_path):
    store = Repository(sqlite_url(tmp_path / "shop.sqlite"))
    for n, document in enumerate(taught_shop()):
        (tmp_path / f"{n:02}.json").write_text(json.dumps(document), encoding="utf-8")
    import_files(store, sorted(tmp_path.glob("*.json")))
    yield store
    store.close()


def test_the_log_of_a_shop_moves_its_plans(taught):
    learned = ShopLearning(all_visits(taught, Shop()))
    assert learned.visits == 24
    job = job_from_plain(ordinary(**NAMES))
    about = learned.of(job)
    assert about.start.count == 12 and 0.86 < about.start.factor < 0.92
    assert about.gap.count == 12 and about.gap.factor > 1.3
    assert about.drying.count == 12 and about.drying.factor > 1.2
    usual, moved = (plan_of(job, *more) for more in ((), (about,)))
    assert moved.pressure.start_kpa < usual.pressure.start_kpa
    assert moved.sealant.refresh_after_days == pytest.approx(
        usual.sealant.refresh_after_days / about.drying.factor
    )
    for before, after in zip(usual.seating_odds.sources, moved.seating_odds.sources, strict=True):
        assert after.probability <= before.probability
    for trail in (moved.pressure.why, moved.sealant.why, moved.seating_odds.why):
        assert sum("learned from 12 here" in line.read() for line in trail.others) == 1
    stranger = learned.of(job_from_plain(ordinary(rim__name="Reed bed 584", tire__name="Loon")))
    assert abs(stranger.gap.log) < abs(about.gap.log) and stranger.gap_spread > about.gap_spread


def plan_of(job, *more):
    return plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, (), *more)


def test_a_log_that_says_nothing_leaves_the_usual_figures(tmp_path):
    store = Repository(sqlite_url(tmp_path / "shop.sqlite"))
    learned = ShopLearning({})
    assert all_visits(store, Shop()) == {} and learned.of(job_from_plain(ordinary())) == USUAL
    store.close()
    topics = topics_of({}, learned, datetime.now())
    assert topics[0].sentence == "No way is clearly better so far"
    assert {topic.sentence for topic in topics[1:]} == {"Nothing logged yet"}


def kept_answer(proposed, factor, n):
    rode = {
        "previous_pressure_kpa": factor * proposed,
        "work": {"kind": "refresh", "rode_before": True, "kept_said": True},
    }
    return visit(f"k{n}", f"w-{n}", [(21, SIGNED)], **rode)


@pytest.mark.parametrize("slip", [10.0, 1.0 / 6.895])
def test_a_slip_of_the_hand_moves_no_pressure_and_a_dry_dip_counts_as_a_bound(tmp_path, slip):
    proposed = planned_after()[0].pressure.by_method["drop"]
    dry = Dip(depth_mm=0.0, free_ml=0.0, factor=1.0, calibrates=False)

    def learned(*answers):
        folder = tmp_path / str(len(answers))
        folder.mkdir()
        store = Repository(sqlite_url(folder / "shop.sqlite"))
        for n, factor in enumerate(answers):
            first = visit(f"a{n}", f"w-{n}", [(1, DOSE), (1, SIGNED), (28, dry)])
            for name, document in (("a", first), ("k", kept_answer(proposed, factor, n))):
                path = folder / f"{name}{n:02}.json"
                path.write_text(json.dumps(document), encoding="utf-8")
        import_files(store, sorted(folder.glob("*.json")))
        result = ShopLearning(all_visits(store, Shop()))
        store.close()
        return result

    straight, slipped = learned(*[0.85] * 8), learned(*[0.85] * 8, slip)
    mean, spread = straight.effects["start"].if_it_differs({"shop": ""})
    moved = slipped.effects["start"].if_it_differs({"shop": ""})[0]
    assert mean < -0.08 and abs(moved - mean) <= 0.1 * spread
    drying = straight.effects["drying"]
    assert (
        drying.counts["shop", ""] == 8
    )  # all in a third of the climate's time: it dries fast here
    assert drying.of({"shop": ""})[0] > 0.2


def two_ways(wheels=16):
    """Every other wheel with mounting fluid, which seats at the first try; soap takes a second one, as its hand-over
    names the tape of each.
    """
    clocks = ("T08:00:00+00:00", "T08:03:00+00:00", "T08:09:00+00:00", "T08:30:00+00:00")
    for n in range(wheels):
        fluid = n % 2 == 0
        tries = [try_with("both_up" if fluid else "no_pressure", "fluid" if fluid else "soap")]
        if not fluid:
            tries.append(try_with("both_up", "soap", ("wet",)))
        signed = SignOff(by="M. Osier", pressure_kpa=200, methods={"tape_kind": "cloth"})
        entries = [StepEntry(stage="mount", step="bead.second"), *tries, signed]
        yield visit(
            f"t{n}",
            f"w-{n}",
            [(5 + n % 3, entry) for entry in entries],
            times=(*clocks[: len(entries) - 1], clocks[-1]),
        )


def try_with(outcome, lubricant, changed=()):
    return Attempt(
        peak_kpa=200,
        outcome=outcome,
        limit_kpa=340,
        target_kpa=250,
        source="floor_pump",
        core_out=True,
        lubricant=lubricant,
        changed=changed,
    )


def test_what_was_really_used_is_compared_whatever_the_setting_says_now(tmp_path):
    store = Repository(sqlite_url(tmp_path / "shop.sqlite"))
    for n, document in enumerate(two_ways()):
        (tmp_path / f"{n:02}.json").write_text(json.dumps(document), encoding="utf-8")
    import_files(store, sorted(tmp_path.glob("*.json")))
    now = datetime(2026, 11, 28, 12, 0, tzinfo=UTC)
    visits = all_visits(store, Shop())
    store.close()
    assert {ways_of(one[0])["lubricant"] for one in visits.values()} == {"soap", "fluid"}
    assert {ways_of(one[0])["tape_kind"] for one in visits.values()} == {"cloth"}
    # what an imported log names beside that is no way of this program: it can set no method
    odd = {"tape_kind": "chewing gum", "layers": "99", "climate": "hot_dry", "paint": "blue"}
    first = next(iter(visits.values()))[0]
    foreign = msgspec.structs.replace(first.plan.log.signed, methods={**odd, "dose": "lean"})
    log = msgspec.structs.replace(first.plan.log, signed=foreign)
    plan = msgspec.structs.replace(first.plan, log=log)
    said = ways_of(msgspec.structs.replace(first, plan=plan))
    assert said["dose"] == "lean" and not {"tape_kind", "layers", "climate", "paint"} & set(said)
    learned = ShopLearning(visits)
    (finding,) = findings_of(visits, learned, None, now)
    assert (finding.field, finding.way, finding.used) == ("lubricant", "fluid", "soap")
    assert finding.wheels == pytest.approx(16 / 3) and finding.minutes > 1.0
    assert len(finding.compared.way.wheels) == len(finding.compared.used.wheels) == 8
    # a shop that works with fluid already has nothing to change, and soap is not proposed to it
    assert findings_of(visits, learned, Practice(lubricant="fluid"), now) == ()
    (topic,) = [one for one in topics_of(visits, learned, now) if one.code == "change"]
    assert topic.marks[0].name == "On the bead: fluid" and len(topic.marks[0].wheels) == 16
    seated = next(one for one in topics_of(visits, learned, now) if one.code == "source")
    assert [(month.name, month.n) for month in seated.months] == [("2026-11", 24)]


def test_insights_on_the_command_line(tmp_path, capsys):
    files = []
    for n, document in enumerate(taught_shop()):
        files.append(tmp_path / f"{n:02}.json")
        files[-1].write_text(json.dumps(document), encoding="utf-8")
    assert main(["import", *map(str, files)]) == 0
    capsys.readouterr()
    assert main(["insights"]) == 0
    words = capsys.readouterr().out
    assert (
        "Seated by source (12): 0 of 12 tries" in words
        and "Riders keep 12 % less than proposed" in words
    )
    assert main(["insights", "--json"]) == 0
    result = {topic["code"]: topic for topic in json.loads(capsys.readouterr().out)}
    assert [mark["name"] for mark in result["kept_by"]["marks"]] == ["Over 10 % less"]
    assert len(result["kept_by"]["marks"][0]["wheels"]) == 12
    # the shop's own methods count: where its climate is hot and dry, the same dips are not so fast
    practice = tmp_path / "practice.json"
    practice.write_text(
        json.dumps(
            {
                "format": "inner-rim/practice",
                "version": 1,
                "settings": {"practice.climate": "hot_dry"},
            }
        ),
        encoding="utf-8",
    )
    assert main(["import", str(practice)]) == 0
    capsys.readouterr()
    assert main(["insights", "--json"]) == 0
    hot = {topic["code"]: topic for topic in json.loads(capsys.readouterr().out)}
    assert float(hot["drying"]["marks"][0]["figure"].split()[0]) < 0.8 * float(
        result["drying"]["marks"][0]["figure"].split()[0]
    )
    assert result["start"]["n"] == 12 and result["drying"]["marks"][0]["note"] == "learned from 12"


def test_every_topic_counts_what_the_log_says(taught):
    """A small story of each kind, counted by hand."""
    now = datetime(2026, 11, 28, 12, 0, tzinfo=UTC)

    def at(hour, *entries, day=2):
        return [(day, entry, f"T{hour:02}:00:00+00:00") for entry in entries]

    story = [
        *at(8, Promised(due="2026-11-02T17:00"), StepEntry(stage="strip", step="tire.off")),
        *at(
            9,
            attempt("not_up", "floor_pump", False),
            attempt("both_up", "floor_pump", True, ("core_out",)),
        ),
        *at(10, Reading(pressure_kpa=300.0)),
        *at(11, Reading(pressure_kpa=298.5)),
        *at(12, SIGNED),
    ]
    late = [*at(8, Promised(due="2026-11-02T10:00")), *at(12, Reading(pressure_kpa=300.0)), *at(13, Reading(pressure_kpa=270.0)), *at(14, attempt("both_up", "compressor", False)), *at(15, SIGNED)]  # fmt: skip
    store = taught
    visits = all_visits(store, Shop())
    for name, log in (("good", story), ("late", late)):
        job = job_from_plain(ordinary(**NAMES))
        entries = [
            Logged(number=n, at=f"2026-11-{day:02}{clock}", wheel_id=name, entry=entry)
            for n, (day, entry, clock) in enumerate(log, 1)
        ]
        plan = plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, entries)
        visits[name] = [Visit((name, name), name, plan.wheel, job.ride, "", plan, tuple(entries))]
    result = {topic.code: topic for topic in topics_of(visits, ShopLearning(visits), now)}

    def marks(code):
        return {mark.name: (mark.figure, len(mark.wheels)) for mark in result[code].marks}

    assert marks("source") == {
        "Compressor, core out": ("0 of 12", 12),
        "Compressor, core in": ("1 of 1", 1),
        "Floor pump, core in": ("0 of 1", 1),
        "Floor pump, core out": ("1 of 1", 1),
    }
    assert marks("remedy") == {"Take the core out": ("1 of 1", 1)}
    assert marks("hold") == {"Under 1 %": ("1 of 1", 1), "Over 3 %": ("0 of 1", 1)}
    assert marks("promise") == {"2026-11": ("1 of 2", 2)}
    assert marks("back") == {"Refresh the sealant": ("12 of 26", 12)}
    assert result["back"].sentence == "12 of 26 handed over were back within 90 days"
    assert result["failure"].sentence == "0 repairs after handing over"
    assert marks("used")["Sealant: Kelp milk"] == ("720 ml", 12)
    rows = list(
        csv.reader(
            io.StringIO(insights_csv(result.values(), lambda key: key[0]).decode("utf-8-sig"))
        )
    )
    assert rows[0][0] == "topic" and [
        "Seated by source",
        "15",
        "Floor pump, core out",
        "1 of 1",
    ] in [r[:4] for r in rows]


def test_failures_are_counted_by_sort_over_the_years_that_were_ridden(tmp_path):
    """Two plugged wheels, one back for a repair after 20 days; rates by the conjugate prior, worked out by hand."""
    store = Repository(sqlite_url(tmp_path / "shop.sqlite"))
    plugged = {"tire__plugs": 1, "tire__tubeless_ready": True}
    documents = [
        visit("a", "w-a", [(1, SIGNED)], **plugged),
        visit("b", "w-b", [(1, SIGNED)], **plugged),
        visit(
            "c",
            "w-a",
            [(21, Note(text="flat"))],
            work={"kind": "repair", "leak": "tread"},
            **plugged,
        ),
    ]
    for n, document in enumerate(documents):
        (tmp_path / f"{n}.json").write_text(json.dumps(document), encoding="utf-8")
    import_files(store, sorted(tmp_path.glob("*.json")))
    visits = all_visits(store, Shop())
    store.close()
    now = datetime(2026, 11, 28, 12, 0, tzinfo=UTC)
    result = {topic.code: topic for topic in topics_of(visits, ShopLearning(visits), now)}
    years = (20.0 + 27.0 + 2.0 / 24.0) / 365.25
    marks = {mark.name: mark for mark in result["failure"].marks}
    assert set(marks) == {"Plugged tire", "Polyester tape, new"}
    assert marks["Plugged tire"].figure == f"{1.025 / (0.5 + years):.2f} a wheel and year"
    assert list(marks["Plugged tire"].wheels) == [
        one[1].key for one in visits.values() if len(one) == 2
    ]
    assert result["back"].marks[0].name == "Through the tread"


def attempt(outcome, source, core_out, changed=()):
    return Attempt(
        peak_kpa=200,
        outcome=outcome,
        limit_kpa=340,
        source=source,
        core_out=core_out,
        changed=changed,
    )
