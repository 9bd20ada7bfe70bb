"""What is told at a glance is what a closer look would say."""

from __future__ import annotations

import io
import re

from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.formats.source import TextSource
from kettlesort.core.record import plain
from kettlesort.core.text.clean import kept
from kettlesort.core.text.glance import plain_doi, plain_lines, plain_names, plain_text, year_at_first

_CONTROL = re.compile(rb"[\x00-\x08\x0b-\x1f\x7f]")
_NEVER = re.compile(r"""[;|&"@#/*0-9\x00-\x1f]| and |  | $| ,|,(?! )""")
_names = st.text(st.sampled_from("anD d,;é\u0301王7\t") | st.characters(exclude_categories=["Cs"]), max_size=12)


@given(st.binary(max_size=60).flatmap(lambda some: st.integers(0, 40).map(lambda n: b"a line\n" * n + some)))
def test_lines_without_control_characters(data: bytes) -> None:
    assert plain_lines(data) == (not _CONTROL.search(data))


@given(st.text(st.sampled_from("aé王 \u00a0\u2003\t\n<&\x85\x1f\x7f\ud800;") | st.characters(), max_size=8))
def test_a_text_of_which_nothing_is_taken(text: str) -> None:
    untouched = not re.search("[<&]", text) and kept(" ".join(text.split())) == text
    assert plain_text(text) == untouched
    assert not untouched or plain(text) == text


@given(st.lists(_names | st.just("Orsel, Wilma and B") | st.just("Orsel, Wilma"), max_size=4))
def test_names_of_one_person_each(names: list[str]) -> None:
    assert plain_names(names) == all(name.count(",") == 1 and not _NEVER.search(name) and not name.endswith(",") for name in names)


@given(st.from_regex(r"[12０]?[5-9０]?[0-9٣]{0,4}[ a]?[0-9]{0,4}", fullmatch=True))
def test_a_year_at_first_is_the_first_year(text: str) -> None:
    found = re.match(r"(1[5-9][0-9]{2}|20[0-9]{2})(?!\d)", text)
    assert year_at_first(text) == (int(found[1]) if found else 0)


@given(st.from_regex(r"(10\.)?[0-9a/]{0,12}/?[A-Za-z0-9()_.;é /-]{0,8}", fullmatch=True))
def test_a_doi_and_nothing_else(text: str) -> None:
    if plain_doi(text):
        assert re.fullmatch(r"10\.[0-9]{4,9}/[A-Za-z0-9()._/-]*[A-Za-z0-9]", text)
    else:
        assert not re.fullmatch(r"10\.[0-9]{4,9}/[a-z0-9.]*[a-z0-9]", text), "what most look like is seen"


@given(st.lists(st.sampled_from(["a line", "\r\n", "\n", "\r", "é", "王", "€", "\x00", "\x7f", "\t"]), max_size=40), st.integers(1, 7))
def test_utf8_in_pieces_is_the_text(parts: list[str], size: int) -> None:
    class Slow(io.BytesIO):
        def read(self, size_or_all: int | None = -1) -> bytes:
            return super().read(min(size, size_or_all) if size_or_all and size_or_all > 0 else -1)

    data = ("begin " + "".join(parts)).encode()
    read = TextSource(Slow(data)), TextSource(io.BytesIO(data))
    wanted = "".join(parts).replace("\r\n", "\n").replace("\r", "\n").replace("\x00", "").replace("\x7f", "")
    for source in read:
        assert b"".join(source.utf8()).decode() == "begin " + wanted
