"""What other programs rely on: fields and codes of the plan document, for every kind of work."""

import json
import subprocess
import sys

import pytest

from inner_rim.core.procedure.setup import WORK_WORDS
from inner_rim.work.planning import plan_document
from tests.samples import ordinary

CODES = {
    "check_in.read",
    "check_in.weigh",
    "strip.deflate",
    "strip.break_beads",
    "strip.open_one",
    "strip.tire_off",
    "strip.tube_out",
    "strip.insert_out",
    "strip.valve_out",
    "strip.sealant_out",
    "strip.tape_off",
    "strip.rim_strip_off",
    "strip.rim_strip_in",
    "rim.look",
    "rim.clean",
    "rim.dry",
    "tape.keep_look",
    "tape.lay",
    "tape.trim",
    "tape.warm",
    "tape.press",
    "tape.look",
    "hole.open",
    "valve.fit",
    "valve.core_check",
    "tire.look",
    "tire.wipe",
    "tire.warm",
    "tire.arrow",
    "tire.arrow_again",
    "insert.look",
    "insert.on",
    "bead.wet",
    "bead.first",
    "bead.second",
    "bead.partial",
    "bead.close",
    "bead.open_one",
    "bead.off_one",
    "bead.refit",
    "bead.lift",
    "tube.in",
    "tube.out",
    "core.out",
    "core.in",
    "sealant.shake",
    "sealant.pour",
    "sealant.inject",
    "dip.read",
    "air.inflate",
    "air.step",
    "air.deflate",
    "line.look",
    "dry.test",
    "spin.look",
    "hold.shake",
    "hold.flat_left",
    "hold.flat_right",
    "hold.top_up",
    "hold.soap",
    "hold.read",
    "repair.find",
    "repair.plug",
    "repair.patch",
    "repair.boot",
    "set.pressure",
    "set.weigh",
    "set.sign",
}
#: Added in the same form.
MORE = {"check_in.approval", "strip.old_insert_out", "rim.walls", "rim.wipe", "tire.thorns", "air.burst", "air.press",
        "dry.stay", "tape.find", "valve.top", "air.source", "bead.push", "bead.level", "bead.strap", "insert.straighten",
        "sealant.look", "repair.lay", "repair.bead_look"}  # fmt: skip


@pytest.mark.parametrize("kind", WORK_WORDS)
@pytest.mark.parametrize("insert", [None, {"ported": True}, {"ported": False}])
def test_every_kind_of_work_has_the_agreed_fields_and_codes(kind, insert):
    (wheel,) = plan_document(ordinary(work={"kind": kind}, insert=insert))["wheels"]
    assert wheel["work"] == kind and wheel["minutes_hands"] > 5.0 and wheel["minutes_wait"] >= 0.0
    assert wheel["tools"] and len(set(wheel["tools"])) == len(wheel["tools"])
    assert wheel["minutes_hands"] == pytest.approx(sum(step["minutes"] for step in wheel["steps"]))
    assert wheel["minutes_wait"] == pytest.approx(
        sum(step["wait_minutes"] for step in wheel["steps"])
    )
    for name, (low, high) in wheel["bands"].items():
        assert low <= high, name
    assert set(wheel["bands"]) == {
        "mounted_width_mm",
        "slack_mm",
        "developed_width_mm",
        "start_kpa",
    }
    pressure = wheel["pressure"]
    assert {"ride_kpa", "set_here_kpa", "at_ride_kpa"} <= pressure.keys()
    # no ride's air is given
    assert pressure["at_ride_kpa"] == pytest.approx(pressure["set_here_kpa"])
    for step in wheel["steps"]:
        assert step["code"] in CODES | MORE, step["code"]
        assert {
            "stage",
            "code",
            "text",
            "minutes",
            "wait_minutes",
            "needs",
            "gives",
            "tools",
            "question",
        } <= step.keys()
        assert all("=" in fact for fact in (*step["needs"], *step["gives"]))
    assert sum(wheel["sealant"]["loads_ml"]) == pytest.approx(wheel["sealant"]["dose_ml"])
    for source in wheel["coming_up"]["sources"]:
        assert 0.0 <= source["probability"] <= 1.0 and source["words"] in (
            "likely",
            "perhaps",
            "unlikely",
        )


