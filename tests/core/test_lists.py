"""What lists are called, and where a record stands in words."""

from __future__ import annotations

import itertools

import pytest

from kettlesort.core.screening import in_words, mark
from kettlesort.core.screening.lists import COPIES, OFFERED, keyed, shown
from kettlesort.store.records import KEYED_LISTS, RECORD_LISTS

FIRST, FULL_TEXT, SECOND = (
    ("open", "unsure", "include", "exclude", "aside"),
    ("sought", "obtained", "missing"),
    ("open", "unsure", "include", "exclude"),
)


def test_every_record_stands_somewhere_and_its_mark_agrees_with_the_words() -> None:
    said = {at: in_words(*at) for at in itertools.product(FIRST, FULL_TEXT, SECOND)}
    assert all(said.values())
    for (first, fulltext, second), words in said.items():
        sign = mark(first, fulltext, second)
        if words in ("included", "excluded", "unsure", "set aside", "not decided"):
            assert (
                sign
                == {"included": "include", "excluded": "exclude", "unsure": "unsure", "set aside": "aside", "not decided": "open"}[words]
            )
        if words == "full text excluded":
            assert sign == "exclude"
        if words in ("full text sought", "full text not obtained"):
            assert sign == "include"
    assert in_words("exclude", "sought", "open", "Not bees") == "excluded: Not bees"
    assert in_words("include", "obtained", "exclude", "No arms") == "full text excluded: No arms"
    assert in_words("include", "obtained", "unsure", "x") == "full text to be decided"


@pytest.mark.parametrize("name", [*RECORD_LISTS, *KEYED_LISTS, *sorted(COPIES), "reason"])
def test_every_list_that_can_be_asked_for_has_a_name(name: str) -> None:
    key = f"{name}:7" if name in (*KEYED_LISTS, "source", "kind", "search", "batch", "run", "reason") else name
    it = shown(key, "Foam")
    assert it.heading
    assert it.of_copies == (name in COPIES)
    assert shown(f"{key}:main", "Foam").heading == f"{it.heading} from databases and registers"


def test_what_is_offered_can_be_asked_for() -> None:
    assert set(OFFERED) <= {*RECORD_LISTS, *COPIES}
    with pytest.raises(KeyError):
        shown("nowhere")


def test_a_key_may_hold_colons_and_a_route_is_none() -> None:
    assert keyed("source:Index: the second:other") == ("source", "Index: the second")
    assert keyed("reason:No arms: none") == ("reason", "No arms: none")
    assert shown("reason:No arms: none").heading == "Full texts excluded: No arms: none"
    assert keyed("included:main") == ("included", "")
