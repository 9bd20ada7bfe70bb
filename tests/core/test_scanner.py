"""Scanning tagged text, whatever its lines: nothing lost, nothing moved, wherever the pieces are cut."""

from __future__ import annotations

import io
from itertools import count

from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.formats import Entry, Problem, nbib, ris, source, tagged
from kettlesort.core.formats.people import WHOLE
from kettlesort.core.formats.source import TextSource

RIS_HEADS = (
    "TY  - JOUR\nTI  - ",
    "ER  - ",
    "ER  -",
    "TI  - ",
    "T1  - ",
    "AU  - ",
    "KW  - ",
    "AB  - ",
    "ZZ  - ",
    "M1 - ",
    "      ",
    "  ",
    "",
    "Ünï ",
    "TI  -x",
    "A",
)
NBIB_HEADS = ("PMID- ", "TI  - ", "FAU - ", "MH  - ", "LID - ", "STAT- ", "X1  - ", "      ", "       ", "", "PMID-", "AB - ", "日本 ")


def lines_of(heads: tuple[str, ...]) -> st.SearchStrategy[list[str]]:
    """Lines with one of the heads and up to three words, each word unlike any other."""

    def numbered(parts: list[tuple[str, int, bool]]) -> list[str]:
        number = count()
        return [head + " ".join(f"w{next(number)}{'é' if accented else ''}" for _ in range(words)) for head, words, accented in parts]

    return st.lists(st.tuples(st.sampled_from(heads), st.integers(0, 3), st.booleans()), max_size=40).map(numbered)


def scan(text: str, format: str, chunk: int) -> tuple[list[Entry], list[Problem]]:
    data = text.encode()
    file = TextSource(io.BytesIO(data))
    file._head, held, source.CHUNK = data[:chunk], source.CHUNK, chunk
    file._file.seek(chunk)
    problems: list[Problem] = []
    layout, make = (ris.layout_of(), ris._record) if format == "ris" else (nbib.layout_of("PMID- 1"), nbib._record)
    try:
        return list(tagged.entries(file, layout, make, problems)), problems
    finally:
        source.CHUNK = held


def said_by(entry: Entry) -> str:
    return " ".join(str(value) for value in entry.record)


@given(lines_of(RIS_HEADS), st.integers(1, 60))
def test_ris_loses_nothing_wherever_it_is_cut(lines: list[str], chunk: int) -> None:
    check(lines, "ris", chunk)


@given(lines_of(NBIB_HEADS), st.integers(1, 60))
def test_nbib_loses_nothing_wherever_it_is_cut(lines: list[str], chunk: int) -> None:
    check(lines, "nbib", chunk)


def check(lines: list[str], format: str, chunk: int) -> None:
    text = "\n".join(lines)
    lines = text.split("\n")
    entries, problems = scan(text, format, 1 << 16)
    assert scan(text, format, chunk) == (entries, problems)
    start = "TY  -" if format == "ris" else "PMID-"
    assert len(entries) == sum(line == start or line.startswith(start + " ") for line in lines)
    for number, entry in enumerate(entries, 1):
        assert entry.position == number
        assert entry.raw == "\n".join(lines[entry.line - 1 : entry.end_line]).rstrip()
        words = {word for line in entry.raw.split("\n") if not line.startswith("ER") for word in line.split() if word[0] == "w"}
        assert {word for word in words if word not in said_by(entry)} == set()
    read = {number for entry in entries for number in range(entry.line, entry.end_line + 1)}
    stray = [number for number, line in enumerate(lines, 1) if line.strip() and number not in read]
    told = {problem.line for problem in problems if "outside" in problem.message or problem.remark}
    assert told <= set(stray)
    assert bool(told) == bool(stray)


def test_a_short_name_counts_where_there_is_no_full_one() -> None:
    def authors(*lines: str) -> tuple[str, ...]:
        (entry,), problems = scan("\n".join(["PMID- 1", *lines, "TI  - One", ""]), "nbib", 1 << 16)
        assert problems == []
        return tuple(name.removeprefix(WHOLE) for name in entry.record.authors)

    pairs = ("FAU - Orsel, Tamsin", "AU  - Orsel T", "FAU - Ames, Rudd B", "AU  - Ames RB")
    assert authors(*pairs) == ("Orsel, Tamsin", "Ames, Rudd B")
    assert authors(*pairs[::-1]) == ("Ames, Rudd B", "Orsel, Tamsin")  # short before full
    assert authors(*pairs[1::2], "CN  - Hive Group") == ("Orsel, T", "Ames, RB", "Hive Group")
    assert authors(*pairs[:3], "AD  - Elsewhere", "AU  - Brill NA") == ("Orsel, Tamsin", "Ames, Rudd B", "Brill, NA")


def test_a_value_on_very_many_lines_is_read_in_proportion() -> None:
    words = [f"w{k}" for k in range(200_000)]
    (entry,), _ = scan("TY  - JOUR\nAB  - \n" + "\n".join(words) + "\nER  - \n", "ris", 1 << 16)
    assert entry.record.abstract.split() == words
