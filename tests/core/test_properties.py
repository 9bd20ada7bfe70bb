"""What holds for any records: evidence has no sides, merging invents nothing."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.matching import explain, match
from kettlesort.core.matching.merging import fullness, merge, primary
from kettlesort.core.names import author_name
from kettlesort.core.record import Record, doi_of, folded, pages_of

WORDS = [
    "winter",
    "Hives",
    "lids",
    "wrap",
    "of",
    "the",
    "survival",
    "colony",
    "part",
    "II",
    "phase",
    "2",
    "éclair",
    "α-tocopherol",
    "<i>Apis</i>",
    "erratum",
]
PHRASE = st.lists(st.sampled_from(WORDS), max_size=9).map(" ".join)
RECORDS = st.builds(
    Record,
    kind=st.sampled_from(["article", "conference", "other"]),
    title=PHRASE,
    authors=st.lists(st.sampled_from(["Orsel, Tamsin", "Orsel, T", "Quillby, R", "et al.", "Müller-Ames, Jo"]), max_size=4).map(tuple),
    year=st.one_of(st.none(), st.integers(1990, 1993)),
    date=st.just(""),
    journal=st.sampled_from(["", "Annals of Hives", "Ann Hives", "Other Letters"]),
    journal_short=st.just(""),
    volume=st.sampled_from(["", "1", "01", "2"]),
    issue=st.just(""),
    pages=st.sampled_from(["", "1–9", "1", "e17"]),
    doi=st.sampled_from(["", "10.5555/a", "10.5555/b"]),
    accession=st.sampled_from(["", "A1", "LONG00001"]),
    issn=st.just(""),
    abstract=PHRASE,
    language=st.just(""),
    keywords=st.lists(st.sampled_from(WORDS), max_size=2).map(tuple),
    url=st.just(""),
    publisher=st.just(""),
    references=st.just(()),
    note=st.just(""),
    extra=st.just(()),
)


def alike(a: Record, b: Record, taken: set[str]) -> tuple[Record, Record]:
    return a, b._replace(**{name: getattr(a, name) for name in taken})


@given(st.builds(alike, RECORDS, RECORDS, st.sets(st.sampled_from(Record._fields))))
def test_evidence_is_the_same_from_either_side_and_adds_up(pair: tuple[Record, Record]) -> None:
    a, b = pair
    told = explain(a, b)
    assert abs(sum(it.weight for it in told.evidence) - told.total) < 0.01
    assert told == explain(b, a)


@given(RECORDS)
def test_a_record_that_says_nothing_is_no_evidence(a: Record) -> None:
    assert explain(a, Record()).total <= 0


@given(st.lists(RECORDS, min_size=1, max_size=5))
def test_the_kept_record_says_nothing_that_no_copy_says(records: list[Record]) -> None:
    kept, whose = merge(records)
    for name, position in whose.items():
        assert getattr(kept, name) == getattr(records[position], name)
    for name in Record._fields:
        if name not in whose and name not in ("extra", "kind"):
            assert not any(getattr(record, name) for record in records), name
    assert fullness(kept) >= max(fullness(record) for record in records) - 2000
    assert all(fullness(records[primary(records)]) >= fullness(record) for record in records)
    assert merge([kept])[0] == kept


@given(st.lists(RECORDS, min_size=2, max_size=12))
def test_groups_follow_from_the_joined_pairs_and_questions_are_between_groups(records: list[Record]) -> None:
    result = match(records)
    for pair in result.pairs:
        assert 0 <= pair.left < pair.right < len(records)
        together = result.groups.of(pair.left) == result.groups.of(pair.right)
        assert together or pair.verdict == "unsure"
    linked = {k for pair in result.pairs if pair.verdict == "same" for k in (pair.left, pair.right)}
    assert all(len(result.groups.members(k)) == 1 for k in range(len(records)) if k not in linked)


@given(st.text(max_size=60))
def test_normal_forms_are_stable_whatever_is_typed(text: str) -> None:
    assert folded(folded(text)) == folded(text)
    assert doi_of(doi_of(text)) == doi_of(text)
    assert author_name(author_name(text)) == author_name(text)
    assert pages_of(pages_of(text)) == pages_of(text)
