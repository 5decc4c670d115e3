import csv
import io

import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.parts import item_from
from inner_rim.core.record.texts import seen
from inner_rim.documents.parts_table import (
    TableFaults,
    columns,
    from_csv,
    from_json,
    to_csv,
    to_json,
)
from inner_rim.work.storage.demo import demo_shelf
from tests.samples import RISKY


def bare(items):
    return [(i.kind, i.spec, i.stock, i.low_at, i.retired) for i in items]


def test_the_demo_s_shelf_goes_out_and_comes_back():
    assert bare(from_csv(to_csv(demo_shelf()))) == bare(demo_shelf())
    assert bare(from_json(to_json(demo_shelf()))) == bare(demo_shelf())


@given(name=st.text(min_size=1, max_size=30).map(str.strip).filter(bool))
@example(name="0\x0c\xad")
def test_no_cell_is_a_formula_and_every_name_comes_back(name):
    # Cells that begin with = + - @ tab or return are run by spreadsheets: OWASP, CSV injection.
    assume(seen(name).strip())
    item = item_from("valve", {"name": name, "length_mm": 44})
    data = to_csv([item])
    rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"), newline="")))
    assert not any(cell.startswith(RISKY) for row in rows for cell in row)
    if "\r" not in name and "\n" not in name and "\x00" not in name and not name.startswith("'"):
        assert [i.name for i in from_csv(data)] == [item.name]


def table(*rows, delimiter=","):
    return "\r\n".join(delimiter.join(row) for row in rows).encode()


HEAD = ("kind", "name", "width_mm", "stock")


def test_stock_says_its_unit_in_the_column_and_the_old_one_is_still_read():
    """Tape in meters, as the shelf shows it; before, `stock` was in mm."""
    items = [
        item_from("tape", {"name": "Ebb", "width_mm": 27.0}, stock=3000.0, low_at=1500.0),
        item_from("sealant", {"name": "Eel"}, stock=620.0),
        item_from("valve", {"name": "Reed", "length_mm": 44.0}, stock=4.0),
    ]
    head, *rows = csv.reader(to_csv(items).decode("utf-8-sig").splitlines())
    cells = [dict(zip(head, row, strict=True)) for row in rows]
    assert (cells[0]["stock_m"], cells[0]["low_at_m"], cells[0]["stock_pieces"]) == ("3", "1.5", "")
    assert cells[1]["stock_ml"] == "620" and cells[2]["stock_pieces"] == "4" and "stock" not in head
    assert [item.stock for item in from_csv(to_csv(items))] == [3000.0, 620.0, 4.0]
    assert from_csv(b"kind,name,width_mm,stock\ntape,Ebb,27,3000\n")[0].stock == 3000.0
    with pytest.raises(TableFaults, match="a tape is counted in stock_m"):
        from_csv(b"kind,name,width_mm,stock_pieces\ntape,Ebb,27,3\n")
    with pytest.raises(InputError, match="Did you mean width_mm"):
        from_csv(b"kind,name,width\ntape,Ebb,27\n")


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_the_usual_delimiters_are_understood_and_a_decimal_comma_with_them(delimiter):
    width = "27.5" if delimiter == "," else "27,5"
    (item,) = from_csv(table(HEAD, ("tape", "Ebb", width, "3"), delimiter=delimiter))
    assert (item.spec["width_mm"], item.stock) == (27.5, 3)


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ((HEAD, ("tape", "Ebb", "wide", "1")), "line 2, column width_mm: “wide” is not a number"),
        ((HEAD, ("tape", "Ebb", "27", "-1")), "line 2, column stock: -1.0: use a number from 0"),
        ((HEAD, ("tape", "Ebb", "nan", "1")), "line 2, column width_mm: “nan” is not a number"),
        ((HEAD, ("tap", "Ebb", "27", "1")), "line 2, column kind: “tap”"),
        ((HEAD, ("tape", "", "27", "1")), "line 2, column name: missing"),
        (
            (HEAD, ("tape", "Ebb", "27", "1"), ("tape", "Ebb", "29", "1")),
            "line 3, column name: “Ebb” is already in line 2",
        ),
        (
            (HEAD, ("valve", "Reed", "27", "1")),
            "line 2, column width_mm: “27”; a valve has no such figure",
        ),
        ((HEAD, ("tape", "Ebb", "27", "1", "9")), "line 2, column stock: 5 cells under 4 columns"),
        ((("kind", "name", "color"),), "line 1: unknown column “color”"),
        ((("art", "name"),), "line 1: the columns “kind” and “name” are missing"),
    ],
)
def test_a_bad_row_is_named_by_line_and_column(rows, says):
    with pytest.raises(InputError) as fault:
        from_csv(table(*rows))
    assert says in str(fault.value)


def test_many_bad_rows_are_counted_and_nothing_is_taken():
    rows = [("tape", f"T {i}", "x", "1") for i in range(100)]
    with pytest.raises(TableFaults) as fault:
        from_csv(table(HEAD, *rows))
    assert len(fault.value.faults) == 20 and "and 98 more" in fault.value.sentence


@pytest.mark.parametrize(
    "data", [b"", b"\xff\xfe\x00", "kind,name\ntape,ü".encode("latin-1"), b'kind,name\n"tape']
)
def test_what_is_no_table_is_refused_in_a_sentence(data):
    with pytest.raises(InputError):
        from_csv(data)


@pytest.mark.parametrize("data", [b"", b"{}", b"[1]", b"[" * 5000, b'[{"kind": "tape"}]'])
def test_what_is_no_list_of_parts_is_refused_in_a_sentence(data):
    with pytest.raises(InputError):
        from_json(data)


def test_every_figure_of_every_kind_has_a_column():
    assert {"well.depth_mm", "size", "length_mm", "bottle_ml", "ported"} <= set(columns())