@pytest.mark.parametrize("injector", [20, 30, 50, 60, 100])
@pytest.mark.parametrize("size", ["28-622", "45-622", "61-622", "100-622"])
def test_no_filling_is_a_little_rest(injector, size):
    width = float(size.split("-")[0])
    document = ordinary(shelf__injector_ml=injector, tire__size=size, rim__internal_width_mm=width / 1.9,
                        practice__sealant_route="inject", tire__min_pressure_kpa=None)  # fmt: skip
    sealant = plan_document(document)["wheels"][0]["sealant"]
    loads = sealant["loads_ml"]
    assert sum(loads) == pytest.approx(sealant["dose_ml"]) and max(loads) <= injector + 1e-9
    assert len(loads) == 1 or min(loads) >= injector / 3
    assert sealant["lean_ml"] - 5 <= sealant["dose_ml"] <= sealant["generous_ml"] + 5


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("work", {"kind": "paint"}),
        ("work", {"kind": "convert", "color": "red"}),
        ("work", {"tape_laid": "last spring"}),
        ("work", {"tape_changes": -1}),
        ("sealant", {"in_ml": 1e9}),
        ("sealant", {"in_since": "2026-13-40"}),
        ("rim__max_pressure_printed", "no"),
        ("practice__settle", "high"),
        ("practice__insert_order", 3),
        ("practice__bottle_kpa", 1e6),
    ],
)
def test_what_is_not_accepted_in_the_new_fields_is_one_line(field, value, tmp_path):
    path = tmp_path / "job.json"
    path.write_text(json.dumps(ordinary(**{field: value})), encoding="utf-8")
    done = subprocess.run(
        [sys.executable, "-m", "inner_rim.cli", "plan", str(path)],
        capture_output=True,
        text=True,
        timeout=60,
    )
    name = field.rpartition("__")[2] if not isinstance(value, dict) else list(value)[-1]
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and name in done.stderr


def test_a_procedure_of_every_kind_reads_on_the_text_card(tmp_path):
    path = tmp_path / "job.json"
    for kind, words in WORK_WORDS.items():
        path.write_text(json.dumps(ordinary(work={"kind": kind})), encoding="utf-8")
        done = subprocess.run(
            [sys.executable, "-m", "inner_rim.cli", "plan", str(path)],
            capture_output=True,
            text=True,
            timeout=60,
        )
        assert done.returncode == 0, done.stderr
        assert words in done.stdout and "Lay out:" in done.stdout


def test_cards_of_several_jobs_go_into_one_file(tmp_path):
    from pypdf import PdfReader

    files = []
    for kind in ("convert", "repair"):
        files.append(tmp_path / f"{kind}.json")
        files[-1].write_text(
            json.dumps(ordinary(work={"kind": kind}, name=f"Tern {kind}")), encoding="utf-8"
        )
    command = [sys.executable, "-m", "inner_rim.cli", "plan", *map(str, files), "--card"]
    card = tmp_path / "cards.pdf"
    done = subprocess.run(
        [*command, str(card), "--json"], capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 0, done.stderr
    assert [wheel["name"] for plan in json.loads(done.stdout) for wheel in plan["wheels"]] == [
        "Tern convert",
        "Tern repair",
    ]
    text = "\n".join(page.extract_text() for page in PdfReader(card).pages)
    assert "Tern convert" in text and "Find the leak" in text and "Lay out" in text
    nowhere = subprocess.run(
        [*command, str(tmp_path / "none" / "x.pdf")], capture_output=True, text=True, timeout=60
    )
    assert nowhere.returncode == 2 and nowhere.stderr.count("\n") == 1


def test_a_job_s_card_is_a_front_and_a_back_however_many_steps_it_has(tmp_path):
    """Fifty-five steps: their letters are smaller, the readings stay on the page."""
    from pypdf import PdfReader
    from tools.jobs import JOBS, job_of

    names = (
        "insert, seat first",
        "hookless rim with insert, injected",
        "loose tire that needs layers",
    )
    files = [tmp_path / f"{n}.json" for n in range(len(names))]
    for name, file in zip(names, files, strict=True):
        file.write_text(json.dumps(job_of(JOBS[name][0])), encoding="utf-8")
    card = tmp_path / "cards.pdf"
    command = [sys.executable, "-m", "inner_rim.cli", "plan", *map(str, files), "--card", str(card)]
    subprocess.run(command, capture_output=True, timeout=60, check=True)
    pages = [page.extract_text() for page in PdfReader(card).pages]
    assert len(pages) == 2 * len(names) and all("Readings" in page for page in pages[::2])
    assert "Hand over, with your name" in pages[0]
