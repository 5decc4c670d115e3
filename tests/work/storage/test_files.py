import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.errors import InputError
from inner_rim.documents.csv_text import RISKY, bare_cell, csv_text, safe_cell
from inner_rim.work.storage.files import read_whole, write_whole


def test_a_file_is_there_whole_or_as_it_was(tmp_path, monkeypatch):
    path = tmp_path / "shelf.csv"
    write_whole(path, b"first")

    def fails(self, target):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("pathlib.Path.replace", fails)
    with pytest.raises(InputError, match="No space left"):
        write_whole(path, b"second")
    assert path.read_bytes() == b"first" and list(tmp_path.iterdir()) == [path]


def test_what_cannot_be_read_is_a_sentence(tmp_path):
    with pytest.raises(InputError, match="cannot be read"):
        read_whole(tmp_path / "none.csv")
    with pytest.raises(InputError, match="cannot be read"):
        read_whole(tmp_path)


@given(st.text(max_size=40))
def test_no_cell_is_run_and_every_cell_comes_back(text):
    assert not safe_cell(text).startswith(RISKY)
    if not text.startswith("'"):
        assert bare_cell(safe_cell(text)) == text


@pytest.mark.parametrize(("first", "sign"), [("a,b", ","), ("a;b;c,d", ";"), ("a\tb", "\t"), ("a", ",")])
def test_the_sign_that_divides_is_the_first_line_s(first, sign):
    assert csv_text(f"{first}\n1;2,3".encode(), 100)[1] == sign
    with pytest.raises(InputError, match="at most 3"):
        csv_text(b"a,b,c", 3)
