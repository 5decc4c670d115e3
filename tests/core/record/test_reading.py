import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Job, parse_due
from inner_rim.core.record.reading import (
    accepted,
    job_from_bytes,
    job_from_plain,
    plain_from_bytes,
    type_at,
)
from tests.samples import any_job, ordinary

JSON = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8),
    lambda inner: (
        st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4)
    ),
    max_leaves=20,
)


@given(JSON)
def test_any_json_is_a_job_or_one_sentence(plain):
    try:
        assert isinstance(job_from_plain(plain), Job)
    except InputError as fault:
        assert fault.sentence and "\n" not in str(fault)


@given(st.binary(max_size=200))
def test_any_bytes_are_a_job_or_one_sentence(data):
    with pytest.raises(InputError) as fault:
        job_from_bytes(data)
    assert "\n" not in str(fault.value)


@given(any_job(), st.data())
def test_one_wrong_value_anywhere_is_named_by_its_path(document, data):
    try:
        job_from_plain(document)
    except InputError:
        return
    numbers = [
        ("wheels", 0, "rim", "internal_width_mm"),
        ("wheels", 0, "rim", "bead_seat_diameter_mm"),
        ("wheels", 0, "tire", "size"),
    ]
    *way, last = data.draw(st.sampled_from(numbers))
    node = document
    for key in way:
        node = node[key]
    node[last] = data.draw(st.sampled_from([-1e9, 1e9, [], {}, None, True, float("inf")]))
    with pytest.raises(InputError) as fault:
        job_from_plain(document)
    assert fault.value.path == f"wheels[0].{way[-1]}.{last}"


def test_a_byte_order_mark_and_whole_numbers_are_taken():
    assert (
        job_from_bytes(b"\xef\xbb\xbf" + json.dumps(ordinary()).encode())
        .wheels[0]
        .rim.internal_width_mm
        == 24.0
    )
    assert plain_from_bytes(b"[1]") == [1]


def every_path(node=None, path=""):
    from msgspec import inspect

    from inner_rim.core.record.reading import plain_type

    node = plain_type(node if node is not None else inspect.type_info(Job))
    if isinstance(node, inspect.StructType):
        for item in node.fields:
            yield from every_path(item.type, f"{path}.{item.encode_name}".lstrip("."))
    elif isinstance(node, inspect.ListType) and path == "wheels":
        yield from every_path(node.item_type, "wheels[0]")
    else:
        yield path


@pytest.mark.parametrize("path", list(every_path()))
def test_every_field_says_what_it_accepts(path):
    assert type_at(path) is not None
    assert len(accepted(path)) > 8 or path == "version"


def test_a_path_that_is_none_has_no_type():
    assert (
        type_at("wheels[0].rim.color") is None
        and type_at("title.x") is None
        and accepted("nothing") == ""
    )


@pytest.mark.parametrize(
    ("text", "iso"),
    [
        ("2026-11-26", "2026-11-26T00:00:00"),
        ("2026-11-26T16:00", "2026-11-26T16:00:00"),
        ("soon", None),
        ("26.11.", None),
    ],
)
def test_due_dates(text, iso):
    result = parse_due(text)
    assert (result.isoformat() if result else None) == iso


def test_a_job_written_again_reads_as_itself():
    import msgspec

    job = job_from_plain(
        ordinary(
            insert__height_mm=20,
            rim__well={"depth_mm": 4, "floor_mm": 8, "left_shoulder_mm": 5, "right_shoulder_mm": 4},
        )
    )
    written = msgspec.json.encode(job)
    assert job_from_bytes(written) == job


def test_one_rule_for_text_wherever_a_document_is_read(tmp_path, capsys):
    """NUL and half characters are refused at reading, by plan as by the store; what else could steer a terminal is not printed."""
    from inner_rim.cli import main

    file = tmp_path / "job.json"
    for bad in ("a\0b", "a\ud83db"):
        with pytest.raises(InputError) as fault:
            job_from_plain(ordinary(rim__name=bad))
        assert fault.value.path == "wheels[0].rim.name"
    file.write_text(json.dumps(ordinary(rim__name="a\0b")), encoding="utf-8")
    assert main(["plan", str(file)]) == 2
    said = capsys.readouterr()
    assert said.out == "" and "wheels[0].rim.name" in said.err and "\0" not in said.err
    file.write_text(json.dumps(ordinary(name="Tern \x1b[2J rear")), encoding="utf-8")
    assert main(["plan", str(file)]) in (0, 1)
    assert "\x1b" not in capsys.readouterr().out
