"""`trace` and `hold` on the command line: names, figures, exit statuses, one line for every bad input."""

import json
import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.cli import main
from inner_rim.core.record.errors import InputError
from inner_rim.documents.csv_text import read_columns
from inner_rim.work.measuring import HOLD_NAMES

SAMPLES = Path(__file__).parents[1] / "data" / "traces"
HOLD = "time_h,pressure_kpa,temperature_c\n0,200,20\n12,195,18\n"


@pytest.fixture
def table(tmp_path):
    def write(text, name="readings.csv"):
        path = tmp_path / name
        path.write_bytes(text if isinstance(text, bytes) else text.encode())
        return str(path)

    return write


def test_trace_prints_the_agreed_names(capsys):
    assert main(["trace", str(SAMPLES / "trace-105.csv"), "--limit-kpa", "377", "--json"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert list(result) == ["peak_kpa", "pops", "over_limit", "pump_side"]
    assert [list(pop) for pop in result["pops"]] == [["time_s", "pressure_kpa", "drop_kpa"]] * 2
    assert result["over_limit"][0]["pressure_kpa"] > 377 and result["peak_kpa"] == max(
        o["pressure_kpa"] for o in result["over_limit"]
    )


def test_trace_in_words_calls_out_the_limit(capsys):
    assert main(["trace", str(SAMPLES / "trace-103.csv"), "--limit-kpa", "200"]) == 0
    said = capsys.readouterr().out
    assert "ABOVE THE LIMIT" in said and "Pop   at 8.15 s, 1.74 bar" in said
    assert main(["trace", str(SAMPLES / "trace-106.csv")]) == 0
    assert "No pop was found" in capsys.readouterr().out


def test_hold_prints_the_agreed_names_and_figures(table, capsys):
    assert main(["hold", table(HOLD), "--volume-ml", "3000", "--json"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert tuple(result) == HOLD_NAMES
    # by hand: p20 of both, the first reading's air given back, slope of ln p, 1.645 standard errors
    first, second = 200.0, ((195 + 101.325) * 293.15 / 291.15 - 101.325) * 3005 / 3000
    slope = math.log(second / first) / 12
    error = math.hypot(0.7 / first, 0.7 / second) / 12
    for name, k in (("loss", 0.0), ("low", 1.645), ("high", -1.645)):
        expected = 100 * (1 - math.exp(24 * (slope + k * error)))
        assert result[f"{name}_percent_per_day"] == pytest.approx(expected, abs=0.002)
    assert (result["verdict"], result["trend"], result["decides_at_h"]) == (
        "holds",
        "unknown",
        None,
    )


def test_hold_takes_gauge_resolution_and_air(table, capsys):
    path = table(HOLD)
    losses = []
    for more in ([], ["--gauge-ml", "50"], ["--ambient-kpa", "84.56"]):
        assert main(["hold", path, "--volume-ml", "3000", "--json", *more]) == 0
        losses.append(json.loads(capsys.readouterr().out)["loss_percent_per_day"])
    assert losses[1] < losses[0] and losses[2] != losses[0]
    assert main(["hold", path, "--volume-ml", "3000", "--resolution-kpa", "7"]) == 0
    assert "settling" in capsys.readouterr().out


BAD = {
    "empty": ("", "empty"),
    "no rows": ("time_h,pressure_kpa,temperature_c\n", "no rows"),
    "one row": ("time_h,pressure_kpa,temperature_c\n0,200,20\n", "two readings or more"),
    "one moment": (
        "time_h,pressure_kpa,temperature_c\n1,200,20\n1,200,20\n",
        "two different times",
    ),
    "a column less": ("time_h,pressure_kpa\n0,200\n", "no column “temperature_c”"),
    "a word": (
        "time_h,pressure_kpa,temperature_c\n0,much,20\n",
        "line 2, column pressure_kpa: “much”",
    ),
    "nan": ("time_h,pressure_kpa,temperature_c\n0,nan,20\n", "line 2, column pressure_kpa: “nan”"),
    "too much": ("time_h,pressure_kpa,temperature_c\n0,99999,20\n", "use a number from 0 to 5000"),
    "a cell less": (
        "time_h,pressure_kpa,temperature_c\n0,200\n",
        "line 2, column temperature_c: “”",
    ),
    "backwards": (
        "time_h,pressure_kpa,temperature_c\n5,200,20\n4,200,20\n",
        "line 3, column time_h: 4 after 5",
    ),
    "flat": ("time_h,pressure_kpa,temperature_c\n0,200,20\n9,0,20\n", "the tire is empty"),
    "encoding": ("time_h,pressure_kpa,temperature_c\n0,2\xff".encode("latin-1"), "not UTF-8"),
    "binary": (b"\x00\x01\x02", "not text"),
}


@pytest.mark.parametrize("name", BAD)
def test_a_bad_table_exits_2_with_one_line(name, table, capsys):
    content, says = BAD[name]
    path = table(content)
    assert main(["hold", path, "--volume-ml", "3000"]) == 2
    out, err = capsys.readouterr()
    assert out == "" and err.count("\n") == 1 and err.startswith(path) and says in err


@pytest.mark.parametrize(
    "words",
    [
        ["hold", "x.csv"],
        ["hold", "x.csv", "--volume-ml", "0"],
        ["hold", "x.csv", "--volume-ml", "nan"],
        ["hold", "x.csv", "--volume-ml", "3000", "--resolution-kpa", "-1"],
        ["trace", "x.csv", "--limit-kpa", "much"],
        ["nonsense"],
    ],
)
def test_bad_words_exit_2_with_one_line(words, capsys):
    with pytest.raises(SystemExit) as left:
        main(words)
    assert left.value.code == 2 and capsys.readouterr().err.count("\n") == 1


def test_a_missing_file_and_a_folder_are_one_line_each(tmp_path, capsys):
    assert main(["trace", str(tmp_path / "none.csv")]) == 2
    assert main(["trace", str(tmp_path)]) == 2
    assert capsys.readouterr().err.count("\n") == 2


def test_semicolons_with_decimal_commas_are_read(table, capsys):
    text = "time_h;pressure_kpa;temperature_c\n0;200,0;20\n12;195,0;18\n"
    assert main(["hold", table(text), "--volume-ml", "3000", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["loss_percent_per_day"] == pytest.approx(
        2.62, abs=0.01
    )


@given(st.binary(max_size=400))
def test_no_bytes_get_past_without_a_sentence(data):
    bounds = {"time_s": (0.0, 1e9), "pressure_kpa": (-200.0, 1e4)}
    try:
        result = read_columns(data, bounds, "time_s", strictly=True)
    except InputError as fault:
        assert fault.sentence and "\n" not in fault.sentence.strip()
    else:
        assert len(result["time_s"]) == len(result["pressure_kpa"]) > 0


def test_hold_takes_the_gauge_s_step_and_says_what_it_assumed(tmp_path, capsys):
    file = tmp_path / "readings.csv"
    file.write_text("time_h,pressure_kpa,temperature_c\n0,300,20\n12,298,\n", encoding="utf-8")
    assert main(["hold", str(file), "--volume-ml", "3000"]) == 2  # the old rule needs a temperature
    assert "temperature_c" in capsys.readouterr().err
    assert (
        main(["hold", str(file), "--volume-ml", "3000", "--step-kpa", "1", "--new-tire", "--json"])
        == 0
    )
    result = json.loads(capsys.readouterr().out)
    assert result["verdict"] == "settling" and any(
        "no temperature" in said for said in result["assumed"]
    )
    assert any("new tire" in said for said in result["assumed"])
    assert main(["hold", str(file), "--volume-ml", "3000", "--step-kpa", "1"]) == 0
    assert "steps of 0.01 bar" in capsys.readouterr().out
