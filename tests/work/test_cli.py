import json
import os
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest

from inner_rim.cli import main
from inner_rim.cli.options import parser
from inner_rim.work.planning import plan_document
from tests.samples import ordinary


@pytest.fixture
def job_file(tmp_path):
    def write(content):
        path = tmp_path / "job.json"
        path.write_bytes(content if isinstance(content, bytes) else json.dumps(content).encode())
        return str(path)

    return write


def test_plan_as_json_is_the_plan_document(job_file, capsys):
    assert main(["plan", job_file(ordinary()), "--json"]) == 0
    printed = json.loads(capsys.readouterr().out)
    assert printed == json.loads(json.dumps(plan_document(ordinary())))
    wheel = printed["wheels"][0]
    assert (printed["format"], printed["version"]) == ("inner-rim/plan", 1)
    assert wheel["tape"]["options"][0].keys() >= {"width_mm", "verdict"}
    assert wheel["pressure"]["limit_from"] == "tire" and wheel["sealant"]["loads_ml"]
    assert wheel["pressure"]["why"]["source"] and wheel["tire"]["why"]["formula"]


def test_the_card_names_the_limit_and_its_origin(job_file, capsys):
    assert main(["plan", job_file(ordinary())]) == 0
    text = capsys.readouterr().out
    assert "Limit             3.40 bar, printed on the tire" in text
    assert "1.40 bar – 2.10 bar – 2.80 bar" in text and "Never above 3.40 bar" in text


def test_the_card_is_in_the_units_of_the_locale(job_file, capsys, monkeypatch):
    monkeypatch.setenv("LC_ALL", "en_US.UTF-8")
    assert main(["plan", job_file(ordinary())]) == 0
    text = capsys.readouterr().out
    assert "Limit             49.3 psi, printed on the tire" in text and " bar" not in text


def test_a_line_is_planned_as_it_is_said(capsys):
    assert (
        main(
            [
                "plan",
                "--say",
                "45-622 on 24 hooked, max 3.0 tire max 2.8, 80 kg + 12, blue",
                "--json",
            ]
        )
        == 0
    )
    out, err = capsys.readouterr()
    said = json.loads(out)
    assert said["left"] == "blue" and "blue" in err and err.count("\n") == 1
    job = said.pop("job")
    assert said.pop("left") and said == json.loads(json.dumps(plan_document(job)))
    pressure = said["wheels"][0]["pressure"]
    assert pressure["limit_kpa"] == pytest.approx(280.0) and pressure["limit_from"] == "tire"
    assert job["wheels"][0]["rim"]["max_pressure_kpa"] == pytest.approx(300.0)
    assert job["ride"]["total_mass_kg"] == 92.0
    assert main(["plan", "--say", "45-584 on 24, rim 2.5 bar"]) == 0
    assert "Limit             2.50 bar, printed on the rim" in capsys.readouterr().out
    for line in ("blue", "", "on 24 hooked"):  # nothing, or not enough to plan
        assert main(["plan", "--say", line]) == 2
        out, err = capsys.readouterr()
        assert not out and err.count("\n") == 1 and "--say" in err
    assert main(["plan"]) == 2 and "name a job file" in capsys.readouterr().err


def test_a_plan_with_stops_exits_1(job_file, capsys):
    assert main(["plan", job_file(ordinary(rim__bead_seat_diameter_mm=584))]) == 1
    assert "STOP" in capsys.readouterr().out


def changed(**changes):
    return ordinary(**changes)


