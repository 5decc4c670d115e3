import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.operations import JOB, FieldKey, UnacceptedText, apply
from inner_rim.core.record.units import METRIC, UnitChoice, entry_text, parse, show
from inner_rim.work.editing.draft import JobDraft, duplicate_wheel, empty_document, get, read, typed
from inner_rim.work.editing.fields import field, text_of, value_of
from inner_rim.work.editing.state import in_wheel
from tests.samples import stored

WIDTH, SIZE, LOW, HIGH = (
    "wheels[0].rim.internal_width_mm",
    "wheels[0].tire.size",
    "wheels[0].tire.min_pressure_kpa",
    "wheels[0].tire.max_pressure_kpa",
)


def edit(draft, path, text, units=METRIC):
    """The draft after a text stands in the field at a path of the document."""
    field_path = path.removeprefix("wheels[0].")
    target = draft.document["wheels"][0]["wheel_id"] if in_wheel(field_path) else JOB
    joined = apply(draft.document, draft.drafts, typed(draft, target, field_path, text, units))
    assert not joined.conflicts
    return JobDraft(joined.document, joined.drafts)


def type_letters(draft, path, text, units=METRIC):
    """Type letter by letter, as a hand does."""
    for end in range(1, len(text) + 1):
        draft = edit(draft, path, text[:end], units)
    return draft


def kept(draft, path):
    """What is typed at a path and not accepted, None where nothing is."""
    field_path = path.removeprefix("wheels[0].")
    result = draft.drafts.get(FieldKey("w1" if in_wheel(field_path) else JOB, field_path))
    return result and result.text


def test_a_wheel_grows_from_nothing_by_typing():
    draft = JobDraft(empty_document("Wheel 1"))
    assert len(read(draft, 0).missing) == 3
    draft = type_letters(draft, "wheels[0].rim.bead_seat_diameter_mm", "622")
    draft = type_letters(draft, WIDTH, "24,5")
    draft = type_letters(draft, SIZE, "700x45C")
    reading = read(draft, 0)
    assert reading.job is not None and not reading.problems
    assert get(draft.document, WIDTH) == 24.5


@pytest.mark.parametrize(
    ("path", "text", "value"),
    [
        (HIGH, "2,3", 230), (HIGH, "2.3", 230), (HIGH, "33 psi", 227.527), (HIGH, "2.3bar", 230),
        (HIGH, "230 kPa", 230), (WIDTH, "1 3/8 in", 34.925), (WIDTH, '1"', 25.4), (WIDTH, "2.4 cm", 24),
        ("shelf.tape_widths_mm", "27 21, 25", [21, 25, 27]), ("shelf.tape_widths_mm", "21,25", [21, 25]),
        ("shelf.tape_widths_mm", "21,5 25", [21.5, 25]), ("wheels[0].practice.layers", "2", 2),
        ("wheels[0].tire.new", "yes", True), ("ride.temperature_c", "-5", -5),
    ],
)  # fmt: skip
def test_fields_take_what_a_mechanic_types(path, text, value):
    draft = edit(JobDraft(stored(tire__min_pressure_kpa=None)), path, text)
    assert draft.drafts == {}
    assert get(draft.document, path) == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize(
    ("path", "text", "says"),
    [
        (WIDTH, "900", "10 mm to 120 mm"), (WIDTH, "wide", "type a number in mm"), (WIDTH, "", "needed"),
        (HIGH, "3 mm", "bar or psi or kPa"), (SIZE, "26 x 2", "50-559"), (LOW, "9", "max pressure of 340"),
        ("wheels[0].practice.layers", "1.5", "whole number"), ("due", "friday", "such as Thu 16:00"),
    ],
)  # fmt: skip
def test_what_is_not_accepted_stays_typed_and_the_last_value_counts(path, text, says):
    before = JobDraft(stored())
    after = edit(before, path, text)
    assert (
        len(after.drafts) == 1 and kept(after, path) == text and after.document == before.document
    )
    reading = read(after, 0)
    assert says in reading.problems[path] and reading.job is not None


def test_a_draft_is_accepted_once_the_other_field_is_corrected():
    draft = edit(JobDraft(stored()), LOW, "3.6")  # above the tire's 3.4
    assert draft.drafts
    draft = edit(draft, HIGH, "4")
    assert draft.drafts == {} and get(draft.document, LOW) == 360


def test_problems_speak_the_chosen_units():
    psi = UnitChoice(kpa="psi")
    draft = edit(JobDraft(stored()), HIGH, "500", psi)
    assert "psi" in read(draft, 0).problems[HIGH]


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
    for path in (
        WIDTH,
        SIZE,
        HIGH,
        "shelf.valve_lengths_mm",
        "practice.layers",
        "due",
        "wheels[0].name",
    ):
        draft = edit(JobDraft(stored()), path, text)
        assert read(draft, 0).job is not None


@pytest.mark.parametrize(
    "text",
    [
        "²",
        "9" * 400,
        "1_0",
        "1x" + " " * 30_000 + "y",
        "1 " * 9000,
        "cut \ud83d",
        "a\0b",
        "1e999",
        "٣",
    ],
)
def test_odd_text_is_one_sentence_at_once(text):
    for path in (
        WIDTH,
        SIZE,
        HIGH,
        "shelf.valve_lengths_mm",
        "practice.layers",
        "due",
        "rim.spokes",
        "rim.max_pressure_kpa",
    ):
        draft = edit(
            JobDraft(stored()),
            path if "wheels" in path or not in_wheel(path) else f"wheels[0].{path}",
            text,
        )
        (problem,) = read(draft, 0).problems.values()
        assert problem and len(problem) < 400


def test_a_draft_is_read_in_the_units_it_was_typed_in():
    # 359 kPa, above the tire's 340
    draft = edit(JobDraft(stored()), LOW, "52", UnitChoice(kpa="psi"))
    assert list(draft.drafts.values()) == [UnacceptedText("52", UnitChoice(kpa="psi"))]
    draft = edit(draft, HIGH, "4 bar", UnitChoice(kpa="kpa"))
    assert draft.drafts == {} and get(draft.document, LOW) == pytest.approx(358.5, abs=0.1)


@pytest.mark.parametrize(
    ("name", "twin"),
    [
        ("Waterfront, front", "Waterfront, rear"), ("Front wheel", "Rear wheel"), ("Frontier", "Frontier (2)"),
        ("Sandpiper", "Sandpiper (2)"), ("front of the front", "front of the rear"),
    ],
)  # fmt: skip
def test_a_twin_is_named_for_the_other_end(name, twin):
    draft = JobDraft(stored(name=name))
    added = duplicate_wheel(draft, "w1", {name}).wheel
    assert (
        added["name"] == twin
        and added["position"] == "rear"
        and added["wheel_id"] not in ("w1", None)
    )
