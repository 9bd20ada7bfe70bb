"""A sheet that goes out and comes back: what it says, and what in it says nothing that is known."""

from __future__ import annotations

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.formats.decisions import COLUMNS, Line, Wrong, read, write
from kettlesort.core.tables import NotATable

REASONS = [(31, "Not honeybees"), (32, "=No comparison"), (33, "Not a primary study")]
ROW = (7, "=HYPERLINK(1)", "Orsel, T", 1999, "Hive Letters", "10.5555/x", "About hives", "exclude", "=No comparison", "@see me")


def test_what_goes_out_comes_back_as_it_was_and_no_cell_is_a_formula() -> None:
    out = io.BytesIO()
    write([ROW, (8, "", "", "", "", "", "", "", "", "")], [name for _, name in REASONS], out)
    assert read(io.BytesIO(out.getvalue()), REASONS).lines == [Line(2, 7, "exclude", 32, "@see me"), Line(3, 8, "", None, "")]


@pytest.mark.parametrize("form", ["{}", "\ufeff{}", "\n{}"])
@pytest.mark.parametrize("sign", [",", ";", "\t"])
def test_words_of_many_people_are_understood(form: str, sign: str) -> None:
    rows = [
        ["Note", "decision", "RECORD", "reason", "extra"], ["", "Included", "1", "", ""], ["late", "NO", "2", "not  HONEYBEES", "x"], ["", "maybe", "3", "", ""], ["", "out", "4", "3", ""],
        ["", "", "5", "Not honeybees", ""], ["", "exclude", "6", "", ""], ["", "exclude", "7", "Too old", ""], ["", "perhaps", "8", "", ""], ["", "yes", "nine", "", ""],
        ["", "yes", "2", "", ""], ["", "yes", "", "", ""],
    ]  # fmt: skip
    it = read(io.BytesIO(form.format("\n".join(sign.join(row) for row in rows)).encode()), REASONS)
    assert [(one.record, one.decision, one.reason, one.note) for one in it.lines] == [
        (1, "include", None, ""), (2, "exclude", 31, "late"), (3, "unsure", None, ""), (4, "exclude", 33, ""), (5, "", None, ""),
    ]  # fmt: skip
    assert [one.message.split("”")[0].strip("“") for one in it.wrong] == [
        "an exclusion needs its reason: the criterion that failed", "Too old", "perhaps", "nine", "record 2 stands in row 4 already" if form.startswith("\n") else "record 2 stands in row 3 already", "the record’s number is missing",
    ]  # fmt: skip
    assert it.with_notes


@pytest.mark.parametrize("data", [b"", b"Title,Year\nx,1\n", b"PK\x03\x04 broken", b"\x00\xff\x00"])
def test_what_is_no_such_sheet_is_refused(data: bytes) -> None:
    with pytest.raises((NotATable, ValueError, OSError)):
        read(io.BytesIO(data), REASONS)


@given(st.lists(st.tuples(st.integers(0, 50), st.sampled_from(["", "include", "exclude", "?", "x"]), st.text(max_size=8)), max_size=12))
def test_every_row_is_a_line_or_is_told(rows: list[tuple[int, str, str]]) -> None:
    out = io.BytesIO()
    write([(n, "T", "", "", "", "", "", said, why, "") for n, said, why in rows], [name for _, name in REASONS], out)
    it = read(io.BytesIO(out.getvalue()), REASONS)
    assert len(it.lines) + len(it.wrong) == len(rows)
    assert all(isinstance(one, Wrong) and one.message for one in it.wrong)
    assert len(COLUMNS) == 10
