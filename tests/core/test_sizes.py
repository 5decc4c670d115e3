import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.errors import InputError, SizeAmbiguous
from inner_rim.core.sizes import parse_size

# Names and diameters: ISO 5775-1 and the national names, from memory; ambiguous pairs from the handbook.
SETTLED = {
    "45-622": (45, 622),
    " 37 - 590 ": (37, 590),
    "54/559": (54, 559),
    "700x45C": (45, 622),
    "700 X 45 c": (45, 622),
    "700Cx28": (28, 622),
    "650x47B": (47, 584),
    "29x2.25": (57, 622),
    "27.5 x 2.4": (61, 584),
    "27,5 x 2,4": (61, 584),
    "20x2.15": (55, 406),
    "26x4.0": (102, 559),
    "26 x 2.1": (53, 559),
    "26 x 1 3/8": (37, 590),
    '26" × 1-3/8"': (37, 590),
    "20 x 1 1/8": (28, 451),
    "20x2.0": (51, 406),
    "28 x 1 1/2": (40, 635),
    "28 x 1 5/8 x 1 3/8": (37, 622),
    "27 x 1 1/4": (32, 630),
    "12 1/2 x 2 1/4": (57, 203),
    "24 x 1 3/8": (37, 540),
}


@pytest.mark.parametrize("text", SETTLED)
def test_settled_names(text):
    size = parse_size(text)
    assert (round(size.width_mm), size.bead_seat_diameter_mm) == SETTLED[text]


@pytest.mark.parametrize(
    ("text", "first", "among"),
    [
        ("700x45", "45-622", "45-635"),
        ("650x47", "47-584", "47-571"),
        ("26 x 2", "50-559", "50-571"),
        ("16 x 1 3/8", "37-349", "37-335"),
        ("28 x 1 3/8", "37-622", "37-642"),
    ],
)
def test_a_name_that_does_not_settle_the_diameter_is_asked_about(text, first, among):
    with pytest.raises(SizeAmbiguous) as fault:
        parse_size(text)
    assert first in fault.value.candidates and among in fault.value.candidates
    assert all(parse_size(choice).iso == choice for choice in fault.value.candidates)


@pytest.mark.parametrize(
    "text", ["", "x", "45", "622", "45-62", "700x", "26 x 1 3/0", "5-622", "45-999", "700xC", "26 x 9 9/9"]
)
def test_what_is_no_size_says_what_is(text):
    with pytest.raises(InputError) as fault:
        parse_size(text)
    assert "45" in fault.value.sentence or "15 to 150" in fault.value.sentence


@given(st.text(alphabet='0123456789x- /.,abcd"', max_size=14))
def test_any_text_is_a_size_in_range_or_one_sentence(text):
    try:
        size = parse_size(text)
    except InputError as fault:
        assert fault.sentence and "\n" not in fault.sentence
    else:
        assert 15 <= size.width_mm <= 150 and 150 <= size.bead_seat_diameter_mm <= 900
        assert parse_size(size.iso) == parse_size(size.iso)
