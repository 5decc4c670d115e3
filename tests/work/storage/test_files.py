from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError
from inner_rim.documents.csv_text import bare_cell, csv_text, safe_cell
from inner_rim.work.storage.files import read_whole, write_whole
from tests.samples import RISKY


def test_a_file_is_there_whole_or_as_it_was(tmp_path, monkeypatch):
    path = tmp_path / "shelf.csv"
    write_whole(path, b"first")

    def fails(self, target):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("pathlib.Path.replace", fails)
    with pytest.raises(InputError, match="No space left"):
        write_whole(path, b"second")
    assert path.read_bytes() == b"first" and list(tmp_path.iterdir()) == [path]


def test_a_link_is_replaced_not_followed_and_a_user_s_own_file_is_not_touched(tmp_path):
    (tmp_path / "secret").write_bytes(b"mine")
    (tmp_path / "out.csv").symlink_to(tmp_path / "secret")
    (tmp_path / "out.csv.partial").write_bytes(b"also mine")
    write_whole(tmp_path / "out.csv", b"new")
    assert (tmp_path / "secret").read_bytes() == b"mine" and not (tmp_path / "out.csv").is_symlink()
    assert (tmp_path / "out.csv").read_bytes() == b"new" and (
        tmp_path / "out.csv.partial"
    ).read_bytes() == b"also mine"
    write_whole(tmp_path / ("n" * 255), b"long")
    for bad in ("n" * 300, "a\0b", "none/x"):
        with pytest.raises(InputError, match="cannot be written"):
            write_whole(tmp_path / bad, b"x")
    assert len(list(tmp_path.iterdir())) == 4


def test_what_cannot_be_read_is_a_sentence(tmp_path):
    with pytest.raises(InputError, match="cannot be read"):
        read_whole(tmp_path / "none.csv", 100)
    with pytest.raises(InputError, match="cannot be read"):
        read_whole(tmp_path, 100)
    for endless in ("/dev/zero", "/dev/urandom"):
        with pytest.raises(InputError, match="at most 1000"):
            read_whole(Path(endless), 1000)


@given(st.text(max_size=40))
def test_no_cell_is_run_and_every_cell_comes_back(text):
    assert not safe_cell(text).startswith(RISKY)
    if not text.startswith("'"):
        assert bare_cell(safe_cell(text)) == text


@pytest.mark.parametrize(
    ("first", "sign"), [("a,b", ","), ("a;b;c,d", ";"), ("a\tb", "\t"), ("a", ",")]
)
def test_the_sign_that_divides_is_the_first_line_s(first, sign):
    assert csv_text(f"{first}\n1;2,3".encode(), 100)[1] == sign
    with pytest.raises(InputError, match="at most 3"):
        csv_text(b"a,b,c", 3)
