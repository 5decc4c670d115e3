"""Tire sizes as they stand on side walls: what is accepted, asked about and refused.

Diameters and names: ISO 5775-1 and the older national names, from memory; the ambiguous ones from the handbook.
"""

import csv
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError, SizeAmbiguous
from inner_rim.core.record.sizes import parse_size

ROWS = list(
    csv.reader(
        (Path(__file__).parents[2] / "data" / "sizes.csv").read_text(encoding="utf-8").splitlines(),
        delimiter=";",
    )
)


def test_there_are_enough_names():
    assert len(ROWS) >= 150 and len({name for name, _answer in ROWS}) == len(ROWS)


@pytest.mark.parametrize(("name", "answer"), [tuple(row) for row in ROWS])
def test_every_name_has_the_expected_answer(name, answer):
    """An ISO size is accepted; several, divided by a slash, are asked about, the first offered first; - is refused."""
    if answer == "-":
        with pytest.raises(InputError) as fault:
            parse_size(name)
        assert not isinstance(fault.value, SizeAmbiguous) and "\n" not in fault.value.sentence
    elif "/" in answer:
        with pytest.raises(SizeAmbiguous) as asked:
            parse_size(name)
        candidates = [name for name in answer.split("/") if name]  # one alone ends in a slash
        assert set(asked.value.candidates) == set(candidates)
        assert asked.value.candidates[0] == candidates[0]
        assert all(parse_size(choice).iso == choice for choice in asked.value.candidates)
    else:
        assert parse_size(name).iso == answer


def test_a_missing_letter_is_said_and_a_slip_names_its_neighbors():
    assert "622" in parse_size("700x45").assumed and parse_size("700x45C").assumed == ""
    with pytest.raises(InputError, match="622 and 630"):
        parse_size("45-621")
    with pytest.raises(InputError, match="686"):
        parse_size("28-700")


@given(st.text(alphabet='0123456789x- /.,abcd"()⅜–', max_size=14))
def test_any_text_is_a_size_in_range_or_one_sentence(text):
    try:
        size = parse_size(text)
    except InputError as fault:
        assert fault.sentence and "\n" not in fault.sentence
    else:
        assert 15 <= size.width_mm <= 150 and 150 <= size.bead_seat_diameter_mm <= 900
        assert parse_size(size.iso).bead_seat_diameter_mm == size.bead_seat_diameter_mm


@pytest.mark.parametrize(
    "text", ["1" + " /" * 50_000, "(" * 50_000, "29" * 50_000, "," + " " * 50_000 + "x"]
)
def test_a_text_that_is_too_long_for_a_size_is_refused_at_once(text):
    """Some of the patterns take quadratic time: 40,000 letters took 22 s."""
    with pytest.raises(InputError, match="not a known tire size"):
        parse_size(text)
