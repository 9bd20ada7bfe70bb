"""The made-up review's files: what they promise, and what the core makes of them, against the truth that only the generator knows."""

from __future__ import annotations

import io
from functools import lru_cache
from itertools import combinations

import pytest

from kettlesort.core import formats
from kettlesort.core.formats.trace import trace
from kettlesort.core.matching import Matching, match
from kettlesort.core.ranking import RankedText, Ranker, build
from kettlesort.core.record import Record
from kettlesort.demo.document import Document
from kettlesort.demo.files import FOLDER, VOCABULARIES, Export, exports
from kettlesort.demo.invent import documents
from kettlesort.demo.thesaurus import THESAURUS, turtle


@lru_cache(maxsize=1)
def files() -> list[Export]:
    return exports()


def read(export: Export) -> list[formats.Entry]:
    return list(formats.open_reading(io.BytesIO(export.data)))


@lru_cache(maxsize=1)
def everything() -> tuple[list[Record], list[int]]:
    """All records of all files, and the number of the document behind each."""
    records = [entry.record for export in files() if export.taken_in for entry in read(export)]
    digits = ["".join(c for c in it.accession if c.isdigit()) for it in records]
    return records, [int(it) - 7_300_000 if len(it) == 7 else int(it) for it in digits]


@lru_cache(maxsize=1)
def matched() -> Matching:
    return match(everything()[0])


def test_the_files_for_uploading_by_hand_are_what_the_generator_writes() -> None:
    for export in files():
        assert (FOLDER / export.name).read_bytes() == export.data, f"{export.name} is stale: python -m kettlesort.demo.files"
    assert (VOCABULARIES / THESAURUS).read_text(encoding="utf-8") == turtle(), "stale: python -m kettlesort.demo.files"


@pytest.mark.parametrize(
    ("name", "format", "encoding", "records"),
    [
        ("agrarica-2026-02-part-1.txt", "ris", "Windows-1252", 206),
        ("agrarica-2026-02-part-2.txt", "ris", "Windows-1252", 212),
        ("vitalis-index.nbib", "nbib", "UTF-8", 391),
        ("northern-theses.bib", "bibtex", "UTF-8", 129),
        ("apicultural-abstracts.csv", "csv", "UTF-8 with mark", 302),
        ("hive-trials-register.xlsx", "xlsx", "UTF-8", 24),
        ("citation-chasing.ris", "ris", "UTF-8", 42),
        ("hive-house-list.txt", "recipe", "UTF-8", 26),
        ("beekeepers-archive.ris", "ris", "UTF-8", 18),
    ],
)
def test_each_file_is_known_from_its_content_and_read_whole(name: str, format: str, encoding: str, records: int) -> None:
    export = next(it for it in files() if it.name == name)
    reading = formats.open_reading(io.BytesIO(export.data))
    assert (reading.format, len(list(reading))) == (format, records)
    assert reading.encoding == encoding


def test_the_flaws_of_real_exports_are_there() -> None:
    records, _ = everything()
    share = sum(not it.abstract for it in records) / len(records)
    assert 0.03 < share < 0.09
    assert sum(it.title.isupper() for it in records) > 5
    assert sum(not it.authors for it in records) > 5
    assert sum("et al." in it.authors for it in records) > 3
    assert 0.15 < sum(not it.doi for it in records) / len(records) < 0.6


def test_nothing_is_joined_wrongly_and_every_copy_is_joined_or_asked_about() -> None:
    records, truth = everything()
    result = matched()
    joined = [(pair.left, pair.right) for pair in result.pairs if pair.verdict == "same"]
    asked = {(pair.left, pair.right) for pair in result.pairs if pair.verdict == "unsure"}
    wrong = [(records[a].title, records[b].title) for a, b in joined if truth[a] != truth[b]]
    assert wrong == []
    behind: dict[int, list[int]] = {}
    for k, number in enumerate(truth):
        behind.setdefault(number, []).append(k)
    pairs = [pair for members in behind.values() for pair in combinations(members, 2)]
    together = [(a, b) for a, b in pairs if result.groups.of(a) == result.groups.of(b)]
    lost = [(a, b) for a, b in pairs if (a, b) not in asked and result.groups.of(a) != result.groups.of(b)]
    assert len(pairs) > 400
    assert len(together) >= 0.9 * len(pairs)
    assert len(lost) <= 0.02 * len(pairs), [(records[a].title, records[b].title) for a, b in lost]


def test_what_belongs_comes_first_from_six_seeds() -> None:
    records, truth = everything()
    theme = {it.number: it.theme for it in documents()}
    belongs = [theme[number] == "belongs" for number in truth]
    seeds = [k for k, yes in enumerate(belongs) if yes][:6]
    ranker = Ranker(build([RankedText(it.title, it.abstract, it.keywords) for it in records]))
    order = [k for k in ranker.rank(seeds, []).order.tolist() if k not in seeds]
    wanted = sum(belongs[k] for k in order)
    assert sum(belongs[k] for k in order[:wanted]) >= 0.9 * wanted


@pytest.mark.parametrize("name", [it.name for it in exports()])
def test_every_line_of_a_record_is_told_what_became_of_it(name: str) -> None:
    export = next(it for it in files() if it.name == name)
    reading = formats.open_reading(io.BytesIO(export.data))
    for entry in list(reading)[:25]:
        format, header = reading.format, reading.header
        lines = trace(format, entry.raw, entry.line, entry.record, header, reading.fields or None, reading.recipe, reading.delimiter)
        told = " ".join(line.value for line in lines)
        assert entry.record.title in told
        assert all(name in told for name in entry.record.authors)
        assert str(entry.record.year) in told
        if format in ("ris", "nbib", "bibtex", "recipe"):
            assert "\n".join(line.text for line in lines) == entry.raw
            assert [line.number for line in lines] == list(range(entry.line, entry.line + len(lines)))
        else:
            assert len(lines) >= len(header) - 1


def test_documents_are_the_same_every_time_and_unlike_each_other() -> None:
    one, two = documents(), documents()
    assert one == two
    assert len({it.number for it in one}) == len(one)
    titles: dict[str, list[Document]] = {}
    for it in one:
        titles.setdefault(it.full_title, []).append(it)
    assert all(len({(it.year, it.kind) for it in alike}) == len(alike) for alike in titles.values())