BAD = {
    "empty": (b"", "empty", ""),
    "not json": (b"{", "not JSON", ""),
    "encoding": (b'{"format": "\xff"}', "UTF-8", ""),
    "deep": (b"[" * 200_000, "nested", ""),
    "deep in": (b'{"wheels":' + b'{"a":' * 3000 + b"1" + b"}" * 3001, "nested", ""),
    "a list": (b"[]", "inner-rim/job", ""),
    "format": ({**ordinary(), "format": "x"}, "inner-rim/job", "format"),
    "version": ({**ordinary(), "version": 2}, "use 1", "version"),
    "unknown key": (changed(rim__color="red"), "unknown key", "wheels[0].rim.color"),
    "NaN": (json.dumps(changed(tire__max_pressure_kpa=float("nan"))).encode(), "nan: use a finite number", "wheels[0].tire.max_pressure_kpa"),
    "negative": (changed(rim__internal_width_mm=-3), "-3: use a number from 10 to 120", "wheels[0].rim.internal_width_mm"),
    "absurd": (changed(tire__max_pressure_kpa=9e9), "9000000000", "wheels[0].tire.max_pressure_kpa"),
    "a bool": (changed(rim__internal_width_mm=True), "true", "wheels[0].rim.internal_width_mm"),
    "size": (changed(tire__size="huge"), "“huge”", "wheels[0].tire.size"),
    "ambiguous": (changed(tire__size="26 x 2"), "50-559 or 50-571", "wheels[0].tire.size"),
    "choice": (changed(rim__hook="maybe"), "hooked, straight_side", "wheels[0].rim.hook"),
    "missing": (changed(tire__size=None), "missing", "wheels[0].tire.size"),
    "well": (changed(rim__well={"depth_mm": 4, "floor_mm": 20, "left_shoulder_mm": 9, "right_shoulder_mm": 9}), "38 mm", "wheels[0].rim.well"),
    "min over max": (changed(tire__min_pressure_kpa=500), "max pressure of 340", "wheels[0].tire.min_pressure_kpa"),
    "due": ({**ordinary(), "due": "soon"}, "type a day and time", "due"),
    "no wheels": ({**ordinary(), "wheels": []}, "1 to 200", "wheels"),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_bad_input_exits_2_with_one_line_naming_file_field_and_value(name, job_file, capsys):
    content, says, field = BAD[name]
    path = job_file(content)
    assert main(["plan", path]) == 2
    out, err = capsys.readouterr()
    assert out == "" and err.count("\n") == 1
    assert err.startswith(f"{path}: {field}") and says in err
    assert len(err) < 600


def test_a_huge_file_and_no_file(tmp_path, job_file, capsys):
    assert main(["plan", job_file(b" " * 5_000_000 + b"{}")]) == 2
    assert main(["plan", str(tmp_path / "none.json")]) == 2
    assert main(["plan", str(tmp_path)]) == 2
    assert capsys.readouterr().err.count("\n") == 3


def test_nan_in_plain_data_is_named():
    with pytest.raises(
        ValueError, match=r"wheels\[0\]\.tire\.max_pressure_kpa: nan: use a finite number"
    ):
        plan_document(ordinary(tire__max_pressure_kpa=float("nan")))


def test_schema_describes_what_is_accepted(capsys):
    assert main(["schema"]) == 0
    schema = json.loads(capsys.readouterr().out)
    rim = schema["$defs"]["Rim"]
    assert rim["required"] == ["bead_seat_diameter_mm", "internal_width_mm"]
    assert rim["properties"]["internal_width_mm"]["minimum"] == 10
    assert rim["additionalProperties"] is False


def test_every_command_has_help_and_stands_in_the_docs():
    commands = next(a for a in parser()._actions if a.dest == "command")
    docs = (Path(__file__).parents[2] / "docs" / "manual" / "command-line.md").read_text(
        encoding="utf-8"
    )
    assert {c.dest for c in commands._choices_actions if c.help} == set(commands.choices)
    for name in commands.choices:
        assert f"inner-rim {name}" in docs


def test_without_a_display_it_says_so_in_words():
    env = {"PATH": "/usr/bin:/bin"}
    done = subprocess.run(
        [sys.executable, "-m", "inner_rim.cli", "--demo"], env=env, capture_output=True, text=True
    )
    assert done.returncode == 2
    assert "no display" in done.stderr and "Traceback" not in done.stderr


def said(*args, **env):
    done = subprocess.run(
        [sys.executable, "-m", "inner_rim.cli", *map(str, args)], capture_output=True, text=True, timeout=60,
        env={**os.environ, **env},
    )  # fmt: skip
    assert "Traceback" not in done.stderr
    return done


def test_ones_own_data_go_out_and_come_back_the_same(tmp_path):
    job = tmp_path / "job.json"
    job.write_text(json.dumps(ordinary()), encoding="utf-8")
    homes = [{"INNER_RIM_HOME": str(tmp_path / name)} for name in ("a", "b")]
    assert said("import", job, **homes[0]).returncode == 0
    again = said("import", job, **homes[0])
    assert again.returncode == 2 and "--replace" in again.stderr and again.stderr.count("\n") == 1
    assert said("import", "--replace", job, **homes[0]).returncode == 0
    _log_into(tmp_path / "a" / "inner-rim.sqlite")
    assert said("export", "--to", tmp_path / "one", **homes[0]).returncode == 0
    assert said("import", tmp_path / "one", **homes[1]).returncode == 0
    assert said("export", "--to", tmp_path / "two", **homes[1]).returncode == 0
    files = [p.relative_to(tmp_path / "one") for p in (tmp_path / "one").rglob("*") if p.is_file()]
    assert len(files) == 4
    for file in files:
        assert (tmp_path / "one" / file).read_bytes() == (tmp_path / "two" / file).read_bytes()


def _log_into(file):
    from inner_rim.core.record.log import Correction, Note
    from inner_rim.core.record.parts import item_from
    from inner_rim.store.database import sqlite_url
    from inner_rim.store.repository import Repository
    from inner_rim.store.statements import NewEntry

    store = Repository(sqlite_url(file))
    (job,) = store.bench().jobs
    wheel_id = job.document["wheels"][0]["wheel_id"]
    at = "2026-11-24T10:00:00+00:00"
    store.append(
        job.job_id,
        wheel_id,
        [
            NewEntry("e1", at, Note(text="=HYPERLINK(1);=1+1")),
            NewEntry("e2", at, Correction(of=1, text="no")),
        ],
    )
    with store.database.engine.begin() as connection:  # from a version that was not so strict
        insert = "INSERT INTO log (uid, job_uid, wheel_id, at, kind, body) VALUES ('odd', ?, ?, ?, 'care', ?)"
        body = '{"kind":"care","what":"sung to"}'
        connection.exec_driver_sql(insert, (job.job_id, wheel_id, at, body))
    store.shelf.add(item_from("tape", {"name": "Ebb 27", "width_mm": 27}, stock=9.0), at, "counted")
    store.set_setting("practice.dose", "lean")
    store.close()


def test_the_doctor_names_what_is_wrong_and_what_to_do(tmp_path):
    home = {"INNER_RIM_HOME": str(tmp_path / "home")}
    well = said("doctor", **home)
    assert well.returncode == 0 and "none yet" in well.stdout and "->" not in well.stdout, (
        well.stdout
    )
    assert said("export", "--to", tmp_path / "out", **home).returncode == 0
    file = tmp_path / "home" / "inner-rim.sqlite"
    new = said("doctor", **home)
    assert (
        new.returncode == 0
        and "sound, 0 jobs" in new.stdout
        and "one is made each day" in new.stdout
    )
    file.write_bytes(b"not a database" * 500)
    broken = said("doctor", **home)
    assert broken.returncode == 1 and "inner-rim restore FILE" in broken.stdout


def test_the_doctor_tries_a_package_and_does_not_believe_its_version(tmp_path):
    """The package of NumPy was there and could not be loaded: "OK numpy"."""
    (tmp_path / "numpy").mkdir()
    (tmp_path / "numpy" / "__init__.py").write_text(
        'raise ImportError("ELF load command not page-aligned")'
    )
    home = {"INNER_RIM_HOME": str(tmp_path / "home"), "PYTHONPATH": str(tmp_path)}
    broken = said("doctor", **home)
    assert broken.returncode == 1 and "-> numpy" in " ".join(broken.stdout.split()), broken.stdout
    assert "not page-aligned" in broken.stdout and "Install the program again" in broken.stdout


def test_a_backup_is_put_back_and_what_cannot_be_is_one_line(tmp_path):
    home = {"INNER_RIM_HOME": str(tmp_path / "home")}
    assert said("backup", tmp_path / "none.sqlite", **home).returncode == 2
    assert said("export", "--to", tmp_path / "out", **home).returncode == 0
    assert said("backup", tmp_path / "copy.sqlite", **home).returncode == 0
    done = said("restore", tmp_path / "copy.sqlite", **home)
    assert done.returncode == 0 and "The data before it are in" in done.stdout
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    for args in (
        ("restore", "/dev/zero"),
        ("restore", pipe),
        ("backup", tmp_path / "home" / "inner-rim.sqlite"),
        ("backup", pipe),
        ("backup", tmp_path),
        ("import", "/dev/zero"),
        ("import", tmp_path),
        ("plan", "/dev/zero"),
    ):
        bad = said(*args, **home)
        assert bad.returncode in (0, 2) and bad.stderr.count("\n") <= 1
    for url in ("foo", "sqlite://", "mysql://u:secret@h/n", "mysql://u@h/n?password=secret"):
        bad = said("export", "--to", tmp_path / "x", INNER_RIM_DATABASE=url, **home)
        assert (
            bad.returncode == 2
            and "INNER_RIM_DATABASE" in bad.stderr
            and "secret" not in bad.stderr
        )


def test_a_terminal_without_unicode_gets_signs_it_has(tmp_path, job_file):
    document = ordinary()
    document["wheels"][0]["name"] = "Strandläufer \u202e“vorn”"
    file = job_file(document)
    plain = said("plan", file, PYTHONIOENCODING="ascii", LC_ALL="C")
    assert plain.returncode == 0 and "Strandl?ufer ?vorn?" in plain.stdout
    result = said("plan", "--json", file, PYTHONIOENCODING="ascii", LC_ALL="C")
    assert json.loads(result.stdout)["wheels"] and result.stdout.isascii()


@pytest.mark.parametrize("title", ['\\"' * 100_000, "\x1b[2J" * 2000, "\u202e" * 70_000])
def test_odd_names_are_neither_slow_nor_repeated_whole(tmp_path, title):
    file = tmp_path / "job.json"
    file.write_text(json.dumps({**ordinary(), "title": title}), encoding="utf-8")
    began = time.monotonic()
    bad = said("plan", file)
    assert time.monotonic() - began < 10.0 and bad.returncode in (0, 2)
    assert (
        len(bad.stderr) < 1500
        and "\x1b" not in bad.stderr + bad.stdout
        and "\u202e" not in bad.stderr
    )


def test_an_unexpected_fault_is_in_the_log_file_that_it_names(tmp_path, monkeypatch, capsys):
    monkeypatch.setattr("inner_rim.store.repository.Repository.__init__", broken_start)
    assert main(["export", "--to", str(tmp_path / "out")]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1 and "Unexpected error (OperationalError)" in said
    assert "no such table" in Path(said.strip().rpartition("Details: ")[2]).read_text(
        encoding="utf-8"
    )


def broken_start(self, *args, **more):
    from inner_rim.store.errors import failed

    try:
        raise sqlite3.OperationalError("no such table: jobs")
    except sqlite3.OperationalError as fault:
        raise failed(fault) from fault


def test_days_are_bounded(tmp_path):
    day = tmp_path / "day.json"
    for start in ("9999-12-31T08:00:00", "0001-01-01T00:00:00"):
        day.write_text(json.dumps({"start": start, "wheels": []}), encoding="utf-8")
        bad = said("schedule", day)
        assert bad.returncode == 2 and "2000 to 2200" in bad.stderr and bad.stderr.count("\n") == 1
