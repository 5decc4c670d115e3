import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.units import METRIC, UnitChoice, entry_text, parse, show
from inner_rim.work.fields import field, text_of, value_of
from inner_rim.work.sheet import Sheet, edit, empty_sheet, get, merged, read
from tests.samples import ordinary

WIDTH, SIZE, LOW, HIGH = (
    "wheels[0].rim.internal_width_mm",
    "wheels[0].tire.size",
    "wheels[0].tire.min_pressure_kpa",
    "wheels[0].tire.max_pressure_kpa",
)


def typed(sheet, path, text, units=METRIC):
    """Type letter by letter, as a hand does."""
    for end in range(1, len(text) + 1):
        sheet = edit(sheet, path, text[:end], units)
    return sheet


def test_a_wheel_grows_from_nothing_by_typing():
    sheet = empty_sheet("Wheel 1")
    assert len(read(sheet, 0).missing) == 3
    sheet = typed(sheet, "wheels[0].rim.bead_seat_diameter_mm", "622")
    sheet = typed(sheet, WIDTH, "24,5")
    sheet = typed(sheet, SIZE, "700x45C")
    reading = read(sheet, 0)
    assert reading.job is not None and not reading.problems
    assert get(sheet.document, WIDTH) == 24.5


@pytest.mark.parametrize(
    ("path", "text", "value"),
    [
        (HIGH, "2,3", 230), (HIGH, "2.3", 230), (HIGH, "33 psi", 227.527), (HIGH, "2.3bar", 230),
        (HIGH, "230 kPa", 230), (WIDTH, "1 3/8 in", 34.925), (WIDTH, '1"', 25.4), (WIDTH, "2.4 cm", 24),
        ("shelf.tape_widths_mm", "27 21, 25", [21, 25, 27]), ("shelf.tape_widths_mm", "21,25", [21, 25]),
        ("shelf.tape_widths_mm", "21,5 25", [21.5, 25]), ("practice.layers", "2", 2),
        ("wheels[0].tire.new", "yes", True), ("ride.temperature_c", "-5", -5),
    ],
)  # fmt: skip
def test_fields_take_what_a_mechanic_types(path, text, value):
    sheet = edit(Sheet(ordinary(tire__min_pressure_kpa=None)), path, text)
    assert sheet.drafts == {}
    assert get(sheet.document, path) == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize(
    ("path", "text", "says"),
    [
        (WIDTH, "900", "10 mm to 120 mm"), (WIDTH, "wide", "type a number in mm"), (WIDTH, "", "needed"),
        (HIGH, "3 mm", "bar or psi or kPa"), (SIZE, "26 x 2", "50-559"), (LOW, "9", "maximum of 340"),
        ("practice.layers", "1.5", "whole number"), ("due", "friday", "ISO 8601"),
    ],
)  # fmt: skip
def test_what_is_not_accepted_stays_typed_and_the_last_value_counts(path, text, says):
    before = Sheet(ordinary())
    after = edit(before, path, text)
    assert after.drafts == {path: text} and after.document == before.document
    reading = read(after, 0)
    assert says in reading.problems[path] and reading.job is not None


def test_a_draft_is_taken_once_the_other_field_is_mended():
    sheet = edit(Sheet(ordinary()), LOW, "3.6")  # above the tire's 3.4
    assert sheet.drafts
    sheet = edit(sheet, HIGH, "4")
    assert sheet.drafts == {} and get(sheet.document, LOW) == 360


def test_problems_speak_the_chosen_units():
    psi = UnitChoice(kpa="psi")
    sheet = edit(Sheet(ordinary()), HIGH, "500", psi)
    assert "psi" in read(sheet, 0, psi).problems[HIGH]


@given(st.floats(1, 2000), st.sampled_from(["bar", "psi", "kpa"]))
def test_a_shown_pressure_reads_back_as_itself(kpa, name):
    units = UnitChoice(kpa=name)
    assert parse(show(kpa, "kpa", units), "kpa", units) == pytest.approx(kpa, abs=1.0)
    assert parse(entry_text(kpa, "kpa", units), "kpa", units) == pytest.approx(kpa, abs=1.0)
    spec = field(HIGH)
    text = text_of(spec, kpa, units)
    assert value_of(spec, text, units) == pytest.approx(kpa, abs=1.0)


@given(st.text(max_size=20))
def test_no_text_breaks_a_field(text):
    for path in (WIDTH, SIZE, HIGH, "shelf.valve_lengths_mm", "practice.layers", "due", "wheels[0].name"):
        sheet = edit(Sheet(ordinary()), path, text)
        assert read(sheet, 0).job is not None


def test_two_windows_are_joined_field_by_field():
    base = Sheet(ordinary())
    mine = edit(edit(base, HIGH, "3"), WIDTH, "25")
    theirs = edit(edit(base, WIDTH, "26"), "ride.total_mass_kg", "80")
    joined, aside = merged(base, mine, theirs)
    assert get(joined.document, HIGH) == 300 and get(joined.document, "ride.total_mass_kg") == 80
    assert get(joined.document, WIDTH) == 26 and joined.drafts[WIDTH] == "25.0" and aside == (WIDTH,)
