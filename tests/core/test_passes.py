"""What verdicts come to under each way of screening a pass, and how records are shared out."""

from __future__ import annotations

from collections import Counter
from itertools import combinations, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.screening.allocation import allot, in_order
from kettlesort.core.screening.passes import Mode, Outcome, Said, outcome

ONE, TWO, THREE = Mode(), Mode(readers=2), Mode(readers=3)
BY_REASON, KIND = Mode(2, differ="reason"), Mode(2, unsure="goes_on")
OPEN, BLIND, DIFFERS, INCLUDED = Outcome("open"), Outcome("open", None, True), Outcome("differs"), Outcome("include")


def said(*verdicts: str) -> list[Said]:
    """Verdicts as a:include, b:exclude:3, c:settles:exclude:3, in their sequence."""
    out = []
    for number, text in enumerate(verdicts):
        person, *rest = text.split(":")
        settles = rest[0] == "settles"
        verdict, *criterion = rest[1:] if settles else rest
        out.append(Said(number, ord(person), verdict, int(criterion[0]) if criterion else None, settles))  # type: ignore[arg-type]
    return out


@pytest.mark.parametrize(
    ("mode", "verdicts", "allotted", "comes_to"),
    [
        (ONE, [], 0, OPEN), (ONE, ["a:include"], 0, INCLUDED), (ONE, ["a:include", "b:exclude:3"], 0, Outcome("exclude", 3)), (ONE, ["a:unsure"], 0, Outcome("unsure")),
        (TWO, [], 0, BLIND), (TWO, ["a:include"], 0, BLIND), (TWO, ["a:include", "a:exclude:3"], 0, BLIND), (TWO, ["a:include", "b:include"], 0, INCLUDED),
        (TWO, ["a:include", "b:exclude:3"], 0, DIFFERS), (TWO, ["a:unsure", "b:include"], 0, DIFFERS), (TWO, ["a:unsure", "b:unsure"], 0, DIFFERS),
        (TWO, ["a:include", "b:exclude:3", "a:exclude:3"], 0, Outcome("exclude", 3)),
        (TWO, ["a:exclude:3", "b:exclude:7"], 0, Outcome("exclude", 7)), (BY_REASON, ["a:exclude:3", "b:exclude:7"], 0, DIFFERS),
        (BY_REASON, ["a:exclude:7", "b:exclude:7"], 0, Outcome("exclude", 7)),
        (KIND, ["a:unsure", "b:include"], 0, INCLUDED), (KIND, ["a:unsure", "b:exclude:3"], 0, DIFFERS), (Mode(1, unsure="goes_on"), ["a:unsure"], 0, INCLUDED),
        (TWO, ["a:include", "b:exclude:3", "c:settles:include"], 0, INCLUDED), (TWO, ["a:include", "b:include", "c:settles:exclude:3"], 0, Outcome("exclude", 3)),
        (THREE, ["a:include", "b:include"], 0, BLIND), (ONE, ["a:include", "b:include"], 3, BLIND), (ONE, ["a:include", "b:include", "c:include"], 3, INCLUDED),
    ],
)  # fmt: skip
def test_verdicts_come_to(mode: Mode, verdicts: list[str], allotted: int, comes_to: Outcome) -> None:
    assert outcome(mode, said(*verdicts), allotted, order={7: 0, 3: 1}) == comes_to


people = st.lists(st.integers(1, 6), min_size=1, max_size=6, unique=True)


@given(people, st.data(), st.lists(st.integers(1, 500), unique=True, max_size=120), st.integers(1, 4))
def test_each_record_has_its_readers_and_each_person_their_part(
    who: list[int], data: st.DataObject, records: list[int], readers: int
) -> None:
    if readers > len(who):
        with pytest.raises(ValueError, match="readers are wanted"):
            allot(records, dict.fromkeys(who, 1.0), readers)
        return
    shares = {it: float(data.draw(st.sampled_from([1, 1, 2, 3]))) for it in who}
    taken = {record: data.draw(st.sets(st.sampled_from(who), max_size=2)) for record in records[::3]}
    out = allot(records, shares, readers, taken)
    assert len(set(out)) == len(out)
    by_record = Counter(it.record for it in out)
    assert all(by_record[record] == max(0, readers - len(taken.get(record, ()))) for record in records)
    assert not any(it.person in taken.get(it.record, ()) for it in out)
    if not any(taken.values()) and len(set(shares.values())) == 1:
        loads = Counter(it.person for it in out)
        assert max(loads[it] for it in who) - min(loads[it] for it in who) <= 1


def test_parts_are_in_proportion_and_all_pairs_meet() -> None:
    out = Counter(it.person for it in allot(range(600), {1: 30.0, 2: 20.0, 3: 10.0}, 1))
    assert (out[1], out[2], out[3]) == (300, 200, 100)
    by_record: dict[int, list[int]] = {}
    for it in allot(range(600), dict.fromkeys((1, 2, 3, 4), 1.0), 2):
        by_record.setdefault(it.record, []).append(it.person)
    met = Counter(tuple(sorted(pair)) for pair in by_record.values())
    assert {pair: met[pair] for pair in combinations((1, 2, 3, 4), 2)} == dict.fromkeys(combinations((1, 2, 3, 4), 2), 100)


def test_an_overlap_is_read_by_one_more_and_evenly_spread() -> None:
    twice = [
        record for record, n in Counter(it.record for it in allot(range(100), {1: 1.0, 2: 1.0, 3: 1.0}, 1, overlap=0.1)).items() if n == 2
    ]
    assert len(twice) == 10
    assert all(b - a == 10 for a, b in pairwise(twice))


def test_a_seed_shuffles_the_same_way_however_records_came() -> None:
    assert in_order([5, 3, 9, 1], 7) == in_order([1, 9, 5, 3], 7) != in_order([1, 9, 5, 3], 8)
    assert in_order([5, 3, 9, 1], None) == [5, 3, 9, 1]
