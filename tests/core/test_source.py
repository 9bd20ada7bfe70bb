"""Bytes to text: whatever the encoding and wherever the pieces end, no letter lost and every bad byte told with its line."""

from __future__ import annotations

import io
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.formats import source
from kettlesort.core.formats.source import Problem, TextSource, encoding_of

LETTERS = st.text(st.characters(codec="utf-8", exclude_characters="\r\ufeff"), max_size=60)


def in_pieces(data: bytes, size: int, utf8: bool = False) -> tuple[str, list[Problem]]:
    """The text of ``data``, read in pieces of ``size`` bytes, as text or as UTF-8."""
    file = TextSource(io.BytesIO(data))
    file._head, held, source.CHUNK = data[:size], source.CHUNK, size
    file._file.seek(size)
    try:
        text = b"".join(file.utf8()).decode() if utf8 else file.read()
    finally:
        source.CHUNK = held
    assert file.bytes_read == len(data)
    return text, file.problems


@given(LETTERS, st.integers(1, 9), st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]), st.sampled_from(["\n", "\r\n", "\r"]), st.booleans())
def test_text_comes_whole_in_pieces_of_any_size(text: str, size: int, codec: str, end: str, utf8: bool) -> None:
    marked = "é" + text  # a letter that no other encoding would take for its own
    data = marked.replace("\n", end).encode(codec)
    read, problems = in_pieces(data, size, utf8)
    assert read == re.sub("[\x00-\x08\x0e-\x1f\x7f]", "", re.sub("[\x0b\x0c]", " ", marked))
    lines = {n for n, line in enumerate(marked.split("\n"), 1) if re.search("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]", line)}
    assert {problem.line for problem in problems} == lines


def test_a_stray_nul_in_a_few_letters_is_none_of_utf_16() -> None:
    assert in_pieces("é\x00a".encode(), 4)[0] == "éa"
    assert in_pieces("Ähren und Körner".encode("utf-16-be"), 4)[0] == "Ähren und Körner"


@given(
    st.lists(st.sampled_from(["plain", "caf\xe9", "two \xe9 \xe8", ""]), min_size=1, max_size=12),
    st.integers(1, 9),
    st.sampled_from(["\n", "\r\n", "\r"]),
)
def test_bad_bytes_are_told_with_their_line_in_pieces_of_any_size(lines: list[str], size: int, end: str) -> None:
    data = ("日本語日本語日本語日本語日本語日本語日本語日本語日本語日本語日本語" + end).encode() + end.join(lines).encode("latin-1")
    text, problems = in_pieces(data, size)
    assert text.split("\n")[1:] == lines
    assert [problem.line for problem in problems] == [
        n for n, line in enumerate(lines, 2) for _ in range(line.count("\xe9") + line.count("\xe8"))
    ]
    assert all("is not UTF-8; read as Windows-1252" in problem.message for problem in problems)


def test_a_thousand_problems_are_enough() -> None:
    data = "日本語".encode() * 2000 + b"\xe9 " * 5000
    _, problems = in_pieces(data, 1 << 16)
    assert len(problems) == 1000


@pytest.mark.parametrize(
    ("data", "label", "sure"),
    [
        (b"plain letters", "UTF-8", True),
        ("naïve".encode(), "UTF-8", True),
        ("\ufeffnaïve".encode(), "UTF-8 with mark", True),
        ("naïve".encode("utf-16"), "UTF-16", True),
        ("TY  - JOUR\nTI  - A title\n".encode("utf-16-le"), "UTF-16", True),
        ("TY  - JOUR\nTI  - A title\n".encode("utf-16-be"), "UTF-16", True),
        ("naïve – “quoted”".encode("cp1252"), "Windows-1252", True),
        ("naïve".encode("latin-1"), "Windows-1252", False),
        (b"", "UTF-8", True),
    ],
)
def test_the_encoding_is_judged_by_content_and_says_how_sure_it_is(data: bytes, label: str, sure: bool) -> None:
    found = encoding_of(data)
    assert (found.label, found.sure) == (label, sure)


def test_a_sample_is_looked_at_without_being_used_up() -> None:
    file = TextSource(io.BytesIO(b"a\r\nb\rc"))
    assert file.sample == "a\nb\nc"
    assert file.read() == "a\nb\nc"
    assert file.sample == ""
