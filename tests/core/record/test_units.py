import math

import pytest
import scipy.constants
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.units import (
    METRIC,
    ROLL,
    UNITS,
    UnitChoice,
    entry_text,
    kind_of,
    parse,
    show,
)
from inner_rim.core.record.why import Message, label, value_text

IMPERIAL = UnitChoice("psi", "in", "floz")


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("2,3", "kpa", 230), ("2.3", "kpa", 230), ("  2.3  bar ", "kpa", 230), ("33psi", "kpa", 227.526981),
        ("33 PSI", "kpa", 227.526981), ("230 kPa", "kpa", 230), (".5", "kpa", 50), ("1 3/8 in", "mm", 34.925),
        ("3/4 in.", "mm", 19.05), ("−5", "c", -5), ("-5 °C", "c", -5), ("41 f", "c", 5), ("2 fl oz", "ml", 59.14706),
        ("60ml", "ml", 60), ("200 lb", "kg", 90.718474), ("1000 ft", "m", 304.8), ("24", "mm", 24), ("2.4cm", "mm", 24),
    ],
)  # fmt: skip
def test_typed_quantities(text, kind, value):
    assert parse(text, kind) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(
    "text",
    ["", "bar", "2..3", "2 3", "3/0", "1e999", "nan", "inf", "2.3 mm", "two", "1/2/3", "2,3,4"],
)
def test_what_is_no_pressure_names_the_units_it_takes(text):
    with pytest.raises(InputError, match="bar or psi or kPa"):
        parse(text, "kpa")


@pytest.mark.parametrize(
    ("unit", "kind", "reference"),
    [
        ("psi", "kpa", scipy.constants.psi / 1000), ("bar", "kpa", scipy.constants.bar / 1000),
        ("in", "mm", scipy.constants.inch * 1000), ("floz", "ml", scipy.constants.fluid_ounce * 1e6),
        ("lb", "kg", scipy.constants.pound), ("ft", "m", scipy.constants.foot),
    ],
)  # fmt: skip
def test_factors_against_scipy_constants(unit, kind, reference):
    assert UNITS[kind][unit].factor == pytest.approx(reference, rel=1e-6)


@given(st.floats(-40, 55))
def test_fahrenheit_against_scipy(celsius):
    reference = scipy.constants.convert_temperature(celsius, "Celsius", "Fahrenheit")
    shown = float(show(celsius, "c", IMPERIAL, symbol=False))
    assert shown == pytest.approx(reference, abs=0.51)


@given(st.sampled_from(sorted(UNITS)), st.floats(0.5, 5000), st.sampled_from([METRIC, IMPERIAL]))
def test_what_a_field_shows_reads_back(kind, value, choice):
    again = parse(entry_text(value, kind, choice), kind, choice)
    unit = choice.unit(kind)
    assert again == pytest.approx(value, abs=0.51 * unit.factor * 10 ** -max(unit.decimals, 2))


@given(st.text(max_size=30), st.sampled_from(sorted(UNITS)))
def test_any_text_is_a_finite_number_or_one_sentence(text, kind):
    try:
        assert math.isfinite(parse(text, kind))
    except InputError as fault:
        assert fault.sentence and "\n" not in fault.sentence.replace(text.strip()[:40], "")


@pytest.mark.parametrize(
    ("typed", "choice", "expected_mm"),
    [("9", METRIC, 9000.0), ("1,8 m", METRIC, 1800.0), ("240 mm", METRIC, 240.0), ("24 cm", METRIC, 240.0),
     ("10", IMPERIAL, 254.0), ("10 in", METRIC, 254.0), ("2 m", IMPERIAL, 2000.0)],
)  # fmt: skip
def test_a_length_from_a_roll_is_written_in_meters_and_kept_in_mm(typed, choice, expected_mm):
    assert parse(typed, ROLL, choice) == pytest.approx(expected_mm)


def test_kinds_and_labels_come_from_names():
    assert [kind_of(n) for n in ("width_mm", "limit_kpa", "dose_ml", "width_ratio", "mm")] == [
        "mm",
        "kpa",
        "ml",
        None,
        None,
    ]
    assert label("printed_on_the_rim_kpa") == "printed on the rim"
    assert value_text("cut_mm", 2176.338) == "2176 mm" and value_text("cut_mm", 27.04) == "27 mm"
    assert value_text("limit_kpa", 340, IMPERIAL) == "49.3 psi"


def test_a_sentence_follows_the_units_of_its_reader():
    text = "No pressure is right: the tire needs at least {minimum_kpa}, the limit is {limit_kpa}."
    saying = Message(text, {"minimum_kpa": 400.0, "limit_kpa": 300.0})
    assert (
        saying.read()
        == "No pressure is right: the tire needs at least 4.00 bar, the limit is 3.00 bar."
    )
    assert (
        saying.read(IMPERIAL)
        == "No pressure is right: the tire needs at least 58.0 psi, the limit is 43.5 psi."
    )
