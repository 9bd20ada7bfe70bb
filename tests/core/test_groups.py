"""Groups by likeness: the same records give the same groups, alike ones stand together, and each says by which words."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.ranking.groups import Settings, group
from kettlesort.core.ranking.texts import RankedText

SUBJECTS = {
    "hives": "insulated hive wraps keep colonies warm in winter frost",
    "mites": "varroa mite treatment acid dribble brood infestation",
    "honey": "honey pollen nectar sugar analysis residues spectrometry",
    "queens": "queen rearing grafting mating drones insemination",
}


def invented(each: int = 25) -> tuple[list[RankedText], list[str]]:
    rng = random.Random(5)
    out = []
    for subject, words in SUBJECTS.items():
        some = words.split()
        out += [
            (RankedText(f"On {' '.join(rng.sample(some, 3))}", " ".join(rng.choices(some, k=20)) + f" site{k}"), subject)
            for k in range(each)
        ]
    rng.shuffle(out)
    return [it for it, _ in out], [subject for _, subject in out]


def test_what_is_alike_stands_together_and_says_by_which_words() -> None:
    texts, subjects = invented()
    seeds = [k for k, it in enumerate(subjects) if it == "hives"][:3]
    found = group(texts, seeds, Settings(4, 2))
    assert [len(it.members) for it in found] == [25] * 4
    assert all(len({subjects[k] for k in it.members}) == 1 for it in found)
    assert {subjects[k] for k in found[0].members} == {"hives"}, "the nearest to the seeds first"
    assert {word for word, _ in found[0].words} & {"wraps", "insulated", "frost", "warm"}
    assert found[0].members[:3] == sorted(seeds), "the seeds are nearest to themselves"
    assert all(it.closeness == sorted(it.closeness, reverse=True) for it in found)


def test_the_same_settings_and_records_give_the_same_groups() -> None:
    texts, _ = invented()
    assert group(texts, [0], Settings(7, 2)) == group(texts, [0], Settings(7, 2))


@given(st.lists(st.sampled_from(["", "foam lids", "mites and foam", "12 34", "蜂群越冬", "a b"]), max_size=9), st.integers(2, 6), st.data())
def test_every_record_is_in_one_group_whatever_it_says(titles: list[str], groups: int, data: st.DataObject) -> None:
    texts = [RankedText(it) for it in titles]
    seeds = data.draw(st.sets(st.sampled_from(range(len(texts))), max_size=2)) if texts else set()
    found = group(texts, sorted(seeds), Settings(groups, 1, 1.0))
    assert sorted(k for it in found for k in it.members) == list(range(len(texts)))
    assert len(found) <= groups
    among = list(range(0, len(texts), 2))
    assert sorted(k for it in group(texts, [], Settings(groups, 1), among) for k in it.members) == among


@pytest.mark.parametrize("how", [Settings(1), Settings(5, 0), Settings(5, 1, 0.0), Settings(5, 1, 1.1)])
def test_settings_that_cannot_be_are_refused(how: Settings) -> None:
    with pytest.raises(ValueError, match="at least two groups"):
        group([RankedText("x")], [], how)
